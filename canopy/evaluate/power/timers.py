"""The timer sheet: what to set on each timer, dimmer and controller, in words, in the order of the plugs."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from canopy.evaluate.climate.devices import Setting, setting_of
from canopy.evaluate.climate.flows import span_of
from canopy.evaluate.power.loads import household_tree
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.airways import Airway, FanPart, Stirrer
from canopy.plan.controls import FanControl, Hygrostat, Thermostat
from canopy.plan.document import Circuit, Device, Fixture, Plan, Space
from canopy.plan.plugs import CARRIER_NAMES, Carrier
from canopy.power import Hung, Node, Tree
from canopy.quantities import number
from canopy.schedule import DAY_MIN, Always, ByHand, Cycle, Daily, Never, Schedule, Span, spans_of
from canopy.schedule_words import say_schedule
from canopy.season import Cast, cast_of, standing_of
from canopy.words import clock

_TIMERS = ("timer", "smart-plug")
_HEATING = ("heater", "mat", "heat-lamp")


@dataclass(frozen=True, kw_only=True)
class Entry:
    """What is set for one thing on a plug: what it is and where, sentences in order, and what is still open."""

    part_id: str
    where: str
    name: str
    settings: tuple[Sentence, ...]
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Place:
    """A circuit, outlet, strip, timer or cord with what is plugged right into it, and the way to it from the panel."""

    id: str
    name: str
    kind: str
    way: tuple[str, ...]
    lines: tuple[Entry, ...]
    notes: tuple[str, ...] = ()


def timer_sheet(plan: Plan, space: Space | None = None, day: dt.date | None = None) -> tuple[Place, ...]:
    """Say what has to be set.

    Parameters
    ----------
    plan : the household
    space : one of its spaces; all of them when None
    day : what the crops ask for is that of this day; the plan's own when None

    Returns
    -------
    tuple of Place : by circuits, each followed by what is plugged into it, in the plan's order; what hangs on no known
        circuit last. Places at which nothing is set are left out; nothing of the household's other loads is set here
    """
    tree, cast, on = household_tree(plan), cast_of(plan), day or plan.date
    found = [_place(plan, tree, node, space, on, cast) for circuit in plan.circuits for node in _walk(tree, circuit.id)]
    loose = _lines(plan, tree, tree.loose, None, space, on, cast)
    found.append(Place(id="", name="On no circuit yet", kind="", way=(), lines=loose))
    return tuple(place for place in found if place.lines or place.notes)


def _walk(tree: Tree, key: str) -> Iterator[Node]:
    node = tree.nodes[key]
    yield node
    for child in node.children:
        yield from _walk(tree, child)


def _place(plan: Plan, tree: Tree, node: Node, space: Space | None, day: dt.date, cast: Cast) -> Place:
    item = node.item
    kind = (
        "circuit" if isinstance(item, Circuit) else CARRIER_NAMES[item.kind] if isinstance(item, Carrier) else "outlet"
    )
    way = tuple(up.name for up in reversed(tuple(tree.way(node.parent))))
    mine = [hung for hung in tree.under(node.id) if _counts(hung, space)]
    notes = _one_clock(plan, tree, node) if mine and isinstance(item, Carrier) and item.kind in _TIMERS else ()
    lines = _lines(plan, tree, node.own, node.id, space, day, cast)
    return Place(id=node.id, name=node.name, kind=kind, way=way, lines=lines, notes=notes)


def _counts(hung: Hung, space: Space | None) -> bool:
    return bool(hung.space_id) and (space is None or hung.space_id == space.id)


def _one_clock(plan: Plan, tree: Tree, node: Node) -> tuple[str, ...]:
    """A timer has one set of hours: what hangs on it and wants others is named."""
    wanted: dict[tuple[tuple[float, float], ...], list[str]] = {}
    for hung in tree.under(node.id):
        wanted.setdefault(_hours(hung), []).append(hung.load.name)
    if len(wanted) < 2:
        return ()
    names = " / ".join(", ".join(dict.fromkeys(group)) for group in wanted.values())
    return (f"It has one clock, but what hangs on it wants different hours: {names}. Plug one of them in elsewhere.",)


def _hours(hung: Hung) -> tuple[tuple[float, float], ...]:
    return tuple((span.start_min, span.end_min) for span in spans_of(hung.load.schedule, hung.load.lit))


def _lines(
    plan: Plan, tree: Tree, hung: tuple[Hung, ...], at: str | None, space: Space | None, day: dt.date, cast: Cast
) -> tuple[Entry, ...]:
    timer = any(isinstance(up.item, Carrier) and up.item.kind in _TIMERS for up in tree.way(at))
    lines = []
    for item in hung:
        there = plan.space(item.space_id)
        if there is None or not _counts(item, space):
            continue
        settings, notes = _set(plan, there, item, timer, day, cast)
        lines.append(
            Entry(part_id=item.load.part_id, where=there.name, name=_name(there, item), settings=settings, notes=notes)
        )
    return tuple(lines)


def _name(space: Space, hung: Hung) -> str:
    """Lamps of one space are told apart by their numbers on the drawing."""
    place = next((n for n, lamp in enumerate(space.fixtures, 1) if lamp.id == hung.load.part_id), None)
    return hung.load.name if place is None or len(space.fixtures) == 1 else f"lamp {place}, {hung.load.name}"


def _set(
    plan: Plan, space: Space, hung: Hung, timer: bool, day: dt.date, cast: Cast
) -> tuple[tuple[Sentence, ...], tuple[str, ...]]:
    """What is set for one load, and what is open."""
    key = hung.load.part_id
    lamp = next((item for item in space.fixtures if item.id == key), None)
    if lamp is not None:
        return _lamp(lamp, timer)
    stirrer = next((item for item in space.stirrers if item.id == key), None)
    if stirrer is not None:
        return _stirrer(stirrer, space, timer)
    device = next((item for item in space.devices if item.id == key), None)
    if device is not None:
        standing = standing_of(space, day, cast)
        return _device(device, setting_of(device, standing.plants), space, timer)
    for way in space.airways:
        fan = next((part for part in way.fans if part.id == key), None)
        if fan is not None:
            return _fan(way, fan, space, timer)
    return (), ()


def _lamp(lamp: Fixture, timer: bool) -> tuple[tuple[Sentence, ...], tuple[str, ...]]:
    if not lamp.enabled:
        return (sentence("switched off"),), ()
    settings = [*_clocked(lamp.schedule, ())]
    if lamp.can_dim:
        settings.append(sentence("dimmer at {dim}", dim=_share(lamp.dim)))
    return tuple(settings), _open_questions(lamp.schedule, timer)


def _stirrer(stirrer: Stirrer, space: Space, timer: bool) -> tuple[tuple[Sentence, ...], tuple[str, ...]]:
    settings = (*_clocked(stirrer.schedule, space.lit), sentence("speed {speed}", speed=_share(stirrer.speed)))
    return settings, _open_questions(stirrer.schedule, timer)


def _fan(way: Airway, fan: FanPart, space: Space, timer: bool) -> tuple[tuple[Sentence, ...], tuple[str, ...]]:
    settings = [*_clocked(way.schedule, space.lit)]
    speeds = {"speed": _share(fan.speed)}
    if way.control is not None and (fan is way.lead or way.follows(fan)):
        settings += _controller(way, way.control)
    elif fan.other is not None:
        other = "by night" if fan.other.schedule.when == "dark" else "with the lamps"
        usual = "with the lamps" if fan.other.schedule.when == "dark" else "by night"
        settings.append(
            sentence(f"speed {{speed}} {usual}, {{other}} {other}", other=_share(fan.other.speed), **speeds)
        )
    else:
        settings.append(sentence("speed {speed}", **speeds))
    return tuple(settings), _open_questions(way.schedule, timer)


def _controller(way: Airway, control: FanControl) -> Iterator[Sentence]:
    """A fan controller's triggers, as the simulation runs them."""
    least, planned, most = span_of(way, control)
    speeds = {"least": _share(least), "planned": _share(planned), "most": _share(most)}
    if control.cold_day_c is not None and control.cold_night_c is not None:
        yield sentence(
            "{least} at {cold} by day ({night} by night) and colder, {planned} from {ramp} above that",
            cold=_degrees(control.cold_day_c),
            night=_degrees(control.cold_night_c),
            ramp=_kelvin(control.ramp_k),
            **speeds,
        )
    else:
        yield sentence("least speed {planned}", **speeds)
    if control.hot_day_c is not None and control.hot_night_c is not None:
        yield sentence(
            "rising from {hot} by day ({night} by night), {most} at {ramp} above that",
            hot=_degrees(control.hot_day_c),
            night=_degrees(control.hot_night_c),
            ramp=_kelvin(control.ramp_k),
            **speeds,
        )
    if control.damp_day_pct is not None and control.damp_night_pct is not None:
        yield sentence(
            "rising from {damp} by day ({night} by night), {most} at {ramp} above that",
            damp=_pct(control.damp_day_pct),
            night=_pct(control.damp_night_pct),
            ramp=_pct(control.ramp_pct),
            **speeds,
        )
    if control.purge_min:
        yield sentence(f"{{most}} for {number(control.purge_min, 1)} min after the lamps go out", **speeds)


def _device(
    device: Device, setting: Setting, space: Space, timer: bool
) -> tuple[tuple[Sentence, ...], tuple[str, ...]]:
    free = isinstance(device.schedule, Always) or (isinstance(device.schedule, Daily) and device.schedule.start is None)
    # What a controller switches at whatever hour asks for no clock beside it.
    clocked = not (free and setting.control)
    settings = [*_clocked(device.schedule, space.lit)] if clocked else []
    settings += _switch(device, setting)
    notes = _open_questions(device.schedule, timer) if clocked else ()
    if setting.assumed:
        notes += (
            "No controller is chosen: these are the settings with which it was simulated, by what the crops want.",
        )
    return tuple(settings), notes


def _switch(device: Device, setting: Setting) -> Iterator[Sentence]:
    """A thermostat's, hygrostat's or regulator's two points: it switches half its band to either side."""
    control = setting.control
    if isinstance(control, Thermostat):
        probe = {"air": "in the air", "root": "among the roots", "leaf": "at a leaf"}[control.senses]
        below = device.spec.kind in _HEATING
        yield _points(f"thermostat, probe {probe}: ", control.day_c, control.band_k, below, _degrees, "day")
        yield _points("", control.night_c, control.band_k, below, _degrees, "night")
    elif isinstance(control, Hygrostat):
        below = device.spec.kind == "humidifier"
        yield _points("hygrostat: ", control.day_rh_pct, control.band_pct, below, _pct, "day")
        yield _points("", control.night_rh_pct, control.band_pct, below, _pct, "night")
    elif control is not None:
        yield sentence(
            "regulator: on below {on}, off at {off}, while the lamps are on",
            on=Amount(value=control.ppm - control.band_ppm / 2, unit="ppm", decimals=0),
            off=Amount(value=control.ppm + control.band_ppm / 2, unit="ppm", decimals=0),
        )


def _points(head: str, middle: float, band: float, below: bool, unit: Callable[[float], Amount], when: str) -> Sentence:
    half = band / 2 if below else -band / 2
    words = f"{head}on {'below' if below else 'above'} {{on}}, off at {{off}} by {when}"
    return sentence(words, on=unit(middle - half), off=unit(middle + half))


def _clocked(item: Schedule, lit: tuple[Span, ...]) -> Iterator[Sentence]:
    """Hours as one sets them on a timer."""
    if isinstance(item, Always):
        yield sentence("always on: no timer")
    elif isinstance(item, Never):
        yield sentence("stays off")
    elif isinstance(item, ByHand):
        times = ", ".join(f"{time.at or 'some time'} for {number(time.minutes, 1)} min" for time in item.times)
        yield sentence(f"by hand: {times}" if times else "by hand")
    elif isinstance(item, Cycle):
        yield sentence(f"cycle timer: {say_schedule(item)}")
        off = item.every_min - item.on_min
        if item.every_min < DAY_MIN and off > 0:
            yield sentence(f"{_minutes(item.on_min)} on, {_minutes(off)} off")
    elif isinstance(item, Daily) and item.start is None:
        yield sentence(f"{number(item.hours, 2)} h a day")
    else:
        yield sentence("timer: " + ("; ".join(_on_off(spans_of(item, lit))) or "stays off"))
        if isinstance(item, Daily) and (item.ramp_up_min or item.ramp_down_min):
            up, down = number(item.ramp_up_min, 0), number(item.ramp_down_min, 0)
            yield sentence(f"rising over {up} min, falling over {down} min, within these hours")


def _on_off(spans: tuple[Span, ...]) -> list[str]:
    """When to switch on and off; a stretch over midnight is one."""
    pieces: list[tuple[float, float]] = []
    for span in spans:
        if pieces and abs(pieces[-1][1] - span.start_min) < 1e-6:
            pieces[-1] = (pieces[-1][0], span.end_min)
        else:
            pieces.append((span.start_min, span.end_min))
    if len(pieces) > 1 and pieces[0][0] <= 0 and pieces[-1][1] >= DAY_MIN:
        last = pieces.pop()
        pieces[0] = (last[0], pieces[0][1])
    if pieces == [(0.0, DAY_MIN)]:
        return ["always on"]
    return [f"on {_clock(start)}, off {_clock(end)}" for start, end in pieces]


def _clock(minute: float) -> str:
    return clock(round(minute) % round(DAY_MIN))


def _minutes(value: float) -> str:
    return f"{number(value, 1)} min" if value >= 1 else f"{number(60 * value, 0)} s"


def _open_questions(item: Schedule, timer: bool) -> tuple[str, ...]:
    if isinstance(item, Daily) and item.start is None and 0 < item.hours < 24:
        return ("The plan says how long, not from when: choose a start.",)
    if isinstance(item, Always | Never | ByHand) or timer:
        return ()
    return ("No timer stands before it in the plan: it needs one of its own, or one under Plugs.",)


def _share(value: float) -> Amount:
    return Amount(value=100 * value, unit="%", decimals=0)


def _degrees(value: float) -> Amount:
    return Amount(value=value, unit="temperature")


def _kelvin(value: float) -> Amount:
    return Amount(value=value, unit="temperature rise")


def _pct(value: float) -> Amount:
    return Amount(value=value, unit="%", decimals=0)
