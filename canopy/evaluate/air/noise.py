"""What of a space's fans is heard in the room around it."""

from __future__ import annotations

from dataclasses import dataclass
from math import log10

from canopy.air.fan_curve import STANDS
from canopy.air.noise import FREE_FIELD_DB, at_speed_db, guessed_dba_1m, in_room_db, together_db
from canopy.library import find, leaks
from canopy.plan.airways import AirPart, Airway, FanPart, Stirrer
from canopy.plan.document import Space

# Against the level that sheets state beside the fan, what its casing gives and what leaves an open inlet or outlet:
# ducted fans are measured with both ends led away, and an open end is much louder (150 mm at full: a sound power of 65
# to 70 dB, usual); fans in the open send half each way, and their casing a tenth.
_CASING_DB = {"inline": 0.0, "axial": -3.0, "case": -10.0}
_END_DB = {"inline": 9.0, "axial": 6.0, "case": -3.0}


@dataclass(frozen=True, kw_only=True)
class Heard:
    """One source as it is heard: its name, its level at 1 m by itself, and its level at the listener [dB(A)]."""

    part_id: str
    name: str
    at_1m_dba: float
    heard_dba: float
    guessed: bool = False


@dataclass(frozen=True, kw_only=True)
class Noise:
    """All that is heard at the listener, together and by source [dB(A)]."""

    total_dba: float | None
    sources: tuple[Heard, ...]


def noise_of(space: Space, *, lit: bool = True) -> Noise:
    """Find what is heard of a space's fans and devices in the room, all of them running.

    Parameters
    ----------
    space : the space, with the distance of the listener
    lit : lamps on, or off

    Returns
    -------
    Noise : ±5 dB; no level where nothing runs

    Notes
    -----
    Sound power from the level at 1 m, by 50 log10 of speed; what leaves an open end passes what lies there (filter,
    lined duct, muffler), of ducted fans 6 to 9 dB over what sheets state beside them; inside it is held back by the
    shell; the room answers with R = 12 m² (ASHRAE, sound and vibration control, for speed and room effect).
    """
    cut = find(leaks(), space.kind, "leak").noise_cut_db
    found = []
    for airway in space.airways:
        for part in airway.fans:
            speed = part.speed_at(lit=lit)
            if speed >= STANDS:
                found.append(_fan(space, airway, part, speed, cut))
    found += [_stirrer(space, stirrer, cut) for stirrer in space.stirrers if stirrer.enabled]
    found += [
        Heard(
            part_id=device.id,
            name=device.spec.name,
            at_1m_dba=device.spec.noise_dba_1m,
            heard_dba=in_room_db(device.spec.noise_dba_1m + FREE_FIELD_DB - cut, space.air.listen_m),
            guessed=False,
        )
        for device in space.devices
        if device.spec.noise_dba_1m is not None
    ]
    if not found:
        return Noise(total_dba=None, sources=())
    return Noise(
        total_dba=together_db(source.heard_dba for source in found),
        sources=tuple(sorted(found, key=lambda source: -source.heard_dba)),
    )


def _level(noise_dba_1m: float | None, flow_m3_h: float) -> float:
    return noise_dba_1m if noise_dba_1m is not None else guessed_dba_1m(flow_m3_h)


def _fan(space: Space, airway: Airway, part: FanPart, speed: float, cut: float) -> Heard:
    at_1m = at_speed_db(_level(part.spec.noise_dba_1m, part.spec.free_flow_m3_h), speed) + 10 * log10(part.count)
    power = at_1m + FREE_FIELD_DB
    place = next(number for number, item in enumerate(airway.parts) if item.id == part.id)
    outwards, inside = airway.way == "out", airway.is_inside(part.id)
    end = power + _END_DB[part.spec.kind]
    inlet = end - _taken(airway.parts[:place])
    outlet = end - _taken(airway.parts[place + 1 :])
    into_room = airway.ends == "room"
    ways = [power + _CASING_DB[part.spec.kind] - (cut if inside else 0.0)]
    if outwards:
        ways.append(inlet - cut)
        if into_room:
            ways.append(outlet)
    else:
        ways.append(outlet - cut)
        if into_room:
            ways.append(inlet)
    return Heard(
        part_id=part.id,
        name=part.spec.name,
        at_1m_dba=at_1m,
        heard_dba=in_room_db(together_db(ways), space.air.listen_m),
        guessed=part.spec.noise_dba_1m is None,
    )


def _taken(parts: tuple[AirPart, ...]) -> float:
    """What filters, mufflers and lined ducts take out of the sound along the stream [dB]."""
    total = 0.0
    for part in parts:
        if part.kind in ("filter", "fitting"):
            total += part.spec.noise_cut_db
        elif part.kind == "duct":
            total += part.spec.noise_cut_db_m * part.length_m
        elif part.kind == "bend":
            total += 1.0
    return total


def _stirrer(space: Space, stirrer: Stirrer, cut: float) -> Heard:
    spec = stirrer.spec
    at_1m = at_speed_db(_level(spec.noise_dba_1m, spec.flow_m3_h), stirrer.speed)
    return Heard(
        part_id=stirrer.id,
        name=spec.name,
        at_1m_dba=at_1m,
        heard_dba=in_room_db(at_1m + FREE_FIELD_DB - cut, space.air.listen_m),
        guessed=spec.noise_dba_1m is None,
    )
