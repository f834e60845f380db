"""The tab of what ails a plant: what one sees is chosen by small diagrams, causes are ranked, pests are followed."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from canopy.care.outbreak import CLEAN_LOOKS, air_of, clean_looks, generation, helpers
from canopy.diagnosis.evidence import Means, Noticed, facts_of
from canopy.diagnosis.ranking import Diagnosis, Ranked, diagnose, symptoms_of
from canopy.errors import EvaluationError, PlanError
from canopy.evaluate import SpaceReport
from canopy.library import cautions, sources
from canopy.library.ailments import PARTS, Pest, checks, pests, symptoms
from canopy.logs.entries import Entry
from canopy.plan.care import Course
from canopy.plan.changes import Add, Change
from canopy.quantities import Reader
from canopy_web.drawing.ailments import PICTURES
from canopy_web.logbook import entries
from canopy_web.logbook.learnable import recent_means
from canopy_web.planning.models import PlanState
from canopy_web.planning.store import state_to_plan
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import change, page
from canopy_web.workspace.where import Where, at_space

# So many states are looked at for when something was last changed, and in which lists.
_LOOKED_AT = 20
_COUNTS = ("fixtures", "airways", "devices", "plants", "feed", "watering", "stirrers", "lids")
_PLACES = {"old": "old leaves", "new": "new leaves", "top": "near the lamp", "edge": "at the edge", "all": ""}


def ail_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: what one can see, by part of the plant, and the outbreaks that are followed."""
    log = entries.entries_of(where.row, [where.space.id])
    return {
        "parts": [
            {
                "key": key,
                "name": name,
                "symptoms": [
                    {"item": item, "strokes": PICTURES[item.picture], "place": _PLACES[item.place]}
                    for item in symptoms_of(key)
                ],
            }
            for key, name in PARTS.items()
        ],
        "courses": [_course(where, report, item, log) for item in where.space.courses if item.ended_on is None],
        "over": [item for item in where.space.courses if item.ended_on is not None][-4:],
        "pest_names": {key: pest.name for key, pest in pests().items()},
    }


def _course(where: Where, report: SpaceReport, item: Course, log: tuple[Entry, ...]) -> dict[str, Any]:
    pest = pests().get(item.pest)
    clean = clean_looks(item, log) if pest else 0
    return {
        "course": item,
        "name": pest.name if pest else item.pest,
        "clean": clean,
        "of": CLEAN_LOOKS,
        "over": clean >= CLEAN_LOOKS,
        "generation": _days(generation(pest, air_of(report))) if pest else "",
    }


def _days(found: Any) -> str:
    if found.days is None:
        return "it is too cold here for any to grow up"
    return f"{found.days:.0f} days from egg to adult here ({found.least:.0f} to {found.most:.0f})"


def _noticed(where: Where, plants: tuple[str, ...]) -> Noticed:
    means = recent_means(where.row, where.plan, where.space, where.zone)
    return Noticed(
        today=where.day,
        plants=plants,
        entries=entries.entries_of(where.row, [where.space.id]),
        measured={key: Means(lit=lit, dark=dark) for key, (lit, dark) in means.items()},
        changed_on=_changed_on(where),
    )


def _changed_on(where: Where) -> dt.date | None:
    """When what grows, shines or blows in this space was last changed; None where that lies too far back to be seen."""
    newest: tuple[tuple[Any, ...], dt.datetime] | None = None
    for state in PlanState.objects.filter(plan=where.row).order_by("-pk")[:_LOOKED_AT]:
        space = state_to_plan(state).space(where.space.id)
        told = tuple(getattr(space, key) for key in _COUNTS) if space else ()
        if newest is not None and told != newest[0]:
            return timezone.localtime(newest[1], where.zone).date()
        newest = (told, state.created)
    return None


@require_GET
@at_space
def ailing(request: HttpRequest, where: Where) -> HttpResponse:
    """Rank what it can be by what was chosen and answered."""
    shown: dict[str, Any] = dict(place(where))
    seen = [key for key in request.GET.getlist("seen") if key in symptoms()]
    if not seen:
        return render(request, "review/_ailing.html", shown)
    answers = {
        key: request.GET[f"said-{key}"] == "yes" for key in checks() if request.GET.get(f"said-{key}") in ("yes", "no")
    }
    try:
        report = where.followed
    except EvaluationError:
        report = where.report
    facts = facts_of(report, _noticed(where, _plants(where, request.GET.get("plants", ""))))
    found = diagnose(seen, facts, answers)
    reader = where.reader(report)
    shown |= {
        "found": found,
        "ranked": [
            _ranked(item, report, reader) for item in found.ranked if item.word != "unlikely" or found.ranked[0] == item
        ],
        "answers": [(f"said-{key}", "yes" if said else "no", checks()[key].asks) for key, said in answers.items()],
        "known": len(facts),
        "note": _note(found, seen),
        "yes_no": (("yes", "Yes"), ("no", "No")),
    }
    return render(request, "review/_ailing.html", shown)


def _plants(where: Where, text: str) -> tuple[str, ...]:
    numbers = {int(part) for part in text.replace(",", " ").split() if part.isdigit()}
    return tuple(plant.id for number, plant in enumerate(where.space.plants, 1) if number in numbers)


def _ranked(item: Ranked, report: SpaceReport, reader: Reader) -> dict[str, Any]:
    cause = item.cause
    return {
        "item": item,
        "good": [words.say(reader) for words in item.tells_for],
        "bad": [words.say(reader) for words in item.tells_against],
        "cautions": [cautions()[key] for key in cause.cautions if key in cautions()],
        "source": sources()[cause.cited.source].title,
        "grade": cause.cited.grade,
        "pests": [_pest(pest, report) for pest in pests().values() if pest.cause == cause.id],
    }


def _pest(pest: Pest, report: SpaceReport) -> dict[str, Any]:
    air, climate = air_of(report), report.climate
    known = climate is not None and climate.overheats_s is None
    day, night = (climate.mean("air_c", day=lit) if known and climate else float(air.mean()) for lit in (True, False))
    rh = climate.mean("rh_pct", day=True) if known and climate else report.here.around.air.day_rh_pct
    return {
        "pest": pest,
        "generation": _days(generation(pest, air)),
        "helpers": helpers(pest, day, night, rh),
    }


def _worth(found: Diagnosis) -> list[Ranked]:
    """The likeliest, and whatever is possible beside it."""
    return [item for number, item in enumerate(found.ranked) if number == 0 or item.word != "unlikely"]


def _note(found: Diagnosis, seen: list[str]) -> str:
    first = found.ranked[0]
    names = ", ".join(symptoms()[key].name for key in seen)
    return f"Seen: {names}. {first.word.capitalize()}: {first.cause.name.lower()}."


@require_POST
@at_space
def write_down(request: HttpRequest, where: Where) -> HttpResponse:
    """Write a diagnosis into the log, as a note."""
    words = request.POST.get("note", "")[:1000].strip()
    if not words:
        raise Http404
    key = f"diagnosis-{timezone.now():%Y%m%d%H%M%S%f}"
    entry = Entry(key=key, space_id=where.space.id, kind="note", at=timezone.now(), note=words)
    try:
        entries.write(where.row, entry, request.user)
    except PlanError as error:
        return page(request, where, words=error.problems[0].message)
    return page(request, where, words="Written into the log.")


@require_POST
@at_space
def begin_course(request: HttpRequest, where: Where) -> HttpResponse:
    """Follow an outbreak: its steps come into the calendar."""
    pest = pests().get(request.POST.get("pest", ""))
    if pest is None:
        raise Http404
    helper = request.POST.get("helper", "")
    if helper and helper not in {item.name for item in pest.beneficial}:
        raise Http404
    if any(item.pest == pest.id and item.ended_on is None for item in where.space.courses):
        return page(request, where, words=f"{pest.name} is followed here already.")
    fresh = Course(id="new", pest=pest.id, begun_on=where.day, helper=helper)
    added = Add(collection="courses", parts=(fresh.model_dump(mode="json"),), prefix="course")
    return change(request, where, f"Followed an outbreak: {pest.name.lower()}", added)


@require_POST
@at_space
def end_course(request: HttpRequest, where: Where, part_id: str) -> HttpResponse:
    """Let an outbreak be over."""
    if not any(item.id == part_id for item in where.space.courses):
        raise Http404
    ended = Change(collection="courses", part_id=part_id, values={"ended_on": where.day.isoformat()})
    return change(request, where, "An outbreak is over", ended)
