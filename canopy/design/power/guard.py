"""Ways out of water near mains and of chains of lamps that carry too much."""

from __future__ import annotations

from canopy.design.change import Remedy
from canopy.evaluate import SpaceReport
from canopy.evaluate.power.loads import household_tree
from canopy.evaluate.power.tree_margins import unprotected
from canopy.margin import Margin, sentence
from canopy.plan.changes import Act, Add, Change
from canopy.plan.plugs import Outlet
from canopy.power.tracing import plug_act


def mend_water(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Put a residual-current adapter between an outlet without protection and all that is in it.

    Parameters
    ----------
    report : the space's report
    margin : of water and mains

    Returns
    -------
    Remedy : None where it is the height of a socket that is wrong, or things of other spaces hang in it
    """
    tree = household_tree(report.plan)
    outlet = next((item for item in unprotected(report.space, tree) if item.rcd is False), None)
    if outlet is None:
        return None
    node = tree.nodes[outlet.id]
    if any(hung.space_id != report.space.id for hung in node.own):
        return None
    fresh = {"id": "guard", "name": f"Adapter in {outlet.name}"[:120], "kind": "rcd-adapter", "into": outlet.id}
    acts: list[Act] = [Add(collection="carriers", parts=(fresh,), prefix="carrier")]
    acts += [Change(collection="carriers", part_id=key, values={"into": "guard"}) for key in node.children]
    acts += [plug_act(report.space, hung.load.part_id, {"plug": "guard"}) for hung in node.own]
    return Remedy(
        label=sentence(f"Put a residual-current adapter into {outlet.name}, all else into that"), changes=tuple(acts)
    )


def mend_loops(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Hang cords below their outlets first.

    Parameters
    ----------
    report : the space's report
    margin : of drip loops

    Returns
    -------
    Remedy : for all outlets of which somebody said that they do not
    """
    tree = household_tree(report.plan)
    none = [
        node.item
        for node in tree.touching(report.space.id)
        if isinstance(node.item, Outlet) and node.item.drip_loops is False
    ]
    if not none:
        return None
    names = ", ".join(item.name for item in none)
    return Remedy(
        label=sentence(f"Let the cords hang below {names} before they rise to it"),
        changes=tuple(Change(collection="outlets", part_id=item.id, values={"drip_loops": True}) for item in none),
    )


def mend_chain(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Give the last lamps of a chain plugs of their own, until the first one's plug carries the rest.

    Parameters
    ----------
    report : the space's report
    margin : of linked lamps

    Returns
    -------
    Remedy : None where one lamp alone is more than the limit
    """
    name = margin.id.removeprefix("power.chain.")
    lamps = [lamp for lamp in report.space.fixtures if lamp.chain == name]
    limit = lamps[0].spec.link_limit_w if lamps else None
    if limit is None:
        return None
    stays, total = 0, 0.0
    for lamp in lamps:
        if total + lamp.spec.power_w > 0.9 * limit:
            break
        total, stays = total + lamp.spec.power_w, stays + 1
    parted = lamps[max(1, stays) :]
    if not parted or stays == 0:
        return None
    return Remedy(
        label=sentence(f"Plug {', '.join(lamp.spec.name for lamp in parted)} in by itself"),
        changes=tuple(Change(collection="fixtures", part_id=lamp.id, values={"chain": ""}) for lamp in parted),
    )
