"""The tab of plan against log: day by day, what explains the difference, slow changes, and probes that are checked."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.errors import EvaluationError, QuantityError
from canopy.evaluate import SpaceReport
from canopy.logs.measured import measured
from canopy.margin import Amount
from canopy.quantities import TEMPERATURE, Reader
from canopy.review.against import QUANTITIES, Against, DayAgainst, Explained, against, explain
from canopy.review.trends import ICE_C, Trend, compared, salt_rh_pct
from canopy.words import is_number
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm, offer
from canopy_web.logbook import tried
from canopy_web.logbook.learnable import newest_reading, sensors_around
from canopy_web.logbook.models import ProbeCheck, Sensor
from canopy_web.stations.review.following import shown_finding
from canopy_web.stations.review.taught import Taught, taught
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import page
from canopy_web.workspace.where import Where, at_space

_UNITS = {"air_c": ("temperature", "temperature rise", 1), "rh_pct": ("%", "%", 0), "co2_ppm": ("ppm", "ppm", 0)}
_NAMES = {"air_c": "Air", "rh_pct": "Humidity", "co2_ppm": "CO₂"}


class CheckForm(PartForm):
    """A probe against what is known."""

    sensor = forms.ChoiceField(label="probe")
    kind = forms.ChoiceField(
        choices=[("salt", "over wet salt, after 8 h"), ("ice", "in melting ice"), ("beside", "beside one you trust")],
        label="held",
    )
    showed = NumberField(min_value=-40, max_value=100_000, label="it shows")
    jar_c = QuantityField(TEMPERATURE, 0, 45, optional=True, label="jar's temperature (salt)")
    true = NumberField(min_value=-40, max_value=100_000, required=False, label="it should show (beside)")


def against_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: the days come after; here is what is known without them."""
    sensors = sensors_around(where.row, where.plan, where.space)
    own = [sensor for sensor in sensors if sensor.quantity in ("air_c", "rh_pct", "co2_ppm", "root_c")]
    checks = ProbeCheck.objects.filter(plan=where.row, sensor__in=own, struck=False).select_related("sensor", "by")
    return {
        "has_log": bool(newest_reading(sensors)),
        "check_form": (bad.get("check") or _check_form(where, own)) if own else None,
        "checks": [
            {"row": row, "off": f"{row.showed - row.true:+.1f} {measured(row.sensor.quantity).unit}"}
            for row in checks[:6]
        ],
    }


def _off(row: ProbeCheck) -> str:
    return f"{row.showed - row.true:+.1f} {measured(row.sensor.quantity).unit}".replace("-", "−")


def _check_form(where: Where, sensors: list[Sensor], data: Any = None) -> CheckForm:
    form = CheckForm({}, data, system=where.system, prefix="check")
    offer(
        form,
        sensor=[(str(sensor.pk), f"{sensor.name}, {measured(sensor.quantity).name.lower()}") for sensor in sensors],
    )
    return form


@require_GET
@at_space
def days(request: HttpRequest, where: Where) -> HttpResponse:
    """Show the days, what explains them, and what changes slowly."""
    shown: dict[str, Any] = dict(place(where))
    try:
        known = taught(where)
        found = against(known.learnable.asked) if known else None
    except EvaluationError as error:
        return render(request, "review/_days.html", {**shown, "trouble": str(error)})
    if known is None or found is None:
        return render(request, "review/_days.html", shown)
    reader = where.reader(where.report)
    told = found.days[-1].day if found.days else None
    explained = explain(known.learnable.asked, known.findings, told) if told else ()
    shown |= {
        "against": found,
        "rows": [_day_row(day, found, reader) for day in reversed(found.days)],
        "heads": [(_NAMES[key], when) for key in _told(found) for when in ("lit", "dark")],
        "explained": [_explained(where, item, reader) for item in explained],
        "told": told,
        "pairs": _pairs(known, reader),
        "fading": _trend(known.fading, "µmol/m²/s"),
        "flow": _flow(known, reader) if any(way.fans for way in where.space.airways) else None,
    }
    return render(request, "review/_days.html", shown)


def _told(found: Against) -> list[str]:
    return [
        key for key in QUANTITIES if any(day.half(key, lit=bright) for day in found.days for bright in (True, False))
    ]


def _day_row(day: DayAgainst, found: Against, reader: Reader) -> dict[str, Any]:
    cells: list[dict[str, Any] | None] = []
    for key in _told(found):
        unit, apart, decimals = _UNITS[key]
        for bright in (True, False):
            half = day.half(key, lit=bright)
            if half is None:
                cells.append(None)
                continue
            off = Amount(value=abs(half.off), unit=apart, decimals=decimals).text(reader)
            cells.append(
                {
                    "computed": Amount(value=half.computed, unit=unit, decimals=decimals).text(reader),
                    "measured": Amount(value=half.measured, unit=unit, decimals=decimals).text(reader),
                    "off": off if off.startswith("0 ") else f"{'+' if half.off > 0 else '−'}{off}",
                    "much": abs(half.off) >= QUANTITIES[key],
                    "name": f"{_NAMES[key]}, lamps {'on' if bright else 'off'}",
                }
            )
    stood = Amount(value=day.stood_h, unit="time").text(reader) if day.stood_h >= 0.1 else ""
    return {"day": day.day, "cells": cells, "stood": stood}


_WORDS = {
    ("air_c", True): ("warmer", "cooler"),
    ("rh_pct", True): ("damper", "drier"),
    ("co2_ppm", True): ("more CO₂", "less CO₂"),
}


def _explained(where: Where, item: Explained, reader: Reader) -> dict[str, Any]:
    _, apart, decimals = _UNITS[item.quantity]
    more, less = _WORDS[item.quantity, True]
    text = Amount(value=abs(item.off), unit=apart, decimals=decimals).text(reader)

    def moved(value: float) -> str:
        sign = "+" if value > 0 else "−"
        return sign + Amount(value=abs(value), unit=apart, decimals=decimals).text(reader)

    shares = [
        {**shown_finding(where, share.finding, reader), "moves": moved(share.moves)}
        for share in item.shares
        if abs(share.moves) >= 0.15 * abs(item.off)
    ]
    return {
        "words": f"{text} {more if item.off > 0 else less} than planned with lamps {'on' if item.lit else 'off'}",
        "shares": shares,
        "left": moved(item.left) if abs(item.left) >= 0.2 * QUANTITIES[item.quantity] else "",
        "hint": _hint(item),
    }


def _hint(item: Explained) -> str:
    first = item.shares[0] if item.shares and abs(item.shares[0].moves) > 0.3 * abs(item.off) else None
    if first is None:
        return ""
    factor = first.finding.factor or 1.0
    return {
        ("airflow", True): "A loaded filter, a kinked or longer duct, or a fan that is set lower?",
        ("airflow", False): "A fan set higher, or a shorter way than drawn?",
        ("leak", False): "A zip, port or flap that stands open?",
        ("leak", True): "",
        ("leaves", False): "More or larger leaves than drawn, or wetter pots?",
        ("leaves", True): "Fewer or smaller leaves than drawn, drier pots, or stomata that shut: look at them.",
    }.get((first.finding.subject, factor < 1), "")


def _pairs(known: Taught, reader: Reader) -> list[dict[str, Any]]:
    """Probes of one quantity in one place, held against each other."""
    out = []
    series = [item for item in known.learnable.series if item.quantity in _UNITS or item.quantity == "root_c"]
    for number, one in enumerate(series):
        for two in series[number + 1 :]:
            if (one.quantity, one.place, one.space_id) != (two.quantity, two.place, two.space_id):
                continue
            found = compared(one, two)
            _, apart, decimals = _UNITS.get(one.quantity, _UNITS["air_c"])
            text = Amount(value=abs(found.by), unit=apart, decimals=decimals).text(reader)
            out.append(
                {
                    "found": found,
                    "by": f"{text} {'more' if found.by > 0 else 'less'}",
                    "drifts": bool(found.drift and found.drift.sure),
                    "a_month": f"{30 * found.drift.a_day:+.1f}" if found.drift else "",
                }
            )
    return out


def _flow(known: Taught, reader: Reader) -> dict[str, Any]:
    """How what the fan moves changes from day to day."""
    found = known.flow
    computed = next((item.computed for item in known.findings if item.subject == "airflow" and item.computed), 0.0)
    a_month = Amount(value=abs(30 * found.trend.a_day * (computed or 0.0)), unit="airflow", decimals=1).text(reader)
    return {"found": found.trend, "a_month": f"{a_month} {'more' if found.trend.a_day > 0 else 'less'} a month"}


def _trend(found: Trend, unit: str) -> dict[str, Any]:
    return {"found": found, "a_month": f"{30 * found.a_day:+.1f} {unit}".replace("-", "−")}


@require_POST
@at_space
def check(request: HttpRequest, where: Where) -> HttpResponse:
    """Keep what a probe showed where it is known what it should show; or strike that again."""
    if struck := request.POST.get("strike", ""):
        tried.strike_check(where.row, int(struck) if is_number(struck) else 0)
        return page(request, where)
    sensors = [s for s in sensors_around(where.row, where.plan, where.space) if s.quantity in (*_UNITS, "root_c")]
    form = _check_form(where, sensors, request.POST)
    if not form.is_valid():
        return page(request, where, bad={"check": form})
    got = form.cleaned_data
    sensor = next(item for item in sensors if str(item.pk) == got["sensor"])
    try:
        true = _should_show(sensor, got)
    except QuantityError as error:
        form.add_error(None, str(error))
        return page(request, where, bad={"check": form})
    if abs(got["showed"] - true) > {"rh_pct": 25, "co2_ppm": 400}.get(sensor.quantity, 6):
        form.add_error(
            "showed", "too far off for a probe's error: is it the right probe, and was it there for long enough?"
        )
        return page(request, where, bad={"check": form})
    tried.keep_check(sensor, got["kind"], got["showed"], true, request.user)
    return page(request, where)


def _should_show(sensor: Sensor, got: dict[str, Any]) -> float:
    """What a probe should show; raises QuantityError where that cannot be said."""
    kind = got["kind"]
    if kind == "salt":
        if sensor.quantity != "rh_pct":
            raise QuantityError("the salt test is for a hygrometer")
        if got["jar_c"] is None:
            raise QuantityError("say how warm the jar is")
        return salt_rh_pct(got["jar_c"])
    if kind == "ice":
        if sensor.quantity not in ("air_c", "root_c"):
            raise QuantityError("the ice test is for a thermometer")
        return ICE_C
    if got["true"] is None:
        raise QuantityError("say what the one you trust shows")
    return float(got["true"])
