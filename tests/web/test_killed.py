"""Server and worker killed outright while readings and entries stream in: what was acknowledged is there."""

from __future__ import annotations

import json
import os
import re
import signal
import sqlite3
import subprocess
import sys
import time
import urllib.error
import urllib.request
from contextlib import closing, contextmanager
from functools import partial
from http.cookiejar import CookieJar
from threading import Event, Thread
from urllib.parse import urlencode

import pytest

from tests.conftest import ROOT
from tests.web.log.reached import answering
from tests.web.test_behind_a_proxy import _free_port, _wait

_PREPARE = """
import django, sys
django.setup()
from django.core.management import call_command
call_command("migrate", verbosity=0)
from django.contrib.auth import get_user_model
from canopy.plan import loads
from canopy.logs.pointed import Pointer
from canopy_web.logbook.push import open_source
from canopy_web.logbook.sources import SourceShape, open_at
from canopy_web.planning import actions
user = get_user_model().objects.create_user("grower", password="tall-lamp-77")
row = actions.create_plan(user, loads(actions.DEMO_FILE.read_bytes()))
shape = SourceShape(every_s=10, at="$.time", values=(Pointer(path="$.t", quantity="air_c", name="Pulled"),))
open_at(row, "berry-tent", "pull", "Hub", sys.argv[1], shape)
print(open_source(row, "berry-tent", "pusher")[1], row.pk)
"""


class Counting:
    """What a hub says: another second each time it is asked."""

    def __init__(self):
        self.second = 1_790_000_000

    def __call__(self):
        self.second += 10
        return {"time": self.second, "t": 20.0}


@contextmanager
def running(folder, port, environment):
    """A server with its worker; gives the process. It is killed outright at the end."""
    command = [sys.executable, "-m", "canopy_web.command", "serve", "--port", str(port)]
    server = subprocess.Popen(command, cwd=ROOT, env=environment, start_new_session=True)
    try:
        _wait(port)
        yield server
    finally:
        server.kill()
        server.wait(20)


class Sending:
    """Sends readings and entries without a pause, and notes which were acknowledged."""

    def __init__(self, port, token, plan):
        self.site, self.token, self.plan = f"http://127.0.0.1:{port}", token, plan
        self.readings, self.entries, self.refused = [], [], 0
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
        self.number, self.csrf, self.over = 0, "", Event()

    def sign_in(self):
        page = self._get("/account/sign-in/")
        token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)[1]
        fields = {"csrfmiddlewaretoken": token, "username": "grower", "password": "tall-lamp-77"}
        self.opener.open(f"{self.site}/account/sign-in/", urlencode(fields).encode(), timeout=20).read()
        self.csrf = re.search(r'"X-CSRFToken": ?"(\w+)"', self._get(self._log()).replace("&quot;", '"'))[1]

    def _get(self, path):
        return self.opener.open(self.site + path, timeout=20).read().decode()

    def _log(self):
        return f"/plans/{self.plan}/spaces/berry-tent/log/"

    def send(self):
        while not self.over.is_set():
            self.number += 1
            try:
                self._push(1_780_000_000 + self.number)
                time.sleep(0.11)
                if self.number % 8 == 0:
                    self._write(f"entry-{self.number:06d}")
            except (OSError, urllib.error.URLError):
                self.refused += 1
                self.number += 1
                time.sleep(0.05)

    def _push(self, second):
        body = {"readings": [{"sensor": "shelf", "quantity": "air_c", "value": 21.5, "at": second}]}
        asks = {"Authorization": f"Bearer {self.token}", "Content-Type": "application/json"}
        ask = urllib.request.Request(f"{self.site}/readings/", json.dumps(body).encode(), asks)
        try:
            if json.loads(urllib.request.urlopen(ask, timeout=10).read())["taken"] == 1:
                self.readings.append(second)
        except urllib.error.HTTPError as error:
            # Too many at once is no acknowledgement.
            if error.code != 429:
                raise

    def _write(self, key):
        fields = {"log-note-note": f"note {key}", "log-note-entry_key": key}
        asks = {"X-CSRFToken": self.csrf, "HX-Request": "true"}
        ask = urllib.request.Request(f"{self.site}{self._log()}write/note/", urlencode(fields).encode(), asks)
        if "Written down" in self.opener.open(ask, timeout=20).read().decode():
            self.entries.append(key)


def _children(pid, name):
    """The processes below one that run a module."""
    listed = subprocess.run(["ps", "-eo", "pid,ppid,args"], capture_output=True, text=True, check=True).stdout
    rows = [line.split(None, 2) for line in listed.splitlines()[1:]]
    return [int(row[0]) for row in rows if int(row[1]) == pid and name in row[2]]


def _other_workers(server, worker):
    return [pid for pid in _children(server, "worker.run") if pid != worker]


def _eventually(what, within_s=25.0):
    end = time.monotonic() + within_s
    while time.monotonic() < end:
        found = what()
        if found:
            return found
        time.sleep(0.1)
    raise AssertionError("that never came")


def _asked(path, sql):
    with closing(sqlite3.connect(path, timeout=20)) as database:
        return database.execute(sql).fetchall()


def test_nothing_that_was_acknowledged_is_lost(tmp_path):
    with answering(Counting()) as hub:
        port, hub_port = _free_port(), hub.server_address[1]
        given = {key: value for key, value in os.environ.items() if not key.startswith(("MILD_CANOPY", "DJANGO"))}
        given |= {"MILD_CANOPY_DATA": str(tmp_path), "MILD_CANOPY_REACH": f"127.0.0.1:{hub_port}"}
        given |= {"DJANGO_SETTINGS_MODULE": "canopy_web.settings"}
        prepare = [sys.executable, "-c", _PREPARE, f"http://127.0.0.1:{hub_port}/x"]
        said = subprocess.run(prepare, cwd=ROOT, env=given, capture_output=True, text=True, check=True).stdout
        token, plan = said.split()
        database = tmp_path / "mild-canopy.sqlite3"
        sending = Sending(port, token, plan)
        thread = Thread(target=sending.send, daemon=True)
        for round_ in range(2):
            with running(tmp_path, port, given) as server:
                if round_ == 0:
                    sending.sign_in()
                    thread.start()
                before = len(sending.readings)
                _eventually(lambda: len(sending.readings) > before + 20)  # noqa: B023
                (worker,) = _eventually(lambda: _children(server.pid, "worker.run"))
                os.kill(worker, signal.SIGKILL)
                # Another is begun at once.
                fresh = _eventually(partial(_other_workers, server.pid, worker))
                assert len(fresh) == 1
                if round_ == 0:
                    # It asks where the one before had got to.
                    asks = len(hub.asked)
                    _eventually(lambda: len(hub.asked) > asks)  # noqa: B023
            # The server is killed by now, and what it had begun goes with it.
            _eventually(lambda: not _alive(fresh[0]))  # noqa: B023
        sending.over.set()
        thread.join(20)
    assert len(sending.readings) > 40
    assert len(sending.entries) > 3
    assert sending.refused > 0
    kept = {at for (at,) in _asked(database, "SELECT at FROM logbook_reading WHERE at < 1785000000")}
    assert set(sending.readings) <= kept
    keys = {key for (key,) in _asked(database, "SELECT key FROM logbook_logentry")}
    assert set(sending.entries) <= keys
    assert _asked(database, "PRAGMA integrity_check") == [("ok",)]
    pulled = "SELECT count(*), count(DISTINCT at) FROM logbook_reading WHERE at >= 1785000000"
    ((count, seconds),) = _asked(database, pulled)
    assert count == seconds >= 2


def _alive(pid):
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    return True


@pytest.mark.django_db
def test_only_one_worker_works_on_the_same_data(settings, tmp_path):
    from canopy_web.logbook.beat import alone, at_work, beat

    settings.DATA = tmp_path
    first = alone()
    assert first is not None
    assert alone() is None
    first.close()
    second = alone()
    assert second is not None
    second.close()
    assert not at_work()
    beat()
    assert at_work()
    assert not at_work(time.time() + 60)
