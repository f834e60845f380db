"""Plugs that are switched from afar: what they feed, and what may come on again by itself."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

Feeds = Literal["fan", "lamps", "heater", "co2", "humidifier", "dehumidifier", "pump", "other"]
FEEDS: Mapping[Feeds, str] = {
    "fan": "a fan",
    "lamps": "lamps",
    "heater": "a heater, mat or heat lamp",
    "co2": "CO₂",
    "humidifier": "a humidifier",
    "dehumidifier": "a dehumidifier",
    "pump": "a pump",
    "other": "something else",
}
# What nobody looks at when it comes on may set fire, or take the air.
_BY_HAND_ONLY = frozenset({"heater", "co2"})
# Longer than that nobody waits for a plug to come on again [min].
LONGEST_MIN = 24 * 60


def comes_on_by_itself(feeds: Feeds) -> bool:
    """Say whether what a plug feeds may be switched on by anything but a person.

    Parameters
    ----------
    feeds : what hangs on it

    Returns
    -------
    bool : False for heaters and CO₂
    """
    return feeds not in _BY_HAND_ONLY


def caution_of(feeds: Feeds, *, on: bool) -> str:
    """Give what a person should know before a plug is switched.

    Parameters
    ----------
    feeds : what hangs on it
    on : whether it is to go on

    Returns
    -------
    str : a sentence or two
    """
    if on and feeds == "heater":
        return (
            "Look at it first: nothing may lie on or near it, and it stays on until somebody switches it off. It needs "
            "a thermostat and a cut-off of its own."
        )
    if on and feeds == "co2":
        return (
            "Nobody may be in a closed room with it. It needs a meter with an alarm at breathing height, and stays on "
            "until somebody switches it off."
        )
    if not on and feeds == "fan":
        return "Heat and damp gather at once: the air warms by the lamps' whole heat while it stands."
    if not on and feeds == "heater":
        return "It does not come on again by itself: what is warmed by it may freeze."
    if on:
        return "Make sure that nobody has a hand in it."
    return "What hangs on it stops at once."
