"""An account taken away and taken in again is the same; what is damaged is refused whole."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
import zipfile
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase
from PIL import Image

from canopy.errors import PlanError
from canopy.logs.entries import Entry
from canopy.logs.facts import CareMark
from canopy.logs.pointed import Pointer
from canopy.plan import loads
from canopy.plan.changes import Change
from canopy_web.accounts.models import Preference
from canopy_web.household.archive.packing import pack
from canopy_web.household.archive.unpacking import INCOMING, sweep_incoming, unpack
from canopy_web.library.actions import keep_crop
from canopy_web.logbook import actions as facts
from canopy_web.logbook import entries
from canopy_web.logbook.models import AlertEvent, LogEntry, Reading, Sensor, Source, Switching
from canopy_web.logbook.push import open_source
from canopy_web.logbook.readings import keep_readings, sensor_for
from canopy_web.logbook.sources import SourceShape, open_at
from canopy_web.photos.models import SpacePhoto
from canopy_web.planning import actions
from canopy_web.planning.actions import DEMO_FILE
from canopy_web.planning.models import GrowPlan

SPACE = "berry-tent"


def packed(user: Any) -> io.BytesIO:
    out = io.BytesIO()
    pack(user, out)
    out.seek(0)
    return out


def content(file: io.BytesIO) -> dict[str, bytes]:
    """All that an archive holds but the account's name, which is its own."""
    with zipfile.ZipFile(file) as archive:
        found = {name: archive.read(name) for name in archive.namelist()}
    account = json.loads(found["account.json"])
    del account["name"]
    return {**found, "account.json": json.dumps(account, sort_keys=True).encode()}


def jpeg(colour: int) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (60, 40), (colour, 90, 60)).save(out, "JPEG")
    return out.getvalue()


_NOW = dt.datetime(2026, 11, 28, 12, tzinfo=dt.UTC)
_WORDS = st.text(st.characters(codec="utf-8", exclude_characters="\x00", exclude_categories=("Cs",)), max_size=40)
_ACTS = st.lists(
    st.one_of(
        st.tuples(st.just("edit"), st.floats(0.3, 1.0)),
        st.tuples(st.just("undo"), st.none()),
        st.tuples(st.just("redo"), st.none()),
        st.tuples(st.just("note"), _WORDS.filter(str.strip)),
        st.tuples(st.just("strike"), st.none()),
        st.tuples(st.just("read"), st.lists(st.floats(-20, 45), min_size=1, max_size=5)),
        st.tuples(st.just("photo"), st.integers(0, 255)),
        st.tuples(st.just("care"), st.integers(0, 40)),
        st.tuples(st.just("tick"), _WORDS),
        st.tuples(st.just("survey"), st.floats(1, 900)),
        st.tuples(st.just("variant"), _WORDS),
        st.tuples(st.just("source"), st.sampled_from(["push", "pull", "mqtt"])),
        st.tuples(st.just("rang"), st.booleans()),
    ),
    max_size=12,
)


def do(row: GrowPlan, user: Any, number: int, act: str, with_: Any) -> None:
    """Let something happen to a household."""
    if act == "edit":
        change = Change(collection="fixtures", part_id="lamp-1", values={"dim": with_})
        actions.change_space(row, SPACE, [change], "Dimmed")
    elif act in ("undo", "redo"):
        getattr(actions, act)(row)
    elif act == "note":
        at = _NOW - dt.timedelta(hours=number)
        entry = Entry(key=f"key-{number:06d}", space_id=SPACE, kind="note", at=at, note=with_)
        entries.write(row, entry, user)
    elif act == "strike":
        for entry in LogEntry.objects.filter(plan=row)[:1]:
            entries.strike(row, entry.key, struck=True)
    elif act == "read":
        sensor = sensor_for(row, SPACE, "air_c", f"probe {number % 2}")
        keep_readings([(sensor.pk, 1_790_000_000 + 60 * k + number, value) for k, value in enumerate(with_)])
    elif act == "photo":
        SpacePhoto.objects.create(
            plan=row, space_id=SPACE, image=jpeg(with_), small=b"s", width=60, height=40, day=_NOW.date()
        )
    elif act == "care":
        day = _NOW.date() + dt.timedelta(days=with_)
        facts.mark_care(row, CareMark(family=f"{SPACE}.water", due=day, what="done", on=day), "Water", user)
    elif act == "tick":
        facts.tick(row, "have", f"{SPACE}.line-{number}", user, on=True, note=with_)
    elif act == "survey":
        facts.take_readings(row, SPACE, _NOW.date(), [(0.1, 0.2, 0.3, with_)])
    elif act == "variant":
        actions.keep_variant(row, SPACE, f"{with_ or 'kept'} {number}", 12.5)
    elif act == "source" and with_ == "push":
        open_source(row, SPACE, "pusher")
    elif act == "source":
        shape = SourceShape(values=(Pointer(path="$.t", quantity="air_c", name=f"by {with_}"),))
        open_at(row, SPACE, with_, "reached", f"{'mqtt' if with_ == 'mqtt' else 'http'}://10.0.0.2/x", shape)
    elif act == "rang":
        sensor = sensor_for(row, SPACE, "rh_pct", "damp")
        AlertEvent.objects.create(
            plan=row,
            space_id=SPACE,
            rule_id="alert-1",
            stamp=f"s{number}",
            sensor=sensor,
            begin=number,
            rang=number + 60,
            end=number + 90 if with_ else None,
            worst=91,
            words="Humidity above 80 %",
            seen_by=user if with_ else None,
        )


class Same(TestCase):
    """What is packed out of an account that took an archive in is what the archive held."""

    @settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
    @given(acts=_ACTS, units=st.sampled_from(["metric", "us"]), households=st.integers(1, 2))
    def test_an_archive_read_back_into_an_empty_account_gives_the_same(self, acts, units, households):
        users = get_user_model().objects
        users.all().delete()
        one, two = users.create_user("one"), users.create_user("two")
        Preference.objects.create(user=one, units=units, time_zone="Europe/Lisbon", mail="one@example.org")
        demo = loads(DEMO_FILE.read_bytes())
        small = demo.model_copy(update={"spaces": demo.spaces[:1]})
        rows = [actions.create_plan(one, small) for _ in range(households)]
        for number, (act, with_) in enumerate(acts):
            do(rows[number % households], one, number, act, with_)
        before = packed(one)
        held = content(before)
        # The first account goes, as where one moves to another server: its tokens come along.
        one.delete()
        unpack(two, before)
        assert content(packed(two)) == held


pytestmark = pytest.mark.django_db


@pytest.fixture
def lived(grower, demo_plan):
    """An account with something of everything, a crop of its own and a best result among it."""
    from canopy.library import crops

    row = actions.create_plan(grower, demo_plan)
    acts = (("edit", 0.5), ("undo", None), ("edit", 0.7), ("note", "Ünicode, “quotes”"), ("read", [20.5, 21.0]))
    more = (("photo", 200), ("care", 2), ("tick", "bought"), ("survey", 321.0), ("source", "pull"), ("rang", True))
    for number, (act, with_) in enumerate((*acts, *more, ("source", "push"), ("variant", "as it was"))):
        do(row, grower, number, act, with_)
    source = Source.objects.filter(kind="pull").get()
    Source.objects.filter(pk=source.pk).update(shape={**source.shape, "password": "hush"})
    Switching.objects.create(plan=row, space_id=SPACE, source=source, name="plug", feeds="fan", on=False, by=grower)
    keep_crop(grower, crops()["chervil"].model_copy(update={"id": "own-chervil", "name": "My chervil"}))
    grower.trainer_results.create(scenario="first-week", score=71.5, moves=[["fan", 2]], times=3)
    return row


@pytest.fixture
def other():
    return get_user_model().objects.create_user("newcomer")


def test_history_facts_and_photographs_come_back_with_their_hours(grower, other, lived):
    held = packed(grower)
    done = unpack(other, held)
    assert (done.households, done.readings, done.photographs) == (1, 2, 1)
    row = GrowPlan.objects.get(owner=other)
    assert [state.label for state in row.states.all()] == [state.label for state in lived.states.all()]
    assert list(row.states.values_list("created")) == list(lived.states.values_list("created"))
    actions.undo(row)
    actions.undo(lived)
    fresh, old = (GrowPlan.objects.select_related("head").get(pk=pk) for pk in (row.pk, lived.pk))
    assert bytes(fresh.head.document) == bytes(old.head.document)
    entry = LogEntry.objects.get(plan=row)
    assert (entry.note, entry.by, entry.state.plan_id) == ("Ünicode, “quotes”", other, row.pk)
    assert SpacePhoto.objects.get(plan=row).image == SpacePhoto.objects.get(plan=lived).image
    assert AlertEvent.objects.get(plan=row).sensor.plan_id == row.pk
    assert Switching.objects.get(plan=row).source.plan_id == row.pk
    assert other.trainer_results.get().score == 71.5
    assert not get_user_model().objects.filter(username__startswith=INCOMING).exists()


def test_secrets_stay_behind(grower, other, lived):
    held = packed(grower)
    with zipfile.ZipFile(held) as archive:
        assert not any(b"hush" in archive.read(name) for name in archive.namelist())
    unpack(other, held)
    # On the same server a token still leads to where it led.
    tokens = Source.objects.filter(kind="push").order_by("pk").values_list("token_digest", flat=True)
    assert tokens[0] is not None
    assert tokens[1] is None


def test_what_is_there_already_stays(mine, grower, lived):
    held = packed(grower)
    held.name = "mine.zip"
    page = mine.post("/take-in/", {"archive": held}).text
    assert "Taken in: 1 household with" in page
    assert GrowPlan.objects.filter(owner=grower).count() == 2
    assert Reading.objects.count() == 4
    assert grower.own_crops.count() == 1


def spoiled(held: io.BytesIO, name: str, make) -> io.BytesIO:
    """The archive with one of its files changed; left out where that gives None."""
    out = io.BytesIO()
    with zipfile.ZipFile(held) as old, zipfile.ZipFile(out, "w") as new:
        for item in old.namelist():
            data = make(old.read(item)) if item.startswith(name) else old.read(item)
            if data is not None:
                new.writestr(item, data)
    out.seek(0)
    return out


def _json(change):
    def make(data: bytes) -> bytes:
        found = json.loads(data)
        change(found)
        return json.dumps(found).encode()

    return make


def _set(table, **values):
    return _json(lambda found: found[table][0].update(values))


SPOILED = (
    ("history/", lambda data: data.replace(b'"dim"', b'"dam"'), "line"),
    ("history/", lambda data: data[: len(data) // 2], "damaged"),
    ("history/", lambda data: data.replace(b'"head": 2', b'"head": 99'), "present state"),
    ("facts/", _set("entries", at="yesterday"), "no time with its zone"),
    ("facts/", _set("entries", kind="gossip"), "entries"),
    ("facts/", _set("entries", state=99), "points at nothing"),
    ("facts/", _set("sensors", quantity="mood"), "mood"),
    ("facts/", _set("sensors", name=None), "says nothing of name"),
    ("facts/", _set("sources", shape={"values": []}), "sources"),
    ("facts/", lambda data: None, "missing"),
    ("readings/", lambda data: data + b"2026-11-28T00:00:00Z,berry-tent,space,nobody,air_c,C,20\r\n", "no reading"),
    ("readings/", lambda data: data + b"half a line", "no reading"),
    ("photographs/", lambda data: b"no picture", "not a picture"),
    ("crops.json", lambda data: b'[{"id": "x"}]', "crops.json"),
    ("account.json", _json(lambda found: found.update(format=1)), "another version"),
    ("account.json", lambda data: None, "no archive of Mild Canopy"),
)


@pytest.mark.parametrize(("name", "make", "words"), SPOILED)
def test_what_is_damaged_is_refused_and_nothing_is_kept(grower, other, lived, name, make, words):
    held = packed(grower)
    before = (GrowPlan.objects.count(), Reading.objects.count(), Sensor.objects.count(), SpacePhoto.objects.count())
    with pytest.raises(PlanError, match=words):
        unpack(other, spoiled(held, name, make))
    assert before == (
        GrowPlan.objects.count(),
        Reading.objects.count(),
        Sensor.objects.count(),
        SpacePhoto.objects.count(),
    )
    assert not get_user_model().objects.filter(username__startswith=INCOMING).exists()


def test_a_file_that_is_none_is_told_at_its_field(mine):
    page = mine.post("/take-in/", {"archive": io.BytesIO(b"no zip")}).text
    assert "Nothing was taken in: this is no archive" in page
    assert "Choose an archive first" in mine.post("/take-in/").text


def test_what_was_left_half_taken_in_is_swept_away(grower, demo_plan):
    old = get_user_model().objects.create_user(f"{INCOMING}left")
    get_user_model().objects.filter(pk=old.pk).update(date_joined=_NOW - dt.timedelta(days=200))
    actions.create_plan(old, demo_plan)
    sweep_incoming()
    assert not get_user_model().objects.filter(pk=old.pk).exists()
    assert not GrowPlan.objects.exists()


def test_readings_are_a_table_that_others_read_too(grower, lived):
    with zipfile.ZipFile(packed(grower)) as archive:
        name = next(item for item in archive.namelist() if item.startswith("readings/"))
        rows = list(csv.DictReader(io.TextIOWrapper(archive.open(name), "utf-8")))
    assert [(row["quantity"], row["unit"], row["value"]) for row in rows] == [
        ("air_c", "°C", "20.5"),
        ("air_c", "°C", "21"),
    ]


def test_a_large_one_comes_in_pieces_and_is_taken_in_with_the_last(
    mine, grower, other, lived, settings, tmp_path, client
):
    settings.DATA = tmp_path
    held = packed(grower).getvalue()
    client.force_login(other)
    key, half = "0123456789abcdef", len(held) // 2

    def send(at, piece):
        data = {"upload": key, "name": "mine.zip", "at": at, "size": len(held), "piece": io.BytesIO(piece)}
        return client.post("/take-in/piece/", data).text

    assert send(0, held[:half]) == str(half)
    # What does not follow changes nothing; the sender is told where to go on.
    assert send(0, held[:half]) == str(half)
    assert not GrowPlan.objects.filter(owner=other).exists()
    assert "Taken in: 1 household with" in send(half, held[half:])
    assert GrowPlan.objects.filter(owner=other).count() == 1
    assert not list((tmp_path / "imports").iterdir())
    key = "fedcba9876543210"
    broken = bytes(len(held))
    assert send(0, broken[:half]) == str(half)
    assert "Nothing was taken in: this is no archive" in send(half, broken[half:])
    assert not list((tmp_path / "imports").iterdir())
    key = "../../elsewhere"
    assert "a name of its own" in send(0, held[:half])
