"""Print the figures that matter, beside what they must reach. Not a test: nothing fails here."""

from __future__ import annotations

import gzip
import os
import re
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import bench_household
from served import served

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
DEMO = ROOT / "examples" / "demo-household.json"
RUNS = 15


def _row(name: str, got: str, wanted: str) -> None:
    print(f"{name:<66}{got:>14}   {wanted}")


def _times(act: Callable[[int], object], runs: int = RUNS) -> list[float]:
    found = []
    for number in range(runs):
        begin = time.perf_counter()
        act(number)
        found.append((time.perf_counter() - begin) * 1000)
    return found


def _middle(values: list[float]) -> str:
    return f"{statistics.median(values):.0f} ms"


def _busy_plan(shared: bool = False) -> object:
    """A tent with 6 lamps and 20 plants, in a room of its own or in one that it shares with another space."""
    from canopy.design.start.answers import Answers
    from canopy.design.start.space import begin_space
    from canopy.plan import Room, load
    from canopy.plan.edit import add_space

    answers = Answers(
        space_id="busy",
        name="Busy",
        kind="tent",
        width_m=1.42,
        depth_m=1.17,
        height_m=1.93,
        crop_id="lettuce-butterhead",
        count=20,
        lamp_class_id="board-65",
        lamp_count=6,
        circuit_id="hall",
    )
    plan = load(DEMO)
    own = Room(id="bench", name="Bench")
    room = next(r for r in plan.rooms if r.floor_m2) if shared else own
    space = begin_space(answers).model_copy(update={"room_id": room.id})
    return add_space(plan.model_copy(update={"rooms": (*plan.rooms, own)}), space)


def core() -> None:
    """The core alone: a lamp moved, a dimmer turned."""
    from canopy.evaluate import evaluate_space
    from canopy.light.scene import DEFAULT, PREVIEW

    plan = _busy_plan()
    space = plan.space("busy")

    def moved(number: int, quality: object = DEFAULT) -> None:
        lamp = space.fixtures[0].model_copy(update={"z_m": 0.9 + 0.001 * number, "x_m": 0.35 + 0.002 * number})
        changed = space.model_copy(update={"fixtures": (lamp, *space.fixtures[1:])})
        evaluate_space(plan, changed, quality=quality)

    def dimmed(number: int) -> None:
        lamp = space.fixtures[0].model_copy(update={"dim": 0.3 + 0.01 * number})
        evaluate_space(plan, space.model_copy(update={"fixtures": (lamp, *space.fixtures[1:])}))

    first = _times(lambda n: moved(99), 1)
    _row("core: 6 lamps, 20 plants, all margins, first time", f"{first[0]:.0f} ms", "")
    _row("core: one lamp moved, settled", _middle(_times(moved)), "")
    moved(99, PREVIEW)
    _row("core: one lamp moved, preview", _middle(_times(lambda n: moved(n, PREVIEW))), "")
    _row("core: one dimmer turned", _middle(_times(dimmed)), "")
    plan = _busy_plan(shared=True)
    space = plan.space("busy")
    dimmed(99)
    _row("core: one dimmer turned, another space in the same room", _middle(_times(dimmed)), "")


def light() -> None:
    """The light core and the backward tools."""
    from scripts import bench_light

    bench_light.closed_forms(_row)
    bench_light.against_a_path_tracer(_row)
    bench_light.planted_and_shaded(_row)
    bench_light.points_and_dimmers(_busy_plan().space("busy"), _row, _times, _middle)
    bench_light.quick_look(_row)
    bench_light.backwards(_row, _times, _middle)


def climate() -> None:
    """Three days followed, in the running process: one space, and two on a loop in a room that they warm."""
    from dataclasses import replace

    from canopy.climate.simulate import simulate
    from tests.core.climate import cases

    for name, wanted, system in (
        ("one space", "under 150 ms", cases.tent(days=3, dt=20.0)),
        ("two linked, in a room they warm", "under 300 ms", cases.linked(days=3, dt=20.0)),
    ):
        simulate(system)
        _row(f"climate: 72 h at 20 s, {name}", _middle(_times(lambda _, system=system: simulate(system), 7)), wanted)
        worst_k, worst_rh = 0.0, 0.0
        coarse, fine = (
            simulate(replace(make(days=2, dt=dt), every=round(600 / dt)))
            for make, dt in ((_of(cases, name), 20.0), (_of(cases, name), 10.0))
        )
        worst_k = float(abs(coarse.enclosures[:, 0, 0] - fine.enclosures[:, 0, 0]).max())
        worst_rh = float(abs(coarse.rh_pct("tent") - fine.rh_pct("tent")).max())
        _row(f"climate: half the step, {name}, worst ten minutes", f"{worst_k:.2f} K / {worst_rh:.2f} %", "0.1 K / 1 %")
        closure = simulate(system).closure
        _row(
            "climate: heat, water and CO2 that do not close",
            f"{max(closure.heat, closure.water, closure.co2):.0e}",
            "1e-3",
        )


def power() -> None:
    """A household of 12 spaces: its circuits, its work and its calendar."""
    bench_household.all_of(_row, DEMO)


def log() -> None:
    """A million readings, and what readings teach: each in a process and with data of its own."""
    for name in ("bench_log.py", "bench_review.py", "bench_designer.py"):
        subprocess.run([sys.executable, str(ROOT / "scripts" / name)], check=True)


def _of(cases: object, name: str) -> Callable[..., object]:
    return cases.tent if name == "one space" else cases.linked  # type: ignore[attr-defined]


def air() -> None:
    """The air: paths, the search, losses against handbooks."""
    from scripts import bench_air

    bench_air.losses(_row)
    bench_air.paths(DEMO, _row, _times, _middle)


def _large_plan() -> object:
    """200 plants in 12 spaces, half of them following days."""
    import datetime as dt

    from canopy.design.start.answers import Answers
    from canopy.design.start.space import begin_space
    from canopy.library import crops
    from canopy.plan import USUAL_ROOM, load
    from canopy.plan.edit import add_planting, add_space
    from canopy.season import Sowing, sow

    # A large room, as every space had one for itself before rooms could be shared.
    plan = load(DEMO).model_copy(update={"spaces": (), "plantings": (), "rooms": (USUAL_ROOM,)})
    kinds = ("tent", "closet", "cabinet")
    for number in range(12):
        count = 60 if number == 0 else 3
        answers = Answers(
            space_id=f"space-{number}",
            name=f"Space {number}",
            kind=kinds[number % 3],
            width_m=1.1 + 0.03 * number,
            depth_m=0.8,
            height_m=1.8,
            crop_id="lettuce-butterhead" if number % 2 else "tatsoi",
            count=count,
            lamp_class_id="board-100",
            lamp_count=2,
            circuit_id="hall",
        )
        plan = add_space(plan, begin_space(answers))
        sowing = Sowing(
            crop=crops()["mizuna"], name=f"Mizuna {number}", starts_on=plan.date - dt.timedelta(days=20), count=9
        )
        sown = sow(plan, plan.spaces[-1], sowing)
        plan = add_planting(plan, f"space-{number}", list(sown.plantings), list(sown.plants))
    return plan


def pages() -> None:
    """The server: one lamp moved, from request to page fragment."""
    import django

    os.environ["DJANGO_SETTINGS_MODULE"] = "canopy_web.settings_test"
    django.setup()
    from django.conf import settings
    from django.contrib.auth import get_user_model
    from django.core.management import call_command
    from django.test import Client

    settings.ALLOWED_HOSTS.append("testserver")
    call_command("migrate", verbosity=0)
    from canopy_web.planning import actions

    user = get_user_model().objects.create_user(f"bench-{time.time_ns()}")
    row = actions.create_plan(user, _busy_plan())
    client = Client()
    client.force_login(user)
    base = f"/plans/{row.pk}/spaces/busy/"

    def move(number: int, preview: str = "") -> None:
        values = {"x_m": str(0.35 + 0.002 * number), "z_m": str(0.9 + 0.001 * number), "preview": preview}
        answer = client.post(f"{base}light/part/fixtures/lamp-1/move/", values, headers={"HX-Request": "true"})
        assert answer.status_code == 200

    move(99)
    move(99, "1")
    name = "page: one lamp moved, 6 lamps and 20 plants, "
    _row(f"{name}while dragging", _middle(_times(lambda n: move(n, "1"))), "under 150 ms")
    _row(f"{name}settled", _middle(_times(lambda n: move(n + 30))), "under 1000 ms")
    typed = _times(lambda n: client.get("/library/crops/", {"q": "abcdefghijklmno"[n]}, headers={"HX-Request": "true"}))
    _row("page: crop list, one letter typed", _middle(typed), "under 100 ms")
    large = actions.create_plan(user, _large_plan())
    heavy = [f"/plans/{large.pk}/spaces/space-0/crops/", "/"]
    for path in heavy:
        cold = _times(lambda n, path=path: client.get(path), 1)
        what = "Crops station of 69 plants" if path != "/" else "household"
        _row(
            f"page: {what}, 200 plants in 12 spaces",
            _middle(_times(lambda n, path=path: client.get(path))),
            "under 400 ms",
        )
        _row(f"page: {what}, opened for the first time", _middle(cold), "")
    _row("page: workspace, nothing changed", _middle(_times(lambda n: client.get(f"{base}light/"))), "")


def command() -> None:
    """The command line from process start."""
    canopy = Path(sys.executable).parent / "canopy"
    act = lambda n: subprocess.run([str(canopy), "evaluate", str(DEMO)], check=True, stdout=subprocess.DEVNULL)
    act(0)
    _row("canopy evaluate of the demo, from process start", _middle(_times(act, 7)), "under 1500 ms")


def weight() -> None:
    """What the workspace page weighs on a first visit, as the real server sends it."""
    import urllib.request
    from http.cookiejar import CookieJar

    with served() as site:
        opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
        opener.addheaders = [("Accept-Encoding", "gzip")]

        def fetch(path: str, data: bytes | None = None) -> bytes:
            answer: bytes = opener.open(f"{site}{path}", data, timeout=20).read()
            return answer

        page = gzip.decompress(fetch("/account/sign-in/")).decode()
        token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)[1]
        fetch("/account/demo/", f"csrfmiddlewaretoken={token}".encode())
        raw = fetch("/plans/1/spaces/berry-tent/light/")
        page = gzip.decompress(raw).decode()
        css = gzip.decompress(fetch(re.search(r'"(/static/css/canopy[^"]*)"', page)[1])).decode()
        assets = set(re.findall(r'(?:href|src)="(/static/[^"]+)"', page))
        assets |= {f"/static/{path}" for path in re.findall(r'url\("\.\./([^"]+)"\)', css)}
        total = len(raw) + sum(len(fetch(path)) for path in assets)
    _row("workspace page, first visit, over the wire", f"{total / 1000:.0f} kB", "under 350 kB")


def server() -> None:
    """The real server on a port of its own: start, first page, edits, large households, memory."""
    import bench_edits
    import bench_large

    with served() as site:
        _row("server: start to first answer", f"{1000 * site.starts_s:.0f} ms", "under 2000 ms")
        visitor = bench_edits.Visitor(site, "bench-first")
        begin = time.perf_counter()
        visitor.get("/account/")
        _row("server: first page after the start", f"{1000 * (time.perf_counter() - begin):.0f} ms", "under 400 ms")
        bench_edits.examples(site, _row)
        bench_large.homes(site, _row)
        bench_large.full(site, _row)
    with served() as site:
        bench_edits.memory(site, _row)


if __name__ == "__main__":
    print(f"{'what':<66}{'got':>14}   wanted")
    for part in (core, light, air, climate, power, log, command, weight, pages, server):
        part()
