"""What is wrong with a log itself is noticed; and how series are laid out."""

import datetime as dt
import re

import numpy as np
import pytest

from canopy.review.series import BRIDGED_S, Grid, Series, laid_out, leaps, stuck_at
from canopy.review.sound import doubts

BEGIN = int(dt.datetime(2026, 3, 1, tzinfo=dt.UTC).timestamp())
DAYS = {dt.date(2026, 3, 1) + dt.timedelta(days=k): BEGIN + 86400 * k for k in range(12)}
EVERY = 300


def lamps(at):
    """On from 6 to 20 h."""
    return ((at - BEGIN) % 86400 >= 6 * 3600) & ((at - BEGIN) % 86400 < 20 * 3600)


def course(days=12, night=18.0, rise=6.0, seed=1, shift_s=0, quantity="air_c", name="air", space="one", noise=0.1):
    at = BEGIN + np.arange(0, 86400 * days, EVERY)
    chance = np.random.default_rng(seed)
    warm = np.convolve(np.pad(lamps(at - shift_s).astype(float), (11, 0)), np.ones(12) / 12, mode="valid")
    value = night + rise * warm + noise * chance.standard_normal(len(at))
    return Series(name=name, quantity=quantity, at=at, value=value, space_id=space)


def looked_over(*series, watts=None):
    found = list(series)
    if watts is not None:
        found.append(watts)
    grid = laid_out([item for item in found if item.space_id == "one"], BEGIN, BEGIN + 86400 * 12)
    lit = lamps(BEGIN + np.arange(grid.steps) * EVERY).astype(float)
    return doubts(found, grid, dict(DAYS), lit)


def plug(draws):
    at = BEGIN + np.arange(0, 86400 * 12, EVERY)
    value = lamps(at) * np.array([draws[int((second - BEGIN) // 86400)] for second in at])
    return Series(name="lamps", quantity="power_w", at=at, value=value.astype(float), feeds="lamps", space_id="one")


def test_a_sound_log_raises_no_doubt():
    assert (
        looked_over(course(), course(quantity="rh_pct", name="damp", night=60, rise=-10), watts=plug([200] * 12)) == ()
    )


def test_a_clock_that_was_set_back_is_noticed_by_the_lamps():
    before, late = course(), course(shift_s=3600)
    turn = BEGIN + 6 * 86400
    mixed = Series(
        name="air",
        quantity="air_c",
        at=before.at,
        value=np.where(before.at < turn, before.value, late.value),
        space_id="one",
    )
    (found,) = looked_over(mixed)
    assert found.what == "clock"
    assert found.since == dt.date(2026, 3, 7)
    assert "behind" in found.words
    assert int(re.search(r"about (\d+) min", found.words)[1]) == pytest.approx(60, abs=12)


def test_two_records_over_each_other_are_noticed():
    one, two = course(days=12), course(days=12, night=24.0, seed=2)
    part = (two.at >= BEGIN + 5 * 86400) & (two.at < BEGIN + 6 * 86400)
    at = np.concatenate([one.at, two.at[part] + 120])
    value = np.concatenate([one.value, two.value[part]])
    order = np.argsort(at)
    found = looked_over(Series(name="air", quantity="air_c", at=at[order], value=value[order], space_id="one"))
    assert [item.what for item in found] == ["clock"]
    assert "lie over each other" in found[0].words
    assert found[0].since == dt.date(2026, 3, 6)


def test_probes_that_were_swapped_between_spaces_are_noticed():
    one, two = course(), course(night=12.0, rise=2.0, seed=3, name="other", space="two")
    turn = one.at >= BEGIN + 7 * 86400
    a = Series(name="air", quantity="air_c", at=one.at, value=np.where(turn, two.value, one.value), space_id="one")
    b = Series(name="other", quantity="air_c", at=one.at, value=np.where(turn, one.value, two.value), space_id="two")
    found = [item for item in looked_over(a, b) if item.what == "swapped"]
    assert found[0].since == dt.date(2026, 3, 8)
    assert not [item for item in looked_over(one, two) if item.what == "swapped"]


@pytest.mark.parametrize("after", [150, 260])
def test_a_lamp_that_was_changed_in_mid_run_is_noticed(after):
    (found,) = looked_over(course(), watts=plug([200] * 6 + [after] * 6))
    assert found.what == "lamp"
    assert found.since == dt.date(2026, 3, 7)
    assert found.leave == "before"
    assert f"{after} W" in found.words


def test_one_dim_day_is_no_other_lamp():
    assert looked_over(course(), watts=plug([200] * 5 + [150] + [200] * 6)) == ()


def test_a_stuck_probe_is_left_out_and_told():
    item = course()
    value = item.value.copy()
    value[1000:1060] = value[1000]
    stuck = Series(**{**vars(item), "value": value})
    found = looked_over(stuck)
    assert [doubt.what for doubt in found] == ["stuck"]
    assert "5 h" in found[0].words
    grid = laid_out([stuck], BEGIN, BEGIN + 86400 * 12)
    assert np.isnan(grid.inside["air_c"][1010:1050]).all()


# Series on a grid


def test_a_single_leap_is_left_out_and_a_step_is_not():
    at = BEGIN + np.arange(200) * 60
    value = 20 + 0.05 * np.random.default_rng(1).standard_normal(200)
    value[50] = 85.0
    value[120:] += 4
    found = leaps(at, value)
    assert found[50]
    assert found.sum() == 1


def test_what_hardly_ever_moves_is_not_stuck():
    at = BEGIN + np.arange(500) * 60
    assert not stuck_at(at, np.full(500, 21.0)).any()
    assert not stuck_at(at[:3], np.full(3, 21.0)).any()


def test_gaps_are_bridged_up_to_a_length_and_no_further():
    at = np.array([BEGIN, BEGIN + 1200, BEGIN + 1200 + BRIDGED_S + 600])
    grid = laid_out(
        [Series(name="a", quantity="air_c", at=at, value=np.array([20.0, 24.0, 30.0]))], BEGIN, BEGIN + 4200
    )
    air = grid.inside["air_c"]
    assert air[:5] == pytest.approx([20.0, 21.5, 22.5, 23.5, 24.0], abs=0.1)
    assert np.isnan(air[6:10]).all()


def test_two_probes_of_one_quantity_are_one_mean_and_outdoors_is_not_inside():
    at = BEGIN + np.arange(0, 3600, 300)
    rows = [
        Series(name=name, quantity="air_c", at=at, value=np.full(len(at), value), place=place)
        for name, value, place in (
            ("a", 20.0, "space"),
            ("b", 22.0, "space"),
            ("c", 5.0, "outdoors"),
            ("d", 18.0, "room"),
        )
    ]
    grid = laid_out(rows, BEGIN, BEGIN + 3600)
    assert grid.inside["air_c"] == pytest.approx(np.full(12, 21.0))
    assert grid.room["air_c"] == pytest.approx(np.full(12, 18.0))
    assert isinstance(grid.part(2, 4), Grid)
    assert grid.part(2, 4).begins == BEGIN + 600
