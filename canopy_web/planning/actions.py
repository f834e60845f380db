"""Every change to a plan, one function an act: the smallest change, applied to the newest state in a transaction."""

from __future__ import annotations

import datetime as dt
import secrets
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify

from canopy import season
from canopy.design.start.answers import Answers
from canopy.design.start.space import begin_space
from canopy.errors import EvaluationError, PlanError, PlanProblem
from canopy.evaluate.kept import report_of
from canopy.library import ContainerClass, Crop
from canopy.plan import Circuit, Plan, Site, Space, Tariff, loads
from canopy.plan.changes import Act, Change
from canopy.plan.edit import (
    add_parts,
    add_planting,
    add_space,
    apply,
    confirm,
    remove_planting,
    remove_space,
    shifted,
    space_id_for,
    with_crop,
    with_space,
)
from canopy.plan.edit import duplicate_space as copied
from canopy.power.tracing import traced
from canopy.season import Sowing, cast_of, day_to_show, let_follow_days, move_on, sow
from canopy.words import counted
from canopy_web.planning.demo import BARS_RAISED, CLOSET, ROUNDS, bars_low, grown_before, watched
from canopy_web.planning.folding import FROM, fold
from canopy_web.planning.models import GrowPlan, PlanState, PlanVariant
from canopy_web.planning.signals import demo_opened
from canopy_web.planning.store import document_to_plan, from_plan, to_plan

# Visitors of a demo are people of their own, known by how their name begins, and swept away after a day.
DEMO_PREFIX, DEMO_LASTS = "demo-", dt.timedelta(days=1)
# So many variants of a space are kept.
_VARIANTS = 4
DEMO_FILE = Path(__file__).resolve().parent / "demo-household.json"


def _record(row: GrowPlan, plan: Plan, label: str) -> GrowPlan:
    state = PlanState.objects.create(plan=row, parent=row.head, label=label[:200], document=from_plan(plan))
    row.head, row.name, row.serial = state, plan.name, max(row.serial, plan.serial)
    row.save()
    if row.states.count() > FROM:
        fold(row)
    return row


def _judge(plan: Plan, before: Plan | None = None) -> None:
    """Evaluate what a change touches before it is kept; what cannot be computed is refused in words."""
    day = day_to_show(plan, timezone.localdate())
    for space in plan.spaces:
        if before is not None and before.space(space.id) == space and before.plantings == plan.plantings:
            continue
        try:
            report_of(plan, space, day=day)
        except EvaluationError as error:
            raise PlanError([PlanProblem(path="", message=f"this was not kept: {error}")]) from error


@transaction.atomic
def create_plan(owner: Any, plan: Plan, label: str = "New plan") -> GrowPlan:
    """Keep a new plan for a person."""
    row = GrowPlan.objects.create(owner=owner, name=plan.name)
    return _record(row, plan, label)


@transaction.atomic
def change(row: GrowPlan, label: str, make: Callable[[Plan], Plan]) -> GrowPlan:
    """Change a plan by a function from its newest state to the next; nothing is kept when it raises or changes nothing.

    Numbers for ids go on from the highest ever given, also by states that were undone since.
    """
    fresh: GrowPlan = GrowPlan.objects.select_related("head").get(pk=row.pk)
    found = to_plan(fresh)
    before = found.model_copy(update={"serial": max(found.serial, fresh.serial)})
    after = make(before)
    if after in (before, found):
        return fresh
    _judge(after, before)
    return _record(fresh, after, label)


def start_household(
    owner: Any, name: str, rule_set_id: str, mains_v: float, breaker_a: float, tariff: Tariff, site: Site | None = None
) -> GrowPlan:
    """Make a person's first, empty household with one circuit."""
    circuit = Circuit(
        id="circuit-1", name="First circuit", rule_set_id=rule_set_id, mains_v=mains_v, breaker_a=breaker_a
    )
    plan = Plan(name=name, date=timezone.localdate(), tariff=tariff, circuits=(circuit,), site=site or Site(), serial=2)
    return create_plan(owner, plan, "New household")


@transaction.atomic
def start_space(row: GrowPlan, answers: Answers, own: Iterable[Crop] = ()) -> str:
    """Add a space made of a few answers; crops of the person's own come into the plan with it. Gives the space's id.

    ``answers.space_id`` is what the id begins with; a number follows that no space of this plan has ever had.
    """
    made: list[str] = []

    def make(plan: Plan) -> Plan:
        for crop in own:
            plan = with_crop(plan, crop)
        plan, key = space_id_for(plan, answers.space_id)
        made.append(key)
        return add_space(plan, begin_space(replace(answers, space_id=key), cast_of(plan)))

    change(row, f"New space: {answers.name}", make)
    return made[0]


@transaction.atomic
def add_designed(row: GrowPlan, space: Space, how: str, own: Iterable[Crop] = ()) -> str:
    """Add a space that was worked out whole; crops of the person's own come into the plan with it. Gives its id."""
    made: list[str] = []

    def make(plan: Plan) -> Plan:
        for crop in own:
            plan = with_crop(plan, crop)
        plan, key = space_id_for(plan, slugify(space.name)[:40].strip("-_") or "space")
        made.append(key)
        return add_space(plan, space.model_copy(update={"id": key}))

    change(row, f"Whole kit: {space.name}, {how[:1].lower()}{how[1:]}", make)
    return made[0]


def import_plan(owner: Any, plan: Plan) -> GrowPlan:
    """Keep a plan from a plan file, once all of it could be computed."""
    _judge(plan)
    return create_plan(owner, plan, "Imported")


def change_space(row: GrowPlan, space_id: str, changes: Iterable[Act], label: str) -> GrowPlan:
    """Change a space or its parts."""
    wanted = tuple(changes)
    return change(row, label, lambda plan: apply(plan, space_id, wanted))


def change_spaces(row: GrowPlan, changes: Mapping[str, Iterable[Act]], label: str) -> GrowPlan:
    """Change several spaces at once, by their ids: all of it or nothing."""
    wanted = {space_id: tuple(acts) for space_id, acts in changes.items()}

    def make(plan: Plan) -> Plan:
        for space_id, acts in wanted.items():
            plan = apply(plan, space_id, acts)
        return plan

    return change(row, label, make)


def trace_plugs(row: GrowPlan, circuit_id: str, dark: Sequence[tuple[str, str]], label: str) -> GrowPlan:
    """Hang what went dark on the circuit whose breaker was off: ids of spaces and of what in them did."""
    return change(row, label, lambda plan: traced(plan, circuit_id, dark))


def change_household(row: GrowPlan, changes: Iterable[Act], label: str) -> GrowPlan:
    """Change what belongs to the household: name, site, tariff, rooms, circuits and what else hangs on them."""
    wanted = tuple(changes)
    return change(row, label, lambda plan: apply(plan, None, wanted))


def add_plants(
    row: GrowPlan, space_id: str, parts: list[dict[str, Any]], label: str, own: Crop | None = None
) -> GrowPlan:
    """Add plants; a crop of the person's own comes into the plan with them."""
    return change(row, label, lambda plan: add_parts(_with(plan, own), space_id, "plants", parts))


def change_plants(row: GrowPlan, space_id: str, changes: Iterable[Act], label: str, *own: Crop | None) -> GrowPlan:
    """Change plants; crops of the person's own come into the plan with them."""
    wanted = tuple(changes)
    return change(row, label, lambda plan: apply(_with(plan, *own), space_id, wanted))


def _with(plan: Plan, *own: Crop | None) -> Plan:
    for crop in own:
        plan = with_crop(plan, crop) if crop is not None else plan
    return plan


def sow_in_space(row: GrowPlan, space_id: str, sowing: Sowing, shelf_id: str, own: Crop | None = None) -> GrowPlan:
    """Begin plantings, once or in succession."""

    def make(plan: Plan) -> Plan:
        known = _with(plan, own)
        space = known.space(space_id)
        if space is None:
            raise PlanError([PlanProblem(path="spaces", message="this space is no longer in the plan")])
        sown = sow(known, space, sowing, shelf_id)
        return add_planting(known, space_id, list(sown.plantings), list(sown.plants))

    return change(row, f"Begun {sowing.name}", make)


def begin_season(row: GrowPlan, space_id: str, plant_ids: Sequence[str], day: dt.date) -> GrowPlan:
    """Let plants follow days from now on."""
    return change(
        row,
        f"{counted(len(plant_ids), 'plant')} set to grow by date",
        lambda plan: let_follow_days(plan, space_id, plant_ids, day, cast_of(plan)),
    )


def drop_planting(row: GrowPlan, planting_id: str, name: str) -> GrowPlan:
    """Take a planting out with its plants."""
    return change(row, f"Removed {name}", lambda plan: remove_planting(plan, planting_id))


def move_plants(
    row: GrowPlan,
    from_id: str,
    to_id: str,
    plant_ids: list[str],
    day: dt.date,
    label: str,
    container: ContainerClass | None = None,
    crop: Crop | None = None,
) -> GrowPlan:
    """Move plants from one space to another on a day."""
    return change(
        row, label, lambda plan: move_on(plan, from_id, to_id, plant_ids, day, container=container, crop=crop)
    )


def copy_planting(
    row: GrowPlan, space_id: str, planting_id: str, to_id: str, starts_on: dt.date, label: str
) -> GrowPlan:
    """Begin a planting again, on another day and maybe in another space."""
    return change(
        row, label, lambda plan: season.copy_planting(plan, space_id, planting_id, to_id, starts_on, cast_of(plan))
    )


def confirm_assumption(row: GrowPlan, space_id: str, what: str) -> GrowPlan:
    """Take an assumed figure as settled."""
    return change(row, f"Confirmed {what}", lambda plan: confirm(plan, space_id, what))


def duplicate_space(row: GrowPlan, space_id: str, name: str, *, plants: bool) -> GrowPlan:
    """Copy a space, with or without what grows there."""
    how = "" if plants else " without its plants"
    return change(row, f"Copied {name}{how}", lambda plan: copied(plan, space_id, plants=plants))


def delete_space(row: GrowPlan, space_id: str, name: str) -> GrowPlan:
    """Take a space out of a plan; undo brings it back."""
    return change(row, f"Removed {name}", lambda plan: remove_space(plan, space_id))


@transaction.atomic
def keep_variant(row: GrowPlan, space_id: str, name: str, price: float | None) -> PlanVariant:
    """Keep a space as it stands under a name, beside the plan; four of a space at the most."""
    others = PlanVariant.objects.filter(plan=row, space_id=space_id)
    if others.count() >= _VARIANTS:
        raise PlanError([PlanProblem(path="name", message="four variants are kept already: drop one first")])
    if others.filter(name=name[:120]).exists():
        raise PlanError([PlanProblem(path="name", message=f"“{name}” is kept already: choose another name")])
    plan = to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))
    return PlanVariant.objects.create(
        plan=row, space_id=space_id, name=name[:120], price=price, document=from_plan(plan)
    )


def use_variant(row: GrowPlan, pk: int) -> GrowPlan:
    """Put a kept variant in the place of its space; plantings and own crops that are gone come back with it."""
    item = PlanVariant.objects.get(plan=row, pk=pk)
    theirs = document_to_plan(item.document)
    return change(row, f"Took the variant {item.name}", lambda plan: with_space(plan, theirs, item.space_id))


def drop_variant(row: GrowPlan, pk: int) -> None:
    """Take a variant out for good."""
    PlanVariant.objects.filter(plan=row, pk=pk).delete()


@transaction.atomic
def undo(row: GrowPlan) -> str | None:
    """Go back one state; gives what was undone, or None at the first state."""
    fresh = GrowPlan.objects.select_related("head__parent").get(pk=row.pk)
    if fresh.head is None or fresh.head.parent is None:
        return None
    label = str(fresh.head.label)
    fresh.head = fresh.head.parent
    fresh.name = to_plan(fresh).name
    fresh.save()
    return label


@transaction.atomic
def redo(row: GrowPlan) -> str | None:
    """Go forward again to the latest state that came from this one."""
    fresh = GrowPlan.objects.select_related("head").get(pk=row.pk)
    later = PlanState.objects.filter(parent=fresh.head).order_by("-pk").first()
    if later is None:
        return None
    fresh.head = later
    fresh.name = to_plan(fresh).name
    fresh.save()
    return str(later.label)


def delete_plan(row: GrowPlan) -> None:
    """Remove a plan with its whole history, its photographs and all that was logged, for good."""
    row.delete()


def delete_account(user: Any) -> None:
    """Remove a person with all that is theirs, for good: plans, history, photographs, logs, crops, preferences."""
    user.delete()


@transaction.atomic
def open_demo() -> Any:
    """Make a visitor of the demo with a demo household of their own, and sweep away those of the day before."""
    sweep_demo()
    users = get_user_model().objects
    user = users.create_user(f"{DEMO_PREFIX}{secrets.token_hex(4)}")
    plan = grown_before(watched(loads(DEMO_FILE.read_bytes())))
    plan = shifted(plan, timezone.localdate() - plan.date)
    row = create_plan(user, bars_low(plan), "Demo household")
    _hang_higher(row, plan)
    demo_opened.send(sender=GrowPlan, plan=row)
    return user


def _hang_higher(row: GrowPlan, plan: Plan) -> None:
    """Let the history of a demo household begin before its first round in the closet, and its bars be raised after.

    What was before is a beginning of its own: a visitor undoes only what they did themselves.
    """
    now, closet = timezone.now(), plan.space(CLOSET)
    assert closet is not None
    PlanState.objects.filter(plan=row).update(created=now - dt.timedelta(days=ROUNDS[0][2] + 1))
    raised = [Change(collection="fixtures", part_id=lamp.id, values={"z_m": lamp.z_m}) for lamp in closet.fixtures]
    change_space(row, CLOSET, raised, "Hung the bars higher")
    PlanState.objects.filter(plan=row, label="Hung the bars higher").update(
        created=now - dt.timedelta(days=BARS_RAISED), parent=None
    )


def sweep_demo() -> int:
    """Remove visitors of the demo who came more than a day ago, with all that is theirs; gives how many."""
    old = get_user_model().objects.filter(
        username__startswith=DEMO_PREFIX, password__startswith="!", date_joined__lt=timezone.now() - DEMO_LASTS
    )
    count = old.count()
    for user in old:
        delete_account(user)
    return count
