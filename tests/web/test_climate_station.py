"""The Climate station: the frame first, what was followed after it, devices and what switches them."""

import re

import pytest

from canopy.evaluate.kept import forget
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import to_plan
from canopy_web.stations.climate.offers import offers

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}
KINDS = ("heater", "mat", "heat-lamp", "cooler", "humidifier", "dehumidifier", "co2")


@pytest.fixture
def house(grower, demo_plan):
    """The demo household as the person's own, nothing followed yet."""
    forget()
    return actions.create_plan(grower, demo_plan)


@pytest.fixture
def climate(house):
    return f"/plans/{house.pk}/spaces/fern-case/climate/"


def _space(row, space_id="fern-case"):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk)).space(space_id)


def test_the_page_comes_first_and_what_is_followed_after_it(mine, climate):
    page = mine.get(climate).content.decode()
    assert "Three days are being followed" in page
    assert "being followed" in re.search(r'id="title-block".*?</dl>', page, re.S)[0]
    assert f'hx-get="{climate}follow/"' in page
    later = mine.get(f"{climate}follow/", headers=HTMX).content.decode()
    assert later.count('hx-swap-oob="true"') == 4
    assert 'class="traces"' in later
    assert "Air by night" in later
    assert "being followed" not in later
    # Known now: nothing is asked for again.
    again = mine.get(climate).content.decode()
    assert 'id="follow"' not in again
    assert 'class="traces"' in again


def test_another_station_gets_margins_and_figures_only(mine, house, climate):
    light = climate.replace("/climate/", "/light/")
    assert f'hx-get="{light}follow/"' in mine.get(light).content.decode()
    later = mine.get(f"{light}follow/", headers=HTMX).content.decode()
    assert 'id="schedule"' not in later
    assert 'id="margins"' in later


def test_an_edit_makes_it_unknown_until_it_is_followed_again(mine, house, climate):
    mine.get(f"{climate}follow/", headers=HTMX)
    page = mine.post(
        climate.replace("/climate/", "/space/") + "room/", {"room-day_c": "26"}, headers=HTMX
    ).content.decode()
    assert "being followed" in page
    assert 'id="follow"' in page


def test_drawn_values_can_be_read_one_by_one(mine, climate):
    import html
    import json

    page = mine.get(f"{climate}follow/", headers=HTMX).content.decode()
    values = json.loads(html.unescape(re.search(r'data-traces="([^"]*)"', page)[1]))
    assert len(values["x"]) == len(values["air"]) == len(values["clock"]) == 144
    assert values["air"][0].endswith(" °C")
    assert {"leaf", "roots", "humidity", "VPD", "CO₂", "dew point"} <= set(values)


def test_hours_in_a_table_and_in_fahrenheit(mine, grower, climate):
    mine.post("/account/preference/", {"units": "us"})
    from canopy_web.accounts.models import Preference

    Preference.objects.update_or_create(user=grower, defaults={"units": "us"})
    page = mine.get(f"{climate}follow/", headers=HTMX).content.decode()
    assert "Temperature, °F" in page
    assert page.count('data-name="Water given off"') == 24


def test_what_switches_a_device_is_set_and_undone(mine, house, climate):
    device = _space(house).devices[0]
    page = mine.get(f"{climate}?tab=controls").content.decode()
    assert "taken at the edge of what the crops want" in page
    fields = {f"control-{device.id}-day_rh_pct": "91", f"control-{device.id}-night_rh_pct": "88 %"}
    prefix = {f"control-{device.id}-band_pct": "4"}
    mine.post(f"{climate}control/{device.id}/", {**fields, **prefix}, headers=HTMX)
    control = _space(house).devices[0].control
    assert (control.day_rh_pct, control.night_rh_pct) == (91, 88)
    assert PlanState.objects.filter(plan=house).last().label == f"Set {device.spec.name}"
    later = mine.get(f"{climate}?tab=controls").content.decode()
    assert "taken at the edge" not in later


def test_a_setting_that_cannot_be_is_kept_and_marked(mine, house, climate):
    device = _space(house).devices[0]
    fields = {
        f"control-{device.id}-day_rh_pct": "140",
        f"control-{device.id}-night_rh_pct": "80",
        f"control-{device.id}-band_pct": "4",
    }
    page = mine.post(f"{climate}control/{device.id}/?tab=controls", fields, headers=HTMX).content.decode()
    control = _space(house).devices[0].control
    # The other field is taken; the bad one changes nothing.
    assert control is None or control.day_rh_pct <= 100
    assert page
    assert mine.post(f"{climate}control/nothing/", {}, headers=HTMX).status_code == 404


@pytest.mark.parametrize(
    "offer", [next(o for o in offers().values() if o.spec.kind == kind) for kind in KINDS], ids=KINDS
)
def test_each_device_that_is_offered_is_added_and_runs(mine, house, climate, offer):
    before = len(_space(house).devices)
    mine.post(f"{climate}offer/", {"class": offer.key}, headers=HTMX)
    added = _space(house).devices
    assert len(added) == before + 1
    assert added[-1].spec == offer.spec
    page = mine.get(f"{climate}follow/", headers=HTMX).content.decode()
    assert page
    assert mine.post(f"{climate}offer/", {"class": "anvil"}, headers=HTMX).status_code == 404


def test_the_cards_of_a_household_know_the_climate(mine, house):
    page = mine.get(f"/plans/{house.pk}/").content.decode()
    assert "being followed" not in page


def test_when_it_may_run_is_said_in_words_and_the_clock_alone_switches_it(mine, house, climate):
    device = _space(house).devices[0]
    key = f"control-{device.id}"
    row = {"schedule": "40 s every 25 min", "switched": "control", "day_rh_pct": "88 %", "night_rh_pct": "88 %"}
    fields = {f"{key}-{name}": text for name, text in {**row, "band_pct": "4 %"}.items()}
    mine.post(f"{climate}control/{device.id}/", fields, headers=HTMX)
    after = _space(house).devices[0]
    assert (after.schedule.on_min, after.schedule.every_min) == (pytest.approx(2 / 3), 25)
    # Its setting is still what the crops want: nobody has set one.
    assert after.control is None
    tab = {**HTMX, "HX-Current-URL": f"http://testserver{climate}?tab=controls"}
    page = mine.post(f"{climate}control/{device.id}/", {**fields, f"{key}-switched": "clock"}, headers=tab)
    assert _space(house).devices[0].by_clock
    assert "in its hours" in page.content.decode()
    page = mine.post(
        f"{climate}control/{device.id}/?tab=controls", {f"{key}-schedule": "7 min every 30 h"}, headers=HTMX
    )
    assert "longer than its day" in page.content.decode()
    assert _space(house).devices[0].schedule == after.schedule
    mine.post(f"{climate}control/{device.id}/", fields, headers=HTMX)
    assert not _space(house).devices[0].by_clock


def test_a_fans_controller_is_set_trigger_by_trigger_and_taken_back(mine, house):
    tent = f"/plans/{house.pk}/spaces/berry-tent/climate/"
    way = _space(house, "berry-tent").airways[0]
    key = f"fan-{way.id}"
    mine.post(f"{tent}fan/{way.id}/", {f"{key}-hot_day_c": "26", f"{key}-most": "90 %"}, headers=HTMX)
    control = _space(house, "berry-tent").airways[0].control
    assert (control.hot_day_c, control.hot_night_c, control.most) == (26, 26, pytest.approx(0.9))
    tab = {**HTMX, "HX-Current-URL": f"http://testserver{tent}?tab=controls"}
    page = mine.post(f"{tent}fan/{way.id}/", {f"{key}-cold_day_c": "28"}, headers=tab).content.decode()
    assert "the lower trigger must lie below the upper one" in page
    assert _space(house, "berry-tent").airways[0].control == control
    mine.post(f"{tent}fan/{way.id}/", {f"{key}-hot_day_c": ""}, headers=HTMX)
    assert _space(house, "berry-tent").airways[0].control is None
    assert mine.post(f"{tent}fan/nothing/", {}, headers=HTMX).status_code == 404


def test_a_cut_off_and_a_second_stage(mine, house, climate):
    mine.post(f"{climate}cut-off/", {"cut-cut_off_c": "34"}, headers=HTMX)
    assert _space(house).air.cut_off_c == 34
    device = _space(house).devices[0]
    mine.post(f"{climate}stage/{device.id}/", headers=HTMX)
    first, second = _space(house).devices[:2]
    assert second.spec == first.spec
    assert second.control is not None
    assert second.control.day_rh_pct < 88


def test_a_pinned_hour_stands_in_the_drawing_and_in_the_address(mine, climate):
    page = mine.get(f"{climate}?tab=day&hour=14").content.decode()
    assert page.count('class="pin"') == 5
    assert "14:00 is pinned" in page
    assert 'class="pin"' not in mine.get(f"{climate}?tab=day&hour=99").content.decode()


def test_a_day_is_held_against_the_same_without_devices_and_against_the_state_before(mine, house, climate):
    mine.get(f"{climate}follow/", headers=HTMX)
    page = mine.get(climate).content.decode()
    assert "the same without devices" in page
    assert "the coldest day of the year" not in page
    shown = mine.get(f"{climate}compare/", {"with": "without"}, headers=HTMX).content.decode()
    assert shown.count('class="beside"') >= 8
    assert "cannot be held" in mine.get(f"{climate}compare/", {"with": "coldest"}, headers=HTMX).content.decode()
    assert "cannot be held" in mine.get(f"{climate}compare/", {"with": "moon"}, headers=HTMX).content.decode()
    mine.post(f"{climate}cut-off/", {"cut-cut_off_c": "34"}, headers=HTMX)
    before = mine.get(f"{climate}compare/", {"with": "before"}, headers=HTMX).content.decode()
    assert "as it was before the last change" in before


def test_what_it_would_take_is_listed_and_added(mine, house, climate):
    shown = mine.get(f"{climate}sizing/", headers=HTMX).content.decode()
    assert "Heating" in shown
    assert "not needed" in shown


def test_settings_are_searched_and_the_best_is_taken(mine, house):
    tent = f"/plans/{house.pk}/spaces/berry-tent/climate/"
    shown = ""
    for _ in range(20):
        shown = mine.get(f"{tent}settings/", headers=HTMX).content.decode()
        if "All " in shown:
            break
    assert "As it is" in shown
    address = re.search(r'hx-post="([^"]*settings/set-\d+/)"', shown)[1]
    mine.post(address, headers=HTMX)
    assert _space(house, "berry-tent").airways[0].control is not None
    assert mine.post(f"{tent}settings/set-999/", headers=HTMX).status_code == 404


def test_a_lid_and_open_water_are_added_edited_and_taken_away(mine, house, climate):
    mine.post(f"{climate}part/lids/add/", headers=HTMX)
    mine.post(f"{climate}part/wet/add/", headers=HTMX)
    space = _space(house)
    assert (len(space.lids), len(space.wet)) == (1, 1)
    page = mine.get(f"{climate}?tab=controls").content.decode()
    assert 'class="furniture lid"' in page
    assert "Lids, cloches and jars" in page
    key = space.wet[0].id
    row = {f"{key}-name": "Moss wall", f"{key}-kind": "moss", f"{key}-area_m2": "0.3 m2"}
    mine.post(f"{climate}part/wet/{key}/", row, headers=HTMX)
    assert _space(house).wet[0].kind == "moss"
    mine.post(f"{climate}part/lids/{space.lids[0].id}/remove/", headers=HTMX)
    assert _space(house).lids == ()


def test_a_device_is_placed_drawn_and_moved(mine, house, climate):
    device = _space(house).devices[0]
    assert "device part" not in mine.get(climate).content.decode()
    key = f"place-{device.id}"
    mine.post(f"{climate}place/{device.id}/", {f"{key}-x_m": "10 cm", f"{key}-y_m": "", f"{key}-z_m": ""}, headers=HTMX)
    placed = _space(house).devices[0]
    assert (placed.x_m, placed.z_m) == (0.1, 0.0)
    assert placed.y_m is not None
    page = mine.get(climate).content.decode()
    assert page.count("device part") == 3
    mine.post(f"{climate}part/devices/{device.id}/move/", {"x_m": "0.2", "z_m": "0.05"}, headers=HTMX)
    assert (_space(house).devices[0].x_m, _space(house).devices[0].z_m) == (0.2, 0.05)
    tab = {**HTMX, "HX-Current-URL": f"http://testserver{climate}?tab=controls"}
    far = {f"{key}-x_m": "9 m", f"{key}-y_m": "10 cm", f"{key}-z_m": "0"}
    assert "the space ends at" in mine.post(f"{climate}place/{device.id}/", far, headers=tab).content.decode()
    none = {f"{key}-x_m": "", f"{key}-y_m": "20 cm", f"{key}-z_m": "5 cm"}
    mine.post(f"{climate}place/{device.id}/", none, headers=HTMX)
    assert _space(house).devices[0].x_m is None
