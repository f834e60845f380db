"""Set the dimmers: the least power that brings every plant into its daily window (a linear programme, HiGHS)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from canopy.design.light.proposal import INSIDE, PPFD_COUNTS, Basis, Proposal, basis_of, unmet, windows
from canopy.evaluate.light.lighting import lighting
from canopy.light.scene import DEFAULT, Quality
from canopy.margin import Amount, sentence
from canopy.plan.changes import Change
from canopy.plan.document import Fixture
from canopy.season import Standing

Array = NDArray[np.float64]
# What missing a window by all of it costs against running all lamps at full.
_MISS = 1000.0
_LEAST = 0.05


def best_dimmers(here: Standing, basis: Basis) -> Array:
    """Find the dimmer settings.

    Parameters
    ----------
    here : the space on a day
    basis : light of each lamp at full output

    Returns
    -------
    ndarray : shape (lamps,), 0..1; lamps that are switched off stay at 0, those without a dimmer as they are

    Notes
    -----
    minimise Σ P d + M Σ (short/low + over/high), subject to A d + short ≥ low, A d - over ≤ high and E d - burnt ≤
    limit, 0 ≤ d ≤ 1: linear because light adds. PPFD under its window counts too, at half the weight.
    """
    from scipy.optimize import linprog

    low, high = windows(here)
    plants, lamps = basis.mean.shape
    low, high = np.minimum(low * INSIDE, (low + high) / 2), np.maximum(high / INSIDE, (low + high) / 2)
    limit = np.array([plant.want.ppfd_limit_umol_m2_s for plant in here.plants]) / INSIDE
    power = np.array([lamp.spec.power_w for lamp in here.space.fixtures])
    eye, nothing = np.eye(plants), np.zeros((plants, plants))
    dim = np.array([plant.want.ppfd_umol_m2_s.low for plant in here.plants]) * INSIDE
    ends = (low, high, limit, dim / PPFD_COUNTS)
    cost = np.concatenate([power / power.sum(), *(_MISS / end / plants for end in ends)])
    rows = np.block(
        [
            [-basis.dli, -eye, nothing, nothing, nothing],
            [basis.dli, nothing, -eye, nothing, nothing],
            [basis.most, nothing, nothing, -eye, nothing],
            [-basis.mean, nothing, nothing, nothing, -eye],
        ]
    )
    bounds = np.concatenate(
        [
            basis.daylight_dli - low,
            high - basis.daylight_dli,
            limit - basis.daylight_ppfd,
            basis.daylight_ppfd - dim,
        ]
    )
    top = [_reach(lamp) for lamp in here.space.fixtures]
    found = linprog(cost, A_ub=rows, b_ub=bounds, bounds=[*top, *[(0.0, None)] * (4 * plants)], method="highs")
    return np.asarray(found.x[:lamps])


def _reach(lamp: Fixture) -> tuple[float, float]:
    """What a lamp's dimmer may be set to: one without a dimmer keeps its setting."""
    if not lamp.enabled:
        return 0.0, 0.0
    return (0.0, 1.0) if lamp.can_dim else (lamp.dim, lamp.dim)


def set_dimmers(here: Standing, quality: Quality = DEFAULT) -> Proposal | None:
    """Propose dimmer settings.

    Parameters
    ----------
    here : the space on a day, with plants and lamps
    quality : how finely to cut the walls

    Returns
    -------
    Proposal : settings in whole per cents; None where nothing would change or there is nothing to set
    """
    lamps = here.space.fixtures
    if not here.plants or not any(lamp.enabled for lamp in lamps):
        return None
    wanted = best_dimmers(here, basis_of(here, quality))
    rounded = [round(float(value), 2) if value >= _LEAST else 0.0 for value in wanted]
    fresh = tuple(
        lamp.model_copy(update={"dim": dim}) if lamp.enabled else lamp for lamp, dim in zip(lamps, rounded, strict=True)
    )
    changes = tuple(
        Change(collection="fixtures", part_id=lamp.id, values={"dim": lamp.dim})
        for lamp, old in zip(fresh, lamps, strict=True)
        if lamp.dim != old.dim
    )
    after = here.moved(here.space.model_copy(update={"fixtures": fresh}))
    left = unmet(after, lighting(after, quality, with_map=False))
    if not changes:
        return None
    used = [dim for dim, lamp in zip(rounded, lamps, strict=True) if lamp.enabled]
    amount = Amount(
        value=100 * min(used), high=100 * max(used) if max(used) > min(used) else None, unit="%", decimals=0
    )
    return Proposal(key="dimmers", label=sentence("Set the dimmers to {dim}", dim=amount), changes=changes, unmet=left)
