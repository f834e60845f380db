"""A light survey: lamps' factors recovered, readings that do not fit named, the wrong unit noticed."""

import datetime as dt

import numpy as np
import pytest

from canopy.errors import PhotometricError
from canopy.evaluate import evaluate_space
from canopy.evaluate.light.lighting import crowns_of
from canopy.light.scene import POINTS, field_of, weights
from canopy.light.survey import fit_survey, followed, sheet_points
from canopy.logs.facts import LightReading, LightSurvey
from canopy.plan import load
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy.season import cast_of
from tests.conftest import DEMO, on

CAST = cast_of(load(DEMO))
DAY = dt.date(2026, 11, 25)
TRUE = np.array([0.86, 1.05])


@pytest.fixture
def tent(demo_plan):
    return next(space for space in demo_plan.spaces if len(space.fixtures) == 2)


def _readings(space, factors=TRUE, noise=0.03, seed=5, scale=1.0):
    spots = [(x, y, space.size.height_m * 0.35) for x, y, _ in sheet_points(space, 0.5)]
    light = field_of(space, POINTS, crowns_of(on(space, DAY, CAST))).at(np.array(spots)).total * weights(space, DAY)
    shown = (light[:, : len(factors)] @ factors + light[:, len(factors) :].sum(axis=1)) * scale
    shown *= 1 + noise * np.random.default_rng(seed).standard_normal(len(shown))
    return [
        LightReading(number=n, x_m=x, y_m=y, z_m=z, value=float(v))
        for n, ((x, y, z), v) in enumerate(zip(spots, shown, strict=True), 1)
    ]


def _fit(space, readings, **more):
    survey = LightSurvey(space_id=space.id, taken_on=DAY, readings=tuple(readings), **more)
    return fit_survey(space, survey, crowns=crowns_of(on(space, DAY, CAST)))


def test_exact_readings_give_the_exact_factors(tent):
    found = _fit(tent, _readings(tent, noise=0.0))
    assert [lamp.factor for lamp in found.lamps] == pytest.approx(TRUE, abs=0.01)
    assert found.scatter < 0.01
    assert not any(item.outlier for item in found.readings)


def test_noisy_readings_give_the_factors_within_three_standard_errors(tent):
    pulls = []
    for seed in range(12):
        found = _fit(tent, _readings(tent, noise=0.05, seed=seed))
        pulls += [(lamp.factor - true) / lamp.standard_error for lamp, true in zip(found.lamps, TRUE, strict=True)]
    assert np.abs(pulls).max() < 3.5
    assert 0.3 < np.std(pulls) < 1.6


@pytest.mark.parametrize("times", [0.3, 2.2])
def test_a_reading_that_does_not_fit_is_named_and_draws_nothing(tent, times):
    readings = _readings(tent)
    readings[6] = readings[6].model_copy(update={"value": readings[6].value * times})
    found = _fit(tent, readings)
    assert [item.number for item in found.readings if item.outlier] == [7]
    assert [lamp.factor for lamp in found.lamps] == pytest.approx(TRUE, abs=0.09)


def test_bias_is_the_middle_of_measured_against_stated(tent):
    found = _fit(tent, _readings(tent, factors=np.array([0.7, 0.7]), noise=0.0))
    assert found.bias == pytest.approx(-0.3, abs=0.01)
    assert found.scatter < 0.01


def test_lux_taken_for_ppfd_is_noticed_and_the_other_way_round(tent):
    assert "is this lux?" in _fit(tent, _readings(tent, scale=65)).doubt
    assert "is this PPFD" in _fit(tent, _readings(tent), unit="lux").doubt
    assert _fit(tent, _readings(tent)).doubt == ""
    assert _fit(tent, _readings(tent, scale=65), unit="lux", source_id="white-led").doubt == ""


def test_nothing_to_fit_is_said(tent):
    with pytest.raises(PhotometricError, match="no reading"):
        _fit(tent, [])
    with pytest.raises(PhotometricError, match="cap"):
        _fit(tent, [item.model_copy(update={"value": 0.0}) for item in _readings(tent)])


def test_an_applied_survey_feeds_every_figure_and_can_be_set_aside(demo_plan, tent):
    found = _fit(tent, _readings(tent, factors=np.array([0.8, 0.8]), noise=0.0))
    keep = followed(tent, found, DAY, DAY).model_dump(mode="json")
    with_it = apply(demo_plan, tent.id, (Change(values={"survey": keep}),))
    aside = apply(with_it, tent.id, (Change(values={"survey.applied": False}),))

    def mean(plan):
        space = next(item for item in plan.spaces if item.id == tent.id)
        return evaluate_space(plan, space, with_map=False).lighting.dli_mol_m2_d

    before = mean(demo_plan)
    assert mean(with_it) == pytest.approx(0.8 * before, rel=0.02)
    assert mean(aside) == pytest.approx(before)


def test_struck_readings_and_those_outside_the_space_are_not_looked_at(tent):
    readings = _readings(tent, noise=0.0)
    wrong = readings[3].model_copy(update={"value": 9999.0, "struck": True})
    out = LightReading(number=90, x_m=tent.size.width_m + 0.2, y_m=0.1, z_m=0.3, value=100)
    found = _fit(tent, [*readings[:3], wrong, *readings[4:], out])
    assert [item.number for item in found.readings] == [r.number for r in readings if r.number != 4]
    assert [lamp.factor for lamp in found.lamps] == pytest.approx(TRUE, abs=0.01)
    with pytest.raises(PhotometricError, match="inside"):
        _fit(tent, [out])


def test_a_lamp_that_hangs_there_no_longer_gets_no_factor(tent):
    found = _fit(tent, _readings(tent, noise=0.0))
    left = tent.model_copy(update={"fixtures": tent.fixtures[:1]})
    assert [item.fixture_id for item in followed(left, found, DAY, DAY).factors] == [tent.fixtures[0].id]
