"""The margins of the space itself: what hangs from it, what a shelf bears, a spill, a cold floor."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from canopy.air.filter_bed import filter_load
from canopy.evaluate.crops.margins import level_of
from canopy.evaluate.naming import cite
from canopy.evaluate.shell.clashes import clash_margins
from canopy.evaluate.shell.drips import drip_margins
from canopy.library import find, mixes
from canopy.margin import Amount, Margin, Step, Verdict, Working, judge_least, judge_most, sentence
from canopy.plan.airways import AirPart
from canopy.plan.document import Space
from canopy.plan.furnishing import Ground
from canopy.plan.plants import standing_room_m
from canopy.schedule import Span, dark, share_while
from canopy.season import Growing, Standing
from canopy.words import counted

# Leaves and fruit of a plant per volume of its crown [kg/m³], and a pot's own weight per litre [kg/L]: rough.
_CROWN_KG_M3, _POT_KG_L = 6.0, 0.03
_WATER_KG_L = 1.0
# Less than this hangs from anything.
_WORTH_A_WORD_KG = 2.0
# A fan without a stated weight: that of a 150 mm inline fan, by its area.
_FAN_KG, _FAN_M = 3.2, 0.15
# A filter's whole weight over its carbon's, one of 150 mm whose bed is not known, and the duct the library's weights
# hold for.
_CASE, _FILTER_KG, _DUCT_M = 1.35, 6.0, 0.125
# Heat into a pot from the air above, and from what it stands on [W/m²K].
_FROM_AIR = 8.0
_FROM_BELOW = {"concrete": 9.0, "wood": 4.0, "shelf": 4.0}
_FOAM_W_MK, _STAND_OFF_W_M2K = 0.035, 3.0
OVERLOADED = (
    "What hangs or stands too heavy comes down on plants, water and mains at once. Take weight off first, and hang "
    "lamps, fan and filter from two independent ropes on what is built to bear them."
)


def shell_margins(here: Standing) -> list[Margin]:
    """Judge what a space bears and stands on.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    list of Margin : hung load, load on shelves, spill, water above mains, cold floor, things in each other, each where
        it can be judged
    """
    return [
        *clash_margins(here.space),
        *drip_margins(here),
        *_hung(here),
        *_shelves(here),
        *_spill(here),
        *_cold_floor(here),
    ]


def plant_weight_kg(space: Space, plant: Growing) -> float:
    """Give what a plant weighs with its pot, watered.

    Parameters
    ----------
    space : the space, for its growing mix

    Returns
    -------
    float : weight [kg]; where no pot volume was typed, the middle of the crop's usual range is taken
    """
    window = plant.crop.container_l
    volume = plant.plant.pot_volume_l or (window.low + window.high) / 2
    wet = _WATER_KG_L if space.feed.way == "solution" else find(mixes(), space.feed.mix_id, "growing mix").moist_kg_l
    crown = plant.ground_m2 * plant.height_m * _CROWN_KG_M3 * plant.lai / 2
    return volume * (wet + _POT_KG_L) + crown


def hung_parts(here: Standing) -> list[tuple[str, float]]:
    """List what hangs from a space's frame or ceiling.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    list of (str, float) : name and weight [kg]; fans and filters whose weight is not known go by their size
    """
    space, found = here.space, []
    for number, lamp in enumerate(space.fixtures, 1):
        size = lamp.spec.length_m * lamp.spec.overall_width_m
        found.append(
            (
                f"lamp {number}, {lamp.spec.name}",
                lamp.spec.weight_kg if lamp.spec.weight_kg is not None else 0.5 + 12 * size,
            )
        )
    found += _hung_air(space)
    hanging = [plant for plant in here.plants if plant.plant.habit == "hang"]
    if hanging:
        found.append(
            (
                f"{counted(len(hanging), 'hanging plant')}, watered",
                sum(plant_weight_kg(space, plant) for plant in hanging),
            )
        )
    if space.net:
        held = sum(1 for plant in here.plants if plant.netted)
        found.append((f"net, {held} plants in it" if held else "net", space.net.weight_kg + 0.15 * held))
    return [*found, *((item.name, item.weight_kg) for item in space.hung)]


def _hung_air(space: Space) -> Iterator[tuple[str, float]]:
    """Fans and filters inside, with the ducts and fittings between them, and what stirs the air."""
    for airway in space.airways if space.air.hung else ():
        for part in airway.parts:
            if airway.is_inside(part.id) and part.kind in ("fan", "filter", "fitting", "duct"):
                yield _part_weight(part)
    for stirrer in space.stirrers:
        if stirrer.spec.kind in ("clip", "usb"):
            yield stirrer.spec.name, stirrer.spec.weight_kg if stirrer.spec.weight_kg is not None else 0.5


def _part_weight(part: AirPart) -> tuple[str, float]:
    """A part's name and weight [kg]; what is not stated goes by its size."""
    if part.kind == "duct":
        return part.spec.name, part.spec.weight_kg_m * part.length_m * part.diameter_m / _DUCT_M
    spec = part.spec  # type: ignore[union-attr]
    if spec.weight_kg is not None:
        weight = spec.weight_kg
    elif part.kind == "filter":
        weight = (
            filter_load(part.id, part.spec, 0.0).carbon_kg or _FILTER_KG * (spec.diameter_m / _FAN_M) ** 2
        ) * _CASE
    else:
        weight = _FAN_KG * (spec.diameter_m / _FAN_M) ** 2
    return spec.name, weight * (part.count if part.kind == "fan" else 1)


def _hung(here: Standing) -> Iterator[Margin]:
    parts, limit = hung_parts(here), here.space.load_limit_kg
    total = sum(weight for _, weight in parts)
    if total <= 0 or (limit is None and total < _WORTH_A_WORD_KG):
        return
    amounts = {"there": Amount(value=total, unit="weight"), "limit": Amount(value=limit or 0.0, unit="weight")}
    verdict: Verdict = "unknown" if limit is None else judge_most(total, limit, tight=0.75)
    words = {
        "unknown": "{there} hang here. Look the frame's or ceiling's limit up and type it at Space.",
        "over": "{there} hang from what bears {limit}: take weight off, or stand filter and fan outside.",
        "tight": "{there} of {limit}: leave a reserve for fruit, wet leaves and a pull at the zip.",
        "good": "{there} of {limit}.",
    }
    yield Margin(
        id="space.load",
        station="space",
        title="Hung load",
        said="overloaded" if verdict == "over" else "",
        danger=OVERLOADED if verdict == "over" else "",
        verdict=verdict,
        need=sentence("at most {limit}" if limit else "a known limit", **amounts),
        there=sentence("{there}", **amounts),
        why=sentence(words[verdict], **amounts),
        working=Working(
            formula="sum of all that hangs from frame or ceiling",
            steps=tuple(
                Step(symbol="", meaning=name, amount=Amount(value=weight, unit="weight")) for name, weight in parts
            ),
            source="Weights as typed or from the library; the frame maker's limit",
            certainty=(
                "±15 % where weights are typical. Screws and cords need their own reserve: hang with two "
                "independent ropes."
            ),
        ),
    )


def _shelves(here: Standing) -> Iterator[Margin]:
    space = here.space
    for shelf in space.shelves:
        if shelf.load_limit_kg is None:
            continue
        held = [plant for plant in here.plants if level_of(space, plant) == shelf.id and plant.plant.habit != "hang"]
        total = sum(plant_weight_kg(space, plant) for plant in held)
        verdict = judge_most(total, shelf.load_limit_kg, tight=0.8)
        amounts = {
            "there": Amount(value=total, unit="weight"),
            "limit": Amount(value=shelf.load_limit_kg, unit="weight"),
        }
        words = {
            "over": "Watered, {there} stand on what bears {limit}.",
            "tight": "Watered, {there} of {limit}.",
            "good": "Watered, {there} of {limit}.",
        }
        yield Margin(
            id=f"space.shelf.{shelf.id}",
            station="space",
            title=f"Load on {shelf.name}",
            said="overloaded" if verdict == "over" else "",
            danger=OVERLOADED if verdict == "over" else "",
            verdict=verdict,
            need=sentence("at most {limit}", **amounts),
            there=sentence("{there}", **amounts),
            why=sentence(words[verdict], **amounts),
            working=Working(
                formula="Σ pot volume · weight of the wet mix + plants",
                steps=(Step(symbol="Σ", meaning=f"{counted(len(held), 'plant')}, watered", amount=amounts["there"]),),
                source=cite(find(mixes(), space.feed.mix_id, "growing mix").cited),
                certainty="±20 %.",
            ),
        )


def solution_l(here: Standing) -> float:
    """Give how much solution could run out at once.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    float : the reservoir and all buckets on it [L]
    """
    feed = here.space.feed
    if feed.way != "solution":
        return 0.0
    buckets = sum(plant.plant.pot_volume_l or 0.0 for plant in here.plants if plant.plant.pot_kind == "bucket")
    return buckets + (feed.reservoir_l or 0.0)


def _spill(here: Standing) -> Iterator[Margin]:
    space, volume = here.space, solution_l(here)
    if volume <= 0:
        return
    holds = space.size.width_m * space.size.depth_m * space.ground.lip_m * 1000
    verdict: Verdict = "short" if holds <= 0 else judge_least(holds, volume, tight=1.1)
    amounts = {"there": Amount(value=holds, unit="volume"), "need": Amount(value=volume, unit="volume")}
    words = {
        "short": (
            "If it all runs out, {need} meet a floor that holds {there}: line the floor with a raised lip, or "
            "set a tray."
        ),
        "tight": "The lined floor holds {there} of {need}, to the brim.",
        "good": "The lined floor holds {there}, more than all {need} of solution.",
    }
    yield Margin(
        id="space.spill",
        station="space",
        title="Spill",
        verdict=verdict,
        need=sentence("at least {need}", **amounts),
        there=sentence("{there}", **amounts),
        why=sentence(words[verdict], **amounts),
        working=Working(
            formula="width × depth × lip ≥ reservoir + all buckets",
            steps=(
                Step(symbol="lip", meaning="raised edge", amount=Amount(value=space.ground.lip_m, unit="length")),
                Step(symbol="V", meaning="solution", amount=amounts["need"]),
            ),
            source="Volume of a box",
            certainty="As level as the floor: 1 cm of slope over a metre takes half a centimetre of lip.",
        ),
    )


def root_zone_c(ground: Ground, air_c: float, below_c: float, floor: str = "wood", mat_flux: float = 0.0) -> float:
    """Give how warm a pot on the floor settles without a mat.

    Parameters
    ----------
    ground : what lies under the plants
    air_c : air inside [°C]
    below_c : what the floor stands on [°C]
    floor : the room's floor, "wood" or "concrete", where the space stands on it
    mat_flux : what heat mats give to the ground under the pots [W/m²]

    Returns
    -------
    float : steady temperature of the root zone [°C]

    Notes
    -----
    Heat from the air at 8 W/m²K against heat to what lies below (concrete 9, wood 4), through insulation and stand-off
    in series; physics/air-climate B4.
    """
    resistance = 1 / _FROM_BELOW[_below(ground, floor)] + ground.insulation_m / _FOAM_W_MK
    if ground.stand_off_m > 0.005:
        resistance += 1 / _STAND_OFF_W_M2K
    below = 1 / resistance
    return (_FROM_AIR * air_c + below * below_c + mat_flux) / (_FROM_AIR + below)


# A heat mat under pots is so much larger than they are.
_MAT_LARGER = 1.25
_LEAST_MAT_M2 = 0.02


def mat_w_m2(space: Space, plants: Sequence[Growing]) -> tuple[float, float]:
    """Give what heat mats give by night, spread under the pots that stand low down.

    Parameters
    ----------
    plants : those that stand on the floor

    Returns
    -------
    (float, float) : mean power with the lamps off [W], and the same over the mats' ground [W/m²]

    Notes
    -----
    Mats say their watts, seldom their size: they are taken as a quarter larger than the pots on them, and no larger
    than the floor (assumed).
    """
    night = dark(space.lit) or (Span(start_min=0.0, end_min=1440.0),)
    power = sum(
        device.spec.power_w * share_while(device.schedule, night, space.lit)
        for device in space.devices
        if device.spec.kind == "mat"
    )
    ground = _MAT_LARGER * sum(_pot_ground_m2(plant) for plant in plants)
    ground = min(max(ground, _LEAST_MAT_M2), space.size.width_m * space.size.depth_m)
    return power, power / ground


def _pot_ground_m2(plant: Growing) -> float:
    wide, deep = standing_room_m(plant.plant)
    return wide * deep if plant.plant.pot_depth_m else 0.785 * wide**2


def _below(ground: Ground, floor: str) -> str:
    return floor if ground.stands_on == "floor" else ground.stands_on


def _cold_floor(here: Standing) -> Iterator[Margin]:
    space = here.space
    low_down = [plant for plant in here.plants if plant.plant.base_m < 0.05 and plant.plant.habit in ("stand", "pole")]
    if space.ground.below_c is None or not low_down:
        return
    floor, night_c = here.around.room.floor, here.around.air.night_c
    power, flux = mat_w_m2(space, low_down)
    bare = root_zone_c(space.ground, night_c, space.ground.below_c, floor)
    night = root_zone_c(space.ground, night_c, space.ground.below_c, floor, flux)
    plant = max(low_down, key=lambda item: item.want.root_c.low)
    low, high = plant.want.root_c.low, min(item.want.root_c.high for item in low_down)
    # With a mat the temperature is what it reaches at full power: a thermostat holds it below that.
    verdict: Verdict = "good" if night >= low else "tight" if night >= low - 2 else "short"
    if power > 0 and night > high and bare <= high:
        verdict = "tight"
    amounts = {
        "there": Amount(value=night, unit="temperature"),
        "low": Amount(value=low, unit="temperature"),
        "bare": Amount(value=bare, unit="temperature"),
        "w": Amount(value=power, unit="power"),
        "high": Amount(value=high, unit="temperature"),
    }
    warmed = "By night roots reach about {there} with {w} of mats, {bare} without" if power > 0 else ""
    words = {
        "short": (
            f"{warmed or 'By night roots settle at about {there}'}; {plant.crop.name} wants {{low}}: raise the pots, "
            f"insulate the floor, or lay {'more of them' if power > 0 else 'a mat'}."
        ),
        "tight": f"{warmed or 'By night about {there}'}; {plant.crop.name} wants {{low}}.",
        "good": f"{warmed or 'By night about {there}'}; {plant.crop.name} wants {{low}}.",
    }
    if power > 0 and night > high:
        words["tight"] = f"{warmed}, over the {{high}} that roots here take: put the mat on a thermostat."
    yield Margin(
        id="space.floor",
        station="space",
        title="Cold floor",
        verdict=verdict,
        need=sentence(
            "at least {low}, held below {high}" if power > 0 and night > high else "at least {low}", **amounts
        ),
        there=sentence("about {there}", **amounts),
        why=sentence(words[verdict], **amounts),
        parts=(plant.id,),
        working=Working(
            formula="T root = (8 T air + U T below + q mat) / (8 + U)",
            steps=(
                Step(
                    symbol="T air",
                    meaning="room by night",
                    amount=Amount(value=here.around.air.night_c, unit="temperature"),
                ),
                Step(
                    symbol="T below",
                    meaning=f"{_below(space.ground, here.around.room.floor)} below",
                    amount=Amount(value=space.ground.below_c, unit="temperature"),
                ),
                Step(symbol="ins", meaning="insulation", amount=Amount(value=space.ground.insulation_m, unit="length")),
                Step(symbol="P mat", meaning="mats that run by night", amount=amounts["w"]),
                Step(
                    symbol="q mat",
                    meaning="over a quarter more than the pots' ground",
                    amount=Amount(value=flux, unit="W/m²", decimals=0),
                ),
            ),
            source=f"Heat transfer of pots, compiled for this library; target: {cite(plant.want.source_of('root_c'))}",
            certainty="Rough, ±2 K.",
        ),
    )
