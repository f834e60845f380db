"""What lamps give against what is computed, by a light meter that stays at the leaves; and how it fades."""

from __future__ import annotations

import datetime as dt

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.space import SpaceReport
from canopy.review.finding import Finding, unknown
from canopy.review.playback import LAMPS, on_share
from canopy.review.quantity import mean_ppfd
from canopy.review.series import Grid
from canopy.review.trends import Trend, daily, trend

Floats = NDArray[np.float64]
# Where among the leaves a meter hangs is not known: so much its place differs from their mean, and the meter itself.
_PLACE, _METER = 0.08, 0.05
# Lamps count as on from so much of their usual draw, or light of its highest, on.
_ON = 0.85
# A lamp is past its best at so much of what it gave.
SPENT = 0.8


def lit_values(grid: Grid) -> tuple[NDArray[np.int64], Floats]:
    """Give what the light meter showed while all lamps were on.

    Parameters
    ----------
    grid : what was measured

    Returns
    -------
    (ndarray, ndarray) : seconds and PPFD [µmol/m²/s], shape (n,); by the lamps' plug where it is metered, else by the
        light itself
    """
    light = grid.inside.get("ppfd")
    at = grid.begins + np.arange(grid.steps, dtype=np.int64) * grid.every_s
    if light is None:
        return at[:0], np.zeros(0)
    if LAMPS in grid.watts:
        share, usual = on_share(grid.watts[LAMPS])
        on = share > _ON if usual > 0 else np.zeros(grid.steps, dtype=bool)
    else:
        fine = light[np.isfinite(light)]
        top = float(np.percentile(fine, 90)) if fine.size else 0.0
        on = light > _ON * top
    use = on & np.isfinite(light) & (light > 1)
    return at[use], light[use]


def shining(grid: Grid, report: SpaceReport) -> Finding:
    """Find what lamps give against what is computed.

    Parameters
    ----------
    grid : what was measured
    report : of the space as it stands

    Returns
    -------
    Finding : as rough as the meter's place; a survey with a meter in hand tells it better
    """
    computed = mean_ppfd(report)
    at, light = lit_values(grid)
    if not len(light):
        return unknown("lamp-light", "no light meter stays at the plants, or it never saw the lamps on")
    if computed <= 0:
        return unknown("lamp-light", "nothing grows there that light could be computed at")
    factor = float(np.median(light[-2000:])) / computed
    days = (dt.datetime.fromtimestamp(int(at[0]), dt.UTC).date(), dt.datetime.fromtimestamp(int(at[-1]), dt.UTC).date())
    return Finding(
        subject="lamp-light",
        factor=factor,
        standard_error=factor * float(np.hypot(_PLACE, _METER)),
        limits="one meter stands for all leaves: where it hangs makes 8 %; a survey plant by plant tells it better",
        begins=days[0],
        ends=days[1],
    )


def fading(grid: Grid, report: SpaceReport) -> Trend:
    """Say how lamps fade, and when they will be past their best.

    Parameters
    ----------
    grid : what was measured
    report : of the space as it stands

    Returns
    -------
    Trend : of the light at the meter; its bound is four fifths of what is computed of new lamps
    """
    at, light = lit_values(grid)
    if not len(light):
        return Trend(why_not="no light meter stays at the plants")
    days, values = daily(at, light, np.ones(len(at), dtype=bool))
    return trend(days, values, SPENT * max(values[0], mean_ppfd(report) if values else 1.0))
