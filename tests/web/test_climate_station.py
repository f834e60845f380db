"""The Climate station: the frame first, what was followed after it, devices and what switches them."""

import re

import pytest

from canopy.evaluate.kept import forget
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import to_plan
from canopy_web.stations.climate.offers import OFFERS

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


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


@pytest.mark.parametrize("offer", OFFERS, ids=lambda offer: offer.key)
def test_each_device_that_is_offered_is_added_and_runs(mine, house, climate, offer):
    before = len(_space(house).devices)
    mine.post(f"{climate}offer/{offer.key}/", headers=HTMX)
    added = _space(house).devices
    assert len(added) == before + 1
    assert added[-1].spec == offer.spec
    page = mine.get(f"{climate}follow/", headers=HTMX).content.decode()
    assert page
    assert mine.post(f"{climate}offer/anvil/", headers=HTMX).status_code == 404


def test_the_cards_of_a_household_know_the_climate(mine, house):
    page = mine.get(f"/plans/{house.pk}/").content.decode()
    assert "being followed" not in page
