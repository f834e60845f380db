"""A fan against its path: a curve for every speed step, the system's curve, and where they meet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, log10

from canopy.air.operating import Curve, OperatingPoint
from canopy.margin import Amount
from canopy.quantities import FLOW, PRESSURE, convert, number

WIDTH, HEIGHT = 430.0, 250.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 46.0, 14.0, 22.0, 34.0


@dataclass(frozen=True, kw_only=True)
class Tick:
    """A tick of an axis: where it stands, and its figure."""

    at: float
    text: str


@dataclass(frozen=True, kw_only=True)
class ChartLine:
    """A curve with its name at its beginning."""

    path: str
    text: str
    tx: float
    ty: float
    now: bool = False


@dataclass(frozen=True, kw_only=True)
class ChartPoint:
    """Where a fan's curve meets the system's."""

    x: float
    y: float
    title: str
    now: bool
    stalls: bool


@dataclass(frozen=True, kw_only=True)
class FanChart:
    """The chart, in drawing units."""

    width: float
    height: float
    left: float
    right: float
    top: float
    bottom: float
    fans: tuple[ChartLine, ...]
    system: str
    points: tuple[ChartPoint, ...]
    need_x: float | None
    across: tuple[Tick, ...]
    up: tuple[Tick, ...]
    flow_unit: str
    pressure_unit: str
    label: str


def _round_up(value: float, parts: int) -> float:
    """A step that is easy to read: 1, 2 or 5 times a power of ten."""
    rough = value / parts
    power = 10 ** (ceil(log10(rough)) - 1) if rough > 0 else 1.0
    return next(power * factor for factor in (1, 2, 5, 10) if power * factor >= rough - 1e-12)


def fan_chart(
    fans: Sequence[Curve],
    system_curve: Curve,
    points: Sequence[OperatingPoint],
    now: float,
    need_m3_h: float | None,
    system: str,
) -> FanChart:
    """Draw fan curves against a system curve; ``now`` is the speed that is set."""
    flow_to, pressure_to = (FLOW.us, PRESSURE.us) if system == "us" else (FLOW.metric, PRESSURE.metric)

    def flow(value: float) -> float:
        return convert(value, FLOW.unit, flow_to.unit)

    def pressure(value: float) -> float:
        return convert(value, PRESSURE.unit, pressure_to.unit)

    most_q = flow(max((q for curve in fans for q, _ in curve.points), default=1.0))
    most_p = pressure(max((p for curve in fans for _, p in curve.points), default=1.0)) * 1.05
    right, bottom = WIDTH - _RIGHT, HEIGHT - _BOTTOM

    def at(q: float, p: float) -> tuple[float, float]:
        return _LEFT + flow(q) / most_q * (right - _LEFT), bottom - pressure(p) / most_p * (bottom - _TOP)

    def path(curve: Curve) -> str:
        # A path that asks for more than any fan here has leaves the picture where it crosses its upper edge.
        kept: list[tuple[float, float]] = []
        for q, p in curve.points:
            if pressure(p) > most_p:
                if kept:
                    q0, p0 = kept[-1]
                    edge = convert(most_p, pressure_to.unit, PRESSURE.unit)
                    kept.append((q0 + (q - q0) * (edge - p0) / (p - p0), edge))
                break
            kept.append((q, max(p, 0.0)))
        return "M" + "L".join("{:.1f} {:.1f}".format(*at(q, p)) for q, p in kept) if kept else ""

    lines = []
    for curve in fans:
        x, y = at(*curve.points[0])
        share = f"{100 * (curve.speed or 0):.0f} %"
        lines.append(
            ChartLine(path=path(curve), text=share, tx=round(x + 4, 1), ty=round(y - 3, 1), now=curve.speed == now)
        )
    marks = [
        ChartPoint(
            x=round(at(point.flow_m3_h, 0)[0], 1),
            y=round(at(0, max(point.lift_pa, 0.0))[1], 1),
            now=point.speed == now,
            stalls=point.stalls,
            title=f"{100 * point.speed:.0f} %: {Amount(value=point.flow_m3_h, unit='airflow').text(system)} at "
            f"{Amount(value=point.lift_pa, unit='pressure').text(system)}",
        )
        for point in points
        if point.flow_m3_h >= 0
    ]
    step_q, step_p = _round_up(most_q, 6), _round_up(most_p, 5)
    across = tuple(
        Tick(at=round(_LEFT + k * step_q / most_q * (right - _LEFT), 1), text=number(k * step_q, 0))
        for k in range(int(most_q / step_q + 1e-9) + 1)
    )
    decimals = 0 if step_p >= 1 else 2
    up = tuple(
        Tick(at=round(bottom - k * step_p / most_p * (bottom - _TOP), 1), text=number(k * step_p, decimals))
        for k in range(int(most_p / step_p + 1e-9) + 1)
    )
    best = next((mark for mark in marks if mark.now), None)
    need = at(need_m3_h, 0)[0] if need_m3_h and flow(need_m3_h) <= most_q else None
    return FanChart(
        width=WIDTH,
        height=HEIGHT,
        left=_LEFT,
        right=right,
        top=_TOP,
        bottom=bottom,
        fans=tuple(lines),
        system=path(system_curve),
        points=tuple(marks),
        need_x=round(need, 1) if need is not None else None,
        across=across,
        up=up,
        flow_unit=flow_to.symbol,
        pressure_unit=pressure_to.symbol,
        label="Fan curves against the system's curve" + (f"; as set they meet at {best.title}" if best else ""),
    )
