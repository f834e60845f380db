"""The tab of who may live together."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from canopy.design.crops.groups import propose, strife
from canopy.evaluate import SpaceReport
from canopy.evaluate.crops.company import conflicts, joint_window, kinds_of, quantities_for, window_of
from canopy.evaluate.naming import stage_name
from canopy.margin import Amount
from canopy.quantities import number
from canopy.words import capital
from canopy_web.workspace.where import Where

BAR = 260.0


@dataclass(frozen=True, kw_only=True)
class SharedBar:
    """One kind's window on a scale that all kinds share (px)."""

    name: str
    text: str
    x: float
    w: float


@dataclass(frozen=True, kw_only=True)
class SharedRow:
    """One quantity: what all kinds share, each kind's bar, and the pairs that part."""

    title: str
    hard: bool
    joint: str
    joint_x: float
    joint_w: float
    bars: tuple[SharedBar, ...]
    pairs: tuple[str, ...]
    height: float


def shared_rows(report: SpaceReport, system: str) -> Iterator[SharedRow]:
    """Each quantity's windows against each other."""
    members = kinds_of(report.here)
    for quantity in quantities_for(report.here.space):
        held = [(plant, window) for plant in members if (window := window_of(plant.want, quantity))]
        if not held:
            continue
        low, high = min(w.low for _, w in held), max(w.high for _, w in held)
        per = BAR / max(high - low, 1e-9)
        unit, gap_unit = quantity.unit, "temperature rise" if quantity.unit == "temperature" else quantity.unit
        joint = joint_window([window for _, window in held])

        def say(a: float, b: float | None = None, unit: str = unit) -> str:
            return Amount(value=a, high=b, unit=unit).text(system)

        pairs = []
        windows = {plant.id: window for plant, window in held}
        for item in conflicts(held):
            most, least = windows[item.lower.id].high, windows[item.higher.id].low
            pairs.append(
                f"{stage_name(item.lower)}: at most {say(most)}; {stage_name(item.higher)}: at least {say(least)}; "
                f"{Amount(value=item.gap, unit=gap_unit).text(system)} apart"
            )
        yield SharedRow(
            title=capital(quantity.title),
            hard=quantity.hard,
            joint=say(joint.low, joint.high) if joint else "nothing shared",
            joint_x=round((joint.low - low) * per, 1) if joint else 0.0,
            joint_w=round(max(2.0, (joint.high - joint.low) * per), 1) if joint else 0.0,
            bars=tuple(
                SharedBar(
                    name=stage_name(plant),
                    text=say(window.low, window.high),
                    x=round((window.low - low) * per, 1),
                    w=round(max(2.0, (window.high - window.low) * per), 1),
                )
                for plant, window in held
            ),
            pairs=tuple(pairs[:6]),
            height=len(held) * 12.0,
        )


def together_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    found = propose(where.plan, where.day)
    names = {space.id: space.name for space in where.plan.spaces}
    moves = [
        {
            "kind": move.kind,
            "from": names[move.kind.space_id],
            "to": names[move.to_space_id],
            "to_id": move.to_space_id,
            "from_id": move.kind.space_id,
        }
        for move in found.moves
    ]
    left = [f"{pull.one.name} and {pull.two.name}, over {pull.quantity.title}" for pull in found.left]
    groups = [
        {
            "kinds": [kind.name for kind in group],
            "strain": round(sum(strife(a, b) for a in group for b in group) / 2, 1),
        }
        for group in found.groups
    ]
    return {
        "shared": list(shared_rows(report, where.system)),
        "groups": groups,
        "moves": moves,
        "left": left,
        "strife": (number(found.strife_before, 1), number(found.strife_after, 1)),
        "bar": BAR,
    }
