"""What is asked for: read, refused in plain words with the nearest that could be, and answered."""

from __future__ import annotations

import json

import pytest

from canopy.cli import main
from canopy.designer.design import Designer, designer_for
from canopy.designer.request import Request, household_for, read_request
from canopy.designer.sharing import parted_by, sharing_of
from canopy.designer.tents import TENTS_M, tents_for
from canopy.errors import PlanError
from canopy.library import crops, fixtures
from tests.conftest import ROOT
from tests.core.designer.conftest import DAY, answering, asked

REQUESTS = sorted((ROOT / "examples" / "requests").glob("*.json"))


@pytest.mark.parametrize("path", REQUESTS, ids=lambda path: path.stem)
def test_every_example_is_a_request_that_can_be_begun(path):
    request = read_request(path)
    assert designer_for(request, DAY).stage


def _refused(request):
    with pytest.raises(PlanError) as caught:
        designer_for(request, DAY).run()
    return str(caught.value)


def test_a_space_of_five_centimetres_is_refused_with_the_least_that_would_do():
    said = _refused(asked(width_m=0.05))
    assert "width_m: 5 cm wide holds no lamp over a plant: 15 cm is the least" in said


def test_crops_that_share_nothing_are_told_with_the_most_that_do():
    wanted = [crop.id for crop in crops().values()][:40]
    said = _refused(asked(crops=tuple({"crop_id": key} for key in wanted)))
    assert "do not share one space" in said
    assert "can stand together; grow" in said


def test_forty_one_crops_are_too_many():
    wanted = tuple({"crop_id": "pepper"} for _ in range(41))
    with pytest.raises(ValueError, match="at most 40"):
        asked(crops=wanted)


def test_a_crop_that_nobody_knows_is_named():
    assert "no crop is called “moonflower”" in _refused(asked(crops=({"crop_id": "moonflower"},)))


def test_a_size_half_said_is_asked_for():
    assert "give width, depth and height, or none of them" in _refused(asked(height_m=None))


def test_a_closet_without_a_size_is_asked_for():
    said = _refused(asked(kind="closet", width_m=None, depth_m=None, height_m=None))
    assert "how large is the closet?" in said


def test_no_budget_at_all_says_what_it_would_take():
    found = answering(asked(budget=0.0))
    found.run()
    assert not found.works
    assert found.would[0].label.say().startswith("Spend ")
    assert found.dearer[0].say().startswith("The cheapest plan that works costs about ")
    assert found.dearer[0].amounts[-1][1].value == 0
    assert found.would[0].request.budget > 100
    assert found.would[0].request.budget >= min(item.figures.price for item in found.search.working)


def test_where_nothing_works_changes_of_every_family_are_tried_the_smallest_first():
    wish = {
        "kind": "closet",
        "width_m": 0.9,
        "depth_m": 0.7,
        "height_m": 1.7,
        "crops": ({"crop_id": "basil-sweet", "count": 6}, {"crop_id": "lettuce-butterhead", "count": 4}),
    }
    cool = {"id": "room", "name": "Stairs", "day_c": 17, "night_c": 15}
    values = {"spaces": (wish,), "refuses": ("co2", "drilling", "sockets"), "budget": 1, "room": cool}
    request = Request.model_validate(values)
    found = answering(request, most=1)
    while not found.unmet:
        assert found.go_on()
    families = [list(family) for family in found._changes.families()]
    said = [[change.label.say() for change in family] for family in families]
    assert said[:5] == [[], [], ["Allow holes for the air"], ["Let it take several sockets"], said[4]]
    assert families[2][0].request.refuses == ("co2", "sockets")
    assert said[4][0].startswith("Heat the room to ")
    assert said[5][0] == "Grow 7 plants instead of 10"
    assert said[-1][0] == "Grow Lettuce, butterhead elsewhere"
    assert found.dearer[0].say().startswith("What comes nearest costs about ")


def test_a_budget_that_suffices_is_kept():
    found = answering(asked(budget=500.0), helps=False)
    row = found.run()
    assert found.works
    assert row[0].outcome.price <= 500


def test_what_one_has_and_does_not_fit_is_told():
    long = fixtures()["bar-60"].spec
    stock = ({"id": "bars", "kind": "lamp", "name": "My bars", "number": 4, "lamp": long.model_dump(mode="json")},)
    found = answering(asked(stock=stock), helps=False)
    found.run()
    assert any("My bars is 117 cm long" in note.say() or "My bars is" in note.say() for note in found.notes)


def test_what_one_has_is_not_bought():
    spec = fixtures()["board-150"].spec
    stock = ({"id": "mine", "kind": "lamp", "name": spec.name, "number": 1, "lamp": spec.model_dump(mode="json")},)
    found = answering(asked(stock=stock), helps=False)
    cheapest = found.run()[0]
    lamps = [line for line in cheapest.outcome.kit.lines if line.group == "light" and line.key.endswith(spec.name)]
    assert lamps
    assert lamps[0].to_get == 0


def test_the_smallest_tent_that_works_is_taken():
    found = answering(asked(width_m=None, depth_m=None, height_m=None, crops=({"crop_id": "pepper", "count": 3},)))
    found.helps = False
    found.run()
    assert found.notes[0].say().startswith("A tent of ")
    assert found.works
    area = found.wish.width_m * found.wish.depth_m
    smaller = [size for size in tents_for([(crops()["pepper"], 3)]) if size[0] * size[1] < area]
    assert len(smaller) <= 2
    assert (found.wish.width_m, found.wish.depth_m, found.wish.height_m) in TENTS_M


def test_more_plants_than_any_tent_holds_are_refused():
    said = _refused(asked(width_m=None, depth_m=None, height_m=None, crops=({"crop_id": "pepper", "count": 400},)))
    assert "no tent has room for so many" in said


def test_without_drilling_a_closet_is_aired_by_its_door():
    found = answering(
        asked(kind="closet", crops=({"crop_id": "lettuce-loose", "count": 6},), refuses=("drilling",)),
        classes=("bar-45", "bar-30"),
        helps=False,
    )
    for item in found.run():
        space = item.outcome.report.space
        assert space.door_open
        assert not space.airways
        assert not space.openings


def test_without_smell_air_leaves_through_carbon():
    found = answering(asked(refuses=("smell",)), helps=False)
    for item in found.run():
        assert all(way.filters for way in item.outcome.report.space.airways if way.way == "out")


def test_crops_that_stand_together_share_every_window():
    some = [crops()[key] for key in ("basil-sweet", "pepper", "lettuce-loose", "spinach", "tatsoi", "ginger")]
    found = sharing_of(some)
    assert found.apart
    assert set(found.together) | set(found.apart) == set(some)
    for one in found.together:
        assert all(not parted_by(one, other) for other in found.together if other is not one)
    for gone in found.apart:
        assert any(parted_by(gone, other) for other in some if other is not gone)


def test_a_household_follows_the_rules_for_sockets_that_were_said():
    plan = household_for(asked(rule_set_id="na-15"), DAY)
    assert plan.circuits[0].mains_v == 120
    assert plan.site.currency == "USD"
    with pytest.raises(PlanError, match="no rules for sockets"):
        household_for(asked(rule_set_id="nowhere"), DAY)


def test_what_was_left_open_is_said():
    words = asked().assumed
    assert any("21 °C by day" in item for item in words)
    assert not any("electricity" in item for item in asked(price_per_kwh=0.2).assumed)
    # A household has its rooms and its tariff.
    assert not any("electricity" in item or "room" in item for item in asked().left_open)
    sill = asked(kind="shelf")
    assert any("daylight" in item for item in sill.left_open)
    assert not any("daylight" in item for item in asked().left_open)


def test_the_command_gives_plans_that_stand(tmp_path, capsys):
    path = tmp_path / "request.json"
    space = {"kind": "shelf", "width_m": 0.9, "depth_m": 0.25, "height_m": 0.45, "crops": [{"crop_id": "basil-sweet"}]}
    space["crops"][0]["count"] = 4
    path.write_text(json.dumps({"spaces": [space]}), encoding="utf-8")
    assert main(["design", str(path), "--tries", "3", "--format", "json", "--plans", str(tmp_path / "plans")]) == 0
    told = json.loads(capsys.readouterr().out)["spaces"][0]
    assert told["working"] >= 1
    assert told["alternatives"][0]["works"]
    written = sorted((tmp_path / "plans").glob("*.json"))
    assert len(written) == len(told["alternatives"])
    assert main(["evaluate", str(written[0])]) == 0
    text = capsys.readouterr().out
    assert "△" not in text
    assert "▽" not in text


def test_the_command_says_what_is_wrong(tmp_path, capsys):
    path = tmp_path / "request.json"
    path.write_text('{"spaces": [{"crops": [], "width_m": "wide"}]}', encoding="utf-8")
    assert main(["design", str(path)]) == 1
    said = capsys.readouterr().err
    assert "the request cannot be answered" in said
    assert "spaces.0.width_m" in said
    path.write_text("{" * 5000, encoding="utf-8")
    assert main(["design", str(path)]) == 1
    assert "the request cannot be read" in capsys.readouterr().err


def test_a_request_reads_back_as_it_was_written():
    one = asked(budget=300.0, likes="quiet", refuses=("smell",))
    assert Request.model_validate_json(one.model_dump_json()) == one


def test_one_tent_s_exhaust_is_led_into_the_next_where_neither_suffers():
    request = read_request(ROOT / "examples" / "requests" / "two-tents.json")
    first = Designer(request, household_for(request, DAY), 0, 1, helps=False, classes=("bar-30",))
    first.run()
    assert first.search is not None
    household = first.search.maker.plan_of(first.answers()[0].tried.space)
    second = Designer(request, household, 1, 1, helps=False, classes=("board-150",))
    (best, *_) = second.run()
    assert [note.say() for note in second.notes] == ["The exhaust of Cuttings tent is led into it."]
    assert best.outcome.weight < 1e-9
    feeder = best.outcome.report.plan.spaces[0]
    assert [way.space_id for way in feeder.airways if way.ends == "space"] == [best.outcome.report.space.id]
