"""What a sensor showed last, as a person reads it, and how old that is."""

from __future__ import annotations

import datetime as dt

from canopy.logs.measured import measured
from canopy.margin import Amount
from canopy.words import counted
from canopy_web.logbook.models import Sensor

# After so long nothing is taken for what is so now [s].
OLD_S = 2 * 3600
_UNITS = {"°C": "temperature", "L": "volume"}


def last_shown(sensor: Sensor, last: tuple[int, float] | None, now: dt.datetime, system: str) -> dict[str, object]:
    """Say what a sensor showed last: its text, how old it is, and whether that is too old to count."""
    if last is None:
        return {"text": "nothing yet", "age": "", "old": True}
    item, (at, value) = measured(sensor.quantity), last
    age = max(0, int(now.timestamp()) - at)
    unit = _UNITS.get(item.unit)
    text = Amount(value=value, unit=unit).text(system) if unit else f"{value:.{item.decimals}f} {item.unit}".strip()
    return {"text": text, "age": age_text(age), "old": age > OLD_S}


def age_text(seconds: int) -> str:
    """Say how long ago something was."""
    if seconds < 90:
        return "just now"
    for size, name in ((86400, "day"), (3600, "hour"), (60, "minute")):
        if seconds >= size:
            return f"{counted(seconds // size, name)} ago"
    return "just now"
