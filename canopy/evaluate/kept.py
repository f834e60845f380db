"""Reports of spaces, kept while nothing that they depend on has changed."""

from __future__ import annotations

import datetime as dt
import logging
from collections.abc import Hashable, Mapping
from dataclasses import replace

from canopy.air.network import neighbours
from canopy.cache import REPORTS, ContentCache
from canopy.errors import EvaluationError
from canopy.evaluate.air.breathing import sharing
from canopy.evaluate.power.loads import CircuitLoad
from canopy.evaluate.space import Followed, SpaceReport, evaluate_space, followed, on_circuit, with_climate
from canopy.light.scene import DEFAULT, Quality
from canopy.plan import Plan, Space

# What a report weighs with its workings and its map.
_REPORT_BYTES = 200_000
_kept: ContentCache[SpaceReport] = ContentCache(lambda report: _REPORT_BYTES, REPORTS)
# What was followed weighs by its traces, and is as dear as a report of their weight: without it a space is not judged.
_followed: ContentCache[Followed] = ContentCache(lambda found: found.climate.nbytes, REPORTS, s_per_mb=0.5)
_log = logging.getLogger(__name__)


def key_of(plan: Plan, space: Space, day: dt.date) -> Hashable:
    """Give all that a space's report depends on: the whole plan, less what provably cannot matter to it.

    Parameters
    ----------
    plan : with all its spaces, for what they share with this one
    space : one of its spaces, or one that is tried in its place
    day : the day it is looked at

    Returns
    -------
    tuple : hashable; two equal keys give equal reports

    Notes
    -----
    Of other spaces count: whole, those that ways of air join to it and those whose warmth and damp its room takes;
    of the rest name and height (a tall plant may move there). What they draw from its circuit is laid over the report
    each time (``on_circuit``). Of plantings those whose plants stand in a space that counts whole. Not: the plan's
    name, its number for new ids, other circuits, rooms that no such space stands in.
    """
    whole = {other.id: other for other in (*neighbours(plan, space), *sharing(plan, space)) if other.id != space.id}
    grown = {plant.planting_id for each in (space, *whole.values()) for plant in each.plants}
    plantings = tuple(item.model_dump_json() for item in plan.plantings if item.id in grown)
    rooms = tuple(room for room in plan.rooms if room.id in {each.room_id for each in (space, *whole.values())})
    return (
        space,
        tuple(whole.values()),
        plantings,
        rooms,
        plan.site,
        plan.tariff,
        plan.crops,
        tuple((other.id, other.name, other.size.height_m) for other in plan.spaces),
        day,
    )


def _with(plan: Plan, space: Space) -> Plan:
    spaces = tuple(space if other.id == space.id else other for other in plan.spaces)
    return plan.model_copy(update={"spaces": spaces})


def report_of(
    plan: Plan,
    space: Space,
    *,
    day: dt.date | None = None,
    quality: Quality = DEFAULT,
    map_height_m: float | None = None,
    loads: Mapping[str, CircuitLoad] | None = None,
    follow: bool = False,
) -> SpaceReport:
    """Evaluate a space on a day, or find it evaluated.

    Parameters
    ----------
    plan : with all its spaces, for what they share with this one
    space : one of its spaces
    day : the day it is looked at; the plan's own date when None
    quality : how finely to cut the walls for light
    map_height_m : height of the PPFD map; the plants' middle top when None [m]
    loads : circuits of the plan that are summed up already, by id
    follow : follow its climate, too; without that it is there only where it was followed already

    Returns
    -------
    SpaceReport : its plan is the one that was given, even where the rest was kept from an earlier state

    Raises
    ------
    EvaluationError : the plan is sound, and yet the space could not be computed
    """
    when = day or plan.date
    try:
        known = key_of(plan, space, when)
        found = _kept.get(
            (known, quality, map_height_m),
            lambda: evaluate_space(plan, space, day=when, quality=quality, map_height_m=map_height_m),
        )
        climate = _followed.get(known, lambda: followed(found)) if follow else _followed.peek(known)
        if climate is not None:
            found = with_climate(found, climate)
    except Exception as error:
        _log.exception("space %s could not be computed", space.id)
        raise EvaluationError(f"{space.name} could not be computed ({error})") from error
    return _now(found, plan, space, loads)


def _now(found: SpaceReport, plan: Plan, space: Space, loads: Mapping[str, CircuitLoad] | None = None) -> SpaceReport:
    """A report in the plan as it is: one that is tried in a space's place counts on its circuit, too."""
    if found.plan is plan:
        return found
    there = plan.space(space.id)
    here = plan if there is space or there == space else _with(plan, space)
    return replace(on_circuit(found, here, loads), plan=plan)


def kept_report(
    plan: Plan, space: Space, *, day: dt.date, loads: Mapping[str, CircuitLoad] | None = None
) -> SpaceReport | None:
    """Find a space's report if it is kept.

    Parameters
    ----------
    plan : with all its spaces
    space : one of its spaces
    day : the day it is looked at
    loads : circuits of the plan that are summed up already, by id

    Returns
    -------
    SpaceReport : None where it would have to be computed
    """
    known = key_of(plan, space, day)
    found, climate = _kept.peek((known, DEFAULT, None)), _followed.peek(known)
    if found is None or climate is None:
        return None
    return _now(with_climate(found, climate), plan, space, loads)


def is_lit(plan: Plan, space: Space, *, day: dt.date) -> bool:
    """Say whether a space's report is kept, whether or not its climate was followed.

    Parameters
    ----------
    plan : with all its spaces
    space : one of its spaces
    day : the day it is looked at

    Returns
    -------
    bool : True where only its climate may be missing
    """
    return _kept.holds((key_of(plan, space, day), DEFAULT, None))


def forget() -> None:
    """Forget all that is kept."""
    _kept.clear()
    _followed.clear()
