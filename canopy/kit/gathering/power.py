"""Cords, strips, timers and what protects people."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.evaluate.power.cord_runs import cord_runs
from canopy.evaluate.power.loads import household_tree
from canopy.kit.gathering.base import Lines, long
from canopy.kit.line import KitLine
from canopy.plan.document import Space
from canopy.plan.plugs import CARRIER_NAMES
from canopy.power import Tree
from canopy.words import capital

# A cord longer than what devices bring needs an extension [m].
_OWN_CORD_M = 1.8


class Power(Lines):
    """Lines of what brings electricity to a space."""

    def all(self) -> Iterator[KitLine]:
        """Give strips, timers, cords, protection and grommets."""
        tree = household_tree(self.plan)
        mine = [node for node in tree.touching(self.space.id) if node.kind == "carrier"]
        for node in mine:
            kind = getattr(node.item, "kind", "strip")
            name = f"{capital(CARRIER_NAMES[kind])}: {node.name}"
            yield self.little("power", kind, 1, "as it is plugged in the plan", name=name, key=f"carrier.{node.id}")
        if not any(getattr(node.item, "kind", "") == "strip" for node in mine) and self.report.running.loads:
            yield self.little("power", "strip", 1, "for all of this space, in an outlet of its own")
        timers = _timers_lacking(self.space, tree)
        if timers:
            yield self.little("power", "timer", timers, "one for each set of hours without a timer in the plan")
        for run in cord_runs(self.plan, self.space, tree):
            if run.outside_m is not None and run.needs_m > _OWN_CORD_M:
                yield self.little(
                    "power",
                    "cord",
                    1,
                    run.name,
                    key=f"cord.{run.part_id}",
                    size=long(run.needs_m),
                    parts=(run.part_id,),
                )
        yield from self._protection()
        cables = [opening for opening in self.space.openings if opening.use == "cable"]
        if cables:
            yield self.little(
                "power", "grommet", len(cables), "in holes for cords", parts=tuple(item.id for item in cables)
            )

    def _protection(self) -> Iterator[KitLine]:
        water = self.report.margin("power.water")
        if water is not None and water.verdict in ("short", "unknown"):
            yield self.little("power", "rcd-adapter", 1, "there is water: before everything else in the outlet")
        elif water is None and self.report.running.loads and self.report.here.plants:
            words = "unless its outlet has a residual-current device: nobody has said"
            yield self.little("power", "rcd-adapter", 1, words, optional=True)


def _timers_lacking(space: Space, tree: Tree) -> int:
    """Sets of hours that no timer in the plan stands for."""
    hours = set()
    for lamp in space.fixtures:
        if not lamp.enabled or lamp.schedule.kind != "daily" or not 0 < lamp.schedule.hours < 24:
            continue
        way = tree.way(lamp.plug) if lamp.plug in tree.nodes else ()
        if not any(getattr(node.item, "kind", "") in ("timer", "smart-plug") for node in way):
            hours.add((lamp.schedule.start, lamp.schedule.hours))
    return len(hours)
