"""A space as it really is: its fan moves less than planned, it leaks more, its lamps have aged, plugs are pulled."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from canopy.climate import engine
from canopy.climate.moist import RATIO, saturation_pa
from canopy.climate.simulate import Days
from canopy.climate.system import System
from canopy.evaluate.climate.building import system_of
from canopy.evaluate.climate.days import traces_of
from canopy.evaluate.climate.upsets import ALL, Stretches
from canopy.evaluate.light.lighting import lighting as lighting_of
from canopy.light.photometry import fixture_load
from canopy.plan import Plan, Space
from canopy.plan.correction import Correction, Subject
from canopy.power import appliance_loads
from canopy.season import cast_of, standing_of
from canopy.weather.reading import Hours

Array = NDArray[np.float64]
Shares = NDArray[np.float32]
# A day is followed from the midnight before on, so that warmth and water have settled [h]; figures are minutes.
_SETTLES_H, _MINUTE_S, DAY_MIN = 24, 60.0, 1440
FAN, LAMPS = "fan", "lamps"


@dataclass(frozen=True, kw_only=True)
class Truth:
    """What is otherwise than planned: the fans move ``moves`` times what is computed, seams leak ``leaks`` times as
    much, the lamps give ``shines`` times their light and draw and heat ``heats`` times as much, walls pass ``passes``
    times as much, leaves open ``opens`` times as far, devices give ``yields`` times their output, roots and medium
    breathe ``breathes`` times as much, and pots' surfaces are ``wets`` times as wet.
    """

    moves: float = 1.0
    leaks: float = 1.0
    shines: float = 1.0
    heats: float = 1.0
    passes: float = 1.0
    opens: float = 1.0
    yields: float = 1.0
    breathes: float = 1.0
    wets: float = 1.0

    def of(self, space: Space, day: dt.date) -> Space:
        """Give a space as it really is.

        Parameters
        ----------
        space : as it was planned; what was learnt of it is left out
        day : on which

        Returns
        -------
        Space : with what is otherwise as factors on what is computed
        """
        plain: list[tuple[Subject, str | None, float]] = [
            ("leak", None, self.leaks),
            ("walls", None, self.passes),
            ("leaves", None, self.opens),
            ("lamp-heat", None, self.heats),
        ]
        plain += [("airflow", way.id, self.moves) for way in space.airways if way.fans]
        plain += [("device", device.id, self.yields) for device in space.devices]
        learnt = tuple(
            Correction(
                id=f"truth-{number}",
                subject=subject,
                target=target,
                factor=factor,
                standard_error=0.0,
                found_on=day,
                basis="log",
            )
            for number, (subject, target, factor) in enumerate(plain)
            if factor != 1.0
        )
        return space.model_copy(update={"learnt": learnt})


@dataclass(frozen=True, kw_only=True)
class Off:
    """A socket that is off from a second of UTC until another: ``fan`` or ``lamps``, or a device's id."""

    socket: str
    begin: int
    end: int


@dataclass(frozen=True, kw_only=True, eq=False)
class Lived:
    """A day of a space minute by minute, each shape (1440,): what is measured by quantity, and what its sockets draw
    [W].
    """

    measured: Mapping[str, Array]
    watts: Mapping[str, Array]


def lived(
    plan: Plan, space: Space, day: dt.date, midnight: int, truth: Truth, room: Hours, offs: Sequence[Off] = ()
) -> Lived:
    """Follow a space through a day as it really is.

    Parameters
    ----------
    plan : as it was planned
    space : one of its spaces
    day : by the household's clock
    midnight : its first second [s of UTC]
    truth : what is otherwise than planned
    room : the air of its room from the midnight before on, two days and an hour
    offs : when its sockets were off

    Returns
    -------
    Lived : minute by minute
    """
    really = truth.of(space, day)
    plan = plan.model_copy(update={"spaces": tuple(really if item.id == space.id else item for item in plan.spaces)})
    here = standing_of(really, day, cast_of(plan))
    light = lighting_of(here, with_map=False)
    first = midnight - _SETTLES_H * 3600
    spans: dict[str, list[tuple[float, float]]] = {FAN: [], LAMPS: []}
    for item in offs:
        spans.setdefault(item.socket, []).append(((item.begin - first) / 3600, (item.end - first) / 3600))
    hours = 2 * _SETTLES_H
    still = Stretches(begins_h=0, ends_h=0, still=ALL, spans=tuple(spans[FAN]))
    system = system_of(plan, here, light, hours=hours, upset=still, every_s=_MINUTE_S, weather=room).system
    off = {socket: _shares(tuple(held), system.steps, system.dt_s / 60) for socket, held in spans.items()}
    days = engine.run(_really(system, really, truth, off))
    traces = traces_of(days, space.id)
    part = slice(-DAY_MIN, None)
    return Lived(
        measured={
            "air_c": traces.air_c[part],
            "rh_pct": traces.rh_pct[part],
            "co2_ppm": traces.co2_ppm[part],
            "root_c": traces.root_c[part],
            "leaf_c": traces.leaf_c[part],
            "ppfd": _light(system, days.groups, space.id, truth)[part],
            **_around(days, space, part),
        },
        watts=_watts(system, days.groups, really, truth, off, part),
    )


def _around(days: Days, space: Space, part: slice) -> Mapping[str, Array]:
    """The air of the room, minute by minute: as the spaces in it leave it where that is followed."""
    system = days.system
    hall = next((number for number, room in enumerate(system.rooms) if room.id == f"hall-{space.room_id}"), None)
    if hall is not None:
        warm, ratio = days.rooms[part, hall, 0], days.rooms[part, hall, 1]
    else:
        free = next(item for item in system.weathers if item.id == f"room-{space.room_id}")
        at = days.hours * 3600 / free.every_s
        moments = np.arange(len(free.ratio))
        warm, ratio = np.interp(at, moments, free.temperature_c)[part], np.interp(at, moments, free.ratio)[part]
    vapour = system.pressure_pa * ratio / (RATIO + ratio)
    full = np.array([saturation_pa(float(t)) for t in warm])
    return {"room_c": np.asarray(warm), "room_rh": np.minimum(100 * vapour / full, 100.0)}


def _shares(spans: tuple[tuple[float, float], ...], steps: int, step_min: float) -> Shares:
    return Stretches(begins_h=0, ends_h=0, spans=spans).gone(steps, step_min)


def _really(system: System, space: Space, truth: Truth, off: Mapping[str, Shares]) -> System:
    """Lamps that give less light for the same power, and sockets that are off."""
    drives, groups = dict(system.drives), []
    for group in system.groups:
        if group.where == space.id and group.id.startswith(f"lamps-{space.id}-"):
            group = replace(group, gives=replace(group.gives, ppfd=truth.shines * group.gives.ppfd))
            drives[group.drive] = system.drives[group.drive] * (1 - off[LAMPS])
        device = group.id.removeprefix(f"{space.id}/")
        if device != group.id and device in off:
            drives[group.drive] = system.drives[group.drive] * (1 - off[device])
        groups.append(group)
    enclosures = tuple(
        replace(
            item,
            breath_mol_s=truth.breathes * item.breath_mol_s,
            pots=replace(item.pots, wet=min(1.0, truth.wets * item.pots.wet)),
        )
        if item.id == space.id
        else item
        for item in system.enclosures
    )
    return replace(system, groups=tuple(groups), drives=drives, enclosures=enclosures)


def _light(system: System, ran: Array, space_id: str, truth: Truth) -> Array:
    """What a meter among the leaves shows [µmol/m²/s]."""
    total = np.zeros(len(ran))
    for number, group in enumerate(system.groups):
        if group.where == space_id:
            shines = truth.shines if group.id.startswith(f"lamps-{space_id}-") else 1.0
            total += shines * group.gives.ppfd * ran[:, number]
    return total


def _watts(
    system: System, ran: Array, space: Space, truth: Truth, off: Mapping[str, Shares], part: slice
) -> Mapping[str, Array]:
    """What each socket draws, minute by minute [W]."""
    lamps = [number for number, group in enumerate(system.groups) if group.id.startswith(f"lamps-{space.id}-")]
    drawn = truth.heats * sum(fixture_load(lamp) for lamp in space.fixtures)
    found = {LAMPS: drawn * np.mean(ran[:, lamps], axis=1)[part] if lamps else np.zeros(DAY_MIN)}
    fans = {fan.id for way in space.airways for fan in way.fans}
    blows = sum(load.power_w for load in appliance_loads(space) if load.part_id in fans)
    if blows:
        minutes = off[FAN].reshape(-1, system.every).mean(axis=1)
        found[FAN] = blows * (1 - minutes[part])
    for device in space.devices:
        keys = [number for number, group in enumerate(system.groups) if group.id == f"{space.id}/{device.id}"]
        if keys:
            found[device.id] = device.spec.power_w * ran[:, keys[0]][part]
    return found
