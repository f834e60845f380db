"""Move the lamps: where each hangs or stands, how it is turned and tilted, one after the other, dimmers set anew.

Direct light is computed for every place that is tried; what comes by way of the walls is taken as it is now until the
end, when the best setting is computed as a whole.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
from numpy.typing import NDArray

from canopy.design.light.dimmers import best_dimmers
from canopy.design.light.proposal import Basis, Proposal, basis_of, judged, lacking, unmet
from canopy.evaluate.light.headroom import under
from canopy.evaluate.light.lighting import crowns_of, judged_means, leaf_light, lighting
from canopy.light.crowns import POINTS_PER_CROWN, Crown
from canopy.light.passing import irradiance
from canopy.light.plates import Body
from canopy.light.scene import DEFAULT, PREVIEW, emitter_of, field_of, scene_of, weights
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.changes import Change
from canopy.plan.document import Fixture, Space
from canopy.plan.pose import axes, corners
from canopy.season import Standing

Array = NDArray[np.float64]
_ACROSS, _COARSE = 7, 4
_LIFTS_M = (-0.3, -0.2, -0.1, 0.1, 0.2)
_TILTS_DEG = (-40.0, -20.0, 20.0, 40.0)
_ROUNDS = 2
# Of more lamps than this each is tried once, in a coarse raster and over so many of the plants nearest to it.
_MANY, _PLANTS = 8, 4
# So many of the places that look best are held against the plants with their dimmers set.
_CLOSER = 6
# What is gained must be worth the trouble of hanging a lamp anew [miss, as a share of the window].
WORTH = 0.05
# A lamp keeps so far from walls [m]; one whose beam points lower than this hangs.
_FREE_M, _DOWNWARD = 0.003, -0.7
# A shorter move is not worth saying [m].
_SEEN_M = 0.005
_KEYS = ("x_m", "y_m", "z_m", "yaw_deg", "tilt_deg", "dim")


@dataclass(frozen=True, kw_only=True)
class _Light:
    """What lamps give at full output at the plants' points (points, lamps), direct and by way of the walls."""

    direct: Array
    reflected: Array


class Trial:
    """The plants of a space under lamps that are tried in other places, their leaves turned as they are now."""

    def __init__(self, here: Standing) -> None:
        self.here, self.space = here, here.space
        crowns = crowns_of(here)
        size = (self.space.size.width_m, self.space.size.depth_m, self.space.size.height_m)
        # Leaves of climbers stay turned to the light that they have now.
        now = leaf_light(field_of(self.space, PREVIEW, crowns), crowns, size, weights(self.space, here.day))
        self.points, self.normals = now.points, now.normals
        self.crowns: tuple[Crown, ...] = crowns
        self.bodies: tuple[Body, ...] = scene_of(self.space, PREVIEW, crowns).bodies
        self.basis = basis_of(here, PREVIEW)
        found = now.light
        lamps = len(self.space.fixtures)
        lit = tuple(lamp.model_copy(update={"dim": 1.0, "enabled": True}) for lamp in self.space.fixtures)
        self.full = weights(self.space.model_copy(update={"fixtures": lit}), here.day)[:lamps]
        self.light = _Light(direct=found.direct[:, :lamps], reflected=found.reflected[:, :lamps])

    def direct(self, lamps: Sequence[Fixture], number: int) -> Array:
        """One lamp's direct light at the points past the others, shape (points,)."""
        emitter = emitter_of(lamps[number])
        others = [emitter_of(lamp).plate for k, lamp in enumerate(lamps) if k != number]
        return irradiance(emitter, self.points, self.normals, [*others, *self.bodies], self.crowns, edges=False)

    def basis_with(self, direct: Array) -> Basis:
        """The plants' light with lamps' direct light as given (points, lamps)."""
        by_plant = ((direct + self.light.reflected) * self.full).reshape(len(self.crowns), POINTS_PER_CROWN, -1)
        mean = judged_means(self.here.plants, by_plant, by_plant.sum(axis=-1))
        return replace(self.basis, mean=mean, most=by_plant.max(axis=1))

    def miss(self, direct: Array) -> tuple[float, Array]:
        """How far plants lie outside with the best dimmers, and those."""
        basis = self.basis_with(direct)
        dims = best_dimmers(self.here, basis)
        ppfd = basis.mean @ dims + basis.daylight_ppfd
        return float(lacking(self.here, basis.dli @ dims + basis.daylight_dli, ppfd).sum()), dims

    def short_at_full(self, direct: Array) -> float:
        """How far plants stay short with every lamp that is on at full: what no dimmer can mend."""
        basis = self.basis_with(direct)
        on = np.array([float(lamp.enabled) for lamp in self.space.fixtures])
        dli = basis.dli @ on + basis.daylight_dli
        low = np.array([plant.want.dli_mol_m2_d.low for plant in self.here.plants])
        return float(np.clip(low / np.maximum(dli, 1e-6) - 1, 0, 20).sum())


def move_lamps(here: Standing) -> Proposal | None:
    """Propose other places for lamps, and dimmers to go with them.

    Parameters
    ----------
    here : the space on a day, with plants and lamps

    Returns
    -------
    Proposal : None where no place that was tried serves the plants better; lamps linked in a chain stay where they are
    """
    movable = [
        number
        for number, lamp in enumerate(here.space.fixtures)
        if lamp.enabled and not lamp.chain and lamp.spec.purpose == "grow"
    ]
    if not movable or not here.plants:
        return None
    trial = Trial(here)
    lamps, direct = list(here.space.fixtures), trial.light.direct.copy()
    best, _ = trial.miss(direct)
    many = len(movable) > _MANY
    for _ in range(1 if many else _ROUNDS):
        before = best
        for number in movable:
            best = _place_one(trial, lamps, direct, number, best, coarse=many)
        if best > before - WORTH / 2:
            break
    if all(lamp == old for lamp, old in zip(lamps, here.space.fixtures, strict=True)):
        return None
    after = dimmed(here, tuple(lamps))
    now = dimmed(here, here.space.fixtures)
    gained = judged(now, lighting(now, PREVIEW, with_map=False), 0.0).miss
    gained -= judged(after, lighting(after, PREVIEW, with_map=False), 0.0).miss
    if gained < WORTH:
        return None
    changes = changes_of(here.space.fixtures, after.space.fixtures)
    left = unmet(after, lighting(after, DEFAULT, with_map=False))
    return Proposal(key="move", label=_label(here.space.fixtures, after.space.fixtures), changes=changes, unmet=left)


def dimmed(here: Standing, lamps: tuple[Fixture, ...]) -> Standing:
    """Hang lamps in place of the present ones and set their dimmers for the plants.

    Parameters
    ----------
    here : the space on a day
    lamps : those that are switched off stay so

    Returns
    -------
    Standing : with these lamps, dimmers to a hundredth
    """
    hung = here.moved(here.space.model_copy(update={"fixtures": lamps}))
    dims = best_dimmers(hung, basis_of(hung, PREVIEW))
    return here.moved(
        here.space.model_copy(
            update={
                "fixtures": tuple(
                    lamp.model_copy(update={"dim": round(float(np.clip(dim, 0, 1)), 2)}) if lamp.enabled else lamp
                    for lamp, dim in zip(lamps, dims, strict=True)
                )
            }
        )
    )


def _place_one(trial: Trial, lamps: list[Fixture], direct: Array, number: int, best: float, *, coarse: bool) -> float:
    """Try one lamp in other places, then lifts and tilts; leaves the best in ``lamps`` and ``direct``."""
    for tries in (places_for(trial.here, lamps[number], coarse=coarse), _turns(lamps[number])):
        able = [lamp for lamp in tries if fits(trial.here, lamp, [x for k, x in enumerate(lamps) if k != number])]
        columns = []
        for lamp in able:
            tried = [*lamps[:number], lamp, *lamps[number + 1 :]]
            columns.append(trial.direct(tried, number))
        looks = []
        for column in columns:
            with_it = direct.copy()
            with_it[:, number] = column
            looks.append(trial.short_at_full(with_it))
        for k in np.argsort(looks, kind="stable")[:_CLOSER]:
            with_it = direct.copy()
            with_it[:, number] = columns[k]
            miss, _ = trial.miss(with_it)
            if miss < best - 1e-3:
                best, lamps[number] = miss, able[k]
                direct[:, number] = columns[k]
    return best


def places_for(here: Standing, lamp: Fixture, *, coarse: bool = False) -> Iterator[Fixture]:
    """Give other places for a lamp, whether or not something stands there.

    Parameters
    ----------
    here : the space on a day
    lamp : as it hangs, which says how it is turned and how high
    coarse : fewer of them, turned as it is

    Returns
    -------
    iterator of Fixture : over the floor for one that hangs, along its wall for one that shines sideways
    """
    size, at, box = here.space.size, np.array([lamp.x_m, lamp.y_m, lamp.z_m]), corners(lamp)
    first = at - box.min(axis=0) + _FREE_M
    last = np.array([size.width_m, size.depth_m, size.height_m]) - (box.max(axis=0) - at) - _FREE_M
    beam = axes(lamp).beam
    if beam[2] < _DOWNWARD:
        plants = [(plant.x_m, plant.y_m) for plant in here.plants]
        if coarse:
            plants = sorted(plants, key=lambda spot: float(np.hypot(*(np.array(spot) - at[:2]))))[:_PLANTS]
        for x, y in [*_spots(first, last, _COARSE if coarse else _ACROSS), *plants]:
            place = (float(np.clip(x, first[0], last[0])), float(np.clip(y, first[1], last[1])))
            yield lamp.model_copy(update={"x_m": round(place[0], 3), "y_m": round(place[1], 3)})
        if not coarse and lamp.spec.shape == "rectangle" and lamp.spec.length_m > 1.4 * lamp.spec.overall_width_m:
            turned = lamp.model_copy(update={"yaw_deg": (lamp.yaw_deg + 90.0) % 180.0})
            half = np.ptp(corners(turned), axis=0)[:2] / 2 + _FREE_M
            end = np.array([size.width_m, size.depth_m]) - half
            if (half < end).all():
                for x, y in _spots(half, end, _COARSE):
                    yield turned.model_copy(update={"x_m": round(x, 3), "y_m": round(y, 3)})
        return
    along = 1 if abs(beam[0]) > abs(beam[1]) else 0
    key = ("x_m", "y_m")[along]
    for a in np.linspace(first[along], last[along], _ACROSS):
        for z in np.linspace(first[2], last[2], _COARSE):
            yield lamp.model_copy(update={key: round(float(a), 3), "z_m": round(float(z), 3)})


def _spots(first: Array, last: Array, count: int) -> list[tuple[float, float]]:
    """An even raster of places from corner to corner."""
    across = (np.linspace(first[axis], last[axis], count) for axis in (0, 1))
    return [(float(x), float(y)) for x, y in product(*across)]


def _turns(lamp: Fixture) -> Iterator[Fixture]:
    for lift in _LIFTS_M:
        yield lamp.model_copy(update={"z_m": round(lamp.z_m + lift, 3)})
    for tilt in _TILTS_DEG:
        yield lamp.model_copy(update={"tilt_deg": round(lamp.tilt_deg + tilt, 1)})


def fits(here: Standing, lamp: Fixture, others: Iterable[Fixture]) -> bool:
    """Say whether a lamp stands free.

    Parameters
    ----------
    here : the space on a day
    lamp : in the place that is tried
    others : lamps that hang already

    Returns
    -------
    bool : inside, clear of other lamps, shelves, columns and plants, and no nearer to leaves than its least distance
    """
    space, box = here.space, corners(lamp)
    low, high = box.min(axis=0), box.max(axis=0)
    size = np.array([space.size.width_m, space.size.depth_m, space.size.height_m])
    if (low < 0.001).any() or (high > size - 0.001).any() or not -90 <= lamp.tilt_deg <= 90:
        return False
    blocks = [(corners(other).min(axis=0), corners(other).max(axis=0)) for other in others]
    blocks += _furniture(space)
    if any((low < top - 1e-4).all() and (high > bottom + 1e-4).all() for bottom, top in blocks):
        return False
    for plant in here.plants:
        half = np.array(plant.half_m)
        bottom = np.array([*(np.array([plant.x_m, plant.y_m]) - half), plant.bottom_m])
        top = np.array([*(np.array([plant.x_m, plant.y_m]) + half), plant.top_m])
        if (low < top).all() and (high > bottom).all():
            return False
        if under(space, lamp, plant) and lamp.z_m - plant.top_m < lamp.least_distance_m:
            return False
    return True


# How far up or down a free place is looked for besides along the floor [m].
_UP_WEIGHS = 8.0
_UP_DOWN_M = (0.0, 0.02, 0.05, 0.1, 0.2, -0.02, -0.05, -0.1, -0.2)


def nearest_free(here: Standing, lamp: Fixture, others: Sequence[Fixture]) -> Fixture | None:
    """Find the nearest place where a lamp stands free, turned as it is.

    Parameters
    ----------
    here : the space on a day
    lamp : where somebody put it
    others : lamps that hang already

    Returns
    -------
    Fixture : where it is if it stands free there; None where there is no room
    """
    steps = [round(0.02 * step, 2) for step in range(-10, 11)]
    beside = [
        lamp.model_copy(update={"x_m": round(lamp.x_m + a, 4), "y_m": round(lamp.y_m + b, 4)})
        for a in steps
        for b in steps
        if 0 in (a, b) and lamp.x_m + a > 0 and lamp.y_m + b > 0
    ]
    tries = [
        place.model_copy(update={"z_m": round(place.z_m + lift, 3)})
        for place in (*beside, *places_for(here, lamp))
        for lift in _UP_DOWN_M
        if place.z_m + lift > 0 and place.yaw_deg == lamp.yaw_deg
    ]

    def far(place: Fixture) -> float:
        # Beside another lamp rather than on its back, where it would shine on that.
        up = _UP_WEIGHS * (place.z_m - lamp.z_m)
        return (place.x_m - lamp.x_m) ** 2 + (place.y_m - lamp.y_m) ** 2 + up**2

    return next((place for place in sorted(tries, key=far) if fits(here, place, others)), None)


def _furniture(space: Space) -> list[tuple[Array, Array]]:
    found = [
        (
            np.array([shelf.x_m, shelf.y_m, shelf.z_m - shelf.thickness_m]),
            np.array([shelf.x_m + shelf.width_m, shelf.y_m + shelf.depth_m, shelf.z_m]),
        )
        for shelf in space.shelves
    ]
    for column in space.columns:
        r = column.diameter_m / 2
        found.append(
            (
                np.array([column.x_m - r, column.y_m - r, column.z_m]),
                np.array([column.x_m + r, column.y_m + r, column.z_m + column.height_m]),
            )
        )
    return found


def changes_of(old: tuple[Fixture, ...], new: tuple[Fixture, ...]) -> tuple[Change, ...]:
    """Give what differs between lamps before and after.

    Parameters
    ----------
    old : the lamps before
    new : the same lamps, in the same order

    Returns
    -------
    tuple of Change : places, turns and dimmers; nothing for a lamp that stays as it is
    """
    out = []
    for before, after in zip(old, new, strict=True):
        values = {key: getattr(after, key) for key in _KEYS if getattr(after, key) != getattr(before, key)}
        if values:
            out.append(Change(collection="fixtures", part_id=before.id, values=values))
    return tuple(out)


def _label(old: tuple[Fixture, ...], new: tuple[Fixture, ...]) -> Sentence:
    """Say which lamps go where, in lengths from the left and from the front."""
    words, amounts = [], dict[str, Amount]()
    for number, (before, after) in enumerate(zip(old, new, strict=True), 1):
        if all(getattr(before, key) == getattr(after, key) for key in _KEYS if key != "dim"):
            continue
        parts = []
        for key, where in (("x_m", "from the left"), ("y_m", "from the front"), ("z_m", "high")):
            if abs(getattr(after, key) - getattr(before, key)) > _SEEN_M:
                name = f"{key[0]}{number}"
                amounts[name] = Amount(value=getattr(after, key), unit="length")
                parts.append(f"{{{name}}} {where}")
        said = f"lamp {number} to {' and '.join(parts)}" if parts else f"lamp {number}"
        if after.yaw_deg != before.yaw_deg:
            said += ", turned across"
        if after.tilt_deg != before.tilt_deg:
            amounts[f"t{number}"] = Amount(value=after.tilt_deg, unit="°", decimals=0)
            said += f", tilted {{t{number}}}"
        words.append(said)
    dimmed = any(before.dim != after.dim for before, after in zip(old, new, strict=True))
    return sentence(f"Move {'; '.join(words)}{', and set the dimmers' if dimmed else ''}", **amounts)
