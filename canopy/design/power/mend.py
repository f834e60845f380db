"""Ways out of what is plugged in where it must not be: another place for it, from what there is."""

from __future__ import annotations

from canopy.design.change import Remedy
from canopy.evaluate import SpaceReport
from canopy.evaluate.power.loads import household_tree
from canopy.evaluate.power.tree_margins import most_w
from canopy.margin import Margin, sentence
from canopy.plan.changes import Act, Change
from canopy.plan.plugs import CARRIER_NAMES, Carrier, Outlet
from canopy.power import Hung, Node, Tree, coinciding_w
from canopy.power.tracing import plug_act

_TIMERS = ("timer", "smart-plug")
# So much of a limit is meant to be used.
_TO_SPARE = 0.8


def mend_plug(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend a strip, timer or cord: out of another strip, wound off, heaters past a timer, or less on it.

    Parameters
    ----------
    report : the space's report
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : None where only another space or another cord would help
    """
    tree = household_tree(report.plan)
    node = tree.nodes.get(margin.id.rpartition(".")[2])
    if node is None or not isinstance(node.item, Carrier):
        return None
    outlet = next((up for up in tree.way(node.parent) if isinstance(up.item, Outlet)), None)
    chained = any(isinstance(up.item, Carrier) and up.item.kind in ("strip", "reel") for up in tree.way(node.parent))
    if node.item.kind == "strip" and chained and outlet is not None:
        return Remedy(
            label=sentence(f"Plug {node.name} straight into {outlet.name}"),
            changes=(Change(collection="carriers", part_id=node.id, values={"into": outlet.id}),),
        )
    if node.item.coiled:
        return Remedy(
            label=sentence(f"Wind {node.name} off to its end"),
            changes=(Change(collection="carriers", part_id=node.id, values={"coiled": False}),),
        )
    if node.item.kind in _TIMERS and not node.item.heaters:
        warm = [hung for hung in _movable(report, tree, node) if hung.load.kind_id in ("heater", "mat", "incandescent")]
        if warm:
            return _out(report, node, warm, f"past the {CARRIER_NAMES[node.item.kind]}")
    return _lighter(report, tree, node) if margin.verdict == "over" else None


def _movable(report: SpaceReport, tree: Tree, node: Node) -> list[Hung]:
    """What of this space hangs on it and is not pinned there, the largest first; linked lamps stay together."""
    mine = (hung for hung in tree.under(node.id) if hung.space_id == report.space.id)
    return sorted((h for h in mine if not h.load.pinned and not h.load.chain), key=lambda h: -h.load.va)


def _out(report: SpaceReport, node: Node, hung: list[Hung], where: str) -> Remedy:
    acts: tuple[Act, ...] = tuple(plug_act(report.space, item.load.part_id, {"plug": node.parent}) for item in hung)
    names = ", ".join(dict.fromkeys(item.load.name for item in hung))
    return Remedy(label=sentence(f"Plug {names} in {where}"), changes=acts)


def _lighter(report: SpaceReport, tree: Tree, node: Node) -> Remedy | None:
    """Take the largest off it until the rest, as it coincides, is well under what it carries."""
    limit = most_w(tree, node)
    if limit is None:
        return None
    stays, taken = list(tree.under(node.id)), []
    for hung in _movable(report, tree, node):
        if coinciding_w([item.load for item in stays], apparent=True).max() <= _TO_SPARE * limit:
            break
        taken.append(hung)
        stays.remove(hung)
    return _out(report, node, taken, f"beside {node.name}, not through it") if taken else None
