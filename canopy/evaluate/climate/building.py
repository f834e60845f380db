"""A plan's spaces as a system to simulate: the space that is asked about, those it is joined to, those in its room."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import inf, sqrt

import numpy as np
from numpy.typing import NDArray

from canopy.air import breath, volume_m3
from canopy.air.network import neighbours
from canopy.air.room_balance import DRY_SHARE, LOSS_W_K_M2
from canopy.air.shell import STILL_FILM_W_M2K, one_sided_m3_h
from canopy.climate import Stand
from canopy.climate.system import (
    USUAL_LEAST_S_M,
    Control,
    Enclosure,
    Face,
    Gives,
    Group,
    Leaves,
    Link,
    RoomNode,
    System,
    Weather,
)
from canopy.evaluate.air.breathing import sharing
from canopy.evaluate.air.steady import hood_heat_w, over_leaves_m_s, stand_of
from canopy.evaluate.climate.around import away_weather, floor_weather, room_weather, weather_through
from canopy.evaluate.climate.contents import (
    after_lights,
    faces_of,
    footprint_m2,
    pots_of,
    under_lids,
    wetted,
)
from canopy.evaluate.climate.devices import control_of, fan_controls, gives, setting_of
from canopy.evaluate.climate.flows import RISES_K, controlled, moves, shares_of_lit, span_of
from canopy.evaluate.climate.lamps import BODY_J_K_W, BODY_W_K_W, sources
from canopy.evaluate.climate.upsets import Upset, stuck_control
from canopy.evaluate.light.lighting import Lighting
from canopy.evaluate.light.lighting import lighting as lighting_of
from canopy.library import find, materials
from canopy.light.photometry import fixture_load
from canopy.plan.document import Plan, Space
from canopy.plan.furnishing import Lid
from canopy.plan.learnt import factor_on
from canopy.plan.rooms import Around
from canopy.power import appliance_loads
from canopy.psychrometrics import density_share, dry_air_density_kg_m3, humidity_ratio, pressure_pa
from canopy.schedule import Never, shares_of
from canopy.season import Growing, Standing, cast_of, standing_of
from canopy.weather.reading import Hours

Shares = NDArray[np.float32]
STEP_S, HOURS = 20.0, 72
# What is written down are means over so long [s].
NOTED_S = 120.0
# Heat that furniture, plaster and books of a room take up within a day, by its floor (rough) [J/K m²].
_ROOM_J_K_M2 = 40_000.0
# Roots' and medium's breath [mol/m²s].
_BREATH_MOL_M2_S = 1e-6
# A lid: what light passes it, its sheet, air that its slits change an hour, and how still it is inside (rough).
_LID_PASSES, _PLASTIC_J_M2K, _LID_LEAKS_H, _STILL_M_S = 0.85, 1500.0, 0.33, 0.05


@dataclass(frozen=True, kw_only=True)
class Built:
    """A system, and what was taken for it: settings of devices that nobody made, by the device's id."""

    system: System
    assumed: tuple[str, ...]


def system_of(
    plan: Plan,
    here: Standing,
    lighting: Lighting,
    *,
    hours: int = HOURS,
    step_s: float = STEP_S,
    upset: Upset | None = None,
    every_s: float = NOTED_S,
    weather: Hours | None = None,
) -> Built:
    """Put a space and what it shares air with together for simulation.

    Parameters
    ----------
    plan : the plan, for joined spaces and those in the same room
    here : the space on a day
    lighting : its computed light
    hours : how long, the same day again and again [h]
    step_s : length of a step [s]
    upset : what goes wrong meanwhile
    every_s : means are written down over so long [s]
    weather : of its room or, where that follows it, outdoors, instead of days alike; as long as the run

    Returns
    -------
    Built : from midnight on
    """
    return _Builder(plan, here, lighting, hours, step_s, upset, weather).built(every_s)


class _Builder:
    def __init__(
        self,
        plan: Plan,
        here: Standing,
        lighting: Lighting,
        hours: int,
        step_s: float,
        upset: Upset | None,
        weather: Hours | None,
    ) -> None:
        self.plan, self.here, self.hours, self.step_s = plan, here, hours, step_s
        self.weather = weather
        self.steps = round(hours * 3600 / step_s)
        self.step_min = step_s / 60
        self.drives: dict[str, Shares] = {"always": np.ones(self.steps, dtype=np.float32)}
        self.states: dict[str, Shares] = {}
        self.weathers: dict[str, Weather] = {}
        self.rooms: dict[str, RoomNode] = {}
        self.groups: list[Group] = []
        self.controls: list[Control] = []
        self.links: list[Link] = []
        self.assumed: list[str] = []
        self.lids: list[Enclosure] = []
        self.upset = upset or Upset(begins_h=0.0, ends_h=0.0)
        self.gone = self.upset.gone(self.steps, self.step_min)
        self.drives |= {"upset": self.gone, "sound": 1 - self.gone}
        self.mains = 1 - self.gone if self.upset.power else np.ones(self.steps, dtype=np.float32)
        space = here.space
        others = {other.id: other for other in (*neighbours(plan, space)[1:], *sharing(plan, space))}
        self.standings = [here, *(standing_of(other, here.day, cast_of(plan)) for other in others.values())]
        self.lightings = [lighting, *(lighting_of(there, with_map=False) for there in self.standings[1:])]
        self.ids = [there.space.id for there in self.standings]

    def built(self, every_s: float) -> Built:
        spaces = [self._enclosure(s, li) for s, li in zip(self.standings, self.lightings, strict=True)]
        # Those that stand in another one come last: a space's place among them stays its own.
        enclosures = (*spaces, *self.lids)
        altitude = self.here.around.altitude_m
        return Built(
            system=System(
                steps=self.steps,
                dt_s=self.step_s,
                pressure_pa=pressure_pa(altitude),
                density_kg_m3=dry_air_density_kg_m3(22.0, humidity_ratio(22.0, 50.0, altitude), altitude),
                weathers=tuple(self.weathers.values()),
                enclosures=enclosures,
                rooms=tuple(self.rooms.values()),
                groups=tuple(self.groups),
                controls=tuple(self.controls),
                links=tuple(self.links),
                drives=self.drives,
                states=self.states,
                rises_k=RISES_K,
                every=round(every_s / self.step_s),
            ),
            assumed=tuple(self.assumed),
        )

    def _host(self, around: Around) -> str:
        """The room's name: followed where its size is known, else as large as all outdoors."""
        room = around.room
        free = f"room-{room.id}"
        if free not in self.weathers:
            given = self.weather if room.id == self.here.around.room.id else None
            air = weather_through(free, around, given) if given else room_weather(free, around, self.hours)
            self.weathers[free] = self.upset.warmer(air)
        if room.floor_m2 is None:
            return free
        key = f"hall-{room.id}"
        self.rooms[key] = RoomNode(
            id=key,
            beyond=free,
            volume_m3=room.floor_m2 * room.height_m,
            holds_j_k=_ROOM_J_K_M2 * room.floor_m2,
            loss_w_k=room.loss_w_k if room.loss_w_k is not None else LOSS_W_K_M2 * room.floor_m2,
            exchange_m3_s=room.floor_m2 * room.height_m * room.exchange_per_h / 3600,
            heating_w=(room.heating_w or 0.0),
            heat_to_c=room.heat_to_c,
            cooling_w=(room.cooling_w or 0.0) * DRY_SHARE,
            cool_to_c=room.cool_to_c,
            drive=self._drive("mains", self.mains),
        )
        return key

    def _floor(self, there: Standing, host: str) -> str:
        """What lies under its pots."""
        around, ground = there.around, there.space.ground
        if ground.stands_on == "shelf" or around.room.floor != "concrete":
            return host
        key = f"ground-{around.room.id}"
        if key not in self.weathers:
            self.weathers[key] = floor_weather(key, around, self.hours)
        return key

    def _drive(self, key: str, shares: Shares) -> str:
        self.drives[key] = shares
        return key

    def _enclosure(self, there: Standing, lighting: Lighting) -> Enclosure:
        space, around = there.space, there.around
        covered = under_lids(there)
        lidded = [
            _Lidded(lid=lid, there=replace(there, plants=plants), lighting=_only(lighting, plants))
            for lid, plants in covered
        ]
        hidden = {plant.id for _, plants in covered for plant in plants}
        if hidden:
            there = replace(there, plants=tuple(plant for plant in there.plants if plant.id not in hidden))
            lighting = _only(lighting, there.plants)
        host = self._host(around)
        stand = stand_of(space, lighting)
        lit = self._drive(f"lit-{space.id}", shares_of_lit(space, self.steps, self.step_min) * self.mains)
        moved = moves(self.plan, space, host, self.ids, self.steps, self.step_min, self._stopped(space))
        self.states[space.id] = moved.shares
        factors = np.where(moved.blown, self.upset.moves if self._mine(space) else 1.0, 1.0)[:, None, None]
        self.links += [replace(link, flow_m3_s=factors * link.flow_m3_s) for link in moved.links]
        for key, way in moved.ends.items():
            self.weathers[key] = self.upset.warmer(away_weather(key, way, around, self.hours))
        taken = [self._under(item, space.id, lit) for item in lidded]
        self._lamps(there, lighting, stand, taken)
        self._appliances(space, around)
        self._devices(there)
        door, opens = self._door(space)
        watts = sum(fixture_load(lamp) for lamp in space.fixtures)
        pots = wetted(pots_of(there), space)
        return Enclosure(
            id=space.id,
            host=host,
            floor=self._floor(there, host),
            volume_m3=volume_m3(space),
            faces=faces_of(there),
            pots=pots,
            leaves=Leaves(
                ground_m2=stand.area_m2,
                lai=stand.lai,
                least_s_m=USUAL_LEAST_S_M / stand.opens,
                speed_m_s=over_leaves_m_s(space, stand),
            )
            if stand.area_m2 > 0 and stand.lai > 0
            else None,
            lamp_w_k=max(BODY_W_K_W * watts, 0.05),
            lamp_j_k=max(BODY_J_K_W * watts, 50.0),
            breath_mol_s=_BREATH_MOL_M2_S * max(stand.area_m2, 0.1 * pots.area_m2),
            door_m3_s=opens,
            lit=lit,
            door=door,
            cut_off_c=space.air.cut_off_c if space.air.cut_off_c is not None else inf,
        )

    def _mine(self, space: Space) -> bool:
        """Whether what goes wrong goes wrong here: a power cut and a heatwave do so everywhere."""
        return space.id == self.here.space.id

    def _stopped(self, space: Space) -> dict[str, Shares]:
        """For how much of each step the fans of its ways stand for no reason of their own."""
        if not (self.upset.power or (self._mine(space) and self.upset.still)):
            return {}
        return {way.id: self.gone for way in space.airways if way.fans and self.upset.stops(way.id)}

    def _door(self, space: Space) -> tuple[str, float]:
        """The drive of its door and what that exchanges at 1 K [m³/s]; nothing for one that is never opened."""
        left_open = self.upset.door and self._mine(space)
        if space.door_open or not space.door_side or (isinstance(space.air.door, Never) and not left_open):
            return "", 0.0
        shares = shares_of(space.air.door, self.steps, self.step_min, space.lit)
        door = self._drive(f"door-{space.id}", np.maximum(shares, self.gone) if left_open else shares)
        wide = space.size.depth_m if space.door_side in ("left", "right") else space.size.width_m
        return door, one_sided_m3_h(wide * space.size.height_m, space.size.height_m, 1.0) / 3600

    def _under(self, item: _Lidded, host: str, lit: str) -> list[float]:
        """Add a lid's air; gives what its leaves take of each lamp's heat [W], in the order of `sources`."""
        lid, there = item.lid, item.there
        key = f"{host}/{lid.id}"
        stand = stand_of(there.space, item.lighting)
        top = lid.width_m * lid.depth_m
        material = find(materials(), lid.material_id, "material")
        pots = pots_of(there)
        self.lids.append(
            Enclosure(
                id=key,
                host=host,
                floor=self._floor(there, host),
                volume_m3=top * lid.height_m,
                faces=(
                    Face(
                        area_m2=top + 2 * (lid.width_m + lid.depth_m) * lid.height_m,
                        inner_film_w_m2k=material.inner_film_w_m2k,
                        resistance_m2k_w=material.resistance_m2k_w,
                        outer_film_w_m2k=STILL_FILM_W_M2K,
                        holds_j_m2k=material.holds_j_m2k if lid.material_id == "glass" else _PLASTIC_J_M2K,
                    ),
                ),
                pots=pots,
                leaves=Leaves(
                    ground_m2=min(stand.area_m2, top),
                    lai=stand.lai,
                    least_s_m=USUAL_LEAST_S_M / stand.opens,
                    speed_m_s=_STILL_M_S,
                )
                if stand.area_m2 > 0 and stand.lai > 0
                else None,
                lamp_w_k=0.05,
                lamp_j_k=50.0,
                breath_mol_s=_BREATH_MOL_M2_S * max(stand.area_m2, 0.1 * pots.area_m2),
                lit=lit,
            )
        )
        self.states[key] = np.ones((1, self.steps), dtype=np.float32)
        # Its slits breathe a third of its air an hour, its open top by how much warmer it is (ASHRAE, one-sided).
        leak = _LID_LEAKS_H * top * lid.height_m / 3600
        area = lid.open_share * top
        moved = [leak + one_sided_m3_h(area, sqrt(max(area, 1e-9)), max(rise, 0.3)) / 3600 for rise in RISES_K]
        self.links.append(Link(source=host, into=key, owner=key, flow_m3_s=np.array([[moved]])))
        taken = []
        for number, (schedule, found) in enumerate(sources(there.space, item.lighting, stand, 0.0, 0.0)):
            name = f"lamps-{key}-{number}"
            self._drive(name, shares_of(schedule, self.steps, self.step_min) * self.mains)
            inside = Gives(ppfd=_LID_PASSES * found.ppfd, leaf_w=_LID_PASSES * found.leaf_w)
            self.groups.append(Group(id=name, where=key, drive=name, gives=inside, cut=True))
            taken.append(inside.leaf_w)
        return taken

    def _lamps(self, there: Standing, lighting: Lighting, stand: Stand, under: list[list[float]]) -> None:
        space = there.space
        floor = space.size.width_m * space.size.depth_m
        covered = footprint_m2(there.plants, floor) / floor
        heats = factor_on(space, "lamp-heat")
        hood_w = hood_heat_w(space, breath(self.plan, space, lit=True, rise_k=space.air.rise_k))
        for number, (schedule, found) in enumerate(sources(space, lighting, stand, hood_w, covered)):
            key = f"lamps-{space.id}-{number}"
            shares = shares_of(schedule, self.steps, self.step_min) * self.mains
            if self.upset.dimmed < 1 and self._mine(space):
                shares = shares * (1 - self.gone * (1 - self.upset.dimmed))
            self._drive(key, shares)
            # What leaves under lids take does not reach the walls.
            inside = sum(taken[number] for taken in under)
            if inside > 0:
                found = replace(found, sheet_w=max(0.0, found.sheet_w - inside))
            if heats != 1.0:
                found = found.warming(heats)
            self.groups.append(Group(id=key, where=space.id, drive=key, gives=found, cut=True))

    def _appliances(self, space: Space, around: Around) -> None:
        """Fans, circulation fans and what else runs by the clock alone, all as heat."""
        on_demand = {device.id for device in space.devices}
        stopped = self._stopped(space)
        failing = {fan.id for way in space.airways if way.id in stopped for fan in way.fans}
        watts = {"always": 0.0, "sound": 0.0}
        for load in appliance_loads(space, density_share(around.altitude_m)):
            if load.part_id not in on_demand:
                drive = "sound" if load.part_id in failing or self.upset.power else "always"
                watts[drive] += load.power_w * load.hours_per_day / 24 * load.heats_space
        for drive, power in watts.items():
            if power > 0:
                name = f"fans-{space.id}" if drive == "always" else f"failing-fans-{space.id}"
                self.groups.append(Group(id=name, where=space.id, drive=drive, gives=Gives(air_w=power)))
        turned = controlled(space)
        if turned is not None:
            way, control = turned
            least, planned, most = span_of(way, control)
            share = (planned - least) / (most - least) if most > least else 0.0
            purge = ""
            if control.purge_min > 0:
                lit = self.drives[f"lit-{space.id}"]
                purge = self._drive(f"purge-{space.id}", after_lights(lit, round(control.purge_min / self.step_min)))
            self.controls += fan_controls(control, space.id, share, purge)

    def _devices(self, there: Standing) -> None:
        space = there.space
        for device in space.devices:
            key = f"{space.id}/{device.id}"
            found, setting = gives(device), setting_of(device, there.plants)
            found = found.yielding(factor_on(space, "device", device.id))
            if found == Gives():
                continue
            mine = self._mine(space)
            sound = 1 - self.gone if mine and device.id in self.upset.out else self.mains
            runs = self._drive(f"runs-{key}", shares_of(device.schedule, self.steps, self.step_min, space.lit) * sound)
            tank = device.spec.tank_l if self.upset.unfilled and mine and device.spec.tank_l is not None else inf
            stuck = mine and device.id in self.upset.stuck
            heats = device.spec.kind in ("heater", "heat-lamp", "mat")
            if setting.control is None:
                if stuck:
                    self.drives[runs] = np.maximum(self.drives[runs], self.gone)
                self.groups.append(Group(id=key, where=space.id, drive=runs, gives=found, cut=heats, tank_kg=tank))
                continue
            if setting.assumed:
                self.assumed.append(device.id)
            drive = self._drive(f"fed-{key}", sound)
            self.groups.append(Group(id=key, where=space.id, drive=drive, gives=found, cut=heats, tank_kg=tank))
            if stuck:
                held = device.model_copy(update={"control": setting.control})
                self.controls.append(stuck_control(held, key, space.id, "upset", self.upset.second))
            gate = runs if device.spec.kind != "co2" else f"lit-{space.id}"
            self.controls.append(control_of(device, setting.control, key, space.id, gate))


@dataclass(frozen=True, kw_only=True)
class _Lidded:
    lid: Lid
    there: Standing
    lighting: Lighting


def _only(lighting: Lighting, plants: Sequence[Growing]) -> Lighting:
    """Light on some of the plants."""
    ids = {plant.id for plant in plants}
    return replace(lighting, plants=tuple(light for light in lighting.plants if light.plant.id in ids))
