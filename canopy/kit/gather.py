"""Everything that a plan implies, gathered line by line, held against what is owned; and what is not needed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import replace

from canopy.evaluate import SpaceReport
from canopy.kit.gathering.air import Air
from canopy.kit.gathering.devices import Devices, Watching
from canopy.kit.gathering.light import Light
from canopy.kit.gathering.needless import needless
from canopy.kit.gathering.plants import Plants, Water
from canopy.kit.gathering.power import Power
from canopy.kit.gathering.shell import Shell
from canopy.kit.line import Kit, KitLine
from canopy.margin import Sentence
from canopy.plan.document import Plan
from canopy.plan.owned import owned_of, planned

# In the order in which a space is built.
_TOPICS = (Shell, Light, Air, Devices, Plants, Water, Power, Watching)


def kit_of(reports: Iterable[SpaceReport]) -> Kit:
    """Gather the kit of some spaces of one plan.

    Parameters
    ----------
    reports : of spaces of one plan, with their climate where it was followed

    Returns
    -------
    Kit : in the order in which a space is built; what the household owns goes to the first that needs it, after what
        lamps, fans, filters and devices in spaces before these take
    """
    found = list(reports)
    lines: list[KitLine] = []
    unneeded: list[tuple[str, str, Sentence]] = []
    for report in found:
        for topic in _TOPICS:
            lines += topic(report).all()
        unneeded += [(report.space.name, what, why) for what, why in needless(report)]
    if found:
        lines = list(_with_owned(lines, found[0].plan, {report.space.id for report in found}))
    return Kit(lines=tuple(lines), not_needed=tuple(unneeded))


def _with_owned(lines: list[KitLine], plan: Plan, asked: set[str]) -> Iterator[KitLine]:
    left = owned_of(plan)
    if not left:
        yield from lines
        return
    first = min(number for number, space in enumerate(plan.spaces) if space.id in asked)
    left.subtract(Counter(like for space in plan.spaces[:first] if space.id not in asked for like in planned(space)))
    for line in lines:
        owned = min(line.number, max(0, left[line.like]))
        left[line.like] -= owned  # type: ignore[assignment]
        yield replace(line, owned=owned) if owned else line
