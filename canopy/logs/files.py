"""Facts in a plan file: they travel under the key “facts”, beside the plan and never in it."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from pydantic import ValidationError

from canopy.errors import PlanError, PlanProblem
from canopy.library import light_sources
from canopy.logs.entries import read_data
from canopy.logs.facts import Facts
from canopy.plan import Plan
from canopy.plan.files import FACTS, decoded, from_data, problem_of, schema


def dumps_with_facts(plan: Plan, facts: Facts) -> str:
    """Write a plan and what stands beside it as the text of one plan file.

    Parameters
    ----------
    facts : left out of the file when there are none

    Returns
    -------
    str : JSON, indented, keys in document order, ending in a newline; the same always gives the same text
    """
    data = plan.model_dump(mode="json")
    if facts != Facts():
        data[FACTS] = facts.model_dump(mode="json")
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"


def loads_with_facts(text: str | bytes) -> tuple[Plan, Facts]:
    """Read a plan file with the facts that travel in it.

    Parameters
    ----------
    text : JSON text, UTF-8 when bytes

    Returns
    -------
    Plan : the plan
    Facts : what stands beside it; readings that older files kept inside the plan are among them

    Raises
    ------
    PlanError : the file is not whole, or the plan or the facts break the rules
    """
    data = decoded(text)
    plan = from_data(data)
    given = data.get(FACTS)
    found = {"surveys": list(_kept_inside(data))} if given is None else given
    try:
        facts = Facts.model_validate(found)
    except ValidationError as error:
        raise PlanError([_within(problem_of(detail)) for detail in error.errors()[:30]]) from error
    if wrong := [PlanProblem(path=f"{FACTS}.{path}", message=message) for path, message in _problems(facts)]:
        raise PlanError(wrong)
    return plan, facts


def file_schema() -> dict[str, Any]:
    """Give the JSON Schema of a plan file: the plan, and what may stand beside it.

    Returns
    -------
    dict : JSON Schema, draft 2020-12
    """
    plan, facts = schema(), Facts.model_json_schema()
    known = plan["$defs"] | facts.pop("$defs")
    return plan | {"$defs": known, "properties": plan["properties"] | {FACTS: facts}}


def _within(problem: PlanProblem) -> PlanProblem:
    return PlanProblem(path=f"{FACTS}.{problem.path}" if problem.path else FACTS, message=problem.message)


def _problems(facts: Facts) -> Iterator[tuple[str, str]]:
    for k, survey in enumerate(facts.surveys):
        if survey.source_id not in light_sources():
            yield f"surveys[{k}].source_id", f"the library has no light source “{survey.source_id}”"
        numbers = [reading.number for reading in survey.readings]
        if len(set(numbers)) < len(numbers):
            yield f"surveys[{k}].readings", "two readings have the same number"

    keys = [entry.key for entry in facts.entries]
    if len(set(keys)) < len(keys):
        yield "entries", "two entries have the same key"
    for k, entry in enumerate(facts.entries):
        try:
            read_data(entry.kind, entry.data)
        except PlanError as error:
            yield f"entries[{k}].data", error.problems[0].message
        if entry.at.tzinfo is None:
            yield f"entries[{k}].at", "a time needs its zone, such as 2026-11-28T14:05:00Z"


def survey_kept_inside(space: Any) -> dict[str, Any] | None:
    """Give the survey that an older plan kept inside a space.

    Parameters
    ----------
    space : a space's data as the JSON decoder gave it

    Returns
    -------
    dict : data of a LightSurvey; None where the space has no reading
    """
    survey = space.get("survey") if isinstance(space, dict) else None
    readings = survey.get("readings") if isinstance(survey, dict) else None
    if not isinstance(survey, dict) or not isinstance(readings, list) or not readings:
        return None
    found = {key: survey[key] for key in ("taken_on", "unit", "source_id", "cct_k") if key in survey}
    return found | {
        "space_id": space.get("id"),
        "readings": [
            {"number": n, **{key: value for key, value in reading.items() if key != "id"}}
            for n, reading in enumerate((each for each in readings if isinstance(each, dict)), 1)
        ],
    }


def _kept_inside(data: dict[str, Any]) -> Iterator[dict[str, Any]]:
    spaces = data.get("spaces")
    for space in spaces if isinstance(spaces, list) else []:
        if (survey := survey_kept_inside(space)) is not None:
            yield survey
