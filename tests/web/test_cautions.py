"""Cautions stand where an act is planned; crops are found by other usual names, and show when they first bear."""

import pytest

from canopy.errors import LibraryError
from canopy.evaluate.cautions import cautions_at
from canopy.library import cautions, crops, devices, find, fixtures
from canopy.plan import Device, Fixture
from canopy.season import cast_of, standing_of
from tests.conftest import DAY

pytestmark = pytest.mark.django_db


def _at(plan, station, **update):
    space = plan.spaces[0].model_copy(update=update)
    return {item.id for item in cautions_at(standing_of(space, DAY, cast_of(plan)), station)}


@pytest.mark.parametrize(
    ("station", "class_id", "wanted"),
    [
        ("light", "hps-400", {"hot-lamps", "mercury"}),
        ("light", "t5-4x24", {"mercury"}),
        ("light", "board-100", set()),
        ("climate", "hps-400", {"smoke-alarm"}),
    ],
)
def test_lamps_bring_their_cautions(small_plan, station, class_id, wanted):
    lamp = Fixture(id="l", spec=fixtures()[class_id].spec, x_m=0.4, y_m=0.3, z_m=1.2)
    assert _at(small_plan, station, fixtures=(lamp,)) == wanted


def test_gas_and_burners_bring_theirs(small_plan):
    gas = next(row.spec for row in devices().values() if row.spec.kind == "co2")
    burner = gas.model_copy(update={"name": "Sulphur burner", "kind": "other"})
    assert "co2" in _at(small_plan, "climate", devices=(Device(id="d", spec=gas),))
    assert "ozone" in _at(small_plan, "climate", devices=(Device(id="d", spec=burner),))
    assert _at(small_plan, "climate", devices=()) == set()


def test_what_grows_brings_its_own(small_plan):
    bean = small_plan.spaces[0].plants[0].model_copy(update={"crop_id": "bean-dwarf", "stage": "fruit"})
    assert _at(small_plan, "crops", plants=(bean,)) == {"raw-beans", "sprays", "spores"}


def test_all_of_them_stand_on_one_page(mine):
    text = mine.get("/library/cautions/").text
    for item in cautions().values():
        assert item.name in text


@pytest.mark.parametrize(
    ("typed", "name"),
    [("arugula", "Rocket"), ("eggplant", "Aubergine"), ("cilantro", "Coriander"), ("solanum melongena", "Aubergine")],
)
def test_crops_are_found_by_other_names(mine, typed, name):
    assert name in mine.get("/library/crops/", {"q": typed}, headers={"HX-Request": "true"}).text


def test_a_wrong_id_by_another_name_leads_to_the_crop():
    with pytest.raises(LibraryError, match="did you mean aubergine"):
        find(crops(), "eggplant", "crop")


def test_a_crop_s_page_says_when_it_first_bears_and_what_can_hurt(mine):
    text = mine.get("/library/crops/pepper/").text
    assert "100 to 120 days from sowing, green" in text
    assert "Also capsicum" in text
    assert "boil them for ten minutes" in mine.get("/library/crops/bean-dwarf/").text


def test_cautions_stand_below_the_station(client, grower, small_plan):
    from canopy_web.planning import actions

    row = actions.create_plan(grower, small_plan)
    client.force_login(grower)
    assert "Before you do it" in client.get(f"/plans/{row.pk}/spaces/box/power/").text
    assert "Wind a cord reel off" in client.get(f"/plans/{row.pk}/spaces/box/power/").text
