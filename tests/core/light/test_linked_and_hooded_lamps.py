"""Lamps in a line, what their first plug carries, and lamps whose heat leaves by a hood of their own."""

from itertools import pairwise

import pytest

from canopy.design.light.hanging import line_up
from canopy.design.light.proposal import missed, windows
from canopy.evaluate import evaluate_space
from canopy.library import fixtures
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy.season import standing_of

BAR = fixtures()["bar-30"].spec


def _line(plan, **more):
    how = {"along": "width", "gap_m": 0.03, "z_m": 1.2, **more}
    return line_up(plan.spaces[0], how.pop("spec", BAR), **how)


def _with(plan, lamps):
    data = [lamp.model_dump(mode="json") for lamp in lamps]
    return apply(plan, plan.spaces[0].id, (Change(values={"fixtures": data}),))


@pytest.mark.parametrize("along", ["width", "depth"])
@pytest.mark.parametrize("gap_m", [0.0, 0.03, 0.2])
@pytest.mark.parametrize("class_id", ["strip-10", "strip-18", "bar-30"])
def test_a_line_is_as_long_as_fits_evenly_spaced_in_the_middle(small_plan, along, gap_m, class_id):
    spec, size = fixtures()[class_id].spec, small_plan.spaces[0].size
    lamps = _line(small_plan, spec=spec, along=along, gap_m=gap_m)
    reach = size.width_m if along == "width" else size.depth_m
    at = sorted(lamp.x_m if along == "width" else lamp.y_m for lamp in lamps)
    used = len(lamps) * spec.length_m + max(0, len(lamps) - 1) * gap_m
    assert used <= reach
    assert used + gap_m + spec.length_m > reach - 0.05
    if lamps:
        assert sum(at) / len(at) == pytest.approx(reach / 2, abs=1e-3)
        assert all(b - a == pytest.approx(spec.length_m + gap_m, abs=2e-4) for a, b in pairwise(at))
        assert _with(small_plan, lamps).spaces[0].fixtures == tuple(lamps)


@pytest.mark.parametrize(
    ("count", "length_m", "made"), [(0, 0.0, 2), (1, 0.0, 1), (9, 0.0, 2), (0, 0.35, 1), (0, 0.2, 0)]
)
def test_a_number_or_a_length_of_one_s_own(small_plan, count, length_m, made):
    strip = fixtures()["strip-10"].spec
    assert len(_line(small_plan, spec=strip, count=count, length_m=length_m)) == made


def test_a_second_line_is_a_chain_of_its_own(small_plan):
    first = _line(small_plan, spec=fixtures()["strip-10"].spec)
    second = line_up(_with(small_plan, first).spaces[0], BAR, along="width", gap_m=0.03, z_m=0.9)
    assert {lamp.chain for lamp in first}.isdisjoint({lamp.chain for lamp in second})


@pytest.mark.parametrize(
    ("limit_w", "verdict"), [(None, "unknown"), (200.0, "good"), (21.0, "tight"), (20.0, "tight"), (19.0, "over")]
)
def test_the_first_plug_carries_the_whole_chain(small_plan, limit_w, verdict):
    strip = fixtures()["strip-10"].spec.model_copy(update={"link_limit_w": limit_w, "power_w": 10.0})
    plan = _with(small_plan, _line(small_plan, spec=strip))
    margin = evaluate_space(plan, plan.spaces[0], with_map=False).margin("power.chain.chain 1")
    assert margin.verdict == verdict
    assert "20" in margin.there.say()
    assert len(margin.parts) == len(margin.working.steps) == 2


def test_lamps_on_plugs_of_their_own_have_no_chain(small_plan):
    margins = evaluate_space(small_plan, small_plan.spaces[0], with_map=False).margins
    assert not any(margin.id.startswith("power.chain") for margin in margins)


def test_missing_is_nothing_inside_and_counts_from_the_nearer_end(small_plan):
    here = standing_of(small_plan.spaces[0], small_plan.date)
    low, high = windows(here)
    assert missed(here, (low + high) / 2) == pytest.approx(0)
    assert missed(here, low / 2) == pytest.approx(1)
    assert missed(here, high * 1.5) == pytest.approx(0.5)
    assert missed(here, low * 0) == pytest.approx(20)
