"""Every kind of space with every usual layout: the report holds together, in both systems, and is mended toward
good.
"""

import math
import re

import pytest

from canopy.design.air.presets import preset
from canopy.margin import ORDER
from canopy.plan import Air, dumps, loads
from canopy.plan.edit import apply
from tests.conftest import mending
from tests.core.air.test_shell import KINDS
from tests.core.air.worked import a_room, household, tent
from tests.core.evaluate.air.test_verdicts import planted, report_of

LAYOUTS = ("exhaust", "filtered", "intake", "push-pull")
FAR = tent(kind="cabinet", openings=()).model_copy(update={"id": "far", "name": "Far"})


@pytest.fixture(scope="module")
def laid_out():
    """Reports of each kind of space with each layout, made once."""
    kept = {}

    def give(kind, layout):
        if (kind, layout) not in kept:
            space = planted(openings=(), kind=kind, air=Air(rise_k=3), room=a_room(floor_m2=14))
            made = preset(report_of(space, FAR), layout)
            kept[kind, layout] = report_of(made, FAR)
        return kept[kind, layout]

    return give


def amounts(margin):
    for words in (margin.need, margin.there, margin.why):
        yield from (amount for _, amount in words.amounts)
    for step in margin.working.steps:
        yield step.amount
        if step.aside is not None:
            yield step.aside


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("layout", [*LAYOUTS, "loop"])
def test_a_report_is_whole(laid_out, kind, layout):
    found = laid_out(kind, layout)
    airy = [margin for margin in found.margins if margin.station == "air"]
    assert {"air.flow", "air.flow-night", "air.room"} <= {margin.id for margin in airy}
    assert len({margin.id for margin in airy}) == len(airy)
    for margin in airy:
        assert all(math.isfinite(amount.value) for amount in amounts(margin)), margin.id
        assert margin.working.source, margin.id
        assert margin.working.certainty, margin.id
        for system in ("metric", "us"):
            for words in (margin.need, margin.there, margin.why):
                said = words.say(system)
                assert said, margin.id
                assert not re.search(r"[{}]|\bnan\b|\bNone\b|−0 ", said), said


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("layout", LAYOUTS)
def test_air_is_neither_made_nor_lost(laid_out, kind, layout):
    for half in (laid_out(kind, layout).breathing.lit, laid_out(kind, layout).breathing.dark):
        for state in (half.air.running, half.air.idle):
            through = sum(hole.flow_m3_s for hole in state.holes)
            fans = sum(way.flow_m3_s * (1 if way.way.to_id == "tent" else -1) for way in state.ways)
            assert 3600 * (through + fans) == pytest.approx(0, abs=0.05)


@pytest.mark.parametrize("kind", KINDS)
def test_the_sign_of_the_pressure_follows_the_layout(laid_out, kind):
    pressure = {layout: laid_out(kind, layout).breathing.lit.air.running.pressure_pa for layout in LAYOUTS}
    assert pressure["exhaust"] < 0
    assert pressure["filtered"] < 0
    assert pressure["push-pull"] < 0
    assert pressure["intake"] > 0


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("layout", LAYOUTS)
def test_a_layout_gives_at_least_what_is_asked_with_some_to_spare(laid_out, kind, layout):
    found = laid_out(kind, layout)
    assert found.margin("air.flow").verdict in ("good", "over")
    assert found.breathing.lit.air.total_m3_h >= found.breathing.governing.flow_m3_h


@pytest.mark.parametrize("layout", [*LAYOUTS, "loop"])
def test_a_layout_survives_the_plan_file(laid_out, layout):
    space = laid_out("tent", layout).space
    plan = household(space, FAR)
    assert loads(dumps(plan)) == plan
    again = report_of(space, FAR)
    assert [m.verdict for m in again.margins] == [m.verdict for m in laid_out("tent", layout).margins]


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("speed", [0.2, 0.4])
def test_what_a_remedy_proposes_is_never_worse(laid_out, kind, speed):
    space = laid_out(kind, "filtered").space
    (way,) = space.airways
    slow = tuple(p.model_copy(update={"speed": speed}) if p.kind == "fan" else p for p in way.parts)
    weak = space.model_copy(update={"airways": (way.model_copy(update={"parts": slow}),)})
    plan, tried = household(weak, FAR), set()
    for margin in report_of(weak, FAR).margins:
        if margin.station != "air" or not margin.mendable or margin.id == "air.stir":
            continue
        remedy = mending(plan, weak, margin.id)
        if remedy is None:
            continue
        tried.add(margin.id)
        after = report_of(apply(plan, "tent", remedy.changes).space("tent"), FAR).margin(margin.id)
        assert after is None or ORDER.index(after.verdict) >= ORDER.index(margin.verdict), margin.id
    assert "air.flow" in tried
