"""Air that comes back from another space, air that passes the plants by, doors open and shut, what is in the way."""

import pytest

from canopy.design.air.presets import preset, shut_for_loop
from canopy.evaluate import evaluate_space
from canopy.library import filters
from canopy.plan import Air, Airway, Ambient, Device, FanPart, FilterPart, Opening, PortPart, dumps, loads
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy.plan.solids import holes_overlap
from canopy.schedule import Cycle, by_hand
from tests.conftest import mending
from tests.core.air.test_network import joined
from tests.core.air.worked import FAN, SMALL, exhaust, household, tent
from tests.core.evaluate.air.test_verdicts import margin, planted, report_of, with_port


def looped(**more):
    """The planted tent in a loop through a cupboard that nothing dries."""
    _, ring, cupboard = joined()
    space = planted(*ring.airways, flaps=False, **more)
    return household(space, cupboard), space, cupboard


def test_what_comes_back_is_what_the_other_space_comes_to():
    plan, space, cupboard = looped()
    here = evaluate_space(plan, space, with_map=False).breathing.lit
    there = evaluate_space(plan, cupboard, with_map=False).breathing.lit
    assert here.linked["far"].temperature_c == pytest.approx(there.steady.temperature_c, abs=0.3)
    assert here.linked["far"].rh_pct == pytest.approx(there.steady.rh_pct, abs=2)
    # Nothing cools the cupboard but its walls: it comes to lie between the tent and the room.
    assert here.around.temperature_c < here.linked["far"].temperature_c < here.steady.temperature_c
    # Water is neither made nor lost: what the leaves give off leaves by the purge and the seams.
    assert here.steady.vapour_kg_s > 0
    assert here.intake.rh_pct > here.around.rh_pct


def test_what_is_typed_of_the_far_air_goes_before_what_is_computed():
    plan, space, _ = looped()
    dry = Ambient(day_c=18, day_rh_pct=40, night_c=18, night_rh_pct=40)
    kept = tuple(way.model_copy(update={"away": dry}) if way.id == "back" else way for way in space.airways)
    after = evaluate_space(plan, space.model_copy(update={"airways": kept}), with_map=False).breathing.lit
    free = evaluate_space(plan, space, with_map=False).breathing.lit
    assert after.steady.rh_pct < free.steady.rh_pct - 3


def test_both_ends_of_a_loop_say_the_same_flow_at_any_edit():
    plan, _, _ = looped()
    for speed in (0.4, 1.0):
        values = {"speed": speed}
        plan = apply(plan, "tent", (Change(at=("airways", "out"), collection="parts", part_id="f", values=values),))
        near = evaluate_space(plan, plan.spaces[0], with_map=False).breathing.lit.air.running.way("out")
        far = evaluate_space(plan, plan.spaces[1], with_map=False).breathing.lit.air.running.way("out")
        assert far.flow_m3_h == pytest.approx(near.flow_m3_h, rel=0.02)


def test_only_fresh_air_counts_towards_exchange_and_co2():
    plan, space, _ = looped()
    half = evaluate_space(plan, space, with_map=False).breathing.lit
    assert half.moves_m3_h("exchange") == half.moves_m3_h("co2") < 20
    assert half.moves_m3_h("heat") > 40


def test_a_device_at_the_far_end_is_said_not_to_be_counted():
    _, space, cupboard = looped()
    spec = {"name": "Small dehumidifier", "kind": "dehumidifier", "power_w": 200}
    with_it = cupboard.model_copy(update={"devices": (Device.model_validate({"id": "d", "spec": spec}),)})
    words = margin(space, "air.loop", with_it).why.say()
    assert "Small dehumidifier, Far" in words
    assert "not counted yet" in words


def test_an_exhaust_that_is_led_on_into_the_next_space_is_no_loop():
    plan, space, cupboard = looped()
    assert evaluate_space(plan, space, with_map=False).margin("air.loop") is not None
    onward = space.model_copy(update={"airways": tuple(way for way in space.airways if way.id != "back")})
    assert [way.ends for way in onward.airways if way.way == "out"].count("space") == 1
    one_way = household(onward, cupboard)
    for each in one_way.spaces:
        assert evaluate_space(one_way, each, with_map=False).margin("air.loop") is None
    # What the leaves' water asks of the air is judged all the same.
    assert evaluate_space(one_way, onward, with_map=False).margin("air.flow").verdict in ("good", "tight", "short")


def test_a_closed_loop_is_closed():
    flap = Opening(id="m", face="right", u_m=0.4, v_m=0.2, shape="mesh", width_m=0.3, height_m=0.2)
    space = planted(openings=(flap,))
    far = tent(kind="cabinet", openings=(flap,)).model_copy(update={"id": "far", "name": "Far"})
    made = preset(report_of(space, far), "loop")
    assert not next(hole for hole in made.openings if hole.id == "m").open
    assert not shut_for_loop(far).openings[0].open
    beside = made.model_copy(
        update={"openings": tuple(o.model_copy(update={"open": True}) if o.id == "m" else o for o in made.openings)}
    )
    assert "not closed" in margin(beside, "air.loop", far).why.say()
    assert "not closed" not in margin(made, "air.loop", far).why.say()
    assert not any(holes_overlap(a, b) for a in made.openings for b in made.openings if a is not b)


def test_a_purge_at_lights_out_is_said_not_to_feed_the_leaves():
    _, space, cupboard = looped(air=Air(leak_cm2=1))
    ways = tuple(
        way.model_copy(update={"schedule": Cycle(on_min=20, every_min=1440, when="dark")}) if way.id == "purge" else way
        for way in space.airways
    )
    found = margin(space.model_copy(update={"airways": ways}), "air.purge", cupboard)
    assert found.verdict == "short"
    assert "with the lamps off" in found.why.say()


def blown(mesh_face="right", mesh_v=0.25):
    """Air blown in low on the right, with a mesh on some face and an outlet high on the left."""
    inlet = Opening(id="in", face="right", u_m=0.2, v_m=0.2, diameter_m=0.125)
    mesh = Opening(id="mesh", face=mesh_face, u_m=0.6, v_m=mesh_v, shape="mesh", width_m=0.2, height_m=0.15)
    out = Opening(id="out", face="left", u_m=0.4, v_m=1.7, diameter_m=0.15, use="exhaust")
    port = PortPart(id="p", opening_id="in")
    way = Airway(id="blow", name="Intake", way="in", parts=(port, FanPart(id="f", spec=FAN, speed=0.6)))
    return planted(way, openings=(inlet, mesh, out))


def test_a_mesh_beside_the_fan_that_blows_in_is_a_short_circuit():
    space = blown()
    found = report_of(space)
    cut = found.margin("air.short-circuit")
    assert cut.parts == ("in", "mesh")
    half = found.breathing.lit
    assert found.breathing.delivered_m3_h == pytest.approx(half.air.shut_m3_h * (1 - half.past_share), rel=1e-6)
    assert found.margin("air.flow").there.say() != ""
    plan = household(space)
    remedy = mending(plan, space, "air.short-circuit")
    after = apply(plan, "tent", remedy.changes)
    again = evaluate_space(after, after.spaces[0], with_map=False)
    assert again.margin("air.short-circuit") is None
    assert again.breathing.lit.moves_m3_h("heat") > half.moves_m3_h("heat")


def test_a_mesh_across_the_plants_is_none():
    assert report_of(blown("left", 1.2)).margin("air.short-circuit") is None


def test_an_intake_filter_is_not_asked_to_hold_smells():
    port, strain = PortPart(id="p", opening_id="port"), FilterPart(id="s", spec=filters()["filter-125-slim"].spec)
    space = planted(Airway(id="in", name="In", way="in", parts=(strain, FanPart(id="f", spec=FAN, speed=0.5), port)))
    found = report_of(space)
    assert found.breathing.lit.air.running.pressure_pa > 0.05
    assert found.margin("air.pressure").verdict == "good"
    words = found.margin("air.filter.s").why.say()
    assert "holds no smell back" in words
    assert "odour" not in words


def test_a_door_held_open_is_no_strong_fan():
    plain = planted(with_port(exhaust(speed=0.5)), air=Air(leak_cm2=18, rise_k=3, rule="heat"))
    ajar = plain.model_copy(update={"air": plain.air.model_copy(update={"door": by_hand(3, 60)})})
    shut, opened = report_of(plain), report_of(ajar)
    assert opened.margin("air.flow").verdict == shut.margin("air.flow").verdict
    assert opened.breathing.delivered_m3_h == pytest.approx(shut.breathing.delivered_m3_h, rel=1e-6)
    apart = opened.margin("air.door")
    assert apart.information
    held = opened.breathing.lit.air
    assert held.held_open_m3_h > 5 * held.door_m3_h > 0
    assert shut.margin("air.door") is None
    stands = plain.model_copy(update={"door_open": True})
    found = report_of(stands)
    assert found.margin("air.flow").verdict == "good"
    assert "The door stands open" in found.margin("air.door").why.say()


def test_pressure_that_is_barely_negative_says_why_and_what_mends_it():
    flaps = tuple(
        Opening(id=f"flap-{n}", face=face, u_m=0.4, v_m=0.9, shape="mesh", width_m=0.3, height_m=0.2)
        for n, face in enumerate(("right", "back"))
    )
    port = Opening(id="port", face="left", u_m=0.4, v_m=1.75, diameter_m=0.125, use="exhaust")
    space = planted(with_port(exhaust()), openings=(*flaps, port))
    found = margin(space, "air.pressure")
    assert found.verdict == "tight"
    assert "times what" in found.why.say()
    plan = household(space)
    remedy = mending(plan, space, "air.pressure")
    after = apply(plan, "tent", remedy.changes)
    mended = evaluate_space(after, after.spaces[0], with_map=False)
    assert mended.margin("air.pressure").verdict == "good"


def test_high_seams_that_leak_warm_air_are_named():
    space = planted(with_port(exhaust(speed=0.1)), air=Air(leak_cm2=200, rise_k=8))
    found = report_of(space)
    seams = -3600 * sum(
        min(0.0, hole.flow_m3_s) for hole in found.breathing.lit.air.running.holes if not hole.opening_id
    )
    assert seams > 0.5
    assert "through the seams" in found.margin("air.pressure").why.say()


def test_more_than_is_needed_is_too_much_where_it_costs():
    need = Air(leak_cm2=18, rise_k=6, rule="heat")
    found = report_of(planted(with_port(exhaust()), air=need)).margin("air.flow")
    assert found.verdict == "over"
    words = found.why.say().replace("\u00a0", " ")
    assert [part for part in ("louder", "a month for nothing", "Run it at") if part not in words] == []
    quiet = FAN.model_copy(update={"power_w": 3.0, "noise_dba_1m": 20.0})
    space = planted(with_port(exhaust(spec=quiet, speed=0.6)), air=need)
    there = report_of(space)
    times = there.breathing.delivered_m3_h / there.breathing.governing.flow_m3_h
    assert there.margin("air.flow").verdict == ("over" if times > 2.5 else "good")


def test_a_filter_is_never_better_aged_and_never_counted_twice():
    allowed = Air(leak_cm2=18, rule="exchange", count_allowance=True, filter_allowance=0.25)
    space = planted(with_port(exhaust()), air=allowed)
    for loading in (1.0, 1.4, 2.5):
        parts = tuple(
            part.model_copy(update={"loading": loading}) if part.kind == "filter" else part
            for part in space.airways[0].parts
        )
        way = space.airways[0].model_copy(update={"parts": parts})
        found = report_of(space.model_copy(update={"airways": (way,)}))
        path = found.paths[0]
        assert path.aged_m3_h <= path.flow_m3_h + 1e-6
        assert all(load.aged_drop_pa >= load.drop_pa for load in path.filters)
    # The filter is in the path: the exchange asks for the bare volume, and no fifth more is wanted.
    bare = report_of(planted(with_port(exhaust()), air=allowed.model_copy(update={"count_allowance": False})))
    assert found.breathing.governing.flow_m3_h == pytest.approx(bare.breathing.governing.flow_m3_h)
    unfiltered = report_of(planted(with_port(exhaust(filtered=False)), air=allowed))
    assert unfiltered.breathing.governing.flow_m3_h == pytest.approx(1.25 * bare.breathing.governing.flow_m3_h)


def test_a_filter_in_the_plants_is_moved_out_of_them():
    low = Opening(id="port", face="left", u_m=0.25, v_m=0.4, diameter_m=0.125, use="exhaust")
    parts = (FilterPart(id="s", spec=filters()["filter-125-slim"].spec), FanPart(id="f", spec=FAN))
    space = planted(with_port(Airway(id="exhaust", name="Exhaust", parts=parts)), openings=(low,))
    found = margin(space, "air.place.exhaust")
    assert found.verdict == "over"
    assert "plant" in found.why.say()
    plan = household(space)
    after = apply(plan, "tent", mending(plan, space, "air.place.exhaust").changes)
    assert evaluate_space(after, after.spaces[0], with_map=False).margin("air.place.exhaust") is None


def test_what_is_laid_out_is_placed_clear_and_no_stronger_than_need_be():
    space = planted(openings=(), air=Air(leak_cm2=18, rise_k=3))
    for kind in ("exhaust", "filtered", "intake", "push-pull"):
        found = report_of(preset(report_of(space), kind))
        assert not [m.id for m in found.margins if m.id.startswith(("air.place", "space.holes", "air.short"))]
        assert found.breathing.delivered_m3_h < 2 * found.breathing.governing.flow_m3_h
        for path in found.paths:
            ducts = [drop.speed_m_s for drop in path.drops if drop.element.kind == "duct"]
            assert max(ducts, default=0) <= 5.0
    assert SMALL.free_flow_m3_h < FAN.free_flow_m3_h
    assert loads(dumps(household(space))).spaces[0].openings == ()
