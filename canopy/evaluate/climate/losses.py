"""What a space loses for each kelvin, as it is simulated."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from canopy.climate.balance import HEAT_J_KGK
from canopy.evaluate.climate.days import Simulated


def passes_w_k(found: Simulated, rows: NDArray[np.bool_]) -> tuple[float, float]:
    """Give what walls pass and what moved air carries for each kelvin.

    Parameters
    ----------
    found : the simulated days
    rows : which of its intervals count, shape (intervals,)

    Returns
    -------
    (float, float) : walls and air [W/K]
    """
    box = found.days.system.enclosures[found.days.place(found.space_id)]
    walls = sum(f.area_m2 / (1 / f.inner_film_w_m2k + 1 / max(f.outside_w_m2k, 1e-9)) for f in box.faces)
    moved = found.days.system.density_kg_m3 * float(found.traces.flow_m3_h[rows].mean()) / 3600
    return walls, moved * HEAT_J_KGK


def loss_and_dry_air(found: Simulated, rows: NDArray[np.bool_]) -> tuple[float, float]:
    """Give what walls and moved air carry together for each kelvin, and the dry air that is moved.

    Parameters
    ----------
    found : the simulated days
    rows : which of its intervals count, shape (intervals,)

    Returns
    -------
    (float, float) : [W/K] and [kg/s]
    """
    walls, air = passes_w_k(found, rows)
    return walls + air, air / HEAT_J_KGK
