"""Times shifted so that less runs together: photoperiods, long cycles, what of the household may run at any time."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from canopy.design.change import Remedy
from canopy.design.power.limits import Floats, Fullness, Rows, best, compared
from canopy.evaluate.power.loads import household_tree
from canopy.library import find, rule_sets
from canopy.margin import sentence
from canopy.plan.changes import Act, Change
from canopy.plan.document import Plan, Space
from canopy.plan.edit import apply
from canopy.power import Hung, Load, coinciding_w, minutes_of
from canopy.power.hours import MINUTES, Watts
from canopy.schedule import Cycle, Daily, Schedule, WithLamps, minute_of
from canopy.words import clock, counted

# Times are moved in such steps, and loads looked at by the most in each.
STEP_MIN = 15
_SLOTS = MINUTES // STEP_MIN
# A photoperiod is moved by at most so much, unless it is said otherwise [h].
USUAL_H = 4.0
# When what may run at any time may begin and must have ended: waking hours [min].
AWAKE = (7 * 60, 22 * 60)
# Only cycles as long, of things that draw as much, are worth moving [min, W].
_CYCLE_MIN, _CYCLE_W = 60.0, 50.0


@dataclass(frozen=True, kw_only=True)
class Shifted:
    """What would run at another time: its name, when it ran and would run in words, and what that means."""

    name: str
    was: str
    now: str
    means: str


@dataclass(frozen=True, kw_only=True)
class Heat:
    """The most heat of lamps that comes to a room at once, before and after [W]."""

    room: str
    before_w: float
    after_w: float


@dataclass(frozen=True, kw_only=True)
class Stagger:
    """When everything would run: the change, what moved, every circuit and the lamps' heat before and after."""

    remedy: Remedy
    shifted: tuple[Shifted, ...]
    circuits: tuple[Fullness, ...]
    heat: tuple[Heat, ...]

    @property
    def legal(self) -> bool:
        """Whether no circuit is over what it should carry any more."""
        return all(item.comes_to <= 1.0 for item in self.circuits)


@dataclass(frozen=True, kw_only=True, eq=False)
class _Choice:
    """One time for something: what it costs, its change, and what it draws by circuit at once and for hours."""

    cost: float
    acts: tuple[Act, ...]
    told: Shifted | None
    peak: Mapping[str, Floats]
    lasting: Mapping[str, Floats]


def stagger(plan: Plan, most_h: float = USUAL_H, stay: Iterable[str] = ()) -> Stagger | None:
    """Stagger what runs in a household.

    Parameters
    ----------
    plan : the household
    most_h : photoperiods are moved by at most so much either way, 0..12 [h]
    stay : ids of spaces whose hours stay

    Returns
    -------
    Stagger : with as little moved as keeps every circuit well under its limit, or where that cannot be, with the
        fullest as little full as can be; None where nothing can be moved or nothing better was found

    Notes
    -----
    Lamps of a space move together, with all that follows them; their hours stay as long as they are. What may run at
    any time is given a time between 07:00 and 22:00. Cycles of an hour and more that run all day begin later. What
    draws in a quarter of an hour counts by the most in it.
    """
    tree = household_tree(plan)
    keep, fixed = set(stay), dict[str, list[Load]]()
    moving: dict[str, list[tuple[str, Load]]] = {}
    options: list[list[_Choice]] = []
    for circuit in plan.circuits:
        for hung in tree.under(circuit.id):
            space = plan.space(hung.space_id)
            choices = _single(plan, circuit.id, space, hung) if hung.space_id not in keep else []
            if choices:
                options.append(choices)
            elif space is not None and space.id not in keep and most_h > 0 and _follows_lamps(space, hung.load):
                moving.setdefault(space.id, []).append((circuit.id, hung.load))
            else:
                fixed.setdefault(circuit.id, []).append(hung.load)
    options += [_photoperiods(plan, key, loads, most_h) for key, loads in moving.items()]
    if not options:
        return None
    flat = [choice for group in options for choice in group]
    groups, past = [], 0
    for group in options:
        groups.append(list(range(past, past + len(group))))
        past += len(group)
    taken = best(_rows(plan, flat, fixed), groups, np.array([choice.cost for choice in flat]))
    if taken is None:
        return None
    chosen = [choice for choice, one in zip(flat, taken, strict=True) if one and choice.acts]
    if not chosen:
        return None
    acts = tuple(act for choice in chosen for act in choice.acts)
    after = apply(plan, None, acts)
    told = tuple(choice.told for choice in chosen if choice.told is not None)
    words = f"Run {told[0].name} {told[0].now}" if len(told) == 1 else f"Shift {counted(len(told), 'time')} of the day"
    return Stagger(
        remedy=Remedy(label=sentence(words), changes=acts),
        shifted=told,
        circuits=compared(plan, after),
        heat=tuple(_heat(plan, after)),
    )


def _slots(minutes: Watts) -> Floats:
    return np.asarray(minutes.reshape(_SLOTS, STEP_MIN).max(axis=1), dtype=np.float64)


def _follows_lamps(space: Space, load: Load) -> bool:
    """Whether what a load draws hangs on the lamps' hours, and these can be moved."""
    lamps = [lamp for lamp in space.fixtures if lamp.enabled]
    if not lamps or not all(isinstance(lamp.schedule, Daily) and lamp.schedule.start for lamp in lamps):
        return False
    if any(lamp.id == load.part_id for lamp in lamps):
        return True
    follows = isinstance(load.schedule, WithLamps) or (isinstance(load.schedule, Cycle) and load.schedule.when)
    return bool(follows) or load.lit_share != load.dark_share


def _photoperiods(plan: Plan, space_id: str, loads: Sequence[tuple[str, Load]], most_h: float) -> list[_Choice]:
    space = plan.space(space_id)
    assert space is not None
    lamps = [lamp for lamp in space.fixtures if lamp.enabled]
    starts = {lamp.id: minute_of(str(lamp.schedule.start)) for lamp in lamps if isinstance(lamp.schedule, Daily)}
    peak, lasting = ({} for _ in range(2))  # type: dict[str, Watts], dict[str, Watts]
    for key, load in loads:
        peak[key] = peak.get(key, 0) + coinciding_w([load], apparent=True)
        lasting[key] = lasting.get(key, 0) + coinciding_w([load], for_hours=True, apparent=True)
    first = min(lamps, key=lambda lamp: starts[lamp.id])
    long = max(lamp.schedule.hours for lamp in lamps if isinstance(lamp.schedule, Daily))
    found = []
    steps = int(min(most_h, 12.0) * 60) // STEP_MIN
    for step in range(-steps, steps + 1):
        shift = step * STEP_MIN
        acts = tuple(
            Change(
                collection="fixtures",
                part_id=lamp.id,
                at=("spaces", space_id),
                values={"schedule.start": clock(starts[lamp.id] + shift)},
            )
            for lamp in lamps
        )
        begin = starts[first.id]
        told = Shifted(
            name=f"Lamps of {space.name}",
            was=_from_to(begin, long),
            now=_from_to(begin + shift, long),
            means=f"{24 - long:g} h of night as before; once, on the day of the change, it is {abs(shift) / 60:g} h "
            f"{'longer' if shift > 0 else 'shorter'}",
        )
        found.append(
            _Choice(
                cost=1.0 + abs(step) / 16 if step else 0.0,
                acts=acts if step else (),
                told=told if step else None,
                peak={key: np.roll(_slots(drawn), step) for key, drawn in peak.items()},
                lasting={key: np.roll(_slots(drawn), step) for key, drawn in lasting.items()},
            )
        )
    return found


def _from_to(start_min: float, hours: float) -> str:
    return f"from {clock(start_min)} to {clock(start_min + 60 * hours)}"


def _single(plan: Plan, circuit_id: str, space: Space | None, hung: Hung) -> list[_Choice]:
    """The times one thing may be given by itself: what may run at any time, and long cycles that run all day."""
    load, item = hung.load, hung.load.schedule
    if space is None and load.any_time and isinstance(item, Daily) and 0 < item.hours <= 12:
        at: tuple[str, ...] = ("circuits", circuit_id)
        # The household's loads stand where they were typed, whatever they are plugged into.
        for circuit in plan.circuits:
            if any(other.id == load.part_id and other.name == load.name for other in circuit.other_loads):
                at = ("circuits", circuit.id)
        return _placed(circuit_id, load, item, at)
    long = isinstance(item, Cycle) and item.start is None and item.when is None and item.every_min >= _CYCLE_MIN
    if space is None or not long or load.power_w < _CYCLE_W or not isinstance(item, Cycle):
        return []
    mine = any(device.id == load.part_id for device in space.devices)
    return _later(circuit_id, space, load, item) if mine else []


def _as(load: Load, item: Schedule) -> Load:
    return replace(load, schedule=item, any_time=False)


def _choice(circuit_id: str, load: Load, cost: float, acts: tuple[Act, ...], told: Shifted | None) -> _Choice:
    return _Choice(
        cost=cost,
        acts=acts,
        told=told,
        peak={circuit_id: _slots(coinciding_w([load], apparent=True))},
        lasting={circuit_id: _slots(coinciding_w([load], for_hours=True, apparent=True))},
    )


def _placed(circuit_id: str, load: Load, item: Daily, at: tuple[str, ...]) -> list[_Choice]:
    # A little is lost with its freedom, less than by moving anything else.
    found = [_choice(circuit_id, load, 0.0, (), None)]
    last = AWAKE[1] - int(60 * item.hours)
    for start in range(AWAKE[0], last + 1, STEP_MIN):
        fixed = item.model_copy(update={"start": clock(start)})
        values = {"schedule": fixed.model_dump(mode="json"), "any_time": False}
        act = Change(collection="other_loads", part_id=load.part_id, at=at, values=values)
        told = Shifted(
            name=load.name,
            was=f"{item.hours:g} h at any time",
            now=_from_to(start, item.hours),
            means="start it then, by its own delay or by hand",
        )
        # Early afternoon is as good as any time; far from it costs a little.
        cost = 0.5 + abs(start + 30 * item.hours - 14 * 60) / 60 / 100
        found.append(_choice(circuit_id, _as(load, fixed), cost, (act,), told))
    return found


def _later(circuit_id: str, space: Space, load: Load, item: Cycle) -> list[_Choice]:
    found = [_choice(circuit_id, load, 0.0, (), None)]
    step = max(STEP_MIN, round(item.every_min / 12 / STEP_MIN) * STEP_MIN)
    for offset in range(step, int(item.every_min), step):
        moved = item.model_copy(update={"start": clock(offset), "hours": 24.0})
        act = Change(
            collection="devices",
            part_id=load.part_id,
            at=("spaces", space.id),
            values={"schedule": moved.model_dump(mode="json")},
        )
        told = Shifted(
            name=f"{load.name} of {space.name}",
            was="its cycle from midnight",
            now=f"its cycle from {clock(offset)}",
            means=f"{item.on_min:g} min every {item.every_min:g} min as before",
        )
        found.append(_choice(circuit_id, _as(load, moved), 0.8 + offset / 14_400, (act,), told))
    return found


def _rows(plan: Plan, flat: Sequence[_Choice], fixed: Mapping[str, Sequence[Load]]) -> Rows:
    from scipy.sparse import csr_array

    loads, base, limit = [], [], []
    for circuit in plan.circuits:
        full = circuit.breaker_a * circuit.mains_v
        share = find(rule_sets(), circuit.rule_set_id, "rule set").continuous_share
        for most, lasting in ((full, False), (share * full, True)):
            there = _slots(coinciding_w(fixed.get(circuit.id, ()), for_hours=lasting, apparent=True))
            columns = [(choice.lasting if lasting else choice.peak).get(circuit.id) for choice in flat]
            block = np.zeros((_SLOTS, len(flat)))
            for place, column in enumerate(columns):
                if column is not None:
                    block[:, place] = column
            together = np.unique(np.round(np.hstack([there[:, None], block]), 1), axis=0)
            loads.append(csr_array(together[:, 1:]))
            base.append(together[:, 0])
            limit.append(np.full(len(together), most))
    stacked = csr_array(np.vstack([block.toarray() for block in loads]))
    return Rows(loads=stacked, base=np.concatenate(base), limit=np.concatenate(limit))


def _heat(before: Plan, after: Plan) -> Iterable[Heat]:
    """The lamps' heat of all spaces of a room, at its most."""
    trees = household_tree(before), household_tree(after)
    for room in before.rooms:
        mine = {space.id for space in before.spaces if space.room_id == room.id}
        lamps = {(space.id, lamp.id) for space in before.spaces for lamp in space.fixtures}
        most = []
        for tree in trees:
            hung = [item for node in tree.nodes.values() for item in node.own] + list(tree.loose)
            drawn = [
                minutes_of(item.load)
                for item in hung
                if item.space_id in mine and (item.space_id, item.load.part_id) in lamps
            ]
            most.append(float(sum(drawn, np.zeros(MINUTES, dtype=np.float32)).max()))
        if most[0] > 0:
            yield Heat(room=room.name, before_w=most[0], after_w=most[1])
