"""What is simulated: enclosures, the rooms they stand in, given airs, what runs and what controls it, and air moved."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from math import inf
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from canopy.psychrometrics import HEAT_OF_EVAPORATION_J_KG

Array = NDArray[np.float64]
Shares = NDArray[np.float32]
# What a wide-open leaf of an ordinary crop lets through (80 of fast crops to 400 of succulents) [s/m].
USUAL_LEAST_S_M = 180.0
Sensed = Literal["air", "rh", "root", "leaf", "co2", "vpd"]


@dataclass(frozen=True, kw_only=True, eq=False)
class Weather:
    """An air that is given: temperature [°C], humidity ratio [kg/kg] and CO2 [ppm] every ``every_s`` seconds, straight
    in between; shapes (moments,).
    """

    id: str
    temperature_c: Array
    ratio: Array
    co2_ppm: Array
    every_s: float = 600.0


@dataclass(frozen=True, kw_only=True)
class RoomNode:
    """A room that enclosures stand in. ``beyond`` names the given air that it would have without them; what pulls it
    there is the heat it loses [W/K] and its own exchange of air [m³/s]; what else it holds takes up heat [J/K]. A
    heater warms it at up to ``heating_w`` below ``heat_to_c``, a conditioner takes up to ``cooling_w`` of dry heat
    above ``cool_to_c`` and dries the air that passes its coil; both in step over the last kelvin, as those do that
    turn themselves down, while ``drive`` lets them (always without one).
    """

    id: str
    beyond: str
    volume_m3: float
    holds_j_k: float
    loss_w_k: float
    exchange_m3_s: float
    heating_w: float = 0.0
    heat_to_c: float = 0.0
    cooling_w: float = 0.0
    cool_to_c: float = 0.0
    drive: str = ""


@dataclass(frozen=True, kw_only=True)
class Face:
    """A part of an enclosure's sheet: area [m²], films inside and beyond [W/m²K], resistance between [m²K/W], heat it
    takes up [J/m²K].
    """

    area_m2: float
    inner_film_w_m2k: float = 7.5
    resistance_m2k_w: float = 0.0
    outer_film_w_m2k: float = 7.5
    holds_j_m2k: float = 450.0

    @property
    def outside_w_m2k(self) -> float:
        """From its inner surface to the air beyond [W/m²K]."""
        if self.outer_film_w_m2k <= 0:
            return 0.0
        return 1 / (self.resistance_m2k_w + 1 / self.outer_film_w_m2k)

    @property
    def share_inside(self) -> float:
        """Of the difference between air and beyond, what its inner surface has, 0..1 (ISO 13788's f_Rsi)."""
        return self.inner_film_w_m2k / (self.inner_film_w_m2k + self.outside_w_m2k)


@dataclass(frozen=True, kw_only=True)
class Leaves:
    """Plants as one big leaf: ground covered [m²], leaf area index, least stomatal resistance [s/m], leaf size [m],
    air speed over them [m/s].
    """

    ground_m2: float
    lai: float
    least_s_m: float = USUAL_LEAST_S_M
    size_m: float = 0.06
    speed_m_s: float = 0.3


@dataclass(frozen=True, kw_only=True)
class Pots:
    """Pots, beds and trays: area to the air [m²], how wet their surface is, 0..1, heat they take up [J/K], and what
    passes to the floor [W/K].
    """

    area_m2: float
    wet: float
    holds_j_k: float
    floor_w_k: float
    film_w_m2k: float = 8.0


@dataclass(frozen=True, kw_only=True)
class Enclosure:
    """A space that is simulated. ``host`` names the room, given air or enclosure around it, ``floor`` what is below.

    ``lamp_w_k`` and ``lamp_j_k`` are its lamps' bodies; ``breath_mol_s`` the CO2 that roots, leaves and medium give
    off; ``door_m3_s`` what an open door exchanges at 1 K; ``lit`` and ``door`` name drives: shares of the time that
    lamps are on and that the door stands open; ``cut_off_c`` is where the safety cut-off trips. ``start_c`` and
    ``start_rh_pct`` are its air at the beginning; as around it when None.
    """

    id: str
    host: str
    floor: str
    volume_m3: float
    faces: tuple[Face, ...]
    pots: Pots
    leaves: Leaves | None = None
    lamp_w_k: float = 1.0
    lamp_j_k: float = 1000.0
    breath_mol_s: float = 0.0
    door_m3_s: float = 0.0
    lit: str = ""
    door: str = ""
    cut_off_c: float = inf
    start_c: float | None = None
    start_rh_pct: float | None = None


@dataclass(frozen=True, kw_only=True)
class Gives:
    """What a lamp or device gives an enclosure at full output: light on the leaves [µmol/m²/s]; heat to leaves, sheet,
    pots, lamps' bodies and air [W]; water [kg/s]; CO2 [mol/s]; water taken for each kg/kg above the coil's [kg/s], and
    the coil's humidity ratio; what a dehumidifier is rated for at 26.7 °C and 60 % [kg/s] and its kind (`columns`);
    what a wet pad gives for each kg/kg of wet-bulb deficit [kg/s].
    """

    ppfd: float = 0.0
    leaf_w: float = 0.0
    sheet_w: float = 0.0
    pot_w: float = 0.0
    lamp_w: float = 0.0
    air_w: float = 0.0
    vapour_kg_s: float = 0.0
    co2_mol_s: float = 0.0
    drying_kg_s: float = 0.0
    coil_ratio: float = 0.0
    rated_kg_s: float = 0.0
    dryer: float = 0.0
    pad_kg_s: float = 0.0

    @property
    def heat_w(self) -> float:
        """All heat it brings into the enclosure at full [W]."""
        return self.leaf_w + self.sheet_w + self.pot_w + self.lamp_w + self.air_w

    def warming(self, share: float) -> Gives:
        """Give the same with another heat.

        Parameters
        ----------
        share : of its heat, over 0

        Returns
        -------
        Gives : light and water stay
        """
        heat = ("leaf_w", "sheet_w", "pot_w", "lamp_w", "air_w")
        return replace(self, **{name: share * getattr(self, name) for name in heat})

    def yielding(self, share: float) -> Gives:
        """Give the same with another output of what it is there for.

        Parameters
        ----------
        share : of its output, over 0

        Returns
        -------
        Gives : of what gives or takes water or CO2 that, with the heat that a mist takes up; of all else its heat
        """
        if share == 1.0:
            return self
        wet = ("vapour_kg_s", "co2_mol_s", "drying_kg_s", "rated_kg_s", "pad_kg_s")
        if not any(getattr(self, name) for name in wet):
            return self.warming(share)
        found = replace(self, **{name: share * getattr(self, name) for name in wet})
        if self.air_w < 0 and self.vapour_kg_s > 0:
            found = replace(found, air_w=self.air_w - (share - 1) * HEAT_OF_EVAPORATION_J_KG * self.vapour_kg_s)
        return found

    @property
    def channels(self) -> tuple[float, ...]:
        """In the order of `columns`."""
        return (
            self.ppfd,
            self.leaf_w,
            self.sheet_w,
            self.pot_w,
            self.lamp_w,
            self.air_w,
            self.vapour_kg_s,
            self.co2_mol_s,
            self.drying_kg_s,
            self.coil_ratio,
            self.rated_kg_s,
            self.dryer,
            self.pad_kg_s,
        )


@dataclass(frozen=True, kw_only=True, eq=False)
class Group:
    """What runs together in an enclosure, by the shares of ``drive``; ``cut`` where the safety cut-off stops it;
    ``tank_kg`` is the water it can give until it is dry.
    """

    id: str
    where: str
    drive: str
    gives: Gives
    cut: bool = False
    tank_kg: float = inf


@dataclass(frozen=True, kw_only=True)
class Control:
    """What turns a group (or an enclosure's fan, ``target`` being the enclosure) up by what a sensor reads.

    It asks ``below`` or above its setting, by day (lamps on) and by night: with ``ramp`` in step with how far off it
    is, else on and off around the ``band``. ``gate`` names the drive that must allow it. Without ``sensed`` it follows
    the gate alone.
    """

    target: str
    where: str
    sensed: Sensed | None
    day: float = 0.0
    night: float = 0.0
    below: bool = True
    band: float = 1.0
    ramp: float = 0.0
    least_on_s: float = 0.0
    least_off_s: float = 0.0
    idle: float = 0.0
    full: float = 1.0
    gate: str = ""
    fan: bool = False


@dataclass(frozen=True, kw_only=True, eq=False)
class Link:
    """Air from one place to another, as its ``owner``'s ways move it: ``flow_m3_s`` (states, levels, rises), over the
    states that its ways take turns in, the level of its fans from least to most, and how much warmer it is inside.
    """

    source: str
    into: str
    owner: str
    flow_m3_s: Array


@dataclass(frozen=True, kw_only=True, eq=False)
class System:
    """All that is simulated together, over steps of ``dt_s`` from midnight on.

    ``drives`` are shares of full output in each step, shape (steps,); ``states`` for each enclosure the shares of the
    time in each state of its ways, shape (states, steps); ``rises_k`` the warmth inside that flows are given for.
    """

    steps: int
    dt_s: float
    pressure_pa: float
    density_kg_m3: float
    weathers: tuple[Weather, ...]
    enclosures: tuple[Enclosure, ...]
    rooms: tuple[RoomNode, ...] = ()
    groups: tuple[Group, ...] = ()
    controls: tuple[Control, ...] = ()
    links: tuple[Link, ...] = ()
    drives: dict[str, Shares] = field(default_factory=dict)
    states: dict[str, Shares] = field(default_factory=dict)
    rises_k: tuple[float, ...] = (0.0,)
    every: int = 6
    sensor_s: float = 45.0
