"""Acts that were walked through from sign-up: trays on a platform, linked lamps, hoods, loops, copies, inches."""

import datetime as dt

import pytest

from canopy.library import fixtures
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

HTMX = {"HX-Request": "true"}


def _plan(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))


def _space(row, number=0):
    return _plan(row).spaces[number]


@pytest.fixture
def base(row):
    return f"/plans/{row.pk}/spaces/{to_plan(row).spaces[0].id}/"


def _new(**more):
    answers = {
        "kind": "tent",
        "width_m": "80",
        "depth_m": "80",
        "height_m": "160",
        "crop_id": "garden-seedlings",
        "count": "48",
        "container_id": "cell-24",
        "raised_m": "30 cm",
        "lamp_count": "1",
        **more,
    }
    return {f"new-{key}": value for key, value in answers.items()}


def test_trays_on_a_platform_are_answered_in_the_first_form(mine, row):
    answer = mine.post(f"/plans/{row.pk}/spaces/new/", _new())
    assert answer.status_code == 302
    made = _space(row, -1)
    assert [(plant.cells, plant.base_m, plant.pot_kind) for plant in made.plants] == [(24, 0.3, "tray")] * 2
    assert made.name == "Garden seedlings tent"
    page = mine.get(answer.url).text
    assert 'class="crown mat"' in page
    assert page.count('class="cells"') == 2
    home = mine.get("/").text
    # Two trays' leaves stand to their edges: boxes with corners of three units at most.
    assert "a3.0 3.0 0 0 1" in home


def test_what_does_not_fit_says_how_many_would(mine, row):
    before = len(to_plan(row).spaces)
    text = mine.post(f"/plans/{row.pk}/spaces/new/", _new(count="180")).text
    assert "at most 2 fit" in text
    assert 'value="180"' in text
    text = mine.post(f"/plans/{row.pk}/spaces/new/", _new(raised_m="155 cm")).text
    assert "Nothing is left over a platform" in text
    assert len(_plan(row).spaces) == before


def test_trays_are_added_clear_of_what_stands_there_and_counted_by_plants(mine, base, row):
    sent = {"add-crop_id": "garden-seedlings", "add-count": "24", "add-container": "cell-24", "add-stage": ""}
    text = mine.post(f"{base}crops/add/", sent, headers=HTMX).text
    assert "24 × Garden seedlings" in text
    assert _space(row).plants[-1].cells == 24


def test_lamps_are_linked_and_parted_by_their_numbers(mine, base, row):
    mine.post(f"{base}light/lamps/add/", {"add-class_id": "strip-18", "add-count": "3"}, headers=HTMX)
    count = len(_space(row).fixtures)
    mine.post(f"{base}light/lamps/link/link/", {"link-lamps": f"1, {count - 1}-{count}"}, headers=HTMX)
    assert [lamp.chain for lamp in _space(row).fixtures] == ["chain 1", *[""] * (count - 3), "chain 1", "chain 1"]
    page = mine.get(f"{base}light/").text
    assert f"Chain 1: lamps 1, {count - 1}, {count}" in page
    for typed, words in (("1-99", "there is no lamp"), ("all", "by their numbers"), ("2", "at least two")):
        text = mine.post(f"{base}light/lamps/link/link/", {"link-lamps": typed}, headers=HTMX).text
        assert words in text.lower() or words in text
        assert f'value="{typed}"' in text
    mine.post(f"{base}light/lamps/link/part/", {"link-lamps": f"1-{count}"}, headers=HTMX)
    assert {lamp.chain for lamp in _space(row).fixtures} == {""}
    assert mine.post(f"{base}light/lamps/link/melt/", {"link-lamps": "1, 2"}).status_code == 404


def test_an_exhaust_is_led_through_a_hood_and_the_lamp_says_so(mine, base, row):
    mine.post(f"{base}light/lamps/add/", {"add-class_id": "hps-400-hood", "add-count": "1"}, headers=HTMX)
    lamp = _space(row).fixtures[-1]
    assert "No way of air leads through its hood" in mine.get(f"{base}light/").text
    mine.post(f"{base}air/add/exhaust/", headers=HTMX)
    way = _space(row).airways[-1].id
    assert f'value="hood:{lamp.id}"' in mine.get(f"{base}air/").text
    mine.post(f"{base}air/way/{way}/add/", {f"add-{way}-what": f"hood:{lamp.id}"}, headers=HTMX)
    hood = _space(row).airways[-1].hoods[0]
    assert (hood.fixture_id, hood.diameter_m) == (lamp.id, 0.15)
    assert "drawn through its hood" in mine.get(f"{base}light/").text
    mine.post(f"{base}light/part/fixtures/{lamp.id}/remove/", headers=HTMX)
    assert not _space(row).airways[-1].hoods


def test_an_own_lamp_may_have_a_hood(mine, base, row):
    spec = fixtures()["hps-250"].spec
    sent = {
        "own-name": "Mine",
        "own-power_w": "250 W",
        "own-output": "ppf",
        "own-amount": "400",
        "own-source_id": "hps",
        "own-cct_k": "",
        "own-length_m": "40 cm",
        "own-width_m": "30 cm",
        "own-hood_share": "40 %",
        "own-hood_m": "6 in",
    }
    mine.post(f"{base}light/lamps/own/", sent, headers=HTMX)
    made = _space(row).fixtures[-1].spec
    assert (made.hood_share, made.hood_m) == (0.4, pytest.approx(0.1524))
    assert spec.hood_share == 0


def test_a_closed_loop_shuts_both_spaces_and_says_so_and_its_far_end_shows_it(mine, base, row):
    empty = _new(crop_id="none", count="", container_id="", raised_m="", name="Drying")
    mine.post(f"/plans/{row.pk}/spaces/new/", empty)
    far = _space(row, -1)
    far_base = f"/plans/{row.pk}/spaces/{far.id}/"
    mine.post(f"{far_base}space/part/openings/add/", headers=HTMX)
    text = mine.post(f"{base}air/add/loop/", headers=HTMX).text
    assert "Openings shut, so that the loop is closed" in text
    assert "1 in Drying" in text
    assert not any(hole.passes_air for hole in _space(row, -1).openings)
    led = {way.port.opening_id for way in _space(row).airways if way.port}
    assert all(hole.id in led for hole in _space(row).openings if hole.passes_air and hole.shape != "seam")
    page = mine.get(f"{far_base}air/").text
    assert "From and to other spaces" in page
    assert "No fan moves air here" not in page
    assert "arrive" in page
    mine.post(f"/plans/{row.pk}/undo/")
    assert any(hole.passes_air for hole in _space(row, -1).openings)


def test_the_air_of_a_joined_space_is_computed_until_it_is_typed(mine, base, row):
    mine.post(f"/plans/{row.pk}/spaces/new/", _new(crop_id="none", count="", container_id="", raised_m="", name="Far"))
    mine.post(f"{base}air/add/loop/", headers=HTMX)
    back = next(way for way in _space(row).airways if way.way == "in" and way.ends == "space")
    page = mine.get(f"{base}air/").text
    assert "As Far comes out with its plants" in page
    sent = {f"away-{back.id}-{key}": value for key, value in (("day_c", "18"), ("day_rh_pct", "40 %"))}
    sent |= {f"away-{back.id}-night_c": "16", f"away-{back.id}-night_rh_pct": "45 %"}
    mine.post(f"{base}air/way/{back.id}/away/", sent, headers=HTMX)
    kept = next(way for way in _space(row).airways if way.id == back.id).away
    assert (kept.day_c, kept.night_rh_pct) == (18, 45)
    assert "as Far computes" in mine.get(f"{base}air/").text
    mine.post(f"{base}air/way/{back.id}/away/clear/", headers=HTMX)
    assert next(way for way in _space(row).airways if way.id == back.id).away is None


@pytest.mark.parametrize(
    ("typed", "want"),
    [
        ({"runs": "lit"}, {"kind": "with-lamps", "when": "lit"}),
        ({"runs": "dark", "on_min": "10", "every_min": "60"}, {"kind": "cycle", "when": "dark", "every_min": 60}),
        ({"runs": "lights-out", "on_min": "20"}, {"kind": "cycle", "when": "dark", "on_min": 20, "every_min": 1440}),
    ],
)
def test_a_way_runs_with_the_lamps_or_once_at_lights_out(mine, base, row, typed, want):
    mine.post(f"{base}air/add/exhaust/", headers=HTMX)
    way = _space(row).airways[-1]
    shown = {"name": way.name, "way": "out", "end": "room", "runs": "", "on_min": "", "every_min": "", "measured": ""}
    sent = {f"way-{way.id}-{key}": value for key, value in {**shown, **typed}.items()}
    mine.post(f"{base}air/way/{way.id}/", sent, headers=HTMX)
    got = _space(row).airways[-1].schedule.model_dump()
    assert {key: got[key] for key in want} == want
    page = mine.get(f"{base}air/").text
    assert f'<option value="{typed["runs"]}" selected' in page


def test_lights_out_needs_its_minutes(mine, base, row):
    mine.post(f"{base}air/add/exhaust/", headers=HTMX)
    way = _space(row).airways[-1]
    shown = {"name": way.name, "way": "out", "end": "room", "runs": "lights-out", "on_min": "", "every_min": ""}
    text = mine.post(
        f"{base}air/way/{way.id}/", {f"way-{way.id}-{key}": v for key, v in shown.items()}, headers=HTMX
    ).text
    assert "for how many minutes it runs" in text


def test_a_planting_is_copied_from_its_section(mine, base, row):
    sent = {"add-crop_id": "basil-sweet", "add-count": "2", "add-starts_on": "2026-03-01", "add-times": "1"}
    mine.post(f"{base}crops/add/", sent, headers=HTMX)
    first = _plan(row).plantings[-1]
    page = mine.get(f"{base}crops/?tab=season").text
    assert "Train, copy, move on, or remove" in page
    copy = {f"c-{first.id}-starts_on": "2026-05-01", f"c-{first.id}-to": _space(row).id}
    mine.post(f"{base}crops/plantings/{first.id}/copy/", copy, headers=HTMX)
    plan = _plan(row)
    assert (plan.plantings[-1].starts_on, plan.plantings[-1].name) == (dt.date(2026, 5, 1), f"{first.name} 2")
    assert sum(plant.planting_id == plan.plantings[-1].id for plant in plan.spaces[0].plants) == 2
    bad = {"tab": "season", f"c-{first.id}-starts_on": "someday", f"c-{first.id}-to": _space(row).id}
    text = mine.post(f"{base}crops/plantings/{first.id}/copy/", bad, headers=HTMX).text
    assert text.count('class="wrong"') == 1
    assert sum(plant.planting_id == plan.plantings[-1].id for plant in _space(row).plants) == 2


def test_in_inches_sizes_speak_inches_everywhere(mine, base, row, grower):
    mine.post(f"{base}air/add/filtered/", headers=HTMX)
    mine.post("/account/preferences/", {"units": "us", "next": "/"})
    for tab in ("path", "need", "sets"):
        page = mine.get(f"{base}air/?tab={tab}").text
        names = page.replace("\u00a0", " ")
        assert " mm" not in names, names[max(0, names.find(" mm") - 80) : names.find(" mm") + 20]
    assert "Carbon filter 4 in" in mine.get(f"{base}air/").text
