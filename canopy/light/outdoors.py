"""Daylight outdoors: the DLI of a day at a latitude under a sky, to compare a lamp's light with."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace
from math import acos, cos, pi, radians, sin, tan

import numpy as np
from numpy.typing import NDArray

from canopy.errors import GeometryError
from canopy.light.glass import diffuse, transmittance

_SOLAR_MJ_M2_MIN = 0.0820
# Share of the radiation above the air that reaches the ground: FAO-56 eq. 35-37 with n/N = 1, 0.4 and 0.
SKIES = {"clear": 0.75, "mixed": 0.45, "overcast": 0.25}
# Photons 400-700 nm in global radiation [mol/MJ].
_MOL_PER_MJ = 2.04


@dataclass(frozen=True, kw_only=True)
class Likeness:
    """A month and sky at a latitude whose daylight comes close to a DLI."""

    month: int
    sky: str
    dli_mol_m2_d: float


def extraterrestrial_mj_m2_d(latitude_deg: float, day: dt.date) -> float:
    """Give the sun's radiation above the air on a level surface.

    Parameters
    ----------
    latitude_deg : north positive, -66 to 66 [°]

    Returns
    -------
    float : daily radiation [MJ/m²/d]

    Raises
    ------
    GeometryError : beyond the polar circles, where a day may have no sunset

    Notes
    -----
    FAO-56, equations 21 to 25.
    """
    if not -66 <= latitude_deg <= 66:
        raise GeometryError(f"latitude {latitude_deg:g}° lies beyond the polar circles: give -66 to 66")
    number = day.timetuple().tm_yday
    phi = radians(latitude_deg)
    distance = 1 + 0.033 * cos(2 * pi * number / 365)
    declination = 0.409 * sin(2 * pi * number / 365 - 1.39)
    sunset = acos(max(-1.0, min(1.0, -tan(phi) * tan(declination))))
    return (
        24
        * 60
        / pi
        * _SOLAR_MJ_M2_MIN
        * distance
        * (sunset * sin(phi) * sin(declination) + cos(phi) * cos(declination) * sin(sunset))
    )


def outdoor_dli_mol_m2_d(latitude_deg: float, day: dt.date, sky: str = "mixed") -> float:
    """Give the daylight outdoors.

    Parameters
    ----------
    latitude_deg : north positive [°]
    sky : "clear", "mixed" or "overcast"

    Returns
    -------
    float : DLI on a level surface [mol/m²/d]; good to about 15 % for the mean of such days
    """
    return extraterrestrial_mj_m2_d(latitude_deg, day) * SKIES[sky] * _MOL_PER_MJ


# Compass points a window can face, degrees from north through east.
FACINGS = {"N": 0, "NE": 45, "E": 90, "SE": 135, "S": 180, "SW": 225, "W": 270, "NW": 315}
# What bare ground and houses send back of the light that falls on them (FAO-56 and most handbooks: about 0.2).
_GROUND = 0.2
_STEPS_A_DAY = 192
# Global radiation of a clear sky 1098 sin h exp(-0.057 / sin h) [W/m²], Haurwitz (1945); sun above the air.
_HAURWITZ_W_M2, _HAURWITZ_DEPTH, _SOLAR_W_M2 = 1098.0, 0.057, 1361.0
# Below this sine of its height the sun counts as set for the beam.
_LOWEST_SUN = 0.03


def window_dli_mol_m2_d(
    latitude_deg: float, day: dt.date, facing: str, sky: str = "mixed", *, panes: int = 2, open_share: float = 1.0
) -> float:
    """Estimate the daylight just inside an upright window.

    Parameters
    ----------
    latitude_deg : north positive, -66 to 66 [°]
    day : any day of the year
    facing : a key of FACINGS, the way the window looks
    sky : "clear", "mixed" or "overcast"
    panes : how many panes of clear glass, 1 to 3
    open_share : what part of the sky before it is free of houses and trees, 0..1; the sun counts by the same part

    Returns
    -------
    float : DLI on the pane's inner side, facing out [mol/m²/d]; good to about a third, as far as sky and houses go

    Raises
    ------
    GeometryError : beyond the polar circles

    Notes
    -----
    Through the day the sun stands by latitude, declination (FAO-56, equation 24) and hour; Haurwitz (1945) gives the
    clear sky's light by the sun's height, other skies a share of it; Erbs, Klein and Duffie (1982) part it into beam
    and diffuse; the diffuse sky is taken as even (half of it before an upright pane), the ground
    sends back a fifth. Glass by angle for the beam, by its hemispherical mean for the rest.
    """
    if not -66 <= latitude_deg <= 66:
        raise GeometryError(f"latitude {latitude_deg:g}° lies beyond the polar circles: give -66 to 66")
    number = day.timetuple().tm_yday
    phi, turned = radians(latitude_deg), radians(FACINGS[facing])
    declination = 0.409 * sin(2 * pi * number / 365 - 1.39)
    hour = (np.arange(_STEPS_A_DAY) + 0.5) / _STEPS_A_DAY * 2 * pi - pi
    up = np.clip(sin(phi) * sin(declination) + cos(phi) * cos(declination) * np.cos(hour), 0, None)
    # The sun's direction: east, north, up.
    east = -cos(declination) * np.sin(hour)
    north = cos(phi) * sin(declination) - sin(phi) * cos(declination) * np.cos(hour)
    onto = np.clip(east * sin(turned) + north * cos(turned), 0, None) * (up > 0)
    height = np.maximum(up, _LOWEST_SUN)
    rate = np.where(up > 0, _HAURWITZ_W_M2 * up * np.exp(-_HAURWITZ_DEPTH / height), 0.0) * SKIES[sky] / SKIES["clear"]
    scattered = _diffuse_share(rate / (_SOLAR_W_M2 * height))
    beam = np.where(up > _LOWEST_SUN, rate * (1 - scattered) / height, 0.0)
    spread = rate * (scattered / 2 + _GROUND / 2) * diffuse()[0] ** panes
    inside = beam * onto * transmittance(onto) ** panes + spread
    seconds = 86_400 / _STEPS_A_DAY
    return open_share * float(inside.sum()) * seconds * 1e-6 * _MOL_PER_MJ


def _diffuse_share(clearness: NDArray[np.float64]) -> NDArray[np.float64]:
    """Diffuse part of the light on level ground by clearness, Erbs, Klein and Duffie (1982), equation 1."""
    k = clearness
    between = 0.9511 - 0.1604 * k + 4.388 * k**2 - 16.638 * k**3 + 12.336 * k**4
    return np.asarray(np.where(k <= 0.22, 1 - 0.09 * k, np.where(k <= 0.8, between, 0.165)))


def like_outdoors(dli_mol_m2_d: float, latitude_deg: float, year: int = 2026) -> tuple[Likeness, ...]:
    """Find the months whose daylight comes closest to a DLI, one for each sky.

    Parameters
    ----------
    dli_mol_m2_d : the light under the lamps [mol/m²/d]
    latitude_deg : north positive [°]
    year : any year

    Returns
    -------
    tuple of Likeness : one a sky, those within a quarter; empty when no month there is as dim or as bright
    """
    found = []
    for sky in SKIES:
        months = [(outdoor_dli_mol_m2_d(latitude_deg, dt.date(year, month, 15), sky), month) for month in range(1, 13)]
        value, month = min(months, key=lambda item: abs(item[0] - dli_mol_m2_d))
        if abs(value - dli_mol_m2_d) <= 0.25 * dli_mol_m2_d:
            found.append(Likeness(month=month, sky=sky, dli_mol_m2_d=value))
    return tuple(found)


@dataclass(frozen=True, kw_only=True)
class HardeningStep:
    """A day, or some alike, of getting used to the sun: hours in the open, the rest indoors, and the DLI it makes."""

    day: dt.date
    hours_out: float
    dli_mol_m2_d: float
    last: dt.date | None = None


def hardening_off(
    indoor_dli: float, latitude_deg: float, start: dt.date, *, days: int = 10, daylight_h: float = 12.0
) -> tuple[HardeningStep, ...]:
    """Lay out how plants get used to the light outdoors.

    Parameters
    ----------
    indoor_dli : the light they come from [mol/m²/d]
    latitude_deg : north positive [°]
    start : the first day out
    days : over how many days
    daylight_h : how long it is light outdoors [h]

    Returns
    -------
    tuple of HardeningStep : the day's light rises in even ratios from the indoor to the outdoor figure of mixed skies;
        days that are alike make one step, up to its ``last``

    Raises
    ------
    GeometryError : no days, or no light indoors
    """
    if days < 2 or indoor_dli <= 0:
        raise GeometryError("hardening off takes at least two days and plants that had some light")
    found = []
    for number in range(days):
        day = start + dt.timedelta(days=number)
        out = outdoor_dli_mol_m2_d(latitude_deg, day, "mixed")
        if out <= indoor_dli:
            found.append(HardeningStep(day=day, hours_out=daylight_h, dli_mol_m2_d=out))
            continue
        wanted = indoor_dli * (out / indoor_dli) ** ((number + 1) / days)
        share = (wanted - indoor_dli) / (out - indoor_dli)
        found.append(HardeningStep(day=day, hours_out=round(2 * share * daylight_h) / 2, dli_mol_m2_d=wanted))
    steps: list[HardeningStep] = []
    for step in found:
        if steps and steps[-1].hours_out == step.hours_out:
            steps[-1] = replace(steps[-1], last=step.day)
        else:
            steps.append(step)
    return tuple(steps)
