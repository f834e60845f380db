"""The Review station: what the log teaches, what the plan follows of it, plan against log, probes that are checked."""

import datetime as dt
import time

import numpy as np
import pytest

from canopy.standins.neighbours import neighbour
from canopy_web.logbook.entries import entries_of
from canopy_web.logbook.models import GuidedTest, ProbeCheck, Sensor
from canopy_web.logbook.readings import keep_readings, sensor_for
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture(scope="module")
def lived(demo_plan):
    today = dt.datetime.now(dt.UTC).date()
    plan = demo_plan.model_copy(update={"date": today - dt.timedelta(days=5)})
    return neighbour(plan, "berry-tent", 520, "pulses", days=5)


@pytest.fixture
def house(grower, lived):
    site = lived.plan.site.model_copy(update={"time_zone": "UTC"})
    return actions.create_plan(grower, lived.plan.model_copy(update={"site": site}))


@pytest.fixture
def measured(house, lived):
    for item in lived.series:
        name = {"fan": "Exhaust fan's plug", "lamps": "Lamps' plug"}.get(item.feeds, item.name)
        sensor = sensor_for(house, "berry-tent", item.quantity, name)
        Sensor.objects.filter(pk=sensor.pk).update(place=item.place)
        keep_readings([(sensor.pk, int(at), float(value)) for at, value in zip(item.at, item.value, strict=True)])
    return house


@pytest.fixture
def review(house):
    return f"/plans/{house.pk}/spaces/berry-tent/review/"


def plan_of(house):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=house.pk))


def learnt(house):
    return plan_of(house).space("berry-tent").learnt


def post(client, url, **data):
    return client.post(url, data, headers=HTMX).content.decode()


def test_without_readings_it_says_what_to_hang(mine, review):
    page = mine.get(f"{review}?tab=learn").content.decode()
    assert "Nothing is measured here yet" in page
    assert "one in the room" in page
    assert "Nothing is measured here yet" in mine.get(f"{review}?tab=against").content.decode()


def test_what_the_fan_moves_is_found_followed_set_aside_and_undone(mine, measured, lived, review):
    words = mine.get(f"{review}found/").content.decode()
    assert "Exhaust: air moved" in words
    assert "the fan stood for" in words
    key = "airflow:exhaust:log"
    shown = mine.get(f"{review}take/?key={key}").content.decode()
    assert "Follow it: exhaust: air moved" in shown
    assert "What it moves" in shown
    assert not learnt(measured)
    page = post(mine, f"{review}take/?tab=learn", key=key)
    (item,) = learnt(measured)
    assert item.factor == pytest.approx(lived.truth.moves, rel=0.15)
    assert item.basis == "log"
    assert "What the plan follows" in page
    assert "followed" in mine.get(f"{review}found/").content.decode()
    flow = mine.get(f"/plans/{measured.pk}/spaces/berry-tent/air/").content.decode()
    assert flow
    page = post(mine, f"{review}learnt/{item.id}/aside/?tab=learn")
    assert "set aside: counts for nothing" in page
    assert not learnt(measured)[0].applied
    post(mine, f"{review}learnt/{item.id}/aside/?tab=learn")
    assert learnt(measured)[0].applied
    # Taken anew there is still one of it.
    post(mine, f"{review}take/?tab=learn", key=key)
    assert len(learnt(measured)) == 1
    post(mine, f"{review}learnt/{learnt(measured)[0].id}/forget/?tab=learn")
    assert not learnt(measured)
    actions.undo(GrowPlan.objects.get(pk=measured.pk))
    assert len(learnt(measured)) == 1


def test_what_cannot_be_known_is_said(mine, measured, review):
    Sensor.objects.filter(plan=measured, place="room").update(struck=True)
    words = mine.get(f"{review}found/").content.decode()
    assert "nobody measures the air of the room" in words
    assert "follow it" not in words
    assert "does not say that any more" in mine.get(f"{review}take/?key=airflow:exhaust:log").content.decode()


def test_days_stand_beside_the_plan(mine, measured, review):
    words = mine.get(f"{review}days/").content.decode()
    assert "Humidity, lit" in words
    assert words.count("<tr>") >= 5
    assert "too few days" in words


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"kind": "salt", "showed": "78.5", "jar_c": "21"}, ""),
        ({"kind": "salt", "showed": "78.5", "jar_c": ""}, "say how warm the jar is"),
        ({"kind": "ice", "showed": "1.2"}, "the ice test is for a thermometer"),
        ({"kind": "salt", "showed": "20", "jar_c": "21"}, "too far off for a probe"),
        ({"kind": "beside", "showed": "60"}, "say what the one you trust shows"),
    ],
)
def test_a_hygrometer_is_held_over_salt(mine, measured, review, data, words):
    sensor = Sensor.objects.get(plan=measured, quantity="rh_pct", place="space")
    sent = {f"check-{key}": value for key, value in data.items()}
    page = post(mine, f"{review}check/?tab=against", **{"check-sensor": str(sensor.pk), **sent})
    if words:
        assert words in page.lower() or words in page
        assert not ProbeCheck.objects.exists()
        return
    row = ProbeCheck.objects.get()
    assert row.true == pytest.approx(75.44, abs=0.02)
    assert "showed 78.5" in page
    post(mine, f"{review}check/?tab=against", strike=str(row.pk))
    assert ProbeCheck.objects.get().struck


def test_a_test_is_walked_through(mine, house, review):
    """An empty tent with a heater of 250 W: watched from its readings until it has enough."""
    page = post(
        mine, f"{review}test/begin/?tab=learn", **{"test-kind": "heater", "test-watts": "250", "test-emptied": "on"}
    )
    assert "waits for readings" in page
    row = GuidedTest.objects.get()
    now = int(time.time())
    begun = now - 4 * 3600
    GuidedTest.objects.filter(pk=row.pk).update(begun=begun)
    air, room = (sensor_for(house, "berry-tent", "air_c", name) for name in ("Air", "Room"))
    Sensor.objects.filter(pk=room.pk).update(place="room")
    at = np.arange(begun, now, 60)
    hours = (at - begun) / 3600
    warm = np.where(hours < 2.5, 20 + 9.0 * (1 - np.exp(-hours / 0.25)), 0.0)
    last = 20 + 9.0
    fan = hours >= 2.5
    warm[fan] = 20 + 4.0 + (last - 24.0) * np.exp(-(hours[fan] - 2.5) / 0.1)
    early = hours < 2.4
    keep_readings([(air.pk, int(s), float(v)) for s, v in zip(at[early], warm[early], strict=True)])
    keep_readings([(room.pk, int(s), 20.0) for s in at])
    page = mine.get(f"{review}test/{row.pk}/").content.decode()
    assert "Switch the fan on now" in page
    assert "9.0 K over the room" in page
    post(mine, f"{review}test/{row.pk}/fan/?tab=learn")
    GuidedTest.objects.filter(pk=row.pk).update(fan_on=begun + 9000)
    keep_readings([(air.pk, int(s), float(v)) for s, v in zip(at[~early], warm[~early], strict=True)])
    assert "Enough" in mine.get(f"{review}test/{row.pk}/").content.decode()
    page = post(mine, f"{review}test/{row.pk}/end/?tab=learn")
    assert "what it says" in page
    shown = mine.get(f"{review}test/{row.pk}/take/").content.decode()
    assert "Exhaust: air moved" in shown
    post(mine, f"{review}test/{row.pk}/take/?tab=learn")
    # 250 W: 27.8 W/K off; 62.5 W/K on, so 34.7 W/K by the fan: 104 m³/h.
    found = {item.subject: item for item in learnt(house)}
    from canopy.review.quantity import told_of

    plan = plan_of(house)
    space = plan.space("berry-tent")
    from canopy.evaluate.space import evaluate_space

    told = told_of(plan, space, evaluate_space(plan, space, day=plan.date), "airflow", "exhaust")
    assert found["airflow"].factor * told.value == pytest.approx(104, rel=0.06)
    assert found["airflow"].basis == "heater"
    assert "walls" in found


def test_a_test_is_struck_and_only_one_runs(mine, house, review):
    for _ in range(2):
        post(mine, f"{review}test/begin/?tab=learn", **{"test-kind": "co2"})
    row = GuidedTest.objects.get()
    page = post(mine, f"{review}test/{row.pk}/end/?tab=learn", strike="yes")
    assert "Start" in page
    assert GuidedTest.objects.get().struck


def test_another_person_sees_and_changes_nothing(client, other, measured, review):
    client.force_login(other)
    for url in (review, f"{review}found/", f"{review}days/"):
        assert client.get(url).status_code == 404
    assert client.post(f"{review}take/", {"key": "airflow:exhaust:log"}).status_code == 404


def test_what_a_meter_feeds_is_known_by_its_name_or_as_somebody_said(house, demo_plan):
    from canopy_web.logbook.learnable import fed_by

    space = demo_plan.space("berry-tent")
    assert fed_by(Sensor(quantity="power_w", name="Exhaust socket"), space) == "fan"
    assert fed_by(Sensor(quantity="power_w", name="LED boards"), space) == "lamps"
    assert fed_by(Sensor(quantity="power_w", name="Fridge"), space) == ""
    assert fed_by(Sensor(quantity="power_w", name="Fan", feeds="none"), space) == ""
    assert fed_by(Sensor(quantity="power_w", name="Fridge", feeds="lamps"), space) == "lamps"
    assert fed_by(Sensor(quantity="air_c", name="Fan"), space) == ""


# What ails it


@pytest.fixture
def plain(grower, demo_plan):
    return actions.create_plan(grower, demo_plan)


@pytest.fixture
def ail(plain):
    return f"/plans/{plain.pk}/spaces/berry-tent/review/"


def test_what_one_sees_is_chosen_by_diagrams(mine, ail):
    page = mine.get(f"{ail}?tab=ail").content.decode()
    assert page.count('name="seen"') >= 40
    assert page.count('class="ail"') == page.count('name="seen"')
    assert "Tick what you see" in mine.get(f"{ail}ailing/").content.decode()


def test_causes_come_with_figures_and_the_next_check(mine, ail):
    words = mine.get(f"{ail}ailing/?seen=flies-soil").content.decode()
    assert "What it can be" in words
    assert "Fungus gnats" in words
    assert "Next:" in words
    later = mine.get(f"{ail}ailing/?seen=flies-soil&said-potato=yes&said-trap-flies=yes").content.decode()
    assert later.index("<b>Fungus gnats</b>") == later.index("<b>", later.index('class="ailment"'))
    assert 'name="said-potato" value="yes"' in later
    assert "days from egg to adult here" in later
    assert "black heads? Yes" in later
    strange = mine.get(f"{ail}ailing/?seen=nonsense&said-potato=perhaps").content.decode()
    assert "Tick what you see" in strange


def test_a_diagnosis_is_written_into_the_log(mine, plain, ail):
    from canopy_web.logbook.models import LogEntry

    page = post(mine, f"{ail}ailing/note/?tab=ail", note="Seen: holes. Possible: caterpillars.")
    assert "Written into the log" in page
    assert LogEntry.objects.get(plan=plain).note.startswith("Seen: holes")
    assert mine.post(f"{ail}ailing/note/", {"note": " "}).status_code == 404


def test_an_outbreak_is_followed_until_it_is_over(mine, plain, ail):
    page = post(mine, f"{ail}course/?tab=ail", pest="flower-thrips", helper="Neoseiulus cucumeris, a predatory mite")
    assert "Western flower thrips, followed since" in page
    assert "0 of 3 looks" in page
    assert "is followed here already" in post(mine, f"{ail}course/?tab=ail", pest="flower-thrips")
    due = mine.get(f"/plans/{plain.pk}/spaces/berry-tent/day/?tab=care").content.decode()
    assert "Western flower thrips" in due
    (item,) = plan_of(plain).space("berry-tent").courses
    page = post(mine, f"{ail}course/{item.id}/end/?tab=ail")
    assert plan_of(plain).space("berry-tent").courses[0].ended_on is not None
    assert "followed since" not in page
    assert mine.post(f"{ail}course/", {"pest": "unicorn"}).status_code == 404
    assert mine.post(f"{ail}course/", {"pest": "flower-thrips", "helper": "a cat"}).status_code == 404


# Harvest and money


def test_a_harvest_is_told_for_ground_light_power_and_cost(mine, plain, ail):
    planting = next(p.planting_id for p in plan_of(plain).space("berry-tent").plants if p.planting_id)
    post(
        mine,
        f"/plans/{plain.pk}/spaces/berry-tent/log/write/harvest/?tab=write",
        **{"log-harvest-weight_kg": "800 g", "log-harvest-entry_key": "harvest-0001"},
    )
    page = mine.get(f"{ail}?tab=harvest").content.decode()
    assert "For a mol of light" in page
    assert "in 1 harvest" in page
    page = post(
        mine,
        f"{ail}run/{planting}/?tab=harvest",
        **{f"run-{planting}-sown": "30", f"run-{planting}-spent": "8.5", f"run-{planting}-shop_price": "12"},
    )
    found = plan_of(plain).planting(planting)
    assert (found.sown, found.spent, found.shop_price) == (30, 8.5, 12)
    assert "of 30 stand" in page
    page = post(mine, f"{ail}run/{planting}/?tab=harvest", **{f"run-{planting}-spent": "lots"})
    assert "lots" in page
    assert plan_of(plain).planting(planting).spent == 8.5


# Runs compared


def test_two_runs_stand_side_by_side(mine, plain, ail):
    import re

    page = mine.get(f"{ail}?tab=runs").content.decode()
    keys = list(dict.fromkeys(re.findall(r'<option value="([a-z-]+:[a-z0-9-]+)"', page)))
    assert len(keys) >= 2
    shown = mine.get(f"{ail}runs/?one={keys[0]}&two={keys[1]}").content.decode()
    assert "For a mol of light" in shown
    assert "prove nothing" in shown
    assert "not the same" in mine.get(f"{ail}runs/?one={keys[0]}&two={keys[0]}").content.decode()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"groups": "A, B", "difference": "20", "scatter": "25"}, "26 plants of each"),
        ({"groups": "A, B", "difference": "1", "scatter": "25"}, "No household grows so many"),
        ({"groups": "A", "difference": "20"}, "two groups or more"),
        ({"groups": "A, B", "difference": "0"}, "See a difference of"),
    ],
)
def test_a_comparison_is_planned_ahead(mine, ail, data, words):
    shown = mine.get(f"{ail}trial/", {f"trial-{key}": value for key, value in data.items()}).content.decode()
    assert words in shown


def test_a_run_is_kept_on_one_page_and_teaches_the_next(mine, plain, ail):
    planting = next(p.planting_id for p in plan_of(plain).space("berry-tent").plants if p.planting_id)
    post(mine, f"{ail}run/{planting}/?tab=harvest", **{f"run-{planting}-sown": "400"})
    for number in range(5):
        at = dt.datetime.now(dt.UTC) - dt.timedelta(days=2 * number + 1)
        post(
            mine,
            f"/plans/{plain.pk}/spaces/berry-tent/log/write/water/?tab=write",
            **{
                "log-water-litres": "30",
                "log-water-at": f"{at:%Y-%m-%dT%H:%M}",
                "log-water-entry_key": f"water-000{number}",
            },
        )
    page = mine.get(f"{ail}?tab=harvest").content.decode()
    assert "Next time" in page
    assert "for 400 plants" in page
    sheet = mine.get(f"{ail}run/{planting}/report/").content.decode()
    for words in ("What came of it", "What it grew in", "What was done", "Water 5 times", "Next time"):
        assert words in sheet
    if "Reckon with" in page:
        post(mine, f"{ail}run/{planting}/next/water/?tab=harvest")
        assert plan_of(plain).space("berry-tent").feed.uptake_l_d > 5
    assert "does not say that" in post(mine, f"{ail}run/{planting}/next/yield/?tab=harvest")
    assert mine.get(f"{ail}run/nobody/report/").status_code == 404


def test_a_run_tells_what_was_done_while_it_stood_and_nobody_else_s_harvest(mine, plain, ail):
    plan = plan_of(plain)
    planting = next(p.planting_id for p in plan.space("berry-tent").plants if p.planting_id)
    begun = next(p for p in plan.plantings if p.id == planting).starts_on
    now = dt.datetime.now(dt.UTC)
    before = dt.datetime.combine(begun, dt.time(), dt.UTC) - dt.timedelta(days=2)
    for number, (kind, at, what) in enumerate(
        [
            ("water", now, {"litres": "3"}),
            ("water", before, {"litres": "3"}),
            ("harvest", now, {"weight_kg": "0.2"}),
        ]
    ):
        says = {
            f"log-{kind}-{key}": value
            for key, value in {**what, "at": f"{at:%Y-%m-%dT%H:%M}", "entry_key": f"about-000{number}"}.items()
        }
        post(mine, f"/plans/{plain.pk}/spaces/berry-tent/log/write/{kind}/?tab=write", **says)
    sheet = mine.get(f"{ail}run/{planting}/report/").content.decode()
    assert "Water 1 time" in sheet
    kept = entries_of(plain, ["berry-tent"])
    assert {entry.kind for entry in kept} >= {"water", "harvest"}
    assert "Harvest 1" not in sheet
