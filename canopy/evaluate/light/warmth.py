"""How warm the leaves nearest to each lamp get, and whether they bear it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from canopy.climate.canopy_gas import DEADLY_C, Surroundings
from canopy.climate.leaf import Irradiated, leaf_c
from canopy.evaluate.light.headroom import nearest_point
from canopy.evaluate.light.lighting import Lighting, crowns_of
from canopy.light.passing import irradiance
from canopy.light.photometry import drawn_power, ppf
from canopy.light.polygons import polygon_factors
from canopy.light.scene import emitter_of, weights
from canopy.margin import Amount, Margin, Step, Working, judge_most, sentence
from canopy.plan.document import Fixture
from canopy.quantities.reader import PPFD
from canopy.season import Growing, Standing

Array = NDArray[np.float64]
# Photosynthesis of most crops falls off from here on, and leaves are harmed some degrees further (Berry & Björkman
# 1980, Annual Review of Plant Physiology 31: 491-543) [°C].
LIMIT_C = 36.0
# Infrared that goes the way of a lamp's light, for each watt of its light 400-700 nm, and what a leaf absorbs of it.
# Shares of input power after the IES Lighting Handbook (9th ed., energy output of lamps): sodium light 30, infrared 20
# forward of 37; metal halide 21 to 14 of 33; halogen 10 to 55 of 72. LED sends none. Known to about a third.
_INFRARED: dict[str, tuple[float, float]] = {
    "hps": (0.67, 0.5),
    "metal-halide": (0.67, 0.5),
    "incandescent": (5.5, 0.4),
    "fluorescent": (0.3, 0.8),
    "led": (0.0, 0.0),
}
# Share of a lamp's power that warms its body, and how well the body's two sides give heat off [W/m²/K] (still air: 5 by
# convection, 6 by radiation). The arc of a discharge lamp sends most of its heat away with its light.
_WARMS_BODY = {"led": 0.5, "fluorescent": 0.55, "hps": 0.2, "metal-halide": 0.25, "incandescent": 0.15}
_FROM_BODY_W_M2K, _HOTTEST_RISE_K, _SIGMA, _KELVIN = 11.0, 60.0, 5.670e-8, 273.15
_NEAR_M = 1.5
# Of all plants so many, those nearest by their middles, are looked at for the nearest leaf.
_LOOKED_AT = 4


@dataclass(frozen=True, kw_only=True)
class NearestLeaf:
    """The leaf nearest to a lamp: how far off [m], what falls on it, and the air about it."""

    fixture: Fixture
    plant: Growing
    distance_m: float
    on: Irradiated
    air: Surroundings

    @cached_property
    def open_c(self) -> float:
        """Its temperature with stomata open [°C]."""
        return leaf_c(self.on, self.air)

    @cached_property
    def shut_c(self) -> float:
        """Its temperature with stomata shut [°C]."""
        return leaf_c(self.on, self.air, shut=True)

    @property
    def strain(self) -> float:
        """What it takes up against what moving air takes off, for finding the warmest of several."""
        return float(self.on.absorbed_w_m2 / np.sqrt(self.air.air_speed_m_s + 0.05))


def nearest_leaves(
    here: Standing, lighting: Lighting, air: Surroundings, speeds: Mapping[str, float]
) -> Iterator[NearestLeaf]:
    """Find the leaf nearest to each lamp that is on.

    Parameters
    ----------
    here : the space on a day
    lighting : its computed light
    air : its air by day
    speeds : air at each plant by its id [m/s]; that of ``air`` where it is not named

    Returns
    -------
    iterator of NearestLeaf : none for lamps further than 1.5 m from all leaves

    Notes
    -----
    The lamp's own light falls straight on a leaf that faces it; of the other lamps, windows and walls it gets what the
    plant's top gets.
    """
    space = here.space
    if not here.plants or air.temperature_c > DEADLY_C:
        return
    share, on_plant = weights(space, here.day), {light.plant.id: light for light in lighting.plants}
    crowns = crowns_of(here)
    middles, radii = np.array([crown.middle for crown in crowns]), np.array([crown.radius_m for crown in crowns])
    cooled = {
        part.fixture_id for way in space.airways if way.way == "out" and any(way.speeds(lit=True)) for part in way.hoods
    }
    for number, lamp in enumerate(space.fixtures):
        if not lamp.enabled or lamp.dim <= 0:
            continue
        at = np.array([lamp.x_m, lamp.y_m, lamp.z_m])
        closest = np.argsort(np.linalg.norm(middles - at, axis=1) - radii)[:_LOOKED_AT]
        plant, leaf, facing, gap = min(
            ((here.plants[k], *nearest_point(lamp, here.plants[k])) for k in closest), key=lambda item: item[3]
        )
        emitter, light = emitter_of(lamp), on_plant[plant.id]
        # What lies behind the lamp's face is not lit by it.
        if gap > _NEAR_M or (float(emitter.plate.local(leaf[None])[0, 2]) <= 0 and not emitter.both_sides):
            continue
        direct = float(irradiance(emitter, leaf[None], facing[None])[0] * share[number])
        own = light.by_source_umol_m2_s[number]
        falls = direct + light.ppfd_umol_m2_s - own * (1 - light.reflected_share)
        yield NearestLeaf(
            fixture=lamp,
            plant=plant,
            distance_m=gap,
            on=_on_leaf(lamp, leaf[None], facing[None], falls, direct, air, cooled=lamp.id in cooled),
            air=replace(air, air_speed_m_s=speeds.get(plant.id, air.air_speed_m_s)),
        )


def _on_leaf(
    lamp: Fixture, leaf: Array, facing: Array, falls: float, direct: float, air: Surroundings, *, cooled: bool
) -> Irradiated:
    kind = lamp.spec.technology
    ratio, absorbed = _INFRARED[kind]
    # A lamp that is there for its heat has no photons to go by: all its power counts, spread over half a sphere.
    power = drawn_power(lamp.spec, lamp.dim)
    infrared = direct / 4.6 * ratio
    if ppf(lamp.spec) <= 0 and kind == "incandescent":
        plate = emitter_of(lamp).plate
        spread = 2 * np.pi * max(float(np.linalg.norm(leaf[0] - plate.centre)), 0.03) ** 2
        infrared = 0.7 * power / spread
    emitter = emitter_of(lamp)
    warmed = power * _WARMS_BODY[kind] * (1 - (lamp.spec.hood_share if cooled else 0.0))
    rise = min(warmed / (2 * emitter.plate.area_m2 * _FROM_BODY_W_M2K), _HOTTEST_RISE_K) if emitter.body else 0.0
    seen = float(polygon_factors(leaf, facing, emitter.plate.outline).sum())
    base = air.temperature_c + _KELVIN
    thermal = _SIGMA * ((base + rise) ** 4 - base**4) * seen
    return Irradiated(
        ppfd_umol_m2_s=falls, infrared_w_m2=infrared, infrared_absorbed=absorbed, thermal_w_m2=float(thermal)
    )


def warmth_margins(here: Standing, lighting: Lighting, air: Surroundings, speeds: Mapping[str, float]) -> list[Margin]:
    """Judge the warmest leaf near a lamp.

    Parameters
    ----------
    here : the space on a day
    lighting : its computed light
    air : its air by day
    speeds : air at each plant by its id [m/s]

    Returns
    -------
    list of Margin : one, or none without lamps near leaves
    """
    found = list(nearest_leaves(here, lighting, air, speeds))
    if not found:
        return []
    worst = max(found, key=lambda leaf: leaf.strain)
    verdict = judge_most(worst.open_c, LIMIT_C, tight=0.93)
    amounts = {
        "leaf": Amount(value=worst.open_c, unit="temperature"),
        "limit": Amount(value=LIMIT_C, unit="temperature"),
        "shut": Amount(value=worst.shut_c, unit="temperature"),
        "gap": Amount(value=worst.distance_m, unit="length"),
    }
    name, lamp = worst.plant.crop.name, worst.fixture.spec.name
    words = {
        "over": f"Leaves of {name}, {{gap}} from {lamp}, come to about {{leaf}}: move them apart, dim the lamp, or "
        "stir the air there.",
        "tight": f"Leaves of {name}, {{gap}} from {lamp}, come to about {{leaf}}; a dry plant's to {{shut}}.",
        "good": f"Leaves of {name}, {{gap}} from {lamp}, stay at about {{leaf}}; a dry plant's would come to {{shut}}.",
    }
    return [
        Margin(
            id="light.leaf-warmth",
            station="light",
            title="Leaves nearest to a lamp",
            parts=(worst.fixture.id, worst.plant.id),
            verdict=verdict,
            mendable=verdict == "over",
            need=sentence("at most {limit}", **amounts),
            there=sentence("about {leaf}", **amounts),
            why=sentence(words[verdict], **amounts),
            working=Working(
                formula="light + infrared + heat of the lamp's body, absorbed = convection + radiation + transpiration",
                steps=(
                    Step(symbol="a", meaning="from leaf to lamp", amount=amounts["gap"]),
                    Step(symbol="E", meaning="light on it", amount=Amount(value=worst.on.ppfd_umol_m2_s, unit=PPFD)),
                    Step(
                        symbol="IR",
                        meaning="infrared with the light",
                        amount=Amount(value=worst.on.infrared_w_m2, unit="W/m²"),
                    ),
                    Step(
                        symbol="Q",
                        meaning="heat of the lamp's body, beyond the room's",
                        amount=Amount(value=worst.on.thermal_w_m2, unit="W/m²"),
                    ),
                    Step(
                        symbol="T air",
                        meaning="air by day, about",
                        amount=Amount(value=air.temperature_c, unit="temperature"),
                    ),
                    Step(symbol="T leaf", meaning="stomata open", amount=amounts["leaf"]),
                    Step(symbol="T dry", meaning="stomata shut", amount=amounts["shut"]),
                ),
                source="Stanghellini 1987; infrared after the IES Lighting Handbook; limit: Berry & Björkman 1980",
                certainty="About ±3 K: infrared of a kind of lamp is known to a third, and the air is taken as steady.",
            ),
        )
    ]
