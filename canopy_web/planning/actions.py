"""Every change to a plan, one function an act: all in a transaction, all in the history."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from canopy.design.start.answers import Answers
from canopy.design.start.space import begin_space
from canopy.errors import PlanError, PlanProblem
from canopy.library import ContainerClass, Crop
from canopy.plan import Circuit, Plan, Planting, Tariff, loads
from canopy.plan.changes import Change, Collection
from canopy.plan.edit import (
    add_parts,
    add_planting,
    add_space,
    apply,
    change_plan,
    confirm,
    remove_parts,
    remove_planting,
    remove_space,
    shifted,
    with_crop,
)
from canopy.season import Sowing, begin_with, cast_of, move_on, sow
from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import from_plan, to_plan

DEMO_USER = "demo"
DEMO_FILE = Path(settings.BASE) / "examples" / "demo-household.json"


def _record(row: GrowPlan, plan: Plan, label: str) -> GrowPlan:
    state = PlanState.objects.create(plan=row, parent=row.head, label=label[:200], document=from_plan(plan))
    row.head, row.name = state, plan.name
    row.save()
    return row


@transaction.atomic
def create_plan(owner: Any, plan: Plan, label: str = "New plan") -> GrowPlan:
    """Keep a new plan for a person."""
    row = GrowPlan.objects.create(owner=owner, name=plan.name)
    return _record(row, plan, label)


@transaction.atomic
def change(row: GrowPlan, label: str, make: Callable[[Plan], Plan]) -> GrowPlan:
    """Change a plan by a function from plan to plan; nothing is stored when it raises or changes nothing."""
    fresh = GrowPlan.objects.select_related("head").get(pk=row.pk)
    before = to_plan(fresh)
    after = make(before)
    return fresh if after == before else _record(fresh, after, label)


def start_household(
    owner: Any, name: str, rule_set_id: str, mains_v: float, breaker_a: float, tariff: Tariff
) -> GrowPlan:
    """Make a person's first, empty household with one circuit."""
    circuit = Circuit(
        id="circuit-1", name="First circuit", rule_set_id=rule_set_id, mains_v=mains_v, breaker_a=breaker_a
    )
    plan = Plan(name=name, date=dt.date.today(), tariff=tariff, circuits=(circuit,))
    return create_plan(owner, plan, "New household")


def start_space(row: GrowPlan, answers: Answers, own: Iterable[Crop] = ()) -> GrowPlan:
    """Add a space made of a few answers; crops of the person's own come into the plan with it."""

    def make(plan: Plan) -> Plan:
        for crop in own:
            plan = with_crop(plan, crop)
        return add_space(plan, begin_space(answers, cast_of(plan)))

    return change(row, f"New space: {answers.name}", make)


def import_plan(owner: Any, content: bytes) -> GrowPlan:
    """Keep a plan from a plan file."""
    return create_plan(owner, loads(content), "Imported")


def change_space(row: GrowPlan, space_id: str, changes: Iterable[Change], label: str) -> GrowPlan:
    """Change a space or its parts."""
    wanted = tuple(changes)
    return change(row, label, lambda plan: apply(plan, space_id, wanted))


def add_to_space(
    row: GrowPlan, space_id: str, collection: Collection, parts: list[dict[str, Any]], label: str
) -> GrowPlan:
    """Add parts to a space."""
    return change(row, label, lambda plan: add_parts(plan, space_id, collection, parts))


def add_plants(
    row: GrowPlan, space_id: str, parts: list[dict[str, Any]], label: str, own: Crop | None = None
) -> GrowPlan:
    """Add plants; a crop of the person's own comes into the plan with them."""
    return change(row, label, lambda plan: add_parts(_with(plan, own), space_id, "plants", parts))


def change_plants(
    row: GrowPlan, space_id: str, changes: Iterable[Change], label: str, own: Crop | None = None
) -> GrowPlan:
    """Change plants; a crop of the person's own comes into the plan with them."""
    wanted = tuple(changes)
    return change(row, label, lambda plan: apply(_with(plan, own), space_id, wanted))


def _with(plan: Plan, own: Crop | None) -> Plan:
    return with_crop(plan, own) if own is not None else plan


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


def begin_season(row: GrowPlan, space_id: str, plant_ids: list[str], planting: Planting) -> GrowPlan:
    """Let plants follow days from now on."""
    return change(
        row, f"{planting.name} follows its days", lambda plan: begin_with(plan, space_id, plant_ids, planting)
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


def remove_from_space(row: GrowPlan, space_id: str, collection: Collection, ids: Iterable[str], label: str) -> GrowPlan:
    """Take parts out of a space."""
    gone = tuple(ids)
    return change(row, label, lambda plan: remove_parts(plan, space_id, collection, gone))


def confirm_assumption(row: GrowPlan, space_id: str, what: str) -> GrowPlan:
    """Take an assumed figure as settled."""
    return change(row, f"Confirmed {what}", lambda plan: confirm(plan, space_id, what))


def delete_space(row: GrowPlan, space_id: str, name: str) -> GrowPlan:
    """Take a space out of a plan; undo brings it back."""
    return change(row, f"Removed {name}", lambda plan: remove_space(plan, space_id))


def change_household(row: GrowPlan, values: Mapping[str, Any], label: str = "Household") -> GrowPlan:
    """Change name, tariff or circuits."""
    return change(row, label, lambda plan: change_plan(plan, values))


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


@transaction.atomic
def delete_plan(row: GrowPlan) -> None:
    """Remove a plan with its whole history, for good."""
    GrowPlan.objects.filter(pk=row.pk).update(head=None)
    row.delete()


def open_demo(user: Any) -> None:
    """Give the demo's person the demo household, unless it is there already."""
    if not GrowPlan.objects.for_owner(user).exists():
        plan = loads(DEMO_FILE.read_bytes())
        create_plan(user, shifted(plan, dt.date.today() - plan.date), "Demo household")
