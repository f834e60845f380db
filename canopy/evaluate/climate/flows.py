"""What a space's ways of air move in each of their states, at each speed of a controlled fan and each warmth inside."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import product

import numpy as np
from numpy.typing import NDArray

from canopy.air.network import Moment, neighbours
from canopy.air.ventilation import Ventilation, ventilation
from canopy.cache import ContentCache
from canopy.climate.system import Link
from canopy.plan.airways import Airway
from canopy.plan.controls import FanControl
from canopy.plan.document import Plan, Space
from canopy.schedule import WithLamps, shares_of

Array = NDArray[np.float64]
Shares = NDArray[np.float32]
RISES_K = (0.0, 1.0, 4.0, 12.0)
# Speeds from the least to the most of a controlled fan; ways whose fans turn on and off by themselves.
LEVELS, _MOST_TURNS = 4, 3


@dataclass(frozen=True, kw_only=True)
class State:
    """Lamps on or off, and the ids of ways whose fans stand."""

    lit: bool
    still: tuple[str, ...]


@dataclass(frozen=True, kw_only=True, eq=False)
class Moves:
    """What a space's air does: links with tables over states, levels and rises; for each state its share of each step,
    and whether a fan runs in it; and the airs at ends that are neither a room nor a space, by name.
    """

    links: tuple[Link, ...]
    shares: Shares
    blown: NDArray[np.bool_]
    ends: dict[str, Airway]


def controlled(space: Space) -> tuple[Airway, FanControl] | None:
    """Find the way whose fan is turned by the air.

    Returns
    -------
    (Airway, FanControl) : the first such way; None where all run as set
    """
    return next(((way, way.control) for way in space.airways if way.control is not None and way.fans), None)


def span_of(way: Airway, control: FanControl) -> tuple[float, float, float]:
    """Give between what speeds a controlled fan runs.

    Parameters
    ----------
    way : its way of air
    control : its controller

    Returns
    -------
    (float, float, float) : least, as set, and most; shares of full speed
    """
    lead = way.lead
    planned = lead.speed if lead else 0.0
    slows = control.cold_day_c is not None
    return min(control.least, planned) if slows else planned, planned, max(control.most, planned)


_TABLES: ContentCache[tuple[Array, ...]] = ContentCache(lambda item: sum(part.nbytes for part in item))


def moves(
    plan: Plan,
    space: Space,
    host: str,
    known: Iterable[str],
    steps: int,
    step_min: float,
    stopped: Mapping[str, Shares] | None = None,
) -> Moves:
    """Work out what a space's ways of air and holes move.

    Parameters
    ----------
    plan : with the spaces it is joined to
    host : what the air around it is called
    known : ids of the spaces that are simulated with it
    steps : how many there are
    step_min : how long each lasts [min]
    stopped : for how much of each step the fans of a way stand though they should run, by the way's id

    Returns
    -------
    Moves : flows of its own ways, and of air that comes in from the room by itself
    """
    states, shares = _states(space, steps, step_min, stopped or {})
    own = space.airways
    turned = controlled(space)
    speeds: tuple[float, ...] = ()
    if turned is not None:
        low, _, high = span_of(*turned)
        speeds = tuple(np.linspace(low, high, LEVELS).round(4).tolist())
    key = (
        tuple(states),
        speeds,
        turned[0].id if turned else "",
        plan.site.altitude_m,
        tuple(
            (
                other.id,
                other.size,
                other.faces,
                other.openings,
                other.airways,
                other.air,
                other.kind,
                other.door_open,
                other.learnt,
            )
            for other in neighbours(plan, space)
        ),
    )
    tables = _TABLES.get(key, lambda: _tables(plan, space, states, turned[0].id if turned else "", speeds))
    ends, links = {}, []
    simulated = set(known)
    for way, table in zip(own, tables[:-1], strict=True):
        far = host
        if way.ends == "space" and way.space_id in simulated:
            far = way.space_id or host
        elif way.ends in ("outdoors", "other-room"):
            far = f"away-{space.id}-{way.id}"
            ends[far] = way
        one, two = (space.id, far) if way.way == "out" else (far, space.id)
        links.append(Link(source=one, into=two, owner=space.id, flow_m3_s=table))
    links.append(Link(source=host, into=space.id, owner=space.id, flow_m3_s=tables[-1]))
    fans = sum(1 for way in own if way.fans)
    blown = np.array([len(state.still) < fans for state in states], dtype=bool)
    return Moves(links=tuple(links), shares=shares, blown=blown, ends=ends)


def _states(space: Space, steps: int, step_min: float, stopped: Mapping[str, Shares]) -> tuple[list[State], Shares]:
    """The states that occur, and each one's share of each step."""
    lit = space.lit
    on = shares_of_lit(space, steps, step_min)
    fans = sorted((way for way in space.airways if way.fans), key=lambda way: way.id not in stopped)
    turning = fans[:_MOST_TURNS]
    running = [
        shares_of(way.schedule, steps, step_min, lit) * (1 - stopped[way.id] if way.id in stopped else 1)
        for way in turning
    ]
    states, shares = [], []
    for bright, *runs in product((True, False), *((True, False) for _ in turning)):
        share = on if bright else 1 - on
        for run, part in zip(runs, running, strict=True):
            share = share * (part if run else 1 - part)
        if share.max(initial=0.0) > 1e-6:
            states.append(State(lit=bright, still=tuple(w.id for w, run in zip(turning, runs, strict=True) if not run)))
            shares.append(share)
    return states, np.array(shares, dtype=np.float32)


def shares_of_lit(space: Space, steps: int, step_min: float) -> Shares:
    """Give for how much of each step any lamp is on.

    Parameters
    ----------
    steps : how many there are
    step_min : how long each lasts [min]

    Returns
    -------
    ndarray : shape (steps,), 0..1
    """
    return shares_of(WithLamps(when="lit"), steps, step_min, space.lit)


def _tables(plan: Plan, space: Space, states: list[State], turned: str, speeds: tuple[float, ...]) -> tuple[Array, ...]:
    levels = speeds or (None,)
    found = [np.zeros((len(states), len(levels), len(RISES_K))) for _ in range(len(space.airways) + 1)]
    for s, state in enumerate(states):
        for k, speed in enumerate(levels):
            for r, rise in enumerate(RISES_K):
                at = {} if speed is None else {turned: speed}
                air = ventilation(plan, space, Moment(lit=state.lit, rise_k=rise, still=state.still, speeds=at))
                for way, table in zip(space.airways, found, strict=False):
                    table[s, k, r] = _of_way(air, way)
                found[-1][s, k, r] = max(0.0, air.total_m3_h - air.fan_in_m3_h) / 3600
    return tuple(found)


def _of_way(air: Ventilation, way: Airway) -> float:
    flow = air.way(way.id)
    return flow.flow_m3_s if flow else 0.0
