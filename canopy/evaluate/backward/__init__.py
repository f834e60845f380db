"""Backwards from the plants: dimmers, heights, spacing, lamps and places that give them what they want."""

from canopy.evaluate.backward.choose import Choice, choices_for, try_choice
from canopy.evaluate.backward.dimmers import set_dimmers
from canopy.evaluate.backward.fans import FanSet, best_sets, propose_set, sets_for, try_set
from canopy.evaluate.backward.heights import find_height, space_lamps
from canopy.evaluate.backward.places import place_plants
from canopy.evaluate.backward.proposal import Proposal, Tried, unmet

__all__ = [
    "Choice",
    "FanSet",
    "Proposal",
    "Tried",
    "best_sets",
    "choices_for",
    "find_height",
    "place_plants",
    "propose_set",
    "set_dimmers",
    "sets_for",
    "space_lamps",
    "try_choice",
    "try_set",
    "unmet",
]
