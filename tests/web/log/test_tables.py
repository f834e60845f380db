"""Tables of readings: settled, taken in piece by piece, sent in pieces, and refused."""

import datetime as dt
import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from canopy_web.logbook import imports, pieces
from canopy_web.logbook.models import CsvShape, ImportJob, Reading, Sensor
from tests.web.log.conftest import HTMX, post

pytestmark = pytest.mark.django_db


def _table(text, name="week.csv"):
    return SimpleUploadedFile(name, text.encode() if isinstance(text, str) else text, "text/csv")


# Tables


def _csv(rows=400, start="2026-11-20T00:00:00"):
    begin = dt.datetime.fromisoformat(start)
    lines = [
        f"{begin + dt.timedelta(minutes=5 * n):%d.%m.%Y %H:%M};{20 + n % 10 / 10:.1f};{50 + n % 20}".replace(".1f", "")
        for n in range(rows)
    ]
    return "Zeit;Temperatur °C;Feuchte %\n" + "\n".join(lines) + "\n"


def _laid(client, log, text, name="week.csv"):
    answer = client.post(f"{log}table/?tab=sensors", {"table": _table(text, name)}, headers=HTMX)
    return answer.content.decode()


def _shape_data(job, **more):
    data = {"time": str(job.shape["time"]), "clock": "", "written": job.shape["written"], "zone": job.shape["zone"]}
    data["comma"] = "yes" if job.shape["comma"] else ""
    for column in job.shape["columns"]:
        for key in ("quantity", "unit", "name"):
            data[f"c{column['place']}-{key}"] = column[key]
    return data | more


def _taken(client, log, job):
    page = post(client, f"{log}table/{job.pk}/start/?tab=sensors", **_shape_data(job))
    for _ in range(60):
        if "load delay" not in page:
            return page
        page = post(client, f"{log}table/{job.pk}/go/?tab=sensors")
    raise AssertionError("it never ended")


def test_a_table_is_settled_beside_its_preview_and_taken_in(mine, log):
    page = _laid(mine, log, _csv())
    job = ImportJob.objects.get()
    assert "How the first rows are read" in page
    assert "20.0 °C" in page
    page = _taken(mine, log, job)
    assert "week.csv</b> is in" in page
    assert "800</b> readings taken in" in page
    assert {sensor.name for sensor in Sensor.objects.all()} == {"Temperatur", "Feuchte"}
    assert Reading.objects.count() == 800
    assert not list(pieces.folder().iterdir())


def test_the_same_table_again_is_known_by_its_header_and_adds_nothing(mine, log):
    _laid(mine, log, _csv())
    job = ImportJob.objects.get()
    shape = _shape_data(job, **{"c1-name": "Shelf"})
    post(mine, f"{log}table/{job.pk}/start/?tab=sensors", **shape)
    post(mine, f"{log}table/{job.pk}/go/?tab=sensors")
    assert CsvShape.objects.count() == 1
    _laid(mine, log, _csv(), "again.csv")
    again = ImportJob.objects.first()
    assert "Shelf" in json.dumps(again.shape)
    page = _taken(mine, log, again)
    assert "<b>0</b> readings taken in" in page
    assert "800</b> there before" in page


def test_faults_and_gaps_are_counted_and_named(mine, log):
    text = _csv(30) + "20.11.2026 99:00;21,0;50\n20.11.2026 03:00;999;50\n21.11.2026 09:00;21.5;51\n\n"
    _laid(mine, log, text)
    page = _taken(mine, log, ImportJob.objects.get())
    assert "2</b> rows with something wrong" in page
    assert "line 32" in page
    assert "is no time" in page
    assert "cannot be" in page
    assert "gap" in page


def test_an_import_goes_on_where_it_was_broken_off(mine, house, log, monkeypatch):
    monkeypatch.setattr(imports, "_PIECE", 2000)
    _laid(mine, log, _csv(500))
    job = ImportJob.objects.get()
    imports.start(job, job.shape)
    half = imports.go_on(job, 0.0)
    assert 0 < half.offset < half.size
    there = Reading.objects.count()
    assert there == half.taken > 0

    def dies(*args):
        raise RuntimeError("killed")

    with monkeypatch.context() as broken:
        broken.setattr(imports.TableReader, "rows", dies)
        with pytest.raises(RuntimeError):
            imports.go_on(half, 0.0)
    # Nothing of the piece that broke is in, and all of it comes after.
    assert Reading.objects.count() == there
    done = imports.go_on(ImportJob.objects.get(), 30.0)
    assert (done.state, done.taken, done.rows) == ("done", 1000, 500)


def test_an_import_that_is_stopped_keeps_what_is_in(mine, log, monkeypatch):
    monkeypatch.setattr(imports, "_PIECE", 2000)
    _laid(mine, log, _csv(500))
    job = ImportJob.objects.get()
    imports.start(job, job.shape)
    imports.go_on(job, 0.0)
    there = Reading.objects.count()
    page = post(mine, f"{log}table/{job.pk}/stop/?tab=sensors")
    assert "stopped" in page
    assert imports.go_on(ImportJob.objects.get(), 5.0).state == "stopped"
    assert Reading.objects.count() == there


@pytest.mark.parametrize(
    ("content", "words"),
    [("no,table\n", "row of this table"), (b"\x00\x01\x02", "no text"), ("", "no table"), (None, "Choose a file")],
)
def test_a_file_that_is_no_table_is_refused_and_not_kept(mine, log, content, words):
    page = post(mine, f"{log}table/?tab=sensors") if content is None else _laid(mine, log, content)
    assert words in page
    assert not ImportJob.objects.exists()
    assert not list(pieces.folder().iterdir())


def test_a_table_of_which_nothing_is_taken_asks_for_a_column(mine, log):
    _laid(mine, log, _csv())
    job = ImportJob.objects.get()
    data = {key: ("" if key.endswith("quantity") else value) for key, value in _shape_data(job).items()}
    page = post(mine, f"{log}table/{job.pk}/start/?tab=sensors", **data)
    assert "at least one column" in page
    page = post(mine, f"{log}table/{job.pk}/?tab=sensors", **_shape_data(job, zone="Mars/Base"))
    assert "no time zone" in page
    assert ImportJob.objects.get().state == "looked"


def test_letters_of_two_bytes_are_taken_in_piece_by_piece(mine, log, monkeypatch):
    monkeypatch.setattr(imports, "_PIECE", 1500)
    _laid(mine, log, _csv(200).encode("utf-16"))
    page = _taken(mine, log, ImportJob.objects.get())
    assert "400</b> readings taken in" in page


# Large tables, in pieces


def _piece(client, log, text, at, size, key="ab" * 16):
    file = SimpleUploadedFile("piece", text.encode())
    data = {"upload": key, "name": "large.csv", "at": str(at), "size": str(size), "piece": file}
    return client.post(f"{log}table/piece/?tab=sensors", data)


def test_a_large_table_comes_in_pieces_and_goes_on_where_it_stood(mine, log):
    text = _csv(300)
    size, cut = len(text.encode()), 4000
    there = int(_piece(mine, log, text[:cut], 0, size).content)
    assert there == len(text[:cut].encode())
    assert int(_piece(mine, log, text[:10], 0, size).content) == there
    # A piece that is sent twice changes nothing: the number says from where to go on.
    raw = text.encode()
    answer = _piece(mine, log, raw[there:].decode(), there, size)
    assert "How the first rows are read" in answer.content.decode()
    page = _taken(mine, log, ImportJob.objects.get())
    assert "600</b> readings taken in" in page


@pytest.mark.parametrize("data", [{"at": "x"}, {"upload": "../../etc"}, {"size": ""}])
def test_a_piece_that_does_not_say_what_it_is_is_refused(mine, log, data):
    whole = {"upload": "ab" * 16, "name": "x", "at": "0", "size": "10", "piece": SimpleUploadedFile("p", b"0123")}
    answer = mine.post(f"{log}table/piece/?tab=sensors", whole | data)
    assert answer.status_code == 400
    assert not list(pieces.folder().glob("*.part"))


def test_pieces_of_another_person_are_not_touched_and_old_ones_go(mine, client, other, house, log):
    import os

    _piece(mine, log, "a,b\n", 0, 100)
    (part,) = pieces.folder().glob("*.part")
    client.force_login(other)
    assert _piece(client, log, "x", 4, 100).status_code == 404
    os.utime(part, (0, 0))
    client.logout()
    client.force_login(house.owner)
    _piece(client, log, "a,b\n", 0, 100, key="cd" * 16)
    assert not part.exists()


def test_more_than_is_taken_is_refused_and_taken_away(mine, log, monkeypatch):
    monkeypatch.setattr(imports, "MOST_BYTES", 10)
    answer = _piece(mine, log, "0123456789ab", 0, 12)
    assert answer.status_code == 400
    assert "larger than" in answer.content.decode()
    assert not list(pieces.folder().glob("*.part"))
