"""Filter beds, walls, noise, circulation fans and the room: the checks of the physics, limits and monotonicity."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.air.filter_bed import filter_load
from canopy.air.noise import at_speed_db, guessed_dba_1m, in_room_db, together_db
from canopy.air.room_balance import room_load
from canopy.air.shell import leak_m2, one_sided_m3_h
from canopy.air.stirring import air_speed_m_s, jet_of, jet_speed_m_s, mean_speed_m_s, mixing_per_min
from canopy.air.walls import wall_sag
from canopy.equipment import StirSpec
from canopy.evaluate.air.noise import noise_of
from canopy.library import fans, fittings
from canopy.plan import Air, Airway, Around, FittingPart, PortPart, Room, Stirrer
from tests.core.air.worked import CARBON, FAN, exhaust, tent


@pytest.mark.parametrize(("flow", "face", "contact"), [(248, 0.336, 0.113), (150, 0.203, 0.187)])
def test_the_worked_filter(flow, face, contact):
    load = filter_load("f", CARBON, flow)
    assert (load.face_m_s, load.contact_s) == (pytest.approx(face, abs=0.001), pytest.approx(contact, abs=0.001))
    assert load.carbon_kg == pytest.approx(3.7, abs=0.05)
    assert load.drop_pa == pytest.approx(64 * (flow / 248) ** 1.35)
    assert load.life_share == pytest.approx(248 / flow)


def test_a_filter_without_a_bed_or_without_air_says_less():
    bare = CARBON.model_copy(update={"bed_inner_m": None})
    assert filter_load("f", bare, 100).face_m_s is filter_load("f", CARBON, 0).contact_s is None
    assert filter_load("f", CARBON, 100, 2.0).aged_drop_pa == filter_load("f", CARBON, 100, 2.0).drop_pa


@pytest.mark.parametrize(("pressure", "sag", "pull"), [(-2.6, 0.045, 9.5), (-15, 0.049, 50.6), (-183, 0.073, 412)])
def test_the_worked_walls(pressure, sag, pull):
    wall = wall_sag(pressure, 1.15, 1.9)
    assert (wall.sag_m, wall.pull_n_m) == (pytest.approx(sag, abs=0.001), pytest.approx(pull, rel=0.01))
    assert wall.force_n == pytest.approx(abs(pressure) * 1.15 * 1.9)
    assert wall_sag(0, 1.15, 1.9).sag_m == 0


def test_the_worked_noises():
    assert at_speed_db(47, 0.7) == pytest.approx(39.3, abs=0.05)
    assert at_speed_db(47, 0.45) == pytest.approx(29.7, abs=0.05)
    assert together_db([47, 38, 33]) == pytest.approx(47.7, abs=0.05)
    assert [in_room_db(58, r) for r in (1, 2, 3.5)] == pytest.approx([54.9, 53.7, 53.4], abs=0.05)
    assert together_db([]) == float("-inf")


@pytest.mark.parametrize("row", [row for row in fans().values() if row.spec.kind != "case"], ids=lambda row: row.id)
def test_a_guessed_level_comes_near_the_library_s(row):
    assert guessed_dba_1m(row.spec.free_flow_m3_h) == pytest.approx(row.spec.noise_dba_1m, abs=5)


def test_what_lies_on_the_way_takes_noise():
    def heard(**more):
        return noise_of(tent(exhaust(**more.pop("way", {})), **more)).total_dba

    plain = heard()
    assert heard(way={"speed": 0.5}) == pytest.approx(plain - 15.05, abs=0.1)
    assert heard(kind="cabinet") < plain
    assert heard(way={"ends": "outdoors"}) < plain - 1
    assert heard(air=Air(listen_m=0.5)) > plain > heard(air=Air(listen_m=8))
    way = exhaust()
    muffler = FittingPart(id="m", spec=fittings()["muffler-125"].spec)
    muffled = noise_of(tent(way.model_copy(update={"parts": (*way.parts, muffler)}))).total_dba
    assert muffled < plain - 1
    assert noise_of(tent()).total_dba is None
    # A fan outside sends its inlet's sound back through the shell.
    outside = way.model_copy(update={"parts": (PortPart(id="p", opening_id="flap"), *way.parts)})
    assert noise_of(tent(outside, kind="closet")).total_dba > noise_of(tent(way, kind="closet")).total_dba


USB = StirSpec(name="USB 140", kind="usb", flow_m3_h=78, diameter_m=0.14, power_w=4)


def stirrer(key="s", **more):
    return Stirrer(**{"id": key, "spec": USB, "x_m": 0.1, "y_m": 0.42, "z_m": 1.0, **more})


def test_the_worked_stirring_fan():
    assert jet_of(stirrer()).speed_m_s == pytest.approx(1.41, abs=0.01)
    walls = 2 * (1.15 * 0.85 + 1.15 * 1.9 + 0.85 * 1.9)
    assert mean_speed_m_s((stirrer(),), walls, 2.35) == pytest.approx(0.26, abs=0.01)
    assert mean_speed_m_s((stirrer(), stirrer("t")), walls, 2.35) == pytest.approx(0.36, abs=0.015)
    assert mixing_per_min((stirrer(),), 1.857) == pytest.approx(0.70, abs=0.01)
    assert mean_speed_m_s((), walls, 2.35) == mixing_per_min((), 1.857) == 0


def test_a_jet_is_strong_ahead_weak_aside_and_nothing_behind():
    fan = stirrer()
    ahead = [jet_speed_m_s(fan, (0.1 + x, 0.42, 1.0)) for x in (0.0, 0.3, 0.8, 1.6)]
    assert ahead[0] == ahead[1] == pytest.approx(1.41, abs=0.01)
    # v = 5 v0 √A0 / x at 0.8 m.
    assert ahead[2] == pytest.approx(5 * 1.408 * 0.01539**0.5 / 0.8, rel=0.01)
    assert ahead[2] == pytest.approx(2 * ahead[3])
    assert jet_speed_m_s(fan, (0.9, 0.42 + 0.3, 1.0)) < 0.2 * ahead[2]
    assert jet_speed_m_s(fan, (0.0, 0.42, 1.0)) == 0


def test_swinging_turning_and_slowing():
    aside = (0.5, 0.82, 1.0)
    still = jet_speed_m_s(stirrer(), aside)
    swinging = stirrer(spec=USB.model_copy(update={"sweep_deg": 90}), swings=True)
    assert jet_speed_m_s(swinging, aside) > 3 * still
    assert air_speed_m_s((swinging,), aside, 0.1, swinging=True) < air_speed_m_s((swinging,), aside, 0.1)
    assert jet_speed_m_s(stirrer(yaw_deg=45), aside) == pytest.approx(jet_speed_m_s(swinging, aside), rel=0.01)
    assert jet_speed_m_s(stirrer(pitch_deg=-40), (0.6, 0.42, 0.58)) > jet_speed_m_s(stirrer(), (0.6, 0.42, 0.58))
    assert jet_of(stirrer(speed=0.5)).speed_m_s == pytest.approx(0.704, abs=0.005)
    tower = stirrer(spec=USB.model_copy(update={"kind": "tower"}))
    assert jet_speed_m_s(tower, (0.9, 0.42, 1.4)) > 3 * jet_speed_m_s(stirrer(), (0.9, 0.42, 1.4))


@given(st.floats(0, 0.5), st.floats(0, 2))
def test_jets_and_mean_never_cancel(mean, x):
    assert air_speed_m_s((stirrer(),), (0.2 + x, 0.5, 0.8), mean) >= mean


def around(**figures):
    room = Room(id="r", name="R", **figures)
    return Around(room=room, air=room)


def test_a_room_takes_heat_by_its_walls_and_water_by_its_air():
    # 210 W in a room of 45 W/K with 36 m³/h of exchange: 210/(45 + ρ c 0.01).
    room = around(day_c=18, floor_m2=15, height_m=2.4, exchange_per_h=1.0, loss_w_k=45)
    load = room_load(room, 210, 0.0)
    assert load.rise_k == pytest.approx(210 / (45 + 1.2 * 1020 * 0.01), rel=0.01)
    wet = room_load(room, 210, 100e-3 / 3600)
    assert wet.ratio_rise == pytest.approx(100e-3 / 36 / 1.2, rel=0.02)
    assert wet.rh_pct > load.rh_pct
    assert room_load(room, 210, 0.0, drawn_m3_h=200).rise_k < load.rise_k
    assert room_load(around(), 210, 0.0) is None
    assert room_load(around(day_c=18, floor_m2=15), 210, 0.0).loss_w_k == 45


def test_seams_by_kind_and_as_typed():
    assert 1e4 * leak_m2(tent(air=Air())) == pytest.approx(1.6 * 8.6, rel=0.01)
    assert leak_m2(tent(air=Air(leak_cm2=18))) == pytest.approx(18e-4)
    assert leak_m2(tent(kind="closet", air=Air())) > leak_m2(tent(air=Air()))
    assert one_sided_m3_h(0.78, 1.3, 4) == pytest.approx(227, rel=0.03)


def test_an_intake_fan_is_heard_at_its_inlet():
    way = Airway(id="in", name="In", way="in", parts=exhaust(filtered=False).parts[:2])
    assert (
        noise_of(tent(way, kind="cabinet")).total_dba
        > noise_of(tent(exhaust(ends="outdoors"), kind="cabinet")).total_dba
    )
    assert FAN.noise_dba_1m == noise_of(tent(way)).sources[0].at_1m_dba
