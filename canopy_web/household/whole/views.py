"""The pages of the whole kit: ask, look on while it is worked out, stop, make a plan of an answer."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from canopy.air.operating import main_way
from canopy.designer.answers import Alternative, points
from canopy.designer.design import Designer
from canopy.designer.request import Request, household_for
from canopy.errors import CanopyError, PlanError
from canopy.library import crops
from canopy.plan.document import Plan, Space
from canopy.quantities import Reader, reader_of
from canopy.words import is_number
from canopy_web.accounts.context import preference_of, today
from canopy_web.drawing.airpath import view_of
from canopy_web.drawing.sheet import sheet
from canopy_web.drawing.trade import trade
from canopy_web.household.views import own_plan
from canopy_web.household.whole.asked import Asked, asked, query_of
from canopy_web.household.whole.forms import WholeForm
from canopy_web.library.querysets import own_crops
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

LETTERS = "ABCDEFGH"


@require_GET
def whole(request: HttpRequest, plan_pk: int | None = None) -> HttpResponse:
    """Ask, and with the same address the answers."""
    row = own_plan(request, plan_pk) if plan_pk else None
    form, wanted, _ = _read(request, row)
    shown: dict[str, Any] = {"form": form, "row": row, "asked": bool(request.GET), "wanted": wanted}
    if wanted is not None:
        shown |= {"query": request.GET.urlencode(), "answers_url": _url("answers", row)}
    return render(request, "household/whole.html", shown)


@require_GET
def answers(request: HttpRequest, plan_pk: int | None = None) -> HttpResponse:
    """Go on for a moment, and show what was found so far."""
    row = own_plan(request, plan_pk) if plan_pk else None
    _, wanted, household = _read(request, row)
    if wanted is None or household is None:
        return render(request, "household/_answers.html", {"wrong": ["Ask once more: this address is not whole."]})
    try:
        found = asked(request.user.pk or 0, row, household, wanted)
        return found.heed(request) or render(request, "household/_answers.html", _shown(request, row, found, wanted))
    except PlanError as error:
        return render(request, "household/_answers.html", {"wrong": [str(item) for item in error.problems]})
    except CanopyError as error:
        return render(request, "household/_answers.html", {"wrong": [str(error)]})


@require_POST
def make(request: HttpRequest, plan_pk: int | None = None) -> HttpResponse:
    """Make a plan of an answer: one act, that can be undone."""
    row = own_plan(request, plan_pk) if plan_pk else None
    form, wanted, household = _read(request, row)
    number = request.POST.get("number", "")
    if wanted is None or household is None or not is_number(number):
        raise Http404
    if request.POST.get("state", "") != _state(row):
        # A number names a plan that was tried for the household as it stood: not one of those tried now.
        return _refused(request, row, form, "The household has changed since these were worked out: look once more.")
    try:
        found = asked(request.user.pk or 0, row, household, wanted)
        while not (found.work.finished or found.told_to_stop) and _one(found, int(number)) is None:
            # Somebody else's server, or one that was started anew: the same request finds the same again.
            found.go_on()
        chosen = _one(found, int(number))
        if chosen is None:
            raise Http404
        with transaction.atomic():
            kept = row or actions.create_plan(request.user, household, "New household")
            mine = [crop for crop in wanted.crops if crop.id in own_crops(request.user)]
            space_id = actions.add_designed(kept, chosen.outcome.report.space, chosen.name, mine)
        return redirect(reverse("kit:show", args=[kept.pk, space_id]))
    except PlanError as error:
        return _refused(request, row, form, " ".join(str(item) for item in error.problems))


def _state(row: GrowPlan | None) -> str:
    """Which state of the household answers are for."""
    return str(row.head_id) if row else ""


def _refused(request: HttpRequest, row: GrowPlan | None, form: WholeForm, words: str) -> HttpResponse:
    """The page with what was asked, and why nothing was made."""
    form.add_error(None, words)
    shown = {"form": form, "row": row, "asked": True, "wanted": None}
    return render(request, "household/whole.html", shown, status=409)


def _one(found: Asked, number: int) -> Alternative | None:
    with found.lock:
        return found.work.one(number)


def _url(name: str, row: GrowPlan | None) -> str:
    return reverse(f"household:whole-{name}", args=[row.pk]) if row else reverse(f"household:start-whole-{name}")


def _read(request: HttpRequest, row: GrowPlan | None) -> tuple[WholeForm, Request | None, Plan | None]:
    """The form as it was sent with the address, the request it makes, and the household it is for."""
    plan, system = to_plan(row) if row else None, preference_of(request).units
    mine = own_crops(request.user)
    data = request.GET if any(key.startswith("ask-") for key in request.GET) else None
    form = WholeForm(data, known={**crops(), **mine}, plan=plan, system=system)
    if data is None or not form.is_valid():
        return form, None, None
    wanted = form.take_request(mine)
    if wanted is None:
        return form, None, None
    try:
        household = household_for(wanted, today(request)) if plan is None else _in_room(plan, form)
        Designer(wanted, household)
    except PlanError as error:
        form.take(error)
        return form, None, None
    return form, wanted, household


def _in_room(plan: Plan, form: WholeForm) -> Plan:
    """The household with the room that was chosen first among its rooms, and the day asked for as its own."""
    chosen = form.cleaned_data.get("room_id")
    rooms = sorted(plan.rooms, key=lambda room: room.id != chosen)
    return plan.model_copy(update={"rooms": tuple(rooms)})


def _shown(request: HttpRequest, row: GrowPlan | None, found: Asked, wanted: Request) -> dict[str, Any]:
    with found.lock:
        designer = found.work
        row_of = designer.answers()
        extra = _opened(request, designer, row_of)
        marks = points(designer.search) if designer.search else ()
        system = preference_of(request).units
        reader = reader_of(system)
        picked = [*row_of, *([extra] if extra else [])]
        letters = {item.key: LETTERS[number] for number, item in enumerate(picked[: len(LETTERS)])}
        money = designer.household.site.currency
        return {
            "row": row,
            "wanted": wanted,
            "query": _asking(request),
            "stopped": found.stopped,
            "answers_url": _url("answers", row),
            "stop_url": f"{_url('answers', row)}?{_asking(request)}&",
            "make_url": _url("make", row),
            "state": _state(row),
            "finished": designer.finished,
            "stage": designer.stage,
            "share": round(100 * designer.share),
            "tried": len(designer.search.tried) if designer.search else 0,
            "working": len(designer.search.working) if designer.search else 0,
            "alternatives": [_card(item, letters[item.key], reader, opened=item is extra) for item in picked],
            "trade": trade(marks, letters, money),
            "notes": [note.say(reader) for note in designer.notes],
            "unmet": designer.unmet if designer.finished else (),
            "would": [_would(item, row, reader) for item in designer.would],
            "over": [words.say(reader) for words in designer.dearer] if designer.finished else (),
            "idle": _idle(designer.household, row_of) if designer.finished else (),
            "assumed": wanted.assumed if row is None else wanted.left_open,
            "reader": reader,
            "money": money,
        }


def _idle(household: Plan, alternatives: tuple[Alternative, ...]) -> list[str]:
    """Names of what one has and no answer has a use for."""
    used = {line.like for item in alternatives for line in item.outcome.kit.lines}
    return [item.name for item in household.stock if item.like not in used]


def _asking(request: HttpRequest) -> str:
    """The address's own answers, without what was opened or stopped."""
    query = request.GET.copy()
    for name in ("open", "stop", "go"):
        query.pop(name, None)
    return query.urlencode()


def _would(item: Any, row: GrowPlan | None, reader: Reader) -> dict[str, Any]:
    """A change that would do, with the address that asks for it; none where the household's own room would change."""
    can = row is None or item.request.room is None
    room = f"&ask-room_id={item.room_id}" if item.room_id else ""
    url = f"{_url('ask', row)}?{query_of(item.request, reader.system)}{room}" if can else ""
    return {"label": item.label.say(reader), "url": url}


def _opened(request: HttpRequest, designer: Designer, row: tuple[Alternative, ...]) -> Alternative | None:
    """The point of the picture that was opened beside the answers."""
    number = request.GET.get("open", "")
    if not is_number(number) or any(item.key == number for item in row):
        return None
    return designer.one(int(number))


def _side_shown(space: Space) -> str:
    """From where most of its way of air is seen."""
    way = main_way(space.airways)
    return view_of(space, way) if way is not None else "front"


def _card(item: Alternative, letter: str, reader: Reader, *, opened: bool) -> dict[str, Any]:
    found = item.outcome
    upright = _side_shown(found.report.space)
    drawn = sheet(found.report, reader, own_tops=True)
    aired = sheet(found.report, reader, air=True)
    needed = [line for line in found.kit.lines if line.to_get > 0 and not line.optional]
    return {
        "item": item,
        "letter": letter,
        "opened": opened,
        "outcome": found,
        "plan": drawn.plan,
        "upright": aired.side if upright == "side" else aired.front,
        "upright_name": f"From the {upright}",
        "works": found.weight < 1e-9,
        "why": [words.say(reader) for words in item.why],
        "main": [line for line in found.kit.lines if line.group in ("light", "air", "climate") and line.power_w > 0],
        "lines": needed,
        "unpriced": len(found.kit.unpriced),
        "extremes": [(season, margin) for season, margin in found.bad_seasons],
    }
