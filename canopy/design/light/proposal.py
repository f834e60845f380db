"""What a backward tool proposes, and how well a setting serves the plants."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.light.lighting import Lighting, crowns_of, judged_means, leaf_light
from canopy.evaluate.light.margins import DLI, least_even
from canopy.evaluate.naming import stage_name
from canopy.library.models import Window
from canopy.light.crowns import POINTS_PER_CROWN
from canopy.light.photometry import fixture_load
from canopy.light.scene import DEFAULT, Quality, field_of, hours, weights
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.changes import Act
from canopy.quantities.reader import PPFD
from canopy.season import Standing

Array = NDArray[np.float64]
# A setting aims this much inside the windows: the model's own error, so that the verdict holds.
INSIDE = 1.03


@dataclass(frozen=True, kw_only=True)
class Tried:
    """One setting that was tried: the number that was varied, and what came of it.

    ``covered`` is the share of plants inside their daily window and not short of PPFD, ``evenness`` that of the least
    even crop, ``miss`` how far plants lie outside in all (0: none), ``power_w`` what the lamps draw.
    """

    value: float
    covered: float
    evenness: float
    miss: float
    power_w: float


@dataclass(frozen=True, kw_only=True)
class Proposal:
    """A change, in words and as changes; what it cannot meet; and the settings that were tried on the way."""

    key: str
    label: Sentence
    changes: tuple[Act, ...]
    unmet: tuple[Sentence, ...] = ()
    tried: tuple[Tried, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Basis:
    """Light on each plant at full output of each lamp: mean PPFD and greatest PPFD, shapes (plants, lamps).

    ``daylight_ppfd`` and ``daylight_dli`` (plants,) are what windows add; ``lit_h`` (lamps,).
    """

    mean: Array
    most: Array
    lit_h: Array
    daylight_ppfd: Array
    daylight_dli: Array

    @property
    def dli(self) -> Array:
        """Daily light at full output, shape (plants, lamps) [mol/m²/d]."""
        return self.mean * self.lit_h * 0.0036


def basis_of(here: Standing, quality: Quality = DEFAULT) -> Basis:
    """Compute the light of each lamp at full output on each plant.

    Parameters
    ----------
    here : the space on a day
    quality : how finely to cut the walls

    Returns
    -------
    Basis : ageing and survey included, dimmers and switches not
    """
    space, crowns = here.space, crowns_of(here)
    full = space.model_copy(
        update={"fixtures": tuple(lamp.model_copy(update={"dim": 1.0, "enabled": True}) for lamp in space.fixtures)}
    )
    size = (space.size.width_m, space.size.depth_m, space.size.height_m)
    share, now = weights(full, here.day), weights(space, here.day)
    read = leaf_light(field_of(space, quality, crowns), crowns, size, now if now.any() else share)
    by_plant = (read.light.total * share).reshape(len(crowns), POINTS_PER_CROWN, -1)
    at_now = (read.light.total @ (now if now.any() else share)).reshape(len(crowns), POINTS_PER_CROWN)
    lamps, lit = len(space.fixtures), hours(space)
    mean = judged_means(here.plants, by_plant, at_now)
    return Basis(
        mean=mean[:, :lamps],
        most=by_plant.max(axis=1)[:, :lamps],
        lit_h=lit[:lamps],
        daylight_ppfd=mean[:, lamps:].sum(axis=1),
        daylight_dli=(mean[:, lamps:] * lit[lamps:]).sum(axis=1) * 0.0036,
    )


def windows(here: Standing) -> tuple[Array, Array]:
    """Give the plants' daily windows.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    (ndarray, ndarray) : lower and upper ends, shapes (plants,) [mol/m²/d]
    """
    low = np.array([plant.want.dli_mol_m2_d.low for plant in here.plants])
    high = np.array([plant.want.dli_mol_m2_d.high for plant in here.plants])
    return low, high


def missed(here: Standing, dli: Array) -> Array:
    """Say how far plants lie outside their daily windows.

    Parameters
    ----------
    here : the space on a day
    dli : shape (plants,) [mol/m²/d]

    Returns
    -------
    ndarray : shape (plants,), shares of the end that is missed, 0 inside, at most 20
    """
    low, high = windows(here)
    short, past = low / np.maximum(dli, 1e-6) - 1, dli / high - 1
    return np.asarray(np.clip(np.maximum(short, past), 0, 20))


# What PPFD short of its window counts beside daily light outside of it.
PPFD_COUNTS = 0.5


def lacking(here: Standing, dli: Array, ppfd: Array) -> Array:
    """Say how far plants lie outside their daily windows, or under their window of PPFD.

    Parameters
    ----------
    here : the space on a day
    dli : shape (plants,) [mol/m²/d]
    ppfd : shape (plants,) [µmol/m²/s]

    Returns
    -------
    ndarray : shape (plants,), shares of the end that is missed, PPFD at half its weight; 0 inside, at most 20
    """
    low = np.array([plant.want.ppfd_umol_m2_s.low for plant in here.plants])
    dim = np.clip(low / np.maximum(ppfd, 1e-6) - 1, 0, 20)
    return np.asarray(np.maximum(missed(here, dli), PPFD_COUNTS * dim))


def judged(here: Standing, lighting: Lighting, value: float) -> Tried:
    """Say how well a setting serves the plants.

    Parameters
    ----------
    here : the space on a day, with the setting
    lighting : its computed light
    value : the number that was varied

    Returns
    -------
    Tried : coverage, evenness, miss and power
    """
    miss = lacking(
        here,
        np.array([light.dli_mol_m2_d for light in lighting.plants]),
        np.array([light.ppfd_umol_m2_s for light in lighting.plants]),
    )
    return Tried(
        value=value,
        covered=float((miss <= 1e-9).mean()),
        evenness=least_even(lighting),
        miss=float(miss.sum()),
        power_w=sum(fixture_load(lamp) for lamp in here.space.fixtures),
    )


def unmet(here: Standing, lighting: Lighting) -> tuple[Sentence, ...]:
    """Say which crops still lie outside their windows and by how much.

    Parameters
    ----------
    here : the space on a day
    lighting : its computed light

    Returns
    -------
    tuple of Sentence : daily light first, one a crop and stage; then those that are short of PPFD
    """
    by_day = _outside(
        (stage_name(light.plant), light.dli_mol_m2_d, light.plant.want.dli_mol_m2_d, True) for light in lighting.plants
    )
    at_once = _outside(
        (stage_name(light.plant), light.ppfd_umol_m2_s, light.plant.want.ppfd_umol_m2_s, False)
        for light in lighting.plants
    )
    return (*_said(by_day, "", DLI), *_said(at_once, "PPFD ", PPFD))


_Gap = tuple[float, float, float]


def _outside(lights: Iterable[tuple[str, float, Window, bool]]) -> dict[str, _Gap]:
    """By crop and stage the widest gap (over is positive), what is there, and the end that is missed."""
    found: dict[str, _Gap] = {}
    for name, there, want, both in lights:
        gap = there - want.high if both and there > want.high else want.low - there if there < want.low else 0.0
        if gap > abs(found.get(name, (0.0, 0.0, 0.0))[0]) + 1e-9:
            over = both and there > want.high
            found[name] = (gap if over else -gap, there, want.high if over else want.low)
    return found


def _said(found: dict[str, _Gap], what: str, unit: str) -> Iterator[Sentence]:
    for name, (gap, there, end) in found.items():
        yield sentence(
            f"{name}: {what}{'over' if gap > 0 else 'short'} by {{gap}} ({{there}} of {{end}}).",
            gap=Amount(value=abs(gap), unit=unit),
            there=Amount(value=there, unit=unit),
            end=Amount(value=end, unit=unit),
        )
