"""Crops of one's own: copied, changed, kept, grown, forgotten."""

import html
import re

import pytest

from canopy.library import crops
from canopy_web.library.models import OwnCrop
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


def _form(text):
    found = {}
    for name, value in re.findall(r'name="([\w.-]+)"[^>]* value="([^"]*)"', text):
        found[name] = html.unescape(value)
    for name, options in re.findall(r'<select[^>]*name="([\w.-]+)"[^>]*>(.*?)</select>', text):
        found[name] = re.search(r'value="([^"]*)" selected', options)[1]
    return {key: value for key, value in found.items() if key not in ("csrfmiddlewaretoken", "next", "units", "theme")}


def _copy(mine, crop_id="tatsoi", **typed):
    url = f"/library/crops/{crop_id}/copy/"
    return mine.post(url, _form(mine.get(url).text) | {key.replace("__", "."): value for key, value in typed.items()})


def test_a_copy_is_changed_and_only_what_was_typed_is_one_s_own(mine, grower):
    answer = _copy(mine, name="Attic tatsoi", vegetative__dli_mol_m2_d="9-13", seedling__days="8")
    assert answer.url == "/library/crops/own-attic-tatsoi/"
    kept = OwnCrop.objects.get(owner=grower).document
    seedling, vegetative = kept["stages"]
    assert vegetative["dli_mol_m2_d"] == {"low": 9, "high": 13}
    assert vegetative["light"] == {"source": "own-figure", "grade": "practice"}
    assert vegetative["climate"] == crops()["tatsoi"].stages[1].climate.model_dump()
    assert seedling["days"] == {"low": 8, "high": 8}
    assert seedling["ppfd_umol_m2_s"] == crops()["tatsoi"].stages[0].ppfd_umol_m2_s.model_dump()
    page = mine.get(answer.url).text
    assert "A grower&#x27;s own figure (2026), practice" in page
    assert "Your copy of" in page
    assert "Attic tatsoi" in mine.get("/library/crops/", {"q": "attic"}, headers=HTMX).text


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"name": "Tatsoi"}, "is in the library already"),
        ({"vegetative__ppfd_umol_m2_s": "320-180"}, "turned round"),
        ({"vegetative__days": ""}, "type a figure"),
        ({"vegetative__days": "0-0"}, "a stage lasts at least a day"),
        ({"vegetative__rh_pct": "50-150"}, "lies outside 5 to 100"),
        ({"vegetative__ppfd_limit_umol_m2_s": "200"}, "the upper light limit lies inside the PPFD window"),
        ({"vegetative__air_day_c": "warm"}, "is not a temperature"),
        ({"vegetative__lai": "many"}, "is not a number"),
        ({"vegetative__height_m": "90 m"}, "less than or equal to 10"),
        ({"spacing_m": "-3"}, "give 1 cm to 600 cm"),
    ],
)
def test_what_is_wrong_is_said_and_kept(mine, typed, words):
    answer = _copy(mine, **({"name": "Mine"} | typed))
    assert answer.status_code == 200
    assert words in html.unescape(answer.text).replace("\u00a0", " ")
    for value in typed.values():
        assert f'value="{value}"' in html.unescape(answer.text) or value == ""
    assert not OwnCrop.objects.exists()


def test_ranges_are_read_as_people_write_them_and_in_their_units(mine, grower, client):
    mine.post("/account/preferences/", {"units": "us", "next": "/"})
    _copy(
        mine,
        name="One",
        vegetative__air_day_c="60 to 72",
        vegetative__air_night_c="10 C – 15 C",
        vegetative__height_m="5 in",
    )
    stage = OwnCrop.objects.get(owner=grower).document["stages"][1]
    assert stage["air_day_c"] == {"low": pytest.approx(15.56, abs=0.01), "high": pytest.approx(22.22, abs=0.01)}
    assert stage["air_night_c"] == {"low": 10, "high": 15}
    assert stage["height_m"] == pytest.approx(0.127)


def test_an_own_crop_is_planted_travels_and_is_kept_up_to_date(mine, row):
    _copy(mine, name="Attic tatsoi")
    base = f"/plans/{row.pk}/spaces/box/"
    mine.post(f"{base}crops/add/", {"add-crop_id": "own-attic-tatsoi", "add-count": "2"}, headers=HTMX)

    def plan():
        return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))

    assert [crop.id for crop in plan().crops] == ["own-attic-tatsoi"]
    assert "Attic tatsoi" in mine.get(f"{base}crops/").text
    exported = mine.get(f"/plans/{row.pk}/export/").content
    assert b"own-attic-tatsoi" in exported
    url = "/library/crops/own-attic-tatsoi/edit/"
    mine.post(url, _form(mine.get(url).text) | {"vegetative.dli_mol_m2_d": "5-6"})
    assert plan().crops[0].stages[1].dli_mol_m2_d.high == 6
    mine.post("/library/crops/own-attic-tatsoi/drop/")
    assert not OwnCrop.objects.exists()
    assert plan().crops[0].id == "own-attic-tatsoi"


def test_two_copies_get_ids_of_their_own_and_names_are_not_taken_twice(mine):
    _copy(mine, name="Mine!")
    _copy(mine, name="Mine?")
    assert sorted(OwnCrop.objects.values_list("key", flat=True)) == ["own-mine", "own-mine-1"]
    assert "You have a crop" in _copy(mine, name="mine!").text


def test_another_person_s_crop_is_not_there(client, other, mine):
    _copy(mine, name="Mine")
    client.force_login(other)
    for path in ("", "edit/", "copy/"):
        assert client.get(f"/library/crops/own-mine/{path}").status_code == 404
    assert client.post("/library/crops/own-mine/drop/").status_code == 404


def test_a_new_space_takes_several_crops_and_one_s_own(mine, row):
    _copy(mine, name="Mine")
    data = {
        "new-kind": "closet",
        "new-width_m": "90",
        "new-depth_m": "60",
        "new-height_m": "1.7 m",
        "new-crop_id": "own-mine",
        "new-count": "3",
        "new-crop_id_2": "chervil",
        "new-count_2": "2",
        "new-lamp_class_id": "bar-45",
        "new-lamp_count": "1",
        "new-name": "Mixed",
    }
    answer = mine.post(f"/plans/{row.pk}/spaces/new/", data)
    assert answer.status_code == 302
    plan = to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))
    assert [plant.crop_id for plant in plan.spaces[-1].plants] == ["own-mine"] * 3 + ["chervil"] * 2
    assert max(plant.x_m for plant in plan.spaces[-1].plants[:3]) < min(
        plant.x_m for plant in plan.spaces[-1].plants[3:]
    )
    assert plan.crops[0].name == "Mine"
