"""What ducts, bends, adapters, ports and holes take from a fan: friction and loss coefficients."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from math import copysign, exp, log10, pi, sqrt

import numpy as np

DENSITY_KG_M3 = 1.19
VISCOSITY_M2_S = 1.54e-5
# Discharge coefficients: a sharp hole or slit, and seams and slack sleeves (A2: 0.60 to 0.65).
HOLE, SEAM = 0.60, 0.62
ENTRY = {"sharp": 0.5, "protruding": 0.9, "bell": 0.05}
EXIT = 1.0
CONE_DEG, STEP_DEG = 60.0, 180.0
_BEND_90 = {"smooth": 0.25, "mitre": 1.2, "flex": 0.7}
_ANGLES = (0, 20, 30, 45, 60, 75, 90, 120, 180)
_ANGLE_SHARE = (0.0, 0.31, 0.45, 0.60, 0.78, 0.90, 1.0, 1.17, 1.40)


# Between these Reynolds numbers one friction formula gives way to the other.
_FROM_RE, _TO_RE = 3000.0, 5000.0


@cache
def _formula(name: str) -> Callable[[float, float], float]:
    from fluids import friction

    found: Callable[[float, float], float] = getattr(friction, name)
    return found


def friction_factor(reynolds: float, relative_roughness: float) -> float:
    """Give the Darcy friction factor of a round duct.

    Parameters
    ----------
    reynolds : Reynolds number, over 0
    relative_roughness : roughness over diameter

    Returns
    -------
    float : friction factor

    Notes
    -----
    Churchill (1977), which runs from laminar to turbulent flow without a jump, up to Re 3000; Colebrook's equation
    as solved
    by Clamond (2009) from Re 5000; between them a straight mixture, so that a loss always grows with the flow.
    """
    if reynolds >= _TO_RE:
        return _formula("Clamond")(reynolds, relative_roughness)
    smooth = _formula("Churchill_1977")(reynolds, relative_roughness)
    if reynolds <= _FROM_RE:
        return smooth
    share = (reynolds - _FROM_RE) / (_TO_RE - _FROM_RE)
    return (1 - share) * smooth + share * _formula("Clamond")(reynolds, relative_roughness)


@cache
def _crane(change: str) -> Callable[..., float]:
    from fluids import fittings

    found: Callable[..., float] = getattr(fittings, f"{change}_conical_Crane")
    return found


def area_m2(diameter_m: float) -> float:
    """Give the area of a round section.

    Parameters
    ----------
    diameter_m : diameter [m]

    Returns
    -------
    float : area [m²]
    """
    return pi * diameter_m**2 / 4


def dynamic_pa(flow_m3_s: float, diameter_m: float) -> float:
    """Give the dynamic pressure of a flow in a round section.

    Parameters
    ----------
    flow_m3_s : flow [m³/s]
    diameter_m : diameter [m]

    Returns
    -------
    float : ½ ρ v² [Pa]
    """
    return 0.5 * DENSITY_KG_M3 * (flow_m3_s / area_m2(diameter_m)) ** 2


def flex_factor(diameter_m: float, slack: float) -> float:
    """Give how much more a slack flexible duct takes than one that is fully stretched.

    Parameters
    ----------
    diameter_m : diameter [m]
    slack : 1 − length / stretched length, 0..0.45

    Returns
    -------
    float : factor on friction, 1 when fully stretched

    Notes
    -----
    1 + 58 r exp(−4.96 D), pressure-drop correction for compressed flexible duct; measured for r up to 0.30, beyond
    that it is carried on (ASHRAE Fundamentals, duct design; Abushakra et al., 2004).
    """
    return 1 + 58 * slack * exp(-4.96 * diameter_m)


def duct_drop_pa(
    flow_m3_s: float,
    diameter_m: float,
    length_m: float,
    roughness_m: float,
    factor: float = 1.0,
    density_share: float = 1.0,
) -> float:
    """Give what a straight duct takes.

    Parameters
    ----------
    flow_m3_s : flow, not negative [m³/s]
    diameter_m : diameter [m]
    length_m : length [m]
    roughness_m : roughness of its wall [m]
    factor : of a slack flexible duct, ``flex_factor``
    density_share : density of the air against sea level's, over 0

    Returns
    -------
    float : pressure drop [Pa]

    Notes
    -----
    Darcy-Weisbach with ``friction_factor``; thin air is as viscous as thick air, so its Reynolds number is lower.
    """
    if flow_m3_s <= 0:
        return 0.0
    velocity = flow_m3_s / area_m2(diameter_m)
    reynolds = max(velocity * diameter_m * density_share / VISCOSITY_M2_S, 1.0)
    return (
        factor
        * friction_factor(reynolds, roughness_m / diameter_m)
        * length_m
        / diameter_m
        * 0.5
        * DENSITY_KG_M3
        * density_share
        * velocity**2
    )


def bend_loss(make: str, angle_deg: float) -> float:
    """Give the loss coefficient of a bend.

    Parameters
    ----------
    make : "smooth" (r/D 1.5), "mitre" or "flex"
    angle_deg : by how much it turns, 0..180 [°]

    Returns
    -------
    float : K on the velocity in it

    Notes
    -----
    K = K90 · Kθ, Kθ interpolated between 20° and 180° (ASHRAE duct fittings).
    """
    return _BEND_90[make] * float(np.interp(angle_deg, _ANGLES, _ANGLE_SHARE))


def adapter_loss(from_m: float, to_m: float, make: str = "cone") -> float:
    """Give the loss coefficient of a change of diameter.

    Parameters
    ----------
    from_m : diameter it comes from [m]
    to_m : diameter it goes to [m]
    make : "cone" (60° in all) or "step"

    Returns
    -------
    float : K on the velocity in the narrower end

    Notes
    -----
    Crane TP-410 (2009), conical contraction and diffuser, as the library fluids has them.
    """
    if abs(from_m - to_m) < 1e-9:
        return 0.0
    angle = CONE_DEG if make == "cone" else STEP_DEG
    return float(_crane("contraction" if from_m > to_m else "diffuser")(Di1=from_m, Di2=to_m, angle=angle))


def hole_flow_m3_s(pressure_pa: float, effective_m2: float, density_share: float = 1.0) -> float:
    """Give the flow through a hole, with the sign of the pressure across it.

    Parameters
    ----------
    pressure_pa : pressure across it [Pa]
    effective_m2 : discharge coefficient times area [m²]
    density_share : density of the air against sea level's, over 0

    Returns
    -------
    float : C_d A sqrt(2 |Δp| / ρ) [m³/s]
    """
    return copysign(effective_m2 * sqrt(2 * abs(pressure_pa) / (density_share * DENSITY_KG_M3)), pressure_pa)


def end_reflection_db(diameter_m: float, frequency_hz: float) -> float:
    """Give how much sound an open duct end throws back.

    Parameters
    ----------
    diameter_m : diameter [m]
    frequency_hz : frequency [Hz]

    Returns
    -------
    float : 10 log10(1 + (0.7 c / (π f D))²) [dB] (ASHRAE Applications, noise and vibration)
    """
    return 10 * log10(1 + (0.7 * 343.0 / (pi * frequency_hz * diameter_m)) ** 2)
