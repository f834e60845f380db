"""What circulation fans do: jets that reach some plants and not others, and how the whole air turns round."""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, cos, hypot, pi, radians, sin, sqrt

from canopy.air.shell import is_open
from canopy.plan.airways import Stirrer
from canopy.plan.document import Space

JET_K = 5.0
STAGNANT_M_S, GOOD_M_S, MOST_M_S, BURN_M_S = 0.15, 0.3, 1.0, 1.5
MIXED_PER_MIN, MIXED_M3_S_M2 = 0.5, 0.01
STILL_M_S, OPEN_M_S = 0.05, 0.10
_ETA, _WALL_DRAG, _LEAF_DRAG = 0.7, 0.02, 0.2
# A free jet's speed falls off to the side like exp(−(r / 0.11 x)²): half at 0.09 x from its axis.
_WIDTH = 0.11


@dataclass(frozen=True, kw_only=True)
class Jet:
    """A circulation fan as a jet: outlet speed [m/s], outlet area [m²], flow [m³/s]."""

    speed_m_s: float
    outlet_m2: float
    flow_m3_s: float


def jet_of(stirrer: Stirrer) -> Jet:
    """Give a circulation fan's jet at its speed.

    Parameters
    ----------
    stirrer : the fan

    Returns
    -------
    Jet : flow by the affinity laws
    """
    outlet = pi * stirrer.spec.diameter_m**2 / 4
    flow = stirrer.spec.flow_m3_h / 3600 * stirrer.speed
    return Jet(speed_m_s=flow / outlet, outlet_m2=outlet, flow_m3_s=flow)


def jet_speed_m_s(stirrer: Stirrer, point: tuple[float, float, float]) -> float:
    """Give a jet's own speed at a point while it points that way.

    Parameters
    ----------
    stirrer : the fan
    point : x, y, z in the space [m]

    Returns
    -------
    float : on the axis min(v0, K v0 sqrt(A0)/x), falling off to the side; a swinging fan counts by where its sweep
    passes nearest; nothing behind it [m/s]

    Notes
    -----
    K = 5 (4.5 to 6.5; ASHRAE, room air diffusion); the profile across is a Gaussian of width 0.11 x (Rajaratnam
    1976, free jets).
    """
    jet = jet_of(stirrer)
    dx, dy, dz = point[0] - stirrer.x_m, point[1] - stirrer.y_m, point[2] - stirrer.z_m
    away = sqrt(dx * dx + dy * dy + dz * dz)
    if away < 1e-6:
        return jet.speed_m_s
    yaw = radians(stirrer.yaw_deg)
    if stirrer.swings and stirrer.spec.sweep_deg and (dx or dy):
        off = (atan2(dy, dx) - yaw + pi) % (2 * pi) - pi
        half = radians(stirrer.spec.sweep_deg) / 2
        yaw += min(max(off, -half), half)
    pitch = radians(stirrer.pitch_deg)
    along = dx * cos(yaw) * cos(pitch) + dy * sin(yaw) * cos(pitch) + dz * sin(pitch)
    if along <= 0:
        return 0.0
    aside = sqrt(max(away * away - along * along, 0.0))
    if stirrer.spec.kind == "tower":
        # A tower blows a sheet: what lies above and below its middle within a metre is on its axis.
        aside = sqrt(max(aside * aside - min(dz * dz, 0.25), 0.0))
    axis = min(jet.speed_m_s, JET_K * jet.speed_m_s * sqrt(jet.outlet_m2) / along)
    core = sqrt(jet.outlet_m2 / pi)
    beyond = max(0.0, aside - core)
    return float(axis * 2.718281828 ** (-((beyond / (_WIDTH * along)) ** 2)))


def mean_speed_m_s(stirrers: tuple[Stirrer, ...], wall_m2: float, leaf_m2: float) -> float:
    """Give the mean speed of the air that circulation fans keep turning.

    Parameters
    ----------
    stirrers : the fans that run
    wall_m2 : area of walls, floor and top [m²]
    leaf_m2 : leaf area [m²]

    Returns
    -------
    float : u = sqrt(2 η Σ(Q v0)/(Cf A_wall + Cd A_leaf)) [m/s]; good to a factor of two

    Notes
    -----
    Conservation of momentum: the jets against drag on walls (Cf 0.02) and leaves (Cd 0.2), η 0.7.
    """
    push = sum(jet.flow_m3_s * jet.speed_m_s for jet in map(jet_of, stirrers))
    drag = _WALL_DRAG * wall_m2 + _LEAF_DRAG * leaf_m2
    return sqrt(2 * _ETA * push / drag) if drag > 0 else 0.0


def surface_m2(space: Space) -> float:
    """Give the inner surface of a space.

    Returns
    -------
    float : all six faces [m²]
    """
    w, d, h = space.size.width_m, space.size.depth_m, space.size.height_m
    return 2 * (w * d + w * h + d * h)


def whole_air_m_s(space: Space, leaf_m2: float) -> float:
    """Give the mean speed of a space's air: what its circulation fans keep turning, and what creeps by itself.

    Parameters
    ----------
    space : the space, with its circulation fans
    leaf_m2 : leaf area [m²]

    Returns
    -------
    float : speed [m/s]; still air creeps at 0.05 m/s by the lamps' warmth, at an open side at 0.10 m/s (ISO 7730)
    """
    fans = tuple(fan for fan in space.stirrers if fan.enabled)
    return hypot(mean_speed_m_s(fans, surface_m2(space), leaf_m2), OPEN_M_S if is_open(space) else STILL_M_S)


def mixing_per_min(stirrers: tuple[Stirrer, ...], volume_m3: float) -> float:
    """Give how often a minute circulation fans move the whole air.

    Parameters
    ----------
    stirrers : the fans that run
    volume_m3 : volume of the space [m³]

    Returns
    -------
    float : Σ Q / V [1/min]
    """
    return 60 * sum(jet_of(stirrer).flow_m3_s for stirrer in stirrers) / volume_m3


def air_speed_m_s(
    stirrers: tuple[Stirrer, ...], point: tuple[float, float, float], mean_m_s: float, swinging: bool = False
) -> float:
    """Give the speed of the air at a point.

    Parameters
    ----------
    stirrers : the fans that run
    point : x, y, z in the space [m]
    mean_m_s : speed of the air that turns round [m/s]
    swinging : count a swinging fan's jet by its mean over the sweep instead of its peak

    Returns
    -------
    float : jets and mean together as the root of the sum of their squares [m/s]
    """
    total = mean_m_s * mean_m_s
    for stirrer in stirrers:
        speed = jet_speed_m_s(stirrer, point)
        if swinging and stirrer.swings and stirrer.spec.sweep_deg:
            speed *= min(1.0, 2 * 57.3 * _WIDTH / stirrer.spec.sweep_deg * 1.77)
        total += speed * speed
    return sqrt(total)
