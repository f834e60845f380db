"""A rehearsal as lines over the hours: two hours before, the trouble marked, what comes after, and the limits."""

from __future__ import annotations

import json

import numpy as np

from canopy.evaluate.climate.rehearsal.rehearsed import Rehearsed
from canopy.margin import Amount
from canopy.quantities import Reader
from canopy_web.drawing.traces import WIDTH, Layout, Panel, Row, Tick, TraceSheet, read_out

_BEFORE_H = 2.0
# About so many marks along the hours, at steps that people count in [h].
_MARKS, _STEPS_H = 8, (0.5, 1, 2, 3, 6, 12, 24, 48)


def _limits(done: Rehearsed, figure: str) -> list[tuple[float, str]]:
    """The nearest limit to both sides, and the alert."""
    found: list[tuple[float, str]] = []
    for most in (True, False):
        mine = [item.limit for item in done.passes if item.limit.figure == figure and item.limit.most == most]
        if mine:
            near = min(mine, key=lambda limit: limit.value if most else -limit.value)
            found.append((near.value, f"limit of {near.who}"))
    warning = done.warning
    if warning is not None and warning.figure == figure:
        found.append((warning.value, "alert"))
    return found


def rehearsal_sheet(done: Rehearsed, reader: Reader) -> TraceSheet:
    """Draw a rehearsal up.

    Parameters
    ----------
    done : what came of it
    reader : how the person reads figures
    """
    begins, upset = done.upset.begins_h, done.upset
    lasts = float(done.found.traces.hours[-1]) - begins
    every_s = 60.0 if lasts < 20 else 300.0 if lasts < 60 else 600.0
    layout = Layout(done.found, reader, begins - _BEFORE_H, every_s)
    layout.amiss = (begins, upset.ends_h)
    warm = "°F" if reader.system == "us" else "°C"
    panels: list[Panel] = [
        layout.panel(
            "Temperature",
            warm,
            (("air_c", "air", "air"), ("leaf_c", "leaf", "leaf"), ("root_c", "roots", "root")),
            (),
            150,
            (18, 24),
            kelvin=True,
            limits=_limits(done, "air_c"),
        ),
        layout.panel("Humidity", "%", (("rh_pct", "air", "air"),), (), 100, (40, 70), limits=_limits(done, "rh_pct")),
        layout.panel("CO₂", "ppm", (("co2_ppm", "air", "air"),), (), 60, (300, 500), limits=_limits(done, "co2_ppm")),
    ]
    rows: list[Row] = []
    wet = done.found.traces.film_g > 0.5
    if wet[layout.keep].any():
        rows.append(layout.row("water on walls", wet.astype(float)))
    step = next((h for h in _STEPS_H if lasts / h <= _MARKS), _STEPS_H[-1])
    marks = np.arange(0, lasts + 0.01, step)
    since = layout.hours - begins
    return TraceSheet(
        width=WIDTH + 40,
        height=round(layout.y + 16, 1),
        left=layout.left,
        right=layout.right,
        top=layout.top,
        bottom=round(layout.y - 4, 1),
        panels=tuple(panels),
        rows=tuple(rows),
        hours=tuple(
            Tick(at=round(layout.x(float(begins + h)), 1), text=f"{h:g} h" if step < 24 else f"day {h / 24:g}")
            for h in marks
        ),
        values=json.dumps(
            {
                "x": [round(layout.x(h), 1) for h in layout.hours],
                "clock": [_after(h) for h in since],
                "air": read_out(layout.values("air_c"), f" {warm}", 1, reader),
                "leaf": read_out(layout.values("leaf_c"), f" {warm}", 1, reader),
                "roots": read_out(layout.values("root_c"), f" {warm}", 1, reader),
                "humidity": read_out(layout.values("rh_pct"), " %", 0),
                "CO₂": read_out(layout.values("co2_ppm"), " ppm", 0),
                "air moved": [Amount(value=float(q), unit="airflow").text(reader) for q in layout.values("flow_m3_h")],
            },
            ensure_ascii=False,
        ),
        label=f"{done.fault.name}: temperature, humidity and CO₂ from two hours before it on",
    )


def _after(hours: float) -> str:
    minutes = round(abs(hours) * 60)
    text = f"{minutes // 60} h {minutes % 60:02d} min" if minutes >= 60 else f"{minutes} min"
    return f"{text} {'before' if hours < 0 else 'after'}"
