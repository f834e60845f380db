"""Verdicts, words and the report's two shapes."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.cache import ContentCache, Pool
from canopy.evaluate import evaluate, evaluate_space
from canopy.evaluate.light.lighting import lighting, map_height_m
from canopy.margin import (
    ORDER,
    Amount,
    Margin,
    Working,
    judge_least,
    judge_most,
    judge_window,
    ranked,
    sentence,
    worst,
)
from canopy.plan import Site
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy.report import as_data, as_text
from canopy.season import cast_of
from tests.conftest import on

NO_WORK = Working(formula="f", steps=(), source="s", certainty="c")


def _margin(verdict, information=False, number=0):
    return Margin(
        id=f"m{number}",
        station="light",
        title="T",
        need=sentence("n"),
        there=sentence("t"),
        verdict=verdict,
        why=sentence("w"),
        working=NO_WORK,
        information=information,
    )


@pytest.mark.parametrize(
    ("amount", "metric", "us"),
    [
        (Amount(value=0.457, unit="length"), "45.7 cm", "18 in"),
        (Amount(value=0.1, unit="diameter"), "100 mm", "4 in"),
        (Amount(value=180, unit="airflow"), "180 m³/h", "106 CFM"),
        (Amount(value=3.2, unit="airflow"), "3.2 m³/h", "1.9 CFM"),
        (Amount(value=22, unit="temperature"), "22 °C", "72 °F"),
        (Amount(value=18, high=24, unit="temperature"), "18–24 °C", "64–75 °F"),
        (Amount(value=4, unit="temperature rise"), "4 K", "7.2 °F"),
        (Amount(value=93.4, unit="power"), "93 W", "93 W"),
        (Amount(value=12.345, unit="mol/m²/d"), "12.3 mol/m²/d", "12.3 mol/m²/d"),
        (Amount(value=45, unit="%", decimals=0), "45 %", "45 %"),
        (Amount(value=0.724, unit="", decimals=2), "0.72", "0.72"),
        (Amount(value=8.14, unit="EUR", decimals=2), "8.14 EUR", "8.14 EUR"),
        (Amount(value=12, high=17, unit=""), "12–17", "12–17"),
    ],
)
def test_amounts_are_written_with_their_unit(amount, metric, us):
    assert amount.text("metric").replace("\u00a0", " ") == metric
    assert amount.text("us").replace("\u00a0", " ") == us


@given(st.lists(st.sampled_from(ORDER), max_size=8))
def test_the_worst_comes_first_and_information_last(verdicts):
    margins = [_margin(v, number=n) for n, v in enumerate(verdicts)] + [_margin("short", information=True, number=99)]
    found = ranked(margins)
    assert found[-1].information
    assert found[0].verdict == worst(margins) or not verdicts
    ranks = [ORDER.index(m.verdict) for m in found[:-1]]
    assert ranks == sorted(ranks)


@given(st.floats(0, 100), st.floats(0.1, 100))
def test_more_of_a_good_thing_is_never_worse(there, need):
    rank = lambda verdict: ("short", "tight", "good").index(verdict)
    assert rank(judge_least(there * 1.5, need)) >= rank(judge_least(there, need))


@given(st.floats(0, 100), st.floats(0.1, 100))
def test_less_of_a_load_is_never_worse(there, limit):
    rank = lambda verdict: ("over", "tight", "good").index(verdict)
    assert rank(judge_most(there / 2, limit)) >= rank(judge_most(there, limit))


@given(st.floats(0, 50), st.floats(0, 50), st.floats(0, 50), st.floats(0, 50))
def test_a_window_judges_both_ends(a, b, c, d):
    (least, most), (low, high) = sorted((a, b)), sorted((c, d))
    verdict = judge_window(least, most, low, high)
    assert (verdict == "short") == (least < low * (1 - 1e-9))
    assert verdict in ("good", "tight") or least < low or most > high


def test_sentences_keep_words_without_amounts():
    assert sentence("As it is.").say("us") == "As it is."
    # A person's own braces are no amount.
    assert sentence("{mine} at {a}", a=Amount(value=1.0, unit="h")).say() == "{mine} at 1\u00a0h"


def test_workings_add_up_to_their_figures(demo_plan):
    for report in evaluate(demo_plan).spaces:
        circuit = report.margin("power.circuit").working
        *_, total = circuit.steps
        parts = [step.amount.value for step in circuit.steps if step.symbol == "P"]
        assert total.amount.value == pytest.approx(sum(parts))
        cost = report.margin("power.cost")
        energy = sum(step.amount.value for step in cost.working.steps if step.symbol == "E")
        price = next(step.amount.value for step in cost.working.steps if step.symbol == "price")
        assert dict(cost.there.amounts)["cost"].value == pytest.approx(energy * price * 30.4)
        flows = {step.symbol: step.amount.value for step in report.margin("air.flow").working.steps}
        assert flows["Q"] == pytest.approx(report.breathing.delivered_m3_h)
        need = dict(report.margin("air.flow").need.amounts).get("need")
        # Next to nothing is said in words.
        assert need.value in flows.values() if need else report.breathing.governing.flow_m3_h < 0.5


def test_by_lamp_shares_add_up_to_each_plant_s_light(demo_plan):
    for light in lighting(on(demo_plan.spaces[0], cast=cast_of(demo_plan))).plants:
        assert sum(light.by_source_umol_m2_s) == pytest.approx(light.ppfd_umol_m2_s)
        assert light.least_ppfd_umol_m2_s <= light.ppfd_umol_m2_s <= light.most_ppfd_umol_m2_s
        assert 0 < light.reflected_share < 1
        assert light.plant.want.kind == light.plant.stage


def test_the_map_can_be_asked_at_any_height(demo_plan):
    space = demo_plan.spaces[2]
    low, high = (lighting(on(space), height_m=z).map for z in (0.1, 0.55))
    assert high.ppfd_umol_m2_s.max() > low.ppfd_umol_m2_s.max()
    assert lighting(on(space), height_m=99).map.height_m < space.size.height_m
    assert lighting(on(space)).map.height_m == map_height_m(on(space))
    assert lighting(on(space), with_map=False).map is None


def test_a_lamp_switched_off_still_stands_in_the_way(demo_plan):
    plan = apply(demo_plan, "berry-tent", [Change(collection="fixtures", part_id="lamp-1", values={"enabled": False})])
    both, one = (
        lighting(on(demo_plan.spaces[0], cast=cast_of(demo_plan))),
        lighting(on(plan.spaces[0], cast=cast_of(plan))),
    )
    assert one.power_w == pytest.approx(both.power_w / 2)
    by_second = [light.by_source_umol_m2_s[1] for light in both.plants]
    assert [light.ppfd_umol_m2_s for light in one.plants] == pytest.approx(by_second)


def test_more_air_makes_it_drier_and_cooler(demo_plan):
    tent = demo_plan.spaces[0]

    def day(flow):
        way = tent.airways[0]
        fan = way.fans[0]
        spec = fan.spec.model_copy(update={"free_flow_m3_h": flow, "max_pressure_pa": 200.0})
        parts = tuple(part.model_copy(update={"spec": spec}) if part is fan else part for part in way.parts)
        space = tent.model_copy(update={"airways": (way.model_copy(update={"parts": parts}),)})
        return evaluate_space(demo_plan, space, with_map=False).breathing.day

    weak, strong = day(60), day(600)
    assert strong.rh_pct < weak.rh_pct
    assert (
        abs(strong.temperature_c - demo_plan.room(tent.room_id).day_c)
        < abs(weak.temperature_c - demo_plan.room(tent.room_id).day_c) + 0.2
    )


def test_thin_air_needs_more_of_it(demo_plan):
    tent = demo_plan.spaces[0]
    high = demo_plan.model_copy(update={"site": Site(altitude_m=1600)})
    flows = [
        {d.criterion: d.flow_m3_h for d in evaluate_space(plan, tent, with_map=False).breathing.demands}
        for plan in (demo_plan, high)
    ]
    assert flows[1]["exchange"] == flows[0]["exchange"]
    assert flows[1]["heat"] > flows[0]["heat"] or flows[0]["heat"] == 0


def test_the_two_shapes_of_a_report_say_the_same(demo_plan):
    report = evaluate(demo_plan, with_map=False)
    text, data = as_text(report, working=True), as_data(report)
    json.dumps(data, allow_nan=False)
    for space, shown in zip(report.spaces, data["spaces"], strict=True):
        assert space.space.name in text
        assert [margin["id"] for margin in shown["margins"]] == [margin.id for margin in space.margins]
        for margin, row in zip(space.margins, shown["margins"], strict=True):
            assert margin.title in text
            assert row["why"] in text
            assert row["verdict"] == margin.verdict
            assert row["there"]["text"] in text
        assert len(shown["light"]["plants"]) == len(space.space.plants)
    assert f"{data['cost_per_month']:.2f} EUR a month" in text


def test_a_report_comes_in_us_units(demo_plan):
    text = as_text(evaluate(demo_plan, with_map=False), system="us").replace("\u00a0", " ")
    assert "48.4 in × 38.2 in × 73.2 in" in text
    assert "CFM" in text
    assert "°F" in text
    assert "m³/h" not in text
    assert "°C" not in text


def test_a_cache_makes_once_and_stays_small():
    made = []

    def make(key):
        return lambda: made.append(key) or key * 10

    pool = Pool(2_100 * 5)
    cache, other = ContentCache(len, pool), ContentCache(len, pool)
    for key in ("a", "b", "a", "c"):
        assert cache.get(key, make(key)) == key * 10
    assert made == ["a", "b", "c"]
    assert cache.holds("a")
    for number in range(200):
        cache.get(f"k{number}", make("x"))
        assert pool.held_bytes <= 2_100 * 5
    # What another store takes comes out of the same allowance.
    for number in range(40):
        other.get(number, lambda: "y" * 90)
        assert pool.held_bytes <= 2_100 * 5
    assert any(other.holds(number) for number in range(40))
    cache.clear()
    assert not any(cache.holds(f"k{number}") for number in range(200))
    other.get("last", lambda: "z")
    assert other.holds("last")
    other.forget("last")
    assert other.peek("last") is None
    pool.allow(0)
    assert sum(other.holds(number) for number in range(40)) <= 1
