"""Households of the same kind with truths of their own: what identification is held against."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace
from typing import Literal
from zoneinfo import ZoneInfo

import numpy as np

from canopy.plan import Plan, Space
from canopy.review.series import Series
from canopy.standins.house import House
from canopy.standins.probes import Probe, shown
from canopy.standins.truth import DAY_MIN, FAN, LAMPS, Truth

Habit = Literal["a night off", "pulses", "never off", "no room", "no meter"]
# What nobody can tell from: the fan never stops, the room is not measured, no plug says when anything ran.
UNKNOWABLE: tuple[Habit, ...] = ("never off", "no room", "no meter")
_ZONE = ZoneInfo("UTC")
_EVERY_MIN = 2


@dataclass(frozen=True, kw_only=True, eq=False)
class Neighbour:
    """A household with its hidden truth, and what its probes showed through some days."""

    plan: Plan
    space: Space
    truth: Truth
    habit: Habit
    series: tuple[Series, ...]
    begins: int
    days: tuple[dt.date, ...]


def neighbour(plan: Plan, space_id: str, seed: int, habit: Habit, *, days: int = 6) -> Neighbour:
    """Make up a household that differs from a plan in what nobody sees, and live in it.

    Parameters
    ----------
    plan : as it was planned
    space_id : a space with a fan and lamps
    seed : 0 or more; the same for the same household
    habit : when its fan stands and what is measured
    days : how many days are lived

    Returns
    -------
    Neighbour : what is hidden, and what its probes showed

    Notes
    -----
    Hidden are what fans move (0.5 to 1.2), seams (0.5 to 2.5), walls (±12 %), leaves (±35 %), lamps' heat (±4 %),
    breath and wet surfaces, all log-normal or even; probes are off by a cheap probe's data sheet.
    """
    chance = np.random.default_rng([seed, 4711])
    truth = Truth(
        moves=float(chance.uniform(0.5, 1.2)),
        leaks=float(np.exp(chance.uniform(np.log(0.5), np.log(2.5)))),
        shines=float(chance.uniform(0.8, 1.05)),
        heats=float(np.exp(0.04 * chance.standard_normal())),
        passes=float(np.exp(0.12 * chance.standard_normal())),
        opens=float(np.exp(0.35 * chance.standard_normal())),
        breathes=float(np.exp(0.5 * chance.standard_normal())),
        wets=float(np.exp(0.4 * chance.standard_normal())),
    )
    plan, space = _varied(plan, space_id, chance)
    begin = plan.date
    house = House(plan=plan, zone=_ZONE, since=begin, seed=int(chance.integers(1, 10_000)), truths={space_id: truth})
    lived = tuple(begin + dt.timedelta(days=k) for k in range(days))
    for off in _offs(habit, house.midnight(begin), days, chance):
        house.switch(space_id, FAN, *off)
    probes = _probes(chance, gas=bool(chance.random() < 0.6))
    rows: dict[str, list[tuple[int, np.ndarray, np.ndarray]]] = {}
    for day in lived:
        there = house.lived(space, day)
        first = house.midnight(day)
        minutes = np.arange(0, DAY_MIN, _EVERY_MIN)
        for probe in probes:
            true = there.watts[probe.quantity] if probe.quantity in (FAN, LAMPS) else there.measured[probe.quantity]
            told = shown(probe, true, day.toordinal(), begin.toordinal() - 20, seed)[minutes]
            rows.setdefault(probe.quantity, []).append((first, minutes, told))
    return Neighbour(
        plan=plan,
        space=space,
        truth=truth,
        habit=habit,
        series=tuple(_series(key, some) for key, some in rows.items() if _measured(key, habit)),
        begins=house.midnight(begin),
        days=lived,
    )


def _measured(key: str, habit: Habit) -> bool:
    if habit == "no room" and key in ("room_c", "room_rh"):
        return False
    return not (habit == "no meter" and key in (FAN, LAMPS))


def _series(key: str, some: list[tuple[int, np.ndarray, np.ndarray]]) -> Series:
    at = np.concatenate([first + 60 * minutes for first, minutes, _ in some]).astype(np.int64)
    value = np.concatenate([told for _, _, told in some])
    fine = np.isfinite(value)
    quantity = {"room_c": "air_c", "room_rh": "rh_pct", FAN: "power_w", LAMPS: "power_w"}.get(key, key)
    return Series(
        name=key,
        quantity=quantity,
        at=at[fine],
        value=value[fine],
        place="room" if key.startswith("room") else "space",
        feeds=key if key in (FAN, LAMPS) else "",
    )


def _probes(chance: np.random.Generator, *, gas: bool) -> tuple[Probe, ...]:
    def off(size: float) -> float:
        return float(size * chance.standard_normal())

    found = [
        Probe(name="air", quantity="air_c", offset=off(0.2), noise=0.06, step=0.1, lag_min=chance.uniform(1, 7)),
        Probe(name="damp", quantity="rh_pct", offset=off(2.0), noise=0.4, step=0.1, lag_min=5, most=100),
        Probe(name="room air", quantity="room_c", offset=off(0.2), noise=0.06, step=0.1, lag_min=4),
        Probe(name="room damp", quantity="room_rh", offset=off(2.0), noise=0.4, step=0.1, lag_min=5, most=100),
        Probe(name="fan", quantity=FAN, noise=0.15, step=0.1, least=0, silent_a_day=0.1),
        Probe(name="lamps", quantity=LAMPS, noise=0.3, step=0.1, least=0, silent_a_day=0.1),
    ]
    if gas:
        found.append(Probe(name="co2", quantity="co2_ppm", offset=off(25), noise=10, step=1, lag_min=2))
    return tuple(found)


def _offs(habit: Habit, begins: int, days: int, chance: np.random.Generator) -> list[tuple[int, int]]:
    if habit == "never off":
        return []
    if habit == "pulses":
        return [
            (begins + int(86400 * day + 3600 * hour), begins + int(86400 * day + 3600 * hour + 60 * long))
            for day in range(days)
            for hour, long in zip(chance.uniform(0.5, 22, 3), chance.uniform(35, 70, 3), strict=True)
        ]
    day = int(chance.integers(1, days - 1))
    start = begins + int(86400 * day + 3600 * chance.uniform(-2, 2))
    return [(start, start + int(3600 * chance.uniform(2.5, 6)))]


def _varied(plan: Plan, space_id: str, chance: np.random.Generator) -> tuple[Plan, Space]:
    """Other rooms, fewer plants, another speed and dimmer: a household of its own."""
    space = plan.space(space_id)
    if space is None:
        raise KeyError(space_id)
    keep = max(1, round(len(space.plants) * float(chance.uniform(0.4, 1.0))))
    ways = []
    for way in space.airways:
        parts = tuple(
            part.model_copy(update={"speed": float(np.clip(part.speed * chance.uniform(0.8, 1.3), 0.3, 1.0))})
            if part.kind == "fan"
            else part
            for part in way.parts
        )
        ways.append(way.model_copy(update={"parts": parts}))
    lamps = tuple(
        lamp.model_copy(update={"dim": float(chance.uniform(0.7, 1.0))}) if lamp.can_dim else lamp
        for lamp in space.fixtures
    )
    space = space.model_copy(
        update={"plants": space.plants[:keep], "airways": tuple(ways), "fixtures": lamps, "learnt": ()}
    )
    warmer, damper = float(chance.uniform(-2, 3)), float(chance.uniform(-8, 8))
    rooms = tuple(
        room.model_copy(
            update={
                "day_c": room.day_c + warmer,
                "night_c": room.night_c + warmer,
                "day_rh_pct": room.day_rh_pct + damper,
                "night_rh_pct": room.night_rh_pct + damper,
            }
        )
        for room in plan.rooms
    )
    spaces = tuple(space if item.id == space_id else item for item in plan.spaces)
    return plan.model_copy(update={"spaces": spaces, "rooms": rooms}), space


def without(found: Neighbour, quantity: str) -> Neighbour:
    """Give a household in which something is not measured.

    Parameters
    ----------
    found : the household
    quantity : what its probes do not show

    Returns
    -------
    Neighbour : the same otherwise
    """
    return replace(found, series=tuple(item for item in found.series if item.quantity != quantity))
