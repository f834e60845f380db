"""Whatever validation accepts is computed: what is beyond all bounds is a margin, never an exception."""

import dataclasses
import datetime as dt

import pytest
from hypothesis import HealthCheck, given, settings

from canopy.climate import Stand, Surroundings, gas_exchange
from canopy.errors import EvaluationError, PlanError, QuantityError
from canopy.evaluate import evaluate, evaluate_space
from canopy.evaluate.air.steady import HOTTEST_C
from canopy.evaluate.kept import forget, report_of
from canopy.library import fixtures
from canopy.margin import ORDER
from canopy.plan import Fixture, Opening, Room, Site, Size, from_data
from canopy.psychrometrics import dry_air_density_kg_m3, humidity_ratio, saturation_pa
from tests.core.air.worked import household, tent
from tests.core.evaluate.test_said_and_judged import contradiction
from tests.core.wild import plans

wild = settings(
    derandomize=True,
    max_examples=40,
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)


def hot_tent(count=2, **more):
    """Library discharge lamps in a small closed tent."""
    spec = fixtures()["hps-400"].spec
    lamps = tuple(Fixture(id=f"lamp-{n}", spec=spec, x_m=0.3, y_m=0.2 + 0.2 * n, z_m=0.5) for n in range(count))
    small = Size(width_m=0.6, depth_m=0.6, height_m=0.7)
    return tent(fixtures=lamps, **{"size": small, "openings": (), **more})


def test_discharge_lamps_in_a_closed_tent_are_far_too_hot_and_said_so():
    found = evaluate_space(household(hot_tent()), hot_tent(), with_map=False)
    margin = found.margin("climate.air-day")
    assert (margin.verdict, margin.information) == ("over", False)
    assert "Far too hot" in margin.why.say()
    assert (margin.word, "start a fire" in margin.danger) == ("overheats", True)
    assert found.margins[0].danger
    assert margin.there.say() == "60\u00a0°C or more"
    assert found.breathing.day.bounded
    assert found.station_verdict("climate") == "over"
    # Followed, it says when.
    followed = evaluate_space(household(hot_tent()), hot_tent(), with_map=False, follow=True).margin("climate.air-day")
    assert (followed.word, bool(followed.danger)) == ("overheats", True)
    assert "after midnight" in followed.why.say()
    # With half the house's air through it, it is warm but followed.
    cool = hot_tent(1).model_copy(update={"door_open": True})
    assert not evaluate_space(household(cool), cool, with_map=False).breathing.day.bounded


@wild
@given(plans())
def test_any_plan_that_is_accepted_is_computed(data):
    try:
        plan = from_data(data)
    except PlanError:
        return
    for report in evaluate(plan, with_map=False).spaces:
        assert {margin.verdict for margin in report.margins} <= set(ORDER)
        for margin in report.margins:
            assert contradiction(margin) == ""
            # A caution goes with what is broken, and with nothing else.
            assert not margin.danger or margin.verdict in ("short", "over")
            for system in ("metric", "us"):
                assert "nan" not in f"{margin.there.say(system)} {margin.why.say(system)}".lower().split()
        assert report.breathing.day.temperature_c <= HOTTEST_C + 1e-9


@pytest.mark.parametrize("altitude", [0, 5000])
@pytest.mark.parametrize("temperature", [-30, 20, 54, 60, 95])
def test_leaves_trade_or_are_dead_at_any_warmth_and_height(temperature, altitude):
    stand = Stand(area_m2=0.5, lai=2.0, ppfd_umol_m2_s=600)
    found = gas_exchange(stand, Surroundings(temperature_c=temperature, rh_pct=50, altitude_m=altitude))
    assert (found.vapour_kg_s > 0) == (temperature <= 55)
    if temperature > 55:
        assert (found.co2_mol_s, found.leaf_c) == (0.0, temperature)


@pytest.mark.parametrize(
    ("act", "words"),
    [
        (lambda: saturation_pa(201), "-100 to 200"),
        (lambda: humidity_ratio(-120, 50), "-100 to 200"),
        (lambda: humidity_ratio(98, 100), "boil"),
        (lambda: dry_air_density_kg_m3(400, 0.01), "-100 to 200"),
    ],
)
def test_moist_air_says_its_bounds(act, words):
    with pytest.raises(QuantityError, match=words):
        act()


def test_a_space_that_cannot_be_computed_is_named_and_the_others_go_on(demo_plan, monkeypatch):
    forget()
    broken = demo_plan.spaces[0].id

    def fails(plan, space, **more):
        if space.id == broken:
            raise ZeroDivisionError("float division by zero")
        return evaluate_space(plan, space, **more)

    monkeypatch.setattr("canopy.evaluate.kept.evaluate_space", fails)
    with pytest.raises(EvaluationError, match="Berry tent could not be computed"):
        report_of(demo_plan, demo_plan.spaces[0])
    assert report_of(demo_plan, demo_plan.spaces[1]).margins
    forget()


def test_rooms_share_warmth_and_damp():
    room = Room(id="room-1", name="Small", floor_m2=6.0, exchange_per_h=0.3)
    one = hot_tent(1, openings=(Opening(id="p", face="left", u_m=0.3, v_m=0.35, diameter_m=0.2),), room_id="room-1")
    two = one.model_copy(update={"id": "two", "name": "Two"})
    alone = household().model_copy(update={"rooms": (room,), "spaces": (one,)})
    both = household().model_copy(update={"rooms": (room,), "spaces": (one, two)})
    apart = both.model_copy(
        update={
            "rooms": (room, room.model_copy(update={"id": "other"})),
            "spaces": (one, two.model_copy(update={"room_id": "other"})),
        }
    )
    rises = [evaluate_space(plan, one, with_map=False).breathing.lit.room.rise_k for plan in (alone, both, apart)]
    assert rises[1] == pytest.approx(2 * rises[0], rel=1e-6)
    assert rises[2] == rises[0]


def test_seasons_run_between_the_extremes():
    cold, hot = ({"day_c": d, "night_c": d, "day_rh_pct": 40, "night_rh_pct": 40} for d in (5, 35))
    room = Room(id="room", name="R", day_c=20, night_c=20, coldest=cold, hottest=hot)
    plan = household(tent()).model_copy(update={"rooms": (room,)})
    space = plan.spaces[0]

    def warmth(plan, day):
        return plan.around(space, day).air.day_c

    assert warmth(plan, dt.date(2026, 1, 20)) == pytest.approx(5, abs=0.01)
    assert warmth(plan, dt.date(2026, 7, 21)) == pytest.approx(35, abs=0.1)
    assert warmth(plan, dt.date(2026, 4, 21)) == pytest.approx(20, abs=0.5)
    south = plan.model_copy(update={"site": Site(latitude_deg=-34.0)})
    assert warmth(south, dt.date(2026, 7, 21)) == pytest.approx(5, abs=0.1)
    assert dataclasses.asdict(plan.around(space, dt.date(2026, 1, 20)))["altitude_m"] == 0
