"""Bench of the log: a million readings taken in, read back at every length of time, and pushed beside a person.

Run by itself, in a process and with data of its own: ``python scripts/bench_log.py``.
"""

from __future__ import annotations

import datetime as dt
import json
import os
import resource
import statistics
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
ROWS = 1_000_000
# How long readings are pushed, and how many messages of how many readings a second.
_PUSH_S, _MESSAGES, _EACH = 20, 8, 25


def _row(name: str, got: str, wanted: str) -> None:
    print(f"{name:<66}{got:>14}   {wanted}")


def main() -> None:
    """Print the figures, each beside what it must reach."""
    with tempfile.TemporaryDirectory() as folder:
        os.environ["MILD_CANOPY_DATA"] = folder
        os.environ["DJANGO_SETTINGS_MODULE"] = "canopy_web.settings"
        import django

        django.setup()
        from django.conf import settings
        from django.core.management import call_command

        settings.ALLOWED_HOSTS = ["testserver"]
        call_command("migrate", verbosity=0)
        _measure(Path(folder))


def _measure(folder: Path) -> None:
    from django.contrib.auth import get_user_model
    from django.core.files import File

    from canopy.plan import load
    from canopy_web.logbook import imports
    from canopy_web.planning import actions

    person = get_user_model().objects.create_user("bench")
    plan = actions.create_plan(person, load(ROOT / "examples" / "demo-household.json"))
    path = folder / "million.csv"
    begin = dt.datetime(2024, 12, 1)
    with path.open("w") as out:
        out.write("time,Temp °C\n")
        for number in range(ROWS):
            moment = begin + dt.timedelta(minutes=number)
            out.write(f"{moment:%Y-%m-%d %H:%M:%S},{20 + number % 50 / 10}\n")
    before = time.perf_counter()
    with path.open("rb") as file:
        job, _ = imports.begin(plan, "berry-tent", File(file, name="million.csv"), person, "UTC")
    imports.start(job, job.shape)
    slices = []
    while job.state != "done":
        one = time.perf_counter()
        job = imports.go_on(job, 0.8)
        slices.append(time.perf_counter() - one)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    _row("log: 1,000,000 CSV rows taken in", f"{time.perf_counter() - before:.0f} s", "under 60 s")
    _row("log: longest slice of it, while which others wait", f"{max(slices):.1f} s", "")
    _row("log: memory of it", f"{peak:.0f} MB", "under 300 MB")
    _others(plan, begin)
    _read_back(person, plan)
    _pushed(person, plan)


def _others(plan: Any, begin: dt.datetime) -> None:
    """Three more quantities over the same year, each ten minutes."""
    from canopy_web.logbook.readings import keep_readings, sensor_for

    first = int(begin.replace(tzinfo=dt.UTC).timestamp())
    for quantity in ("rh_pct", "co2_ppm", "root_c"):
        sensor = sensor_for(plan, "berry-tent", quantity, quantity)
        for piece in range(0, ROWS // 10, 5000):
            keep_readings([(sensor.pk, first + 600 * n, 20 + n % 40) for n in range(piece, piece + 5000)])


def _read_back(person: Any, plan: Any) -> None:
    from django.test import Client

    client = Client()
    client.force_login(person)
    url = f"/plans/{plan.pk}/spaces/berry-tent/log/series.json"
    client.get(url)

    def asked(address: str) -> Callable[[], object]:
        return lambda: client.get(address)

    for span, wanted in (("day", ""), ("month", "under 150 ms"), ("year", "under 200 ms")):
        _row(f"log: {span} of four quantities, as the chart gets it", _ms(asked(f"{url}?span={span}")), wanted)
    client.get("/today/")
    _row("log: Today, over four spaces", _ms(asked("/today/")), "under 150 ms")


def _ms(act: Callable[[], object], times: int = 7) -> str:
    found = []
    for _ in range(times + 1):
        begin = time.perf_counter()
        act()
        found.append((time.perf_counter() - begin) * 1000)
    return f"{statistics.median(found[1:]):.0f} ms"


def _pushed(person: Any, plan: Any) -> None:
    """Push readings from a thread while a person moves a lamp."""
    from django.test import Client

    from canopy_web.logbook import push

    _, token = push.open_source(plan, "berry-tent", "bench")
    wrong: list[int] = []
    took: list[float] = []
    ends = time.monotonic() + _PUSH_S

    def sending() -> None:
        client, number, due = Client(), 0, time.monotonic()
        headers = {"Authorization": f"Bearer {token}"}
        while time.monotonic() < ends:
            begin = time.monotonic()
            now = time.time()
            readings = [
                {"sensor": f"s{n}", "quantity": "air_c", "value": 21.5, "at": now - number % 7} for n in range(_EACH)
            ]
            answer = client.post(
                "/readings/", json.dumps({"readings": readings}), content_type="application/json", headers=headers
            )
            if answer.status_code != 200:
                wrong.append(answer.status_code)
            took.append((time.monotonic() - begin) * 1000)
            number += 1
            due += 1 / _MESSAGES
            time.sleep(max(0.0, due - time.monotonic()))

    thread = threading.Thread(target=sending)
    thread.start()
    client, pages = Client(), []
    client.force_login(person)
    url = f"/plans/{plan.pk}/spaces/berry-tent/light/part/fixtures/lamp-1/move/"
    height = 1.0
    while time.monotonic() < ends:
        begin = time.monotonic()
        height = 1.0 if height > 1.15 else height + 0.01
        answer = client.post(url, {"z_m": f"{height:.2f}"}, headers={"HX-Request": "true"})
        if answer.status_code != 200:
            wrong.append(answer.status_code)
        pages.append((time.monotonic() - begin) * 1000)
        time.sleep(0.3)
    thread.join()
    per_s = len(took) * _EACH / _PUSH_S
    _row("log: readings pushed a second beside a person editing", f"{per_s:.0f}", "200")
    _row("log: of those, refused or locked", f"{len(wrong)}", "0")
    _row("log: an edit meanwhile, median", f"{statistics.median(pages):.0f} ms", "under 300 ms")


if __name__ == "__main__":
    main()
