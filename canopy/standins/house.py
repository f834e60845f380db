"""A household that is lived in: its spaces day by day as they really are, what probes show of them, its sockets."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from canopy.plan import Plan, Space
from canopy.plan.rooms import Room
from canopy.standins.probes import Probe, shown
from canopy.standins.truth import DAY_MIN, FAN, LAMPS, Lived, Off, Truth, lived
from canopy.standins.weather import in_room, outdoors
from canopy.weather.reading import Hours

Array = NDArray[np.float64]
# Probes were hung so long before anybody looked [d].
_HUNG_BEFORE_D = 30
_KEPT_DAYS = 40
# Of a household that does not say where it lies [°].
_LATITUDE = 50.0
# What the air of a dwelling's spaces is measured with; their errors are a cheap probe's (our own, within usual data
# sheets: ±0.3 K, ±3 % RH, ±50 ppm).
_PLAIN = (
    Probe(name="air", quantity="air_c", offset=0.2, noise=0.05, step=0.1, lag_min=3),
    Probe(name="damp", quantity="rh_pct", offset=-1.2, drift_a_day=0.02, noise=0.25, step=0.1, lag_min=5, most=100),
)
_MORE = (
    Probe(name="co2", quantity="co2_ppm", offset=18, noise=9, step=1, lag_min=2, silent_a_day=0.3),
    Probe(name="root", quantity="root_c", offset=-0.1, noise=0.03, step=0.1, lag_min=4, silent_a_day=0.2),
    Probe(name="light", quantity="ppfd", noise=2.5, step=1, least=0, silent_a_day=0.2),
)
# A second thermometer with hygrometer, in the room.
_ROOM = (
    Probe(name="room air", quantity="room_c", offset=-0.1, noise=0.05, step=0.1, lag_min=4),
    Probe(name="room damp", quantity="room_rh", offset=1.5, noise=0.3, step=0.1, lag_min=5, most=100),
)
# What such a probe tells of, as readings are named.
_TOLD = {"room_c": "air_c", "room_rh": "rh_pct"}
_OUTSIDE = (
    Probe(name="outdoor air", quantity="air_c", noise=0.05, step=0.1, lag_min=6),
    Probe(name="outdoor damp", quantity="rh_pct", offset=1.0, noise=0.4, step=1, lag_min=8, most=100),
)


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What a probe shows: of which space ("" for outdoors), where it hangs, its name, what it measures."""

    space_id: str
    place: str
    name: str
    quantity: str
    value: float


@dataclass(eq=False)
class House:
    """A household with a truth of its own.

    ``truths`` are by space; a space without one is as planned. ``offs`` are when sockets were off, by space; they may
    be added to while it runs. ``since`` is the first day that anybody asks for.
    """

    plan: Plan
    zone: ZoneInfo
    since: dt.date
    seed: int = 7
    truths: Mapping[str, Truth] = field(default_factory=dict)
    offs: dict[str, list[Off]] = field(default_factory=dict)
    rich: frozenset[str] = frozenset()
    _days: dict[tuple[str, dt.date], Lived] = field(default_factory=dict)

    def midnight(self, day: dt.date) -> int:
        """Give a day's first second by the household's clock [s of UTC]."""
        return int(dt.datetime.combine(day, dt.time(), self.zone).timestamp())

    def day_of(self, at: int) -> dt.date:
        """Give the day of a second of UTC, by the household's clock."""
        return dt.datetime.fromtimestamp(at, self.zone).date()

    def weather(self, day: dt.date, hours: int = 24) -> Hours:
        """Give the weather outdoors from a midnight on."""
        return outdoors(self.seed, self.plan.site.latitude_deg or _LATITUDE, day, hours)

    def room_air(self, room: Room, day: dt.date, hours: int = 24) -> Hours:
        """Give the air of a room from a midnight on."""
        site = self.plan.site
        return in_room(room, self.weather(day, hours), self.seed, site.latitude_deg or _LATITUDE, site.altitude_m)

    def lived(self, space: Space, day: dt.date) -> Lived:
        """Give a day of a space; it is followed once, and anew when a socket was switched since."""
        key = (space.id, day)
        if key not in self._days:
            room = next(room for room in self.plan.rooms if room.id == space.room_id)
            air = self.room_air(room, day - dt.timedelta(days=1), 49)
            truth = self.truths.get(space.id, Truth())
            midnight = self.midnight(day)
            offs = [off for off in self.offs.get(space.id, ()) if off.end > midnight - 86400]
            self._days[key] = lived(self.plan, space, day, midnight, truth, air, offs)
            while len(self._days) > _KEPT_DAYS * max(1, len(self.plan.spaces)):
                del self._days[next(iter(self._days))]
        return self._days[key]

    def switch(self, space_id: str, socket: str, begin: int, end: int) -> None:
        """Let a socket be off from a second of UTC until another; what was followed beyond it is followed anew."""
        self.offs.setdefault(space_id, []).append(Off(socket=socket, begin=begin, end=end))
        for key in [key for key in self._days if key[0] == space_id and key[1] >= self.day_of(begin)]:
            del self._days[key]

    def cut_short(self, space_id: str, socket: str, at: int) -> None:
        """Let a socket be on again from a second on."""
        held = self.offs.get(space_id, [])
        self.offs[space_id] = [
            Off(socket=off.socket, begin=off.begin, end=min(off.end, at)) if off.socket == socket else off
            for off in held
            if off.socket != socket or off.begin < at
        ]
        for key in [key for key in self._days if key[0] == space_id and key[1] >= self.day_of(at)]:
            del self._days[key]

    def is_off(self, space_id: str, socket: str, at: int) -> bool:
        """Say whether a socket is off at a second."""
        return any(off.socket == socket and off.begin <= at < off.end for off in self.offs.get(space_id, ()))

    def sockets(self, space: Space) -> tuple[str, ...]:
        """Name the sockets of a space."""
        fans = (FAN,) if any(way.fans for way in space.airways) else ()
        return (*fans, *((LAMPS,) if space.fixtures else ()), *(device.id for device in space.devices))

    def probes(self, space: Space) -> tuple[Probe, ...]:
        """Give the probes that hang in a space."""
        return (*_PLAIN, *_MORE, *_ROOM) if space.id in self.rich else _PLAIN

    def through(self, space: Space | None, day: dt.date) -> list[tuple[Reading, Array]]:
        """Give what all probes and sockets of a space show through a day, or what those outdoors do.

        Parameters
        ----------
        space : one of the plan's; None for outdoors
        day : by the household's clock

        Returns
        -------
        list of (Reading, ndarray) : the first minute's reading with all minutes' values, shape (1440,); NaN for none
        """
        hung = (self.since - dt.timedelta(days=_HUNG_BEFORE_D)).toordinal()
        if space is None:
            out = self.weather(day, 25)
            minutes = np.arange(DAY_MIN) / 60
            true = {"air_c": np.interp(minutes, np.arange(25), out.temperature_c)}
            true["rh_pct"] = np.interp(minutes, np.arange(25), out.rh_pct)
            return [
                _reading("", "outdoors", probe, shown(probe, true[probe.quantity], day.toordinal(), hung, self.seed))
                for probe in _OUTSIDE
            ]
        there = self.lived(space, day)
        salt = self.seed + sum(space.id.encode())
        found = []
        for probe in self.probes(space):
            told = shown(probe, there.measured[probe.quantity], day.toordinal(), hung, salt)
            told_of = replace(probe, quantity=_TOLD.get(probe.quantity, probe.quantity))
            found.append(_reading(space.id, "room" if probe.quantity in _TOLD else "space", told_of, told))
        for socket in self.sockets(space) if space.id in self.rich else ():
            probe = Probe(name=f"{socket} socket", quantity="power_w", noise=0.15, step=0.1, least=0, silent_a_day=0.1)
            drawn = there.watts.get(socket, np.zeros(DAY_MIN))
            found.append(_reading(space.id, "space", probe, shown(probe, drawn, day.toordinal(), hung, salt)))
        return found

    def now(self, space: Space | None, at: int) -> list[Reading]:
        """Give what is shown at a second of UTC; without those that are silent."""
        day = self.day_of(at)
        minute = min(DAY_MIN - 1, (at - self.midnight(day)) // 60)
        return [
            Reading(
                space_id=item.space_id,
                place=item.place,
                name=item.name,
                quantity=item.quantity,
                value=float(values[minute]),
            )
            for item, values in self.through(space, day)
            if np.isfinite(values[minute])
        ]


def _reading(space_id: str, place: str, probe: Probe, values: Array) -> tuple[Reading, Array]:
    first = Reading(space_id=space_id, place=place, name=probe.name, quantity=probe.quantity, value=float(values[0]))
    return first, values


def history(house: House, spaces: Sequence[Space], begin: int, end: int, every_min: int) -> list[tuple[Reading, int]]:
    """Give all that was shown from one second of UTC to before another.

    Parameters
    ----------
    house : which
    spaces : of its plan; outdoors comes with them
    begin : seconds of UTC
    end : after it
    every_min : one reading in so many minutes, at least 1

    Returns
    -------
    list of (Reading, int) : with its second
    """
    found = []
    day = house.day_of(begin)
    while house.midnight(day) < end:
        first = house.midnight(day)
        for space in (*spaces, None):
            for item, values in house.through(space, day):
                for minute in range(0, DAY_MIN, every_min):
                    at = first + 60 * minute
                    if begin <= at < end and np.isfinite(values[minute]):
                        found.append((Reading(**{**vars(item), "value": float(values[minute])}), at))
        day += dt.timedelta(days=1)
    return found
