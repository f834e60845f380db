"""Systems to simulate in tests: tents, cases, cabinets, boxes, joined spaces, rooms that warm up."""

from __future__ import annotations

from math import exp

import numpy as np

from canopy.climate.moist import RATIO, saturation_pa
from canopy.climate.system import Enclosure, Face, Gives, Group, Leaves, Link, Pots, RoomNode, System, Weather

PRESSURE = 101325.0


def ratio(t: float, rh: float) -> float:
    p = saturation_pa(t) * rh / 100
    return RATIO * p / (PRESSURE - p)


def weather(key: str, t: float, rh: float, co2: float = 450.0, days: float = 3) -> Weather:
    count = int(days * 144) + 2
    return Weather(
        id=key,
        temperature_c=np.full(count, t),
        ratio=np.full(count, ratio(t, rh)),
        co2_ppm=np.full(count, co2),
    )


def hours(steps: int, dt: float, start: float, end: float) -> np.ndarray:
    """Shares of each step between two hours of each day."""
    low = np.arange(steps) * dt / 3600 % 24
    part = np.minimum(low + dt / 3600, end) - np.maximum(low, start)
    return np.clip(part / (dt / 3600), 0, 1).astype(np.float32)


def cycle(steps: int, dt: float, on_s: float, every_s: float) -> np.ndarray:
    t = np.arange(steps + 1) * dt
    ran = np.floor(t / every_s) * on_s + np.minimum(t % every_s, on_s)
    return (np.diff(ran) / dt).astype(np.float32)


def lamp(watts: float, ground_m2: float, lai: float, *, efficacy: float = 2.6) -> Gives:
    """A lamp's heat: what leaves take of its light, the rest of its radiation to sheet and pots, its body's."""
    radiant = watts * efficacy / 4.8
    taken = radiant * 0.87 * (1 - exp(-0.75 * lai)) if ground_m2 else 0.0
    rest = radiant - taken
    return Gives(
        ppfd=watts * efficacy / ground_m2 if ground_m2 else 0.0,
        leaf_w=taken,
        sheet_w=0.4 * rest,
        pot_w=0.6 * rest,
        lamp_w=watts - radiant,
    )


def both_ways(one: str, two: str, owner: str, m3_h: float) -> tuple[Link, Link]:
    flow = np.full((1, 1, 1), m3_h / 3600)
    return (
        Link(source=one, into=two, owner=owner, flow_m3_s=flow),
        Link(source=two, into=one, owner=owner, flow_m3_s=flow),
    )


def tent(
    *,
    m3_h: float = 76.5,
    watts: float = 210.0,
    lai: float = 2.4,
    ground_m2: float = 0.93,
    speed_m_s: float = 0.3,
    room: tuple[float, float] = (22, 45),
    days: float = 3,
    dt: float = 20.0,
    lit: tuple[float, float] = (6, 24),
    more: tuple[Group, ...] = (),
    drives: dict[str, np.ndarray] | None = None,
    face: Face | None = None,
    size: tuple[float, float] = (1.857, 8.6),
    pots: Pots | None = None,
    **kept: object,
) -> System:
    """The tent of the physics' case C1: 1.15 × 0.85 × 1.9 m, walls of fabric, an LED of 210 W, leaves of LAI 2.4."""
    steps, ground = round(days * 86400 / dt), ground_m2 if lai else 0.0
    base = face or Face(area_m2=size[1], inner_film_w_m2k=5.5)
    space = Enclosure(
        id="tent",
        host="room",
        floor="room",
        volume_m3=size[0],
        faces=(base,),
        pots=pots or Pots(area_m2=0.5, wet=0.15, holds_j_k=116_000, floor_w_k=2.0),
        leaves=Leaves(ground_m2=ground, lai=lai, speed_m_s=speed_m_s) if lai else None,
        lamp_w_k=0.03 * watts,
        lamp_j_k=15 * watts,
        breath_mol_s=1e-6 * ground,
        lit="lamps",
    )
    lights = Group(id="lamps", where="tent", drive="lamps", gives=lamp(watts, ground, lai), cut=True)
    return System(
        steps=steps,
        dt_s=dt,
        pressure_pa=PRESSURE,
        density_kg_m3=1.19,
        weathers=(weather("room", *room, days=days),),
        enclosures=(space,),
        groups=(lights, *more),
        links=both_ways("room", "tent", "tent", m3_h),
        drives={
            "lamps": hours(steps, dt, *lit),
            "always": np.ones(steps, dtype=np.float32),
            **(drives or {}),
        },
        every=max(1, round(60 / dt)),
        **kept,  # type: ignore[arg-type]
    )


def glass_case(
    days: float = 1.5, dt: float = 20.0, changes_h: float = 12.0, fog: bool = False, wet: float = 0.15
) -> System:
    """The case of C2: 90 L of glass, 14 W, a fogger of 95 g/h for 40 s every 25 min."""
    steps = round(days * 86400 / dt)
    fogger = Group(
        id="fog",
        where="tent",
        drive="fog",
        gives=Gives(vapour_kg_s=0.095 / 3600, air_w=-0.095 / 3600 * 2.45e6),
    )
    return tent(
        m3_h=0.0902 * changes_h,
        watts=14.0,
        lai=0.8,
        ground_m2=0.15,
        room=(20.5, 42),
        days=days,
        dt=dt,
        lit=(8, 19),
        more=(fogger,) if fog else (),
        drives={"fog": cycle(steps, dt, 40, 1500)} if fog else {},
        face=Face(area_m2=1.0, resistance_m2k_w=0.005, holds_j_m2k=10_500),
        size=(0.0902, 1.0),
        pots=Pots(area_m2=0.2, wet=wet, holds_j_k=30_000, floor_w_k=0.88),
    )


def linked(days: float = 1.25, dt: float = 20.0, loop_m3_h: float = 120.0, dryer: bool = True) -> System:
    """Two spaces on a loop, as C4, in a room that they warm; a dehumidifier that runs on in the second."""
    base = tent(m3_h=60.0, watts=430.0, days=days, dt=dt, room=(20, 50), size=(4.3, 14.0))
    first = base.enclosures[0]
    second = Enclosure(
        id="second",
        host="hall",
        floor="room",
        volume_m3=1.52,
        faces=(Face(area_m2=8.5, inner_film_w_m2k=5.5),),
        pots=Pots(area_m2=0.3, wet=0.0, holds_j_k=20_000, floor_w_k=1.0),
    )
    drier = Group(
        id="drier",
        where="second",
        drive="always",
        gives=Gives(drying_kg_s=0.02, coil_ratio=0.0045, air_w=265.0),
    )
    room = RoomNode(id="hall", beyond="room", volume_m3=30.0, holds_j_k=400_000, loss_w_k=45.0, exchange_m3_s=0.01)
    import dataclasses

    return dataclasses.replace(
        base,
        enclosures=(dataclasses.replace(first, host="hall"), second),
        rooms=(room,),
        groups=(*base.groups, *((drier,) if dryer else ())),
        links=(*both_ways("hall", "tent", "tent", 60.0), *both_ways("tent", "second", "tent", loop_m3_h)),
    )
