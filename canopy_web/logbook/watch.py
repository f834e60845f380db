"""Readings watched: what a space's alerts would have rung, and what rings now, written down once."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
from django.db import transaction
from django.db.models import Q
from django.utils import timezone
from numpy.typing import NDArray

from canopy.logs.counts import rises
from canopy.logs.daily import offsets_s
from canopy.logs.measured import MEASURED
from canopy.logs.moist import vpd_kpa
from canopy.logs.watch import Episode, episodes, silences
from canopy.margin import Amount
from canopy.plan import Plan, Space
from canopy.plan.controls import Alert
from canopy_web.logbook.entries import entries_of
from canopy_web.logbook.models import AlertEvent, Reading, Rollup, Sensor
from canopy_web.logbook.readings import sensors_of
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

FINE_S = 600
# How far back one looks for what rings now, unless something open began before [s].
_BACK_S, _BEFORE_S = 30 * 3600, 7200
# People count every few days.
_COUNTED_S = 45 * 86400
_NAMES = {"vpd_kpa": ("VPD", "kPa"), "trap_rise": ("More on each trap since the count before", "")}
# What the person's own units are for what is kept in these.
_UNITS = {"°C": "temperature", "L": "volume"}


@dataclass(frozen=True, kw_only=True)
class Watched:
    """Readings of one figure in one place: seconds of UTC, values, and whether lamps were on, shape (n). What people
    counted has no sensor.
    """

    sensor: Sensor | None
    at: NDArray[np.int64]
    value: NDArray[np.float64]
    lit: NDArray[np.bool_]


def named(figure: str) -> tuple[str, str]:
    """The name and the unit of a figure."""
    if figure in _NAMES:
        return _NAMES[figure]
    item = MEASURED[figure]
    return item.name, item.unit


def stamp_of(rule: Alert) -> str:
    """What tells a rule from what it was before it was changed."""
    return hashlib.sha256(rule.model_dump_json(exclude={"why"}).encode()).hexdigest()[:12]


def lit_minutes(space: Space) -> NDArray[np.bool_]:
    """Whether any lamp of a space is on, minute by minute of the day, shape (1440)."""
    minutes = np.zeros(1440, dtype=bool)
    for span in space.lit:
        for minute in range(int(span.start_min), int(np.ceil(span.end_min))):
            minutes[minute % 1440] = True
    return minutes


def lit_at(space: Space, at: NDArray[np.int64], zone: Any) -> NDArray[np.bool_]:
    """Whether any lamp of a space was on at each of some seconds of UTC, by its clocks as they are now."""
    found: NDArray[np.bool_] = lit_minutes(space)[((at + offsets_s(at, zone)) % 86400) // 60]
    return found


def watched(
    row: GrowPlan,
    space: Space,
    sensors: Sequence[Sensor],
    figure: str,
    begin: int,
    end: int,
    zone: Any,
    *,
    fine: bool = False,
) -> list[Watched]:
    """Read what a figure's sensors in a space showed; drawn together by ten minutes, unless it is wanted ``fine``.

    VPD is that of the first pair of sensors of air and humidity; what traps held comes from the log.
    """
    if figure == "trap_rise":
        at, value = rises(entries_of(row, [space.id]))
        within = (at >= begin) & (at < end)
        if not within.any():
            return []
        return [Watched(sensor=None, at=at[within], value=value[within], lit=lit_at(space, at[within], zone))]
    inside = [sensor for sensor in sensors if sensor.place == "space"]
    if figure == "vpd_kpa":
        pair = [next((s for s in inside if s.quantity == key), None) for key in ("air_c", "rh_pct")]
        if pair[0] is None or pair[1] is None:
            return []
        (at, air), (other, damp) = (_read(sensor, begin, end, fine) for sensor in pair if sensor is not None)
        both, one, two = np.intersect1d(at, other, return_indices=True)
        value = vpd_kpa(air[one], damp[two])
        return [Watched(sensor=pair[0], at=both, value=value, lit=lit_at(space, both, zone))]
    found = []
    for sensor in inside:
        if sensor.quantity == figure:
            at, value = _read(sensor, begin, end, fine)
            found.append(Watched(sensor=sensor, at=at, value=value, lit=lit_at(space, at, zone)))
    return found


def _read(sensor: Sensor, begin: int, end: int, fine: bool) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    if fine:
        rows = (
            Reading.objects.filter(sensor=sensor, at__gte=begin, at__lt=end).order_by("at").values_list("at", "value")
        )
        table = np.array(list(rows), dtype=float).reshape(-1, 2)
        return table[:, 0].astype(np.int64), table[:, 1]
    drawn = Rollup.objects.filter(sensor=sensor, span=FINE_S, at__gte=begin, at__lt=end).order_by("at")
    table = np.array(list(drawn.values_list("at", "n", "total")), dtype=float).reshape(-1, 3)
    return table[:, 0].astype(np.int64), table[:, 2] / np.maximum(table[:, 1], 1)


def would_ring(
    row: GrowPlan, space: Space, sensors: Sequence[Sensor], rule: Alert, begin: int, end: int, zone: Any
) -> int:
    """How often a rule would have rung from a second to another, over all sensors of its figure."""
    found = watched(row, space, sensors, rule.figure, begin, end, zone)
    if rule.silent:
        return sum(len(silences(item.at, int(item.at[0]), end, rule.for_min)) for item in found if item.at.size)
    return sum(len(episodes(item.at, item.value, rule, item.lit)) for item in found)


@transaction.atomic
def watch(row: GrowPlan, plan: Plan, space: Space, zone: Any, now: int | None = None) -> int:
    """Write down what rings in a space and what is over; gives how many alerts are new. Twice is as good as once."""
    if not space.alerts:
        _close_others(row, space, set(), now or int(time.time()))
        return 0
    end = int(time.time()) if now is None else now
    sensors = sensors_of(row, space.id)
    held = {
        (event.rule_id, event.stamp, event.sensor_id): event
        for event in AlertEvent.objects.filter(plan=row, space_id=space.id, end=None)
    }
    _close_others(row, space, {(rule.id, stamp_of(rule)) for rule in space.alerts}, end)
    new = 0
    for rule in space.alerts:
        stamp = stamp_of(rule)
        begins = [event.begin for key, event in held.items() if key[:2] == (rule.id, stamp)]
        back = max(_BACK_S if rule.figure != "trap_rise" else _COUNTED_S, int(2 * 60 * rule.for_min))
        begin = min([end - back, *(first - _BEFORE_S for first in begins)])
        for item in watched(row, space, sensors, rule.figure, begin, end + 1, zone, fine=True):
            for found in _found(rule, item, end):
                new += _written(row, space, rule, stamp, item.sensor, found)
    return new


def _found(rule: Alert, item: Watched, end: int) -> Sequence[Episode]:
    if rule.silent:
        if item.sensor is None:
            return ()
        last = Reading.objects.filter(sensor=item.sensor).order_by("-at").values_list("at", flat=True).first()
        first = int(item.at[0]) if item.at.size else last
        return silences(item.at, first, end, rule.for_min) if first is not None else ()
    return episodes(item.at, item.value, rule, item.lit)


def _written(row: GrowPlan, space: Space, rule: Alert, stamp: str, sensor: Sensor | None, found: Episode) -> int:
    same = AlertEvent.objects.filter(plan=row, space_id=space.id, rule_id=rule.id, stamp=stamp, sensor=sensor)
    # One that began before what is looked at now is known by the time that both share.
    until = found.end if found.end is not None else found.rang + 10**9
    event = same.filter(Q(end=None) | Q(end__gte=found.begin), begin__lte=until).first()
    if event is None:
        AlertEvent.objects.create(
            plan=row,
            space_id=space.id,
            rule_id=rule.id,
            stamp=stamp,
            sensor=sensor,
            begin=found.begin,
            rang=found.rang,
            end=found.end,
            worst=found.worst,
            words=says(rule),
            rule=rule.model_dump(mode="json"),
        )
        return 1
    if event.end is None:
        event.end, event.worst = found.end, found.worst
        event.save(update_fields=["end", "worst"])
    return 0


def _close_others(row: GrowPlan, space: Space, known: set[tuple[str, str]], end: int) -> None:
    """What an alert that is gone or was changed since had rung is over."""
    for event in AlertEvent.objects.filter(plan=row, space_id=space.id, end=None):
        if (event.rule_id, event.stamp) not in known:
            event.end = end
            event.save(update_fields=["end"])


def says(rule: Alert, system: str = "metric") -> str:
    """Say what a rule watches for."""
    name, _ = named(rule.figure)
    if rule.figure == "trap_rise":
        return f"Traps fill: over {rule.value:g} more on each since the count before"
    if rule.silent:
        return f"{name}: nothing read for {rule.for_min:g} min"
    side = "above" if rule.most else "below"
    when = {"day": " by day", "night": " by night"}.get(rule.when, "")
    long = f" for {rule.for_min:g} min" if rule.for_min else ""
    return f"{name} {side} {figure_text(rule.figure, rule.value, system)}{when}{long}"


def figure_text(figure: str, value: float, system: str = "metric") -> str:
    """Write a figure that is watched in a person's units."""
    unit = named(figure)[1]
    if system == "us" and unit in _UNITS:
        return Amount(value=value, unit=_UNITS[unit]).text(system).replace("\u00a0", " ")
    return f"{value:.4g} {unit}".rstrip()


def event_words(event: AlertEvent, system: str = "metric") -> str:
    """Say what rang in a person's units; as it was written then where the rule was not kept."""
    return says(Alert.model_validate(event.rule), system) if event.rule else event.words


def event_worst(event: AlertEvent, system: str = "metric") -> str:
    """Say how bad it got; nothing for a sensor that was silent."""
    if not event.rule:
        return f"{event.worst:.4g}" if "nothing read" not in event.words else ""
    rule = Alert.model_validate(event.rule)
    return "" if rule.silent else figure_text(rule.figure, event.worst, system)


def acknowledge(row: GrowPlan, pk: int, by: Any) -> None:
    """Say that somebody has seen an alert."""
    AlertEvent.objects.filter(plan=row, pk=pk, seen=None).update(seen=timezone.now(), seen_by=by)


def watch_plan(row: GrowPlan, space_ids: Collection[str] | None = None, now: int | None = None) -> int:
    """Watch all or some spaces of a plan as it stands; gives how many alerts are new."""
    fresh = GrowPlan.objects.select_related("head").get(pk=row.pk)
    plan = to_plan(fresh)
    zone = ZoneInfo(plan.site.time_zone) if plan.site.time_zone else timezone.get_current_timezone()
    spaces = [space for space in plan.spaces if space_ids is None or space.id in space_ids]
    return sum(watch(fresh, plan, space, zone, now) for space in spaces)
