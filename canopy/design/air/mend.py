"""The smallest change that mends a margin of air: a speed, a fan that fits, a port, an intake, a filter, a stirring
fan.
"""

from __future__ import annotations

from canopy.air import ventilation
from canopy.air.fan_curve import steps_of
from canopy.air.filter_bed import AGED, FACE_MOST_M_S, filter_load
from canopy.air.network import Moment
from canopy.air.operating import at_speed, main_way
from canopy.design.air.building import (
    at_diameter,
    exhaust_parts,
    filter_for,
    refitted,
    settled,
    sized,
    slowest_step,
    smallest_fan,
)
from canopy.design.air.clear import mend_barely
from canopy.design.air.openings import INTAKE_M_S, intake_opening, open_area_m2, with_port
from canopy.design.air.stirring import suggest_stirrer
from canopy.design.change import Remedy, changes_between
from canopy.equipment import FanSpec
from canopy.evaluate.air.amounts import SPARE, spare_of
from canopy.evaluate.air.breathing import filtered
from canopy.evaluate.air.excess import excess
from canopy.evaluate.air.noise import noise_of
from canopy.evaluate.space import SpaceReport, evaluate_space
from canopy.light.scene import PREVIEW
from canopy.margin import Amount, Margin, sentence
from canopy.plan.airways import Airway, OtherSpeed
from canopy.plan.changes import Collection
from canopy.plan.document import Space
from canopy.plan.edit import apply, fresh_id

_AIR_LISTS: tuple[Collection, ...] = ("airways", "openings", "stirrers")
# A little over what is asked, so that the mended figure does not sit on the edge.
_OVER_EDGE = 1.03


def _percent(share: float) -> Amount:
    return Amount(value=100 * share, unit="%", decimals=0)


def mend_flow(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Bring the airflow to what is asked for with a fifth to spare.

    Parameters
    ----------
    report : the space's report
    margin : "air.flow"

    Returns
    -------
    Remedy : another speed; else another fan with what must go with it; None where no flow would do, or where the next
        step up from what is only just enough would be too much
    """
    found = _mend_flow(report, margin)
    if found is None or margin.verdict != "tight":
        return found
    plan = apply(report.plan, report.space.id, found.changes)
    space = plan.space(report.space.id)
    if space is None:
        return None
    after = evaluate_space(plan, space, day=report.here.day, quality=PREVIEW, with_map=False).margin(margin.id)
    return None if after is not None and after.verdict in ("short", "over") else found


def _mend_flow(report: SpaceReport, margin: Margin) -> Remedy | None:
    need, space = report.breathing.governing.flow_m3_h, report.space
    if margin.verdict == "over":
        return _slower(report)
    if need is None or need <= 0:
        return None
    wanted = SPARE * _OVER_EDGE * need
    way = main_way(space.airways)
    if way is None:
        return _first_fan(report, wanted)
    speed = _enough(report, space, way, need)
    now = way.lead.speed if way.lead else 0.0
    if speed is not None and abs(speed - now) > 1e-9:
        verb = "Slow the fan" if speed < now else "Speed the fan up"
        return _set(report, at_speed(space, way, speed), sentence(f"{verb} to {{s}}", s=_percent(speed)))
    opened = _more_intake(report, space, wanted)
    if opened is not None:
        speed = _enough(report, opened, way, need)
        if speed is not None:
            words = sentence("Open {a} more intake and run the fan at {s}", a=_opened(space, opened), s=_percent(speed))
            return _set(report, at_speed(opened, way, speed), words)
    return _other_fan(report, way, wanted)


def _slower(report: SpaceReport) -> Remedy | None:
    """Run the fans at the slowest steps that still do."""
    space = report.space
    found = excess(report.plan, report.here, report.breathing, spare_of(space, report.breathing.governing))
    if found is None or not found.speeds:
        return None
    after = space
    for key, speed in found.speeds.items():
        after = at_speed(after, next(way for way in space.airways if way.id == key), speed)
    steps = {f"s{n}": _percent(speed) for n, speed in enumerate(found.speeds.values())}
    words = " and ".join(f"{{{key}}}" for key in steps)
    return _set(report, after, sentence(f"Slow the {'fan' if len(steps) == 1 else 'fans'} to {words}", **steps))


def _enough(report: SpaceReport, space: Space, way: Airway, need: float) -> float | None:
    """The slowest step that gives what is asked: a fifth more, or all of it still with the filter aged."""
    if filtered(space):
        return slowest_step(report.plan, space, way, _OVER_EDGE * need, loading=AGED)
    return slowest_step(report.plan, space, way, spare_of(space, report.breathing.governing) * _OVER_EDGE * need)


def _opened(before: Space, after: Space) -> Amount:
    more = sum(o.free_area_m2 for o in after.openings if o.passes_air) - sum(
        o.free_area_m2 for o in before.openings if o.passes_air
    )
    return Amount(value=1e4 * more, unit="small area")


def _set(report: SpaceReport, after: Space, words: object) -> Remedy | None:
    changes = changes_between(report.space, after, _AIR_LISTS)
    return Remedy(label=words, changes=changes) if changes else None  # type: ignore[arg-type]


def _more_intake(report: SpaceReport, space: Space, flow_m3_h: float) -> Space | None:
    """Open what is shut, else cut what is missing; None where there is enough."""
    missing = flow_m3_h / 3600 / INTAKE_M_S - open_area_m2(space)
    if missing <= 0 or any(way.way == "in" and way.fans for way in space.airways):
        return None
    shut = [o for o in space.openings if o.use == "intake" and not o.open]
    if shut:
        largest = max(shut, key=lambda o: o.free_area_m2)
        moved = tuple(o.model_copy(update={"open": True}) if o is largest else o for o in space.openings)
        return space.model_copy(update={"openings": moved})
    cut = intake_opening(space, flow_m3_h, taken_m2=open_area_m2(space))
    return space.model_copy(update={"openings": (*space.openings, cut)}) if cut else None


def _ready(report: SpaceReport, space: Space, airway: Airway, spec: FanSpec, flow_m3_h: float) -> tuple[Space, Airway]:
    """A space with a way of air for a fan: its port wide enough, its intake large enough."""
    made = with_port(space, airway, spec.diameter_m, report.here)
    made = _more_intake(report, made, flow_m3_h) or made
    return made, next(way for way in made.airways if way.id == airway.id)


def _first_fan(report: SpaceReport, wanted: float) -> Remedy | None:
    space = report.space

    def build(flow: float) -> Space | None:
        def make(spec: FanSpec) -> tuple[Space, Airway]:
            airway = Airway(id=fresh_id("exhaust", ()), name="Exhaust", parts=exhaust_parts(spec, None))
            return _ready(report, space, airway, spec, flow)

        return _space_of(report, smallest_fan(report.plan, make, flow), flow)

    return _fitted(report, sized(report.plan, report.here, report.lighting, build, wanted, SPARE))


def _other_fan(report: SpaceReport, way: Airway, wanted: float) -> Remedy | None:
    space = report.space

    def build(flow: float) -> Space | None:
        def make(spec: FanSpec) -> tuple[Space, Airway]:
            strain = None
            if way.filters and any(part.spec.rated_flow_m3_h < flow for part in way.filters):
                strain = filter_for(spec.diameter_m, flow)
            return _ready(report, space, refitted(way, spec, strain=strain), spec, flow)

        return _space_of(report, smallest_fan(report.plan, make, flow), flow)

    return _fitted(report, sized(report.plan, report.here, report.lighting, build, wanted, SPARE))


def _space_of(report: SpaceReport, found: tuple[Space, Airway, float] | None, flow: float) -> Space | None:
    return settled(report.plan, found[0], found[1].id, flow) if found else None


def _fitted(report: SpaceReport, space: Space | None) -> Remedy | None:
    way = main_way(space.airways) if space else None
    if space is None or way is None:
        return None
    fan = way.fans[0]
    return _set(report, space, sentence(f"Fit {fan.spec.name} and run it at {{s}}", s=_percent(fan.speed)))


def mend_night(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Bring the airflow by night to what is asked for.

    Parameters
    ----------
    report : the space's report
    margin : "air.flow-night"

    Returns
    -------
    Remedy : a speed for the night; None without a fan, or where full speed is not enough
    """
    need, space = report.breathing.dark.governing.flow_m3_h, report.space
    way = main_way(space.airways)
    if need is None or way is None:
        return None
    speed = slowest_step(report.plan, space, way, need * 1.15, lit=False)
    now = max(fan.speed_at(lit=False) for fan in way.fans)
    if speed is None or speed <= now:
        return None
    parts = tuple(
        part.model_copy(update={"other": OtherSpeed(speed=speed)}) if part.kind == "fan" else part for part in way.parts
    )
    after = way.model_copy(update={"parts": parts})
    ways = tuple(after if item.id == way.id else item for item in space.airways)
    return _set(
        report, space.model_copy(update={"airways": ways}), sentence("Run the fan at {s} by night", s=_percent(speed))
    )


def mend_fit(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Bring port, ducts, bends and fittings to the fan's diameter.

    Parameters
    ----------
    report : the space's report
    margin : "air.port.…"

    Returns
    -------
    Remedy : None where nothing would change (a filter of another size needs its adapter)
    """
    way = next((way for way in report.space.airways if way.id in margin.parts), None)
    if way is None or not way.fans:
        return None
    bore = way.fans[0].spec.diameter_m
    matched = way.model_copy(update={"parts": at_diameter(way.parts, bore)})
    after = with_port(report.space, matched, bore)
    return _set(report, after, sentence("Use {d} for port and duct", d=Amount(value=bore, unit="diameter")))


def mend_intake(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Open or cut more intake; where air is blown in too hard, slow the intake fan.

    Parameters
    ----------
    report : the space's report
    margin : "air.intake" or "air.pressure"

    Returns
    -------
    Remedy : None where no wall has room for an opening
    """
    space, running = report.space, report.breathing.lit.air.running
    if margin.id == "air.pressure" and margin.verdict == "short":
        return _slower_intake(report)
    if margin.id == "air.pressure" and margin.verdict == "tight":
        return mend_barely(report)
    drawn = running.fan_out_m3_h - running.fan_in_m3_h
    opened: Space | None = None
    # Opening the way in lets the fan draw more: look at what it draws then, and cut for that.
    for _ in range(4):
        wider = _more_intake(report, space, drawn)
        if wider is None:
            break
        opened = wider
        after = ventilation(report.plan, opened, Moment(lit=True))
        if after.fan_out_m3_h - after.fan_in_m3_h <= drawn * 1.02:
            break
        drawn = after.fan_out_m3_h - after.fan_in_m3_h
    if opened is None:
        return None
    return _set(report, opened, sentence("Open {a} more intake", a=_opened(space, opened)))


def _slower_intake(report: SpaceReport) -> Remedy | None:
    space = report.space
    way = next((way for way in space.airways if way.way == "in" and way.fans), None)
    if way is None:
        return None
    now = way.lead.speed if way.lead else 0.0
    for speed in sorted(
        (step for step in steps_of(way.lead.spec if way.lead else way.fans[0].spec) if step < now), reverse=True
    ):
        air = ventilation(report.plan, space, Moment(speeds={way.id: speed}))
        if air.pressure_pa < -1.0:
            return _set(report, at_speed(space, way, speed), sentence("Slow the intake fan to {s}", s=_percent(speed)))
    out = main_way(space.airways)
    if out is None or out.lead is None or out.way != "out":
        return None
    slowest = min((now, *steps_of(way.lead.spec if way.lead else way.fans[0].spec)))
    for speed in sorted(step for step in steps_of(out.lead.spec) if step > out.lead.speed):
        for blown in dict.fromkeys((now, slowest)):
            air = ventilation(report.plan, space, Moment(speeds={out.id: speed, way.id: blown}))
            if air.pressure_pa >= -1.0:
                continue
            words, made = "Speed the exhaust up to {s}", at_speed(space, out, speed)
            if blown < now:
                words, made = words + " and slow the intake to {t}", at_speed(made, way, blown)
            return _set(report, made, sentence(words, s=_percent(speed), t=_percent(blown)))
    return None


def mend_filter(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Fit a filter that is made for the flow.

    Parameters
    ----------
    report : the space's report
    margin : "air.filter.…"

    Returns
    -------
    Remedy : None where the library has none that is large enough
    """
    path = next((path for path in report.paths if any(load.part_id in margin.parts for load in path.filters)), None)
    if path is None:
        return None
    way, wanted = path.airway, 1.1 * path.flow_m3_h
    bore = way.fans[0].spec.diameter_m if way.fans else way.filters[0].spec.diameter_m
    # A larger filter lets more air through, which it must be made for too.
    for _ in range(5):
        strain = filter_for(bore, wanted)
        if strain is None:
            return None
        parts = tuple(
            part.model_copy(update={"spec": strain, "loading": 1.0})
            if part.id in margin.parts and part.kind == "filter"
            else part
            for part in way.parts
        )
        ways = tuple(
            item.model_copy(update={"parts": parts}) if item.id == way.id else item for item in report.space.airways
        )
        after = report.space.model_copy(update={"airways": ways})
        moved = ventilation(report.plan, after).way(way.id)
        flow = moved.flow_m3_h if moved else 0.0
        if flow <= strain.rated_flow_m3_h and (filter_load("", strain, flow).face_m_s or 0.0) <= FACE_MOST_M_S:
            return _set(report, after, sentence(f"Fit {strain.name}"))
        wanted = max(1.02 * flow, 1.05 * wanted)
    return None


def mend_stir(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Hang a circulation fan that reaches the plants.

    Parameters
    ----------
    report : the space's report
    margin : "air.stir"

    Returns
    -------
    Remedy : None where no circulation fan of the library would help
    """
    stirrer = suggest_stirrer(report.here)
    if stirrer is None:
        return None
    after = report.space.model_copy(update={"stirrers": (*report.space.stirrers, stirrer)})
    return _set(
        report, after, sentence(f"Hang {stirrer.spec.name} at {{z}}", z=Amount(value=stirrer.z_m, unit="length"))
    )


def mend_noise(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Slow the loudest fan as far as the airflow allows.

    Parameters
    ----------
    report : the space's report
    margin : "air.noise"

    Returns
    -------
    Remedy : None where it would take the airflow below what is needed
    """
    space, wish = report.space, report.space.air.noise_wish_dba
    way = next((way for way in space.airways if any(fan.id in margin.parts for fan in way.fans)), None)
    if way is None or wish is None:
        return None
    need = report.breathing.governing.flow_m3_h or 0.0
    now = way.lead.speed if way.lead else 0.0
    for speed in sorted(
        (step for step in steps_of(way.lead.spec if way.lead else way.fans[0].spec) if step < now), reverse=True
    ):
        slower = at_speed(space, way, speed)
        if (noise_of(slower).total_dba or 0.0) <= wish:
            air = ventilation(report.plan, slower)
            if max(air.fan_out_m3_h, air.fan_in_m3_h) >= need:
                return _set(report, slower, sentence("Slow the fan to {s}", s=_percent(speed)))
            return None
    return None
