"""What was measured in a space and around it, laid out on one even grid of time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Seconds = NDArray[np.int64]
# Between readings so far apart what was there is taken as straight between them [s].
BRIDGED_S = 1500
# A median over so many readings shows which one leapt; by how many times their usual scatter it must.
_WINDOW, _LEAPS = 7, 6.0
# A sensor that shows the very same for so long is taken to be stuck, if it is not one that hardly ever moves [s].
STUCK_S = 5400


@dataclass(frozen=True, kw_only=True, eq=False)
class Series:
    """A sensor's readings as they came: seconds of UTC, rising, and values, both shape (n,).

    ``place`` is "space", "room" or "outdoors"; ``feeds`` what a power meter's plug feeds: "fan", "lamps" or a device's
    id.
    """

    name: str
    quantity: str
    at: Seconds
    value: Floats
    place: str = "space"
    feeds: str = ""
    space_id: str = ""


@dataclass(frozen=True, kw_only=True, eq=False)
class Grid:
    """Means over equal steps from a second of UTC on; NaN where nothing was read. Keys are quantities; of ``watts``
    what is fed. ``apart_s`` is how far readings lie apart, of what is read most seldom; ``stuck`` and ``leapt`` count
    what was left out of each quantity.
    """

    begins: int
    every_s: int
    steps: int
    inside: Mapping[str, Floats]
    room: Mapping[str, Floats]
    watts: Mapping[str, Floats]
    apart_s: float = 0.0
    stuck: Mapping[str, float] = field(default_factory=dict)
    leapt: Mapping[str, int] = field(default_factory=dict)

    @property
    def ends(self) -> int:
        """The second after its last step."""
        return self.begins + self.steps * self.every_s

    def place(self, at: int) -> int:
        """Say in which step a second lies, whether or not the grid reaches so far."""
        return (at - self.begins) // self.every_s

    def part(self, first: int, steps: int) -> Grid:
        """Cut out some steps.

        Parameters
        ----------
        first : the first of them
        steps : how many

        Returns
        -------
        Grid : of these alone
        """
        span = slice(first, first + steps)
        return Grid(
            begins=self.begins + first * self.every_s,
            every_s=self.every_s,
            steps=steps,
            apart_s=self.apart_s,
            inside={key: value[span] for key, value in self.inside.items()},
            room={key: value[span] for key, value in self.room.items()},
            watts={key: value[span] for key, value in self.watts.items()},
        )


def laid_out(found: Sequence[Series], begins: int, ends: int, every_s: int = 300) -> Grid:
    """Lay series out on one grid.

    Parameters
    ----------
    found : of a space and of its room
    begins : the first second of UTC
    ends : the second after the last one
    every_s : length of a step [s]

    Returns
    -------
    Grid : of sensors that measure the same in the same place the mean; without what leaps away for a single reading,
        and without stretches in which a sensor is stuck. Gaps of up to 25 minutes are bridged
    """
    steps = max(0, (ends - begins) // every_s)
    kept: dict[tuple[str, str], list[Floats]] = {}
    stuck: dict[str, float] = {}
    leapt: dict[str, int] = {}
    gaps = [float(np.median(np.diff(item.at))) for item in found if len(item.at) > 2 and item.place != "outdoors"]
    for item in found:
        if item.place == "outdoors":
            continue
        value = np.array(item.value, dtype=np.float64)
        power = item.quantity == "power_w"
        if not power:
            away = leaps(item.at, value)
            still = stuck_at(item.at, value) if item.quantity not in ("ppfd",) else np.zeros(len(value), dtype=bool)
            leapt[item.quantity] = leapt.get(item.quantity, 0) + int(away.sum())
            stuck[item.quantity] = stuck.get(item.quantity, 0.0) + _hours(item.at, still)
            value[away | still] = np.nan
        where = "watts" if power else "room" if item.place == "room" else "inside"
        key = item.feeds if power else item.quantity
        if key:
            grid = _gridded(item.at, value, begins, steps, every_s, holds=power)
            kept.setdefault((where, key), []).append(grid)
    parts: dict[str, dict[str, Floats]] = {"inside": {}, "room": {}, "watts": {}}
    for (where, key), some in kept.items():
        parts[where][key] = some[0] if len(some) == 1 else _mean(np.array(some))
    return Grid(
        begins=begins, every_s=every_s, steps=steps, apart_s=max(gaps, default=0.0), stuck=stuck, leapt=leapt, **parts
    )


def _mean(rows: Floats) -> Floats:
    number = np.isfinite(rows).sum(axis=0)
    total = np.nansum(rows, axis=0)
    with np.errstate(invalid="ignore"):
        return np.asarray(np.where(number > 0, total / np.maximum(number, 1), np.nan))


def _gridded(at: Seconds, value: Floats, begins: int, steps: int, every_s: int, *, holds: bool) -> Floats:
    """Means over steps; between sparse readings straight, or as before for what switches."""
    fine = np.isfinite(value)
    at, value = at[fine], value[fine]
    grid = np.full(steps, np.nan)
    if len(at) == 0:
        return grid
    places = (at - begins) // every_s
    inner = (places >= 0) & (places < steps)
    total = np.bincount(places[inner], weights=value[inner], minlength=steps)
    number = np.bincount(places[inner], minlength=steps)
    grid[number > 0] = total[number > 0] / number[number > 0]
    middle = begins + (np.arange(steps) + 0.5) * every_s
    after = np.searchsorted(at, middle)
    before = np.clip(after - 1, 0, len(at) - 1)
    after = np.clip(after, 0, len(at) - 1)
    near = (at[after] - at[before] <= BRIDGED_S) & (at[before] <= middle) & (at[after] >= middle)
    empty = (number == 0) & near
    bridged = value[before] if holds else np.interp(middle, at, value)
    grid[empty] = bridged[empty]
    return grid


def leaps(at: Seconds, value: Floats) -> NDArray[np.bool_]:
    """Find single readings that leap away from those around them.

    Parameters
    ----------
    at : seconds, rising, shape (n,)
    value : shape (n,)

    Returns
    -------
    ndarray of bool : True for what leaps, shape (n,)

    Notes
    -----
    Hampel's filter: further from the median of seven than six times their median deviation, and than the series'
    own usual step. Two or more in a row are no leap: something happened.
    """
    found = np.zeros(len(value), dtype=bool)
    if len(value) < _WINDOW:
        return found
    windows = np.lib.stride_tricks.sliding_window_view(value, _WINDOW)
    middle = np.median(windows, axis=1)
    spread = 1.4826 * np.median(np.abs(windows - middle[:, None]), axis=1)
    usual = float(np.median(np.abs(np.diff(value)))) if len(value) > 1 else 0.0
    half = _WINDOW // 2
    here = value[half : len(value) - half]
    away = np.abs(here - middle) > _LEAPS * np.maximum(spread, max(usual, 1e-9) + 0.02 * np.ptp(value))
    found[half : len(value) - half] = away
    lone = found.copy()
    lone[1:] &= ~found[:-1]
    lone[:-1] &= ~found[1:]
    return lone


def stuck_at(at: Seconds, value: Floats) -> NDArray[np.bool_]:
    """Find where a sensor shows the very same for long though it usually moves.

    Parameters
    ----------
    at : seconds, rising, shape (n,)
    value : shape (n,)

    Returns
    -------
    ndarray of bool : True where it is stuck, shape (n,); nowhere in a series that is still for most of the time
    """
    found = np.zeros(len(value), dtype=bool)
    if len(value) < 4:
        return found
    edges = np.flatnonzero(np.diff(value) != 0) + 1
    begins, ends = np.append(0, edges), np.append(edges, len(value))
    long = (at[ends - 1] - at[begins] >= STUCK_S) & (ends - begins >= 4)
    share = float((ends - begins)[long].sum()) / len(value)
    if share > 0.4:
        return found
    for begin, end in zip(begins[long], ends[long], strict=True):
        found[begin:end] = True
    return found


def _hours(at: Seconds, which: NDArray[np.bool_]) -> float:
    if len(at) < 2:
        return 0.0
    each = np.diff(at, append=at[-1])
    return float(np.minimum(each, BRIDGED_S)[which].sum()) / 3600
