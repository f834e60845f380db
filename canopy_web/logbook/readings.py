"""Readings taken in and drawn together, and read back at the grain that a span of time asks for."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from django.db import connection, transaction
from django.db.models import Count, F, IntegerField, Max, Min, Sum
from django.db.models.functions import Cast
from numpy.typing import NDArray

from canopy.logs.measured import measured
from canopy_web.logbook.models import Reading, Rollup, Sensor, Source
from canopy_web.planning.models import GrowPlan

# What readings are drawn together over [s], each from the one before.
SPANS = (600, 3600)
# Up to so long every reading is shown, and up to so long the finer spans [s].
_RAW_S, _FINE_S = 36 * 3600, 10 * 86400
_MOST_RAW = 6000


@transaction.atomic
def keep_readings(rows: Sequence[tuple[int, int, float]]) -> int:
    """Keep readings (sensor, second of UTC, value in its kept unit); gives how many were new.

    One for a second that has a reading already is passed over: the first stands.
    """
    if not rows:
        return 0
    spans: dict[int, tuple[int, int]] = {}
    for sensor_id, at, _ in rows:
        low, high = spans.get(sensor_id, (at, at))
        spans[sensor_id] = (min(low, at), max(high, at))

    # A million rows are taken in four times as quickly as by records of the ORM; its connection and names are used.
    quoted = [connection.ops.quote_name(name) for name in (Reading._meta.db_table, "sensor_id", "at", "value")]
    table, columns = quoted[0], ", ".join(quoted[1:])
    with connection.cursor() as cursor:
        cursor.executemany(f"INSERT OR IGNORE INTO {table} ({columns}) VALUES (%s, %s, %s)", rows)
        new: int = cursor.rowcount
    if new:
        for sensor_id, (low, high) in spans.items():
            _roll_up(sensor_id, low, high)
    return new


def _roll_up(sensor_id: int, low: int, high: int) -> None:
    """Draw readings between two seconds together anew."""
    first = SPANS[0]
    drawn = (
        Reading.objects.filter(sensor_id=sensor_id, at__gte=low // first * first, at__lt=high // first * first + first)
        .annotate(bucket=Cast(F("at") / first, IntegerField()))
        .values("bucket")
        .annotate(count=Count("pk"), lowest=Min("value"), sum=Sum("value"), highest=Max("value"))
        .order_by("bucket")
    )
    _store(sensor_id, first, drawn.values_list("bucket", "count", "lowest", "sum", "highest"))
    for finer, span in pairwise(SPANS):
        begin, end = low // span * span, high // span * span + span
        coarser = (
            Rollup.objects.filter(sensor_id=sensor_id, span=finer, at__gte=begin, at__lt=end)
            .annotate(bucket=Cast(F("at") / span, IntegerField()))
            .values("bucket")
            .annotate(count=Sum("n"), lowest=Min("low"), sum=Sum("total"), highest=Max("high"))
            .order_by("bucket")
        )
        _store(sensor_id, span, coarser.values_list("bucket", "count", "lowest", "sum", "highest"))


def _store(sensor_id: int, span: int, rows: Iterable[Any]) -> None:
    key, figures = ("sensor_id", "span", "at"), ("n", "low", "total", "high")
    table, *columns = (connection.ops.quote_name(name) for name in (Rollup._meta.db_table, *key, *figures))
    fresh = ", ".join(f"{name} = excluded.{name}" for name in columns[len(key) :])
    with connection.cursor() as cursor:
        cursor.executemany(
            f"INSERT INTO {table} ({', '.join(columns)}) VALUES ({', '.join(['%s'] * len(columns))}) "
            f"ON CONFLICT ({', '.join(columns[: len(key)])}) DO UPDATE SET {fresh}",
            [(sensor_id, span, int(bucket) * span, *found) for bucket, *found in rows],
        )


def sensor_for(
    plan: GrowPlan, space_id: str, quantity: str, name: str, source: Source | None = None, label: str = ""
) -> Sensor:
    """Give a sensor by its name in a space, made where there is none; raises QuantityError for no quantity of ours."""
    measured(quantity)
    found, _ = Sensor.objects.get_or_create(
        plan=plan,
        space_id=space_id,
        quantity=quantity,
        name=name[:80],
        defaults={"source": source, "label": label[:120]},
    )
    return found


def sensors_of(plan: GrowPlan, space_id: str) -> list[Sensor]:
    """The sensors of a space."""
    return list(Sensor.objects.filter(plan=plan, space_id=space_id, struck=False).select_related("source"))


def newest(sensors: Iterable[Sensor]) -> dict[int, tuple[int, float]]:
    """The last reading of each sensor: when [s of UTC], and what."""
    found = {}
    for sensor in sensors:
        last = Reading.objects.filter(sensor=sensor).order_by("-at").values_list("at", "value").first()
        if last is not None:
            found[sensor.pk] = last
    return found


@dataclass(frozen=True, kw_only=True)
class Series:
    """A sensor's readings over a span of time: seconds of UTC and lowest, mean and highest of each, shape (n).

    ``span_s`` is what they are drawn together over; 0 where each stands for itself.
    """

    sensor: Sensor
    span_s: int
    at: NDArray[np.int64]
    low: NDArray[np.float64]
    mean: NDArray[np.float64]
    high: NDArray[np.float64]


def series_of(sensor: Sensor, begin: int, end: int, span_s: int = 0) -> Series:
    """Read a sensor's readings from a second to before another, as fine as that long a time can show or, where
    ``span_s`` is one of ``SPANS``, drawn together so far.
    """
    long = end - begin
    if long <= _RAW_S and not span_s:
        rows = list(
            Reading.objects.filter(sensor=sensor, at__gte=begin, at__lt=end)
            .order_by("at")
            .values_list("at", "value")[: _MOST_RAW + 1]
        )
        if len(rows) <= _MOST_RAW:
            at, value = _columns(rows, 2)
            return Series(sensor=sensor, span_s=0, at=at.astype(np.int64), low=value, mean=value, high=value)
    span = span_s or (SPANS[0] if long <= _FINE_S else SPANS[1])
    found = (
        Rollup.objects.filter(sensor=sensor, span=span, at__gte=begin // span * span, at__lt=end)
        .order_by("at")
        .values_list("at", "n", "low", "total", "high")
    )
    at, n, low, total, high = _columns(list(found), 5)
    return Series(sensor=sensor, span_s=span, at=at.astype(np.int64), low=low, mean=total / n, high=high)


def coarser(series: Series, span_s: int) -> Series:
    """Draw a series together over longer spans; as it is where it is as coarse already."""
    if series.at.size == 0 or series.span_s >= span_s:
        return series
    buckets = series.at // span_s
    begins = np.flatnonzero(np.diff(buckets, prepend=buckets[0] - 1))
    counts = np.diff(np.append(begins, series.at.size))
    return Series(
        sensor=series.sensor,
        span_s=span_s,
        at=buckets[begins] * span_s,
        low=np.minimum.reduceat(series.low, begins),
        mean=np.add.reduceat(series.mean, begins) / counts,
        high=np.maximum.reduceat(series.high, begins),
    )


def _columns(rows: Sequence[tuple[float, ...]], count: int) -> tuple[NDArray[np.float64], ...]:
    table = np.array(rows, dtype=float).reshape(-1, count)
    return tuple(table[:, number] for number in range(count))


def bounds_of(sensors: Iterable[Sensor]) -> tuple[int, int] | None:
    """The first and the last second of UTC at which any of these showed something; None where none ever did."""
    ids = [sensor.pk for sensor in sensors]
    found = Rollup.objects.filter(sensor_id__in=ids, span=SPANS[-1]).aggregate(first=Min("at"), last=Max("at"))
    if found["first"] is None:
        return None
    return int(found["first"]), int(found["last"]) + SPANS[-1]
