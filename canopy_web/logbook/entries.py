"""What is written down in the log, corrected and struck: once, however often it is sent."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from typing import Any

from django.db import transaction
from django.utils import timezone

from canopy.logs.entries import Entry, read_data
from canopy_web.logbook.models import LogEntry
from canopy_web.planning.models import GrowPlan


@transaction.atomic
def write(plan: GrowPlan, entry: Entry, by: Any) -> LogEntry:
    """Write an entry down; one with a key that is there already changes nothing. Raises PlanError."""
    data = read_data(entry.kind, entry.data).model_dump(mode="json", exclude_defaults=True)
    head = GrowPlan.objects.values_list("head_id", flat=True).get(pk=plan.pk)
    found, new = LogEntry.objects.get_or_create(
        plan=plan,
        key=entry.key,
        defaults={
            "space_id": entry.space_id,
            "kind": entry.kind,
            "at": min(entry.at, timezone.now() + dt.timedelta(minutes=5)),
            "data": data,
            "plants": list(entry.plants),
            "note": entry.note,
            "corrects": entry.corrects,
            "by": by,
            "state_id": head,
        },
    )
    if new and entry.corrects:
        LogEntry.objects.filter(plan=plan, key=entry.corrects).update(struck=True)
    return found


def strike(plan: GrowPlan, key: str, *, struck: bool) -> None:
    """Let an entry count for nothing, or count again; it is kept either way."""
    LogEntry.objects.filter(plan=plan, key=key).update(struck=struck)


def entries_of(plan: GrowPlan, space_ids: Iterable[str]) -> tuple[Entry, ...]:
    """The log of some spaces as the core reads it, the oldest first."""
    rows = LogEntry.objects.filter(plan=plan, space_id__in=list(space_ids)).order_by("at", "pk")
    return tuple(entry_record(row) for row in rows)


def entry_record(row: LogEntry) -> Entry:
    """An entry as the core reads it."""
    return Entry(
        key=row.key,
        space_id=row.space_id,
        kind=row.kind,
        at=row.at,
        data=row.data,
        plants=tuple(row.plants),
        note=row.note,
        struck=row.struck,
        corrects=row.corrects,
    )


def last_of(plan: GrowPlan, space_id: str) -> dict[str, LogEntry]:
    """The last entry of each kind in a space that was not struck."""
    found: dict[str, LogEntry] = {}
    for row in LogEntry.objects.filter(plan=plan, space_id=space_id, struck=False)[:200]:
        found.setdefault(row.kind, row)
    return found
