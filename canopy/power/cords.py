"""What cords carry, and what is lost in them."""

from __future__ import annotations

from canopy.library import cords

# Copper at the warmth of a loaded cord, about 50 °C [Ω mm²/m]: 0.0172 at 20 °C and 0.39 % a kelvin (IEC 60228).
RESISTIVITY_OHM_MM2_M = 0.0193
# A reel that is not wound off sheds its heat so much worse (makers print a third on them).
COILED_SHARE = 0.35


def carries_a(area_mm2: float, *, coiled: bool = False) -> float:
    """Give what a cord carries.

    Parameters
    ----------
    area_mm2 : cross-section of a conductor, 0.3 to 10 [mm²]
    coiled : on a reel, or in a heap

    Returns
    -------
    float : by the next smaller size of the library; in proportion below the smallest [A]
    """
    rows = sorted(cords().values(), key=lambda row: row.area_mm2)
    fitting = [row for row in rows if row.area_mm2 <= area_mm2 + 1e-9]
    found = fitting[-1].carries_a if fitting else rows[0].carries_a * area_mm2 / rows[0].area_mm2
    return found * (COILED_SHARE if coiled else 1.0)


def drop_v(length_m: float, area_mm2: float, current_a: float) -> float:
    """Give the voltage lost in a cord, there and back.

    Parameters
    ----------
    length_m : of the cord [m]
    area_mm2 : cross-section of a conductor [mm²]
    current_a : what flows [A]

    Returns
    -------
    float : 2 L I ρ / A [V]
    """
    return 2 * length_m * current_a * RESISTIVITY_OHM_MM2_M / area_mm2
