"""Kit, holes and build of the demo and the examples: counted by hand, nothing twice, only what the plan needs."""

import csv
import io
import json
from xml.etree import ElementTree

import pytest

from canopy.cli import main
from canopy.errors import QuantityError
from canopy.evaluate import evaluate_space
from canopy.kit import kit_of
from canopy.kit.build import build_of
from canopy.kit.drawn import VIEWS, drawing
from canopy.kit.dry import emptied
from canopy.kit.holes import SAWS_MM, holes_of, next_saw_mm
from canopy.plan import Device, Opening, dumps, load, loads
from tests.conftest import DEMO, ROOT

SVG = "{http://www.w3.org/2000/svg}"
EXAMPLES = sorted(path for path in (ROOT / "examples").rglob("*.json") if path.parent.name != "requests")


def _report(plan, space_id="berry-tent", follow=False):
    return evaluate_space(plan, plan.space(space_id), day=plan.date, with_map=False, follow=follow)


def _with(plan, space_id, **values):
    space = plan.space(space_id).model_copy(update=values)
    spaces = tuple(space if each.id == space_id else each for each in plan.spaces)
    return loads(dumps(plan.model_copy(update={"spaces": spaces})))


@pytest.fixture(scope="module")
def tent(demo_plan):
    return kit_of([_report(demo_plan, follow=True)])


def _named(kit, name):
    return next(line for line in kit.lines if line.name == name)


def test_the_tent_s_kit_is_what_one_counts_in_its_plan(demo_plan, tent):
    space = demo_plan.space("berry-tent")
    assert _named(tent, "LED board, 150 W class").number == 2
    assert _named(tent, "Rope hanger with ratchet").number == 4
    assert _named(tent, "Rope hanger with ratchet").bears_kg >= 2 * space.fixtures[0].spec.weight_kg
    ducts = [line for line in tent.lines if line.name.startswith("Flexible duct")]
    parts = [part for part in space.airways[0].parts if part.kind == "duct"]
    assert [line.number for line in ducts] == [round(part.length_m / (1 - part.slack), 2) for part in parts]
    # Two to a duct, one where the filter sits right on the fan.
    assert _named(tent, "Hose clamp").number == 2 * len(parts) + 1
    assert sum(line.number for line in tent.lines if line.name == "Pot") == 11
    mix = _named(tent, "Peat-based potting mix")
    assert mix.number == pytest.approx(1.1 * (6 * 2 + 5 * 3.5), abs=1)
    assert tent.power_w == pytest.approx(2 * 150 + 14 + 10)
    assert _named(tent, "Timer").number == 1


def test_cost_counts_what_is_had_and_what_may_be_left_out(tent):
    lines = [line for line in tent.lines if line.price is not None]
    low = sum(line.number * line.price.low for line in lines if not line.optional)
    assert tent.cost().low == pytest.approx(low)
    lamp = _named(tent, "LED board, 150 W class")
    assert tent.cost([lamp.key]).low == pytest.approx(low - 2 * lamp.price.low)
    assert tent.cost(optional=True).high > tent.cost().high
    assert tent.unpriced == ()


def test_what_is_not_needed_is_said_only_where_it_was_judged(demo_plan, tent):
    told = {what: why.say() for _, what, why in tent.not_needed}
    rh = _report(demo_plan, follow=True).climate
    mean = float(rh.traces.rh_pct[rh.last].mean())
    assert told["No humidifier, no dehumidifier"].startswith(f"simulated at {mean:.0f}")
    # By night it is too warm there for a heater to be a question, and that margin is over: nothing is said.
    assert "No heater" not in told
    assert kit_of([_report(demo_plan)]).not_needed == ()


def test_a_timer_in_the_plan_is_bought_once(demo_plan):
    from canopy.plan import Carrier, Outlet

    outlet = Outlet(id="wall", name="Wall", circuit_id="hall")
    timer = Carrier(id="t", name="Clock", kind="timer", into="wall", limit_w=2000)
    lamps = tuple(lamp.model_copy(update={"plug": "t"}) for lamp in demo_plan.space("berry-tent").fixtures)
    plan = _with(
        demo_plan.model_copy(update={"outlets": (outlet,), "carriers": (timer,)}), "berry-tent", fixtures=lamps
    )
    timers = [line for line in kit_of([_report(plan)]).lines if "imer" in line.name]
    assert [line.name for line in timers] == ["Timer: Clock"]


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_every_example_has_a_whole_kit_and_a_build_without_a_step_twice(path):
    plan = load(path)
    for space in plan.spaces:
        report = evaluate_space(plan, space, day=plan.date, with_map=False)
        kit, steps = kit_of([report]), build_of(report)
        keys = [line.key for line in kit.lines]
        assert len(set(keys)) == len(keys)
        assert all(line.number > 0 for line in kit.lines)
        known = {part for line in kit.lines for part in line.parts}
        assert {lamp.id for lamp in space.fixtures if lamp.enabled} <= known
        assert {device.id for device in space.devices} <= known
        assert len({step.key for step in steps}) == len(steps)
        phases = [step.phase for step in steps]
        assert phases == sorted(phases, key=phases.index)
        for step in steps:
            assert step.does.say()
            assert step.right.say("us")


def test_steps_come_with_what_needs_them(demo_plan):
    keys = {step.key for step in build_of(_report(demo_plan))}
    assert {"frame", "lamp.lamp-1", "lamp.lamp-2", "smoke", "brighter"} <= keys
    assert not {"seal", "tank", "emitters"} & keys
    bare = {step.key for step in build_of(_report(_with(demo_plan, "berry-tent", plants=(), airways=())))}
    assert not {"smoke", "brighter", "plants", "mix"} & bare
    closet = {step.key for step in build_of(_report(demo_plan, "hall-closet"))}
    assert {"seal", "door", "holes.left", "holes.ceiling"} <= closet
    glass = build_of(_report(demo_plan, "fern-case"))
    assert any(caution.id == "glass" for step in glass for caution in step.cautions)
    assert "door" not in {step.key for step in glass}


def test_a_changed_plan_changes_the_stamp_of_the_steps_it_touches(demo_plan):
    before = {step.key: step.stamp for step in build_of(_report(demo_plan))}
    lamps = demo_plan.space("berry-tent").fixtures
    moved = (lamps[0].model_copy(update={"z_m": 1.2}), *lamps[1:])
    after = {step.key: step.stamp for step in build_of(_report(_with(demo_plan, "berry-tent", fixtures=moved)))}
    assert {key for key in before if after[key] != before[key]} == {"lamp.lamp-1", "dry-run"}


def test_the_dry_run_reads_what_the_empty_space_is_simulated_at(demo_plan):
    space = demo_plan.space("berry-tent")
    empty = emptied(demo_plan, space)
    assert empty.here.plants == ()
    step = next(s for s in build_of(_report(demo_plan, follow=True), empty) if s.key == "dry-run")
    amounts = dict(step.right.amounts)
    rows = empty.climate.last
    assert amounts["low"].value == pytest.approx(float(empty.climate.traces.air_c[rows].min()))
    assert amounts["damp"].value == pytest.approx(float(empty.climate.traces.rh_pct[rows].max()))


def _hole(key, face, u, v, d=0.1, **more):
    return Opening(id=key, face=face, u_m=u, v_m=v, diameter_m=d, use="cable", **more)


def test_holes_over_each_other_or_off_the_face_are_told(demo_plan):
    closet = demo_plan.space("hall-closet")
    holes = (_hole("a", "back", 0.2, 0.3), _hole("b", "back", 0.26, 0.3), _hole("c", "back", 0.39, 0.3))
    edge = _hole("d", "back", 0.60, 0.055)
    space = closet.model_copy(update={"openings": (*holes, edge)})
    found = {hole.opening.id: hole for hole in holes_of(space)["back"]}
    assert "lies over another hole" in found["a"].notes[0]
    assert "lies over another hole" in found["b"].notes[0]
    assert found["c"].notes == ()
    assert "from an edge" in found["d"].notes[0]
    off = closet.model_copy(update={"openings": (_hole("e", "back", 0.01, 0.3),)})
    assert "reaches over the edge" in holes_of(off)["back"][0].notes[0]
    assert found["a"].grommet


@pytest.mark.parametrize(
    ("across", "saw"), [(0.1, 102), (0.125, 127), (0.016, 16), (0.0163, 16), (0.0166, 20), (0.3, None)]
)
def test_the_next_saw_is_as_large_or_larger(across, saw):
    assert next_saw_mm(across) == saw
    assert saw is None or saw in SAWS_MM


def test_a_gas_bottle_brings_its_alarm_and_its_caution(demo_plan):
    bottle = Device.model_validate({"id": "gas", "spec": {"name": "Bottle", "kind": "co2", "power_w": 5}})
    report = _report(_with(demo_plan, "berry-tent", devices=(bottle,)))
    assert any(line.name == "CO₂ alarm" for line in kit_of([report]).lines)
    step = next(step for step in build_of(report) if step.key == "device.gas")
    assert [caution.id for caution in step.cautions] == ["co2"]


@pytest.fixture
def run(capsys):
    """The command line, as far as what it prints."""

    def command(*args, code=0):
        assert main(list(args)) == code
        return capsys.readouterr()

    return command


def test_the_commands_print_the_same_kit_and_build(run):
    rows = list(csv.DictReader(io.StringIO(run("kit", str(DEMO), "--space", "hall-closet").out)))
    found = json.loads(run("kit", str(DEMO), "--space", "hall-closet", "--format", "json").out)
    assert [row["key"] for row in rows] == [row["key"] for row in found["lines"]]
    assert found["to_buy"]["low"] < found["to_buy"]["high"]
    text = run("build", str(DEMO), "--space", "hall-closet", "--units", "us").out
    assert "[ ] 1. Empty and clean" in text
    assert "Ladder and load overhead" in text
    assert " in " in text
    assert "there is no space" in run("build", str(DEMO), "--space", "nowhere", code=1).err


@pytest.mark.parametrize("view", VIEWS)
@pytest.mark.parametrize("space_id", ["berry-tent", "hall-closet"])
def test_a_drawing_is_in_millimetres_and_its_text_is_text(demo_plan, space_id, view):
    space = demo_plan.space(space_id)
    root = ElementTree.fromstring(drawing(_report(demo_plan, space_id).here, view))
    size = {"w": space.size.width_m, "d": space.size.depth_m, "h": space.size.height_m}
    sides = {"front": "wh", "side": "dh", "plan": "wd"}
    kind = view.removeprefix("face:")
    across, up = sides.get(kind) or {"l": "dh", "r": "dh", "f": "wh", "b": "wh", "c": "wd"}[kind[0]]
    if kind == "floor":
        across, up = "wd"
    outline = root.find(f"{SVG}g/{SVG}rect")
    assert float(outline.get("width")) == pytest.approx(1000 * size[across])
    assert float(outline.get("height")) == pytest.approx(1000 * size[up])
    box = [float(value) for value in root.get("viewBox").split()]
    assert root.get("width") == f"{box[2]:.1f}mm"
    assert root.get("height") == f"{box[3]:.1f}mm"
    assert [text for text in root.iter(f"{SVG}text") if "1 unit = 1 mm" in "".join(text.itertext())]
    assert "style" not in {element.tag.removeprefix(SVG) for element in root.iter()}


def test_a_drawing_shows_every_lamp_plant_and_hole_where_it_is(demo_plan):
    report = _report(demo_plan, "hall-closet")
    root = ElementTree.fromstring(drawing(report.here, "plan"))
    crowns = list(root.iter(f"{SVG}ellipse"))
    assert len(crowns) == len(report.here.plants)
    first, depth = report.here.plants[0], 1000 * report.space.size.depth_m
    assert float(crowns[0].get("cx")) == pytest.approx(1000 * first.x_m, abs=0.06)
    assert float(crowns[0].get("cy")) == pytest.approx(depth - 1000 * first.y_m, abs=0.06)
    assert len(list(root.iter(f"{SVG}polygon"))) == 2
    face = ElementTree.fromstring(drawing(report.here, "face:ceiling"))
    (hole,) = face.iter(f"{SVG}ellipse")
    assert float(hole.get("rx")) == pytest.approx(62.5)
    with pytest.raises(QuantityError, match="there is no view"):
        drawing(report.here, "behind")


def test_names_with_signs_do_not_break_a_drawing(demo_plan):
    plan = _with(demo_plan, "hall-closet", name='A <b>"& closet')
    root = ElementTree.fromstring(drawing(_report(plan, "hall-closet").here, "front"))
    assert 'A <b>"& closet' in "".join(root.itertext())


def test_the_command_draws(run):
    assert run("drawing", str(DEMO), "--space", "hall-closet", "--view", "face:left").out.startswith("<svg")
    assert "there is no view" in run("drawing", str(DEMO), "--space", "hall-closet", "--view", "x", code=1).err
