"""Which lamps and how many: classes of the library, hung and dimmed, held against the plants."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from canopy.design.light.dimmers import best_dimmers
from canopy.design.light.hanging import hang, hours_wanted
from canopy.design.light.proposal import Proposal, Tried, basis_of, judged, missed, unmet
from canopy.equipment import FixtureSpec
from canopy.evaluate.light.lighting import lighting
from canopy.evaluate.power.loads import circuit_load
from canopy.library import fixtures
from canopy.light.photometry import fixture_load, ppf
from canopy.light.scene import DEFAULT, Quality
from canopy.margin import Amount, sentence
from canopy.plan.changes import Act, Add, Remove
from canopy.plan.document import Fixture, Plan
from canopy.plan.stock import StockItem
from canopy.power.load import CONTINUOUS_H, MONTH_DAYS
from canopy.season import Standing

# Sets are told apart by a coarse look; what is shown of one is computed at the full setting.
_COARSE = Quality(patches=220, pieces=1)
_COUNTS = (1, 2, 3, 4, 6)
_REACHES = 0.55
# How much less or more light than roughly needed is worth a try.
_LEAST, _MOST = 0.7, 2.4
# What the class of a lamp from stock begins with.
OWNED = "stock."


@dataclass(frozen=True, kw_only=True)
class Choice:
    """So many lamps of a class, tried out: how they would hang, and what comes of it; None where they do not fit."""

    class_id: str
    spec: FixtureSpec
    count: int
    tried: Tried | None = None
    proposal: Proposal | None = None

    @property
    def owned(self) -> bool:
        """Whether these lamps are of the household's stock."""
        return self.class_id.startswith(OWNED)


def choices_for(here: Standing, owned: Iterable[StockItem] = ()) -> tuple[Choice, ...]:
    """List the lamps of the library worth trying over a space's plants.

    Parameters
    ----------
    here : the space on a day
    owned : lamps of the household's stock, each for as many as there are; not asked whether they suffice

    Returns
    -------
    tuple of Choice : not tried yet, what is owned first, then the least power
    """
    if not here.plants:
        return ()
    space = here.space
    floor = space.size.width_m * space.size.depth_m
    most = max(here.plants, key=lambda plant: plant.want.dli_mol_m2_d.low).want
    lit = (most.photoperiod_h.low + most.photoperiod_h.high) / 2 or 12.0
    rough = (most.dli_mol_m2_d.low + most.dli_mol_m2_d.high) / 2 / (lit * 0.0036) * floor / _REACHES
    found = [
        Choice(class_id=row.id, spec=row.spec, count=count)
        for row in fixtures().values()
        if row.spec.purpose == "grow"
        for count in _COUNTS
        if _LEAST * rough <= count * ppf(row.spec) <= _MOST * rough
    ]
    # Lamps that shine alike, such as one with and without its hood, are tried once.
    alike = {_shining(item): item for item in reversed(found)}
    mine = [
        Choice(class_id=f"{OWNED}{item.id}", spec=item.lamp, count=count)
        for item in owned
        if item.lamp is not None and item.lamp.purpose == "grow"
        for count in _COUNTS
        if count <= item.number
    ]
    return (*mine, *sorted(alike.values(), key=lambda item: item.count * item.spec.power_w))


def _shining(choice: Choice) -> tuple[object, ...]:
    """What tells a set's light from another's."""
    spec = choice.spec
    bare = spec.model_copy(
        update={
            "name": "-",
            "class_id": "",
            "hood_share": 0.0,
            "thickness_m": 0.0,
            "weight_kg": None,
            "spectrum_id": "",
        }
    )
    return choice.count, bare


def try_choice(here: Standing, choice: Choice) -> Choice:
    """Hang lamps, low and high, set their dimmers, and keep the better.

    Parameters
    ----------
    here : the space on a day; its present lamps are taken down
    choice : the lamps

    Returns
    -------
    Choice : tried; without ``tried`` where they do not fit
    """
    space = here.space
    top = max(plant.top_m for plant in here.plants)
    lit = hours_wanted(here)
    best: tuple[Standing, float, float] | None = None
    for lift in (0.3, 0.55):
        lamps = hang(space.size, choice.spec, choice.count, top, lit, lift=lift)
        if not lamps or (best and (best[1] < 1e-9 or lamps[0].z_m == best[0].space.fixtures[0].z_m)):
            # Where low lamps serve all plants, higher ones only draw more.
            continue
        if best and all(lamp.dim >= 1 for lamp in best[0].space.fixtures):
            # What is too weak low down is weaker still from above.
            continue
        hung = here.moved(space.model_copy(update={"fixtures": tuple(lamps)}))
        basis = basis_of(hung, _COARSE)
        dims = best_dimmers(hung, basis)
        set_to = tuple(
            lamp.model_copy(update={"dim": round(float(np.clip(dim, 0, 1)), 2)})
            for lamp, dim in zip(lamps, dims, strict=True)
        )
        moved = here.moved(space.model_copy(update={"fixtures": set_to}))
        miss = float(missed(here, basis.dli @ dims + basis.daylight_dli).sum())
        power = sum(fixture_load(lamp) for lamp in set_to)
        if best is None or (miss, power) < (best[1] - 0.02, best[2]):
            best = (moved, miss, power)
    if best is None:
        return choice
    tried = judged(best[0], lighting(best[0], _COARSE, with_map=False), float(choice.count))
    return replace(choice, tried=tried, proposal=_proposal(choice, here, best[0]))


def _proposal(choice: Choice, here: Standing, moved: Standing) -> Proposal:
    before, after = here.space.fixtures, moved.space.fixtures
    lamps = tuple(lamp.model_dump(mode="json") for lamp in after)
    changes: list[Act] = [Remove(collection="fixtures", part_ids=tuple(lamp.id for lamp in before))] if before else []
    count = Amount(value=choice.count, unit="", decimals=0)
    return Proposal(
        key=f"lamps-{choice.class_id}-{choice.count}",
        label=sentence(f"Hang {{n}} × {choice.spec.name}", n=count),
        changes=(*changes, Add(collection="fixtures", parts=lamps, prefix="lamp")),
    )


def best_choices(tried: Iterable[Choice]) -> list[Choice]:
    """Rank sets that were tried.

    Parameters
    ----------
    tried : the sets; those that could not be fitted are left out

    Returns
    -------
    list of Choice : by how far plants miss their windows, to a tenth of a doubling; then what is owned before what is
        bought, then by power
    """
    able = [item for item in tried if item.tried is not None]
    ranked = sorted(
        able,
        key=lambda item: (round(item.tried.miss, 1), not item.owned, item.tried.power_w) if item.tried else (9, 1, 0),
    )
    seen: set[tuple[object, ...]] = set()
    found = []
    for item in ranked:
        assert item.tried is not None
        # Sets that come to the same, such as one lamp with and without its hood, are shown once.
        same = item.count, round(item.tried.power_w), round(item.tried.covered, 2), round(item.tried.evenness, 2)
        if same not in seen:
            seen.add(same)
            found.append(item)
    return found


@dataclass(frozen=True, kw_only=True)
class Bill:
    """What lamps cost to run [a month, in the plan's currency], and their circuit with them: continuous load and what
    it may carry for hours [W].
    """

    cost_per_month: float
    load_w: float
    limit_w: float

    @property
    def fits(self) -> bool:
        """Whether the circuit carries it."""
        return self.load_w <= self.limit_w


def bill_of(plan: Plan, here: Standing, power_w: float, *, beside: bool = False) -> Bill:
    """Say what lamps cost and whether their circuit carries them.

    Parameters
    ----------
    here : the space on a day, with the lamps that hang there now
    power_w : what the new lamps draw as they are set [W]; with ``beside`` what is drawn more than now
    beside : they hang beside the present lamps instead of in their place

    Returns
    -------
    Bill : without a limit where the space hangs on no circuit
    """
    hours, space = hours_wanted(here), here.space
    cost = power_w / 1000 * hours * MONTH_DAYS * plan.tariff.mean_price
    circuit = plan.circuit(space.circuit_id)
    if circuit is None:
        return Bill(cost_per_month=cost, load_w=power_w, limit_w=float("inf"))
    load = circuit_load(plan, circuit)
    gone = 0.0 if beside else sum(fixture_load(lamp) for lamp in space.fixtures if lamp.hours >= CONTINUOUS_H)
    adds = power_w if hours >= CONTINUOUS_H else 0.0
    return Bill(cost_per_month=cost, load_w=load.continuous_w - gone + adds, limit_w=load.limit_w)


def settled(here: Standing, proposal: Proposal) -> Proposal:
    """Say of a chosen set, computed at the full setting, what it cannot meet.

    Parameters
    ----------
    here : the space on a day
    proposal : the set

    Returns
    -------
    Proposal : with what is unmet
    """
    added = proposal.changes[-1]
    assert isinstance(added, Add)
    lamps = tuple(Fixture.model_validate(item) for item in added.parts)
    moved = here.moved(here.space.model_copy(update={"fixtures": lamps}))
    left = unmet(moved, lighting(moved, DEFAULT, with_map=False))
    return Proposal(key=proposal.key, label=proposal.label, changes=proposal.changes, unmet=left, tried=proposal.tried)
