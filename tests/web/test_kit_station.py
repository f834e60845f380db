"""The Kit station: ticks and prices kept as facts, a table to take along, steps that say when the plan has changed."""

import csv
import io

import pytest

from canopy_web.logbook.models import Tick
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def house(grower, demo_plan):
    return actions.create_plan(grower, demo_plan)


@pytest.fixture
def kit(house):
    return f"/plans/{house.pk}/spaces/berry-tent/kit/"


def _plan(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))


def _post(client, url, **data):
    return client.post(url, data, headers=HTMX).content.decode()


LAMP = "berry-tent.light.LED board, 150 W class"


def test_a_line_is_ticked_off_once_from_two_devices(mine, house, kit):
    page = mine.get(kit).content.decode()
    assert "of 24</b> to get" in page or "to get" in page
    before = _plan(house)
    for _ in range(2):
        _post(mine, f"{kit}have/", key=LAMP, have="yes")
    (tick,) = Tick.objects.all()
    assert (tick.key, tick.on) == (LAMP, True)
    assert _plan(house) == before
    assert actions.undo(GrowPlan.objects.select_related("head").get(pk=house.pk)) is None
    _post(mine, f"{kit}have/", key=LAMP, have="no")
    assert not Tick.objects.get().on
    assert "no longer asks" in _post(mine, f"{kit}have/", key="berry-tent.light.Nothing", have="yes")


def test_a_typed_price_counts_and_a_wrong_one_changes_nothing(mine, house, kit):
    page = _post(mine, f"{kit}price/", key=LAMP, **{f"price-{LAMP}": "199,50"})
    assert Tick.objects.get().price == 199.5
    assert 'value="199.5"' in page
    page = _post(mine, f"{kit}price/", key=LAMP, **{f"price-{LAMP}": "$ 40"})
    assert "This household counts in EUR" in page
    assert 'value="$ 40"' in page
    assert Tick.objects.get().price == 199.5
    _post(mine, f"{kit}price/", key=LAMP, **{f"price-{LAMP}": ""})
    assert Tick.objects.get().price is None
    assert not Tick.objects.get().on


def test_the_table_says_what_one_has(mine, house, kit):
    _post(mine, f"{kit}have/", key=LAMP, have="yes")
    answer = mine.get(f"{kit}kit.csv")
    rows = {row["key"]: row for row in csv.DictReader(io.StringIO(answer.content.decode()))}
    assert rows[LAMP]["have"] == "yes"
    assert sum(row["have"] == "yes" for row in rows.values()) == 1
    whole = mine.get(f"{kit}kit.csv?whose=household").content.decode()
    assert "Fern case" in whole


@pytest.mark.parametrize("order", ["dear", "heavy", "left", "group"])
def test_the_list_is_sorted_as_asked(mine, kit, order):
    page = mine.get(f"{kit}?order={order}").content.decode()
    assert page.count('class="kit-tick"') > 20
    assert ("kit-group" in page) == (order == "group")


def test_a_ticked_step_is_marked_when_the_plan_it_was_made_from_changes(mine, house, kit):
    _post(mine, f"{kit}done/?tab=build", key="lamp.lamp-1", done="yes")
    _post(mine, f"{kit}done/?tab=build", key="lamp.lamp-2", done="yes")
    page = _post(mine, f"{kit}done/?tab=build", key="lamp.lamp-1", **{"note-lamp.lamp-1": "left rope short"})
    assert "2 of " in page
    assert "left rope short" in page
    assert "look again" not in page
    url = kit.replace("/kit/", "/light/")
    mine.post(f"{url}part/fixtures/lamp-1/move/", {"z_m": "1.1"}, headers=HTMX)
    page = mine.get(f"{kit}?tab=build").content.decode()
    assert "1 to look at again" in page
    page = _post(mine, f"{kit}done/?tab=build", key="lamp.lamp-1", done="yes")
    assert "to look at again" not in page
    assert Tick.objects.filter(what="done").count() == 2
    assert "no longer asks" in _post(mine, f"{kit}done/?tab=build", key="gone", done="yes")


def test_every_face_with_holes_is_drawn(mine, house):
    page = mine.get(f"/plans/{house.pk}/spaces/hall-closet/kit/?tab=holes").content.decode()
    assert "Left, 52" in page
    assert "127 mm" in page
    case = mine.get(f"/plans/{house.pk}/spaces/fern-case/kit/?tab=holes").content.decode()
    assert "tempered glass bursts" in case


def test_another_persons_kit_is_not_shown(client, other, kit):
    client.force_login(other)
    assert client.get(kit).status_code == 404
    assert client.post(f"{kit}have/", {"key": LAMP, "have": "yes"}).status_code == 404


def test_the_pack_holds_everything_and_carries_its_state(mine, house, kit):
    _post(mine, f"{kit}done/", key="lamp.lamp-1", done="yes")
    page = mine.get(f"{kit}pack/").content.decode()
    heads = (
        "Drawings",
        "Margins",
        "Kit",
        "Cut and drill",
        "Build",
        "Timers",
        "Care in the next four weeks",
        "Cautions",
    )
    for words in heads:
        assert f">{words}<" in page
    assert f"state {house.head_id} of" in page
    assert page.count("<svg") >= 5
    assert "☑ Hang lamp 1" in page
    assert "<style" not in page


def test_labels_open_what_they_stand_on(mine, house, kit):
    page = mine.get(f"{kit}labels/").content.decode()
    plants = len(_plan(house).space("berry-tent").plants)
    assert page.count("<li>") >= plants + 1
    assert page.count("<path") >= plants + 1


@pytest.mark.parametrize("view", ["front", "side", "plan", "left"])
def test_drawings_leave_in_true_measure(mine, kit, view):
    answer = mine.get(f"{kit}drawing/{view}.svg")
    assert answer["Content-Type"].startswith("image/svg+xml")
    assert b"1 unit = 1 mm" in answer.content
    assert mine.get(f"{kit}drawing/behind.svg").status_code == 404
