"""Backwards from the plants: dimmers, heights, spacing, lamps and places that give them what they want."""

from canopy.evaluate.backward.choose import Choice, choices_for, try_choice
from canopy.evaluate.backward.dimmers import set_dimmers
from canopy.evaluate.backward.heights import find_height, space_lamps
from canopy.evaluate.backward.places import place_plants
from canopy.evaluate.backward.proposal import Proposal, Tried, unmet

__all__ = [
    "Choice", "Proposal", "Tried", "choices_for", "find_height", "place_plants", "set_dimmers", "space_lamps",
    "try_choice", "unmet",
]  # fmt: skip
