"""What may live together: the windows that all crops of a space share, and where they part."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import combinations

from canopy.evaluate.naming import cite, stage_name
from canopy.library import StageTargets, Window
from canopy.margin import Amount, Margin, Step, Verdict, Working, sentence
from canopy.plan.document import Space
from canopy.season import Growing, Standing

# Two crops a little apart both do tolerably between their windows.
_SLACK_K = 1.5


@dataclass(frozen=True, kw_only=True)
class Quantity:
    """One thing crops in a space share; ``hard`` where no corner of the space can differ, but for a gap of
    ``slack``.
    """

    key: str
    title: str
    field: str
    unit: str
    hard: bool
    advice: str
    slack: float = 0.0


QUANTITIES = (
    Quantity(
        key="hours",
        title="hours of light",
        field="photoperiod_h",
        unit="h",
        hard=True,
        advice="One timer cannot suit both; give them spaces of their own.",
    ),
    Quantity(
        key="day",
        title="air by day",
        field="air_day_c",
        unit="temperature",
        hard=True,
        slack=_SLACK_K,
        advice="One air cannot suit both; give them spaces of their own.",
    ),
    Quantity(
        key="night",
        title="air by night",
        field="air_night_c",
        unit="temperature",
        hard=True,
        slack=_SLACK_K,
        advice="One air cannot suit both; give them spaces of their own.",
    ),
    Quantity(
        key="humidity",
        title="humidity",
        field="rh_pct",
        unit="%",
        hard=False,
        advice="A cover over one, or a corner with more air for the other, can bridge a small gap.",
    ),
    Quantity(
        key="light",
        title="daily light",
        field="dli_mol_m2_d",
        unit="mol/m²/d",
        hard=False,
        advice="Put the one under the lamp and the other at the rim.",
    ),
    Quantity(
        key="root",
        title="root zone",
        field="root_c",
        unit="temperature",
        hard=False,
        slack=_SLACK_K,
        advice="A mat under one, or a cooler corner for the other, can bridge it.",
    ),
    Quantity(
        key="wind",
        title="air over the leaves",
        field="air_speed_m_s",
        unit="air speed",
        hard=False,
        advice="Point the circulation fan away from the one that wants still air.",
    ),
    Quantity(
        key="feed",
        title="feed strength",
        field="ec_ms_cm",
        unit="mS/cm",
        hard=False,
        advice="Feed them from separate cans; they cannot share one reservoir.",
    ),
)


def quantities_for(space: Space) -> tuple[Quantity, ...]:
    """Give the quantities that crops of a space share; one reservoir makes the feed one of the hard ones.

    Returns
    -------
    tuple of Quantity : in the order they are shown
    """
    if space.feed.way != "solution":
        return QUANTITIES
    return tuple(replace(item, hard=True, slack=0.2) if item.key == "feed" else item for item in QUANTITIES)


def window_of(want: StageTargets, quantity: Quantity) -> Window | None:
    """Give a stage's window in a quantity.

    Parameters
    ----------
    want : the stage

    Returns
    -------
    Window : None where the library says nothing of it
    """
    found: Window | None = getattr(want, quantity.field)
    return found


@dataclass(frozen=True, kw_only=True)
class Conflict:
    """Two crops whose windows do not meet: the one that wants less, the one that wants more, and the gap."""

    lower: Growing
    higher: Growing
    gap: float


def joint_window(windows: list[Window]) -> Window | None:
    """Give what several windows share.

    Parameters
    ----------
    windows : at least one window, all in one unit

    Returns
    -------
    Window : the intersection, or None when they do not all meet
    """
    low, high = max(window.low for window in windows), min(window.high for window in windows)
    return Window(low=low, high=high) if low <= high else None


def conflicts(members: list[tuple[Growing, Window]]) -> tuple[Conflict, ...]:
    """Find every pair whose windows do not meet.

    Parameters
    ----------
    members : one plant for each crop and stage, with its window

    Returns
    -------
    tuple of Conflict : widest gap first
    """
    found = []
    for (one, a), (two, b) in combinations(members, 2):
        if a.high < b.low:
            found.append(Conflict(lower=one, higher=two, gap=b.low - a.high))
        elif b.high < a.low:
            found.append(Conflict(lower=two, higher=one, gap=a.low - b.high))
    return tuple(sorted(found, key=lambda item: -item.gap))


def kinds_of(here: Standing) -> list[Growing]:
    """Give one plant for each crop and stage of a space.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    list of Growing : in the order of its plants
    """
    return [group[0] for group in here.by_kind.values()]


def company_margins(here: Standing) -> list[Margin]:
    """Judge whether the crops of a space may live together.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    list of Margin : one for each quantity that two or more crops or stages there have a window in
    """
    members = kinds_of(here)
    found = []
    for quantity in quantities_for(here.space):
        windows = [(plant, window) for plant in members if (window := window_of(plant.want, quantity))]
        if len(windows) > 1:
            found.append(_margin(quantity, windows))
    return found


def _margin(quantity: Quantity, windows: list[tuple[Growing, Window]]) -> Margin:
    joint, apart = joint_window([window for _, window in windows]), conflicts(windows)
    split = quantity.hard and bool(apart) and apart[0].gap > quantity.slack
    verdict: Verdict = "good" if joint else "short" if split else "tight"
    unit = quantity.unit
    if joint:
        there = sentence("{joint}", joint=Amount(value=joint.low, high=joint.high, unit=unit))
        why = sentence("All crops here share a window.")
    else:
        first = apart[0]
        low, high = (next(w for p, w in windows if p.id == plant.id) for plant in (first.lower, first.higher))
        gap_unit = "temperature rise" if unit == "temperature" else unit
        amounts = {
            "most": Amount(value=low.high, unit=unit),
            "least": Amount(value=high.low, unit=unit),
            "gap": Amount(value=first.gap, unit=gap_unit),
        }
        there = sentence("{gap} apart", **amounts)
        more = f" {len(apart) - 1} more pair{'s' if len(apart) > 2 else ''} part too." if len(apart) > 1 else ""
        why = sentence(
            f"{stage_name(first.lower)}, wants at most {{most}}; {stage_name(first.higher)}, at least {{least}}."
            f"{more} {quantity.advice}",
            **amounts,
        )
    parts = tuple(dict.fromkeys(plant.id for item in apart for plant in (item.lower, item.higher)))
    return Margin(
        id=f"crops.together.{quantity.key}",
        station="crops",
        title=f"Living together: {quantity.title}",
        verdict=verdict,
        need=sentence("a window they share"),
        there=there,
        why=why,
        parts=parts,
        working=Working(
            formula="greatest lower end ≤ least upper end, over all crops and stages here",
            steps=tuple(
                Step(symbol="", meaning=stage_name(plant), amount=Amount(value=window.low, high=window.high, unit=unit))
                for plant, window in windows
            ),
            source="; ".join(dict.fromkeys(cite(plant.want.source_of(quantity.field)) for plant, _ in windows)),
            certainty="Windows are where a crop does well, not where it survives; a little outside is a slower plant.",
        ),
    )
