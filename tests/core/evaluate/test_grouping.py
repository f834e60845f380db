"""Margins in groups, and the change that mends most of one."""

from __future__ import annotations

import pytest

from canopy.design.grouped import best_for
from canopy.evaluate import evaluate_space
from canopy.evaluate.grouping import dangers, family, grouped
from canopy.margin import Amount, Margin, Working, first_amount, gap, ranked, sentence
from canopy.plan.edit import apply

NOTHING = Working(formula="—", steps=(), source="—", certainty="—")


def margin(key, verdict, there=1.0, need=2.0, **more):
    return Margin(
        id=key,
        station=key.split(".")[0],
        title=key,
        need=sentence("at least {need}", need=Amount(value=need, unit="W")),
        there=sentence("{there}", there=Amount(value=there, unit="W")),
        verdict=verdict,
        why=sentence("so"),
        working=NOTHING,
        **more,
    )


def test_what_is_mended_alike_is_one_group_and_the_farthest_off_stands_first():
    rows = ranked(
        [
            margin("light.dli.a", "short", there=1.5),
            margin("light.ppfd.b", "tight", there=2.1),
            margin("light.dli.c", "short", there=0.5),
            margin("light.dli.d", "good", there=3.0),
            margin("air.flow", "short"),
            margin("air.noise", "good", information=True),
        ]
    )
    light, air = grouped(rows)
    assert [item.id for item in light.margins] == ["light.dli.c", "light.dli.a", "light.ppfd.b"]
    assert (light.title, light.verdict, light.counts) == ("Light on the plants", "short", (("short", 2), ("tight", 1)))
    assert (air.key, air.title) == ("air.path", "air.flow")


def test_danger_stands_first_and_alone():
    rows = ranked(
        [
            margin("light.dli.a", "short"),
            margin("power.outlet", "tight"),
            margin("power.circuit", "over", danger="Take load off."),
        ]
    )
    assert [item.key for item in grouped(rows)] == ["power.power.circuit", "light.light", "power.load"]
    assert [item.id for item in dangers(rows)] == ["power.circuit"]


@pytest.mark.parametrize(
    ("key", "expected"),
    [
        ("light.clearance-side", "near"),
        ("air.flow-night", "path"),
        ("air.stir", "still"),
        ("crops.roots.x", "roots"),
        ("space.unjudged", "space.unjudged"),
    ],
)
def test_every_margin_has_a_family(key, expected):
    assert family(margin(key, "short"))[0] == expected


@pytest.mark.parametrize(
    ("verdict", "there", "need", "expected"),
    [("short", 1.0, 4.0, 4.0), ("over", 6.0, 2.0, 3.0), ("tight", 1.0, 2.0, 0.0), ("short", 0.0, 2.0, 2e9)],
)
def test_how_far_off_is_a_ratio(verdict, there, need, expected):
    assert gap(margin("x", verdict, there, need)) == pytest.approx(expected)


def test_amounts_of_unlike_units_are_not_compared():
    odd = margin("x", "short")
    assert first_amount(sentence("nothing")) is None
    assert gap(Margin(**{**odd.__dict__, "need": sentence("{a}", a=Amount(value=1, unit="h"))})) == 0.0


def test_the_best_change_of_a_group_mends_as_many_as_it_says(demo_plan):
    closet = demo_plan.space("hall-closet")
    report = evaluate_space(demo_plan, closet, with_map=False)
    group = next(item for item in grouped(report.margins) if item.key == "air.path")
    best, *_ = best_for(report, group, deep=False)
    changed = apply(demo_plan, closet.id, best.remedy.changes)
    after = evaluate_space(changed, changed.space(closet.id), with_map=False)
    left = [after.margin(item.id) for item in group.margins]
    assert sum(item is None or item.verdict == "good" for item in left) == best.mended > 0
    # Asked for by its name, it is the same change.
    again = best_for(report, group, best.key)
    assert [item.remedy.changes for item in again] == [best.remedy.changes]
