"""The tab of alerts: what rings, what rang, limits with how often each would have rung, and limits worth watching."""

from __future__ import annotations

import datetime as dt
import time
from collections.abc import Iterator, Mapping
from typing import Any

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.evaluate import SpaceReport
from canopy.logs.watch import Proposed, proposed
from canopy.plan.changes import Add, Change, Remove
from canopy.plan.controls import Alert
from canopy_web.forms.fields import NumberField
from canopy_web.forms.part import PartForm, offer
from canopy_web.logbook import watch
from canopy_web.logbook.models import AlertEvent
from canopy_web.logbook.readings import bounds_of, sensors_of
from canopy_web.logbook.shown import age_text
from canopy_web.stations.log.writing import zone_of_where
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import attempt_row, change, page
from canopy_web.workspace.where import Where, at_space

_TOLD_DAYS, _HISTORY = 30, 25
# Whose windows end where it is worth being told, by day and night, and how far a limit is moved at a time.
_WINDOWS = (
    ("air_c", "air_day_c", "day", 0.5),
    ("air_c", "air_night_c", "night", 0.5),
    ("rh_pct", "rh_pct", "always", 1.0),
    ("root_c", "root_c", "always", 0.5),
    ("vpd_kpa", "vpd_kpa", "day", 0.1),
)
_WHEN = (("always", "at any hour"), ("day", "lamps on"), ("night", "lamps off"))


class AlertForm(PartForm):
    """A limit, for how long it is passed before it rings, and when that counts."""

    value = NumberField(min_value=-100, max_value=100_000, label="at")
    for_min = NumberField(min_value=0, max_value=10_080, label="for, min")
    back = NumberField(min_value=0, max_value=10_000, label="over when back by")
    when = forms.ChoiceField(choices=_WHEN, label="counts")


class NewAlertForm(PartForm):
    """A limit of one's own."""

    figure = forms.ChoiceField(label="of")
    side = forms.ChoiceField(
        choices=(("most", "above"), ("least", "below"), ("silent", "nothing read for, min")), label="rings"
    )
    value = NumberField(min_value=-100, max_value=100_000, label="value")

    def __init__(self, figures: list[tuple[str, str]], data: Any = None, **more: Any) -> None:
        super().__init__({}, data, **more)
        offer(self, figure=figures)


def _figures(where: Where) -> list[tuple[str, str]]:
    """What is measured here, with its unit."""
    sensors = sensors_of(where.row, where.space.id)
    here = {sensor.quantity for sensor in sensors if sensor.place == "space"}
    keys = [key for key in Alert.model_fields["figure"].annotation.__args__ if key in here]  # type: ignore[union-attr]
    if {"air_c", "rh_pct"} <= here:
        keys.append("vpd_kpa")
    return [(key, ", ".join(filter(None, watch.named(key)))) for key in keys]


def alerts_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab; what is ringing is looked at anew."""
    zone = zone_of_where(where)
    watch.watch(where.row, where.plan, where.space, zone)
    figures = _figures(where)
    events = AlertEvent.objects.filter(plan=where.row, space_id=where.space.id).select_related("seen_by", "sensor")
    rows = []
    for rule in where.space.alerts:
        form = bad.get(f"alert-{rule.id}") or _row_form(where, rule)
        rows.append({"rule": rule, "words": _words(rule), "form": form, "rung": _rung(where, rule)})
    return {
        "ringing": [_event(event, zone) for event in events.filter(end=None)],
        "rang": [_event(event, zone) for event in events.exclude(end=None)[:_HISTORY]],
        "alert_rows": rows,
        "alert_form": bad.get("alert") or (NewAlertForm(figures, prefix="alert") if figures else None),
        "worth": [_offer(item) for item in _worth(where, report)],
        "told_days": _TOLD_DAYS,
    }


def _row_form(where: Where, rule: Alert, data: Any = None) -> AlertForm:
    return AlertForm(rule.model_dump(mode="json"), data, system=where.system, prefix=f"alert-{rule.id}")


def _words(rule: Alert) -> str:
    name, unit = watch.named(rule.figure)
    side = "nothing read" if rule.silent else "above" if rule.most else "below"
    return f"{name} {side}" + (f", {unit}" if unit and not rule.silent else "")


def _event(event: AlertEvent, zone: dt.tzinfo) -> dict[str, Any]:
    begin = dt.datetime.fromtimestamp(event.begin, zone)
    end = event.end if event.end is not None else int(time.time())
    silent = event.words.endswith("min") and "nothing read" in event.words
    return {
        "event": event,
        "silent": silent,
        "begin": begin,
        "long": age_text(max(0, end - event.begin)).removesuffix(" ago"),
    }


def _stretch(where: Where) -> tuple[int, int] | None:
    bounds = bounds_of(sensors_of(where.row, where.space.id))
    return None if bounds is None else (max(bounds[0], bounds[1] - _TOLD_DAYS * 86400), bounds[1])


def _rung(where: Where, rule: Alert) -> str:
    """How often a rule would have rung in the last thirty days of readings."""
    stretch = _stretch(where)
    if stretch is None:
        return "no readings yet"
    sensors = sensors_of(where.row, where.space.id)
    count = watch.would_ring(where.space, sensors, rule, *stretch, zone_of_where(where))
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
    sensors, zone = sensors_of(where.row, where.space.id), zone_of_where(where)
    held = {(rule.figure, rule.most, rule.when) for rule in where.space.alerts if not rule.silent}
    for figure, want, when, step in _WINDOWS:
        windows = [getattr(plant.want, want) for plant in report.here.plants]
        found = watch.watched(where.space, sensors, figure, *stretch, zone)
        if not windows or not found or found[0].at.size < 2:
            continue
        for most, value in ((True, max(w.high for w in windows)), (False, min(w.low for w in windows))):
            if (figure, most, when) in held:
                continue
            rule = Alert(id="new", figure=figure, most=most, value=value, when=when)
            item = proposed(rule, found[0].at, found[0].value, step, found[0].lit)
            if item is not None:
                yield item, f"{value:g}"


def _offer(found: tuple[Proposed, str]) -> dict[str, Any]:
    item, window = found
    rule = item.rule
    moved = f"{rule.value:g}" != window
    return {
        "rule": rule,
        "words": watch.says(rule),
        "why": f"windows here end at {window}"
        + ("; readings pass that in an ordinary week, so it stands further out" if moved else "")
        + f"; {_often(item.rung)} in {item.days:.0f} days",
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
    if silent:
        rule |= {"silent": True, "for_min": got["value"]}
    return _added(request, where, rule)


def _added(request: HttpRequest, where: Where, rule: dict[str, Any]) -> HttpResponse:
    return change(request, where, "Watched a limit", Add(collection="alerts", parts=(rule,), prefix="alert"))


@require_POST
@at_space
def take_proposal(request: HttpRequest, where: Where) -> HttpResponse:
    """Watch a limit that was proposed, as it is proposed now."""
    asked = (request.POST.get("figure"), request.POST.get("most") == "yes", request.POST.get("when"))
    for item, _ in _worth(where, where.report):
        if (item.rule.figure, item.rule.most, item.rule.when) == asked:
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
    prefix = f"alert-{rule.id}-"
    values: dict[str, Any] = {}
    for key in ("value", "for_min", "back"):
        try:
            values[key] = float(request.GET.get(prefix + key, "").replace(",", "."))
        except ValueError:
            continue
    if request.GET.get(prefix + "when") in dict(_WHEN):
        values["when"] = request.GET[prefix + "when"]
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
