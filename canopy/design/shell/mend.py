"""Ways out for what stands in each other: the nearest place that is free."""

from __future__ import annotations

from canopy.design.change import Remedy
from canopy.design.light.moving import nearest_free
from canopy.evaluate.space import SpaceReport
from canopy.margin import Amount, Margin, sentence
from canopy.plan.changes import Change
from canopy.plan.solids import clashes, cut_into, free_place


def mend_clash(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Move lamps that stand in something to the nearest place where they stand free.

    Parameters
    ----------
    report : the space's report
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : None where a lamp finds no room
    """
    space, amounts = report.space, dict[str, Amount]()
    changes: list[Change] = []
    words: list[str] = []
    moved = {clash.two_id for clash in clashes(space)}
    lamps = {lamp.id: lamp for lamp in space.fixtures if lamp.id not in moved}
    for number, lamp in enumerate(space.fixtures, 1):
        if lamp.id not in moved:
            continue
        found = nearest_free(report.here, lamp, tuple(lamps.values()))
        if found is None:
            return None
        lamps[lamp.id] = found
        values = {
            key: getattr(found, key) for key in ("x_m", "y_m", "z_m") if getattr(found, key) != getattr(lamp, key)
        }
        if values:
            changes.append(Change(collection="fixtures", part_id=lamp.id, values=values))
            parts = []
            for key, where in (("x_m", "from the left"), ("y_m", "from the front"), ("z_m", "high")):
                if key in values:
                    amounts[f"{key}{number}"] = Amount(value=values[key], unit="length")
                    parts.append(f"{{{key}{number}}} {where}")
            words.append(f"lamp {number} to {' and '.join(parts)}")
    return Remedy(label=sentence(f"Move {'; '.join(words)}", **amounts), changes=tuple(changes)) if changes else None


def mend_holes(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Move the later of two openings that are cut into each other to the nearest free place of its face.

    Parameters
    ----------
    report : the space's report
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : None where its face has no room
    """
    space = report.space
    changes: list[Change] = []
    for _, hole in cut_into(space):
        if any(change.part_id == hole.id for change in changes):
            continue
        found = free_place(space, hole)
        if found is None:
            return None
        values = {"u_m": found.u_m, "v_m": found.v_m}
        changes.append(Change(collection="openings", part_id=hole.id, values=values))
        openings = tuple(found if other.id == hole.id else other for other in space.openings)
        space = space.model_copy(update={"openings": openings})
    if not changes:
        return None
    words = "Move the opening to a free place" if len(changes) == 1 else f"Move {len(changes)} openings to free places"
    return Remedy(label=sentence(words), changes=tuple(changes))
