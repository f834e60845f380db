"""What goes wrong for some hours of a simulated run: stopped fans, stuck devices, a power cut, a heatwave."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.climate.system import Control, Weather
from canopy.plan.controls import Hygrostat, Thermostat
from canopy.plan.document import Device

Shares = NDArray[np.float32]
ALL = frozenset({"*"})
# A heatwave builds up and goes over so many hours [h].
_BUILDS_H = 6.0


@dataclass(frozen=True, kw_only=True)
class Upset:
    """What is amiss from ``begins_h`` until ``ends_h`` after the run's first midnight.

    ``still`` are ways of air whose fans stand, ``stuck`` devices that run whatever their switch says, ``out`` devices
    that do not run; ``ALL`` stands for all of them. ``power`` is a cut of all that hangs on the mains, but for ways of
    ``battery``; ``door`` stands open; the room is ``hotter_k`` warmer; lamps are dimmed to ``dimmed``. What sticks is
    held by a ``second`` switch that lies so much beyond its own setting [K, %]; nothing refills tanks where
    ``unfilled``. Fans move ``moves`` times what is computed, before it begins and after.
    """

    begins_h: float
    ends_h: float
    still: frozenset[str] = frozenset()
    stuck: frozenset[str] = frozenset()
    out: frozenset[str] = frozenset()
    battery: frozenset[str] = frozenset()
    power: bool = False
    door: bool = False
    unfilled: bool = False
    hotter_k: float = 0.0
    dimmed: float = 1.0
    moves: float = 1.0
    second: float | None = None

    def gone(self, steps: int, step_min: float) -> Shares:
        """Give for how much of each step it is so.

        Parameters
        ----------
        steps : how many
        step_min : how long each is [min]

        Returns
        -------
        ndarray : shape (steps,), 0..1
        """
        edges = np.arange(steps + 1) * step_min / 60
        within = np.clip(edges, self.begins_h, self.ends_h)
        return np.asarray(np.diff(within) / (step_min / 60), dtype=np.float32)

    def stops(self, way_id: str) -> bool:
        """Say whether a way's fans stand.

        Parameters
        ----------
        way_id : which

        Returns
        -------
        bool : by itself or by a power cut
        """
        if self.power:
            return way_id not in self.battery and self.battery != ALL
        return way_id in self.still or self.still == ALL

    def warmer(self, weather: Weather) -> Weather:
        """Give a room's or another air as it is in a heatwave.

        Parameters
        ----------
        weather : as it would be

        Returns
        -------
        Weather : warmer by what it is, building up over six hours; the water in it stays
        """
        if not self.hotter_k:
            return weather
        hours = np.arange(len(weather.temperature_c)) * weather.every_s / 3600
        rising = np.clip((hours - self.begins_h) / _BUILDS_H, 0, 1)
        falling = np.clip((self.ends_h - hours) / _BUILDS_H, 0, 1)
        return Weather(
            id=weather.id,
            temperature_c=weather.temperature_c + self.hotter_k * np.minimum(rising, falling),
            ratio=weather.ratio,
            co2_ppm=weather.co2_ppm,
            every_s=weather.every_s,
        )


@dataclass(frozen=True, kw_only=True)
class Stretches(Upset):
    """What is amiss in several stretches of a run: from one hour until another [h since its first midnight]."""

    spans: tuple[tuple[float, float], ...] = ()

    def gone(self, steps: int, step_min: float) -> Shares:
        """Give for how much of each step it is so.

        Parameters
        ----------
        steps : how many
        step_min : how long each is [min]

        Returns
        -------
        ndarray : shape (steps,), 0..1
        """
        edges = np.arange(steps + 1) * step_min / 60
        share = np.zeros(steps)
        for begin, end in self.spans:
            share += np.diff(np.clip(edges, begin, end)) / (step_min / 60)
        return np.asarray(np.minimum(share, 1.0), dtype=np.float32)


def stuck_control(device: Device, key: str, where: str, gate: str, second: float | None) -> Control:
    """Write the switch of a device that sticks on.

    Parameters
    ----------
    device : which
    key : its group
    where : its enclosure
    gate : the drive that says when it sticks
    second : how far beyond its setting a second switch opens [K, %]; None without one

    Returns
    -------
    Control : asks for all of it, or for as much as the second switch lets through
    """
    setting = device.control
    if second is None or not isinstance(setting, Thermostat | Hygrostat):
        return Control(target=key, where=where, sensed=None, gate=gate)
    below = device.spec.kind not in ("cooler", "dehumidifier")
    off = second if below else -second
    if isinstance(setting, Thermostat):
        day, night, band = setting.day_c + off, setting.night_c + off, setting.band_k
        return Control(
            target=key, where=where, sensed=setting.senses, day=day, night=night, below=below, band=band, gate=gate
        )
    day, night = setting.day_rh_pct + off, setting.night_rh_pct + off
    return Control(
        target=key, where=where, sensed="rh", day=day, night=night, below=below, band=setting.band_pct, gate=gate
    )
