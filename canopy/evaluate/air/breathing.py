"""Air held against plants, lamps and room: demands, what is delivered, and the steady climate, by day and by night."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, field

from canopy.air import AirNeeds, Breath, Demand, breath, demands, envelope_w_k, governing, volume_m3
from canopy.air.network import neighbours
from canopy.air.room_balance import RoomLoad, room_load
from canopy.cache import ContentCache
from canopy.climate import Stand, Surroundings, gas_exchange
from canopy.evaluate.air.crossing import ShortCut, short_cuts
from canopy.evaluate.air.steady import (
    Chamber,
    Intake,
    SteadyAir,
    flows_of,
    hood_heat_w,
    inside_heat_w,
    mixed,
    over_leaves_m_s,
    stand_of,
    steady_airs,
    supply_of,
)
from canopy.evaluate.light.lighting import Lighting
from canopy.evaluate.light.lighting import lighting as lighting_of
from canopy.plan.document import Plan, Space
from canopy.plan.rooms import Around
from canopy.power import appliance_loads
from canopy.psychrometrics import density_share
from canopy.season import Standing, cast_of, standing_of

# A room that is heated further counts as this warm for what comes in [°C].
_ROOM_MOST_C = 55.0
# What only fresh air answers: air that goes round through another space is neither exchanged nor rich in CO2.
_FRESH = ("exchange", "co2")


@dataclass(frozen=True, kw_only=True)
class Burden:
    """What a space leaves to the room around it: heat [W], vapour [kg/s], and air drawn out of the home [m³/h]."""

    heat_w: float
    vapour_kg_s: float
    drawn_m3_h: float


@dataclass(frozen=True, kw_only=True)
class Half:
    """A space's air with lamps on, or with lamps off: what is asked, what moves, what it is like inside and in the
    room.

    ``room`` is what the space makes of a room whose size is known, ``around`` that room's air, ``intake`` what comes
    in; ``linked`` the air of joined spaces by their ids, ``hood_w`` the heat that leaves through hoods, ``cuts`` the
    air that passes the plants by.
    """

    needs: AirNeeds
    demands: tuple[Demand, ...]
    governing: Demand
    air: Breath
    around: Intake
    intake: Intake
    room: RoomLoad | None
    steady: SteadyAir
    linked: Mapping[str, SteadyAir] = field(default_factory=dict)
    hood_w: float = 0.0
    cuts: tuple[ShortCut, ...] = ()

    @property
    def past_share(self) -> float:
        """What share of the air that comes in passes the plants by, 0..1."""
        total = self.air.running.total_m3_h
        return min(1.0, sum(cut.flow_m3_h for cut in self.cuts) / total) if total > 0 else 0.0

    def moves_m3_h(self, criterion: str) -> float:
        """Give the air that counts towards a criterion, while nobody holds the door open.

        Parameters
        ----------
        criterion : such as "co2"

        Returns
        -------
        float : what crosses the plants, as a mean over the fans' cycles; fresh air only for exchange and CO2 [m³/h]
        """
        there = self.air.shut_fresh_m3_h if criterion in _FRESH else self.air.shut_m3_h
        return there * (1 - self.past_share)

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
        """What counts towards the demand that sizes the flow, lamps on and the door shut [m³/h]."""
        return self.lit.moves_m3_h(self.governing.criterion)


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
    space = here.space
    if plan.space(space.id) is not space:
        # What others breathe of it is what it is here, not what the plan still holds.
        rest = tuple(space if other.id == space.id else other for other in plan.spaces)
        plan = plan.model_copy(update={"spaces": rest})
    day = _half(plan, here, lighting, lit=True)
    kept = _KEPT_SHARE * max(0.0, day.steady.temperature_c - day.around.temperature_c)
    return Breathing(lit=day, dark=_half(plan, here, lighting, lit=False, kept_k=kept))


# What pots and walls keep of the day's rise through the night on average (rough: a quarter; simulated 0.2 to 0.4).
_KEPT_SHARE = 0.25


def _half(plan: Plan, here: Standing, lighting: Lighting, *, lit: bool, kept_k: float = 0.0) -> Half:
    space, around = here.space, here.around
    air = space.air
    # The lamps' rise by day is not the night's: that is what pots and walls keep of it.
    rise = air.rise_k if lit else min(air.rise_k, kept_k)
    asked = _asked(plan, space, around, lighting, lit=lit, rise_k=rise)
    moved = asked.moved
    laden = _laden(plan, here, _burden(space, asked), lit=lit)
    room = Intake(temperature_c=around.temperature_c(lit=lit), rh_pct=around.rh_pct(lit=lit))
    if laden:
        room = Intake(temperature_c=min(laden.temperature_c, _ROOM_MOST_C), rh_pct=max(1.0, laden.rh_pct))
    steady, linked = _settled(plan, here, asked, room, lit=lit)
    known = {key: Intake(temperature_c=far.temperature_c, rh_pct=max(1.0, far.rh_pct)) for key, far in linked.items()}
    intake = mixed(supply_of(space, moved, room, known, lit=lit), known, around.altitude_m)
    needs = AirNeeds(
        volume_m3=volume_m3(space),
        exchange_minutes=air.exchange_minutes,
        filter_allowance=air.filter_allowance,
        # A filter that is computed in its path is not allowed for once more.
        count_allowance=air.count_allowance and not filtered(space),
        heat_w=asked.stays_w,
        envelope_w_k=envelope_w_k(space),
        rise_k=air.rise_k,
        vapour_kg_s=asked.vapour_kg_s,
        co2_mol_s=asked.co2_mol_s if lit else 0.0,
        room_c=intake.temperature_c,
        room_rh_pct=intake.rh_pct,
        max_rh_pct=air.max_rh_pct,
        co2_drop_ppm=air.co2_drop_ppm,
        altitude_m=around.altitude_m,
        around_c=room.temperature_c,
        leaves_c=None if lit else room.temperature_c + rise,
        most_c=_most_c(here, lit=lit),
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
        steady=steady,
        linked=linked,
        hood_w=asked.hood_w,
        cuts=short_cuts(here, moved.running),
    )


def _most_c(here: Standing, *, lit: bool) -> float | None:
    """The warmest that all that grows here bears; None where nothing does."""
    figure = "air_day_c" if lit else "air_night_c"
    return min((getattr(plant.want, figure).high for plant in here.plants), default=None)


def filtered(space: Space) -> bool:
    """Say whether what a space draws out passes a carbon filter.

    Returns
    -------
    bool : True where a way out has one
    """
    return any(way.filters and way.way == "out" for way in space.airways)


@dataclass(frozen=True, kw_only=True)
class Asked:
    """What a space asks of its air at the climate that is allowed: plants as one leaf, what moves, all its heat and
    what of it leaves through hoods [W], vapour given off [kg/s], CO2 taken up [mol/s].
    """

    stand: Stand
    moved: Breath
    heat_w: float
    hood_w: float
    vapour_kg_s: float
    co2_mol_s: float

    @property
    def stays_w(self) -> float:
        """The heat that stays inside [W]."""
        return self.heat_w - self.hood_w


_ASKED: ContentCache[Asked] = ContentCache(lambda asked: 3_000)


# A balance is found again where only the other half of the day has changed.
_STEADY: ContentCache[dict[str, SteadyAir]] = ContentCache(lambda found: 2_000 * len(found))


def _asked(plan: Plan, space: Space, around: Around, lighting: Lighting, *, lit: bool, rise_k: float) -> Asked:
    air = space.air
    stand = stand_of(space, lighting, lit=lit)
    moved = breath(plan, space, lit=lit, rise_k=rise_k)
    wanted = Surroundings(
        temperature_c=around.temperature_c(lit=lit) + rise_k,
        rh_pct=air.max_rh_pct,
        co2_ppm=around.room.co2_ppm - air.co2_drop_ppm,
        altitude_m=around.altitude_m,
        air_speed_m_s=over_leaves_m_s(space, stand),
    )
    trade = gas_exchange(stand, wanted)
    return Asked(
        stand=stand,
        moved=moved,
        heat_w=inside_heat_w(space, appliance_loads(space, density_share(around.altitude_m)), lit=lit),
        hood_w=hood_heat_w(space, moved) if lit else 0.0,
        vapour_kg_s=trade.vapour_kg_s,
        co2_mol_s=trade.co2_mol_s,
    )


def _burden(space: Space, asked: Asked) -> Burden:
    """All heat and water that is not led out of the room, and what passes the walls."""
    drawn = [
        (share * flow.flow_m3_h, flow.airway.ends)
        for share, flow in flows_of(asked.moved)
        if flow.airway.way == "out" and flow.airway.ends != "room" and flow.flow_m3_s > 0
    ]
    led = min(1.0, sum(flow for flow, _ in drawn) / max(asked.moved.total_m3_h, 1e-9))
    walls = min(asked.stays_w, envelope_w_k(space) * space.air.rise_k)
    return Burden(
        heat_w=asked.heat_w * (1 - led) + walls * led,
        vapour_kg_s=asked.vapour_kg_s * (1 - led),
        drawn_m3_h=sum(flow for flow, ends in drawn if ends in ("outdoors", "other-room")),
    )


def _asked_of(plan: Plan, space: Space, day: dt.date, *, lit: bool) -> Asked:
    """What another space asks, found again while nothing changes that it depends on."""
    around = plan.around(space, day)
    grown = {plant.planting_id for plant in space.plants}
    plantings = [planting for planting in plan.plantings if planting.id in grown]
    records = tuple(record.model_dump_json() for record in (*neighbours(plan, space), *plantings, *plan.crops))

    def make() -> Asked:
        there = standing_of(space, day, cast_of(plan))
        rise_k = space.air.rise_k if lit else 0.0
        return _asked(plan, space, around, lighting_of(there, with_map=False), lit=lit, rise_k=rise_k)

    return _ASKED.get((records, around, day, lit), make)


def _laden(plan: Plan, here: Standing, own: Burden, *, lit: bool) -> RoomLoad | None:
    """What the room becomes, with this space and with all others that stand in it (lamps on in all, or off in all)."""
    around = here.around
    if around.room.floor_m2 is None:
        return None
    others = sharing(plan, here.space)
    burdens = [own, *(_burden(other, _asked_of(plan, other, here.day, lit=lit)) for other in others)]
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


# A space that fans move less than this share of is carried by its own warmth: its rise and its flow settle together.
_PASSIVE_SHARE = 0.3


def _settled(
    plan: Plan, here: Standing, asked: Asked, room: Intake, *, lit: bool
) -> tuple[SteadyAir, dict[str, SteadyAir]]:
    """The steady air here and in joined spaces; without fans the flow follows the warmth, which follows the flow."""
    space, moved = here.space, asked.moved
    far = [_chamber(plan, here, other, room, lit=lit) for other in neighbours(plan, space)[1:]]
    found = _balanced(plan, here, asked, moved, room, far, lit=lit)
    fans = max(moved.running.fan_in_m3_h, moved.running.fan_out_m3_h)
    if fans <= _PASSIVE_SHARE * moved.total_m3_h:
        rise = max(0.0, found[space.id].temperature_c - room.temperature_c)
        for _ in range(8):
            now = breath(plan, space, lit=lit, rise_k=rise)
            found = _balanced(plan, here, asked, now, room, far, lit=lit)
            wanted = max(0.0, found[space.id].temperature_c - room.temperature_c)
            if abs(wanted - rise) < 0.05:
                break
            rise = 0.5 * (rise + wanted)
    steady = found.pop(space.id)
    return steady, found


def _balanced(
    plan: Plan, here: Standing, asked: Asked, moved: Breath, room: Intake, far: list[Chamber], *, lit: bool
) -> dict[str, SteadyAir]:
    joined = {chamber.space.id for chamber in far}
    own = Chamber(
        space=here.space,
        stand=asked.stand,
        heat_w=asked.stays_w,
        supply=supply_of(here.space, moved, room, joined, lit=lit),
        room=room,
        altitude_m=here.around.altitude_m,
        co2_ppm=here.around.room.co2_ppm,
    )
    chambers = (own, *far)
    return dict(_STEADY.get(chambers, lambda: steady_airs(list(chambers))))


def _chamber(plan: Plan, here: Standing, other: Space, room: Intake, *, lit: bool) -> Chamber:
    """A joined space, with what it takes from this one and from others; lamps on in all, or off in all."""
    around, asked = plan.around(other, here.day), _asked_of(plan, other, here.day, lit=lit)
    beyond = room
    if other.room_id != here.space.room_id:
        beyond = Intake(temperature_c=around.temperature_c(lit=lit), rh_pct=around.rh_pct(lit=lit))
    joined = {space.id for space in neighbours(plan, here.space)} - {other.id}
    return Chamber(
        space=other,
        stand=asked.stand,
        heat_w=asked.stays_w,
        supply=supply_of(other, asked.moved, beyond, joined, lit=lit),
        room=beyond,
        altitude_m=around.altitude_m,
        co2_ppm=around.room.co2_ppm,
    )
