"""The worked cases of the physics page as far as their inputs are known, with the tolerance that the rest asks."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest

from canopy.climate import columns as c
from canopy.climate.simulate import Days, simulate
from canopy.climate.system import Control, Face, Gives, Group, Link, Pots, System
from tests.core.climate import cases


def means(days: Days, low: float, high: float) -> dict[str, float]:
    """Means of the last day between two hours."""
    hour = days.hours % 24
    rows = (days.hours > days.hours[-1] - 24) & (hour >= low) & (hour < high)
    here, rh = days.enclosures[rows, 0], days.rh_pct(days.system.enclosures[0].id)[rows]
    return {
        "t": float(here[:, c.OUT_AIR].mean()),
        "rh": float(rh.mean()),
        "low": float(rh.min()),
        "high": float(rh.max()),
        "leaf": float((here[:, c.OUT_LEAF] - here[:, c.OUT_AIR]).mean()),
        "co2": float(here[:, c.OUT_CO2].mean()),
        "g_h": float(here[:, c.OUT_GIVEN].mean() * 3.6e6),
        "g_d": float(here[:, c.OUT_CONDENSED].mean() * 86400e3),
    }


# C1: flow [m³/h], fan's heat [W] and what the page says: T [°C], RH [%], leaf less air [K], CO2 [ppm], water [g/h].
@pytest.mark.parametrize(
    ("m3_h", "fan_w", "t", "rh", "leaf", "co2", "given"),
    [
        (50, 0.6, 23.0, 63, -1.4, 417, 222),
        (76.5, 2, 22.7, 58, -1.5, 428, 239),
        (125, 8.8, 22.5, 54, -1.7, 437, 255),
        (184, 28, 22.5, 51, -1.9, 441, 266),
    ],
)
def test_c1_a_tent_by_day(
    m3_h: float, fan_w: float, t: float, rh: float, leaf: float, co2: float, given: float
) -> None:
    fan = Group(id="fan", where="tent", drive="always", gives=Gives(air_w=fan_w))
    found = means(simulate(cases.tent(m3_h=m3_h, more=(fan,))), 8, 24)
    assert found["t"] == pytest.approx(t, abs=0.2)
    assert found["rh"] == pytest.approx(rh, abs=1.0)
    assert found["leaf"] == pytest.approx(leaf, abs=0.15)
    assert found["co2"] == pytest.approx(co2, abs=3)
    assert found["g_h"] == pytest.approx(given, rel=0.02)


def test_c1_without_plants_it_is_warmer_and_dry() -> None:
    found = means(simulate(cases.tent(lai=0.0)), 12, 24)
    # Page: 24.9 °C, 39 %; pots and their water are not given there.
    assert found["t"] == pytest.approx(24.9, abs=0.4)
    assert found["rh"] == pytest.approx(39, abs=3)


# C2: changes an hour, wet share of the soil, room's humidity; RH by day and night without fog, then with it.
@pytest.mark.parametrize(
    ("changes", "wet", "room", "day", "night", "fog_day"),
    [
        (0.4, 0.7, 50, 96.5, 99.8, 96.7),
        (2, 0.15, 42, 95.6, 93.3, 96.0),
        (12, 0.15, 42, 79, 69, 84),
        (25, 0.15, 42, 69, 59, 72),
    ],
)
def test_c2_a_glass_case_and_its_fogger(
    changes: float, wet: float, room: float, day: float, night: float, fog_day: float
) -> None:
    def case(fog: bool) -> Days:
        system = cases.glass_case(days=3, changes_h=changes, wet=wet, fog=fog)
        return simulate(dataclasses.replace(system, weathers=(cases.weather("room", 20.5, room),)))

    bare, fogged = case(fog=False), case(fog=True)
    assert means(bare, 9, 19)["rh"] == pytest.approx(day, abs=3)
    assert means(bare, 21, 24)["rh"] == pytest.approx(night, abs=3.5)
    assert means(fogged, 9, 19)["rh"] == pytest.approx(fog_day, abs=3)
    # Fog raises the mean by little: much of each pulse lands as water. Never beyond saturation.
    assert 0 <= means(fogged, 9, 19)["rh"] - means(bare, 9, 19)["rh"] < 9
    assert fogged.rh_pct("tent").max() <= 100.0 + 1e-9


def test_c2_a_sealed_lid_starves_by_day_and_breathes_by_night() -> None:
    system = cases.glass_case(days=3, changes_h=0.4, wet=0.7)
    days = simulate(dataclasses.replace(system, weathers=(cases.weather("room", 20.5, 50),)))
    # Page: 109 ppm by day, 497 by night.
    assert means(days, 12, 19)["co2"] == pytest.approx(109, abs=10)
    assert means(days, 5, 8)["co2"] > 470


@pytest.mark.parametrize(("m3_h", "t", "rh"), [(31.2, 23.9, 57), (14.1, 24.6, 64)])
def test_c3_a_wooden_cabinet(m3_h: float, t: float, rh: float) -> None:
    found = means(simulate(cabinet(m3_h)), 9, 24)
    assert found["t"] == pytest.approx(t, abs=0.3)
    assert found["rh"] == pytest.approx(rh, abs=1.5)


def cabinet(m3_h: float) -> System:
    return cases.tent(
        m3_h=m3_h,
        watts=65,
        lai=2.0,
        ground_m2=0.28,
        room=(23, 50),
        size=(0.396, 3.25),
        face=Face(area_m2=3.25, resistance_m2k_w=0.138, holds_j_m2k=17_000 * 0.6),
        pots=Pots(area_m2=0.2, wet=0.15, holds_j_k=40_000, floor_w_k=0.8),
    )


def test_c3_with_dead_fans_it_drips() -> None:
    found = means(simulate(cabinet(0.4)), 9, 24)
    # Page: 29.2 °C, 93 %, 0.45 L a day, 80 ppm; how leaky it is then is not given.
    assert found["t"] == pytest.approx(29.2, abs=0.8)
    assert found["rh"] == pytest.approx(93, abs=3)
    assert found["g_d"] == pytest.approx(450, rel=0.2)
    assert found["co2"] < 150


# C4: loop flow; humidity of the main space by day, and of the one that conditions it.
@pytest.mark.parametrize(("loop", "main", "other"), [(180, 69, 48), (60, 78, 39)])
def test_c4_the_loop_is_the_bottleneck(loop: float, main: float, other: float) -> None:
    base = cases.linked(days=3, loop_m3_h=loop)
    first, second = base.enclosures
    lamps = dataclasses.replace(base.groups[0], gives=cases.lamp(430, 1.6, 2.6))
    leaves = dataclasses.replace(first.leaves, ground_m2=1.6, lai=2.6) if first.leaves else None
    # 13 L a day at 26.7 °C and 60 % give 0.83 of that in the air it gets there; on a hygrostat at 58 %.
    drier = dataclasses.replace(base.groups[1], gives=Gives(drying_kg_s=0.0144, coil_ratio=0.0045, air_w=265.0))
    system = dataclasses.replace(
        base,
        rooms=(),
        enclosures=(
            dataclasses.replace(first, host="room", leaves=leaves, breath_mol_s=1.6e-6),
            dataclasses.replace(second, host="room"),
        ),
        groups=(lamps, drier),
        controls=(Control(target="drier", where="tent", sensed="rh", day=58, night=58, below=False, band=4.0),),
        links=cases.both_ways("tent", "second", "tent", loop),
    )
    days = simulate(system)
    rows = (days.hours > 48 + 10) & (days.hours < 48 + 24)
    # A draught in a sealed main space is the page's own (0.5 changes an hour are not); humidity agrees to a few points.
    assert days.rh_pct("tent")[rows].mean() == pytest.approx(main, abs=6)
    assert days.rh_pct("second")[rows].mean() == pytest.approx(other, abs=8)
    assert days.enclosures[rows, 0, c.OUT_CO2].mean() == pytest.approx(75, abs=15)


@pytest.mark.parametrize(("floor_w_m2k", "duty", "root", "kwh"), [(9.0, 1.0, 17.2, 1.61), (1.5, 0.39, 20.5, 0.92)])
def test_c5_a_mat_on_concrete_and_on_foam(floor_w_m2k: float, duty: float, root: float, kwh: float) -> None:
    system = cases.tent(
        m3_h=0.28 * 0.3,
        watts=24,
        lai=0.6,
        ground_m2=0.25,
        room=(6.5, 75),
        size=(0.28, 2.27),
        face=Face(area_m2=2.27, resistance_m2k_w=0.71, holds_j_m2k=2500),
        pots=Pots(area_m2=0.3, wet=0.5, holds_j_k=58_000, floor_w_k=floor_w_m2k * 0.35),
        more=(
            Group(id="mat", where="tent", drive="always", gives=Gives(pot_w=45)),
            Group(id="heater", where="tent", drive="always", gives=Gives(air_w=80)),
        ),
        controls=(
            Control(target="mat", where="tent", sensed="root", day=21, night=21),
            Control(target="heater", where="tent", sensed="air", day=17, night=14, band=0.8),
        ),
    )
    hour = np.arange(len(system.weathers[0].temperature_c)) / 6
    shed = dataclasses.replace(system.weathers[0], temperature_c=6.5 - 2.8 * np.cos((hour - 3) / 24 * 2 * np.pi))
    days = simulate(dataclasses.replace(system, weathers=(shed,)))
    last = days.hours > 48
    share = days.groups[last].mean(axis=0)
    assert share[1] == pytest.approx(duty, abs=0.05)
    assert days.enclosures[last, 0, c.OUT_POT].min() == pytest.approx(root, abs=1.2)
    assert (share[1] * 45 + share[2] * 80 + 0.75 * 24) * 24 / 1000 == pytest.approx(kwh, rel=0.12)


def test_c6_a_large_humidifier_swings_more_and_steam_costs_no_warmth() -> None:
    def held(g_h: float, *, steam: bool) -> tuple[dict[str, float], float]:
        kg_s = g_h / 3.6e6
        gives = Gives(vapour_kg_s=kg_s, air_w=10.0 if steam else 30.0 - 2.45e6 * kg_s)
        system = cases.tent(
            m3_h=22,
            watts=120,
            lai=1.5,
            ground_m2=0.4,
            room=(19, 28),
            size=(1.066, 6.1),
            dt=10,
            pots=Pots(area_m2=0.3, wet=0.1, holds_j_k=50_000, floor_w_k=1.5),
            more=(Group(id="mist", where="tent", drive="always", gives=gives),),
            controls=(Control(target="mist", where="tent", sensed="rh", day=65, night=65, band=5.0),),
        )
        days = simulate(system)
        return means(days, 8, 24), float(days.groups[days.hours > 48, 1].mean() * g_h)

    large, used = held(320, steam=False)
    small, used_small = held(150, steam=False)
    boiled, used_boiled = held(320, steam=True)
    # Page: 99, 94 and 132 g/h; 53-79 % and 54-69 %; steam leaves it 2.3 K warmer. The crop there is not given.
    assert used == pytest.approx(99, rel=0.25)
    assert used_small == pytest.approx(94, rel=0.25)
    assert used_boiled > 1.15 * used
    assert large["high"] - large["low"] > small["high"] - small["low"] > 5
    assert boiled["t"] - large["t"] > 1.0


def test_c7_the_fan_stops_with_the_lights_on() -> None:
    def stopped(lai: float) -> tuple[np.ndarray, np.ndarray, Days]:
        base = cases.tent(
            m3_h=700,
            watts=1320,
            lai=lai,
            ground_m2=4.2,
            room=(23.5, 50),
            days=2,
            dt=10,
            size=(9.59, 22.8),
            face=Face(area_m2=22.8),
            pots=Pots(area_m2=3, wet=0.15, holds_j_k=600_000, floor_w_k=12)
            if lai
            else Pots(area_m2=0.1, wet=0.0, holds_j_k=20_000, floor_w_k=1),
        )
        at = 38 * 360
        running = np.zeros((2, base.steps), dtype=np.float32)
        running[0, :at], running[1, at:] = 1, 1
        flow = np.array([[[700 / 3600]], [[4.8 / 3600]]])
        links = (
            Link(source="room", into="tent", owner="tent", flow_m3_s=flow),
            Link(source="tent", into="room", owner="tent", flow_m3_s=flow),
        )
        days = simulate(dataclasses.replace(base, links=links, states={"tent": running}))
        return days.enclosures[38 * 60 :, 0, c.OUT_AIR], days.rh_pct("tent")[38 * 60 :], days

    warm, rh, days = stopped(2.8)
    # Page: 24.3 before, 2.9 K in 5 min, 30 °C at 12.5 min, 32.8 at 1 h, peak 33.9, 89 %, 2.7 kg of water on the walls.
    assert days.enclosures[38 * 60 - 5, 0, c.OUT_AIR] == pytest.approx(24.3, abs=0.3)
    assert warm[5] - warm[0] == pytest.approx(2.9, abs=0.8)
    assert int(np.argmax(warm > 30)) == pytest.approx(12.5, abs=5)
    assert warm.max() == pytest.approx(33.9, abs=1.2)
    assert rh[60] == pytest.approx(89, abs=4)
    assert days.enclosures[:, 0, c.OUT_FILM].max() == pytest.approx(2.7, abs=0.3)
    # CO2: 240, 94 and 92 ppm after 15, 60 and 180 min.
    assert [days.enclosures[38 * 60 + m, 0, c.OUT_CO2] for m in (15, 60, 180)] == pytest.approx([240, 94, 92], abs=12)
    bare, _, _ = stopped(0.0)
    # Without plants the early rise is twice as steep (page: 6.0 K at 5 min, peak 37.2 with less on the floor).
    assert bare[5] - bare[0] > 1.4 * (warm[5] - warm[0])


def test_c8_a_heater_sticks_at_night() -> None:
    def stuck(thermostat: bool) -> tuple[np.ndarray, np.ndarray]:
        drives = {"stuck": cases.hours(round(1.25 * 8640), 10, 2, 6)}
        heater = Group(id="stuck", where="tent", drive="stuck", gives=Gives(air_w=400.0))
        base = cases.tent(m3_h=20, days=1.25, dt=10, more=(heater,), drives=drives)
        flow = np.array([[[20 / 3600], [184 / 3600]]])
        links = (
            Link(source="room", into="tent", owner="tent", flow_m3_s=flow),
            Link(source="tent", into="room", owner="tent", flow_m3_s=flow),
        )
        fan = Control(target="tent", fan=True, where="tent", sensed="air", day=27, night=27, below=False, band=3.0)
        days = simulate(dataclasses.replace(base, links=links, controls=(fan,) if thermostat else ()))
        return days.enclosures[120:, 0, c.OUT_AIR], days.levels[120:, 0]

    alone, _ = stuck(thermostat=False)
    # Page, 1, 5, 15, 60, 180 min: 25.6, 29.2, 30.4, 31.0, 31.1 °C.
    assert [alone[m] for m in (5, 15, 60, 180)] == pytest.approx([29.2, 30.4, 31.0, 31.1], abs=0.3)
    held, level = stuck(thermostat=True)
    # The fan latches on high: it settles at 26.1, never back below 27 less half its band.
    assert held[180] == pytest.approx(26.1, abs=0.5)
    assert level[30:200].min() > 0.999
