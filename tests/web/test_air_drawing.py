"""The drawing of the air: every part's symbol, runs through every face, folds outside, arrows, circulation fans, the
fan chart.
"""

import re
from itertools import pairwise

import pytest

from canopy.air.operating import fan_curves, operating_points, system_curve
from canopy.library import ducts, fans, filters, fittings, stirrers
from canopy.plan import (
    AdapterPart,
    Airway,
    BendPart,
    DuctPart,
    FanPart,
    FilterPart,
    FittingPart,
    Opening,
    PortPart,
    Stirrer,
)
from canopy_web.drawing.air_symbols import Line, arrow, half_px, part_name, symbol
from canopy_web.drawing.airpath import ALONG_PX, AWAY_PX, faces_of, outside_of, view_of
from canopy_web.drawing.fan_chart import HEIGHT, WIDTH, fan_chart
from canopy_web.drawing.sheet import sheet
from tests.core.air.worked import exhaust, household, tent
from tests.core.evaluate.air.test_verdicts import planted, report_of

PARTS = {
    "fan": FanPart(id="fan", spec=fans()["inline-125"].spec),
    "case": FanPart(id="case", spec=fans()["case-120"].spec),
    "filter": FilterPart(id="filter", spec=filters()["filter-125"].spec),
    "pad": FilterPart(id="pad", spec=filters()["pad-120"].spec),
    "flex": DuctPart(id="flex", spec=ducts()["flex-alu"].spec, diameter_m=0.125, length_m=0.5),
    "rigid": DuctPart(id="rigid", spec=ducts()["rigid-steel"].spec, diameter_m=0.125, length_m=0.5),
    "bend": BendPart(id="bend", diameter_m=0.125),
    "cone": AdapterPart(id="cone", from_m=0.15, to_m=0.125),
    "damper": FittingPart(id="damper", spec=fittings()["damper-125"].spec),
    "muffler": FittingPart(id="muffler", spec=fittings()["muffler-125"].spec),
    "grille": FittingPart(id="grille", spec=fittings()["grille-125"].spec),
    "screen": FittingPart(id="screen", spec=fittings()["screen-125"].spec),
    "trap": FittingPart(id="trap", spec=fittings()["light-trap-120"].spec),
}
LINE = Line(x=100.0, y=50.0, dx=1.0, dy=0.0)


def points_of(path):
    return [(float(x), float(y)) for x, y in re.findall(r"(-?[\d.]+) (-?[\d.]+)", path)]


@pytest.mark.parametrize("name", PARTS)
def test_a_symbol_lies_on_its_line_and_is_as_wide_as_its_part(name):
    part = PARTS[name]
    half = half_px(part, 100.0, 2.0)
    body, _ = symbol(part, LINE, 10.0, 30.0, half, short=False, forward=True)
    xs, ys = zip(*points_of(body), strict=True)
    assert (min(xs), max(xs)) == (110.0, 140.0)
    assert max(ys) - 50 == pytest.approx(50 - min(ys), abs=0.1)
    assert max(ys) - 50 <= half + 0.06
    assert body.endswith("Z")


def test_symbols_tell_parts_apart_without_colour():
    drawn = {name: symbol(part, LINE, 0.0, 30.0, 12.0, short=False, forward=True) for name, part in PARTS.items()}
    for alike in (
        ("fan", "filter"),
        ("flex", "rigid"),
        ("damper", "muffler"),
        ("grille", "trap"),
        ("bend", "cone"),
        ("filter", "flex"),
    ):
        one, two = (drawn[name] for name in alike)
        assert one != two, alike


def test_a_fan_s_wheel_points_with_the_air_and_a_cone_narrows_with_it():
    forth, back = (symbol(PARTS["fan"], LINE, 0.0, 30.0, 10.0, short=False, forward=way)[1] for way in (True, False))
    assert max(x for x, _ in points_of(forth)) > max(x for x, _ in points_of(back))
    narrow, wide = (
        points_of(symbol(PARTS["cone"], LINE, 0.0, 30.0, 10.0, short=False, forward=way)[0]) for way in (True, False)
    )
    assert abs(narrow[1][1] - 50) < abs(narrow[0][1] - 50)
    assert abs(wide[1][1] - 50) > abs(wide[0][1] - 50)


def test_a_duct_that_is_drawn_short_is_broken_off():
    whole, broken = (
        symbol(PARTS["rigid"], LINE, 0.0, 20.0, 8.0, short=short, forward=True)[1] for short in (False, True)
    )
    assert whole == ""
    assert broken.count("M") == 2


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("fan", "Inline fan 125 mm"),
        ("bend", "90° bend, flex"),
        ("cone", "Adapter, cone"),
        ("trap", "Light trap 120 mm"),
    ],
)
def test_parts_are_named(name, words):
    assert part_name(PARTS[name]) == words


def test_two_fans_and_a_port_are_named_as_such():
    assert part_name(PARTS["fan"].model_copy(update={"count": 2})) == "2 × Inline fan 125 mm"
    assert part_name(PortPart(id="p", opening_id="x")) == "Port"


@pytest.mark.parametrize(("forward", "tip"), [(True, 121.0), (False, 111.0)])
def test_arrows_point_away_from_their_beginning_or_at_it(forward, tip):
    drawn = points_of(arrow(110.0, 50.0, 1.0, 0.0, forward=forward))
    assert drawn[1][0] == pytest.approx(tip)
    # The barbs trail behind the tip.
    assert (drawn[2][0] < tip) is forward


FACES = {
    "left": ("front", (0.42, 1.5)),
    "right": ("front", (0.42, 1.5)),
    "ceiling": ("front", (0.5, 0.4)),
    "floor": ("front", (0.5, 0.4)),
    "front": ("side", (0.5, 1.5)),
    "back": ("side", (0.5, 1.5)),
}


def through(face, way="out", outside=("bend", "flex", "grille")):
    """A tent whose way of air passes one face, with a fold outside."""
    hole = Opening(id="hole", face=face, u_m=FACES[face][1][0], v_m=FACES[face][1][1], diameter_m=0.125, use="exhaust")
    inner, outer = (PARTS["filter"], PARTS["fan"]), tuple(PARTS[name] for name in outside)
    port = PortPart(id="port", opening_id="hole")
    parts = (*inner, port, *outer) if way == "out" else (*outer, port, *inner)
    space = planted(Airway(id="a", name="A", way=way, parts=parts))
    return space.model_copy(update={"openings": (*space.openings, hole)})


@pytest.mark.parametrize("way", ["out", "in"])
@pytest.mark.parametrize("face", FACES)
def test_a_run_is_drawn_through_every_face(face, way):
    space = through(face, way)
    report = report_of(space)
    name = FACES[face][0]
    assert view_of(space, space.airways[0]) == name
    assert outside_of(space, name) == {face}
    drawn = sheet(report, "metric", air=True)
    view, other = (drawn.front, drawn.side) if name == "front" else (drawn.side, drawn.front)
    assert (len(view.runs), len(other.runs)) == (1, 0)
    assert {mark.id for mark in view.air} == {"filter", "fan", "bend", "flex", "grille"}
    box = view.box
    for mark in view.air:
        xs, ys = zip(*points_of(mark.body), strict=True)
        within = (
            min(xs) >= box.x - 1
            and max(xs) <= box.x + box.w + 1
            and min(ys) >= box.y - 1
            and max(ys) <= box.y + box.h + 1
        )
        assert within is (mark.id in ("filter", "fan")), mark.id
    run = view.runs[0]
    assert run.arrows.count("M") == 4
    assert run.title == f"A A: {run.flow}, {'to' if way == 'out' else 'from'} room"


@pytest.mark.parametrize("face", ["left", "right", "ceiling"])
def test_outside_a_run_stays_beside_the_wall(face):
    report = report_of(through(face, outside=("flex", "bend", "rigid", "muffler", "damper", "grille")))
    view = sheet(report, "metric", air=True).front
    box = view.box
    for mark in view.air:
        for x, y in points_of(mark.body):
            away = max(box.x - x, x - box.x - box.w, box.y - y, y - box.y - box.h, 0.0)
            assert away <= AWAY_PX + 24
            assert abs(x - box.x) <= box.w + ALONG_PX
    assert min(x for mark in view.air for x, _ in points_of(mark.body)) >= 0
    assert max(x for mark in view.air for x, _ in points_of(mark.body)) <= view.width


def test_parts_lie_in_the_order_of_the_flow_without_gaps():
    view = sheet(report_of(through("left", outside=())), "metric", air=True).front
    spans = sorted(
        (min(x for x, _ in points_of(mark.body)), max(x for x, _ in points_of(mark.body)), mark.id) for mark in view.air
    )
    assert [name for *_, name in spans] == ["fan", "filter"]
    for (_, end, _), (start, *_) in pairwise(spans):
        assert start == pytest.approx(end, abs=0.2)
    assert [mark.label for mark in sorted(view.air, key=lambda mark: mark.label)] == ["A1", "A2"]


def test_a_long_chain_is_drawn_in_rather_than_through_the_wall():
    long = [DuctPart(id=f"d{n}", spec=ducts()["flex-alu"].spec, diameter_m=0.125, length_m=4) for n in range(3)]
    hole = Opening(id="hole", face="left", u_m=0.42, v_m=1.5, diameter_m=0.125, use="exhaust")
    way = Airway(id="a", name="A", parts=(PARTS["filter"], *long, PARTS["fan"], PortPart(id="p", opening_id="hole")))
    space = planted(way)
    view = sheet(report_of(space.model_copy(update={"openings": (*space.openings, hole)})), "us", air=True).front
    assert max(x for mark in view.air for x, _ in points_of(mark.body)) <= view.box.x + view.box.w
    assert all(mark.lines.count("M") > 2 for mark in view.air if mark.kind == "duct")
    assert "CFM" in view.runs[0].flow


def test_a_way_without_a_port_hangs_inside_and_a_fan_that_stands_is_drawn_so():
    idle = FanPart(id="fan", spec=fans()["inline-125"].spec, speed=0.0)
    view = sheet(report_of(planted(Airway(id="a", name="A", parts=(idle,)))), "metric", air=True).front
    (mark,) = view.air
    assert not mark.on
    assert view.box.x < points_of(mark.body)[0][0] < view.box.x + view.box.w


def test_openings_show_what_passes_them_by_itself():
    space = tent(
        openings=(
            Opening(id="low", face="left", shape="slit", u_m=0.4, v_m=0.1, width_m=0.3, height_m=0.05),
            Opening(id="high", face="right", shape="slit", u_m=0.4, v_m=1.8, width_m=0.3, height_m=0.05, use="exhaust"),
            Opening(id="behind", face="back", shape="slit", u_m=0.4, v_m=0.1, width_m=0.3, height_m=0.05),
            Opening(id="shut", face="left", u_m=0.4, v_m=0.6, diameter_m=0.1, open=False),
        )
    )
    drawn = sheet(report_of(space), "metric", air=True)
    marks = {mark.id: mark for mark in (*drawn.front.flows, *drawn.side.flows)}
    assert set(marks) == {"low", "high", "behind"}
    assert marks["low"].anchor == "end"
    assert marks["high"].anchor == "start"
    assert " in " in marks["low"].title
    assert " out " in marks["high"].title


@pytest.mark.parametrize(
    ("yaw", "pitch", "view", "axis", "sign"),
    [
        (0, 0, "front", 0, 1),
        (180, 0, "front", 0, -1),
        (90, 0, "side", 0, 1),
        (0, -80, "front", 1, 1),
        (90, 0, "plan", 1, -1),
    ],
)
def test_a_stirring_fan_s_cone_goes_where_it_blows(yaw, pitch, view, axis, sign):
    fan = Stirrer(id="s", spec=stirrers()["usb-140"].spec, x_m=0.5, y_m=0.4, z_m=1.0, yaw_deg=yaw, pitch_deg=pitch)
    drawn = sheet(report_of(tent(stirrers=(fan,))), "metric", air=True)
    (mark,) = getattr(drawn, view).stirrers
    far = points_of(mark.jet)[-1]
    assert (far[axis] - (mark.cx, mark.cy)[axis]) * sign > 10
    assert mark.title == "Circulation fan 1: USB fan 140 mm, 100\u00a0%"


def test_a_swinging_fan_shows_both_ends_of_its_sweep_from_above_and_one_that_blows_at_the_eye_none():
    swinging = Stirrer(
        id="s", spec=stirrers()["clip-150-swing"].spec, x_m=0.1, y_m=0.4, z_m=1.0, swings=True, enabled=False
    )
    drawn = sheet(report_of(tent(stirrers=(swinging,))), "metric", air=True)
    assert drawn.plan.stirrers[0].jet.count("M") == 6
    assert drawn.front.stirrers[0].jet.count("M") == 3
    assert drawn.side.stirrers[0].jet == ""
    assert not drawn.side.stirrers[0].on


def test_other_stations_keep_their_own_drawing():
    report = report_of(through("left"))
    plain, aired = sheet(report, "metric"), sheet(report, "metric", air=True)
    assert plain.front.air == plain.front.runs == plain.front.flows == plain.plan.stirrers == ()
    assert [d for d in plain.front.dimensions if d.style.startswith("stack")]
    assert not [d for d in aired.front.dimensions if d.style.startswith("stack")]
    assert aired.front.scale > 0
    assert set(faces_of("front")) == {"left", "right", "ceiling", "floor"}


@pytest.mark.parametrize(
    ("face", "view", "across", "up"),
    [
        ("left", "front", "", "v"),
        ("left", "side", "u", "v"),
        ("left", "plan", "", "u"),
        ("back", "front", "u", "v"),
        ("back", "side", "", "v"),
        ("back", "plan", "u", ""),
        ("ceiling", "front", "u", ""),
        ("ceiling", "side", "v", ""),
        ("floor", "plan", "u", "v"),
    ],
)
def test_a_drag_changes_the_measures_that_a_view_shows(face, view, across, up):
    hole = Opening(id="hole", face=face, u_m=0.4, v_m=0.4, diameter_m=0.1)
    drawn = sheet(report_of(tent(openings=(hole,))), "metric", air=True)
    (port,) = getattr(drawn, view).ports
    assert (port.across, port.up, port.u_m, port.v_m) == (across, up, 0.4, 0.4)


def chart(system="metric", need=100.0, **way):
    space = tent(exhaust(**way))
    plan, airway = household(space), space.airways[0]
    curves, points = fan_curves(airway), operating_points(plan, space, airway)
    reach = max(q for curve in curves for q, _ in curve.points)
    return fan_chart(curves, system_curve(plan, space, airway, reach), points, airway.fans[0].speed, need, system)


def test_points_of_the_chart_lie_where_both_curves_meet():
    found = chart()
    assert len(found.points) == len(found.fans) == 8
    now = next(point for point in found.points if point.now)
    rising = points_of(found.system)
    left, right = max(p for p in rising if p[0] <= now.x), min(p for p in rising if p[0] >= now.x)
    share = (now.x - left[0]) / max(right[0] - left[0], 1e-9)
    assert left[1] + share * (right[1] - left[1]) == pytest.approx(now.y, abs=1.0)
    assert "184" in now.title
    assert "as set they meet at" in found.label


def test_curves_fall_the_system_rises_and_all_stay_in_the_frame():
    found = chart()
    for line in found.fans:
        ys = [y for _, y in points_of(line.path)]
        assert ys == sorted(ys)
    ys = [y for _, y in points_of(found.system)]
    assert ys == sorted(ys, reverse=True)
    for path in (*(line.path for line in found.fans), found.system):
        for x, y in points_of(path):
            assert found.left - 0.1 <= x <= found.right + 0.1
            assert found.top - 0.1 <= y <= found.bottom + 0.1
    assert (found.width, found.height) == (WIDTH, HEIGHT)


@pytest.mark.parametrize(("system", "flow", "pressure"), [("metric", "m³/h", "Pa"), ("us", "CFM", "in wg")])
def test_axes_are_in_a_person_s_units_with_round_figures(system, flow, pressure):
    found = chart(system)
    assert (found.flow_unit, found.pressure_unit) == (flow, pressure)
    steps = [float(tick.text) for tick in found.across]
    assert steps[0] == 0
    assert {round(b - a, 6) for a, b in pairwise(steps)} == {steps[1]}
    assert 3 <= len(found.across) <= 8
    assert 3 <= len(found.up) <= 7
    assert found.points[0].title.split(":")[0] == "30 %"


@pytest.mark.parametrize(("need", "there"), [(100.0, True), (None, False), (5000.0, False)])
def test_the_need_is_marked_where_the_chart_reaches(need, there):
    found = chart(need=need)
    assert (found.need_x is not None) is there
    if there:
        assert found.left < found.need_x < found.right


def test_stalled_points_are_marked():
    found = chart(slack=0.45, loading=4.0, filtered=True, behind_m=0.05)
    assert any(point.stalls for point in found.points)
    assert not any(point.stalls for point in chart().points)
