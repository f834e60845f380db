"""Everything of an account in one file: plans as plan files, photographs, crops, settings."""

from __future__ import annotations

import json
import tempfile
import zipfile
from typing import Any, BinaryIO

from django.http import FileResponse, HttpRequest
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from canopy.logs.files import dumps_with_facts
from canopy_web.accounts.context import preference_of
from canopy_web.library.querysets import own_rows
from canopy_web.logbook.querysets import facts_of
from canopy_web.logbook.taken import entry_lines, reading_lines
from canopy_web.photos.models import SpacePhoto
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

# Held in memory up to this size, then in a file of its own [bytes].
_IN_MEMORY = 4_000_000
ABOUT = """All that belongs to this account.

plans/       one plan file a household, with what was logged; taken in again on the page of your spaces
readings/    what sensors showed, a table a household, times in UTC, in the units in which they are kept
log/         what was written down, a table a household; struck entries are marked
photographs/ as they are kept here, by household and space, with photographs.json for days and captions
crops.json   crops of your own, as plan files hold them
account.json name, units, theme, time zone; no password

Old states of the plans, for undo, are not in it: a plan file is a plan as it is now.
"""


@require_GET
def take_away(request: HttpRequest) -> FileResponse:
    """Give all that belongs to the account as one archive."""
    # The answer closes it when it is sent.
    file = tempfile.SpooledTemporaryFile(max_size=_IN_MEMORY)  # noqa: SIM115
    pack(request, file)
    file.seek(0)
    name = f"mild-canopy-{slugify(request.user.get_username()) or 'account'}-{timezone.localdate():%Y%m%d}.zip"
    return FileResponse(file, as_attachment=True, filename=name, content_type="application/zip")


def pack(request: HttpRequest, file: Any) -> None:
    """Write the archive; photographs one at a time, so that many of them need no memory."""
    target: BinaryIO = file
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("about.txt", ABOUT)
        listed = []
        for row in GrowPlan.objects.for_owner(request.user):
            plan, folder = to_plan(row), f"{row.pk}-{slugify(row.name)[:40] or 'household'}"
            facts = facts_of(row, [space.id for space in plan.spaces])
            archive.writestr(f"plans/{folder}.json", dumps_with_facts(plan, facts))
            for photo in SpacePhoto.objects.filter(plan=row).defer("small").iterator(chunk_size=1):
                path = f"photographs/{folder}/{photo.space_id}-{photo.day:%Y%m%d}-{photo.pk}.jpg"
                # A JPEG gets no smaller.
                archive.writestr(path, bytes(photo.image), zipfile.ZIP_STORED)
                listed.append(
                    {
                        "file": path,
                        "taken_on": photo.day.isoformat(),
                        "caption": photo.caption,
                        "step": photo.step,
                    }
                )
            with archive.open(f"readings/{folder}.csv", "w") as out:
                for line in reading_lines(row):
                    out.write(line.encode())
            with archive.open(f"log/{folder}.csv", "w") as out:
                for line in entry_lines(row):
                    out.write(line.encode())
        archive.writestr("photographs.json", _written(listed))
        archive.writestr("crops.json", _written([row.document for row in own_rows(request.user)]))
        chosen = preference_of(request)
        account = {key: getattr(chosen, key) for key in ("units", "light", "theme", "time_zone")}
        archive.writestr("account.json", _written({"name": request.user.get_username(), **account}))


def _written(data: Any) -> str:
    return json.dumps(data, ensure_ascii=False, indent=2)
