"""Spectra: bands of photons, typical lamps, files, and readings in lux or foot-candles."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from canopy.equipment import FixtureSpec
from canopy.errors import PhotometricError
from canopy.library import find, lamp_spectra, light_sources
from canopy.light.photometry import luminous_factor, lux_per_umol, white_led_spectrum
from canopy.quantities.reader import LUX_PER_FOOT_CANDLE

Array = NDArray[np.float64]
BANDS = (("blue", 400.0, 500.0), ("green", 500.0, 600.0), ("red", 600.0, 700.0), ("far red", 700.0, 750.0))
# The typical light of each kind of lamp that is not LED.
_USUAL = {
    "fluorescent": "cool-white-fluorescent",
    "hps": "hps",
    "metal-halide": "metal-halide",
    "incandescent": "incandescent",
}
MAX_ROWS, _MAX_BYTES = 500, 500_000


@dataclass(frozen=True, kw_only=True)
class Spectrum:
    """Relative power per nm: shapes (n,), rising wavelengths [nm]."""

    wavelength_nm: Array
    power: Array


@dataclass(frozen=True, kw_only=True)
class Reading:
    """A meter's reading as PPFD [µmol/m²/s], with how far it may be off [share]."""

    ppfd_umol_m2_s: float
    uncertainty: float


@dataclass(frozen=True, kw_only=True)
class LuxFactor:
    """Lux per µmol/m²/s of a lamp's light, and how far that may be off [share]."""

    lux_per_umol: float
    doubt: float


# Of a spectrum that was measured (V(λ) is exact), and of coloured LED taken as typical.
_MEASURED_DOUBT, _COLOURED_DOUBT = 0.03, 0.2


@cache
def typical(spectrum_id: str) -> Spectrum:
    """Give a typical spectrum of the library.

    Parameters
    ----------
    spectrum_id : its id, or "white-led-4000" for white LED of a colour temperature

    Returns
    -------
    Spectrum : from 300 to 1100 nm

    Raises
    ------
    LibraryError : no such spectrum
    """
    nm: Array = np.arange(300.0, 1101.0, dtype=np.float64)
    if spectrum_id.startswith("white-led"):
        tail = spectrum_id.rpartition("-")[2]
        return Spectrum(wavelength_nm=nm, power=white_led_spectrum(nm, float(tail) if tail.isdigit() else 4000.0))
    row = find(lamp_spectra(), spectrum_id, "spectrum")
    power = np.zeros_like(nm)
    for band in row.bands:
        sigma = band.width_nm / 2.3548
        power += band.power / sigma * np.exp(-(((nm - band.peak_nm) / sigma) ** 2) / 2)
    return Spectrum(wavelength_nm=nm, power=power)


def spectrum_of(spec: FixtureSpec) -> Spectrum:
    """Give a lamp's spectrum.

    Parameters
    ----------
    spec : the lamp

    Returns
    -------
    Spectrum : its own, or the typical one that was named, or that of its kind
    """
    if spec.spectrum:
        table = np.array(spec.spectrum)
        return Spectrum(wavelength_nm=table[:, 0], power=table[:, 1])
    if spec.spectrum_id:
        return typical(spec.spectrum_id)
    if spec.output.kind == "lumens":
        source = spec.output.source_id
        return typical(f"white-led-{spec.output.cct_k:.0f}" if source == "white-led" else source)
    return typical(_USUAL.get(spec.technology, "white-led-4000"))


def lux_factor(spec: FixtureSpec) -> LuxFactor:
    """Give what a lamp's photons are in lux.

    Parameters
    ----------
    spec : the lamp

    Returns
    -------
    LuxFactor : by its own spectrum, else by its kind of light; without doubt where its output is stated in lumens,
        which were turned into photons by this very factor
    """
    if spec.spectrum:
        own = spectrum_of(spec)
        return LuxFactor(
            lux_per_umol=luminous_factor(own.wavelength_nm, own.power),
            doubt=0.0 if spec.output.kind == "lumens" else _MEASURED_DOUBT,
        )
    if spec.output.kind == "lumens":
        return LuxFactor(lux_per_umol=lux_per_umol(spec.output.source_id, spec.output.cct_k), doubt=0.0)
    kind = spec.spectrum_id or _USUAL.get(spec.technology, "white-led-4000")
    if kind.startswith("white-led"):
        tail = kind.rpartition("-")[2]
        return source_factor("white-led", float(tail) if tail.isdigit() else 4000.0)
    if kind in light_sources():
        return source_factor(kind)
    coloured = typical(kind)
    return LuxFactor(lux_per_umol=luminous_factor(coloured.wavelength_nm, coloured.power), doubt=_COLOURED_DOUBT)


def source_factor(source_id: str, cct_k: float = 4000.0) -> LuxFactor:
    """Give what photons of a kind of light are in lux.

    Parameters
    ----------
    source_id : id of the kind of light in the library, daylight among them
    cct_k : colour temperature, used for white LED only [K]

    Returns
    -------
    LuxFactor : with the spread of its kind

    Raises
    ------
    LibraryError : no such kind of light
    """
    source = find(light_sources(), source_id, "light source")
    return LuxFactor(lux_per_umol=lux_per_umol(source_id, cct_k), doubt=source.uncertainty)


def band_shares(spectrum: Spectrum) -> dict[str, float]:
    """Give how a spectrum's photons fall into bands.

    Returns
    -------
    dict : blue, green, red as shares of the photons 400-700 nm, and far red (700-750) as a share beside them

    Raises
    ------
    PhotometricError : no light between 400 and 700 nm
    """
    nm = np.arange(400.0, 750.0) + 0.5
    photons = np.interp(nm, spectrum.wavelength_nm, spectrum.power, left=0, right=0) * nm
    whole = photons[nm < 700].sum()
    if whole <= 0:
        raise PhotometricError("this spectrum holds no light between 400 and 700 nm")
    return {name: float(photons[(nm >= low) & (nm < high)].sum() / whole) for name, low, high in BANDS}


# From these shares of photons on a lamp leans to leaf (blue keeps plants low) or to fruit (most photons a watt).
_BLUISH, _REDDISH = 0.24, 0.46


def leaning(spec: FixtureSpec) -> Literal["leaf", "fruit", "both"]:
    """Say what a lamp's colour suits best, as growers sort them; photons feed alike whatever their colour.

    Parameters
    ----------
    spec : the lamp

    Returns
    -------
    str : "leaf" for bluish light, "fruit" for reddish, "both" for what lies between
    """
    if spec.output.kind == "none":
        return "both"
    shares = band_shares(spectrum_of(spec))
    return "fruit" if shares["red"] >= _REDDISH else "leaf" if shares["blue"] >= _BLUISH else "both"


def mixed(parts: Sequence[tuple[FixtureSpec, float]]) -> dict[str, float]:
    """Give the bands of several lamps together.

    Parameters
    ----------
    parts : each lamp with its photons [µmol/s]; lamps without any are passed over

    Returns
    -------
    dict : as band_shares; empty where nothing shines
    """
    lit = [(spec, photons) for spec, photons in parts if photons > 0]
    total = sum(photons for _, photons in lit)
    found: dict[str, float] = {}
    for spec, photons in lit:
        for name, share in band_shares(spectrum_of(spec)).items():
            found[name] = found.get(name, 0.0) + share * photons / total
    return found


def reading_to_ppfd(value: float, unit: str, source_id: str, cct_k: float = 4000.0) -> Reading:
    """Turn a meter's reading into PPFD.

    Parameters
    ----------
    value : what the meter shows
    unit : "ppfd" [µmol/m²/s], "lux" or "fc" (foot-candles)
    source_id : id of the kind of light in the library
    cct_k : colour temperature, used for white LED only [K]

    Returns
    -------
    Reading : a quantum meter is taken as good to 5 %; a lux meter by the spread of its kind of lamp
    """
    if unit == "ppfd":
        return Reading(ppfd_umol_m2_s=value, uncertainty=0.05)
    lux = value * LUX_PER_FOOT_CANDLE if unit == "fc" else value
    source = find(light_sources(), source_id, "light source")
    return Reading(ppfd_umol_m2_s=lux / lux_per_umol(source_id, cct_k), uncertainty=max(source.uncertainty, 0.08))


def read_spectrum(raw: bytes) -> tuple[tuple[float, float], ...]:
    """Read a spectrum from a CSV file of wavelength and power.

    Parameters
    ----------
    raw : the file's bytes: two columns, wavelength [nm] and relative power, with or without a head line

    Returns
    -------
    tuple of (float, float) : rising wavelengths with their power, at most 500 rows

    Raises
    ------
    PhotometricError : not text, too large, not two numbers a line, wavelengths out of range or not rising, no light
    """
    if len(raw) > _MAX_BYTES:
        raise PhotometricError(f"the file has {len(raw) / 1e6:.1f} MB; a spectrum has at most 0.5 MB")
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise PhotometricError("the file is not UTF-8 text") from None
    delimiter = next((mark for mark in (";", "\t") if mark in text), ",")
    rows: list[tuple[float, float]] = []
    for number, row in enumerate(csv.reader(text.splitlines(), delimiter=delimiter), 1):
        words = [word.strip().replace(",", ".") for word in row if word.strip()]
        if not words:
            continue
        try:
            wave, power = float(words[0]), float(words[1])
        except (ValueError, IndexError):
            if not rows and number <= 3:
                continue
            raise PhotometricError(f"line {number}: two numbers expected, wavelength in nm and power") from None
        if not (200 <= wave <= 3000 and 0 <= power < 1e9):
            raise PhotometricError(f"line {number}: wavelengths run from 200 to 3000 nm, power from 0 up")
        if rows and wave <= rows[-1][0]:
            raise PhotometricError(f"line {number}: wavelengths must rise, but {wave:g} follows {rows[-1][0]:g}")
        rows.append((wave, power))
    if len(rows) < 2:
        raise PhotometricError("fewer than two lines of numbers: a spectrum is a table of wavelength and power")
    kept = rows[:: max(1, -(-len(rows) // MAX_ROWS))]
    band_shares(Spectrum(wavelength_nm=np.array(kept)[:, 0], power=np.array(kept)[:, 1]))
    return tuple(kept)
