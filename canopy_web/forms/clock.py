"""Schedules as forms show them: hours a day, and so many minutes of every so many."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import TypeAdapter

from canopy.schedule import Always, Cycle, Daily, Schedule, day_hours
from canopy_web.forms.part import PartForm

_SCHEDULE: TypeAdapter[Any] = TypeAdapter(Schedule)


def schedule_of(record: Mapping[str, Any]) -> Any:
    """Read a record's schedule."""
    return _SCHEDULE.validate_python(record["schedule"])


def hours_of(record: Mapping[str, Any]) -> float:
    """Give how long a record's thing runs in a day [h]."""
    found = schedule_of(record)
    return float(found.hours) if isinstance(found, Daily) else day_hours(found)


def hours_changed(record: Mapping[str, Any], changes: dict[str, Any], name: str) -> dict[str, Any]:
    """Turn hours a day into a schedule: when it begins stays as it is."""
    if name in changes:
        hours, old = changes.pop(name), schedule_of(record)
        if isinstance(old, Daily):
            changes["schedule.hours"] = hours
        else:
            fresh = Always() if hours == 24 else Daily(hours=hours)
            changes["schedule"] = fresh.model_dump(mode="json")
    return changes


class CycledForm(PartForm):
    """What may run so many minutes of every so many."""

    def __init__(
        self, record: Mapping[str, Any], data: Any = None, *, shown: Mapping[str, Any] | None = None, **more: Any
    ) -> None:
        cycle = record.get("schedule") or {}
        minutes = {key: cycle.get(key) for key in ("on_min", "every_min")}
        super().__init__(record, data, shown={**minutes, **(shown or {})}, **more)

    def clean(self) -> dict[str, Any]:
        """A cycle has both figures, and runs no longer than it lasts."""
        got: dict[str, Any] = super().clean() or {}
        on, every = got.get("on_min"), got.get("every_min")
        if not self.errors:
            if (on is None) != (every is None):
                self.add_error(
                    "every_min" if every is None else "on_min", "a cycle needs both: so many minutes of every so many"
                )
            elif on is not None and every is not None and on > every:
                self.add_error("on_min", f"it cannot run {on:g} of every {every:g} minutes")
        return got

    def changes(self) -> dict[str, Any]:
        """Minutes become a cycle within the same hours as before; none of them, all the time."""
        out = super().changes()
        if "on_min" in out or "every_min" in out:
            on, every = (out.pop(key, self.cleaned_data.get(key)) for key in ("on_min", "every_min"))
            if on is None or every is None:
                out["schedule"] = Always().model_dump(mode="json")
            else:
                old = self.record.get("schedule") or {}
                kept = old if old.get("kind") == "cycle" else Cycle(on_min=on, every_min=every).model_dump(mode="json")
                out["schedule"] = {**kept, "on_min": on, "every_min": every}
        return out

    def sources(self) -> Mapping[str, str]:
        """The cycle's figures stand for the schedule."""
        return {"schedule": "on_min"}
