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
    assert "of 24</b> to get" in page
    assert "150 W each" in page
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


# The stock of the household


def test_what_one_owns_is_written_down_counted_and_struck(mine, house, kit):
    page = _post(mine, f"{kit}kit/stock/?tab=stock", **{"stock-thing": "other:lamp-board-150", "stock-number": "1"})
    (item,) = _plan(house).stock
    assert (item.kind, item.number) == ("lamp", 1)
    assert "2 in Berry tent, 1 more than there are" in page
    # The same thing again is added to what there is.
    _post(mine, f"{kit}kit/stock/?tab=stock", **{"stock-thing": "other:lamp-board-150", "stock-number": "2"})
    (item,) = _plan(house).stock
    assert item.number == 3
    page = _post(mine, f"{kit}kit/stock/{item.id}/?tab=stock", **{f"stock-{item.id}-number": "0"})
    assert 'aria-invalid="true"' in page
    assert _plan(house).stock[0].number == 3
    _post(mine, f"{kit}kit/stock/{item.id}/?tab=stock", **{f"stock-{item.id}-number": "2"})
    assert "you own this" in mine.get(kit).content.decode()
    _post(mine, f"{kit}kit/stock/{item.id}/strike/?tab=stock")
    assert _plan(house).stock == ()
    row = GrowPlan.objects.select_related("head").get(pk=house.pk)
    assert actions.undo(row) == f"No longer own {item.name}"
    assert len(_plan(house).stock) == 1


def test_a_thing_of_the_kit_and_a_lamp_of_one_s_own_data(mine, house, kit):
    page = mine.get(f"{kit}?tab=stock").content.decode()
    offered = [part.split('"')[0] for part in page.split('value="line:')[1:]]
    assert offered
    like = next(each for each in offered if each.startswith("pot|"))
    _post(mine, f"{kit}kit/stock/?tab=stock", **{"stock-thing": f"line:{like}", "stock-number": "4"})
    assert _plan(house).stock[0].like == like
    own = {"name": "Shelf find", "power_w": "90", "output": "ppf", "amount": "180", "source_id": "white-led"}
    own |= {"cct_k": "4000", "length_m": "60 cm", "width_m": "20 cm", "number": "2"}
    _post(mine, f"{kit}kit/stock/own/?tab=stock", **{f"ownstock-{key}": value for key, value in own.items()})
    lamp = _plan(house).stock[1]
    assert (lamp.name, lamp.number, lamp.lamp.power_w) == ("Shelf find", 2, 90)
    bad = _post(
        mine, f"{kit}kit/stock/own/?tab=stock", **{f"ownstock-{key}": v for key, v in own.items() if key != "name"}
    )
    assert "This field is required" in bad
    assert len(_plan(house).stock) == 2


def test_lamps_from_stock_are_shown_held_against_every_margin_and_hung(mine, house, kit):
    _post(mine, f"{kit}kit/stock/?tab=stock", **{"stock-thing": "other:lamp-board-240", "stock-number": "2"})
    item = _plan(house).stock[0].id
    page = mine.get(kit).content.decode()
    assert "from stock in place of LED board, 150 W class" in page
    shown = mine.get(f"{kit}kit/swap/{item}/lamp-1/", headers=HTMX).content.decode()
    assert "What it moves" in shown
    _post(mine, f"{kit}kit/swap/{item}/lamp-1/")
    assert {lamp.spec.name for lamp in _plan(house).space("berry-tent").fixtures} == {"LED board, 240 W class"}
    assert "no longer free" in mine.get(f"{kit}kit/swap/{item}/lamp-1/", headers=HTMX).content.decode()


# Prices


@pytest.mark.parametrize(
    ("typed", "value"),
    [("24.90", 24.9), ("24,90 €", 24.9), ("EUR 30", 30), ("1.234,50", 1234.5), ("1,234.50", 1234.5), ("0.500", 0.5)],
)
def test_a_price_is_read_as_people_type_it(mine, kit, typed, value):
    _post(mine, f"{kit}price/", key=LAMP, **{f"price-{LAMP}": typed})
    assert Tick.objects.get().price == pytest.approx(value)


@pytest.mark.parametrize("typed", ["CHF 40", "£12", "40 usd", "-3", "cheap", "12.3.4,5"])
def test_a_price_in_other_money_or_none_at_all_is_told_and_kept_as_typed(mine, kit, typed):
    page = _post(mine, f"{kit}price/", key=LAMP, **{f"price-{LAMP}": typed})
    assert not Tick.objects.exists()
    assert f'value="{typed}"' in page
    assert "EUR, such as 24.90" in page


def test_library_prices_wait_for_the_rate_of_the_money(mine, house, kit):
    row = GrowPlan.objects.select_related("head").get(pk=house.pk)
    from canopy.plan.changes import Change

    actions.change_household(row, [Change(at=("site",), values={"currency": "CHF"})], "Money")
    page = mine.get(kit).content.decode()
    assert "say what a euro is in CHF" in page
    assert "<b>0 CHF</b> now" in page
    assert "What a euro is in it" in mine.get(f"/plans/{house.pk}/").content.decode()
    row = GrowPlan.objects.select_related("head").get(pk=house.pk)
    actions.change_household(row, [Change(at=("site",), values={"euro_rate": 0.94})], "Money")
    page = mine.get(kit).content.decode()
    assert "0.94 CHF to the euro" in page
    assert "<b>0 CHF</b> now" not in page
    # In euro nobody is asked.
    actions.change_household(row, [Change(at=("site",), values={"currency": "EUR"})], "Money")
    assert "What a euro is in it" not in mine.get(f"/plans/{house.pk}/").content.decode()


# Cuts, templates, paper


def test_the_cut_list_follows_the_sizes_that_are_bought(mine, house):
    kit = f"/plans/{house.pk}/spaces/hall-closet/kit/"
    page = mine.get(f"{kit}?tab=holes").content.decode()
    assert "520 mm + 520 mm" in page
    assert "957 mm" in page
    page = _post(mine, f"{kit}sizes/?tab=holes", **{"sizes-bar_m": "60 cm"})
    assert _plan(house).bought_in.bar_m == 0.6
    assert "520 mm + 520 mm" not in page
    page = _post(mine, f"{kit}sizes/?tab=holes", **{"sizes-bar_m": "40 cm"})
    assert "longer than a bar of 400 mm" in page
    page = _post(mine, f"{kit}sizes/?tab=holes", **{"sizes-bar_m": "tiny"})
    assert 'aria-invalid="true"' in page
    assert _plan(house).bought_in.bar_m == 0.4


def test_the_paper_carries_plan_state_and_page_number_and_nothing_else(mine, house, kit):
    answer = mine.get(f"{kit}pack.css?paper=letter")
    assert answer["Content-Type"].startswith("text/css")
    css = answer.content.decode()
    assert "size: letter" in css
    assert "counter(page)" in css
    assert f"state {house.head_id} of" in css
    row = GrowPlan.objects.select_related("head").get(pk=house.pk)
    from canopy.plan.changes import Change

    actions.change_household(row, [Change(values={"name": 'A"; } body { x'})], "Name")
    css = mine.get(f"{kit}pack.css").content.decode()
    assert '"A\\000022' in css
    assert css.count("{") == css.count("}") == 4
    assert "size: A4" in css


def test_templates_are_of_what_is_drilled(mine, house, kit):
    page = mine.get(f"/plans/{house.pk}/spaces/hall-closet/kit/template/").content.decode()
    assert page.count('class="true-size"') == 3
    assert "100 mm" in page
    assert "nothing is drilled" in mine.get(f"{kit}template/").content.decode()


# Photographs and ticks that come late


def _picture():
    from django.core.files.uploadedfile import SimpleUploadedFile
    from PIL import Image

    out = io.BytesIO()
    Image.new("RGB", (40, 30), "green").save(out, "JPEG")
    return SimpleUploadedFile("step.jpg", out.getvalue(), "image/jpeg")


def test_a_photograph_is_kept_at_its_step_and_not_among_those_of_the_space(mine, house, kit):
    from canopy_web.photos.models import SpacePhoto
    from canopy_web.photos.querysets import photos_of

    page = _post(mine, f"{kit}done/photo/?tab=build", key="frame", photo=_picture())
    photo = SpacePhoto.objects.get()
    assert photo.step == "frame"
    assert f"/photos/{photo.pk}/?small" in page
    assert photos_of(house, "berry-tent") == []
    assert "Choose a picture first" in _post(mine, f"{kit}done/photo/?tab=build", key="frame")
    text = io.BytesIO(b"no picture")
    text.name = "x.jpg"
    assert "not a picture" in _post(mine, f"{kit}done/photo/?tab=build", key="frame", photo=text)
    assert "no longer asks" in _post(mine, f"{kit}done/photo/?tab=build", key="gone", photo=_picture())
    _post(mine, f"{kit}done/photo/{photo.pk}/drop/?tab=build")
    assert not SpacePhoto.objects.exists()


def test_what_was_said_later_stands_whenever_it_arrives_and_no_note_is_lost(mine, house, kit):
    url = f"{kit}done/?tab=build"
    _post(mine, url, key="frame", done="yes", at="2026-11-20T10:00:00+00:00")
    _post(mine, url, key="frame", done="no", at="2026-11-20T12:00:00+00:00")
    # This one waited on a phone in the cellar.
    _post(mine, url, key="frame", done="yes", at="2026-11-20T11:00:00+00:00")
    tick = Tick.objects.get()
    assert not tick.on
    _post(mine, url, key="frame", at="2026-11-20T12:30:00+00:00", **{"note-frame": "wobbles"})
    _post(mine, url, key="frame", at="2026-11-20T09:00:00+00:00", **{"note-frame": "bolt missing"})
    assert Tick.objects.get().note == "bolt missing / wobbles"
    _post(mine, url, key="frame", at="2026-11-20T09:00:00+00:00", **{"note-frame": "bolt missing"})
    assert Tick.objects.get().note == "bolt missing / wobbles"
    # A clock that runs ahead does not block what comes after it.
    _post(mine, url, key="frame", done="yes", at="2099-01-01T00:00:00+00:00")
    _post(mine, url, key="frame", done="no")
    assert not Tick.objects.get().on
    _post(mine, url, key="frame", done="yes", at="yesterday")
    assert Tick.objects.get().on


def test_ticks_travel_in_the_plan_file(mine, grower, house, kit):
    from canopy.logs.files import dumps_with_facts, loads_with_facts
    from canopy_web.logbook import actions as facts
    from canopy_web.logbook.querysets import facts_of

    _post(mine, f"{kit}have/", key=LAMP, have="yes")
    _post(mine, f"{kit}price/", key=LAMP, **{f"price-{LAMP}": "80"})
    _post(mine, f"{kit}done/?tab=build", key="frame", done="yes")
    ids = [space.id for space in _plan(house).spaces]
    text = dumps_with_facts(_plan(house), facts_of(house, ids))
    again = facts.import_file(grower, text.encode())
    assert facts_of(again, ids) == facts_of(house, ids)
    assert len(loads_with_facts(text)[1].ticks) == 2
    assert Tick.objects.get(plan=again, what="have").price == 80
