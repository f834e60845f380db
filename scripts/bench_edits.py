"""Edits of the examples and of larger plans over HTTP, as a browser sends them, and the server's memory after many."""

from __future__ import annotations

import json
import re
import statistics
import time
import uuid
from collections.abc import Callable, Iterator
from http.cookiejar import CookieJar
from pathlib import Path
from urllib.parse import urlencode
from urllib.request import HTTPCookieProcessor, OpenerDirector, Request, build_opener

from served import Site

ROOT = Path(__file__).resolve().parent.parent
EXAMPLES = sorted(path for path in (ROOT / "examples").rglob("*.json") if path.parent.name != "requests")
Row = Callable[[str, str, str], None]


class Visitor:
    """Somebody with an account of their own, as the server sees a browser."""

    def __init__(self, site: str, name: str) -> None:
        self.site, self.jar = site, CookieJar()
        self.opener: OpenerDirector = build_opener(HTTPCookieProcessor(self.jar))
        page = self.get("/account/sign-up/")
        fields = {"username": name, "password1": "tall-lamp-77", "password2": "tall-lamp-77"}
        self.token = _token(page)
        self.token = _token(self.post("/account/sign-up/", fields))

    def get(self, path: str) -> str:
        """Open a page."""
        answer: str = self.opener.open(self.site + path, timeout=120).read().decode()
        return answer

    def post(self, path: str, fields: dict[str, str]) -> str:
        """Send an act as the page does."""
        headers = {"HX-Request": "true"} if "/plans/" in path else {}
        body = urlencode({**fields, "csrfmiddlewaretoken": self.token}).encode()
        answer: str = self.opener.open(Request(self.site + path, body, headers), timeout=120).read().decode()
        return answer

    def bring(self, document: str) -> int:
        """Take in a plan file; gives the household's number."""
        mark = uuid.uuid4().hex
        parts = [("csrfmiddlewaretoken", "", self.token), ("file", "plan.json", document)]
        body = "".join(
            f'--{mark}\r\nContent-Disposition: form-data; name="{name}"'
            + (f'; filename="{file}"\r\nContent-Type: application/json' if file else "")
            + f"\r\n\r\n{text}\r\n"
            for name, file, text in parts
        )
        request = Request(
            f"{self.site}/plans/import/",
            f"{body}--{mark}--\r\n".encode(),
            {"Content-Type": f"multipart/form-data; boundary={mark}"},
        )
        page = self.opener.open(request, timeout=120).read().decode()
        return max(int(found) for found in re.findall(r"/plans/(\d+)/", page))


def _token(page: str) -> str:
    found = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page) or re.search(r'X-CSRFToken": "(\w+)"', page)
    assert found, "a page without its token"
    return found[1]


Edit = tuple[str, str, dict[str, str]]


def edits(pk: int, space: dict[str, object], turn: int) -> Iterator[Edit]:
    """Edits of a space at every station, none twice the same: what, where, and what is sent."""
    base = f"/plans/{pk}/spaces/{space['id']}"
    shift = 0.004 * (turn + 1)
    for lamp in space["fixtures"][:2]:  # type: ignore[index]
        move = {"x_m": f"{lamp['x_m'] + shift / 2:.4f}", "z_m": f"{max(0.1, lamp['z_m'] - shift):.4f}"}
        yield "lamp moved", f"{base}/light/part/fixtures/{lamp['id']}/move/", move
        yield (
            "lamp dimmed",
            f"{base}/light/part/fixtures/{lamp['id']}/move/",
            {"dim": f"{0.9 - 0.03 * (turn % 20):.2f}"},
        )
    for plant in space["plants"][:1]:  # type: ignore[index]
        move = {"x_m": f"{plant['x_m'] + shift / 3:.4f}", "y_m": f"{plant['y_m']:.4f}"}
        yield "plant moved", f"{base}/crops/part/plants/{plant['id']}/move/", move
    yield "room changed", f"{base}/space/room/", {"room-day_c": f"{20 + 0.1 * turn:.1f}"}
    for way in space["airways"][:1]:  # type: ignore[index]
        for part in way["parts"]:
            if part["kind"] == "fan":
                key = f"{way['id']}-{part['id']}"
                fields = {f"{key}-speed": f"{100 - 3 * (turn % 12)} %"}
                yield "fan slowed", f"{base}/air/way/{way['id']}/part/{part['id']}/", fields
                break
    for device in space["devices"][:1]:  # type: ignore[index]
        yield "device", f"{base}/power/part/devices/{device['id']}/", {f"{device['id']}-power_w": f"{20 + turn} W"}


def timed(visitor: Visitor, pk: int, plan: dict[str, object], turns: int, *, first: int = 0) -> dict[str, list[float]]:
    """Edit all spaces of a household in turns, opening other stations in between; times by kind of edit [ms]."""
    found: dict[str, list[float]] = {}
    stations = ("light", "air", "crops", "space", "power")
    for turn in range(first, first + turns):
        for number, space in enumerate(plan["spaces"]):  # type: ignore[arg-type]
            for what, path, fields in edits(pk, space, turn):
                begin = time.perf_counter()
                visitor.post(path, fields)
                found.setdefault(what, []).append((time.perf_counter() - begin) * 1000)
            visitor.get(f"/plans/{pk}/spaces/{space['id']}/{stations[(turn + number) % 5]}/")
    return found


def examples(site: str, row: Row, turns: int = 3) -> None:
    """Every example: all edits together, and the worst."""
    visitor = Visitor(site, "bench")
    every: list[float] = []
    for path in EXAMPLES:
        plan = json.loads(path.read_text())
        pk = visitor.bring(path.read_text())
        # The first look reads libraries and solves everything once.
        for space in plan["spaces"]:
            visitor.get(f"/plans/{pk}/spaces/{space['id']}/light/")
        found = timed(visitor, pk, plan, turns)
        values = [value for kind in found.values() for value in kind]
        worst = max(found, key=lambda kind: max(found[kind]))
        every += values
        text = f"{statistics.median(values):.0f} / {max(values):.0f} ms"
        row(f"edit: {path.stem} (worst: {worst})", text, "200 / 500 ms")
    row("edit: all examples", f"{statistics.median(every):.0f} / {max(every):.0f} ms", "200 / 500 ms")


def memory(site: Site, row: Row, count: int = 1400) -> None:
    """What the server holds after many edits of all examples, each in its turn."""
    visitor = Visitor(site, "bench-memory")
    plans = [(visitor.bring(path.read_text()), json.loads(path.read_text())) for path in EXAMPLES]
    row("memory: resident after the examples were taken in", f"{site.resident_mb:.0f} MB", "")
    done = turn = 0
    while done < count:
        for pk, plan in plans:
            done += sum(len(values) for values in timed(visitor, pk, plan, 1, first=turn).values())
        turn += 1
    row(f"memory: resident after {done} varied edits", f"{site.resident_mb:.0f} MB", "under 300 MB")
