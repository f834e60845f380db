"""Schedules as forms show them: hours a day, and so many minutes of every so many."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import TypeAdapter

from canopy.schedule import Always, Cycle, Daily, Schedule, WithLamps, day_hours
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


# When something runs: all day, bound to the lamps, or once a day as they go out.
RUNS = [
    ("", "all day"),
    ("lit", "with the lamps on"),
    ("dark", "with the lamps off"),
    ("lights-out", "once, at lights-out"),
]
_WHOLE_DAY_MIN = 1440.0


def runs_when(schedule: Mapping[str, Any]) -> str:
    """Say which of the choices a schedule is."""
    when = schedule.get("when") or ""
    once = schedule.get("kind") == "cycle" and schedule.get("every_min") == _WHOLE_DAY_MIN
    return "lights-out" if once and when == "dark" else when


class CycledForm(PartForm):
    """What may run so many minutes of every so many, all day or with the lamps on or off."""

    together = (("on_min", "every_min", "runs"),)

    def __init__(
        self, record: Mapping[str, Any], data: Any = None, *, shown: Mapping[str, Any] | None = None, **more: Any
    ) -> None:
        cycle = record.get("schedule") or {}
        when = runs_when(cycle)
        minutes = {key: cycle.get(key) for key in ("on_min", "every_min")}
        if when == "lights-out":
            minutes["every_min"] = None
        super().__init__(record, data, shown={**minutes, "runs": when, **(shown or {})}, **more)

    def clean(self) -> dict[str, Any]:
        """A cycle has both figures, and runs no longer than it lasts; once a day it needs only how long."""
        got: dict[str, Any] = super().clean() or {}
        on, every = got.get("on_min"), got.get("every_min")
        if self.errors:
            return got
        if got.get("runs") == "lights-out":
            if on is None:
                self.add_error("on_min", "say for how many minutes it runs as the lamps go out")
            return got
        if (on is None) != (every is None):
            self.add_error(
                "every_min" if every is None else "on_min", "a cycle needs both: so many minutes of every so many"
            )
        elif on is not None and every is not None and on > every:
            self.add_error("on_min", f"it cannot run {on:g} of every {every:g} minutes")
        return got

    def changes(self) -> dict[str, Any]:
        """Minutes become a cycle within the same hours as before; none of them, all the time or with the lamps."""
        out = super().changes()
        if not {"on_min", "every_min", "runs"} & set(out):
            return out
        on, every, runs = (out.pop(key, self.cleaned_data.get(key)) for key in ("on_min", "every_min", "runs"))
        old = self.record.get("schedule") or {}
        when = ("dark" if runs == "lights-out" else runs) or None
        if runs == "lights-out":
            out["schedule"] = Cycle(on_min=on, every_min=_WHOLE_DAY_MIN, when="dark").model_dump(mode="json")
        elif on is None or every is None:
            out["schedule"] = (WithLamps(when=when) if when else Always()).model_dump(mode="json")
        else:
            kept = old if old.get("kind") == "cycle" else Cycle(on_min=on, every_min=every).model_dump(mode="json")
            out["schedule"] = {**kept, "on_min": on, "every_min": every, "when": when}
        return out

    def sources(self) -> Mapping[str, str]:
        """The cycle's figures stand for the schedule."""
        return {"schedule": "on_min"}
