"""Clear float glass: what it lets through and gives back, by angle and for light from all round.

Fresnel's equations for two faces with all reflections between them, and Bouguer's law in the glass; index 1.52,
absorption so that 4 mm pass 0.90 head on.
"""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.floating]
_INDEX, _DEPTH = 1.52, 0.0202


def transmittance(cosine: Floats) -> Floats:
    """Give the share of light that passes a pane.

    Parameters
    ----------
    cosine : of the angle between the light's way and the pane's normal, 0..1, any shape

    Returns
    -------
    ndarray : the same shape, 0..1
    """
    table = _passed()
    # Between 4,096 steps the line is straight to 1e-6.
    at = np.clip(np.abs(cosine), 0, 1) * (len(table) - 1)
    low = np.minimum(at.astype(np.intp), len(table) - 2)
    start = table[low]
    return np.asarray(start + (at - low) * (table[low + 1] - start))


@cache
def _passed() -> Floats:
    return _optics(np.linspace(0.0, 1.0, 4097))[0]


def _optics(cosine: Floats) -> tuple[Floats, Floats]:
    outside = np.clip(np.abs(cosine), 1e-4, 1)
    inside = np.sqrt(1 - (1 - outside**2) / _INDEX**2)
    across = ((outside - _INDEX * inside) / (outside + _INDEX * inside)) ** 2
    along = ((inside - _INDEX * outside) / (inside + _INDEX * outside)) ** 2
    left = np.exp(-_DEPTH / inside)
    passed, back = np.zeros_like(outside), np.zeros_like(outside)
    for face in (across, along):
        between = 1 - (face * left) ** 2
        passed = passed + (1 - face) ** 2 * left / between / 2
        back = back + (face + face * (1 - face) ** 2 * left**2 / between) / 2
    return passed, back


@cache
def diffuse() -> tuple[float, float]:
    """Give what a pane does to light from all round.

    Returns
    -------
    (float, float) : shares that pass and that are given back, the cosine-weighted mean over the hemisphere
    """
    cosine = (np.arange(2000) + 0.5) / 2000
    passed, back = _optics(cosine)
    return float((2 * cosine * passed).mean()), float((2 * cosine * back).mean())
