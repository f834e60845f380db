"""The one change that mends most of a group of margins."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from canopy.design.change import Remedy
from canopy.design.light.dimmers import set_dimmers
from canopy.design.light.heights import find_height
from canopy.design.light.moving import move_lamps
from canopy.design.light.places import place_plants
from canopy.design.light.proposal import Proposal
from canopy.design.preview import Moved, preview
from canopy.design.remedies import remedy_for
from canopy.errors import PlanError
from canopy.evaluate.grouping import Group
from canopy.evaluate.space import SpaceReport
from canopy.light.scene import PREVIEW
from canopy.margin import Margin
from canopy.season import Standing

# Of one kind and verdict one margin is asked for its ways out, and of a group so many.
_ASKED = 4
Tool = Callable[[Standing], Proposal | None]
_QUICK: tuple[tuple[str, Tool], ...] = (("dimmers", set_dimmers), ("height", find_height))
_SLOW: tuple[tuple[str, Tool], ...] = (("move", move_lamps), ("places", place_plants))


@dataclass(frozen=True, kw_only=True)
class GroupOption:
    """A change, how many of a group's margins it mends, and which others it makes worse."""

    key: str
    remedy: Remedy
    mended: int
    of: int
    worse: tuple[Moved, ...]


def best_for(report: SpaceReport, group: Group, key: str = "", *, deep: bool = True) -> tuple[GroupOption, ...]:
    """Find the changes that mend most of a group.

    Parameters
    ----------
    report : the space's report as it is at hand
    group : one of its groups
    key : only the change of this key; all when empty
    deep : ask what takes long too, such as moving each lamp, where small changes do not mend all

    Returns
    -------
    tuple of GroupOption : each mends at least one; what mends most first, then what makes least worse, then what
        changes least; those that make things worse than they mend are left out
    """
    found: list[GroupOption] = []
    for name, remedy in _candidates(report, group, key, deep=deep):
        if any(remedy.changes == other.remedy.changes for other in found):
            continue
        try:
            moved = preview(report, remedy, PREVIEW)
        except PlanError:
            continue
        ids = {margin.id for margin in group.margins}
        mended = sum(1 for item in moved if item.before and item.before.id in ids and _mended(item))
        worse = tuple(item for item in moved if item.worse)
        if mended > len(worse):
            found.append(GroupOption(key=name, remedy=remedy, mended=mended, of=len(group.margins), worse=worse))
            if mended == len(group.margins) and not worse:
                break
    return tuple(sorted(found, key=lambda item: (-item.mended, len(item.worse), len(item.remedy.changes))))


def _mended(item: Moved) -> bool:
    if item.after is None:
        return True
    broken = item.before is not None and item.before.verdict in ("short", "over")
    return item.after.verdict == "good" or (broken and item.after.verdict == "tight")


def _candidates(report: SpaceReport, group: Group, key: str, *, deep: bool) -> Iterator[tuple[str, Remedy]]:
    """Small changes first: what comes later is only asked for while nothing mends the whole group."""
    light = group.key == "light.light"
    if light:
        yield from _tools(report, key, _QUICK)
    for margin in _asked(group):
        if key in ("", margin.id):
            found = remedy_for(report, margin.id)
            if found is not None:
                yield margin.id, found
    if light and deep:
        yield from _tools(report, key, _SLOW)


def _tools(report: SpaceReport, key: str, tools: tuple[tuple[str, Tool], ...]) -> Iterator[tuple[str, Remedy]]:
    for name, tool in tools:
        found = tool(report.here) if key in ("", name) else None
        if found is not None:
            yield name, Remedy(label=found.label, changes=found.changes)


def _asked(group: Group) -> list[Margin]:
    """One of each kind and verdict, those that can be mended."""
    kinds: dict[tuple[str, str], Margin] = {}
    for margin in group.margins:
        if margin.mendable:
            kinds.setdefault((".".join(margin.id.split(".")[:2]), margin.verdict), margin)
    return list(kinds.values())[:_ASKED]
