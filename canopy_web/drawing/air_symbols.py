"""How parts of a way of air look on the section: outlines along a line, strokes inside them, arrows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from canopy.plan.airways import AirPart, part_width_m

# Outside a run is folded: what a part takes there [px].
LENGTHS = {
    "fan": 22.0,
    "filter": 30.0,
    "duct": 26.0,
    "bend": 9.0,
    "adapter": 10.0,
    "fitting": 11.0,
    "hood": 30.0,
    "port": 0.0,
}


@dataclass(frozen=True, kw_only=True)
class Line:
    """A straight stretch of a run: where it begins, which way it goes."""

    x: float
    y: float
    dx: float
    dy: float

    def at(self, along: float, aside: float = 0.0) -> tuple[float, float]:
        return self.x + self.dx * along - self.dy * aside, self.y + self.dy * along + self.dx * aside

    def path(self, points: Sequence[tuple[float, float]], *, close: bool = True) -> str:
        return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in (self.at(*p) for p in points)) + ("Z" if close else "")


def part_name(part: AirPart) -> str:
    """Name a part of a way of air in a few words."""
    if part.kind == "bend":
        return f"{part.angle_deg:g}° bend, {part.make}"
    if part.kind == "adapter":
        return f"Adapter, {part.make}"
    if part.kind == "port":
        return "Port"
    if part.kind == "hood":
        return "Hood of a lamp"
    if part.kind == "fan" and part.count > 1:
        return f"{part.count} × {part.spec.name}"
    return part.spec.name


def half_px(part: AirPart, scale: float, least: float, most: float | None = None) -> float:
    """Half of how wide a part is [px]."""
    if part.kind == "port":
        return least
    half = max(part_width_m(part) * scale / 2, least)
    return half if most is None else min(half, most)


def symbol(
    part: AirPart, line: Line, at: float, length: float, half: float, *, short: bool, forward: bool
) -> tuple[str, str]:
    """A part's outline, and the strokes inside it."""
    a, z, mid = at, at + length, at + length / 2
    box = [(a, -half), (z, -half), (z, half), (a, half)]
    if part.kind == "fan":
        neck = half * 0.62
        body = [
            (a, -neck),
            (a + length * 0.22, -half),
            (z - length * 0.22, -half),
            (z, -neck),
            (z, neck),
            (z - length * 0.22, half),
            (a + length * 0.22, half),
            (a, neck),
        ]
        tip = 0.5 if forward else -0.5
        wheel = line.path(
            [
                (mid - tip * length * 0.34, -half * 0.62),
                (mid + tip * length * 0.6, 0),
                (mid - tip * length * 0.34, half * 0.62),
            ],
            close=False,
        )
        return line.path(body), wheel + line.path([(mid, -half), (mid, half)], close=False)
    if part.kind == "filter":
        inner = half * 0.52
        return line.path(box), line.path([(a, -inner), (z, -inner)], close=False) + line.path(
            [(a, inner), (z, inner)], close=False
        )
    if part.kind == "duct":
        return line.path(box), _duct_lines(part, line, a, z, half, short=short)
    if part.kind == "bend":
        return line.path(box), line.path([(a, half), (mid, half * 0.2), (z, -half)], close=False)
    if part.kind == "adapter":
        grows = (part.to_m > part.from_m) == forward
        one, two = (half * 0.6, half) if grows else (half, half * 0.6)
        return line.path([(a, -one), (z, -two), (z, two), (a, one)]), ""
    if part.kind == "hood":
        arch = [(a, -half * 0.5), (a + length * 0.25, -half), (z - length * 0.25, -half), (z, -half * 0.5)]
        lamp = line.path([(a + length * 0.25, half * 0.45), (z - length * 0.25, half * 0.45)], close=False)
        return line.path([*arch, (z, half), (a, half)]), lamp
    return line.path(box), _fitting_lines(part, line, a, z, half)


def _duct_lines(part: AirPart, line: Line, a: float, z: float, half: float, *, short: bool) -> str:
    strokes = []
    if part.kind == "duct" and part.spec.flexible:
        count = max(2, int((z - a) / 5))
        for number in range(1, count):
            x = a + (z - a) * number / count
            strokes.append(line.path([(x, -half), (x, half)], close=False))
    if short:
        mid = (a + z) / 2
        for shift in (-2.2, 2.2):
            strokes.append(line.path([(mid + shift - 2, half + 3), (mid + shift + 2, -half - 3)], close=False))
    return "".join(strokes)


def _fitting_lines(part: AirPart, line: Line, a: float, z: float, half: float) -> str:
    sort = part.spec.sort if part.kind == "fitting" else ""
    mid = (a + z) / 2
    if sort == "damper":
        return line.path([(a, -half), (z, half)], close=False)
    if sort == "muffler":
        return line.path([(a, -half * 0.5), (z, -half * 0.5)], close=False) + line.path(
            [(a, half * 0.5), (z, half * 0.5)], close=False
        )
    if sort == "light-trap":
        return line.path([(a, -half), (mid, half * 0.4), (z, -half)], close=False)
    steps = (-0.5, 0.0, 0.5)
    return "".join(line.path([(a, half * k), (z, half * k)], close=False) for k in steps)


def arrow(x: float, y: float, dx: float, dy: float, *, forward: bool, size: float = 9.0) -> str:
    """An arrow that begins at a point; backwards it points at it."""
    line = Line(x=x, y=y, dx=dx, dy=dy)
    tip, tail = (size + 2, 2.0) if forward else (1.0, size + 2)
    back = tip - size * 0.5 if forward else tip + size * 0.5
    return line.path([(tail, 0), (tip, 0)], close=False) + line.path([(back, -3.2), (tip, 0), (back, 3.2)], close=False)
