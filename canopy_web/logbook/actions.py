"""Every change to the facts, one function an act. None of them is a step of the plan's history."""

from __future__ import annotations

import datetime as dt
import secrets
from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from canopy.errors import PlanConflictError, PlanError, PlanProblem
from canopy.logs.facts import MOST_READINGS, Facts
from canopy.logs.facts import CareMark as CareRecord
from canopy.logs.files import loads_with_facts
from canopy_web.logbook.models import CalendarFeed, CareMark, LightReading, LightSurvey, LogEntry, Tick
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan

_METER = ("unit", "source_id", "cct_k")


def _newest(plan: GrowPlan, space_id: str) -> LightSurvey | None:
    return LightSurvey.objects.filter(plan=plan, space_id=space_id).last()


def _open(plan: GrowPlan, space_id: str, day: dt.date) -> LightSurvey:
    return _newest(plan, space_id) or LightSurvey.objects.create(
        plan=plan, space_id=space_id, taken_on=day, state_id=_head(plan)
    )


def _head(plan: GrowPlan) -> int | None:
    return GrowPlan.objects.values_list("head_id", flat=True).get(pk=plan.pk)


@transaction.atomic
def take_readings(
    plan: GrowPlan, space_id: str, day: dt.date, lines: Sequence[tuple[float, float, float, float]]
) -> None:
    """Add readings (x, y, z [m] and the figure) to a space's newest survey; begins one where there is none.

    The first readings of a survey fix which state of the plan they were taken in.
    """
    survey = _open(plan, space_id, day)
    held = survey.readings.count()
    if held + len(lines) > MOST_READINGS:
        words = f"at most {MOST_READINGS} readings; this would make {held + len(lines)}"
        raise PlanError([PlanProblem(path="readings", message=words)])
    last = survey.readings.aggregate(last=Max("number"))["last"] or 0
    if not held:
        LightSurvey.objects.filter(pk=survey.pk).update(state_id=_head(plan))
    LightReading.objects.bulk_create(
        LightReading(survey=survey, number=n, x_m=x, y_m=y, z_m=z, value=value)
        for n, (x, y, z, value) in enumerate(lines, last + 1)
    )


@transaction.atomic
def change_survey(
    plan: GrowPlan, space_id: str, day: dt.date, values: Mapping[str, Any], was: Mapping[str, Any]
) -> None:
    """Change a survey's day, unit or light; raises PlanConflictError where one is not what the person saw."""
    survey = _open(plan, space_id, day)
    now = {key: getattr(survey, key) for key in values}
    other = [key for key in values if key in was and str(now[key]) != str(was[key]) and now[key] != values[key]]
    if other:
        problems = [PlanProblem(path=key, message="this was changed meanwhile") for key in other]
        raise PlanConflictError(problems, {key: now[key] for key in other})
    LightSurvey.objects.filter(pk=survey.pk).update(**values)


@transaction.atomic
def strike_reading(plan: GrowPlan, space_id: str, number: int, struck: bool) -> None:
    """Let a reading of the newest survey count for nothing, or count again; it is kept in either case."""
    survey = _newest(plan, space_id)
    if survey is not None:
        survey.readings.filter(number=number).update(struck=struck)


@transaction.atomic
def begin_survey(plan: GrowPlan, space_id: str, day: dt.date) -> None:
    """Begin a new survey with the same meter; the one before is kept."""
    old = _newest(plan, space_id)
    if old is None or old.readings.exists():
        meter = {key: getattr(old, key) for key in _METER} if old else {}
        LightSurvey.objects.create(plan=plan, space_id=space_id, taken_on=day, state_id=_head(plan), **meter)


@transaction.atomic
def taken_as_set_now(plan: GrowPlan, space_id: str) -> None:
    """Say that the newest survey's readings were taken with the lamps as the plan has them now."""
    survey = _newest(plan, space_id)
    if survey is not None:
        LightSurvey.objects.filter(pk=survey.pk).update(state_id=_head(plan))


@transaction.atomic
def import_file(owner: Any, content: bytes) -> GrowPlan:
    """Keep a plan from a plan file with the facts beside it, once all of it could be read and computed."""
    plan, facts = loads_with_facts(content)
    row = actions.import_plan(owner, plan)
    keep_facts(row, facts)
    return row


def keep_facts(row: GrowPlan, facts: Facts) -> None:
    """Write facts beside a plan that is new."""
    for survey in facts.surveys:
        kept = LightSurvey.objects.create(plan=row, state_id=row.head_id, **survey.model_dump(exclude={"readings"}))
        LightReading.objects.bulk_create(
            LightReading(survey=kept, **reading.model_dump()) for reading in survey.readings
        )
    CareMark.objects.bulk_create(
        CareMark(plan=row, state_id=row.head_id, by_id=row.owner_id, **mark.model_dump()) for mark in facts.care
    )
    newest = {(mark.what, mark.key): mark for mark in sorted(facts.ticks, key=lambda mark: mark.written)}
    LogEntry.objects.bulk_create(
        LogEntry(plan=row, state_id=row.head_id, by_id=row.owner_id, **entry.model_dump()) for entry in facts.entries
    )
    Tick.objects.bulk_create(Tick(plan=row, by_id=row.owner_id, **mark.model_dump()) for mark in newest.values())


@transaction.atomic
def mark_care(plan: GrowPlan, mark: CareRecord, title: str, by: Any) -> None:
    """Write down what became of work; what was written for the same day before is struck, and kept."""
    same = CareMark.objects.filter(plan=plan, family=mark.family, due=mark.due, struck=False)
    same.update(struck=True)
    CareMark.objects.create(plan=plan, title=title[:200], by=by, state_id=_head(plan), **mark.model_dump())


@transaction.atomic
def strike_care(plan: GrowPlan, pk: int) -> None:
    """Let what was written of some work count for nothing: it was a slip."""
    CareMark.objects.filter(plan=plan, pk=pk).update(struck=True)


@transaction.atomic
def feed_of(plan: GrowPlan) -> CalendarFeed:
    """Give a plan's private calendar address, made when it is first asked for."""
    found, _ = CalendarFeed.objects.get_or_create(plan=plan, defaults={"token": _token()})
    return found


@transaction.atomic
def renew_feed(plan: GrowPlan) -> CalendarFeed:
    """Give a plan a new calendar address; the old one leads nowhere from now on."""
    found, _ = CalendarFeed.objects.update_or_create(plan=plan, defaults={"token": _token()})
    return found


@transaction.atomic
def tick(plan: GrowPlan, what: str, key: str, by: Any, *, at: dt.datetime | None = None, **values: Any) -> Tick:
    """Say of a line or step what is so; twice the same, from whatever device, is once.

    ``at`` is when a person said it, where it waited on their device: what somebody said later stands, but no note is
    lost.
    """
    now = timezone.now()
    said = min(at, now) if at is not None else now
    fresh = {"on": False, **values, "by": by, "written": said}
    found, new = Tick.objects.get_or_create(plan=plan, what=what, key=key[:200], defaults=fresh)
    if new:
        return found
    if said < found.written:
        values = _late_note(found, values)
        said, by = found.written, found.by
    for name, value in {**values, "by": by, "written": said}.items():
        setattr(found, name, value)
    found.save()
    return found


def _late_note(found: Tick, values: Mapping[str, Any]) -> dict[str, str]:
    """What of a late message is still news: its note, beside the one that stands."""
    note = str(values.get("note") or "")
    if not note or note in found.note:
        return {}
    return {"note": f"{note} / {found.note}"[:300] if found.note else note}


def _token() -> str:
    return secrets.token_urlsafe(32)
