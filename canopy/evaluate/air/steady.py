"""The steady air of a space: heat and water in balance at a constant flow, with lamps on or off."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from canopy.air import Breath, WayFlow, envelope_w_k
from canopy.air.stirring import whole_air_m_s
from canopy.climate import Stand, Surroundings, gas_exchange
from canopy.evaluate.light.lighting import Lighting
from canopy.light.photometry import fixture_load
from canopy.plan.airways import Ambient, usual_away
from canopy.plan.document import Space
from canopy.plan.learnt import factor_on
from canopy.power import Load
from canopy.psychrometrics import (
    HEAT_CAPACITY_J_KGK,
    HEAT_OF_EVAPORATION_J_KG,
    dry_air_density_kg_m3,
    humidity_ratio,
    relative_humidity_pct,
    vpd_kpa,
)

# Beyond this no balance is followed: nothing lives there, and plastics and cables give way [°C].
HOTTEST_C = 60.0
# Air that cools a hood warms by no more than this: what is beyond stays in the lamp, and so in the space [K].
_HOOD_RISE_K = 30.0


@dataclass(frozen=True, kw_only=True)
class SteadyAir:
    """The air inside after an hour or two of lights on (or off), by a steady balance: rough.

    ``bounded`` says that the balance ends beyond ``HOTTEST_C``: the air is at least that hot, nothing lives in it, and
    its figures stand for that bound.
    """

    temperature_c: float
    rh_pct: float
    vpd_kpa: float
    heat_w: float
    vapour_kg_s: float
    flow_m3_h: float
    bounded: bool = False


@dataclass(frozen=True, kw_only=True)
class Intake:
    """The air that comes in, mixed: temperature [°C] and humidity [%]."""

    temperature_c: float
    rh_pct: float


def stand_of(space: Space, lighting: Lighting, *, lit: bool = True) -> Stand:
    """Sum a space's plants up to one big leaf.

    Parameters
    ----------
    lighting : its computed light
    lit : lights on

    Returns
    -------
    Stand : crowns together, no larger than the floor; leaf area index and light as means over them
    """
    floor = space.size.width_m * space.size.depth_m
    areas = [light.plant.ground_m2 for light in lighting.plants]
    total = sum(areas)
    if total <= 0:
        return Stand(area_m2=0.0, lai=0.0, ppfd_umol_m2_s=0.0)
    lai = sum(a * light.plant.lai for a, light in zip(areas, lighting.plants, strict=True)) / total
    ppfd = sum(a * light.ppfd_umol_m2_s for a, light in zip(areas, lighting.plants, strict=True)) / total
    # Crowns that overlap stand deeper on the same ground.
    ground = min(total, 0.95 * floor)
    return Stand(
        area_m2=ground, lai=lai * total / ground, ppfd_umol_m2_s=ppfd if lit else 0.0, opens=factor_on(space, "leaves")
    )


def hood_heat_w(space: Space, moved: Breath) -> float:
    """Give the heat that ways of air carry off from lamps in hoods, lamps on.

    Parameters
    ----------
    space : the space with its lamps
    moved : what moves along its ways, lamps on

    Returns
    -------
    float : mean heat [W]: each hood's share of its lamp's power while air is drawn out through it, no more than that
        air takes up by 30 K; nothing where air is blown in, or stands

    Notes
    -----
    Conservation of heat, q = ρ c Q ΔT; the hood's share is the lamp's (half of its power or so, as its sheet says).
    """
    lamps = {lamp.id: lamp for lamp in space.fixtures if lamp.enabled}
    own = {way.id for way in space.airways}
    total = 0.0
    for share, flow in flows_of(moved):
        hoods = [part for part in flow.airway.parts if part.kind == "hood" and part.fixture_id in lamps]
        if not hoods or flow.airway.id not in own or flow.airway.way != "out" or flow.flow_m3_s <= 0:
            continue
        heat = sum(fixture_load(lamps[part.fixture_id]) * lamps[part.fixture_id].spec.hood_share for part in hoods)
        most = _AIR_J_M3K * flow.flow_m3_s * _HOOD_RISE_K
        total += share * min(heat, most)
    return total


_AIR_J_M3K = 1.19 * HEAT_CAPACITY_J_KGK


def inside_heat_w(space: Space, loads: tuple[Load, ...], *, lit: bool) -> float:
    """Give the heat that electricity makes inside, what leaves through hoods included.

    Parameters
    ----------
    loads : fan and devices
    lit : lights on

    Returns
    -------
    float : mean power that ends as heat in the space, or in the air of a hood; without heaters, mats and what else runs
        only as far as the climate asks for it [W]
    """
    lamps = factor_on(space, "lamp-heat") * sum(fixture_load(fixture) for fixture in space.fixtures) if lit else 0.0
    steady = (load for load in loads if not load.on_demand)
    return lamps + sum(load.power_w * load.hours_per_day / 24 * load.heats_space for load in steady)


def over_leaves_m_s(space: Space, stand: Stand) -> float:
    """Give the air speed over the leaves, as far as it matters for what they give off.

    Parameters
    ----------
    stand : the plants as one big leaf

    Returns
    -------
    float : 0.1 to 1 [m/s]
    """
    return min(1.0, max(0.1, whole_air_m_s(space, stand.area_m2 * stand.lai)))


def flows_of(moved: Breath) -> Iterator[tuple[float, WayFlow]]:
    """Go through each way's flow in each phase of the fans' cycles.

    Parameters
    ----------
    moved : the space's air

    Returns
    -------
    iterator of (float, WayFlow) : the phase's share of the time, and the flow
    """
    for phase in moved.phases:
        for flow in phase.air.ways:
            yield phase.share, flow


# Air that comes in: how much [m³/h], and as typed, or the id of the joined space that it comes from.
Supply = tuple[tuple[float, "Intake | str"], ...]


def supply_of(space: Space, moved: Breath, room: Intake, joined: Collection[str], *, lit: bool) -> Supply:
    """List what comes in from the room, from elsewhere and from joined spaces, as a mean over the fans' cycles.

    Parameters
    ----------
    moved : what moves
    room : the room's air
    joined : ids of the joined spaces whose air is computed
    lit : lamps on

    Returns
    -------
    Supply : a way whose far air was typed brings that; the room's air last
    """
    own = {way.id for way in space.airways}
    parts: list[tuple[float, Intake | str]] = []
    for share, flow in flows_of(moved):
        inwards = share * (flow.flow_m3_h if flow.way.to_id == space.id else -flow.flow_m3_h)
        airway = flow.airway
        if inwards <= 0 or airway.ends == "room":
            continue
        if airway.id in own and airway.away is not None:
            parts.append((inwards, there(airway.away, lit=lit)))
        elif airway.ends == "space":
            far = flow.way.from_id if flow.way.to_id == space.id else flow.way.to_id
            if far in joined:
                parts.append((inwards, far or ""))
        else:
            parts.append((inwards, there(usual_away(airway), lit=lit)))
    rest = max(0.0, moved.total_m3_h - sum(flow for flow, _ in parts))
    return (*parts, (rest, room))


def mixed(supply: Supply, known: Mapping[str, Intake], altitude_m: float) -> Intake:
    """Mix what comes in.

    Parameters
    ----------
    supply : what comes in
    known : air of joined spaces by their ids
    altitude_m : height above sea level [m]

    Returns
    -------
    Intake : one air, by heat and by water; the last one's where nothing comes in
    """
    airs = [(flow, known[air] if isinstance(air, str) else air) for flow, air in supply]
    total = sum(flow for flow, _ in airs)
    if total <= 0 or len(airs) == 1:
        return airs[-1][1]
    mean_c = sum(flow * air.temperature_c for flow, air in airs) / total
    ratio = sum(flow * humidity_ratio(air.temperature_c, air.rh_pct, altitude_m) for flow, air in airs) / total
    rh = relative_humidity_pct(mean_c, ratio, altitude_m)
    return Intake(temperature_c=mean_c, rh_pct=min(100.0, max(1.0, rh)))


def there(away: Ambient, *, lit: bool) -> Intake:
    """Give typed air by day or by night.

    Parameters
    ----------
    away : as typed
    lit : lamps on

    Returns
    -------
    Intake : temperature and humidity
    """
    if lit:
        return Intake(temperature_c=away.day_c, rh_pct=away.day_rh_pct)
    return Intake(temperature_c=away.night_c, rh_pct=away.night_rh_pct)


@dataclass(frozen=True, kw_only=True)
class Chamber:
    """A space in the balance: its plants as one leaf, the heat that stays inside [W], the air that comes in, the room
    beyond its walls, the height above sea level [m] and the room's CO2 [ppm].
    """

    space: Space
    stand: Stand
    heat_w: float
    supply: Supply
    room: Intake
    altitude_m: float
    co2_ppm: float

    @property
    def flow_m3_h(self) -> float:
        """All that comes in [m³/h]."""
        return sum(flow for flow, _ in self.supply)


_ROUNDS, _RELAXED = 120, 0.4


def steady_airs(chambers: Sequence[Chamber]) -> dict[str, SteadyAir]:
    """Balance heat and water at constant flows, in one space or in several that breathe each other's air.

    Parameters
    ----------
    chambers : the spaces; what one takes from another must be among them

    Returns
    -------
    dict : the air inside each, by its space's id

    Notes
    -----
    For given transpiration both balances are linear in the spaces' temperatures and humidity ratios and are solved
    at once; plants answer to the air they make, so that transpiration and air are repeated, relaxed, until they agree.
    """
    place = {chamber.space.id: number for number, chamber in enumerate(chambers)}
    count = len(chambers)
    warm, wet = np.zeros((count, count)), np.zeros((count, count))
    heat, water = np.zeros(count), np.zeros(count)
    for number, chamber in enumerate(chambers):
        walls = envelope_w_k(chamber.space)
        warm[number, number] += walls
        heat[number] += walls * chamber.room.temperature_c + chamber.heat_w
        wet[number, number] += 1e-12
        for flow, air in chamber.supply:
            source = chamber.room if isinstance(air, str) else air
            ratio = humidity_ratio(source.temperature_c, source.rh_pct, chamber.altitude_m)
            mass = dry_air_density_kg_m3(source.temperature_c, ratio, chamber.altitude_m) * flow / 3600
            warm[number, number] += mass * HEAT_CAPACITY_J_KGK
            wet[number, number] += mass
            if isinstance(air, str):
                warm[number, place[air]] -= mass * HEAT_CAPACITY_J_KGK
                wet[number, place[air]] -= mass
            else:
                heat[number] += mass * HEAT_CAPACITY_J_KGK * source.temperature_c
                water[number] += mass * ratio
    room_ratios = [humidity_ratio(c.room.temperature_c, c.room.rh_pct, c.altitude_m) for c in chambers]
    water += 1e-12 * np.array(room_ratios)
    dry = np.linalg.solve(warm, heat - [chamber.heat_w for chamber in chambers])
    temperature, ratio_now = dry.clip(max=HOTTEST_C), np.linalg.solve(wet, water)
    vapour, cooler = np.zeros(count), dry
    for _ in range(_ROUNDS):
        vapour = np.array([_given(c, float(temperature[n]), float(ratio_now[n])) for n, c in enumerate(chambers)])
        cooler = np.linalg.solve(warm, heat - HEAT_OF_EVAPORATION_J_KG * vapour)
        most = [humidity_ratio(float(temperature[n]), 100, c.altitude_m) for n, c in enumerate(chambers)]
        wetter = np.minimum(np.linalg.solve(wet, water + vapour), most)
        if (abs(cooler - temperature) < 0.005).all() and (abs(wetter - ratio_now) < 1e-6).all():
            break
        temperature = np.minimum(temperature + _RELAXED * (cooler - temperature), HOTTEST_C)
        ratio_now = ratio_now + _RELAXED * (wetter - ratio_now)
    found = {}
    for number, chamber in enumerate(chambers):
        inside = float(temperature[number])
        rh = min(100.0, relative_humidity_pct(inside, float(ratio_now[number]), chamber.altitude_m))
        found[chamber.space.id] = SteadyAir(
            temperature_c=inside,
            rh_pct=rh,
            vpd_kpa=vpd_kpa(inside, rh),
            heat_w=chamber.heat_w,
            vapour_kg_s=float(vapour[number]),
            flow_m3_h=chamber.flow_m3_h,
            bounded=inside >= HOTTEST_C and float(cooler[number]) > HOTTEST_C,
        )
    return found


def _given(chamber: Chamber, temperature_c: float, ratio: float) -> float:
    """What the leaves give off in an air [kg/s]."""
    rh = min(99.0, relative_humidity_pct(temperature_c, ratio, chamber.altitude_m))
    air = Surroundings(
        temperature_c=temperature_c,
        rh_pct=max(rh, 1.0),
        co2_ppm=chamber.co2_ppm,
        altitude_m=chamber.altitude_m,
        air_speed_m_s=over_leaves_m_s(chamber.space, chamber.stand),
    )
    return gas_exchange(chamber.stand, air).vapour_kg_s
