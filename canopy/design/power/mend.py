"""Ways out of what is plugged in where it must not be: another place for it, from what there is."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache

from canopy.design.change import Remedy
from canopy.design.power.spread import Spread, spread
from canopy.design.power.stagger import Stagger, stagger
from canopy.evaluate import SpaceReport
from canopy.evaluate.power.loads import household_tree
from canopy.evaluate.power.tree_margins import most_w
from canopy.library import find, rule_sets
from canopy.margin import Margin, sentence
from canopy.plan import dumps, loads
from canopy.plan.changes import Act, Add, Change
from canopy.plan.plugs import CARRIER_NAMES, Carrier, Outlet
from canopy.power import Hung, Node, Tree, coinciding_w
from canopy.power.tracing import plug_act

_TIMERS = ("timer", "smart-plug")
# So much of a limit is meant to be used.
_TO_SPARE = 0.8


@lru_cache(maxsize=4)
def _both(text: str) -> tuple[Stagger | None, Spread | None]:
    """Both searches of a plan, by its file's text: seconds in a large household, and asked for again on the click."""
    plan = loads(text)
    return stagger(plan), spread(plan)


def mend_circuit(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend a circuit that carries too much: times shifted, or things plugged in elsewhere, whichever moves less.

    Parameters
    ----------
    report : the space's report
    margin : its circuit's

    Returns
    -------
    Remedy : None where neither makes it legal
    """
    found = [item for item in _both(dumps(report.plan)) if item is not None and item.legal]
    return min(found, key=lambda item: len(item.remedy.changes)).remedy if found else None


def mend_outlet(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend an outlet that carries too much: the largest of this space's things go into a second one of its circuit.

    Parameters
    ----------
    report : the space's report
    margin : of one outlet for a space, or of an outlet that was named

    Returns
    -------
    Remedy : None where only another space's things could go
    """
    tree, first = household_tree(report.plan), margin.id == "power.outlet"
    key = report.space.circuit_id if first else margin.id.rpartition(".")[2]
    node, circuit = tree.nodes.get(str(key)), tree.circuit_of(key) if key in tree.nodes else None
    if node is None or circuit is None:
        return None
    rules = find(rule_sets(), circuit.rule_set_id, "rule set")
    rated = node.item.rated_a if isinstance(node.item, Outlet) and node.item.rated_a else rules.outlet_a
    full = min(rated, circuit.breaker_a) * circuit.mains_v
    lasting = min(rules.outlet_continuous_a, rated, rules.continuous_share * circuit.breaker_a) * circuit.mains_v
    stays = [hung for hung in tree.under(node.id) if not first or hung.space_id == report.space.id]
    if first:
        stays = [hung for hung in stays if hung.load.plug is None]
    taken: list[Hung] = []
    for hung in _movable(report, tree, node):
        if hung not in stays:
            continue
        loads = [item.load for item in stays]
        if (
            sum(load.va for load in loads) <= _TO_SPARE * full
            and sum(load.va for load in loads if load.continuous) <= _TO_SPARE * lasting
        ):
            break
        taken.append(hung)
        stays.remove(hung)
    if not taken or not stays:
        return None
    fresh = {
        "id": "second",
        "name": f"Second outlet on {circuit.name}"[:120],
        "circuit_id": circuit.id,
        "room_id": report.space.room_id,
    }
    plugged = (plug_act(report.space, item.load.part_id, {"plug": "second"}) for item in taken)
    names = ", ".join(dict.fromkeys(item.load.name for item in taken))
    return Remedy(
        label=sentence(f"Plug {names} into a second outlet on {circuit.name}"),
        changes=(Add(collection="outlets", parts=(fresh,), prefix="outlet"), *plugged),
    )


def circuit_ways(report: SpaceReport) -> Iterator[tuple[str, Remedy]]:
    """Find further ways to make circuits carry what hangs on them, as far as they go.

    Parameters
    ----------
    report : the space's report

    Returns
    -------
    iterator of tuple of str, Remedy : its key and the change
    """
    for key, found in zip(("stagger", "spread"), _both(dumps(report.plan)), strict=True):
        if found is not None:
            yield key, found.remedy


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
