"""Acts of the Air station: what is asked, ways of air and their parts, circulation fans, which fan and filter."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.air.operating import at_speed
from canopy.design.air.parts import fresh_part, with_own, with_part
from canopy.design.air.presets import preset, shut_for_loop
from canopy.design.change import changes_between, listed_changes
from canopy.plan import Airway, Space
from canopy.plan.airways import usual_away
from canopy.plan.changes import Act, Change, Place, Remove
from canopy.words import percent
from canopy_web.planning import actions
from canopy_web.stations.air import forms as air_forms
from canopy_web.stations.air import own_forms as own_air_forms
from canopy_web.workspace.edits import edit_listed
from canopy_web.workspace.reply import answer, attempt, change, page
from canopy_web.workspace.where import Where, at_space


def _airway(where: Where, airway_id: str) -> Airway:
    found = next((way for way in where.space.airways if way.id == airway_id), None)
    if found is None:
        raise Http404
    return found


@require_POST
@at_space
def add_way(request: HttpRequest, where: Where, kind: str) -> HttpResponse:
    """Lay out ways of air of a usual kind, sized for what is asked."""
    report = where.report
    made = preset(report, kind)
    if made is None:
        words = "There is no other space to lead a loop through: add one to the household first."
        return page(request, where, words=words)
    changes = changes_between(where.space, made, ("airways", "openings"))
    if kind != "loop":
        return change(request, where, f"Laid out {kind}", *changes)
    far_id = next((way.space_id for way in made.airways if way.ends == "space"), None)
    far = where.plan.space(far_id or "")
    shut = changes_between(far, shut_for_loop(far), ("openings",)) if far else ()
    words = _shut_words(where.space, made, far, len(shut))
    whole = {where.space.id: changes, **({far.id: shut} if far and shut else {})}
    return answer(
        request,
        where,
        lambda: where.again(actions.change_spaces(where.row, whole, "Laid out a closed loop")),
        words=words,
    )


def _shut_words(before: Space, after: Space, far: Space | None, there: int) -> str:
    """Say what was shut for a closed loop."""
    old = {hole.id for hole in before.openings if hole.open}
    here = sum(1 for hole in after.openings if hole.id in old and not hole.open)
    parts = [f"{count} in {name}" for count, name in ((here, before.name), (there, far.name if far else "")) if count]
    return f"Openings shut, so that the loop is closed: {', '.join(parts)}." if parts else "The loop is laid out."


@require_POST
@at_space
def edit_way(request: HttpRequest, where: Where, airway_id: str) -> HttpResponse:
    """Change where a way of air leads, its cycle, or a measured flow."""

    def form(record: dict[str, Any]) -> air_forms.WayForm:
        key = f"way-{airway_id}"
        return air_forms.WayForm(
            record, request.POST, plan=where.plan, space=where.space, system=where.system, prefix=key
        )

    return edit_listed(
        request,
        where,
        form,
        collection="airways",
        part_id=airway_id,
        key=f"way/{airway_id}",
        label=lambda record: f"Changed {record['name']}",
    )


@require_POST
@at_space
def edit_away(request: HttpRequest, where: Where, airway_id: str) -> HttpResponse:
    """Change what the air is like at a way's other end."""
    usual = usual_away(_airway(where, airway_id)).model_dump(mode="json")

    def form(record: dict[str, Any]) -> air_forms.AwayForm:
        shown = record["away"] or usual
        return air_forms.AwayForm(record, request.POST, shown=shown, system=where.system, prefix=f"away-{airway_id}")

    return edit_listed(
        request,
        where,
        form,
        collection="airways",
        part_id=airway_id,
        key=f"away/{airway_id}",
        label=lambda record: f"Changed the air at the end of {record['name']}",
    )


@require_POST
@at_space
def clear_away(request: HttpRequest, where: Where, airway_id: str) -> HttpResponse:
    """Take the air at the other end as the joined space computes it again."""
    airway = _airway(where, airway_id)
    forget = Change(collection="airways", part_id=airway.id, values={"away": None})
    return change(request, where, f"Took the air at the end of {airway.name} as computed", forget)


@require_POST
@at_space
def edit_air_part(request: HttpRequest, where: Where, airway_id: str, part_id: str) -> HttpResponse:
    """Change one part of a way of air."""
    airway = _airway(where, airway_id)

    def form(record: dict[str, Any]) -> air_forms.AirPartForm:
        key = f"{airway_id}-{part_id}"
        return air_forms.AirPartForm(record, request.POST, space=where.space, system=where.system, prefix=key)

    return edit_listed(
        request,
        where,
        form,
        at=("airways", airway_id),
        collection="parts",
        part_id=part_id,
        key=f"air-part/{airway_id}/{part_id}",
        label=lambda record: f"Changed a part of {airway.name}",
    )


@require_POST
@at_space
def act_on_air_part(request: HttpRequest, where: Where, airway_id: str, part_id: str, what: str) -> HttpResponse:
    """Move a part towards the beginning or the end of its way, or to another part's place; or take it out."""
    airway, at = _airway(where, airway_id), ("airways", airway_id)
    known = {part.id for part in airway.parts}
    onto = request.POST.get("onto", "")
    acts: dict[str, Act] = {
        "sooner": Place(at=at, collection="parts", part_id=part_id, by=-1),
        "later": Place(at=at, collection="parts", part_id=part_id, by=1),
        "to": Place(at=at, collection="parts", part_id=part_id, onto=onto),
        "remove": Remove(at=at, collection="parts", part_ids=(part_id,)),
    }
    if part_id not in known or what not in acts or (what == "to" and onto not in known):
        raise Http404
    label = f"Removed a part of {airway.name}" if what == "remove" else f"Moved a part of {airway.name}"
    return change(request, where, label, acts[what])


@require_POST
@at_space
def add_air_part(request: HttpRequest, where: Where, airway_id: str) -> HttpResponse:
    """Put a part of the library into a way of air."""
    airway = _airway(where, airway_id)
    form = air_forms.AddAirPartForm(
        {},
        request.POST,
        system=where.system,
        prefix=f"add-{airway_id}",
        can_pass=True,
        hoods=air_forms.hood_choices(where.space),
    )

    def act() -> Where:
        kind, _, key = form.cleaned_data["what"].partition(":")
        wider = with_part(airway, fresh_part(where.space, airway, kind, key))
        return where.do(f"Added a {kind}", *_towards(where, wider))

    return attempt(request, where, form, f"add/{airway_id}", act)


def _towards(where: Where, airway: Airway) -> tuple[Act, ...]:
    """The small changes that make one way of air what it should be."""
    ways = tuple(airway if way.id == airway.id else way for way in where.space.airways)
    return changes_between(where.space, where.space.model_copy(update={"airways": ways}), ("airways",))


@require_POST
@at_space
def own_fan(request: HttpRequest, where: Where, airway_id: str) -> HttpResponse:
    """Put a fan of the person's own data into a way: in place of its first fan, or as its first."""
    form = own_air_forms.OwnFanForm({}, request.POST, system=where.system, prefix=f"fan-{airway_id}")
    return _own(request, where, airway_id, form, "fan")


@require_POST
@at_space
def own_filter(request: HttpRequest, where: Where, airway_id: str) -> HttpResponse:
    """Put a filter of the person's own data into a way: in place of its first filter, or before all else."""
    form = own_air_forms.OwnFilterForm({}, request.POST, system=where.system, prefix=f"filter-{airway_id}")
    return _own(request, where, airway_id, form, "filter")


@require_POST
@at_space
def own_fitting(request: HttpRequest, where: Where, airway_id: str) -> HttpResponse:
    """Put a fitting of the person's own data at the end of a way."""
    form = own_air_forms.OwnFittingForm({}, request.POST, system=where.system, prefix=f"fitting-{airway_id}")
    return _own(request, where, airway_id, form, "fitting")


def _own(request: HttpRequest, where: Where, airway_id: str, form: Any, kind: str) -> HttpResponse:
    airway = _airway(where, airway_id)

    def act() -> Where:
        spec = form.spec()
        before = [part.model_dump(mode="json") for part in airway.parts]
        changes = listed_changes("parts", ("airways", airway_id), before, with_own(airway, kind, spec))
        return where.do(f"Fitted {spec['name']}", *changes)

    return attempt(request, where, form, f"own-{kind}/{airway_id}", act)


@require_POST
@at_space
def set_speed(request: HttpRequest, where: Where, airway_id: str) -> HttpResponse:
    """Set a way's fans to a speed step."""
    airway = _airway(where, airway_id)
    try:
        speed = min(1.0, max(0.0, float(request.POST.get("speed", ""))))
    except ValueError:
        raise Http404 from None
    after = at_speed(where.space, airway, speed)
    changes = changes_between(where.space, after, ("airways",))
    return change(request, where, f"Set {airway.name} to {percent(speed)}", *changes)
