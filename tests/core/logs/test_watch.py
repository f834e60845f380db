"""Alerts over series: when one rings and ends, by hand and against a plain loop; noise; proposals that are calm."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.logs.watch import episodes, noise_of, proposed, rung_in, silences
from canopy.plan.controls import Alert

STEP = 300


def _rule(**more):
    return Alert.model_validate({"id": "a", "figure": "air_c", "most": True, "value": 25, "for_min": 10, **more})


def _at(count, begin=1_795_000_200):
    return np.arange(begin, begin + count * STEP, STEP, dtype=np.int64)


def test_a_limit_rings_once_it_was_passed_for_long_enough():
    value = np.array([24, 26, 26, 26, 24, 26, 24, 24], dtype=float)
    at = _at(value.size)
    (found,) = episodes(at, value, _rule())
    assert (found.begin, found.rang, found.end, found.worst) == (at[1], at[1] + 600, at[4], 26)
    assert episodes(at, value, _rule(for_min=30)) == ()


def test_below_is_the_mirror_of_above():
    value = np.array([24, 26, 27, 26, 24, 24], dtype=float)
    (above,) = episodes(_at(6), value, _rule())
    (below,) = episodes(_at(6), -value, _rule(most=False, value=-25))
    assert (below.begin, below.end, below.worst) == (above.begin, above.end, -above.worst)


def test_it_is_over_only_when_it_is_back_by_so_much():
    value = np.array([24, 26, 24.8, 26, 24.8, 26, 23.9, 24], dtype=float)
    assert len(episodes(_at(8), value, _rule(for_min=0))) == 3
    (one,) = episodes(_at(8), value, _rule(for_min=0, back=1.0))
    assert one.end == _at(8)[6]


def test_what_still_goes_on_has_no_end():
    (found,) = episodes(_at(5), np.array([24, 26, 26, 26, 26.0]), _rule())
    assert found.end is None


def test_by_day_only_counts_while_lamps_are_on():
    value = np.full(12, 26.0)
    lit = np.arange(12) >= 6
    at = _at(12)
    (day,) = episodes(at, value, _rule(when="day"), lit)
    (night,) = episodes(at, value, _rule(when="night"), lit)
    assert (day.begin, night.begin, night.end) == (at[6], at[0], at[6])
    assert len(episodes(at, value, _rule(), lit)) == 1


def test_a_long_pause_ends_what_was_going_on():
    at = np.concatenate([_at(4), _at(4) + 86400])
    value = np.array([26, 26, 26, 26, 24, 24, 26, 24], dtype=float)
    (found,) = episodes(at, value, _rule())
    assert found.end == at[3]


def _plainly(at, value, rule):
    """A loop as one would write it down."""
    found, begin, state = [], None, False
    for second, one in zip(at, value, strict=True):
        beyond = (one - rule.value) if rule.most else (rule.value - one)
        if not state and beyond > 0:
            state, begin = True, second
        elif state and beyond <= -rule.back and not beyond > 0:
            if second - begin >= 60 * rule.for_min:
                found.append((begin, second))
            state = False
    if state and at[-1] - begin >= 60 * rule.for_min:
        found.append((begin, None))
    return found


@given(
    st.lists(st.sampled_from([22.0, 24.0, 24.6, 25.0, 25.4, 26.0, 28.0]), min_size=1, max_size=60),
    st.sampled_from([0.0, 0.5, 1.0]),
    st.sampled_from([0.0, 10.0, 20.0]),
    st.booleans(),
)
def test_the_same_as_a_plain_loop(values, back, wait, most):
    value, at = np.array(values), _at(len(values))
    rule = _rule(back=back, for_min=wait, most=most)
    assert [(item.begin, item.end) for item in episodes(at, value, rule)] == _plainly(at, value, rule)


def test_no_readings_never_ring():
    assert episodes(_at(0), np.zeros(0), _rule()) == ()


def test_silence_rings_after_its_time_and_ends_with_the_next_reading():
    at = np.array([1000, 1300, 9000], dtype=np.int64)
    first, last = silences(at, 700, 20_000, 60)
    assert (first.begin, first.rang, first.end) == (1300, 1300 + 3600, 9000)
    assert (last.begin, last.end) == (9000, None)
    assert silences(at, 700, 9100, 300) == ()
    assert rung_in((first, last), 0, 5000) == 1


def test_noise_is_that_of_the_readings_whatever_they_do_on_the_whole():
    chance = np.random.default_rng(7)
    drift = 20 + 4 * np.sin(np.linspace(0, 30, 4000)) + np.where(np.arange(4000) > 2000, 5, 0)
    assert noise_of(drift + chance.normal(0, 0.3, 4000)) == pytest.approx(0.3, rel=0.08)
    assert noise_of(np.array([1.0, 2.0])) == 0.0


def test_a_proposal_is_the_window_where_that_is_calm():
    at = _at(12 * 24 * 8)
    value = 22 + 2 * np.sin(at / 86400 * 2 * np.pi)
    found = proposed(_rule(value=27), at, value, 0.5)
    assert (found.rule.value, found.rule.for_min, found.rung) == (27, 10, 0)
    assert found.days == pytest.approx(8, abs=0.01)


def test_a_proposal_moves_out_until_an_ordinary_week_is_calm():
    at = _at(12 * 24 * 8)
    value = 24 + 2 * np.sin(at / 86400 * 2 * np.pi)
    found = proposed(_rule(value=25), at, value, 0.5)
    assert 25.5 <= found.rule.value <= 26
    assert len(episodes(at, value, found.rule)) <= 1
    assert found.rule.back >= 0.5


def test_what_rings_however_far_it_is_moved_is_not_proposed():
    at = _at(12 * 24 * 8)
    value = np.where((at // 43_200) % 2 == 0, 20.0, 60.0)
    assert proposed(_rule(value=25), at, value, 0.5) is None
    assert proposed(_rule(), at[:1], value[:1], 0.5) is None
