"""The tab of rehearsals: what goes wrong, how long the crops have, what would warn and what would protect."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from typing import Any, cast

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.design.climate.guards import guards_for
from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.evaluate.climate.rehearsal.faults import Fault, possible
from canopy.evaluate.climate.rehearsal.five_minutes import Compared, Reading, compare
from canopy.evaluate.climate.rehearsal.limits import NAMES
from canopy.evaluate.climate.rehearsal.rehearsed import (
    Passed,
    Rehearsed,
    by_hand,
    figure_amount,
    rehearse,
    time_amount,
)
from canopy.margin import Amount
from canopy.plan.changes import Add, Remove
from canopy.plan.controls import Alert
from canopy.plan.correction import Correction
from canopy.plan.learnt import stamp
from canopy.plan.rooms import Season
from canopy.quantities import TEMPERATURE, Reader
from canopy_web.drawing.rehearsal import rehearsal_sheet
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import change, page
from canopy_web.workspace.where import Where, at_space

_SEASONS = (
    ("day", "as on the day shown"),
    ("coldest", "coldest day of the year"),
    ("hottest", "hottest day of the year"),
)
_ASKS = {"h": "for so many hours", "d": "for so many days", "K": "so much warmer"}


class RehearsalForm(forms.Form):
    """How long or how much, and in which season."""

    amount = forms.FloatField()
    season = forms.ChoiceField(choices=_SEASONS, required=False)

    def __init__(self, fault: Fault, data: Any = None) -> None:
        super().__init__(data, prefix="", initial={"amount": fault.usual, "season": "day"})
        least = 0.25 if fault.asks == "h" else 1.0
        self.fields["amount"] = forms.FloatField(min_value=least, max_value=fault.most)


class ReadingForm(PartForm):
    """What was read with the fan off for some minutes."""

    room_c = QuantityField(TEMPERATURE, -10, 50, label="the room")
    before_c = QuantityField(TEMPERATURE, -10, 60, label="the air before")
    after_c = QuantityField(TEMPERATURE, -10, 60, label="the air after")
    minutes = NumberField(min_value=1, max_value=60, label="fan off for (min)")


def rehearse_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: what can go wrong here, alerts that are kept, and the test of five minutes."""
    reader, room = where.reader(report), report.here.around.room
    follows = report.here.around.hourly is not None
    able = bool(report.here.space.lit) and any(way.fans for way in where.space.airways)
    return {
        "faults": [{"fault": fault, "asks": _ASKS[fault.asks]} for fault in possible(where.space)],
        "seasons": [item for item in _SEASONS if item[0] == "day" or follows or getattr(room, item[0]) is not None],
        "alerts": [_kept(alert, reader) for alert in where.space.alerts if alert.figure in NAMES and not alert.silent],
        "reading_form": ReadingForm({"minutes": 5}, None, system=where.system, prefix="reading") if able else None,
        "has_plants": bool(report.here.plants),
    }


def _kept(alert: Alert, reader: Reader) -> dict[str, Any]:
    value = figure_amount(alert.figure, alert.value).text(reader)
    return {"alert": alert, "words": f"{NAMES[alert.figure]} {'above' if alert.most else 'below'} {value}"}


def _fault(where: Where, key: str) -> Fault:
    fault = next((item for item in possible(where.space) if item.key == key), None)
    if fault is None:
        raise Http404
    return fault


def _season(form: RehearsalForm) -> Season:
    return cast(Season, form.cleaned_data["season"] or "day")


def _played(where: Where, fault: Fault, form: RehearsalForm) -> Rehearsed:
    report, amount = where.report, form.cleaned_data["amount"]
    return rehearse(where.plan, report.here, report.lighting, fault, amount, _season(form))


@require_GET
@at_space
def rehearsal(request: HttpRequest, where: Where, fault: str) -> HttpResponse:
    """Play a fault through and show what comes of it."""
    found = _fault(where, fault)
    form = RehearsalForm(found, request.GET)
    shown: dict[str, Any] = {**place(where), "fault": found, "form": form}
    if not form.is_valid():
        return render(request, "climate/_rehearsed.html", shown)
    done = _played(where, found, form)
    report, reader = where.report, where.reader(where.report)
    season, sheet = _season(form), rehearsal_sheet(done, reader)
    clocks = json.loads(sheet.values)["clock"]
    shown |= {
        "done": done,
        "sheet": sheet,
        "last": len(clocks) - 1,
        "start": sum(text.endswith("before") for text in clocks),
        "said": done.said.say(reader),
        "limits": [_limit_row(item, reader) for item in _told(done)],
        "warning": _warning(done, reader),
        "hand": _hand(done, reader),
        "guards": [
            {"number": k, "guard": guard, "label": guard.label.say(reader), "said": guard.done.said.say(reader)}
            for k, guard in enumerate(guards_for(report, done, season))
        ],
        "amount": form.cleaned_data["amount"],
        "season": season,
        "clock": _clock(done.upset.begins_h),
        "wet": float(done.found.traces.film_g[done.amiss].max()) > max(1.0, _wet_before(done) + 5),
    }
    return render(request, "climate/_rehearsed.html", shown)


def _wet_before(done: Rehearsed) -> float:
    return float(done.found.traces.film_g[done.normal].max())


def _clock(hours: float) -> str:
    minutes = round(hours * 60) % 1440
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def _told(done: Rehearsed) -> list[Passed]:
    """Limits that are passed, or were already; of the same figure and side the nearest of each crop; soonest first."""
    told = [item for item in done.passes if item.after_h is not None]
    return sorted(told, key=lambda item: (item.already, item.after_h or 0.0))


def _limit_row(item: Passed, reader: Reader) -> dict[str, str]:
    limit = item.limit
    when = "already on a normal day" if item.already else time_amount(item.after_h or 0.0).text(reader)
    return {
        "who": limit.who,
        "what": f"{NAMES[limit.figure]} {'above' if limit.most else 'below'} "
        f"{figure_amount(limit.figure, limit.value).text(reader)}",
        "when": when,
        "furthest": figure_amount(limit.figure, item.furthest).text(reader),
    }


def _warning(done: Rehearsed, reader: Reader) -> dict[str, str] | None:
    warning = done.warning
    if warning is None:
        return None
    return {
        "what": f"{NAMES[warning.figure]} {'above' if warning.most else 'below'} "
        f"{figure_amount(warning.figure, warning.value).text(reader)}",
        "after": time_amount(warning.after_h).text(reader),
        "ahead": time_amount(warning.ahead_h).text(reader),
        "normal": figure_amount(warning.figure, warning.normal).text(reader),
    }


def _hand(done: Rehearsed, reader: Reader) -> list[tuple[str, str]]:
    """The closed form as lines: what, and how much."""
    found = by_hand(done)
    if found is None:
        return []

    def warm(value: float) -> str:
        return Amount(value=value, unit="temperature").text(reader)

    lines = [
        ("heat that the air feels, nothing taken up by leaves", Amount(value=found.heat_w, unit="power").text(reader)),
        ("walls and leaks pass", f"{found.loss_w_k:.1f} W/K"),
        ("air and walls take up; pots and lamps too", _both(found.holds_j_k, lambda j: f"{j / 1000:.0f} kJ/K")),
        ("τ = what they take up / what passes", _both(found.tau_h, lambda h: time_amount(h).text(reader))),
        ("T∞ = room + heat / what passes", warm(found.ends_c)),
        ("T₀, the air before", warm(found.from_c)),
    ]
    when = "never" if found.after_h is None else _both(found.after_h, lambda h: time_amount(h).text(reader))
    return [*lines, (f"t to {warm(found.limit_c)} = τ ln((T∞ − T₀)/(T∞ − T))", when)]


def _both(pair: tuple[float, float], text: Callable[[float], str]) -> str:
    return f"{text(pair[0])}; {text(pair[1])}"


@require_POST
@at_space
def keep_alert(request: HttpRequest, where: Where, fault: str) -> HttpResponse:
    """Keep the alert that a rehearsal proposes, for the log to watch."""
    found = _fault(where, fault)
    form = RehearsalForm(found, request.POST)
    warning = _played(where, found, form).warning if form.is_valid() else None
    if warning is None:
        raise Http404
    alert = Alert(id="new", figure=warning.figure, most=warning.most, value=warning.value, why=found.name)
    known = next((a for a in where.space.alerts if (a.figure, a.most) == (alert.figure, alert.most)), None)
    taken = (Remove(collection="alerts", part_ids=(known.id,)),) if known else ()
    return change(
        request,
        where,
        "Kept an alert",
        *taken,
        Add(collection="alerts", parts=(alert.model_dump(mode="json"),), prefix="alert"),
    )


@require_POST
@at_space
def drop_alert(request: HttpRequest, where: Where, alert: str) -> HttpResponse:
    """Take an alert back."""
    return change(request, where, "Took an alert back", Remove(collection="alerts", part_ids=(alert,)))


@require_POST
@at_space
def take_guard(request: HttpRequest, where: Where, fault: str, number: int) -> HttpResponse:
    """Do in the plan what would protect."""
    found = _fault(where, fault)
    form = RehearsalForm(found, request.POST)
    if not form.is_valid():
        raise Http404
    season = _season(form)
    guards = guards_for(where.report, _played(where, found, form), season)
    if number >= len(guards) or not guards[number].changes:
        raise Http404
    return change(request, where, guards[number].label.say(where.reader(where.report)), *guards[number].changes)


@require_GET
@at_space
def five_minutes(request: HttpRequest, where: Where) -> HttpResponse:
    """Hold what somebody read against the simulation."""
    form = ReadingForm({}, request.GET, system=where.system, prefix="reading")
    shown: dict[str, Any] = {**place(where), "reading_form": form}
    if form.is_valid():
        got = form.cleaned_data
        reading = Reading(
            room_c=got["room_c"], before_c=got["before_c"], after_c=got["after_c"], minutes=got["minutes"]
        )
        try:
            shown["compared"] = _compared(
                compare(where.plan, where.report.here, where.report.lighting, reading), where.reader(where.report)
            ) | {"sent": [(name, value) for name, value in request.GET.items() if name.startswith("reading-")]}
        except EvaluationError as error:
            shown["trouble"] = str(error)
    return render(request, "climate/_five_minutes.html", shown)


@require_POST
@at_space
def follow_five_minutes(request: HttpRequest, where: Where) -> HttpResponse:
    """Let the plan follow what the air before says the fans move: roughly."""
    form = ReadingForm({}, request.POST, system=where.system, prefix="reading")
    ways = [way for way in where.space.airways if way.fans]
    if not form.is_valid() or not ways:
        raise Http404
    got = form.cleaned_data
    reading = Reading(room_c=got["room_c"], before_c=got["before_c"], after_c=got["after_c"], minutes=got["minutes"])
    # Held against what is computed without what was learnt before.
    plain = where.report.here.moved(where.report.space.model_copy(update={"learnt": ()}))
    try:
        found = compare(where.plan, plain, where.report.lighting, reading)
    except EvaluationError as error:
        return page(request, where, words=str(error))
    if found.factor is None:
        return page(request, where, words=f"What the fans move cannot be told from this: {found.why_not}.")
    low, middle, high = found.factor
    known = tuple(item.id for item in where.space.learnt if item.subject == "airflow")
    fresh = [
        Correction(
            id=f"new-{number}",
            subject="airflow",
            target=way.id,
            factor=middle,
            standard_error=(high - low) / 2,
            found_on=where.day,
            basis="minutes",
            limits="two household thermometers, one reading: rough",
            of=stamp(where.space, "airflow", way.id),
        ).model_dump(mode="json")
        for number, way in enumerate(ways)
    ]
    taken = (Remove(collection="learnt", part_ids=known),) if known else ()
    return change(
        request,
        where,
        "Followed five minutes with the fan off",
        *taken,
        Add(collection="learnt", parts=tuple(fresh), prefix="learnt"),
    )


def _compared(found: Compared, reader: Reader) -> dict[str, Any]:
    def rise(value: float) -> str:
        return Amount(value=value, unit="temperature rise").text(reader)

    flow = None
    if found.factor is not None:
        low, middle, high = (found.flow_m3_h * factor for factor in found.factor)
        flow = {
            "there": Amount(value=middle, unit="airflow").text(reader),
            "span": Amount(value=low, unit="airflow", high=high).text(reader),
            "computed": Amount(value=found.flow_m3_h, unit="airflow").text(reader),
            "inside": low <= found.flow_m3_h <= high,
        }
    faster = found.rise_k > found.expected_rise_k
    return {
        "found": found,
        "rows": [
            (
                "above the room before",
                rise(found.over_room_k),
                rise(found.expected_over_room_k),
                rise(found.over_room_off_k),
                found.warmth_agrees,
            ),
            (
                f"risen in {found.reading.minutes:g} min",
                rise(found.rise_k),
                rise(found.expected_rise_k),
                rise(found.rise_off_k),
                found.rise_agrees,
            ),
        ],
        "flow": flow,
        "faster": faster,
        "sent": [],
    }
