"""Ways out for air that is in the way, or goes the wrong way: ports moved, openings shut, hoods led through."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.air import ventilation
from canopy.air.fan_curve import steps_of
from canopy.air.network import Moment
from canopy.air.operating import at_speed, main_way
from canopy.air.walls import BARELY_PA, GOOD_PA
from canopy.design.air.openings import in_the_way, with_way
from canopy.design.air.parts import fresh_part, with_part
from canopy.design.air.stirring import freed
from canopy.design.change import Remedy, changes_between
from canopy.evaluate.air.crossing import short_cuts
from canopy.evaluate.air.pressure_margins import FACE_MOST_SPEED_M_S
from canopy.evaluate.space import SpaceReport
from canopy.margin import Amount, Margin, sentence
from canopy.plan.changes import Change
from canopy.plan.document import Space
from canopy.plan.shell import Opening
from canopy.plan.solids import free_place


def mend_place(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Move the port of a way of air so that what hangs behind it hangs free; else hang it all outside.

    Parameters
    ----------
    report : the space's report
    margin : "air.place.…"

    Returns
    -------
    Remedy : None where the way has no port
    """
    space, here = report.space, report.here
    way = next((way for way in space.airways if way.id in margin.parts), None)
    hole = next((o for o in space.openings if way and way.port and o.id == way.port.opening_id), None)
    if way is None or hole is None:
        return None
    found = free_place(space, hole, lambda moved: in_the_way(space, moved, way, here))
    if found is not None:
        values = {"u_m": found.u_m, "v_m": found.v_m}
        amounts = {"u": Amount(value=found.u_m, unit="length"), "v": Amount(value=found.v_m, unit="length")}
        label = sentence(f"Move the port of {way.name} to {{u}} along its face, {{v}} up", **amounts)
        return Remedy(label=label, changes=(Change(collection="openings", part_id=hole.id, values=values),))
    port = next(part for part in way.parts if part.kind == "port")
    rest = tuple(part for part in way.parts if part.kind != "port")
    parts = (port, *rest) if way.way == "out" else (*rest, port)
    after = with_way(space, way.model_copy(update={"parts": parts}))
    changes = changes_between(space, after, ("airways",))
    return Remedy(label=sentence(f"Hang all of {way.name} outside"), changes=changes) if changes else None


def mend_stir_place(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Move circulation fans to the nearest place where they hang free.

    Parameters
    ----------
    report : the space's report
    margin : "air.place-stir"

    Returns
    -------
    Remedy : None where one finds no room
    """
    changes = []
    for stirrer in report.space.stirrers:
        if stirrer.id not in margin.parts:
            continue
        moved = freed(report.here, stirrer)
        if moved is None:
            return None
        values = {
            key: getattr(moved, key) for key in ("x_m", "y_m", "z_m") if getattr(moved, key) != getattr(stirrer, key)
        }
        if values:
            changes.append(Change(collection="stirrers", part_id=stirrer.id, values=values))
    words = "Move the circulation fan to where it hangs free" if len(changes) == 1 else "Move the circulation fans free"
    return Remedy(label=sentence(words), changes=tuple(changes)) if changes else None


def mend_hood(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Lead what is drawn out through a lamp's hood.

    Parameters
    ----------
    report : the space's report
    margin : "air.hood.…"

    Returns
    -------
    Remedy : None without a way out that has a fan
    """
    way = main_way(report.space.airways)
    if way is None or way.way != "out":
        return None
    longer = with_part(way, fresh_part(report.space, way, "hood", margin.parts[0]))
    changes = changes_between(report.space, with_way(report.space, longer), ("airways",))
    return Remedy(label=sentence(f"Lead {way.name} through the hood"), changes=changes)


def mend_short_circuit(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Shut the opening beside the fan, or move it across, whichever lets more air cross the plants.

    Parameters
    ----------
    report : the space's report
    margin : "air.short-circuit"

    Returns
    -------
    Remedy : None where neither helps
    """
    space, best = report.space, report.breathing.lit.moves_m3_h("heat")
    led = {way.port.opening_id for way in space.airways if way.port}
    found: Remedy | None = None
    for number, hole in enumerate(space.openings, 1):
        if hole.id not in margin.parts or hole.id in led:
            continue
        trials = [("Shut opening {n}", hole.model_copy(update={"open": False}))]
        across = _across(space, hole)
        if across is not None:
            trials.append(("Cut opening {n} into the face across instead", across))
        for words, moved in trials:
            crosses = _crosses_m3_h(report, _with_hole(space, moved))
            if crosses > 1.02 * best:
                best = crosses
                changes = changes_between(space, _with_hole(space, moved), ("openings",))
                label = sentence(words, n=Amount(value=number, unit="", decimals=0))
                found = Remedy(label=label, changes=changes)
    return found


def _crosses_m3_h(report: SpaceReport, space: Space) -> float:
    air = ventilation(report.plan, space, Moment())
    lost = sum(cut.flow_m3_h for cut in short_cuts(report.here.moved(space), air))
    return air.total_m3_h - lost


_OPPOSITE = {"left": "right", "right": "left", "front": "back", "back": "front"}


def _across(space: Space, hole: Opening) -> Opening | None:
    face = _OPPOSITE.get(hole.face)
    if face is None or face == space.door_side:
        return None
    high = hole.model_copy(update={"face": face, "v_m": max(hole.up_m / 2, space.size.height_m - hole.v_m)})
    return free_place(space, high)


def mend_barely(report: SpaceReport) -> Remedy | None:
    """Bring the pressure well below the room's: shut or cover openings that are not needed, else run the fan faster.

    Parameters
    ----------
    report : the space's report

    Returns
    -------
    Remedy : the fewest openings first; None where none of it does
    """
    space = report.space
    for shut in _shut_first(space):
        for after, words, amounts in _covered(shut):
            if _holds(report, after):
                before = [(n, o) for n, o in enumerate(space.openings, 1) if o.open]
                gone = [n for n, o in before if not after.openings[n - 1].open]
                said = [f"shut opening {number}" for number in gone] + words
                label = sentence(" and ".join(said)[0].upper() + " and ".join(said)[1:], **amounts)
                return Remedy(label=label, changes=changes_between(space, after, ("openings",)))
    way = main_way(space.airways)
    if way is None or way.lead is None or way.way != "out":
        return None
    for step in steps_of(way.lead.spec):
        if step > way.lead.speed and _holds(report, at_speed(space, way, step)):
            label = sentence("Speed the fan up to {s}", s=Amount(value=100 * step, unit="%", decimals=0))
            return Remedy(label=label, changes=changes_between(space, at_speed(space, way, step), ("airways",)))
    return None


# What an opening is covered down to, as shares of what is free now.
_COVERED = (0.7, 0.5, 0.35, 0.25, 0.15, 0.1)


def _by_itself(space: Space) -> list[Opening]:
    """Openings that let air in by themselves, smallest first."""
    led = {way.port.opening_id for way in space.airways if way.port}
    return sorted((o for o in space.openings if o.passes_air and o.id not in led), key=lambda o: o.free_area_m2)


def _shut_first(space: Space) -> Iterator[Space]:
    """As it is, with each opening shut, with more and more of them shut, at least one left."""
    yield space
    holes = _by_itself(space)
    if len(holes) < 2:
        return
    for hole in holes:
        yield _with_hole(space, hole.model_copy(update={"open": False}))
    for hole in holes[:-1]:
        space = _with_hole(space, hole.model_copy(update={"open": False}))
        yield space


def _covered(space: Space) -> Iterator[tuple[Space, list[str], dict[str, Amount]]]:
    """As it is, and with its largest opening covered in part."""
    yield space, [], {}
    holes = _by_itself(space)
    if not holes:
        return
    hole = holes[-1]
    number = 1 + next(n for n, o in enumerate(space.openings) if o.id == hole.id)
    for share in _COVERED:
        small = hole.model_copy(update={"clear_share": round(max(0.01, hole.clear_share * share), 3)})
        amounts = {"a": Amount(value=1e4 * small.free_area_m2, unit="small area")}
        yield _with_hole(space, small), [f"cover opening {number} down to {{a}}"], amounts


def _holds(report: SpaceReport, space: Space) -> bool:
    """Below the room by enough, no more than a little sucked in, and enough air in without whistling."""
    air = ventilation(report.plan, space, Moment())
    fastest = max((hole.speed_m_s for hole in air.holes if hole.opening_id), default=0.0)
    need = report.breathing.governing.flow_m3_h or 0.0
    calm = fastest <= FACE_MOST_SPEED_M_S
    return GOOD_PA < air.pressure_pa <= BARELY_PA and calm and air.fan_out_m3_h >= need


def _with_hole(space: Space, hole: Opening) -> Space:
    return space.model_copy(update={"openings": tuple(hole if o.id == hole.id else o for o in space.openings)})
