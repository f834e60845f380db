"""The tab of alerts: what rings, what rang, limits with how often each would have rung, and limits worth watching."""

from __future__ import annotations

import datetime as dt
import time
from collections.abc import Iterator, Mapping
from typing import Any

import numpy as np
from django import forms
from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.evaluate import SpaceReport
from canopy.logs.watch import Proposed, proposed
from canopy.plan.changes import Add, Change, Remove
from canopy.plan.controls import Alert
from canopy.quantities import TEMPERATURE, TEMPERATURE_RISE, VOLUME
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm, offer
from canopy_web.logbook import watch
from canopy_web.logbook.models import AlertEvent, LogEntry, Reading, Sensor
from canopy_web.logbook.readings import bounds_of, sensors_of
from canopy_web.logbook.shown import age_text
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import attempt_row, change, page
from canopy_web.workspace.where import Where, at_space

_TOLD_DAYS, _HISTORY = 30, 25
# By what a slider moves a limit of up to so much.
_DRAGS = ((3.0, 0.05), (20.0, 0.5), (150.0, 1.0), (1000.0, 10.0))
# Whose windows end where it is worth being told, by day and night, and how far a limit is moved at a time.
_WINDOWS = (
    ("air_c", "air_day_c", "day", 0.5),
    ("air_c", "air_night_c", "night", 0.5),
    ("rh_pct", "rh_pct", "always", 1.0),
    ("root_c", "root_c", "always", 0.5),
    ("vpd_kpa", "vpd_kpa", "day", 0.1),
)
_WHEN = (("always", "at any hour"), ("day", "lamps on"), ("night", "lamps off"))


def _field(figure: str, label: str, *, rise: bool = False) -> forms.Field:
    """A field for a figure in the person's own units; ``rise`` for a difference of it."""
    unit = watch.named(figure)[1]
    if unit == "°C":
        return (
            QuantityField(TEMPERATURE_RISE, 0, 100, label=label)
            if rise
            else QuantityField(TEMPERATURE, -60, 100, label=label)
        )
    if unit == "L":
        return QuantityField(VOLUME, 0, 5000, label=label)
    return NumberField(min_value=0 if rise else -100, max_value=10_000 if rise else 100_000, label=label)


class AlertForm(PartForm):
    """A limit, for how long it is passed before it rings, and when that counts."""

    value = NumberField(label="at")
    for_min = NumberField(min_value=0, max_value=10_080, label="for, min")
    back = NumberField(label="over when back by")
    when = forms.ChoiceField(choices=_WHEN, label="counts")
    in_quiet = forms.BooleanField(required=False, label="in quiet hours too")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        for name, label, rise in (("value", "at", False), ("back", "over when back by", True)):
            field = _field(record["figure"], label, rise=rise)
            if isinstance(field, QuantityField):
                field.system = self.system
            self.fields[name] = field
            self.initial[name] = self._written(name, record)


class NewAlertForm(PartForm):
    """A limit of one's own, typed in the person's own units."""

    figure = forms.ChoiceField(label="of")
    side = forms.ChoiceField(
        choices=(("most", "above"), ("least", "below"), ("silent", "nothing read for, min")), label="rings"
    )
    value = forms.CharField(max_length=30, label="value")

    def __init__(self, figures: list[tuple[str, str]], data: Any = None, **more: Any) -> None:
        super().__init__({}, data, **more)
        offer(self, figure=figures)

    def clean(self) -> dict[str, Any]:
        """Read the value as the figure is read."""
        got: dict[str, Any] = super().clean() or {}
        if {"figure", "side", "value"} <= got.keys():
            silent = got["side"] == "silent"
            field = NumberField(min_value=1, max_value=10_080) if silent else _field(got["figure"], "value")
            if isinstance(field, QuantityField):
                field.system = self.system
            try:
                got["value"] = field.clean(got["value"])
            except forms.ValidationError as error:
                self.add_error("value", error)
        return got


def _figures(where: Where) -> list[tuple[str, str]]:
    """What is measured here, with its unit."""
    sensors = sensors_of(where.row, where.space.id)
    here = {sensor.quantity for sensor in sensors if sensor.place == "space"}
    keys = [key for key in Alert.model_fields["figure"].annotation.__args__ if key in here]  # type: ignore[union-attr]
    if {"air_c", "rh_pct"} <= here:
        keys.append("vpd_kpa")
    return [(key, _named(key, where.system)) for key in (*keys, "trap_rise")]


def _named(figure: str, system: str) -> str:
    """A figure's name with the unit in which a person reads it."""
    name, unit = watch.named(figure)
    if system == "us":
        unit = {"°C": "°F", "L": "gal"}.get(unit, unit)
    return f"{name}, {unit}" if unit else name


def alerts_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab; what is ringing is looked at anew."""
    zone = where.zone
    watch.watch(where.row, where.plan, where.space, zone)
    figures = _figures(where)
    events = AlertEvent.objects.filter(plan=where.row, space_id=where.space.id).select_related("seen_by", "sensor")
    rows = []
    for rule in where.space.alerts:
        form = bad.get(f"alert-{rule.id}") or _row_form(where, rule)
        words = _words(rule, where.system)
        rows.append({"rule": rule, "words": words, "form": form, "rung": _rung(where, rule), "drag": _drag(rule, form)})
    return {
        "ringing": [_event(event, zone, where.system) for event in events.filter(end=None)],
        "rang": [_event(event, zone, where.system) for event in events.exclude(end=None)[:_HISTORY]],
        "sensed": bool(figures[1:]),
        "quiet": where.plan.quiet,
        "demo_mail": settings.MAILS == "demo",
        "alert_rows": rows,
        "alert_form": bad.get("alert") or NewAlertForm(figures, prefix="alert"),
        "worth": [_offer(item, where.system) for item in (*_worth(where, report), *_always(where))],
        "told_days": _TOLD_DAYS,
    }


def _row_form(where: Where, rule: Alert, data: Any = None) -> AlertForm:
    return AlertForm(rule.model_dump(mode="json"), data, system=where.system, prefix=f"alert-{rule.id}")


def _words(rule: Alert, system: str) -> str:
    if rule.silent:
        return f"{watch.named(rule.figure)[0]}: nothing read"
    name, _, unit = _named(rule.figure, system).partition(", ")
    return f"{name} {'above' if rule.most else 'below'}" + (f", {unit}" if unit else "")


def _drag(rule: Alert, form: AlertForm) -> dict[str, Any] | None:
    """A slider's ends and step around a limit, in the units in which it is typed."""
    if rule.silent:
        return None
    try:
        value = float(str(form["value"].value()).split()[0].replace("−", "-").replace(",", "."))
    except (ValueError, IndexError):
        return None
    step = next((step for top, step in _DRAGS if abs(value) < top), 50.0)
    return {"low": round(value - 20 * step, 3), "high": round(value + 20 * step, 3), "step": step, "value": value}


def _event(event: AlertEvent, zone: dt.tzinfo, system: str) -> dict[str, Any]:
    begin = dt.datetime.fromtimestamp(event.begin, zone)
    end = event.end if event.end is not None else int(time.time())
    return {
        "event": event,
        "words": watch.event_words(event, system),
        "worst": watch.event_worst(event, system),
        "begin": begin,
        "long": age_text(max(0, end - event.begin)).removesuffix(" ago"),
    }


def _stretch(where: Where) -> tuple[int, int] | None:
    bounds = bounds_of(sensors_of(where.row, where.space.id))
    return None if bounds is None else (max(bounds[0], bounds[1] - _TOLD_DAYS * 86400), bounds[1])


def _rung(where: Where, rule: Alert) -> str:
    """How often a rule would have rung in the last thirty days of readings."""
    stretch = _stretch(where)
    if rule.figure == "trap_rise":
        # What people count is told back from now on.
        now = int(time.time())
        stretch = (now - _TOLD_DAYS * 86400, now)
    if stretch is None:
        return "no readings yet"
    sensors = sensors_of(where.row, where.space.id)
    count = watch.would_ring(where.row, where.space, sensors, rule, *stretch, where.zone)
    days = (stretch[1] - stretch[0]) / 86400
    return f"{_often(count)} in the last {days:.0f} days of readings"


def _often(count: int) -> str:
    """Say how often something would have rung."""
    if count == 0:
        return "would never have rung"
    return "would have rung once" if count == 1 else f"would have rung {count} times"


def _worth(where: Where, report: SpaceReport) -> Iterator[tuple[Proposed, str]]:
    """Limits from the windows of the crops here, moved out until an ordinary week rings less than once."""
    stretch = _stretch(where)
    if stretch is None or not report.here.plants:
        return
    sensors, zone = sensors_of(where.row, where.space.id), where.zone
    held = {(rule.figure, rule.most, rule.when) for rule in where.space.alerts if not rule.silent}
    for figure, want, when, step in _WINDOWS:
        windows = [getattr(plant.want, want) for plant in report.here.plants]
        found = watch.watched(where.row, where.space, sensors, figure, *stretch, zone)
        if not windows or not found or found[0].at.size < 2:
            continue
        for most, value in ((True, max(w.high for w in windows)), (False, min(w.low for w in windows))):
            if (figure, most, when) in held:
                continue
            rule = Alert(id="new", figure=figure, most=most, value=value, when=when)
            item = proposed(rule, found[0].at, found[0].value, step, found[0].lit)
            if item is not None:
                ends = watch.figure_text(figure, value, where.system)
                moved = "; readings pass that in an ordinary week, so it stands further out"
                yield item, f"windows here end at {ends}" + (moved if item.rule.value != value else "")


def _always(where: Where) -> Iterator[tuple[Proposed, str]]:
    """What is worth being told whatever grows: batteries, sensors that fall silent, traps that fill."""
    stretch = _stretch(where)
    sensors, zone = sensors_of(where.row, where.space.id), where.zone
    rules = []
    inside = [sensor for sensor in sensors if sensor.place == "space"]
    if stretch is not None and any(sensor.quantity == "battery_pct" for sensor in inside):
        rules.append(
            (Alert(id="new", figure="battery_pct", most=False, value=20, for_min=60), "time to charge or change it")
        )
    first = next((sensor.quantity for sensor in inside if sensor.quantity in ("air_c", "rh_pct")), None)
    if stretch is not None and first is not None:
        rule = Alert(id="new", figure=first, most=False, value=0, silent=True, for_min=_silence(where, inside, stretch))
        rules.append((rule, "four times the longest pause of an ordinary day"))
    if LogEntry.objects.filter(plan=where.row, space_id=where.space.id, kind="pests", struck=False).exists():
        rules.append(
            (Alert(id="new", figure="trap_rise", most=True, value=1, for_min=0), "found early, few are enough")
        )
    held = {(rule.figure, rule.silent) for rule in where.space.alerts}
    for rule, why in rules:
        if (rule.figure, rule.silent) in held:
            continue
        begin, end = stretch or (int(time.time()) - _TOLD_DAYS * 86400, int(time.time()))
        rung = watch.would_ring(where.row, where.space, sensors, rule, begin, end, zone)
        yield Proposed(rule=rule, rung=rung, days=(end - begin) / 86400), why


def _silence(where: Where, inside: list[Sensor], stretch: tuple[int, int]) -> float:
    """How long is too long without a reading: four times the pause that all but one of two hundred stay within."""
    sensor = next(item for item in inside if item.quantity in ("air_c", "rh_pct"))
    at = np.array(
        Reading.objects.filter(sensor=sensor, at__gte=stretch[1] - 3 * 86400)
        .order_by("at")
        .values_list("at", flat=True)
    )
    usual = float(np.quantile(np.diff(at), 0.995)) / 60 if at.size > 20 else 15.0
    return float(min(max(10 * round(4 * usual / 10), 30), 1440))


def _offer(found: tuple[Proposed, str], system: str) -> dict[str, Any]:
    item, why = found
    return {
        "rule": item.rule,
        "words": watch.says(item.rule, system),
        "why": f"{why}; {_often(item.rung)} in {item.days:.0f} days",
    }


@require_POST
@at_space
def add_alert(request: HttpRequest, where: Where) -> HttpResponse:
    """Watch a limit of one's own."""
    form = NewAlertForm(_figures(where), request.POST, system=where.system, prefix="alert")
    if not form.is_valid():
        return page(request, where, bad={"alert": form})
    got = form.cleaned_data
    silent = got["side"] == "silent"
    rule = {"id": "new", "figure": got["figure"], "most": got["side"] == "most", "value": 0 if silent else got["value"]}
    if got["figure"] == "trap_rise":
        rule["for_min"] = 0
    if silent:
        rule |= {"silent": True, "for_min": got["value"]}
    return _added(request, where, rule)


def _added(request: HttpRequest, where: Where, rule: dict[str, Any]) -> HttpResponse:
    return change(request, where, "Watched a limit", Add(collection="alerts", parts=(rule,), prefix="alert"))


@require_POST
@at_space
def take_proposal(request: HttpRequest, where: Where) -> HttpResponse:
    """Watch a limit that was proposed, as it is proposed now."""
    asked = tuple(request.POST.get(key, "") for key in ("figure", "most", "when", "silent"))
    for item, _ in (*_worth(where, where.report), *_always(where)):
        rule = item.rule
        flags = ("yes" if rule.most else "", rule.when, "yes" if rule.silent else "")
        if (rule.figure, *flags) == asked:
            return _added(request, where, item.rule.model_dump(mode="json"))
    return page(request, where, words="This limit is watched already, or no longer proposed.")


def _rule(where: Where, alert_id: str) -> Alert:
    found = next((rule for rule in where.space.alerts if rule.id == alert_id), None)
    if found is None:
        raise Http404
    return found


@require_POST
@at_space
def edit_alert(request: HttpRequest, where: Where, alert_id: str) -> HttpResponse:
    """Change a limit."""
    rule = _rule(where, alert_id)
    form = _row_form(where, rule, request.POST)

    def act() -> Where:
        one = Change(collection="alerts", part_id=rule.id, values=form.changes(), was=form.seen())
        return where.do(f"Changed an alert of {watch.named(rule.figure)[0].lower()}", one)

    return attempt_row(request, where, form, f"alert-{rule.id}", act)


@require_GET
@at_space
def count(request: HttpRequest, where: Where, alert_id: str) -> HttpResponse:
    """Say how often a limit would have rung while it is being typed or dragged; nothing is stored."""
    rule = _rule(where, alert_id)
    form = _row_form(where, rule, request.GET)
    form.is_valid()
    values = {key: value for key, value in form.cleaned_data.items() if value is not None}
    try:
        tried = Alert.model_validate(rule.model_dump() | values)
    except ValueError:
        tried = rule
    return render(request, "log/_rung.html", {**place(where, where.reader()), "rung": _rung(where, tried)})


@require_POST
@at_space
def drop_alert(request: HttpRequest, where: Where, alert_id: str) -> HttpResponse:
    """Watch a limit no longer; what it rang is kept."""
    return change(request, where, "Watched a limit no longer", Remove(collection="alerts", part_ids=(alert_id,)))


@require_POST
@at_space
def seen(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Say that one has seen an alert."""
    watch.acknowledge(where.row, pk, request.user)
    return page(request, where)
