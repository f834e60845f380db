"""Recurring work: litres conserved, intervals that hold, what was done moves what comes, months that join."""

import datetime as dt

import pytest

from canopy.care import care_of, due, stores
from canopy.care.job import job
from canopy.care.thirst import DRAWN, pots_of, thirst_of
from canopy.care.watering import run_minutes, water_timer
from canopy.evaluate import evaluate_space
from canopy.library import care_kinds, find, mixes
from canopy.logs.facts import CareMark
from canopy.plan import dumps, loads
from canopy.plan.care import CareRule, Watering
from canopy.plan.changes import Change
from canopy.plan.edit import apply

DAY = dt.date(2026, 3, 14)


@pytest.fixture(scope="module")
def report(demo_plan):
    space = demo_plan.space("berry-tent")
    return evaluate_space(demo_plan, space, day=demo_plan.date, with_map=False, follow=True)


def _with(plan, space_id, **values):
    space = plan.space(space_id).model_copy(update=values)
    spaces = tuple(space if each.id == space_id else each for each in plan.spaces)
    return loads(dumps(plan.model_copy(update={"spaces": spaces})))


def _report(plan, space_id="berry-tent", day=None):
    return evaluate_space(plan, plan.space(space_id), day=day or plan.date, with_map=False, follow=True)


def _job(report, family, **more):
    return next(item for item in care_of([report], report.here.day, **more) if item.family == family)


def _litres(job, name="all"):
    amount = dict(job.what.amounts)[name]
    return amount.value / 1000 if amount.unit == "mL" else amount.value


def test_what_is_watered_is_what_the_plants_draw(report):
    thirst = thirst_of(report)
    traces = report.climate.traces
    by_hand = float(traces.given_g_h[report.climate.last].sum()) * report.climate.days.every_s / 3600 / 1000
    assert thirst.litres_d == pytest.approx(by_hand, rel=1e-6)
    water = _job(report, "berry-tent.water")
    # A tenth more runs through.
    assert _litres(water) / water.every_days == pytest.approx(1.1 * thirst.litres_d, rel=1e-6)
    assert _litres(water, "each") * 11 == pytest.approx(_litres(water), rel=1e-6)


def test_a_pot_holds_what_its_mix_does(report):
    mix = find(mixes(), report.space.feed.mix_id, "mix")
    litres = sum(p.plant.pot_volume_l or p.crop.container_l.low for p in report.here.plants)
    assert pots_of(report.here).held_l == pytest.approx(litres * (mix.moist_kg_l - mix.dry_kg_l) * DRAWN)


def test_larger_pots_are_watered_less_often(demo_plan):
    plants = tuple(p.model_copy(update={"pot_volume_l": 25.0}) for p in demo_plan.space("berry-tent").plants)
    water = _job(_report(_with(demo_plan, "berry-tent", plants=plants)), "berry-tent.water")
    assert water.every_days > 5


def test_drippers_give_in_their_runs_what_is_drawn(demo_plan):
    given = Watering(way="drip", tank_l=30, flow_l_h=8, runs=3, first_at="07:00")
    report = _report(_with(demo_plan, "berry-tent", watering=given))
    drawn = thirst_of(report).litres_d
    assert run_minutes(report.space, drawn) * 3 / 60 * 8 == pytest.approx(1.1 * drawn)
    refill = _job(report, "berry-tent.refill")
    assert refill.every_days == int(0.8 * 30 / drawn)
    tank = next(item for item in stores(report) if "timer" in item.name)
    assert tank.days == pytest.approx(30 / drawn)
    assert tank.ends == report.here.day + dt.timedelta(days=int(30 / drawn))


def test_a_week_away_says_what_is_missing(report):
    for store in stores(report):
        assert store.goes_l_d > 0
        if store.lasts:
            assert store.away.say() == "It lasts."
        else:
            lacks = dict(store.away.amounts)["lacks"].value
            assert lacks == pytest.approx(7 * store.goes_l_d - store.holds_l)


def test_a_reservoir_is_changed_before_it_was_topped_up_once_over(demo_plan):
    space = demo_plan.space("hall-closet")
    feed = space.feed.model_copy(update={"way": "solution", "reservoir_l": 12.0, "change_days": 30, "uptake_l_d": 1.0})
    report = _report(_with(demo_plan, "hall-closet", feed=feed), "hall-closet")
    change, top_up = _job(report, "hall-closet.change"), _job(report, "hall-closet.top-up")
    assert change.every_days == 12
    assert top_up.every_days == 3
    assert _job(report, "hall-closet.check-feed").every_days == care_kinds()["check-feed"].every_days


def test_names_stay_the_same_from_day_to_day(report, demo_plan):
    later = _report(demo_plan, day=demo_plan.date + dt.timedelta(days=3))
    one = {item.key for item in care_of([report], report.here.day, 60)}
    two = {item.key for item in care_of([later], later.here.day, 57)}
    assert two <= one


def test_harvest_and_raising_stand_on_their_days(report):
    harvest = _job(report, "berry-tent.harvest.berries")
    assert harvest.every_days == 3
    assert harvest.until > harvest.first


def _plain(space, kind="scout", **more):
    return job(space, kind, DAY, **more)


def _mark(item, due_on, what, on):
    return CareMark(family=item.family, due=due_on, what=what, on=on)


def _days(*items):
    return [item.day for item in items]


def _at(offset):
    return DAY + dt.timedelta(days=offset)


def test_what_floats_counts_from_the_day_it_was_done(small_plan):
    item = _plain(small_plan.spaces[0])
    found = due([item], [], DAY, _at(20))
    assert _days(*found) == [_at(0), _at(7), _at(14)]
    done = _mark(item, DAY, "done", _at(2))
    assert _days(*due([item], [done], _at(2), _at(20))) == [_at(9), _at(16)]
    skipped = _mark(item, DAY, "skipped", _at(2))
    assert _days(*due([item], [skipped], _at(2), _at(20))) == [_at(7), _at(14)]
    struck = done.model_copy(update={"struck": True})
    assert due([item], [struck], DAY, _at(20)) == found


def test_what_was_put_off_stands_on_its_new_day_and_late_once(small_plan):
    item = _plain(small_plan.spaces[0])
    moved = _mark(item, DAY, "postponed", _at(3))
    found = due([item], [moved], DAY, _at(20))
    assert _days(*found) == [_at(3), _at(10), _at(17)]
    assert (found[0].due, found[0].late) == (DAY, False)
    late = due([item], [moved], _at(5), _at(20))
    assert [(d.day, d.late) for d in late] == [(_at(5), True), (_at(12), False), (_at(19), False)]


def test_what_comes_once_is_gone_when_done(small_plan):
    item = _plain(small_plan.spaces[0], every_days=None)
    assert _days(*due([item], [], _at(4), _at(20))) == [_at(4)]
    assert due([item], [_mark(item, DAY, "done", _at(1))], _at(4), _at(20)) == ()


def test_steps_that_do_not_float_keep_their_days(small_plan):
    item = _plain(small_plan.spaces[0], every_days=1, until=_at(3), floats=False)
    marks = [_mark(item, _at(0), "done", _at(0)), _mark(item, _at(2), "skipped", _at(1))]
    assert _days(*due([item], marks, _at(1), _at(20))) == [_at(1), _at(3)]


def test_months_join_where_the_interval_goes_over_their_end(small_plan):
    space = small_plan.spaces[0]
    march = job(space, "water", dt.date(2026, 3, 20), every_days=4, until=dt.date(2026, 3, 31), part="2026-03")
    april = job(space, "water", dt.date(2026, 4, 1), every_days=4, until=dt.date(2026, 4, 30), part="2026-04")
    assert march.family == april.family
    done = CareMark(family=march.family, due=dt.date(2026, 3, 31), what="done", on=dt.date(2026, 3, 31))
    found = due([march, april], [done], dt.date(2026, 3, 31), dt.date(2026, 4, 10))
    assert [item.day for item in found] == [dt.date(2026, 4, 4), dt.date(2026, 4, 8)]


def test_a_person_settles_leaves_out_and_adds(demo_plan):
    rules = (
        CareRule(id="care-1", job="scout", every_days=3, at="18:00", note="with {a} lens"),
        CareRule(id="care-2", job="traps", off=True),
        CareRule(id="care-3", name="Sing", every_days=2, at="20:00", starts_on=demo_plan.date),
    )
    jobs = {
        item.family: item for item in care_of([_report(_with(demo_plan, "berry-tent", care=rules))], demo_plan.date)
    }
    assert (jobs["berry-tent.scout"].every_days, jobs["berry-tent.scout"].at) == (3, "18:00")
    assert "lens" in jobs["berry-tent.scout"].what.say()
    assert "berry-tent.traps" not in jobs
    assert (jobs["berry-tent.own.care-3"].title, jobs["berry-tent.own.care-3"].at) == ("Sing", "20:00")


def test_an_empty_space_asks_for_no_water(demo_plan):
    report = _report(_with(demo_plan, "berry-tent", plants=()))
    families = {item.family.split(".")[1] for item in care_of([report], demo_plan.date)}
    assert not families & {"water", "scout", "traps", "harvest"}
    assert stores(report) == ()


def test_typed_uptake_wins_over_what_was_simulated(demo_plan):
    changed = apply(demo_plan, "berry-tent", [Change(values={"feed.uptake_l_d": 4.0})])
    assert thirst_of(_report(changed)).litres_d == 4.0


def test_the_timer_of_drippers_says_runs_and_minutes(demo_plan):
    given = Watering(way="drip", flow_l_h=8, runs=3, first_at="07:00")
    report = _report(_with(demo_plan, "berry-tent", watering=given))
    words = water_timer(report)
    assert words.say().startswith("3 runs a day, the first at 07:00, one every 8 h, ")
    assert dict(words.amounts)["run"].value == run_minutes(report.space, thirst_of(report).litres_d)
    unknown = given.model_copy(update={"flow_l_h": None})
    assert "Say under Day" in water_timer(_report(_with(demo_plan, "berry-tent", watering=unknown))).say()
    assert water_timer(_report(demo_plan)) is None
