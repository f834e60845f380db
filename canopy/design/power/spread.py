"""Things plugged into other circuits, so that none carries too much: pins stay, and as little moves as can be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from canopy.design.change import Remedy
from canopy.design.power.limits import AIM, Fullness, Rows, best, compared
from canopy.design.power.units import Unit, distinct, units_of
from canopy.evaluate.power.loads import household_tree
from canopy.evaluate.power.tree_margins import most_w
from canopy.library import find, rule_sets
from canopy.margin import sentence
from canopy.plan.changes import Act, Add
from canopy.plan.document import Circuit, Plan
from canopy.plan.edit import apply
from canopy.plan.plugs import Outlet
from canopy.power import Load, Tree, coinciding_w
from canopy.power.hours import Watts
from canopy.words import counted


@dataclass(frozen=True, kw_only=True)
class Moved:
    """A unit that would hang on another circuit; ``outlet`` names where it is plugged in there."""

    unit: Unit
    onto: Circuit
    outlet: str


@dataclass(frozen=True, kw_only=True)
class Spread:
    """Where everything would hang: the change, what moved, and every circuit before and after."""

    remedy: Remedy
    moved: tuple[Moved, ...]
    circuits: tuple[Fullness, ...]
    stuck: int

    @property
    def legal(self) -> bool:
        """Whether no circuit is over what it should carry any more."""
        return all(item.comes_to <= 1.0 for item in self.circuits)


def spread(plan: Plan) -> Spread | None:
    """Spread a household's things over its circuits.

    Parameters
    ----------
    plan : with at least two circuits

    Returns
    -------
    Spread : with as few things moved as keep every circuit well under its limit, or where that cannot be, with the
        fullest as little full as can be; None where nothing can be moved or nothing better was found

    Notes
    -----
    One of ``may`` is taken for each unit; in every minute that differs, and for hours and at once, what hangs on a
    circuit is at most a share of its limit: a small integer programme. Other loads of the household stay.
    """
    tree = household_tree(plan)
    units, stays = units_of(plan, tree)
    if not units:
        return None
    choices = [(number, key) for number, unit in enumerate(units) for key in unit.may]
    groups: list[list[int]] = [[] for _ in units]
    for place, (number, _) in enumerate(choices):
        groups[number].append(place)
    rows = _rows(plan, units, choices, {key: [item.load for item in items] for key, items in stays.items()})
    cost = np.array([_cost(units[number], key) for number, key in choices])
    taken = best(rows, groups, cost)
    if taken is None:
        return None
    goes = [(units[n], key) for (n, key), one in zip(choices, taken, strict=True) if one and key != units[n].circuit_id]
    if not goes:
        return None
    acts, moved = _plugged(plan, tree, goes)
    after = apply(plan, None, acts)
    words = f"Plug {counted(len(moved), 'thing')} into other circuits"
    if len(moved) == 1:
        words = f"Plug {moved[0].unit.name} into {moved[0].onto.name}"
    return Spread(
        remedy=Remedy(label=sentence(words), changes=tuple(acts)),
        moved=moved,
        circuits=compared(plan, after),
        stuck=sum(len(items) for items in stays.values()),
    )


def _cost(unit: Unit, key: str) -> float:
    """What a move costs: one for each, a little more for what draws little, so that the telling ones move."""
    if unit.circuit_id is None:
        return 0.01
    return 0.0 if key == unit.circuit_id else 1.0 + 1.0 / (1.0 + float(unit.peak.max()))


def _rows(plan: Plan, units: Sequence[Unit], choices: Sequence[tuple[int, str]], stays: dict[str, list[Load]]) -> Rows:
    from scipy.sparse import csr_array

    loads, base, limit = [], [], []
    for circuit in plan.circuits:
        full = circuit.breaker_a * circuit.mains_v
        share = find(rule_sets(), circuit.rule_set_id, "rule set").continuous_share
        for most, lasting in ((full, False), (share * full, True)):
            there = coinciding_w(stays[circuit.id], for_hours=lasting, apparent=True)
            drawn = [unit.lasting if lasting else unit.peak for unit in units]
            minutes = distinct(np.vstack([there, *drawn]))
            block = np.zeros((minutes.shape[1], len(choices)))
            for place, (number, key) in enumerate(choices):
                if key == circuit.id:
                    block[:, place] = minutes[1 + number]
            loads.append(block)
            base.append(minutes[0])
            limit.append(np.full(minutes.shape[1], most))
    return Rows(loads=csr_array(np.vstack(loads)), base=np.concatenate(base), limit=np.concatenate(limit))


def _plugged(plan: Plan, tree: Tree, goes: Sequence[tuple[Unit, str]]) -> tuple[list[Act], tuple[Moved, ...]]:
    """Plug each in at its new circuit: an outlet of its room, else any whose room nobody said, else a new one."""
    acts: list[Act] = []
    moved, fresh, held = [], dict[tuple[str, str], str](), dict[str, Watts]()
    rooms = {space.id: space.room_id for space in plan.spaces}
    for unit, key in goes:
        circuit = plan.circuit(key)
        assert circuit is not None
        room = rooms[unit.hung[0].space_id]
        outlet = _outlet(plan, tree, key, room, held, unit)
        if outlet is not None:
            outlet_id, name = outlet.id, outlet.name
        else:
            name = f"Outlet on {circuit.name}"[:120]
            if (key, room) not in fresh:
                fresh[key, room] = f"fresh-{key}-{room}"
                part = {"id": fresh[key, room], "name": name, "circuit_id": key, "room_id": room}
                acts.append(Add(collection="outlets", parts=(part,), prefix="outlet"))
            outlet_id = fresh[key, room]
        acts += unit.into(plan, outlet_id)
        moved.append(Moved(unit=unit, onto=circuit, outlet=name))
    return acts, tuple(moved)


def _outlet(plan: Plan, tree: Tree, circuit_id: str, room_id: str, held: dict[str, Watts], unit: Unit) -> Outlet | None:
    """An outlet of the circuit that has room for it: in its room, else one of which nobody said where it is."""
    mine = [outlet for outlet in plan.outlets if outlet.circuit_id == circuit_id]
    mine = [o for o in mine if o.room_id == room_id] or [o for o in mine if o.room_id is None]
    for outlet in mine:
        node = tree.nodes[outlet.id]
        there = held.setdefault(outlet.id, coinciding_w([h.load for h in tree.under(outlet.id)], apparent=True))
        most = most_w(tree, node)
        if most is None or float((there + unit.peak).max()) <= AIM * most:
            held[outlet.id] = there + unit.peak
            return outlet
    return None
