"""Tests that are walked through: begun, watched while the log goes on, and their result followed by the plan."""

from __future__ import annotations

import datetime as dt
import time
from typing import Any

import numpy as np
from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET, require_POST

from canopy.air import volume_m3
from canopy.design.change import Remedy
from canopy.margin import sentence
from canopy.review.decay import decay
from canopy.review.finding import Finding
from canopy.review.guided import decay_finding, heater_findings
from canopy.review.heater import HeaterTest, heater_test, stage
from canopy.review.playback import FAN, LAMPS, on_share
from canopy.review.series import Grid, laid_out
from canopy_web.forms.fields import NumberField
from canopy_web.forms.part import PartForm
from canopy_web.logbook import tried
from canopy_web.logbook.learnable import fed_by, sensors_around, series_between
from canopy_web.logbook.models import GuidedTest
from canopy_web.stations.review.following import correcting, shown_finding
from canopy_web.workspace.proposals import place, show_or_do
from canopy_web.workspace.reply import page
from canopy_web.workspace.where import Where, at_space

_EVERY_S, _MOST_S = 60, 12 * 3600
KINDS = (("heater", "a fan heater: what the fan moves, what walls pass"), ("co2", "CO₂ that falls: air exchange"))


class TestForm(PartForm):
    """Which test, and what the log cannot know of it."""

    kind = forms.ChoiceField(choices=KINDS, label="test with")
    watts = NumberField(min_value=5, max_value=3000, required=False, label="heater, W, if no plug measures it")
    emptied = forms.BooleanField(required=False, label="plants and pots are out")


def blank_test(where: Where, data: Any = None) -> TestForm:
    """The form with which a test is begun."""
    return TestForm({"kind": "heater", "emptied": True}, data, system=where.system, prefix="test")


def test_shown(where: Where) -> dict[str, Any]:
    """The test that runs, and those that ended."""
    rows = GuidedTest.objects.filter(plan=where.row, space_id=where.space.id, struck=False)
    running = rows.filter(ended=None).first()
    return {
        "running": _state(where, running) if running else None,
        "past": [_state(where, row) for row in rows.exclude(ended=None)[:4]],
    }


def _grid(where: Where, row: GuidedTest) -> Grid:
    ends = min(row.ended or int(time.time()), row.begun + _MOST_S)
    series = [
        series_between(sensor, row.begun, ends, fed_by(sensor, where.space))
        for sensor in sensors_around(where.row, where.plan, where.space)
    ]
    return laid_out(series, row.begun, ends, _EVERY_S)


def _fan(grid: Grid, row: GuidedTest) -> np.ndarray:
    if FAN in grid.watts and np.isfinite(grid.watts[FAN]).mean() > 0.5:
        share, usual = on_share(grid.watts[FAN])
        return np.nan_to_num(share) if usual > 0 else np.zeros(grid.steps)
    at = grid.begins + (np.arange(grid.steps) + 0.5) * grid.every_s
    return (at >= row.fan_on).astype(float) if row.fan_on else np.zeros(grid.steps)


def _heater(grid: Grid, row: GuidedTest) -> HeaterTest | None:
    if "air_c" not in grid.inside or "air_c" not in grid.room or not grid.steps:
        return None
    plugs = [value for key, value in grid.watts.items() if key not in (FAN, LAMPS)]
    watts = np.nansum(plugs, axis=0) if plugs else np.full(grid.steps, row.watts or 0.0)
    return HeaterTest(
        step_s=float(grid.every_s),
        air_c=grid.inside["air_c"],
        room_c=grid.room["air_c"],
        power_w=np.where(watts > 0, watts, row.watts or 0.0),
        fan=_fan(grid, row),
        emptied=row.emptied,
    )


def _state(where: Where, row: GuidedTest) -> dict[str, Any]:
    """How a test stands: what to do now, how far that is, what was read, and what came of it."""
    grid = _grid(where, row)
    told: dict[str, Any] = {
        "test": row,
        "begun": dt.datetime.fromtimestamp(row.begun, where.zone),
        "metered": FAN in grid.watts,
        "kind": dict(KINDS)[row.kind],
    }
    if row.kind == "co2":
        return told | _co2_state(grid, row)
    made = _heater(grid, row)
    if made is None or not np.isfinite(made.air_c).any():
        return told | {"now": "waits for readings of the air inside and of the room", "share": 0, "missing": True}
    step, share = stage(made)
    warm = made.air_c[np.isfinite(made.air_c)][-1]
    room = made.room_c[np.isfinite(made.room_c)]
    words = {
        "warming": "Heater on, fan off: it warms up. Leave it shut.",
        "off enough": "Warm enough. Switch the fan on now, leave the heater on.",
        "on": "Heater on, fan on: it settles.",
        "enough": "Enough. Switch the heater off and end the test.",
    }
    return told | {
        "now": words[step],
        "stage": step,
        "share": share,
        "over": float(warm - room[-1]) if len(room) else None,
        "asks_fan": step == "off enough" and FAN not in grid.watts and row.fan_on is None,
    }


def _co2_state(grid: Grid, row: GuidedTest) -> dict[str, Any]:
    gas = grid.inside.get("co2_ppm")
    if gas is None or not np.isfinite(gas).any():
        return {"now": "waits for readings of CO₂", "share": 0, "missing": True}
    fine = gas[np.isfinite(gas)]
    top, last = float(fine.max()), float(fine[-1])
    fell = (top - last) / max(top - 430, 1)
    return {
        "now": (
            f"It rose to {top:.0f} ppm and shows {last:.0f} now; three quarters of the way down to the room is enough."
        ),
        "share": min(1.0, fell / 0.75),
        "stage": "enough" if fell >= 0.75 else "on",
    }


def findings_of(where: Where, row: GuidedTest) -> tuple[Finding, ...]:
    """What a test comes to."""
    grid = _grid(where, row)
    day = dt.datetime.fromtimestamp(row.begun, where.zone).date()
    ways = [way for way in where.space.airways if way.fans]
    if row.kind == "co2":
        gas = grid.inside.get("co2_ppm", np.full(grid.steps, np.nan))
        fine = np.flatnonzero(np.isfinite(gas))
        if not fine.size:
            return ()
        fine = fine[fine >= fine[int(np.argmax(gas[fine]))]]
        room = grid.room.get("co2_ppm")
        base = float(np.nanmedian(room)) if room is not None and np.isfinite(room).any() else where.room.co2_ppm
        result = decay(grid.begins + fine * grid.every_s, gas[fine], base, volume_m3(where.space))
        ran = ways[0].id if ways and float(_fan(grid, row)[fine].mean()) > 0.8 else None
        return (decay_finding(result, where.plan, where.space, where.report, ran, day),)
    made = _heater(grid, row)
    if made is None or not ways:
        return ()
    return heater_findings(heater_test(made), where.plan, where.space, where.report, ways[0].id, day)


@require_POST
@at_space
def begin(request: HttpRequest, where: Where) -> HttpResponse:
    """Begin a test; one at a time."""
    form = blank_test(where, request.POST)
    if not form.is_valid():
        return page(request, where, bad={"test": form})
    got = form.cleaned_data
    tried.begin_test(where.row, where.space.id, got["kind"], got["watts"], got["emptied"], request.user)
    return page(request, where)


def _row(where: Where, pk: int) -> GuidedTest:
    return get_object_or_404(GuidedTest, plan=where.row, space_id=where.space.id, pk=pk, struck=False)


@require_GET
@at_space
def watch(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Show how a test stands now."""
    return render(request, "review/_test.html", {**place(where), "item": _state(where, _row(where, pk))})


@require_POST
@at_space
def fan_on(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Note that the fan was switched on just now."""
    tried.fan_on_now(_row(where, pk))
    return page(request, where)


@require_POST
@at_space
def end(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """End a test, or strike it."""
    tried.end_test(_row(where, pk), strike=bool(request.POST.get("strike")))
    return page(request, where)


@at_space
def take(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Show what a test comes to and what following it would move; on POST follow it."""
    found = findings_of(where, _row(where, pk))
    good = [item for item in found if item.grade != "unknown"]
    changes = tuple(act for item in good for act in correcting(where, item))
    proposal = Remedy(label=sentence("Follow this test"), changes=changes) if changes else None
    why = next((item.limits for item in found if item.grade == "unknown"), "nothing was measured that it could tell")
    reader = where.reader(where.report)
    told = [{**shown_finding(where, item, reader), "limits": item.limits} for item in good]
    return show_or_do(
        request,
        where,
        proposal,
        "review/_take_test.html",
        nothing="This test does not say that.",
        pk=pk,
        why=why,
        told=told,
    )
