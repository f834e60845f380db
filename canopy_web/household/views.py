"""The household: its spaces on one floor line, new spaces, import and export."""

from __future__ import annotations

import datetime as dt
import time
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from canopy.care import care_of, due
from canopy.design.start.answers import Answers
from canopy.errors import EvaluationError, PlanError
from canopy.evaluate import SpaceReport
from canopy.evaluate.grouping import dangers, grouped
from canopy.evaluate.kept import is_lit, kept_report, report_of
from canopy.evaluate.power.loads import CircuitLoad, Running, circuit_load, household_tree
from canopy.evaluate.power.loads import running as running_of
from canopy.evaluate.power.margins import circuit_margins, circuit_verdict
from canopy.evaluate.unjudged import unjudged_margin
from canopy.library import crops, rule_sets
from canopy.logs.facts import CareMark
from canopy.logs.files import dumps_with_facts
from canopy.margin import Margin
from canopy.plan import Plan, Site, Space, Tariff
from canopy.power import Tree, minutes_of
from canopy.season import cast_of, day_to_show, standing_of
from canopy_web.accounts.context import preference_of, today, zone_of
from canopy_web.drawing.floor import floor_line
from canopy_web.household import forms
from canopy_web.library.querysets import own_crops
from canopy_web.logbook.actions import import_file as keep_file
from canopy_web.logbook.querysets import care_marks, care_marks_of, facts_of
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

# What became of work that was due.
Marks = Sequence[CareMark]


def own_plan(request: HttpRequest, pk: int) -> GrowPlan:
    """Find a person's own plan, or answer 404."""
    row: GrowPlan = get_object_or_404(GrowPlan.objects.for_owner(request.user), pk=pk)
    return row


@require_GET
def home(request: HttpRequest) -> HttpResponse:
    """Show a person's households; a new person goes straight to the first space."""
    rows = list(GrowPlan.objects.for_owner(request.user))
    if not rows:
        return redirect("household:first-space")
    return _home(request, rows, forms.ImportForm())


def _home(request: HttpRequest, rows: list[GrowPlan], form: forms.ImportForm, **more: Any) -> HttpResponse:
    marks, until = care_marks_of(rows), time.monotonic() + _AT_ONCE_S
    households = [_household(request, row, marks.get(row.pk, ()), until) for row in rows]
    return render(request, "household/home.html", {"households": households, "import_form": form, **more})


# Spaces whose climate alone is missing are judged with the page for so long in all [s]; the rest follow, each as it
# comes into sight.
_AT_ONCE_S, _AT_ONCE = 0.15, 12


def _household(request: HttpRequest, row: GrowPlan, marks: Marks, until: float) -> dict[str, Any]:
    plan, system = to_plan(row), preference_of(request).units
    day = day_to_show(plan, today(request, plan))
    tree = household_tree(plan)
    loads = {circuit.id: circuit_load(plan, circuit, tree) for circuit in plan.circuits}
    running = [running_of(plan, space) for space in plan.spaces]
    cast = cast_of(plan)
    cards, at_once = [], len(plan.spaces) <= _AT_ONCE
    for space in plan.spaces:
        report = kept_report(plan, space, day=day, loads=loads)
        # One whose light is to be found anew waits: it would push out what the space one comes from needs next.
        if report is None and at_once and time.monotonic() < until and is_lit(plan, space, day=day):
            cards.append(_judged(row, plan, space, day, marks, loads))
        else:
            cards.append(_card(row, space, report, marks))
    return {
        "row": row,
        "plan": plan,
        "day": day,
        "floor": floor_line([standing_of(space, day, cast) for space in plan.spaces], system),
        "spaces": cards,
        "dangers": [*overloaded(row, plan, loads, tree), *(harm for card in cards for harm in card["dangers"])],
        "circuits": [(load, circuit_verdict(load)) for load in loads.values()],
        "cost": sum(item.cost_per_month for item in running),
        "power": sum(item.power_w for item in running),
        "now": _drawn_now(request, plan, running),
        "can_undo": row.head is not None and row.head.parent_id is not None,
        "undoes": row.head.label if row.head is not None else "",
    }


def _drawn_now(request: HttpRequest, plan: Plan, running: list[Running]) -> tuple[str, float]:
    """The hour it is there, and what all spaces draw in it by their clocks, on the mean [W]."""
    hour = timezone.localtime(timezone=zone_of(request, plan)).hour
    watts = sum(float(minutes_of(load)[60 * hour : 60 * hour + 60].mean()) for run in running for load in run.loads)
    return f"{hour:02d}:00", watts


Harm = tuple[Space, Margin, str]


def _judged(
    row: GrowPlan, plan: Plan, space: Space, day: dt.date, marks: Marks, loads: Mapping[str, CircuitLoad] | None = None
) -> dict[str, Any]:
    """A space's card, its report computed where it is not kept."""
    try:
        return _card(row, space, report_of(plan, space, day=day, loads=loads, follow=True), marks)
    except EvaluationError as error:
        margin = unjudged_margin(error)
        return {"space": space, "judged": True, "verdict": "unknown", "groups": grouped([margin]), "dangers": []}


def _card(row: GrowPlan, space: Space, report: SpaceReport | None, marks: Marks) -> dict[str, Any]:
    if report is None:
        return {"space": space, "judged": False, "dangers": []}
    return {
        "space": space,
        "judged": True,
        "verdict": report.verdict,
        "groups": grouped(report.margins)[:3],
        "care": _due_today(row, report, marks),
        "dangers": [
            (space, margin, _at(row, space.id, margin.station))
            for margin in dangers(report.margins)
            if margin.id != "power.circuit"
        ],
    }


_TOLD = 3


def _due_today(row: GrowPlan, report: SpaceReport, marks: Marks) -> dict[str, Any] | None:
    """What is due in a space today, in short; nothing until its climate was followed: what is drawn hangs on that."""
    if report.climate is None:
        return None
    day, space = report.here.day, report.space
    found = due(care_of([report], day, _AHEAD_D), marks, day, day)
    return {
        "url": f"{_at(row, space.id, 'day')}?tab=care",
        "titles": [item.job.title for item in found[:_TOLD]],
        "more": max(0, len(found) - _TOLD),
    }


# Work that does not float is asked for over some days; what comes later in the month is not laid out here.
_AHEAD_D = 30


def overloaded(row: GrowPlan, plan: Plan, loads: Mapping[str, CircuitLoad], tree: Tree) -> Iterator[Harm]:
    """Circuits that carry too much, each said once whatever hangs on it."""
    for circuit_id, load in loads.items():
        drawing = {hung.space_id for hung in tree.under(circuit_id)}
        on = next((item for item in plan.spaces if item.id in drawing or item.circuit_id == circuit_id), None)
        if on is not None and circuit_verdict(load) == "over":
            yield on, circuit_margins(on, running_of(plan, on), [load])[0], _at(row, on.id, "power")


@require_GET
def card(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Judge one space and give its card for the household page; what could do harm goes to the page's top."""
    row = own_plan(request, plan_pk)
    plan = to_plan(row)
    space = plan.space(space_id)
    if space is None:
        raise Http404
    item = _judged(row, plan, space, day_to_show(plan, today(request, plan)), care_marks(row, [space.id]))
    return render(request, "household/_card.html", {"row": row, "item": item, "late": True})


def _at(row: GrowPlan, space_id: str, station: str) -> str:
    return reverse(f"{station}:show", args=[row.pk, space_id])


def first_space(request: HttpRequest) -> HttpResponse:
    """The first minute: mains, space, crop and lamp in one go."""
    start = forms.StartForm({"rule_set_id": "eu-16"}, request.POST or None, prefix="start")
    return _new_space(request, None, start)


def new_space(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Add a space to a household."""
    return _new_space(request, own_plan(request, plan_pk), None)


def _new_space(request: HttpRequest, row: GrowPlan | None, start: forms.StartForm | None) -> HttpResponse:
    system, own = preference_of(request).units, own_crops(request.user)
    form = forms.NewSpaceForm({}, request.POST or None, system=system, prefix="new", known={**crops(), **own})
    if request.method == "POST" and form.is_valid() and (start is None or start.is_valid()):
        try:
            # A space that is refused leaves no empty household behind.
            with transaction.atomic():
                household = row or _start(request, start)
                answers = _answers(to_plan(household), form.cleaned_data)
                wanted = (answers.crop_id, *(crop_id for crop_id, _ in answers.more))
                mine = [own[key] for key in dict.fromkeys(wanted) if key in own]
                space_id = actions.start_space(household, answers, mine)
            first = "light" if answers.crop_id else "space"
            return redirect(reverse(f"{first}:show", args=[household.pk, space_id]))
        except PlanError as error:
            form.take(error)
    return render(request, "household/new_space.html", {"form": form, "start": start, "row": row})


def _start(request: HttpRequest, start: forms.StartForm | None) -> GrowPlan:
    rules = rule_sets()[start.cleaned_data["rule_set_id"] if start else "eu-16"]
    return actions.start_household(
        request.user,
        "Home",
        rules.id,
        rules.mains_v,
        rules.breaker_a,
        Tariff(price_per_kwh=rules.usual_price_per_kwh),
        Site(currency=rules.currency),
    )


def _answers(plan: Plan, got: dict[str, Any]) -> Answers:
    return Answers(
        space_id=slugify(got["name"])[:40].strip("-_") or "space",
        name=got["name"],
        kind=got["kind"],
        width_m=got["width_m"],
        depth_m=got["depth_m"],
        height_m=got["height_m"],
        crop_id="" if got["crop_id"] == forms.NOTHING else got["crop_id"],
        count=got["count"] or 0,
        more=tuple((got[f"crop_id_{k}"], got[f"count_{k}"] or 0) for k in (2, 3) if got[f"crop_id_{k}"]),
        lamp_class_id=got["lamp_class_id"] or ("none" if got["crop_id"] == forms.NOTHING else ""),
        lamp_count=got["lamp_count"] or 1,
        levels=(got["levels"] or 1) if got["kind"] in ("shelf", "cabinet") else 1,
        container_id=got["container_id"] or "",
        raised_m=got["raised_m"] or 0.0,
        circuit_id=plan.circuits[0].id if plan.circuits else None,
        room_id=plan.rooms[0].id,
    )


@require_GET
def export(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Give the plan file, with what was logged beside the plan."""
    row = own_plan(request, plan_pk)
    plan = to_plan(row)
    plan = plan if plan.key else plan.model_copy(update={"key": f"household-{row.pk}"})
    text = dumps_with_facts(plan, facts_of(row, [space.id for space in plan.spaces]))
    response = HttpResponse(text, content_type="application/json; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{slugify(row.name) or "plan"}.json"'
    return response


@require_POST
def import_file(request: HttpRequest) -> HttpResponse:
    """Take in a plan file as a new household."""
    form = forms.ImportForm(request.POST, request.FILES)
    problems: list[str] = []
    if form.is_valid():
        try:
            keep_file(request.user, form.cleaned_data["file"].read())
            return redirect("household:home")
        except PlanError as error:
            problems = [str(problem) for problem in error.problems]
    return _home(request, list(GrowPlan.objects.for_owner(request.user)), form, problems=problems)


@require_POST
def undo(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Take the last change of a household back."""
    actions.undo(own_plan(request, plan_pk))
    return redirect("household:home")
