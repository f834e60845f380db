"""Ways of air on the section: inside to scale from the port inwards, outside folded along the wall."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from canopy.evaluate import SpaceReport
from canopy.evaluate.air.paths import PathReport
from canopy.margin import Amount
from canopy.plan.airways import AirPart, Airway, part_length_m
from canopy.plan.document import Space
from canopy.plan.shell import Opening
from canopy_web.drawing.air_symbols import LENGTHS, Line, arrow, half_px, part_name, symbol
from canopy_web.drawing.scene import AirMark, AirRun, Box

Place = Callable[[float, float], tuple[float, float]]
LETTERS = "ABCDEFGH"
# Outside a run is folded: so far from the wall, and so far along it [px].
AWAY_PX, ALONG_PX = 46.0, 150.0
_SHORTEST_PX = 5.0


def faces_of(view: str) -> dict[str, tuple[float, float]]:
    """Give the faces that are edges of a view, with the way outwards in drawing units."""
    sides = ("left", "right") if view == "front" else ("front", "back")
    return {sides[0]: (-1.0, 0.0), sides[1]: (1.0, 0.0), "ceiling": (0.0, -1.0), "floor": (0.0, 1.0)}


def view_of(space: Space, airway: Airway) -> str:
    """Give the view that shows a way of air from the side."""
    hole = port_of(space, airway)
    return "side" if hole is not None and hole.face in ("front", "back") else "front"


def port_of(space: Space, airway: Airway) -> Opening | None:
    """Give the opening a way of air passes."""
    return next((o for o in space.openings if airway.port and o.id == airway.port.opening_id), None)


def outside_of(space: Space, view: str) -> set[str]:
    """Give the faces of a view beyond which something of a way of air lies."""
    found: set[str] = set()
    for airway in space.airways:
        hole = port_of(space, airway)
        if hole is not None and view_of(space, airway) == view and hole.face in faces_of(view):
            found.add(hole.face)
    return found


def draw_ways(
    report: SpaceReport, system: str, view: str, box: Box, scale: float
) -> tuple[tuple[AirMark, ...], tuple[AirRun, ...]]:
    """Draw the ways of air that a view shows from the side."""
    space = report.space
    marks: list[AirMark] = []
    runs: list[AirRun] = []
    for number, airway in enumerate(space.airways):
        if view_of(space, airway) != view:
            continue
        path = next((item for item in report.paths if item.airway.id == airway.id), None)
        made = _Way(
            space=space,
            airway=airway,
            letter=LETTERS[number],
            box=box,
            scale=scale,
            view=view,
            path=path,
            system=system,
            name=_end_name(report, airway),
        )
        more, run = made.draw()
        marks += more
        runs.append(run)
    return tuple(marks), tuple(runs)


def _end_name(report: SpaceReport, airway: Airway) -> str:
    if airway.ends != "space":
        return "another room" if airway.ends == "other-room" else airway.ends
    far = report.plan.space(airway.space_id or "")
    return far.name if far else "another space"


@dataclass(frozen=True, kw_only=True)
class _Way:
    space: Space
    airway: Airway
    letter: str
    box: Box
    scale: float
    view: str
    path: PathReport | None
    system: str
    name: str

    def draw(self) -> tuple[list[AirMark], AirRun]:
        """Inside parts from the port inwards, outside ones from it outwards, and an arrow at each end."""
        parts, hole = self.airway.parts, port_of(self.space, self.airway)
        inside = [part for part in parts if self.airway.is_inside(part.id) and part.kind != "port"]
        outside = [part for part in parts if not self.airway.is_inside(part.id) and part.kind != "port"]
        if self.airway.way == "out":
            inside.reverse()
        else:
            outside.reverse()
        start, away = self._start(hole)
        marks, inner = self._inside(inside, start, (-away[0], -away[1]))
        outer: list[Line] = []
        if hole is not None:
            more, outer = self._outside(outside, start, away)
            marks += more
        return marks, self._run(start, inner, outer, hole is not None)

    def _start(self, hole: Opening | None) -> tuple[tuple[float, float], tuple[float, float]]:
        """Where the run passes the shell in this view, and the way outwards there."""
        size, b, s = self.space.size, self.box, self.scale
        if hole is None:
            return (b.x + b.w * 0.12, b.y + min(b.h * 0.14, 0.2 * s)), (-1.0, 0.0)
        along = hole.u_m if self.view == "front" else hole.v_m
        if hole.face in ("floor", "ceiling"):
            return (b.x + along * s, b.y + (b.h if hole.face == "floor" else 0.0)), faces_of(self.view)[hole.face]
        far = hole.face in ("right", "back")
        return (b.x + (b.w if far else 0.0), b.y + (size.height_m - hole.v_m) * s), faces_of(self.view)[hole.face]

    def _inside(
        self, parts: Sequence[AirPart], start: tuple[float, float], way: tuple[float, float]
    ) -> tuple[list[AirMark], list[Line]]:
        if not parts:
            return [], []
        b, widest = self.box, max(half_px(part, self.scale, 4.0) for part in parts)
        x, y = start
        upright = way[1] != 0
        if upright:
            x = min(max(x, b.x + widest + 2), b.x + b.w - widest - 2)
            room = b.h * 0.62
        else:
            y = min(max(y, b.y + widest + 2), b.y + b.h - widest - 2)
            room = b.w - abs(start[0] - (b.x if way[0] > 0 else b.x + b.w)) - 10
        line = Line(x=x, y=y, dx=way[0], dy=way[1])
        marks, end = self._lay(
            parts, line, [part_length_m(part) * self.scale for part in parts], room, self.scale, inside=True
        )
        return marks, [line, Line(x=line.at(end)[0], y=line.at(end)[1], dx=way[0], dy=way[1])]

    def _outside(
        self, parts: Sequence[AirPart], start: tuple[float, float], away: tuple[float, float]
    ) -> tuple[list[AirMark], list[Line]]:
        """Straight away from the wall to the first bend, then along the wall."""
        turn = next((n for n, part in enumerate(parts) if part.kind == "bend" and part.angle_deg >= 30), len(parts))
        first, then = parts[: turn + 1], parts[turn + 1 :]
        line = Line(x=start[0], y=start[1], dx=away[0], dy=away[1])
        small = min(self.scale, 70.0)
        marks, end = self._lay(
            first, line, [LENGTHS[part.kind] for part in first], AWAY_PX, small, inside=False, gap=7.0
        )
        corner = line.at(max(end, 12.0))
        if turn >= len(parts):
            return marks, [line, Line(x=corner[0], y=corner[1], dx=away[0], dy=away[1])]
        b = self.box
        if away[1] != 0:
            along = (1.0, 0.0) if corner[0] < b.x + b.w / 2 else (-1.0, 0.0)
        else:
            along = (0.0, 1.0) if corner[1] < b.y + b.h / 2 else (0.0, -1.0)
        second = Line(x=corner[0], y=corner[1], dx=along[0], dy=along[1])
        more, reach = self._lay(
            then, second, [LENGTHS[part.kind] for part in then], ALONG_PX, small, inside=False, gap=8.0
        )
        last = second.at(max(reach, 14.0))
        return marks + more, [line, second, Line(x=last[0], y=last[1], dx=along[0], dy=along[1])]

    def _lay(
        self,
        parts: Sequence[AirPart],
        line: Line,
        lengths: list[float],
        room: float,
        scale: float,
        *,
        inside: bool,
        gap: float = 0.0,
    ) -> tuple[list[AirMark], float]:
        """Set parts one behind the other; ducts give way first where there is no room, then all."""
        ducts = sum(length for part, length in zip(parts, lengths, strict=True) if part.kind == "duct")
        rest = sum(lengths) - ducts
        share = 1.0 if ducts + rest <= room else max(0.0, room - rest) / ducts if ducts else 1.0
        whole = min(1.0, room / rest) if rest > room else 1.0
        marks, at = [], gap
        for part, length in zip(parts, lengths, strict=True):
            short = part.kind == "duct" and (share < 0.98 or (not inside and part.length_m * scale > length))
            drawn = max(_SHORTEST_PX, length * (share if part.kind == "duct" else whole))
            marks.append(self._mark(part, line, at, drawn, scale, short=short, inside=inside))
            at += drawn
        return marks, at

    def _mark(
        self, part: AirPart, line: Line, at: float, length: float, scale: float, *, short: bool, inside: bool
    ) -> AirMark:
        half = half_px(part, scale, 3.0 if inside else 3.5, most=None if inside else 11.0)
        number = next(n for n, item in enumerate(self.airway.parts, 1) if item.id == part.id)
        body, lines = symbol(part, line, at, length, half, short=short, forward=self._forward(inside))
        tx, ty = line.at(at + length / 2, 0.0)
        if line.dy == 0:
            ty -= half + 4
        else:
            tx += half + 9 if line.x > self.box.x + self.box.w / 2 else -(half + 9)
            ty += 3
        return AirMark(
            id=part.id,
            airway_id=self.airway.id,
            kind=part.kind,
            label=f"{self.letter}{number}",
            title=self._title(part),
            body=body,
            lines=lines,
            tx=round(tx, 1),
            ty=round(ty, 1),
            on=_runs(part),
        )

    def _forward(self, inside: bool) -> bool:
        """Whether the air goes the way the run is drawn: outwards outside, inwards inside."""
        return (self.airway.way == "in") == inside

    def _title(self, part: AirPart) -> str:
        name = part_name(part)
        drop = next((d for d in self.path.drops if d.element.part_id == part.id), None) if self.path else None
        if drop is None:
            return name
        return f"{name}: takes {Amount(value=drop.drop_pa, unit='pressure').text(self.system)}"

    def _run(self, start: tuple[float, float], inner: list[Line], outer: list[Line], through: bool) -> AirRun:
        """The thread through all parts, an arrow at either end, and what moves."""
        points = [(line.x, line.y) for line in reversed(inner)] + ([start] if through else [])
        points += [(line.x, line.y) for line in outer]
        if not inner and through:
            points.insert(
                0, (start[0] - (outer[0].dx if outer else 0) * 14, start[1] - (outer[0].dy if outer else 0) * 14)
            )
        thread = "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)
        out = self.airway.way == "out"
        tips = []
        if outer:
            tips.append(arrow(outer[-1].x, outer[-1].y, outer[-1].dx, outer[-1].dy, forward=out))
        if inner:
            tips.append(arrow(inner[-1].x, inner[-1].y, inner[-1].dx, inner[-1].dy, forward=not out))
        elif outer:
            tips.append(arrow(points[0][0], points[0][1], -outer[0].dx, -outer[0].dy, forward=not out))
        flow = Amount(value=self.path.flow_m3_h if self.path else 0.0, unit="airflow").text(self.system)
        end = outer[-1] if outer else Line(x=start[0], y=start[1], dx=0.0, dy=-1.0)
        tx, ty, anchor = _beside(end, self.box)
        return AirRun(
            id=self.airway.id,
            letter=self.letter,
            thread=thread,
            arrows="".join(tips),
            flow=flow,
            end=self.name,
            tx=tx,
            ty=ty,
            anchor=anchor,
            title=f"{self.letter} {self.airway.name}: {flow}, {'to' if out else 'from'} {self.name}",
        )


def _beside(end: Line, box: Box) -> tuple[float, float, str]:
    """Where a run's end is named: below it at the sides, beside it over the ceiling."""
    if end.dy == 0 and (end.y < box.y or end.y > box.y + box.h):
        right = end.dx > 0
        return round(end.x + (12 if right else -12), 1), round(end.y + 4, 1), "start" if right else "end"
    if end.dy < 0 and end.y < box.y:
        # Numbers stand on the side of the nearer wall, the name on the other.
        right = end.x <= box.x + box.w / 2
        return round(end.x + (9 if right else -9), 1), round(max(end.y - 2, 14.0), 1), "start" if right else "end"
    left = end.x < box.x + box.w / 2
    down = end.dy >= 0
    x = box.x - 8 if left else box.x + box.w + 8
    return round(x, 1), round(end.y + (24 if down else -18), 1), "end" if left else "start"


def _runs(part: AirPart) -> bool:
    return part.kind != "fan" or part.speed > 0
