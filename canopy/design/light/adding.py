"""More lamps beside those that hang: how many, of which class, where; and three sets of different price."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from canopy.design.light.moving import WORTH, Trial, changes_of, dimmed, fits, places_for
from canopy.design.light.proposal import Proposal, Tried, judged, unmet
from canopy.equipment import FixtureSpec
from canopy.evaluate.light.lighting import lighting
from canopy.library import Window, fixtures
from canopy.light.photometry import fixture_load, ppf
from canopy.light.scene import DEFAULT, PREVIEW
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.changes import Add
from canopy.plan.document import Fixture
from canopy.plan.levels import shines_down
from canopy.season import Standing

Array = NDArray[np.float64]
_COUNTS = (1, 2, 3, 4)
# How much of what lamps give reaches leaves, and what part of the photons that are missing is worth a try.
_REACHES, _LEAST, _MOST, _TRIES = 0.55, 0.5, 3.0, 18


@dataclass(frozen=True, kw_only=True)
class Offer:
    """So many more lamps of a class beside those that hang; ``price`` spans what they cost to buy, None for a lamp of
    one's own data; ``adds_w`` what all lamps draw more than now [W]. ``tried`` and ``proposal`` are None until it was
    tried, and where it finds no room or helps nobody.
    """

    class_id: str
    spec: FixtureSpec
    count: int
    price: Window | None = None
    adds_w: float = 0.0
    tried: Tried | None = None
    proposal: Proposal | None = None


def add_lamp(here: Standing) -> Proposal | None:
    """Propose one more lamp of the class that hangs nearest to the plant that is shortest of light, and dimmers.

    Parameters
    ----------
    here : the space on a day, with plants and a lamp

    Returns
    -------
    Proposal : None where no such lamp finds room, or none would serve the plants better
    """
    like = _nearest_lamp(here)
    if like is None:
        return None
    found = _try(here, Offer(class_id=like.spec.class_id, spec=like.spec, count=1), like).proposal
    return replace(found, key="add", unmet=unmet_with(here, found)) if found else None


def offers_for(here: Standing) -> tuple[Offer, ...]:
    """List what is worth adding beside the lamps that hang.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    tuple of Offer : not tried yet, the cheapest first: one to four more of the class that hangs by the plant that is
        shortest of light, and other lamps of the library that give about what is missing; empty where no plant is short
    """
    like = _nearest_lamp(here)
    if like is None:
        return ()
    missing = _missing_umol_s(here)
    if missing <= 0:
        return ()
    row = fixtures()
    own = row.get(like.spec.class_id)
    price = own.price if own is not None and own.spec == like.spec else None
    found = [_offer(like.spec.class_id, like.spec, price, count) for count in _COUNTS]
    if shines_down(like):
        others = [
            _offer(item.id, item.spec, item.price, count)
            for item in row.values()
            if item.spec != like.spec and item.spec.purpose == "grow" and item.spec.technology == "led"
            for count in _COUNTS
            if item.spec.shape == "rectangle" and _LEAST * missing <= count * ppf(item.spec) <= _MOST * missing
        ]
        # Those that give most nearly what is missing, each class at most twice.
        others.sort(key=lambda item: abs(np.log(item.count * ppf(item.spec) / (1.3 * missing))))
        for item in others:
            if len(found) < _TRIES and sum(o.class_id == item.class_id for o in found) < 2:
                found.append(item)
    return tuple(sorted(found, key=lambda item: (_middle(item.price), item.count)))


def _offer(class_id: str, spec: FixtureSpec, price: Window | None, count: int) -> Offer:
    whole = Window(low=price.low * count, high=price.high * count) if price else None
    return Offer(class_id=class_id, spec=spec, count=count, price=whole)


def _middle(price: Window | None) -> float:
    return (price.low + price.high) / 2 if price else 0.0


def _missing_umol_s(here: Standing) -> float:
    """Photons that lamps would have to give more so that the plants are not short, roughly [µmol/s]."""
    light = lighting(here, PREVIEW, with_map=False)
    hours = max((lamp.full_hours for lamp in here.space.fixtures), default=12.0) or 12.0
    short = [
        max(
            item.plant.want.ppfd_umol_m2_s.low - item.ppfd_umol_m2_s,
            (item.plant.want.dli_mol_m2_d.low - item.dli_mol_m2_d) / (hours * 0.0036),
            0.0,
        )
        for item in light.plants
    ]
    return float(np.mean(short)) * here.space.size.width_m * here.space.size.depth_m / _REACHES


def try_offer(here: Standing, offer: Offer) -> Offer:
    """Hang more lamps where each helps most, set all dimmers, and see what comes of it.

    Parameters
    ----------
    here : the space on a day
    offer : what to hang

    Returns
    -------
    Offer : tried; without ``tried`` where they find no room or serve no plant better
    """
    like = _nearest_lamp(here)
    return offer if like is None else _try(here, offer, like)


def more_of(here: Standing, class_id: str, count: int) -> Offer | None:
    """Hang so many more of a class, whatever else might be better.

    Parameters
    ----------
    here : the space on a day
    class_id : id of a class of the library, or of a lamp that hangs here
    count : how many, 1 to 12

    Returns
    -------
    Offer : tried; None where the class is not known
    """
    row = fixtures().get(class_id)
    hung = next((lamp.spec for lamp in here.space.fixtures if lamp.spec.class_id == class_id), None)
    spec = row.spec if row else hung
    if spec is None:
        return None
    return try_offer(here, _offer(class_id, spec, row.price if row else None, count))


def three_of(tried: Iterable[Offer]) -> tuple[Offer, ...]:
    """Pick three sets of different price to stand side by side.

    Parameters
    ----------
    tried : offers that were tried

    Returns
    -------
    tuple of Offer : the cheapest that helps, the cheapest that serves as well as any, and the one that draws least
        among the best, the cheapest first; fewer where these are the same
    """
    able = [item for item in tried if item.tried is not None]
    if not able:
        return ()
    misses = {id(item): item.tried.miss for item in able if item.tried}
    best = min(misses.values())
    serving = [item for item in able if misses[id(item)] <= best + WORTH]
    cheapest = min(able, key=lambda item: _middle(item.price))
    good = min(serving, key=lambda item: _middle(item.price))
    thrifty = min(serving, key=lambda item: (item.tried.power_w if item.tried else 0.0, _middle(item.price)))
    middling = [item for item in able if item not in (cheapest, good, thrifty)]
    between = [item for item in middling if misses[id(item)] < misses[id(cheapest)] - WORTH]
    row = [cheapest, good, thrifty]
    if len({id(item) for item in row}) < 3 and between:
        row.append(min(between, key=lambda item: (misses[id(item)], _middle(item.price))))
    seen = {(item.class_id, item.count): item for item in row}
    return tuple(sorted(seen.values(), key=lambda item: _middle(item.price)))[:3]


def unmet_with(here: Standing, proposal: Proposal) -> tuple[Sentence, ...]:
    """Say, computed at the full setting, what more lamps leave unmet.

    Parameters
    ----------
    here : the space on a day
    proposal : more lamps, its last change what is hung

    Returns
    -------
    tuple of Sentence : as ``unmet`` gives them
    """
    added = proposal.changes[-1]
    assert isinstance(added, Add)
    dims = {change.part_id: change.values for change in proposal.changes[:-1]}  # type: ignore[union-attr]
    lamps = tuple(lamp.model_copy(update=dict(dims.get(lamp.id, {}))) for lamp in here.space.fixtures)
    lamps += tuple(Fixture.model_validate(item) for item in added.parts)
    after = here.moved(here.space.model_copy(update={"fixtures": lamps}))
    return unmet(after, lighting(after, DEFAULT, with_map=False))


def _nearest_lamp(here: Standing) -> Fixture | None:
    """The growing lamp nearest to the plant that is shortest of light."""
    grow = [lamp for lamp in here.space.fixtures if lamp.enabled and lamp.spec.purpose == "grow"]
    if not grow or not here.plants:
        return None
    light = lighting(here, PREVIEW, with_map=False)
    dimmest = min(light.plants, key=lambda item: item.dli_mol_m2_d / item.plant.want.dli_mol_m2_d.low).plant
    return min(grow, key=lambda lamp: (lamp.x_m - dimmest.x_m) ** 2 + (lamp.y_m - dimmest.y_m) ** 2)


def _try(here: Standing, offer: Offer, like: Fixture) -> Offer:
    lamps = here.space.fixtures
    trial = Trial(here)
    now, _ = trial.miss(trial.light.direct)
    low = np.array([plant.want.dli_mol_m2_d.low for plant in here.plants])
    on = np.array([float(lamp.enabled) for lamp in lamps])
    full = trial.basis.dli @ on + trial.basis.daylight_dli
    top = here.space.size.height_m - offer.spec.thickness_m - 0.005
    fresh = like.model_copy(
        update={
            "spec": offer.spec,
            "z_m": round(min(like.z_m, top), 3),
            "chain": "",
            "dim": 1.0,
            "ageing": 1.0,
            "cover": None,
        }
    )
    hung: list[Fixture] = []
    gained: list[Array] = []
    # One after another where it helps most; then each once more, with all others in their places.
    for number in [*range(offer.count), *(range(offer.count) if offer.count > 1 else ())]:
        if number < len(hung):
            del hung[number], gained[number]
        able = [
            lamp
            for lamp in places_for(here, fresh.model_copy(update={"id": f"lamp-new-{number + 1}"}))
            if fits(here, lamp, (*lamps, *hung))
        ]
        if not able:
            return offer
        rest = full + sum(gained, np.zeros_like(full))
        gains = [
            trial.direct([*lamps, *hung, lamp], len(lamps) + len(hung)).reshape(len(here.plants), -1).mean(axis=1)
            * lamp.full_hours
            * 0.0036
            for lamp in able
        ]
        best = int(np.argmin([np.clip(low / np.maximum(rest + gain, 1e-6) - 1, 0, 20).sum() for gain in gains]))
        hung.insert(number, able[best])
        gained.insert(number, gains[best])
    after = dimmed(here, (*lamps, *hung))
    tried = judged(after, lighting(after, PREVIEW, with_map=False), float(offer.count))
    if now - tried.miss < WORTH:
        return offer
    changes = changes_of(lamps, after.space.fixtures[: len(lamps)])
    fitted = after.space.fixtures[len(lamps) :]
    added = Add(collection="fixtures", parts=tuple(lamp.model_dump(mode="json") for lamp in fitted), prefix="lamp")
    proposal = Proposal(
        key=f"more-{offer.class_id}-{offer.count}",
        label=_label(offer, hung, dims=bool(changes)),
        changes=(*changes, added),
    )
    adds = sum(fixture_load(lamp) for lamp in after.space.fixtures) - sum(fixture_load(lamp) for lamp in lamps)
    return replace(offer, tried=tried, proposal=proposal, adds_w=adds)


def _label(offer: Offer, hung: list[Fixture], *, dims: bool) -> Sentence:
    amounts, places = dict[str, Amount](), []
    for number, lamp in enumerate(hung):
        amounts[f"x{number}"] = Amount(value=lamp.x_m, unit="length")
        amounts[f"y{number}"] = Amount(value=lamp.y_m, unit="length")
        places.append(f"{{x{number}}} from the left and {{y{number}}} from the front")
    many = "one more" if offer.count == 1 else f"{offer.count} more"
    tail = ", and set the dimmers" if dims else ""
    return sentence(f"Hang {many} {offer.spec.name} at {'; '.join(places)}{tail}", **amounts)
