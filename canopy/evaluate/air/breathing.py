"""Air held against plants, lamps and room: demands, what is delivered, and the steady climate, by day and by night."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import pi

from canopy.air import AirNeeds, Breath, Demand, WayFlow, breath, demands, envelope_w_k, governing, volume_m3
from canopy.air.room_balance import RoomLoad, room_load
from canopy.air.stirring import whole_air_m_s
from canopy.climate import Stand, Surroundings, gas_exchange
from canopy.evaluate.light.lighting import Lighting
from canopy.light.photometry import fixture_load
from canopy.plan.airways import Ambient, usual_away
from canopy.plan.document import Plan, Space
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


def breathing(plan: Plan, space: Space, lighting: Lighting) -> Breathing:
    """Compute what air a space needs and what it gets.

    Parameters
    ----------
    plan : the plan, for the spaces that ways of air join it to
    space : the space
    lighting : its computed light

    Returns
    -------
    Breathing : demands, flows, and a rough steady climate, with lamps on and with lamps off
    """
    return Breathing(lit=_half(plan, space, lighting, lit=True), dark=_half(plan, space, lighting, lit=False))


def _half(plan: Plan, space: Space, lighting: Lighting, *, lit: bool) -> Half:
    air, heat = space.air, inside_heat_w(space, appliance_loads(space), lit=lit)
    stand = stand_of(space, lighting, lit=lit)
    moved = breath(plan, space, lit=lit, rise_k=air.rise_k)
    room_c, room_rh = _room_air(space, lit=lit)
    asked = Surroundings(
        temperature_c=room_c + air.rise_k,
        rh_pct=air.max_rh_pct,
        co2_ppm=space.room.co2_ppm - air.co2_drop_ppm,
        altitude_m=space.room.altitude_m,
        air_speed_m_s=_over_leaves_m_s(space, stand),
    )
    trade = gas_exchange(stand, asked)
    laden = _laden(space, moved, heat, trade.vapour_kg_s, lit=lit)
    around = Intake(temperature_c=room_c, rh_pct=room_rh)
    if laden:
        around = Intake(temperature_c=min(laden.temperature_c, 55.0), rh_pct=max(1.0, laden.rh_pct))
    intake = _intake(space, moved, around, lit=lit)
    needs = AirNeeds(
        volume_m3=volume_m3(space),
        exchange_minutes=air.exchange_minutes,
        filter_allowance=air.filter_allowance,
        count_allowance=air.count_allowance,
        heat_w=heat,
        envelope_w_k=envelope_w_k(space),
        rise_k=air.rise_k,
        vapour_kg_s=trade.vapour_kg_s,
        co2_mol_s=trade.co2_mol_s if lit else 0.0,
        room_c=intake.temperature_c,
        room_rh_pct=intake.rh_pct,
        max_rh_pct=air.max_rh_pct,
        co2_drop_ppm=air.co2_drop_ppm,
        altitude_m=space.room.altitude_m,
    )
    found = demands(needs)
    steady = _settled(plan, space, stand, heat, around, moved, lit=lit)
    return Half(
        needs=needs,
        demands=found,
        governing=governing(found, air.rule, lit=lit),
        air=moved,
        around=around,
        intake=intake,
        room=laden,
        steady=steady,
    )


def _over_leaves_m_s(space: Space, stand: Stand) -> float:
    """The air over the leaves, as far as it matters for what they give off."""
    return min(1.0, max(0.1, whole_air_m_s(space, stand.area_m2 * stand.lai)))


def _room_air(space: Space, *, lit: bool) -> tuple[float, float]:
    room = space.room
    return (room.day_c, room.day_rh_pct) if lit else (room.night_c, room.night_rh_pct)


def _laden(space: Space, moved: Breath, heat_w: float, vapour_kg_s: float, *, lit: bool) -> RoomLoad | None:
    """What the room becomes: all heat and water that is not led out of it, and what passes the walls."""
    drawn = [
        (share * flow.flow_m3_h, flow.airway.ends)
        for share, flow in _flows(moved)
        if flow.airway.way == "out" and flow.airway.ends != "room" and flow.flow_m3_s > 0
    ]
    led = min(1.0, sum(flow for flow, _ in drawn) / max(moved.total_m3_h, 1e-9))
    walls = min(heat_w, envelope_w_k(space) * space.air.rise_k)
    replaced = sum(flow for flow, ends in drawn if ends in ("outdoors", "other-room"))
    return room_load(
        space.room, heat_w * (1 - led) + walls * led, vapour_kg_s * (1 - led), day=lit, drawn_m3_h=replaced
    )


def _flows(moved: Breath) -> Iterator[tuple[float, WayFlow]]:
    """Each way's flow in each phase of the fans' cycles, with the phase's share of the time."""
    for phase in moved.phases:
        for flow in phase.air.ways:
            yield phase.share, flow


def _intake(space: Space, moved: Breath, around: Intake, *, lit: bool) -> Intake:
    """Mix what comes in from the room, from outdoors and from another space, over the fans' cycles."""
    altitude = space.room.altitude_m
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
    plan: Plan, space: Space, stand: Stand, heat_w: float, around: Intake, moved: Breath, *, lit: bool
) -> SteadyAir:
    """The steady air; without fans the flow follows the warmth inside, which follows the flow."""
    fans = max(moved.running.fan_in_m3_h, moved.running.fan_out_m3_h)
    intake = _intake(space, moved, around, lit=lit)
    steady = _steady(space, stand, heat_w, moved.total_m3_h, around, intake)
    if fans > _PASSIVE_SHARE * moved.total_m3_h:
        return steady
    rise = max(0.0, steady.temperature_c - around.temperature_c)
    for _ in range(8):
        now = breath(plan, space, lit=lit, rise_k=rise)
        steady = _steady(space, stand, heat_w, now.total_m3_h, around, _intake(space, now, around, lit=lit))
        wanted = max(0.0, steady.temperature_c - around.temperature_c)
        if abs(wanted - rise) < 0.05:
            break
        rise = 0.5 * (rise + wanted)
    return steady


def _steady(space: Space, stand: Stand, heat_w: float, flow_m3_h: float, around: Intake, intake: Intake) -> SteadyAir:
    """Balance heat and water at a constant flow, by relaxed repetition (plants answer to the air they make)."""
    room = space.room
    ratio_in = humidity_ratio(intake.temperature_c, intake.rh_pct, room.altitude_m)
    mass = dry_air_density_kg_m3(intake.temperature_c, ratio_in, room.altitude_m) * flow_m3_h / 3600
    walls, carried = envelope_w_k(space), mass * HEAT_CAPACITY_J_KGK
    base = (walls * around.temperature_c + carried * intake.temperature_c) / (walls + carried)
    temperature, ratio, vapour = base, ratio_in, 0.0
    speed = _over_leaves_m_s(space, stand)
    for _ in range(60):
        rh = min(99.0, relative_humidity_pct(temperature, ratio, room.altitude_m))
        air = Surroundings(
            temperature_c=temperature,
            rh_pct=max(rh, 1.0),
            co2_ppm=room.co2_ppm,
            altitude_m=room.altitude_m,
            air_speed_m_s=speed,
        )
        vapour = gas_exchange(stand, air).vapour_kg_s
        cooler = base + (heat_w - HEAT_OF_EVAPORATION_J_KG * vapour) / (walls + carried)
        wetter = ratio_in + vapour / max(mass, 1e-9)
        wetter = min(wetter, humidity_ratio(temperature, 100, room.altitude_m))
        if abs(cooler - temperature) < 0.005 and abs(wetter - ratio) < 1e-6:
            break
        temperature += 0.4 * (cooler - temperature)
        ratio += 0.4 * (wetter - ratio)
    rh = min(100.0, relative_humidity_pct(temperature, ratio, room.altitude_m))
    return SteadyAir(
        temperature_c=temperature,
        rh_pct=rh,
        vpd_kpa=vpd_kpa(temperature, rh),
        heat_w=heat_w,
        vapour_kg_s=vapour,
        flow_m3_h=flow_m3_h,
    )
