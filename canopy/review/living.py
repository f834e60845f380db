"""Identification from ordinary life: the simulation is fitted to what was measured while plants grew."""

from __future__ import annotations

import datetime as dt
import warnings
from collections.abc import Mapping, Sequence
from concurrent.futures import Executor, ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from canopy.light.photometry import fixture_load
from canopy.plan import Plan, Space
from canopy.plan.correction import Subject
from canopy.review.finding import Finding, unknown
from canopy.review.playback import (
    EVERY_S,
    FAN,
    LAG_S,
    LAMPS,
    STEP_S,
    WINDOW_H,
    Played,
    Window,
    believed,
    lagged,
    on_share,
    played,
    stretches_off,
    window_of,
)
from canopy.review.series import Grid

Floats = NDArray[np.float64]
_STEPS = WINDOW_H * 3600 // EVERY_S
# How far readings and simulation may be apart though all is known: probe and model together [K, %, ppm].
_SCATTER = {"air_c": 0.3, "rh_pct": 2.5, "co2_ppm": 30.0}
# No probe and no model is better than so; what is left over says how good these are.
_LEAST_SCATTER = {"air_c": 0.12, "rh_pct": 1.0, "co2_ppm": 12.0}
# An error of the model lasts: so many steps of it count as one reading.
_COUNTS_ONCE = 4.0
# What is believed beforehand, as standard deviations: of logarithms of factors, and of what probes are off by.
_BELIEF: Mapping[str, float] = {
    "airflow": 0.6,
    "leak": 0.9,
    "walls": 0.15,
    "leaves": 0.5,
    "lamp-heat": 0.08,
    "device": 0.35,
    "breathes": 0.7,
    "wets": 0.6,
    "room-rh": 2.5,
    "air_c": 0.4,
    "rh_pct": 3.0,
    "co2_ppm": 40.0,
    "lag-air_c": 0.6,
    "lag-rh_pct": 0.6,
    "lag-co2_ppm": 0.6,
}
_OFFSETS = ("air_c", "rh_pct", "co2_ppm")
_FACTORS: Mapping[str, Subject] = {"leak": "leak", "walls": "walls", "leaves": "leaves", "device": "device"}
# Without so much of the room, and of the space, measured a day teaches nothing; for so long fans must have stood [h].
_MEASURED, _LEAST_STOOD_H = 0.75, 0.4
_MOST_WINDOWS = 2
# What is not known by readings twice as well as it was believed beforehand is not known by them.
_TELLS = 0.6
# Half hours [steps] that are so many times further off than usual, and by so much, do not count; of two days so many.
_BLOCK, _ODD, _MOST_OUT = 6, 7.0, 0.2
_ODD_AT_LEAST: Mapping[str, float] = {"air_c": 0.9, "rh_pct": 7.0}
# Turns of fitting and of looking at what is left; settled where a turn leaves hardly less than the one before.
_TURNS, _SETTLED = 5, 0.8
# Slopes serve again so near to where they were taken (logarithms; offsets in their own unit).
_NEAR = 0.3
# A fit that leaves so much more than its scatter follows something that the plan does not know.
_LOST = 9.0
# How much it tells on a factor that readings come so seldom, against how long fans stood at a time.
_BLUR: Mapping[str, float] = {"airflow": 0.3, "leak": 1.2, "leaves": 0.3}
# Beyond the formal error: what the model itself is wrong by, as a share of a factor.
_FLOOR: Mapping[str, float] = {"airflow": 0.03, "leak": 0.06, "walls": 0.1, "leaves": 0.12, "device": 0.08}


@dataclass(frozen=True, kw_only=True)
class Asked:
    """What is identified: a space of a plan, what was measured from a midnight on, and the midnights of its days by
    the household's clock (whole days of 24 hours only).
    """

    plan: Plan
    space: Space
    grid: Grid
    midnights: Mapping[dt.date, int]


@dataclass(frozen=True, kw_only=True, eq=False)
class Fitted:
    """The fit: factors found, with the days it looked at, how large what is left is against its scatter (1 is as
    expected), what probes seem to be off by, and from when until when [s of UTC] readings and plugs contradict each
    other and do not count.
    """

    findings: tuple[Finding, ...]
    days: tuple[dt.date, ...]
    left: float
    offsets: Mapping[str, float]
    left_out: tuple[tuple[int, int], ...]
    factors: Mapping[tuple[Subject, str | None], float]


@dataclass(frozen=True)
class _Key:
    """A parameter: a factor on what is computed, a factor of the simulation alone, or what a probe is off by."""

    name: str
    target: str | None = None

    @property
    def offset(self) -> bool:
        return self.name in _OFFSETS

    @property
    def shown(self) -> bool:
        """Whether it is about a probe alone: the simulation does not change with it."""
        return self.offset or self.name.startswith("lag-")

    @property
    def belief(self) -> float:
        return _BELIEF[self.name]


def identify(asked: Asked) -> Fitted:
    """Find what a space's air, walls, leaves and devices really do from readings of its ordinary days.

    Parameters
    ----------
    asked : what was measured

    Returns
    -------
    Fitted : a finding for each thing; what cannot be told from these readings says why

    Notes
    -----
    Two days at a time are simulated in the room's measured air with the measured switching; logarithms of the factors
    and what probes are off by are fitted to air, humidity and (in the dark) CO2 by least squares with a soft L1 loss
    and weak beliefs. Errors are those of the fit at the size of what is left over, counted once in twenty minutes,
    with what the model itself is wrong by on top. Airflow and seams are told only when fans stood for a
    while: else both hide behind each other.
    """
    why = _missing(asked)
    if why:
        return _nothing(asked, why)
    windows = _windows(asked)
    if not windows:
        return _nothing(asked, "no two days in a row were measured nearly whole, inside and in the room")
    fit = _Fit(asked, windows)
    return fit.told()


def _missing(asked: Asked) -> str:
    grid = asked.grid
    if "air_c" not in grid.inside or "rh_pct" not in grid.inside:
        return "temperature and humidity inside are needed, and one of them is not measured"
    if "air_c" not in grid.room or "rh_pct" not in grid.room:
        return "nobody measures the air of the room that it stands in"
    return ""


def _nothing(asked: Asked, why: str) -> Fitted:
    findings = tuple(unknown(subject, why, target) for subject, target in _subjects(asked.space))
    return Fitted(findings=findings, days=(), left=0.0, offsets={}, left_out=(), factors={})


def _subjects(space: Space) -> list[tuple[Subject, str | None]]:
    """What can be asked of a space at all."""
    found: list[tuple[Subject, str | None]] = [("airflow", way.id) for way in space.airways if way.fans]
    found += [("leak", None), ("walls", None)]
    if space.plants:
        found.append(("leaves", None))
    if space.fixtures:
        found.append(("lamp-heat", None))
    found += [("device", item.id) for item in space.devices if item.spec.kind in ("humidifier", "dehumidifier")]
    return found


def _windows(asked: Asked) -> list[Window]:
    """The two-day stretches that teach most: measured nearly whole, fans standing for some of it, the newest first."""
    grid, stood = asked.grid, stretches_off(asked.grid)
    choice = []
    for day in sorted(asked.midnights, reverse=True):
        before = day - dt.timedelta(days=1)
        first = asked.midnights.get(before)
        if first is None or asked.midnights[day] - first != 86400:
            continue
        place = grid.place(first)
        if place < 0 or place + _STEPS > grid.steps:
            continue
        part = grid.part(place, _STEPS)
        measured = [part.inside["air_c"], part.inside["rh_pct"], part.room["air_c"], part.room["rh_pct"]]
        share = min(float(np.isfinite(row).mean()) for row in measured)
        if share < _MEASURED:
            continue
        spans = tuple(
            (max(0.0, (begin - first) / 3600), min(float(WINDOW_H), (end - first) / 3600))
            for begin, end in stood
            if end > first and begin < first + WINDOW_H * 3600
        )
        hours = min(8.0, sum(end - begin for begin, end in spans if begin > 2 or end > 4))
        choice.append((hours, share, day, part, spans))
    choice.sort(key=lambda item: (item[0] > _LEAST_STOOD_H, item[0], item[2]), reverse=True)
    taken: list[Window] = []
    for _, _, day, part, spans in choice:
        if all(abs((day - other.day).days) >= 2 for other in taken):
            taken.append(window_of(asked.plan, asked.space, day, part, spans))
        if len(taken) == _MOST_WINDOWS:
            break
    return taken


@cache
def _side_by_side() -> Executor:
    """Windows are played back at the same time: the compiled loop lets others run."""
    return ThreadPoolExecutor(max_workers=2, thread_name_prefix="playback")


class _Fit:
    """Least squares over all windows."""

    def __init__(self, asked: Asked, windows: Sequence[Window]) -> None:
        self.asked, self.windows, self.space = asked, windows, asked.space
        self.heat, self.metered = _lamp_heat(asked)
        self.keys = self._parameters()
        self.known: dict[tuple[float, ...], list[Played]] = {}
        self.measured = [self._readings(window) for window in windows]
        self.scatter = dict(_SCATTER)
        self.step_s = float(EVERY_S)
        self.out = [np.zeros(_STEPS, dtype=bool) for _ in windows]
        self.sizes = np.array([4.0 * key.belief if key.offset or key.name == "room-rh" else 1.0 for key in self.keys])
        self.beliefs = np.array([key.belief for key in self.keys])
        self.sloped: tuple[Floats, Floats] | None = None

    def _parameters(self) -> list[_Key]:
        space = self.space
        found = [_Key("leak"), _Key("walls")]
        if any(way.fans for way in space.airways):
            found.append(_Key("airflow"))
        if any(window.here.plants for window in self.windows):
            found.append(_Key("leaves"))
        if space.fixtures and not self.metered:
            found.append(_Key("lamp-heat"))
        found += [_Key("wets"), _Key("room-rh")]
        found += [
            _Key("device", item.id)
            for item in space.devices
            if item.spec.kind in ("humidifier", "dehumidifier") and item.id in self.asked.grid.watts
        ]
        if "co2_ppm" in self.asked.grid.inside:
            found.append(_Key("breathes"))
        measured = [name for name in _OFFSETS if name in self.asked.grid.inside]
        return found + [_Key(name) for name in measured] + [_Key(f"lag-{name}") for name in measured]

    def _readings(self, window: Window) -> dict[str, Floats]:
        found = {}
        for name in _OFFSETS:
            if name in window.grid.inside:
                found[name] = window.grid.inside[name].copy()
                # What was there before is not known: the first hours only let it settle.
                found[name][: 4 * 3600 // EVERY_S] = np.nan
        return found

    def _play(self, x: Floats) -> list[Played]:
        moving = [value for key, value in zip(self.keys, x, strict=True) if not key.shown]
        free = (self.step_s, *(round(float(value), 9) for value in moving))
        if free not in self.known:
            values = {key: float(np.exp(v)) for key, v in zip(self.keys, x, strict=True) if not key.shown}
            day = min(window.day for window in self.windows) - dt.timedelta(days=2)
            space = self._believed(values, day)
            breathes, wets = values.get(_Key("breathes"), 1.0), values.get(_Key("wets"), 1.0)
            damper = float(x[self.keys.index(_Key("room-rh"))])
            self.known[free] = list(
                _side_by_side().map(
                    lambda w: played(w, self._in(w, space), breathes, wets, damper, self.step_s), self.windows
                )
            )
        return self.known[free]

    def _in(self, window: Window, space: Space) -> Space:
        return window.here.space.model_copy(update={"learnt": space.learnt})

    def _believed(self, values: Mapping[_Key, float], day: dt.date) -> Space:
        factors: dict[tuple[Subject, str | None], float] = {}
        if self.metered:
            factors["lamp-heat", None] = self.heat
        for key, value in values.items():
            if key.name == "airflow":
                factors |= {("airflow", way.id): value for way in self.space.airways if way.fans}
            elif key.name == "lamp-heat":
                factors["lamp-heat", None] = value
            elif key.name in _FACTORS:
                factors[_FACTORS[key.name], key.target] = value
        return believed(self.space, factors, day)

    def _apart(self, x: Floats) -> Floats:
        """By how much more was measured than is simulated, in each quantity's unit; NaN where one is missing."""
        off = {key.name: value for key, value in zip(self.keys, x, strict=True) if key.shown}
        rows = []
        for readings, found in zip(self.measured, self._play(x), strict=True):
            for name, value in readings.items():
                told = lagged(getattr(found, name), LAG_S * float(np.exp(off[f"lag-{name}"]))) + off[name]
                # What leaves take up by day is known too badly to tell anything by it.
                rows.append(np.where((name != "co2_ppm") | (found.lit < 0.01), value - told, np.nan))
        return np.concatenate(rows)

    def _weights(self) -> Floats:
        """What a unit of each row counts; nothing where it is left out."""
        rows = [
            np.where(out, 0.0, 1 / (self.scatter[name] * np.sqrt(_COUNTS_ONCE)))
            for readings, out in zip(self.measured, self.out, strict=True)
            for name in readings
        ]
        return np.concatenate(rows)

    def _left(self, x: Floats) -> Floats:
        """What is left over, in scatters; then what beliefs say to the parameters."""
        return np.concatenate([np.nan_to_num(self._apart(x) * self._weights()), x / self.beliefs])

    def _slopes(self, x: Floats) -> Floats:
        """How what is left changes with each parameter; as it was found near by, where it was."""
        if self.sloped is None or float(np.abs((x - self.sloped[0]) / self.sizes).max()) >= _NEAR:
            here, columns = self._apart(x), []
            for number, key in enumerate(self.keys):
                step = np.zeros(len(x))
                step[number] = 0.1 if key.offset else 0.5 if key.name == "room-rh" else 0.03
                columns.append(np.nan_to_num((self._apart(x + step) - here) / step[number]))
            self.sloped = x.copy(), np.array(columns).T
        return np.concatenate([self.sloped[1] * self._weights()[:, None], np.diag(1 / self.beliefs)])

    def told(self) -> Fitted:
        x, left = np.zeros(len(self.keys)), np.inf
        for turn in range(_TURNS):
            # The first turn only comes near: it may step as far as means go.
            self.step_s = STEP_S if turn else float(EVERY_S)
            x, slopes = self._solved(x, tries=4 if turn == 0 else 5)
            sizes = self._reckoned(x)
            before, left = left, sizes.pop("all")
            # How good probes and model are together is seen in what they leave over.
            self._leave_out(x)
            scatter = {
                name: max(_LEAST_SCATTER[name], size) for name, size in self._reckoned(x).items() if name != "all"
            }
            if turn > 0 and left > _SETTLED * before and all(scatter[key] > 0.8 * self.scatter[key] for key in scatter):
                break
            self.scatter = scatter
        spread = np.sqrt(np.diag(np.linalg.inv(slopes.T @ slopes)))
        return self._findings(x, spread, left)

    def _leave_out(self, x: Floats) -> None:
        """Find half hours in which readings and plugs contradict each other: a meter that stuck, a door that stood
        open. They do not count, unless they are so many that something else is amiss.
        """
        off = {key.name: value for key, value in zip(self.keys, x, strict=True) if key.shown}
        for number, (readings, found) in enumerate(zip(self.measured, self._play(x), strict=True)):
            odd = np.zeros(_STEPS // _BLOCK, dtype=bool)
            for name in ("air_c", "rh_pct"):
                told = lagged(getattr(found, name), LAG_S * float(np.exp(off[f"lag-{name}"]))) + off[name]
                apart = np.abs(readings[name] - told).reshape(-1, _BLOCK)
                with warnings.catch_warnings():
                    warnings.simplefilter("ignore", RuntimeWarning)
                    size = np.nanmedian(apart, axis=1)
                    usual = float(np.nanmedian(size))
                odd |= np.nan_to_num(size) > max(_ODD * usual, _ODD_AT_LEAST[name])
            wide = odd | np.roll(odd, 1)
            self.out[number] = np.repeat(wide, _BLOCK) if wide.mean() < _MOST_OUT else np.zeros(_STEPS, dtype=bool)

    def _solved(self, begin: Floats, tries: int) -> tuple[Floats, Floats]:
        from scipy.optimize import least_squares

        bound = np.array([8 * key.belief if key.offset or key.name == "room-rh" else 2.0 for key in self.keys])
        solved = least_squares(
            self._left,
            begin,
            jac=self._slopes,
            bounds=(-bound, bound),
            loss="soft_l1",
            x_scale=self.beliefs,
            max_nfev=tries,
            ftol=1e-2,
            xtol=5e-3,
        )
        return solved.x, solved.jac

    def _reckoned(self, x: Floats) -> dict[str, float]:
        """How large what is left over is: of each quantity in its unit, root of the mean square; of all, mean square in
        scatters as they are taken at first.
        """
        rows = self._left(x)[: -len(self.keys)] * np.sqrt(_COUNTS_ONCE)
        sizes: dict[str, list[Floats]] = {}
        for number, name in enumerate(name for readings in self.measured for name in readings):
            part = rows[number * _STEPS : (number + 1) * _STEPS]
            sizes.setdefault(name, []).append(part[part != 0] * self.scatter[name])
        found = {name: np.concatenate(parts) for name, parts in sizes.items()}
        every = np.concatenate([part / _SCATTER[name] for name, part in found.items()])
        told = {name: float(np.sqrt(np.mean(part**2))) if part.size else 1.0 for name, part in found.items()}
        return told | {"all": float(np.mean(every**2)) if every.size else 0.0}

    def _findings(self, x: Floats, spread: Floats, left: float) -> Fitted:
        days = tuple(sorted(window.day for window in self.windows))
        stood_h = sum(window.stood_h for window in self.windows)
        values = {key: (float(v), float(s)) for key, v, s in zip(self.keys, x, spread, strict=True)}
        found = []
        for subject, target in _subjects(self.space):
            key = _Key(subject, target if subject == "device" else None)
            found.append(self._finding(subject, target, key, values, stood_h, left))
        factors: dict[tuple[Subject, str | None], float] = {}
        for item in found:
            name = (item.subject, item.target if item.subject in ("device", "airflow") else None)
            key = _Key(item.subject, item.target if item.subject == "device" else None)
            if key in values:
                factors[name] = float(np.exp(values[key][0]))
        if self.metered:
            factors["lamp-heat", None] = self.heat
        offsets = {key.name: value for key, (value, _) in values.items() if key.offset}
        return Fitted(
            findings=tuple(found), days=days, left=left, offsets=offsets, left_out=self._out_of(), factors=factors
        )

    def _out_of(self) -> tuple[tuple[int, int], ...]:
        """What does not count: seconds of UTC from and until."""
        found = []
        for window, out in zip(self.windows, self.out, strict=True):
            edges = np.flatnonzero(np.diff(out.astype(np.int8), prepend=0, append=0))
            begins = window.grid.begins
            pairs = zip(edges[::2], edges[1::2], strict=True)
            found += [(begins + int(first) * EVERY_S, begins + int(last) * EVERY_S) for first, last in pairs]
        return tuple(sorted(found))

    def _finding(
        self,
        subject: Subject,
        target: str | None,
        key: _Key,
        values: Mapping[_Key, tuple[float, float]],
        stood_h: float,
        left: float,
    ) -> Finding:
        fans = any(way.fans for way in self.space.airways)
        if left > _LOST:
            return unknown(subject, "the plan does not follow these days at all: something else is going on", target)
        if subject == "lamp-heat" and self.metered:
            return Finding(
                subject=subject,
                factor=self.heat,
                standard_error=0.02 * self.heat,
                basis="meter",
                limits="what its meter reads, which is good to about 2 %",
                begins=self.windows[-1].day,
                ends=self.windows[0].day,
            )
        if key not in values:
            return unknown(subject, "it has no meter that says when it ran", target)
        if subject in ("airflow", "leak") and fans and not self._metered_fan():
            return unknown(subject, "no plug says when the fan ran", target)
        if subject in ("airflow", "leak") and fans and stood_h < _LEAST_STOOD_H:
            return unknown(subject, "the fan never stopped", target)
        value, off = values[key]
        off = float(np.sqrt(off**2 + _FLOOR.get(subject, 0.05) ** 2 + self._blurred(subject) ** 2))
        if off > _TELLS * key.belief:
            return unknown(subject, "these readings say no more about it than was taken beforehand", target)
        days = sorted(window.day for window in self.windows)
        factor = float(np.exp(value))
        return Finding(
            subject=subject,
            target=target,
            factor=factor,
            standard_error=factor * off,
            limits=_limits(subject, self.asked.grid, stood_h),
            begins=days[0],
            ends=days[-1],
        )

    def _blurred(self, subject: Subject) -> float:
        """What it costs that readings come seldom: nobody knows to the minute when a fan stopped."""
        share = _BLUR.get(subject, 0.0)
        spans = [end - begin for window in self.windows for begin, end in window.stood]
        return share * self.asked.grid.apart_s / 3600 / (sum(spans) / len(spans)) if spans else 0.0

    def _metered_fan(self) -> bool:
        return FAN in self.asked.grid.watts


def _limits(subject: Subject, grid: Grid, stood_h: float) -> str:
    if subject in ("airflow", "leak"):
        gas = "" if "co2_ppm" in grid.inside else "; CO₂ was not measured"
        return f"the fan stood for {stood_h:.1f} h of these days{gas}"
    if subject == "leaves":
        return "the hygrometer's own error; pots weighed would tell it better"
    if subject == "walls":
        return "an empty space with a heater in it would tell it better"
    return "what the hygrometer shows while it runs"


def _lamp_heat(asked: Asked) -> tuple[float, bool]:
    """What lamps draw against what they are taken to, by their meter."""
    planned = sum(fixture_load(lamp) for lamp in asked.space.fixtures)
    if LAMPS not in asked.grid.watts or planned <= 0:
        return 1.0, False
    _, usual = on_share(asked.grid.watts[LAMPS])
    return (usual / planned, True) if usual > 0 else (1.0, False)
