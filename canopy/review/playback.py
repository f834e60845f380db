"""The simulation of a space in the room's air, and with the switching, that was measured."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from canopy.climate import columns as c
from canopy.climate import engine
from canopy.climate.moist import RATIO, saturations_pa
from canopy.climate.system import Group, System, Weather
from canopy.evaluate.climate.building import system_of
from canopy.evaluate.climate.upsets import ALL, Stretches
from canopy.evaluate.light.lighting import Lighting
from canopy.evaluate.light.lighting import lighting as lighting_of
from canopy.plan import Plan, Space
from canopy.plan.correction import Correction, Subject
from canopy.review.series import Grid
from canopy.schedule import Always
from canopy.season import Standing, cast_of, standing_of

Floats = NDArray[np.float64]
FAN, LAMPS = "fan", "lamps"
# A window is a day with the one before it, so that warmth and water have settled.
WINDOW_H, EVERY_S, STEP_S = 48, 300, 150.0
# Air that is given is given so often [s]; a thermometer in the room follows it within a few minutes.
_GIVEN_S, LAG_S = 600.0, 240.0
# A socket draws so much of its usual draw while what it feeds is on.
_ON = 0.3
_SHORTEST_OFF_MIN = 4.0


@dataclass(frozen=True, kw_only=True, eq=False)
class Window:
    """Two days that are played back: the second day's date, what was measured (a step is five minutes), the space as
    it stands with its light, and when its fans stood [h since the first midnight].
    """

    day: dt.date
    grid: Grid
    here: Standing
    lighting: Lighting
    plan: Plan
    stood: tuple[tuple[float, float], ...]

    @property
    def stood_h(self) -> float:
        """For how long its fans stood [h]."""
        return sum(end - begin for begin, end in self.stood)


@dataclass(frozen=True, kw_only=True, eq=False)
class Played:
    """What the simulation gives for a window, each shape (steps,): air [°C], humidity [%], CO2 [ppm], what comes in
    [m³/h], what is given off [g/h], share of the time with lamps on.
    """

    air_c: Floats
    rh_pct: Floats
    co2_ppm: Floats
    flow_m3_h: Floats
    given_g_h: Floats
    lit: Floats


def window_of(plan: Plan, space: Space, day: dt.date, grid: Grid, stood: tuple[tuple[float, float], ...]) -> Window:
    """Prepare a window.

    Parameters
    ----------
    plan : the household
    space : one of its spaces
    day : the second of its two days
    grid : 576 steps of five minutes from the first day's midnight on
    stood : when its fans stood [h]

    Returns
    -------
    Window : in a room that is as it was measured, whatever stands in it
    """
    rooms = tuple(room.model_copy(update={"floor_m2": None}) for room in plan.rooms)
    plan = plan.model_copy(update={"rooms": rooms})
    if FAN in grid.watts:
        # Its plug says when they ran.
        ways = tuple(way.model_copy(update={"schedule": Always()}) if way.fans else way for way in space.airways)
        space = space.model_copy(update={"airways": ways})
    here = standing_of(space, day, cast_of(plan))
    return Window(day=day, grid=grid, here=here, lighting=lighting_of(here, with_map=False), plan=plan, stood=stood)


def on_share(watts: Floats) -> tuple[Floats, float]:
    """Read from a plug's power for how much of each step what it feeds is on.

    Parameters
    ----------
    watts : shape (steps,), NaN where nothing was read [W]

    Returns
    -------
    (ndarray, float) : share, 0..1, NaN where nothing was read; what it draws while it is on [W], 0 if it never is
    """
    fine = watts[np.isfinite(watts)]
    top = float(np.percentile(fine, 98)) if fine.size else 0.0
    if top < 1.0:
        return np.where(np.isfinite(watts), 0.0, np.nan), 0.0
    on = fine[fine > 0.8 * top]
    usual = float(np.median(on)) if on.size else top
    return np.asarray(np.clip(watts / usual, 0.0, 1.0)), usual


def stretches_off(grid: Grid) -> tuple[tuple[int, int], ...]:
    """Find when the fans stood, by their plug.

    Parameters
    ----------
    grid : with the fan's power

    Returns
    -------
    tuple of (int, int) : seconds of UTC from and until; empty without a meter
    """
    if FAN not in grid.watts:
        return ()
    share, usual = on_share(grid.watts[FAN])
    if usual <= 0:
        return ()
    off = np.isfinite(share) & (share < _ON)
    edges = np.flatnonzero(np.diff(off.astype(np.int8), prepend=0, append=0))
    found = []
    for begin, end in zip(edges[::2], edges[1::2], strict=True):
        # Where it goes out or on within a step, the step's share says when.
        first = grid.begins + int((begin + share[begin]) * grid.every_s)
        last = grid.begins + int((end - share[end - 1]) * grid.every_s)
        if begin > 0 and np.isfinite(share[begin - 1]):
            first -= int((1 - share[begin - 1]) * grid.every_s)
        if end < grid.steps and np.isfinite(share[end]):
            last += int((1 - share[end]) * grid.every_s)
        if last - first >= 60 * _SHORTEST_OFF_MIN:
            found.append((first, last))
    return tuple(found)


def believed(space: Space, factors: Mapping[tuple[Subject, str | None], float], day: dt.date) -> Space:
    """Give a space with factors on what is computed of it, in the place of what was learnt.

    Parameters
    ----------
    space : as planned
    factors : by what they are about
    day : from when on they count

    Returns
    -------
    Space : the same parts
    """
    learnt = tuple(
        Correction(
            id=f"tried-{number}",
            subject=subject,
            target=target,
            factor=min(10.0, max(0.1, factor)),
            standard_error=0.0,
            found_on=day,
            basis="log",
        )
        for number, ((subject, target), factor) in enumerate(factors.items())
    )
    return space.model_copy(update={"learnt": learnt})


def system_in(
    window: Window,
    space: Space,
    breathes: float = 1.0,
    wets: float = 1.0,
    damper: float = 0.0,
    step_s: float = STEP_S,
) -> System:
    """Put a window's system together.

    Parameters
    ----------
    window : which
    space : as it is believed to be
    breathes : how many times as much roots and medium breathe out
    wets : how many times as wet pots' surfaces are
    damper : how much damper the room is than its hygrometer shows [%]
    step_s : length of a step: a part of five minutes [s]

    Returns
    -------
    System : lamps, metered devices and fans switched as they were; a room of the air that was measured
    """
    steps_min = step_s / 60
    upset = Stretches(begins_h=0, ends_h=0, still=ALL, spans=window.stood)
    here = window.here.moved(space)
    spaces = tuple(space if item.id == space.id else item for item in window.plan.spaces)
    plan = window.plan.model_copy(update={"spaces": spaces})
    system = system_of(
        plan, here, window.lighting, hours=WINDOW_H, step_s=step_s, every_s=float(EVERY_S), upset=upset
    ).system
    drives, groups = dict(system.drives), []
    forced = set()
    for group in system.groups:
        fed = _fed(group, space, window.grid)
        if fed is not None:
            share = _steps(fed, system.steps, steps_min)
            drives[group.drive] = share
            forced.add(group.id)
            if group.id.startswith("lamps-"):
                drives[f"lit-{space.id}"] = np.maximum(share > 0.5, 0).astype(np.float32)
        groups.append(group)
    warm, damp = _first(window.grid.inside, "air_c"), _first(window.grid.inside, "rh_pct")
    enclosures = tuple(
        replace(
            item,
            start_c=warm,
            start_rh_pct=damp,
            breath_mol_s=breathes * item.breath_mol_s,
            pots=replace(item.pots, wet=min(1.0, wets * item.pots.wet)),
        )
        if item.id == space.id
        else item
        for item in system.enclosures
    )
    return replace(
        system,
        drives=drives,
        groups=tuple(groups),
        enclosures=enclosures,
        controls=tuple(item for item in system.controls if item.target not in forced),
        weathers=tuple(_as_measured(item, window, system.pressure_pa, damper) for item in system.weathers),
    )


def _first(inside: Mapping[str, Floats], quantity: str) -> float | None:
    """What was measured in the first two hours, as the run begins; None where nothing was."""
    value = inside.get(quantity, np.full(1, np.nan))[: 7200 // EVERY_S]
    return float(np.nanmean(value[:6])) if np.isfinite(value[:6]).any() else None


def _fed(group: Group, space: Space, grid: Grid) -> Floats | None:
    """For how much of each step a group ran, by its meter; None where none is read."""
    if group.where != space.id:
        return None
    key = LAMPS if group.id.startswith(f"lamps-{space.id}-") else group.id.removeprefix(f"{space.id}/")
    if key not in grid.watts or (key != LAMPS and key == group.id):
        return None
    share, usual = on_share(grid.watts[key])
    if usual <= 0 and key == LAMPS:
        return None
    planned = next((item.spec.power_w for item in space.devices if item.id == key), 0.0)
    if planned > 0:
        # What heats does so by what it draws.
        share = np.asarray(np.clip(grid.watts[key] / planned, 0.0, 2.0))
    return _filled(share)


def _filled(value: Floats) -> Floats:
    """Without gaps: a day earlier or later at the same hour, else as it was before."""
    found = value.copy()
    day = 86400 // EVERY_S
    for shift in (day, -day):
        other = np.roll(found, shift)
        gaps = ~np.isfinite(found) & np.isfinite(other)
        found[gaps] = other[gaps]
    if not np.isfinite(found).any():
        return np.zeros_like(found)
    last = np.where(np.isfinite(found), np.arange(len(found)), 0)
    np.maximum.accumulate(last, out=last)
    found = found[last]
    return np.asarray(np.nan_to_num(found, nan=float(np.nanmean(found))))


def _steps(share: Floats, steps: int, step_min: float) -> NDArray[np.float32]:
    """Spread shares of five minutes over steps, exactly."""
    edges = np.arange(steps + 1) * step_min * 60 / EVERY_S
    total = np.concatenate([[0.0], np.cumsum(share)])
    at = np.interp(edges, np.arange(len(total)), total)
    return np.asarray(np.diff(at) / (step_min * 60 / EVERY_S), dtype=np.float32)


def _as_measured(weather: Weather, window: Window, pressure: float, damper: float) -> Weather:
    space = window.here.space
    if weather.id == f"ground-{space.room_id}":
        mean = float(np.nanmean(window.grid.room["air_c"]))
        drift = mean - float(weather.temperature_c.mean())
        # A concrete floor follows its room half, as it follows the year.
        return replace(weather, temperature_c=weather.temperature_c + 0.5 * drift)
    if weather.id != f"room-{space.room_id}":
        return weather
    warm = _moments(window.grid.room["air_c"])
    damp = np.clip(_moments(window.grid.room["rh_pct"]) + damper, 1.0, 100.0)
    full = saturations_pa(warm)
    vapour = full * damp / 100
    gas = window.grid.room.get("co2_ppm")
    ppm = _moments(gas) if gas is not None and np.isfinite(gas).mean() > 0.5 else np.full(len(warm), weather.co2_ppm[0])
    return Weather(
        id=weather.id,
        temperature_c=warm,
        ratio=RATIO * vapour / (pressure - vapour),
        co2_ppm=ppm,
        every_s=_GIVEN_S,
    )


def _moments(value: Floats) -> Floats:
    """At every ten minutes: a mean over twenty minutes round it, gaps straight."""
    fine = np.flatnonzero(np.isfinite(value))
    whole = np.interp(np.arange(len(value)), fine, value[fine])
    padded = np.pad(whole, 2, mode="edge")
    smooth = np.convolve(padded, np.ones(4) / 4, mode="valid")
    return np.asarray(smooth[:: int(_GIVEN_S) // EVERY_S][: WINDOW_H * 6 + 1])


def played(
    window: Window,
    space: Space,
    breathes: float = 1.0,
    wets: float = 1.0,
    damper: float = 0.0,
    step_s: float = STEP_S,
) -> Played:
    """Play a window back.

    Parameters
    ----------
    window : which
    space : as it is believed to be
    breathes : how many times as much roots and medium breathe out
    wets : how many times as wet pots' surfaces are
    damper : how much damper the room is than its hygrometer shows [%]
    step_s : length of a step: a part of five minutes [s]

    Returns
    -------
    Played : as it is, before any probe's lag
    """
    system = system_in(window, space, breathes, wets, damper, step_s)
    days = engine.run(system)
    at = days.enclosures[:, days.place(space.id)]
    ratio = at[:, c.OUT_RATIO]
    vapour = system.pressure_pa * ratio / (RATIO + ratio)
    full = saturations_pa(at[:, c.OUT_AIR])
    short = WINDOW_H * 3600 // EVERY_S - len(at)
    pad = (0, max(0, short))

    def told(value: Floats) -> Floats:
        return np.asarray(np.pad(value, pad, constant_values=np.nan))

    return Played(
        air_c=told(at[:, c.OUT_AIR]),
        rh_pct=told(np.minimum(100 * vapour / full, 100.0)),
        co2_ppm=told(at[:, c.OUT_CO2]),
        flow_m3_h=told(at[:, c.OUT_FLOW] * 3600),
        given_g_h=told(at[:, c.OUT_GIVEN] * 3.6e6),
        lit=np.pad(at[:, c.OUT_LIT], pad, constant_values=0.0),
    )


def lagged(value: Floats, lag_s: float = LAG_S) -> Floats:
    """Give what a probe shows that follows its air late.

    Parameters
    ----------
    value : means over five minutes, shape (steps,)
    lag_s : in which it follows by two thirds [s]

    Returns
    -------
    ndarray : shape (steps,)
    """
    from scipy.signal import lfilter

    keeps = float(np.exp(-EVERY_S / lag_s))
    # What it shows at the end of each step, then its mean over the step.
    ends, _ = lfilter([1 - keeps], [1, -keeps], value, zi=[keeps * value[0]])
    begins = np.concatenate([[value[0]], ends[:-1]])
    return np.asarray(value + (begins - value) * lag_s / EVERY_S * (1 - keeps))
