"""Which crops can share a space: whether there is any air, day and feed that suits them all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

from canopy.design.crops.arranging import main_stage
from canopy.library import Crop, Window

# What all have to share, what it is called, and by how much windows may part before nothing holds both.
_FIGURES: tuple[tuple[str, str, float], ...] = (
    ("air_day_c", "warmth by day", 0.5),
    ("air_night_c", "warmth by night", 0.5),
    ("rh_pct", "humidity", 5.0),
    ("photoperiod_h", "hours of light", 0.5),
)


@dataclass(frozen=True, kw_only=True)
class Sharing:
    """The most crops that share a space, those that have to go elsewhere, and what parts them."""

    together: tuple[Crop, ...]
    apart: tuple[Crop, ...]
    parted_by: tuple[str, ...]


def sharing_of(crops: Sequence[Crop]) -> Sharing:
    """Find the most crops that could share a space.

    Parameters
    ----------
    crops : as they are wished for, those that matter most first

    Returns
    -------
    Sharing : all together where they share every window

    Notes
    -----
    Windows on a line that meet two by two meet all at once (Helly's theorem in one dimension), so that pairs decide;
    crops that part from most others go first.
    """
    left = list(dict.fromkeys(crops))
    apart: list[Crop] = []
    parted: dict[str, None] = {}
    while True:
        fights = [(one, two, words) for one, two in combinations(left, 2) if (words := parted_by(one, two))]
        if not fights:
            return Sharing(together=tuple(left), apart=tuple(apart), parted_by=tuple(parted))
        counts = {crop.id: sum(crop in (one, two) for one, two, _ in fights) for crop in left}
        gone = max(left, key=lambda crop: (counts[crop.id], left.index(crop)))
        parted |= {word: None for one, two, words in fights if gone in (one, two) for word in words}
        left.remove(gone)
        apart.append(gone)


def parted_by(one: Crop, two: Crop) -> tuple[str, ...]:
    """Say what parts two crops in the stages that plans begin with.

    Parameters
    ----------
    one : in its main stage
    two : in its main stage

    Returns
    -------
    tuple of str : such as "hours of light"; empty where they share every window
    """
    first, second = main_stage(one), main_stage(two)
    return tuple(
        name for figure, name, spare in _FIGURES if _apart(getattr(first, figure), getattr(second, figure)) > spare
    )


def _apart(one: Window, two: Window) -> float:
    return max(one.low, two.low) - min(one.high, two.high)
