"""Water and CO2 that a stand of plants trades with the air: a big leaf in steady state."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, sqrt

from canopy.errors import ConvergenceError, QuantityError
from canopy.psychrometrics import (
    HEAT_CAPACITY_J_KGK,
    HEAT_OF_EVAPORATION_J_KG,
    dry_air_density_kg_m3,
    humidity_ratio,
    pressure_pa,
    saturation_pa,
)

_LEAF_M = 0.06
_RMIN_S_M = 180.0
_D0_PA = 1500.0
_UMOL_PER_J = 4.8
# Hotter than any leaf lives for an hour (most die at 45 to 50 °C) [°C].
DEADLY_C = 55.0


@dataclass(frozen=True, kw_only=True)
class Stand:
    """Plants as one big leaf: ground covered [m²], leaf area index, mean PPFD on top [µmol/m²/s]; how many times as far
    as usual they open their stomata.
    """

    area_m2: float
    lai: float
    ppfd_umol_m2_s: float
    opens: float = 1.0


@dataclass(frozen=True, kw_only=True)
class Surroundings:
    """The air about the leaves."""

    temperature_c: float
    rh_pct: float
    co2_ppm: float = 450.0
    air_speed_m_s: float = 0.3
    altitude_m: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Exchange:
    """What the stand trades: vapour given off [kg/s], CO2 taken up net [mol/s], leaf temperature [°C]."""

    vapour_kg_s: float
    co2_mol_s: float
    leaf_c: float


def absorbed_share(lai: float) -> float:
    """Give the share of light on a canopy that its leaves take up.

    Parameters
    ----------
    lai : leaf area index [m²/m²]

    Returns
    -------
    float : 0.87 (1 - exp(-0.75 LAI))
    """
    return 0.87 * (1 - exp(-0.75 * lai))


def gas_exchange(stand: Stand, air: Surroundings) -> Exchange:
    """Balance a big leaf's energy and give what it trades with the air.

    Parameters
    ----------
    stand : the plants
    air : the air about them

    Returns
    -------
    Exchange : vapour, CO2 and leaf temperature; no trade for no plants, nor in air so hot that leaves are dead

    Notes
    -----
    Leaf boundary layer and stomata after Stanghellini 1987, vapour deficit response of the Leuning kind;
    transpiration is known to about ±35 %. Net uptake: non-rectangular hyperbola less 1 µmol/m²/s of respiration.
    """
    if stand.area_m2 <= 0 or stand.lai <= 0 or air.temperature_c > DEADLY_C:
        return Exchange(vapour_kg_s=0.0, co2_mol_s=0.0, leaf_c=air.temperature_c)
    balance = _Balance(stand, air)
    leaf = balance.leaf_c()
    vapour = max(0.0, balance.vapour_kg_s(leaf))
    return Exchange(vapour_kg_s=vapour, co2_mol_s=_uptake_mol_s(stand, air), leaf_c=leaf)


class _Balance:
    """A big leaf's energy balance: what does not depend on its temperature is worked out once."""

    def __init__(self, stand: Stand, air: Surroundings) -> None:
        self._air = air
        self._pressure_pa = pressure_pa(air.altitude_m)
        self._outside = humidity_ratio(air.temperature_c, air.rh_pct, air.altitude_m)
        self._vapour_pa = saturation_pa(air.temperature_c) * air.rh_pct / 100
        self._faces_m2 = 2 * stand.lai * stand.area_m2
        density = dry_air_density_kg_m3(air.temperature_c, self._outside, air.altitude_m)
        self._moved = self._faces_m2 * density
        self._radiate = 2 * stand.area_m2 * (1 - exp(-0.94 * stand.lai)) * 5.4
        self._radiant_w = _radiant_w(stand)
        light = self._radiant_w / self._faces_m2
        by_co2 = min(1 + 6.1e-7 * max(0.0, air.co2_ppm - 200) ** 2, 1.5) if stand.ppfd_umol_m2_s > 0 else 1.0
        self._stomata_s_m = _RMIN_S_M / stand.opens * (light + 4.3) / (light + 0.54) * by_co2

    def leaf_c(self) -> float:
        """Leaf temperature at which it closes: regula falsi (Illinois) in a bracket, to 0.001 K."""
        low, high = self._air.temperature_c - 15, self._air.temperature_c + 25
        above, below = self._surplus_w(low), self._surplus_w(high)
        leaf, last = self._air.temperature_c, 0
        for _ in range(60):
            previous = leaf
            leaf = (low * below - high * above) / (below - above)
            surplus = self._surplus_w(leaf)
            if surplus > 0:
                low, above = leaf, surplus
                below *= 0.5 if last == 1 else 1.0
                last = 1
            else:
                high, below = leaf, surplus
                above *= 0.5 if last == -1 else 1.0
                last = -1
            if abs(leaf - previous) < 1e-3:
                return leaf
        raise ConvergenceError("the leaf's energy balance did not settle")

    def vapour_kg_s(self, leaf_c: float) -> float:
        """What it gives off at a temperature."""
        return self._given_off(leaf_c, self._boundary_s_m(leaf_c))

    def _given_off(self, leaf_c: float, boundary: float) -> float:
        # Saturated at the leaf: the ratio by ASHRAE's definition, W = 0.621945 p/(P − p).
        inside_pa = saturation_pa(leaf_c)
        if inside_pa >= self._pressure_pa:
            raise QuantityError(f"at {leaf_c:.0f} °C the water in a leaf would boil")
        inside = 0.621945 * inside_pa / (self._pressure_pa - inside_pa)
        deficit_pa = max(0.0, inside_pa - self._vapour_pa)
        stomata = self._stomata_s_m * min(1 + deficit_pa / _D0_PA, 5.0)
        return self._moved / (0.93 * boundary + stomata) * (inside - self._outside)

    def _boundary_s_m(self, leaf_c: float) -> float:
        air = self._air
        return 1174 * sqrt(_LEAF_M) / sqrt(sqrt(_LEAF_M * abs(leaf_c - air.temperature_c) + 207 * air.air_speed_m_s**2))

    def _surplus_w(self, leaf_c: float) -> float:
        """Radiation less convection, heat radiation and evaporation at a leaf temperature."""
        boundary = self._boundary_s_m(leaf_c)
        dry = (self._moved * HEAT_CAPACITY_J_KGK / boundary + self._radiate) * (leaf_c - self._air.temperature_c)
        return self._radiant_w - dry - HEAT_OF_EVAPORATION_J_KG * self._given_off(leaf_c, boundary)


def _radiant_w(stand: Stand) -> float:
    return stand.ppfd_umol_m2_s / _UMOL_PER_J * absorbed_share(stand.lai) * stand.area_m2


def gross_uptake_umol_m2_s(absorbed_umol_m2_s: float, co2_ppm: float) -> float:
    """Give photosynthesis per area of ground.

    Parameters
    ----------
    absorbed_umol_m2_s : photons absorbed [µmol/m²/s]
    co2_ppm : CO2 in the air [ppm]

    Returns
    -------
    float : gross uptake [µmol/m²/s]; nothing below the compensation point
    """
    inner = 0.7 * co2_ppm
    k = max(0.0, (inner - 43) / (inner + 86))
    if k == 0.0:
        return 0.0
    a, top = 0.10 * k * absorbed_umol_m2_s, 32 * k / 0.649
    return (a + top - sqrt((a + top) ** 2 - 4 * 0.8 * a * top)) / 1.6


def _uptake_mol_s(stand: Stand, air: Surroundings) -> float:
    absorbed = stand.ppfd_umol_m2_s * absorbed_share(stand.lai)
    return (gross_uptake_umol_m2_s(absorbed, air.co2_ppm) - 1.0) * 1e-6 * stand.area_m2
