"""Everything that a plan implies, gathered line by line; and what is not needed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from math import ceil

from canopy.care.thirst import thirst_of
from canopy.evaluate import SpaceReport
from canopy.evaluate.power.cord_runs import cord_runs
from canopy.evaluate.power.loads import household_tree
from canopy.kit.line import Group, Kit, KitLine, small
from canopy.library import Window, devices, fixtures, materials
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.airways import Airway
from canopy.plan.document import Fixture, Space
from canopy.plan.plugs import CARRIER_NAMES
from canopy.plan.shell import FACES
from canopy.power import Tree
from canopy.season import Growing, cast_of
from canopy.words import capital, counted

# Metres and square metres are bought with so much to spare; seeds and mix with a little more than the places.
_SPARE, _MIX_SPARE, _MONTH_D = 1.1, 1.1, 30
# What hangs is held by ropes that each bear so many times its weight; a cord longer than this needs an extension.
_TIMES, _OWN_CORD_M = 2.0, 1.8
# Linings that are bought and put up; bare boards, glass and open sides are there or are not.
_LININGS = ("reflective-film", "white-paint", "white-plastic", "foam-white", "black-fabric", "mirror")


def kit_of(reports: Iterable[SpaceReport]) -> Kit:
    """Gather the kit of some spaces of one plan.

    Parameters
    ----------
    reports : of spaces of one plan, with their climate where it was followed

    Returns
    -------
    Kit : in the order in which a space is built
    """
    lines: list[KitLine] = []
    unneeded: list[tuple[str, str, Sentence]] = []
    for report in reports:
        gathered = _Gathered(report)
        lines += gathered.all()
        unneeded += [(report.space.name, what, why) for what, why in _unneeded(report)]
    return Kit(lines=tuple(lines), not_needed=tuple(unneeded))


class _Gathered:
    """The lines of one space."""

    def __init__(self, report: SpaceReport) -> None:
        self.report, self.space = report, report.space

    def all(self) -> Iterator[KitLine]:
        yield from self.shell()
        yield from self.light()
        for way in self.space.airways:
            yield from self.way(way)
        if any(part.kind == "duct" for way in self.space.airways for part in way.parts):
            yield self.little("air", "tape", 1, "over the clamps of all ducts")
        yield from self.stirrers()
        yield from self.climate()
        yield from self.plants()
        yield from self.water()
        yield from self.power()
        yield from self.watching()

    def line(self, group: Group, key: str, name: str, number: float, what_for: str, **more: object) -> KitLine:
        return KitLine(
            key=f"{self.space.id}.{group}.{key}",
            space_id=self.space.id,
            where=self.space.name,
            group=group,
            name=name,
            number=number,
            what_for=what_for,
            **more,  # type: ignore[arg-type]
        )

    def little(self, group: Group, kind: str, number: float, what_for: str, **more: object) -> KitLine:
        item = small(kind)
        values = {"unit": item.unit, "price": item.price, "text": item.text, **more}
        name, key = str(values.pop("name", item.name)), str(values.pop("key", kind))
        return self.line(group, key, name, number, what_for, **values)

    def shell(self) -> Iterator[KitLine]:
        size = self.space.size
        area = {
            "left": size.depth_m * size.height_m,
            "right": size.depth_m * size.height_m,
            "front": size.width_m * size.height_m,
            "back": size.width_m * size.height_m,
            "floor": size.width_m * size.depth_m,
            "ceiling": size.width_m * size.depth_m,
        }
        yield self.line(
            "shell",
            "space",
            capital(self.space.kind.replace("-", " ")),
            1,
            "the space itself, if it is not there",
            size=sentence(
                "{w} × {d} × {h} inside",
                w=Amount(value=size.width_m, unit="length"),
                d=Amount(value=size.depth_m, unit="length"),
                h=Amount(value=size.height_m, unit="length"),
            ),
            bears_kg=self.space.load_limit_kg,
        )
        made: dict[str, list[str]] = {}
        for face in FACES:
            made.setdefault(getattr(self.space.faces, face).material_id, []).append(face)
        for material_id, faces in made.items():
            # A tent brings its lining.
            if material_id not in _LININGS or self.space.kind == "tent":
                continue
            yield self.little(
                "shell",
                "lining",
                round(_SPARE * sum(area[face] for face in faces), 1),
                f"lines {', '.join(faces)}",
                name=materials()[material_id].name,
                key=f"lining.{material_id}",
            )
        if self.space.kind in ("closet", "cabinet") and self.space.door_side is not None:
            wide = size.width_m if self.space.door_side in ("front", "back") else size.depth_m
            yield self.little("shell", "seal", round(_SPARE * 2 * (wide + size.height_m), 1), "round the door")
            yield self.little("shell", "sealant", 1, "joints and drilled holes")
        for shelf in self.space.shelves:
            span = sentence(
                "{w} × {d}",
                w=Amount(value=shelf.width_m, unit="length"),
                d=Amount(value=shelf.depth_m, unit="length"),
            )
            yield self.little(
                "shell",
                "shelf",
                1,
                f"{shelf.name}, {shelf.kind}",
                key=f"shelf.{shelf.id}",
                size=span,
                parts=(shelf.id,),
                bears_kg=shelf.load_limit_kg,
            )
        if self.space.ground.insulation_m > 0:
            thick = sentence("{t} thick", t=Amount(value=self.space.ground.insulation_m, unit="length"))
            yield self.little("shell", "insulation", round(_SPARE * area["floor"], 2), "under the floor", size=thick)
        if self.space.plants and self.space.kind != "glass-case":
            yield self.little("shell", "liner", round(area["floor"], 2), "holds what is spilt")

    def light(self) -> Iterator[KitLine]:
        hung = []
        for name, lamps in _by_name(self.space.fixtures).items():
            spec = lamps[0].spec
            yield self.line(
                "light",
                name,
                name,
                len(lamps),
                f"{counted(len(lamps), 'lamp')}, {lamps[0].hours:g} h a day",
                weight_kg=spec.weight_kg,
                power_w=spec.power_w,
                price=_price(fixtures(), spec.class_id),
                text=_numbered(self.space, lamps),
                parts=tuple(lamp.id for lamp in lamps),
            )
            hung += [lamp for lamp in lamps if (lamp.spec.weight_kg or 0.0) > 0 and not lamp.tilt_deg]
        if hung:
            heaviest = max(lamp.spec.weight_kg or 0.0 for lamp in hung)
            rope = small("rope-hanger")
            yield self.little(
                "light",
                "rope-hanger",
                2 * len(hung),
                f"two for each of {counted(len(hung), 'lamp')}, on parts of the frame of their own",
                bears_kg=max(rope.bears_kg or 0.0, _TIMES * heaviest),
                parts=tuple(lamp.id for lamp in hung),
            )

    def way(self, way: Airway) -> Iterator[KitLine]:
        joints, straps, heaviest = 0, 0, 0.0
        for part in way.parts:
            key, parts = f"{way.id}.{part.id}", (part.id,)
            if part.kind == "fan":
                spec = part.spec
                yield self.little(
                    "air",
                    "fan",
                    part.count,
                    way.name,
                    name=spec.name,
                    key=key,
                    weight_kg=spec.weight_kg,
                    power_w=spec.power_w,
                    parts=parts,
                )
            elif part.kind == "filter":
                yield self.little(
                    "air",
                    "filter",
                    1,
                    way.name,
                    name=part.spec.name,
                    key=key,
                    weight_kg=part.spec.weight_kg,
                    parts=parts,
                )
            elif part.kind == "duct":
                joints += 2
                yield self.little(
                    "air",
                    "duct",
                    round(part.length_m / (1 - part.slack), 2),
                    f"{way.name}: {part.length_m:.2f} m along the way, {100 * part.slack:.0f} % slack in it",
                    name=part.spec.name,
                    key=key,
                    size=_across(part.diameter_m),
                    weight_kg=part.spec.weight_kg_m,
                    parts=parts,
                )
            elif part.kind == "bend" and part.make != "flex":
                yield self.little(
                    "air",
                    "bend",
                    1,
                    way.name,
                    name=f"Bend, {part.angle_deg:.0f}°, {part.make}",
                    key=key,
                    size=_across(part.diameter_m),
                    parts=parts,
                )
            elif part.kind == "adapter":
                size = sentence(
                    "{a} to {b}",
                    a=Amount(value=part.from_m, unit="diameter"),
                    b=Amount(value=part.to_m, unit="diameter"),
                )
                yield self.little(
                    "air", "adapter", 1, way.name, name=f"Reducer, {part.make}", key=key, size=size, parts=parts
                )
            elif part.kind == "fitting":
                yield self.little("air", "fitting", 1, way.name, name=part.spec.name, key=key, parts=parts)
            if part.kind in ("fan", "filter") and self.space.air.hung and way.is_inside(part.id):
                weight = part.spec.weight_kg or 0.0
                straps, heaviest = straps + 2, max(heaviest, weight)
        if joints:
            yield self.little(
                "air", "clamp", joints, f"{way.name}: one at each end of every duct", key=f"{way.id}.clamp"
            )
        if straps:
            strap = small("strap")
            yield self.little(
                "air",
                "strap",
                straps,
                f"{way.name}: two round each fan and filter",
                key=f"{way.id}.strap",
                bears_kg=max(strap.bears_kg or 0.0, _TIMES * heaviest),
            )

    def stirrers(self) -> Iterator[KitLine]:
        for name, items in _by_name(self.space.stirrers).items():
            yield self.little(
                "air",
                "stirrer",
                len(items),
                "air at the leaves",
                name=name,
                key=f"stirrer.{name}",
                power_w=items[0].spec.power_w,
                weight_kg=items[0].spec.weight_kg,
                parts=tuple(i.id for i in items),
            )

    def climate(self) -> Iterator[KitLine]:
        for name, items in _by_name(self.space.devices).items():
            spec = items[0].spec
            yield self.line(
                "climate",
                name,
                name,
                len(items),
                spec.kind.replace("-", " "),
                weight_kg=spec.weight_kg,
                power_w=spec.power_w,
                price=_price(devices(), spec.class_id),
                parts=tuple(item.id for item in items),
            )

    def plants(self) -> Iterator[KitLine]:
        here = self.report.here
        if not here.plants:
            return
        pots: dict[tuple[str, float], list[Growing]] = {}
        for plant in here.plants:
            litres = plant.plant.pot_volume_l or plant.crop.container_l.low
            pots.setdefault((plant.plant.pot_kind, round(litres, 2)), []).append(plant)
        for (kind, litres), plants in pots.items():
            yield self.little(
                "plants",
                "pot",
                len(plants),
                ", ".join(dict.fromkeys(plant.crop.name for plant in plants)),
                name=capital(kind),
                key=f"pot.{kind}.{litres:g}",
                size=sentence("{v}", v=Amount(value=litres, unit="volume")),
                parts=tuple(plant.id for plant in plants),
            )
        stood = [plant for plant in here.plants if plant.plant.pot_kind == "pot"]
        if stood and self.space.feed.way == "soil":
            yield self.little("plants", "saucer", len(stood), "under the pots", optional=self.space.ground.lip_m > 0)
        if self.report.feeding.mix is not None and self.report.feeding.mix_l > 0:
            mix = self.report.feeding.mix
            yield self.little(
                "plants",
                "medium",
                ceil(_MIX_SPARE * self.report.feeding.mix_l),
                f"fills the pots; {self.report.feeding.wetting_l:.1f} L of water wet it first",
                name=mix.name,
                key=f"medium.{mix.id}",
            )
        cast = cast_of(self.report.plan)
        crops: dict[str, int] = {}
        for each in self.space.plants:
            crops[each.crop_id] = crops.get(each.crop_id, 0) + (each.cells or 1)
        for crop_id, count in crops.items():
            crop = cast.crops.get(crop_id)
            if crop is not None:
                yield self.little(
                    "plants", "start", count, f"places for {crop.name}", name=crop.name, key=f"start.{crop_id}"
                )
        if self.space.net is not None:
            floor = self.space.size.width_m * self.space.size.depth_m
            yield self.little("plants", "net", round(floor, 2), "holds the canopy level")
        if any(plant.habit == "pole" for plant in self.space.plants):
            yield self.little("plants", "ties", 1, "ties climbers to their poles")

    def water(self) -> Iterator[KitLine]:
        if not self.report.here.plants:
            return
        thirst = thirst_of(self.report).litres_d
        given, feed = self.space.watering, self.space.feed
        if feed.way == "solution" and feed.reservoir_l:
            yield self.little("water", "reservoir", feed.reservoir_l, "holds the solution")
        elif given.way != "hand" and given.tank_l:
            yield self.little("water", "reservoir", given.tank_l, "waters it", name="Tank", key="tank")
        yield self.little("water", "water", ceil(_MONTH_D * thirst), f"{thirst:.2f} L a day")
        changes = _MONTH_D / max(1, feed.change_days)
        for dose in self.report.feeding.doses:
            top_up = max(0.0, _MONTH_D * thirst - changes * (feed.reservoir_l or 0.0)) * feed.top_up_share
            whole = changes * dose.ml + dose.ml_per_l * top_up
            yield self.little(
                "water",
                "feed",
                ceil(whole),
                "the first month's changes and top-ups",
                name=dose.part.name,
                key=f"feed.{dose.part.id}",
                unit="g" if dose.part.powder else "mL",
            )

    def power(self) -> Iterator[KitLine]:
        plan = self.report.plan
        tree = household_tree(plan)
        mine = [node for node in tree.touching(self.space.id) if node.kind == "carrier"]
        for node in mine:
            kind = getattr(node.item, "kind", "strip")
            name = f"{capital(CARRIER_NAMES[kind])}: {node.name}"
            yield self.little("power", kind, 1, "as it is plugged in the plan", name=name, key=f"carrier.{node.id}")
        if not any(getattr(node.item, "kind", "") == "strip" for node in mine) and self.report.running.loads:
            yield self.little("power", "strip", 1, "for all of this space, in an outlet of its own")
        timers = _timers_lacking(self.space, tree)
        if timers:
            yield self.little("power", "timer", timers, "one for each set of hours without a timer in the plan")
        for run in cord_runs(plan, self.space, tree):
            if run.outside_m is not None and run.needs_m > _OWN_CORD_M:
                length = sentence("{l}", l=Amount(value=run.needs_m, unit="length"))
                yield self.little(
                    "power", "cord", 1, run.name, key=f"cord.{run.part_id}", size=length, parts=(run.part_id,)
                )
        water = self.report.margin("power.water")
        if water is not None and water.verdict in ("short", "unknown"):
            yield self.little("power", "rcd-adapter", 1, "there is water: before everything else in the outlet")
        cables = [opening for opening in self.space.openings if opening.use == "cable"]
        if cables:
            yield self.little(
                "power", "grommet", len(cables), "in holes for cords", parts=tuple(item.id for item in cables)
            )

    def watching(self) -> Iterator[KitLine]:
        yield self.little("watching", "sensor", 1, "at leaf height")
        if self.report.here.plants:
            yield self.little("watching", "traps", 2, "one at leaf height, one on the mix")
        if self.space.feed.way == "solution":
            yield self.little("watching", "meter", 1, "pH and strength of the solution")
        yield self.little("watching", "smoke-alarm", 1, "in the room; one for all spaces of it", optional=True)
        if any(device.spec.kind == "co2" for device in self.space.devices):
            yield self.little("watching", "co2-alarm", 1, "where people breathe")


def _numbered(space: Space, lamps: list[Fixture]) -> str:
    numbers = ", ".join(str(1 + space.fixtures.index(lamp)) for lamp in lamps)
    return f"{'Number' if len(lamps) == 1 else 'Numbers'} {numbers} in the drawing."


def _by_name(items: Iterable[object]) -> dict[str, list]:  # type: ignore[type-arg]
    found: dict[str, list] = {}  # type: ignore[type-arg]
    for item in items:
        if getattr(item, "enabled", True):
            found.setdefault(item.spec.name, []).append(item)  # type: ignore[attr-defined]
    return found


def _price(shelf: Mapping[str, object], class_id: str) -> Window | None:
    row = shelf.get(class_id)
    price = getattr(row, "price", None)
    return price if isinstance(price, Window) else None


def _across(diameter_m: float) -> Sentence:
    return sentence("{d}", d=Amount(value=diameter_m, unit="diameter"))


def _timers_lacking(space: Space, tree: Tree) -> int:
    """Sets of hours that no timer in the plan stands for."""
    hours = set()
    for lamp in space.fixtures:
        if not lamp.enabled or lamp.schedule.kind != "daily" or not 0 < lamp.schedule.hours < 24:
            continue
        way = tree.way(lamp.plug) if lamp.plug in tree.nodes else ()
        if not any(getattr(node.item, "kind", "") in ("timer", "smart-plug") for node in way):
            hours.add((lamp.schedule.start, lamp.schedule.hours))
    return len(hours)


def _unneeded(report: SpaceReport) -> Iterator[tuple[str, Sentence]]:
    """What nobody has to buy, as the simulated day shows; nothing of what was not judged."""
    kinds = {device.spec.kind for device in report.space.devices}
    found = report.climate
    if found is None or found.overheats_s is not None or not report.here.plants:
        return
    rows = found.last
    rh = Amount(value=float(found.traces.rh_pct[rows].mean()), unit="%", decimals=0)
    if not kinds & {"humidifier", "dehumidifier"} and _good(report, "climate.rh", "climate.vpd"):
        yield "No humidifier, no dehumidifier", sentence("simulated at {rh} on the mean of the day", rh=rh)
    coldest = Amount(value=float(found.traces.air_c[rows].min()), unit="temperature")
    if not kinds & {"heater", "mat", "heat-lamp"} and _good(report, "climate.air-night", "climate.root"):
        yield "No heater", sentence("at the coldest {c} on this day", c=coldest)
    if "cooler" not in kinds and _good(report, "climate.air-day"):
        warmest = Amount(value=float(found.traces.air_c[rows].max()), unit="temperature")
        yield "No air conditioner", sentence("at the warmest {c} on this day", c=warmest)
    if "co2" not in kinds and _good(report, "climate.co2"):
        yield "No CO₂", sentence("the room's air brings what these leaves take")


def _good(report: SpaceReport, *kinds: str) -> bool:
    """Whether all of these margins are there and none of them is short or over."""
    found = [margin for margin in report.margins if margin.id.startswith(kinds)]
    return bool(found) and all(margin.verdict in ("good", "tight") for margin in found)
