"""Usual layouts of the air, sized for what a space is asked: exhaust, with a filter, intake, push-pull, a loop with
a purge.
"""

from __future__ import annotations

from canopy.air import ventilation
from canopy.air.fan_curve import steps_of
from canopy.air.operating import at_speed
from canopy.air.ventilation import Ventilation
from canopy.air.walls import DAMAGE_PA, GOOD_PA
from canopy.design.air.building import exhaust_parts, filter_for, settled, sized, smallest_fan
from canopy.design.air.openings import intake_opening, open_area_m2, with_port
from canopy.equipment import FanSpec
from canopy.evaluate.air.amounts import SPARE
from canopy.evaluate.air.crossing import short_cuts
from canopy.evaluate.space import SpaceReport
from canopy.library import ducts, fans, fittings
from canopy.plan.airways import Airway, DuctPart, FanPart, FittingPart
from canopy.plan.document import Space
from canopy.plan.edit import fresh_id
from canopy.schedule import Cycle

_LEAST_M3_H = 15.0


def preset(report: SpaceReport, kind: str) -> Space | None:
    """Lay out the air of a space in a usual way.

    Parameters
    ----------
    report : the space's report, for what is asked
    kind : "exhaust", "filtered", "intake", "push-pull" or "loop"

    Returns
    -------
    Space : with ways of air, ports and openings added to what there is; None for a loop without a second space
    """
    need = SPARE * max(report.breathing.governing.flow_m3_h or 0.0, _LEAST_M3_H)
    if kind == "loop":
        return _looped(report, need)

    def build(flow: float) -> Space:
        if kind == "intake":
            return _blown(report, flow)
        if kind == "push-pull":
            return _pushed(report, _uncut(report.space, _drawn(report, flow, filtered=False)), flow)
        return _drawn(report, flow, filtered=kind == "filtered")

    return sized(report.plan, report.here, report.lighting, build, need, SPARE)


def _ids(space: Space) -> list[str]:
    return [way.id for way in space.airways]


def _uncut(before: Space, drawn: Space) -> Space:
    """An exhaust sized with an intake, without it: a fan will bring that air."""
    old, led = {hole.id for hole in before.openings}, {way.port.opening_id for way in drawn.airways if way.port}
    kept = tuple(hole for hole in drawn.openings if hole.id in old or hole.id in led)
    return drawn.model_copy(update={"openings": kept})


def _drawn(report: SpaceReport, need: float, *, filtered: bool) -> Space:
    space = report.space
    key = fresh_id("exhaust", _ids(space))

    def make(spec: FanSpec) -> tuple[Space, Airway]:
        strain = filter_for(spec.diameter_m, need) if filtered else None
        made = with_port(
            space,
            Airway(id=key, name="Exhaust", parts=exhaust_parts(spec, None, strain=strain)),
            spec.diameter_m,
            report.here,
        )
        cut = intake_opening(made, need, taken_m2=open_area_m2(made))
        if cut:
            made = made.model_copy(update={"openings": (*made.openings, cut)})
        return made, next(way for way in made.airways if way.id == key)

    found = smallest_fan(report.plan, make, need)
    made = found[0] if found else make(fans()["inline-250"].spec)[0]
    return settled(report.plan, made, key, need)


def _blown(report: SpaceReport, need: float) -> Space:
    space = report.space
    key = fresh_id("intake", _ids(space))

    def make(spec: FanSpec) -> tuple[Space, Airway]:
        way = Airway(id=key, name="Intake", way="in", parts=(FanPart(id="fan", spec=spec),))
        made = _across(report, with_port(space, way, spec.diameter_m, report.here), need)
        return made, next(way for way in made.airways if way.id == key)

    found = smallest_fan(report.plan, make, need)
    return found[0] if found else make(fans()["inline-250"].spec)[0]


def _across(report: SpaceReport, made: Space, need: float) -> Space:
    """Let what is blown in leave across the plants: what stands beside the fan is shut, an outlet is cut high up."""
    led = {way.port.opening_id for way in made.airways if way.port}
    cuts = short_cuts(report.here.moved(made), ventilation(report.plan, made))
    beside = {cut.out_id for cut in cuts} - led
    holes = tuple(hole.model_copy(update={"open": False}) if hole.id in beside else hole for hole in made.openings)
    made = made.model_copy(update={"openings": holes})
    cut = intake_opening(made, need, taken_m2=open_area_m2(made), outlet=True)
    return made.model_copy(update={"openings": (*made.openings, cut)}) if cut else made


# What is blown in against what is drawn out: enough to help, and no more than keeps the space below the room.
_PUSHED, _BELOW_PA = (0.55, 0.98), -0.5


def _pushed(report: SpaceReport, drawn: Space, need: float) -> Space:
    """An intake fan beside the exhaust, both as slow as gives what is asked, the space below the room's pressure."""
    key, out = fresh_id("intake", _ids(drawn)), drawn.airways[-1]
    best: tuple[tuple[float, float], Space] | None = None
    for row in sorted(fans().values(), key=lambda row: row.spec.free_flow_m3_h):
        spec = row.spec
        if spec.free_flow_m3_h < 0.5 * need or (spec.kind == "case" and drawn.kind == "tent"):
            continue
        way = Airway(id=key, name="Intake", way="in", parts=(FanPart(id="fan", spec=spec),))
        made = with_port(drawn, way, spec.diameter_m, report.here)
        for speed in steps_of(spec):
            trial, air = _drawing(report, at_speed(made, way, speed), out, need)
            share = air.fan_in_m3_h / max(air.fan_out_m3_h, 1e-9)
            calm = 0.8 * (GOOD_PA if drawn.kind == "tent" else DAMAGE_PA) < air.pressure_pa < _BELOW_PA
            fits = _PUSHED[0] <= share <= _PUSHED[1] and calm and air.fan_out_m3_h >= need
            # Of those that fit the one that moves least, else the one that misses least.
            rank = (0.0, air.fan_out_m3_h) if fits else (1.0, abs(share - sum(_PUSHED) / 2) + (not calm))
            if best is None or rank < best[0]:
                best = (rank, trial)
        if spec.free_flow_m3_h > 3 * need:
            break
    return best[1] if best else drawn


def _drawing(report: SpaceReport, space: Space, out: Airway, need: float) -> tuple[Space, Ventilation]:
    """The slowest step of an exhaust that draws what is asked, and more than is blown in; its fastest if none does."""
    trial, air = space, ventilation(report.plan, space)
    for step in steps_of(out.fans[0].spec):
        trial = at_speed(space, out, step)
        air = ventilation(report.plan, trial)
        if air.fan_out_m3_h >= need and air.pressure_pa < _BELOW_PA:
            break
    return trial, air


def _looped(report: SpaceReport, need: float) -> Space | None:
    space = report.space
    far = next((other for other in report.plan.spaces if other.id != space.id and not other.plants), None)
    far = far or next((other for other in report.plan.spaces if other.id != space.id), None)
    if far is None:
        return None
    spec = min(
        (row.spec for row in fans().values() if row.spec.kind == "inline" and row.spec.free_flow_m3_h >= 1.3 * need),
        key=lambda each: each.free_flow_m3_h,
        default=fans()["inline-250"].spec,
    )
    flex, bore = ducts()["flex-alu"].spec, spec.diameter_m
    duct = DuctPart(id="duct", spec=flex, diameter_m=bore, length_m=1.0)
    out = Airway(
        id=fresh_id("loop-out", _ids(space)),
        name="Loop, out",
        ends="space",
        space_id=far.id,
        parts=(FanPart(id="fan", spec=spec, speed=0.7), duct),
    )
    space = shut_for_loop(space)
    made = with_port(space, out, bore, report.here)
    back = Airway(
        id=fresh_id("loop-back", _ids(made)), name="Loop, back", way="in", ends="space", space_id=far.id, parts=(duct,)
    )
    made = with_port(made, back, bore, report.here)
    small = fans()["axial-100"].spec
    purge = Airway(
        id=fresh_id("purge", _ids(made)),
        name="Purge",
        schedule=Cycle(on_min=10, every_min=60),
        parts=(FanPart(id="fan", spec=small), FittingPart(id="flap", spec=fittings()[_FLAP].spec)),
    )
    made = with_port(made, purge, small.diameter_m, report.here)
    # What the purge draws must come in: by a flap that suction opens and that shuts the loop again.
    inlet = Airway(
        id=fresh_id("purge-inlet", _ids(made)),
        name="Purge inlet",
        way="in",
        parts=(FittingPart(id="flap", spec=fittings()[_FLAP].spec),),
    )
    return with_port(made, inlet, small.diameter_m, report.here)


_FLAP = "damper-100"


def shut_for_loop(space: Space) -> Space:
    """Shut what lets air in by itself, so that a loop is closed.

    Returns
    -------
    Space : with meshes, vents and slits shut that no way of air passes; seams of doors stay as they are
    """
    led = {way.port.opening_id for way in space.airways if way.port}
    shut = tuple(
        hole.model_copy(update={"open": False})
        if hole.passes_air and hole.id not in led and hole.shape != "seam"
        else hole
        for hole in space.openings
    )
    return space.model_copy(update={"openings": shut})
