"""What a space is to the air: its openings, seams, open sides, doors, walls."""

import pytest

from canopy.air import breath, door_flow_m3_h, envelope_w_k, is_open, leak_m2, open_faces, ventilation, volume_m3
from canopy.air.losses import HOLE, SEAM
from canopy.air.network import Moment
from canopy.air.shell import (
    DRAUGHT_K,
    draught_m3_h,
    holes,
    one_sided_m3_h,
    open_side_flow_m3_h,
    opening_level_m,
)
from canopy.library import leaks
from canopy.plan import Air, Opening, Surface
from canopy.schedule import by_hand
from tests.core.air.worked import exhaust, household, tent

KINDS = ("tent", "closet", "cabinet", "shelf", "glass-case")


def opened(*faces, **more):
    space = tent(**more)
    return space.model_copy(
        update={"faces": space.faces.model_copy(update={face: Surface(material_id="open") for face in faces})}
    )


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_has_usual_seams_draughts_and_a_way_with_sound(kind):
    row = leaks()[kind]
    assert row.range_cm2_m2.low <= row.area_cm2_m2 <= row.range_cm2_m2.high
    space = tent(kind=kind, air=Air())
    shell = 2 * (1.15 + 0.85) * 1.9 + 1.15 * 0.85
    assert leak_m2(space) == pytest.approx(row.area_cm2_m2 * shell / 1e4)
    assert draught_m3_h(space) == pytest.approx(volume_m3(space) * row.draught_per_h)
    assert 0 <= row.noise_cut_db <= 20


def test_tighter_kinds_leak_less():
    area = {kind: leak_m2(tent(kind=kind, air=Air())) for kind in KINDS}
    assert area["glass-case"] < area["cabinet"] < area["tent"] < area["closet"]


@pytest.mark.parametrize(("face", "level"), [("left", 0.7), ("back", 0.7), ("floor", 0.0), ("ceiling", 1.9)])
def test_openings_lie_at_their_level(face, level):
    hole = Opening(id="h", face=face, u_m=0.4, v_m=0.7, diameter_m=0.1)
    assert opening_level_m(tent(), hole) == level


@pytest.mark.parametrize(
    ("hole", "gross", "effective"),
    [
        ({"diameter_m": 0.2}, 0.031416, HOLE * 0.031416),
        ({"shape": "slit", "width_m": 0.5, "height_m": 0.02}, 0.01, HOLE * 0.01),
        ({"shape": "mesh", "width_m": 0.5, "height_m": 0.2, "clear_share": 0.58}, 0.1, HOLE * 0.058),
    ],
)
def test_holes_pass_by_what_they_leave_free(hole, gross, effective):
    space = tent(openings=(Opening(id="h", face="left", u_m=0.4, v_m=0.7, **hole),), air=Air(leak_cm2=0))
    (found,) = holes(space)
    assert found.gross_m2 == pytest.approx(gross, rel=1e-4)
    assert found.effective_m2 == pytest.approx(effective, rel=1e-4)


@pytest.mark.parametrize("change", [{"open": False}, {"use": "cable"}, {"use": "closed"}])
def test_what_is_shut_or_full_of_cable_passes_nothing(change):
    hole = Opening(**{"id": "h", "face": "left", "u_m": 0.4, "v_m": 0.7, "diameter_m": 0.1, **change})
    assert holes(tent(openings=(hole,), air=Air(leak_cm2=0))) == ()


def test_seams_count_half_low_and_half_high_and_a_port_in_use_not_at_all():
    space = tent()
    seams = [hole for hole in holes(space) if not hole.opening_id]
    assert [hole.effective_m2 for hole in seams] == [pytest.approx(SEAM * 9e-4)] * 2
    assert [hole.level_m for hole in seams] == [pytest.approx(0.19), pytest.approx(1.71)]
    assert [hole.opening_id for hole in holes(space, frozenset({"flap"}))] == ["", ""]


@pytest.mark.parametrize("face", ["left", "front", "back", "ceiling"])
def test_open_sides_are_found(face):
    space = opened(face)
    assert open_faces(space) == (face,)
    assert is_open(space)
    assert not is_open(tent())


def test_a_door_that_stands_open_is_an_open_side():
    door = tent(door_open=True)
    assert open_faces(door) == ("front",)
    assert door_flow_m3_h(door.model_copy(update={"air": Air(door=by_hand(3, 10))}), 4) == 0


def test_more_warmth_and_more_side_move_more_air():
    narrow, wide = opened("left"), opened("left", "front")
    assert open_side_flow_m3_h(wide, 4) > open_side_flow_m3_h(narrow, 4)
    assert open_side_flow_m3_h(narrow, 16) == pytest.approx(2 * open_side_flow_m3_h(narrow, 4))
    # A room's air is never quite still.
    assert open_side_flow_m3_h(narrow, 0) == open_side_flow_m3_h(narrow, DRAUGHT_K) > 0
    assert open_side_flow_m3_h(tent(), 10) == 0
    assert 0 < open_side_flow_m3_h(opened("ceiling"), 4) < open_side_flow_m3_h(narrow, 4)


def test_one_sided_exchange_goes_with_area_and_the_root_of_height_and_warmth():
    assert one_sided_m3_h(2.0, 1.3, 4) == pytest.approx(2 * one_sided_m3_h(1.0, 1.3, 4))
    assert one_sided_m3_h(1.0, 5.2, 4) == pytest.approx(2 * one_sided_m3_h(1.0, 1.3, 4))
    assert one_sided_m3_h(1.0, 1.3, -2) == 0


@pytest.mark.parametrize(
    ("times", "minutes", "share"), [(1, 60, 1 / 24), (4, 15, 1 / 24), (48, 30, 1.0), (48, 600, 1.0), (0, 30, 0.0)]
)
def test_a_door_opened_by_hand_counts_by_its_time(times, minutes, share):
    space = tent(air=Air(door=by_hand(times, minutes)))
    whole = one_sided_m3_h(1.15 * 1.9, 1.9, 4)
    assert door_flow_m3_h(space, 4) == pytest.approx(share * whole)
    assert door_flow_m3_h(space.model_copy(update={"door_side": None}), 4) == 0
    side = space.model_copy(update={"door_side": "left"})
    assert door_flow_m3_h(side, 4) == pytest.approx(share * whole * 0.85 / 1.15)


@pytest.mark.parametrize("gap", [0.4, 0.8, 1.6])
@pytest.mark.parametrize("rise", [1.0, 5.0, 12.0])
def test_a_chimney_of_two_slits_follows_the_closed_form(gap, rise):
    def slit(key, level, face):
        return Opening(id=key, face=face, shape="slit", u_m=0.4, v_m=level, width_m=0.5, height_m=0.02)

    space = tent(openings=(slit("low", 0.15, "left"), slit("high", 0.15 + gap, "right")), air=Air(leak_cm2=0))
    air = ventilation(household(space), space, Moment(rise_k=rise))
    want = HOLE * 0.01 / 2**0.5 * (2 * 9.81 * gap * rise / 295) ** 0.5 * 3600
    assert 3600 * air.holes[0].flow_m3_s == pytest.approx(want, rel=0.005)
    assert air.holes[0].flow_m3_s == pytest.approx(-air.holes[1].flow_m3_s, abs=1e-6)


def test_unequal_vents_move_the_neutral_level():
    low = Opening(id="low", face="left", shape="slit", u_m=0.4, v_m=0.2, width_m=0.5, height_m=0.08)
    high = Opening(id="high", face="right", shape="slit", u_m=0.4, v_m=1.7, width_m=0.5, height_m=0.02, use="exhaust")
    space = tent(openings=(low, high), air=Air(leak_cm2=0))
    air = ventilation(household(space), space, Moment(rise_k=6))
    series = 1 / (1 / 0.04**2 + 1 / 0.01**2) ** 0.5
    assert 3600 * air.holes[0].flow_m3_s == pytest.approx(
        HOLE * series * (2 * 9.81 * 1.5 * 6 / 295) ** 0.5 * 3600, rel=0.01
    )
    # The wide one lies low, and the neutral level with it: at mid-height the space presses outwards.
    assert air.pressure_pa > 0.05


def test_draughts_matter_only_where_fans_stand():
    still, running = tent(), tent(exhaust())
    alone = breath(household(still), still, lit=True, rise_k=0.0).total_m3_h
    assert alone == pytest.approx(draught_m3_h(still), rel=1e-3)
    moved = ventilation(household(running), running)
    assert moved.total_m3_h == pytest.approx(moved.fan_out_m3_h, rel=1e-3)


@pytest.mark.parametrize(("material", "u"), [("reflective-film", 3.17), ("glass", 3.68), ("foam-white", 1.02)])
def test_walls_of_each_kind_lead_heat_as_the_handbook_has_it(material, u):
    surface, space = Surface(material_id=material), tent()
    walls = dict.fromkeys(("left", "right", "front", "back", "ceiling"), surface)
    lined = space.model_copy(update={"faces": space.faces.model_copy(update=walls)})
    assert envelope_w_k(lined) == pytest.approx(u * 8.58, rel=0.05)
