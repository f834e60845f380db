"""Air held against plants, lamps and room: demands, what is delivered, and the steady climate by day."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi

from canopy.air import AirNeeds, Demand, demands, envelope_w_k, fan_flow_m3_h, governing, passive_flow_m3_h, volume_m3
from canopy.climate import Stand, Surroundings, gas_exchange
from canopy.evaluate.lighting import Lighting, fixture_load
from canopy.plan.document import Space
from canopy.power import Load, appliance_loads
from canopy.psychrometrics import (
    HEAT_CAPACITY_J_KGK,
    HEAT_OF_EVAPORATION_J_KG,
    dry_air_density_kg_m3,
    humidity_ratio,
    relative_humidity_pct,
    vpd_kpa,
)


@dataclass(frozen=True, kw_only=True)
class SteadyAir:
    """The air inside after an hour or two of lights on (or off), by a steady balance: rough."""

    temperature_c: float
    rh_pct: float
    vpd_kpa: float
    heat_w: float
    vapour_kg_s: float
    flow_m3_h: float


@dataclass(frozen=True, kw_only=True)
class Breathing:
    """All that is said of a space's air."""

    demands: tuple[Demand, ...]
    governing: Demand
    needs: AirNeeds
    fan_m3_h: float
    passive_m3_h: float
    day: SteadyAir
    night: SteadyAir

    @property
    def delivered_m3_h(self) -> float:
        """What moves through: the fan's flow, or what the space breathes by itself [m³/h]."""
        return max(self.fan_m3_h, self.passive_m3_h)


def stand_of(space: Space, lighting: Lighting, *, lit: bool = True) -> Stand:
    """Sum a space's plants up to one big leaf.

    Parameters
    ----------
    space : the space
    lighting : its computed light
    lit : lights on

    Returns
    -------
    Stand : crowns together, no larger than the floor; leaf area index and light as means over them
    """
    floor = space.size.width_m * space.size.depth_m
    areas = [pi * light.plant.spread_m**2 / 4 for light in lighting.plants]
    total = sum(areas)
    if total <= 0:
        return Stand(area_m2=0.0, lai=0.0, ppfd_umol_m2_s=0.0)
    lai = sum(a * light.plant.lai for a, light in zip(areas, lighting.plants, strict=True)) / total
    ppfd = sum(a * light.ppfd_umol_m2_s for a, light in zip(areas, lighting.plants, strict=True)) / total
    # Crowns that overlap stand deeper on the same ground.
    ground = min(total, 0.95 * floor)
    return Stand(area_m2=ground, lai=lai * total / ground, ppfd_umol_m2_s=ppfd if lit else 0.0)


def inside_heat_w(space: Space, loads: tuple[Load, ...], *, lit: bool) -> float:
    """Give the heat that electricity makes inside.

    Parameters
    ----------
    space : the space
    loads : fan and devices
    lit : lights on

    Returns
    -------
    float : mean power that ends as heat in the space [W]
    """
    lamps = sum(fixture_load(f) * (1 - f.spec.hood_share) for f in space.fixtures) if lit else 0.0
    return lamps + sum(load.power_w * load.hours_per_day / 24 * load.heats_space for load in loads)


def breathing(space: Space, lighting: Lighting) -> Breathing:
    """Compute what air a space needs and what it gets.

    Parameters
    ----------
    space : the space
    lighting : its computed light

    Returns
    -------
    Breathing : demands, delivery, and a rough steady climate by day and night
    """
    room, air, loads = space.room, space.air, appliance_loads(space)
    stand = stand_of(space, lighting)
    near = Surroundings(
        temperature_c=room.day_c + air.rise_k, rh_pct=air.max_rh_pct, co2_ppm=room.co2_ppm - air.co2_drop_ppm,
        altitude_m=room.altitude_m,
    )  # fmt: skip
    trade = gas_exchange(stand, near)
    needs = AirNeeds(
        volume_m3=volume_m3(space), exchange_minutes=air.exchange_minutes, filter_allowance=air.filter_allowance,
        heat_w=inside_heat_w(space, loads, lit=True), envelope_w_k=envelope_w_k(space), rise_k=air.rise_k,
        vapour_kg_s=trade.vapour_kg_s, co2_mol_s=trade.co2_mol_s, room_c=room.day_c, room_rh_pct=room.day_rh_pct,
        max_rh_pct=air.max_rh_pct, co2_drop_ppm=air.co2_drop_ppm, altitude_m=room.altitude_m,
    )  # fmt: skip
    found = demands(needs)
    fan, passive = fan_flow_m3_h(space), passive_flow_m3_h(space, air.rise_k)
    flow = max(fan, passive)
    night_flow = flow if space.air.fan_hours > 20 else passive
    return Breathing(
        demands=found,
        governing=governing(found, air.rule),
        needs=needs,
        fan_m3_h=fan,
        passive_m3_h=passive,
        day=_steady(space, stand, inside_heat_w(space, loads, lit=True), flow, day=True),
        night=_steady(
            space, stand_of(space, lighting, lit=False), inside_heat_w(space, loads, lit=False), night_flow, day=False
        ),
    )


def _steady(space: Space, stand: Stand, heat_w: float, flow_m3_h: float, *, day: bool) -> SteadyAir:
    """Balance heat and water at a constant flow, by relaxed repetition (plants answer to the air they make)."""
    room = space.room
    room_c, room_rh = (room.day_c, room.day_rh_pct) if day else (room.night_c, room.night_rh_pct)
    ratio_room = humidity_ratio(room_c, room_rh, room.altitude_m)
    mass = dry_air_density_kg_m3(room_c, ratio_room, room.altitude_m) * flow_m3_h / 3600
    conduct = envelope_w_k(space) + mass * HEAT_CAPACITY_J_KGK
    temperature, ratio, vapour = room_c, ratio_room, 0.0
    for _ in range(60):
        rh = min(99.0, relative_humidity_pct(temperature, ratio, room.altitude_m))
        air = Surroundings(
            temperature_c=temperature, rh_pct=max(rh, 1.0), co2_ppm=room.co2_ppm, altitude_m=room.altitude_m
        )
        vapour = gas_exchange(stand, air).vapour_kg_s
        cooler = room_c + (heat_w - HEAT_OF_EVAPORATION_J_KG * vapour) / conduct
        wetter = ratio_room + vapour / max(mass, 1e-9)
        wetter = min(wetter, humidity_ratio(temperature, 100, room.altitude_m))
        if abs(cooler - temperature) < 0.005 and abs(wetter - ratio) < 1e-6:
            break
        temperature += 0.4 * (cooler - temperature)
        ratio += 0.4 * (wetter - ratio)
    rh = min(100.0, relative_humidity_pct(temperature, ratio, room.altitude_m))
    return SteadyAir(
        temperature_c=temperature, rh_pct=rh, vpd_kpa=vpd_kpa(temperature, rh), heat_w=heat_w, vapour_kg_s=vapour,
        flow_m3_h=flow_m3_h,
    )  # fmt: skip
