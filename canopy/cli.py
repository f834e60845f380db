"""The command line: evaluate a plan, ask for light, air, power or a calendar, list the library, print the schema."""

from __future__ import annotations

import argparse
import csv
import datetime as dt
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from canopy import __version__
from canopy.designer.commands import design_command
from canopy.errors import CanopyError, PlanError
from canopy.kit.commands import build_command, drawing_command, kit_command

if TYPE_CHECKING:
    from canopy.plan import Plan, Space


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="canopy", description="Plan light, air and power for a small growing space.")
    parser.add_argument("--version", action="version", version=f"canopy {__version__}")
    commands = parser.add_subparsers(dest="command", required=True)
    evaluate = commands.add_parser("evaluate", help="print the report of a plan file")
    evaluate.add_argument("plan", type=Path)
    evaluate.add_argument("--format", choices=("text", "json"), default="text")
    evaluate.add_argument(
        "--date", type=dt.date.fromisoformat, help="the day to look at (YYYY-MM-DD); the plan's own without"
    )
    evaluate.add_argument("--units", choices=("metric", "us"), default="metric")
    evaluate.add_argument("--working", action="store_true", help="show the working of every margin (text)")
    evaluate.add_argument("--fine", action="store_true", help="cut the walls finer: slower, a little more exact")
    light = commands.add_parser("light", help="print PPFD at points as CSV")
    light.add_argument("plan", type=Path)
    light.add_argument("--space", required=True, help="id of the space")
    light.add_argument("--points", required=True, type=Path, help="CSV with x_m,y_m,z_m and optional nx,ny,nz")
    light.add_argument("--date", type=dt.date.fromisoformat, help="the day to look at; the plan's own without")
    light.add_argument("--fine", action="store_true", help="cut the walls finer: slower, a little more exact")
    air = commands.add_parser("air", help="print every speed step of a space's ways of air as CSV")
    air.add_argument("plan", type=Path)
    air.add_argument("--space", required=True, help="id of the space")
    climate = commands.add_parser("climate", help="follow a space's warmth, humidity and CO2 through days, as CSV")
    climate.add_argument("plan", type=Path)
    climate.add_argument("--space", required=True, help="id of the space")
    climate.add_argument("--date", type=dt.date.fromisoformat, help="the day to look at; the plan's own without")
    climate.add_argument("--hours", type=int, default=72, help="how long, 24 to 240 (default 72)")
    climate.add_argument(
        "--weather",
        type=Path,
        help="CSV of hourly weather from the day on (time, temperature, humidity or dew point): the air outdoors for a "
        "room that follows it, else the room's own",
    )
    climate.add_argument("--step", type=float, default=20.0, help="length of a step [s], 1 to 60 (default 20)")
    climate.add_argument("--summary", action="store_true", help="print the last day's figures instead")
    power = commands.add_parser("power", help="print every circuit's load by minute as CSV, or the margins as JSON")
    power.add_argument("plan", type=Path)
    power.add_argument(
        "--day", choices=["typical", "coldest", "hottest"], default="typical", help="which day's climate"
    )
    power.add_argument("--format", choices=["csv", "json"], default="csv")
    power.add_argument(
        "--date", type=dt.date.fromisoformat, help="a date, for days of 23 and 25 hours where the household lies (CSV)"
    )
    timers = commands.add_parser("timers", help="print what to set on every timer and controller, plug by plug")
    timers.add_argument("plan", type=Path)
    calendar = commands.add_parser("calendar", help="print recurring work and lamps' hours as iCalendar")
    calendar.add_argument("plan", type=Path)
    calendar.add_argument("--from", dest="begins", type=dt.date.fromisoformat, help="first day; today without")
    calendar.add_argument("--days", type=_days, default=365, help="how many days, 1 to 1100 (default 365)")
    calendar.add_argument("--units", choices=("metric", "us"), default="metric")
    kit = commands.add_parser("kit", help="print everything that a plan implies, to buy or to have")
    kit.add_argument("plan", type=Path)
    kit.add_argument("--space", help="id of one space; all without")
    kit.add_argument("--format", choices=("csv", "json"), default="csv")
    build = commands.add_parser("build", help="print the checklist from an empty place to a planted space")
    build.add_argument("plan", type=Path)
    build.add_argument("--space", required=True, help="id of the space")
    build.add_argument("--units", choices=("metric", "us"), default="metric")
    drawn = commands.add_parser("drawing", help="print a view of a space as SVG, one unit a millimetre")
    drawn.add_argument("plan", type=Path)
    drawn.add_argument("--space", required=True, help="id of the space")
    drawn.add_argument("--view", default="front", help="front, side, plan, or a face such as face:left")
    drawn.add_argument("--units", choices=("metric", "us"), default="metric")
    design = commands.add_parser("design", help="answer a request with whole kits: what to buy and where it hangs")
    design.add_argument("request", type=Path, help="JSON: spaces with crops, budget, likes, what is not wanted")
    design.add_argument("--tries", type=int, default=45, help="how many whole kits to try (default 45)")
    design.add_argument("--seconds", type=float, help="stop after so long with what was found")
    design.add_argument("--plans", type=Path, help="folder to write the alternatives' plans to")
    design.add_argument("--format", choices=("text", "json"), default="text")
    design.add_argument("--units", choices=("metric", "us"), default="metric")
    library = commands.add_parser("library", help="list what the library holds")
    library.add_argument(
        "kind",
        help="crops, materials, fixtures, fans, filters, ducts, fittings, adapters, stirrers, rule-sets, sources …",
    )
    library.add_argument("--format", choices=("text", "json"), default="text")
    commands.add_parser("schema", help="print the JSON Schema of the plan file")
    return parser


def _evaluate(args: argparse.Namespace) -> None:
    from canopy.plan import load

    plan = load(args.plan)
    from canopy.evaluate import evaluate
    from canopy.light.scene import DEFAULT, FINE
    from canopy.report import as_data, as_text

    report = evaluate(plan, day=args.date, quality=FINE if args.fine else DEFAULT, with_map=False)
    if args.format == "json":
        json.dump(as_data(report), sys.stdout, indent=1, ensure_ascii=False)
        sys.stdout.write("\n")
    else:
        sys.stdout.write(as_text(report, system=args.units, working=args.working))


def _space(plan: Plan, space_id: str) -> Space:
    space = plan.space(space_id)
    if space is None:
        known = ", ".join(item.id for item in plan.spaces) or "none"
        raise CanopyError(f"the plan has no space “{space_id}”; it has: {known}")
    return space


def _air(args: argparse.Namespace) -> None:
    from canopy.air.operating import operating_points
    from canopy.plan import load

    plan = load(args.plan)
    space = _space(plan, args.space)
    out = csv.writer(sys.stdout, lineterminator="\n")
    out.writerow(["way", "speed", "flow_m3_h", "fan_pa", "path_pa", "space_pa", "power_w", "stalls", "head_pa"])
    for airway in space.airways:
        for point in operating_points(plan, space, airway):
            figures = (point.flow_m3_h, point.lift_pa, point.loss_pa, point.space_pa, point.power_w)
            out.writerow(
                [
                    airway.id,
                    f"{point.speed:g}",
                    *(f"{value:.4f}" for value in figures),
                    str(point.stalls).lower(),
                    f"{point.head_pa:.4f}",
                ]
            )


def _light(args: argparse.Namespace) -> None:
    from canopy.evaluate.light.lighting import crowns_of
    from canopy.light.points import light_at_points, read_points
    from canopy.light.scene import FINE, POINTS
    from canopy.plan import load
    from canopy.season import cast_of, standing_of

    plan = load(args.plan)
    space = _space(plan, args.space)
    points, normals = read_points(args.points)
    day = args.date or plan.date
    crowns = crowns_of(standing_of(space, day, cast_of(plan)))
    ppfd = light_at_points(space, points, normals, FINE if args.fine else POINTS, crowns=crowns, day=day)
    out = csv.writer(sys.stdout, lineterminator="\n")
    out.writerow(["x_m", "y_m", "z_m", "nx", "ny", "nz", "ppfd_umol_m2_s"])
    for point, normal, value in zip(points, normals, ppfd, strict=True):
        out.writerow([*(f"{v:.6g}" for v in (*point, *normal)), f"{value:.4f}"])


def _power(args: argparse.Namespace) -> None:
    import numpy as np

    from canopy.evaluate.kept import report_of
    from canopy.evaluate.power.profile import day_of_circuits
    from canopy.plan import load
    from canopy.power.cost import minutes_on

    plan = load(args.plan)
    if args.format == "json":
        found = {}
        for space in plan.spaces:
            margins = report_of(plan, space).margins
            found[space.id] = [
                {
                    "id": margin.id,
                    "title": margin.title,
                    "verdict": margin.verdict,
                    "need": margin.need.say(),
                    "there": margin.there.say(),
                    "why": margin.why.say(),
                }
                for margin in margins
                if margin.station == "power"
            ]
        print(json.dumps(found, indent=1, ensure_ascii=False))
        return
    circuits = day_of_circuits(plan, _SEASONS[args.day])
    columns = []
    for day in circuits:
        columns += [(f"{day.circuit.id}_W", day.total), (f"{day.circuit.id}_may_coincide_W", day.may_coincide)]
        for line in day.lines:
            name = f"{day.circuit.id}/{line.hung.space_id or 'household'}/{line.hung.load.part_id}"
            # What may start at any time has no minutes: its power, and in the sum of none.
            whole = np.full_like(line.watts, line.hung.load.power_w)
            columns.append((f"{name}_W", line.watts) if line.timed else (f"{name}_any_time_W", whole))
    writer = csv.writer(sys.stdout, lineterminator="\n")
    writer.writerow(["minute", *(name for name, _ in columns)])
    # Minutes as the clock on the wall shows them: an hour left out, or told twice.
    for minute in minutes_on(args.date, plan.site.time_zone) if args.date else range(1440):
        writer.writerow([minute, *(f"{values[minute]:.1f}" for _, values in columns)])


def _days(text: str) -> int:
    days = int(text)
    if not 1 <= days <= 1100:
        raise argparse.ArgumentTypeError("give 1 to 1100 days")
    return days


def _calendar(args: argparse.Namespace) -> None:
    from canopy.care import care_of
    from canopy.care.ics import Stamp, written
    from canopy.evaluate.kept import report_of
    from canopy.plan import load

    plan, begins = load(args.plan), args.begins or dt.date.today()
    made = dt.datetime.fromtimestamp(args.plan.stat().st_mtime, dt.UTC).replace(microsecond=0)
    reports = [report_of(plan, space, day=begins, follow=True) for space in plan.spaces]
    jobs = care_of(reports, begins, args.days)
    stamp = Stamp(made=made, zone=plan.site.time_zone)
    sys.stdout.buffer.write(written(plan, jobs, begins, args.days, stamp, reader=args.units))


def _timers(args: argparse.Namespace) -> None:
    from canopy.care.watering import water_timer
    from canopy.evaluate.kept import report_of
    from canopy.evaluate.power.timers import timer_sheet
    from canopy.plan import load

    plan = load(args.plan)
    for space in plan.spaces:
        if space.watering.way in ("drip", "spray", "gravity"):
            water = water_timer(report_of(plan, space, follow=True))
            print(f"Water\n  {space.name}: {water.say() if water else ''}")
    for place in timer_sheet(plan):
        print(" › ".join((*place.way, place.name)) + (f" ({place.kind})" if place.kind else ""))
        for note in place.notes:
            print(f"  ! {note}")
        for entry in place.lines:
            print(f"  {entry.where}: {entry.name}")
            for item in entry.settings:
                print(f"    {item.say()}")
            for note in entry.notes:
                print(f"    ! {note}")


_SEASONS: dict[str, Literal["day", "coldest", "hottest"]] = {
    "typical": "day",
    "coldest": "coldest",
    "hottest": "hottest",
}


def _climate(args: argparse.Namespace) -> None:
    from canopy.climate.engine import run
    from canopy.evaluate.climate.building import system_of
    from canopy.evaluate.climate.table import rows_of, summary_of
    from canopy.evaluate.light.lighting import lighting
    from canopy.plan import load
    from canopy.season import cast_of, standing_of
    from canopy.weather.reading import MOST_BYTES, read_hours

    if not 24 <= args.hours <= 240:
        raise CanopyError(f"{args.hours} hours cannot be followed: give 24 to 240")
    if not 1 <= args.step <= 60:
        raise CanopyError(f"a step of {args.step:g} s is not followed: give 1 to 60")
    plan = load(args.plan)
    here = standing_of(_space(plan, args.space), args.date or plan.date, cast_of(plan))
    weather = None
    if args.weather:
        if args.weather.stat().st_size > MOST_BYTES:
            raise CanopyError(f"{args.weather} is larger than 10 MB: a year of hours takes less than half a megabyte")
        weather = read_hours(args.weather.read_text(encoding="utf-8-sig")).part(here.day, args.hours)
    light = lighting(here, with_map=False)
    built = system_of(plan, here, light, hours=args.hours, step_s=args.step, weather=weather)
    days = run(built.system)
    writer = csv.writer(sys.stdout)
    table = summary_of(days, here.space) if args.summary else rows_of(days, here.space)
    writer.writerows(table)


def _library(args: argparse.Namespace) -> None:
    from canopy.library import SHELVES, sources

    if args.kind not in SHELVES:
        raise CanopyError(f"the library has no “{args.kind}”; it has: {', '.join(SHELVES)}")
    rows = SHELVES[args.kind]()
    if args.format == "json":
        cited = {key: source.model_dump(mode="json") for key, source in sources().items()}
        data = {"kind": args.kind, "rows": [row.model_dump(mode="json") for row in rows.values()], "sources": cited}
        json.dump(data, sys.stdout, indent=1, ensure_ascii=False)
        sys.stdout.write("\n")
        return
    for key, row in rows.items():
        spec = getattr(row, "spec", None)
        texts = (getattr(item, what, "") for what in ("name", "title", "note") for item in (row, spec))
        name = next((text for text in texts if text), "")
        print(f"{key:<26}{name}".rstrip())


def _schema(args: argparse.Namespace) -> None:
    from canopy.logs.files import file_schema

    json.dump(file_schema(), sys.stdout, indent=1, ensure_ascii=False)
    sys.stdout.write("\n")


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line.

    Parameters
    ----------
    argv : arguments without the program's name; the process's own when None

    Returns
    -------
    int : 0 when done, 1 when something is wrong (said on standard error), 2 for wrong arguments
    """
    args = _parser().parse_args(argv)
    run = {
        "evaluate": _evaluate,
        "light": _light,
        "air": _air,
        "climate": _climate,
        "power": _power,
        "timers": _timers,
        "calendar": _calendar,
        "kit": kit_command,
        "build": build_command,
        "design": design_command,
        "drawing": drawing_command,
        "library": _library,
        "schema": _schema,
    }[args.command]
    try:
        run(args)
    except PlanError as error:
        asked = getattr(args, "request", None)
        words = f"{asked}: the request cannot be answered" if asked else f"{args.plan}: the plan cannot be used"
        print(f"canopy: {words}", file=sys.stderr)
        for problem in error.problems:
            print(f"  {problem}", file=sys.stderr)
        return 1
    except CanopyError as error:
        print(f"canopy: {error}", file=sys.stderr)
        return 1
    except BrokenPipeError:
        return 0
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
