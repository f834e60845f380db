"""Entries of the log: written once, struck and kept, told where they cannot be, taken along."""

import datetime as dt
import json

import pytest

from canopy_web.logbook.models import LogEntry
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from tests.web.log.conftest import HTMX, plan_of, post

pytestmark = pytest.mark.django_db


# What is written down


def test_an_entry_is_kept_with_its_hour_its_plants_and_the_plan_as_it_stands(mine, house, log):
    page = post(
        mine,
        f"{log}write/water/",
        **{"log-water-litres": "400 ml", "log-water-plants": "1-3, 5", "log-water-at": "2026-11-20T08:30"},
    )
    entry = LogEntry.objects.get()
    assert entry.data == {"litres": 0.4}
    assert len(entry.plants) == 4
    assert entry.state_id == house.head_id
    assert entry.at.strftime("%Y-%m-%d %H:%M") == "2026-11-20 08:30"
    assert "Written down: Water" in page
    assert "plants 1, 2, 3, 5" in page
    # The next one proposes what was given the last time.
    assert 'value="0.4 L"' in mine.get(log).content.decode() or 'value="400 mL"' in mine.get(log).content.decode()


def test_the_same_entry_sent_twice_is_there_once(mine, log):
    for _ in range(2):
        post(mine, f"{log}write/note/", **{"log-note-note": "thrips on 3", "log-note-entry_key": "a" * 32})
    assert LogEntry.objects.count() == 1
    post(mine, f"{log}write/note/", **{"log-note-note": "another", "log-note-entry_key": "b" * 32})
    assert LogEntry.objects.count() == 2


def test_undo_of_the_plan_touches_no_entry_and_a_struck_one_is_kept(mine, house, log):
    mine.post(f"{log.replace('/log/', '/light/')}part/fixtures/lamp-1/move/", {"z_m": "1.1"}, headers=HTMX)
    post(mine, f"{log}write/harvest/", **{"log-harvest-weight_kg": "250 g", "log-harvest-quality": "4"})
    row = GrowPlan.objects.select_related("head").get(pk=house.pk)
    assert actions.undo(row)
    entry = LogEntry.objects.get()
    assert entry.data == {"weight_kg": 0.25, "quality": 4}
    page = post(mine, f"{log}entry/{entry.key}/", struck="yes")
    assert "250 g" in page
    assert LogEntry.objects.get().struck
    assert "let it count" in page
    post(mine, f"{log}entry/{entry.key}/", struck="no")
    assert not LogEntry.objects.get().struck


@pytest.mark.parametrize(
    ("kind", "data", "words"),
    [
        ("water", {"litres": "much"}, "aria-invalid"),
        ("water", {"litres": "1 L", "plants": "99"}, "have the numbers 1 to 11"),
        ("water", {"litres": "1 L", "plants": "one"}, "numbers of plants"),
        ("water", {"litres": "1 L", "at": "yesterday"}, "type day and hour"),
        ("reservoir", {}, "at least one figure"),
        ("harvest", {}, "at least one figure"),
        ("pests", {"what": "thrips"}, "aria-invalid"),
    ],
)
def test_a_wrong_entry_is_told_keeps_what_was_typed_and_stores_nothing(mine, log, kind, data, words):
    page = post(mine, f"{log}write/{kind}/", **{f"log-{kind}-{key}": value for key, value in data.items()})
    assert words in page
    assert not LogEntry.objects.exists()
    for value in data.values():
        assert value in page


def test_a_harvest_is_read_in_ounces_by_who_reads_so(mine, log):
    mine.post("/account/preferences/", {"units": "us", "next": "/"})
    page = post(mine, f"{log}write/harvest/", **{"log-harvest-weight_kg": "5 oz"})
    assert "5.0 oz" in page
    assert "2.00 lb" in post(mine, f"{log}write/harvest/", **{"log-harvest-weight_kg": "2 lb"})


def test_what_waited_on_a_phone_is_of_when_it_was_said(mine, log):
    post(mine, f"{log}write/work/", at="2026-11-20T10:00:00+00:00", **{"log-work-act": "prune"})
    assert LogEntry.objects.get().at == dt.datetime(2026, 11, 20, 10, tzinfo=dt.UTC)


def test_another_person_s_log_is_closed(client, other, log):
    client.force_login(other)
    assert client.get(log).status_code == 404
    assert client.post(f"{log}write/note/", {"log-note-note": "x"}).status_code == 404


def test_the_log_travels_in_the_plan_file_and_is_taken_in_once(mine, grower, house, log):
    from canopy.logs.files import dumps_with_facts, loads_with_facts
    from canopy_web.logbook import actions as facts
    from canopy_web.logbook.querysets import facts_of

    post(mine, f"{log}write/water/", **{"log-water-litres": "2 L", "log-water-plants": "1, 2"})
    post(
        mine,
        f"{log}write/pests/",
        **{"log-pests-what": "thrips", "log-pests-count": "0", "log-pests-looked_at": "10", "log-pests-on": "leaves"},
    )
    mine.post(f"{log}entry/{LogEntry.objects.first().key}/", {"struck": "yes"}, headers=HTMX)
    ids = [space.id for space in plan_of(house).spaces]
    text = dumps_with_facts(plan_of(house), facts_of(house, ids))
    again = facts.import_file(grower, text.encode())
    assert facts_of(again, ids) == facts_of(house, ids)
    assert len(loads_with_facts(text)[1].entries) == 2
    assert LogEntry.objects.filter(plan=again, struck=True).count() == 1


def test_entries_of_a_file_that_cannot_be_are_refused_with_their_place(house):
    from canopy.errors import PlanError
    from canopy.logs.facts import Facts
    from canopy.logs.files import dumps_with_facts, loads_with_facts

    entry = {"key": "a" * 12, "space_id": "berry-tent", "kind": "water", "at": "2026-11-20T08:00:00Z", "data": {}}
    data = json.loads(dumps_with_facts(plan_of(house), Facts()))
    data["facts"] = {"entries": [entry, {**entry, "data": {"litres": 1}}]}
    with pytest.raises(PlanError) as refused:
        loads_with_facts(json.dumps(data))
    paths = {problem.path for problem in refused.value.problems}
    assert paths == {"facts.entries", "facts.entries[0].data"}


def test_the_archive_holds_readings_and_entries_as_tables(mine, house, log, week):
    import io
    import zipfile

    post(mine, f"{log}write/note/", **{"log-note-note": "first, flowers"})
    answer = mine.get("/take-away/")
    with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:
        (readings,) = [name for name in archive.namelist() if name.startswith("readings/")]
        lines = archive.read(readings).decode().splitlines()
        (entries,) = [name for name in archive.namelist() if name.startswith("log/")]
        assert '"first, flowers"' in archive.read(entries).decode()
    assert len(lines) == 1 + 2 * 7 * 288
    assert lines[1] == "2026-11-20T00:00:00Z,berry-tent,space,air_c,air_c,°C,24"


def test_an_entry_is_corrected_in_its_place(mine, house, log):
    from canopy_web.logbook.models import LogEntry

    sent = {"log-harvest-weight_kg": "850 g", "log-harvest-entry_key": "first-key", "log-harvest-plants": "1-3"}
    post(mine, f"{log}write/harvest/?tab=write", **sent, **{"log-harvest-note": "ripe"})
    page = mine.get(f"{log}?tab=write&correct=first-key").text
    assert "Keep in its place" in page
    assert 'value="ripe"' in page
    assert 'value="1, 2, 3"' in page
    assert 'name="log-harvest-corrects" value="first-key"' in page
    again = sent | {"log-harvest-weight_kg": "85 g", "log-harvest-entry_key": "second-key"}
    page = post(
        mine, f"{log}write/harvest/?tab=write&correct=first-key", **again, **{"log-harvest-corrects": "first-key"}
    )
    first, second = (LogEntry.objects.get(plan=house, key=key) for key in ("first-key", "second-key"))
    assert (first.struck, second.struck, second.corrects) == (True, False, "first-key")
    assert second.data["weight_kg"] == 0.085
    assert "· corrected" in page
    # What was struck is corrected no more.
    assert "Keep in its place" not in page
