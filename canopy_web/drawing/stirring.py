"""What moves air without a duct: circulation fans with the cone they blow, and openings through which air goes by
itself.
"""

from __future__ import annotations

from math import cos, hypot, radians, sin

from canopy.evaluate import SpaceReport
from canopy.margin import Amount
from canopy.plan.airways import Stirrer
from canopy.plan.document import Space
from canopy.words import percent
from canopy_web.drawing.air_symbols import Line, arrow
from canopy_web.drawing.airpath import Place, faces_of
from canopy_web.drawing.scene import Box, FlowMark, StirMark


def draw_seeping(report: SpaceReport, system: str, view: str, box: Box, scale: float) -> tuple[FlowMark, ...]:
    """Arrows at openings that let air in or out by themselves, lamps on."""
    found = []
    space, running = report.space, report.breathing.lit.air.running
    by_id = {hole.id: hole for hole in space.openings}
    edges = faces_of(view)
    for flow in running.holes:
        hole = by_id.get(flow.opening_id)
        if hole is None or hole.face not in edges or abs(flow.flow_m3_s) < 1e-5:
            continue
        away = edges[hole.face]
        along = hole.u_m if view == "front" else hole.v_m
        if hole.face in ("floor", "ceiling"):
            x, y = box.x + along * scale, box.y + (box.h if hole.face == "floor" else 0.0)
        else:
            x = box.x + (box.w if hole.face in ("right", "back") else 0.0)
            y = box.y + (space.size.height_m - hole.v_m) * scale
        inwards = flow.flow_m3_s > 0
        tail = Line(x=x, y=y, dx=-away[0], dy=-away[1])
        begin = tail.at(-9.0)
        text = Amount(value=abs(flow.flow_m3_s) * 3600, unit="airflow").text(system)
        tx, ty = tail.at(-13.0)
        anchor = "middle" if away[0] == 0 else "end" if away[0] < 0 else "start"
        found.append(
            FlowMark(
                id=hole.id,
                path=arrow(begin[0], begin[1], -away[0], -away[1], forward=inwards, size=14.0),
                text=text,
                tx=round(tx, 1),
                ty=round(ty + (4 if away[0] else -2 if away[1] < 0 else 10), 1),
                anchor=anchor,
                title=f"{text} {'in' if inwards else 'out'} by itself",
            )
        )
    return tuple(found)


def draw_stirrers(space: Space, place: Place, plane: str, scale: float) -> tuple[StirMark, ...]:
    """Circulation fans with the cone they blow, in one view: plane "xy", "xz" or "yz"."""
    return tuple(_stirrer(n, fan, place, plane, scale) for n, fan in enumerate(space.stirrers, 1))


def _stirrer(number: int, fan: Stirrer, place: Place, plane: str, scale: float) -> StirMark:
    spots = {"x": fan.x_m, "y": fan.y_m, "z": fan.z_m}
    cx, cy = place(spots[plane[0]], spots[plane[1]])
    pitch = radians(fan.pitch_deg)
    radius = max(fan.spec.diameter_m / 2 * scale, 5.0)
    swing = fan.spec.sweep_deg / 2 if fan.swings else 0.0
    cones = []
    for turn in (-swing, swing) if swing and plane == "xy" else (0.0,):
        yaw = radians(fan.yaw_deg + turn)
        aim = {"x": cos(yaw) * cos(pitch), "y": sin(yaw) * cos(pitch), "z": sin(pitch)}
        dx, dy = aim[plane[0]], -aim[plane[1]]
        long = hypot(dx, dy)
        if long < 0.15:
            continue
        line = Line(x=cx, y=cy, dx=dx / long, dy=dy / long)
        reach = 0.42 * scale * long + radius
        spread = radius * 0.6 + 0.2 * reach
        cones.append(line.path([(radius, -radius * 0.5), (reach, -spread)], close=False))
        cones.append(line.path([(radius, radius * 0.5), (reach, spread)], close=False))
        cones.append(line.path([(radius, 0), (reach * 0.9, 0)], close=False))
    return StirMark(
        id=fan.id,
        number=number,
        title=f"Circulation fan {number}: {fan.spec.name}, {percent(fan.speed)}",
        cx=round(cx, 1),
        cy=round(cy, 1),
        r=round(radius, 1),
        jet="".join(cones),
        on=fan.enabled,
        x_m=fan.x_m,
        y_m=fan.y_m,
        z_m=fan.z_m,
    )
