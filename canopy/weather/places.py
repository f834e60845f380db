"""Places that do not exist, in climates that do: their hourly year is made by a generator with a seed."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Annotated, Any

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from canopy.errors import LibraryError
from canopy.model import Id, Name, Record
from canopy.psychrometrics import saturation_pa
from canopy.weather.year import HOURS, Year, YearInShort, in_short

Array = NDArray[np.float64]
# The coldest day lies a month behind the winter solstice; the day's warmest hour in mid-afternoon.
_COLDEST_DAY, _WARMEST_HOUR = 20.0, 15.0
# The dew point follows the day's mean with a swing of its own, small against that of the air.
_DEW_SWING, _DEW_STRAYS = 0.15, 0.8
_LEAST_DRY_K = 0.3


class Place(Record):
    """An invented place: its year's mean, how far the season takes it off, the swing of a day, how far the weather
    strays and for how long, and how far the dew point lies below the day's mean [°C, K, days].
    """

    id: Id
    name: Name
    words: str
    latitude_deg: Annotated[float, Field(ge=-66, le=66)]
    altitude_m: float
    mean_c: float
    season_k: Annotated[float, Field(gt=0)]
    swing_winter_k: Annotated[float, Field(ge=0)]
    swing_summer_k: Annotated[float, Field(ge=0)]
    strays_k: Annotated[float, Field(ge=0)]
    strays_days: Annotated[float, Field(gt=0)]
    dry_winter_k: Annotated[float, Field(gt=0)]
    dry_summer_k: Annotated[float, Field(gt=0)]
    seed: int


@cache
def places() -> dict[str, Place]:
    """Load the invented places.

    Returns
    -------
    dict of str to Place : by their ids, in the file's order
    """
    text = files("canopy.weather").joinpath("data/places.toml").read_text(encoding="utf-8")
    return {item["id"]: Place.model_validate(item) for item in tomllib.loads(text)["place"]}


def _place(place_id: str) -> Place:
    found = places().get(place_id)
    if found is None:
        raise LibraryError(f"there is no place called “{place_id}”")
    return found


@cache
def year_of(place_id: str) -> Year:
    """Make a place's year.

    Parameters
    ----------
    place_id : such as "ostervale"

    Returns
    -------
    Year : the same each time; season and day as cosines, the weather as a random walk that is drawn back (first-order
        autoregression over its days, begun so that the year's end meets its beginning)

    Raises
    ------
    LibraryError : there is no such place
    """
    place = _place(place_id)
    draw: Any = np.random.default_rng(place.seed)
    hour = np.arange(HOURS)
    day, clock = hour / 24, hour % 24
    shift = _COLDEST_DAY + (182.5 if place.latitude_deg < 0 else 0.0)
    winter = np.cos(2 * np.pi * (day - shift) / 365)
    swing = _between(winter, place.swing_winter_k, place.swing_summer_k)
    dry = _between(winter, place.dry_winter_k, place.dry_summer_k)
    strays = _weather(draw, place.strays_k, 24 * place.strays_days)
    cloud = np.clip(1 + 0.35 * _weather(draw, 1.0, 24 * place.strays_days / 2), 0.2, 1.6)
    seasonal = place.mean_c - place.season_k * winter + strays
    shape = np.cos(2 * np.pi * (clock - _WARMEST_HOUR) / 24)
    temperature = seasonal + swing * cloud * shape
    dew = seasonal - dry * np.clip(cloud, 0.4, 1.5) + _DEW_SWING * swing * shape
    dew += _weather(draw, _DEW_STRAYS, 18)
    dew = np.minimum(dew, temperature - _LEAST_DRY_K)
    rh = [100 * saturation_pa(d) / saturation_pa(t) for d, t in zip(dew, temperature, strict=True)]
    return Year(temperature_c=np.round(temperature, 2), rh_pct=np.round(np.clip(rh, 5, 100), 1))


def _between(winter: Array, cold: float, warm: float) -> Array:
    return np.asarray(warm + (cold - warm) * (1 + winter) / 2)


def _weather(draw: Any, spread: float, hours: float) -> Array:
    """Noise of a given spread that is forgotten over so many hours; run through once before it counts."""
    keep = float(np.exp(-1 / hours))
    steps = draw.standard_normal(2 * HOURS) * spread * np.sqrt(1 - keep * keep)
    found, value = np.empty(HOURS), 0.0
    for k, step in enumerate(steps):
        value = keep * value + float(step)
        if k >= HOURS:
            found[k - HOURS] = value
    return found


@cache
def short_of(place_id: str) -> YearInShort:
    """Put a place's year in short.

    Parameters
    ----------
    place_id : such as "ostervale"

    Returns
    -------
    YearInShort : kept

    Raises
    ------
    LibraryError : there is no such place
    """
    return in_short(year_of(place_id))
