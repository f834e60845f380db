"""The tab of plugs: the household's tree from its circuits to what draws, what hangs where, and tracing by breakers."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.evaluate import SpaceReport
from canopy.evaluate.power.cord_runs import CordRun, cord_runs
from canopy.evaluate.power.loads import household_tree
from canopy.evaluate.power.tree_margins import most_w
from canopy.library import find, rule_sets
from canopy.margin import Amount, Margin, worst
from canopy.plan.changes import Add, Remove
from canopy.plan.document import Circuit, Plan
from canopy.plan.plugs import CARRIER_NAMES, Carrier, Outlet
from canopy.power import Hung, Node, Tree, coinciding_w
from canopy.power.tracing import plug_act
from canopy.words import capital, counted
from canopy_web.planning import actions
from canopy_web.stations.power.forms import CarrierForm, OutletForm
from canopy_web.workspace.edits import edit_listed
from canopy_web.workspace.reply import answer, change, page
from canopy_web.workspace.where import Where, at_space

_BAR = 120.0
_DEEPEST = 6
# The apparent power of a few watts matters to nobody.
_WORTH_VA_W = 5.0


def plugs_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    tree = household_tree(where.plan)
    judged: dict[str, list[Margin]] = {}
    for margin in report.margins:
        if margin.station == "power" and not margin.information:
            judged.setdefault(_of_what(margin.id, report), []).append(margin)
    verdicts = {key: worst(margins) for key, margins in judged.items()}
    return {
        "tree": [
            _row(where, tree, node, depth, verdicts, bad)
            for circuit in where.plan.circuits
            for node, depth in _walk(tree, circuit.id, 0)
        ],
        "loose": [_load(where, hung) for hung in tree.loose],
        "bar": _BAR,
        "into": _places(where.plan, tree),
        "everything": _everything(where.plan, tree),
        "cords": [_cord(where, run) for run in cord_runs(where.plan, where.space, tree)],
        "carrier_kinds": [(key, capital(name)) for key, name in CARRIER_NAMES.items()],
    }


def _cord(where: Where, run: CordRun) -> dict[str, Any]:
    def metres(value: float) -> str:
        return Amount(value=value, unit="length").text(where.system)

    hole = run.hole
    through = "no hole for cords: by the floor" if hole is None else f"hole in the {hole.face}, {metres(hole.v_m)} up"
    if hole is not None and hole.face in ("floor", "ceiling"):
        through = f"hole in the {hole.face}"
    return {
        "name": run.name,
        "part_id": run.part_id,
        "through": through,
        "inside": metres(run.inside_m),
        "outside": "" if run.outside_m is None else metres(run.outside_m),
        "outlet": run.outlet,
        "given": metres(run.given_m) if run.given_m else "",
        "needs": metres(run.needs_m),
        "whole": run.outside_m is not None,
    }


def _of_what(margin_id: str, report: SpaceReport) -> str:
    """What a margin is about: the first circuit's name no node, those of the others and of plugs end with it."""
    first = margin_id in ("power.circuit", "power.outlet")
    return report.circuit.circuit.id if first and report.circuit else margin_id.rpartition(".")[2]


def _walk(tree: Tree, key: str, depth: int) -> Iterator[tuple[Node, int]]:
    node = tree.nodes[key]
    yield node, depth
    for child in node.children:
        yield from _walk(tree, child, min(depth + 1, _DEEPEST))


def _row(
    where: Where, tree: Tree, node: Node, depth: int, verdicts: Mapping[str, str], bad: Mapping[str, Any]
) -> dict[str, Any]:
    item, hung = node.item, tree.under(node.id)
    loads = [h.load for h in hung]
    peak, flowing = float(coinciding_w(loads).max()), float(coinciding_w(loads, apparent=True).max())
    limit = most_w(tree, node)
    row: dict[str, Any] = {
        "id": node.id,
        "kind": node.kind,
        "name": node.name,
        "depth": depth,
        "peak": f"{peak:.0f} W",
        "limit": f"{limit:.0f} W" if limit else "",
        "fill": _BAR * min(1.0, peak / limit) if limit else 0.0,
        "over": limit is not None and flowing > limit,
        "verdict": verdicts.get(node.id),
        "loads": [_load(where, h) for h in node.own],
        "said": _said(item),
        # What is dropped on a circuit goes back to the space's own: no other circuit takes it.
        "takes": not isinstance(item, Circuit) or item.id == where.space.circuit_id,
    }
    if isinstance(item, Outlet):
        data = item.model_dump(mode="json")
        row["form"] = bad.get(f"outlet-{item.id}") or OutletForm(data, system=where.system, prefix=f"outlet-{item.id}")
    elif isinstance(item, Carrier):
        row["form"] = bad.get(f"carrier-{item.id}") or _carrier_form(where, tree, item)
    return row


def _said(item: Circuit | Outlet | Carrier) -> str:
    """What one may use, first; else what kind of thing it is."""
    if isinstance(item, Circuit):
        rules = find(rule_sets(), item.rule_set_id, "rule set")
        full = item.breaker_a * item.mains_v
        return (
            f"{item.breaker_a:g} A at {item.mains_v:g} V: {full:,.0f} W, "
            f"{rules.continuous_share * full:,.0f} W for hours"
        )
    return "outlet" if isinstance(item, Outlet) else CARRIER_NAMES[item.kind]


def _load(where: Where, hung: Hung) -> dict[str, Any]:
    load = hung.load
    return {
        "id": load.part_id,
        "name": load.name,
        "where": hung.where,
        "mine": hung.space_id == where.space.id,
        "power": f"{load.power_w:.0f} W",
        "va": f"{load.va:.0f} VA" if load.power_w >= _WORTH_VA_W and load.va > 1.15 * load.power_w else "",
        "plug": load.plug or "",
        "pinned": load.pinned,
        "linked": load.chain,
    }


def _places(plan: Plan, tree: Tree) -> list[tuple[str, list[tuple[str, str]]]]:
    """What something can be plugged into, by circuit."""
    found = []
    for circuit in plan.circuits:
        below = [(node.id, node.name) for node, depth in _walk(tree, circuit.id, 0) if depth > 0]
        if below:
            found.append((circuit.name, below))
    return found


def _carrier_form(where: Where, tree: Tree, item: Carrier, data: Any = None) -> CarrierForm:
    own = {node.id for node, _ in _walk(tree, item.id, 0)}
    into = [(name, [row for row in rows if row[0] not in own]) for name, rows in _places(where.plan, tree)]
    record = item.model_dump(mode="json")
    return CarrierForm(record, data, system=where.system, prefix=f"carrier-{item.id}", into=into)


def _everything(plan: Plan, tree: Tree) -> list[dict[str, Any]]:
    """All that draws in the household, for tracing: which breaker made it dark."""
    found = [hung for circuit in plan.circuits for hung in tree.under(circuit.id)] + list(tree.loose)
    rows = []
    for space in plan.spaces:
        for hung in (h for h in found if h.space_id == space.id):
            at = next((c for c in plan.circuits if any(h is hung for h in tree.under(c.id))), None)
            key = f"{space.id}/{hung.load.part_id}"
            rows.append({"key": key, "name": f"{space.name}: {hung.load.name}", "on": at.name if at else "not known"})
    return rows


@require_POST
@at_space
def plug_in(request: HttpRequest, where: Where) -> HttpResponse:
    """Plug something of this space into an outlet, a strip or a timer, or back on the space's circuit."""
    part, into = request.POST.get("part", ""), request.POST.get("into") or None
    pin = request.POST.get("pin", "")
    values = {"pinned": pin == "yes"} if pin in ("yes", "no") else {"plug": into}
    words = {"yes": "Pinned where it is plugged in", "no": "Unpinned"}.get(pin, "Plugged in elsewhere")
    return answer(request, where, lambda: where.do(words, plug_act(where.space, part, values)))


@require_POST
@at_space
def add_outlet(request: HttpRequest, where: Where) -> HttpResponse:
    """Add an outlet to a circuit."""
    circuit = where.plan.circuit(request.POST.get("circuit"))
    if circuit is None:
        raise Http404
    number = 1 + sum(outlet.circuit_id == circuit.id for outlet in where.plan.outlets)
    fresh = {"name": f"Outlet {number}", "circuit_id": circuit.id, "room_id": where.space.room_id}
    return change(request, where, "Added an outlet", Add(collection="outlets", parts=(fresh,), prefix="outlet"))


@require_POST
@at_space
def add_carrier(request: HttpRequest, where: Where) -> HttpResponse:
    """Plug a strip, timer, smart plug or cord into an outlet or another one."""
    kind, into = request.POST.get("kind", "strip"), request.POST.get("into", "")
    if kind not in CARRIER_NAMES:
        raise Http404
    number = 1 + sum(item.kind == kind for item in where.plan.carriers)
    fresh = {"name": f"{capital(CARRIER_NAMES[kind])} {number}", "kind": kind, "into": into}
    label = f"Added a {CARRIER_NAMES[kind]}"
    return change(request, where, label, Add(collection="carriers", parts=(fresh,), prefix="carrier"))


@require_POST
@at_space
def remove_plug(request: HttpRequest, where: Where, what: str, key: str) -> HttpResponse:
    """Take an outlet, strip, timer or cord away; what hung on it goes on to what that was in."""
    if what not in ("outlets", "carriers"):
        raise Http404
    words = "Removed an outlet" if what == "outlets" else "Removed a strip or timer"
    return change(request, where, words, Remove(collection=what, part_ids=(key,)))  # type: ignore[arg-type]


@require_POST
@at_space
def edit_outlet(request: HttpRequest, where: Where, key: str) -> HttpResponse:
    """Change an outlet."""
    return edit_listed(
        request,
        where,
        lambda record: OutletForm(record, request.POST, system=where.system, prefix=f"outlet-{key}"),
        collection="outlets",
        part_id=key,
        key=f"outlet-{key}",
        label=lambda record: f"Changed {record['name']}",
    )


@require_POST
@at_space
def edit_carrier(request: HttpRequest, where: Where, key: str) -> HttpResponse:
    """Change a strip, timer, smart plug or cord."""
    tree = household_tree(where.plan)
    return edit_listed(
        request,
        where,
        lambda record: _carrier_form(where, tree, Carrier.model_validate(record), request.POST),
        collection="carriers",
        part_id=key,
        key=f"carrier-{key}",
        label=lambda record: f"Changed {record['name']}",
    )


@require_POST
@at_space
def trace(request: HttpRequest, where: Where) -> HttpResponse:
    """Say what went dark when a breaker was switched off: all that was ticked hangs on its circuit from now on."""
    circuit = where.plan.circuit(request.POST.get("circuit"))
    if circuit is None:
        raise Http404
    ticked = [key.partition("/") for key in request.POST.getlist("dark")]
    if not ticked:
        return page(request, where, words="Nothing was ticked: nothing is changed.")
    dark = [(space_id, part_id) for space_id, _, part_id in ticked]
    label = f"Traced {counted(len(dark), 'plug')} to {circuit.name}"
    return answer(request, where, lambda: where.again(actions.trace_plugs(where.row, circuit.id, dark, label)))
