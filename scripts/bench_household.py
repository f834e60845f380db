"""A household of 12 spaces and 150 things on plugs: circuits by the minute, spread and stagger, care and calendar."""

from __future__ import annotations

import datetime as dt
import statistics
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from canopy.plan import Carrier, Circuit, Device, Outlet, Plan, load

Row = Callable[[str, str, str], None]


def _ms(act: Callable[[], Any], times: int = 5) -> float:
    """The middle of some runs, the first of which is not counted [ms]."""
    found = []
    for _ in range(times + 1):
        begin = time.perf_counter()
        act()
        found.append((time.perf_counter() - begin) * 1000)
    return statistics.median(found[1:])


def plugged(path: Path) -> Plan:
    """Twelve tents, each on a strip in an outlet of the hall."""
    plan = load(path)
    tent = plan.space("berry-tent")
    assert tent is not None
    spaces, outlets, carriers = [], [], []
    for number in range(12):
        outlets.append(Outlet(id=f"o{number}", name=f"Outlet {number}", circuit_id="hall"))
        carriers.append(Carrier(id=f"c{number}", name=f"Strip {number}", into=f"o{number}", limit_w=2300))
        devices = tuple(_pump(number, k, f"c{number}", 60) for k in range(9))
        spaces.append(tent.model_copy(update={"id": f"s{number}", "name": f"Space {number}", "devices": devices}))
    return plan.model_copy(update={"spaces": tuple(spaces), "outlets": tuple(outlets), "carriers": tuple(carriers)})


def _pump(number: int, k: int, plug: str | None, every: float, watts: float = 0.0) -> Device:
    return Device.model_validate(
        {
            "id": f"d{number}-{k}",
            "spec": {"name": f"Pump {k}", "kind": "pump", "power_w": watts or 20 + k},
            "plug": plug,
            "schedule": {"kind": "cycle", "on_min": 5 + k, "every_min": every},
        }
    )


def overloaded(path: Path) -> Plan:
    """The same on six of twelve circuits, with strong lamps, long cycles, a dryer and a heater on each."""
    plan = load(path)
    tent, hall = plan.space("berry-tent"), plan.circuits[0]
    assert tent is not None
    spaces, circuits = [], []
    for number in range(12):
        lamps = tuple(
            lamp.model_copy(update={"spec": lamp.spec.model_copy(update={"power_w": 500.0 + number}), "dim": 1.0})
            for lamp in tent.fixtures
        )
        devices = tuple(_pump(number, k, None, (60, 90, 120)[k % 3], 20 + 4 * k) for k in range(9))
        values = {"id": f"s{number}", "name": f"Space {number}", "circuit_id": f"c{number % 6}"}
        spaces.append(tent.model_copy(update={**values, "fixtures": lamps, "devices": devices}))
        circuits.append(Circuit.model_validate({**hall.model_dump(), "id": f"c{number}", "name": f"Circuit {number}"}))
    return plan.model_copy(update={"spaces": tuple(spaces), "circuits": tuple(circuits)})


def all_of(row: Row, path: Path) -> None:
    """Print every figure of a large household."""
    circuits(row, plugged(path))
    searches(row, overloaded(path))
    care(row, plugged(path))
    clock(row, plugged(path))
    kit(row, load(path))


def circuits(row: Row, plan: Plan) -> None:
    """Every circuit by the minute, and every margin of its tree."""
    from canopy.evaluate.power.loads import circuit_load, household_tree
    from canopy.evaluate.power.profile import day_of_circuits
    from canopy.evaluate.power.tree_margins import tree_margins

    def judge() -> None:
        tree = household_tree(plan)
        day_of_circuits(plan, tree=tree)
        for circuit in plan.circuits:
            circuit_load(plan, circuit, tree)
        for space in plan.spaces:
            tree_margins(space, tree)

    row("power: 12 spaces, 156 loads: by the minute, and all margins", f"{_ms(judge):.0f} ms", "under 200 ms")


def searches(row: Row, plan: Plan) -> None:
    """Both searches over twelve circuits that carry too much."""
    from canopy.design.power.spread import spread
    from canopy.design.power.stagger import stagger

    row("power: spread 156 loads over 12 circuits", f"{_ms(lambda: spread(plan), 2):.0f} ms", "under 3,000 ms")
    row("power: stagger 12 photoperiods, 72 cycles", f"{_ms(lambda: stagger(plan), 2):.0f} ms", "under 3,000 ms")


def care(row: Row, plan: Plan) -> None:
    """A year's work of 12 spaces and its calendar, their climate at hand."""
    from canopy.care import care_of, due
    from canopy.care.ics import Stamp, written
    from canopy.evaluate.kept import report_of

    reports = [report_of(plan, space, day=plan.date, follow=True) for space in plan.spaces]
    stamp = Stamp(made=dt.datetime(2026, 3, 14, tzinfo=dt.UTC), zone="Europe/Lisbon")

    def year() -> None:
        jobs = care_of(reports, plan.date)
        due(jobs, (), plan.date, plan.date + dt.timedelta(days=364))
        written(plan, jobs, plan.date, 365, stamp)

    row("day: a year's care and calendar of 12 spaces", f"{_ms(year):.0f} ms", "under 500 ms")


def clock(row: Row, plan: Plan) -> None:
    """An edge of the household's band: the lanes, what fights, and the drawing."""
    from canopy.evaluate.day.clock import lanes_of, moved
    from canopy.evaluate.day.conflicts import day_margins
    from canopy.plan.edit import apply
    from canopy.schedule import dark
    from canopy.season import cast_of, standing_of
    from canopy_web.drawing.day_band import day_band

    cast = cast_of(plan)

    def drag() -> None:
        tried = apply(plan, None, moved(plan, "s3", "fixtures.lamp-1", 400, 12))
        for space in tried.spaces:
            day_margins(tried, standing_of(space, plan.date, cast))
        blocks = ((each.name, each.id, lanes_of(tried, each), dark(each.lit)) for each in tried.spaces)
        day_band(blocks, headed=True)

    row("day: an edge dragged, 12 spaces on the band", f"{_ms(drag):.0f} ms", "under 150 ms")


def kit(row: Row, plan: Plan) -> None:
    """Kit and checklist of the demo household, and bars cut from stock."""
    import random

    from canopy.evaluate.kept import report_of
    from canopy.kit import kit_of
    from canopy.kit.build import build_of
    from canopy.kit.cutting import cut
    from canopy.kit.sheets import Piece, boards

    reports = [report_of(plan, space, day=plan.date, follow=True) for space in plan.spaces]

    def gather() -> None:
        kit_of(reports)
        for report in reports:
            build_of(report)

    row("kit: everything and every step of the demo household", f"{_ms(gather):.0f} ms", "under 150 ms")
    chance = random.Random(7)
    pieces = [chance.choice([310, 420, 555, 640, 790, 905, 1130, 1340]) for _ in range(60)]
    sizes = [Piece(name=str(n), wide_mm=chance.randint(80, 600), long_mm=chance.randint(200, 1900)) for n in range(60)]
    row("kit: 60 pieces cut out of boards", f"{_ms(lambda: boards(sizes, 600, 2000)):.0f} ms", "under 1,000 ms")
    row("kit: 60 pieces cut out of bars of 3 m", f"{_ms(lambda: cut(pieces, 3000)):.0f} ms", "under 1,000 ms")
