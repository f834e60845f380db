"""How far a tent's walls are drawn in or blown out, and what its poles bear."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from canopy.roots import falling_root

STIFFNESS_N_M, SLACK_STRAIN = 60_000.0, 0.004
BARELY_PA, GOOD_PA, VISIBLE_PA, DAMAGE_PA = -2.0, -12.0, -25.0, -60.0


@dataclass(frozen=True, kw_only=True)
class WallSag:
    """A panel between poles: its sag [m], the pull along it [N/m], and the whole force of the air on it [N]."""

    sag_m: float
    pull_n_m: float
    force_n: float


def wall_sag(pressure_pa: float, span_m: float, height_m: float) -> WallSag:
    """Find how far a panel of fabric bellies out.

    Parameters
    ----------
    pressure_pa : pressure across it; only its size counts [Pa]
    span_m : span between the poles [m]
    height_m : height of the panel [m]

    Returns
    -------
    WallSag : slack sets most of the sag, pressure the pull

    Notes
    -----
    Membrane of stiffness 60 kN/m and 0.4 % slack (assumed, not measured): T = Et max(0, 8/3 (d/b)² − s0), p = 8 T d/b².
    """
    pressure = abs(pressure_pa)
    slack = span_m * sqrt(3 * SLACK_STRAIN / 8)
    if pressure < 1e-6:
        return WallSag(sag_m=0.0, pull_n_m=0.0, force_n=0.0)

    def pull(sag: float) -> float:
        return STIFFNESS_N_M * max(0.0, 8 / 3 * (sag / span_m) ** 2 - SLACK_STRAIN)

    extra = falling_root(lambda more: pressure - 8 * pull(slack + more) * (slack + more) / span_m**2, 0.01, 1e-7)
    sag = slack + extra
    return WallSag(sag_m=sag, pull_n_m=pull(sag), force_n=pressure * span_m * height_m)
