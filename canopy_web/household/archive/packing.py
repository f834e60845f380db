"""Everything of an account in one file: plans with their history, what was logged, photographs, crops, settings."""

from __future__ import annotations

import json
import tempfile
import zipfile
from collections.abc import Iterator
from typing import Any, BinaryIO

from django.http import FileResponse, HttpRequest
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from canopy.logs.files import dumps_with_facts
from canopy_web.accounts.models import Preference
from canopy_web.household.archive.tables import TABLES, numbered, written_rows
from canopy_web.library.querysets import own_rows
from canopy_web.logbook.querysets import facts_of
from canopy_web.logbook.taken import entry_lines, reading_lines
from canopy_web.photos.models import SpacePhoto
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import document_to_plan, to_plan

FORMAT = 2
# Held in memory up to this size, then in a file of its own [bytes].
_IN_MEMORY = 4_000_000
PREFERENCES = ("units", "light", "theme", "time_zone", "mail")
ABOUT = """All that belongs to this account. The page Account takes it in again, whole.

plans/       one plan file a household as it is now, with what was logged; taken in on the page of your spaces, too
history/     every state each plan ever had, a line each, and spaces kept by name
facts/       all that was logged, sensed by which sensor, rung and switched, as JSON
readings/    what sensors showed, a table a household, times in UTC, in the units in which they are kept
log/         what was written down, as a table; struck entries are marked
photographs/ as they are kept here, by household and space, with photographs.json for days and captions
crops.json   crops of your own, as plan files hold them
account.json name, units, theme, time zone, and what was practised; no password

Private addresses of calendars and passwords of brokers are not in it.
"""


@require_GET
def take_away(request: HttpRequest) -> FileResponse:
    """Give all that belongs to the account as one archive."""
    # The answer closes it when it is sent.
    file = tempfile.SpooledTemporaryFile(max_size=_IN_MEMORY)  # noqa: SIM115
    pack(request.user, file)
    file.seek(0)
    name = f"mild-canopy-{slugify(request.user.get_username()) or 'account'}-{timezone.localdate():%Y%m%d}.zip"
    return FileResponse(file, as_attachment=True, filename=name, content_type="application/zip")


def pack(user: Any, file: Any) -> None:
    """Write the archive; photographs, states and readings one at a time, so that many of them need no memory."""
    target: BinaryIO = file
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("about.txt", ABOUT)
        listed: list[dict[str, Any]] = []
        for number, row in enumerate(GrowPlan.objects.for_owner(user), 1):
            _pack_household(archive, row, f"{number:02d}-{slugify(row.name)[:40] or 'household'}", listed)
        archive.writestr("photographs.json", _written(listed))
        archive.writestr("crops.json", _written([row.document for row in own_rows(user)]))
        chosen = Preference.objects.filter(user=user).first() or Preference(user=user)
        account: dict[str, Any] = {"format": FORMAT, "name": user.get_username()}
        account |= {key: getattr(chosen, key) for key in PREFERENCES}
        account["practised"] = [
            {"scenario": best.scenario, "score": best.score, "moves": best.moves, "times": best.times}
            for best in user.trainer_results.order_by("scenario")
        ]
        archive.writestr("account.json", _written(account))


def _pack_household(archive: zipfile.ZipFile, row: GrowPlan, folder: str, listed: list[dict[str, Any]]) -> None:
    plan = to_plan(row)
    facts = facts_of(row, [space.id for space in plan.spaces])
    archive.writestr(f"plans/{folder}.json", dumps_with_facts(plan, facts))
    states = numbered(row.states.order_by("pk").values_list("pk", flat=True))
    _write_lines(archive, f"history/{folder}.jsonl", _history(row, states))
    numbers: dict[str, dict[int, int]] = {"states": states, "people": {row.owner_id: 0}}
    tables: dict[str, Any] = {}
    for table in TABLES:
        tables[table.name], numbers[table.name] = written_rows(table, row, numbers)
    for source in tables["sources"]:
        if source["shape"].get("password"):
            source["shape"] = {**source["shape"], "password": ""}
    archive.writestr(f"facts/{folder}.json", _written(tables))
    for photo in (
        SpacePhoto.objects.filter(plan=row)
        .select_related("measure")
        .defer("small", "measure__flat", "measure__mask")
        .order_by("pk")
        .iterator(chunk_size=1)
    ):
        measure = getattr(photo, "measure", None)
        path = f"photographs/{folder}/{photo.space_id}-{photo.day:%Y%m%d}-{len(listed) + 1:04d}.jpg"
        # A JPEG gets no smaller.
        archive.writestr(path, bytes(photo.image), zipfile.ZIP_STORED)
        listed.append(
            {
                "file": path,
                "household": folder,
                "space": photo.space_id,
                "taken_on": photo.day.isoformat(),
                "came": photo.taken.isoformat(),
                "caption": photo.caption,
                "step": photo.step,
                "plant": photo.plant_id,
                "lens_mm": photo.lens_mm,
                "marks": measure.marks if measure else None,
                "said": measure.reading if measure else None,
            }
        )
    _write_lines(archive, f"readings/{folder}.csv", reading_lines(row))
    _write_lines(archive, f"log/{folder}.csv", entry_lines(row))


def _write_lines(archive: zipfile.ZipFile, name: str, lines: Iterator[str]) -> None:
    with archive.open(name, "w", force_zip64=True) as out:
        for line in lines:
            out.write(line.encode())


def _history(row: GrowPlan, states: dict[int, int]) -> Iterator[str]:
    """A line for the plan, one for each state, one for each space kept by name."""
    assert row.head_id is not None
    head = {"head": states[row.head_id], "serial": row.serial, "created": row.created.isoformat()}
    yield json.dumps(head) + "\n"
    for state in row.states.order_by("pk").iterator(20):
        yield (
            json.dumps(
                {
                    "state": states[state.pk],
                    "parent": states[state.parent_id] if state.parent_id is not None else None,
                    "label": state.label,
                    "created": state.created.isoformat(),
                    "plan": document_to_plan(state.document).model_dump(mode="json"),
                },
                ensure_ascii=False,
            )
            + "\n"
        )
    for kept in row.variants.order_by("pk"):
        yield (
            json.dumps(
                {
                    "variant": kept.name,
                    "space": kept.space_id,
                    "price": kept.price,
                    "created": kept.created.isoformat(),
                    "plan": document_to_plan(kept.document).model_dump(mode="json"),
                },
                ensure_ascii=False,
            )
            + "\n"
        )


def _written(data: Any) -> str:
    return json.dumps(data, ensure_ascii=False, indent=2)
