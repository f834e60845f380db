"""Closed forms, shorter steps, controls, and whatever a form accepts: finite, never negative, never oversaturated."""

from __future__ import annotations

import dataclasses
import os
import subprocess
import sys

import numpy as np
import psychrolib
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from canopy.climate import columns as c
from canopy.climate.moist import dew_point_c, dew_points_c, saturated, saturated_ratio, saturation_pa, saturations_pa
from canopy.climate.simulate import sheet_of, simulate
from canopy.climate.system import Control, Face, Gives, Group, Pots, RoomNode
from canopy.errors import QuantityError
from tests.core.climate import cases

psychrolib.SetUnitSystem(psychrolib.SI)


@pytest.mark.parametrize("t", [-15.0, -0.5, 0.5, 8.0, 21.0, 33.0, 60.0])
def test_moist_air_is_ashraes(t: float) -> None:
    assert saturation_pa(t) == pytest.approx(psychrolib.GetSatVapPres(t), rel=1e-6)
    ratio = saturated_ratio(t, 101325.0)
    assert ratio == pytest.approx(psychrolib.GetSatHumRatio(t, 101325.0), rel=1e-6)
    assert dew_point_c(ratio, 101325.0) == pytest.approx(t, abs=1e-6)
    slope = (saturated_ratio(t + 1e-3, 101325.0) - saturated_ratio(t - 1e-3, 101325.0)) / 2e-3
    assert saturated(t, 101325.0)[1] == pytest.approx(slope, rel=1e-5)


def test_of_many_airs_it_is_what_it_is_of_each() -> None:
    warm = np.linspace(-25.0, 78.0, 200)
    assert saturations_pa(warm) == pytest.approx([saturation_pa(float(t)) for t in warm], rel=1e-12)
    ratios = np.geomspace(2e-4, 0.2, 200)
    assert dew_points_c(ratios, 98000.0) == pytest.approx([dew_point_c(float(w), 98000.0) for w in ratios], abs=1e-9)


def test_beyond_80_degrees_saturation_goes_on_straight() -> None:
    one, two, three = (saturated_ratio(t, 101325.0) for t in (90.0, 100.0, 110.0))
    assert two - one == pytest.approx(three - two)


def test_without_air_or_plants_the_rise_is_heat_over_walls() -> None:
    heat = Group(id="heat", where="tent", drive="always", gives=Gives(air_w=50.0))
    system = cases.tent(m3_h=0.0, watts=0.001, lai=0.0, more=(heat,), days=3)
    system = dataclasses.replace(
        system,
        enclosures=(
            dataclasses.replace(
                system.enclosures[0], pots=dataclasses.replace(system.enclosures[0].pots, wet=0.0, floor_w_k=0.0)
            ),
        ),
    )
    days = simulate(system)
    walls = 8.6 / (1 / 5.5 + 1 / 7.5)
    assert days.enclosures[-1, 0, c.OUT_AIR] == pytest.approx(22 + 50 / walls, abs=0.01)


def test_a_rooms_own_rise_is_heat_over_loss_and_exchange() -> None:
    # Physics page: 18 + 210/(45 + ρ c 0.01).
    heat = Group(id="heat", where="tent", drive="always", gives=Gives(air_w=210.0))
    base = cases.tent(watts=0.001, lai=0.0, room=(18, 40), more=(heat,), days=3)
    first = dataclasses.replace(
        base.enclosures[0], host="hall", floor="hall", pots=dataclasses.replace(base.enclosures[0].pots, wet=0.0)
    )
    hall = RoomNode(id="hall", beyond="room", volume_m3=30, holds_j_k=100_000, loss_w_k=45.0, exchange_m3_s=0.01)
    links = cases.both_ways("hall", "tent", "tent", 76.5)
    days = simulate(dataclasses.replace(base, enclosures=(first,), rooms=(hall,), links=links))
    assert days.rooms[-1, 0, 0] == pytest.approx(18 + 210 / (45 + 1.19 * 1020 * 0.01), abs=1e-3)


def _room_alone(**machines: float) -> tuple[float, float, float, float]:
    """A room under a load of 210 W: its warmth [°C] and humidity ratio at the end; shares of heater and conditioner."""
    heat = Group(id="heat", where="tent", drive="always", gives=Gives(air_w=210.0))
    base = cases.tent(watts=0.001, lai=0.0, room=(18, 80), more=(heat,), days=3)
    pots = dataclasses.replace(base.enclosures[0].pots, wet=0.0)
    first = dataclasses.replace(base.enclosures[0], host="hall", floor="hall", pots=pots)
    hall = RoomNode(
        id="hall", beyond="room", volume_m3=30, holds_j_k=1e5, loss_w_k=45.0, exchange_m3_s=0.01, **machines
    )
    links = cases.both_ways("hall", "tent", "tent", 76.5)
    days = simulate(dataclasses.replace(base, enclosures=(first,), rooms=(hall,), links=links))
    assert abs(days.closure.heat) < 1e-3
    assert abs(days.closure.water) < 1e-3
    warm, ratio, _, heating, cooling = days.rooms[-1, 0]
    return float(warm), float(ratio), float(heating), float(cooling)


def test_a_room_s_heater_and_conditioner_hold_it_by_what_they_can() -> None:
    loss = 45.0 + 1.19 * 1020 * 0.01
    free, wet, *_ = _room_alone()
    # Where it needs a share s of its heater: P + s H = L (T - 18), s = set - T.
    warm, _, share, _ = _room_alone(heating_w=900.0, heat_to_c=24.0)
    assert warm == pytest.approx((210 + 900 * 24.0 + loss * 18) / (900 + loss), abs=0.01)
    assert share == pytest.approx(24.0 - warm, abs=1e-3)
    # One that is too weak runs all the time, and the room is as warm as it makes it.
    assert _room_alone(heating_w=300.0, heat_to_c=40.0)[0] == pytest.approx(free + 300 / loss, abs=0.01)
    cool, drier, _, share = _room_alone(cooling_w=400.0, cool_to_c=19.0)
    takes = 400 * (cool - 11.3) / 15.7
    assert cool == pytest.approx(18 + (210 - takes * share) / loss, abs=0.02)
    assert drier < wet
    # Water: what comes with fresh air of the room beyond goes to the coil.
    fresh = 0.01 * 1.19
    coil = takes * share / (1006 * 15.7)
    assert drier == pytest.approx((fresh * wet + coil * 0.0083) / (fresh + coil), rel=0.01)


def test_faces_side_by_side_conduct_as_their_sum_and_the_colder_one_is_colder() -> None:
    wood = Face(area_m2=3.0, resistance_m2k_w=0.138, holds_j_m2k=10_000)
    glass = Face(area_m2=1.0, resistance_m2k_w=0.005)
    inside, outside, _, cold, cold_share, rest, rest_share = sheet_of((wood, glass))
    alone = sum(f.area_m2 / (1 / f.inner_film_w_m2k + 1 / f.outside_w_m2k) for f in (wood, glass))
    assert 1 / (1 / inside + 1 / outside) == pytest.approx(alone)
    assert (cold, rest) == (1.0, 3.0)
    mean = inside / (inside + outside)
    assert cold_share * mean == pytest.approx(glass.share_inside)
    assert rest_share * mean == pytest.approx(wood.share_inside)
    assert cold_share < 1 < rest_share


@pytest.mark.parametrize("case", ["tent", "fog", "linked"])
def test_half_the_step_changes_no_ten_minutes(case: str) -> None:
    def run(dt: float) -> tuple[np.ndarray, np.ndarray]:
        if case == "tent":
            system = cases.tent(days=2, dt=dt)
        elif case == "fog":
            system = cases.glass_case(days=2, dt=dt, fog=True)
        else:
            system = cases.linked(days=2, dt=dt)
        days = simulate(dataclasses.replace(system, every=round(600 / dt)))
        return days.enclosures[:, 0, c.OUT_AIR], days.rh_pct("tent")

    (one_t, one_rh), (two_t, two_rh) = run(20.0), run(10.0)
    assert np.abs(one_t - two_t).max() < 0.1
    assert np.abs(one_rh - two_rh).max() < 1.0


def test_a_thermostat_holds_its_band_and_its_least_times() -> None:
    heater = Group(id="heater", where="tent", drive="always", gives=Gives(air_w=480.0))
    control = Control(
        target="heater", where="tent", sensed="air", day=20, night=16, band=1.0, least_on_s=30, least_off_s=30
    )
    base = cases.tent(room=(8, 60), m3_h=20, more=(heater,), controls=(control,), dt=10, days=2)
    days = simulate(dataclasses.replace(base, every=1))
    on = days.groups[:, 1]
    last = days.hours > 24
    by_night = last & (days.hours % 24 > 1) & (days.hours % 24 < 5.5)
    assert days.enclosures[by_night, 0, c.OUT_AIR].mean() == pytest.approx(16, abs=0.6)
    assert days.enclosures[by_night, 0, c.OUT_AIR].min() > 13
    runs = np.diff(np.flatnonzero(np.diff((on > 0.5).astype(int)) != 0)) * 10
    assert len(runs) > 10
    assert runs.min() >= 30


def test_the_safety_cut_off_puts_lamps_out_and_comes_back() -> None:
    base = cases.tent(m3_h=0.5, watts=600, lai=0.0, room=(26, 40), days=1.5)
    hot = simulate(base).enclosures[:, 0, c.OUT_AIR].max()
    safe = simulate(dataclasses.replace(base, enclosures=(dataclasses.replace(base.enclosures[0], cut_off_c=35.0),)))
    assert hot > 38
    assert safe.enclosures[:, 0, c.OUT_AIR].max() < 36.5
    assert 0 < safe.groups[:, 0].mean() < simulate(base).groups[:, 0].mean()


def test_a_tank_runs_dry() -> None:
    mist = Group(id="mist", where="tent", drive="always", gives=Gives(vapour_kg_s=1e-4), tank_kg=1.0)
    days = simulate(cases.tent(more=(mist,), days=1))
    assert (days.groups[:, 1] * 1e-4 * days.every_s).sum() == pytest.approx(1.0, rel=1e-6)
    assert days.groups[-1, 1] == 0


def test_an_open_door_lets_the_warmth_out() -> None:
    base = cases.tent(m3_h=10, watts=400, lai=0.0)
    door = cases.hours(base.steps, base.dt_s, 12, 12.5)
    space = dataclasses.replace(base.enclosures[0], door_m3_s=0.03, door="door")
    open_ = simulate(dataclasses.replace(base, enclosures=(space,), drives={**base.drives, "door": door}))
    shut = simulate(base)
    at = int(12.4 * 60)
    assert shut.enclosures[at, 0, c.OUT_AIR] - open_.enclosures[at, 0, c.OUT_AIR] > 3
    assert open_.closure.heat < 1e-9


def test_it_stops_where_an_air_passes_sixty_degrees() -> None:
    furnace = Group(id="furnace", where="tent", drive="always", gives=Gives(air_w=5000.0))
    days = simulate(cases.tent(m3_h=5, more=(furnace,)))
    assert days.overheats_s is not None
    assert days.overheats_s < 3600
    assert len(days.enclosures) < days.system.steps / days.system.every


def test_a_name_that_nothing_has_is_refused() -> None:
    base = cases.tent()
    with pytest.raises(QuantityError, match="no air called “cellar”"):
        simulate(dataclasses.replace(base, enclosures=(dataclasses.replace(base.enclosures[0], host="cellar"),)))


@settings(max_examples=30, deadline=None)
@given(
    volume=st.floats(0.03, 10),
    m3_h=st.floats(0, 800),
    watts=st.floats(0.1, 2000),
    lai=st.floats(0, 6),
    room=st.tuples(st.floats(-20, 40), st.floats(5, 100)),
    heater=st.floats(0, 3000),
    mist=st.floats(0, 2000),
    dryer=st.floats(0, 0.1),
    band=st.floats(0.2, 5),
    wet=st.floats(0, 1),
    dt=st.sampled_from([10.0, 20.0, 60.0]),
)
def test_no_device_a_form_accepts_blows_it_up(
    volume: float,
    m3_h: float,
    watts: float,
    lai: float,
    room: tuple[float, float],
    heater: float,
    mist: float,
    dryer: float,
    band: float,
    wet: float,
    dt: float,
) -> None:
    side = volume ** (1 / 3)
    system = cases.tent(
        m3_h=m3_h,
        watts=watts,
        lai=lai,
        ground_m2=0.9 * side**2,
        room=room,
        days=0.3,
        dt=dt,
        size=(volume, 5 * side**2),
        pots=Pots(area_m2=0.5 * side**2, wet=wet, holds_j_k=60_000 * side**2, floor_w_k=3 * side**2),
        more=(
            Group(id="heater", where="tent", drive="always", gives=Gives(air_w=heater)),
            Group(id="mist", where="tent", drive="always", gives=Gives(vapour_kg_s=mist / 3.6e6, air_w=-0.68 * mist)),
            Group(
                id="dryer", where="tent", drive="always", gives=Gives(drying_kg_s=dryer, coil_ratio=0.0045, air_w=250)
            ),
        ),
        controls=(
            Control(target="heater", where="tent", sensed="air", day=24, night=18, band=band),
            Control(target="mist", where="tent", sensed="rh", day=70, night=60, band=band),
            Control(target="dryer", where="tent", sensed="rh", day=60, night=60, band=band, below=False),
        ),
    )
    days = simulate(system)
    assert np.isfinite(days.enclosures).all()
    assert (days.enclosures[:, 0, c.OUT_RATIO] > 0).all()
    assert (days.enclosures[:, 0, c.OUT_CO2] > 0).all()
    assert (days.enclosures[:, 0, c.OUT_FILM] >= 0).all()
    most = np.array([saturated_ratio(float(t), system.pressure_pa) for t in days.enclosures[:, 0, c.OUT_AIR]])
    # Means of an interval in which the air warms: saturation is curved.
    assert (days.enclosures[:, 0, c.OUT_RATIO] <= most * 1.03 + 1e-4).all()
    assert max(days.closure.heat, days.closure.water, days.closure.co2) < 1e-6


_PLAIN = """
import numpy as np
from canopy.climate.compiled import COMPILED
from canopy.climate.simulate import simulate
from tests.core.climate import cases
days = simulate(cases.linked(days=0.05, dt=60.0))
print(COMPILED, *(f"{value:.12e}" for value in days.enclosures[-1].ravel()))
"""


def test_plain_python_gives_the_same() -> None:
    def told(plain: str) -> list[str]:
        run = subprocess.run(
            [sys.executable, "-c", _PLAIN],
            env={**os.environ, "MILD_CANOPY_PLAIN": plain},
            capture_output=True,
            text=True,
            check=True,
        )
        return run.stdout.split()

    plain, compiled = told("1"), told("")
    assert plain[0] == "False"
    assert [float(x) for x in plain[1:]] == pytest.approx([float(x) for x in compiled[1:]], rel=1e-9)


def test_a_mist_cools_by_all_the_water_that_dries() -> None:
    ends = []
    for mist in (0.0, 60.0):
        gives = Gives(vapour_kg_s=mist / 3.6e6, air_w=-2.45e6 * mist / 3.6e6)
        group = Group(id="mist", where="tent", drive="always", gives=gives)
        system = cases.tent(m3_h=60.0, watts=0.001, lai=0.0, room=(20, 20), more=(group,), days=2)
        box = system.enclosures[0]
        dry = dataclasses.replace(box, pots=dataclasses.replace(box.pots, wet=0.0, floor_w_k=0.0))
        ends.append(simulate(dataclasses.replace(system, enclosures=(dry,))).enclosures[-1, 0, c.OUT_AIR])
    passes = 8.6 / (1 / 5.5 + 1 / 7.5) + system.density_kg_m3 * 1020 * 60 / 3600
    assert ends[0] - ends[1] == pytest.approx(2.45e6 * 60 / 3.6e6 / passes, rel=0.02)
