"""The printed pack of a space from drawings to cautions, labels with codes, and drawings out."""

from __future__ import annotations

import datetime as dt
from typing import Any, get_args

import segno
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.safestring import mark_safe
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from canopy.care import care_of, due
from canopy.care.watering import water_timer
from canopy.errors import EvaluationError, QuantityError
from canopy.evaluate.cautions import cautions_at
from canopy.evaluate.grouping import grouped
from canopy.evaluate.power.timers import timer_sheet
from canopy.kit import kit_of
from canopy.kit.build import build_of
from canopy.kit.drawn import drawing
from canopy.kit.dry import emptied
from canopy.kit.holes import holes_of
from canopy.kit.line import GROUPS
from canopy.kit.template import ruler, template
from canopy.plan.shell import Face
from canopy_web.logbook.models import Tick
from canopy_web.logbook.querysets import care_marks
from canopy_web.stations.kit.holes import holes_tab
from canopy_web.workspace.proposals import place
from canopy_web.workspace.where import Where, at_space

_STATIONS = ("space", "crops", "light", "climate", "power")
_AHEAD_D = 28
_PAPERS = ("A4", "letter")


def _code(request: HttpRequest, path: str) -> str:
    """A QR code that opens a page of this server."""
    code = segno.make(request.build_absolute_uri(path), error="m", micro=False)
    return mark_safe(code.svg_inline(scale=3, border=2, omitsize=True))


@require_GET
@at_space
def show(request: HttpRequest, where: Where) -> HttpResponse:
    """Show the pack as one page that prints page by page."""
    try:
        report = where.followed
    except EvaluationError as error:
        raise Http404(str(error)) from error
    kit = kit_of([report])
    ticks = {t.key: t for t in Tick.objects.filter(plan=where.row, on=True)}
    have = {key for key, t in ticks.items() if t.what == "have"} | {line.key for line in kit.lines if line.to_get <= 0}
    day, reader = where.day, where.reader(report)
    marks = care_marks(where.row, [where.space.id])
    found = due(care_of([report], day, _AHEAD_D), marks, day, day + dt.timedelta(days=_AHEAD_D - 1))
    weeks: dict[int, list[Any]] = {}
    once: set[tuple[int, str]] = set()
    for item in found:
        week = (item.day - day).days // 7
        if (week, item.job.key) not in once:
            once.add((week, item.job.key))
            weeks.setdefault(week, []).append(item)
    cautions = {c.id: c for station in _STATIONS for c in cautions_at(report.here, station)}
    steps = build_of(report, emptied(where.plan, where.space, day))
    cautions |= {c.id: c for step in steps for c in step.cautions}
    shown = {
        "report": report,
        "views": [mark_safe(drawing(report.here, view, units=where.system)) for view in ("front", "side", "plan")],
        "groups": grouped(report.margins),
        "kit_lines": [
            (GROUPS[line.group], line, line.size.say(reader) if line.size else "", line.key in have)
            for line in kit.lines
        ],
        "to_buy": kit.cost(have),
        "money": where.plan.site.currency,
        "steps": [(step, f"{where.space.id}.{step.key}" in ticks) for step in steps],
        "places": timer_sheet(where.plan, where.space, day),
        "water": water_timer(report),
        "weeks": [(day + dt.timedelta(days=7 * week), items) for week, items in sorted(weeks.items())],
        "cautions": list(cautions.values()),
        "templates": _templates(where),
        "paper": _paper(request, where),
        "ruler": mark_safe(ruler()),
        "code": _code(request, reverse("kit:show", args=[where.row.pk, where.space.id])),
        "state": where.row.head_id,
        "made": where.row.head.created if where.row.head else None,
        **holes_tab(where, report, {}),
    }
    return render(request, "kit/pack.html", {**place(where, reader), "plan": where.plan, **shown})


def _templates(where: Where) -> list[str]:
    """Drilling templates of all holes that fit on paper; a tent brings its ports."""
    if where.space.kind == "tent":
        return []
    drawn = [
        template(where.space, hole, number)
        for holes in holes_of(where.space).values()
        for number, hole in enumerate(holes, 1)
    ]
    return [mark_safe(svg) for svg in drawn if svg is not None]


@require_GET
@at_space
def templates(request: HttpRequest, where: Where) -> HttpResponse:
    """Show drilling templates, to be printed at true size."""
    shown = {"templates": _templates(where), "ruler": mark_safe(ruler()), "paper": _paper(request, where)}
    return render(request, "kit/template.html", {**place(where, where.reader()), "plan": where.plan, **shown})


@require_GET
@at_space
def paper(request: HttpRequest, where: Where) -> HttpResponse:
    """Give what stands in the margins of each printed page: the space, the plan's state and day, the page's number."""
    text = f"{where.plan.name} · {where.space.name} · {_state(where)}"
    quoted = "".join(c if c.isalnum() or c in " .,:·-()" else f"\\{ord(c):06x}" for c in text)
    rules = (
        f"@media print {{ @page {{ size: {_paper(request, where)}; margin: 12mm 12mm 15mm; "
        f'@bottom-left {{ content: "{quoted}"; font: 7.5pt sans-serif; }} '
        '@bottom-right { content: counter(page) " / " counter(pages); font: 7.5pt sans-serif; } } }'
    )
    return HttpResponse(rules, content_type="text/css; charset=utf-8", headers={"Cache-Control": "no-store"})


def _paper(request: HttpRequest, where: Where) -> str:
    """The paper that is printed on: as asked for, else as usual where the person's units are."""
    asked = request.GET.get("paper", "")
    return asked if asked in _PAPERS else "letter" if where.system == "us" else "A4"


def _state(where: Where) -> str:
    head = where.row.head
    made = f" of {head.created:%Y-%m-%d %H:%M}" if head is not None else ""
    return f"state {where.row.head_id}{made} · for {where.day:%Y-%m-%d}"


@require_GET
@at_space
def labels(request: HttpRequest, where: Where) -> HttpResponse:
    """Show a sheet of labels: the space, its plants, its devices; scanned, each opens its page."""

    def page_of(station: str, anchor: str = "") -> str:
        return reverse(f"{station}:show", args=[where.row.pk, where.space.id]) + anchor

    made = [(where.space.name, "the space", page_of("light"))]
    made += [
        (plant.crop.name, f"plant {plant.number}", page_of("crops", f"#row-{plant.id}"))
        for plant in where.grown.values()
    ]
    made += [(item.spec.name, "device", page_of("power", f"#row-{item.id}")) for item in where.space.devices]
    rows = [(name, what, _code(request, path)) for name, what, path in made]
    return render(request, "kit/labels.html", {**place(where, where.reader()), "plan": where.plan, "rows": rows})


@require_GET
@at_space
def view_svg(request: HttpRequest, where: Where, view: str) -> HttpResponse:
    """Give a view in true measure: one unit is a millimetre."""
    wanted = f"face:{view}" if view in get_args(Face) else view
    try:
        here = where.report.here
        text = drawing(here, wanted, units=where.system)
    except (QuantityError, EvaluationError) as error:
        raise Http404(str(error)) from error
    response = HttpResponse(text, content_type="image/svg+xml; charset=utf-8")
    name = slugify(f"{where.space.name} {view}") or "view"
    response["Content-Disposition"] = f'attachment; filename="{name}.svg"'
    return response
