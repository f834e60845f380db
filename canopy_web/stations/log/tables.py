"""A table of readings taken in: laid down, its columns settled beside a preview, then piece by piece with a bar."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST
from django_htmx.http import reswap, retarget

from canopy.errors import PlanError, QuantityError
from canopy.logs.measured import measured
from canopy.logs.tables import FORMATS, Row, Shape
from canopy.plan.site import known_zones
from canopy.words import capital, counted
from canopy_web.logbook import imports
from canopy_web.logbook.models import ImportJob
from canopy_web.logbook.shown import age_text
from canopy_web.stations.log.forms import ColumnForm
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import page
from canopy_web.workspace.where import Where, at_space

# So long a request takes readings in before the page is told how far it has come [s].
_SLICE_S = 0.8


@require_POST
@at_space
def lay_down(request: HttpRequest, where: Where) -> HttpResponse:
    """Take a file and look at it."""
    file = request.FILES.get("table")
    if file is None:
        return _refused(request, where, "Choose a file first.")
    try:
        job, _ = imports.begin(where.row, where.space.id, file, request.user, str(where.zone))
    except QuantityError as error:
        return _refused(request, where, f"{capital(str(error))}.")
    return _settling(request, where, job)


@require_POST
@at_space
def piece(request: HttpRequest, where: Where) -> HttpResponse:
    """Take a piece of a large table; with the last one it is looked at. Says how much is there."""
    key, name = request.POST.get("upload", ""), request.POST.get("name", "table.csv")
    file, zone = request.FILES.get("piece"), str(where.zone)
    at, size = request.POST.get("at", ""), request.POST.get("size", "")
    if file is None or not at.isdigit() or not size.isdigit():
        return HttpResponse("a piece needs its place and the whole's size", status=400)
    try:
        there = imports.add_piece(where.row, key, int(at), file, request.user)
        if there < int(size):
            return HttpResponse(str(there), content_type="text/plain")
        job, _ = imports.begin_pieces(where.row, where.space.id, key, name, request.user, zone)
    except QuantityError as error:
        return HttpResponse(f"{capital(str(error))}.", status=400, content_type="text/plain; charset=utf-8")
    return _settling(request, where, job)


def _refused(request: HttpRequest, where: Where, words: str) -> HttpResponse:
    """The page as it was, with why at the field."""
    return reswap(retarget(page(request, where, bad={"table": words}), "#workspace"), "outerHTML")


def _job(where: Where, pk: int) -> ImportJob:
    found: ImportJob = get_object_or_404(ImportJob, plan=where.row, space_id=where.space.id, pk=pk)
    return found


@at_space
def show(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Show how a table would be read; on POST with what was changed."""
    return _settling(request, where, _job(where, pk))


def _settling(request: HttpRequest, where: Where, job: ImportJob, words: str = "") -> HttpResponse:
    looked = imports.looked_at(job)
    changed = request.method == "POST" and "time" in request.POST
    shape, wrong = job.shape, words
    if changed:
        shape = _typed(request, job)
    try:
        rows = imports.preview(job, shape)
    except PlanError as error:
        shape, wrong = job.shape, capital(error.problems[0].message)
        rows = imports.preview(job, shape)
    taken = {column["place"]: column for column in shape["columns"]}
    columns = [
        {
            "place": number,
            "head": head,
            "cells": [row[number] if number < len(row) else "" for row in looked.rows[:3]],
            "form": ColumnForm(initial=taken.get(number, {"name": head}), prefix=f"c{number}", auto_id=f"c{number}-%s"),
            "is_time": number in (shape["time"], shape["clock"]),
        }
        for number, head in enumerate(looked.heads)
    ]
    shown = {
        "job": job,
        "columns": columns,
        "shape": shape,
        "heads": list(enumerate(looked.heads)),
        "formats": list(FORMATS.items()),
        "zones": ["UTC", *sorted(name for name in known_zones() if "/" in name and not name.startswith("Etc/"))],
        "unsure": looked.unsure,
        "preview": [_shown(row, shape["columns"]) for row in rows],
        "names": [column["name"] for column in shape["columns"]],
        "wrong": wrong,
    }
    return render(request, "log/_table.html", {**place(where, where.reader()), **shown})


def _shown(row: Row, columns: list[dict[str, Any]]) -> dict[str, Any]:
    """A row as it would be taken: its time in UTC, its values in the units that are kept."""
    values = dict(row.values)
    return {
        "line": row.line,
        "at": f"{dt.datetime.fromtimestamp(row.at, dt.UTC):%Y-%m-%d %H:%M:%S}" if row.at else "",
        "values": [
            f"{values[number]:.{measured(column['quantity']).decimals}f} {measured(column['quantity']).unit}".strip()
            if number in values
            else ""
            for number, column in enumerate(columns)
        ],
        "wrong": row.wrong,
    }


def gaps_told(job: ImportJob) -> list[str]:
    """Say which sensors paused, how often and how long at most."""
    return [
        f"{name}: {counted(count, 'gap')}, the longest {age_text(longest).removesuffix(' ago')}"
        for name, count, longest in job.gaps
    ]


def _typed(request: HttpRequest, job: ImportJob) -> dict[str, Any]:
    """The shape as the form has it."""
    old, data = Shape.model_validate(job.shape), request.POST
    columns = []
    for number in range(60):
        quantity = data.get(f"c{number}-quantity", "")
        if quantity:
            name = data.get(f"c{number}-name", "").strip() or f"column {number + 1}"
            unit = data.get(f"c{number}-unit", "")
            columns.append({"place": number, "quantity": quantity, "unit": unit, "name": name[:80]})
    return {
        **old.model_dump(mode="json"),
        "time": int(data["time"]) if data["time"].isdigit() else 0,
        "clock": int(data["clock"]) if data.get("clock", "").isdigit() else None,
        "written": data.get("written", old.written),
        "zone": data.get("zone", old.zone),
        "comma": data.get("comma") == "yes",
        "columns": columns,
    }


@require_POST
@at_space
def start(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Take the table in as it was settled."""
    job = _job(where, pk)
    shape = _typed(request, job)
    if not shape["columns"]:
        return _settling(request, where, job, "Say of at least one column what it measures.")
    try:
        imports.start(job, shape)
    except PlanError as error:
        return _settling(request, where, job, capital(error.problems[0].message))
    return _progress(request, where, job)


def _progress(request: HttpRequest, where: Where, job: ImportJob) -> HttpResponse:
    share = job.offset / job.size if job.size else 1.0
    return render(
        request,
        "log/_progress.html",
        {**place(where, where.reader()), "job": job, "gaps": gaps_told(job), "share": f"{100 * share:.0f}"},
    )


@require_POST
@at_space
def go(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Take in some more, and say how far it has come."""
    return _progress(request, where, imports.go_on(_job(where, pk), _SLICE_S))


@require_POST
@at_space
def stop(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Take no more in; what is in stays."""
    imports.stop(_job(where, pk))
    return page(request, where)
