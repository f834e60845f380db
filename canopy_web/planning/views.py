"""The household: its spaces on one floor line, new spaces, import and export, circuits and tariff."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from canopy.design.start.answers import Answers
from canopy.errors import PlanError
from canopy.evaluate.power.loads import circuit_load
from canopy.library import crops, rule_sets
from canopy.plan import Plan, Tariff, dumps
from canopy.plan.edit import fresh_id
from canopy_web.accounts.context import preference_of
from canopy_web.drawing.floor import floor_line
from canopy_web.library.querysets import own_crops
from canopy_web.planning import actions, forms
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan
from canopy_web.workspace.forms import PartForm
from canopy_web.workspace.page import day_of
from canopy_web.workspace.reports import report_of

_TARIFFS = {"na-15": ("USD", 0.17), "na-20": ("USD", 0.17), "uk-13": ("GBP", 0.25), "au-10": ("AUD", 0.32)}


def _own(request: HttpRequest, pk: int) -> GrowPlan:
    row: GrowPlan = get_object_or_404(GrowPlan.objects.for_owner(request.user), pk=pk)
    return row


@require_GET
def home(request: HttpRequest) -> HttpResponse:
    """Show a person's households; a new person goes straight to the first space."""
    rows = list(GrowPlan.objects.for_owner(request.user))
    if not rows:
        return redirect("planning:first-space")
    return render(
        request,
        "planning/home.html",
        {"households": [_household(request, row) for row in rows], "import_form": forms.ImportForm()},
    )


def _household(request: HttpRequest, row: GrowPlan) -> dict[str, Any]:
    plan, system = to_plan(row), preference_of(request).units
    day = day_of(request, row, plan)
    reports = [report_of(plan, space, day=day) for space in plan.spaces]
    return {
        "row": row,
        "plan": plan,
        "day": day,
        "floor": floor_line(reports, system),
        "spaces": [
            {"report": report, "first": [m for m in report.margins if not m.information and m.verdict != "good"][:3]}
            for report in reports
        ],
        "circuits": [circuit_load(plan, circuit) for circuit in plan.circuits],
        "cost": sum(report.running.cost_per_month for report in reports),
        "power": sum(report.running.power_w for report in reports),
        "can_undo": row.head is not None and row.head.parent_id is not None,
    }


def first_space(request: HttpRequest) -> HttpResponse:
    """The first minute: mains, space, crop and lamp in one go."""
    start = forms.StartForm({"rule_set_id": "eu-16"}, request.POST or None, prefix="start")
    return _new_space(request, None, start)


def new_space(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Add a space to a household."""
    return _new_space(request, _own(request, plan_pk), None)


def _new_space(request: HttpRequest, row: GrowPlan | None, start: forms.StartForm | None) -> HttpResponse:
    system, own = preference_of(request).units, own_crops(request.user)
    form = forms.NewSpaceForm({}, request.POST or None, system=system, prefix="new", known={**crops(), **own})
    if request.method == "POST" and form.is_valid() and (start is None or start.is_valid()):
        try:
            household = row or _start(request, start)
            plan = to_plan(household)
            answers = _answers(plan, form.cleaned_data)
            wanted = (answers.crop_id, *(crop_id for crop_id, _ in answers.more))
            actions.start_space(household, answers, [own[key] for key in dict.fromkeys(wanted) if key in own])
            return redirect("workspace:station", plan_pk=household.pk, space_id=answers.space_id, station="light")
        except PlanError as error:
            form.take(error)
    return render(request, "planning/new_space.html", {"form": form, "start": start, "row": row})


def _start(request: HttpRequest, start: forms.StartForm | None) -> GrowPlan:
    rules = rule_sets()[start.cleaned_data["rule_set_id"] if start else "eu-16"]
    currency, price = _TARIFFS.get(rules.id, ("EUR", 0.30))
    return actions.start_household(
        request.user, "Home", rules.id, rules.mains_v, rules.breaker_a, Tariff(currency=currency, price_per_kwh=price)
    )


def _answers(plan: Plan, got: dict[str, Any]) -> Answers:
    taken = [space.id for space in plan.spaces]
    key = slugify(got["name"])[:40] or "space"
    return Answers(
        space_id=key if key not in taken else fresh_id(key, taken),
        name=got["name"],
        kind=got["kind"],
        width_m=got["width_m"],
        depth_m=got["depth_m"],
        height_m=got["height_m"],
        crop_id=got["crop_id"],
        count=got["count"] or 0,
        more=tuple((got[f"crop_id_{k}"], got[f"count_{k}"] or 0) for k in (2, 3) if got[f"crop_id_{k}"]),
        lamp_class_id=got["lamp_class_id"],
        lamp_count=got["lamp_count"] or 1,
        circuit_id=plan.circuits[0].id if plan.circuits else None,
    )


@require_GET
def export(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Give the plan file."""
    row = _own(request, plan_pk)
    response = HttpResponse(dumps(to_plan(row)), content_type="application/json; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{slugify(row.name) or "plan"}.json"'
    return response


@require_POST
def import_file(request: HttpRequest) -> HttpResponse:
    """Take in a plan file as a new household."""
    form = forms.ImportForm(request.POST, request.FILES)
    problems: list[str] = []
    if form.is_valid():
        try:
            actions.import_plan(request.user, form.cleaned_data["file"].read())
            return redirect("planning:home")
        except PlanError as error:
            problems = [str(problem) for problem in error.problems]
    rows = GrowPlan.objects.for_owner(request.user)
    return render(
        request,
        "planning/home.html",
        {"households": [_household(request, row) for row in rows], "import_form": form, "problems": problems},
    )


@require_POST
def undo(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Take the last change of a household back."""
    actions.undo(_own(request, plan_pk))
    return redirect("planning:home")


@require_POST
def delete(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Remove a whole household for good, once its name was typed."""
    row = _own(request, plan_pk)
    if request.POST.get("name", "").strip() != row.name:
        return _settings(request, row, {}, words=f"To remove it, type its name: {row.name}")
    actions.delete_plan(row)
    return redirect("planning:home")


def household(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Show and change name, tariff, circuits and what else hangs on them."""
    row = _own(request, plan_pk)
    if request.method != "POST":
        return _settings(request, row, {})
    plan = to_plan(row)
    data = plan.model_dump(mode="json")
    what, number, load = (request.POST.get(key, "") for key in ("what", "circuit", "load"))
    if what == "household":
        form: PartForm = forms.HouseholdForm({**data, **data["tariff"]}, request.POST, prefix="household")

        def values() -> dict[str, Any]:
            got = form.changes()
            return {key if key == "name" else f"tariff.{key}": value for key, value in got.items()}

        return _store(request, row, form, "household", values)
    circuits = data["circuits"]
    if what == "add-circuit":
        rules = rule_sets()[circuits[-1]["rule_set_id"] if circuits else "eu-16"]
        circuits.append(
            {
                "id": fresh_id("circuit", (c["id"] for c in circuits)),
                "name": "Another circuit",
                "rule_set_id": rules.id,
                "mains_v": rules.mains_v,
                "breaker_a": rules.breaker_a,
            }
        )
        return _store(request, row, None, "", lambda: {"circuits": circuits})
    chosen = next((c for c in circuits if c["id"] == number), None)
    if chosen is None:
        raise Http404
    if what == "circuit":
        form = forms.CircuitForm(chosen, request.POST, prefix=number)
        return _store(request, row, form, number, lambda: (chosen.update(form.changes()), {"circuits": circuits})[1])
    if what == "add-load":
        loads = chosen["other_loads"]
        key = fresh_id("load", (item["id"] for item in loads))
        loads.append({"id": key, "name": "Something else", "power_w": 100, "hours_per_day": 4})
        return _store(request, row, None, "", lambda: {"circuits": circuits})
    item = next((item for item in chosen["other_loads"] if item["id"] == load), None)
    if item is None:
        raise Http404
    if what == "remove-load":
        chosen["other_loads"].remove(item)
        return _store(request, row, None, "", lambda: {"circuits": circuits})
    form = forms.LoadForm(item, request.POST, prefix=f"{number}-{load}")
    return _store(
        request, row, form, f"{number}-{load}", lambda: (item.update(form.changes()), {"circuits": circuits})[1]
    )


def _store(request: HttpRequest, row: GrowPlan, form: PartForm | None, key: str, values: Any) -> HttpResponse:
    if form is None or form.is_valid():
        try:
            row = actions.change_household(row, values())
            return _settings(request, row, {})
        except PlanError as error:
            if form is None:
                return _settings(request, row, {}, words=str(error))
            form.take(error)
    return _settings(request, row, {key: form})


def _settings(request: HttpRequest, row: GrowPlan, bad: dict[str, Any], words: str = "") -> HttpResponse:
    plan, system = to_plan(row), preference_of(request).units
    data = plan.model_dump(mode="json")
    circuits = [
        {
            "circuit": circuit,
            "load": circuit_load(plan, circuit),
            "form": bad.get(circuit.id) or forms.CircuitForm(data["circuits"][n], prefix=circuit.id),
            "loads": [
                (
                    item,
                    bad.get(f"{circuit.id}-{item.id}")
                    or forms.LoadForm(item.model_dump(mode="json"), system=system, prefix=f"{circuit.id}-{item.id}"),
                )
                for item in circuit.other_loads
            ],
        }
        for n, circuit in enumerate(plan.circuits)
    ]
    form = bad.get("household") or forms.HouseholdForm({**data, **data["tariff"]}, prefix="household")
    inside = bool(request.htmx)  # type: ignore[attr-defined]
    return render(
        request,
        "planning/_household.html" if inside else "planning/household.html",
        {"row": row, "plan": plan, "form": form, "circuits": circuits, "words": words},
    )
