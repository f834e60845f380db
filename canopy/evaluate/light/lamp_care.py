"""Lamps as things: how warm their outside gets against what hangs and stands near it, and how much they have faded."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator

import numpy as np

from canopy.library import LampKind, find, lamp_kinds
from canopy.margin import Amount, Margin, Step, Verdict, Working, judge_least, sentence
from canopy.plan.document import Fixture, Space
from canopy.plan.levels import roof_m
from canopy.plan.pose import corners
from canopy.words import counted

# Kinds hot enough to char fabric, film and wood (wood chars from about 250 °C, and slowly from 100 °C on).
HOT_C = 100.0
# So many times the least gap leave nothing to say.
_AMPLE = 1.3
# A lamp that gives so much less than is counted is worth a word.
_FADED = 0.04
_FIRE = (
    "Fabric, film, foam and wood this near a hot lamp char and may burn. Switch it off, let it cool, and keep the "
    "maker's distance on all sides. A smoke alarm belongs in the room."
)


def kind_of(lamp: Fixture) -> LampKind:
    """Give what a lamp has in common with its kind.

    Returns
    -------
    LampKind : by its technology
    """
    return find(lamp_kinds(), lamp.spec.technology, "kind of lamp")


def free_m(technology: str) -> float:
    """Give the gap to keep round a lamp whose outside gets hot.

    Parameters
    ----------
    technology : its kind

    Returns
    -------
    float : more than its least by what leaves nothing to say; 0 for a lamp that stays cool [m]
    """
    kind = find(lamp_kinds(), technology, "kind of lamp")
    return _AMPLE * kind.clear_m if kind.surface_c.high >= HOT_C else 0.0


def lit_so_far_h(lamp: Fixture, day: dt.date) -> float:
    """Give how long a lamp has been lit.

    Parameters
    ----------
    lamp : with the day it was first used
    day : today

    Returns
    -------
    float : at its present hours a day, from that day on; 0 where nobody said it [h]
    """
    if lamp.in_use_since is None:
        return 0.0
    return max(0, (day - lamp.in_use_since).days) * lamp.hours


def faded_to(lamp: Fixture, day: dt.date) -> float:
    """Give what is left of a lamp's light.

    Parameters
    ----------
    lamp : with the day it was first used
    day : today

    Returns
    -------
    float : share of what it gave new, by its kind's loss over its hours, at least a half

    Notes
    -----
    Light falls off exponentially with the hours (as IES TM-21 projects LED): 0.9 after 36,000 h, or 10,000 h of a tube.
    """
    kind = kind_of(lamp)
    return float(max(0.5, (1 - kind.loss_share) ** (lit_so_far_h(lamp, day) / kind.loss_h)))


def clear_m(space: Space, lamp: Fixture) -> tuple[float, str]:
    """Give the least gap between a lamp's outside and what stands round it.

    Returns
    -------
    (float, str) : [m], and to what: a face of the space, or what hangs over it
    """
    box = corners(lamp)
    low, high = box.min(axis=0), box.max(axis=0)
    size = space.size
    roof = roof_m(space, lamp.x_m, lamp.y_m, float(low[2]))
    gaps = {
        "left": low[0],
        "right": size.width_m - high[0],
        "front": low[1],
        "back": size.depth_m - high[1],
        "ceiling" if roof >= size.height_m - 1e-6 else "shelf above": roof - high[2],
    }
    where = min(gaps, key=lambda key: float(gaps[key]))
    return float(np.maximum(gaps[where], 0.0)), where


def lamp_margins(space: Space, day: dt.date) -> list[Margin]:
    """Judge lamps as things.

    Parameters
    ----------
    space : with its lamps
    day : today

    Returns
    -------
    list of Margin : the hot lamp nearest to what may burn, and what has faded; none without such lamps
    """
    return [*_surface(space), *_faded(space, day)]


def _surface(space: Space) -> Iterator[Margin]:
    found = [
        (lamp, *clear_m(space, lamp))
        for lamp in space.fixtures
        if lamp.enabled and kind_of(lamp).surface_c.high >= HOT_C
    ]
    if not found:
        return
    lamp, gap, where = min(found, key=lambda item: item[1] - kind_of(item[0]).clear_m)
    kind = kind_of(lamp)
    verdict: Verdict = judge_least(gap, kind.clear_m, tight=_AMPLE)
    amounts = {
        "gap": Amount(value=gap, unit="length"),
        "need": Amount(value=kind.clear_m, unit="length"),
        "hot": Amount(value=kind.surface_c.low, high=kind.surface_c.high, unit="temperature"),
    }
    number = space.fixtures.index(lamp) + 1
    words = {
        "short": f"Lamp {number}, {lamp.spec.name}, is {{gap}} from the {where}; its {kind.what} gets {{hot}} hot.",
        "tight": f"Lamp {number} is {{gap}} from the {where}, little more than its {kind.what} at {{hot}} needs.",
        "good": f"Lamp {number} comes closest: {{gap}} to the {where}; its {kind.what} gets {{hot}} hot.",
    }
    yield Margin(
        id="light.lamp-surface",
        station="light",
        title="Hot lamps and what burns",
        parts=(lamp.id,),
        verdict=verdict,
        mendable=verdict == "short",
        said="too near" if verdict == "short" else "",
        danger=_FIRE if verdict == "short" else "",
        need=sentence("at least {need}", **amounts),
        there=sentence("{gap}", **amounts),
        why=sentence(words[verdict], **amounts),
        working=Working(
            formula="least gap from the lamp's box to lining, shelf and ceiling",
            steps=(
                Step(symbol="T", meaning=f"{kind.name}: {kind.what}", amount=amounts["hot"]),
                Step(symbol="a", meaning=f"to the {where}", amount=amounts["gap"]),
            ),
            source="Typical of its kind; the maker's own distance goes first",
            certainty="As drawn. A cord that slips, a lining that sags and a leaf that grows come nearer.",
        ),
    )


def _faded(space: Space, day: dt.date) -> Iterator[Margin]:
    dated = [(n, lamp) for n, lamp in enumerate(space.fixtures, 1) if lamp.in_use_since and lamp.enabled]
    if not dated:
        return
    number, lamp = max(dated, key=lambda item: abs(item[1].ageing - faded_to(item[1], day)))
    left, kind = faded_to(lamp, day), kind_of(lamp)
    off = [item for _, item in dated if abs(item.ageing - faded_to(item, day)) > _FADED]
    verdict: Verdict = "tight" if off else "good"
    amounts = {
        "left": Amount(value=100 * left, unit="%", decimals=0),
        "counted": Amount(value=100 * lamp.ageing, unit="%", decimals=0),
        "hours": Amount(value=lit_so_far_h(lamp, day), unit="h", decimals=0),
    }
    words = {
        "tight": (
            f"Lamp {number} has run about {{hours}} and gives about {{left}} of its light; {{counted}} is counted. "
            f"So it is with {counted(len(off), 'lamp')} here."
        ),
        "good": f"Lamp {number} has run about {{hours}} and gives about {{left}}; {{counted}} is counted.",
    }
    yield Margin(
        id="light.ageing",
        station="light",
        title="Lamps that fade",
        parts=tuple(item.id for item in off) or (lamp.id,),
        verdict=verdict,
        mendable=bool(off),
        need=sentence("{left} counted", **amounts),
        there=sentence("{counted} counted", **amounts),
        why=sentence(words[verdict], **amounts),
        working=Working(
            formula="(1 − loss)^(hours / hours of that loss)",
            steps=(
                Step(
                    symbol="loss", meaning=kind.name, amount=Amount(value=100 * kind.loss_share, unit="%", decimals=0)
                ),
                Step(symbol="", meaning="after so long", amount=Amount(value=kind.loss_h, unit="h", decimals=0)),
                Step(symbol="hours", meaning="at its present hours a day", amount=amounts["hours"]),
            ),
            source="Typical of its kind, compiled for this library; a light survey beats it",
            certainty="Rough: hot lamps fade faster, dimmed ones slower.",
        ),
    )
