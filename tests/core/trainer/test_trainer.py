"""The trainer: every scenario hangs together, an even hand holds it, and what is told is so."""

import numpy as np
import pytest
from pydantic import ValidationError

from canopy.errors import QuantityError
from canopy.trainer import Move, Scenario, lessons, par, play, scenarios
from canopy.trainer.world import STEP_S, values_of, world_of

ALL = list(scenarios().values())


def test_twelve_from_simple_to_hard():
    assert len(ALL) >= 12
    levels = [item.level for item in ALL]
    assert levels == sorted(levels)
    assert {1, 2, 3, 4} == set(levels)
    assert len({item.name for item in ALL}) == len(ALL)


@pytest.mark.parametrize("scenario", ALL, ids=lambda item: item.id)
def test_an_even_hand_holds_it_and_doing_nothing_does_not(scenario):
    nothing, even = play(scenario, []), par(scenario)
    assert even.score > 90
    assert even.score > nothing.score + 12
    for played in (nothing, even):
        assert played.days.overheats_s is None
        assert max(played.days.closure.heat, played.days.closure.water, played.days.closure.co2) < 1e-6
        for goal in scenario.goals:
            assert np.isfinite(played.values(goal.box, goal.figure)).all()


@pytest.mark.parametrize("scenario", ALL, ids=lambda item: item.id)
def test_every_knob_changes_something(scenario):
    base = par(scenario)
    for knob in scenario.knobs:
        found = []
        for value in knob.values:
            moves = [move for move in base.moves if move.knob != knob.id]
            played = play(scenario, [*moves, Move(at_h=0.0, knob=knob.id, value=value)])
            found.append(np.concatenate([played.values(goal.box, goal.figure) for goal in scenario.goals]))
        assert np.ptp(found, axis=0).max() > 0.3


def test_a_move_acts_from_its_hour_on_and_not_before():
    scenario = scenarios()["dry-cabinet"]
    nothing, moved = play(scenario, []), play(scenario, [Move(at_h=4.0, knob="mist", value=60)])
    before = nothing.hours < 4
    assert np.array_equal(nothing.values("cabinet", "rh_pct")[before], moved.values("cabinet", "rh_pct")[before])
    later = nothing.hours > 5
    assert moved.values("cabinet", "rh_pct")[later].mean() > nothing.values("cabinet", "rh_pct")[later].mean() + 5


def test_the_last_turn_of_a_knob_holds():
    knob = scenarios()["dry-cabinet"].knob("fan")
    moves = [Move(at_h=2.0, knob="fan", value=0.5), Move(at_h=1.0, knob="fan", value=0.0)]
    steps = values_of(knob, moves, round(3 * 3600 / STEP_S))
    assert [steps[0], steps[round(1.5 * 3600 / STEP_S)], steps[-1]] == [1.0, 0.0, 0.5]


def test_a_failed_fan_moves_nothing_and_a_stuck_heater_gives_all():
    fan = world_of(scenarios()["fan-stops"], [])
    hours = (np.arange(fan.steps) + 0.5) * STEP_S / 3600
    assert fan.drives["moves-fan"][(hours > 1.01) & (hours < 4.99)].max() == 0
    assert fan.drives["moves-fan"][hours < 0.99].min() > 0
    stuck = play(scenarios()["heater-sticks"], [])
    ids = [group.id for group in stuck.days.system.groups]
    rows = (stuck.hours > 1.1) & (stuck.hours < 4.9)
    assert stuck.days.groups[rows][:, ids.index("heater")].min() == pytest.approx(1.0)


def test_what_a_step_did_is_the_difference_to_leaving_it_out():
    scenario = scenarios()["dry-cabinet"]
    played = play(scenario, [Move(at_h=1.0, knob="fan", value=0.3), Move(at_h=1.0, knob="mist", value=60)])
    told = lessons(played)
    assert [item.knob for item in told] == ["Fan", "Hygrostat"]
    without = play(scenario, [played.moves[0]])
    assert told[1].worth == pytest.approx(played.score - without.score)
    assert told[1].goal.figure == "rh_pct"
    assert told[1].there > told[1].without + 10


def test_a_goal_earns_in_step_outside_and_counts_only_in_its_hours():
    scenario = scenarios()["harden-off"]
    played = play(scenario, [])
    first = scenario.goals[0]
    credit = played.credit(first)
    assert np.isnan(credit[played.hours > first.to_h]).all()
    values = played.values("lid", "rh_pct")
    row = int(np.flatnonzero((values > first.high) & (played.hours < first.to_h))[0])
    assert credit[row] == pytest.approx(1 - (values[row] - first.high) / first.scale)


@pytest.mark.parametrize(
    "move",
    [
        Move(at_h=1.0, knob="valve", value=1.0),
        Move(at_h=1.0, knob="fan", value=0.31),
        Move(at_h=-1.0, knob="fan", value=0.3),
        Move(at_h=99.0, knob="fan", value=0.3),
        Move(at_h=float("nan"), knob="fan", value=0.3),
    ],
)
def test_a_move_that_cannot_be_is_refused(move):
    with pytest.raises(QuantityError, match="no such move"):
        play(scenarios()["dry-cabinet"], [move])


def test_too_many_moves_are_refused():
    with pytest.raises(QuantityError, match="more than anybody makes"):
        play(scenarios()["dry-cabinet"], [Move(at_h=1.0, knob="fan", value=0.3)] * 401)


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        ({"par": [{"at_h": 0, "knob": "fan", "value": 0.33}]}, "cannot turn"),
        ({"goals": [{"box": "attic", "figure": "rh_pct", "name": "X", "low": 1, "high": 2, "scale": 1}]}, "no box"),
        ({"events": [{"at_h": 1, "until_h": 2, "what": "fails", "target": "pump", "said": "x"}]}, "nothing called"),
    ],
)
def test_data_that_does_not_hang_together_is_refused(spoil, words):
    data = scenarios()["dry-cabinet"].model_dump(mode="json")
    with pytest.raises(ValidationError, match=words):
        Scenario.model_validate({**data, **spoil})
