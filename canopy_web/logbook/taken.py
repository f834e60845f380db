"""Readings and entries as tables to take along, line by line, so that a million of them need no memory."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
from collections.abc import Iterable, Iterator, Sequence

from canopy.logs.measured import measured
from canopy_web.logbook.models import LogEntry, Reading, Sensor
from canopy_web.planning.models import GrowPlan

_HEAD = ("time_utc", "space", "place", "sensor", "quantity", "unit", "value")


def reading_lines(
    plan: GrowPlan, sensors: Iterable[Sensor] | None = None, span: tuple[int, int] | None = None
) -> Iterator[str]:
    """Write readings as lines of a table: all of a plan, or those of some sensors between two seconds of UTC."""
    known = {s.pk: s for s in (Sensor.objects.filter(plan=plan) if sensors is None else sensors)}
    yield _line(_HEAD)
    found = Reading.objects.filter(sensor_id__in=list(known))
    if span is not None:
        found = found.filter(at__gte=span[0], at__lt=span[1])
    rows = found.order_by("sensor_id", "at").values_list("sensor_id", "at", "value")
    for sensor_id, at, value in rows.iterator(5000):
        sensor = known[sensor_id]
        when = dt.datetime.fromtimestamp(at, dt.UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        unit = measured(sensor.quantity).unit
        yield _line((when, sensor.space_id, sensor.place, sensor.name, sensor.quantity, unit, f"{value:.10g}"))


def entry_lines(plan: GrowPlan) -> Iterator[str]:
    """Write the log as lines of a table, the oldest first."""
    yield _line(("time_utc", "space", "kind", "figures", "plants", "note", "struck", "key"))
    for row in LogEntry.objects.filter(plan=plan).order_by("at", "pk").iterator(2000):
        when = row.at.astimezone(dt.UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        plants, struck = " ".join(row.plants), "yes" if row.struck else ""
        yield _line((when, row.space_id, row.kind, json.dumps(row.data), plants, row.note, struck, row.key))


def _line(cells: Sequence[str]) -> str:
    out = io.StringIO()
    csv.writer(out).writerow(cells)
    return out.getvalue()
