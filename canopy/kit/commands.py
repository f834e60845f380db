"""The commands of kit and build."""

from __future__ import annotations

import argparse
import csv
import json
import sys
from typing import Any


def kit_command(args: argparse.Namespace) -> None:
    """Print the kit of one space or of all.

    Parameters
    ----------
    args : with ``plan``, ``space`` and ``format``

    Raises
    ------
    CanopyError : the plan cannot be read, or there is no such space
    """
    from canopy.kit.gather import kit_of

    plan, spaces = _spaces(args)
    found = kit_of([_report(plan, space) for space in spaces])
    rows = [as_row(line) for line in found.lines]
    if args.format == "json":
        gone = [{"space": space, "what": what, "why": why.say()} for space, what, why in found.not_needed]
        cost = found.cost()
        whole = {"currency": plan.site.currency, "low": round(cost.low, 2), "high": round(cost.high, 2)}
        print(json.dumps({"lines": rows, "not_needed": gone, "to_buy": whole}, indent=1, ensure_ascii=False))
        return
    writer = csv.DictWriter(sys.stdout, fieldnames=list(rows[0]) if rows else ["key"], lineterminator="\n")
    writer.writeheader()
    writer.writerows(rows)


def as_row(line: Any, reader: Any = "metric") -> dict[str, Any]:
    """Write a line of the kit as a row of a table.

    Parameters
    ----------
    line : of the kit
    reader : whose units sizes are in

    Returns
    -------
    dict : texts and numbers by column
    """
    cost = line.cost
    return {
        "key": line.key,
        "space": line.where,
        "group": line.group,
        "what": line.name,
        "number": f"{line.number:g}",
        "unit": line.unit,
        "size": line.size.say(reader) if line.size else "",
        "for": line.what_for,
        "weight_kg": f"{line.weight_all_kg:.2f}" if line.weight_kg else "",
        "power_w": f"{line.number * line.power_w:g}" if line.power_w else "",
        "bears_kg": f"{line.bears_kg:g}" if line.bears_kg else "",
        "price_low": f"{cost.low:.2f}" if cost else "",
        "price_high": f"{cost.high:.2f}" if cost else "",
        "optional": "yes" if line.optional else "",
        "note": line.text,
    }


def build_command(args: argparse.Namespace) -> None:
    """Print the checklist of a space.

    Parameters
    ----------
    args : with ``plan``, ``space`` and ``units``

    Raises
    ------
    CanopyError : the plan cannot be read, or there is no such space
    """
    from canopy.kit.build import build_of
    from canopy.kit.dry import emptied

    plan, (space,) = _spaces(args)
    phase = ""
    for number, step in enumerate(build_of(_report(plan, space), emptied(plan, space)), 1):
        if step.phase != phase:
            phase = step.phase
            print(f"\n{phase.upper()}")
        print(f"[ ] {number}. {step.title}\n    {step.does.say(args.units)}\n    Right: {step.right.say(args.units)}")
        print(f"    Why: {step.why}")
        for caution in step.cautions:
            print(f"    ! {caution.name}: {caution.text}")


def drawing_command(args: argparse.Namespace) -> None:
    """Print a view of a space as SVG.

    Parameters
    ----------
    args : with ``plan``, ``space``, ``view`` and ``units``

    Raises
    ------
    CanopyError : the plan cannot be read, or there is no such space or view
    """
    from canopy.kit.drawn import drawing
    from canopy.season import cast_of, standing_of

    plan, (space,) = _spaces(args)
    here = standing_of(space, plan.date, cast_of(plan))
    print(drawing(here, args.view, units=args.units), end="")


def _spaces(args: argparse.Namespace) -> tuple[Any, tuple[Any, ...]]:
    from canopy.errors import PlanError, PlanProblem
    from canopy.plan import load

    plan = load(args.plan)
    if args.space is None:
        return plan, plan.spaces
    space = plan.space(args.space)
    if space is None:
        known = ", ".join(each.id for each in plan.spaces)
        raise PlanError([PlanProblem(path="spaces", message=f"there is no space “{args.space}”: it has {known}")])
    return plan, (space,)


def _report(plan: Any, space: Any) -> Any:
    from canopy.evaluate.kept import report_of

    return report_of(plan, space, follow=True)
