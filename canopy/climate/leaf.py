"""One leaf near a lamp: how much warmer than the air it gets."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from canopy.climate.canopy_gas import Surroundings
from canopy.psychrometrics import (
    HEAT_CAPACITY_J_KGK,
    HEAT_OF_EVAPORATION_J_KG,
    dry_air_density_kg_m3,
    humidity_ratio,
    saturation_pa,
)
from canopy.roots import falling_root

# Photons 400-700 nm of lamps carry about this much energy (McCree 1972: 4.6 daylight, 4.6 to 5.0 lamps) [µmol/J].
_UMOL_PER_J = 4.6
# A leaf's absorptance for light 400-700 nm (McCree 1972), and for the heat radiation of bodies at room warmth.
_LIGHT, _THERMAL = 0.85, 0.96
_SIGMA, _KELVIN = 5.670e-8, 273.15
_DRIED_C = 60.0
_LEAF_M, _RMIN_S_M, _SHUT_S_M, _D0_PA = 0.06, 180.0, 3000.0, 1500.0


@dataclass(frozen=True, kw_only=True)
class Irradiated:
    """What falls on a leaf that faces a lamp.

    ``ppfd_umol_m2_s``; ``infrared_w_m2`` that comes with the lamp's light, of which the leaf absorbs
    ``infrared_absorbed`` (share); ``thermal_w_m2`` of a warm body beyond what surroundings of the air's warmth give.
    """

    ppfd_umol_m2_s: float
    infrared_w_m2: float = 0.0
    infrared_absorbed: float = 0.5
    thermal_w_m2: float = 0.0

    @property
    def absorbed_w_m2(self) -> float:
        """All that the leaf takes up [W/m²]."""
        light = self.ppfd_umol_m2_s / _UMOL_PER_J * _LIGHT
        return light + self.infrared_absorbed * self.infrared_w_m2 + _THERMAL * self.thermal_w_m2


def leaf_c(on: Irradiated, air: Surroundings, *, shut: bool = False) -> float:
    """Give the temperature at which a leaf's energy balance closes.

    Parameters
    ----------
    on : what falls on its one side
    air : the air about it
    shut : stomata closed, as on a dry or cut plant

    Returns
    -------
    float : leaf temperature [°C]

    Notes
    -----
    Absorbed = 2 ρ c_p ΔT / r_b + 2 ε 4 σ T³ ΔT + λ 2 ρ (W_leaf - W_air) / (0.93 r_b + r_s), r_b and r_s after
    Stanghellini 1987 as for the whole stand; r_s 3000 s/m when shut. Good to about ±2 K for the radiation given.
    """
    beyond = falling_root(lambda over: _surplus(on, air, air.temperature_c + over, shut=shut), 8.0, 1e-3)
    return air.temperature_c + beyond


def _surplus(on: Irradiated, air: Surroundings, leaf: float, *, shut: bool) -> float:
    outside = humidity_ratio(air.temperature_c, air.rh_pct, air.altitude_m)
    density = dry_air_density_kg_m3(air.temperature_c, outside, air.altitude_m)
    still = sqrt(sqrt(_LEAF_M * abs(leaf - air.temperature_c) + 207 * air.air_speed_m_s**2))
    boundary = 1174 * sqrt(_LEAF_M) / max(still, 0.05)
    kelvin = (leaf + air.temperature_c) / 2 + _KELVIN
    dry = 2 * density * HEAT_CAPACITY_J_KGK / boundary + 2 * _THERMAL * 4 * _SIGMA * kelvin**3
    deficit = max(0.0, saturation_pa(min(leaf, _DRIED_C)) - saturation_pa(air.temperature_c) * air.rh_pct / 100)
    light = on.ppfd_umol_m2_s / _UMOL_PER_J * _LIGHT / 2
    stomata = _SHUT_S_M if shut else _RMIN_S_M * (light + 4.3) / (light + 0.54) * min(1 + deficit / _D0_PA, 5.0)
    # So hot a leaf has long dried, and high up water would boil: only the way there is of use to the search.
    wet = humidity_ratio(min(leaf, _DRIED_C), 100, air.altitude_m) - outside
    vapour = 2 * density * wet / (0.93 * boundary + stomata)
    return on.absorbed_w_m2 - dry * (leaf - air.temperature_c) - HEAT_OF_EVAPORATION_J_KG * vapour
