"""The tab of traces: what sensors showed, over the crops' windows and the simulated day; and as a table."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from django.http import HttpRequest, JsonResponse, StreamingHttpResponse
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_GET
from numpy.typing import NDArray

from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.logs.daily import by_day, by_hour, offsets_s
from canopy.logs.measured import SHOWN, measured
from canopy.logs.moist import dew_c, vpd_kpa
from canopy.schedule import shares_of
from canopy_web.logbook.models import LogEntry, Sensor
from canopy_web.logbook.readings import SPANS, Series, bounds_of, coarser, sensors_of, series_of
from canopy_web.logbook.taken import reading_lines
from canopy_web.logbook.watch import lit_at, lit_minutes
from canopy_web.stations.log.writing import says
from canopy_web.workspace.where import Where, at_space

_SPANS = {"day": 86400, "week": 7 * 86400, "month": 31 * 86400, "year": 366 * 86400}
_NAMES = {"day": "a day", "week": "a week", "month": "a month", "year": "a year"}
# The year at a glance: these, and VPD.
_GLANCED = ("air_c", "rh_pct", "co2_ppm", "ppfd", "root_c", "power_w")
# A plug that draws so much of its most is on; a run is told in steps of so long.
_RUNS_SHARE, _RUNS_W, _RUN_S = 0.15, 1.5, 300
_DAYS_TOLD = 31
_YEAR_S = 6 * 3600
# Which window of a crop is asked for a quantity by day and by night.
_WANTS = {
    "air_c": ("air_day_c", "air_night_c"),
    "rh_pct": ("rh_pct", "rh_pct"),
    "root_c": ("root_c", "root_c"),
    "vpd_kpa": ("vpd_kpa", ""),
}
_SIMULATED = {"air_c": "air_c", "rh_pct": "rh_pct", "root_c": "root_c", "vpd_kpa": "vpd_kpa", "co2_ppm": "co2_ppm"}
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class _Stretch:
    """The time that is shown: from a second of UTC to another, and how it is called."""

    begin: int
    end: int
    name: str


def _stretch(where: Where, sensors: Sequence[Sensor]) -> _Stretch:
    """What is asked for, else the last day of readings."""
    name = where.look.more.get("span", "")
    name = name if name in _SPANS else "day"
    bounds = bounds_of(sensors)
    last = bounds[1] if bounds else int(timezone.now().timestamp())
    try:
        end = int(where.look.more.get("until", ""))
    except ValueError:
        end = last
    end = min(max(end, 0), 2**34)
    return _Stretch(end - _SPANS[name], end, name)


def traces_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    sensors = sensors_of(where.row, where.space.id)
    if not sensors:
        return {"no_sensors": True}
    stretch, zone = _stretch(where, sensors), where.zone
    long = stretch.end - stretch.begin
    rows = []
    for sensor in sensors:
        found = series_of(sensor, stretch.begin, stretch.end)
        days = by_day(found.at, found.low, found.mean, found.high, zone)
        if days:
            item = measured(sensor.quantity)
            rows.append((sensor, _symbol(item.unit, where.system), [_day(day, item, where.system) for day in days]))
    return {
        "spans": [(key, _NAMES[key], key == stretch.name) for key in _SPANS],
        "span": stretch.name,
        "earlier": stretch.end - long,
        "later": stretch.end + long,
        "shown_from": dt.datetime.fromtimestamp(stretch.begin, zone),
        "shown_to": dt.datetime.fromtimestamp(stretch.end, zone),
        "until": stretch.end,
        "day_tables": [(sensor, unit, days[-_DAYS_TOLD:], len(days)) for sensor, unit, days in rows],
    }


def _day(day: Any, item: Any, system: str) -> dict[str, Any]:
    def text(value: float) -> str:
        return f"{float(_read(np.array(value), item.unit, system)):.{item.decimals}f}"

    return {"day": day.day, "low": text(day.low), "mean": text(day.mean), "high": text(day.high)}


def _read(values: Floats, unit: str, system: str) -> Floats:
    """Values as the person reads them."""
    if system == "us" and unit == "°C":
        return values * 1.8 + 32
    return values / 3.785411784 if system == "us" and unit == "L" else values


def _symbol(unit: str, system: str) -> str:
    return {"°C": "°F", "L": "gal"}.get(unit, unit) if system == "us" else unit


@require_GET
@at_space
def series(request: HttpRequest, where: Where) -> JsonResponse:
    """Give what the chart draws: a panel a quantity, with bands, the simulated day, dark hours and events."""
    sensors = sensors_of(where.row, where.space.id)
    stretch = _stretch(_asked(request, where), sensors)
    zone = where.zone
    try:
        report: SpaceReport | None = where.followed
    except EvaluationError:
        report = None
    found = [series_of(sensor, stretch.begin, stretch.end) for sensor in sensors]
    if stretch.name == "year":
        # More points than a screen has across say nothing more.
        found = [coarser(item, _YEAR_S) for item in found]
    panels = [
        _panel(where, report, measured(key).name, key, measured(key).unit, mine, zone)
        for key in SHOWN
        if (mine := [item for item in found if item.sensor.quantity == key and item.at.size])
    ]
    for key, name, unit, made in _derived(found):
        panels.append(_panel(where, report, name, key, unit, made, zone))
    return JsonResponse(
        {
            "zone": str(zone),
            "begin": stretch.begin,
            "end": stretch.end,
            "panels": panels,
            "dark": _dark(where, stretch, zone) if stretch.name in ("day", "week") else [],
            "runs": _runs(where, found, stretch, zone) if stretch.name in ("day", "week") else [],
            "events": _events(where, stretch),
        }
    )


def _asked(request: HttpRequest, where: Where) -> Where:
    """The time that a fragment's own address asks for, whatever page it is on."""
    given = {key: request.GET[key] for key in ("span", "until") if key in request.GET}
    return replace(where, look=replace(where.look, more={**where.look.more, **given}))


def _panel(
    where: Where,
    report: SpaceReport | None,
    name: str,
    key: str,
    unit: str,
    found: Sequence[Series],
    zone: dt.tzinfo,
) -> dict[str, Any]:
    at = np.unique(np.concatenate([item.at for item in found]))
    local = ((at + offsets_s(at, zone)) % 86400) // 60
    decimals = measured(key).decimals if key in SHOWN else 2 if unit == "kPa" else 1

    def column(item: Series, values: Floats) -> list[float | None]:
        out = np.full(at.size, np.nan)
        out[np.searchsorted(at, item.at)] = _read(values, unit, where.system)
        return _listed(out)

    return {
        "key": key,
        "name": name,
        "unit": _symbol(unit, where.system),
        "decimals": decimals,
        "at": at.tolist(),
        "lines": [
            {
                "name": item.sensor.name,
                "mean": column(item, item.mean),
                **({"low": column(item, item.low), "high": column(item, item.high)} if item.span_s else {}),
            }
            for item in found
        ],
        "band": _band(where, report, key, unit, local),
        "plan": _simulated(report, key, unit, local, where.system),
    }


def _derived(found: Sequence[Series]) -> Iterator[tuple[str, str, str, list[Series]]]:
    """VPD and dew point of the first pair of temperature and humidity that were read together."""
    air = next((item for item in found if item.sensor.quantity == "air_c" and item.at.size), None)
    damp = next((item for item in found if item.sensor.quantity == "rh_pct" and item.at.size), None)
    if air is None or damp is None:
        return
    both, one, two = np.intersect1d(air.at, damp.at, return_indices=True)
    if both.size == 0:
        return
    for key, name, unit, make in (
        ("vpd_kpa", "VPD, from air and humidity", "kPa", vpd_kpa),
        ("dew_c", "Dew point", "°C", dew_c),
    ):
        values = make(air.mean[one], damp.mean[two])
        yield key, name, unit, [Series(sensor=air.sensor, span_s=0, at=both, low=values, mean=values, high=values)]


def _band(
    where: Where, report: SpaceReport | None, key: str, unit: str, local: NDArray[np.int64]
) -> dict[str, list[float]] | None:
    """What all crops there share of what they want, by day and by night; None where they share nothing."""
    if report is None or key not in _WANTS or not report.here.plants:
        return None
    sides = []
    for figure in _WANTS[key]:
        windows = [getattr(plant.want, figure) for plant in report.here.plants] if figure else []
        low = max((window.low for window in windows), default=float("nan"))
        high = min((window.high for window in windows), default=float("nan"))
        sides.append((low, high) if low <= high else (float("nan"), float("nan")))
    lit = lit_minutes(where.space)[local]
    low = np.where(lit, sides[0][0], sides[1][0])
    high = np.where(lit, sides[0][1], sides[1][1])
    if not np.isfinite(low).any():
        return None
    return {"low": _listed(_read(low, unit, where.system)), "high": _listed(_read(high, unit, where.system))}


def _simulated(
    report: SpaceReport | None, key: str, unit: str, local: NDArray[np.int64], system: str
) -> list[float | None] | None:
    """The simulated day, repeated."""
    climate = report.climate if report is not None else None
    if climate is None or climate.overheats_s is not None or key not in _SIMULATED:
        return None
    values = getattr(climate.traces, _SIMULATED[key], None)
    if values is None:
        return None
    day = np.asarray(values[climate.last], dtype=float)
    places = (local * day.size // 1440).astype(int)
    return _listed(_read(day[np.minimum(places, day.size - 1)], unit, system))


def _listed(values: Floats) -> list[Any]:
    return [value if value == value else None for value in np.round(values, 3).tolist()]


@require_GET
@at_space
def glance(request: HttpRequest, where: Where) -> JsonResponse:
    """Give a year at a glance: for each quantity a row a day, an hour a column."""
    sensors = [sensor for sensor in sensors_of(where.row, where.space.id) if sensor.place == "space"]
    bounds = bounds_of(sensors)
    if bounds is None:
        return JsonResponse({"grids": []})
    end, zone = bounds[1], where.zone
    first = {key: next((item for item in sensors if item.quantity == key), None) for key in _GLANCED}
    begin = end - _SPANS["year"]
    found = {key: series_of(item, begin, end, SPANS[1]) for key, item in first.items() if item is not None}
    grids = [
        _grid(item.sensor.name, measured(key), item.at, item.mean, zone, where.system)
        for key, item in found.items()
        if item.at.size
    ]
    for key, name, unit, made in _derived(list(found.values())):
        if key == "vpd_kpa":
            day, grid = by_hour(made[0].at, made[0].mean, zone)
            grids.append(_told(name, unit, 2, day, grid))
    return JsonResponse({"grids": grids})


def _grid(name: str, item: Any, at: Any, mean: Floats, zone: dt.tzinfo, system: str) -> dict[str, Any]:
    day, grid = by_hour(at, mean, zone)
    return _told(name, _symbol(item.unit, system), item.decimals, day, _read(grid, item.unit, system))


def _told(name: str, unit: str, decimals: int, day: dt.date | None, grid: Floats) -> dict[str, Any]:
    seen = grid[np.isfinite(grid)]
    # One odd hour does not fade all the others.
    low, high = (float(np.percentile(seen, share)) for share in (1, 99)) if seen.size else (0.0, 1.0)
    return {
        "name": name,
        "unit": unit,
        "decimals": decimals,
        "first": day.isoformat() if day else "",
        "low": round(low, decimals),
        "high": round(high, decimals),
        "rows": [_listed(row) for row in grid],
    }


def _runs(where: Where, found: Sequence[Series], stretch: _Stretch, zone: dt.tzinfo) -> list[dict[str, Any]]:
    """What ran when: by the plan's clocks, and by what plugs drew."""
    at = np.arange(stretch.begin // _RUN_S * _RUN_S, stretch.end, _RUN_S, dtype=np.int64)
    local = ((at + offsets_s(at, zone)) % 86400) // 60
    lanes = [("Lamps, by plan", _spans(at, lit_at(where.space, at, zone)))]
    clocked: list[Any] = [*where.space.devices, *where.space.stirrers]
    for device in clocked:
        shares = shares_of(device.schedule, 1440, 1.0, where.space.lit)
        if 0 < float(shares.mean()) < 1 and getattr(device, "enabled", True):
            lanes.append((f"{device.spec.name}, by plan", _spans(at, shares[local] > 0.5)))
    for series in found:
        if series.sensor.quantity == "power_w" and series.at.size:
            on = series.mean > max(_RUNS_W, _RUNS_SHARE * float(series.high.max()))
            step = max(_RUN_S, series.span_s)
            lanes.append((f"{series.sensor.name}, measured", _spans(series.at, on, step)))
    return [{"name": name, "spans": spans} for name, spans in lanes if spans]


def _spans(at: NDArray[np.int64], on: NDArray[np.bool_], step_s: int = _RUN_S) -> list[tuple[int, int]]:
    """From when until when something was so; where nothing was read for long it is not known to be."""
    if not on.any():
        return []
    apart = np.flatnonzero(np.diff(at) > 4 * step_s) + 1
    found = []
    for part in np.split(np.arange(at.size), apart):
        edges = np.flatnonzero(np.diff(on[part].astype(int), prepend=0, append=0))
        for a, b in zip(edges[::2], edges[1::2], strict=True):
            last = part[b] if b < part.size else part[-1]
            found.append((int(at[part[a]]), int(at[last]) + (step_s if b == part.size else 0)))
    return found


def _dark(where: Where, stretch: _Stretch, zone: dt.tzinfo) -> list[tuple[int, int]]:
    """When all lamps are out, in seconds of UTC."""
    at = np.arange(stretch.begin, stretch.end, 300, dtype=np.int64)
    dark = ~lit_at(where.space, at, zone)
    if dark.all() or not dark.any():
        return []
    edges = np.flatnonzero(np.diff(dark.astype(int), prepend=0, append=0))
    return [(int(at[a]), int(at[min(b, at.size - 1)])) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _events(where: Where, stretch: _Stretch) -> list[dict[str, Any]]:
    begin, end = (dt.datetime.fromtimestamp(second, dt.UTC) for second in (stretch.begin, stretch.end))
    rows = LogEntry.objects.filter(plan=where.row, space_id=where.space.id, struck=False, at__gte=begin, at__lt=end)
    return [
        {
            "at": int(row.at.timestamp()),
            "words": ": ".join(filter(None, [row.kind, says(row, where.system) or row.note])),
        }
        for row in rows[:200]
    ]


@require_GET
@at_space  # type: ignore[arg-type]  # Django's streaming answer is no HttpResponse by its types.
def as_csv(request: HttpRequest, where: Where) -> StreamingHttpResponse:
    """Give all readings of the time that is shown as a table, in the units in which they are kept."""
    sensors = sensors_of(where.row, where.space.id)
    stretch = _stretch(_asked(request, where), sensors)
    lines = reading_lines(where.row, sensors, (stretch.begin, stretch.end))
    response = StreamingHttpResponse(lines, content_type="text/csv; charset=utf-8")
    name = slugify(f"{where.space.name} readings") or "readings"
    response["Content-Disposition"] = f'attachment; filename="{name}.csv"'
    return response
