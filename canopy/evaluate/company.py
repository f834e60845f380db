"""What may live together: the windows that all crops of a space share, and where they part."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

from canopy.evaluate.light_margins import cite, stage_name
from canopy.evaluate.lighting import targets_of
from canopy.library import StageTargets, Window
from canopy.margin import Amount, Margin, Step, Verdict, Working, sentence
from canopy.plan.document import Plant, Space

# Two crops a little apart both do tolerably between their windows.
_SLACK_K = 1.5


@dataclass(frozen=True, kw_only=True)
class Quantity:
    """One thing crops in a space share; ``hard`` where no corner of the space can differ, but for a gap of ``slack``."""

    key: str
    title: str
    field: str
    unit: str
    hard: bool
    advice: str
    slack: float = 0.0


QUANTITIES = (
    Quantity(key="hours", title="hours of light", field="photoperiod_h", unit="h", hard=True,
             advice="One timer cannot suit both; give them spaces of their own."),
    Quantity(key="day", title="air by day", field="air_day_c", unit="temperature", hard=True, slack=_SLACK_K,
             advice="One air cannot suit both; give them spaces of their own."),
    Quantity(key="night", title="air by night", field="air_night_c", unit="temperature", hard=True, slack=_SLACK_K,
             advice="One air cannot suit both; give them spaces of their own."),
    Quantity(key="humidity", title="humidity", field="rh_pct", unit="%", hard=False,
             advice="A cover over one, or a corner with more air for the other, can bridge a small gap."),
    Quantity(key="light", title="daily light", field="dli_mol_m2_d", unit="mol/m²/d", hard=False,
             advice="Put the one under the lamp and the other at the rim."),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Conflict:
    """Two crops whose windows do not meet: the one that wants less, the one that wants more, and the gap."""

    lower: Plant
    higher: Plant
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


def conflicts(members: list[tuple[Plant, Window]]) -> tuple[Conflict, ...]:
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


def company_margins(space: Space) -> list[Margin]:
    """Judge whether the crops of a space may live together.

    Parameters
    ----------
    space : the space

    Returns
    -------
    list of Margin : one for each quantity; empty with fewer than two kinds of crop or stage
    """
    kinds = {(plant.crop_id, plant.stage): plant for plant in reversed(space.plants)}
    members = [(plant, targets_of(plant)) for plant in reversed(kinds.values())]
    if len(members) < 2:
        return []
    return [_margin(quantity, members) for quantity in QUANTITIES]


def _margin(quantity: Quantity, members: list[tuple[Plant, StageTargets]]) -> Margin:
    windows: list[tuple[Plant, Window]] = [(plant, getattr(want, quantity.field)) for plant, want in members]
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
        amounts = {"most": Amount(value=low.high, unit=unit), "least": Amount(value=high.low, unit=unit),
                   "gap": Amount(value=first.gap, unit=gap_unit)}  # fmt: skip
        there = sentence("{gap} apart", **amounts)
        more = f" {len(apart) - 1} more pair{'s' if len(apart) > 2 else ''} part too." if len(apart) > 1 else ""
        why = sentence(
            f"{stage_name(first.lower)}, wants at most {{most}}; {stage_name(first.higher)}, at least {{least}}."
            f"{more} {quantity.advice}",
            **amounts,
        )
    parts = tuple(dict.fromkeys(plant.id for item in apart for plant in (item.lower, item.higher)))
    family = "light" if quantity.key in ("hours", "light") else "climate"
    return Margin(
        id=f"crops.together.{quantity.key}", station="crops", title=f"Living together: {quantity.title}", verdict=verdict,
        need=sentence("a window they share"), there=there, why=why, parts=parts,
        working=Working(
            formula="greatest lower end ≤ least upper end, over all crops and stages here",
            steps=tuple(
                Step(symbol="", meaning=stage_name(plant), amount=Amount(value=window.low, high=window.high, unit=unit))
                for plant, window in windows
            ),
            source="; ".join(dict.fromkeys(cite(getattr(want, family)) for _, want in members)),
            certainty="Windows are where a crop does well, not where it survives; a little outside is a slower plant.",
        ),
    )  # fmt: skip
