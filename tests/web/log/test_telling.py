"""Alerts told: by mail, in the calendar, in the person's units, quiet in quiet hours; traps, batteries, silence."""

from __future__ import annotations

import datetime as dt
from email import message_from_bytes, policy

import numpy as np
import pytest
from django.core import mail
from icalendar import Calendar

from canopy.logs.entries import Entry
from canopy.plan.changes import Add, Change
from canopy.plan.document import Quiet
from canopy_web.accounts.models import Preference
from canopy_web.household.calendar import calendar_of
from canopy_web.logbook import entries
from canopy_web.logbook.models import AlertEvent
from canopy_web.logbook.readings import keep_readings, sensor_for
from canopy_web.logbook.watch import watch_plan
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.worker.telling import tell
from canopy_web.worker.watching import watch_all
from tests.web.log.conftest import plan_of, post

pytestmark = pytest.mark.django_db
NOON = dt.datetime(2026, 11, 28, 12, tzinfo=dt.UTC)


@pytest.fixture(autouse=True)
def mailed(settings, grower):
    settings.MAILS = "smtp"
    Preference.objects.update_or_create(user=grower, defaults={"mail": "grower@example.org", "time_zone": "UTC"})


@pytest.fixture
def rings(house):
    """A limit, and a function that lets it be passed at an hour."""
    rule = {"id": "new", "figure": "rh_pct", "most": True, "value": 75, "for_min": 10}
    actions.change_space(house, "berry-tent", [Add(collection="alerts", parts=(rule,), prefix="alert")], "Watch")
    sensor = sensor_for(house, "berry-tent", "rh_pct", "Damp")

    def at(moment: dt.datetime, long_min=60) -> None:
        begin = int(moment.timestamp())
        rows = [(sensor.pk, begin + 60 * k, 90.0) for k in range(long_min + 1)]
        keep_readings([(sensor.pk, begin - 60, 60.0), *rows, (sensor.pk, begin + 60 * (long_min + 1), 60.0)])
        watch_plan(house, now=begin + 60 * (long_min + 2))

    return at


def quiet(house, start="22:00", hours=8.0):
    actions.change(house, "Quiet", lambda plan: plan.model_copy(update={"quiet": Quiet(start=start, hours=hours)}))


def test_what_rang_is_mailed_once(house, rings):
    rings(NOON)
    assert tell(NOON + dt.timedelta(hours=1)) == 1
    assert tell(NOON + dt.timedelta(hours=1)) == 0
    (letter,) = mail.outbox
    assert letter.to == ["grower@example.org"]
    assert letter.subject == "Berry tent: Humidity above 75 % for 10 min"
    assert "since 28 Nov 12:00, over since 28 Nov 13:01" in letter.body
    assert "no smoke alarm" in letter.body


def test_in_quiet_hours_mail_waits_and_then_says_all(house, rings):
    quiet(house)
    night = NOON.replace(hour=23)
    rings(night)
    rings(night + dt.timedelta(hours=3))
    assert tell(night + dt.timedelta(hours=1)) == 0
    assert tell(night + dt.timedelta(hours=8)) == 1
    assert mail.outbox[0].subject.endswith(", and 1 other")
    assert mail.outbox[0].body.count("Humidity above") == 2


def test_what_may_ring_in_quiet_hours_does(house, rings):
    quiet(house)
    (rule,) = plan_of(house).space("berry-tent").alerts
    change = Change(collection="alerts", part_id=rule.id, values={"in_quiet": True})
    actions.change_space(house, "berry-tent", [change], "Loud")
    night = NOON.replace(hour=23)
    rings(night)
    assert tell(night + dt.timedelta(hours=1)) == 1


def test_what_was_seen_or_is_old_or_has_no_address_is_not_mailed(house, grower, rings):
    rings(NOON)
    AlertEvent.objects.update(seen=NOON)
    assert tell(NOON + dt.timedelta(hours=1)) == 0
    AlertEvent.objects.update(seen=None)
    assert tell(NOON + dt.timedelta(days=2)) == 0
    Preference.objects.update(mail="")
    assert tell(NOON + dt.timedelta(hours=1)) == 0
    assert mail.outbox == []


def test_a_letter_that_does_not_leave_is_tried_again(house, rings, settings, caplog):
    rings(NOON)
    settings.EMAIL_BACKEND = "tests.web.log.test_telling.Refusing"
    assert tell(NOON + dt.timedelta(hours=1)) == 0
    assert AlertEvent.objects.get().told is None
    settings.EMAIL_BACKEND = "django.core.mail.backends.locmem.EmailBackend"
    assert tell(NOON + dt.timedelta(hours=1)) == 1


class Refusing:
    """A mail server that takes nothing."""

    def __init__(self, **more):
        pass

    def send_messages(self, messages):
        raise ConnectionRefusedError("no")


def test_the_demo_writes_letters_as_files_and_shows_them(mine, house, rings, settings, tmp_path):
    settings.MAILS, settings.EMAIL_FILE_PATH = "demo", tmp_path / "mail"
    settings.EMAIL_BACKEND = "canopy_web.logbook.mailbox.EmlBackend"
    rings(NOON)
    assert tell(NOON + dt.timedelta(hours=1)) == 1
    (path,) = (tmp_path / "mail").glob("*.eml")
    letter = message_from_bytes(path.read_bytes(), policy=policy.default)
    assert letter["To"] == "grower@example.org"
    page = mine.get("/mail/").text
    assert "Humidity above 75 %" in page
    Preference.objects.update(mail="other@example.org")
    assert "Nothing was mailed yet" in mine.get("/mail/").text
    settings.MAILS = "smtp"
    assert mine.get("/mail/").status_code == 404


def test_the_address_is_typed_on_the_page_account(mine, grower):
    assert "valid email" in mine.post("/account/", {"what": "mail", "mail": "no address"}).text
    assert mine.post("/account/", {"what": "mail", "mail": "new@example.org"}).status_code == 302
    assert Preference.objects.get(user=grower).mail == "new@example.org"
    mine.post("/account/", {"what": "zone", "time_zone": "Europe/Lisbon"})
    assert Preference.objects.get(user=grower).mail == "new@example.org"


def test_alerts_stand_in_the_calendar_and_are_quiet_in_quiet_hours(house, rings):
    quiet(house)
    now = dt.datetime.now(dt.UTC).replace(minute=0, second=0, microsecond=0)
    day, night = (now - dt.timedelta(days=2)).replace(hour=12), (now - dt.timedelta(days=2)).replace(hour=23)
    rings(day)
    rings(night)
    row = GrowPlan.objects.select_related("head").get(pk=house.pk)
    book = Calendar.from_ical(calendar_of(row))
    found = [
        event for event in book.walk("VEVENT") if "ALERTS" in str(event["uid"]).upper() or "alert." in event["uid"]
    ]
    assert [str(event["summary"]) for event in found] == ["Berry tent: Humidity above 75 % for 10 min"] * 2
    assert [len(event.walk("VALARM")) for event in found] == [1, 0]
    assert found[0]["dtstart"].dt == day + dt.timedelta(minutes=10)
    assert found[0]["dtend"].dt == day + dt.timedelta(minutes=61)


def test_limits_are_read_and_typed_in_the_persons_units(mine, house, log):
    Preference.objects.update(units="us")
    sensor = sensor_for(house, "berry-tent", "air_c", "Air")
    now = int(dt.datetime.now(dt.UTC).timestamp())
    keep_readings([(sensor.pk, now - 60 * k, 31.0) for k in range(60)])
    page = post(
        mine, f"{log}alerts/add/?tab=alerts", **{"alert-figure": "air_c", "alert-side": "most", "alert-value": "86"}
    )
    (rule,) = plan_of(house).space("berry-tent").alerts
    assert rule.value == pytest.approx(30.0)
    assert "Air temperature above 86 °F" in page
    assert "worst 88 °F" in page
    page = post(mine, f"{log}alerts/{rule.id}/?tab=alerts", **{f"alert-{rule.id}-value": "95 F"})
    (rule,) = plan_of(house).space("berry-tent").alerts
    assert rule.value == pytest.approx(35.0)
    page = post(mine, f"{log}alerts/{rule.id}/?tab=alerts", **{f"alert-{rule.id}-value": "warm"})
    assert "warm" in page
    assert plan_of(house).space("berry-tent").alerts == (rule,)


def test_a_trap_that_fills_rings_until_the_next_count(mine, house, grower, log):
    page = post(
        mine, f"{log}alerts/add/?tab=alerts", **{"alert-figure": "trap_rise", "alert-side": "most", "alert-value": "1"}
    )
    assert "More on each trap since the count before above" in page
    now = dt.datetime.now(dt.UTC)

    def counted(days, count):
        data = {"what": "thrips", "count": count, "on": "trap", "looked_at": 2}
        at = now - dt.timedelta(days=days)
        entry = Entry(key=f"trap-{days:04}", space_id="berry-tent", kind="pests", at=at, data=data)
        entries.write(house, entry, grower)
        return watch_plan(house)

    assert counted(9, 2) == 0
    assert counted(5, 3) == 0
    assert counted(1, 9) == 1
    event = AlertEvent.objects.get()
    assert (event.worst, event.end, event.sensor) == (3.0, None, None)
    assert counted(0, 8) == 0
    assert AlertEvent.objects.get().end is not None
    assert "would have rung once" in mine.get(f"{log}?tab=alerts").text


def test_batteries_silence_and_traps_are_proposed_where_they_are_known(mine, house, grower, log):
    now = int(dt.datetime.now(dt.UTC).timestamp())
    at = np.arange(now - 3 * 86400, now, 300)
    for quantity, value in (("air_c", 22.0), ("battery_pct", 80.0)):
        sensor = sensor_for(house, "berry-tent", quantity, quantity)
        keep_readings([(sensor.pk, int(second), value) for second in at])
    page = mine.get(f"{log}?tab=alerts").text
    assert "Battery below 20 %" in page
    assert "Air temperature: nothing read for 30 min" in page
    assert "Traps fill" not in page.partition("Worth watching")[2].partition("</ul>")[0]
    data = {"what": "gnats", "count": 1, "on": "trap", "looked_at": 1}
    entry = Entry(key="trap-0001", space_id="berry-tent", kind="pests", at=NOON, data=data)
    entries.write(house, entry, grower)
    assert "Traps fill" in mine.get(f"{log}?tab=alerts").text.partition("Worth watching")[2].partition("</ul>")[0]
    post(mine, f"{log}alerts/take/?tab=alerts", figure="air_c", most="", when="always", silent="yes")
    (rule,) = plan_of(house).space("berry-tent").alerts
    assert (rule.silent, rule.for_min) == (True, 30)


def test_the_worker_watches_all_and_one_that_cannot_be_read_holds_up_no_other(house, grower, demo_plan, rings, caplog):
    other = actions.create_plan(grower, demo_plan)
    sensor_for(other, "berry-tent", "air_c", "x")
    other.states.update(document=b"no plan")
    sensor = sensor_for(house, "berry-tent", "rh_pct", "Damp")
    begin = int(NOON.timestamp())
    keep_readings([(sensor.pk, begin + 60 * k, 90.0) for k in range(30)])
    assert watch_all(begin + 1800) == 1
    assert f"watching {other.pk}" in caplog.text
