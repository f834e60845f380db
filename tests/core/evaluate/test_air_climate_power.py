import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.air import AirNeeds, demands, envelope_w_k, exchange_flow_m3_h, governing, ventilation, volume_m3
from canopy.air.network import Moment
from canopy.climate import Stand, Surroundings, gas_exchange
from canopy.climate.canopy_gas import gross_uptake_umol_m2_s
from canopy.errors import QuantityError
from canopy.plan import Air, Faces, Opening, OtherSpeed, Plan, Size, Space, Surface, Tariff
from canopy.plan.rooms import USUAL_ROOM
from canopy.power import Load, appliance_loads, monthly_cost
from canopy.psychrometrics import (
    dry_air_density_kg_m3,
    humidity_ratio,
    pressure_pa,
    relative_humidity_pct,
    saturation_pa,
    vpd_kpa,
)

ALONE = Plan.model_construct(name="-", spaces=())


def _needs(**more):
    data = {
        "volume_m3": 1.857,
        "exchange_minutes": 3,
        "filter_allowance": 0.25,
        "heat_w": 185,
        "envelope_w_k": 0,
        "rise_k": 4,
        "vapour_kg_s": 0,
        "co2_mol_s": 0,
        "room_c": 22,
        "room_rh_pct": 45,
        "max_rh_pct": 65,
        "co2_drop_ppm": 60,
    }
    return AirNeeds(**{**data, **more})


def _space(material="reflective-film", **more):
    side = Surface(material_id=material)
    faces = Faces(left=side, right=side, front=side, back=side, floor=side, ceiling=side)
    size = Size(width_m=1.15, depth_m=0.85, height_m=1.9)
    return Space(id="s", name="S", kind="tent", size=size, faces=faces, **more)


def test_moist_air_has_its_handbook_values():
    # 25 °C, 60 %: values of an independent property library.
    assert saturation_pa(25) == pytest.approx(3169, rel=0.005)
    assert humidity_ratio(25, 60) == pytest.approx(0.01195, rel=0.008)
    assert dry_air_density_kg_m3(25, 0.01195) == pytest.approx(1.1616, rel=0.002)
    assert vpd_kpa(25, 60) == pytest.approx(1.273, rel=0.008)
    assert pressure_pa(1600) / pressure_pa(0) == pytest.approx(0.824, abs=0.001)
    with pytest.raises(QuantityError, match="relative humidity is 120 %: give 0 to 100 %"):
        humidity_ratio(20, 120)


@given(st.floats(2, 40), st.floats(5, 99))
def test_humidity_reads_back(temperature, rh):
    ratio = humidity_ratio(temperature, rh)
    assert relative_humidity_pct(temperature, ratio) == pytest.approx(rh, rel=1e-3)


def test_the_four_demands_of_the_worked_tent():
    assert exchange_flow_m3_h(1.857, 3, 0.25) == pytest.approx(46.4, abs=0.05)
    heat = demands(_needs())[1]
    assert heat.flow_m3_h == pytest.approx(140, rel=0.02)
    # 255 g/h at 3.5 g/kg, and 18.9 µmol/s at 60 ppm, by hand with ρ = 1.165 kg/m³.
    wet = demands(_needs(vapour_kg_s=255e-3 / 3600, room_rh_pct=45))
    ratio = humidity_ratio(26, 65) - humidity_ratio(22, 45)
    assert wet[2].flow_m3_h == pytest.approx(0.255 / 1.168 / ratio, rel=0.01)
    fed = demands(_needs(co2_mol_s=21.7e-6))
    assert fed[3].flow_m3_h == pytest.approx(32.4, rel=0.02)
    assert governing(fed, "largest").criterion == "heat"
    assert governing(fed, "exchange").criterion == "exchange"
    assert governing(fed, "exchange", lit=False).criterion == "heat"


def test_credits_lower_the_heat_demand_but_not_the_catalogue_figure():
    plain, credited = demands(_needs())[1], demands(_needs(envelope_w_k=27.2, vapour_kg_s=1e-5))[1]
    assert credited.flow_m3_h < plain.flow_m3_h == credited.plain_m3_h


def test_both_schools_of_the_exchange_rule():
    plain, padded = (demands(_needs(count_allowance=counted))[0] for counted in (False, True))
    assert (plain.flow_m3_h, plain.plain_m3_h) == (padded.plain_m3_h, padded.flow_m3_h)
    assert padded.flow_m3_h == pytest.approx(1.25 * plain.flow_m3_h)


def test_a_damp_room_cannot_dry_a_space():
    wet = demands(_needs(room_rh_pct=95, max_rh_pct=50, vapour_kg_s=1e-5))[2]
    assert wet.flow_m3_h is None
    assert "dehumidifier" in wet.reason


def test_walls_of_the_worked_tent():
    tent = _space()
    assert volume_m3(tent) == pytest.approx(1.857, abs=1e-3)
    assert envelope_w_k(tent) == pytest.approx(27.2, rel=0.02)
    assert envelope_w_k(_space("foam-white")) < 0.4 * envelope_w_k(tent)


def test_warm_air_rises_between_two_openings():
    holes = (
        Opening(id="a", face="left", u_m=0.4, v_m=0.25, diameter_m=0.113, use="intake"),
        Opening(id="b", face="right", u_m=0.4, v_m=1.65, diameter_m=0.113, use="exhaust"),
    )
    tight = _space(openings=holes, air=Air(leak_cm2=0))
    air = ventilation(ALONE, tight, Moment(rise_k=5))
    # 2 × 100 cm², 1.4 m apart, 5 K: 10.4 m³/h in below and out above; the neutral level lies half way.
    assert [3600 * hole.flow_m3_s for hole in air.holes] == pytest.approx([10.4, -10.4], rel=0.01)
    assert air.pressure_pa == pytest.approx(0, abs=1e-3)
    assert ventilation(ALONE, tight, Moment(rise_k=0)).holes[0].flow_m3_s == pytest.approx(0)


def test_an_open_side_breathes_like_an_open_door():
    # One side of 0.6 × 1.3 m open, 4 K: 227 m³/h.
    tent = _space()
    door = tent.model_copy(
        update={
            "size": Size(width_m=0.6, depth_m=0.6, height_m=1.3),
            "faces": tent.faces.model_copy(update={"front": Surface(material_id="open")}),
        }
    )
    assert ventilation(ALONE, door, Moment(rise_k=4)).open_m3_h == pytest.approx(227, rel=0.03)
    # A room's own draughts move something at an open side even without warmth.
    assert 0 < ventilation(ALONE, door, Moment(rise_k=0)).total_m3_h == pytest.approx(227 * (0.5 / 4) ** 0.5, rel=0.03)


def test_the_big_leaf_comes_near_the_worked_tent():
    air = Surroundings(temperature_c=22.7, rh_pct=58, co2_ppm=428)
    trade = gas_exchange(Stand(area_m2=0.9775, lai=2.4, ppfd_umol_m2_s=560), air)
    assert trade.vapour_kg_s * 3.6e6 == pytest.approx(239, rel=0.05)
    assert trade.leaf_c - 22.7 == pytest.approx(-1.5, abs=0.2)
    night = gas_exchange(Stand(area_m2=0.9775, lai=2.4, ppfd_umol_m2_s=0), Surroundings(temperature_c=21.5, rh_pct=53))
    assert 0.15 < night.vapour_kg_s / trade.vapour_kg_s < 0.35
    assert night.co2_mol_s < 0 < trade.co2_mol_s
    assert gas_exchange(Stand(area_m2=0, lai=0, ppfd_umol_m2_s=0), air).vapour_kg_s == 0


@pytest.mark.parametrize(("co2", "want"), [(250, 16.7), (400, 21.4), (800, 26.5), (50, 0)])
def test_photosynthesis_against_co2(co2, want):
    assert gross_uptake_umol_m2_s(466, co2) == pytest.approx(want, abs=0.05)


def test_a_slow_fan_draws_by_the_square_of_its_speed(demo_plan):
    tent = demo_plan.spaces[0]
    way = tent.airways[0]
    fan = way.fans[0]

    def load(**set_to):
        parts = tuple(fan.model_copy(update=set_to) if part is fan else part for part in way.parts)
        return appliance_loads(tent.model_copy(update={"airways": (way.model_copy(update={"parts": parts}),)}))[0]

    full, slow, by_day = load(), load(speed=0.5), load(other=OtherSpeed(speed=0.0))
    assert slow.power_w == pytest.approx(full.power_w / 4)
    assert (full.hours_per_day, by_day.hours_per_day) == (24, tent.lit_hours)
    # Half speed by night costs a quarter of the power for the dark hours.
    lit = tent.lit_hours
    assert load(other=OtherSpeed(speed=0.5)).energy_kwh_d == pytest.approx(full.power_w * (lit + (24 - lit) / 4) / 1000)
    assert (full.heats_space, load(speed=0.0, other=OtherSpeed(speed=0.0)).energy_kwh_d) == (1, 0)


def test_cost_is_an_addition():
    loads = (
        Load(part_id="a", name="A", power_w=100, hours_per_day=10),
        Load(part_id="b", name="B", power_w=50, hours_per_day=2),
    )
    assert monthly_cost(loads, Tariff(price_per_kwh=0.3)) == pytest.approx(1.1 * 30.4 * 0.3)
    assert [load.continuous for load in loads] == [True, False]


def test_rooms_default_to_a_living_room():
    assert (USUAL_ROOM.day_c, Plan(name="P", date="2026-03-01").rooms) == (21, (USUAL_ROOM,))
