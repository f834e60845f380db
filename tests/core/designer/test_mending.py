"""Everything mended: what costs nothing first, nothing made dangerous, and what is said to be mended is."""

from __future__ import annotations

import pytest

from canopy.air.operating import at_speed
from canopy.design.start.answers import Answers
from canopy.design.start.space import begin_space
from canopy.designer.mending import Mender
from canopy.designer.outcome import of_report, outcome_of
from canopy.designer.request import household_for
from canopy.errors import PlanError
from canopy.evaluate.kept import report_of
from canopy.plan.edit import add_space, apply
from tests.core.designer.conftest import DAY, asked


def broken(day_c=22.0, night_c=19.0):
    """A tent of peppers with its lamps too dim, its fan too fast and nothing that stirs."""
    room = {"id": "room", "name": "Loft", "day_c": day_c, "night_c": night_c}
    plan = household_for(asked(room=room), DAY)
    answers = Answers(
        space_id="s",
        name="Peppers",
        kind="tent",
        width_m=0.8,
        depth_m=0.8,
        height_m=1.8,
        crop_id="pepper",
        count=4,
        circuit_id="circuit-1",
    )
    space = begin_space(answers)
    dim = tuple(lamp.model_copy(update={"dim": 0.3}) for lamp in space.fixtures)
    fast = at_speed(space, space.airways[0], 1.0)
    return add_space(plan, fast.model_copy(update={"fixtures": dim, "stirrers": ()}))


@pytest.fixture(scope="module")
def mending():
    """The tent, with everything mended that can be."""
    plan = broken()
    return Mender(report_of(plan, plan.space("s"), follow=True)).run()


def test_all_that_was_outside_is_inside(mending):
    assert len(mending.before.bad) >= 3
    assert mending.remains == ()
    assert mending.after.weight == 0


def test_the_steps_together_are_what_they_say(mending):
    plan = apply(mending.before.report.plan, "s", mending.changes)
    again = of_report(report_of(plan, plan.space("s"), follow=True))
    assert [margin.id for margin in again.bad] == []
    mended = {margin.id for step in mending.steps for margin in step.mends}
    assert mended >= {margin.id for margin in mending.before.bad if margin.id in mended}
    assert {margin.id for margin in mending.mended} == {margin.id for margin in mending.before.bad}


def test_what_costs_nothing_comes_first(mending):
    first = [step.buys for step in mending.steps].index(True)
    assert first >= 1
    # Nothing that is bought later could have been had for nothing before.
    assert all(step.gain > 0 for step in mending.steps)
    for step in mending.steps:
        assert step.worth == float("inf") or step.worth == pytest.approx(
            step.gain / ((step.purchase.low + step.purchase.high) / 2)
        )


def test_no_step_can_be_left_out(mending):
    for number in range(len(mending.steps)):
        rest = [step for k, step in enumerate(mending.steps) if k != number]
        try:
            plan = apply(mending.before.report.plan, "s", [act for step in rest for act in step.remedy.changes])
        except PlanError:
            # What comes later changes what this one brings.
            continue
        assert outcome_of(plan, "s").weight > 0.2, mending.steps[number].label.say()


def test_steps_said_to_stand_alone_do(mending):
    for step in mending.steps:
        if step.alone:
            plan = apply(mending.before.report.plan, "s", step.remedy.changes)
            assert outcome_of(plan, "s").weight < mending.before.weight - 0.1


def test_nothing_dangerous_comes_up(mending):
    known = {margin.id for margin in mending.before.report.margins if margin.danger}
    assert all(margin.id in known for margin in mending.after.report.margins if margin.danger)


def test_it_goes_one_try_at_a_time():
    plan = broken()
    mender = Mender(report_of(plan, plan.space("s"), follow=True))
    seen = []
    while mender.go_on() and not mender.steps:
        seen.append(mender.tries)
    assert seen == sorted(seen)
    assert mender.found.after.weight < mender.before.weight


def test_a_plan_with_nothing_outside_needs_nothing(mending):
    plan = mending.after.report.plan
    again = Mender(report_of(plan, plan.space("s"), follow=True)).run()
    assert again.steps == ()


def test_what_one_change_breaks_the_next_one_mends():
    plan = broken(day_c=17.0, night_c=15.0)
    mending = Mender(report_of(plan, plan.space("s"), follow=True)).run()
    assert mending.remains == ()
    kinds = {device.spec.kind for device in mending.after.report.space.devices}
    # Heating dries the air, and what wets it cools it.
    assert {"heater", "humidifier"} <= kinds
    assert any("; then " in step.label.say() for step in mending.steps)
