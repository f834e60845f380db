"""A demo household's pictures from above: those its people took, all but the newest measured."""

from __future__ import annotations

import datetime as dt
import hashlib
import io
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from canopy.errors import CanopyError
from canopy.pictures.measured import Marks, Measured
from canopy.review.pictured import measured_in
from canopy.season import Standing, cast_of, standing_of
from canopy_web.photos import actions
from canopy_web.photos.pictures import pixels
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan
from canopy_web.standins.names import PICTURED, PICTURED_DAYS, picture_file

_found: dict[tuple[str, dt.date], Measured | None] = {}


def hang_up(row: GrowPlan) -> int:
    """Keep what was photographed; gives how many. Nothing where the stand-ins have not rendered it yet."""
    if not settings.STANDINS:
        return 0
    plan, today, kept = to_plan(row), timezone.localdate(), 0
    space = plan.space(PICTURED)
    assert space is not None
    newest = min(PICTURED_DAYS)
    for days, corners in PICTURED_DAYS.items():
        day = today - dt.timedelta(days=days)
        path = picture_file(Path(settings.DATA), day)
        if not path.exists():
            continue
        photo = actions.add_photo(row, PICTURED, _sent(path), today=today, day=day)
        kept += 1
        if days == newest:
            continue
        marks = Marks(corners=corners)
        found = _measured(bytes(photo.image), marks, standing_of(space, day, cast_of(plan)))
        if found is not None:
            actions.keep_measure(photo, marks, found)
    return kept


def _measured(image: bytes, marks: Marks, here: Standing) -> Measured | None:
    """Measure a picture, or take what it measured for the visitor before: they all hang up the same."""
    key = hashlib.blake2b(image).hexdigest(), here.day
    if key not in _found:
        try:
            _found[key] = measured_in(pixels(image), marks, here)
        except CanopyError:
            _found[key] = None
        while len(_found) > len(PICTURED_DAYS):
            del _found[next(iter(_found))]
    return _found[key]


class _Sent(io.BytesIO):
    """A file as a browser sends one."""

    size: int = 0


def _sent(path: Path) -> _Sent:
    content = path.read_bytes()
    sent = _Sent(content)
    sent.size = len(content)
    return sent
