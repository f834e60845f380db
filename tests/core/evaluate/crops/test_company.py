"""Who may live with whom."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.evaluate import evaluate_space
from canopy.evaluate.crops.company import QUANTITIES, company_margins, conflicts, joint_window
from canopy.library import crops
from canopy.library.models import Window
from canopy.plan import Plant
from canopy.season import Form, Growing
from tests.conftest import on

WINDOWS = st.tuples(st.floats(0, 50), st.floats(0, 50)).map(lambda pair: Window(low=min(pair), high=max(pair)))


def _plant(number, crop_id, stage=None):
    kind = stage or (crops()[crop_id].stage("vegetative") or crops()[crop_id].stages[-1]).kind
    return Plant(id=f"p{number}", crop_id=crop_id, stage=kind, x_m=0.1, y_m=0.1, height_m=0.1, spread_m=0.1)


def _growing(number, crop_id):
    plant, crop = _plant(number, crop_id), crops()[crop_id]
    want = crop.stage(plant.stage)
    return Growing(plant=plant, number=number, crop=crop, want=want, form=Form(height_m=0.1, spread_m=0.1, lai=1.0))


def _space(demo_plan, *kinds):
    members = tuple(_plant(n, *(kind if isinstance(kind, tuple) else (kind,))) for n, kind in enumerate(kinds))
    return demo_plan.spaces[0].model_copy(update={"plants": members})


def _verdicts(space):
    return {margin.id.rpartition(".")[2]: margin.verdict for margin in company_margins(on(space))}


@given(st.lists(WINDOWS, min_size=1, max_size=6))
def test_the_joint_window_lies_inside_all(windows):
    joint = joint_window(windows)
    pairs = conflicts([(_growing(n, "tatsoi"), window) for n, window in enumerate(windows)])
    if joint:
        assert all(window.low <= joint.low <= joint.high <= window.high for window in windows)
    # Windows on a line: they all meet exactly when every two of them meet.
    assert (joint is None) == bool(pairs)
    assert all(pair.gap > 0 for pair in pairs)
    assert [pair.gap for pair in pairs] == sorted((pair.gap for pair in pairs), reverse=True)


def test_gaps_are_named_with_the_right_sides():
    a, b = _growing(1, "tatsoi"), _growing(2, "sorrel")
    (found,) = conflicts([(b, Window(low=16, high=18)), (a, Window(low=10, high=12))])
    assert (found.lower.id, found.higher.id, found.gap) == ("p1", "p2", 4)


def test_leaf_against_fruit_against_foliage(demo_plan):
    mixed = _verdicts(_space(demo_plan, "chervil", ("pepper", "fruit"), "filmy-fern"))
    assert mixed["day"] == "short"
    assert mixed["light"] == "tight"
    assert mixed["humidity"] == "tight"
    alike = _verdicts(_space(demo_plan, "tatsoi", "pak-choi", "mizuna"))
    assert set(alike.values()) == {"good"}


@pytest.mark.parametrize(
    ("kinds", "key", "words"),
    [
        ((("photoperiod-herb", "flower"), ("tomato-dwarf", "seedling")), "hours", "at most 12.5 h"),
        (("filmy-fern", ("pepper", "fruit")), "light", "under the lamp and the other at the rim"),
        ((("flytrap", "rest"), "ginger"), "day", "spaces of their own"),
    ],
)
def test_a_conflict_is_told_with_its_gap(demo_plan, kinds, key, words):
    margin = next(m for m in company_margins(on(_space(demo_plan, *kinds))) if m.id.endswith(key))
    assert margin.verdict in ("short", "tight")
    assert "apart" in margin.there.say()
    assert words in margin.why.say().replace("\u00a0", " ")
    assert set(margin.parts) == {"p0", "p1"}
    assert len(margin.working.steps) == 2


def test_a_gap_of_temperature_is_a_difference_in_us_units(demo_plan):
    margin = next(
        m for m in company_margins(on(_space(demo_plan, ("flytrap", "rest"), "ginger"))) if m.id.endswith("day")
    )
    gap = 23 - 12
    assert margin.there.say().replace("\u00a0", " ") == f"{gap} K apart"
    assert margin.there.say("us").replace("\u00a0", " ") == f"{gap * 1.8:g} °F apart"


def test_one_crop_keeps_itself_company(demo_plan):
    assert company_margins(on(_space(demo_plan, "tatsoi", "tatsoi"))) == []
    assert company_margins(on(_space(demo_plan))) == []
    assert len(company_margins(on(_space(demo_plan, ("tatsoi", "seedling"), ("tatsoi", "vegetative"))))) == len(
        QUANTITIES
    )


def test_the_order_of_plants_does_not_matter(demo_plan):
    kinds = ["chervil", ("pepper", "fruit"), "filmy-fern", "okra"]
    assert _verdicts(_space(demo_plan, *kinds)) == _verdicts(_space(demo_plan, *reversed(kinds)))


def test_the_demo_s_fern_case_parts_over_light(demo_plan):
    report = evaluate_space(demo_plan, demo_plan.space("fern-case"), with_map=False)
    margin = report.margin("crops.together.light")
    assert margin.verdict == "tight"
    assert "Filmy fern, vegetative, wants at most 1.8" in margin.why.say()
    assert report.station_verdict("crops") == "tight"
