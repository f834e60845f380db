"""The tab of the clock: a band of 24 hours for the space or the household, with edges that are dragged or typed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from canopy.care.thirst import thirst_of
from canopy.care.watering import run_minutes
from canopy.errors import PlanError
from canopy.evaluate import SpaceReport
from canopy.evaluate.day.clock import Lane, lanes_of, moved, quiet_lane
from canopy.evaluate.day.conflicts import day_margins
from canopy.margin import Margin
from canopy.plan import Plan, Space
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy.schedule import DAY_MIN, dark, minute_of
from canopy.season import standing_of
from canopy_web.drawing.day_band import DayBand, day_band
from canopy_web.planning import actions
from canopy_web.stations.day.forms import LaneForm, QuietForm
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import attempt_row, change, page, said
from canopy_web.workspace.where import Where, at_space

HOUSEHOLD = "household"
_STEP_MIN = 5


def clock_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    whole = where.look.more.get("whose") == HOUSEHOLD
    run = run_minutes(where.space, thirst_of(report).litres_d)
    return {
        "whole": whole,
        "band": _band(where.plan, where.space, whole, run),
        "lanes": _lane_forms(where, whole, run, bad),
        "quiet_form": bad.get("quiet") or QuietForm(_quiet_record(where.plan), prefix="quiet"),
        "fights": _fights(where.plan, where.space, whole, where),
        "reader": where.reader(report),
    }


def _quiet_record(plan: Plan) -> dict[str, Any]:
    return plan.quiet.model_dump(mode="json") if plan.quiet else {"start": None, "hours": None}


def _spaces(plan: Plan, space: Space, whole: bool) -> tuple[Space, ...]:
    return plan.spaces if whole else (space,)


def _band(plan: Plan, space: Space, whole: bool, run_min: float | None = None) -> DayBand:
    quiet = quiet_lane(plan)
    blocks: list[tuple[str, str, tuple[Lane, ...], Any]] = [("People", "", (quiet,), ())] if quiet else []
    for each in _spaces(plan, space, whole):
        lanes = lanes_of(plan, each, run_min if each.id == space.id else None)
        blocks.append((each.name, each.id, lanes, dark(each.lit) if each.lit else ()))
    return day_band(blocks, headed=whole or quiet is not None)


def _fights(plan: Plan, space: Space, whole: bool, where: Where) -> list[tuple[str, Margin]]:
    """What fights in each space; that nothing does is said only where that holds for all that is shown."""
    found = [
        (each.name if whole else "", margin)
        for each in _spaces(plan, space, whole)
        for margin in day_margins(plan, standing_of(each, where.day, where.cast))
        if not margin.information
    ]
    bad = [item for item in found if item[1].verdict != "good"]
    return bad or found


def _lane_forms(where: Where, whole: bool, run: float | None, bad: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Every lane with its typed equivalent."""
    return [
        {
            "lane": lane,
            "key": f"{space.id}/{lane.id}",
            "form": (bad.get(f"lane/{space.id}/{lane.id}") or _lane_form(lane)) if lane.movable else None,
        }
        for space in _spaces(where.plan, where.space, whole)
        for lane in lanes_of(where.plan, space, run if space.id == where.space.id else None)
    ]


def _lane_form(lane: Lane, data: Any = None) -> LaneForm:
    record = {"start": lane.start, "hours": lane.hours}
    return LaneForm(record, data, prefix=f"{lane.space_id}-{lane.id}", fixed=lane.id == "watering")


def _minutes(request: HttpRequest, name: str) -> float:
    try:
        value = float(request.POST.get(name, ""))
    except ValueError:
        raise Http404 from None
    if not -DAY_MIN <= value <= 2 * DAY_MIN:
        raise Http404
    return _STEP_MIN * round(value / _STEP_MIN)


def _asked(request: HttpRequest) -> tuple[str, str, float, float]:
    """Whose lane is moved, and to which minutes; over midnight its end lies before its start."""
    start, end = _minutes(request, "start"), _minutes(request, "end")
    hours = ((end - start) % DAY_MIN) / 60
    return request.POST.get("space", ""), request.POST.get("lane", ""), start % DAY_MIN, hours or 24.0


@require_POST
@at_space
def try_edge(request: HttpRequest, where: Where) -> HttpResponse:
    """Show the band and what would fight while an edge is dragged; nothing is stored."""
    space_id, lane_id, start, hours = _asked(request)
    whole = where.look.more.get("whose") == HOUSEHOLD
    plan, words = where.plan, ""
    try:
        plan = apply(plan, None, moved(plan, space_id, lane_id, start, min(hours, 23.75)))
    except PlanError as error:
        words = said(error)
    space = plan.space(where.space.id) or where.space
    shown = {
        "band": _band(plan, space, whole),
        "fights": _fights(plan, space, whole, where),
        "wrong": words,
        "whole": whole,
    }
    return render(request, "day/_band.html", {**place(where, where.reader()), **shown})


@require_POST
@at_space
def move_edge(request: HttpRequest, where: Where) -> HttpResponse:
    """Store a lane's new hours."""
    space_id, lane_id, start, hours = _asked(request)
    acts = moved(where.plan, space_id, lane_id, start, min(hours, 23.75))
    if not acts:
        return page(request, where, words="These hours are no longer there to be moved.")
    return change(request, where, "Moved hours on the clock", *acts)


@require_POST
@at_space
def edit_lane(request: HttpRequest, where: Where, whose: str, lane_id: str) -> HttpResponse:
    """Type a lane's hours."""
    space = where.plan.space(whose)
    lane = next((item for item in lanes_of(where.plan, space) if item.id == lane_id), None) if space else None
    if lane is None or not lane.movable:
        raise Http404
    form = _lane_form(lane, request.POST)

    def act() -> Where:
        got = form.cleaned_data
        start = got.get("start") or lane.start or "00:00"
        hours = got.get("hours") or lane.hours
        return where.do("Changed hours", *moved(where.plan, whose, lane_id, minute_of(start), hours))

    return attempt_row(request, where, form, f"lane/{whose}/{lane_id}", act)


@require_POST
@at_space
def edit_quiet(request: HttpRequest, where: Where) -> HttpResponse:
    """Say in which hours people want quiet, or that they want none."""
    form = QuietForm(_quiet_record(where.drawn), request.POST, prefix="quiet")

    def act() -> Where:
        got = form.cleaned_data
        value = None if not got.get("start") or not got.get("hours") else {"start": got["start"], "hours": got["hours"]}
        acts = [Change(values={"quiet": value})]
        return where.again(actions.change_household(where.row, acts, "Changed quiet hours"))

    return attempt_row(request, where, form, "quiet", act)
