"""Usual layouts of the air, sized for what a space is asked: exhaust, with a filter, intake, push-pull, a loop with
a purge.
"""

from __future__ import annotations

from canopy.design.air.building import calmed, exhaust_parts, filter_for, sized, smallest_fan
from canopy.design.air.openings import intake_opening, new_port, open_area_m2, with_port
from canopy.equipment import FanSpec
from canopy.evaluate.air.amounts import SPARE
from canopy.evaluate.space import SpaceReport
from canopy.library import ducts, fans
from canopy.plan.airways import Airway, DuctPart, FanPart
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
        drawn = _drawn(report, flow, filtered=kind == "filtered")
        return _pushed(drawn, flow) if kind == "push-pull" else drawn

    return sized(report.plan, report.here, report.lighting, build, need, SPARE)


def _ids(space: Space) -> list[str]:
    return [way.id for way in space.airways]


def _drawn(report: SpaceReport, need: float, *, filtered: bool) -> Space:
    space = report.space
    key = fresh_id("exhaust", _ids(space))

    def make(spec: FanSpec) -> tuple[Space, Airway]:
        strain = filter_for(spec.diameter_m, need) if filtered else None
        made = with_port(
            space, Airway(id=key, name="Exhaust", parts=exhaust_parts(spec, None, strain=strain)), spec.diameter_m
        )
        cut = intake_opening(made, need, taken_m2=open_area_m2(made))
        if cut:
            made = made.model_copy(update={"openings": (*made.openings, cut)})
        return made, next(way for way in made.airways if way.id == key)

    found = smallest_fan(report.plan, make, need)
    return calmed(report.plan, found[0] if found else make(fans()["inline-250"].spec)[0])


def _blown(report: SpaceReport, need: float) -> Space:
    space = report.space
    key = fresh_id("intake", _ids(space))

    def make(spec: FanSpec) -> tuple[Space, Airway]:
        made = with_port(
            space, Airway(id=key, name="Intake", way="in", parts=(FanPart(id="fan", spec=spec),)), spec.diameter_m
        )
        if open_area_m2(made) * 3600 < need:
            out = new_port(made, max(spec.diameter_m, 0.1), "exhaust")
            made = made.model_copy(update={"openings": (*made.openings, *([out] if out else []))})
        return made, next(way for way in made.airways if way.id == key)

    found = smallest_fan(report.plan, make, need)
    return found[0] if found else make(fans()["inline-250"].spec)[0]


def _pushed(drawn: Space, need: float) -> Space:
    """An intake fan about two thirds as strong as the exhaust, so that it stays below the room's pressure."""
    key = fresh_id("intake", _ids(drawn))
    able = [row.spec for row in fans().values() if row.spec.free_flow_m3_h >= 0.65 * need]
    spec = min(able, key=lambda each: each.free_flow_m3_h, default=fans()["inline-200"].spec)
    speed = next((step for step in spec.steps or (1.0,) if step * spec.free_flow_m3_h >= 0.65 * need), 1.0)
    way = Airway(id=key, name="Intake", way="in", parts=(FanPart(id="fan", spec=spec, speed=speed),))
    return with_port(drawn, way, spec.diameter_m)


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
    made = with_port(space, out, bore)
    back = Airway(
        id=fresh_id("loop-back", _ids(made)), name="Loop, back", way="in", ends="space", space_id=far.id, parts=(duct,)
    )
    made = with_port(made, back, bore)
    small = fans()["axial-100"].spec
    purge = Airway(
        id=fresh_id("purge", _ids(made)),
        name="Purge",
        schedule=Cycle(on_min=10, every_min=60),
        parts=(FanPart(id="fan", spec=small),),
    )
    return with_port(made, purge, small.diameter_m)
