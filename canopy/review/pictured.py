"""What pictures from above say of a plan: cover, spread and leaf area against those of their day."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby
from math import exp, sqrt

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.light.lighting import crowns_of
from canopy.light.photometry import given_ppf
from canopy.light.spectra import mixed
from canopy.pictures.measured import Marks, Measured, Reading, measure
from canopy.pictures.spread import Seen, Stem
from canopy.plan.changes import Act, Change
from canopy.review.finding import Finding, unknown
from canopy.season import Growing
from canopy.season.standing import Standing, leaf_group

# A spread is told from the planned one when it is off by more than this share, or this much [m].
_SHARE_OFF, _LEAST_OFF_M = 0.08, 0.01
_RASTER = 120


def stems(here: Standing) -> tuple[Stem, ...]:
    """Give plants as a picture from above should show them.

    Parameters
    ----------
    here : the space on the picture's day

    Returns
    -------
    tuple of Stem : those with a crown of their own; no trays, and none that grow along a wall or hang over its edge
    """
    return tuple(
        Stem(id=plant.id, x_m=plant.x_m, y_m=plant.y_m, spread_m=plant.spread_m, extinction=plant.crop.extinction)
        for plant in here.plants
        if plant.tray_m is None and plant.plant.habit == "stand"
    )


# Daylight and white lamps give about so much of their photons between 500 and 600 nm.
_WHITE_LIGHT = 1 / 3


def measured_in(picture: NDArray[np.uint8], marks: Marks, here: Standing, lens_mm: float | None = None) -> Measured:
    """Measure a picture of a space's floor, by its plants and its lamps' light.

    Parameters
    ----------
    picture : sRGB, shape (h, w, 3)
    marks : what was marked in it
    here : the space on the picture's day
    lens_mm : focal length as on 36 × 24 mm, where the camera noted it [mm]

    Returns
    -------
    Measured : as `canopy.pictures.measured.measure`

    Raises
    ------
    PictureError : as there
    """
    size = here.space.size
    bands = mixed([(lamp.spec, given_ppf(lamp)) for lamp in here.space.fixtures])
    return measure(
        picture,
        marks,
        (size.width_m, size.depth_m),
        stems=stems(here),
        green_share=_WHITE_LIGHT if marks.white_light else bands.get("green", _WHITE_LIGHT),
        lens_mm=lens_mm,
    )


def planned_cover(here: Standing) -> float:
    """Give the share of the floor that leaves should cover from above.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    float : 0 to 1; ground is seen between the leaves of a crown as light passes straight down through them, exp(-k L)
    """
    size = here.space.size
    x, y = np.meshgrid(
        (np.arange(_RASTER) + 0.5) / _RASTER * size.width_m, (np.arange(_RASTER) + 0.5) / _RASTER * size.depth_m
    )
    open_sky = np.ones_like(x)
    for crown in crowns_of(here):
        through = exp(-crown.extinction * crown.lai)
        if crown.half_m is not None:
            inside = (abs(x - crown.x_m) <= crown.half_m[0]) & (abs(y - crown.y_m) <= crown.half_m[1])
        else:
            inside = np.hypot(x - crown.x_m, y - crown.y_m) <= crown.radius_m
        open_sky = np.where(inside, open_sky * through, open_sky)
    return float(1 - open_sky.mean())


@dataclass(frozen=True, kw_only=True)
class Spread:
    """A plant's spread in a picture and in the plan on that day [m]; ``at_least`` where its leaves run into others'."""

    plant: Growing
    seen: Seen

    @property
    def at_least(self) -> bool:
        """Whether it may be wider than what is seen."""
        return self.seen.touching

    @property
    def differs(self) -> bool:
        """Whether the plan would gain by following it."""
        off = self.seen.spread_m - self.plant.spread_m
        if self.at_least and off < 0:
            return False
        return abs(off) > max(_LEAST_OFF_M, _SHARE_OFF * self.plant.spread_m)


def spreads(here: Standing, reading: Reading) -> tuple[Spread, ...]:
    """Hold the spreads of a picture beside the plan's.

    Parameters
    ----------
    here : the space on the picture's day
    reading : what the picture says

    Returns
    -------
    tuple of Spread : of plants that stand there
    """
    known = here.by_id
    return tuple(Spread(plant=known[seen.id], seen=seen) for seen in reading.plants if seen.id in known)


def spread_changes(found: Sequence[Spread], day: dt.date) -> tuple[Act, ...]:
    """Give the changes by which a plan follows what was seen.

    Parameters
    ----------
    found : spreads of a picture
    day : on which it was taken

    Returns
    -------
    tuple of Act : spreads, dated where plants grow by their planting; none where a plant was looked at since
    """
    return tuple(_change(item, day) for item in found if item.differs and _fresh(item, day))


def _fresh(item: Spread, day: dt.date) -> bool:
    seen = item.plant.plant.seen_on
    return seen is None or seen <= day


def _change(item: Spread, day: dt.date) -> Change:
    values: dict[str, object] = {"spread_m": round(item.seen.spread_m, 4)}
    if item.plant.planting is not None:
        values |= {"height_m": round(item.plant.form.height_m, 4), "seen_on": day.isoformat()}
    return Change(collection="plants", part_id=item.plant.id, values=values)


def leaf_areas(here: Standing, reading: Reading, day: dt.date) -> tuple[Finding, ...]:
    """Find how many layers of leaves plants have, for as many as the plan says.

    Parameters
    ----------
    here : the space on the picture's day
    reading : what the picture says
    day : on which it was taken

    Returns
    -------
    tuple of Finding : a factor on the leaf area index of each planting; unknown where leaves hide each other
    """
    known = spreads(here, reading)
    ordered = sorted(known, key=lambda item: leaf_group(item.plant.plant))
    return tuple(
        _leaf_area(key, list(group), day) for key, group in groupby(ordered, lambda i: leaf_group(i.plant.plant))
    )


def _leaf_area(key: str, group: list[Spread], day: dt.date) -> Finding:
    told = list(_told(group))
    if not told:
        return unknown("leaf-area", "its leaves hide each other from above", key, "picture")
    ratios, errors = np.array(told).T
    planned = float(np.mean([item.plant.lai / item.plant.leafier for item in group]))
    # How leaves hang is alike for all of a kind: their errors do not average out.
    error = sqrt(
        float(np.mean(errors)) ** 2 + (float(np.std(ratios, ddof=1)) ** 2 / len(ratios) if len(ratios) > 1 else 0)
    )
    return Finding(
        subject="leaf-area",
        target=key,
        factor=float(np.mean(ratios)),
        standard_error=error,
        computed=planned,
        unit="",
        basis="picture",
        limits=f"{len(ratios)} of {len(group)} plants; how leaves hang and overlap is not seen from above",
        begins=day,
        ends=day,
    )


def _told(group: list[Spread]) -> Iterator[tuple[float, float]]:
    """The leaf area of each plant, and its error, for as much as the plan says without any factor."""
    for item in group:
        if item.seen.lai is not None and item.seen.lai_error is not None and not item.at_least:
            plain = item.plant.lai / item.plant.leafier
            if plain > 0:
                yield item.seen.lai / plain, item.seen.lai_error / plain
