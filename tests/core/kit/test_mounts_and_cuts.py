"""How lamps are borne, which bars that takes, the cut list by hand, and templates in true size."""

from xml.etree import ElementTree

import pytest

from canopy.kit import kit_of
from canopy.kit.build import build_of
from canopy.kit.cuts import cuts_of
from canopy.kit.gathering.shell import can_tip, is_sealed
from canopy.kit.holes import holes_of
from canopy.kit.mounts import bars_of, mount_of
from canopy.kit.template import LARGEST_M, ruler, template
from canopy.library import fixtures
from canopy.plan import load
from canopy.plan.document import Fixture
from canopy.plan.furnishing import Ground, Shelf
from canopy.plan.shell import Surface
from canopy.plan.stock import StockSizes
from tests.conftest import ROOT
from tests.core.kit.test_kit_and_build import _report, _with

PRACTICES = ROOT / "examples" / "practices"
SIZES = StockSizes()


def _lamp(class_id, **more):
    values = {"id": "x", "spec": fixtures()[class_id].spec, "x_m": 0.4, "y_m": 0.25, "z_m": 1.2, **more}
    return Fixture.model_validate(values)


@pytest.mark.parametrize(
    ("space_id", "class_id", "more", "mount"),
    [
        ("berry-tent", "board-150", {}, "ropes"),
        ("berry-tent", "bar-30", {"tilt_deg": 80}, "wall"),
        ("berry-tent", "bulb-15", {}, "holder"),
        ("berry-tent", "clip-2-head", {}, "clip"),
        ("berry-tent", "gooseneck-bulb-10", {"tilt_deg": 60}, "foot"),
        ("hall-closet", "board-100", {}, "bars"),
        ("hall-closet", "bar-30", {"z_m": 1.85}, "ceiling"),
        ("fern-case", "bar-30", {"z_m": 0.4}, "rim"),
    ],
)
def test_a_lamp_is_borne_as_its_make_and_place_ask(demo_plan, space_id, class_id, more, mount):
    assert mount_of(demo_plan.space(space_id), _lamp(class_id, **more)) == mount


def test_a_light_strip_right_under_a_shelf_is_fixed_to_it():
    cabinet = load(PRACTICES / "display-cabinet.json").spaces[0]
    assert [mount_of(cabinet, lamp) for lamp in cabinet.fixtures] == ["holder", "shelf", "shelf"]


def test_bars_run_across_the_lamps_and_are_shared_in_a_row(demo_plan):
    closet = demo_plan.space("hall-closet")
    one = _lamp("board-100", id="a", x_m=0.4, y_m=0.15)
    two = _lamp("board-100", id="b", x_m=0.4, y_m=0.35)
    bars = bars_of(closet.model_copy(update={"fixtures": (one, two), "airways": ()}))
    assert [(bar.along, bar.lamps) for bar in bars] == [("y", (1, 2)), ("y", (1, 2))]
    assert all(bar.length_m == closet.size.depth_m for bar in bars)
    left, right = sorted(bar.at_m for bar in bars)
    # Two fifths of the lamp's length to each side of its middle, to the step on which bars are one.
    assert (left + right) / 2 == pytest.approx(0.4, abs=0.03)
    assert right - left == pytest.approx(0.8 * one.spec.length_m, abs=0.06)
    assert bars_of(demo_plan.space("berry-tent")) == ()


def test_the_cut_list_is_what_one_counts_by_hand(demo_plan):
    closet = demo_plan.space("hall-closet")
    shelves = tuple(Shelf(id=f"s{n}", name=f"Shelf {n}", z_m=0.4 * n, width_m=0.8, depth_m=0.28) for n in (1, 2))
    space = closet.model_copy(
        update={
            "shelves": shelves,
            "ground": Ground(insulation_m=0.03),
            "faces": closet.faces.model_copy(
                update={side: Surface(material_id="reflective-film") for side in ("left", "right", "back")}
            ),
        }
    )
    found = cuts_of(space, SIZES)
    (board,) = found.boards
    assert sorted(item.piece.name for item in board.placed) == ["Shelf 1", "Shelf 2"]
    # 830 × 520 out of boards of 1,250 × 600 is one. Off a roll of 1,220 two sides of 520 lie beside each other, and the
    # back of 830 after them: both 1,940 long, as none of them can lie across.
    assert len(found.foam) == 1
    ((name, film),) = found.film
    assert "film" in name.lower()
    assert film.long_mm == 2 * 1940
    assert found.wrong == ()
    assert [bar.pieces_mm for bar in found.bars] == [(520, 520)]


def test_what_is_longer_than_its_stock_is_said_and_the_rest_laid_out(demo_plan):
    closet = demo_plan.space("hall-closet")
    long = Shelf(id="s", name="Long one", z_m=1.0, width_m=0.83, depth_m=0.3)
    found = cuts_of(closet.model_copy(update={"shelves": (long,)}), StockSizes(bar_m=0.5, board_long_m=0.8))
    assert found.bars == ()
    assert found.boards == ()
    assert any("520 mm is longer than a bar of 500 mm" in words for words in found.wrong)
    assert any("Long one is 830 mm wide" in words for words in found.wrong)


def test_glass_shelves_go_to_the_glazier_and_are_not_drilled():
    plan = load(PRACTICES / "display-cabinet.json")
    found = cuts_of(plan.spaces[0], plan.bought_in)
    assert [piece.name for piece in found.glass] == ["Glass 1", "Glass 2", "Glass 3"]
    assert found.boards == ()
    steps = {step.key: step for step in build_of(_report(plan, plan.spaces[0].id))}
    shelf = next(step for key, step in steps.items() if key.startswith("shelf."))
    assert {caution.id for caution in shelf.cautions} == {"glass"}
    assert "kg will stand on it" in shelf.does.say()
    # Through a box without a fan nothing leads air: it is neither sealed nor tested for leaks, but fixed to the wall.
    assert not {"seal", "door", "smoke"} & set(steps)
    assert "tip" in steps


def test_what_is_high_for_its_depth_is_fixed_to_the_wall(demo_plan):
    assert can_tip(load(PRACTICES / "display-cabinet.json").spaces[0])
    assert can_tip(load(PRACTICES / "stretched-rack.json").spaces[0])
    assert not can_tip(demo_plan.space("sideboard"))
    assert not can_tip(demo_plan.space("berry-tent"))
    assert is_sealed(demo_plan.space("hall-closet"))
    assert not is_sealed(demo_plan.space("sideboard"))


def test_lamps_without_a_dimmer_begin_with_fewer_hours(demo_plan):
    tent = demo_plan.space("berry-tent")
    fixed = tuple(
        lamp.model_copy(update={"dim": 1.0, "spec": lamp.spec.model_copy(update={"dimmable": False})})
        for lamp in tent.fixtures
    )
    steps = build_of(_report(_with(demo_plan, "berry-tent", fixtures=fixed)))
    words = next(step for step in steps if step.key == "brighter").does.say()
    assert words.startswith("They have no dimmer: ")
    hours = fixed[0].hours
    assert f"{hours / 2:g} h of light" in words
    assert "Dimmers" not in words


def test_joined_tents_say_where_each_duct_ends():
    plan = load(PRACTICES / "linked-tents.json")
    steps = build_of(_report(plan, "large"))
    back = next(step for step in steps if step.phase == "Air: Loop, back" and step.title == "Ducts")
    assert "from a port of Nursery to the port" in back.does.say()
    smoke = next(step for step in steps if step.key == "smoke")
    assert "the fan between the spaces off" in smoke.does.say()


def _mm(text):
    return float(text.removesuffix("mm"))


def test_a_template_is_as_large_as_its_hole_and_shows_edges_that_are_near(demo_plan):
    closet = demo_plan.space("hall-closet")
    for holes in holes_of(closet).values():
        for number, hole in enumerate(holes, 1):
            svg = template(closet, hole, number)
            if hole.wide_m > LARGEST_M:
                assert svg is None
                continue
            root = ElementTree.fromstring(svg)
            box = [float(value) for value in root.get("viewBox").split()]
            # One unit is one millimetre on paper.
            assert _mm(root.get("width")) == pytest.approx(box[2])
            assert _mm(root.get("height")) == pytest.approx(box[3])
            circle = root.find("{http://www.w3.org/2000/svg}circle")
            assert float(circle.get("r")) == pytest.approx(500 * hole.wide_m, abs=0.01)
            assert max(box[2], box[3]) < 250
    near = holes_of(closet)["left"][0]
    lined = template(closet, near, 1)
    assert ("heavy line" in lined) == (min(near.from_side_m, near.from_foot_m) <= 0.09)
    assert "M0 8H100" in ruler()


def test_what_endangers_people_is_settled_before_anything_is_plugged_in(demo_plan):
    steps = build_of(_report(demo_plan))
    keys = [step.key for step in steps]
    first = next(key for key in keys if key.startswith("first.power.circuit"))
    assert keys.index(first) < keys.index("wiring")
    assert "2944" in next(step for step in steps if step.key == first).does.say().replace(",", "")


def test_a_filter_right_on_its_fan_is_clamped_to_it(demo_plan):
    report = _report(demo_plan)
    way = report.space.airways[0]
    kinds = [part.kind for part in way.parts]
    assert kinds.index("fan") == kinds.index("filter") + 1
    clamps = next(line for line in kit_of([report]).lines if line.name == "Hose clamp")
    assert clamps.number == 2 * kinds.count("duct") + 1
    fan = next(step for step in build_of(report) if step.key == f"{way.id}.{way.parts[1].id}")
    assert "flange goes right into it" in fan.does.say()
