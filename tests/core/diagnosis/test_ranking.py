"""Example diagnoses: within three checks each leads to its cause; nothing is claimed surer than it is."""

import datetime as dt

import numpy as np
import pytest

from canopy.care.outbreak import clean_looks, course, generation, helpers, looks_every
from canopy.diagnosis.evidence import Means, Noticed, facts_of
from canopy.diagnosis.ranking import Fact, diagnose
from canopy.errors import LibraryError
from canopy.evaluate.space import evaluate_space
from canopy.library.ailments import causes, pests
from canopy.logs.entries import Entry
from canopy.margin import sentence
from canopy.plan.care import Course

DAY = dt.date(2026, 3, 14)


def facts(**holds):
    return {
        key.replace("_", "-"): Fact(id=key.replace("_", "-"), holds=value, words=sentence(key))
        for key, value in holds.items()
    }


def asked(seen, known, truth):
    """Answer checks as the true cause would, up to three; gives the first cause and how many were asked."""
    answers, cause = {}, causes()[truth]
    for number in range(4):
        found = diagnose(seen, known, answers)
        if found.ranked[0].cause.id == truth and found.ranked[0].word in ("most likely", "likely"):
            return truth, number
        if found.next_check is None:
            break
        answers[found.next_check.id] = found.next_check.id in cause.yes
    return found.ranked[0].cause.id, len(answers)


EXAMPLES = {
    "a leggy edge": (["leaning", "stretched"], facts(edge_dim=True, light_low=True), "light-edge"),
    "a scorched top": (["bleached-top"], facts(leaf_hot=True, lamp_near=True), "lamp-heat"),
    "a bleached top": (["bleached-top"], facts(light_high=True, leaf_cool=True, leaf_hot=False), "light-much"),
    "curled old leaves": (["curl-old"], facts(vpd_high=True), "dry-air"),
    "blossom-end rot": (["fruit-end"], facts(water_uneven=True), "calcium-fruit"),
    "a dripping case": (["drips"], facts(dew=True, damp=True), "dew"),
    "thrips after neglect": (["specks-silver"], facts(neglected=True), "thrips"),
    "pH that drifts in jars": (["ph-drifts"], facts(tub=True), "ph-drift"),
    "fungus gnats": (["flies-soil"], facts(water_much=True), "fungus-gnats"),
}


@pytest.mark.parametrize(("seen", "known", "truth"), EXAMPLES.values(), ids=EXAMPLES.keys())
def test_an_example_leads_to_its_cause_within_three_checks(seen, known, truth):
    found, checks = asked(seen, known, truth)
    assert found == truth
    assert checks <= 3


@pytest.mark.parametrize("cause", causes().values(), ids=lambda cause: cause.id)
def test_every_cause_can_be_found_by_what_it_typically_shows(cause):
    """With all that tells for it and its checks answered it stands among the first two."""
    seen = [*cause.typical, *cause.often[:1]]
    known = {key: Fact(id=key, holds=True, words=sentence(key)) for key in cause.tells_for}
    answers = dict.fromkeys(cause.yes, True) | dict.fromkeys(cause.no, False)
    found = diagnose(seen, known, answers)
    assert cause.id in [item.cause.id for item in found.ranked[:2]]


def test_nothing_is_called_most_likely_by_symptoms_alone():
    for cause in causes().values():
        found = diagnose(cause.typical, {})
        assert all(item.word != "most likely" for item in found.ranked)


def test_facts_and_answers_stand_with_what_they_tell():
    found = diagnose(["flies-soil"], facts(water_little=True), {"potato": True})
    first = found.ranked[0]
    assert first.cause.id == "fungus-gnats"
    assert any("black heads" in words.text for words in first.tells_for)
    assert any(words.text == "water_little" for words in first.tells_against)
    assert found.next_check is None or found.next_check.id != "potato"


@pytest.mark.parametrize(("seen", "answers"), [([], {}), (["green-leaves"], {}), (["drips"], {"taste": True})])
def test_what_is_not_known_is_refused(seen, answers):
    with pytest.raises(LibraryError):
        diagnose(seen, {}, answers)


# What plan and log say


def entry(kind, days_ago, **data):
    at = dt.datetime.combine(DAY - dt.timedelta(days=days_ago), dt.time(9), dt.UTC)
    return Entry(key=f"{kind}-{days_ago}-{len(data):04d}", space_id="berry-tent", kind=kind, at=at, data=data)


@pytest.fixture(scope="module")
def report(demo_plan):
    return evaluate_space(demo_plan, demo_plan.space("berry-tent"), day=DAY, follow=True)


def test_what_nobody_measured_is_not_said(report):
    found = facts_of(report, Noticed(today=DAY))
    assert not {"ph-off", "ec-high", "water-much", "changed", "pest-thrips"} & set(found)
    assert found["neglected"].holds
    assert {"light-low", "vpd-high", "dew", "still", "root-cold"} <= set(found)


def test_what_was_measured_goes_before_what_is_simulated(report):
    wet = facts_of(report, Noticed(today=DAY, measured={"rh_pct": Means(lit=88.0, dark=96.0)}))
    assert wet["damp"].holds
    assert wet["dew"].holds
    assert "measured" in wet["damp"].words.say()
    assert not facts_of(report, Noticed(today=DAY, measured={"rh_pct": Means(lit=50.0, dark=55.0)}))["damp"].holds


def test_the_log_says_what_it_holds(report):
    rows = (
        entry("water", 6, litres=0.3, ph=5.9, ec_ms_cm=4.2),
        entry("water", 4, litres=0.3, ph=6.8),
        entry("water", 1, litres=0.3, ph=7.4),
        entry("pests", 2, what="thrips larvae", count=5, looked_at=10),
        entry("work", 3, act="pot"),
    )
    found = facts_of(report, Noticed(today=DAY, entries=rows))
    for key in ("ph-high", "ph-off", "ph-drifts", "ec-high", "water-little", "pest-thrips", "pest-sucking", "changed"):
        assert found[key].holds, key
    assert not found["neglected"].holds
    assert "7.4" in found["ph-high"].words.say()


def test_an_edge_is_said_of_the_plants_that_suffer(report):
    lights = sorted(report.lighting.plants, key=lambda light: light.ppfd_umol_m2_s)
    dim = facts_of(report, Noticed(today=DAY, plants=(lights[0].plant.id,)))["edge-dim"]
    bright = facts_of(report, Noticed(today=DAY, plants=(lights[-1].plant.id,)))["edge-dim"]
    assert not bright.holds
    assert dim.holds == (lights[0].ppfd_umol_m2_s < 0.78 * np.mean([light.ppfd_umol_m2_s for light in lights]))


def test_figures_are_said_in_the_persons_units(report):
    found = facts_of(report, Noticed(today=DAY))
    assert "°F" in found["air-hot"].words.say("us")
    assert "°C" in found["air-hot"].words.say("metric")


# Lives of pests


def test_a_generation_follows_warmth():
    mite = pests()["spider-mite"]
    assert generation(mite, np.full(24, 25.0)).days == pytest.approx(140 / 13)
    assert generation(mite, np.array([30.0, 20.0])).days == pytest.approx(140 / 13)
    assert generation(mite, np.full(24, 40.0)).days == pytest.approx(140 / (31 - 12))
    cold = generation(mite, np.full(24, 10.0))
    assert cold.days is None
    assert looks_every(cold) == 14
    with pytest.raises(ValueError, match="no air"):
        generation(mite, np.array([]))


def test_helpers_are_told_where_they_would_not_work():
    mite = pests()["spider-mite"]
    dry = helpers(mite, 24, 20, 45)
    assert [bool(item.why_not) for item in dry] == [False, True]
    assert "too dry" in dry[1].why_not
    assert all("too warm" in item.why_not for item in helpers(mite, 36, 30, 70))
    assert all("too cold" in item.why_not for item in helpers(mite, 12, 10, 70))


def test_an_outbreak_is_a_course_until_three_looks_find_none():
    thrips = pests()["flower-thrips"]
    here = generation(thrips, np.full(24, 22.0))
    steps = course(thrips, DAY, here, thrips.beneficial[0])
    assert [step.on for step in steps] == sorted(step.on for step in steps)
    assert sum("Bring out" in step.what for step in steps) == 3
    assert any(step.on == DAY + dt.timedelta(days=round(here.days)) for step in steps)
    item = Course(id="course-1", pest="flower-thrips", begun_on=DAY - dt.timedelta(days=30))
    looks = [entry("pests", d, what="thrips", count=c) for d, c in ((20, 4), (15, 0), (10, 1), (6, 0), (3, 0))]
    assert clean_looks(item, looks) == 2
    assert clean_looks(item, [*looks, entry("pests", 1, what="Thrips", count=0)]) == 3
    assert clean_looks(item, [*looks, entry("pests", 1, what="aphids", count=0)]) == 2
