"""What can go wrong in a space, when of the day it would be worst, and for how long."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from canopy.evaluate.climate.days import Simulated
from canopy.evaluate.climate.upsets import ALL, Upset
from canopy.plan.document import Device, Space

Asks = Literal["h", "d", "K", ""]
# Days alike go before what goes wrong [h].
SETTLED_H = 48.0
_STICKS = {
    "heater": "Heater sticks on",
    "mat": "Heat mat's thermostat fails",
    "heat-lamp": "Heat lamp sticks on",
    "humidifier": "Humidifier sticks on",
    "dehumidifier": "Dehumidifier sticks on",
    "cooler": "Cooling sticks on",
    "co2": "CO2 valve sticks open",
}
_FAILS = {"humidifier": "Humidifier runs dry", "heater": "Heater fails", "dehumidifier": "Dehumidifier fails"}


@dataclass(frozen=True, kw_only=True)
class Fault:
    """Something that can go wrong: its key, name, what is meant, how long or how much unless said, up to how much.

    ``worst`` finds the hour of a normal day at which it would be worst; ``upset`` makes it.
    """

    key: str
    name: str
    words: str
    asks: Asks
    usual: float
    most: float
    worst: Callable[[Simulated], float]
    upset: Callable[[float, float], Upset]

    def at(self, normal: Simulated, amount: float) -> Upset:
        """Lay it behind days alike, where it would be worst.

        Parameters
        ----------
        normal : the space's normal days
        amount : how long or how much, in what it asks for

        Returns
        -------
        Upset : in hours of a run that begins with two days alike
        """
        return self.upset(SETTLED_H + self.worst(normal), amount)


def _at_extreme(name: str, *, most: bool) -> Callable[[Simulated], float]:
    def hour(normal: Simulated) -> float:
        rows = np.flatnonzero(normal.last)
        values = getattr(normal.traces, name)[rows]
        best = rows[int(values.argmax() if most else values.argmin())]
        # To the quarter of an hour: nobody knows it better.
        return round(float(normal.traces.hours[best] % 24) * 4) / 4 % 24

    return hour


def _in_light(normal: Simulated) -> float:
    """When lamps have been on for a while and stay on for long: at half of their longest stretch, at most four hours
    into it; noon where there are none.
    """
    rows = np.flatnonzero(normal.last)
    lit = normal.traces.lit[rows] > 0.5
    if not lit.any():
        return 12.0
    if lit.all():
        return _at_extreme("air_c", most=True)(normal)
    # From the first hour after a night on, so that no stretch is parted at midnight.
    first = int(np.flatnonzero(~lit)[0])
    turned = np.concatenate([[False], np.roll(lit, -first), [False]]).astype(int)
    starts, ends = np.flatnonzero(np.diff(turned) > 0), np.flatnonzero(np.diff(turned) < 0)
    longest = int((ends - starts).argmax())
    every_h = normal.days.every_s / 3600
    into = min(4.0, (ends - starts)[longest] * every_h / 2)
    begins = normal.traces.hours[rows[0]] + (starts[longest] + first) * every_h
    return float(round((float(begins) + into) * 4) / 4 % 24)


def _dusk(normal: Simulated) -> float:
    """When the lamps go out; eight in the evening where they do not."""
    lit = normal.traces.lit[normal.last] > 0.5
    ends = np.flatnonzero(lit[:-1] & ~lit[1:])
    return float(normal.traces.hours[normal.last][ends[0] + 1] % 24) if len(ends) else 20.0


def _midnight(normal: Simulated) -> float:
    return 0.0


def _lasting(**what: object) -> Callable[[float, float], Upset]:
    return lambda begins, hours: Upset(begins_h=begins, ends_h=begins + hours, **what)  # type: ignore[arg-type]


def _of_device(device: Device) -> list[Fault]:
    """What can go wrong with one device."""
    kind, name, found = device.spec.kind, device.spec.name, []
    one = frozenset({device.id})
    wettest = _at_extreme("rh_pct", most=True)
    worst = {
        "mat": _midnight,
        "humidifier": wettest,
        "dehumidifier": _at_extreme("rh_pct", most=False),
        "cooler": _at_extreme("air_c", most=False),
        "co2": _dusk,
    }.get(kind, _in_light)
    if kind in _STICKS:
        found.append(
            Fault(
                key=f"stuck-{device.id}",
                name=_STICKS[kind],
                words=f"{name} runs on whatever its switch says.",
                asks="h",
                usual=24.0 if kind == "mat" else 12.0,
                most=72.0,
                worst=worst,
                upset=_lasting(stuck=one),
            )
        )
    if kind in _FAILS:
        fails = {"humidifier": _at_extreme("rh_pct", most=False), "dehumidifier": wettest}
        found.append(
            Fault(
                key=f"out-{device.id}",
                name=_FAILS[kind],
                words=f"{name} gives nothing any more.",
                asks="h",
                usual=24.0,
                most=72.0,
                worst=fails.get(kind, _at_extreme("air_c", most=False)),
                upset=_lasting(out=one),
            )
        )
    return found


def possible(space: Space) -> tuple[Fault, ...]:
    """List what can go wrong in a space by what stands in it.

    Parameters
    ----------
    space : with its fans, devices and door

    Returns
    -------
    tuple of Fault : what it has no parts for is left out
    """
    found: list[Fault] = []
    if any(way.fans for way in space.airways):
        found.append(
            Fault(
                key="exhaust",
                name="Fans stop with lamps on",
                words="All fans that move air in and out stand still; leaks and openings stay.",
                asks="h",
                usual=8.0,
                most=72.0,
                worst=_in_light,
                upset=_lasting(still=ALL),
            )
        )
    for device in space.devices:
        found += _of_device(device)
    found.append(
        Fault(
            key="power",
            name="Power cut",
            words="Lamps, fans and devices are all dead.",
            asks="h",
            usual=8.0,
            most=72.0,
            worst=_at_extreme("air_c", most=False),
            upset=_lasting(power=True),
        )
    )
    found.append(
        Fault(
            key="heatwave",
            name="Heatwave",
            words="The room is so much warmer for three days and nights.",
            asks="K",
            usual=8.0,
            most=25.0,
            worst=_midnight,
            upset=lambda begins, kelvin: Upset(begins_h=begins, ends_h=begins + 72, hotter_k=kelvin),
        )
    )
    if space.door_side and not space.door_open:
        found.append(
            Fault(
                key="door",
                name="Door left open",
                words="From when the lamps go out.",
                asks="h",
                usual=9.0,
                most=72.0,
                worst=_dusk,
                upset=_lasting(door=True),
            )
        )
    found.append(
        Fault(
            key="away",
            name="Away",
            words="Nobody fills a tank or waters a pot.",
            asks="d",
            usual=7.0,
            most=14.0,
            worst=_midnight,
            upset=lambda begins, days: Upset(begins_h=begins, ends_h=begins + 24 * days, unfilled=True),
        )
    )
    return tuple(found)
