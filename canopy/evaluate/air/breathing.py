"""Air held against plants, lamps and room: demands, what is delivered, and the steady climate, by day and by night."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass
from math import pi

from canopy.air import AirNeeds, Breath, Demand, WayFlow, breath, demands, envelope_w_k, governing, volume_m3
from canopy.air.network import neighbours
from canopy.air.room_balance import RoomLoad, room_load
from canopy.air.stirring import whole_air_m_s
from canopy.cache import ContentCache
from canopy.climate import Stand, Surroundings, gas_exchange
from canopy.evaluate.light.lighting import Lighting
from canopy.evaluate.light.lighting import lighting as lighting_of
from canopy.light.photometry import fixture_load
from canopy.plan.airways import Ambient, usual_away
from canopy.plan.document import Plan, Space
from canopy.plan.rooms import Around
from canopy.power import Load, appliance_loads
from canopy.psychrometrics import (
    HEAT_CAPACITY_J_KGK,
    HEAT_OF_EVAPORATION_J_KG,
    density_share,
    dry_air_density_kg_m3,
    humidity_ratio,
    relative_humidity_pct,
    vpd_kpa,
)
from canopy.season import Standing, cast_of, standing_of

# Beyond this no balance is followed: nothing lives there, and plastics and cables give way [°C].
HOTTEST_C = 60.0
# A room that is heated further counts as this warm for what comes in [°C].
_ROOM_MOST_C = 55.0


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
class Burden:
    """What a space leaves to the room around it: heat [W], vapour [kg/s], and air drawn out of the home [m³/h]."""

    heat_w: float
    vapour_kg_s: float
    drawn_m3_h: float


@dataclass(frozen=True, kw_only=True)
class Intake:
    """The air that comes in, mixed: temperature [°C] and humidity [%]."""

    temperature_c: float
    rh_pct: float


@dataclass(frozen=True, kw_only=True)
class Half:
    """A space's air with lamps on, or with lamps off: what is asked, what moves, what it is like inside and in the
    room.

    ``room`` is what the space makes of a room whose size is known, ``around`` that room's air, ``intake`` what comes
    in.
    """

    needs: AirNeeds
    demands: tuple[Demand, ...]
    governing: Demand
    air: Breath
    around: Intake
    intake: Intake
    room: RoomLoad | None
    steady: SteadyAir

    def demand(self, criterion: str) -> Demand:
        """Give one criterion's answer.

        Parameters
        ----------
        criterion : such as "heat"

        Returns
        -------
        Demand : the answer
        """
        return next(demand for demand in self.demands if demand.criterion == criterion)


@dataclass(frozen=True, kw_only=True)
class Breathing:
    """All that is said of a space's air."""

    lit: Half
    dark: Half

    @property
    def needs(self) -> AirNeeds:
        """What decides the flow, lamps on."""
        return self.lit.needs

    @property
    def demands(self) -> tuple[Demand, ...]:
        """What each criterion asks for, lamps on."""
        return self.lit.demands

    @property
    def governing(self) -> Demand:
        """The demand that sizes the flow."""
        return self.lit.governing

    @property
    def day(self) -> SteadyAir:
        """The steady air, lamps on."""
        return self.lit.steady

    @property
    def night(self) -> SteadyAir:
        """The steady air, lamps off."""
        return self.dark.steady

    @property
    def fan_m3_h(self) -> float:
        """What fans move while they run, lamps on [m³/h]."""
        running = self.lit.air.running
        by_fan = [flow.flow_m3_h for flow in running.ways if any(speed > 0 for speed in flow.way.speeds)]
        return max(running.fan_out_m3_h, running.fan_in_m3_h) if by_fan else 0.0

    @property
    def delivered_m3_h(self) -> float:
        """What comes in, lamps on, as a mean over cycles and an opened door [m³/h]."""
        return self.lit.air.total_m3_h


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
    loads : fan and devices
    lit : lights on

    Returns
    -------
    float : mean power that ends as heat in the space [W]
    """
    lamps = sum(fixture_load(f) * (1 - f.spec.hood_share) for f in space.fixtures) if lit else 0.0
    return lamps + sum(load.power_w * load.hours_per_day / 24 * load.heats_space for load in loads)


def breathing(plan: Plan, here: Standing, lighting: Lighting) -> Breathing:
    """Compute what air a space needs and what it gets.

    Parameters
    ----------
    plan : the plan, for the spaces that ways of air join it to and those that share its room
    here : the space on a day
    lighting : its computed light

    Returns
    -------
    Breathing : demands, flows, and a rough steady climate, with lamps on and with lamps off
    """
    return Breathing(lit=_half(plan, here, lighting, lit=True), dark=_half(plan, here, lighting, lit=False))


def _half(plan: Plan, here: Standing, lighting: Lighting, *, lit: bool) -> Half:
    space, around = here.space, here.around
    air = space.air
    stand, moved, heat, vapour, uptake = _asked(plan, space, around, lighting, lit=lit)
    laden = _laden(plan, here, _burden(space, moved, heat, vapour), lit=lit)
    room = Intake(temperature_c=around.temperature_c(lit=lit), rh_pct=around.rh_pct(lit=lit))
    if laden:
        room = Intake(temperature_c=min(laden.temperature_c, _ROOM_MOST_C), rh_pct=max(1.0, laden.rh_pct))
    intake = _intake(space, moved, room, around.altitude_m, lit=lit)
    needs = AirNeeds(
        volume_m3=volume_m3(space),
        exchange_minutes=air.exchange_minutes,
        filter_allowance=air.filter_allowance,
        count_allowance=air.count_allowance,
        heat_w=heat,
        envelope_w_k=envelope_w_k(space),
        rise_k=air.rise_k,
        vapour_kg_s=vapour,
        co2_mol_s=uptake if lit else 0.0,
        room_c=intake.temperature_c,
        room_rh_pct=intake.rh_pct,
        max_rh_pct=air.max_rh_pct,
        co2_drop_ppm=air.co2_drop_ppm,
        altitude_m=around.altitude_m,
    )
    found = demands(needs)
    return Half(
        needs=needs,
        demands=found,
        governing=governing(found, air.rule, lit=lit),
        air=moved,
        around=room,
        intake=intake,
        room=laden,
        steady=_settled(plan, here, stand, heat, room, moved, lit=lit),
    )


_BURDENS: ContentCache[Burden] = ContentCache(256, lambda burden: 1)


def _asked(
    plan: Plan, space: Space, around: Around, lighting: Lighting, *, lit: bool
) -> tuple[Stand, Breath, float, float, float]:
    """The stand, what moves, and at the air that is asked for: heat [W], vapour [kg/s] and CO2 taken up [mol/s]."""
    air = space.air
    heat = inside_heat_w(space, appliance_loads(space, density_share(around.altitude_m)), lit=lit)
    stand = stand_of(space, lighting, lit=lit)
    moved = breath(plan, space, lit=lit, rise_k=air.rise_k)
    asked = Surroundings(
        temperature_c=around.temperature_c(lit=lit) + air.rise_k,
        rh_pct=air.max_rh_pct,
        co2_ppm=around.room.co2_ppm - air.co2_drop_ppm,
        altitude_m=around.altitude_m,
        air_speed_m_s=_over_leaves_m_s(space, stand),
    )
    trade = gas_exchange(stand, asked)
    return stand, moved, heat, trade.vapour_kg_s, trade.co2_mol_s


def _over_leaves_m_s(space: Space, stand: Stand) -> float:
    """The air over the leaves, as far as it matters for what they give off."""
    return min(1.0, max(0.1, whole_air_m_s(space, stand.area_m2 * stand.lai)))


def _burden(space: Space, moved: Breath, heat_w: float, vapour_kg_s: float) -> Burden:
    """All heat and water that is not led out of the room, and what passes the walls."""
    drawn = [
        (share * flow.flow_m3_h, flow.airway.ends)
        for share, flow in _flows(moved)
        if flow.airway.way == "out" and flow.airway.ends != "room" and flow.flow_m3_s > 0
    ]
    led = min(1.0, sum(flow for flow, _ in drawn) / max(moved.total_m3_h, 1e-9))
    walls = min(heat_w, envelope_w_k(space) * space.air.rise_k)
    return Burden(
        heat_w=heat_w * (1 - led) + walls * led,
        vapour_kg_s=vapour_kg_s * (1 - led),
        drawn_m3_h=sum(flow for flow, ends in drawn if ends in ("outdoors", "other-room")),
    )


def _burden_of(plan: Plan, space: Space, around: Around, day: dt.date, *, lit: bool) -> Burden:
    """What another space of the room leaves to it, found again while nothing changes that it depends on."""
    grown = {plant.planting_id for plant in space.plants}
    plantings = [planting for planting in plan.plantings if planting.id in grown]
    records = tuple(record.model_dump_json() for record in (*neighbours(plan, space), *plantings, *plan.crops))
    key = (records, around, day, lit)

    def make() -> Burden:
        there = standing_of(space, day, cast_of(plan))
        _, moved, heat, vapour, _ = _asked(plan, space, around, lighting_of(there, with_map=False), lit=lit)
        return _burden(space, moved, heat, vapour)

    return _BURDENS.get(key, make)


def _laden(plan: Plan, here: Standing, own: Burden, *, lit: bool) -> RoomLoad | None:
    """What the room becomes, with this space and with all others that stand in it (lamps on in all, or off in all)."""
    around = here.around
    if around.room.floor_m2 is None:
        return None
    burdens = [own, *(_burden_of(plan, other, around, here.day, lit=lit) for other in sharing(plan, here.space))]
    return room_load(
        around,
        sum(item.heat_w for item in burdens),
        sum(item.vapour_kg_s for item in burdens),
        day=lit,
        drawn_m3_h=sum(item.drawn_m3_h for item in burdens),
    )


def sharing(plan: Plan, space: Space) -> tuple[Space, ...]:
    """List the other spaces whose warmth and damp a space meets in its room.

    Returns
    -------
    tuple of Space : those that stand in the same room; none where the room has no floor area and counts as large
    """
    room = plan.room(space.room_id)
    if room is None or room.floor_m2 is None:
        return ()
    return tuple(other for other in plan.spaces if other.room_id == space.room_id and other.id != space.id)


def _flows(moved: Breath) -> Iterator[tuple[float, WayFlow]]:
    """Each way's flow in each phase of the fans' cycles, with the phase's share of the time."""
    for phase in moved.phases:
        for flow in phase.air.ways:
            yield phase.share, flow


def _intake(space: Space, moved: Breath, around: Intake, altitude: float, *, lit: bool) -> Intake:
    """Mix what comes in from the room, from outdoors and from another space, over the fans' cycles."""
    parts: list[tuple[float, Intake]] = []
    for share, flow in _flows(moved):
        inwards = share * (flow.flow_m3_h if flow.way.to_id == space.id else -flow.flow_m3_h)
        airway = flow.airway
        if inwards <= 0 or airway.ends == "room":
            continue
        away = airway.away if airway.away is not None or airway.ends == "space" else usual_away(airway)
        if away is not None:
            parts.append((inwards, _there(away, lit=lit)))
    if not parts:
        return around
    parts.append((max(0.0, moved.total_m3_h - sum(flow for flow, _ in parts)), around))
    total = sum(flow for flow, _ in parts)
    mean_c = sum(flow * air.temperature_c for flow, air in parts) / total
    ratio = sum(flow * humidity_ratio(air.temperature_c, air.rh_pct, altitude) for flow, air in parts) / total
    return Intake(temperature_c=mean_c, rh_pct=min(100.0, max(1.0, relative_humidity_pct(mean_c, ratio, altitude))))


def _there(away: Ambient, *, lit: bool) -> Intake:
    if lit:
        return Intake(temperature_c=away.day_c, rh_pct=away.day_rh_pct)
    return Intake(temperature_c=away.night_c, rh_pct=away.night_rh_pct)


# A space that fans move less than this share of is carried by its own warmth: its rise and its flow settle together.
_PASSIVE_SHARE = 0.3


def _settled(
    plan: Plan, here: Standing, stand: Stand, heat_w: float, room: Intake, moved: Breath, *, lit: bool
) -> SteadyAir:
    """The steady air; without fans the flow follows the warmth inside, which follows the flow."""
    space, around = here.space, here.around
    fans = max(moved.running.fan_in_m3_h, moved.running.fan_out_m3_h)
    intake = _intake(space, moved, room, around.altitude_m, lit=lit)
    steady = _steady(space, around, stand, heat_w, moved.total_m3_h, room, intake)
    if fans > _PASSIVE_SHARE * moved.total_m3_h:
        return steady
    rise = max(0.0, steady.temperature_c - room.temperature_c)
    for _ in range(8):
        now = breath(plan, space, lit=lit, rise_k=rise)
        intake = _intake(space, now, room, around.altitude_m, lit=lit)
        steady = _steady(space, around, stand, heat_w, now.total_m3_h, room, intake)
        wanted = max(0.0, steady.temperature_c - room.temperature_c)
        if abs(wanted - rise) < 0.05:
            break
        rise = 0.5 * (rise + wanted)
    return steady


def _steady(
    space: Space, around: Around, stand: Stand, heat_w: float, flow_m3_h: float, room: Intake, intake: Intake
) -> SteadyAir:
    """Balance heat and water at a constant flow, by relaxed repetition (plants answer to the air they make)."""
    altitude = around.altitude_m
    ratio_in = humidity_ratio(intake.temperature_c, intake.rh_pct, altitude)
    mass = dry_air_density_kg_m3(intake.temperature_c, ratio_in, altitude) * flow_m3_h / 3600
    walls, carried = envelope_w_k(space), mass * HEAT_CAPACITY_J_KGK
    base = (walls * room.temperature_c + carried * intake.temperature_c) / (walls + carried)
    temperature, ratio, vapour, cooler = base, ratio_in, 0.0, base
    speed = _over_leaves_m_s(space, stand)
    for _ in range(60):
        rh = min(99.0, relative_humidity_pct(temperature, ratio, altitude))
        air = Surroundings(
            temperature_c=temperature,
            rh_pct=max(rh, 1.0),
            co2_ppm=around.room.co2_ppm,
            altitude_m=altitude,
            air_speed_m_s=speed,
        )
        vapour = gas_exchange(stand, air).vapour_kg_s
        cooler = base + (heat_w - HEAT_OF_EVAPORATION_J_KG * vapour) / (walls + carried)
        wetter = ratio_in + vapour / max(mass, 1e-9)
        wetter = min(wetter, humidity_ratio(temperature, 100, altitude))
        if abs(cooler - temperature) < 0.005 and abs(wetter - ratio) < 1e-6:
            break
        temperature = min(temperature + 0.4 * (cooler - temperature), HOTTEST_C)
        ratio += 0.4 * (wetter - ratio)
    rh = min(100.0, relative_humidity_pct(temperature, ratio, altitude))
    return SteadyAir(
        temperature_c=temperature,
        rh_pct=rh,
        vpd_kpa=vpd_kpa(temperature, rh),
        heat_w=heat_w,
        vapour_kg_s=vapour,
        flow_m3_h=flow_m3_h,
        bounded=temperature >= HOTTEST_C and cooler > HOTTEST_C,
    )
