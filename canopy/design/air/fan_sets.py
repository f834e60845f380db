"""Which fan and which filter: sets of the library tried in the space's own path, held against what it needs."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from canopy.air import ventilation
from canopy.air.chain import Chain, NeededAdapter
from canopy.air.fan_curve import power_w, steps_of
from canopy.air.filter_bed import AGED, CONTACT_POOR_S, FACE_MOST_M_S, FilterLoad, filter_load
from canopy.air.network import Moment, network
from canopy.air.noise import together_db
from canopy.air.operating import at_speed, main_way
from canopy.design.air.building import exhaust_parts, refitted
from canopy.design.air.openings import intake_opening, open_area_m2, with_port
from canopy.design.change import changes_between
from canopy.design.light.proposal import Proposal
from canopy.equipment import FanSpec, FilterSpec
from canopy.evaluate.air.amounts import SPARE
from canopy.evaluate.air.noise import noise_of
from canopy.evaluate.space import SpaceReport
from canopy.library import fans, filters
from canopy.margin import Amount, sentence
from canopy.plan.airways import Airway
from canopy.plan.document import Plan, Space
from canopy.plan.edit import fresh_id

# Fans and filters this much apart in diameter are not put together [m].
_APART_M = 0.06
_MOST_SHOWN = 8


@dataclass(frozen=True, kw_only=True)
class Trial:
    """A set at the slowest step that gives what is wanted with an aged filter.

    ``flow_m3_h`` is with the filter aged, ``new_m3_h`` with it new; ``weight_kg`` fan and filter together.
    """

    speed: float
    flow_m3_h: float
    new_m3_h: float
    power_w: float
    noise_dba: float
    weight_kg: float
    load: FilterLoad | None
    needed: tuple[NeededAdapter, ...]


@dataclass(frozen=True, kw_only=True)
class FanSet:
    """A fan with a filter, or without; tried or not yet. ``able`` says whether it meets the need; ``why`` why not."""

    fan: FanSpec
    strain: FilterSpec | None
    trial: Trial | None = None
    why: str = ""

    @property
    def key(self) -> str:
        """Its name among the sets."""
        return f"{self.fan.class_id}.{self.strain.class_id if self.strain else 'none'}"


def sets_for(space: Space, need_m3_h: float, *, filtered: bool) -> tuple[FanSet, ...]:
    """List the fans and filters worth trying.

    Parameters
    ----------
    need_m3_h : flow that is asked for [m³/h]
    filtered : with a carbon filter

    Returns
    -------
    tuple of FanSet : not tried yet, smallest first; only sets whose free flow and filter could do it at all
    """
    wanted = SPARE * need_m3_h
    # Fans without a spigot sit in a stiff wall: they take neither filter nor duct.
    way = main_way(space.airways)
    led = (
        filtered
        or space.kind == "tent"
        or (way is not None and any(part.kind in ("duct", "bend") for part in way.parts))
    )
    able = [
        row.spec
        for row in fans().values()
        if row.spec.free_flow_m3_h > wanted and not (led and row.spec.kind == "case")
    ]
    strains: list[FilterSpec | None] = [None]
    if filtered:
        strains = [
            row.spec for row in filters().values() if row.spec.bed_inner_m and row.spec.rated_flow_m3_h >= wanted
        ]
    found = [
        FanSet(fan=fan, strain=strain)
        for fan in able
        for strain in strains
        if strain is None or abs(strain.diameter_m - fan.diameter_m) <= _APART_M
    ]
    return tuple(
        sorted(found, key=lambda item: (item.fan.free_flow_m3_h, item.strain.weight_kg or 0 if item.strain else 0))
    )


def fitted(space: Space, choice: FanSet, need_m3_h: float) -> tuple[Space, Airway]:
    """Put a set into a space, along its own path.

    Parameters
    ----------
    choice : the set
    need_m3_h : flow that is asked for, for the intake [m³/h]

    Returns
    -------
    tuple : the space with the set, its port and enough intake, and the way it is in
    """
    way = main_way(space.airways)
    if way is None:
        way = Airway(
            id=fresh_id("exhaust", (w.id for w in space.airways)),
            name="Exhaust",
            parts=exhaust_parts(choice.fan, None, strain=choice.strain),
        )
    else:
        way = refitted(way, choice.fan, strain=choice.strain, clean=choice.strain is None)
    made = with_port(space, way, choice.fan.diameter_m)
    if not any(other.way == "in" and other.fans for other in made.airways):
        cut = intake_opening(made, SPARE * need_m3_h, taken_m2=open_area_m2(made))
        if cut:
            made = made.model_copy(update={"openings": (*made.openings, cut)})
    return made, next(item for item in made.airways if item.id == way.id)


def try_set(plan: Plan, space: Space, choice: FanSet, need_m3_h: float) -> FanSet:
    """Try a set: the slowest step below full speed that gives what is needed with its filter aged, or without one a
    fifth more.

    Parameters
    ----------
    plan : the plan, for joined spaces
    choice : the set
    need_m3_h : flow that is asked for [m³/h]

    Returns
    -------
    FanSet : with its trial; without, and why, where no step does
    """
    made, way = fitted(space, choice, need_m3_h)
    # With a filter the flow is looked at as the filter ages: a fifth more would count that twice.
    steps, wanted = [step for step in steps_of(choice.fan) if step < 1], (1.02 if choice.strain else SPARE) * need_m3_h
    flows: dict[float, float] = {}
    duty = way.duty(space.lit, while_lit=True)

    def flow(speed: float, loading: float | None = AGED) -> float:
        air = ventilation(plan, made, Moment(speeds={way.id: speed}, loading=loading))
        return max(air.fan_in_m3_h, air.fan_out_m3_h) * duty

    low, high = 0, len(steps) - 1
    if not steps:
        return replace(choice, why="has no step below full speed")
    flows[steps[high]] = flow(steps[high])
    if flows[steps[high]] < wanted:
        return replace(choice, why="gives too little at its highest step below full")
    while low < high:
        middle = (low + high) // 2
        flows[steps[middle]] = flow(steps[middle])
        low, high = (low, middle) if flows[steps[middle]] >= wanted else (middle + 1, high)
    speed = steps[low]
    new = flow(speed, None)
    load = None
    if choice.strain:
        load = filter_load("", choice.strain, new)
        if load.rated_share > 1 or (load.face_m_s or 0) > FACE_MOST_M_S or (load.contact_s or 1) < CONTACT_POOR_S:
            return replace(choice, why="drives more through the filter than it is made for")
    set_to = at_speed(made, way, speed)
    weight = (choice.fan.weight_kg or 0.0) + ((choice.strain.weight_kg or 0.0) if choice.strain else 0.0)
    trial = Trial(
        speed=speed,
        flow_m3_h=flows.get(speed) or flow(speed),
        new_m3_h=new,
        power_w=power_w(choice.fan, speed),
        noise_dba=_heard(set_to, way),
        weight_kg=weight,
        load=load,
        needed=_chain(plan, set_to, way.id).needed,
    )
    return replace(choice, trial=trial)


def _heard(space: Space, way: Airway) -> float:
    """What is heard of this way's fans alone [dB(A)]."""
    own = {fan.id for fan in way.fans}
    return together_db(source.heard_dba for source in noise_of(space).sources if source.part_id in own)


def _chain(plan: Plan, space: Space, way_id: str) -> Chain:
    return next(way.chain for way in network(plan, space, Moment(lit=True)).ways if way.airway.id == way_id)


def best_sets(tried: Iterable[FanSet]) -> list[tuple[FanSet, tuple[str, ...]]]:
    """Pick the sets to compare.

    Parameters
    ----------
    tried : sets that were tried

    Returns
    -------
    list of (FanSet, tuple of str) : what each is best at ("smallest", "quietest", "thriftiest"), those first; then
        others that are near in one of them
    """
    able = [item for item in tried if item.trial]
    if not able:
        return []

    def at(item: FanSet) -> Trial:
        assert item.trial is not None
        return item.trial

    orders = {
        "smallest": lambda item: (item.fan.free_flow_m3_h, at(item).weight_kg),
        "quietest": lambda item: (round(at(item).noise_dba, 1), at(item).weight_kg),
        "thriftiest": lambda item: (round(at(item).power_w, 2), at(item).weight_kg),
    }
    marks: dict[str, list[str]] = {}
    for name, order in orders.items():
        marks.setdefault(min(able, key=order).key, []).append(name)
    first = [item for item in able if item.key in marks]
    rest = sorted(
        (item for item in able if item.key not in marks), key=lambda item: at(item).noise_dba + at(item).power_w
    )
    return [(item, tuple(marks.get(item.key, ()))) for item in (*first, *rest)][:_MOST_SHOWN]


def propose_set(report: SpaceReport, choice: FanSet, need_m3_h: float) -> Proposal | None:
    """Write a tried set as a change.

    Parameters
    ----------
    report : the space's report
    choice : the set, tried
    need_m3_h : flow that is asked for [m³/h]

    Returns
    -------
    Proposal : or None where the set was not able, or nothing changes
    """
    if choice.trial is None:
        return None
    made, way = fitted(report.space, choice, need_m3_h)
    after = at_speed(made, way, choice.trial.speed)
    changes = changes_between(report.space, after, ("airways", "openings"))
    if not changes:
        return None
    what = f"{choice.fan.name} with {choice.strain.name}" if choice.strain else choice.fan.name
    label = sentence(f"Fit {what} at {{s}}", s=Amount(value=100 * choice.trial.speed, unit="%", decimals=0))
    return Proposal(key=choice.key, label=label, changes=changes)
