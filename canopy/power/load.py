"""What everything draws, hour sums, and what it costs."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.equipment import DeviceSpec
from canopy.library import LoadKind, find, load_kinds
from canopy.plan.airways import Airway, FanPart
from canopy.plan.document import Circuit, Space
from canopy.schedule import Always, Schedule, Span, day_hours, unbroken_h

CONTINUOUS_H = 3.0
_ALWAYS = Always()
MONTH_DAYS = 30.4


@dataclass(frozen=True, kw_only=True)
class Load:
    """One thing on a plug: drawn power [W] for so many hours a day, at a stretch at most ``unbroken_h``; None: all of
    them at once. What runs ``on_demand`` of the climate draws that at most, and is not in any balance of heat yet. A
    heater that stays where it is (``fixed``) counts as continuous however short its hours.

    ``schedule`` says when it runs, over the lamps' ``lit`` spans, at ``lit_share`` of its power while they are on and
    ``dark_share`` while they are off; ``ramps`` that it rises and falls; ``any_time`` that it may start at any time.
    ``kind_id`` names how its kind draws, ``plug`` what it is plugged into, ``chain`` the lamps it is linked to.
    """

    part_id: str
    name: str
    power_w: float
    hours_per_day: float
    heats_space: float = 1.0
    unbroken_h: float | None = None
    on_demand: bool = False
    fixed: bool = False
    schedule: Schedule = _ALWAYS
    lit: tuple[Span, ...] = ()
    lit_share: float = 1.0
    dark_share: float = 1.0
    ramps: bool = False
    any_time: bool = False
    kind_id: str = "other"
    plug: str | None = None
    pinned: bool = False
    chain: str = ""

    @property
    def kind(self) -> LoadKind:
        """How its kind draws."""
        return find(load_kinds(), self.kind_id, "kind of load")

    @property
    def va(self) -> float:
        """What it loads a circuit with [VA]: its power over its power factor."""
        return self.power_w / self.kind.power_factor

    @property
    def energy_kwh_d(self) -> float:
        """Energy a day [kWh]."""
        return self.power_w * self.hours_per_day / 1000

    @property
    def continuous(self) -> bool:
        """Whether it runs for three hours or more at a stretch: ten minutes of every hour do not count. A thermostat
        may hold a fixed heater on for as long as it takes.
        """
        if self.fixed and self.hours_per_day > 0:
            return True
        longest = self.hours_per_day if self.unbroken_h is None else self.unbroken_h
        return min(longest, 24.0) >= CONTINUOUS_H and self.hours_per_day > 0


def other_loads(circuit: Circuit) -> tuple[Load, ...]:
    """Give the household's other loads on a circuit.

    Returns
    -------
    tuple of Load : one for each
    """
    return tuple(
        Load(
            part_id=item.id,
            name=item.name,
            power_w=item.power_w,
            hours_per_day=min(24.0, day_hours(item.schedule)),
            unbroken_h=unbroken_h(item.schedule),
            schedule=item.schedule,
            any_time=item.any_time,
            kind_id="household",
            plug=item.plug,
        )
        for item in circuit.other_loads
    )


def appliance_loads(space: Space, density: float = 1.0) -> tuple[Load, ...]:
    """Give the loads of a space that are not lamps: its fans, circulation fans and devices.

    Parameters
    ----------
    density : density of the air against sea level's, over 0

    Returns
    -------
    tuple of Load : one for each; a fan draws by the air's density and the cube (a mains motor: the square) of its
        speed, at its faster speed for as many hours as give the day's energy. One that blows in or hangs inside heats
        the space, one outside that draws out does not
    """
    lit = space.lit
    found = [
        _fan_load(space, airway, part, density)
        for airway in space.airways
        for part in airway.parts
        if part.kind == "fan"
    ]
    for stirrer in space.stirrers:
        if stirrer.enabled:
            found.append(
                Load(
                    part_id=stirrer.id,
                    name=stirrer.spec.name,
                    power_w=density * stirrer.spec.power_w * stirrer.speed**3,
                    hours_per_day=24 * stirrer.duty(lit),
                    unbroken_h=unbroken_h(stirrer.schedule, lit),
                    schedule=stirrer.schedule,
                    lit=lit,
                    kind_id="fan-electronic",
                    plug=stirrer.plug,
                    pinned=stirrer.pinned,
                )
            )
    for device in space.devices:
        spec = device.spec
        found.append(
            Load(
                part_id=device.id,
                name=spec.name,
                power_w=spec.power_w,
                hours_per_day=min(24.0, day_hours(device.schedule, lit)),
                unbroken_h=unbroken_h(device.schedule, lit),
                heats_space=spec.heats_space,
                on_demand=spec.on_demand,
                fixed=spec.kind == "heater",
                schedule=device.schedule,
                lit=lit,
                kind_id=kind_of_device(spec),
                plug=device.plug,
                pinned=device.pinned,
            )
        )
    return tuple(found)


def _fan_load(space: Space, airway: Airway, part: FanPart, density: float) -> Load:
    lit, lit_h = space.lit, space.lit_hours
    halves = [
        (hours * airway.duty(lit, while_lit=on), part.speed_at(lit=on))
        for on, hours in ((True, lit_h), (False, 24 - lit_h))
    ]
    fastest = max((speed for hours, speed in halves if hours > 0), default=0.0)
    hours = 0.0
    if fastest > 0:
        hours = sum(hours * part.spec.drawn_share(speed) for hours, speed in halves) / part.spec.drawn_share(fastest)
    heats = 1.0 if airway.way == "in" or airway.is_inside(part.id) else 0.0
    name = part.spec.name if part.count == 1 else f"{part.count} × {part.spec.name}"
    return Load(
        part_id=part.id,
        name=name,
        power_w=density * part.count * part.spec.power_w * part.spec.drawn_share(fastest),
        hours_per_day=min(24.0, hours),
        unbroken_h=unbroken_h(airway.schedule, lit),
        heats_space=heats,
        schedule=airway.schedule,
        lit=lit,
        lit_share=_against(part, part.speed_at(lit=True), fastest),
        dark_share=_against(part, part.speed_at(lit=False), fastest),
        kind_id="fan-electronic" if part.spec.electronic else "fan-mains",
        plug=part.plug,
        pinned=part.pinned,
    )


def _against(part: FanPart, speed: float, fastest: float) -> float:
    return part.spec.drawn_share(speed) / part.spec.drawn_share(fastest) if fastest > 0 else 0.0


_DEVICE_KINDS = {"heater": "heater", "mat": "mat", "heat-lamp": "incandescent", "cooler": "compressor", "pump": "pump"}
_DEVICE_KINDS |= {"circulation": "fan-mains", "humidifier": "electronic", "co2": "electronic", "other": "other"}


def kind_of_device(spec: DeviceSpec) -> str:
    """Name how a device draws.

    Parameters
    ----------
    spec : its data sheet

    Returns
    -------
    str : a kind of load of the library; a humidifier that boils is a heater to its plug
    """
    if spec.kind == "dehumidifier":
        return (
            "compressor" if spec.drying == "refrigerant" else "heater" if spec.drying == "desiccant" else "electronic"
        )
    if spec.kind == "humidifier" and spec.mist == "steam":
        return "heater"
    return _DEVICE_KINDS[spec.kind]
