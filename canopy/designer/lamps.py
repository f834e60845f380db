"""The coarse screen: which lamps could light a space at all, and which of them are worth the true models."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from canopy.design.light.choose import OWNED
from canopy.design.light.dimmers import best_dimmers
from canopy.design.light.hanging import hang, hours_wanted
from canopy.design.light.proposal import Basis, basis_of, lacking
from canopy.equipment import FixtureSpec
from canopy.evaluate.light.lighting import lighting
from canopy.evaluate.light.margins import EVEN_LEAST, least_even
from canopy.library import FixtureClass, Window, fixtures
from canopy.light.photometry import fixture_load, ppf
from canopy.light.scene import Quality
from canopy.plan.document import Fixture
from canopy.plan.stock import StockItem
from canopy.schedule import Daily
from canopy.season import Growing, Standing

Array = NDArray[np.float64]
COARSE = Quality(patches=220, pieces=1)
COUNTS = (1, 2, 3, 4, 6, 8)
LIFTS = (0.15, 0.25, 0.4, 0.6, 0.85)
# However well lamps are hung, no more of their photons than this falls on a floor's area of leaves; and a set that
# gives so many times what is needed at the least is dearer than one that is dimmed less.
_REACHES_MOST, _MOST = 1.05, 5.0
# What a dimmer can be set to at least; how far inside a window lamps are set: past where it is called tight, and by
# what the coarse look is off.
_LEAST_DIM, _INSIDE = 0.05, 1.1
# Light is even enough by so much more than the least, for the coarse look.
_JUST = 1.03


@dataclass(frozen=True, kw_only=True, eq=False)
class LampSet:
    """So many lamps of a class at a height, dimmed for the plants, on one level; ``miss`` is how far plants lie outside
    their windows in all, ``later`` how far the lamps at full output fall short of the most that a later stage wants (0:
    not). ``price`` is what all of them cost at the middle of their span, 0 for what is owned.
    """

    class_id: str
    spec: FixtureSpec
    count: int
    lift: float
    lamps: tuple[Fixture, ...]
    miss: float
    later: float
    evenness: float
    power_w: float
    price: float

    @property
    def key(self) -> str:
        """Its name among the sets."""
        return f"{self.class_id}x{self.count}@{self.lift:g}"

    @property
    def serves(self) -> bool:
        """Whether every plant lies inside its windows, and will in later stages, in light that is even enough."""
        return self.miss < 1e-6 and self.later < 1e-6 and self.evenness >= _JUST * EVEN_LEAST


@dataclass(frozen=True, kw_only=True)
class LampKind:
    """So many lamps of a class that could do it: not hung yet."""

    class_id: str
    spec: FixtureSpec
    count: int
    price: float


def lamp_kinds(
    here: Standing, rate: float, owned: Iterable[StockItem] = (), classes: Sequence[str] = (), levels: int = 1
) -> tuple[LampKind, ...]:
    """List the lamps that could light a level: by a bound that no hanging beats.

    Parameters
    ----------
    here : one level, planted
    rate : what a euro is in the household's money [currency]
    owned : lamps of the household's stock
    classes : only these classes of the library; all that are worth buying new when empty
    levels : of how many levels each needs as many

    Returns
    -------
    tuple of LampKind : of LED lamps for growing, what is owned first, then the cheapest to buy
    """
    if not here.plants:
        return ()
    area = here.space.size.width_m * here.space.size.depth_m
    hours = hours_wanted(here)
    needed = max(
        max(_least(plant, hours) for plant in here.plants),
        float(np.mean([_least(plant, hours, later=True) for plant in here.plants])),
    )
    floor = needed * min(1.0, _planted_share(here)) * area / _REACHES_MOST
    found = [
        LampKind(class_id=row.id, spec=row.spec, count=count, price=count * levels * rate * _middle(row.price))
        for row in fixtures().values()
        if row.spec.purpose == "grow" and (row.id in classes if classes else _advised(row, here))
        for count in COUNTS
        if floor <= count * ppf(row.spec) <= _MOST * max(needed * area, 1e-9)
    ]
    mine = [
        LampKind(class_id=f"{OWNED}{item.id}", spec=item.lamp, count=count, price=0.0)
        for item in owned
        if item.lamp is not None and item.lamp.purpose == "grow"
        for count in COUNTS
        if count * levels <= item.number and count * ppf(item.lamp) >= floor
    ]
    return (*mine, *sorted(found, key=lambda item: (item.price, item.count, item.class_id)))


def _advised(row: FixtureClass, here: Standing) -> bool:
    """Whether one would buy it for there: LED that hangs; what stands or is clipped on only at an open shelf."""
    borne = row.mount == "hung" or (row.mount in ("clip", "foot") and here.space.kind == "shelf")
    return row.spec.technology == "led" and row.proposed and borne


def _middle(price: Window) -> float:
    return (price.low + price.high) / 2


def _least(plant: Growing, hours: float, *, later: bool = False) -> float:
    """The least mean PPFD a plant wants in the hours there are, now or in the stage that wants most [µmol/m²/s]."""
    if not later:
        return plant.want.dli_mol_m2_d.low / (hours * 0.0036)
    return max(
        stage.dli_mol_m2_d.low / (max(1.0, (stage.photoperiod_h.low + stage.photoperiod_h.high) / 2) * 0.0036)
        for stage in plant.crop.stages
        if stage.kind != "rest" and stage.dli_mol_m2_d.low > 0
    )


def _planted_share(here: Standing) -> float:
    """The part of the floor that tops cover: what lies between them needs no light."""
    area = here.space.size.width_m * here.space.size.depth_m
    covered = sum(np.pi * max(plant.form.spread_m, 0.02) ** 2 / 4 for plant in here.plants)
    return float(covered / area)


def hung(here: Standing, kind: LampKind, lift: float) -> LampSet | None:
    """Hang lamps at a height and dim them.

    Parameters
    ----------
    here : one level, planted, without lamps
    kind : the lamps
    lift : over the tops, as a share of the longer side

    Returns
    -------
    LampSet : computed coarsely; None where they do not fit
    """
    space, hours = here.space, hours_wanted(here)
    top = max(plant.top_m for plant in here.plants)
    lamps = hang(space.size, kind.spec, kind.count, top, hours, lift=lift, spread=True)
    if not lamps:
        return None
    moved = here.moved(space.model_copy(update={"fixtures": tuple(lamps)}))
    basis = basis_of(moved, COARSE)
    share = _shared(moved, basis)
    if kind.spec.dimmable:
        # What is bought as a set is set alike; each on its own only where that brings more plants into their windows.
        dims = np.full(kind.count, np.clip(share, _LEAST_DIM, 1.0))
        if _miss(moved, basis, dims) > 1e-6 and kind.count > 1:
            each = np.clip(best_dimmers(moved, basis), _LEAST_DIM, 1.0)
            dims = each if _miss(moved, basis, each) < _miss(moved, basis, dims) - 1e-6 else dims
        dims = np.ceil(dims * 100 - 1e-6) / 100
        values: list[dict[str, object]] = [{"dim": float(dim)} for dim in dims]
        lasts = 1.0
    else:
        # What has no dimmer is set by its hours, as far as the stage's day allows.
        day = _day(moved)
        lasts = round(2 * float(np.clip(hours * share, *day))) / 2 / hours if day else 1.0
        dims, clock = np.ones(kind.count), Daily(start="06:00", hours=round(hours * lasts, 2))
        values = [{"schedule": clock}] * kind.count
    set_to = tuple(lamp.model_copy(update=value) for lamp, value in zip(lamps, values, strict=True))
    miss = _miss(moved, basis, dims, lasts) + _too_near(set_to, top) + _scorched(moved, basis, dims)
    lit = here.moved(space.model_copy(update={"fixtures": set_to}))
    return LampSet(
        class_id=kind.class_id,
        spec=kind.spec,
        count=kind.count,
        lift=lift,
        lamps=set_to,
        miss=miss,
        later=_later(moved, basis),
        # How even light is over the tops is only asked of what serves.
        evenness=least_even(lighting(lit, COARSE, with_map=False)) if miss < 1e-6 else 0.0,
        power_w=sum(fixture_load(lamp) for lamp in set_to) * lasts,
        price=kind.price,
    )


def _day(here: Standing) -> tuple[float, float] | None:
    """The least and the longest day that suits every plant, in half hours; None where none does [h]."""
    low = max(1.0, *(plant.want.photoperiod_h.low for plant in here.plants))
    high = min(plant.want.photoperiod_h.high for plant in here.plants)
    low, high = np.ceil(2 * low) / 2, np.floor(2 * high) / 2
    return (float(low), float(high)) if low <= high else None


def _shared(here: Standing, basis: Basis) -> float:
    """The least share of full output, the same for all lamps, that no plant is short at, a little inside."""
    full = np.maximum(basis.dli.sum(axis=1), 1e-9)
    at_once = np.maximum(basis.mean.sum(axis=1), 1e-9)
    low = np.array([plant.want.dli_mol_m2_d.low for plant in here.plants])
    high = np.array([plant.want.dli_mol_m2_d.high for plant in here.plants])
    dim = np.array([plant.want.ppfd_umol_m2_s.low for plant in here.plants])
    least = np.maximum((low - basis.daylight_dli) / full, (dim - basis.daylight_ppfd) / at_once).max()
    most = float(((high - basis.daylight_dli) / full).min())
    inside = _INSIDE * float(least)
    # Half way into the window where it is narrow.
    return min(inside, (float(least) + most) / 2) if most > least else inside


def _miss(here: Standing, basis: Basis, dims: Array, lasts: float = 1.0) -> float:
    dli = basis.dli @ dims * lasts + basis.daylight_dli
    return float(lacking(here, dli, basis.mean @ dims + basis.daylight_ppfd).sum())


def _too_near(lamps: Sequence[Fixture], top_m: float) -> float:
    """How far the highest top reaches into what a lamp keeps off leaves, as a share of that."""
    return max(0.0, *((lamp.least_distance_m - (lamp.z_m - top_m)) / lamp.least_distance_m for lamp in lamps))


def _scorched(here: Standing, basis: Basis, dims: Array) -> float:
    """How far the brightest leaf lies over what its crop bears, as a share of that."""
    limit = np.array([plant.want.ppfd_limit_umol_m2_s for plant in here.plants])
    return float(np.clip(basis.most @ dims / limit - 1, 0, 20).max())


def _later(here: Standing, basis: Basis) -> float:
    """How far the lamps at full output fall short of what a crop's most demanding stage wants, on its mean."""
    full = basis.mean.sum(axis=1) + basis.daylight_ppfd
    crops: dict[str, list[float]] = {}
    for plant, there in zip(here.plants, full, strict=True):
        crops.setdefault(plant.crop.id, []).append(_least(plant, 1.0, later=True) / max(float(there), 1e-6) - 1)
    return max(0.0, *(float(np.mean(rows)) for rows in crops.values())) if crops else 0.0


@dataclass(eq=False)
class Screen:
    """Hangs each kind at each height, the cheapest first, and passes over what cannot be worth it.

    ``month`` is what a watt of lamps costs over two years [currency/W].
    """

    here: Standing
    kinds: Sequence[LampKind]
    month: float
    lifts: Sequence[float] = LIFTS
    found: list[LampSet] = field(default_factory=list)
    looked: int = 0
    passed_over: int = 0
    _weak: float = 0.0

    def steps(self) -> Iterator[LampSet | None]:
        """Hang one after another.

        Returns
        -------
        iterator of LampSet : None for one that does not fit
        """
        row, later = list(self.kinds), list[LampKind]()
        while row or later:
            if not row:
                # Put off, not left out: they are looked at once there is nothing better to look at.
                row, later, self._weak = later, [], 0.0
            kind = row.pop(0)
            if self._hopeless(kind):
                self.passed_over += 1
                continue
            if kind.count * ppf(kind.spec) < self._weak and not any(item.serves for item in self.found):
                later.append(kind)
                continue
            before: LampSet | None = None
            for lift in self.lifts:
                self.looked += 1
                made = hung(self.here, kind, lift)
                if made is None or (before and abs(made.lamps[0].z_m - before.lamps[0].z_m) < 5e-3):
                    break
                self.found.append(made)
                yield made
                weak = all(lamp.dim >= 1 for lamp in made.lamps) and made.miss > 0
                if weak and made.miss > _WEAK:
                    self._weak = max(self._weak, _LESS * kind.count * ppf(kind.spec))
                if weak or (made.serves and made.evenness >= _EVEN):
                    # What is too weak low down is weaker still from above; what is even draws only more.
                    break
                before = made
            yield None

    def _hopeless(self, kind: LampKind) -> bool:
        """By bounds: it cannot be cheaper over two years than one that serves, and that one is even or far cheaper."""
        serving = [item for item in self.found if item.serves]
        if not serving or kind.price <= 0:
            return False
        dearest = min(item.price for item in serving)
        least = min(item.price + self.month * item.power_w for item in serving)
        bound = kind.price + self.month * self._least_w(kind)
        even = max(item.evenness for item in serving)
        return bound >= least and (even >= _EVEN or kind.price > _DEARER * dearest)

    def _least_w(self, kind: LampKind) -> float:
        """What such lamps draw at the least for the photons that tops want, all of them reaching tops [W]."""
        area = self.here.space.size.width_m * self.here.space.size.depth_m
        hours = hours_wanted(self.here)
        wanted = float(np.mean([_least(plant, hours) for plant in self.here.plants]))
        photons = wanted * min(1.0, _planted_share(self.here)) * area / _REACHES_MOST
        return photons / max(ppf(kind.spec) / max(kind.spec.power_w, 1e-9), 1e-9)


# What misses by so much at full output is too weak; what gives less than that share of it is put off.
_WEAK, _LESS = 0.3, 0.85
# Light that is so even needs no more; and lamps that cost so many times the cheapest are not hung for evenness alone.
_EVEN, _DEARER = 0.85, 2.5


# So many sets at the most go on to the true models.
_KEPT, _LEAST_SETS, _NEAR = 14, 5, 0.3


def worth_trying(found: Iterable[LampSet], most: int = _KEPT) -> tuple[LampSet, ...]:
    """Pick the sets that no other beats at once in price, running, evenness and how well they serve.

    Parameters
    ----------
    found : as they were screened
    most : how many at the most

    Returns
    -------
    tuple of LampSet : those that serve first, the cheapest first
    """
    alike = {
        (round(item.price), item.count, round(item.power_w), round(item.evenness, 2), round(item.lamps[0].z_m, 2)): item
        for item in reversed(list(found))
    }
    rows = sorted(alike.values(), key=lambda item: (round(item.miss + item.later, 2), item.price, item.power_w))
    serving = [item for item in rows if item.serves]
    if len(serving) < _LEAST_SETS:
        # Too few to choose from: those that come nearest are judged by the true models, and mended.
        near = (item for item in rows if not item.serves and item.miss + item.later < _NEAR)
        serving += list(near)[: _LEAST_SETS - len(serving)] or ([] if serving else rows[:_LEAST_SETS])
    kept: list[LampSet] = []
    for item in serving:
        if not any(_beats(other, item) for other in serving if other is not item):
            kept.append(item)
    by_price = sorted(kept, key=lambda item: (not item.serves, item.price, item.power_w))
    if len(by_price) <= most:
        return tuple(by_price)
    # The cheapest, the thriftiest and the most even of them, then evenly through the rest.
    firsts = [
        by_price[0],
        min(by_price, key=lambda item: item.power_w),
        max(by_price, key=lambda item: item.evenness),
    ]
    step = (len(by_price) - 1) / (most - 1)
    spread = [by_price[round(step * k)] for k in range(most)]
    picked = {item.key: item for item in (*firsts, *spread)}
    return tuple(sorted(list(picked.values())[:most], key=lambda item: (item.price, item.power_w)))


def _beats(one: LampSet, other: LampSet) -> bool:
    """Whether a set is at least as good in all and better in one."""
    left = (one.price, one.power_w, -one.evenness, one.miss + one.later)
    right = (other.price, other.power_w, -other.evenness, other.miss + other.later)
    return all(a <= b + 1e-9 for a, b in zip(left, right, strict=True)) and any(
        a < b - 1e-9 for a, b in zip(left, right, strict=True)
    )
