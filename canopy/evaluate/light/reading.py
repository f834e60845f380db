"""What the light of a space is in lux and foot-candles: through the colours of the lamps that fall on its plants."""

from __future__ import annotations

import re

from canopy.errors import QuantityError
from canopy.evaluate.light.lighting import Lighting
from canopy.library import Window
from canopy.light.photometry import given_ppf
from canopy.light.spectra import lux_factor, source_factor
from canopy.plan import Space
from canopy.quantities import LightUnit
from canopy.quantities.reader import LightKey

# What people write for a unit of light, all in small letters, with how many of the unit it is.
_WRITTEN: dict[str, tuple[LightKey, float]] = {
    "": ("ppfd", 1.0),
    "ppfd": ("ppfd", 1.0),
    "µmol": ("ppfd", 1.0),
    "umol": ("ppfd", 1.0),
    "lux": ("lux", 1.0),
    "lx": ("lux", 1.0),
    "klx": ("lux", 1000.0),
    "klux": ("lux", 1000.0),
    "lm/m2": ("lux", 1.0),
    "lumens/m2": ("lux", 1.0),
    "fc": ("fc", 1.0),
    "ftc": ("fc", 1.0),
    "ft-c": ("fc", 1.0),
    "footcandles": ("fc", 1.0),
    "foot-candles": ("fc", 1.0),
    "foot-candle": ("fc", 1.0),
    "lm/ft2": ("fc", 1.0),
    "lumens/ft2": ("fc", 1.0),
}
_NUMBER = re.compile(r"\s*(\d[\d\u202f ]*(?:[.,]\d+)?)\s*")
# One figure is meant about so closely; no meter of lux reads better.
_ABOUT = 0.1
_MOST = 2500
_EXAMPLE = "1,500 fc, 16000–20000 lux or 240–300"


def read_light(text: str, here: LightUnit) -> Window:
    """Read a wish of light as people write it, in any unit.

    Parameters
    ----------
    text : such as "1500 fc", "16-20 klx", "3000 lm/ft2" or "240–300"
    here : the reader's unit, for bare numbers, with the lux per photon of the light that it will be read in

    Returns
    -------
    Window : PPFD [µmol/m²/s]; one figure alone stands for 10 % below to 10 % above it

    Raises
    ------
    QuantityError : no number, a word that is no unit of light, the first figure above the second, or nothing a lamp
        could give
    """
    figures = light_figures(text, here)
    low, high = figures[0], figures[-1]
    if len(figures) == 1:
        low, high = low * (1 - _ABOUT), high * (1 + _ABOUT)
    if low > high:
        raise QuantityError("turned round: the first figure is the lower one")
    if low <= 0 or high > _MOST:
        raise QuantityError(f"that is {low:.0f} to {high:.0f} µmol/m²/s: give 1 to {_MOST}")
    return Window(low=low, high=high)


def light_figures(text: str, here: LightUnit) -> tuple[float, ...]:
    """Read one amount of light or two, in any unit.

    Parameters
    ----------
    text : such as "1500 fc" or "16-20 klx"; a unit holds for both
    here : the unit of bare numbers, with the lux per photon of the light that is meant

    Returns
    -------
    tuple of float : one or two PPFD [µmol/m²/s], as they were written

    Raises
    ------
    QuantityError : no number, more than two, or a word that is no unit of light
    """
    plain = text.strip().lower().replace("²", "2").replace("μ", "µ").replace("/m2/s", "").replace(" per ", "/")
    plain = re.sub(r"(?<=\d),(?=\d{3}(\D|$))", "", plain)
    parts = [part for part in re.split(r"–|—|\.\.+|\bto\b|(?<=\d)\s*-\s*(?=\d)", plain) if part.strip()]
    if not 1 <= len(parts) <= 2:
        raise QuantityError(f"“{text.strip()}” is not an amount of light: try {_EXAMPLE}")
    found = [_NUMBER.match(part) for part in parts]
    numbers = [float(re.sub(r"[\u202f ]", "", item[1]).replace(",", ".")) for item in found if item]
    if len(numbers) != len(parts):
        raise QuantityError(f"“{text.strip()}” is not an amount of light: try {_EXAMPLE}")
    word = parts[-1][len(found[-1][0]) if found[-1] else 0 :].replace(" ", "")
    if word not in _WRITTEN:
        raise QuantityError(f"“{word}” is not a unit of light: try {_EXAMPLE}")
    key, times = _WRITTEN[word] if word else (here.key, 1.0)
    per = LightUnit(key=key, lux_per_umol=here.lux_per_umol).per_umol / times
    return tuple(value / per for value in numbers)


def light_unit(space: Space, lighting: Lighting | None, key: LightKey) -> LightUnit:
    """Give a unit of light as it holds in a space.

    Parameters
    ----------
    space : its lamps and windows
    lighting : its light; the lamps alone count when None, or where nothing grows
    key : "ppfd", "lux" or "fc"

    Returns
    -------
    LightUnit : one factor for the whole space, weighed by what falls on the plants; its doubt takes in the spread of
        each kind of light and how far the plants' own mixtures lie from the mean
    """
    factors = [lux_factor(lamp.spec) for lamp in space.fixtures]
    factors += [source_factor("daylight")] * len(space.daylight)
    rows = [light.by_source_umol_m2_s for light in lighting.plants] if lighting else []
    if not any(sum(row) > 0 for row in rows):
        rows = [tuple(given_ppf(lamp) for lamp in space.fixtures) + (1e-9,) * len(space.daylight)]
    total = sum(sum(row) for row in rows)
    if total <= 0:
        only = source_factor("white-led")
        return LightUnit(key=key, lux_per_umol=only.lux_per_umol, doubt=only.doubt)
    each = [
        sum(value * factor.lux_per_umol for value, factor in zip(row, factors, strict=True)) / sum(row)
        for row in rows
        if sum(row) > 0
    ]
    lux = sum(v * f.lux_per_umol for row in rows for v, f in zip(row, factors, strict=True)) / total
    kinds = sum(v * f.lux_per_umol * f.doubt for row in rows for v, f in zip(row, factors, strict=True)) / total / lux
    spread = max(abs(one / lux - 1) for one in each)
    return LightUnit(key=key, lux_per_umol=lux, doubt=(kinds**2 + spread**2) ** 0.5)
