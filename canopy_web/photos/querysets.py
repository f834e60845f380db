"""Reads of photographs, without their bytes."""

from __future__ import annotations

from typing import Any

from canopy_web.photos.models import SpacePhoto
from canopy_web.planning.models import GrowPlan


def photos_of(plan: GrowPlan, space_id: str) -> list[Any]:
    """The photographs of a space, newest first."""
    return list(SpacePhoto.objects.filter(plan=plan, space_id=space_id).defer("image", "small"))
