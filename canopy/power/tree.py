"""The tree from a household's circuits over outlets, strips, timers and cords to what draws."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from canopy.plan.document import Circuit, Plan
from canopy.plan.plugs import Carrier, Outlet
from canopy.power.load import Load, other_loads

HOUSEHOLD = ""


@dataclass(frozen=True, kw_only=True)
class Hung:
    """A load where it hangs: its space's id and name, those of the household for its other loads."""

    space_id: str
    where: str
    load: Load


@dataclass(frozen=True, kw_only=True, eq=False)
class Node:
    """A circuit, an outlet, or a strip, timer, plug or cord: what it is plugged into, and what is plugged into it."""

    id: str
    kind: Literal["circuit", "outlet", "carrier"]
    name: str
    item: Circuit | Outlet | Carrier
    parent: str | None
    own: tuple[Hung, ...] = ()
    children: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True, eq=False)
class Tree:
    """All nodes by id, circuits first; ``loose`` is what hangs on no circuit that is known."""

    nodes: Mapping[str, Node] = field(default_factory=dict)
    loose: tuple[Hung, ...] = ()

    @cached_property
    def _under(self) -> dict[str, tuple[Hung, ...]]:
        return {}

    def under(self, key: str) -> tuple[Hung, ...]:
        """Give all that draws through a node.

        Parameters
        ----------
        key : the node's id

        Returns
        -------
        tuple of Hung : its own loads, then those of what is plugged into it
        """
        if key not in self._under:
            node = self.nodes[key]
            self._under[key] = node.own + tuple(hung for child in node.children for hung in self.under(child))
        return self._under[key]

    def way(self, key: str | None) -> Iterator[Node]:
        """Go from a node up to its circuit.

        Parameters
        ----------
        key : the node's id; nothing for None

        Returns
        -------
        iterator of Node : itself first
        """
        while key is not None:
            node = self.nodes[key]
            yield node
            key = node.parent

    def circuit_of(self, key: str | None) -> Circuit | None:
        """Give the circuit that a node hangs on.

        Parameters
        ----------
        key : the node's id

        Returns
        -------
        Circuit : None for none
        """
        last = None
        for node in self.way(key):
            last = node
        return last.item if last is not None and isinstance(last.item, Circuit) else None

    def touching(self, space_id: str) -> list[Node]:
        """Give the nodes through which something of a space draws.

        Parameters
        ----------
        space_id : the space

        Returns
        -------
        list of Node : in the tree's order
        """
        return [node for node in self.nodes.values() if any(h.space_id == space_id for h in self.under(node.id))]


def tree_of(plan: Plan, loads: Mapping[str, tuple[Load, ...]]) -> Tree:
    """Build a household's tree.

    Parameters
    ----------
    plan : with circuits, outlets and strips
    loads : what each space draws, by its id

    Returns
    -------
    Tree : what names no plug hangs on its space's circuit; linked lamps draw through the plug of the first
    """
    own: dict[str, list[Hung]] = {}
    loose: list[Hung] = []
    circuits = {circuit.id for circuit in plan.circuits}
    known = {item.id for item in plan.outlets} | {item.id for item in plan.carriers}
    for space in plan.spaces:
        first: dict[str, str | None] = {}
        for load in loads.get(space.id, ()):
            plug = first.setdefault(load.chain, load.plug) if load.chain else load.plug
            key = plug if plug in known else space.circuit_id
            hung = Hung(space_id=space.id, where=space.name, load=load)
            if key in known or key in circuits:
                own.setdefault(str(key), []).append(hung)
            else:
                loose.append(hung)
    for circuit in plan.circuits:
        for load in other_loads(circuit):
            key = load.plug if load.plug in known else circuit.id
            own.setdefault(str(key), []).append(Hung(space_id=HOUSEHOLD, where="Household", load=load))
    children: dict[str, list[str]] = {}
    for outlet in plan.outlets:
        children.setdefault(outlet.circuit_id, []).append(outlet.id)
    for carrier in plan.carriers:
        children.setdefault(carrier.into, []).append(carrier.id)

    def node(
        kind: Literal["circuit", "outlet", "carrier"], item: Circuit | Outlet | Carrier, parent: str | None
    ) -> Node:
        return Node(
            id=item.id,
            kind=kind,
            name=item.name,
            item=item,
            parent=parent,
            own=tuple(own.get(item.id, ())),
            children=tuple(children.get(item.id, ())),
        )

    nodes = {circuit.id: node("circuit", circuit, None) for circuit in plan.circuits}
    nodes |= {outlet.id: node("outlet", outlet, outlet.circuit_id) for outlet in plan.outlets}
    nodes |= {carrier.id: node("carrier", carrier, carrier.into) for carrier in plan.carriers}
    return Tree(nodes=nodes, loose=tuple(loose))
