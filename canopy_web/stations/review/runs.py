"""The tab of runs: one against another, and a comparison planned ahead."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from canopy.errors import EvaluationError, QuantityError
from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import report_of
from canopy.logs.entries import Entry, Harvest
from canopy.review.comparison import USUAL_SCATTER, compare_plants, plants_needed, settings_that_differ, shuffled
from canopy.review.harvest import Run, runs_of
from canopy_web.forms.fields import NumberField
from canopy_web.forms.part import PartForm
from canopy_web.logbook.entries import entries_of
from canopy_web.stations.review.harvest import shown_run
from canopy_web.workspace.proposals import place
from canopy_web.workspace.where import Where, at_space

_MOST_GROUPS = 4


class TrialForm(PartForm):
    """A comparison planned ahead: what is compared, how large a difference is to be seen, how much plants differ."""

    groups = forms.CharField(max_length=120, label="compare, with commas between")
    difference = NumberField(min_value=1, max_value=500, label="see a difference of, %")
    scatter = NumberField(min_value=1, max_value=200, required=False, label="single plants differ by, %")


def runs_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: which runs there are, and what a comparison is planned with."""
    return {
        "run_choices": [(key, f"{run.planting.name}, {space}") for key, (run, _, space) in _runs(where).items()],
        "trial_form": TrialForm(
            {"groups": "mix A, mix B", "difference": 20, "scatter": 100 * USUAL_SCATTER}, None, prefix="trial"
        ),
    }


def _runs(where: Where) -> dict[str, tuple[Run, SpaceReport, str]]:
    """All runs of the household, by space and planting; those of this space first."""
    found: dict[str, tuple[Run, SpaceReport, str]] = {}
    spaces = sorted(where.plan.spaces, key=lambda space: space.id != where.space.id)
    for space in spaces:
        try:
            report = report_of(where.plan, space, day=where.day, follow=True)
        except EvaluationError:
            continue
        for run in runs_of(report, entries_of(where.row, [space.id]), where.day):
            found[f"{space.id}:{run.planting.id}"] = (run, report, space.name)
    return found


@require_GET
@at_space
def compared(request: HttpRequest, where: Where) -> HttpResponse:
    """Hold a run against another."""
    runs = _runs(where)
    one, two = (runs.get(request.GET.get(name, "")) for name in ("one", "two"))
    shown: dict[str, Any] = dict(place(where))
    if one is None or two is None or one[0].planting.id == two[0].planting.id:
        return render(
            request, "review/_runs_compared.html", {**shown, "trouble": "choose two runs that are not the same"}
        )
    reader = where.reader(where.report)
    logs = entries_of(where.row, [space.id for space in where.plan.spaces])
    plants = [_by_plant(logs, report, run) for run, report, _ in (one, two)]
    shown |= {
        "names": [f"{run.planting.name}, {space}" for run, _, space in (one, two)],
        "one": shown_run(one[0], reader),
        "two": shown_run(two[0], reader),
        "settings": [
            (item.name, item.one.text(reader), item.two.text(reader))
            for item in settings_that_differ((one[1], one[0]), (two[1], two[0]))
        ],
        "same_crop": one[0].planting.crop_id == two[0].planting.crop_id,
        "tested": compare_plants(*plants) if all(plants) else None,
        "weighed": [len(some) for some in plants],
        "money": where.plan.site.currency,
    }
    return render(request, "review/_runs_compared.html", shown)


def _by_plant(logs: tuple[Entry, ...], report: SpaceReport, run: Run) -> list[float]:
    """What single plants gave [kg]: of harvests that name one plant alone."""
    mine = {plant.id for plant in report.space.plants if plant.planting_id == run.planting.id}
    found: dict[str, float] = {}
    for entry in logs:
        if entry.kind == "harvest" and not entry.struck and len(entry.plants) == 1 and entry.plants[0] in mine:
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
