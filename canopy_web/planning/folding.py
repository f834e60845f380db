"""Old history in fewer steps: of each sitting long past the last state stays."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Iterator

from django.db import transaction
from django.db.models.fields.reverse_related import ForeignObjectRel

from canopy_web.planning.models import GrowPlan, PlanState

# So many of the newest states stay as they are; once there are so many, what lies before is folded.
LATEST, FROM = 200, 300
# States that follow each other sooner than this belong to one sitting.
SITTING = dt.timedelta(minutes=30)


@transaction.atomic
def fold(row: GrowPlan, *, latest: int = LATEST, sitting: dt.timedelta = SITTING) -> int:
    """Fold what lies before the newest states: of each sitting only its last state stays; gives how many went.

    Never folded: the first state, the present one, those where history branches, and those that anything else points
    at, such as a fact that was logged then. Undo still leads back through all that stays.
    """
    states = list(row.states.order_by("pk").values_list("pk", "parent_id", "created", "label"))
    if len(states) <= latest:
        return 0
    pointed = _pointed_at(row)
    children: dict[int, int] = {}
    for _, parent, _, _ in states:
        if parent is not None:
            children[parent] = children.get(parent, 0) + 1
    old = states[: len(states) - latest]
    following = {parent: (pk, created) for pk, parent, created, _ in states if parent is not None}
    gone: set[int] = set()
    for pk, parent, created, _ in old:
        after = following.get(pk)
        alone = children.get(pk) == 1 and parent is not None and pk not in pointed and pk != row.head_id
        if alone and after is not None and after[1] - created < sitting:
            gone.add(pk)
    parents = {pk: parent for pk, parent, _, _ in states}
    for pk, parent, _, label in states:
        if pk in gone or parent not in gone:
            continue
        at, folded = parent, 0
        while at in gone:
            at, folded = parents[at], folded + 1
        words = f"{label} and {folded} more"[:200]
        PlanState.objects.filter(pk=pk).update(parent_id=at, label=words)
    for some in _slices(sorted(gone)):
        PlanState.objects.filter(pk__in=some).delete()
    return len(gone)


def _pointed_at(row: GrowPlan) -> set[int]:
    """States that something else than history itself refers to."""
    found: set[int] = set()
    # Those without a way back ("+") count as well.
    for relation in PlanState._meta.get_fields(include_hidden=True):
        if not isinstance(relation, ForeignObjectRel) or relation.related_model in (PlanState, GrowPlan):
            continue
        name = relation.field.name
        rows = relation.related_model._default_manager.filter(**{f"{name}__plan": row})
        found.update(rows.values_list(f"{name}_id", flat=True))
    return found


def _slices(items: list[int], size: int = 400) -> Iterator[Iterable[int]]:
    for start in range(0, len(items), size):
        yield items[start : start + size]
