"""One clock for all that runs in a space: lamps, fans, devices, water, doors, and the plants' own day."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from canopy.plan.care import TIMED
from canopy.plan.changes import Act, Change, Collection
from canopy.plan.document import Plan, Space
from canopy.schedule import (
    DAY_MIN,
    ByHand,
    Cycle,
    Daily,
    Never,
    Schedule,
    Span,
    dark,
    minute_of,
    spans_of,
)
from canopy.schedule_words import say_schedule
from canopy.words import clock

LaneKind = Literal["plants", "lamp", "fan", "heat", "damp", "dry", "co2", "cool", "water", "door", "other", "quiet"]
_OF_DEVICE: dict[str, LaneKind] = {
    "heater": "heat",
    "mat": "heat",
    "heat-lamp": "heat",
    "cooler": "cool",
    "humidifier": "damp",
    "dehumidifier": "dry",
    "co2": "co2",
    "pump": "water",
    "circulation": "fan",
}
# A run of water is drawn at least so long, or nobody would see it [min].
_SEEN_MIN = 5.0


@dataclass(frozen=True, kw_only=True)
class Lane:
    """What runs together through a day: its spans with their levels, and whose they are.

    ``may`` says that it runs within them only as far as the air asks. ``start`` and ``hours`` are there where it has
    hours of its own that can be moved; ``told`` says its schedule in words.
    """

    id: str
    space_id: str
    where: str
    name: str
    kind: LaneKind
    spans: tuple[Span, ...]
    told: str
    may: bool = False
    parts: tuple[str, ...] = ()
    start: str | None = None
    hours: float = 0.0

    @property
    def movable(self) -> bool:
        """Whether its hours can be moved."""
        return self.start is not None

    @property
    def runs_min(self) -> float:
        """How long it runs in a day, at any level [min]."""
        return sum(span.end_min - span.start_min for span in self.spans)


def lanes_of(plan: Plan, space: Space, run_min: float | None = None) -> tuple[Lane, ...]:
    """Lay all that runs in a space on one clock.

    Parameters
    ----------
    plan : the household
    space : one of its spaces
    run_min : for how long water runs each time, where it runs by a timer and somebody worked it out [min]

    Returns
    -------
    tuple of Lane : plants first, then lamps, fans, devices, water and the door
    """
    return (
        *_plants(space),
        *_lamps(space),
        *_fans(space),
        *_devices(space),
        *_water(space, run_min),
        *_door(space),
    )


def quiet_lane(plan: Plan) -> Lane | None:
    """Give the hours in which people want quiet.

    Parameters
    ----------
    plan : the household

    Returns
    -------
    Lane : None where nobody said any
    """
    if plan.quiet is None:
        return None
    item = Daily(start=plan.quiet.start, hours=plan.quiet.hours)
    return Lane(
        id="quiet",
        space_id="",
        where="Household",
        name="Quiet hours",
        kind="quiet",
        spans=spans_of(item),
        told=say_schedule(item),
        start=plan.quiet.start,
        hours=plan.quiet.hours,
    )


def _lane(space: Space, key: str, name: str, kind: LaneKind, item: Schedule, **more: object) -> Lane:
    start, hours = _own_hours(item)
    return Lane(
        id=key,
        space_id=space.id,
        where=space.name,
        name=name,
        kind=kind,
        spans=spans_of(item, space.lit),
        told=say_schedule(item),
        start=start,
        hours=hours,
        **more,  # type: ignore[arg-type]
    )


def _own_hours(item: Schedule) -> tuple[str | None, float]:
    if isinstance(item, Daily) and item.start is not None and 0 < item.hours < 24:
        return item.start, item.hours
    if isinstance(item, Cycle) and item.start is not None and item.hours is not None and item.hours < 24:
        return item.start, item.hours
    return None, 0.0


def _plants(space: Space) -> Iterator[Lane]:
    if space.plants and space.lit:
        yield Lane(
            id="plants",
            space_id=space.id,
            where=space.name,
            name="Plants' day",
            kind="plants",
            spans=space.lit,
            told=f"{sum(s.end_min - s.start_min for s in space.lit) / 60:g} h of day, "
            f"{sum(s.end_min - s.start_min for s in dark(space.lit)) / 60:g} h of night",
        )


def _lamps(space: Space) -> Iterator[Lane]:
    together: dict[Schedule, list[int]] = {}
    for number, lamp in enumerate(space.fixtures):
        if lamp.enabled and not isinstance(lamp.schedule, Never):
            together.setdefault(lamp.schedule, []).append(number)
    for item, numbers in together.items():
        lamps = [space.fixtures[number] for number in numbers]
        names = ", ".join(str(number + 1) for number in numbers)
        yield _lane(
            space,
            f"fixtures.{lamps[0].id}",
            f"Lamp {names}" if len(lamps) == 1 else f"Lamps {names}",
            "lamp",
            item,
            parts=tuple(lamp.id for lamp in lamps),
        )


def _fans(space: Space) -> Iterator[Lane]:
    for way in space.airways:
        if not way.fans or isinstance(way.schedule, Never):
            continue
        day, night = (max(way.speeds(lit=lit), default=0.0) for lit in (True, False))
        lane = _lane(space, f"airways.{way.id}", way.name, "fan", way.schedule, parts=tuple(f.id for f in way.fans))
        words = f"{100 * day:.0f} %" if abs(day - night) < 0.005 else f"{100 * day:.0f} % lit, {100 * night:.0f} % dark"
        turned = ", turned by the air" if way.control is not None else ""
        yield Lane(
            **{
                **lane.__dict__,
                "spans": tuple(_levelled(lane.spans, space.lit, day, night)),
                "told": f"{lane.told}, {words}{turned}",
                "may": way.control is not None,
            }
        )
        if way.control is not None and way.control.purge_min > 0 and space.lit:
            yield _purge(space, way.id, way.name, way.control.purge_min)
    for stirrer in space.stirrers:
        if stirrer.enabled and not isinstance(stirrer.schedule, Never):
            name = stirrer.spec.name
            yield _lane(space, f"stirrers.{stirrer.id}", name, "fan", stirrer.schedule, parts=(stirrer.id,))


def _purge(space: Space, way_id: str, name: str, minutes: float) -> Lane:
    """A way of air at its most as the lamps go out."""
    item = Cycle(on_min=minutes, every_min=DAY_MIN, when="dark")
    return Lane(
        id=f"purge.{way_id}",
        space_id=space.id,
        where=space.name,
        name=f"Purge, {name}",
        kind="fan",
        spans=spans_of(item, space.lit),
        told=f"{minutes:g} min as the lamps go out",
    )


def _levelled(spans: tuple[Span, ...], lit: tuple[Span, ...], day: float, night: float) -> Iterator[Span]:
    """Part spans where lamps switch, at the speed of each half."""
    for half, level in ((lit, day), (dark(lit), night)):
        for span in spans:
            for other in half:
                start, end = max(span.start_min, other.start_min), min(span.end_min, other.end_min)
                if end > start:
                    yield Span(start_min=start, end_min=end, first=level, last=level)


def _devices(space: Space) -> Iterator[Lane]:
    for device in space.devices:
        if isinstance(device.schedule, Never):
            continue
        asked = device.spec.on_demand and not device.by_clock
        lane = _lane(
            space,
            f"devices.{device.id}",
            device.spec.name,
            _OF_DEVICE.get(device.spec.kind, "other"),
            device.schedule,
            parts=(device.id,),
            may=asked,
        )
        yield lane if not asked else Lane(**{**lane.__dict__, "told": f"{lane.told}, as the air asks"})


def _water(space: Space, run_min: float | None) -> Iterator[Lane]:
    given = space.watering
    if given.way not in TIMED:
        return
    first, apart = minute_of(given.first_at), DAY_MIN / given.runs
    length = max(_SEEN_MIN, run_min or _SEEN_MIN)
    spans = []
    for number in range(given.runs):
        start = (first + number * apart) % DAY_MIN
        spans.append(Span(start_min=start, end_min=min(DAY_MIN, start + length)))
    words = f"{given.runs} times a day from {given.first_at}"
    yield Lane(
        id="watering",
        space_id=space.id,
        where=space.name,
        name="Water",
        kind="water",
        spans=tuple(sorted(spans, key=lambda span: span.start_min)),
        told=words if run_min is None else f"{words}, {run_min:.0f} min each",
        start=given.first_at,
        hours=length / 60,
    )


def _door(space: Space) -> Iterator[Lane]:
    item = space.air.door
    if isinstance(item, ByHand) and any(time.at is not None for time in item.times):
        timed = ByHand(times=tuple(time for time in item.times if time.at is not None))
        yield _lane(space, "door", "Door by hand", "door", timed)


def moved(plan: Plan, space_id: str, lane_id: str, start_min: float, hours: float) -> tuple[Act, ...]:
    """Write what moves a lane to other hours, as changes of the household.

    Parameters
    ----------
    plan : the household
    space_id : whose lane it is; empty for the quiet hours
    lane_id : such as "fixtures.lamp-1"
    start_min : when it begins on the clock, taken to whole minutes [min]
    hours : how long it runs, over 0 and under 24 [h]

    Returns
    -------
    tuple of Act : for all that shares the lane; nothing where it is gone or has no hours of its own
    """
    start, length = clock(start_min), round(60 * hours) / 60
    if lane_id == "quiet" and plan.quiet is not None:
        return (Change(at=("quiet",), values={"start": start, "hours": length}),)
    space = plan.space(space_id)
    lane = next((item for item in lanes_of(plan, space) if item.id == lane_id), None) if space else None
    if space is None or lane is None or not lane.movable:
        return ()
    at = ("spaces", space.id)
    if lane_id == "watering":
        return (Change(at=at, values={"watering.first_at": start}),)
    listed = lane_id.partition(".")[0]
    values = {"schedule.start": start, "schedule.hours": length}
    keys = (lane_id.partition(".")[2],) if listed == "airways" else lane.parts
    names: dict[str, Collection] = {
        "fixtures": "fixtures",
        "airways": "airways",
        "stirrers": "stirrers",
        "devices": "devices",
    }
    return tuple(Change(collection=names[listed], part_id=key, at=at, values=values) for key in keys)
