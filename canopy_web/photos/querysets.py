"""Reads of photographs, without their bytes."""

from __future__ import annotations

from typing import Any

from canopy_web.photos.models import SpacePhoto
from canopy_web.planning.models import GrowPlan


def photos_of(plan: GrowPlan, space_id: str) -> list[Any]:
    """The photographs of a space with what was measured in them, newest first, without those of its build."""
    rows = SpacePhoto.objects.filter(plan=plan, space_id=space_id, step="").select_related("measure")
    return list(rows.defer("image", "small", "measure__flat", "measure__mask"))


def step_photos(plan: GrowPlan, space_id: str) -> dict[str, list[Any]]:
    """The photographs of a space's build by their steps, newest first."""
    found: dict[str, list[Any]] = {}
    for photo in SpacePhoto.objects.filter(plan=plan, space_id=space_id).exclude(step="").defer("image", "small"):
        found.setdefault(photo.step, []).append(photo)
    return found
