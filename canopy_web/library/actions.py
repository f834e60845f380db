"""Changes to a person's own crops."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils.text import slugify

from canopy.library import Crop, crops
from canopy.plan.edit import fresh_id, with_crop
from canopy_web.library.models import OwnCrop
from canopy_web.planning.actions import change
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan


def key_for(user: Any, name: str) -> str:
    """An id for a new crop of a person's own; it never is one of the library's."""
    taken = {*crops(), *OwnCrop.objects.filter(owner=user).values_list("key", flat=True)}
    key = f"own-{slugify(name)[:48] or 'crop'}"
    return key if key not in taken else fresh_id(key, taken)


@transaction.atomic
def keep_crop(user: Any, crop: Crop) -> OwnCrop:
    """Keep a crop of a person's own; plans that grow it are brought up to date, each with a step in its history."""
    row, _ = OwnCrop.objects.update_or_create(
        owner=user, key=crop.id, defaults={"name": crop.name, "document": crop.model_dump(mode="json")}
    )
    for plan in GrowPlan.objects.for_owner(user):
        if any(item.id == crop.id for item in to_plan(plan).crops):
            change(plan, f"Changed the crop {crop.name}", lambda old: with_crop(old, crop))
    return row


def drop_crop(row: OwnCrop) -> None:
    """Forget a crop of a person's own; plans that grow it keep theirs."""
    row.delete()
