"""Changes to photographs."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from canopy_web.photos.models import SpacePhoto
from canopy_web.photos.pictures import PictureError, read_picture
from canopy_web.planning.models import GrowPlan

MOST = 24


@transaction.atomic
def add_photo(plan: GrowPlan, space_id: str, file: Any, caption: str = "") -> SpacePhoto:
    """Keep a photograph of a space; raises PictureError where it is not one, or where there are too many."""
    if SpacePhoto.objects.filter(plan=plan, space_id=space_id).count() >= MOST:
        raise PictureError(f"A space keeps {MOST} photographs; remove one first.")
    picture = read_picture(file, file.size)
    return SpacePhoto.objects.create(
        plan=plan,
        space_id=space_id,
        caption=caption.strip()[:120],
        image=picture.image,
        small=picture.small,
        width=picture.width,
        height=picture.height,
    )


def remove_photo(photo: SpacePhoto) -> None:
    """Remove a photograph for good."""
    photo.delete()
