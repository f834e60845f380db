"""From lumens and lux to photons, through the lamp's spectrum."""

from __future__ import annotations

import csv
import tomllib
from functools import cache

import numpy as np
from numpy.typing import NDArray

from canopy.equipment import FixtureSpec
from canopy.errors import QuantityError
from canopy.library import find, light_sources
from canopy.library.loader import DATA
from canopy.plan.document import Fixture

Array = NDArray[np.float64]
# K_m N_A h c: lumens of a photon stream per µmol/s, at V = 1 and wavelength 1 m. CODATA 2018 (exact since 2019).
_LUMEN_M_PER_UMOL = 683.0 * 6.02214076e23 * 6.62607015e-34 * 299_792_458.0 * 1e-6
_NM: Array = np.arange(400.0, 701.0, dtype=np.float64)


@cache
def _v_lambda() -> tuple[Array, Array]:
    with (DATA / "v_lambda.csv").open() as file:
        rows = [(float(row["wavelength_nm"]), float(row["v"])) for row in csv.DictReader(file)]
    table = np.array(rows)
    return table[:, 0], table[:, 1]


def luminous_factor(wavelength_nm: Array, power: Array) -> float:
    """Give the lux per µmol/m²/s (400-700 nm) of a spectrum.

    Parameters
    ----------
    wavelength_nm : shape (n,), rising [nm]
    power : shape (n,), relative spectral power per nm

    Returns
    -------
    float : lux per µmol/m²/s; light outside 400-700 nm is left out of both sides

    Notes
    -----
    Source: CIE V(λ), ISO/CIE 23539; 683 lm/W.
    """
    grid = np.interp(_NM, wavelength_nm, power, left=0, right=0)
    photons = grid * _NM
    if photons.sum() <= 0:
        raise QuantityError("this spectrum holds no light between 400 and 700 nm")
    v = np.interp(_NM, *_v_lambda())
    return float(_LUMEN_M_PER_UMOL * 1e9 * (grid * v).sum() / photons.sum())


@cache
def _white_led_factors() -> tuple[Array, Array]:
    with (DATA / "spectra.toml").open("rb") as file:
        rows = tomllib.load(file)["white_led"]
    found = []
    for row in rows:
        bands = []
        for name in ("blue", "phosphor"):
            sigma = row[f"{name}_width_nm"] / 2.3548
            band = np.exp(-(((_NM - row[f"{name}_peak_nm"]) / sigma) ** 2) / 2)
            bands.append(band / (band * _NM).sum())
        spectrum = row["blue_share"] * bands[0] + (1 - row["blue_share"]) * bands[1]
        found.append((1e6 / row["cct_k"], luminous_factor(_NM, np.asarray(spectrum))))
    table = np.array(sorted(found))
    return table[:, 0], table[:, 1]


def white_led_spectrum(wavelength_nm: Array, cct_k: float) -> Array:
    """Give the typical spectrum of a white LED.

    Parameters
    ----------
    wavelength_nm : shape (n,) [nm]
    cct_k : colour temperature [K]; taken between the library's neighbouring ones

    Returns
    -------
    ndarray : shape (n,), relative power per nm
    """
    with (DATA / "spectra.toml").open("rb") as file:
        rows = sorted(tomllib.load(file)["white_led"], key=lambda row: row["cct_k"])
    mired = 1e6 / np.clip(cct_k, rows[0]["cct_k"], rows[-1]["cct_k"])
    places = np.array([1e6 / row["cct_k"] for row in rows])[::-1]
    share = np.clip(np.interp(mired, places, np.arange(len(rows))[::-1]), 0, len(rows) - 1)
    low = min(int(share), len(rows) - 2)
    mix = share - low
    found = np.zeros_like(wavelength_nm)
    for row, weight in ((rows[low], 1 - mix), (rows[low + 1], mix)):
        for name, part in (("blue", row["blue_share"]), ("phosphor", 1 - row["blue_share"])):
            sigma = row[f"{name}_width_nm"] / 2.3548
            band = np.exp(-(((wavelength_nm - row[f"{name}_peak_nm"]) / sigma) ** 2) / 2)
            found = found + weight * part * band / (band * wavelength_nm).sum()
    return np.asarray(found)


def lux_per_umol(source_id: str, cct_k: float = 4000.0) -> float:
    """Give the lux per µmol/m²/s of a kind of lamp.

    Parameters
    ----------
    source_id : id of a light source in the library
    cct_k : colour temperature, used for white LED only [K]

    Returns
    -------
    float : lux per µmol/m²/s

    Raises
    ------
    LibraryError : no such light source
    """
    source = find(light_sources(), source_id, "light source")
    if source.lux_per_umol_m2_s is not None:
        return source.lux_per_umol_m2_s
    mired, factors = _white_led_factors()
    return float(np.interp(1e6 / cct_k, mired, factors))


def ppf(spec: FixtureSpec) -> float:
    """Give a lamp's photons at full output.

    Parameters
    ----------
    spec : the lamp; its output stated as PPF, as efficacy, or as lumens

    Returns
    -------
    float : PPF 400-700 nm [µmol/s]
    """
    output = spec.output
    if output.kind == "none":
        return 0.0
    if output.kind == "ppf":
        return output.ppf_umol_s
    if output.kind == "efficacy":
        return output.efficacy_umol_per_j * spec.power_w
    if spec.spectrum:
        # The lamp's own spectrum says it better than that of its kind.
        table = np.array(spec.spectrum)
        return output.flux_lm / luminous_factor(table[:, 0], table[:, 1])
    return output.flux_lm / lux_per_umol(output.source_id, output.cct_k)


def given_ppf(fixture: Fixture) -> float:
    """Give the photons that leave a lamp as it is set: dimmed, aged, partly covered, or off.

    Parameters
    ----------
    fixture : the lamp

    Returns
    -------
    float : PPF 400-700 nm [µmol/s]
    """
    if not fixture.enabled:
        return 0.0
    return ppf(fixture.spec) * fixture.dim * fixture.ageing * fixture.open_share


def drawn_power(spec: FixtureSpec, dim: float) -> float:
    """Give what a lamp draws at a dimmer setting.

    Parameters
    ----------
    spec : the lamp
    dim : dimmer setting, 0..1

    Returns
    -------
    float : power at the wall [W]; linear with a standby floor of 2 %, nothing at zero
    """
    return 0.0 if dim <= 0 else spec.power_w * max(dim, 0.02)


def fixture_load(fixture: Fixture) -> float:
    """Give what a lamp draws as it is set.

    Parameters
    ----------
    fixture : the lamp

    Returns
    -------
    float : power [W]
    """
    return drawn_power(fixture.spec, fixture.dim) if fixture.enabled else 0.0
