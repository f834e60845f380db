"""Bench of whole kits: how soon there is an answer, how near the best there is, and whether each answer holds.

Run by itself: ``python scripts/bench_designer.py``; with ``all`` every request of the examples is answered whole.
"""

from __future__ import annotations

import datetime as dt
import sys
import time
from dataclasses import replace
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
DAY = dt.date(2026, 11, 28)
# Small cases that are searched whole: requests, and which lamps they may have.
SMALL = (("pepper-tent", ("board-100", "bar-30-fruit")), ("shoots-rack", ("bar-45", "shop-light-40", "strip-18")))
SOON = ("pepper-tent", "salad-closet", "orchid-case")


def _row(name: str, got: str, wanted: str) -> None:
    print(f"{name:<66}{got:>14}   {wanted}", flush=True)


def main() -> None:
    """Print the figures, each beside what it must reach."""
    from canopy.designer.crops_for import CropFinder
    from canopy.designer.design import designer_for
    from canopy.designer.mending import Mender
    from canopy.designer.request import read_request
    from canopy.designer.search import KINDS, Search
    from canopy.evaluate.kept import report_of
    from canopy.plan import load

    requests = {path.stem: read_request(path) for path in sorted((ROOT / "examples" / "requests").glob("*.json"))}
    answered(designer_for(requests["sill-herbs"], DAY, most=2))
    for name in sorted(requests) if "all" in sys.argv else SOON:
        designer = designer_for(requests[name], DAY)
        designer.helps = "all" in sys.argv
        first, three, whole = answered(designer)
        _row(f"{name}: first complete answer", f"{first:.1f} s", "≤ 5 s")
        _row(f"{name}: three alternatives", f"{three:.1f} s", "≤ 30 s")
        found = designer.answers()
        good = sum(item.outcome.weight < 1e-9 for item in found)
        _row(f"{name}: alternatives with nothing short or over", f"{good} of {len(found)}", f"all ({whole:.0f} s)")
    for name, classes in SMALL:
        designer = designer_for(requests[name], DAY, most=2)
        designer.classes, designer.helps = classes, False
        answered(designer)
        assert designer.search is not None
        assert designer.search.choices is not None
        few = designer.search.choices
        few = replace(few, lamps=few.lamps[:4], vents=few.vents[:4], flows=few.flows[:2], controls=(False,))
        few = replace(few, equips=("today",))
        brute = Search(designer.search.maker, designer.search.limits, choices=few, most=len(few))
        brute.run()
        quick = Search(designer.search.maker, designer.search.limits, choices=few, most=max(6, len(few) // 3))
        quick.run()
        worst = 0.0
        for kind in KINDS:
            best, mine = brute.best(kind), quick.best(kind)
            if best and mine:
                worst = max(worst, quick.score(kind, mine.figures) / brute.score(kind, best.figures) - 1)
        tried = f"{len(quick.tried)} of {len(brute.tried)} plans"
        _row(f"{name}: worst of five kinds over brute force", f"{worst:.1%}", f"≤ 3 %, with {tried}")
    plan = load(ROOT / "examples" / "demo-household.json")
    for space in plan.spaces:
        report = report_of(plan, space, follow=True)
        begin = time.perf_counter()
        mending = Mender(report).run()
        took = time.perf_counter() - begin
        wanted = "≤ 20 s" if space.kind == "tent" else ""
        _row(f"mend everything, {space.name} ({len(mending.steps)} steps)", f"{took:.1f} s", wanted)
        begin = time.perf_counter()
        CropFinder(report).run()
        _row(f"crops for {space.name}", f"{time.perf_counter() - begin:.1f} s", "≤ 5 s")


def answered(designer) -> tuple[float, float, float]:  # type: ignore[no-untyped-def]
    """Answer a request whole; gives after how long there was one answer, three of them, and all [s]."""
    begin, first, three, known = time.perf_counter(), 0.0, 0.0, 0
    while designer.go_on():
        search = designer.search
        if search is None or len(search.working) == known:
            continue
        known, now = len(search.working), time.perf_counter() - begin
        first = first or now
        if not three and len({search.best(kind).number for kind in _kinds()}) >= 3:
            three = time.perf_counter() - begin
    whole = time.perf_counter() - begin
    return first or whole, three or whole, whole


def _kinds() -> tuple[str, ...]:
    from canopy.designer.search import KINDS

    return KINDS


if __name__ == "__main__":
    main()
