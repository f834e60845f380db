"""What the tables hold of a space, laid out for the core to learn from."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from canopy.plan import Plan, Space
from canopy.review.living import Asked
from canopy.review.playback import FAN, LAMPS, on_share
from canopy.review.series import Series, laid_out
from canopy_web.logbook.models import ProbeCheck, Reading, Sensor
from canopy_web.planning.models import GrowPlan

# So far back one looks, and what teaches [d].
LOOKS_BACK_D = 30
_QUANTITIES = ("air_c", "rh_pct", "co2_ppm", "root_c", "ppfd", "power_w")
NOTHING = "none"
# Words in a meter's name that say what its plug feeds.
_WORDS = {FAN: ("fan", "exhaust", "vent"), LAMPS: ("lamp", "light", "led")}


@dataclass(frozen=True, kw_only=True)
class Learnable:
    """A space's log as the core asks for it, with the series of all spaces for what may be mixed up between them."""

    asked: Asked
    series: tuple[Series, ...]
    others: tuple[Series, ...]
    newest: int


def fed_by(sensor: Sensor, space: Space) -> str:
    """What a power meter's plug feeds: as somebody said, else by its name; "" where that is not known."""
    if sensor.quantity != "power_w" or sensor.feeds == NOTHING:
        return ""
    if sensor.feeds:
        return sensor.feeds
    name = sensor.name.casefold()
    for device in space.devices:
        if device.id in name or device.spec.name.casefold() in name:
            return device.id
    return next((key for key, words in _WORDS.items() if any(word in name for word in words)), "")


def feeds_choices(space: Space) -> list[tuple[str, str]]:
    """What a plug of a space may feed."""
    found = [("", "by its name"), (FAN, "its fans"), (LAMPS, "its lamps")]
    found += [(device.id, device.spec.name) for device in space.devices]
    return [*found, (NOTHING, "nothing of it")]


def sensors_around(row: GrowPlan, plan: Plan, space: Space) -> list[Sensor]:
    """The sensors of a space, and those that hang in its room, whichever space they were entered at."""
    same = [other.id for other in plan.spaces if other.room_id == space.room_id]
    found = Sensor.objects.filter(plan=row, space_id__in=same, quantity__in=_QUANTITIES, struck=False)
    return [sensor for sensor in found if sensor.space_id == space.id or sensor.place == "room"]


def newest_reading(sensors: Sequence[Sensor]) -> int:
    """The second of UTC of the newest reading of some sensors; 0 without any."""
    found = Reading.objects.filter(sensor__in=sensors).order_by("-at").values_list("at", flat=True).first()
    return int(found or 0)


def series_between(sensor: Sensor, begins: int, ends: int, feeds: str = "") -> Series:
    """A sensor's readings between two seconds, less what a test showed it to be off by."""
    rows = Reading.objects.filter(sensor=sensor, at__gte=begins, at__lt=ends).order_by("at").values_list("at", "value")
    table = np.array(rows, dtype=np.float64).reshape(-1, 2)
    return Series(
        name=sensor.name,
        quantity=sensor.quantity,
        at=table[:, 0].astype(np.int64),
        value=table[:, 1] - off_by(sensor),
        place=sensor.place,
        feeds=feeds,
        space_id=sensor.space_id,
    )


def off_by(sensor: Sensor) -> float:
    """By how much a probe shows too much, by its newest check; 0 without one."""
    last = ProbeCheck.objects.filter(sensor=sensor, struck=False).first()
    return last.showed - last.true if last is not None else 0.0


def midnights_of(zone: dt.tzinfo, first: dt.date, days: int) -> dict[dt.date, int]:
    """The first second of UTC of each day by the household's clock."""
    found = (first + dt.timedelta(days=k) for k in range(days))
    return {day: int(dt.datetime.combine(day, dt.time(), zone).timestamp()) for day in found}


def learnable(row: GrowPlan, plan: Plan, space: Space, zone: dt.tzinfo, days: int = LOOKS_BACK_D) -> Learnable | None:
    """Gather what was measured of a space in the last days; None where nothing was."""
    sensors = sensors_around(row, plan, space)
    newest = newest_reading(sensors)
    if not newest:
        return None
    last = dt.datetime.fromtimestamp(newest, zone).date()
    first = last - dt.timedelta(days=days - 1)
    midnights = midnights_of(zone, first, days)
    begins = midnights[first]
    ends = begins - (begins - newest) // 300 * 300 + 300
    series = tuple(series_between(sensor, begins, ends, fed_by(sensor, space)) for sensor in sensors)
    grid = laid_out(series, begins, ends)
    elsewhere = Sensor.objects.filter(plan=row, quantity__in=("air_c", "rh_pct"), place="space", struck=False)
    others = tuple(series_between(other, begins, ends) for other in elsewhere.exclude(space_id=space.id))
    return Learnable(
        asked=Asked(plan=plan, space=space, grid=grid, midnights=midnights),
        series=tuple(item for item in series if len(item.at)),
        others=tuple(item for item in others if len(item.at)),
        newest=newest,
    )


def recent_means(
    row: GrowPlan, plan: Plan, space: Space, zone: dt.tzinfo, days: int = 3
) -> dict[str, tuple[float | None, float | None]]:
    """Means of what was measured in the last days, by quantity: with lamps on and off; None where it was not."""
    found = learnable(row, plan, space, zone, days)
    if found is None:
        return {}
    grid = found.asked.grid
    if LAMPS in grid.watts and on_share(grid.watts[LAMPS])[1] > 0:
        lit = on_share(grid.watts[LAMPS])[0] > 0.5
    else:
        first = min(found.asked.midnights.values())
        minutes = ((grid.begins - first) / 60 + (np.arange(grid.steps) + 0.5) * grid.every_s / 60) % 1440
        lit = np.zeros(grid.steps, dtype=bool)
        for span in space.lit:
            lit |= (minutes >= span.start_min) & (minutes < span.end_min)
    return {
        key: (_mean_where(value, lit), _mean_where(value, ~lit))
        for key, value in grid.inside.items()
        if key in ("air_c", "rh_pct", "co2_ppm", "root_c")
    }


def _mean_where(value: np.ndarray, which: np.ndarray) -> float | None:
    use = which & np.isfinite(value)
    return float(value[use].mean()) if use.sum() >= 12 else None
