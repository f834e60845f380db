"""The data of what ails plants agree with themselves."""

from pathlib import Path

import pytest

from canopy.diagnosis import evidence
from canopy.library import cautions, sources
from canopy.library.ailments import PARTS, causes, checks, pests, symptoms
from canopy_web.drawing.ailments import PICTURES

SAID = Path(evidence.__file__).read_text(encoding="utf-8")


def said(key):
    """Whether `canopy.diagnosis.evidence` says it at all."""
    return f'"{key}"' in SAID


def test_there_are_enough_of_each():
    assert len(symptoms()) >= 40
    assert len(causes()) >= 60
    assert len(pests()) >= 15
    assert {item.part for item in symptoms().values()} == set(PARTS)


@pytest.mark.parametrize("cause", causes().values(), ids=lambda cause: cause.id)
def test_a_cause_points_at_what_there_is(cause):
    assert {*cause.typical, *cause.often, *cause.sometimes} <= set(symptoms())
    assert cause.typical
    assert {*cause.yes, *cause.no} <= set(checks())
    assert not set(cause.yes) & set(cause.no)
    assert all(said(key) for key in (*cause.tells_for, *cause.tells_against))
    assert not set(cause.tells_for) & set(cause.tells_against)
    assert set(cause.cautions) <= set(cautions())
    assert cause.cited.source in sources()
    # What is sprayed, released or dosed comes with its caution, and never first.
    words = " ".join(cause.do).casefold()
    if any(word in words for word in ("spray", "soap", "bicarbonate", "predatory", "larvae or", "wasps")):
        assert cause.cautions
    first = cause.do[0].casefold()
    assert not any(word in first for word in ("spray ", "soap", "oil,", "acid"))


def test_every_symptom_leads_somewhere_and_has_its_diagram():
    led = {key for cause in causes().values() for key in (*cause.typical, *cause.often, *cause.sometimes)}
    assert led == set(symptoms())
    assert {item.picture for item in symptoms().values()} <= set(PICTURES)
    assert {key for cause in causes().values() for key in (*cause.yes, *cause.no)} == set(checks())


@pytest.mark.parametrize("pest", pests().values(), ids=lambda pest: pest.id)
def test_a_pest_lives(pest):
    assert pest.cause in causes()
    assert pest.base_c < pest.top_c
    assert pest.cited.source in sources()
    # At 25 °C from five days (aphids) to two months (scales).
    assert 3 < pest.sum_k_d / (25 - pest.base_c) < 60
    for helper in pest.beneficial:
        assert helper.works_c.low < helper.works_c.high
