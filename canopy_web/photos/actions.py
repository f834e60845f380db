"""Changes to photographs."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.db import transaction

from canopy.pictures.measured import Marks, Measured, Reading
from canopy_web.photos.models import PictureMeasure, SpacePhoto
from canopy_web.photos.pictures import PictureError, drawn, leaf_mask, read_picture
from canopy_web.planning.models import GrowPlan

MOST, MOST_STEPS = 200, 80


def add_photo(
    plan: GrowPlan,
    space_id: str,
    file: Any,
    caption: str = "",
    *,
    today: dt.date,
    day: dt.date | None = None,
    step: str = "",
    plant_id: str = "",
) -> SpacePhoto:
    """Keep a photograph of a space; raises PictureError where it is not one, or where there are too many.

    It shows a ``step`` of the build or one plant, where one is named. It counts for ``day``; without one for the day
    its camera noted, else for today.
    """
    _room_for_one(plan, space_id, step)
    # Decoded before the transaction: nobody else's change waits for it.
    picture = read_picture(file, file.size)
    with transaction.atomic():
        _room_for_one(plan, space_id, step)
        return SpacePhoto.objects.create(
            plan=plan,
            space_id=space_id,
            caption=caption.strip()[:120],
            step=step[:160],
            plant_id=plant_id[:64],
            lens_mm=picture.lens_mm,
            day=day or picture.day or today,
            image=picture.image,
            small=picture.small,
            width=picture.width,
            height=picture.height,
        )


def _room_for_one(plan: GrowPlan, space_id: str, step: str) -> None:
    kept = SpacePhoto.objects.filter(plan=plan, space_id=space_id)
    if step and kept.exclude(step="").count() >= MOST_STEPS:
        raise PictureError(f"The build of a space keeps {MOST_STEPS} photographs; remove one first.")
    if not step and kept.filter(step="").count() >= MOST:
        raise PictureError(f"A space keeps {MOST} photographs; remove one first.")


def date_photo(photo: SpacePhoto, day: dt.date) -> None:
    """Say on which day a photograph was taken."""
    photo.day = day
    photo.save(update_fields=["day"])


def remove_photo(photo: SpacePhoto) -> None:
    """Remove a photograph for good."""
    photo.delete()


def keep_measure(photo: SpacePhoto, marks: Marks, measured: Measured) -> PictureMeasure:
    """Keep what a photograph says, instead of what was found in it before."""
    kept, _ = PictureMeasure.objects.update_or_create(
        photo=photo,
        defaults={
            "marks": marks.model_dump(mode="json"),
            "reading": measured.reading.model_dump(mode="json"),
            "flat": drawn(measured.flat),
            "mask": leaf_mask(measured.mask),
        },
    )
    return kept


def draw_measure(kept: PictureMeasure, measured: Measured) -> None:
    """Draw the pictures of a measurement that was taken over; what it says stays as it was told."""
    kept.flat, kept.mask = drawn(measured.flat), leaf_mask(measured.mask)
    kept.save(update_fields=["flat", "mask"])


def take_measure(photo: SpacePhoto, marks: Any, reading: Any) -> PictureMeasure:
    """Take over what was measured elsewhere; its pictures are drawn again when they are looked at.

    Raises ValueError for what is no measurement.
    """
    return PictureMeasure.objects.create(
        photo=photo,
        marks=Marks.model_validate(marks).model_dump(mode="json"),
        reading=Reading.model_validate(reading).model_dump(mode="json"),
        flat=b"",
        mask=b"",
    )


def forget_measure(photo: SpacePhoto) -> None:
    """Take back what was marked in a photograph."""
    PictureMeasure.objects.filter(photo=photo).delete()
