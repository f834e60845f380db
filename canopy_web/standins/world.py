"""The demo household as it really is: its hidden truth, its clock, and who switched what, kept over restarts."""

from __future__ import annotations

import datetime as dt
import json
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from pathlib import Path
from threading import RLock
from typing import Any
from zoneinfo import ZoneInfo

from canopy.logs.switching import LONGEST_MIN, Feeds, comes_on_by_itself
from canopy.plan import Plan, Space, loads
from canopy.plan.edit import shifted
from canopy.standins.house import House, Reading
from canopy.standins.truth import FAN, LAMPS, Off, Truth

DEMO_FILE = Path(__file__).resolve().parent.parent / "planning" / "demo-household.json"
# The household has been lived in for so long when somebody first looks [d].
LIVED_D = 9
SEED = 7
# What nobody planned. Somebody pulled the fan's plug for a night and put it back; it was three days ago. In the days
# before its wheel was cleaned and its duct hung anew.
TRUTHS = {
    "berry-tent": Truth(moves=0.74, leaks=1.6, shines=0.93),
    "hall-closet": Truth(moves=0.9, leaks=1.3, shines=0.97),
    "sideboard": Truth(leaks=0.8),
    "fern-case": Truth(leaks=1.5, shines=0.9),
}
_STOOD: tuple[tuple[int, tuple[float, float]], ...] = ((3, (1.2, 4.7)), (5, (16.1, 16.62)), (4, (10.3, 10.8)))
_KINDS: dict[str, Feeds] = {"heater": "heater", "heat-lamp": "heater", "mat": "heater", "co2": "co2"}
# Switched off without an end, it is off for so long [s].
_FOR_GOOD_S = 10 * 365 * 86400


@dataclass
class Clock:
    """The household's clock: this machine's, or one set back that runs faster until it has caught up."""

    real: Callable[[], float] = time.time
    begun: float = 0.0
    from_: float = 0.0
    rate: float = 1.0

    def now(self) -> int:
        """Give the second of UTC that it shows; never ahead of this machine's."""
        real = self.real()
        return int(min(real, self.from_ + (real - self.begun) * self.rate)) if self.rate > 1 else int(real)

    def run(self, days: float, within_s: float) -> None:
        """Go back so many days, and catch up within so many seconds."""
        self.begun = self.real()
        self.from_ = self.begun - days * 86400
        self.rate = max(1.0, days * 86400 / max(within_s, 1.0)) + 1.0

    @property
    def catching_up(self) -> bool:
        """Whether it still runs behind."""
        return self.rate > 1 and self.now() < int(self.real()) - 1


@dataclass
class World:
    """The household with its clock and its switches. Safe to ask from several threads."""

    folder: Path
    zone: ZoneInfo
    clock: Clock = field(default_factory=Clock)
    _lock: RLock = field(default_factory=RLock)
    _told: list[dict[str, Any]] = field(default_factory=list)

    def __post_init__(self) -> None:
        today = dt.datetime.fromtimestamp(self.clock.real(), self.zone).date()
        plan = loads(DEMO_FILE.read_bytes())
        plan = shifted(plan, today - plan.date)
        self.house = House(
            plan=plan,
            zone=self.zone,
            since=today - dt.timedelta(days=LIVED_D),
            seed=SEED,
            truths=TRUTHS,
            rich=frozenset({"berry-tent"}),
        )
        for days, hours in _STOOD:
            midnight = self.house.midnight(today - dt.timedelta(days=days))
            begin, end = (int(midnight + 3600 * hour) for hour in hours)
            self.house.switch("berry-tent", FAN, begin, end)
        for off in self._kept():
            self.house.offs.setdefault(off["space"], []).append(
                Off(socket=off["socket"], begin=off["begin"], end=off["end"])
            )

    @property
    def plan(self) -> Plan:
        """The household as it was planned."""
        return self.house.plan

    def space(self, space_id: str) -> Space:
        """Find a space; raises KeyError."""
        found = self.plan.space(space_id)
        if found is None:
            raise KeyError(space_id)
        return found

    def now(self, space: Space | None) -> tuple[int, list[Reading]]:
        """Give the second that the clock shows, and what is shown then."""
        with self._lock:
            at = self.clock.now()
            return at, self.house.now(space, at)

    def battery(self, at: int) -> float:
        """Give what is left in the hub's battery [%]: it loses a little over half a percent a day."""
        hung = self.house.midnight(self.house.since) - 30 * 86400
        return max(0.0, round(100 - 0.6 * (at - hung) / 86400))

    def feeds(self, space: Space, socket: str) -> Feeds:
        """Say what a socket feeds; raises KeyError for one that is not there."""
        if socket not in self.house.sockets(space):
            raise KeyError(socket)
        if socket in (FAN, LAMPS):
            return "fan" if socket == FAN else "lamps"
        device = next(item for item in space.devices if item.id == socket)
        return _KINDS.get(device.spec.kind, "humidifier" if device.spec.kind == "humidifier" else "other")

    def plug(self, space: Space, socket: str) -> dict[str, Any]:
        """Say how a plug stands: on or off, what it draws [W], what it counted [kWh]."""
        feeds = self.feeds(space, socket)
        with self._lock:
            at, shown = self.now(space)
            day = self.house.day_of(at)
            minute = (at - self.house.midnight(day)) // 60
            drawn = float(self.house.lived(space, day).watts[socket][: minute + 1].sum())
            back = self.house.since
            while back < day:
                drawn += float(self.house.lived(space, back).watts[socket].sum())
                back += dt.timedelta(days=1)
            power = next((item.value for item in shown if item.name == f"{socket} socket"), None)
            if power is None:
                power = float(self.house.lived(space, day).watts[socket][minute])
            return {
                "time": stamp(at),
                "on": not self.house.is_off(space.id, socket, at),
                "feeds": feeds,
                "power_w": round(power, 1),
                "energy_kwh": round(drawn / 60_000, 3),
            }

    def switch(self, space: Space, socket: str, on: bool, minutes: float | None, who: str) -> dict[str, Any]:
        """Switch a plug, off for some minutes or until somebody switches it on again.

        What could set fire or take the air never comes on again by itself, however it was asked.
        """
        feeds = self.feeds(space, socket)
        with self._lock:
            at = self.clock.now()
            self.house.cut_short(space.id, socket, at)
            if not on:
                ends = bool(minutes) and comes_on_by_itself(feeds)
                long = 60 * min(float(minutes or 0), LONGEST_MIN) if ends else _FOR_GOOD_S
                self.house.switch(space.id, socket, at, int(at + long))
            self._told.append({"time": stamp(at), "space": space.id, "socket": socket, "on": on, "who": who[:80]})
            self._keep()
        return self.plug(space, socket)

    @property
    def told(self) -> list[dict[str, Any]]:
        """Who switched what, the newest first."""
        return self._told[::-1][:50]

    def _file(self) -> Path:
        return self.folder / "stand-ins.json"

    def _kept(self) -> list[dict[str, Any]]:
        try:
            held = json.loads(self._file().read_text())
        except (OSError, ValueError):
            return []
        self._told = held.get("told", [])
        return list(held.get("offs", []))

    def _keep(self) -> None:
        offs = [{"space": key, **asdict(off)} for key, held in self.house.offs.items() for off in held]
        part = self._file().with_suffix(".part")
        part.write_text(json.dumps({"offs": offs[-200:], "told": self._told[-200:]}))
        part.replace(self._file())


def stamp(at: int) -> str:
    """Write a second of UTC as ISO 8601."""
    return f"{dt.datetime.fromtimestamp(at, dt.UTC):%Y-%m-%dT%H:%M:%SZ}"
