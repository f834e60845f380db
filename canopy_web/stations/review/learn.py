"""The tab of what the log teaches: factors that were found, those the plan follows, tests that are walked through."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.design.change import Remedy
from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.logs.measured import MEASURED
from canopy.margin import Amount, sentence
from canopy.plan.changes import Change, Remove
from canopy.plan.correction import Correction
from canopy.plan.learnt import lapsed
from canopy.quantities import Reader
from canopy.review.finding import Finding
from canopy.review.quantity import told_of
from canopy.review.sound import Doubt
from canopy.season.standing import leaf_group
from canopy_web.logbook.learnable import newest_reading, sensors_around
from canopy_web.stations.review.following import BASIS, correcting, figure, shown_finding
from canopy_web.stations.review.guided import blank_test, test_shown
from canopy_web.stations.review.taught import Taught, taught
from canopy_web.workspace.proposals import place, show_or_do
from canopy_web.workspace.reply import change
from canopy_web.workspace.where import Where, at_space

_GRADES = {"known": "known", "rough": "rough", "unknown": "not identifiable"}
# What is told of in the order in which it matters.
_ORDER = ("airflow", "leak", "leaves", "leaf-area", "lamp-light", "lamp-heat", "walls", "device")


def learn_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: what the plan follows already, and how a test stands; what the log teaches comes after."""
    reader = where.reader(report)
    return {
        "learnt_rows": [_followed(where, report, item, reader) for item in where.space.learnt],
        "has_log": bool(newest_reading(sensors_around(where.row, where.plan, where.space))),
        **test_shown(where),
        "test_form": bad.get("test") or blank_test(where),
        "able": any(way.fans for way in where.space.airways),
    }


def _followed(where: Where, report: SpaceReport, item: Correction, reader: Reader) -> dict[str, Any]:
    gone = item.target is not None and item.target not in _ids(where)
    record = {"item": item, "basis": BASIS[item.basis], "gone": gone}
    if gone:
        return {**record, "name": item.subject, "lapsed": True}
    told = told_of(where.plan, where.space, report, item.subject, item.target)
    return {
        **record,
        "name": told.name,
        "before": figure(told.value, told.unit, reader),
        "after": figure(told.value * item.factor, told.unit, reader),
        "off": "± " + figure(told.value * item.standard_error, told.unit, reader),
        "lapsed": lapsed(where.space, item),
    }


def _ids(where: Where) -> set[str]:
    groups = {leaf_group(plant) for plant in where.space.plants}
    return {way.id for way in where.space.airways} | {device.id for device in where.space.devices} | groups


@require_GET
@at_space
def found(request: HttpRequest, where: Where) -> HttpResponse:
    """Show what the log teaches."""
    shown: dict[str, Any] = dict(place(where))
    try:
        known = taught(where)
    except EvaluationError as error:
        return render(request, "review/_found.html", {**shown, "trouble": str(error)})
    reader = where.reader(where.report)
    if known is not None:
        rows = [_row(where, item, reader) for item in _sorted(known.findings)]
        shown |= {
            "rows": [row for row in rows if row["found"]],
            "unknown": [row for row in rows if not row["found"]],
            "doubts": [_doubt(item) for item in known.doubts],
            "left_out": _left_out(where, known),
            "days": known.fitted.days,
            "offsets": _offsets(known, reader),
        }
    return render(request, "review/_found.html", shown)


def _sorted(findings: tuple[Finding, ...]) -> list[Finding]:
    return sorted(findings, key=lambda item: (_ORDER.index(item.subject), item.basis))


def _row(where: Where, item: Finding, reader: Reader) -> dict[str, Any]:
    row = {
        "finding": item,
        "key": f"{item.subject}:{item.target or ''}:{item.basis}",
        "grade": _GRADES[item.grade],
        "basis": BASIS[item.basis],
        **shown_finding(where, item, reader),
    }
    if row["found"]:
        taken = next((one for one in where.space.learnt if one.about == (item.subject, item.target or "")), None)
        row |= {
            "share": f"{100 * (item.factor or 1) - 100:+.0f} %".replace("-", "−"),
            "same": abs((item.factor or 1) - 1) < max(0.02, 0.5 * (item.standard_error or 0)) and taken is None,
            "taken": taken is not None and abs(taken.factor - (item.factor or 0)) < 1e-3,
        }
    return row


def _doubt(item: Doubt) -> dict[str, Any]:
    """A doubt with its probes by their names, as people call what they measure."""
    names = [MEASURED[name].name if name in MEASURED else name for name in item.probes]
    return {"names": ", ".join(names), "words": item.words, "serious": item.what not in ("stuck", "leaps")}


def _left_out(where: Where, known: Taught) -> list[str]:
    """Stretches in which readings and plugs contradict each other."""
    found = []
    for begin, end in known.fitted.left_out:
        first, last = (dt.datetime.fromtimestamp(at, where.zone) for at in (begin, end))
        found.append(f"{first.day} {first:%b %H:%M} to {last:%H:%M}")
    return found


def _offsets(known: Taught, reader: Reader) -> list[tuple[str, str]]:
    """What probes seem to be off by, where it is more than their sheets say."""
    names = {
        "air_c": ("temperature", "temperature rise", 0.3),
        "rh_pct": ("humidity", "%", 3.0),
        "co2_ppm": ("CO₂", "ppm", 40.0),
    }
    out = []
    for key, value in known.fitted.offsets.items():
        if key in names and abs(value) >= names[key][2]:
            name, unit, _ = names[key]
            text = Amount(value=abs(value), unit=unit, decimals=1 if key == "air_c" else 0).text(reader)
            out.append((name, f"{text} too {'high' if value > 0 else 'low'}"))
    return out


@at_space
def take(request: HttpRequest, where: Where) -> HttpResponse:
    """Show what following a finding would move; on POST follow it."""
    asked = (request.POST if request.method == "POST" else request.GET).get("key", "")
    subject, _, rest = asked.partition(":")
    target, _, basis = rest.partition(":")
    known = taught(where)
    item = known.finding(subject, target or None, basis) if known else None  # type: ignore[arg-type]
    proposal = None
    if item is not None and item.grade != "unknown":
        proposal = Remedy(label=sentence(f"Follow it: {_name(where, item)}"), changes=correcting(where, item))
    over = "The log does not say that any more."
    return show_or_do(
        request,
        where,
        proposal,
        "review/_take.html",
        nothing=over,
        over=over,
        how="review-take",
        key=asked,
        hint="Every figure follows from then on; it can be set aside again at any time.",
    )


def _name(where: Where, item: Finding) -> str:
    return told_of(where.plan, where.space, where.report, item.subject, item.target).name.lower()


@require_POST
@at_space
def set_aside(request: HttpRequest, where: Where, part_id: str) -> HttpResponse:
    """Set a correction aside, or let it count again."""
    item = next((one for one in where.space.learnt if one.id == part_id), None)
    if item is None:
        raise Http404
    label = "Set a correction aside" if item.applied else "Followed a correction again"
    return change(
        request, where, label, Change(collection="learnt", part_id=part_id, values={"applied": not item.applied})
    )


@require_POST
@at_space
def forget(request: HttpRequest, where: Where, part_id: str) -> HttpResponse:
    """Take a correction out of the plan."""
    return change(request, where, "Took a correction out", Remove(collection="learnt", part_ids=(part_id,)))
