"""Identification from ordinary days, on households whose truth is hidden."""

import numpy as np
import pytest

from canopy.review.finding import Finding, graded
from canopy.review.living import identify
from canopy.review.series import Series
from canopy.standins.neighbours import UNKNOWABLE, Neighbour, neighbour, without
from tests.core.review.conftest import asked_of


def of(found, subject):
    return next(item for item in found.findings if item.subject == subject)


def test_what_fans_move_and_seams_leak_is_found_among_plants_and_lamps(pulsed, fitted):
    air, leak, leaves = (of(fitted, subject) for subject in ("airflow", "leak", "leaves"))
    assert air.factor == pytest.approx(pulsed.truth.moves, rel=0.1)
    assert abs(air.factor - pulsed.truth.moves) < 2.5 * air.standard_error
    assert abs(leak.factor - pulsed.truth.leaks) < 2.5 * leak.standard_error
    assert abs(leaves.factor - pulsed.truth.opens) < 2.5 * leaves.standard_error
    assert fitted.left < 0.5
    assert len(fitted.days) == 2


def test_lamps_are_known_by_their_meter(pulsed, fitted):
    assert of(fitted, "lamp-heat").factor == pytest.approx(pulsed.truth.heats, rel=0.01)
    assert of(fitted, "lamp-heat").basis == "meter"


def test_what_a_probe_is_off_by_is_told_apart(pulsed):
    """A thermometer that shows half a kelvin more changes what it is off by, and hardly what is found."""
    warmer = tuple(
        Series(**{**vars(item), "value": item.value + 0.5}) if item.name == "air_c" else item for item in pulsed.series
    )
    found = identify(asked_of(Neighbour(**{**vars(pulsed), "series": warmer})))
    usual = identify(asked_of(pulsed))
    assert found.offsets["air_c"] - usual.offsets["air_c"] == pytest.approx(0.5, abs=0.25)
    assert of(found, "airflow").factor == pytest.approx(of(usual, "airflow").factor, rel=0.15)


@pytest.mark.parametrize(
    ("habit", "words"),
    list(zip(UNKNOWABLE, ("never stopped", "the air of the room", "no plug says"), strict=True)),
)
def test_what_cannot_be_known_is_said_and_not_guessed(demo_plan, habit, words):
    found = of(identify(asked_of(neighbour(demo_plan, "berry-tent", 501, habit, days=4))), "airflow")
    assert found.grade == "unknown"
    assert found.factor is None
    assert words in found.limits


@pytest.mark.parametrize("quantity", ["air_c", "rh_pct"])
def test_without_warmth_or_damp_nothing_is_told(pulsed, quantity):
    found = identify(asked_of(without(pulsed, quantity)))
    assert {item.grade for item in found.findings} == {"unknown"}


def test_a_meter_that_stuck_is_noticed_and_left_out(pulsed):
    """Its plug says for three hours that the fan stood while it ran."""
    begin = pulsed.begins + 86400 * 4 + 9 * 3600
    lying = []
    for item in pulsed.series:
        value = item.value.copy()
        if item.feeds == "fan":
            value[(item.at >= begin) & (item.at < begin + 3 * 3600)] = 0.0
        lying.append(Series(**{**vars(item), "value": value}))
    found = identify(asked_of(Neighbour(**{**vars(pulsed), "series": tuple(lying)})))
    assert any(first < begin + 2 * 3600 < last for first, last in found.left_out)
    assert of(found, "airflow").factor == pytest.approx(pulsed.truth.moves, rel=0.15)


def test_seldom_readings_are_held_to_be_worth_less(pulsed, fitted):
    thin = tuple(Series(**{**vars(s), "at": s.at[::8], "value": s.value[::8]}) for s in pulsed.series)
    found = identify(asked_of(Neighbour(**{**vars(pulsed), "series": thin})))
    leak, before = of(found, "leak"), of(fitted, "leak")
    assert leak.factor is None or leak.standard_error / leak.factor > before.standard_error / before.factor


def test_grades():
    assert graded("airflow", 1.0, 0.07) == "known"
    assert graded("airflow", 1.0, 0.1) == "rough"
    assert graded("leak", 1.0, 0.11) == "known"
    assert graded("leak", 1.0, 0.3) == "unknown"
    assert graded("leak", None, None) == "unknown"
    assert Finding(subject="airflow", factor=0.5, standard_error=0.02, computed=100.0).found == 50.0
    assert np.isclose(Finding(subject="airflow", factor=0.5, standard_error=0.02, computed=100.0).off, 2.0)
