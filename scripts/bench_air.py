"""Figures of the air: how fast paths are solved and sets searched, how near losses come to handbooks."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

Row = Callable[[str, str, str], None]


def _ten_parts() -> Any:
    """A tent whose exhaust has ten parts and whose fan has nine steps."""
    from canopy.design.start.answers import Answers
    from canopy.design.start.space import begin_space
    from canopy.library import ducts, fans, filters, fittings
    from canopy.plan import Airway, BendPart, DuctPart, FanPart, FilterPart, FittingPart, Opening, PortPart

    answers = Answers(
        space_id="ten",
        name="Ten",
        kind="tent",
        width_m=1.2,
        depth_m=0.9,
        height_m=1.9,
        crop_id="okra",
        count=4,
        lamp_class_id="board-240",
        lamp_count=1,
    )
    space = begin_space(answers)
    flex = ducts()["flex-alu"].spec

    def duct(number: int, length: float) -> DuctPart:
        return DuctPart(id=f"duct-{number}", spec=flex, diameter_m=0.125, length_m=length)

    parts = (
        FilterPart(id="filter", spec=filters()["filter-125"].spec),
        duct(1, 0.4),
        FanPart(id="fan", spec=fans()["inline-125-ec"].spec),
        duct(2, 0.3),
        BendPart(id="bend-1", diameter_m=0.125),
        PortPart(id="port", opening_id="out"),
        duct(3, 1.9),
        BendPart(id="bend-2", diameter_m=0.125, angle_deg=60),
        FittingPart(id="damper", spec=fittings()["damper-125"].spec),
        FittingPart(id="grille", spec=fittings()["grille-125"].spec),
    )
    holes = (
        Opening(id="out", face="left", u_m=0.45, v_m=1.75, diameter_m=0.125, use="exhaust"),
        Opening(id="in", face="right", shape="mesh", u_m=0.45, v_m=0.2, width_m=0.4, height_m=0.12, clear_share=0.58),
    )
    way = Airway(id="exhaust", name="Exhaust", parts=parts)
    return space.model_copy(update={"airways": (way,), "openings": holes})


def paths(demo: Path, row: Row, times: Callable[..., list[float]], middle: Callable[[list[float]], str]) -> None:
    """Every speed step of a path of ten parts, and the search over the library."""
    from canopy.air.operating import operating_points
    from canopy.design.air.fan_sets import sets_for, try_set
    from canopy.evaluate import evaluate_space
    from canopy.plan import load
    from canopy.plan.edit import add_space

    space = _ten_parts()
    plan = add_space(load(demo), space)
    steps = operating_points(plan, space, space.airways[0])

    def varied(number: int) -> Any:
        # A little longer each time, so that nothing is remembered.
        way = space.airways[0]
        parts = tuple(
            p.model_copy(update={"length_m": 1.9 + 0.01 * number}) if p.id == "duct-3" else p for p in way.parts
        )
        return space.model_copy(update={"airways": (way.model_copy(update={"parts": parts}),)})

    def solve(number: int) -> None:
        moved = varied(number)
        operating_points(plan, moved, moved.airways[0])

    solved = times(solve)
    row(f"air: all {len(steps)} speed steps of a path of ten parts", middle(solved), "under 30 ms")
    need = evaluate_space(plan, space, with_map=False).breathing.governing.flow_m3_h or 0.0
    sets = sets_for(space, need, filtered=True)
    found = times(lambda n: [try_set(plan, varied(20 + n), item, need) for item in sets], 3)
    row(f"air: which fan and filter, {len(sets)} sets of the library", middle(found), "under 3000 ms")
    from canopy.air import breath

    row(
        "air: a space's flows with lamps on",
        middle(times(lambda n: breath(plan, space, lit=True, rise_k=4 + n * 0.01))),
        "",
    )


def losses(row: Row) -> None:
    """Ducts against Colebrook, adapters and affinity laws, the worked tent of the physics."""
    import fluids

    from canopy.air.fan_curve import fan_curve
    from canopy.air.losses import adapter_loss, area_m2, duct_drop_pa
    from canopy.library import fans

    worst = 0.0
    for diameter in (0.075, 0.1, 0.125, 0.15, 0.2, 0.25):
        for velocity in (1.2, 2.0, 4.0, 7.0):
            for roughness in (1e-5, 1.2e-4, 1e-3):
                factor = fluids.friction.Colebrook(velocity * diameter / 1.54e-5, roughness / diameter)
                want = fluids.dP_from_K(factor * 2 / diameter, rho=1.19, V=velocity)
                worst = max(worst, abs(duct_drop_pa(velocity * area_m2(diameter), diameter, 2, roughness) / want - 1))
    row("air: friction against Colebrook in the library fluids, worst of 72", f"{100 * worst:.1f} %", "within 3 %")
    gap = max(
        abs(adapter_loss(a, b) / fluids.contraction_conical_Crane(Di1=a, Di2=b, angle=60) - 1)
        for a, b in ((0.125, 0.1), (0.15, 0.125), (0.2, 0.15))
    )
    row("air: cones against the library fluids", f"{100 * gap:.2f} %", "within 3 %")
    drift = 0.0
    for item in fans().values():
        curve = fan_curve(item.spec)
        for speed in (0.2, 0.45, 0.7):
            flow = 0.6 * curve.free_m3_s
            full, slow = curve.pressure_pa(flow, 1.0), curve.pressure_pa(flow * speed, speed)
            drift = max(drift, abs(slow / (speed**2 * full) - 1))
    row("air: affinity laws over all fans of the library", f"{drift:.0e}", "exact")
