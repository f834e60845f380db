"""Facts travel in a plan file beside the plan, and never in it."""

import datetime as dt
import json

import jsonschema
import pytest

from canopy.errors import PlanError
from canopy.logs.facts import Facts, LightReading, LightSurvey
from canopy.logs.files import dumps_with_facts, file_schema, loads_with_facts
from canopy.plan import dumps, from_data, loads
from tests.conftest import DEMO, ROOT

READING = {"x_m": 0.1, "y_m": 0.2, "z_m": 0.3, "value": 210.0}
SURVEY = LightSurvey(
    space_id="box", taken_on=dt.date(2026, 3, 1), unit="fc", readings=(LightReading(number=1, **READING),)
)


def test_a_file_with_facts_comes_back_the_same(small_plan):
    facts = Facts(surveys=(SURVEY, SURVEY.model_copy(update={"readings": ()})))
    text = dumps_with_facts(small_plan, facts)
    assert loads_with_facts(text) == (small_plan, facts)
    assert dumps_with_facts(*loads_with_facts(text)) == text


def test_the_plan_of_such_a_file_is_read_by_itself(small_plan):
    text = dumps_with_facts(small_plan, Facts(surveys=(SURVEY,)))
    assert loads(text) == small_plan
    assert "facts" not in json.loads(dumps(small_plan))
    assert dumps_with_facts(small_plan, Facts()) == dumps(small_plan)


@pytest.mark.parametrize(
    ("change", "place"),
    [
        ({"value": -1}, "facts.surveys[0].readings[0].value"),
        ({"number": 0}, "facts.surveys[0].readings[0].number"),
        ({"colour": "red"}, "facts.surveys[0].readings[0].colour"),
    ],
)
def test_facts_that_break_the_rules_are_refused_with_their_place(small_plan, change, place):
    data = json.loads(dumps_with_facts(small_plan, Facts(surveys=(SURVEY,))))
    data["facts"]["surveys"][0]["readings"][0] |= change
    with pytest.raises(PlanError) as caught:
        loads_with_facts(json.dumps(data))
    assert caught.value.problems[0].path == place


def test_a_number_given_twice_and_a_light_unknown_are_refused(small_plan):
    twice = SURVEY.model_copy(update={"readings": SURVEY.readings * 2})
    strange = SURVEY.model_copy(update={"source_id": "moonshine"})
    with pytest.raises(PlanError) as caught:
        loads_with_facts(dumps_with_facts(small_plan, Facts(surveys=(twice, strange))))
    assert [problem.path for problem in caught.value.problems] == [
        "facts.surveys[0].readings",
        "facts.surveys[1].source_id",
    ]


@pytest.mark.parametrize("applied", [True, False])
def test_readings_that_a_plan_held_once_come_out_of_it(small_plan, applied):
    data = small_plan.model_dump(mode="json")
    factors = [{"fixture_id": data["spaces"][0]["fixtures"][0]["id"], "factor": 0.9, "standard_error": 0.02}]
    data["spaces"][0]["survey"] = {
        "taken_on": "2026-03-01",
        "unit": "fc",
        "source_id": "white-led",
        "cct_k": 4000,
        "readings": [{"id": "reading-4", **READING}],
        "factors": factors if applied else [],
        "fitted_on": "2026-03-02" if applied else None,
        "applied": applied,
    }
    plan, facts = loads_with_facts(json.dumps(data))
    assert facts == Facts(surveys=(SURVEY.model_copy(update={"space_id": plan.spaces[0].id}),))
    kept = plan.spaces[0].survey
    assert (kept is not None and kept.applied) == applied
    assert from_data(data) == plan


def test_the_published_schema_is_the_schema_and_holds_the_demo_and_a_file_with_facts(small_plan):
    published = json.loads((ROOT / "docs" / "plan.schema.json").read_text())
    assert published == file_schema()
    check = jsonschema.Draft202012Validator(published)
    check.validate(json.loads(DEMO.read_text()))
    data = json.loads(dumps_with_facts(small_plan, Facts(surveys=(SURVEY,))))
    check.validate(data)
    data["facts"]["surveys"][0]["readings"][0]["value"] = -1
    assert not check.is_valid(data)
