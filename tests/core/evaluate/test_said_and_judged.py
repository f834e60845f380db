"""The figure beside a verdict is the one that was judged: need, there and verdict never contradict each other."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from canopy.evaluate import evaluate_space
from canopy.margin import Amount, first_amount
from canopy.plan import load

EXAMPLES = sorted(
    path
    for path in (Path(__file__).resolve().parents[3] / "examples").rglob("*.json")
    if path.parent.name != "requests"
)


def _ends(amount: Amount) -> tuple[float, float]:
    return amount.value, amount.value if amount.high is None else amount.high


def contradiction(margin) -> str:
    """What a reader would stumble over; empty where nothing."""
    if margin.information or margin.verdict == "unknown":
        return ""
    need, there = margin.need, first_amount(margin.there)
    amounts = dict(need.amounts)
    if there is None:
        return ""
    low, high = _ends(there)
    if (found := re.fullmatch(r"at least \{(\w+)\}", need.text)) and amounts[found[1]].unit == there.unit:
        least = amounts[found[1]].value
        # What is there is rounded where it is said, not where it is judged.
        if (low < least * (1 - 1e-6)) != (margin.verdict == "short") and margin.verdict != "over":
            return f"{margin.id}: {margin.verdict}, {margin.there.say()} where need is {need.say()}"
    if found := re.fullmatch(r"\{(\w+)\}, at least \{(\w+)\}", need.text):
        enough, least = (amounts[found[number]].value for number in (1, 2))
        expected = "short" if low < least * (1 - 1e-6) else "tight" if low < enough * (1 - 1e-6) else "good"
        if margin.verdict != expected:
            return f"{margin.id}: {margin.verdict}, {margin.there.say()} where need is {need.say()}"
    if (found := re.fullmatch(r"at most \{(\w+)\}", need.text)) and amounts[found[1]].unit == there.unit:
        most = amounts[found[1]].value
        if margin.verdict == "short":
            return f"{margin.id}: short where the need is at most"
        # A remedy that lands on a limit may pass it by what no figure shows.
        if high > most * (1 + 1.1e-3) and margin.verdict in ("good", "tight"):
            return f"{margin.id}: {margin.verdict}, {margin.there.say()} where need is {need.say()}"
    if need.text == "{window}":
        floor, roof = _ends(amounts["window"])
        outside = low < floor * (1 - 1e-6) or high > roof * (1 + 1e-6)
        if outside != (margin.verdict in ("short", "over")):
            return f"{margin.id}: {margin.verdict}, {margin.there.say()} where need is {need.say()}"
    return ""


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_in_the_examples(path):
    plan = load(path)
    for space in plan.spaces:
        for margin in evaluate_space(plan, space, with_map=False).margins:
            assert contradiction(margin) == ""
