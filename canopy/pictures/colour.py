"""The colour of leaves in a picture, against a grey card where there is one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import atan2, degrees, hypot

import numpy as np
from numpy.typing import NDArray

from canopy.errors import PictureError
from canopy.pictures.ground import to_bytes

Array = NDArray[np.float64]
# A grey card reflects 18 % [ISO 2720 calibrates meters near it]; a sheet of white paper about 85 %.
GREY_CARD, WHITE_PAPER = 0.18, 0.85
_SPOT = 4


@dataclass(frozen=True, kw_only=True)
class LeafColour:
    """The middle colour of leaves: hue [°] (90 yellow, 180 green-blue), chroma and lightness (CIELAB, D65), and the
    dark green colour index, 0 to 1; ``balanced`` where a card took the lamp's colour out of it.
    """

    hue_deg: float
    chroma: float
    lightness: float
    dark_green: float
    balanced: bool


def leaf_colour(linear: Array, mask: NDArray[np.bool_], grey: Array | None = None) -> LeafColour | None:
    """Give the middle colour of leaves.

    Parameters
    ----------
    linear : red, green and blue, 0 to 1, shape (rows, columns, 3)
    mask : what is leaf, shape (rows, columns)
    grey : what a grey card in the same light gives, shape (3,)

    Returns
    -------
    LeafColour : of the medians of each channel, away from edges; None where hardly any leaf is seen

    References
    ----------
    Karcher & Richardson 2003, "Quantifying turfgrass color using digital image analysis": the dark green colour index
    ((hue - 60)/60 + (1 - saturation) + (1 - brightness))/3.
    """
    from scipy.ndimage import binary_erosion
    from skimage.color import rgb2hsv, rgb2lab

    inner = binary_erosion(mask, iterations=2)
    if inner.sum() < 30:
        inner = mask
    if inner.sum() < 30:
        return None
    middle = np.median(linear[inner], axis=0)
    if grey is not None:
        middle = middle * GREY_CARD / np.maximum(grey, 1e-4)
    shown = to_bytes(middle)[None, None]
    light, a, b = (float(v) for v in rgb2lab(shown)[0, 0])
    hue, saturation, value = (float(v) for v in rgb2hsv(shown)[0, 0])
    dark = ((360 * hue - 60) / 60 + (1 - saturation) + (1 - value)) / 3
    return LeafColour(
        hue_deg=degrees(atan2(b, a)) % 360,
        chroma=hypot(a, b),
        lightness=light,
        dark_green=min(1.0, max(0.0, dark)),
        balanced=grey is not None,
    )


def grey_at(linear: Array, spot: Sequence[float], *, white: bool = False) -> Array:
    """Read a grey card where somebody pointed at it.

    Parameters
    ----------
    linear : the whole picture, red, green and blue, shape (h, w, 3)
    spot : x, y [px]
    white : it is a white sheet of paper

    Returns
    -------
    ndarray : what a card of 18 % gives, shape (3,)

    Raises
    ------
    PictureError : burnt out, in the dark, or of several colours
    """
    x, y = (round(value) for value in spot)
    patch = linear[max(0, y - _SPOT) : y + _SPOT + 1, max(0, x - _SPOT) : x + _SPOT + 1].reshape(-1, 3)
    if not len(patch):
        raise PictureError("the card lies outside the picture")
    middle = np.median(patch, axis=0)
    if middle.max() > 0.97:
        raise PictureError("the card is burnt out to white: take the picture darker")
    if middle.max() < 0.004:
        raise PictureError("the card lies in the dark")
    if float((patch.std(axis=0) / np.maximum(middle, 0.01)).max()) > 0.35:
        raise PictureError("what was pointed at as a card has several colours")
    found: Array = middle * (GREY_CARD / WHITE_PAPER if white else 1.0)
    return found
