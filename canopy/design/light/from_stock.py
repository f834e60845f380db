"""Lamps that the household owns and that hang nowhere, tried in place of lamps that would be bought."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.light.photometry import ppf
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.changes import Change
from canopy.plan.document import Fixture, Plan, Space
from canopy.plan.owned import free_of
from canopy.plan.stock import StockItem, alike

# A lamp that would give less than this share of the light is not worth a look, nor is one not made for plants.
_LEAST = 0.35


@dataclass(frozen=True, kw_only=True)
class Swap:
    """Lamps of the stock in place of lamps of the plan: how many, at which dimmer, and what they draw more [W]."""

    item: StockItem
    lamps: tuple[Fixture, ...]
    label: Sentence
    changes: tuple[Change, ...]
    light_share: float
    adds_w: float


def swaps_for(plan: Plan, space: Space) -> tuple[Swap, ...]:
    """List what could be hung from stock in place of a space's lamps that are not owned.

    Parameters
    ----------
    plan : the household, with its stock
    space : one of its spaces

    Returns
    -------
    tuple of Swap : the brightest first; each dimmed to the light of what it replaces where it can be. What else they
        move is not judged here: ``preview`` does
    """
    free = free_of(plan)
    lamps = [item for item in plan.stock if item.lamp is not None and free.get(item.like, 0) >= 1]
    if not lamps:
        return ()
    groups: dict[str, list[Fixture]] = {}
    owned = {item.like for item in plan.stock}
    for lamp in space.fixtures:
        if lamp.enabled and alike("lamp", lamp.spec.name) not in owned:
            groups.setdefault(lamp.spec.name, []).append(lamp)
    found = [
        swap
        for group in groups.values()
        for item in lamps
        if (swap := _swap(item, group[: free[item.like]], len(group))) is not None
    ]
    return tuple(sorted(found, key=lambda swap: (-len(swap.lamps), -swap.light_share)))


def _swap(item: StockItem, lamps: list[Fixture], wanted: int) -> Swap | None:
    spec = item.lamp
    assert spec is not None
    if spec.purpose != lamps[0].spec.purpose or ppf(spec) <= 0:
        return None
    changes, given, asked, adds = [], 0.0, 0.0, 0.0
    for lamp in lamps:
        # What it gives now, with its age and cover left out: those are the old lamp's own.
        need = ppf(lamp.spec) * lamp.dim
        dim = min(1.0, round(need / ppf(spec), 2)) if spec.dimmable else 1.0
        changes.append(
            Change(
                collection="fixtures",
                part_id=lamp.id,
                values={"spec": spec.model_dump(mode="json"), "dim": dim, "ageing": 1.0, "cover": None},
            )
        )
        given, asked = given + ppf(spec) * dim, asked + need
        adds += spec.power_w * dim - lamp.spec.power_w * lamp.dim
    if given < _LEAST * asked:
        return None
    what = "" if len(lamps) == wanted else f" of {wanted}"
    label = sentence(
        f"Hang {{n}}{what} × {item.name} from stock in place of {lamps[0].spec.name}",
        n=Amount(value=len(lamps), unit="", decimals=0),
    )
    return Swap(
        item=item,
        lamps=tuple(lamps),
        label=label,
        changes=tuple(changes),
        light_share=given / asked if asked else 0.0,
        adds_w=adds,
    )
