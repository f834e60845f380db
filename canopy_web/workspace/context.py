"""What the workspace page shows: drawing, margins, title block and the schedule of one station."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest

from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.evaluate.cautions import cautions_at
from canopy.evaluate.grouping import dangers, grouped
from canopy.evaluate.kept import report_of
from canopy.evaluate.unjudged import unjudged_margin
from canopy.light.scene import DEFAULT, Quality
from canopy_web.drawing.pins import pin_marks
from canopy_web.drawing.season import season_strip
from canopy_web.drawing.sheet import sheet
from canopy_web.workspace.look import ON_CANOPY
from canopy_web.workspace.parts import rows_of
from canopy_web.workspace.station import title_block
from canopy_web.workspace.where import Where


def context(
    request: HttpRequest,
    where: Where,
    *,
    quality: Quality = DEFAULT,
    bad: Mapping[str, Any] | None = None,
    words: str = "",
    schedule: bool = True,
) -> dict[str, Any]:
    """Gather what the page shows; ``bad`` holds forms that were refused, by key; a preview needs no schedule.

    A space that cannot be computed keeps its frame: undo, the stations, and the rows of its parts to mend it by.
    """
    selected = request.POST.get("selected") or request.GET.get("selected") or ""
    found = _frame(where, words or where.look.wrong, selected)
    height = where.look.level if isinstance(where.look.level, float) else None
    if height is not None:
        height = min(height, where.space.size.height_m)
    try:
        report = report_of(where.plan, where.space, day=where.day, quality=quality, map_height_m=height)
        return found | _shown(where, report, selected, bad or {}, schedule=schedule)
    except EvaluationError as error:
        return found | _unjudged(where, error, bad or {})


def _frame(where: Where, words: str, selected: str) -> dict[str, Any]:
    """What stands whatever can be computed."""
    head = where.row.head
    ahead = head.children.defer("document").last() if head is not None else None
    return {
        "where": where,
        "row": where.row,
        "plan": where.plan,
        "space": where.space,
        "station": where.station,
        "tab": where.tab,
        "tabs": where.station.tabs,
        "state": where.row.head_id,
        "day": where.day,
        "assumed": where.house.assumed(where.space),
        "system": where.system,
        "reader": where.reader(),
        "selected": selected,
        "words": words,
        "can_undo": head is not None and head.parent_id is not None,
        "undoes": head.label if head is not None and head.parent_id is not None else "",
        "can_redo": ahead is not None,
        "redoes": ahead.label if ahead is not None else "",
    }


def _shown(
    where: Where, report: SpaceReport, selected: str, bad: Mapping[str, Any], *, schedule: bool
) -> dict[str, Any]:
    look, space = where.look, where.space
    on_canopy = look.level == ON_CANOPY
    cut = min(look.cut, space.size.depth_m) if look.cut is not None else None
    tab = where.station.tab(look.tab)
    filled = tab.fill(where, report, bad) if schedule else {}
    reader = where.reader(report)
    drawn = sheet(
        report,
        reader,
        selected,
        cut=cut if schedule else None,
        own_tops=on_canopy,
        air="air" in where.station.layers,
        dots=filled.get("dots", ()),
    )
    return {
        "reader": reader,
        "season": season_strip(where.plan, space, where.cast, where.day) if schedule else None,
        "months": _months(where) if schedule else (),
        "stations": [(s, report.station_verdict(s.key) if s.judges else "") for s in where.house.stations],
        "report": report,
        "margin_groups": grouped(report.margins),
        "to_mend": sum(margin.verdict in ("short", "over") and not margin.information for margin in report.margins) > 1,
        "dangers": dangers(report.margins),
        "calm": [m for m in report.margins if m.verdict == "good" and not m.information],
        "notes": [m for m in report.margins if m.information],
        "sheet": drawn,
        "pins": pin_marks(drawn.front, report, filled.get("pinned", ())),
        "passing": not schedule,
        "on_canopy": on_canopy,
        "at_level": look.level is not None and not on_canopy,
        "cut": cut,
        "level_m": report.lighting.map.height_m if report.lighting.map else 0,
        "title": title_block(where.house, report, reader),
        "tab_template": tab.template,
        "station_cautions": cautions_at(report.here, where.station.key) if schedule else (),
        **filled,
    }


def _months(where: Where) -> tuple[dt.date, ...]:
    """The middle of each month, where light or room follow the season: to look at with no dated plants too."""
    seasonal = any(window.by_month for window in where.space.daylight) or where.room.follows_season
    return tuple(dt.date(where.day.year, month, 15) for month in range(1, 13)) if seasonal else ()


def _unjudged(where: Where, error: EvaluationError, bad: Mapping[str, Any]) -> dict[str, Any]:
    kinds = [kind for station in where.house.stations for kind in station.parts if kind.form is not None]
    return {
        "unjudged": str(error),
        "stations": [(s, "unknown" if s.judges else "") for s in where.house.stations],
        "margin_groups": grouped([unjudged_margin(error)]),
        "calm": [],
        "notes": [],
        "mending": [(kind, rows) for kind in kinds if (rows := rows_of(where, kind.collection, bad))],
    }
