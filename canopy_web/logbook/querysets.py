"""Reads of facts, as the core's records."""

from __future__ import annotations

from collections.abc import Iterable

from canopy.logs.facts import MOST_ENTRIES, Facts, TickMark
from canopy.logs.facts import CareMark as CareRecord
from canopy.logs.facts import LightReading as ReadingRecord
from canopy.logs.facts import LightSurvey as SurveyRecord
from canopy_web.logbook.entries import entries_of
from canopy_web.logbook.models import CareMark, LightSurvey, Tick
from canopy_web.planning.models import GrowPlan


def surveys_of(plan: GrowPlan, space_id: str) -> list[LightSurvey]:
    """The light surveys of a space, the newest last, with their readings."""
    return list(LightSurvey.objects.filter(plan=plan, space_id=space_id).prefetch_related("readings"))


def survey_record(row: LightSurvey) -> SurveyRecord:
    """A survey as the core reads it."""
    return SurveyRecord(
        space_id=row.space_id,
        taken_on=row.taken_on,
        unit=row.unit,
        source_id=row.source_id,
        cct_k=row.cct_k,
        readings=tuple(
            ReadingRecord(number=r.number, x_m=r.x_m, y_m=r.y_m, z_m=r.z_m, value=r.value, struck=r.struck)
            for r in row.readings.all()
        ),
    )


def facts_of(plan: GrowPlan, space_ids: Iterable[str]) -> Facts:
    """All that stands beside a plan's spaces, in the order in which it came."""
    ids = list(space_ids)
    rows = LightSurvey.objects.filter(plan=plan, space_id__in=ids).prefetch_related("readings")
    return Facts(
        surveys=tuple(survey_record(row) for row in rows),
        care=care_marks(plan, ids),
        ticks=ticks_of(plan, ids),
        entries=entries_of(plan, ids)[-MOST_ENTRIES:],
    )


def ticks_of(plan: GrowPlan, space_ids: Iterable[str]) -> tuple[TickMark, ...]:
    """What is ticked, paid and noted of a plan's kits and builds, in the order in which it was first said."""
    ids = set(space_ids)
    return tuple(
        TickMark(
            what=row.what,
            key=row.key,
            on=row.on,
            stamp=row.stamp,
            price=row.price,
            note=row.note,
            written=row.written,
        )
        for row in Tick.objects.filter(plan=plan)
        if row.key.partition(".")[0] in ids
    )


def care_marks(plan: GrowPlan, space_ids: Iterable[str]) -> tuple[CareRecord, ...]:
    """What became of the work of a plan's spaces, in the order in which it was written."""
    ids = set(space_ids)
    return tuple(_care_record(row) for row in CareMark.objects.filter(plan=plan) if row.family.partition(".")[0] in ids)


def care_marks_of(plans: Iterable[GrowPlan]) -> dict[int, list[CareRecord]]:
    """What became of the work of several plans, by their keys."""
    found: dict[int, list[CareRecord]] = {}
    for row in CareMark.objects.filter(plan__in=list(plans)):
        found.setdefault(row.plan_id, []).append(_care_record(row))
    return found


def _care_record(row: CareMark) -> CareRecord:
    return CareRecord(family=row.family, due=row.due, what=row.what, on=row.on, struck=row.struck)
