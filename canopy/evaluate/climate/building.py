"""A plan's spaces as a system to simulate: the space that is asked about, those it is joined to, those in its room."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf, pi, sqrt

import numpy as np
from numpy.typing import NDArray

from canopy.air import breath, volume_m3
from canopy.air.network import neighbours
from canopy.air.room_balance import LOSS_W_K_M2
from canopy.air.shell import STILL_FILM_W_M2K, one_sided_m3_h, open_faces
from canopy.climate import Stand
from canopy.climate.system import (
    Control,
    Enclosure,
    Face,
    Gives,
    Group,
    Leaves,
    Link,
    Pots,
    RoomNode,
    System,
    Weather,
)
from canopy.evaluate.air.breathing import sharing
from canopy.evaluate.air.steady import hood_heat_w, over_leaves_m_s, stand_of
from canopy.evaluate.climate.around import away_weather, floor_weather, room_weather
from canopy.evaluate.climate.devices import control_of, fan_controls, gives, setting_of
from canopy.evaluate.climate.flows import RISES_K, controlled, moves, shares_of_lit, span_of
from canopy.evaluate.climate.lamps import BODY_J_K_W, BODY_W_K_W, sources
from canopy.evaluate.light.lighting import Lighting
from canopy.evaluate.light.lighting import lighting as lighting_of
from canopy.library import find, materials
from canopy.light.photometry import fixture_load
from canopy.plan.airways import usual_away
from canopy.plan.document import Plan, Space
from canopy.plan.plants import standing_room_m
from canopy.plan.rooms import Around
from canopy.plan.shell import FACES
from canopy.power import appliance_loads
from canopy.psychrometrics import density_share, dry_air_density_kg_m3, humidity_ratio, pressure_pa
from canopy.schedule import Never, shares_of
from canopy.season import Growing, Standing, cast_of, standing_of

Shares = NDArray[np.float32]
STEP_S, HOURS = 20.0, 72
# What is written down are means over so long [s].
_NOTED_S = 120.0
# Heat that furniture, plaster and books of a room take up within a day, by its floor (rough) [J/K m²].
_ROOM_J_K_M2 = 40_000.0
# What passes from pots to the floor under them [W/m²K], and through insulation [W/mK].
_FLOOR_W_M2K, _FOAM_W_MK = {"concrete": 9.0, "wood": 4.0, "shelf": 3.0}, 0.035
# Wet medium [J/m³K], solution [J/m³K]; how wet what lies open of it is; roots' and medium's breath [mol/m²s].
_MEDIUM_J_M3K, _SOLUTION_J_M3K, _WET, _BREATH_MOL_M2_S = 2.9e6, 4.18e6, 0.2, 1e-6
_SHALLOW_M = 0.04


@dataclass(frozen=True, kw_only=True)
class Built:
    """A system, and what was taken for it: settings of devices that nobody made, by the device's id."""

    system: System
    assumed: tuple[str, ...]


def system_of(plan: Plan, here: Standing, lighting: Lighting, *, hours: int = HOURS, step_s: float = STEP_S) -> Built:
    """Put a space and what it shares air with together for simulation.

    Parameters
    ----------
    plan : the plan, for joined spaces and those in the same room
    here : the space on a day
    lighting : its computed light
    hours : how long, the same day again and again [h]
    step_s : length of a step [s]

    Returns
    -------
    Built : from midnight on
    """
    return _Builder(plan, here, lighting, hours, step_s).built()


class _Builder:
    def __init__(self, plan: Plan, here: Standing, lighting: Lighting, hours: int, step_s: float) -> None:
        self.plan, self.here, self.hours, self.step_s = plan, here, hours, step_s
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
        space = here.space
        others = {other.id: other for other in (*neighbours(plan, space)[1:], *sharing(plan, space))}
        self.standings = [here, *(standing_of(other, here.day, cast_of(plan)) for other in others.values())]
        self.lightings = [lighting, *(lighting_of(there, with_map=False) for there in self.standings[1:])]
        self.ids = [there.space.id for there in self.standings]

    def built(self) -> Built:
        enclosures = tuple(self._enclosure(s, li) for s, li in zip(self.standings, self.lightings, strict=True))
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
                every=round(_NOTED_S / self.step_s),
            ),
            assumed=tuple(self.assumed),
        )

    def _host(self, around: Around) -> str:
        """The room's name: followed where its size is known, else as large as all outdoors."""
        room = around.room
        free = f"room-{room.id}"
        if free not in self.weathers:
            self.weathers[free] = room_weather(free, around, self.hours)
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
        host = self._host(around)
        stand = stand_of(space, lighting)
        lit = self._drive(f"lit-{space.id}", shares_of_lit(space, self.steps, self.step_min))
        moved = moves(self.plan, space, host, self.ids, self.steps, self.step_min)
        self.states[space.id] = moved.shares
        self.links += moved.links
        for key, way in moved.ends.items():
            self.weathers[key] = away_weather(key, way.away or usual_away(way), self.hours, around.altitude_m)
        self._lamps(there, lighting, stand)
        self._appliances(space, around)
        self._devices(there)
        door, opens = "", 0.0
        if not isinstance(space.air.door, Never) and space.door_side and not space.door_open:
            door = self._drive(f"door-{space.id}", shares_of(space.air.door, self.steps, self.step_min, space.lit))
            wide = space.size.depth_m if space.door_side in ("left", "right") else space.size.width_m
            opens = one_sided_m3_h(wide * space.size.height_m, space.size.height_m, 1.0) / 3600
        watts = sum(fixture_load(lamp) for lamp in space.fixtures)
        pots = pots_of(there)
        return Enclosure(
            id=space.id,
            host=host,
            floor=self._floor(there, host),
            volume_m3=volume_m3(space),
            faces=faces_of(there),
            pots=pots,
            leaves=Leaves(ground_m2=stand.area_m2, lai=stand.lai, speed_m_s=over_leaves_m_s(space, stand))
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

    def _lamps(self, there: Standing, lighting: Lighting, stand: Stand) -> None:
        space = there.space
        floor = space.size.width_m * space.size.depth_m
        covered = _footprint_m2(there.plants, floor) / floor
        hood_w = hood_heat_w(space, breath(self.plan, space, lit=True, rise_k=space.air.rise_k))
        for number, (schedule, found) in enumerate(sources(space, lighting, stand, hood_w, covered)):
            key = f"lamps-{space.id}-{number}"
            self._drive(key, shares_of(schedule, self.steps, self.step_min))
            self.groups.append(Group(id=key, where=space.id, drive=key, gives=found, cut=True))

    def _appliances(self, space: Space, around: Around) -> None:
        """Fans, stirring fans and what else runs by the clock alone, all as heat."""
        on_demand = {device.id for device in space.devices}
        watts = sum(
            load.power_w * load.hours_per_day / 24 * load.heats_space
            for load in appliance_loads(space, density_share(around.altitude_m))
            if load.part_id not in on_demand
        )
        if watts > 0:
            self.groups.append(Group(id=f"fans-{space.id}", where=space.id, drive="always", gives=Gives(air_w=watts)))
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
            if found == Gives():
                continue
            runs = self._drive(f"runs-{key}", shares_of(device.schedule, self.steps, self.step_min, space.lit))
            heats = device.spec.kind in ("heater", "heat-lamp", "mat")
            if setting.control is None:
                self.groups.append(Group(id=key, where=space.id, drive=runs, gives=found, cut=heats))
                continue
            if setting.assumed:
                self.assumed.append(device.id)
            self.groups.append(Group(id=key, where=space.id, drive="always", gives=found, cut=heats))
            gate = runs if device.spec.kind != "co2" else f"lit-{space.id}"
            self.controls.append(control_of(device, setting.control, key, space.id, gate))


def after_lights(lit: Shares, steps: int) -> Shares:
    """Say when so many steps after the lamps go out are.

    Parameters
    ----------
    lit : shape (steps,), for how much of each step a lamp is on
    steps : how many steps each time

    Returns
    -------
    ndarray : 1 in them, shape (steps,)
    """
    out = np.zeros_like(lit)
    for at in np.flatnonzero((lit[:-1] > 0.5) & (lit[1:] <= 0.5)):
        out[at + 1 : at + 1 + steps] = 1.0
    return out


def faces_of(there: Standing) -> tuple[Face, ...]:
    """List the sheet round a space: walls and top by their material, and the floor that no pot stands on.

    Returns
    -------
    tuple of Face : open sides are no sheet
    """
    space = there.space
    w, d, h = space.size.width_m, space.size.depth_m, space.size.height_m
    areas = {"left": d * h, "right": d * h, "front": w * h, "back": w * h, "ceiling": w * d}
    found = []
    for face in FACES:
        if face not in areas or face in open_faces(space):
            continue
        material = find(materials(), getattr(space.faces, face).material_id, "material")
        found.append(
            Face(
                area_m2=areas[face],
                inner_film_w_m2k=material.inner_film_w_m2k,
                resistance_m2k_w=material.resistance_m2k_w,
                outer_film_w_m2k=STILL_FILM_W_M2K,
                holds_j_m2k=material.holds_j_m2k,
            )
        )
    bare = max(w * d - _footprint_m2(there.plants, w * d), 0.05 * w * d)
    found.append(
        Face(
            area_m2=bare,
            inner_film_w_m2k=6.0,
            outer_film_w_m2k=_under_w_m2k(there),
            holds_j_m2k=3000.0,
        )
    )
    return tuple(found)


def _under_w_m2k(there: Standing) -> float:
    """What passes to the floor below for each m² of it."""
    ground, room = there.space.ground, there.around.room
    under = _FLOOR_W_M2K["shelf" if ground.stands_on == "shelf" else room.floor]
    return 1 / (1 / under + ground.insulation_m / _FOAM_W_MK)


def _size_of(plant: Growing) -> tuple[float, float, float]:
    """Top [m²], sides [m²] and volume [m³] of what a plant roots in."""
    standing = plant.plant
    height = max(standing.pot_height_m, _SHALLOW_M)
    litres = standing.pot_volume_l or plant.crop.container_l.low
    if standing.pot_kind in ("tray", "mount") or plant.tray_m is not None:
        wide, deep = standing_room_m(standing)
        return wide * deep, 2 * (wide + deep) * _SHALLOW_M, wide * deep * _SHALLOW_M
    top = litres / 1000 / height
    return top, 2 * sqrt(pi * top) * height, litres / 1000


def _footprint_m2(plants: tuple[Growing, ...], floor_m2: float) -> float:
    return min(sum(_size_of(plant)[0] for plant in plants), 0.95 * floor_m2)


def pots_of(there: Standing) -> Pots:
    """Sum up what plants root in.

    Returns
    -------
    Pots : as one; a little of the floor without plants, for what stands there
    """
    space = there.space
    floor = space.size.width_m * space.size.depth_m
    if not there.plants:
        return Pots(area_m2=0.05 * floor, wet=0.0, holds_j_k=2000.0 * floor, floor_w_k=0.05 * floor * 3.0)
    area = _footprint_m2(there.plants, floor)
    sizes = [_size_of(plant) for plant in there.plants]
    # Pots that stand side by side show half of their sides to the air.
    sides = sum(side for _, side, _ in sizes) / 2
    wet = [plant.plant.pot_kind == "bucket" for plant in there.plants]
    holds = sum(v * (_SOLUTION_J_M3K if w else _MEDIUM_J_M3K) for (_, _, v), w in zip(sizes, wet, strict=True))
    low = all(plant.plant.base_m < 0.05 for plant in there.plants)
    under = _under_w_m2k(there) if low else min(_under_w_m2k(there), _FLOOR_W_M2K["shelf"])
    return Pots(area_m2=area + sides, wet=_WET * area / (area + sides), holds_j_k=holds, floor_w_k=under * area)
