"""Lamps in a view: outlines, ropes, the way they shine, what of them is covered."""

from __future__ import annotations

from collections.abc import Callable

from canopy.plan.document import Fixture, Space
from canopy.plan.levels import roof_m
from canopy.plan.pose import axes, corners
from canopy.words import percent
from canopy_web.drawing.scene import LampMark

Place = Callable[[float, float], tuple[float, float]]
# A lamp whose beam points lower than this hangs on ropes.
_HANGS = -0.8


def lamp_mark(space: Space, number: int, lamp: Fixture, place: Place, plane: tuple[int, int]) -> LampMark:
    """Draw a lamp in a view; ``plane`` names the two axes that the view shows (0 x, 1 y, 2 z)."""
    outlines, spec = [], lamp.spec
    box = corners(lamp)
    flat = [place(float(c[plane[0]]), float(c[plane[1]])) for c in box]
    if plane == (0, 1) and spec.bars > 1:
        frame = axes(lamp)
        for k in range(spec.bars):
            shift = frame.width * (k - (spec.bars - 1) / 2) * spec.bar_pitch_m
            bar = lamp.model_copy(update={"spec": spec.model_copy(update={"bars": 1, "bar_pitch_m": 0.0})})
            outlines.append(_hull([place(float(c[0] + shift[0]), float(c[1] + shift[1])) for c in corners(bar)]))
    else:
        outlines.append(_hull(flat))
    tx, ty = sum(p[0] for p in flat) / 8, sum(p[1] for p in flat) / 8 + 4
    hangers: tuple[tuple[float, float, float, float], ...] = ()
    beam = ""
    if plane[1] == 2:
        # Ropes end at the shelf above, not in what stands on it.
        top = place(0, roof_m(space, lamp.x_m, lamp.y_m, lamp.z_m))[1]
        highest = min(p[1] for p in flat)
        left, right = min(p[0] for p in flat), max(p[0] for p in flat)
        inset = (right - left) * 0.12
        # What is fixed to a wall or in a corner has no ropes.
        ropes = (left + inset, right - inset) if axes(lamp).beam[2] < _HANGS else ()
        hangers = tuple((round(x, 1), round(highest, 1), round(x, 1), round(top, 1)) for x in ropes)
        beam = _beam(lamp, plane, place)
        # The number stands over the lamp, or under it where the ceiling is close.
        tx, ty = (left + right) / 2, highest - 5 if highest - top > 14 else max(p[1] for p in flat) + 22
    return LampMark(
        id=lamp.id,
        number=number,
        title=f"Lamp {number}: {spec.name}, {percent(lamp.dim)}"
        + (f", {percent(lamp.cover.share)} of it covered" if lamp.cover else ""),
        outlines=tuple(outlines),
        hangers=hangers,
        beam=beam,
        tx=round(tx, 1),
        ty=round(ty, 1),
        on=lamp.enabled and lamp.dim > 0,
        x_m=lamp.x_m,
        y_m=lamp.y_m,
        z_m=lamp.z_m,
        covered=_covered(lamp, place, plane),
        thinly=bool(lamp.cover and lamp.cover.where == "evenly"),
    )


def _covered(lamp: Fixture, place: Place, plane: tuple[int, int]) -> str:
    """Outline of the covered part of a lamp."""
    if lamp.cover is None:
        return ""
    share = 1.0 if lamp.cover.where == "evenly" else lamp.cover.share
    shift = axes(lamp).length * lamp.spec.length_m * (share - 1) / 2 * (1 if lamp.cover.where != "end" else -1)
    part = lamp.model_copy(update={"spec": lamp.spec.model_copy(update={"length_m": lamp.spec.length_m * share})})
    points = corners(part if lamp.spec.shape == "rectangle" else lamp) + shift
    return _hull([place(float(c[plane[0]]), float(c[plane[1]])) for c in points])


def _beam(lamp: Fixture, plane: tuple[int, int], place: Place) -> str:
    """Short strokes that show the way a lamp shines."""
    frame, face = axes(lamp), corners(lamp, with_body=False)
    low, high = face[face[:, plane[0]].argmin()], face[face[:, plane[0]].argmax()]
    parts = []
    for share in (0.1, 0.3, 0.5, 0.7, 0.9):
        start = low + (high - low) * share
        end = start + frame.beam * 0.028
        (x1, y1), (x2, y2) = (place(float(p[plane[0]]), float(p[plane[1]])) for p in (start, end))
        parts.append(f"M{x1:.1f} {y1:.1f}L{x2:.1f} {y2:.1f}")
    return "".join(parts)


def _hull(points: list[tuple[float, float]]) -> str:
    """Outline of a lamp's corners as a path (convex hull, Andrew's monotone chain)."""
    ordered = sorted({(round(x, 2), round(y, 2)) for x, y in points})
    if len(ordered) < 3:
        return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in ordered)

    def half(items: list[tuple[float, float]]) -> list[tuple[float, float]]:
        out: list[tuple[float, float]] = []
        for p in items:
            while len(out) > 1 and _turn(out[-2], out[-1], p) <= 0:
                out.pop()
            out.append(p)
        return out[:-1]

    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in half(ordered) + half(ordered[::-1])) + "Z"


def _turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
