"""The Day station: the clock, care that is written down as facts, and the calendar that leaves the house."""

import datetime as dt
import re

import pytest
import vobject
from django.urls import reverse
from django.utils import timezone

from canopy.logs.files import loads_with_facts
from canopy_web.logbook.models import CalendarFeed, CareMark
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def house(grower, demo_plan):
    return actions.create_plan(grower, demo_plan)


@pytest.fixture
def day(house):
    return f"/plans/{house.pk}/spaces/berry-tent/day/"


def _plan(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))


def _post(client, url, **data):
    return client.post(url, data, headers=HTMX)


def _events(content):
    book = vobject.readOne(content.decode())
    book.validate(raiseException=True)
    return {event.uid.value: event for event in book.vevent_list}


def test_the_clock_shows_every_lane_with_its_typed_hours(mine, day):
    page = mine.get(f"{day}?tab=clock").content.decode()
    assert 'data-lane="fixtures.lamp-1"' in page
    assert "Plants&#x27; day" in page or "Plants' day" in page
    assert "14.5 h of day, 9.5 h of night" in page
    assert "Glass-door sideboard" not in page.split('id="band-box"')[1].split("Quiet hours")[0]
    whole = mine.get(f"{day}?tab=clock&whose=household").content.decode()
    assert 'data-space="sideboard"' in whole


def test_an_edge_is_tried_and_then_moved_and_undone(mine, house, day):
    before = _plan(house)
    data = {"space": "berry-tent", "lane": "fixtures.lamp-1", "start": "480", "end": "1350"}
    tried = _post(mine, f"{day}clock/try/", **data).content.decode()
    assert 'data-start="480"' in tried
    assert _plan(house) == before
    _post(mine, f"{day}clock/move/", **data)
    lamps = _plan(house).space("berry-tent").fixtures
    assert {(lamp.schedule.start, lamp.schedule.hours) for lamp in lamps} == {("08:00", 14.5)}
    actions.undo(GrowPlan.objects.select_related("head").get(pk=house.pk))
    assert _plan(house) == before


@pytest.mark.parametrize("end", ["120", "1560"])
def test_hours_over_midnight_are_moved_too(mine, house, day, end):
    _post(mine, f"{day}clock/move/", space="berry-tent", lane="fixtures.lamp-1", start="1200", end=end)
    assert _plan(house).space("berry-tent").fixtures[0].schedule.hours == 6
    assert _post(mine, f"{day}clock/move/", space="berry-tent", lane="fixtures.lamp-1", start="x").status_code == 404


def test_a_lane_is_typed_and_a_wrong_hour_keeps_its_text(mine, house, day):
    url = f"{day}clock/lane/berry-tent/fixtures.lamp-1/"
    page = _post(mine, url, **{"berry-tent-fixtures.lamp-1-start": "25:10", "berry-tent-fixtures.lamp-1-hours": "14.5"})
    assert "type a time as 08:30" in page.content.decode()
    assert 'value="25:10"' in page.content.decode()
    _post(mine, url, **{"berry-tent-fixtures.lamp-1-start": "07:30", "berry-tent-fixtures.lamp-1-hours": "12"})
    assert _plan(house).space("berry-tent").fixtures[1].schedule.start == "07:30"
    assert _plan(house).space("berry-tent").fixtures[1].schedule.hours == 12


def test_quiet_hours_are_said_for_the_household_and_judged(mine, house, day):
    page = _post(mine, f"{day}clock/quiet/", **{"quiet-start": "22:00", "quiet-hours": ""}).content.decode()
    assert "say both" in page
    page = _post(mine, f"{day}clock/quiet/", **{"quiet-start": "22:00", "quiet-hours": "9"}).content.decode()
    assert _plan(house).quiet.hours == 9
    assert "In quiet hours" in page
    _post(mine, f"{day}clock/quiet/", **{"quiet-start": "", "quiet-hours": ""})
    assert _plan(house).quiet is None


def _due_rows(page):
    return re.findall(r'"what": "done", "family": "([^"]+)", "due": "([^"]+)"', page.replace("\\u002D", "-"))


def test_work_is_done_skipped_and_put_off_as_facts_that_undo_never_touches(mine, house, day, grower):
    page = mine.get(f"{day}?tab=care").content.decode()
    rows = dict(_due_rows(page))
    assert {"berry-tent.water", "berry-tent.scout"} <= set(rows)
    state = _plan(house)
    for family, what, more in (
        ("berry-tent.scout", "done", {}),
        ("berry-tent.traps", "skipped", {}),
        ("berry-tent.water", "postponed", {"days": "2"}),
    ):
        _post(mine, f"{day}care/mark/?tab=care", what=what, family=family, due=rows[family], **more)
    assert _plan(house) == state
    marks = {mark.family: mark for mark in CareMark.objects.all()}
    today = timezone.localdate()
    assert marks["berry-tent.scout"].on == today
    assert marks["berry-tent.scout"].by == grower
    assert marks["berry-tent.water"].on >= today + dt.timedelta(days=2)
    page = mine.get(f"{day}?tab=care").content.decode()
    assert not {"berry-tent.scout", "berry-tent.traps", "berry-tent.water"} & set(dict(_due_rows(page)))
    assert "by grower" in page or grower.username in page
    assert actions.undo(GrowPlan.objects.select_related("head").get(pk=house.pk)) is None
    assert CareMark.objects.count() == 3
    _post(mine, f"{day}care/strike/{marks['berry-tent.scout'].pk}/?tab=care")
    assert "berry-tent.scout" in dict(_due_rows(mine.get(f"{day}?tab=care").content.decode()))
    assert CareMark.objects.count() == 3


def test_work_nobody_asks_for_is_not_written(mine, day):
    page = _post(mine, f"{day}care/mark/", what="done", family="berry-tent.nothing", due="2026-01-01").content.decode()
    assert "no longer asked for" in page
    assert not CareMark.objects.exists()
    assert _post(mine, f"{day}care/mark/", what="done", family="berry-tent.scout", due="soon").status_code == 404


def test_work_is_settled_left_out_and_added(mine, house, day):
    page = _post(mine, f"{day}care/settle/scout/?tab=care", **{"rule-scout-every_days": "0", "rule-scout-at": "18:00"})
    assert "greater than or equal to 1" in page.content.decode()
    _post(mine, f"{day}care/settle/scout/", **{"rule-scout-every_days": "4", "rule-scout-at": "18:00"})
    (rule,) = _plan(house).space("berry-tent").care
    assert (rule.job, rule.every_days, rule.at) == ("scout", 4, "18:00")
    _post(mine, f"{day}care/leave-out/scout/")
    page = mine.get(f"{day}?tab=care").content.decode()
    assert "ask for it again" in page
    assert "berry-tent.scout" not in dict(_due_rows(page))
    _post(mine, f"{day}care/leave-out/scout/", back="yes")
    assert _plan(house).space("berry-tent").care == ()
    _post(mine, f"{day}care/own/")
    (own,) = _plan(house).space("berry-tent").care
    _post(mine, f"{day}care/own/{own.id}/", **{f"own-{own.id}-name": "Feed the cat", f"own-{own.id}-every_days": "3"})
    assert "Feed the cat" in mine.get(f"{day}?tab=care").content.decode()
    _post(mine, f"{day}care/own/{own.id}/", remove="yes")
    assert _plan(house).space("berry-tent").care == ()


def test_watering_says_for_how_long_drippers_run(mine, house, day):
    url = f"{day}care/watering/?tab=care"
    _post(mine, url, **{"watering-way": "drip"})
    page = _post(
        mine,
        url,
        **{
            "watering-way": "drip",
            "watering-tank_l": "20 L",
            "watering-flow_l_h": "8",
            "watering-runs": "3",
            "watering-first_at": "07:00",
        },
    ).content.decode()
    assert _plan(house).space("berry-tent").watering.tank_l == pytest.approx(20)
    assert re.search(r"3 runs a day of \d+ min, the first at 07:00", page)
    assert "drippers and sprayers" in page


def test_the_calendar_reads_back_and_a_moved_lamp_changes_the_same_event(mine, house, day):
    url = reverse("household:calendar", args=[house.pk])
    answer = mine.get(url)
    assert answer["Content-Type"].startswith("text/calendar")
    before = _events(answer.content)
    lamp = "berry-tent.lamps.lamp-1@larkspur-lane.mild-canopy"
    assert before[lamp].dtstart.value.hour == 6
    _post(mine, f"{day}clock/move/", space="berry-tent", lane="fixtures.lamp-1", start="480", end="1350")
    after = _events(mine.get(url).content)
    assert set(after) == set(before)
    assert after[lamp].dtstart.value.hour == 8
    assert int(after[lamp].sequence.value) >= int(before[lamp].sequence.value)


def test_the_private_address_needs_its_token_and_can_be_renewed(mine, client, house, day):
    assert "Make a private address" in mine.get(f"{day}?tab=calendar").content.decode()
    _post(mine, f"{day}calendar/")
    token = CalendarFeed.objects.get().token
    client.logout()
    address = reverse("household:feed", args=[token])
    assert len(_events(client.get(address).content)) > 20
    for forged in (token[:-1], token + "a", token.swapcase(), "x"):
        assert client.get(reverse("household:feed", args=[forged])).status_code == 404
    assert client.get(reverse("household:calendar", args=[house.pk])).status_code == 302
    assert client.post(address).status_code == 405


def test_a_renewed_address_makes_the_old_one_dead(mine, house, day):
    _post(mine, f"{day}calendar/")
    old = CalendarFeed.objects.get().token
    page = _post(mine, f"{day}calendar/", renew="yes").content.decode()
    new = CalendarFeed.objects.get().token
    assert new != old
    assert "leads nowhere" in page
    assert mine.get(reverse("household:feed", args=[old])).status_code == 404
    assert mine.get(reverse("household:feed", args=[new])).status_code == 200


def test_another_persons_day_is_not_shown(client, other, day, house):
    client.force_login(other)
    assert client.get(f"{day}?tab=care").status_code == 404
    assert client.get(reverse("household:calendar", args=[house.pk])).status_code == 404
    assert _post(client, f"{day}care/mark/", what="done").status_code == 404


def test_care_that_was_done_travels_in_the_plan_file(mine, house, day, grower):
    rows = dict(_due_rows(mine.get(f"{day}?tab=care").content.decode()))
    _post(mine, f"{day}care/mark/", what="done", family="berry-tent.scout", due=rows["berry-tent.scout"])
    text = mine.get(reverse("household:export", args=[house.pk])).content
    plan, facts = loads_with_facts(text)
    assert plan.key == "larkspur-lane"
    assert [(mark.family, mark.what) for mark in facts.care] == [("berry-tent.scout", "done")]
    from canopy_web.logbook.actions import import_file

    copy = import_file(grower, text)
    assert CareMark.objects.filter(plan=copy, what="done").count() == 1
    # Two plans of one person never share the names of their events.
    assert not set(_events(mine.get(reverse("household:calendar", args=[copy.pk])).content)) & set(
        _events(mine.get(reverse("household:calendar", args=[house.pk])).content)
    )
