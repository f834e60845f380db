"""The tab of harvest and money: each planting for its ground, light, power and cost, against what is expected."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.evaluate import SpaceReport
from canopy.logs.entries import KINDS, Entry
from canopy.margin import Amount
from canopy.plan import Planting
from canopy.quantities import Reader
from canopy.review.comparison import figures
from canopy.review.harvest import Run, runs_of
from canopy.review.next_time import next_time
from canopy_web.forms.fields import NumberField
from canopy_web.forms.part import PartForm
from canopy_web.logbook.entries import entries_of
from canopy_web.logbook.learnable import recent_means
from canopy_web.stations.review.looked import look, looks
from canopy_web.workspace.edits import edit_listed
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import change, page
from canopy_web.workspace.where import Where, at_space


class RunForm(PartForm):
    """How many were sown, what was spent on them, and what their harvest costs in a shop."""

    sown = NumberField(min_value=1, max_value=100_000, required=False, label="sown")
    spent = NumberField(min_value=0, max_value=1_000_000, required=False, label="spent on seeds and mix")
    shop_price = NumberField(min_value=0, max_value=100_000, required=False, label="a kilogram in a shop")


def harvest_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    reader, log = where.reader(report), entries_of(where.row, [where.space.id])
    runs = runs_of(report, log, where.day, looks(where, where.space))
    return {
        "runs": [
            {
                **shown_run(run, reader),
                "form": _form_of(run.planting, bad),
                "next": [
                    {"item": item, "what": item.what.say(reader), "why": item.why.say(reader)}
                    for item in next_time(report, run, log, where.day)
                ],
            }
            for run in runs
        ],
        "money": where.plan.site.currency,
    }


def _form_of(planting: Planting, bad: Mapping[str, Any]) -> RunForm:
    form: RunForm = bad.get(f"run/{planting.id}") or _form(planting.model_dump(mode="json"))
    return form


def _form(record: Mapping[str, Any], data: Any = None) -> RunForm:
    return RunForm(record, data, prefix=f"run-{record['id']}")


def weight_words(kg: float, reader: Reader) -> str:
    """A harvest's weight: small ones in grams or ounces."""
    if reader.system == "us":
        ounces = kg / 0.028349523125
        return f"{ounces:.1f} oz" if ounces < 16 else f"{ounces / 16:.1f} lb"
    return f"{1000 * kg:.0f} g" if kg < 1 else f"{kg:.2f} kg"


def shown_run(run: Run, reader: Reader) -> dict[str, Any]:
    """Write what came of a run."""
    us, heap = reader.system == "us", 0.45359237 if reader.system == "us" else 1.0
    told: dict[str, Any] = {
        "run": run,
        "heap": "lb" if us else "kg",
        "kg": weight_words(run.reaped.kg, reader) if run.reaped.kg else "",
        "per_m2": "",
        "g_mol": "" if run.g_mol is None else f"{run.g_mol:.1f} g",
        "kwh_kg": "" if run.kwh_kg is None else f"{run.kwh_kg * heap:.0f} kWh",
        "cost_kg": "" if run.cost_kg is None else f"{run.cost_kg * heap:.2f}",
        "kwh": f"{run.kwh:.0f} kWh" if run.lit else "not known",
        "cost": f"{run.cost:.2f}" + ("" if run.lit else " without power"),
        "verdict": _against(run, reader),
    }
    if run.per_m2 is not None:
        told["per_m2"] = weight_words(run.per_m2 * (0.09290304 if us else 1.0), reader) + (" a ft²" if us else " a m²")
    if run.saved is not None:
        told["saved"] = f"{abs(run.saved):.2f}"
        told["dearer"] = run.saved < 0
    if run.lost is not None:
        told["germinated"] = f"{run.living} of {run.planting.sown} {'stood' if run.over else 'stand'}"
    return told


def _against(run: Run, reader: Reader) -> str:
    """The harvest beside what could be expected, in words; nothing is judged before it is over."""
    if run.expected_kg is None:
        return ""
    low, high = run.expected_kg
    span = weight_words(low, reader) if low == high else f"{weight_words(low, reader)} to {weight_words(high, reader)}"
    source = "what you expect" if low == high else "roughly what this much light makes of its kind"
    if not run.reaped.kg:
        return f"{span} is {source}"
    state = "less than" if run.reaped.kg < low else "more than" if run.reaped.kg > high else "within"
    return f"{state} {span}, {source}" + ("" if run.over else "; not over yet")


@require_POST
@at_space
def edit_run(request: HttpRequest, where: Where, key: str) -> HttpResponse:
    """Say how many were sown, what was spent, what a shop asks."""
    return edit_listed(
        request,
        where,
        lambda record: _form(record, request.POST),
        collection="plantings",
        part_id=key,
        key=f"run/{key}",
        label=lambda record: f"Changed what {record['name']} cost",
    )


def _run(where: Where, key: str) -> Run:
    log = entries_of(where.row, [where.space.id])
    runs = runs_of(where.report, log, where.day, looks(where, where.space))
    found = next((run for run in runs if run.planting.id == key), None)
    if found is None:
        raise Http404
    return found


@require_POST
@at_space
def take_next(request: HttpRequest, where: Where, key: str, what: str) -> HttpResponse:
    """Do what a run teaches for the next time."""
    log = entries_of(where.row, [where.space.id])
    taught = next_time(where.report, _run(where, key), log, where.day)
    item = next((item for item in taught if item.key == what and item.changes), None)
    if item is None:
        return page(request, where, words="The log does not say that any more.")
    return change(request, where, item.what.say(where.reader(where.report)), *item.changes)


@require_GET
@at_space
def report(request: HttpRequest, where: Where, key: str) -> HttpResponse:
    """A run on one page, to print and keep."""
    run = _run(where, key)
    # What it grew in is that of its middle day, by the plan of then.
    found = look(where, where.space, run.planting, follow=True)
    reader, log = where.reader(found), entries_of(where.row, [where.space.id])
    told = _about(run, where, log)
    measured = recent_means(where.row, where.plan, where.space, where.zone)
    return render(
        request,
        "review/run_report.html",
        {
            **place(where, reader),
            "each": shown_run(run, reader),
            "crop": where.crops.get(run.planting.crop_id),
            "settings": [(item.name, item.one.text(reader)) for item in figures(found, run)],
            "measured": [(name, lit, dark) for name, lit, dark in _measured(measured, reader)],
            "learnt": [item for item in where.space.learnt if item.applied],
            "notes": [entry for entry in told if entry.note][-12:],
            "counts": _counts(told),
            "next": [
                (item.what.say(reader), item.why.say(reader)) for item in next_time(where.report, run, log, where.day)
            ],
            "money": where.plan.site.currency,
        },
    )


def _about(run: Run, where: Where, log: Sequence[Entry]) -> list[Entry]:
    """What was written of a run while it stood: of its own plants, and of the space they stood in.

    A harvest that names no plants may be another planting's: those that count are told with what came of the run.
    """
    ids = {plant.id for plant in where.space.plants if plant.planting_id == run.planting.id}
    first, last = run.planting.starts_on, run.planting.cleared_on or dt.date.max
    return [
        entry
        for entry in log
        if not entry.struck
        and first <= entry.at.date() <= last
        and (ids & set(entry.plants) if entry.plants else entry.kind != "harvest")
    ]


_MEANT = {"air_c": ("Air", "temperature", 1), "rh_pct": ("Humidity", "%", 0), "co2_ppm": ("CO₂", "ppm", 0)}


def _measured(means: Mapping[str, tuple[float | None, float | None]], reader: Reader) -> Iterator[tuple[str, str, str]]:
    for key, (name, unit, decimals) in _MEANT.items():
        if key in means:
            told = [
                "–" if v is None else Amount(value=v, unit=unit, decimals=decimals).text(reader) for v in means[key]
            ]
            yield name, told[0], told[1]


def _counts(entries: Sequence[Entry]) -> list[tuple[str, int]]:
    """How often something was written down, by kind; harvests and notes are told by themselves."""
    kinds = [(kind, name) for kind, (name, _) in KINDS.items() if kind not in ("harvest", "note")]
    return [(name, n) for kind, name in kinds if (n := sum(entry.kind == kind for entry in entries))]
