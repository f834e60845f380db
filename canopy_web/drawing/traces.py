"""A simulated day as lines over the hours: warmth, humidity, VPD, CO2, and what ran beneath; and as a path in the field
of warmth against humidity.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.climate.moist import saturation_pa
from canopy.evaluate.climate.days import Simulated
from canopy.library import Window
from canopy.margin import Amount
from canopy.quantities import TEMPERATURE, Reader, magnitude
from canopy.season import Growing

Array = NDArray[np.float64]
WIDTH, _LEFT, _RIGHT, _GAP, _TOP = 720.0, 52.0, 708.0, 36.0, 24.0
# How much height a line's name takes.
_NAME_PX = 12.0
# How high the mark of water on walls stands at the foot of a panel.
_WET_PX = 5.0


@dataclass(frozen=True, kw_only=True)
class Line:
    """A trace: its name, how it is drawn, its path, and where its name stands."""

    name: str
    style: str
    path: str
    tx: float
    ty: float


@dataclass(frozen=True, kw_only=True)
class Tick:
    """A mark on an axis."""

    at: float
    text: str


@dataclass(frozen=True, kw_only=True)
class Strip:
    """A stretch of a panel that is marked: a crop window's band, a night, water on the walls, a device that runs."""

    x: float
    y: float
    w: float
    h: float
    style: str
    title: str = ""


@dataclass(frozen=True, kw_only=True)
class Panel:
    """One quantity over the hours."""

    title: str
    unit: str
    top: float
    bottom: float
    ticks: tuple[Tick, ...]
    lines: tuple[Line, ...]
    strips: tuple[Strip, ...]


@dataclass(frozen=True, kw_only=True)
class Row:
    """A device beneath the traces: when it runs, and for what share of the day."""

    name: str
    y: float
    h: float
    share: str
    strips: tuple[Strip, ...]


@dataclass(frozen=True, kw_only=True)
class TraceSheet:
    """All panels of some hours, with the values that a pointer reads."""

    width: float
    height: float
    left: float
    right: float
    top: float
    bottom: float
    panels: tuple[Panel, ...]
    rows: tuple[Row, ...]
    hours: tuple[Tick, ...]
    values: str
    label: str


def _temperature(value: float, reader: Reader) -> float:
    return float(magnitude(value, TEMPERATURE, reader.system).replace("−", "-").replace("\u202f", "").replace(",", ""))


def shared_window(plants: Sequence[Growing], figure: str) -> Window | None:
    """Give what all crops share of a window.

    Parameters
    ----------
    plants : what grows there
    figure : such as "air_day_c"

    Returns
    -------
    Window : None without plants, or where they share nothing
    """
    found = [getattr(plant.want, figure) for plant in plants]
    if not found:
        return None
    low, high = max(w.low for w in found), min(w.high for w in found)
    return Window(low=low, high=high) if low <= high else None


class Layout:
    """Lays panels out one under the other over the same hours."""

    left, right, top = _LEFT, _RIGHT, _TOP

    def __init__(self, found: Simulated, reader: Reader, first_h: float, every_s: float = 600.0) -> None:
        self.found, self.reader = found, reader
        traces = found.traces
        self.first, self.last = first_h, float(traces.hours[-1] + found.days.every_s / 7200)
        rows = traces.hours > first_h
        # As means over ten minutes where nothing is hurried: finer than any eye, and light to send.
        size = max(1, round(every_s / found.days.every_s))
        self.step_h = size * found.days.every_s / 3600
        count = rows.sum() // size * size
        self.keep = np.flatnonzero(rows)[-count:].reshape(-1, size)
        self.hours = traces.hours[self.keep].mean(axis=1)
        self.y = _TOP
        # A stretch that is marked through all panels, from hour to hour.
        self.amiss: tuple[float, float] | None = None

    def values(self, name: str, other: Simulated | None = None) -> Array:
        return np.asarray(getattr((other or self.found).traces, name)[self.keep].mean(axis=1))

    def x(self, hour: float) -> float:
        return _LEFT + (hour - self.first) / (self.last - self.first) * (_RIGHT - _LEFT)

    def nights(self, top: float, height: float) -> list[Strip]:
        """Hours with lamps off, shaded."""
        return self.runs(self.values("lit") < 0.5, top, height, "night", "lamps off")

    def runs(self, on: NDArray[np.bool_], top: float, height: float, style: str, title: str) -> list[Strip]:
        """Stretches of the hours, marked."""
        edges = np.flatnonzero(np.diff(np.concatenate([[False], on, [False]]).astype(int)))
        half = self.step_h / 2
        strips = []
        for start, end in edges.reshape(-1, 2):
            x, to = self.x(self.hours[start] - half), self.x(self.hours[end - 1] + half)
            strips.append(
                Strip(x=round(x, 1), y=round(top, 1), w=round(to - x, 1), h=round(height, 1), style=style, title=title)
            )
        return strips

    def panel(
        self,
        title: str,
        unit: str,
        names: Sequence[tuple[str, str, str]],
        bands: Sequence[tuple[Window, str]],
        height: float,
        scale: tuple[float, float],
        *,
        kelvin: bool = False,
        limits: Sequence[tuple[float, str]] = (),
        beside: tuple[Simulated, str] | None = None,
        wet: NDArray[np.bool_] | None = None,
    ) -> Panel:
        """Lay out one quantity: (trace, name, style) lines over crops' bands; ``scale`` is at least what is shown.
        ``limits`` are values with their names, as lines across; ``beside`` is another run of the same hours with its
        name, whose first trace is drawn, too; ``wet`` marks hours with water on walls at the panel's foot.
        """
        top, bottom = self.y, self.y + height
        all_values = [self.values(name) for name, _, _ in names]
        if beside is not None:
            names = (*names, (names[0][0], beside[1], "beside"))
            all_values.append(self.values(names[0][0], beside[0]))
        low = min(scale[0], *(float(v.min()) for v in all_values), *(w.low for w, _ in bands))
        high = max(scale[1], *(float(v.max()) for v in all_values), *(w.high for w, _ in bands))
        marks = _marks(low, high)
        low, high = min(low, marks[0]), max(high, marks[-1])

        def place(value: float) -> float:
            return bottom - (value - low) / (high - low) * height

        strips = self.nights(top, height)
        if self.amiss is not None:
            begins, ends = (self.x(min(max(h, self.first), self.last)) for h in self.amiss)
            strips.append(
                Strip(x=round(begins, 1), y=top, w=round(ends - begins, 1), h=height, style="amiss", title="amiss")
            )
        for window, words in bands:
            strips.append(
                Strip(
                    x=_LEFT,
                    y=round(place(window.high), 1),
                    w=_RIGHT - _LEFT,
                    h=round(place(window.low) - place(window.high), 1),
                    style="band",
                    title=words,
                )
            )
        if wet is not None:
            strips += self.runs(wet, bottom - _WET_PX, _WET_PX, "wet", "water on the walls")
        lines: list[Line] = []
        # Names stand beside their lines' ends, the highest first, none over another.
        free = -np.inf
        for (_, words, style), values in sorted(
            zip(names, all_values, strict=True), key=lambda item: -float(item[1][-1])
        ):
            points = " ".join(f"{self.x(h):.1f},{place(v):.1f}" for h, v in zip(self.hours, values, strict=True))
            ty = max(place(float(values[-1])), free)
            free = ty + _NAME_PX
            lines.append(Line(name=words, style=style, path=points, tx=_RIGHT + 4, ty=round(ty + 3.5, 1)))
        for value, words in limits:
            if low <= value <= high:
                at = round(place(value), 1)
                path = f"{_LEFT:g},{at} {_RIGHT:g},{at}"
                lines.append(Line(name=words, style="limit", path=path, tx=_LEFT + 4, ty=round(at - 3, 1)))
        ticks = tuple(
            Tick(
                at=round(place(mark), 1),
                text=f"{_temperature(mark, self.reader):g}" if kelvin else f"{mark:g}",
            )
            for mark in marks
        )
        self.y = bottom + _GAP
        return Panel(
            title=title, unit=unit, top=top, bottom=bottom, ticks=ticks, lines=tuple(lines), strips=tuple(strips)
        )

    def row(self, name: str, shares: Array, strips_of: NDArray[np.bool_] | None = None) -> Row:
        """Lay out a device: a bar where it runs, as high as the share of the time it does."""
        height = 13.0
        means = shares[self.keep].mean(axis=1)
        strips = []
        for hour, share in zip(self.hours, means, strict=True):
            if share > 0.005:
                x, to = self.x(hour - self.step_h / 2), self.x(hour + self.step_h / 2)
                tall = max(1.0, height * float(share))
                strips.append(
                    Strip(
                        x=round(x, 1),
                        y=round(self.y + height - tall, 1),
                        w=round(to - x + 0.1, 1),
                        h=round(tall, 1),
                        style="runs",
                    )
                )
        share = f"{100 * float(means.mean()):.0f} %"
        row = Row(name=name, y=self.y, h=height, share=share, strips=tuple(strips))
        self.y += height + 9
        return row


def _marks(low: float, high: float) -> list[float]:
    """Three to six round values that hold a range."""
    step = 10.0 ** np.floor(np.log10(max(high - low, 1e-6) / 3))
    for factor in (1, 2, 5, 10):
        if (high - low) / (step * factor) <= 5:
            step *= factor
            break
    first, last = np.floor(low / step), np.ceil(high / step)
    return [round(float(k * step), 6) for k in np.arange(first, last + 1)]


def _band(plants: Sequence[Growing], figure: str, words: str) -> list[tuple[Window, str]]:
    found = shared_window(plants, figure)
    return [(found, words)] if found else []


def trace_sheet(
    found: Simulated,
    plants: Sequence[Growing],
    reader: Reader,
    names: Sequence[tuple[str, str]],
    *,
    hours: int,
    beside: tuple[Simulated, str] | None = None,
) -> TraceSheet:
    """Draw up the last hours of a simulation.

    Parameters
    ----------
    plants : whose windows are shown as bands, where all share one
    names : id and name of each device whose running is shown
    hours : how many, up to all of them
    beside : another run over the same hours to hold it against, and what it is called
    """
    sheet = Layout(found, reader, max(0.0, float(found.traces.hours[-1]) - hours))
    warm = "°F" if reader.system == "us" else "°C"
    wet = np.asarray((found.traces.film_g > 0.5)[sheet.keep].mean(axis=1) > 0.5)
    panels = [
        sheet.panel(
            "Temperature",
            warm,
            (("air_c", "air", "air"), ("leaf_c", "leaf", "leaf"), ("root_c", "roots", "root"), ("dew_c", "dew", "dew")),
            _band(plants, "air_day_c", "what the crops want of the air by day"),
            150,
            (15, 25),
            kelvin=True,
            beside=beside,
        ),
        sheet.panel(
            "Humidity",
            "%",
            (("rh_pct", "air", "air"),),
            _band(plants, "rh_pct", "what the crops want"),
            90,
            (40, 80),
            beside=beside,
            wet=wet if wet.any() else None,
        ),
        sheet.panel(
            "VPD",
            "kPa",
            (("vpd_kpa", "air", "air"), ("leaf_vpd_kpa", "leaf", "leaf")),
            _band(plants, "vpd_kpa", "what the crops want by day"),
            90,
            (0, 1),
            beside=beside,
        ),
        sheet.panel("CO₂", "ppm", (("co2_ppm", "air", "air"),), (), 60, (300, 500), beside=beside),
    ]
    rows = []
    ids = [group.id for group in found.days.system.groups]
    for key, name in names:
        place = f"{found.space_id}/{key}"
        if place in ids:
            rows.append(sheet.row(name, found.days.groups[:, ids.index(place)]))
    if wet.any():
        rows.append(sheet.row("water on walls", (found.traces.film_g > 0.5).astype(float)))
    marks = np.arange(np.ceil(sheet.first / 6) * 6, sheet.last + 0.01, 6 if hours > 24 else 3)
    return TraceSheet(
        width=WIDTH + 40,
        height=round(sheet.y + 16, 1),
        left=_LEFT,
        right=_RIGHT,
        top=_TOP,
        bottom=round(sheet.y - 4, 1),
        panels=tuple(panels),
        rows=tuple(rows),
        hours=tuple(Tick(at=round(sheet.x(h), 1), text=f"{int(h % 24)}") for h in marks),
        values=json.dumps(
            {
                "x": [round(sheet.x(h), 1) for h in sheet.hours],
                "clock": [clock_of(h) for h in sheet.hours],
                "air": read_out(sheet.values("air_c"), f" {warm}", 1, reader),
                "leaf": read_out(sheet.values("leaf_c"), f" {warm}", 1, reader),
                "roots": read_out(sheet.values("root_c"), f" {warm}", 1, reader),
                "dew point": read_out(sheet.values("dew_c"), f" {warm}", 1, reader),
                "humidity": read_out(sheet.values("rh_pct"), " %", 0),
                "VPD": read_out(sheet.values("vpd_kpa"), " kPa", 2),
                "at the leaf": read_out(sheet.values("leaf_vpd_kpa"), " kPa", 2),
                "CO₂": read_out(sheet.values("co2_ppm"), " ppm", 0),
                "air moved": [
                    Amount(value=float(flow), unit="airflow").text(reader) for flow in sheet.values("flow_m3_h")
                ],
                **_beside(sheet, beside, warm, reader),
            },
            ensure_ascii=False,
        ),
        label=f"Temperature, humidity, VPD and CO₂ over {hours} hours",
    )


def _beside(sheet: Layout, beside: tuple[Simulated, str] | None, warm: str, reader: Reader) -> dict[str, list[str]]:
    if beside is None:
        return {}
    found, name = beside
    return {
        f"{name}, air": read_out(sheet.values("air_c", found), f" {warm}", 1, reader),
        f"{name}, humidity": read_out(sheet.values("rh_pct", found), " %", 0),
    }


def clock_of(hour: float) -> str:
    minutes = round(hour * 60 / 10) * 10
    return f"{minutes // 60 % 24:02d}:{minutes % 60:02d}"


def read_out(values: Array, unit: str, decimals: int, reader: Reader | None = None) -> list[str]:
    if reader is not None and reader.system == "us":
        values = values * 1.8 + 32
    return [f"{value:.{decimals}f}{unit}" for value in values]


@dataclass(frozen=True, kw_only=True)
class VpdField:
    """A day's path in the field of air temperature (across) against humidity (up), with lines of equal VPD and the
    crops' window.
    """

    width: float
    height: float
    left: float
    right: float
    top: float
    bottom: float
    across: tuple[Tick, ...]
    up: tuple[Tick, ...]
    isolines: tuple[Line, ...]
    window: Strip | None
    day: str
    night: str
    unit: str


def vpd_field(found: Simulated, plants: Sequence[Growing], reader: Reader) -> VpdField:
    """Draw up the last day's path.

    Parameters
    ----------
    found : the simulated days
    plants : whose shared windows of temperature by day and of humidity are drawn
    """
    left, right, top, bottom = 40.0, 330.0, 12.0, 252.0
    t, rh = found.traces.air_c, found.traces.rh_pct
    warm, damp = shared_window(plants, "air_day_c"), shared_window(plants, "rh_pct")
    low = min(float(t[found.last].min()), warm.low if warm else 99.0) - 1
    high = max(float(t[found.last].max()), warm.high if warm else -99.0) + 1
    marks = _marks(low, high)
    low, high = marks[0], marks[-1]

    def x(value: float) -> float:
        return left + (value - low) / (high - low) * (right - left)

    def y(value: float) -> float:
        return bottom - (value - 20) / 80 * (bottom - top)

    lines = []
    for kpa in (0.2, 0.4, 0.8, 1.2, 1.6, 2.4):
        points = []
        for value in np.linspace(low, high, 30):
            humid = 100 * (1 - 1000 * kpa / saturation_pa(float(value)))
            if 20 <= humid <= 100:
                points.append((x(float(value)), y(humid)))
        if len(points) > 3:
            path = " ".join(f"{a:.1f},{b:.1f}" for a, b in points)
            end = points[-1]
            lines.append(
                Line(name=f"{kpa:g}", style="iso", path=path, tx=round(end[0] + 3, 1), ty=round(end[1] + 3, 1))
            )
    window = None
    if warm and damp:
        window = Strip(
            x=round(x(warm.low), 1),
            y=round(y(min(damp.high, 100)), 1),
            w=round(x(warm.high) - x(warm.low), 1),
            h=round(y(damp.low) - y(min(damp.high, 100)), 1),
            style="band",
            title="what the crops want by day",
        )

    def way_of(rows: NDArray[np.bool_]) -> str:
        picked = np.flatnonzero(rows)[::3]
        # A night that passes midnight is one way, from the evening on.
        parted = np.flatnonzero(np.diff(picked) > 3)
        if len(parted):
            picked = np.concatenate([picked[parted[-1] + 1 :], picked[: parted[-1] + 1]])
        return " ".join(f"{x(float(t[k])):.1f},{y(max(20.0, float(rh[k]))):.1f}" for k in picked)

    return VpdField(
        width=366,
        height=292,
        left=left,
        right=right,
        top=top,
        bottom=bottom,
        across=tuple(Tick(at=round(x(m), 1), text=f"{_temperature(m, reader):g}") for m in marks),
        up=tuple(Tick(at=round(y(m), 1), text=f"{m}") for m in (20, 40, 60, 80, 100)),
        isolines=tuple(lines),
        window=window,
        day=way_of(found.half(day=True)),
        night=way_of(found.dark) if found.dark.any() else "",
        unit="°F" if reader.system == "us" else "°C",
    )
