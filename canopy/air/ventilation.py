"""What a space's fans, openings and seams bring about together, running and idle."""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot

from canopy.air.network import BY_DAY, Moment, Network, Way, network, pressures_pa
from canopy.air.shell import door_flow_m3_h, draught_m3_h, open_side_flow_m3_h
from canopy.plan.airways import Airway
from canopy.plan.document import Plan, Space
from canopy.schedule import day_share


@dataclass(frozen=True, kw_only=True)
class WayFlow:
    """What moves along a way of air: flow along its direction, the speeds of its fans, the pressure between its
    ends.
    """

    way: Way
    flow_m3_s: float
    head_pa: float

    @property
    def airway(self) -> Airway:
        """The way of air."""
        return self.way.airway

    @property
    def flow_m3_h(self) -> float:
        """Its flow [m³/h]."""
        return self.flow_m3_s * 3600

    @property
    def lift_pa(self) -> float:
        """What its fans add [Pa]."""
        return self.way.chain.lift_pa(self.flow_m3_s, self.way.speeds)


@dataclass(frozen=True, kw_only=True)
class HoleFlow:
    """What passes an opening by itself: flow inwards [m³/s], and the air's speed over its gross area [m/s]."""

    opening_id: str
    flow_m3_s: float
    speed_m_s: float
    gross_m2: float


@dataclass(frozen=True, kw_only=True)
class Ventilation:
    """One state of a space's air: pressure above the room's, what moves along each way and through each hole.

    ``beyond_m3_h`` is what joined spaces draw from the room or outdoors, which a loop brings round.
    """

    pressure_pa: float
    ways: tuple[WayFlow, ...]
    holes: tuple[HoleFlow, ...]
    space_id: str
    still_m3_h: float
    open_m3_h: float
    beyond_m3_h: float = 0.0

    def _into(self, flow: WayFlow) -> float:
        return flow.flow_m3_s if flow.way.to_id == self.space_id else -flow.flow_m3_s

    @property
    def fan_in_m3_h(self) -> float:
        """What ways of air bring in [m³/h]."""
        return 3600 * sum(max(0.0, self._into(flow)) for flow in self.ways)

    @property
    def fan_out_m3_h(self) -> float:
        """What ways of air draw out [m³/h]."""
        return 3600 * sum(max(0.0, -self._into(flow)) for flow in self.ways)

    @property
    def total_m3_h(self) -> float:
        """What comes in altogether: by fans, through openings and seams, by draughts and open sides [m³/h]."""
        seeping = 3600 * sum(max(0.0, hole.flow_m3_s) for hole in self.holes)
        return hypot(self.fan_in_m3_h + seeping, self.still_m3_h, self.open_m3_h)

    @property
    def looped_m3_h(self) -> float:
        """What of it comes from another space [m³/h]."""
        return 3600 * sum(
            max(0.0, self._into(flow))
            for flow in self.ways
            if (flow.way.from_id if flow.way.to_id == self.space_id else flow.way.to_id) is not None
        )

    @property
    def fresh_m3_h(self) -> float:
        """What comes from the room or from outdoors, by itself and with a loop no more than goes round in it [m³/h]."""
        looped = self.looped_m3_h
        return max(0.0, self.total_m3_h - looped) + min(self.beyond_m3_h, looped)

    @property
    def unfiltered_m3_h(self) -> float:
        """What leaves without passing a carbon filter [m³/h]."""
        out = sum(max(0.0, -hole.flow_m3_s) for hole in self.holes)
        out += sum(
            max(0.0, -self._into(flow)) for flow in self.ways if not flow.airway.filters and flow.airway.ends != "space"
        )
        return 3600 * out

    def way(self, airway_id: str) -> WayFlow | None:
        """Find a way's flow.

        Parameters
        ----------
        airway_id : the way

        Returns
        -------
        WayFlow : or None
        """
        return next((flow for flow in self.ways if flow.airway.id == airway_id), None)


def ventilation(plan: Plan, space: Space, at: Moment = BY_DAY) -> Ventilation:
    """Find what a space's fans, openings and seams bring about at one moment.

    Parameters
    ----------
    plan : the plan, for the spaces it is joined to
    at : lamps on or off, warmth, and which fans run how; as set, by day, unless said

    Returns
    -------
    Ventilation : pressure and flows, mass in balance to 1e-7 m³/s
    """
    found = network(plan, space, at)
    pressures, node = pressures_pa(found), found.nodes[0]
    here = pressures[space.id]
    flows = []
    for way in found.ways:
        if space.id in (way.from_id, way.to_id):
            flows.append(WayFlow(way=way, flow_m3_s=way.flow_m3_s(pressures), head_pa=way.head_pa(pressures)))
    passing = []
    for hole in node.holes:
        flow = node.through_m3_s(hole, here)
        passing.append(
            HoleFlow(
                opening_id=hole.opening_id, flow_m3_s=flow, speed_m_s=abs(flow) / hole.gross_m2, gross_m2=hole.gross_m2
            )
        )
    return Ventilation(
        pressure_pa=here,
        ways=tuple(flows),
        holes=tuple(passing),
        space_id=space.id,
        still_m3_h=draught_m3_h(space),
        open_m3_h=open_side_flow_m3_h(space, max(at.rise_in(space), 0.0)),
        beyond_m3_h=_beyond_m3_h(found, pressures),
    )


def _beyond_m3_h(found: Network, pressures: dict[str, float]) -> float:
    total = 0.0
    for node in found.nodes[1:]:
        pressure = pressures[node.space_id]
        total += sum(max(0.0, node.through_m3_s(hole, pressure)) for hole in node.holes)
        for way in found.ways:
            if (way.from_id, way.to_id) in ((None, node.space_id), (node.space_id, None)):
                flow = way.flow_m3_s(pressures)
                total += max(0.0, flow if way.to_id == node.space_id else -flow)
    return 3600 * total


@dataclass(frozen=True, kw_only=True)
class Phase:
    """A share of the time in which some ways run and others stand."""

    share: float
    air: Ventilation


@dataclass(frozen=True, kw_only=True)
class Breath:
    """A space's air by day or by night: all fans as set, and the mean over their cycles and the door.

    ``door_m3_h`` is what a door opened by hand lets through as a mean of the day, ``held_open_m3_h`` while it is open.
    """

    running: Ventilation
    phases: tuple[Phase, ...]
    door_m3_h: float
    held_open_m3_h: float = 0.0

    @property
    def shut_m3_h(self) -> float:
        """What comes in while nobody holds the door open, as a mean over the cycles [m³/h]."""
        return sum(phase.share * phase.air.total_m3_h for phase in self.phases)

    @property
    def shut_fresh_m3_h(self) -> float:
        """What of it comes from the room or outdoors [m³/h]."""
        return sum(phase.share * phase.air.fresh_m3_h for phase in self.phases)

    @property
    def total_m3_h(self) -> float:
        """What comes in as a mean of the day, the opened door with it [m³/h]."""
        return self.shut_m3_h + self.door_m3_h

    @property
    def fresh_m3_h(self) -> float:
        """What of it comes from the room or outdoors, as a mean of the day [m³/h]."""
        return self.shut_fresh_m3_h + self.door_m3_h

    @property
    def looped_m3_h(self) -> float:
        """What of it comes from another space, as a mean [m³/h]."""
        return sum(phase.share * phase.air.looped_m3_h for phase in self.phases)

    @property
    def idle(self) -> Ventilation:
        """The state with the fewest fans running."""
        return self.phases[-1].air


def breath(plan: Plan, space: Space, *, lit: bool, rise_k: float) -> Breath:
    """Find a space's air over its fans' cycles.

    Parameters
    ----------
    lit : lamps on; a way counts by the share of that time for which its schedule runs it
    rise_k : how much warmer it is inside than in the room [K]

    Returns
    -------
    Breath : cycles are taken to begin together, so that the longest-running way is the last to stop
    """
    duties = {way.id: way.duty(space.lit, while_lit=lit) for way in space.airways if way.fans}
    still = tuple(key for key, duty in duties.items() if duty <= 0)
    running = ventilation(plan, space, Moment(lit=lit, rise_k=rise_k, still=still))
    phases, past, air = [], 0.0, running
    for key, duty in sorted(duties.items(), key=lambda item: item[1]):
        if not 0 < duty < 1:
            continue
        if duty > past:
            phases.append(Phase(share=duty - past, air=air))
            past = duty
        still = (*still, key)
        air = ventilation(plan, space, Moment(lit=lit, rise_k=rise_k, still=still))
    phases.append(Phase(share=1 - past, air=air))
    opened, share = door_flow_m3_h(space, rise_k), day_share(space.air.door)
    return Breath(
        running=running,
        phases=tuple(phases),
        door_m3_h=opened,
        held_open_m3_h=opened / share if share > 0 else 0.0,
    )
