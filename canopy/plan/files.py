"""Read and write plan files: JSON, size-limited, versioned, checked."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from canopy.errors import PlanError, PlanProblem, PlanVersionError
from canopy.plan.checks import problems
from canopy.plan.climbing import climbers_held
from canopy.plan.document import FORMAT, VERSION, Plan
from canopy.plan.migrate import migrated

MAX_BYTES = 5_000_000


def _place(location: tuple[int | str, ...]) -> str:
    path = ""
    for step in location:
        path += f"[{step}]" if isinstance(step, int) else f"{'.' if path else ''}{step}"
    return path


_WORDS = {
    "missing": "is missing",
    "extra_forbidden": "is not a key of the plan format",
    "finite_number": "must be a finite number",
}


# Names that are kept for what comes: what steers the climate, what is plugged in where. Nothing else may take them.
RESERVED = {"controls", "plugs"}

# Under this key a plan file carries what stands beside the plan; the plan itself never holds any of it.
FACTS = "facts"


def problem_of(detail: Any) -> PlanProblem:
    """Say in words what is wrong with a record's data.

    Parameters
    ----------
    detail : one of the errors that pydantic lists

    Returns
    -------
    PlanProblem : where, and what
    """
    if detail["type"] == "extra_forbidden" and detail["loc"][-1] in RESERVED:
        words = f"“{detail['loc'][-1]}” is a name that is kept for a later version; this program cannot read it yet"
        return PlanProblem(path=_place(detail["loc"]), message=words)
    if detail["type"] == "value_error":
        return PlanProblem(path=_place(detail["loc"]), message=str(detail["ctx"]["error"]))
    if detail["type"] in ("too_long", "too_short") and detail["loc"]:
        return PlanProblem(path=_place(detail["loc"]), message=_how_many(detail))
    message = _WORDS.get(detail["type"]) or f"{detail['msg'].lower()} (it is {detail.get('input')!r:.60})"
    return PlanProblem(path=_place(detail["loc"]), message=message)


# What a list's parts are called where its key says it otherwise.
_CALLED = {
    "fixtures": "lamps",
    "stirrers": "circulation fans",
    "airways": "ways of air",
    "daylight": "windows",
    "light_goals": "light targets of your own",
    "alerts": "alerts",
    "learnt": "corrections",
    "courses": "outbreaks",
    "lids": "lids",
    "wet": "wet surfaces",
    "hung": "hung things",
    "other_loads": "other loads",
    "outdoors": "months",
    "by_month": "months",
}


def _how_many(detail: Any) -> str:
    key, limits = str(detail["loc"][-1]), detail["ctx"]
    called = _CALLED.get(key, key.replace("_", " "))
    if detail["type"] == "too_long":
        return f"at most {limits['max_length']} {called}; this would make {limits['actual_length']}"
    return f"at least {limits['min_length']} {called}; this would leave {limits['actual_length']}"


def from_data(data: Any) -> Plan:
    """Make a plan of decoded JSON, checking shape and rules.

    Parameters
    ----------
    data : what the JSON decoder gave

    Returns
    -------
    Plan : the plan, sound in every respect, without the facts that a file carries beside it

    Raises
    ------
    PlanVersionError : the file was written by a newer version
    PlanError : anything else that is wrong, all problems at once
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise PlanError([PlanProblem(path="format", message=f"this is not a plan file: “format” must be “{FORMAT}”")])
    version = data.get("version")
    if isinstance(version, int) and version > VERSION:
        raise PlanVersionError(
            [
                PlanProblem(
                    path="version",
                    message=f"the file has version {version}; this program reads up to {VERSION}. "
                    "Open it with a newer Mild Canopy, or export it there for an older one",
                )
            ]
        )
    data = migrated({key: value for key, value in data.items() if key != FACTS})
    try:
        plan = Plan.model_validate(data)
    except ValidationError as error:
        raise PlanError([problem_of(detail) for detail in error.errors()[:30]]) from error
    found = problems(plan)
    if found:
        raise PlanError(found)
    return climbers_held(plan)


def loads(text: str | bytes) -> Plan:
    """Read a plan from the text of a plan file.

    Parameters
    ----------
    text : JSON text, UTF-8 when bytes

    Returns
    -------
    Plan : the plan

    Raises
    ------
    PlanError : too large, not UTF-8, truncated or malformed JSON, or a plan that breaks the rules
    """
    return from_data(decoded(text))


def decoded(text: str | bytes) -> Any:
    """Decode the text of a plan file, without checking what it says.

    Parameters
    ----------
    text : JSON text, UTF-8 when bytes

    Returns
    -------
    dict or another JSON value : what the file holds

    Raises
    ------
    PlanError : too large, not UTF-8, truncated or malformed JSON
    """
    raw = text.encode() if isinstance(text, str) else text
    if len(raw) > MAX_BYTES:
        raise PlanError(
            [PlanProblem(path="", message=f"the file has {len(raw) / 1e6:.0f} MB; a plan file has at most 5 MB")]
        )
    try:
        return json.loads(raw.decode("utf-8-sig"), parse_constant=_no_constant)
    except UnicodeDecodeError as error:
        raise PlanError([PlanProblem(path="", message="the file is not UTF-8 text")]) from error
    except (json.JSONDecodeError, RecursionError, ValueError) as error:
        if isinstance(error, PlanError):
            raise
        if not isinstance(error, json.JSONDecodeError | RecursionError):
            # Python reads no whole number of thousands of digits.
            words = "a number in the file has more digits than any figure of a plan"
            raise PlanError([PlanProblem(path="", message=words)]) from error
        line = getattr(error, "lineno", 0)
        where = f" at line {line}, column {error.colno}" if isinstance(error, json.JSONDecodeError) else ""
        raise PlanError(
            [PlanProblem(path="", message=f"the file is not whole: the JSON breaks off or is malformed{where}")]
        ) from error


def _no_constant(name: str) -> float:
    raise PlanError([PlanProblem(path="", message=f"{name} is not a number a plan can hold")])


def load(path: Path) -> Plan:
    """Read a plan file.

    Parameters
    ----------
    path : where it lies

    Returns
    -------
    Plan : the plan

    Raises
    ------
    PlanError : it cannot be read, is too large, or is not a sound plan
    """
    try:
        if path.stat().st_size > MAX_BYTES:
            size = path.stat().st_size / 1e6
            raise PlanError([PlanProblem(path="", message=f"the file has {size:.0f} MB; a plan file has at most 5 MB")])
        raw = path.read_bytes()
    except OSError as error:
        raise PlanError([PlanProblem(path="", message=f"cannot read {path}: {error.strerror}")]) from error
    return loads(raw)


def dumps(plan: Plan) -> str:
    """Write a plan as the text of a plan file.

    Returns
    -------
    str : JSON, indented, keys in document order, ending in a newline; the same plan always gives the same text
    """
    return json.dumps(plan.model_dump(mode="json"), indent=1, ensure_ascii=False) + "\n"


def schema() -> dict[str, Any]:
    """Give the JSON Schema of a plan, without what may stand beside it in its file.

    Returns
    -------
    dict : JSON Schema, draft 2020-12
    """
    found = Plan.model_json_schema()
    found["required"] = sorted({*found.get("required", []), "format", "version"})
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **found}
