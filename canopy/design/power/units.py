"""What can be moved from one circuit to another, and where it can go: things that share a plug go together."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from canopy.plan.changes import Act, Change
from canopy.plan.document import Circuit, Plan, Space
from canopy.plan.plugs import Outlet
from canopy.power import Hung, Node, Tree, coinciding_w
from canopy.power.hours import Watts
from canopy.power.tracing import plug_act

# Mains that differ by more are not the same mains: 230 V and 240 V are, 120 V and 240 V are not.
_SAME_MAINS = 0.1


@dataclass(frozen=True, kw_only=True, eq=False)
class Unit:
    """What goes from plug to plug as a whole: a thing, lamps linked to each other, a strip with all that is in it.

    ``circuit_id`` is where it hangs now (None: nowhere), ``carrier_id`` the strip or cord that is moved, ``may`` the
    circuits it can go to, its own among them. ``peak`` and ``lasting`` are what it draws in each minute, at all and
    for hours on end, shape (1440,) [VA].
    """

    name: str
    hung: tuple[Hung, ...]
    circuit_id: str | None
    may: tuple[str, ...]
    peak: Watts
    lasting: Watts
    carrier_id: str | None = None

    @property
    def room_ids(self) -> frozenset[str]:
        """The spaces it stands in."""
        return frozenset(item.space_id for item in self.hung)

    def into(self, plan: Plan, outlet_id: str) -> Iterator[Act]:
        """Plug it into an outlet.

        Parameters
        ----------
        plan : the household
        outlet_id : an outlet, or what stands for one that comes with the same changes

        Returns
        -------
        iterator of Act : one for a strip, one for each thing otherwise
        """
        if self.carrier_id is not None:
            yield Change(collection="carriers", part_id=self.carrier_id, values={"into": outlet_id})
            return
        for item in self.hung:
            space = plan.space(item.space_id)
            if space is not None:
                yield from_outside(space, item.load.part_id, outlet_id)


def from_outside(space: Space, part_id: str, outlet_id: str | None) -> Act:
    """Write what plugs a part of a space in, as a change of the household.

    Parameters
    ----------
    part_id : a lamp, fan or device of the space
    outlet_id : what it is plugged into

    Returns
    -------
    Act : to be applied from any space
    """
    act = plug_act(space, part_id, {"plug": outlet_id})
    assert isinstance(act, Change)
    return Change(
        collection=act.collection, part_id=act.part_id, at=("spaces", space.id, *act.at), values=dict(act.values)
    )


def units_of(plan: Plan, tree: Tree) -> tuple[tuple[Unit, ...], dict[str, tuple[Hung, ...]]]:
    """Part what hangs on a household's circuits into what can be moved and what stays.

    Parameters
    ----------
    tree : of the household

    Returns
    -------
    tuple of Unit : what can be moved: pinned things and the household's other loads are left out
    dict : what stays on each circuit, by its id
    """
    stays: dict[str, list[Hung]] = {circuit.id: [] for circuit in plan.circuits}
    found: list[Unit] = []
    reach = _Reach(plan, tree)

    def take(name: str, hung: tuple[Hung, ...], circuit: Circuit | None, carrier_id: str | None = None) -> None:
        fixed = any(item.load.pinned or not item.space_id for item in hung)
        may = () if fixed else reach.of(hung, circuit)
        if len(may) < 2 and circuit is not None:
            stays[circuit.id].extend(hung)
        elif may:
            loads = [item.load for item in hung]
            found.append(
                Unit(
                    name=name,
                    hung=hung,
                    circuit_id=circuit.id if circuit else None,
                    may=may,
                    peak=coinciding_w(loads, apparent=True),
                    lasting=coinciding_w(loads, for_hours=True, apparent=True),
                    carrier_id=carrier_id,
                )
            )

    def things(hung: tuple[Hung, ...], circuit: Circuit | None) -> None:
        linked: dict[tuple[str, str], list[Hung]] = {}
        for item in hung:
            linked.setdefault((item.space_id, item.load.chain or f"/{item.load.part_id}"), []).append(item)
        for group in linked.values():
            name = group[0].load.name if len(group) == 1 else f"{len(group)} linked lamps"
            take(name, tuple(group), circuit)

    for circuit in plan.circuits:
        top = tree.nodes[circuit.id]
        things(top.own, circuit)
        for child in _below(tree, top):
            if isinstance(child.item, Outlet):
                things(child.own, circuit)
            elif tree.under(child.id):
                take(child.name, tree.under(child.id), circuit, child.id)
    things(tree.loose, None)
    return tuple(found), {key: tuple(items) for key, items in stays.items()}


def _below(tree: Tree, circuit: Node) -> Iterator[Node]:
    """A circuit's outlets, and what is plugged into each at once."""
    for key in circuit.children:
        yield tree.nodes[key]
        yield from (tree.nodes[child] for child in tree.nodes[key].children)


class _Reach:
    """Which circuits reach which rooms: by an outlet there, by what hangs on them there, or by nobody having said."""

    def __init__(self, plan: Plan, tree: Tree) -> None:
        self.plan = plan
        self.room = {space.id: space.room_id for space in plan.spaces}
        self.rooms: dict[str, set[str] | None] = {}
        for circuit in plan.circuits:
            outlets = [outlet for outlet in plan.outlets if outlet.circuit_id == circuit.id]
            if not outlets or any(outlet.room_id is None for outlet in outlets):
                self.rooms[circuit.id] = None
                continue
            there = {self.room[item.space_id] for item in tree.under(circuit.id) if item.space_id in self.room}
            self.rooms[circuit.id] = there | {str(outlet.room_id) for outlet in outlets}

    def of(self, hung: tuple[Hung, ...], now: Circuit | None) -> tuple[str, ...]:
        rooms = {self.room[item.space_id] for item in hung}
        found = []
        for circuit in self.plan.circuits:
            reached = self.rooms[circuit.id]
            same = now is None or abs(circuit.mains_v - now.mains_v) <= _SAME_MAINS * now.mains_v
            if circuit is now or (same and (reached is None or rooms <= reached)):
                found.append(circuit.id)
        return tuple(found)


def distinct(rows: np.ndarray) -> np.ndarray:
    """Keep the minutes that differ: those in which the same things run need to be looked at once.

    Parameters
    ----------
    rows : shape (things, minutes)

    Returns
    -------
    ndarray : shape (things, distinct minutes)
    """
    return np.unique(np.round(rows, 1), axis=1)
