"""The tab in which one writes down what happened: two taps, the last figures proposed, and what was written before."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from django.views.decorators.http import require_POST

from canopy.errors import PlanError
from canopy.evaluate import SpaceReport
from canopy.logs.entries import KINDS, Entry
from canopy.margin import Amount
from canopy.words import counted
from canopy_web.accounts.context import today, zone_of
from canopy_web.logbook import entries
from canopy_web.logbook.models import LogEntry
from canopy_web.logbook.said import said_at
from canopy_web.photos import actions as photo_actions
from canopy_web.photos.pictures import PictureError
from canopy_web.stations.log.forms import FORMS, WORKS, EntryForm
from canopy_web.workspace.reply import page
from canopy_web.workspace.where import Where, at_space

_SHOWN = 40
_DONE = dict(WORKS)


def writing_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    last = entries.last_of(where.row, where.space.id)
    asked_for = where.look.more.get("correct", "")
    wrong = LogEntry.objects.filter(plan=where.row, space_id=where.space.id, key=asked_for, struck=False).first()
    kinds = []
    for kind, (name, _) in KINDS.items():
        form = bad.get(f"log-{kind}")
        if form is None:
            mends = wrong is not None and wrong.kind == kind
            form = _again(where, wrong) if mends and wrong is not None else _form(where, kind, last.get(kind))
        asked = where.look.more.get("kind") == kind or (wrong is not None and wrong.kind == kind)
        kinds.append({"key": kind, "name": name, "form": form, "open": bool(form.errors) or asked})
    rows = LogEntry.objects.filter(plan=where.row, space_id=where.space.id).select_related("by")[:_SHOWN]
    return {
        "log_kinds": sorted(kinds, key=lambda item: list(FORMS).index(str(item["key"]))),
        "log_rows": [_row(where, row) for row in rows],
        "log_photo_wrong": bad.get("log-photo", ""),
    }


def _form(where: Where, kind: str, last: LogEntry | None, data: Any = None) -> EntryForm:
    """A form with what was said the last time; counts of pests and harvests are not."""
    record: dict[str, Any] = {}
    if last is not None and kind in ("water", "reservoir", "work"):
        record = {key: value for key, value in last.data.items() if key != "drained_l"}
    if kind == "pests":
        record = {"looked_at": 1, "on": "leaves"} | ({"what": last.data.get("what", "")} if last else {})
    return FORMS[kind](record, data, system=where.system, prefix=f"log-{kind}", plants=len(where.space.plants))


def _again(where: Where, row: LogEntry) -> EntryForm:
    """A form with all that an entry says, to be written anew in its place."""
    record: dict[str, Any] = {
        **row.data,
        "plants": _numbers(where, row.plants).partition(" and ")[0],
        "at": f"{timezone.localtime(row.at, where.zone):%Y-%m-%dT%H:%M}",
        "note": row.note,
        "corrects": row.key,
    }
    prefix = f"log-{row.kind}"
    return FORMS[row.kind](record, None, system=where.system, prefix=prefix, plants=len(where.space.plants))


def _row(where: Where, row: LogEntry) -> dict[str, Any]:
    zone = where.zone
    return {
        "key": row.key,
        "kind": KINDS[row.kind][0],  # type: ignore[index]
        "at": timezone.localtime(row.at, zone),
        "says": says(row, where.system),
        "plants": _numbers(where, row.plants),
        "note": row.note,
        "struck": row.struck,
        "corrects": bool(row.corrects),
        "by": row.by,
    }


def _numbers(where: Where, ids: list[str]) -> str:
    numbers = {plant.id: number for number, plant in enumerate(where.space.plants, 1)}
    found = [str(numbers[key]) for key in ids if key in numbers]
    gone = len(ids) - len(found)
    return ", ".join(found) + (f" and {counted(gone, 'plant')} gone since" if gone else "")


def says(row: LogEntry, system: str) -> str:
    """What an entry says, in the person's units.

    Parameters
    ----------
    row : of the log
    system : "metric" or "us"

    Returns
    -------
    str : its figures; "" for words alone
    """
    data = row.data

    def text(key: str, unit: str, before: str = "", after: str = "") -> str:
        if data.get(key) is None:
            return ""
        return f"{before}{Amount(value=float(data[key]), unit=unit).text(system)}{after}"

    parts = {
        "water": [
            text("litres", "volume", after=" each" if row.plants else ""),
            "with feed" if data.get("feed") else "",
            text("ec_ms_cm", "EC", "EC "),
            f"pH {data['ph']:g}" if data.get("ph") is not None else "",
            text("drained_l", "volume", after=" ran out"),
        ],
        "reservoir": [
            text("ec_ms_cm", "EC", "EC "),
            f"pH {data['ph']:g}" if data.get("ph") is not None else "",
            text("level_l", "volume"),
            text("water_c", "temperature"),
            data.get("act", ""),
        ],
        "work": [_DONE.get(data.get("act", "prune"), "")],
        "pests": [
            f"{data.get('count', 0)} {data.get('what', '')} on {data.get('looked_at', 1)} {data.get('on', 'leaves')}"
        ],
        "harvest": [
            _weight(data["weight_kg"], system) if data.get("weight_kg") is not None else "",
            f"{data['count']} pieces" if data.get("count") is not None else "",
            f"quality {data['quality']} of 5" if data.get("quality") else "",
            "the last of it" if data.get("last") else "",
        ],
        "weigh": [_weight(data["weight_kg"], system) if data.get("weight_kg") is not None else ""],
    }.get(row.kind, [])
    return ", ".join(part for part in parts if part)


def _weight(weight_kg: float, system: str) -> str:
    """A harvest's weight: small ones in grams or ounces."""
    if system == "us":
        ounces = weight_kg / 0.028349523125
        return f"{ounces:.1f} oz" if ounces < 16 else f"{ounces / 16:.2f} lb"
    return f"{1000 * weight_kg:.0f} g" if weight_kg < 1 else f"{weight_kg:.2f} kg"


@require_POST
@at_space
def write(request: HttpRequest, where: Where, kind: str) -> HttpResponse:
    """Write an entry down; sent twice it is there once."""
    if kind not in FORMS:
        raise Http404
    form = _form(where, kind, None, request.POST)
    if not form.is_valid():
        return page(request, where, bad={f"log-{kind}": form})
    got = form.cleaned_data
    zone = zone_of(request, where.plan)
    at = (
        got["at"].replace(tzinfo=zone) if got["at"] and got["at"].tzinfo is None else got["at"] or _now_or_then(request)
    )
    plants = where.space.plants
    try:
        entry = Entry(
            key=got["entry_key"] or form.fields["entry_key"].initial,
            space_id=where.space.id,
            kind=kind,
            at=at.astimezone(dt.UTC),
            data=form.figures(),
            plants=tuple(plants[number - 1].id for number in got["plants"]),
            note=got["note"],
            corrects=got["corrects"],
        )
        row = entries.write(where.row, entry, request.user)
    except PlanError as error:
        form.add_error(None, error.problems[0].message)
        return page(request, where, bad={f"log-{kind}": form})
    except ValueError:
        raise Http404 from None
    name, _ = KINDS[kind]  # type: ignore[index]
    return page(request, where, words=f"Written down: {name}. {says(row, where.system)}")


def _now_or_then(request: HttpRequest) -> dt.datetime:
    """When it was said, where it waited on a device; else now."""
    now = timezone.now()
    return min(said_at(request) or now, now)


@require_POST
@at_space
def strike(request: HttpRequest, where: Where, key: str) -> HttpResponse:
    """Strike an entry, or let it count again."""
    entries.strike(where.row, key, struck=request.POST.get("struck") == "yes")
    return page(request, where)


@require_POST
@at_space
def photo(request: HttpRequest, where: Where) -> HttpResponse:
    """Keep a photograph from the camera."""
    file = request.FILES.get("photo")
    if file is None:
        return page(request, where, bad={"log-photo": "Choose a picture first."})
    try:
        photo_actions.add_photo(where.row, where.space.id, file, today=today(request, where.plan))
    except PictureError as error:
        return page(request, where, bad={"log-photo": str(error)})
    return page(request, where, words="The photograph is kept, under Space.")
