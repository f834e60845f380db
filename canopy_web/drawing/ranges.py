"""A crop's windows as range bars, stage under stage, on one scale a quantity."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

from canopy.library import Crop, StageTargets, Window
from canopy.margin import Amount
from canopy.quantities import KINDS

WIDTH, LEFT, ROW = 300.0, 0.0, 17.0


@dataclass(frozen=True, kw_only=True)
class Bar:
    """One stage's window, and the limit where there is one (px)."""

    stage: str
    text: str
    x: float
    w: float
    y: float
    limit: float | None
    limit_text: str = ""


@dataclass(frozen=True, kw_only=True)
class RangeChart:
    """One quantity over all stages, from zero to the end of its scale."""

    title: str
    bars: tuple[Bar, ...]
    low: str
    high: str
    height: float


_QUANTITIES = (
    ("PPFD", "ppfd_umol_m2_s", "µmol/m²/s", 100.0),
    ("DLI", "dli_mol_m2_d", "mol/m²/d", 5.0),
    ("Hours of light", "photoperiod_h", "h", 24.0),
    ("Air by day", "air_day_c", "temperature", 10.0),
    ("Air by night", "air_night_c", "temperature", 10.0),
    ("Humidity", "rh_pct", "%", 100.0),
    ("VPD", "vpd_kpa", "kPa", 0.5),
    ("Root zone", "root_c", "temperature", 10.0),
    ("Air over the leaves", "air_speed_m_s", "m/s", 0.5),
    ("EC of the feed", "ec_ms_cm", "mS/cm", 1.0),
    ("pH of the feed", "ph", "pH", 7.0),
    ("Days", "days", "d", 50.0),
)


def _window(stage: StageTargets, field: str) -> Window | None:
    found: Window | None = getattr(stage, field)
    return found


def range_charts(crop: Crop, system: str) -> tuple[RangeChart, ...]:
    """Draw every quantity a crop has figures for."""
    charts = []
    for title, field, unit, step in _QUANTITIES:
        held = [(stage, window) for stage in crop.stages if (window := _window(stage, field))]
        if held:
            charts.append(_chart(title, field, unit, step, held, system))
    return tuple(charts)


def _chart(
    title: str, field: str, unit: str, step: float, held: list[tuple[StageTargets, Window]], system: str
) -> RangeChart:
    limited = field == "ppfd_umol_m2_s"
    most = max(stage.ppfd_limit_umol_m2_s if limited else window.high for stage, window in held)
    end = max(step, ceil(most / step) * step)
    per = WIDTH / end
    bars = []
    for number, (stage, window) in enumerate(held):
        limit = stage.ppfd_limit_umol_m2_s if limited else None
        bars.append(
            Bar(
                stage=stage.kind.replace("-", " "),
                x=round(LEFT + window.low * per, 1),
                y=number * ROW,
                w=round(max(2.0, (window.high - window.low) * per), 1),
                text=Amount(value=window.low, high=window.high, unit=unit if unit in KINDS else "").text(system),
                limit=None if limit is None else round(limit * per, 1),
                limit_text="" if limit is None else f"damage from about {limit:.0f}",
            )
        )
    display = KINDS[unit].us if unit in KINDS and system == "us" else None
    shown = display.symbol if display else KINDS[unit].metric.symbol if unit in KINDS else unit
    ends = [Amount(value=value, unit=unit if unit in KINDS else "").text(system) for value in (0.0, end)]
    return RangeChart(
        title=f"{title}, {shown}" if shown not in (title, "pH") else title,
        bars=tuple(bars),
        low=ends[0],
        high=ends[1],
        height=len(bars) * ROW,
    )
