"""Large households over HTTP: the page of all spaces, and a space as full as the forms allow."""

from __future__ import annotations

import re
import statistics
import time
from typing import Any

from bench_edits import Row, Visitor

_TURNS = 5


def _household(count: int) -> str:
    """Spaces of several kinds with plants of a dozen crops, as a plan file."""
    from canopy.design.start.answers import Answers
    from canopy.design.start.space import begin_space
    from canopy.plan import USUAL_ROOM, dumps, load
    from canopy.plan.edit import add_space
    from scripts.bench import DEMO

    plan = load(DEMO).model_copy(update={"spaces": (), "plantings": (), "rooms": (USUAL_ROOM,)})
    kinds = ("tent", "closet", "cabinet")
    for number in range(count):
        answers = Answers(
            space_id=f"space-{number}",
            name=f"Space {number}",
            kind=kinds[number % 3],
            width_m=1.1 + 0.03 * (number % 12),
            depth_m=0.8,
            height_m=1.8,
            crop_id="lettuce-butterhead" if number % 2 else "tatsoi",
            count=12,
            lamp_class_id="board-100",
            lamp_count=2,
            circuit_id="hall",
        )
        plan = add_space(plan, begin_space(answers))
    return dumps(plan)


def _full() -> str:
    """One tent with 60 lamps and 400 plants, each a copy of the first, in rows."""
    import json

    plan = json.loads(_household(1))
    space = plan["spaces"][0]
    space["size"] = {"width_m": 3.0, "depth_m": 3.0, "height_m": 2.2}
    lamp, plant = space["fixtures"][0], space["plants"][0]
    plant |= {"height_m": 0.18, "spread_m": 0.13, "pot_width_m": 0.11}
    space["fixtures"] = [
        lamp | {"id": f"lamp-{n}", "x_m": 0.25 + 0.27 * (n % 10), "y_m": 0.3 + 0.48 * (n // 10), "z_m": 1.2, "dim": 0.3}
        for n in range(60)
    ]
    space["plants"] = [
        plant | {"id": f"plant-{n}", "x_m": 0.12 + 0.145 * (n % 20), "y_m": 0.12 + 0.145 * (n // 20)}
        for n in range(400)
    ]
    return json.dumps(plan)


def homes(site: str, row: Row) -> None:
    """The page of all spaces right after an edit of one of them."""
    for count, wanted in ((12, "250 ms"), (60, "800 ms")):
        visitor = Visitor(site, f"bench-{count}")
        pk = visitor.bring(_household(count))
        for number in range(count):
            visitor.get(f"/plans/{pk}/card/space-{number}/")
        times = []
        for turn in range(_TURNS):
            move = {"dim": f"{0.9 - 0.05 * turn:.2f}"}
            visitor.post(f"/plans/{pk}/spaces/space-0/light/part/fixtures/lamp-1/move/", move)
            begin = time.perf_counter()
            visitor.get("/")
            times.append((time.perf_counter() - begin) * 1000)
        row(f"page: home of {count} spaces right after an edit", f"{statistics.median(times):.0f} ms", wanted)


def full(site: str, row: Row) -> None:
    """A space with as much in it as the forms allow: a lamp moved, a dimmer turned, a plant moved."""
    visitor = Visitor(site, "bench-full")
    pk = visitor.bring(_full())
    base = f"/plans/{pk}/spaces/space-0"
    page = visitor.get(f"{base}/light/")
    lamps, plants = (len(set(re.findall(rf'data-id="({kind}-\d+)"', page))) for kind in ("lamp", "plant"))
    acts: dict[str, tuple[str, Any]] = {
        "a lamp moved": ("light/part/fixtures/lamp-1/move/", lambda n: {"z_m": f"{1.5 - 0.01 * n:.3f}"}),
        "a dimmer turned": ("light/part/fixtures/lamp-1/move/", lambda n: {"dim": f"{0.9 - 0.05 * n:.2f}"}),
        "a plant moved": ("crops/part/plants/plant-1/move/", lambda n: {"x_m": f"{0.2 + 0.01 * n:.3f}"}),
    }
    for name, (path, values) in acts.items():
        times = []
        for turn in range(3):
            begin = time.perf_counter()
            visitor.post(f"{base}/{path}", values(turn))
            times.append((time.perf_counter() - begin) * 1000)
        row(f"edit: {lamps} lamps and {plants} plants, {name}", f"{statistics.median(times):.0f} ms", "1500 ms")
