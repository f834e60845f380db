"""The tab that makes circuits carry what hangs on them: things spread over circuits, times staggered."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse, QueryDict

from canopy.design.power.limits import Fullness
from canopy.design.power.spread import spread
from canopy.design.power.stagger import USUAL_H, stagger
from canopy.evaluate import SpaceReport
from canopy.evaluate.power.loads import circuit_load, household_tree
from canopy.evaluate.power.margins import DEFER, circuit_verdict
from canopy.words import clock, percent
from canopy_web.workspace.proposals import show_or_do
from canopy_web.workspace.where import Where, at_space

_HOURS = (0, 1, 2, 3, 4, 6, 8, 12)


def settle_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: how full every circuit of the household is, and what may be moved."""
    tree = household_tree(where.plan)
    loads = [circuit_load(where.plan, circuit, tree) for circuit in where.plan.circuits]
    lit = [space for space in where.plan.spaces if space.fixtures]
    return {
        "full": [
            {
                "name": load.circuit.name,
                "share": percent(Fullness.share_of(load)),
                "verdict": circuit_verdict(load),
                "most": f"{load.peak_va:,.0f} VA",
                "at": clock(load.peak_at_min),
                "holds": f"{load.breaker_w:,.0f} VA",
                "lasting": f"{load.continuous_va:,.0f} VA",
                "for_hours": f"{load.limit_w:,.0f} VA",
            }
            for load in loads
        ],
        "may_shift": lit,
        "hours": _HOURS,
        "usual_h": int(USUAL_H),
        "defer": DEFER,
    }


def _told(circuits: tuple[Fullness, ...]) -> list[dict[str, Any]]:
    return [
        {
            "name": item.circuit.name,
            "was": percent(item.was),
            "was_over": item.was > 1,
            "now": percent(item.comes_to),
            "now_over": item.comes_to > 1,
            "over": f"{item.over_va:,.0f} VA",
        }
        for item in circuits
    ]


@at_space
def spread_out(request: HttpRequest, where: Where) -> HttpResponse:
    """Show what would hang on which circuit; on POST plug it in there."""
    found = spread(where.plan)
    moved = found.moved if found else ()
    return show_or_do(
        request,
        where,
        found.remedy if found else None,
        "power/_settled.html",
        nothing="Nothing can be moved to a circuit that has room for it.",
        act_name="spread",
        legal=bool(found and found.legal),
        circuits=_told(found.circuits) if found else [],
        plugged=[(item.unit.name, _spaces(where, item.unit.room_ids), item.onto.name, item.outlet) for item in moved],
        alone=len(where.plan.circuits) < 2,
    )


def _spaces(where: Where, ids: frozenset[str]) -> str:
    return ", ".join(space.name for space in where.plan.spaces if space.id in ids)


@at_space
def stagger_out(request: HttpRequest, where: Where) -> HttpResponse:
    """Show what would run when; on POST set it so."""
    asked = request.POST if request.method == "POST" else request.GET
    found = stagger(where.plan, _most_h(asked), asked.getlist("stay"))
    return show_or_do(
        request,
        where,
        found.remedy if found else None,
        "power/_settled.html",
        nothing="Nothing can be run at another time, or it would help no circuit.",
        act_name="stagger",
        legal=bool(found and found.legal),
        circuits=_told(found.circuits) if found else [],
        shifted=found.shifted if found else (),
        heat=[item for item in found.heat if abs(item.after_w - item.before_w) >= 1] if found else [],
    )


def _most_h(asked: QueryDict) -> float:
    text = asked.get("most_h", "")
    return float(text) if text in {str(hours) for hours in _HOURS} else USUAL_H
