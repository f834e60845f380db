"""Which crops of a household belong together, and in which of its spaces."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import combinations
from math import log2

from canopy.evaluate.crops.company import QUANTITIES, Quantity, window_of
from canopy.library import Crop, StageTargets
from canopy.light.photometry import ppf
from canopy.plan.document import Plan, Space
from canopy.season import Standing, cast_of, standing_of

# What a gap weighs: one unit is about as bad as one more step outside a window.
_SCALE = {"hours": 1.0, "day": 2.0, "night": 2.0, "humidity": 12.0, "root": 3.0, "wind": 0.2, "feed": 0.5}
_WEIGHT = {"hours": 3.0, "day": 2.0, "night": 2.0, "humidity": 1.0, "light": 2.0, "root": 0.5, "wind": 0.4, "feed": 0.4}
# How much two windows must share to leave room for real weather; less than that counts half.
_ROOM = {"hours": 0.5, "day": 2.0, "night": 2.0, "humidity": 6.0}
# Water need in steps; neighbours on this scale can be watered together.
_WATER = ("dry", "moderate", "moist", "wet")
WATER = Quantity(key="water", title="water", field="water", unit="", hard=False, advice="Water them apart.")
# The humidity that kinds of space hold without much ado [%].
_HOLDS = {"glass-case": (60.0, 98.0)}
_HOLDS_ELSE = (35.0, 78.0)
# From here on two kinds should not share a space.
APART = 2.0
# Share of a lamp's photons that may be taken to reach the leaves when a space's light is guessed.
_REACHES = 0.5
_TOO_DARK = 2.0
_MOVE, _OVERFULL, _TOO_TALL = 0.5, 40.0, 25.0
_ROUNDS = 200


@dataclass(frozen=True, kw_only=True)
class Kind:
    """A crop in a stage, in one space: how many, the ground they cover [m²] and the height they need [m]."""

    crop: Crop
    want: StageTargets
    space_id: str
    count: int
    area_m2: float
    height_m: float

    @property
    def name(self) -> str:
        """Crop and stage."""
        return f"{self.crop.name}, {self.want.kind.replace('-', ' ')}"


@dataclass(frozen=True, kw_only=True)
class Pull:
    """Why two kinds part: the quantity they are furthest apart in, what each wants, and what it weighs."""

    one: Kind
    two: Kind
    quantity: Quantity
    weight: float


@dataclass(frozen=True, kw_only=True)
class Move:
    """A kind that would do better in another space."""

    kind: Kind
    to_space_id: str


@dataclass(frozen=True, kw_only=True)
class Grouping:
    """The kinds of a household in groups that get on, and the moves that bring its spaces closest to that."""

    groups: tuple[tuple[Kind, ...], ...]
    moves: tuple[Move, ...]
    strife_before: float
    strife_after: float
    left: tuple[Pull, ...]


def pulls(one: Kind, two: Kind) -> Iterator[Pull]:
    """Give every quantity in which two kinds part.

    Parameters
    ----------
    one : crop and stage with their windows
    two : those it would live with

    Returns
    -------
    iterator of Pull : each with its weight; light counts in doublings, the rest in steps of their own, and windows that
        barely meet count half a step
    """
    for quantity in QUANTITIES:
        a, b = window_of(one.want, quantity), window_of(two.want, quantity)
        if a is None or b is None:
            continue
        shared = min(a.high, b.high) - max(a.low, b.low)
        room = min(_ROOM.get(quantity.key, 0.0), a.high - a.low, b.high - b.low)
        if shared >= room:
            continue
        if quantity.key == "light":
            steps = max(0.0, log2(max(a.low, b.low, 0.1) / max(min(a.high, b.high), 0.1)))
        else:
            steps = (max(0.0, -shared) + 0.5 * (room - max(shared, 0.0))) / _SCALE[quantity.key]
        yield Pull(one=one, two=two, quantity=quantity, weight=_WEIGHT[quantity.key] * steps)
    apart = abs(_WATER.index(one.want.water) - _WATER.index(two.want.water)) - 1
    if apart > 0:
        yield Pull(one=one, two=two, quantity=WATER, weight=float(apart))


def strife(one: Kind, two: Kind) -> float:
    """Weigh how badly two kinds get on.

    Parameters
    ----------
    one : crop and stage with their windows
    two : those it would live with

    Returns
    -------
    float : 0 when they share a window in everything
    """
    return sum(pull.weight for pull in pulls(one, two))


def kinds_in(here: Standing) -> list[Kind]:
    """Sum up the kinds that stand in a space.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    list of Kind : one for each crop and stage
    """
    return [
        Kind(
            crop=row[0].crop,
            want=row[0].want,
            space_id=here.space.id,
            count=len(row),
            area_m2=sum(plant.ground_m2 for plant in row),
            height_m=max(plant.top_m - plant.plant.base_m for plant in row),
        )
        for row in here.by_kind.values()
    ]


def growing_area_m2(space: Space) -> float:
    """Give the ground a space has for plants.

    Returns
    -------
    float : floor, or shelves where there are any that cover more [m²]
    """
    floor = space.size.width_m * space.size.depth_m
    return max(floor, sum(shelf.width_m * shelf.depth_m for shelf in space.shelves))


def light_there_mol_m2_d(space: Space) -> float:
    """Guess the daily light that a space's lamps could give.

    Returns
    -------
    float : DLI with all lamps at full output, half their photons reaching the ground, and daylight [mol/m²/d]; rough
    """
    given = sum(ppf(lamp.spec) * lamp.open_share * lamp.full_hours for lamp in space.fixtures) * 0.0036 * _REACHES
    floor = space.size.width_m * space.size.depth_m
    panes = sum(w.dli_mol_m2_d * w.width_m * w.height_m for w in space.daylight) * _REACHES
    return (given + panes) / floor


def propose(plan: Plan, day: dt.date) -> Grouping:
    """Propose which kinds belong together and which should change places.

    Returns
    -------
    Grouping : groups by themselves, and moves between the spaces there are

    Notes
    -----
    Groups: each kind, the most demanding first, joins the first group it gets on with, or opens one. Moves: from how
    things stand, the single move or exchange that lessens the strife most is taken as long as one does; floor area
    and height are kept to, and every move has a price, so that little is moved for little.
    """
    cast = cast_of(plan)
    kinds = [kind for space in plan.spaces for kind in kinds_in(standing_of(space, day, cast))]
    spaces = {space.id: space for space in plan.spaces}
    start = [kind.space_id for kind in kinds]
    end = _settle(kinds, spaces, start)
    left = [
        max(pulls(a, b), key=lambda pull: pull.weight)
        for (a, at), (b, bt) in combinations(zip(kinds, end, strict=True), 2)
        if at == bt and strife(a, b) >= APART
    ]
    return Grouping(
        groups=_groups(kinds),
        moves=tuple(
            Move(kind=kind, to_space_id=to) for kind, to in zip(kinds, end, strict=True) if to != kind.space_id
        ),
        strife_before=_inner(kinds, start),
        strife_after=_inner(kinds, end),
        left=tuple(left),
    )


def _groups(kinds: list[Kind]) -> tuple[tuple[Kind, ...], ...]:
    distinct = list({(kind.crop.id, kind.want.kind): kind for kind in kinds}.values())
    distinct.sort(key=lambda kind: (-sum(strife(kind, other) for other in distinct), kind.name))
    found: list[list[Kind]] = []
    for kind in distinct:
        fits = [group for group in found if all(strife(kind, other) < APART for other in group)]
        best = min(fits, key=lambda group: sum(strife(kind, other) for other in group), default=None)
        if best is None:
            found.append([kind])
        else:
            best.append(kind)
    return tuple(tuple(group) for group in found)


def _inner(kinds: list[Kind], places: list[str]) -> float:
    pairs = combinations(zip(kinds, places, strict=True), 2)
    return sum(strife(a, b) for (a, at), (b, bt) in pairs if at == bt)


def _cost(kinds: list[Kind], spaces: Mapping[str, Space], places: list[str], table: list[list[float]]) -> float:
    total = 0.0
    for i, j in combinations(range(len(kinds)), 2):
        if places[i] == places[j]:
            total += table[i][j]
    for key, space in spaces.items():
        inside = [kind for kind, place in zip(kinds, places, strict=True) if place == key]
        own = sum(kind.area_m2 for kind in inside if kind.space_id == key)
        spare = max(0.9 * growing_area_m2(space), own)
        total += _OVERFULL * max(0.0, sum(kind.area_m2 for kind in inside) / spare - 1)
        room = space.size.height_m - 0.15
        total += sum(_TOO_TALL for kind in inside if kind.space_id != key and kind.height_m > room)
        total += sum(_damp_misfit(space, kind) for kind in inside)
        light = max(light_there_mol_m2_d(space), 0.05)
        wanted = [kind.want.dli_mol_m2_d.low for kind in inside if kind.space_id != key]
        total += sum(_TOO_DARK * log2(low / light) for low in wanted if low > light)
    return total + _MOVE * sum(place != kind.space_id for kind, place in zip(kinds, places, strict=True))


def _damp_misfit(space: Space, kind: Kind) -> float:
    """How far the humidity that a kind of space holds lies from what a crop wants, in steps."""
    low, high = _HOLDS.get(space.kind, _HOLDS_ELSE)
    want = kind.want.rh_pct
    return _WEIGHT["humidity"] * max(0.0, want.low - high, low - want.high) / _SCALE["humidity"]


def _settle(kinds: list[Kind], spaces: Mapping[str, Space], start: list[str]) -> list[str]:
    table = [[strife(a, b) for b in kinds] for a in kinds]
    places, best = list(start), _cost(kinds, spaces, start, table)
    for _ in range(_ROUNDS):
        tried = [(_cost(kinds, spaces, other, table), other) for other in _neighbours(places, list(spaces))]
        cost, other = min(tried, key=lambda item: item[0], default=(best, places))
        if cost >= best - 1e-9:
            break
        places, best = other, cost
    return places


def _neighbours(places: list[str], spaces: list[str]) -> Iterator[list[str]]:
    for i, here in enumerate(places):
        for there in spaces:
            if there != here:
                yield [*places[:i], there, *places[i + 1 :]]
        for j in range(i + 1, len(places)):
            if places[j] != here:
                swapped = list(places)
                swapped[i], swapped[j] = places[j], here
                yield swapped
