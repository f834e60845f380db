"""Ways of air put together: parts where they go, ports, intakes, the right fan, layouts that hold."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.air import ventilation
from canopy.design.air.building import (
    at_diameter,
    at_speed,
    calmed,
    duct_part,
    exhaust_parts,
    filter_for,
    refitted,
    slowest_step,
    smallest_fan,
)
from canopy.design.air.openings import intake_opening, new_port, open_area_m2, with_port, with_way
from canopy.design.air.parts import bore_m, fresh_part, place_for, with_own, with_part
from canopy.design.air.stirring import aimed, suggest_stirrer
from canopy.design.change import changes_between
from canopy.errors import LibraryError, PlanError
from canopy.library import adapters, ducts, fans, filters, fittings, stirrers
from canopy.plan import Air, Airway, BendPart, FanPart, Opening, PortPart, dumps, loads
from canopy.plan.airways import part_length_m
from canopy.plan.changes import Remove
from canopy.plan.edit import apply
from canopy.schedule import Cycle
from tests.conftest import on
from tests.core.air.worked import CARBON, FAN, FLEX, SMALL, duct, exhaust, household, tent
from tests.core.evaluate.air.test_verdicts import PORT, planted

EMPTY = Airway(id="way", name="Way")
INWARDS = EMPTY.model_copy(update={"way": "in"})
KINDS = [
    ("fan", "inline-100"),
    ("filter", "filter-100"),
    ("duct", "flex-alu"),
    ("fitting", "damper-100"),
    ("bend", "mitre"),
    ("adapter", "cone-125-100"),
    ("port", ""),
]


@pytest.mark.parametrize(("kind", "key"), KINDS)
def test_every_kind_of_part_is_made_with_sensible_measures(kind, key):
    space = tent(EMPTY, openings=(PORT,))
    part = fresh_part(space, EMPTY, kind, key)
    assert (part.kind, part.id) == (kind, f"{kind}-1")
    again = fresh_part(space, with_part(EMPTY, part), kind, key)
    assert again.id == f"{kind}-2"
    made = with_way(space, with_part(EMPTY, part))
    assert loads(dumps(household(made))).spaces[0].airways[0].parts == (part,)


@pytest.mark.parametrize(
    ("kind", "key"), [("fan", "inline-999"), ("duct", "hose"), ("adapter", "cone-1-2"), ("hose", "")]
)
def test_what_the_library_has_not_is_refused(kind, key):
    with pytest.raises(LibraryError):
        fresh_part(tent(), EMPTY, kind, key)


@pytest.mark.parametrize(
    ("way", "want"),
    [
        (EMPTY, 0.125),
        (exhaust(spec=SMALL), 0.1),
        (EMPTY.model_copy(update={"parts": (BendPart(id="b", diameter_m=0.2),)}), 0.2),
    ],
)
def test_new_ducts_and_bends_take_the_way_s_diameter(way, want):
    assert bore_m(way) == want
    assert fresh_part(tent(), way, "duct", "flex-alu").diameter_m == want
    assert fresh_part(tent(), way, "bend", "flex").diameter_m == want


@pytest.mark.parametrize(
    ("kind", "out", "inwards"),
    [("filter", 0, 6), ("fan", 1, 1), ("port", 6, 0), ("duct", 6, 6), ("bend", 6, 6), ("fitting", 6, 6)],
)
def test_parts_go_where_they_usually_go(kind, out, inwards):
    way = exhaust()
    assert len(way.parts) == 6
    assert place_for(way, kind) == out
    assert place_for(way.model_copy(update={"way": "in"}), kind) == inwards
    assert place_for(EMPTY, kind) == 0


def test_a_port_takes_the_opening_that_suits_it_best():
    shut = PORT.model_copy(update={"id": "shut", "open": False})
    inlet = PORT.model_copy(update={"id": "inlet", "use": "intake", "v_m": 0.2})
    cable = PORT.model_copy(update={"id": "cable", "use": "cable", "v_m": 0.5})
    slit = Opening(id="slit", face="back", shape="slit", u_m=0.5, v_m=0.3, width_m=0.3, height_m=0.05)
    space = tent(EMPTY, openings=(cable, slit, shut, inlet, PORT))
    assert fresh_part(space, EMPTY, "port", "").opening_id == "port"
    assert fresh_part(space, INWARDS, "port", "").opening_id == "inlet"
    taken = with_way(space, with_part(EMPTY, PortPart(id="p", opening_id="port")))
    other = EMPTY.model_copy(update={"id": "other"})
    assert fresh_part(taken, other, "port", "").opening_id == "shut"
    with pytest.raises(PlanError, match="every round opening is taken"):
        fresh_part(tent(openings=(cable, slit)), EMPTY, "port", "")


@pytest.mark.parametrize("kind", ["fan", "filter", "fitting"])
def test_own_data_takes_the_first_one_s_place_or_joins(kind):
    joined_in = with_own(EMPTY, kind, {"name": "Mine"})
    assert [(part["kind"], part["spec"]) for part in joined_in] == [(kind, {"name": "Mine"})]
    way = exhaust()
    parts = with_own(way, kind, {"name": "Mine"})
    assert len(parts) == len(way.parts) + (kind == "fitting")
    assert [part["spec"]["name"] for part in parts if part["kind"] == kind] == ["Mine"]


@pytest.mark.parametrize(
    ("part", "want"),
    [
        (FanPart(id="f", spec=FAN), 0.2),
        (FanPart(id="f", spec=fans()["inline-125"].spec), 0.27),
        (duct(1, 1.9), 1.9),
        (BendPart(id="b", diameter_m=0.1), 0.12),
        (PortPart(id="p", opening_id="x"), 0.0),
    ],
)
def test_parts_have_lengths(part, want):
    assert part_length_m(part) == pytest.approx(want)


def test_an_exhaust_is_laid_out_by_what_its_fan_can_do():
    kinds = [part.kind for part in exhaust_parts(FAN, "port", strain=CARBON)]
    assert kinds == ["filter", "fan", "duct", "port"]
    assert [part.kind for part in exhaust_parts(fans()["case-120"].spec, "port")] == ["fan", "port"]
    assert [part.kind for part in exhaust_parts(FAN, None, duct_m=0)] == ["fan"]
    assert duct_part("d", 0.1, 2.0, "rigid-steel").spec.flexible is False


@pytest.mark.parametrize("class_id", ["inline-100", "inline-150", "inline-200"])
def test_another_fan_brings_all_that_leads_to_it(class_id):
    spec = fans()[class_id].spec
    way = refitted(exhaust(behind_m=0.08), spec, speed=0.5)
    assert {part.diameter_m for part in way.parts if part.kind in ("duct", "bend")} == {spec.diameter_m}
    assert (way.fans[0].spec.class_id, way.fans[0].speed, way.measured) == (class_id, 0.5, None)
    assert [part.id for part in way.parts] == [part.id for part in exhaust().parts]
    assert at_diameter(way.parts, 0.125)[1].diameter_m == 0.125


@pytest.mark.parametrize(("was", "now"), [(0.1, 0.125), (0.15, 0.15)])
def test_a_port_is_widened_but_never_narrowed(was, now):
    space = tent(openings=(PORT.model_copy(update={"diameter_m": was}),))
    made = with_port(space, exhaust(), 0.125)
    assert made.openings[0].diameter_m == now
    assert made.airways[0].port.opening_id == "port"
    assert loads(dumps(household(made))).spaces[0].airways[0].port


def test_a_port_is_cut_where_there_is_none_and_left_out_where_there_is_no_wall_for_it():
    made = with_port(tent(openings=()), exhaust(), 0.125)
    assert [(hole.use, hole.face, hole.diameter_m) for hole in made.openings] == [("exhaust", "left", 0.125)]
    inward = with_port(tent(openings=()), exhaust().model_copy(update={"way": "in"}), 0.125)
    assert (inward.openings[0].use, inward.airways[0].parts[0].kind) == ("intake", "port")
    assert with_port(tent(openings=()), exhaust(), 0.9).openings == ()
    assert new_port(tent(), 0.3, "intake").v_m == pytest.approx(0.21)


@pytest.mark.parametrize("flow", [20, 80, 200, 400])
@pytest.mark.parametrize("kind", ["tent", "cabinet"])
def test_an_intake_lets_its_flow_in_calmly(flow, kind):
    space = tent(kind=kind, openings=())
    hole = intake_opening(space, flow)
    gross = hole.free_area_m2 / hole.clear_share
    assert 0.9 <= flow / 3600 / 1.2 / gross <= 1.05 or gross < 0.003
    made = space.model_copy(update={"openings": (hole,)})
    assert loads(dumps(household(made)))
    assert open_area_m2(made) == pytest.approx(gross)
    assert hole.face != space.door_side


def test_an_intake_is_widened_for_what_the_fan_really_draws():
    narrow = intake_opening(tent(openings=()), 30)
    space = tent(exhaust(filtered=False), openings=(narrow,))
    plan = household(space)
    before, after = (ventilation(plan, item) for item in (space, calmed(plan, space)))
    fastest = [max(hole.speed_m_s for hole in air.holes if hole.opening_id) for air in (before, after)]
    assert fastest[0] > 3
    assert fastest[1] < 1.7
    assert after.fan_out_m3_h > before.fan_out_m3_h
    round_hole = tent(exhaust(), openings=(PORT.model_copy(update={"use": "intake"}),))
    assert calmed(plan, round_hole) == round_hole
    assert calmed(plan, tent(openings=())).openings == ()


@pytest.mark.parametrize("need", [15, 40, 90, 180, 350, 600])
def test_the_smallest_fan_gives_what_is_asked_and_not_far_more(need):
    plan = household(tent())

    def make(spec):
        way = Airway(id="a", name="A", parts=exhaust_parts(spec, None))
        made = with_port(tent(openings=()), way, spec.diameter_m)
        hole = intake_opening(made, need)
        return made.model_copy(update={"openings": (*made.openings, hole)}), made.airways[0]

    space, way, speed = smallest_fan(plan, make, need)
    air = ventilation(plan, space)
    assert need <= air.fan_out_m3_h <= 2.05 * need
    assert speed < 1
    slower = [step for step in way.fans[0].spec.steps if step < speed]
    if slower:
        assert ventilation(plan, at_speed(space, way, slower[-1])).fan_out_m3_h < need
    assert smallest_fan(plan, make, 5000) is None


def test_the_slowest_step_counts_a_cycle():
    space = tent(exhaust())
    plan = household(space)
    always = slowest_step(plan, space, space.airways[0], 60)
    cycled = space.airways[0].model_copy(update={"schedule": Cycle(on_min=30.0, every_min=60.0)})
    halved = slowest_step(plan, space.model_copy(update={"airways": (cycled,)}), cycled, 60)
    assert halved > always
    assert slowest_step(plan, space, space.airways[0], 500) is None


@pytest.mark.parametrize("flow", [50, 120, 240, 390, 760])
def test_the_lightest_filter_that_is_made_for_a_flow(flow):
    spec = filter_for(0.125, flow)
    assert spec.rated_flow_m3_h >= flow
    better = [
        row.spec
        for row in filters().values()
        if row.spec.bed_inner_m and row.spec.rated_flow_m3_h >= flow and abs(row.spec.diameter_m - 0.125) < 0.003
    ]
    if better:
        assert spec.weight_kg == min(each.weight_kg for each in better)


@pytest.mark.parametrize("row", stirrers().values(), ids=lambda row: row.id)
def test_a_stirring_fan_is_aimed_over_the_tops(row):
    here = on(planted())
    fan = aimed(here, row.spec)
    assert 0 <= fan.x_m <= 1.15
    assert 0 < fan.z_m < 1.9
    assert -80 < fan.pitch_deg < 0
    assert fan.swings is (row.spec.sweep_deg > 0)
    plan = apply(
        household(planted()),
        "tent",
        changes_between(planted(), planted().model_copy(update={"stirrers": (fan,)}), ("stirrers",)),
    )
    (hung,) = plan.spaces[0].stirrers
    assert hung.model_copy(update={"id": fan.id}) == fan


def test_a_second_stirring_fan_gets_an_id_of_its_own():
    here = on(planted())
    first = suggest_stirrer(here)
    second = suggest_stirrer(here.moved(here.space.model_copy(update={"stirrers": (first,)})))
    assert (first.id, second.id) == ("stirrer-1", "stirrer-2")


def test_changes_hold_only_what_differs():
    space = tent(exhaust())
    assert changes_between(space, space, ("airways", "openings")) == ()
    (change,) = changes_between(space, space.model_copy(update={"airways": ()}), ("airways", "openings"))
    assert change == Remove(collection="airways", part_ids=("exhaust",))
    way = space.airways[0]
    slower = tuple(p.model_copy(update={"speed": 0.5}) if p.kind == "fan" else p for p in way.parts)
    (change,) = changes_between(
        space, space.model_copy(update={"airways": (way.model_copy(update={"parts": slower}),)}), ("airways",)
    )
    assert (change.at, change.collection, dict(change.values)) == (("airways", "exhaust"), "parts", {"speed": 0.5})


def shuffled(parts):
    return st.permutations(parts).flatmap(lambda order: st.integers(0, len(order)).map(lambda n: tuple(order[:n])))


@given(st.data())
def test_changes_lead_from_one_state_to_the_other_whatever_differs(data):
    parts = [duct(n, 0.1 * n) for n in range(1, 7)]
    before, after = (Airway(id="way", name="Way", parts=data.draw(shuffled(parts))) for _ in range(2))
    plan = household(tent(before))
    changes = changes_between(plan.spaces[0], tent(after), ("airways",))
    made = apply(plan, "tent", changes).spaces[0].airways[0]
    assert sorted(part.length_m for part in made.parts) == sorted(part.length_m for part in after.parts)
    kept = {part.id for part in before.parts} & {part.id for part in after.parts}
    assert [p.id for p in made.parts if p.id in kept] == [p.id for p in after.parts if p.id in kept]
    if not kept or [p.id for p in before.parts if p.id in kept] == [p.id for p in after.parts if p.id in kept]:
        assert [part.length_m for part in made.parts] == [part.length_m for part in after.parts]


def test_shelves_of_parts_are_all_offered():
    space = tent(EMPTY, openings=(PORT,), air=Air())
    for kind, shelf in (
        ("fan", fans),
        ("filter", filters),
        ("duct", ducts),
        ("fitting", fittings),
        ("adapter", adapters),
    ):
        for key in shelf():
            assert fresh_part(space, EMPTY, kind, key).kind == kind
    assert FLEX.flexible
