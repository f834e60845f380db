"""How loud fans are at a speed, and what of it is heard in the room."""

from __future__ import annotations

from collections.abc import Iterable
from math import log10, pi

# Sound power over the level at 1 m in free field, all round; and how much of a bedroom takes sound up [m²].
FREE_FIELD_DB, BEDROOM_M2, DIRECTIVITY = 11.0, 12.0, 2.0
UNCERTAIN_DB = 5.0
# Ducts begin to hiss above this [m/s].
HISS_M_S = 5.0
_SPEED_DB = 50.0
# A fan without a stated level: a line through the library's classes over the logarithm of their flow [dB].
_GUESS_DB, _GUESS_FLOW_DB = -8.5, 20.5


def at_speed_db(level_db: float, speed: float) -> float:
    """Give a fan's level at a speed.

    Parameters
    ----------
    level_db : level at full speed [dB]
    speed : share of full speed, over 0

    Returns
    -------
    float : level + 50 log10(s) [dB] (fan laws)
    """
    return level_db + _SPEED_DB * log10(speed)


def together_db(levels_db: Iterable[float]) -> float:
    """Add levels up.

    Parameters
    ----------
    levels_db : levels of sources that have nothing to do with each other [dB]

    Returns
    -------
    float : 10 log10 Σ 10^(L/10); −∞ for none [dB]
    """
    total = sum(10 ** (level / 10) for level in levels_db)
    return 10 * log10(total) if total > 0 else float("-inf")


def in_room_db(power_db: float, distance_m: float, absorbing_m2: float = BEDROOM_M2) -> float:
    """Give the level in a room at a distance.

    Parameters
    ----------
    power_db : sound power level [dB]
    distance_m : distance [m]
    absorbing_m2 : room constant R [m²]; 12 for a bedroom

    Returns
    -------
    float : Lw + 10 log10(Qd/(4 π r²) + 4/R), source on the floor (Qd 2) [dB]
    """
    return power_db + 10 * log10(DIRECTIVITY / (4 * pi * distance_m**2) + 4 / absorbing_m2)


def guessed_dba_1m(free_flow_m3_h: float) -> float:
    """Give a level for a fan that states none.

    Parameters
    ----------
    free_flow_m3_h : its free-air flow [m³/h]

    Returns
    -------
    float : level at 1 m; the library's classes lie within ±5 dB of it [dB]
    """
    return _GUESS_DB + _GUESS_FLOW_DB * log10(max(free_flow_m3_h, 1.0))
