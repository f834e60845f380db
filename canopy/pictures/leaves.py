"""Tell leaves from ground in a picture laid flat, whatever the lamp's colour.

A lamp multiplies each of a camera's three channels by a factor of its own, so that the logarithm of green over the
mean of red and blue is shifted for leaves and ground alike: how far they lie apart stays.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from canopy.errors import PictureError

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
How = Literal["green", "dark", "shown"]
# Channels are taken as no darker than this share of their brightest: below it a camera sees noise. A channel that is
# itself no brighter than so much of the brightest one says nothing.
_NOISE, _DEAD, _ALIVE = 0.01, 0.03, 0.15
# How often each value is, in steps and smoothed over; peaks stand out by this factor (natural logarithm).
_BIN, _BLUR, _PROMINENT = 0.01, 2.5, 0.5
# Peaks of ground and leaf lie at least so far apart, each with at least this share; in light without green farther.
_GAP, _LEAST, _GAP_WITHOUT_GREEN = 0.18, 0.004, 0.5
# Leaves are greener than red, more than what is around them by at least so much.
_LESS_RED = 0.1
NO_GREEN = 0.05
# Where only darkness tells them, leaves are darker than a light floor by so much, none of them redder than it by so
# much, and most of about its colour.
_DARKER, _REDDER, _OTHER_COLOUR = 1.0, 0.6, 0.15
# Where nothing differs: greener than neutral by so much is leaves, by less than so much is none.
_ALL_GREEN, _NONE_GREEN, _WHITE, _GRAIN = 0.4, 0.2, 2.0, 0.1
# A threshold may lie by so much of the gap to either side; told by darkness alone, dark pots pass for leaves.
_BESIDE, _DARK_ERROR, _LEAST_ERROR = 0.18, 0.04, 0.006
_PLAIN, _DARK, _BURNT = 0.02, 0.004, 0.35
# Along edges pixels show leaf and ground at once: so wide a band [px], against what lies so near [px].
_EDGE, _NEAR = 2, 5.0
_ALIKE = (
    "no part of the floor is greener than another as leaves are: a grey card in the picture, or pointing at a leaf and "
    "at the ground, would tell what it is"
)
_NOT_TOLD = (
    "leaves and ground are not told apart in this light: take the picture under a white lamp, or point at a leaf and "
    "at the ground"
)
_SPOT = 2


@dataclass(frozen=True, kw_only=True)
class Leaves:
    """What is leaf in a flat picture, of shape (rows, columns): the share of it and its standard error, how it was
    told, and what limits that.
    """

    mask: Mask
    cover: float
    standard_error: float
    how: How
    limits: tuple[str, ...]


def leaves(
    linear: Array,
    *,
    green_share: float | None = None,
    grey: Array | None = None,
    shift: float = 0.0,
    leaf_spots: Sequence[tuple[int, int]] = (),
    ground_spots: Sequence[tuple[int, int]] = (),
) -> Leaves:
    """Find the leaves.

    Parameters
    ----------
    linear : red, green and blue, 0 to 1, shape (rows, columns, 3)
    green_share : share of the lamp's photons between 500 and 600 nm, where the lamp is known
    grey : what a grey card or white sheet in the same light gives, shape (3,)
    shift : moves what still counts as leaf, -1 (less) to 1 (more), in shares of the way to the middle of either kind
    leaf_spots : places somebody pointed at as leaf, (row, column)
    ground_spots : places somebody pointed at as none, (row, column)

    Returns
    -------
    Leaves : by greenness; by what was pointed at; or by darkness on a light floor where the lamp has no green

    Raises
    ------
    PictureError : too dark, burnt out, of one plain colour, or in a light that tells nothing apart
    """
    from skimage.filters import gaussian

    bright = np.percentile(linear.reshape(-1, 3), 95, axis=0)
    limits = _usable(linear, bright)
    smooth = gaussian(linear, sigma=0.7, channel_axis=-1)
    logs = np.log(smooth + _NOISE * np.maximum(bright, bright.max() / 100))
    if leaf_spots or ground_spots:
        return _told(linear, *_by_spots(logs, leaf_spots, ground_spots), shift, "shown", limits)
    red_blue = logs[..., 0] - logs[..., 2]
    greenless = green_share is not None and green_share < NO_GREEN
    if bright[1] > _NOISE * bright.max():
        green = _green(logs, bright)
        gap = _GAP_WITHOUT_GREEN if greenless else _GAP
        green_red = logs[..., 1] - logs[..., 0]
        for parts in _parted(green, gap):
            if _leafward(parts, green, green_red, red_blue):
                if greenless:
                    limits = (*limits, "this light has hardly any green: yellowish leaves are missed")
                return _told(linear, green, parts, shift, "green", limits, _DARK_ERROR if greenless else 0.0)
        if not greenless and (alike := _all_alike(green, green_red, red_blue, grey, smooth)) is not None:
            mask = np.full(green.shape, alike)
            words = "no part of it is greener than another"
            words += "" if grey is not None else "; a grey card in the picture would make it sure"
            return Leaves(mask=mask, cover=float(alike), standard_error=0.02, how="green", limits=(*limits, words))
        if green_share is not None and not greenless:
            raise PictureError(_ALIKE)
    return _by_darkness(linear, logs, red_blue, shift, limits)


def _green(logs: Array, bright: Array) -> Array:
    """Green over red and blue; a channel that the lamp hardly reaches counts less."""
    weight = np.clip((bright[[0, 2]] / bright.max() - _DEAD) / (_ALIVE - _DEAD), 1e-3, 1)
    found: Array = logs[..., 1] - logs[..., [0, 2]] @ (weight / weight.sum())
    return found


def _usable(linear: Array, bright: Array) -> tuple[str, ...]:
    """Refuse what shows nothing; say what makes it worse."""
    from skimage.filters import gaussian

    if bright.max() < _DARK:
        raise PictureError("the picture is too dark to tell leaves from ground")
    burnt = float((linear.min(axis=-1) > 0.97).mean())
    if burnt > _BURNT:
        raise PictureError(
            f"{100 * burnt:.0f} % of the floor is burnt out to white: take it darker, or with the lamps dimmed"
        )
    grain = np.log(gaussian(linear.mean(axis=-1), 1.0) + 1e-3 * bright.max())
    if float(np.std(grain)) < _PLAIN:
        raise PictureError("the picture shows one plain colour between the corners")
    return (f"{100 * burnt:.0f} % is burnt out to white",) if burnt > 0.05 else ()


@dataclass(frozen=True, kw_only=True)
class _Parts:
    """Two kinds along one scale: the middle of the lower and of the upper, and where they part."""

    low: float
    high: float
    at: float


def _parted(scale: Array, least_gap: float) -> list[_Parts]:
    """Ways to part a scale in two: valleys between peaks of how often each value is, the lowest first."""
    from scipy.ndimage import gaussian_filter1d
    from scipy.signal import find_peaks

    values = np.sort(scale.ravel())
    n = len(values)
    low, high = float(values[n // 1000]) - 0.1, float(values[-1 - n // 1000]) + 0.1
    bins = max(8, round((high - low) / _BIN))
    counts, edges = np.histogram(values, bins=bins, range=(low, high))
    often = np.log(gaussian_filter1d(counts.astype(float), _BLUR, mode="constant") + 2e-5 * n)
    # A slope up to an end is a peak as well.
    peaks = find_peaks(np.concatenate([[-np.inf], often, [-np.inf]]), prominence=_PROMINENT)[0] - 1
    middle = (edges[:-1] + edges[1:]) / 2
    found = []
    for one, two in pairwise(peaks):
        at = float(middle[one + _valley(often[one : two + 1])])
        k = int(np.searchsorted(values, at))
        if middle[two] - middle[one] >= least_gap and _LEAST * n <= k <= (1 - _LEAST) * n:
            found.append(_Parts(low=float(values[k // 2]), high=float(values[k + (n - k) // 2]), at=at))
    return found


def _valley(often: Array) -> int:
    """The lowest place of a valley; the middle of its floor where that is wide."""
    floor = np.flatnonzero(often < often.min() + 0.1)
    return int(floor[len(floor) // 2])


def _leafward(parts: _Parts, green: Array, green_red: Array, red_blue: Array) -> bool:
    """Whether the greener part differs from the rest as leaves do.

    Soil is greener than a white floor only because it is less blue, and redder still; a grey floor beside clay pots is
    greener too, but bluer by far more.
    """
    upper = green > parts.at
    less_red, less_blue = (
        float(np.median(scale[upper]) - np.median(scale[~upper])) for scale in (green_red, -red_blue)
    )
    return less_red > _LESS_RED and less_blue < 2.0 * (parts.high - parts.low)


def _all_alike(green: Array, green_red: Array, red_blue: Array, grey: Array | None, smooth: Array) -> bool | None:
    """Where no part is greener than another: True for leaves all over, False for none, None if nothing tells which."""
    if grey is not None:
        lit = np.log(np.maximum(grey, 1e-4))
        neutral, neutral_red = float(lit[1] - (lit[0] + lit[2]) / 2), float(lit[1] - lit[0])
    elif abs(float(np.median(red_blue))) > _WHITE:
        # Without a card only a camera that has found the lamp's white is believed.
        return None
    else:
        neutral = neutral_red = 0.0
    least, middle = (float(value) - neutral for value in np.percentile(green, (3, 50)))
    redder, most = (float(value) - neutral_red for value in np.percentile(green_red, (50, 99)))
    grain = float(np.std(np.log(smooth.mean(axis=-1) + 1e-3)))
    if least > _NONE_GREEN and middle > _ALL_GREEN and redder > _LESS_RED and grain > _GRAIN:
        return True
    # Grey ground and leaves under a purple lamp look alike: only against a card there are none.
    return False if grey is not None and most < _LESS_RED and middle < _ALL_GREEN else None


def _by_darkness(linear: Array, logs: Array, red_blue: Array, shift: float, limits: tuple[str, ...]) -> Leaves:
    """Under lamps without green leaves look grey, but take nine tenths of that light: dark on a light floor."""
    dark = -logs.mean(axis=-1)
    for parts in _parted(dark, _DARKER):
        below = dark > parts.at
        neutral = float(np.median(red_blue[~below]))
        if abs(float(np.median(red_blue[below])) - neutral) > _OTHER_COLOUR:
            continue
        redder = red_blue - neutral > _REDDER
        words = "told by darkness alone, as this light shows no green: black pots and wet soil pass for leaves"
        if (doubtful := float((below & redder).mean())) > 0.01:
            words += f"; {100 * doubtful:.0f} % are dark and reddish, soil or yellowish leaves: not counted"
        scale = np.where(redder, parts.low, dark)
        return _told(linear, scale, parts, shift, "dark", (*limits, words), _DARK_ERROR + doubtful)
    raise PictureError(_NOT_TOLD)


def _by_spots(
    logs: Array, leaf_spots: Sequence[tuple[int, int]], ground_spots: Sequence[tuple[int, int]]
) -> tuple[Array, _Parts]:
    """A scale on which what was pointed at lies farthest apart for its spread.

    References
    ----------
    Fisher 1936, "The use of multiple measurements in taxonomic problems": the direction of best separation.
    """
    if not leaf_spots or not ground_spots:
        raise PictureError("point at a leaf and at the ground, at least once each")
    kinds = [np.concatenate([_around(logs, spot) for spot in spots]) for spots in (ground_spots, leaf_spots)]
    within = sum(np.cov(kind.T) for kind in kinds) / 2 + 0.003 * np.eye(3)
    # Brightness differs from place to place: it counts for less than colour.
    within = within + 0.25 * np.ones((3, 3))
    way = np.linalg.solve(within, kinds[1].mean(axis=0) - kinds[0].mean(axis=0))
    low, high = (float(np.median(kind @ way)) for kind in kinds)
    if high - low < 1e-6:
        raise PictureError("what you pointed at as leaf and as ground looks alike")
    scale: Array = (logs @ way - low) / (high - low)
    return scale, _Parts(low=0.0, high=1.0, at=0.5)


def _around(logs: Array, spot: tuple[int, int]) -> Array:
    row, column = spot
    rows, columns = logs.shape[:2]
    if not (0 <= row < rows and 0 <= column < columns):
        raise PictureError("you pointed beside the floor")
    patch = logs[max(0, row - _SPOT) : row + _SPOT + 1, max(0, column - _SPOT) : column + _SPOT + 1]
    found: Array = patch.reshape(-1, 3)
    return found


def _told(
    linear: Array, scale: Array, parts: _Parts, shift: float, how: How, limits: tuple[str, ...], more: float = 0.0
) -> Leaves:
    """Leaves are what lies above the threshold; the error by what would change if it lay to either side."""
    from skimage.morphology import remove_small_holes, remove_small_objects

    gap = min(parts.high - parts.low, 2 * (parts.at - parts.low))
    at = parts.at - 0.5 * gap * float(np.clip(shift, -1, 1))
    least = max(8, round(2e-5 * scale.size))
    share = _shares(linear, remove_small_holes(remove_small_objects(scale > at, max_size=least), max_size=least))
    less, most = (float((scale > at + side * _BESIDE * gap).mean()) for side in (1, -1))
    off = float(np.hypot((most - less) / 2, more) + _LEAST_ERROR)
    return Leaves(mask=share > 0.5, cover=float(share.mean()), standard_error=off, how=how, limits=limits)


def _shares(linear: Array, mask: Mask) -> Array:
    """How much of each pixel is leaf: along edges by how its light is mixed of the leaf and the ground beside it.

    A dark leaf before a bright floor would lose half a pixel all around otherwise.
    """
    from scipy.ndimage import binary_dilation, gaussian_filter

    inner, outer = (~binary_dilation(some, iterations=_EDGE) for some in (~mask, mask))
    share = mask.astype(float)
    edge = ~(inner | outer)
    beside = []
    for some in (inner, outer):
        weight = gaussian_filter(some.astype(float), _NEAR)
        light = [gaussian_filter(np.where(some, linear[..., k], 0.0), _NEAR) for k in range(3)]
        beside.append((weight, np.stack(light, axis=-1) / np.maximum(weight, 1e-9)[..., None]))
    (near_leaf, leaf), (near_ground, ground) = beside
    known = edge & (near_leaf > 1e-3) & (near_ground > 1e-3)
    way = (leaf - ground)[known]
    length = np.maximum((way**2).sum(axis=-1), 1e-12)
    share[known] = np.clip(((linear - ground)[known] * way).sum(axis=-1) / length, 0, 1)
    return share
