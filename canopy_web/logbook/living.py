"""A demo household that is lived in: its sources are the stand-ins, its log begins with what they have shown."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from canopy.logs.entries import Entry
from canopy.logs.pointed import Pointer
from canopy_web.accounts.models import Preference
from canopy_web.logbook.entries import write
from canopy_web.logbook.models import Sensor, Source
from canopy_web.logbook.readings import keep_readings
from canopy_web.logbook.sources import SourceShape, Switched, open_at
from canopy_web.logbook.watch import watch_plan
from canopy_web.planning.demo import CLOSET, ROUNDS, round_plants
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan
from canopy_web.standins.names import read_week

_RICH = "berry-tent"
# So far back its alerts are looked through, so many hours at a time.
_LIVED_H, _LOOK_H = 240, 24
# Probe, key in what a hub says, quantity, name.
_PROBES = (
    ("air", "air_temperature", "air_c", "Air"),
    ("damp", "humidity", "rh_pct", "Humidity"),
    ("co2", "co2", "co2_ppm", "CO₂"),
    ("root", "root_temperature", "root_c", "Roots"),
    ("light", "ppfd", "ppfd", "Light at the leaves"),
    ("room air", "room_temperature", "air_c", "Room"),
    ("room damp", "room_humidity", "rh_pct", "Room's humidity"),
)
_IN_ROOM = ("room air", "room damp")
_SOCKETS = (("fan", "Exhaust fan's plug", "fan"), ("lamps", "Lamps' plug", "lamps"))
# What the people of the house wrote down: days and hours ago, where, what, its figures, words.
_WRITTEN: tuple[tuple[float, str, str, dict[str, Any], str], ...] = (
    (8.3, _RICH, "pests", {"what": "thrips", "count": 2, "on": "trap", "looked_at": 2}, ""),
    (8.2, _RICH, "water", {"litres": 3.2, "ec_ms_cm": 1.2, "ph": 5.9, "feed": True}, ""),
    (7.4, "hall-closet", "water", {"litres": 1.1}, ""),
    (6.2, _RICH, "water", {"litres": 3.4, "ec_ms_cm": 1.2, "ph": 6.0, "feed": True}, ""),
    (5.3, _RICH, "work", {"act": "prune"}, "runners off the strawberries"),
    (5.1, "sideboard", "water", {"litres": 0.4}, "from below, drained after half an hour"),
    (4.4, _RICH, "pests", {"what": "thrips", "count": 3, "on": "trap", "looked_at": 2}, ""),
    (4.3, _RICH, "water", {"litres": 3.3, "ec_ms_cm": 1.3, "ph": 6.0, "feed": True}, ""),
    (3.2, _RICH, "note", {}, "The fan's plug had slipped out over night; everything was wet. Pushed it back in."),
    (3.1, _RICH, "harvest", {"weight_kg": 0.085, "count": 9, "quality": 4}, ""),
    (2.3, "hall-closet", "harvest", {"weight_kg": 0.06, "quality": 5}, "outer leaves"),
    (2.2, _RICH, "water", {"litres": 3.6, "ec_ms_cm": 1.3, "ph": 6.1, "feed": True}, ""),
    (1.3, "fern-case", "note", {}, "A new frond is unrolling at the back."),
    (0.8, _RICH, "harvest", {"weight_kg": 0.12, "count": 13, "quality": 4}, ""),
    (0.4, _RICH, "pests", {"what": "thrips", "count": 9, "on": "trap", "looked_at": 2}, "more on the left trap"),
    (0.3, _RICH, "water", {"litres": 3.5, "ec_ms_cm": 1.3, "ph": 6.0, "feed": True}, ""),
)
# What each plant of the two rounds in the closet weighed when it was cut [g], on the last day of each.
_WEIGHED = ((43, 37, 45, 39), (19, 16, 21, 17))


def move_in(plan: GrowPlan) -> None:
    """Let a visitor's household ask the stand-ins from now on, with what they have shown and its people wrote."""
    if not settings.STANDINS:
        return
    with transaction.atomic():
        # Nobody is there: the demo writes letters as files, and shows them.
        address = f"{plan.owner.get_username()}@demo.invalid"
        Preference.objects.update_or_create(user=plan.owner, defaults={"mail": address})
        _sources(plan)
        now = timezone.now()
        for number, (days, space_id, kind, data, note) in enumerate(_WRITTEN):
            at = now - dt.timedelta(days=days)
            entry = Entry(key=f"lived-{number:04d}", space_id=space_id, kind=kind, at=at, data=data, note=note)
            write(plan, entry, plan.owner)
        for entry in _weighed(now):
            write(plan, entry, plan.owner)
        fill(plan)


def _weighed(now: dt.datetime) -> Iterator[Entry]:
    for number, ((key, _, _, cleared), grams) in enumerate(zip(ROUNDS, _WEIGHED, strict=True)):
        for plant, weight in zip(round_plants(number), grams, strict=True):
            yield Entry(
                key=f"lived-{key}-{plant}",
                space_id=CLOSET,
                kind="harvest",
                at=now - dt.timedelta(days=cleared + 1),
                plants=(plant,),
                data={"weight_kg": weight / 1000, "count": 1},
            )


def fill(plan: GrowPlan) -> int:
    """Keep what the stand-ins have shown so far; twice is as good as once. Gives how many readings were new."""
    found = _by_probe(plan)
    rows = [
        (found[space_id, name], at, value)
        for space_id, name, at, value in read_week(Path(settings.DATA))
        if (space_id, name) in found
    ]
    new = keep_readings(rows)
    if new:
        # What rang in that time is written down as if somebody had watched.
        now = int(timezone.now().timestamp())
        spaces = to_plan(GrowPlan.objects.select_related("head").get(pk=plan.pk)).spaces
        some = {space.id for space in spaces if space.alerts}
        for back in range(_LIVED_H, -1, -_LOOK_H):
            watch_plan(plan, some, now=now - back * 3600)
    return new


def _by_probe(plan: GrowPlan) -> dict[tuple[str, str], int]:
    """The sensors of a household by the stand-ins' names: space ("" for outdoors) and probe."""
    names = {(name, quantity): probe for probe, _, quantity, name in _PROBES}
    names |= {(name, "power_w"): f"{socket} socket" for socket, name, _ in _SOCKETS}
    names |= {("Outdoors", "air_c"): "outdoor air", ("Humidity outdoors", "rh_pct"): "outdoor damp"}
    found = {}
    for sensor in Sensor.objects.filter(plan=plan, struck=False, source__isnull=False):
        probe = names.get((sensor.name, sensor.quantity))
        if probe is not None:
            found["" if sensor.place == "outdoors" else sensor.space_id, probe] = sensor.pk
    return found


def _pointers(rich: bool) -> tuple[Pointer, ...]:
    found = [
        Pointer(path=f"$.{key}", quantity=quantity, name=name, place="room" if probe in _IN_ROOM else "space")
        for probe, key, quantity, name in (_PROBES if rich else _PROBES[:2])
    ]
    if rich:
        found.append(Pointer(path="$.battery", quantity="battery_pct", name="Hub's battery"))
    return tuple(found)


def _sources(plan: GrowPlan) -> None:
    http, mqtt = settings.STANDINS
    at = f"http://127.0.0.1:{http}"
    for space_id, name in ((_RICH, "Hub in the tent"), ("sideboard", "Hub in the sideboard")):
        shape = SourceShape(every_s=60, at="$.time", values=_pointers(space_id == _RICH))
        open_at(plan, space_id, "pull", name, f"{at}/hub/{space_id}", shape)
    for space_id, name in (("hall-closet", "Closet, by MQTT"), ("fern-case", "Fern case, by MQTT")):
        topic = f"larkspur/{space_id}/climate"
        values = tuple(item.model_copy(update={"topic": topic}) for item in _pointers(False))
        open_at(
            plan, space_id, "mqtt", name, f"mqtt://127.0.0.1:{mqtt}/{topic}", SourceShape(at="$.time", values=values)
        )
    for socket, name, feeds in _SOCKETS:
        address = f"{at}/plug/{_RICH}/{socket}"
        shape = SourceShape(
            every_s=60,
            at="$.time",
            values=(
                Pointer(path="$.power_w", quantity="power_w", name=name),
                Pointer(path="$.energy_kwh", quantity="energy_kwh", name=f"{name}, counted"),
            ),
            switch=Switched(address=address, feeds=feeds),
        )
        open_at(plan, _RICH, "pull", name, address, shape)
    shape = SourceShape(
        every_s=300,
        at="$.time",
        values=(
            Pointer(path="$.temperature", quantity="air_c", name="Outdoors", place="outdoors"),
            Pointer(path="$.humidity", quantity="rh_pct", name="Humidity outdoors", place="outdoors"),
        ),
    )
    open_at(plan, _RICH, "pull", "Weather station", f"{at}/weather", shape)


def fill_late() -> int:
    """Fill households whose visitors came before the stand-ins had anything to show."""
    new = 0
    if settings.STANDINS:
        waiting = Source.objects.filter(name="Weather station", last_seen=None).values("plan")
        for plan in GrowPlan.objects.filter(pk__in=waiting):
            new += fill(plan)
    return new
