"""Hard knocks: figures that are none, pictures that are too much, a full disk, backups with writes going on."""

import datetime as dt
import os
import sqlite3
import stat
import struct
import subprocess
import sys
import threading
import time
import zlib
from contextlib import closing
from io import BytesIO

import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client
from PIL import Image

from canopy.errors import PlanError
from canopy.plan import dumps, loads
from canopy.words import is_number
from canopy_web.accounts.room import no_room
from canopy_web.photos import actions as photo_actions
from canopy_web.photos import pictures
from canopy_web.photos.pictures import MAX_SIDE, PictureError, read_picture
from canopy_web.planning.backup import BackupError, check
from canopy_web.planning.models import PlanState
from canopy_web.stations.registry import HOUSE
from tests.conftest import DEMO, ROOT

HTMX = {"HX-Request": "true"}
ODD = ("nan", "inf", "-1e999", "²", "0x10", "9" * 5000, "", "\u0660\u0661", "1/0")


@pytest.fixture
def base(row):
    return f"/plans/{row.pk}/spaces/box/"


@pytest.mark.django_db
@pytest.mark.parametrize("key", ["cut", "level", "day", "ahead", "tab", "start", "days", "latitude"])
def test_no_figure_in_an_address_brings_a_page_down(mine, base, key):
    count = len(HOUSE.stations)
    for number, value in enumerate(ODD):
        # Each value at two of the stations: over all of them, every station meets every key.
        for station in (HOUSE.stations[number % count], HOUSE.stations[(number + count // 2) % count]):
            answer = mine.get(
                f"{base}{station.key}/", {key: value, "day": "2026-03-01"} if key == "ahead" else {key: value}
            )
            assert answer.status_code in (200, 400, 414), (key, value[:9], station.key)


@pytest.mark.django_db
@pytest.mark.parametrize("value", ODD)
def test_no_odd_state_number_or_drop_brings_an_act_down(mine, base, row, value):
    for url, sent in (
        (f"{base}space/part/openings/port-x/", {"state": value}),
        (f"{base}crops/plantings/none/train/", {"drop": value}),
        (f"{base}air/add/exhaust-x/", {"state": value}),
        (f"{base}light/lamps/link/link/", {"link-lamps": value[:100]}),
        (f"{base}light/part/fixtures/lamp-1/move/", {"x_m": value, "state": value}),
        (f"/plans/{row.pk}/undo/", {"state": value}),
    ):
        assert mine.post(url, sent, headers=HTMX).status_code in (200, 302, 404), (url, value[:9])


def test_a_number_of_thousands_of_digits_is_refused_in_words(small_plan):
    text = dumps(small_plan).replace('"serial": 1', '"serial": ' + "9" * 5000)
    with pytest.raises(PlanError, match="more digits than any figure"):
        loads(text)
    assert [is_number(text) for text in ("12", "²", "", "9" * 16, "-1", "1.0")] == [True, *[False] * 5]


@pytest.mark.django_db
@pytest.mark.parametrize(
    "back", ["foo", "//evil.invalid", "http://evil.invalid/", "javascript:alert(1)", "", "/\\evil"]
)
def test_one_goes_back_to_addresses_of_ours_only(mine, back):
    answer = mine.post("/account/preferences/", {"units": "us", "next": back})
    assert (answer.status_code, answer["Location"]) == (302, "/")
    assert mine.post("/account/preferences/", {"next": "/library/?q=1"})["Location"] == "/library/?q=1"


@pytest.mark.django_db
@pytest.mark.parametrize(
    "back", ["/account/sign-in/", "/account/sign-in/?next=/account/sign-in/", "foo", "//evil.invalid"]
)
def test_who_is_signed_in_is_sent_home_from_sign_in(mine, back):
    answer = mine.get("/account/sign-in/", {"next": back})
    assert (answer.status_code, answer["Location"]) == (302, "/")


def _png(width, height, rows=b""):
    """A PNG that says its size and holds next to nothing."""

    def chunk(name, data):
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


@pytest.mark.parametrize(
    ("width", "height", "words"),
    [
        (1, 60_000_000, "a side"),
        (60_000_000, 1, "a side"),
        (MAX_SIDE, MAX_SIDE, "megapixels"),
        (9000, 9000, "megapixels"),
    ],
)
def test_a_picture_that_is_too_large_is_never_decoded(width, height, words, monkeypatch):
    monkeypatch.setattr(Image.Image, "load", lambda self: pytest.fail("decoded"))
    data = _png(width, height)
    with pytest.raises(PictureError, match=words):
        read_picture(BytesIO(data), len(data))


def test_pictures_are_decoded_one_at_a_time(monkeypatch):
    now, most = [], []

    def slow(file, size):
        now.append(1)
        most.append(len(now))
        time.sleep(0.02)
        now.pop()
        raise PictureError("seen")

    monkeypatch.setattr(pictures, "_read", slow)

    def send():
        with pytest.raises(PictureError, match="seen"):
            read_picture(BytesIO(), 0)

    threads = [threading.Thread(target=send) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(most) == 6
    assert max(most) == 1


@pytest.mark.django_db(transaction=True)
def test_a_picture_is_decoded_outside_any_transaction(row, monkeypatch):
    seen = []

    def read(file, size):
        seen.append(connection.in_atomic_block)
        return read_picture(file, size)

    monkeypatch.setattr(photo_actions, "read_picture", read)
    out = BytesIO()
    Image.new("RGB", (40, 30), "green").save(out, "PNG")
    day = dt.date(2026, 3, 1)
    photo_actions.add_photo(row, "box", SimpleUploadedFile("a.png", out.getvalue()), today=day)
    assert seen == [False]


def test_the_data_belong_to_this_installation_alone():
    assert stat.S_IMODE(settings.DATA.stat().st_mode) == 0o700
    from canopy_web import settings as served

    assert "synchronous=FULL" in served.DATABASES["default"]["OPTIONS"]["init_command"]


@pytest.fixture
def full():
    """Fill the disk as far as the database is concerned: it may not grow by a page."""

    def fill(on):
        with connection.cursor() as cursor:
            pages = cursor.execute("PRAGMA page_count").fetchone()[0]
            free = cursor.execute("PRAGMA freelist_count").fetchone()[0]
            cursor.execute(f"PRAGMA max_page_count = {pages - free if on else 1_000_000_000}")

    yield fill
    fill(False)


@pytest.mark.django_db(transaction=True)
def test_a_full_disk_is_said_at_every_kind_of_write_and_nothing_is_lost(grower, row, full):
    client = Client(raise_request_exception=False)
    client.force_login(grower)
    out = BytesIO()
    Image.effect_noise((900, 700), 60).convert("RGB").save(out, "PNG")
    base, whole = f"/plans/{row.pk}/spaces/box/", PlanState.objects.count()
    with connection.cursor() as cursor:
        cursor.execute("VACUUM")
    full(True)
    photo = SimpleUploadedFile("a.png", out.getvalue())
    answers = {
        "plan": client.post(f"{base}crops/add/", {"add-crop_id": "tatsoi", "add-count": "90"}, headers=HTMX),
        "photo": client.post(f"{base}space/photos/add/", {"photo": photo, "day": "2026-03-01", "caption": ""}),
        "import": client.post("/plans/import/", {"file": SimpleUploadedFile("p.json", DEMO.read_bytes())}),
    }
    assert {name: answer.status_code for name, answer in answers.items()} == dict.fromkeys(answers, 507)
    for answer in answers.values():
        assert "disk of this server is full" in answer.text
    # What was stored can be looked at.
    assert client.get(f"{base}light/").status_code == 200
    assert PlanState.objects.count() == whole
    full(False)
    assert (
        client.post(f"{base}crops/add/", {"add-crop_id": "tatsoi", "add-count": "90"}, headers=HTMX).status_code == 200
    )
    assert PlanState.objects.count() == whole + 1
    assert connection.cursor().execute("PRAGMA integrity_check").fetchone()[0] == "ok"


@pytest.mark.django_db(transaction=True)
def test_signing_out_on_a_full_disk_is_said_too(grower, full, monkeypatch):
    from django.contrib.sessions.backends.db import SessionStore
    from django.db.utils import OperationalError

    client = Client(raise_request_exception=False)
    client.force_login(grower)

    def fails(self, *args, **more):
        raise OperationalError("database or disk is full")

    monkeypatch.setattr(SessionStore, "delete", fails)
    answer = client.post("/account/sign-out/")
    assert answer.status_code == 507
    assert "disk of this server is full" in answer.text


def test_a_full_disk_is_known_by_its_number_or_its_words():
    import errno

    from django.db.utils import OperationalError

    wrapped = RuntimeError("x")
    wrapped.__cause__ = OSError(errno.ENOSPC, "No space left on device")
    assert no_room(wrapped)
    assert no_room(OperationalError("database or disk is full"))
    assert not no_room(OperationalError("no such table"))
    assert not no_room(None)


# ---- backup --------------------------------------------------------------------


def _manage(data, *args, ok=True):
    done = subprocess.run(
        [sys.executable, "manage.py", *map(str, args), "--skip-checks"],
        cwd=ROOT,
        env={**os.environ, "MILD_CANOPY_DATA": str(data), "DJANGO_SETTINGS_MODULE": "canopy_web.settings"},
        capture_output=True,
        text=True,
        check=False,
    )
    assert (done.returncode == 0) is ok, done.stderr
    return done.stdout if ok else done.stderr


def test_a_backup_is_whole_while_others_write_and_comes_back(tmp_path):
    data, copies = tmp_path / "data", tmp_path / "copies"
    _manage(data, "migrate", "-v0")
    path = data / "mild-canopy.sqlite3"
    stop, written = threading.Event(), []

    def write():
        with closing(sqlite3.connect(path, timeout=20, isolation_level=None)) as base:
            base.execute("PRAGMA journal_mode=WAL")
            base.execute("CREATE TABLE scratch (one INTEGER, two INTEGER, filler BLOB)")
            while not stop.is_set():
                number = len(written)
                base.execute("BEGIN IMMEDIATE")
                # Two halves of one change: a torn copy would hold one of them.
                base.execute("INSERT INTO scratch VALUES (?, NULL, randomblob(3000))", (number,))
                base.execute("UPDATE scratch SET two = ? WHERE one = ?", (number, number))
                base.execute("COMMIT")
                written.append(number)

    writer = threading.Thread(target=write)
    writer.start()
    try:
        while len(written) < 20:
            time.sleep(0.01)
        before = len(written)
        first = _manage(data, "backup", copies, "--keep", "2")
        during = len(written)
    finally:
        stop.set()
        writer.join()
    assert "whole, 0 households" in first
    assert during > before, "nothing was written while the copy was made"
    made = next(copies.glob("*.sqlite3"))
    assert stat.S_IMODE(made.stat().st_mode) == 0o600
    with closing(sqlite3.connect(made)) as copy:
        held, torn = copy.execute("SELECT count(*), sum(one IS NOT two) FROM scratch").fetchone()
    assert before <= held <= len(written)
    assert torn == 0
    # Restored, the database is the copy; what was there before stays beside it.
    assert "whole" in _manage(data, "restore", made, "--check")
    said = _manage(data, "restore", made)
    assert "what was there before lies in" in said
    with closing(sqlite3.connect(path)) as now:
        assert now.execute("SELECT count(*) FROM scratch").fetchone()[0] == held
    assert len(list(data.glob("before-restore-*.sqlite3"))) == 1


def test_old_copies_go_and_damaged_ones_are_refused(tmp_path):
    data, copies = tmp_path / "data", tmp_path / "copies"
    _manage(data, "migrate", "-v0")
    copies.mkdir()
    for day in (1, 2, 3):
        (copies / f"mild-canopy-2020010{day}-000000.sqlite3").write_bytes(b"old")
    (copies / "notes.txt").write_text("mine")
    _manage(data, "backup", copies, "--keep", "2")
    kept = sorted(path.name for path in copies.glob("*.sqlite3"))
    assert kept[0] == "mild-canopy-20200103-000000.sqlite3"
    assert len(kept) == 2
    assert (copies / "notes.txt").exists()
    good = copies / kept[1]
    torn = tmp_path / "torn.sqlite3"
    torn.write_bytes(good.read_bytes()[: good.stat().st_size // 2])
    for bad in (torn, copies / kept[0]):
        assert "CommandError" in _manage(data, "restore", bad, ok=False)
    other = tmp_path / "other.sqlite3"
    with closing(sqlite3.connect(other)) as base:
        base.execute("CREATE TABLE a (b)")
    with pytest.raises(BackupError, match="no database of Mild Canopy"):
        check(other)
    assert "there is no file" in _manage(data, "restore", tmp_path / "none", ok=False)
