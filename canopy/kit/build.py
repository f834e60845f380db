"""The build of a space, step by step: made from its plan alone, each step with how one knows that it is right."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import partial

from canopy.evaluate import SpaceReport
from canopy.kit.holes import holes_of
from canopy.library import Caution, cautions
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.airways import Airway
from canopy.plan.care import TIMED
from canopy.plan.document import Space
from canopy.words import counted

_OLD_LAMPS = ("fluorescent", "hps", "metal-halide")
_TALL_M = 1.6
# Young leaves get half of their light at first, and the rest over so many days.
_FIRST_SHARE, _OVER_DAYS = 0.5, 10


@dataclass(frozen=True, kw_only=True)
class BuildStep:
    """A step: what is done, why, how one knows that it is right, and what can hurt meanwhile.

    ``key`` stays the same for the same step, ``stamp`` changes with what of the plan it was made from.
    """

    key: str
    phase: str
    title: str
    does: Sentence
    right: Sentence
    why: str
    stamp: str
    cautions: tuple[Caution, ...] = ()
    parts: tuple[str, ...] = ()


def build_of(report: SpaceReport, empty: SpaceReport | None = None) -> tuple[BuildStep, ...]:
    """Make the checklist of a space.

    Parameters
    ----------
    report : of the space as it will stand, with its climate where it was followed
    empty : of the same space without plants, followed, for the dry run; its readings are left open when None

    Returns
    -------
    tuple of BuildStep : in the order in which they are done; what the plan does not need is not among them
    """
    space = report.space
    found: list[BuildStep] = []
    for steps in (_prepared, _stood, _drilled, _lined, _lit):
        found += steps(space)
    for way in space.airways:
        found += _aired(space, way)
    found += _stirred(space)
    found += _equipped(space)
    found += _watched(report)
    found += _wired(report)
    found += _watered(space)
    found += _dry_run(report, empty)
    found += _planted(report)
    return tuple(found)


def _stamp(*records: object) -> str:
    text = "|".join(item.model_dump_json() if hasattr(item, "model_dump_json") else repr(item) for item in records)
    return hashlib.sha256(text.encode()).hexdigest()[:12]


def _step(
    phase: str,
    key: str,
    title: str,
    does: str | Sentence,
    right: str | Sentence,
    why: str,
    *,
    of: Iterable[object] = (),
    care: Iterable[str] = (),
    parts: Iterable[str] = (),
) -> BuildStep:
    return BuildStep(
        key=key,
        phase=phase,
        title=title,
        does=sentence(does) if isinstance(does, str) else does,
        right=sentence(right) if isinstance(right, str) else right,
        why=why,
        stamp=_stamp(key, *of),
        cautions=tuple(cautions()[item] for item in care),
        parts=tuple(parts),
    )


def _length(value: float) -> Amount:
    return Amount(value=value, unit="length")


def _prepared(space: Space) -> Iterator[BuildStep]:
    step = partial(_step, "Prepare")
    yield step(
        "empty",
        "Empty and clean",
        "Take everything out, vacuum, wipe with warm soapy water, let it dry.",
        "A white cloth stays white; nothing smells.",
        "Dust and spores of what stood there are what one finds on leaves in a month.",
        of=(space.kind,),
        care=("mould",) if space.kind in ("closet", "cabinet") else (),
    )
    if space.kind in ("closet", "cabinet"):
        yield step(
            "seal",
            "Seal the joints and let them cure",
            "Neutral sealant in joints of the floor and of the back; the sealing strip round the door comes later.",
            "It no longer smells, two days later at least, and water on the floor stays where it is.",
            "What leaks air leaks smell, and what leaks water rots.",
            of=(space.kind,),
            care=("fumes",),
        )


def _stood(space: Space) -> Iterator[BuildStep]:
    step, size = partial(_step, "Stand"), space.size
    if space.kind == "tent":
        yield step(
            "frame",
            "Put the tent up where it will stand",
            sentence(
                "{w} wide, {d} deep, {h} high inside: leave a hand's breadth to the walls, and an arm's length where "
                "the ducts go out. Poles first, cover over them, zips half open.",
                w=_length(size.width_m),
                d=_length(size.depth_m),
                h=_length(size.height_m),
            ),
            "Every pole sits to its stop; pushed at the top it does not sway; the zips run without pulling.",
            "A frame that leans bears half of what it is rated for.",
            of=(size,),
            care=("ladder",) if size.height_m > _TALL_M else (),
        )
    else:
        yield step(
            "stand",
            "Set it level",
            "Lay a level on the floor of it, both ways; shim the feet.",
            "The bubble stands in the middle, and it does not rock with a hand on a corner.",
            "Water runs to the lowest corner, whatever one planned.",
            of=(size,),
        )
    ground = space.ground
    if ground.insulation_m > 0:
        yield step(
            "insulation",
            "Insulation under the floor",
            sentence("{t} of closed-cell board over the whole floor.", t=_length(ground.insulation_m)),
            "No gap shows at the edges, and it carries a full pot without a dent.",
            "Cold roots drink too little.",
            of=(ground,),
        )
    if space.plants:
        yield step(
            "liner",
            "Tray or liner",
            sentence("A lip of {lip} all round.", lip=_length(max(ground.lip_m, 0.02)))
            if ground.lip_m > 0
            else "A waterproof tray or liner over the floor, its edges turned up by two fingers.",
            "A litre of water poured in stays in it for an hour.",
            "Every reservoir spills once.",
            of=(ground,),
        )
    for shelf in space.shelves:
        bears = shelf.load_limit_kg
        words = "Its upper face {z} above the floor, level."
        yield step(
            f"shelf.{shelf.id}",
            f"Mount {shelf.name}",
            sentence(words, z=_length(shelf.z_m)),
            sentence("It bears {kg} for a quarter of an hour without a sound.", kg=Amount(value=bears, unit="weight"))
            if bears
            else "It bears twice what will stand on it for a quarter of an hour without a sound.",
            "Wet pots weigh more than one thinks.",
            of=(shelf,),
            care=("drill",),
            parts=(shelf.id,),
        )


def _drilled(space: Space) -> Iterator[BuildStep]:
    if space.kind == "tent":
        return
    for face, holes in holes_of(space).items():
        glass = getattr(space.faces, face).material_id in ("glass", "mirror")
        yield _step(
            "Cut and drill",
            f"holes.{face}",
            f"Holes in the {face}",
            f"{counted(len(holes), 'hole')} by the cut and drill sheet; mark both distances, measure again, then cut.",
            "What goes through fits without force; the edges are smooth, cords have their grommet.",
            "A hole in the wrong place is there for good.",
            of=[hole.opening for hole in holes],
            care=("drill", "glass") if glass else ("drill",),
            parts=[hole.opening.id for hole in holes],
        )


def _lined(space: Space) -> Iterator[BuildStep]:
    if space.kind == "tent" or space.kind == "shelf":
        return
    if any(getattr(space.faces, face).material_id == "reflective-film" for face in ("left", "right", "back", "front")):
        yield _step(
            "Line and close",
            "lining",
            "Line the faces",
            "Film from the top down, without folds, taped at the edges.",
            "No fold throws a bright line on the floor when a torch is held in.",
            "A smooth lining gives back light that leaves would not get.",
            of=(space.faces,),
        )
    if space.door_side is not None and space.kind != "glass-case":
        yield _step(
            "Line and close",
            "door",
            "Seal the door",
            "Sealing strip round the frame; close the door on it.",
            "In a dark room, a torch burning inside shows no line of light; a strip of paper is held by the door.",
            "A night with light in it is no night, and air should come in where it is meant to.",
            of=(space.door_side, space.kind),
        )


def _lit(space: Space) -> Iterator[BuildStep]:
    step = partial(_step, "Light")
    lamps = [lamp for lamp in space.fixtures if lamp.enabled]
    if not lamps:
        return
    kinds = {lamp.spec.technology for lamp in lamps}
    hot = bool(kinds & {"hps", "metal-halide", "incandescent"})
    yield step(
        "bench",
        "Try every lamp on the bench",
        "On a bare table, one hour each, at full; the old lamp and its cord out of use and out of reach first.",
        "It does not flicker, buzz or smell; its dimmer turns it down; its body is no warmer than a cup of tea."
        if not hot
        else "It does not flicker, buzz or smell; nothing within an arm's length of it gets hot.",
        "A lamp that fails overhead fails over water.",
        of=[lamp.spec for lamp in lamps],
        care=("mains", "glare", *(("mercury",) if kinds & set(_OLD_LAMPS) else ()), *(("hot-lamps",) if hot else ())),
    )
    for number, lamp in enumerate(space.fixtures, 1):
        if not lamp.enabled:
            continue
        weight = lamp.spec.weight_kg
        words = (
            "Its middle {x} from the left and {y} from the front, its shining face {z} above the floor. Two ropes or "
            "brackets, each to a bar of its own."
        )
        amounts = {"x": _length(lamp.x_m), "y": _length(lamp.y_m), "z": _length(lamp.z_m)}
        if weight:
            words += " Pull each rope with {kg} by hand before you hang the lamp on it."
            amounts["kg"] = Amount(value=2 * weight, unit="weight")
        yield step(
            f"lamp.{lamp.id}",
            f"Hang lamp {number}: {lamp.spec.name}",
            sentence(words, **amounts),
            "It hangs level; with one rope let go by a hand's breadth the other holds it.",
            "The height is the light: what hangs nearer shines brighter, on less.",
            of=(lamp.spec, lamp.x_m, lamp.y_m, lamp.z_m, lamp.yaw_deg, lamp.tilt_deg),
            care=("ladder",) if space.size.height_m > _TALL_M else (),
            parts=(lamp.id,),
        )


def _aired(space: Space, way: Airway) -> Iterator[BuildStep]:
    step = partial(_step, f"Air: {way.name}")
    for part in way.parts:
        if part.kind == "filter":
            yield step(
                f"{way.id}.{part.id}",
                f"Hang {part.spec.name}",
                "In two straps over bars of the frame, its cloth on; before the fan, as it is the heaviest.",
                "It does not swing against a lamp or a wall, and a hand under it feels no give.",
                "Filter first: the fan pulls clean air and stays clean.",
                of=(part, space.air.hung),
                care=("ladder",),
                parts=(part.id,),
            )
        elif part.kind == "fan":
            yield step(
                f"{way.id}.{part.id}",
                f"Mount {part.spec.name}",
                f"The arrow on its body points {'out of' if way.way == 'out' else 'into'} the space; two straps.",
                "Running it does not hum through the frame; a sheet of paper is drawn to the side where air goes in.",
                "A fan the wrong way round moves a third of its air, the wrong way.",
                of=(part.spec, way.way),
                care=("ladder", "mains"),
                parts=(part.id,),
            )
    ducts = [part for part in way.parts if part.kind == "duct"]
    if ducts:
        lengths = ", ".join(f"{{l{number}}}" for number in range(len(ducts)))
        yield step(
            f"{way.id}.ducts",
            "Ducts",
            sentence(
                f"Cut to {lengths} as it lies, pulled tight, bends as wide as the place allows; clamp, then foil tape.",
                **{f"l{number}": _length(part.length_m) for number, part in enumerate(ducts)},
            ),
            "No joint blows on a wet hand while the fan runs at full.",
            "A slack duct costs a fifth of the air.",
            of=ducts,
            parts=[part.id for part in ducts],
        )


def _stirred(space: Space) -> Iterator[BuildStep]:
    for item in space.stirrers:
        if item.enabled:
            yield _step(
                "Air: circulation",
                f"stirrer.{item.id}",
                f"Clip {item.spec.name} on",
                "Where the drawing has it, its cord tied so that it cannot fall into a pot.",
                "A thread held at each place of a plant stirs, and does not stand straight out.",
                "Still air keeps leaves wet.",
                of=(item,),
                care=("mains",),
                parts=(item.id,),
            )


_RIGHT = {
    "heater": "It stands free by its maker's distances, 30 cm at least; it goes off at its setting, and when tipped.",
    "mat": "Its probe lies in the mix, not on the mat; it switches off at its setting.",
    "heat-lamp": "It hangs by a chain, in a cage, on porcelain, by its maker's distances; nothing near it gets hot.",
    "humidifier": "Its fog falls on no leaf, lamp, plug or wall; it stops when its tank is empty.",
    "dehumidifier": "Its bucket sits to the stop, or its hose runs downhill all the way; its outlet blows free.",
    "co2": "Its alarm sounds when one breathes on it; its valve is shut while one works inside.",
    "pump": "Its cord leaves the water upward; lifted out of it for a second it hums and no more.",
}


def _equipped(space: Space) -> Iterator[BuildStep]:
    for device in space.devices:
        kind = device.spec.kind
        yield _step(
            "Devices",
            f"device.{device.id}",
            f"Place {device.spec.name}",
            "Where the drawing has it, out of the way of water that runs or drips.",
            _RIGHT.get(kind, "It stands free, and its cord reaches without a pull."),
            "What heats or wets the air does harm where it is too near.",
            of=(device.spec, device.x_m, device.y_m, device.z_m),
            care=("co2",) if kind == "co2" else ("mains",),
            parts=(device.id,),
        )


def _watched(report: SpaceReport) -> Iterator[BuildStep]:
    tops = [plant.top_m for plant in report.here.plants]
    height = sum(tops) / len(tops) if tops else report.space.size.height_m / 2
    yield _step(
        "Sensors",
        "sensor",
        "Hang the thermometer at the leaves",
        sentence("About {z} above the floor, under a bit of card, out of the fan's stream.", z=_length(height)),
        "Beside a second one for an hour it shows the same to one degree and five points.",
        "What it shows at the door is not what leaves feel.",
    )


def _wired(report: SpaceReport) -> Iterator[BuildStep]:
    space, step = report.space, partial(_step, "Wiring")
    if not report.running.loads:
        return
    yield step(
        "wiring",
        "Cords",
        "Strip hung up off the floor; every cord hangs below its plug once before it rises to it; cords of low voltage "
        "on another side than mains; none under a pot, none coiled.",
        "Water poured down a cord would drip off before any plug.",
        "Water and mains meet at plugs.",
        of=[(load.part_id, load.plug) for load in report.running.loads],
        care=("mains",),
    )
    water = report.margin("power.water")
    if water is not None:
        yield step(
            "rcd",
            "Press the test button",
            "Of the residual-current device before the outlet, or of the adapter.",
            "The strip goes dead at once, and lives again when it is reset.",
            "It is what saves one who reaches into water.",
            of=(water.verdict,),
            care=("mains",),
        )
    yield step(
        "timers",
        "Set the timers",
        "By the timer sheet, clock first.",
        "Turned on by hand through a day, each switches what it should at its hours.",
        "A timer an hour off is a short-day plant that never flowers.",
        of=[lamp.schedule for lamp in space.fixtures],
    )


def _watered(space: Space) -> Iterator[BuildStep]:
    step = partial(_step, "Water")
    holds = space.feed.reservoir_l if space.feed.way == "solution" else None
    tank = space.watering.tank_l if space.watering.way != "hand" else None
    if holds or tank:
        yield step(
            "tank",
            "Fill the tank and wait",
            sentence(
                "{litres} of plain water, for two hours.", litres=Amount(value=holds or tank or 0.0, unit="volume")
            ),
            "Dry tissue laid round it and under each joint stays dry.",
            "Better water than feed, better today than at night.",
            of=(space.feed.reservoir_l, space.watering),
            care=("mains",),
        )
    if space.watering.way in TIMED:
        yield step(
            "emitters",
            "Measure the drippers",
            "A cup under the first, the middle and the last for a minute.",
            "The cups differ by no more than a tenth; their sum times their number is what the plan counts with.",
            "The last one in the line is the first to fail.",
            of=(space.watering,),
        )


def _dry_run(report: SpaceReport, empty: SpaceReport | None) -> Iterator[BuildStep]:
    step, space = partial(_step, "Dry run"), report.space
    does = (
        "Everything on by its clock for 24 hours, without plants, the door shut; write down the highest and the lowest."
    )
    right = sentence(
        "Nothing trips, smells, drips or gets hot; the lowest and highest lie where the plan expects them."
    )
    found = empty.climate if empty is not None else None
    if found is not None and found.overheats_s is None:
        rows = found.last
        air, rh = found.traces.air_c[rows], found.traces.rh_pct[rows]
        right = sentence(
            "Read {low} to {high} and {dry} to {damp}, each within 1.5 K and 8 points where the room is as typed; "
            "nothing trips, smells, drips or gets hot.",
            low=Amount(value=float(air.min()), unit="temperature"),
            high=Amount(value=float(air.max()), unit="temperature"),
            dry=Amount(value=float(rh.min()), unit="%", decimals=0),
            damp=Amount(value=float(rh.max()), unit="%", decimals=0),
        )
    yield step(
        "dry-run",
        "A day without plants",
        does,
        right,
        "What is wrong shows in a day, and costs nothing yet.",
        of=(space.fixtures, space.airways, space.devices),
        care=("smoke-alarm",),
    )
    if space.airways and any(way.way == "out" for way in space.airways) and space.kind in ("tent", "closet", "cabinet"):
        yield step(
            "smoke",
            "Leak test",
            "The exhaust at its usual speed, the door shut: hold a smoking stick along every seam and zip.",
            "Smoke is drawn in everywhere, and blown out nowhere but at the end of the duct.",
            "What goes out past the filter is what one smells.",
            of=(space.airways,),
        )


def _planted(report: SpaceReport) -> Iterator[BuildStep]:
    here, step = report.here, partial(_step, "Plants")
    if not here.plants:
        return
    if report.feeding.mix is not None and report.feeding.mix_l > 0:
        yield step(
            "mix",
            "Moisten the mix and fill the pots",
            sentence(
                "{mix} of mix with {water} of water first.",
                mix=Amount(value=report.feeding.mix_l, unit="volume"),
                water=Amount(value=report.feeding.wetting_l, unit="volume"),
            ),
            "Squeezed in the hand it holds together and gives no drop.",
            "Dry mix sheds water for weeks.",
            of=(report.feeding.mix_l,),
            care=("spores",),
        )
    yield step(
        "plants",
        "Set the plants",
        f"{counted(len(here.plants), 'place')} by the plan view, youngest where it is dimmest.",
        "Each leaf has air round it, and every pot can be reached.",
        "What is not reached is not looked at.",
        of=[(plant.id, plant.plant.x_m, plant.plant.y_m) for plant in here.plants],
        parts=[plant.id for plant in here.plants],
    )
    dims = [lamp.dim for lamp in report.space.fixtures if lamp.enabled]
    if dims:
        share = Amount(value=100 * _FIRST_SHARE * max(dims), unit="%", decimals=0)
        full = Amount(value=100 * max(dims), unit="%", decimals=0)
        yield step(
            "brighter",
            "Half the light first",
            sentence(
                f"Dimmers at {{share}} on the first day, up by equal steps to {{full}} over {_OVER_DAYS} days; lamps "
                "without a dimmer higher up, or fewer hours.",
                share=share,
                full=full,
            ),
            "New leaves stay flat and green; bleached or curled ones say: two steps back.",
            "Leaves that grew in shade burn in light that they would bear a week later.",
            of=(dims,),
        )
