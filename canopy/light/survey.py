"""A light survey held against the model: bias, scatter, what each lamp really gives, and readings that do not fit."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.errors import PhotometricError
from canopy.light.crowns import Crown
from canopy.light.scene import POINTS, Quality, field_of, inside, weights
from canopy.light.spectra import reading_to_ppfd
from canopy.logs.facts import LightReading, LightSurvey
from canopy.plan.document import Space
from canopy.plan.furnishing import FixtureFactor, Survey

Array = NDArray[np.float64]
# A lamp that no reading sees is taken to give what is stated, within this much.
_PRIOR = 0.5
_OUTLIER, _ROUNDS, _EASE = 3.0, 8, 1.5
_FLOOR_SHARE = 0.05
# Readings this many times the model's (or this part of it) are in another unit than was said.
_WRONG_UNIT = 15.0


@dataclass(frozen=True, kw_only=True)
class ReadingFit:
    """One reading: measured and modelled PPFD before and after the fit [µmol/m²/s]; whether it fits the others."""

    number: int
    measured: float
    stated: float
    fitted: float
    outlier: bool


@dataclass(frozen=True, kw_only=True)
class LampFit:
    """What a lamp gives against what is stated, and the standard error; ``seen`` when readings tell."""

    fixture_id: str
    factor: float
    standard_error: float
    seen: bool


@dataclass(frozen=True, kw_only=True)
class SurveyFit:
    """A survey's result: median of measured / stated - 1, scatter about the fit [shares], lamps, readings, a doubt."""

    bias: float
    scatter: float
    lamps: tuple[LampFit, ...]
    readings: tuple[ReadingFit, ...]
    doubt: str = ""


def fit_survey(
    space: Space, survey: LightSurvey, *, crowns: tuple[Crown, ...] = (), quality: Quality = POINTS
) -> SurveyFit:
    """Fit lamps' factors to a survey's readings.

    Parameters
    ----------
    space : the space as it hung when the survey was taken
    survey : the readings; those that were struck, or lie outside the space as it is by now, are not looked at
    crowns : what stood in the way
    quality : how finely to cut the walls

    Returns
    -------
    SurveyFit : with a doubt in words when the unit looks wrong

    Raises
    ------
    PhotometricError : no reading inside the space, or all of them zero

    Notes
    -----
    Weighted least squares of readings y = A g + daylight with a weak prior g = 1 ± 0.5. A reading's error is the
    meter's share of what the model expects there, not of what was read: a shadowed meter would else count most. First
    with Huber's weights (1964), so that no single reading draws the fit to itself; then readings more than three robust
    standard deviations off are left out and the rest fitted by plain least squares. Standard errors from the
    covariance, widened by the scatter where that is larger than the meter's error.
    """
    readings = tuple(reading for reading in survey.counting if lies_inside(space, reading))
    if not readings:
        raise PhotometricError("there is no reading yet" if not survey.counting else "no reading lies inside the space")
    bare = space.model_copy(update={"survey": None})
    points = inside(space, np.array([(r.x_m, r.y_m, r.z_m) for r in readings]))
    light = field_of(bare, quality, crowns).at(points).total * weights(bare, survey.taken_on)
    lamps = len(space.fixtures)
    a, day = light[:, :lamps], light[:, lamps:].sum(axis=1)
    read = [reading_to_ppfd(r.value, survey.unit, survey.source_id, survey.cct_k) for r in readings]
    y, error = np.array([r.ppfd_umol_m2_s for r in read]), np.array([r.uncertainty for r in read])
    if not (y > 0).any():
        raise PhotometricError("all readings are zero: was the meter's cap on?")
    stated = a.sum(axis=1) + day
    expected = stated * (1 + _bias(y, stated))
    sigma = error * np.maximum(expected, _FLOOR_SHARE * float(np.median(y[y > 0])))
    keep, ease = np.ones(len(y), dtype=bool), np.ones(len(y))
    for _ in range(_ROUNDS):
        g, _ = _solve(a, y - day, sigma / np.sqrt(ease))
        off = np.abs(y - day - a @ g) / sigma
        scale = max(1.0, 1.4826 * float(np.median(off)))
        ease = np.minimum(1.0, _EASE * scale / np.maximum(off, 1e-9))
    fresh = off <= _OUTLIER * scale
    if fresh.sum() >= max(3, lamps):
        keep = fresh
    g, covariance = _solve(a[keep], (y - day)[keep], sigma[keep])
    fitted = a @ g + day
    ratio = np.divide(y, fitted, out=np.ones_like(y), where=fitted > 0)
    scatter = float(np.std(ratio[keep]))
    wide = max(1.0, scatter / float(error.mean()))
    return SurveyFit(
        bias=_bias(y, stated),
        scatter=scatter,
        lamps=tuple(
            LampFit(
                fixture_id=lamp.id,
                factor=float(np.clip(g[k], 0.05, 5)),
                standard_error=float(min(_PRIOR, np.sqrt(covariance[k, k]) * wide)),
                seen=bool(np.sqrt(covariance[k, k]) < 0.6 * _PRIOR),
            )
            for k, lamp in enumerate(space.fixtures)
        ),
        readings=tuple(
            ReadingFit(
                number=r.number,
                measured=float(y[k]),
                stated=float(stated[k]),
                fitted=float(fitted[k]),
                outlier=not bool(keep[k]),
            )
            for k, r in enumerate(readings)
        ),
        doubt=_doubt(y, stated, survey),
    )


def _solve(a: Array, y: Array, sigma: Array) -> tuple[Array, Array]:
    scaled = a / sigma[:, None]
    precision = scaled.T @ scaled + np.eye(a.shape[1]) / _PRIOR**2
    covariance: Array = np.linalg.inv(precision).astype(np.float64)
    return covariance @ (scaled.T @ (y / sigma) + 1 / _PRIOR**2), covariance


def _bias(y: Array, stated: Array) -> float:
    lit = stated > 0
    return float(np.median(y[lit] / stated[lit]) - 1) if lit.any() else 0.0


def _doubt(y: Array, stated: Array, survey: LightSurvey) -> str:
    ratio = 1 + _bias(y, stated)
    if survey.unit == "ppfd" and ratio > _WRONG_UNIT:
        return f"The readings are {ratio:.0f} times what the lamps can give: is this lux?"
    if survey.unit == "lux" and 0 < ratio < 1 / _WRONG_UNIT:
        return f"The readings are a {1 / ratio:.0f}th of what the lamps should give: is this PPFD or foot-candles?"
    if survey.unit == "fc" and ratio > _WRONG_UNIT / 2:
        return f"The readings are {ratio:.0f} times what the lamps can give: is this lux?"
    return ""


def sheet_points(space: Space, height_m: float, across: int = 5) -> tuple[tuple[float, float, float], ...]:
    """Lay out points for a survey sheet: an even raster at one height, a hand's breadth off the walls.

    Parameters
    ----------
    height_m : height of the meter [m]
    across : points along the longer side

    Returns
    -------
    tuple of (float, float, float) : x, y, z row by row from the front left [m]
    """
    w, d = space.size.width_m, space.size.depth_m
    nx, ny = max(2, round(across * w / max(w, d))), max(2, round(across * d / max(w, d)))
    xs, ys = np.linspace(0.1 * w, 0.9 * w, nx), np.linspace(0.1 * d, 0.9 * d, ny)
    return tuple((round(float(x), 3), round(float(y), 3), height_m) for y in ys for x in xs)


def lies_inside(space: Space, reading: LightReading) -> bool:
    """Say whether a reading's place lies inside a space as it is planned.

    Parameters
    ----------
    reading : with its place [m]

    Returns
    -------
    bool : within a millimetre
    """
    size = space.size
    at = ((reading.x_m, size.width_m), (reading.y_m, size.depth_m), (reading.z_m, size.height_m))
    return all(value <= most + 1e-3 for value, most in at)


def followed(space: Space, fit: SurveyFit, taken_on: dt.date, day: dt.date) -> Survey:
    """Give what a plan keeps of a fit, so that all light follows it.

    Parameters
    ----------
    space : the space as it is by now
    taken_on : when the readings were taken
    day : today

    Returns
    -------
    Survey : lamps that no reading sees, or that hang there no longer, keep factor 1
    """
    here = {lamp.id for lamp in space.fixtures}
    return Survey(
        taken_on=taken_on,
        fitted_on=day,
        factors=tuple(
            FixtureFactor(
                fixture_id=lamp.fixture_id,
                factor=round(lamp.factor, 4),
                standard_error=round(lamp.standard_error, 4),
            )
            for lamp in fit.lamps
            if lamp.seen and lamp.fixture_id in here
        ),
    )
