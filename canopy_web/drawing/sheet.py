"""The three views of a space: front and side to one scale, the plan with its light as large as there is room."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from canopy.evaluate import SpaceReport
from canopy.evaluate.light.lighting import LightMap, PlantLight, light_section, wanted_ppfd
from canopy.margin import Margin, worst
from canopy.plan.document import Space
from canopy.plan.levels import roof_m, shelf_under
from canopy.plan.plants import cell_pitch_m
from canopy.quantities import LENGTH, Reader, reader_of, show, significant
from canopy.season import Growing
from canopy_web.drawing.airpath import draw_ways, faces_of, outside_of
from canopy_web.drawing.apart import apart
from canopy_web.drawing.contours import draw, figure, step_of
from canopy_web.drawing.devices import draw_devices
from canopy_web.drawing.furniture import furniture
from canopy_web.drawing.lamp_marks import lamp_mark
from canopy_web.drawing.ports import draw_port
from canopy_web.drawing.scene import Band, Box, Dimension, Dot, DotMark, Isoline, PlantMark, View
from canopy_web.drawing.stirring import draw_seeping, draw_stirrers

SHEET_W, TALLEST = 880.0, 336.0
_PAD_L, _PAD_T, _PAD_B = 40.0, 8.0, 32.0
_PAD_R = {"front": 84.0, "side": 14.0, "plan": 16.0}
# What a way of air takes outside a wall [px].
_OUTSIDE = 70.0
# How large the plan is beside sections of the air.
_PLAN_BESIDE_AIR = 0.62

# A pot that is raised by less stands on the floor as far as a drawing goes [m].
_STAND_M = 0.01
# Of more plants than this the numbers show on pointing and focus only.
MANY = 20


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """The three views."""

    front: View
    side: View
    plan: View


def sheet(
    report: SpaceReport,
    reader: str | Reader,
    selected: str = "",
    cut: float | None = None,
    own_tops: bool = False,
    air: bool = False,
    dots: tuple[Dot, ...] = (),
) -> Sheet:
    """Draw a space.

    With ``cut`` [m] the front view shows the light on a plane that far from the front. With ``own_tops`` the plan shows
    each plant's light on its own top instead of one level's. With ``air`` the sections show ways of air and what stirs
    it in place of the stack of heights and the light. ``dots`` are readings shown on the plan.
    """
    size, reader = report.space.size, reader_of(reader)
    pads = {view: _pads(report.space, view, air=air) for view in ("front", "side", "plan")}
    room = SHEET_W - sum(pad.left + pad.right for pad in pads.values())
    # Of the air the sections tell most: the plan gives way.
    plan_share = _PLAN_BESIDE_AIR if air else 1.0
    scale = min(
        room / ((1 + plan_share) * size.width_m + size.depth_m), TALLEST / max(size.height_m, plan_share * size.depth_m)
    )
    upright = _Artist(report=report, reader=reader, scale=scale, selected=selected, cut=cut, air=air)
    left = room - scale * (size.width_m + size.depth_m)
    from_above = min(left / size.width_m, TALLEST / size.depth_m)
    flat = _Artist(
        report=report, reader=reader, scale=from_above, selected=selected, own_tops=own_tops, air=air, dots=dots
    )
    return Sheet(front=upright.front(), side=upright.side(), plan=flat.plan())


@dataclass(frozen=True, kw_only=True)
class _Pads:
    """Room around a view for dimensions, and for what lies outside the walls [px]."""

    left: float
    right: float
    top: float


def _pads(space: Space, view: str, *, air: bool) -> _Pads:
    if not air or view == "plan":
        return _Pads(left=_PAD_L, right=_PAD_R[view], top=_PAD_T)
    outside, sides = outside_of(space, view), list(faces_of(view))
    seeping = {hole.face for hole in space.openings if hole.passes_air} | outside
    left = _PAD_L + (_OUTSIDE if sides[0] in seeping else 10.0)
    right = _PAD_R["side"] + (_OUTSIDE if sides[1] in seeping else 10.0)
    return _Pads(left=left, right=right, top=_PAD_T + (_OUTSIDE if "ceiling" in outside else 14.0))


@dataclass(frozen=True, kw_only=True)
class _Artist:
    report: SpaceReport
    reader: Reader
    scale: float
    selected: str
    cut: float | None = None
    own_tops: bool = False
    dots: tuple[Dot, ...] = ()
    air: bool = False

    @property
    def space(self) -> Space:
        return self.report.space

    @property
    def system(self) -> str:
        return self.reader.system

    @property
    def plants(self) -> tuple[Growing, ...]:
        return self.report.here.plants

    @property
    def _wanted(self) -> tuple[float, float]:
        low, high = wanted_ppfd(self.report.here)
        return low * self.reader.light.per_umol, high * self.reader.light.per_umol

    def _read(self, light: LightMap) -> LightMap:
        """A map in the reader's unit of light."""
        return replace(light, ppfd_umol_m2_s=light.ppfd_umol_m2_s * self.reader.light.per_umol)

    def _say(self, value_m: float) -> str:
        return show(value_m, LENGTH, self.system)

    def _verdict(self, plant: Growing) -> str:
        return worst(self._judged.get(plant.id, []))

    @cached_property
    def _judged(self) -> dict[str, list[Margin]]:
        """The margins of light that name each plant, by its id."""
        found: dict[str, list[Margin]] = {}
        for margin in self.report.margins:
            if margin.station == "light":
                for part in margin.parts:
                    found.setdefault(part, []).append(margin)
        return found

    @cached_property
    def _lit(self) -> dict[str, PlantLight]:
        """The light on each plant, by its id."""
        return {item.plant.id: item for item in self.report.lighting.plants}

    def _trouble(self, plant: Growing) -> str:
        """ "short" or "over" where this very plant gets too little or too much light, else nothing."""
        light = self._lit.get(plant.id)
        if light is None:
            return ""
        pairs = (
            (light.dli_mol_m2_d, plant.want.dli_mol_m2_d),
            (light.ppfd_umol_m2_s, plant.want.ppfd_umol_m2_s),
        )
        if any(value < window.low for value, window in pairs):
            return "short"
        return "over" if any(value > window.high for value, window in pairs) else ""

    def _frame(self, name: str, across_m: float, up_m: float) -> tuple[Box, float, float]:
        w, h, pad = across_m * self.scale, up_m * self.scale, _pads(self.space, name, air=self.air)
        box = Box(x=pad.left, y=pad.top, w=round(w, 1), h=round(h, 1))
        return box, round(pad.left + w + pad.right, 1), round(pad.top + h + _PAD_B, 1)

    def _base_dimensions(self, box: Box, across_m: float, up_m: float) -> list[Dimension]:
        below, left = box.y + box.h + 14, _PAD_L - 14 if self.air else box.x - 14
        return [
            Dimension(
                x1=box.x,
                y1=below,
                x2=box.x + box.w,
                y2=below,
                text=self._say(across_m),
                tx=box.x + box.w / 2,
                ty=below + 13,
            ),
            Dimension(
                x1=left,
                y1=box.y,
                x2=left,
                y2=box.y + box.h,
                text=self._say(up_m),
                tx=left - 6,
                ty=box.y + box.h / 2,
                upright=True,
            ),
        ]

    def plan(self) -> View:
        """From above, with the light on the level of the map."""
        size = self.space.size
        box, width, height = self._frame("plan", size.width_m, size.depth_m)

        def place(x: float, y: float) -> tuple[float, float]:
            return box.x + x * self.scale, box.y + (size.depth_m - y) * self.scale

        light = self.report.lighting.map
        # What stands higher is drawn over what stands under it.
        lowest_first = sorted(self.plants, key=lambda plant: plant.plant.base_m)
        plants = tuple(self._plant_above(p, place) for p in lowest_first)
        lamps = tuple(lamp_mark(self.space, n, f, place, (0, 1)) for n, f in enumerate(self.space.fixtures, 1))
        bands: tuple[Band, ...] = ()
        isolines: tuple[Isoline, ...] = ()
        if self.air:
            caption = "ports and circulation fans"
        elif self.own_tops:
            bands, isolines = self._own_tops(plants)
            caption = self.reader.light.over("on each plant's own top")
        else:
            numbers = [(mark.cx, mark.cy) for mark in plants] if len(plants) <= MANY else []
            numbers += [(mark.tx, mark.ty - 4) for mark in lamps]
            bands, isolines = draw(self._read(light), place, self._wanted, numbers) if light is not None else ((), ())
            caption = (
                self.reader.light.over(f"at {self._say(light.height_m)}")
                if light is not None and bands
                else "No light yet"
            )
        return View(
            name="plan",
            title="Plan",
            width=width,
            height=height,
            scale=round(self.scale, 3),
            box=box,
            door=self._door_plan(box),
            bands=bands,
            isolines=isolines,
            plants=plants,
            furniture=furniture(self.space, "plan", place),
            lamps=lamps,
            ports=tuple(draw_port(self.space, o, box, "plan", self.scale, self.system) for o in self.space.openings),
            stirrers=draw_stirrers(self.space, place, "xy", self.scale) if self.air else (),
            devices=draw_devices(self.space, place, "xy", self.scale),
            dimensions=tuple(self._base_dimensions(box, size.width_m, size.depth_m)),
            caption=caption,
            legend=self._legend() if bands else (),
            many=len(plants) > MANY,
            dots=tuple(self._dot(dot, place) for dot in self.dots),
        )

    @staticmethod
    def _dot(dot: Dot, place: Callable[[float, float], tuple[float, float]]) -> DotMark:
        x, y = place(dot.x_m, dot.y_m)
        return DotMark(cx=round(x, 1), cy=round(y, 1), text=dot.text, title=dot.title, odd=dot.odd)

    def _legend(self) -> tuple[tuple[int, str], ...]:
        """What the colours say: a step for each, and words."""
        low, high = (significant(end) for end in self._wanted)
        who = "what grows here wants" if self.plants else "leafy greens to fruiting plants want"
        return (2, f"under {low}"), (5, f"{low} to {high}, {who}"), (8, f"over {high}")

    def _own_tops(self, marks: tuple[PlantMark, ...]) -> tuple[tuple[Band, ...], tuple[Isoline, ...]]:
        """Each crown in the colour of the light on its top, with its figure below the plant's number."""
        light = {item.plant.id: item.ppfd_umol_m2_s for item in self.report.lighting.plants}
        bands, figures = [], []
        for mark in marks:
            value = light[mark.id] * self.reader.light.per_umol
            step = step_of(value, self._wanted)
            bands.append(Band(path=mark.outline, step=step))
            text = figure(light[mark.id], self.reader.light)
            figures.append(Isoline(path="", text=text, tx=mark.cx, ty=round(mark.cy + 13, 1), labelled=True))
        return tuple(bands), tuple(figures)

    def front(self) -> View:
        """From the front, with the stack of heights."""
        size = self.space.size
        box, width, height = self._frame("front", size.width_m, size.height_m)
        place = self._upright(box)
        dimensions = self._base_dimensions(box, size.width_m, size.height_m)
        dimensions += [] if self.air else self._stack(box)
        bands, isolines = (
            draw(self._read(light_section(self.report.here, self.cut)), place, self._wanted)
            if self.cut is not None
            else ((), ())
        )
        return View(
            name="front",
            title="Front",
            width=width,
            height=height,
            scale=round(self.scale, 3),
            box=box,
            door="",
            plants=tuple(
                self._plant_beside(p, p.x_m, p.plant.x_m, place, from_front=True) for p in self._far_first("y_m", -1)
            ),
            furniture=furniture(self.space, "front", place),
            devices=draw_devices(self.space, place, "xz", self.scale),
            lamps=tuple(lamp_mark(self.space, n, f, place, (0, 2)) for n, f in enumerate(self.space.fixtures, 1)),
            ports=tuple(draw_port(self.space, o, box, "front", self.scale, self.system) for o in self.space.openings),
            **self._airs("front", box, place, (width, height)),
            dimensions=tuple(dimensions),
            level=self._level(box),
            bands=bands,
            isolines=isolines,
            caption=self.reader.light.over(f"{self._say(self.cut)} from the front") if self.cut is not None else "",
        )

    def side(self) -> View:
        """From the left: front edge at the left, back at the right."""
        size = self.space.size
        box, width, height = self._frame("side", size.depth_m, size.height_m)
        place = self._upright(box)
        return View(
            name="side",
            title="Side",
            width=width,
            height=height,
            scale=round(self.scale, 3),
            box=box,
            door="",
            plants=tuple(
                self._plant_beside(p, p.y_m, p.plant.y_m, place, from_front=False) for p in self._far_first("x_m", -1)
            ),
            furniture=furniture(self.space, "side", place),
            devices=draw_devices(self.space, place, "yz", self.scale),
            lamps=tuple(lamp_mark(self.space, n, f, place, (1, 2)) for n, f in enumerate(self.space.fixtures, 1)),
            ports=tuple(draw_port(self.space, o, box, "side", self.scale, self.system) for o in self.space.openings),
            **self._airs("side", box, place, (width, height)),
            dimensions=tuple(self._base_dimensions(box, size.depth_m, size.height_m)),
            level=self._level(box),
        )

    def _airs(
        self,
        view: str,
        box: Box,
        place: Callable[[float, float], tuple[float, float]],
        size: tuple[float, float],
    ) -> dict[str, Any]:
        """Ways of air, what seeps and what stirs, in a section of the Air station."""
        if not self.air:
            return {}
        marks, runs = draw_ways(self.report, self.system, view, box, self.scale)
        runs, flows = apart(marks, runs, draw_seeping(self.report, self.system, view, box, self.scale), *size)
        return {
            "air": marks,
            "runs": runs,
            "flows": flows,
            "stirrers": draw_stirrers(self.space, place, "xz" if view == "front" else "yz", self.scale),
        }

    def _upright(self, box: Box) -> Callable[[float, float], tuple[float, float]]:
        return lambda a, z: (box.x + a * self.scale, box.y + (self.space.size.height_m - z) * self.scale)

    def _far_first(self, axis: str, way: int) -> list[Growing]:
        """Plants, what stands behind drawn before what stands in front."""
        return sorted(self.plants, key=lambda item: way * float(getattr(item, axis)))

    def _level(self, box: Box) -> Dimension | None:
        light = self.report.lighting.map
        if light is None or self.air:
            return None
        y = round(box.y + (self.space.size.height_m - light.height_m) * self.scale, 1)
        return Dimension(x1=box.x, y1=y, x2=box.x + box.w, y2=y, text=self._say(light.height_m), tx=box.x + 4, ty=y - 4)

    def _stack(self, box: Box) -> list[Dimension]:
        """Stand, pot, plant, clear, lamp, hanger: for the plant closest to a lamp, or the selected lamp."""
        margin = self.report.margin("light.clearance")
        if margin is None:
            return []
        space = self.space
        lamp = next((f for f in space.fixtures if f.id == self.selected), None)
        lamp = lamp or next(f for f in space.fixtures if f.id == margin.parts[0])
        plant = self.report.here.by_id[margin.parts[1]]
        top = lamp.z_m + lamp.spec.thickness_m
        marks = [
            ("stand", 0.0, plant.plant.base_m),
            ("pot", plant.plant.base_m, plant.rim_m),
            ("plant", plant.rim_m, plant.top_m),
            ("clear", plant.top_m, lamp.z_m),
            ("lamp", lamp.z_m, top),
            ("hang", top, roof_m(space, lamp.x_m, lamp.y_m, lamp.z_m)),
        ]
        x, bottom, found = box.x + box.w + 12, box.y + box.h, []
        for name, low, high in marks:
            if high - low < 1e-3:
                continue
            y1, y2 = bottom - low * self.scale, bottom - high * self.scale
            roomy = y1 - y2 > 11
            found.append(
                Dimension(
                    x1=x,
                    y1=round(y1, 1),
                    x2=x,
                    y2=round(y2, 1),
                    upright=False,
                    style=f"stack-{name}",
                    text=f"{name} {self._say(high - low)}" if roomy else "",
                    tx=x + 5,
                    ty=round((y1 + y2) / 2 + 3, 1),
                )
            )
        return found

    def _title(self, plant: Growing) -> str:
        light = self._lit.get(plant.id)
        if light is None:
            return _named(plant)
        figure_text = self.reader.light.text(light.ppfd_umol_m2_s)
        return f"{_named(plant)}: {figure_text}, {light.dli_mol_m2_d:.1f} mol/m²/d"

    def _plant_above(self, plant: Growing, place: Callable[[float, float], tuple[float, float]]) -> PlantMark:
        cx, cy = place(plant.x_m, plant.y_m)
        rx, ry = (half * self.scale for half in plant.half_m)
        r, pot = rx, ""
        if plant.tray_m:
            w, d = (side * self.scale / 2 for side in plant.tray_m)
            pot = f"M{cx - w:.1f} {cy - d:.1f}h{2 * w:.1f}v{2 * d:.1f}h{-2 * w:.1f}Z"
        if plant.plant.habit == "outward":
            reach, thick = plant.height_m / 2 * self.scale, r
            along = abs(plant.facing[0]) > abs(plant.facing[1])
            rx, ry = (reach, thick) if along else (thick, reach)
        return self._mark(plant, cx, cy, rx, ry, pot, self._cells(plant, cx, cy))

    def _cells(self, plant: Growing, cx: float, cy: float) -> tuple[tuple[float, float], ...]:
        """The middles of a tray's cells from above, row by row from the front."""
        tray, cells = plant.tray_m, plant.plant.cells
        if tray is None or cells is None:
            return ()
        wide, deep = cell_pitch_m(*tray, cells)
        across = round(tray[0] / wide)
        left, front = cx - tray[0] * self.scale / 2, cy + tray[1] * self.scale / 2
        return tuple(
            (
                round(left + (n % across + 0.5) * wide * self.scale, 1),
                round(front - (n // across + 0.5) * deep * self.scale, 1),
            )
            for n in range(cells)
        )

    def _plant_beside(
        self,
        plant: Growing,
        a_m: float,
        stem_m: float,
        place: Callable[[float, float], tuple[float, float]],
        *,
        from_front: bool,
    ) -> PlantMark:
        cx, top = place(a_m, plant.top_m)
        _, low = place(a_m, plant.bottom_m)
        stem, rim = place(stem_m, plant.rim_m)
        _, ground = place(stem_m, plant.plant.base_m)
        width = plant.plant.pot_width_m or min(plant.spread_m, max(0.06, plant.plant.pot_height_m * 1.1))
        if not from_front:
            width = plant.plant.pot_depth_m or width
        half = width / 2 * self.scale
        taper = 0.94 if plant.plant.pot_kind in ("tray", "bucket", "pocket") else 0.78
        pot = f"M{stem - half:.1f} {rim:.1f}L{stem + half:.1f} {rim:.1f}L{stem + half * taper:.1f} {ground:.1f}"
        pot += f"L{stem - half * taper:.1f} {ground:.1f}Z"
        held = plant.plant
        if (
            held.base_m > _STAND_M
            and held.habit in ("stand", "pole", "wall")
            and not shelf_under(self.space, held.x_m, held.y_m, held.base_m)
        ):
            # What raises it: a box or a platform, from the floor to the pot.
            _, floor = place(stem_m, 0.0)
            pot += f"M{stem - half:.1f} {ground:.1f}H{stem + half:.1f}V{floor:.1f}H{stem - half:.1f}Z"
        rx = plant.half_m[0 if from_front else 1] * self.scale
        if plant.plant.habit == "outward":
            rx = max(plant.height_m / 2 * self.scale, 3.0)
        return self._mark(plant, cx, (top + low) / 2, rx, (low - top) / 2, pot)

    def _mark(
        self,
        plant: Growing,
        cx: float,
        cy: float,
        rx: float,
        ry: float,
        pot: str,
        cells: tuple[tuple[float, float], ...] = (),
    ) -> PlantMark:
        return PlantMark(
            id=plant.id,
            number=plant.number,
            name=plant.crop.name,
            title=self._title(plant),
            cx=round(cx, 1),
            cy=round(cy, 1),
            rx=round(rx, 1),
            ry=round(max(ry, 2.0), 1),
            pot=pot,
            verdict=self._verdict(plant),
            trouble=self._trouble(plant),
            mat=plant.tray_m is not None,
            cells=cells,
            x_m=plant.plant.x_m,
            y_m=plant.plant.y_m,
            z_m=plant.plant.base_m,
        )

    def _door_plan(self, box: Box) -> str:
        side = self.space.door_side
        x1, y1, x2, y2 = box.x, box.y, box.x + box.w, box.y + box.h
        inset = 3
        edges = {
            "front": (x1 + inset, y2 + 4, x2 - inset, y2 + 4),
            "back": (x1 + inset, y1 - 4, x2 - inset, y1 - 4),
            "left": (x1 - 4, y1 + inset, x1 - 4, y2 - inset),
            "right": (x2 + 4, y1 + inset, x2 + 4, y2 - inset),
        }
        return "M{:.1f} {:.1f}L{:.1f} {:.1f}".format(*edges[side]) if side else ""


def _named(plant: Growing) -> str:
    return f"{plant.count} × {plant.crop.name}" if plant.plant.cells else plant.crop.name
