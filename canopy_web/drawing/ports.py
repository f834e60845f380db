"""Openings in the three views, and which of their measures a drag changes there."""

from __future__ import annotations

from typing import Any

from canopy.plan.document import Space
from canopy.plan.shell import Opening
from canopy.quantities import DIAMETER, show
from canopy.words import capital
from canopy_web.drawing.scene import Box, PortMark


def draw_port(space: Space, hole: Opening, box: Box, view: str, scale: float, system: str) -> PortMark:
    """Draw an opening: a circle or box seen face on, a stretch of an edge seen from the side."""
    size, s = space.size, scale
    ru, rv = hole.across_m / 2 * s, hole.up_m / 2 * s
    wide = show(hole.across_m, DIAMETER, system)
    measure = wide if hole.shape == "round" else f"{hole.shape} {wide} × {show(hole.up_m, DIAMETER, system)}"
    title = f"{capital(hole.use)} {measure}, {hole.face}{'' if hole.open else ', shut'}"
    use = hole.use if hole.open else "closed"
    across, up = _slides(hole.face, view)
    slide: dict[str, Any] = {"across": across, "up": up, "u_m": hole.u_m, "v_m": hole.v_m}
    face_on = {"plan": ("floor", "ceiling"), "front": ("front", "back"), "side": ("left", "right")}[view]
    if hole.face in face_on:
        total = size.depth_m if view == "plan" else size.height_m
        cx, cy = box.x + hole.u_m * s, box.y + (total - hole.v_m) * s
        square = None
        if hole.shape != "round":
            square = Box(x=round(cx - ru, 1), y=round(cy - rv, 1), w=round(2 * ru, 1), h=round(2 * rv, 1))
        return PortMark(
            id=hole.id,
            title=title,
            use=use,
            cx=round(cx, 1),
            cy=round(cy, 1),
            r=round(ru, 1),
            gap=None,
            box=square,
            **slide,
        )
    gap = _gap(space, hole, box, view, scale)
    return PortMark(
        id=hole.id,
        title=title,
        use=use,
        cx=round((gap[0] + gap[2]) / 2, 1),
        cy=round((gap[1] + gap[3]) / 2, 1),
        r=round(ru, 1),
        gap=(round(gap[0], 1), round(gap[1], 1), round(gap[2], 1), round(gap[3], 1)),
        **slide,
    )


def _gap(space: Space, hole: Opening, box: Box, view: str, scale: float) -> tuple[float, float, float, float]:
    """The stretch of an edge that an opening takes up."""
    size, s = space.size, scale
    ru, rv = hole.across_m / 2 * s, hole.up_m / 2 * s
    far = {"right": box.x + box.w, "left": box.x}
    if view == "plan":
        if hole.face in far:
            y = box.y + (size.depth_m - hole.u_m) * s
            return far[hole.face], y - ru, far[hole.face], y + ru
        x, y = box.x + hole.u_m * s, box.y if hole.face == "back" else box.y + box.h
        return x - ru, y, x + ru, y
    if hole.face in ("floor", "ceiling"):
        along, reach = (hole.u_m, ru) if view == "front" else (hole.v_m, rv)
        x, y = box.x + along * s, box.y if hole.face == "ceiling" else box.y + box.h
        return x - reach, y, x + reach, y
    at_far = hole.face in ("right", "back")
    x, y = box.x + (box.w if at_far else 0), box.y + (size.height_m - hole.v_m) * s
    return x, y - rv, x, y + rv


def _slides(face: str, view: str) -> tuple[str, str]:
    """Which of an opening's measures a drag across and a drag upwards change in a view."""
    if view == "plan":
        return ("u", "v") if face in ("floor", "ceiling") else ("", "u") if face in ("left", "right") else ("u", "")
    if face in ("floor", "ceiling"):
        return ("u", "") if view == "front" else ("v", "")
    edge = ("left", "right") if view == "front" else ("front", "back")
    return ("", "v") if face in edge else ("u", "v")
