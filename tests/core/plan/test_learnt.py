"""Corrections that were learnt: what follows them, when they count, and how they lapse."""

import datetime as dt

import pytest

from canopy.air.shell import draught_m3_h, envelope_w_k, leak_m2
from canopy.evaluate.climate.devices import gives
from canopy.evaluate.space import evaluate_space
from canopy.plan import dumps, loads
from canopy.plan.correction import Correction
from canopy.plan.learnt import counts, factor_on, lapsed, on_day, stamp

DAY = dt.date(2026, 3, 14)


def with_correction(plan, space, subject, factor, target=None, **more):
    values = {"found_on": DAY, "basis": "log", "standard_error": 0.05, **more}
    item = Correction(id="learnt-1", subject=subject, target=target, factor=factor, **values)
    space = space.model_copy(update={"learnt": (item,)})
    spaces = tuple(space if other.id == space.id else other for other in plan.spaces)
    return plan.model_copy(update={"spaces": spaces}), space


@pytest.fixture(scope="module")
def tent(demo_plan):
    return demo_plan.space("berry-tent")


@pytest.fixture(scope="module")
def plain(demo_plan, tent):
    return evaluate_space(demo_plan, tent, day=DAY, follow=True)


def test_what_the_fan_moves_is_followed_by_every_figure(demo_plan, tent, plain):
    plan, space = with_correction(demo_plan, tent, "airflow", 0.6, tent.airways[0].id)
    found = evaluate_space(plan, space, day=DAY, follow=True)
    before, after = plain.paths[0], found.paths[0]
    assert after.flow_m3_h == pytest.approx(0.6 * before.flow_m3_h, rel=0.03)
    # Its losses are those of the smaller flow it is computed at: pressures close as before.
    assert after.flow.lift_pa == pytest.approx(before.flow.lift_pa, rel=0.05)
    assert sum(drop.drop_pa for drop in after.drops) == pytest.approx(sum(d.drop_pa for d in before.drops), rel=0.05)
    assert found.climate.mean("flow_m3_h", day=True) < 0.7 * plain.climate.mean("flow_m3_h", day=True)
    assert found.climate.mean("rh_pct", day=True) > plain.climate.mean("rh_pct", day=True) + 1
    assert found.breathing.day.temperature_c > plain.breathing.day.temperature_c


@pytest.mark.parametrize("factor", [0.5, 2.0])
def test_seams_and_walls(demo_plan, tent, factor):
    _, leaky = with_correction(demo_plan, tent, "leak", factor)
    assert leak_m2(leaky) == pytest.approx(factor * leak_m2(tent))
    assert draught_m3_h(leaky) == pytest.approx(factor * draught_m3_h(tent))
    _, thin = with_correction(demo_plan, tent, "walls", factor)
    assert envelope_w_k(thin) == pytest.approx(factor * envelope_w_k(tent))


def test_leaves_lamps_and_light(demo_plan, tent, plain):
    plan, space = with_correction(demo_plan, tent, "leaves", 1.8)
    open_wide = evaluate_space(plan, space, day=DAY, follow=True)
    assert open_wide.climate.mean("given_g_h", day=True) > 1.15 * plain.climate.mean("given_g_h", day=True)
    assert open_wide.breathing.day.vapour_kg_s > 1.1 * plain.breathing.day.vapour_kg_s
    plan, space = with_correction(demo_plan, tent, "lamp-heat", 0.7)
    cool = evaluate_space(plan, space, day=DAY, follow=True)
    assert cool.climate.mean("air_c", day=True) < plain.climate.mean("air_c", day=True) - 0.4
    plan, space = with_correction(demo_plan, tent, "lamp-light", 0.8)
    dim = evaluate_space(plan, space, day=DAY)
    for one, two in zip(dim.lighting.plants, plain.lighting.plants, strict=True):
        assert one.ppfd_umol_m2_s == pytest.approx(0.8 * two.ppfd_umol_m2_s, rel=1e-6)


def test_a_device_s_output(demo_plan):
    case = demo_plan.space("fern-case")
    device = case.devices[0]
    found = gives(device).yielding(0.5)
    assert found.vapour_kg_s == pytest.approx(0.5 * gives(device).vapour_kg_s)
    # A mist takes up its heat of evaporation: half of it, half of that.
    assert found.air_w > gives(device).air_w
    assert gives(device).yielding(1.0) == gives(device)


def test_it_counts_from_the_day_on_which_it_was_found(demo_plan, tent):
    _, space = with_correction(demo_plan, tent, "leak", 2.0)
    assert on_day(space, DAY).learnt == space.learnt
    assert on_day(space, DAY - dt.timedelta(days=1)).learnt == ()


def test_it_is_set_aside_and_lapses_when_another_thing_stands_there(demo_plan, tent):
    way = tent.airways[0]
    mark = stamp(tent, "airflow", way.id)
    _, space = with_correction(demo_plan, tent, "airflow", 0.7, way.id, of=mark)
    assert factor_on(space, "airflow", way.id) == 0.7
    aside = space.model_copy(update={"learnt": (space.learnt[0].model_copy(update={"applied": False}),)})
    assert factor_on(aside, "airflow", way.id) == 1.0

    def with_parts(parts):
        ways = (way.model_copy(update={"parts": parts}), *space.airways[1:])
        return space.model_copy(update={"airways": ways})

    slower = tuple(p.model_copy(update={"speed": 0.5}) if p.kind == "fan" else p for p in way.parts)
    assert counts(with_parts(slower), space.learnt[0])
    shorter = with_parts(way.parts[:-1])
    assert lapsed(shorter, space.learnt[0])
    assert factor_on(shorter, "airflow", way.id) == 1.0


def test_it_comes_back_from_a_plan_file(demo_plan, tent):
    plan, space = with_correction(demo_plan, tent, "leak", 1.6, limits="the fan stood for 4.1 h of these days")
    assert loads(dumps(plan)).space("berry-tent").learnt == space.learnt


def test_a_working_says_that_readings_found_it(demo_plan, tent):
    plan, space = with_correction(demo_plan, tent, "airflow", 0.6, tent.airways[0].id)
    found = evaluate_space(plan, space, day=DAY)
    steps = [step for margin in found.margins for step in margin.working.steps if "found by readings" in step.meaning]
    assert steps
    assert steps[0].amount.value == 0.6
    plan, space = with_correction(demo_plan, tent, "leak", 1.6)
    assert "as readings found them" in evaluate_space(plan, space, day=DAY).margin("air.pressure").working.certainty
