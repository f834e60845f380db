"""Rooms and the site: seasons, shared warmth, thin air."""

import datetime as dt

import psychrolib
import pytest
from pydantic import ValidationError

from canopy.air.operating import operating_points
from canopy.air.room_balance import room_load
from canopy.errors import PlanError
from canopy.evaluate import evaluate_space
from canopy.evaluate.power.loads import running
from canopy.library import fixtures
from canopy.plan import Fixture, Plan, Room, RoomAir, Site, dumps, loads
from canopy.plan.rooms import Around, around_on
from canopy.psychrometrics import density_share
from tests.core.air.worked import exhaust, household, tent

MILD = Room(
    id="attic",
    name="Attic",
    day_c=20,
    night_c=16,
    coldest=RoomAir(day_c=12, night_c=8),
    hottest=RoomAir(day_c=32, night_c=26),
)


def lamp(number=1):
    spec = fixtures()["board-240"].spec
    return Fixture(id=f"lamp-{number}", spec=spec, x_m=0.55, y_m=0.4, z_m=1.5)


def report_of(plan, space):
    return evaluate_space(plan, space, with_map=False)


@pytest.mark.parametrize(
    ("day", "latitude", "day_c"),
    [
        (dt.date(2026, 1, 20), 48, 12.0),
        (dt.date(2026, 7, 21), 48, 32.0),
        (dt.date(2026, 7, 21), -34, 12.0),
        (dt.date(2026, 1, 20), -34, 32.0),
        (dt.date(2026, 4, 21), 48, 20.0),
        (dt.date(2026, 1, 20), None, 12.0),
    ],
)
def test_a_room_s_air_follows_the_season(day, latitude, day_c):
    around = around_on(MILD, Site(latitude_deg=latitude), day)
    assert around.temperature_c(lit=True) == pytest.approx(day_c, abs=0.25)


def test_a_room_without_seasons_is_the_same_every_day():
    room = Room(id="hall", name="Hall", day_c=19)
    assert {around_on(room, Site(), dt.date(2026, month, 1)).air.day_c for month in range(1, 13)} == {19}


def test_a_space_is_judged_in_its_room_s_season():
    space = tent(exhaust(), fixtures=(lamp(),)).model_copy(update={"room_id": "attic"})
    plan = Plan(name="House", date=dt.date(2026, 3, 1), spaces=(space,), rooms=(MILD,))
    winter, summer = (evaluate_space(plan, space, day=dt.date(2026, month, 20), with_map=False) for month in (1, 7))
    assert summer.breathing.lit.around.temperature_c - winter.breathing.lit.around.temperature_c > 15


def two_tents(floor_m2, same=True):
    first = tent(exhaust(), fixtures=(lamp(),)).model_copy(update={"room_id": "den"})
    second = first.model_copy(update={"id": "second", "name": "Second", "room_id": "den" if same else "other"})
    rooms = (Room(id="den", name="Den", floor_m2=floor_m2), Room(id="other", name="Other", floor_m2=floor_m2))
    return Plan(name="House", date=dt.date(2026, 3, 1), spaces=(first, second), rooms=rooms)


def test_two_spaces_in_one_room_share_its_warmth():
    alone, together = two_tents(12, same=False), two_tents(12)
    apart = report_of(alone, alone.spaces[0]).breathing.lit.around.temperature_c
    shared = report_of(together, together.spaces[0]).breathing.lit.around.temperature_c
    base = 21.0
    # The room's balance is near to linear in the heat that is put into it: two tents warm it about twice as much.
    assert shared - base == pytest.approx(2 * (apart - base), rel=0.15)
    assert apart > base + 0.5


def test_a_large_room_is_not_warmed():
    plan = two_tents(None)
    assert report_of(plan, plan.spaces[0]).breathing.lit.around.temperature_c == pytest.approx(21.0)


@pytest.mark.parametrize("altitude", [500.0, 1600.0, 2800.0])
def test_thin_air_weighs_less_everywhere(altitude):
    psychrolib.SetUnitSystem(psychrolib.SI)
    dry = lambda height: psychrolib.GetDryAirDensity(20.0, psychrolib.GetStandardAtmPressure(height))
    share = dry(altitude) / dry(0.0)
    assert density_share(altitude) == pytest.approx(share, rel=1e-3)
    way = exhaust(filtered=False)
    space = tent(way)
    sea = household(space)
    high = sea.model_copy(update={"site": Site(altitude_m=altitude)})
    low_point, high_point = (operating_points(plan, space, space.airways[0])[-1] for plan in (sea, high))
    # Fan curve and square losses fall alike with density (fan laws): the volume stays, pressure falls.
    assert high_point.flow_m3_h == pytest.approx(low_point.flow_m3_h, rel=0.02)
    assert high_point.lift_pa == pytest.approx(share * low_point.lift_pa, rel=0.03)
    assert running(high, space).power_w == pytest.approx(share * running(sea, space).power_w, rel=1e-3)


def test_thin_air_asks_for_more_volume_to_carry_the_same_heat():
    space = tent(exhaust(), fixtures=(lamp(),))
    sea = household(space)
    high = sea.model_copy(update={"site": Site(altitude_m=2000)})
    need = [report_of(plan, space).breathing.governing.flow_m3_h for plan in (sea, high)]
    assert need[1] / need[0] == pytest.approx(1 / density_share(2000), rel=0.05)


def test_a_space_names_a_room_that_is_there():
    space = tent(exhaust()).model_copy(update={"room_id": "cellar"})
    plan = Plan(name="House", date=dt.date(2026, 3, 1), spaces=(space,), rooms=(MILD,))
    with pytest.raises(PlanError, match="cellar"):
        loads(dumps(plan))


def test_the_site_is_checked_in_words():
    month = {"day_c": 10, "night_c": 4}
    with pytest.raises(ValidationError, match="twelve months"):
        Site.model_validate({"outdoors": [month] * 11})
    with pytest.raises(ValidationError, match="no time zone"):
        Site(time_zone="Moon/Sea")
    assert Site.model_validate({"outdoors": [month] * 12, "time_zone": "America/Lima"}).outdoors[3].day_c == 10


def test_rooms_and_site_come_back_from_the_file():
    site = Site(latitude_deg=-34.6, altitude_m=25, time_zone="America/Lima", currency="ARS")
    space = tent(exhaust()).model_copy(update={"room_id": "attic"})
    plan = Plan(name="House", date=dt.date(2026, 3, 1), spaces=(space,), rooms=(MILD,), site=site)
    assert loads(dumps(plan)) == plan


@pytest.mark.parametrize(("key", "what"), [("heating_w", "heater"), ("cooling_w", "air conditioner")])
def test_a_room_s_machine_asks_for_its_floor_area(key, what):
    plan = household(tent(exhaust())).model_copy(update={"rooms": (Room(id="room", name="Room", **{key: 1000.0}),)})
    with pytest.raises(PlanError, match=f"floor area first: what a {what} does"):
        loads(dumps(plan))


def test_a_conditioner_takes_a_warm_room_back_and_a_heater_a_cold_one():
    hall = Room(id="hall", name="Hall", day_c=28.0, floor_m2=12.0)
    free = room_load(Around(room=hall, air=hall), 400.0, 0.0)
    cooled = hall.model_copy(update={"cooling_w": 300.0, "cool_to_c": 26.0})
    weak = room_load(Around(room=cooled, air=cooled), 400.0, 0.0)
    # Three quarters of what it takes are dry heat.
    assert free.temperature_c - weak.temperature_c == pytest.approx(225.0 / 400.0 * free.rise_k)
    strong = cooled.model_copy(update={"cooling_w": 6000.0})
    assert room_load(Around(room=strong, air=strong), 400.0, 0.0).temperature_c == 26.0
    cold = hall.model_copy(update={"day_c": 5.0, "heating_w": 9000.0, "heat_to_c": 12.0})
    assert room_load(Around(room=cold, air=cold), 0.0, 0.0).temperature_c == 12.0
