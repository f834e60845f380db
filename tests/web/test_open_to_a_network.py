"""Open to a network: wrong passwords wait, half-sent requests stop nobody, a proxy is believed only where named."""

import datetime as dt
import os
import socket
import subprocess
import sys
import time
import urllib.request
from contextlib import contextmanager

import pytest
from axes.models import AccessFailureLog
from django.contrib.sessions.models import Session
from django.test import Client
from django.utils import timezone

from canopy_web.accounts.throttle import FIRST, FREE, MOST, REMEMBERED, delay
from tests.conftest import ROOT, not_laid_out

SIGN_IN = "/account/sign-in/"
# All the head, a part of the body.
_HALF = b"POST /account/sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 100000\r\n\r\nusername="


def _try(client, password, name="grower", address="10.0.0.5"):
    return client.post(SIGN_IN, {"username": name, "password": password}, REMOTE_ADDR=address)


@pytest.mark.django_db
def test_wrong_passwords_wait_by_name_and_address_together(grower):
    client = Client()
    for _ in range(FREE - 1):
        assert _try(client, "wrong").status_code == 200
    stopped = _try(client, "wrong")
    assert stopped.status_code == 429
    assert "wait 20 seconds" in stopped.text
    assert stopped["Retry-After"] == "20"
    # The right password waits too, from there; from home it does not, and neither does another name.
    assert _try(client, "tall-lamp-77").status_code == 429
    assert _try(client, "wrong", name="other").status_code == 200
    assert _try(Client(), "tall-lamp-77", address="192.168.1.9").status_code == 302


@pytest.mark.django_db
def test_the_wait_is_over_after_its_time_and_grows_with_each_round(grower):
    client = Client()
    for _ in range(FREE):
        _try(client, "wrong")
    assert _try(client, "tall-lamp-77").status_code == 429
    _age(FIRST + dt.timedelta(seconds=2))
    assert _try(client, "tall-lamp-77").status_code == 302
    again = Client()
    for _ in range(FREE):
        last = _try(again, "wrong")
    assert last.status_code == 429
    assert int(last["Retry-After"]) == 2 * FIRST.total_seconds()


def _age(by):
    """Make all failures older."""
    from axes.models import AccessAttempt

    for row in AccessAttempt.objects.all():
        AccessAttempt.objects.filter(pk=row.pk).update(attempt_time=row.attempt_time - by)
    for row in AccessFailureLog.objects.all():
        AccessFailureLog.objects.filter(pk=row.pk).update(attempt_time=row.attempt_time - by)
    assert AccessFailureLog.objects.filter(attempt_time__lt=timezone.now()).exists()


@pytest.mark.django_db
def test_what_has_run_out_is_cleared_with_the_next_sign_in(grower):
    now = timezone.now()
    for name, ends in (("old", -1), ("live", 1)):
        Session.objects.create(session_key=name, session_data="", expire_date=now + dt.timedelta(minutes=ends))
    _try(Client(), "wrong")
    _age(REMEMBERED + dt.timedelta(minutes=1))
    _try(Client(), "wrong")
    assert AccessFailureLog.objects.count() == 2
    assert _try(Client(), "tall-lamp-77").status_code == 302
    assert set(Session.objects.values_list("session_key", flat=True)) >= {"live"}
    assert not Session.objects.filter(session_key="old").exists()
    # What was typed wrong today still counts.
    assert AccessFailureLog.objects.count() == 1


def test_the_wait_doubles_up_to_a_quarter_of_an_hour():
    waits = [delay(number) for number in range(1000)]
    assert waits == sorted(waits)
    assert waits[FREE] == FIRST
    assert waits[2 * FREE] == 2 * FIRST
    assert waits[-1] == MOST == dt.timedelta(minutes=15)


@contextmanager
def _running(data, *args, **env):
    env = {**os.environ, "MILD_CANOPY_DATA": str(data), "DJANGO_SETTINGS_MODULE": "canopy_web.settings", **env}
    steps = [["migrate", "-v0"], *([["collectstatic", "--noinput", "-v0"]] if not_laid_out() else [])]
    for step in steps:
        subprocess.run([sys.executable, "manage.py", *step, "--skip-checks"], cwd=ROOT, env=env, check=True)
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    server = subprocess.Popen(
        [sys.executable, "-m", "canopy_web.serve", "--port", str(port), *args],
        cwd=ROOT,
        env=env,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        for _ in range(150):
            assert server.poll() is None, "the server ended"
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}{SIGN_IN}", timeout=2).close()
                break
            except OSError:
                time.sleep(0.1)
        yield port
    finally:
        server.terminate()
        server.wait()


def _ask(port, headers=""):
    with socket.create_connection(("127.0.0.1", port), timeout=10) as line:
        line.sendall(f"GET /plans/1/ HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n{headers}\r\n".encode())
        answer = b""
        while part := line.recv(65536):
            answer += part
    return answer.decode(errors="replace")


def test_half_sent_requests_stop_nobody(tmp_path):
    with _running(tmp_path) as port:
        lines = []
        for _ in range(24):
            line = socket.create_connection(("127.0.0.1", port), timeout=10)
            line.sendall(_HALF)
            lines.append(line)
        half = socket.create_connection(("127.0.0.1", port), timeout=10)
        half.sendall(b"GET / HT")
        begun = time.monotonic()
        with urllib.request.urlopen(f"http://127.0.0.1:{port}{SIGN_IN}", timeout=10) as answer:
            assert answer.status == 200
        # Far under the half minute after which half-sent ones are dropped.
        assert time.monotonic() - begun < 10
        for line in (*lines, half):
            line.close()


def test_a_proxy_s_word_is_taken_from_the_proxy_only(tmp_path):
    told = "X-Forwarded-Proto: https\r\nX-Forwarded-For: 203.0.113.7\r\n"
    with _running(tmp_path / "a", "--proxy", "127.0.0.1", MILD_CANOPY_HTTPS="1") as port:
        answer = _ask(port, told)
        assert "strict-transport-security" in answer.lower()
        assert "strict-transport-security" not in _ask(port).lower()
    with _running(tmp_path / "b", MILD_CANOPY_HTTPS="1") as port:
        # Nobody is trusted: the header is cleared, and the request counts as plain.
        assert "strict-transport-security" not in _ask(port, told).lower()
