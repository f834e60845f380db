"""The tab of rehearsals: each is played, its alert kept and its guard taken, and what is read is compared."""

import re

import pytest

from canopy.evaluate.climate.rehearsal.faults import possible
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def house(grower, demo_plan):
    return actions.create_plan(grower, demo_plan)


@pytest.fixture
def climate(house):
    return f"/plans/{house.pk}/spaces/berry-tent/climate/"


def _space(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk)).space("berry-tent")


def test_the_tab_lists_what_can_go_wrong_there(mine, house, climate):
    page = mine.get(f"{climate}?tab=rehearse").content.decode()
    for fault in possible(_space(house)):
        assert f'hx-get="{climate}rehearsal/{fault.key}/' in page
    assert "Fan off for five minutes" in page


def test_one_is_played_and_its_alert_is_kept_and_taken_back(mine, house, climate):
    shown = mine.get(f"{climate}rehearsal/exhaust/", {"amount": "4"}, headers=HTMX).content.decode()
    said = re.search(r'class="outcome">(.*?)</p>', shown, re.S)[1]
    assert re.search(r"After \d+\s(min|h)", said)
    assert 'class="traces"' in shown
    assert "The same by hand" in shown
    kept = mine.post(f"{climate}alert/exhaust/?tab=rehearse", {"amount": "4", "season": "day"}, headers=HTMX)
    assert "Alerts you keep" in kept.content.decode()
    (alert,) = _space(house).alerts
    assert alert.figure == "rh_pct"
    mine.post(f"{climate}alert/exhaust/", {"amount": "8", "season": "day"}, headers=HTMX)
    assert len(_space(house).alerts) == 1
    mine.post(f"{climate}drop-alert/{_space(house).alerts[0].id}/", headers=HTMX)
    assert _space(house).alerts == ()


def test_a_bad_length_keeps_its_message_and_what_is_not_there_is_not_found(mine, climate):
    shown = mine.get(f"{climate}rehearsal/power/", {"amount": "500"}, headers=HTMX).content.decode()
    assert "less than or equal to 72" in shown
    assert 'class="outcome"' not in shown
    assert mine.get(f"{climate}rehearsal/flood/", {"amount": "5"}).status_code == 404
    assert mine.post(f"{climate}guard/power/9/", {"amount": "2", "season": "day"}, headers=HTMX).status_code == 404


def test_what_was_read_is_compared_in_the_persons_words(mine, climate):
    got = {"reading-room_c": "20", "reading-before_c": "22", "reading-after_c": "22.6", "reading-minutes": "5"}
    shown = mine.get(f"{climate}five-minutes/", got, headers=HTMX).content.decode()
    assert "the fans would have to move" in shown
    got["reading-before_c"] = "soup"
    assert 'role="alert"' in mine.get(f"{climate}five-minutes/", got, headers=HTMX).content.decode()


def test_five_minutes_with_the_fan_off_are_followed_roughly(mine, grower, demo_plan):
    from canopy_web.planning import actions
    from canopy_web.planning.models import GrowPlan
    from canopy_web.planning.store import to_plan

    house = actions.create_plan(grower, demo_plan)
    base = f"/plans/{house.pk}/spaces/berry-tent/climate/"
    read = {"reading-room_c": "21", "reading-before_c": "22.2", "reading-after_c": "23", "reading-minutes": "5"}
    page = mine.get(f"{base}five-minutes/", read).content.decode()
    assert "Let the plan follow it, roughly" in page
    mine.post(f"{base}five-minutes/follow/?tab=rehearse", read, headers={"HX-Request": "true"})
    (item,) = to_plan(GrowPlan.objects.select_related("head").get(pk=house.pk)).space("berry-tent").learnt
    assert item.basis == "minutes"
    assert item.factor > 1.2
    assert item.standard_error / item.factor > 0.08
