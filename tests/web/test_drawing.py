"""Drawings are data first: what is where, before any SVG is written."""

import re
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from canopy.evaluate import evaluate_space
from canopy.evaluate.light.lighting import LightMap
from canopy.margin import Amount
from canopy.plan import Shelf
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy.quantities import LightUnit
from canopy_web.drawing.contours import _smooth, draw, figure, levels, step_of
from canopy_web.drawing.floor import floor_line
from canopy_web.drawing.sheet import SHEET_W, TALLEST, sheet


@pytest.fixture(scope="module")
def report(demo_plan):
    return evaluate_space(demo_plan, demo_plan.spaces[0])


@pytest.fixture(scope="module")
def views(report):
    return sheet(report, "metric")


def _numbers(path):
    return np.array([float(v) for v in re.findall(r"-?\d+\.?\d*", path)]).reshape(-1, 2)


def test_front_and_side_share_one_scale_and_the_plan_fills_what_is_left(views, report):
    size = report.space.size
    assert views.front.scale == views.side.scale
    assert views.plan.scale >= views.front.scale
    assert views.front.box.w == pytest.approx(size.width_m * views.front.scale, abs=0.1)
    assert views.front.box.h == pytest.approx(size.height_m * views.front.scale, abs=0.1)
    assert views.side.box.w == pytest.approx(size.depth_m * views.side.scale, abs=0.1)
    assert views.plan.box.h == pytest.approx(size.depth_m * views.plan.scale, abs=0.1)
    assert max(views.front.box.h, views.plan.box.h) <= TALLEST + 0.1
    assert views.front.width + views.side.width + views.plan.width <= SHEET_W + 1


@pytest.mark.parametrize(
    ("name", "across", "up"), [("plan", "x_m", "y_m"), ("front", "x_m", None), ("side", "y_m", None)]
)
def test_plants_stand_where_the_plan_says(views, report, name, across, up):
    view = getattr(views, name)
    by_id = {plant.id: plant for plant in report.here.plants}
    assert {mark.id for mark in view.plants} == set(by_id)
    for mark in view.plants:
        plant = by_id[mark.id]
        assert mark.cx == pytest.approx(view.box.x + getattr(plant, across) * view.scale, abs=0.1)
        assert mark.rx == pytest.approx(plant.spread_m / 2 * view.scale, abs=0.1)
        if up:
            assert mark.cy == pytest.approx(view.box.y + view.box.h - getattr(plant, up) * view.scale, abs=0.1)
        else:
            top = view.box.y + view.box.h - plant.top_m * view.scale
            assert mark.cy - mark.ry == pytest.approx(top, abs=0.15)


def test_what_stands_in_front_is_drawn_last(views, report):
    order = [mark.id for mark in views.front.plants]
    depth = {plant.id: plant.y_m for plant in report.here.plants}
    assert [depth[key] for key in order] == sorted(depth.values(), reverse=True)


def test_lamps_hang_at_their_height_from_the_ceiling(views, report):
    view = views.front
    for mark, lamp in zip(view.lamps, report.space.fixtures, strict=True):
        outline = _numbers(mark.outlines[0])
        face = view.box.y + (report.space.size.height_m - lamp.z_m) * view.scale
        assert outline[:, 1].max() == pytest.approx(face, abs=0.1)
        assert np.ptp(outline[:, 0]) == pytest.approx(lamp.spec.length_m * view.scale, abs=0.2)
        assert len(mark.hangers) == 2
        assert all(hanger[3] == pytest.approx(view.box.y, abs=0.1) for hanger in mark.hangers)
        assert mark.beam.count("M") == 5


def test_a_turned_lamp_is_drawn_turned_and_a_dark_one_as_off(demo_plan):
    change = Change(collection="fixtures", part_id="lamp-1", values={"yaw_deg": 90, "enabled": False})
    plan = apply(demo_plan, "berry-tent", [change])
    view = sheet(evaluate_space(plan, plan.spaces[0]), "metric").plan
    outline = _numbers(view.lamps[0].outlines[0])
    spec = plan.spaces[0].fixtures[0].spec
    assert np.ptp(outline[:, 1]) == pytest.approx(spec.length_m * view.scale, abs=0.2)
    assert [mark.on for mark in view.lamps] == [False, True]


def test_bars_are_drawn_one_by_one(demo_plan):
    from canopy.library import fixtures

    spec = fixtures()["rig-4-bar-260"].spec.model_dump(mode="json")
    plan = apply(
        demo_plan, "berry-tent", [Change(collection="fixtures", part_id="lamp-1", values={"spec": spec, "x_m": 0.6})]
    )
    view = sheet(evaluate_space(plan, plan.spaces[0]), "metric").plan
    assert len(view.lamps[0].outlines) == 4


def test_a_number_is_written_below_a_lamp_that_touches_the_ceiling(demo_plan):
    plan = apply(demo_plan, "berry-tent", [Change(collection="fixtures", part_id="lamp-1", values={"z_m": 1.79})])
    low, high = sheet(evaluate_space(plan, plan.spaces[0]), "metric").front.lamps[::-1]
    assert low.ty < _numbers(low.outlines[0])[:, 1].min()
    assert high.ty > _numbers(high.outlines[0])[:, 1].max()


def test_openings_are_circles_face_on_and_gaps_from_the_side(views, report):
    exhaust = next(o for o in report.space.openings if o.use == "exhaust")
    front, side = (next(p for p in view.ports if p.id == exhaust.id) for view in (views.front, views.side))
    assert front.gap is not None
    assert front.gap[0] == front.gap[2] == pytest.approx(views.front.box.x, abs=0.1)
    assert abs(front.gap[3] - front.gap[1]) == pytest.approx(exhaust.diameter_m * views.front.scale, abs=0.2)
    assert side.gap is None
    assert side.r == pytest.approx(exhaust.diameter_m / 2 * views.side.scale, abs=0.1)
    cable = next(o for o in report.space.openings if o.use == "cable")
    assert next(p for p in views.front.ports if p.id == cable.id).gap is None


def test_the_stack_of_heights_fills_the_space(views, report):
    stack = [d for d in views.front.dimensions if d.style.startswith("stack")]
    assert sum(abs(d.y1 - d.y2) for d in stack) == pytest.approx(views.front.box.h, abs=0.6)
    assert [d.style for d in stack] == ["stack-pot", "stack-plant", "stack-clear", "stack-lamp", "stack-hang"]
    assert "52" in next(d.text for d in stack if d.style == "stack-clear")


def test_the_stack_follows_the_selected_lamp(demo_plan):
    plan = apply(demo_plan, "berry-tent", [Change(collection="fixtures", part_id="lamp-2", values={"z_m": 1.4})])
    report = evaluate_space(plan, plan.spaces[0])
    text = {
        key: next(d.text for d in sheet(report, "metric", key).front.dimensions if d.style == "stack-clear")
        for key in ("lamp-1", "lamp-2")
    }
    assert text["lamp-1"] != text["lamp-2"]


@pytest.mark.parametrize(("system", "text"), [("metric", "123\u00a0cm"), ("us", "48.4\u00a0in")])
def test_dimensions_come_in_a_person_s_units(report, system, text):
    assert text in [dimension.text for dimension in sheet(report, system).plan.dimensions]


@pytest.mark.parametrize(
    ("least", "most", "want"),
    [
        (0, 0, []),
        (100, 100, []),
        (0, 80, [10, 20, 30, 40, 50, 60, 70]),
        (262, 445, [275, 300, 325, 350, 375, 400, 425]),
        (0.2, 0.9, []),
        (0.2, 3.0, [1.0, 1.5, 2.0, 2.5]),
    ],
)
def test_contour_levels_are_round(least, most, want):
    assert levels(least, most) == pytest.approx(want)


def _round_map(n=25):
    axis = np.linspace(0.01, 0.99, n)
    gx, gy = np.meshgrid(axis, axis)
    return LightMap(height_m=0.3, x_m=axis, y_m=axis, ppfd_umol_m2_s=400 - 300 * ((gx - 0.5) ** 2 + (gy - 0.5) ** 2))


def test_a_round_field_gives_round_lines_of_the_right_size():
    bands, lines = draw(_round_map(), lambda x, y: (100 * x, 100 * y), (150.0, 300.0))
    line = next(item for item in lines if item.text == "340")
    radius = np.hypot(*(_numbers(line.path) - 50).T)
    # 400 - 300 r² = 340 at r = 0.4472.
    assert radius == pytest.approx(np.full(len(radius), 44.72), abs=0.5)
    assert [band.step for band in bands] == sorted(band.step for band in bands)
    assert sum(item.labelled for item in lines) >= 3


def test_colours_say_what_the_plants_want_not_what_is_brightest():
    wanted = (150.0, 300.0)
    assert [step_of(value, wanted) for value in (0, 0.2, 149, 150, 299, 301, 451)] == [1, 1, 3, 4, 6, 7, 8]
    faint = replace(_round_map(), ppfd_umol_m2_s=_round_map().ppfd_umol_m2_s / 100)
    bands, _ = draw(faint, lambda x, y: (x, y), wanted)
    assert {band.step for band in bands} == {1}
    bright = replace(_round_map(), ppfd_umol_m2_s=_round_map().ppfd_umol_m2_s * 2)
    assert {band.step for band in draw(bright, lambda x, y: (x, y), wanted)[0]} == {8}
    # The ends of the window are lines of their own.
    _, lines = draw(_round_map(), lambda x, y: (x, y), (310.0, 390.0))
    assert {"310", "390"} <= {line.text for line in lines}


def test_light_too_faint_to_matter_is_said_as_that():
    assert tuple(figure(value, LightUnit()) for value in (0, 0.2, 1.4)) == ("0", "under 1", "1")
    assert Amount(value=0.2, unit="µmol/m²/s").text() == "under 1\u00a0µmol/m²/s"
    assert Amount(value=0.2, unit="mol/m²/d").text() == "0.2\u00a0mol/m²/d"


def test_labels_keep_clear_of_each_other():
    _, lines = draw(_round_map(), lambda x, y: (300 * x, 300 * y), (150.0, 300.0))
    places = [(item.tx, item.ty) for item in lines if item.labelled]
    for number, (x, y) in enumerate(places):
        assert all(abs(x - a) + abs(y - b) > 26 for a, b in places[:number])


def test_darkness_has_no_lines():
    dark = _round_map()
    flat = LightMap(height_m=0.3, x_m=dark.x_m, y_m=dark.y_m, ppfd_umol_m2_s=np.zeros((25, 25)))
    assert draw(flat, lambda x, y: (x, y), (150.0, 300.0)) == ((), ())


def test_smoothing_keeps_samples_and_straight_lines():
    grid = np.array([[0.0, 1, 2, 3, 4], [4, 2, 7, 1, 0]])
    fine = _smooth(grid, 3)
    assert fine[:, ::3] == pytest.approx(grid)
    assert fine[0] == pytest.approx(np.linspace(0, 4, 13))


def test_all_spaces_stand_on_one_floor_line(demo_plan):
    reports = [evaluate_space(demo_plan, space) for space in demo_plan.spaces]
    line = floor_line([report.here for report in reports], "metric")
    scale = {round(f.h / r.space.size.height_m, 0) for f, r in zip(line.figures, reports, strict=True)}
    assert len(scale) == 1
    assert all(figure.y + figure.h == pytest.approx(line.floor_y, abs=0.2) for figure in line.figures)
    edges = [(figure.x, figure.x + figure.w) for figure in line.figures]
    assert all(right <= left for (_, right), (left, _) in pairwise(edges))
    assert all(figure.crowns.startswith("M") and figure.pots.endswith("z") for figure in line.figures)
    assert floor_line([], "metric").figures == ()


# ---- many plants, and plants in trouble ----------------------------------------


def _report(plan, **update):
    space = plan.spaces[0].model_copy(update=update)
    return evaluate_space(plan, space)


def test_the_plant_that_is_short_is_marked_not_its_whole_kind(small_plan):
    lamp = small_plan.spaces[0].fixtures[0].model_copy(update={"x_m": 0.3, "dim": 0.5})
    report = _report(small_plan, fixtures=(lamp,))
    marks = {mark.id: mark.trouble for mark in sheet(report, "metric").plan.plants}
    for light in report.lighting.plants:
        want = light.plant.want
        short = light.dli_mol_m2_d < want.dli_mol_m2_d.low or light.ppfd_umol_m2_s < want.ppfd_umol_m2_s.low
        assert (marks[light.plant.id] == "short") is short
    assert set(marks.values()) == {"short"} or "" in marks.values()


def test_numbers_of_many_plants_show_on_pointing_only(small_plan):
    one = small_plan.spaces[0].plants[0]
    plants = tuple(
        one.model_copy(
            update={"id": f"p{n}", "x_m": 0.05 + 0.1 * (n % 7), "y_m": 0.1 + 0.15 * (n // 7), "spread_m": 0.1}
        )
        for n in range(21)
    )
    assert sheet(_report(small_plan, plants=plants), "metric").plan.many
    assert not sheet(_report(small_plan, plants=plants[:20]), "metric").plan.many


def test_figures_of_the_map_keep_off_plants_numbers(small_plan):
    view = sheet(_report(small_plan), "metric").plan
    figures = [(line.tx, line.ty) for line in view.isolines if line.labelled]
    for x, y in figures:
        assert all(abs(x - mark.cx) + abs(y - mark.cy) > 26 for mark in view.plants)
    for (ax, ay), (bx, by) in pairwise(figures):
        assert abs(ax - bx) + abs(ay - by) > 26


def test_ropes_of_a_lamp_under_a_shelf_end_at_that_shelf(small_plan):
    space = small_plan.spaces[0]
    shelf = Shelf(id="s", name="S", z_m=0.9, width_m=space.size.width_m, depth_m=space.size.depth_m)
    lamp = space.fixtures[0].model_copy(update={"z_m": 0.7})
    view = sheet(_report(small_plan, shelves=(shelf,), fixtures=(lamp,)), "metric").front
    top = view.box.y + view.box.h - 0.88 * view.scale
    assert all(rope[3] == pytest.approx(top, abs=1.0) for rope in view.lamps[0].hangers)
    hang = next(line for line in view.dimensions if line.style == "stack-hang")
    assert hang.y2 == pytest.approx(top, abs=1.0)


def test_what_raises_a_pot_is_drawn_unless_a_shelf_does(small_plan):
    raised = small_plan.spaces[0].plants[0].model_copy(update={"base_m": 0.3})
    floor = _report(small_plan, plants=(raised,))
    view = sheet(floor, "metric").front
    bottom = view.box.y + view.box.h
    assert f"V{bottom:.1f}H" in view.plants[0].pot
    size = small_plan.spaces[0].size
    shelf = Shelf(id="s", name="S", z_m=0.3, width_m=size.width_m, depth_m=size.depth_m)
    on_shelf = _report(small_plan, plants=(raised,), shelves=(shelf,))
    assert "V" not in sheet(on_shelf, "metric").front.plants[0].pot
