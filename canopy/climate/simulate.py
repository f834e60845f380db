"""Run the simulation of a system, and give its days."""

from __future__ import annotations

from dataclasses import dataclass
from math import isinf

import numpy as np
from numpy.typing import NDArray

from canopy.climate import columns as c
from canopy.climate.balance import CO2_PPM, RATIO_AIR, STATES, T_AIR, T_LAMP, T_LEAF, T_POT, T_SHEET
from canopy.climate.books import AFTER, BEFORE, BOOKS, GAINED, PASSED
from canopy.climate.kernel import Fixed, Written, run
from canopy.climate.moist import RATIO, saturation_pa, saturations_pa
from canopy.climate.system import Control, Enclosure, Face, Leaves, System
from canopy.errors import QuantityError

Array = NDArray[np.float64]
_SENSED = {"air": c.SENSE_AIR, "rh": c.SENSE_RH, "root": c.SENSE_POT, "leaf": c.SENSE_LEAF}
_SENSED |= {"co2": c.SENSE_CO2, "vpd": c.SENSE_VPD}
# Carries vapour where heat goes: c_p times Lewis' number to two thirds [J/kgK].
_FILM_J_KGK = 1020.0 * 0.9
# Heat that a square metre of one leaf layer takes up (0.2 mm of water and air) [J/m²K].
_LEAF_J_M2K = 800.0
_NEVER_C = 1e6


@dataclass(frozen=True, kw_only=True)
class Closure:
    """What does not close in a run's books, as a share of what passed: heat, water, CO2."""

    heat: float
    water: float
    co2: float


@dataclass(frozen=True, kw_only=True, eq=False)
class Days:
    """A run, as means over intervals of ``every_s``: ``enclosures`` (intervals, enclosures, figures as in `columns`),
    ``rooms`` (intervals, rooms, 5), shares of ``groups`` (intervals, groups) and fans' ``levels`` (intervals,
    enclosures). ``overheats_s`` is when an air passed 60 °C, where the run ends; None when none did.
    """

    system: System
    every_s: float
    enclosures: Array
    rooms: Array
    groups: Array
    levels: Array
    closure: Closure
    overheats_s: float | None

    @property
    def hours(self) -> Array:
        """The middle of each interval, since the beginning [h]."""
        return (np.arange(len(self.enclosures)) + 0.5) * self.every_s / 3600

    @property
    def nbytes(self) -> int:
        """What it takes up [bytes]."""
        return sum(part.nbytes for part in (self.enclosures, self.rooms, self.groups, self.levels))

    def place(self, enclosure_id: str) -> int:
        """Say where an enclosure lies among them.

        Parameters
        ----------
        enclosure_id : which

        Returns
        -------
        int : its number
        """
        return [item.id for item in self.system.enclosures].index(enclosure_id)

    def rh_pct(self, enclosure_id: str) -> Array:
        """Give an enclosure's relative humidity [%].

        Parameters
        ----------
        enclosure_id : which

        Returns
        -------
        ndarray : shape (intervals,), 0..100
        """
        at = self.enclosures[:, self.place(enclosure_id)]
        vapour = self.system.pressure_pa * at[:, c.OUT_RATIO] / (RATIO + at[:, c.OUT_RATIO])
        full = saturations_pa(at[:, c.OUT_AIR])
        return np.asarray(np.minimum(100 * vapour / full, 100.0))


def simulate(system: System) -> Days:
    """Follow heat, water and CO2 of all enclosures and rooms through time.

    Parameters
    ----------
    system : what is simulated

    Returns
    -------
    Days : means over intervals, and how the books close

    Raises
    ------
    QuantityError : a name that nothing has

    Notes
    -----
    Linearly implicit backward Euler with Newton's re-linearisation of saturation; first order in time, conservative by
    construction, without any blow-up at whatever size of a device. Closure does not show that a run is right: tests
    hold it against a stiff solver and against itself at shorter steps.
    """
    names = _Names(system)
    x, at = _start(system, names)
    tank = np.array([1e9 if isinf(item.tank_kg) else item.tank_kg for item in system.groups], dtype=np.float64)
    count = -(-system.steps // system.every)
    out = Written(
        enclosures=np.zeros((count, len(system.enclosures), c.OUTPUTS)),
        rooms=np.zeros((count, max(len(system.rooms), 1), c.ROOM_OUTPUTS)),
        groups=np.zeros((count, max(len(system.groups), 1))),
        levels=np.zeros((count, len(system.enclosures))),
        books=np.zeros((3, BOOKS)),
    )
    over = run(_fixed(system, names), x, at, tank, out, system.steps)
    books = out.books
    # Where nothing passes, rounding of what is stored is all there is.
    passed = np.maximum(books[:, PASSED], 1e-3 * np.abs(books[:, AFTER]))
    off = np.abs(books[:, AFTER] - books[:, BEFORE] - books[:, GAINED]) / np.maximum(passed, 1e-12)
    end = count if over < 0 else over // system.every + 1
    if over >= 0 and (over + 1) % system.every:
        # The last interval ended early: its means are over what there was of it.
        whole = system.every / ((over + 1) % system.every)
        for part in (out.enclosures, out.rooms, out.groups, out.levels):
            part[end - 1] *= whole
        out.enclosures[end - 1, :, c.OUT_FILM] /= whole
    return Days(
        system=system,
        every_s=system.dt_s * system.every,
        enclosures=out.enclosures[:end],
        rooms=out.rooms[:end],
        groups=out.groups[:end],
        levels=out.levels[:end],
        closure=Closure(heat=float(off[0]), water=float(off[1]), co2=float(off[2])),
        overheats_s=None if over < 0 else over * system.dt_s,
    )


class _Names:
    """Numbers of what the records call by name."""

    def __init__(self, system: System) -> None:
        self.enclosure = {item.id: k for k, item in enumerate(system.enclosures)}
        self.room = {item.id: k for k, item in enumerate(system.rooms)}
        self.edge = {item.id: k for k, item in enumerate(system.weathers)}
        self.drive = {key: k for k, key in enumerate(system.drives)}
        self.group = {item.id: k for k, item in enumerate(system.groups)}

    def air(self, key: str) -> int:
        """An enclosure, then a room, then a given air."""
        n, r = len(self.enclosure), len(self.room)
        if key in self.enclosure:
            return self.enclosure[key]
        if key in self.room:
            return n + self.room[key]
        if key in self.edge:
            return n + r + self.edge[key]
        raise QuantityError(f"there is no air called “{key}”")

    def of_drive(self, key: str) -> int:
        """A drive; -1 without a name."""
        if key and key not in self.drive:
            raise QuantityError(f"there is no drive called “{key}”")
        return self.drive[key] if key else -1


def sheet_of(faces: tuple[Face, ...]) -> tuple[float, ...]:
    """Put faces together into one sheet with a colder surface.

    Parameters
    ----------
    faces : at least one with an area

    Returns
    -------
    tuple of float : conductance inside and outside [W/K], heat it takes up [J/K]; area of the coldest surface [m²] and
        what share of the sheet's difference to the beyond it has; the same of the others

    Notes
    -----
    The sheet's warmth is the mean of its faces' by area; one whose inner surface lies nearer to what is beyond, such as
    a pane in a cabinet, keeps its own share of it.
    """
    area = sum(face.area_m2 for face in faces)
    inside = sum(face.area_m2 * face.inner_film_w_m2k for face in faces)
    # Conductance between airs is what the faces have side by side; inside film and the rest in series give it again.
    across = sum(face.area_m2 / (1 / face.inner_film_w_m2k + 1 / max(face.outside_w_m2k, 1e-9)) for face in faces)
    outside = across / max(1 - across / inside, 1e-9)
    mean = inside / (inside + outside)
    coldest = min(face.share_inside for face in faces)
    cold = [face for face in faces if face.share_inside < coldest + 0.02]
    rest = [face for face in faces if face.share_inside >= coldest + 0.02]
    # Of what a heavy wall holds only the inner part follows a day.
    holds = sum(face.area_m2 * face.holds_j_m2k for face in faces)
    warmer = sum(f.area_m2 * f.share_inside for f in rest) / max(sum(f.area_m2 for f in rest), 1e-12)
    return (
        inside,
        outside,
        holds,
        sum(face.area_m2 for face in cold),
        min(1.0, sum(f.area_m2 * f.share_inside for f in cold) / sum(f.area_m2 for f in cold) / mean),
        area - sum(face.area_m2 for face in cold),
        warmer / mean if rest else 1.0,
    )


def _parameters(item: Enclosure, density: float) -> list[float]:
    leaves = item.leaves or Leaves(ground_m2=0.0, lai=0.0)
    pots = item.pots
    return [
        item.volume_m3 * density,
        *sheet_of(item.faces),
        max(leaves.ground_m2 * leaves.lai * _LEAF_J_M2K, 1.0),
        leaves.ground_m2 if leaves.lai > 0 else 0.0,
        leaves.lai,
        leaves.least_s_m,
        leaves.size_m,
        leaves.speed_m_s,
        pots.film_w_m2k * pots.area_m2,
        4.0 * pots.area_m2 * pots.wet / _FILM_J_KGK,
        max(pots.holds_j_k, 100.0),
        pots.floor_w_k,
        max(item.lamp_j_k, 1.0),
        item.lamp_w_k,
        item.door_m3_s,
        item.breath_mol_s,
    ]


def _fixed(system: System, names: _Names) -> Fixed:
    first = system.weathers[0]
    if any(item.every_s != first.every_s for item in system.weathers):
        raise QuantityError("given airs must be given at the same moments")
    edges = np.array([[item.temperature_c, item.ratio, item.co2_ppm] for item in system.weathers], dtype=np.float64)
    drives = np.zeros((max(len(system.drives), 1), system.steps), dtype=np.float32)
    for key, shares in system.drives.items():
        drives[names.drive[key]] = shares
    states = max((len(shares) for shares in system.states.values()), default=1)
    weight = np.zeros((len(system.enclosures), states, system.steps), dtype=np.float32)
    for number, item in enumerate(system.enclosures):
        if item.id not in system.states:
            weight[number, 0] = 1.0
            continue
        turns = system.states[item.id]
        weight[number, : len(turns)] = turns
    levels = max((link.flow_m3_s.shape[1] for link in system.links), default=1)
    table = np.zeros((len(system.links), states, levels, len(system.rises_k)))
    for number, link in enumerate(system.links):
        some = link.flow_m3_s
        # One that knows one level only moves the same at all.
        table[number, : some.shape[0]] = (
            some if some.shape[1] == levels else np.repeat(some, levels, axis=1)[:, :levels]
        )
    return Fixed(
        p=np.array([_parameters(item, system.density_kg_m3) for item in system.enclosures]),
        host=np.array([names.air(item.host) for item in system.enclosures]),
        floor=np.array([names.air(item.floor) for item in system.enclosures]),
        lit_of=np.array([names.of_drive(item.lit) for item in system.enclosures]),
        door_of=np.array([names.of_drive(item.door) for item in system.enclosures]),
        cut_c=np.array([_NEVER_C if isinf(item.cut_off_c) else item.cut_off_c for item in system.enclosures]),
        rooms=np.array(
            [
                [
                    names.edge[item.beyond],
                    item.volume_m3 * system.density_kg_m3,
                    item.holds_j_k,
                    item.loss_w_k,
                    item.exchange_m3_s * system.density_kg_m3,
                    item.heating_w,
                    item.heat_to_c,
                    item.cooling_w,
                    item.cool_to_c,
                    names.of_drive(item.drive),
                ]
                for item in system.rooms
            ]
        ).reshape(-1, c.ROOM_COLUMNS),
        edges=edges,
        edge_every_s=first.every_s,
        drives=drives,
        gives=np.array([item.gives.channels for item in system.groups], dtype=np.float64).reshape(-1, c.CHANNELS),
        where=np.array([names.enclosure[item.where] for item in system.groups], dtype=np.int64),
        drive_of=np.array([names.of_drive(item.drive) for item in system.groups], dtype=np.int64),
        cuts=np.array([float(item.cut) for item in system.groups]),
        control=np.array([_control(item, names) for item in system.controls], dtype=np.int64).reshape(
            -1, c.CONTROL_INTS
        ),
        setting=np.array([_setting(item) for item in system.controls], dtype=np.float64).reshape(-1, c.CONTROL_REALS),
        target=np.array(
            [-1 - names.enclosure[i.target] if i.fan else names.group[i.target] for i in system.controls],
            dtype=np.int64,
        ),
        src=np.array([names.air(link.source) for link in system.links], dtype=np.int64),
        dst=np.array([names.air(link.into) for link in system.links], dtype=np.int64),
        owner=np.array([names.enclosure[link.owner] for link in system.links], dtype=np.int64),
        table=table,
        weight=weight,
        rises=np.array(system.rises_k, dtype=np.float64),
        dt=float(system.dt_s),
        every=system.every,
        pressure=float(system.pressure_pa),
        density=float(system.density_kg_m3),
        sensor_s=float(system.sensor_s),
    )


def _control(item: Control, names: _Names) -> list[int]:
    sensed = -1 if item.sensed is None else _SENSED[item.sensed]
    return [names.enclosure[item.where], sensed, 1 if item.below else -1, names.of_drive(item.gate)]


def _setting(item: Control) -> list[float]:
    return [
        item.day,
        item.night,
        item.band,
        item.ramp,
        item.least_on_s,
        item.least_off_s,
        item.idle,
        item.full,
    ]


def _start(system: System, names: _Names) -> tuple[Array, Array]:
    """State of enclosures, and all airs: those of enclosures, of rooms, and those that are given."""
    n, r = len(system.enclosures), len(system.rooms)
    x, at = np.zeros((n, STATES)), np.zeros((n + r + len(system.weathers), 3))
    for number, weather in enumerate(system.weathers):
        at[n + r + number] = weather.temperature_c[0], weather.ratio[0], weather.co2_ppm[0]
    for number, room in enumerate(system.rooms):
        at[n + number] = at[n + r + names.edge[room.beyond]]
    for number, item in enumerate(system.enclosures):
        around = at[names.air(_outermost(system, names, item))]
        warm, ratio = (around[0] if item.start_c is None else item.start_c), around[1]
        if item.start_rh_pct is not None:
            vapour = saturation_pa(warm) * item.start_rh_pct / 100
            ratio = RATIO * vapour / (system.pressure_pa - vapour)
        x[number, [T_AIR, T_LEAF, T_SHEET, T_POT, T_LAMP]] = warm
        x[number, RATIO_AIR], x[number, CO2_PPM] = ratio, around[2]
        at[number] = warm, ratio, around[2]
    return x, at


def _outermost(system: System, names: _Names, item: Enclosure) -> str:
    """The room or given air that an enclosure stands in, through others."""
    key = item.host
    while key in names.enclosure:
        key = system.enclosures[names.enclosure[key]].host
    return key
