"""The load of every circuit minute by minute of a day, from schedules, cycles and the controls as they really run."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.climate.days import Simulated, simulated
from canopy.evaluate.climate.flows import controlled, span_of
from canopy.evaluate.climate.rehearsal.rehearsed import in_season
from canopy.evaluate.light.lighting import lighting
from canopy.evaluate.power.loads import household_tree
from canopy.library import find, rule_sets
from canopy.light.scene import PREVIEW
from canopy.plan.document import Circuit, Plan, Space
from canopy.plan.rooms import Season
from canopy.power import Hung, Tree, minutes_of
from canopy.power.hours import MINUTES, Watts, coinciding_w, is_timed
from canopy.season import cast_of, standing_of

_MINUTE_S = 60.0


@dataclass(frozen=True, kw_only=True, eq=False)
class Line:
    """What one load draws in each minute, shape (1440,) [W]; ``followed`` says that its control was simulated.

    One that may start at any time is spread over the day here: ``timed`` says that the clock tells when it runs.
    """

    hung: Hung
    watts: Watts
    followed: bool = False

    @property
    def timed(self) -> bool:
        """Whether it is known when it runs."""
        return self.followed or is_timed(self.hung.load)

    @property
    def kwh(self) -> float:
        """Energy of the day [kWh]."""
        return float(self.watts.sum()) / 60_000


@dataclass(frozen=True, kw_only=True, eq=False)
class CircuitDay:
    """A circuit through a day: its lines, their sum, and what it should carry for hours and at all [W]."""

    circuit: Circuit
    lines: tuple[Line, ...]
    limit_w: float
    breaker_w: float

    @property
    def total(self) -> Watts:
        """All of which it is known when it runs, together, shape (1440,) [W]."""
        timed = (line.watts for line in self.lines if line.timed)
        return np.asarray(sum(timed, np.zeros(MINUTES, dtype=np.float32)))

    @property
    def may_coincide(self) -> Watts:
        """What may be on together, each at its full power, shape (1440,) [W]: what its margin is judged by."""
        return coinciding_w([line.hung.load for line in self.lines])


def followed_by_minute(plan: Plan, space: Space, season: Season = "day") -> Simulated | None:
    """Follow a space's climate at one minute, where something in it is switched by the air.

    Parameters
    ----------
    space : one of the plan's spaces
    season : a usual day, or the year's coldest or hottest

    Returns
    -------
    Simulated : None where nothing is
    """
    if not _switched(space):
        return None
    here = in_season(plan, standing_of(space, plan.date, cast_of(plan)), season)
    return simulated(plan, here, lighting(here, PREVIEW, with_map=False), every_s=_MINUTE_S)


def _switched(space: Space) -> bool:
    return controlled(space) is not None or any(d.spec.on_demand and not d.by_clock for d in space.devices)


def day_of_circuits(
    plan: Plan, season: Season = "day", *, found: Mapping[str, Simulated | None] | None = None, tree: Tree | None = None
) -> tuple[CircuitDay, ...]:
    """Give every circuit through a day.

    Parameters
    ----------
    plan : the household
    season : a usual day, or the year's coldest or hottest
    found : climates that were followed at one minute already, by space; of these spaces nothing is simulated
    tree : of the household, where it is at hand

    Returns
    -------
    tuple of CircuitDay : in the plan's order
    """
    tree = tree or household_tree(plan)
    known = dict(found or {})
    for space in plan.spaces:
        if space.id not in known:
            known[space.id] = followed_by_minute(plan, space, season)
    out = []
    for circuit in plan.circuits:
        rules = find(rule_sets(), circuit.rule_set_id, "rule set")
        full = circuit.breaker_a * circuit.mains_v
        lines = tuple(_line(plan, hung, known.get(hung.space_id)) for hung in tree.under(circuit.id))
        out.append(CircuitDay(circuit=circuit, lines=lines, limit_w=rules.continuous_share * full, breaker_w=full))
    return tuple(out)


def _line(plan: Plan, hung: Hung, climate: Simulated | None) -> Line:
    space, load = plan.space(hung.space_id), hung.load
    if space is not None and climate is not None and climate.overheats_s is None:
        shares = climate.ran(load.part_id) if load.on_demand else _turned(space, load.part_id, climate)
        if shares is not None:
            return Line(hung=hung, watts=_last_day(climate, shares) * np.float32(load.power_w), followed=True)
    return Line(hung=hung, watts=minutes_of(load))


def _last_day(climate: Simulated, shares: NDArray[np.float64]) -> Watts:
    """The last day of what was followed, at one minute, whatever it was written down at."""
    day = shares[-round(86_400 / climate.days.every_s) :]
    return np.asarray(np.repeat(day, MINUTES // len(day)), dtype=np.float32)


def _turned(space: Space, part_id: str, climate: Simulated) -> NDArray[np.float64] | None:
    """What a fan draws that a controller turns, as a share of what it draws at its set speed; None for any other."""
    turned = controlled(space)
    if turned is None:
        return None
    way = turned[0]
    fan = next((fan for fan in way.fans if fan.id == part_id), None)
    if fan is None or not (fan is way.lead or way.follows(fan)):
        return None
    least, planned, most = span_of(*turned)
    if planned <= 0:
        return None
    level = climate.days.levels[:, climate.days.place(climate.space_id)].astype(np.float64)
    speed = least + level * (most - least)
    return np.asarray((speed / planned) ** (3 if fan.spec.electronic else 2))
