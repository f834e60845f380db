"""The tab of runs: one against another, and a comparison planned ahead."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from canopy.design.change import Remedy
from canopy.errors import EvaluationError, QuantityError
from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import report_of
from canopy.logs.entries import Entry, Harvest
from canopy.margin import sentence
from canopy.plan import Planting, Space
from canopy.review.as_then import as_then
from canopy.review.comparison import (
    ALPHA,
    USUAL_SCATTER,
    Tested,
    causes,
    compare_plants,
    plants_needed,
    settings_that_differ,
    shuffled,
)
from canopy.review.harvest import Run, runs_of
from canopy_web.forms.fields import NumberField
from canopy_web.forms.part import PartForm
from canopy_web.logbook.entries import entries_of
from canopy_web.stations.review.harvest import shown_run, weight_words
from canopy_web.stations.review.looked import look
from canopy_web.workspace.proposals import place, show_or_do
from canopy_web.workspace.where import Where, at_space

_MOST_GROUPS = 4


class TrialForm(PartForm):
    """A comparison planned ahead: what is compared, how large a difference is to be seen, how much plants differ."""

    groups = forms.CharField(max_length=120, label="compare, with commas between")
    difference = NumberField(min_value=1, max_value=500, label="see a difference of, %")
    scatter = NumberField(min_value=1, max_value=200, required=False, label="single plants differ by, %")


def runs_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: which runs there are, and what a comparison is planned with."""
    choices = [(f"{space.id}:{planting.id}", f"{planting.name}, {space.name}") for space, planting in _begun(where)]
    return {
        "run_choices": choices,
        "pair": _pair(where),
        "trial_form": TrialForm(
            {"groups": "mix A, mix B", "difference": 20, "scatter": 100 * USUAL_SCATTER}, None, prefix="trial"
        ),
    }


def _begun(where: Where) -> list[tuple[Space, Planting]]:
    """All runs of the household with their spaces; those of this space first, the newest of each first."""
    spaces = sorted(where.plan.spaces, key=lambda space: space.id != where.space.id)
    plantings = sorted(where.plan.plantings, key=lambda planting: planting.starts_on, reverse=True)
    return [
        (space, planting)
        for space in spaces
        for planting in plantings
        if planting.starts_on <= where.day and any(plant.planting_id == planting.id for plant in space.plants)
    ]


def _pair(where: Where) -> tuple[str, str]:
    """The two runs that are shown beside each other first: of one crop, harvested both, the newest."""
    begun = _begun(where)
    reaped = {
        (entry.space_id, plant)
        for entry in entries_of(where.row, [space.id for space in where.plan.spaces])
        if entry.kind == "harvest" and not entry.struck
        for plant in entry.plants
    }
    told = [
        (space, planting)
        for space, planting in begun
        if any(plant.planting_id == planting.id and (space.id, plant.id) in reaped for plant in space.plants)
    ]
    for some in (told, begun):
        for k, one in enumerate(some):
            other = next((item for item in some[k + 1 :] if item[1].crop_id == one[1].crop_id), None)
            if other is not None and other[1].id != one[1].id:
                return f"{one[0].id}:{one[1].id}", f"{other[0].id}:{other[1].id}"
    keys = [f"{space.id}:{planting.id}" for space, planting in begun[:2]]
    return (keys[0], keys[1]) if len(keys) == 2 else ("", "")


def _run(where: Where, key: str) -> tuple[Run, SpaceReport, str] | None:
    """A run with the report of its middle day, by the plan of then, and its space's name."""
    for space, planting in _begun(where):
        if f"{space.id}:{planting.id}" != key:
            continue
        try:
            middle = look(where, space, planting, follow=True)
            now = report_of(where.plan, space, day=where.day)
        except EvaluationError:
            return None
        runs = runs_of(now, entries_of(where.row, [space.id]), where.day, {planting.id: middle})
        run = next((run for run in runs if run.planting.id == planting.id), None)
        return (run, middle, space.name) if run else None
    return None


@require_GET
@at_space
def compared(request: HttpRequest, where: Where) -> HttpResponse:
    """Hold a run against another."""
    keys = [request.GET.get(name, "") for name in ("one", "two")]
    one, two = (_run(where, key) for key in keys)
    shown: dict[str, Any] = dict(place(where))
    if one is None or two is None or keys[0] == keys[1]:
        return render(
            request, "review/_runs_compared.html", {**shown, "trouble": "choose two runs that are not the same"}
        )
    reader = where.reader(where.report)
    logs = entries_of(where.row, [space.id for space in where.plan.spaces])
    plants = [_by_plant(logs, where, key) for key in keys]
    settings = settings_that_differ((one[1], one[0]), (two[1], two[0]))
    tested = compare_plants(*plants) if all(plants) else None
    shown |= {
        "names": [f"{run.planting.name}, {space}" for run, _, space in (one, two)],
        "one": shown_run(one[0], reader),
        "two": shown_run(two[0], reader),
        "settings": [(item.name, item.one.text(reader), item.two.text(reader)) for item in settings],
        "same_crop": one[0].planting.crop_id == two[0].planting.crop_id,
        "tested": tested,
        "gave": [weight_words(value, reader) for value in (tested.one, tested.two)] if tested else [],
        "causes": causes(settings),
        "back": _back(where, dict(zip(keys, (one, two), strict=True)), tested),
        "weighed": [len(some) for some in plants],
        "money": where.plan.site.currency,
    }
    return render(request, "review/_runs_compared.html", shown)


def _back(where: Where, runs: Mapping[str, tuple[Run, SpaceReport, str]], tested: Tested | None) -> dict[str, str]:
    """The run of this space that went better, where its lamps hung or ran otherwise than now."""
    if tested is None or tested.chance is None or tested.chance > ALPHA or tested.more is None:
        return {}
    key = list(runs)[0 if tested.more > 0 else 1]
    run, look_then, _ = runs[key]
    if look_then.space.id != where.space.id or not as_then(where.space, look_then.space):
        return {}
    return {"key": key, "name": run.planting.name}


@at_space
def set_back(request: HttpRequest, where: Where) -> HttpResponse:
    """Show what it would move to hang and switch lamps as they were in a run; on POST do it."""
    key = (request.POST if request.method == "POST" else request.GET).get("key", "")
    planting = next((item for space, item in _begun(where) if f"{space.id}:{item.id}" == key), None)
    if planting is None or not key.startswith(f"{where.space.id}:"):
        raise Http404
    changes = as_then(where.space, look(where, where.space, planting).space)
    label = sentence(f"Hang and switch the lamps as in {planting.name}")
    proposal = Remedy(label=label, changes=changes) if changes else None
    over = "The lamps hang and run as they did."
    return show_or_do(
        request, where, proposal, "review/_take.html", nothing=over, over=over, how="review-back", key=key
    )


def _by_plant(logs: tuple[Entry, ...], where: Where, key: str) -> list[float]:
    """What single plants gave [kg]: of harvests that name one plant alone."""
    space_id, _, planting_id = key.partition(":")
    space = where.plan.space(space_id)
    mine = {plant.id for plant in space.plants if plant.planting_id == planting_id} if space else set()
    found: dict[str, float] = {}
    for entry in logs:
        alone = len(entry.plants) == 1 and entry.plants[0] in mine
        if entry.kind == "harvest" and not entry.struck and alone and entry.space_id == space_id:
            weight = Harvest.model_validate(entry.data).weight_kg or 0.0
            found[entry.plants[0]] = found.get(entry.plants[0], 0.0) + weight
    return [value for value in found.values() if value > 0]


@require_GET
@at_space
def trial(request: HttpRequest, where: Where) -> HttpResponse:
    """Plan a comparison: how many plants it takes, and which stands where by lot."""
    form = TrialForm({}, request.GET, prefix="trial")
    shown: dict[str, Any] = {**place(where), "form": form}
    if not form.is_valid():
        return render(request, "review/_trial.html", shown)
    got = form.cleaned_data
    groups = [name.strip() for name in got["groups"].split(",") if name.strip()][:_MOST_GROUPS]
    scatter = (got["scatter"] or 100 * USUAL_SCATTER) / 100
    try:
        needed = plants_needed(got["difference"] / 100, scatter)
        plants = where.report.here.plants
        seed = timezone.localdate().toordinal() + where.row.pk
        places = shuffled([(plant.x_m, plant.y_m) for plant in plants], groups, seed)
    except QuantityError as error:
        return render(request, "review/_trial.html", {**shown, "trouble": str(error)})
    shown |= {
        "needed": needed,
        "groups": groups,
        "there": len(plants) // len(groups),
        "difference": got["difference"],
        "places": [
            (name, ", ".join(str(plant.number) for plant, at in zip(plants, places, strict=True) if at == name))
            for name in groups
        ],
    }
    return render(request, "review/_trial.html", shown)
