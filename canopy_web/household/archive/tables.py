"""Which tables of a household an archive holds, and how their rows are written and read: by fields, without keys."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from django.core.exceptions import ValidationError
from django.db import models
from django.utils.dateparse import parse_date, parse_datetime

from canopy.errors import PlanError, PlanProblem
from canopy_web.logbook.models import (
    AlertEvent,
    CareMark,
    CsvShape,
    GuidedTest,
    LightReading,
    LightSurvey,
    LogEntry,
    ProbeCheck,
    Sensor,
    Source,
    Switching,
    Tick,
)

Row = dict[str, Any]
_SLICE = 500


@dataclass(frozen=True, kw_only=True)
class Table:
    """A table as an archive calls it. ``refers`` names columns that point at rows of other tables of the archive, a
    person (``by``) or a state of the plan (``state``); ``within`` the column that leads to the plan, if not its own.
    """

    name: str
    model: type[models.Model]
    refers: Mapping[str, str]
    within: str = "plan"


# Each after those that it points at.
TABLES = (
    Table(name="sources", model=Source, refers={}),
    Table(name="sensors", model=Sensor, refers={"source": "sources"}),
    Table(name="csv_shapes", model=CsvShape, refers={}),
    Table(name="surveys", model=LightSurvey, refers={"state": "states"}),
    Table(name="light_readings", model=LightReading, refers={"survey": "surveys"}, within="survey__plan"),
    Table(name="care", model=CareMark, refers={"by": "people", "state": "states"}),
    Table(name="ticks", model=Tick, refers={"by": "people"}),
    Table(name="entries", model=LogEntry, refers={"by": "people", "state": "states"}),
    Table(name="alerts", model=AlertEvent, refers={"sensor": "sensors", "seen_by": "people"}),
    Table(name="tests", model=GuidedTest, refers={"by": "people", "state": "states"}),
    Table(name="probe_checks", model=ProbeCheck, refers={"sensor": "sensors", "by": "people"}),
    Table(name="switchings", model=Switching, refers={"source": "sources", "by": "people"}),
)


def _columns(table: Table) -> list[models.Field[Any, Any]]:
    plan = table.within if table.within == "plan" else ""
    return [
        field
        for field in table.model._meta.concrete_fields
        if not field.primary_key and field.name not in (plan, *table.refers)
    ]


def written_rows(table: Table, plan: Any, numbers: Mapping[str, Mapping[int, int]]) -> tuple[list[Row], dict[int, int]]:
    """Write a plan's rows of a table; gives them, and their numbers in the archive by their keys.

    ``numbers`` are those of the tables that it points at; what points at something that is not in the archive, such as
    another person, points at nothing there.
    """
    out: list[Row] = []
    own: dict[int, int] = {}
    columns = _columns(table)
    for row in table.model._default_manager.filter(**{table.within: plan}).order_by("pk"):
        own[int(row.pk)] = len(out)
        data = {field.name: _plain(getattr(row, field.name)) for field in columns}
        for name, other in table.refers.items():
            data[name] = numbers[other].get(getattr(row, f"{name}_id"))
        out.append(data)
    return out, own


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, dt.datetime | dt.date) else value


def read_rows(table: Table, rows: Any, plan: Any, there: Mapping[str, list[int | None]]) -> list[int | None]:
    """Make rows of a table for a plan; gives their keys by their numbers in the archive.

    Raises PlanError where one is not whole.
    """
    if not isinstance(rows, list):
        raise _wrong(table, "is no list")
    columns, made = _columns(table), []
    for number, data in enumerate(rows):
        if not isinstance(data, dict):
            raise _wrong(table, f"row {number} is no record")
        values = {field.name: _typed(table, number, field, data.get(field.name)) for field in columns}
        for name, other in table.refers.items():
            values[f"{name}_id"] = _pointed(table, number, there[other], data.get(name))
        if table.within == "plan":
            values["plan_id"] = plan.pk
        found = table.model(**values)
        # What may be nothing, and a record or list that is empty, is no field left blank.
        empty = {field.name for field in columns if values[field.name] in ({}, [], None)}
        exclude = {"plan", *table.refers, *empty}
        try:
            found.clean_fields(exclude=exclude)
        except ValidationError as error:
            raise _wrong(table, f"row {number}: {'; '.join(error.messages)}") from None
        made.append(found)
    _create(table, made)
    return [int(row.pk) for row in made]


def _create(table: Table, rows: list[models.Model]) -> None:
    """Keep rows with the hours they were written, which the database would set to now."""
    stamped = [
        field
        for field in table.model._meta.concrete_fields
        if getattr(field, "auto_now_add", False) or getattr(field, "auto_now", False)
    ]
    kept = [{field.name: getattr(row, field.name) for field in stamped} for row in rows]
    table.model._default_manager.bulk_create(rows, batch_size=_SLICE)
    for row, values in zip(rows, kept, strict=True):
        if values:
            table.model._default_manager.filter(pk=row.pk).update(**values)


def _typed(table: Table, number: int, field: models.Field[Any, Any], value: Any) -> Any:
    """A value as its column holds it; dates and times from their text."""
    if value is None and not field.null and not isinstance(field, models.JSONField):
        if field.has_default():
            return field.get_default()
        raise _wrong(table, f"row {number} says nothing of {field.name}")
    if isinstance(field, models.DateTimeField) and value is not None:
        moment = parse_datetime(value) if isinstance(value, str) else None
        if moment is None or moment.tzinfo is None:
            raise _wrong(table, f"row {number}: {field.name} is no time with its zone")
        return moment
    if isinstance(field, models.DateField) and value is not None:
        day = parse_date(value) if isinstance(value, str) else None
        if day is None:
            raise _wrong(table, f"row {number}: {field.name} is no day")
        return day
    return value


def _pointed(table: Table, number: int, keys: list[int | None], value: Any) -> int | None:
    if value is None:
        return None
    if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value < len(keys):
        raise _wrong(table, f"row {number} points at nothing")
    return keys[value]


def _wrong(table: Table, words: str) -> PlanError:
    return PlanError([PlanProblem(path=table.name, message=words)])


def numbered(keys: Iterable[int]) -> dict[int, int]:
    """Number keys in their order."""
    return {key: number for number, key in enumerate(keys)}
