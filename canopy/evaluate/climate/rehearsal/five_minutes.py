"""Fan off for five minutes and read the rise: how far a thermometer bears the simulation out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import hypot, sqrt

import numpy as np

from canopy.errors import EvaluationError
from canopy.evaluate.climate.days import Simulated, simulated
from canopy.evaluate.climate.rehearsal.faults import SETTLED_H, possible
from canopy.evaluate.climate.upsets import Upset
from canopy.evaluate.light.lighting import Lighting
from canopy.plan.document import Plan
from canopy.plan.rooms import RoomAir
from canopy.roots import falling_root
from canopy.season import Standing

# What a household thermometer is worth: one reading, and two thermometers against each other [K].
_ONE_K, _TWO_K = 0.3, 0.5
# How well the simulation knows the rise: what leaves take up is known to a third.
_RISE_SHARE = 0.3
_LEAST_RISE_K = 1.0
_LEAST, _MOST = 0.15, 4.0


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What somebody read with the lamps on: the room, the air before, and so many minutes after the fans stopped."""

    room_c: float
    before_c: float
    after_c: float
    minutes: float = 5.0


@dataclass(frozen=True, kw_only=True)
class Compared:
    """A reading against the simulation: rises over the room before, and within the minutes [K], each with what it may
    be off; how many times the computed air the fans would have to move, from least to most, None where the reading
    cannot tell.
    """

    reading: Reading
    over_room_k: float
    expected_over_room_k: float
    over_room_off_k: float
    rise_k: float
    expected_rise_k: float
    rise_off_k: float
    flow_m3_h: float
    factor: tuple[float, float, float] | None
    why_not: str

    @property
    def rise_agrees(self) -> bool:
        """Whether the rise lies within what both may be off."""
        return abs(self.rise_k - self.expected_rise_k) <= self.rise_off_k

    @property
    def warmth_agrees(self) -> bool:
        """Whether the air before lies within what both may be off."""
        return abs(self.over_room_k - self.expected_over_room_k) <= self.over_room_off_k


def compare(plan: Plan, here: Standing, lighting: Lighting, reading: Reading) -> Compared:
    """Hold a reading against the simulation of the same five minutes.

    Parameters
    ----------
    plan : with the spaces it shares air with
    here : the space on a day
    lighting : its computed light
    reading : what was read, with the lamps on and settled

    Returns
    -------
    Compared : with what the fans would have to move for the air before to be what was read

    Raises
    ------
    EvaluationError : it has no fans or no lamps, so that there is nothing to try
    """
    fault = next((item for item in possible(here.space) if item.key == "exhaust"), None)
    if fault is None or not here.space.lit:
        raise EvaluationError("this test needs a fan that can be stopped and lamps that are on")
    air = here.around.air
    room = RoomAir(
        day_c=reading.room_c, night_c=reading.room_c, day_rh_pct=air.day_rh_pct, night_rh_pct=air.night_rh_pct
    )
    # What was read is the room as it was, with all that warms it.
    large = here.around.room.model_copy(update={"floor_m2": None})
    there = replace(here, around=replace(here.around, air=room, room=large))
    begins = fault.worst(simulated(plan, there, lighting))

    def run(factor: float) -> Simulated:
        upset = Upset(
            begins_h=SETTLED_H + begins,
            ends_h=SETTLED_H + begins + reading.minutes / 60,
            still=frozenset({"*"}),
            moves=factor,
        )
        hours = int(np.ceil(upset.ends_h + 1))
        return simulated(plan, there, lighting, upset=upset, hours=hours, every_s=20.0)

    def before(found: Simulated) -> float:
        return _at(found, SETTLED_H + begins)

    usual = run(1.0)
    over_room, expected = reading.before_c - reading.room_c, before(usual) - reading.room_c
    rise = _at(usual, SETTLED_H + begins + reading.minutes / 60) - before(usual)
    rows = (usual.traces.hours > SETTLED_H + begins - 0.5) & (usual.traces.hours < SETTLED_H + begins)
    factor, why_not = None, ""
    if over_room < _LEAST_RISE_K:
        why_not = "the air was hardly warmer than the room, so that any flow would do"
    else:
        factor, why_not = _factor(lambda k: before(run(k)) - reading.room_c, over_room)
    return Compared(
        reading=reading,
        over_room_k=over_room,
        expected_over_room_k=expected,
        over_room_off_k=hypot(_TWO_K, 1.0),
        rise_k=reading.after_c - reading.before_c,
        expected_rise_k=rise,
        rise_off_k=hypot(sqrt(2) * _ONE_K, _RISE_SHARE * rise),
        flow_m3_h=float(usual.traces.flow_m3_h[rows].mean()),
        factor=factor,
        why_not=why_not,
    )


def _at(found: Simulated, hour: float) -> float:
    return float(np.interp(hour, found.traces.hours, found.traces.air_c))


def _factor(rise_k: Callable[[float], float], wanted_k: float) -> tuple[tuple[float, float, float] | None, str]:
    """How many times the air moves, at what was read and a thermometer's doubt to both sides."""
    known: dict[float, float] = {}

    def of(log_factor: float) -> float:
        if log_factor not in known:
            known[log_factor] = rise_k(float(np.exp(log_factor)))
        return known[log_factor]

    low, high = float(np.log(_LEAST)), float(np.log(_MOST))
    if not of(high) < wanted_k < of(low):
        warm = "the air was warmer than with hardly any air moved; leaves cool less, or lamps heat more, than was taken"
        cool = "the air was cooler than with four times the air moved; something takes up heat that was not counted"
        return None, f"no flow gives that: {warm if wanted_k >= of(low) else cool}"

    def solve(target: float) -> float:
        if target >= of(low):
            return _LEAST
        if target <= of(high):
            return _MOST
        return float(np.exp(falling_root(lambda x: of(x) - target, 0.5, 0.02)))

    return (solve(wanted_k + _TWO_K), solve(wanted_k), solve(wanted_k - _TWO_K)), ""
