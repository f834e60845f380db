"""What soil growing needs before the first seed: mix, and water to wet it."""

from __future__ import annotations

from canopy.library import Mix


def soil_water_l(mix: Mix, volume_l: float) -> float:
    """Give the water that wets a dry mix before it is filled in.

    Parameters
    ----------
    mix : the growing mix
    volume_l : how much of it [L]

    Returns
    -------
    float : water [L]
    """
    return mix.premoisten_l_l * volume_l
