"""The tab of care: what is due today, this week and this season, what stands by, and how it is settled."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.care import Due, Job, Store, care_of, due, stores
from canopy.care.due import by_day
from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.logs.facts import CareMark as CareRecord
from canopy.margin import Amount
from canopy.plan.care import TIMED, WATERING, CareRule
from canopy.plan.changes import Add, Change, Remove
from canopy.quantities import Reader
from canopy.words import counted, is_number
from canopy_web.accounts.context import today
from canopy_web.household.calendar import AHEAD_D, reports_of
from canopy_web.logbook import actions
from canopy_web.logbook.models import CareMark
from canopy_web.logbook.querysets import care_marks
from canopy_web.stations.day.forms import CareRuleForm, WateringForm
from canopy_web.workspace.edits import edit_record
from canopy_web.workspace.reply import attempt_row, change, page, said
from canopy_web.workspace.where import Where, at_space

HOUSEHOLD = "household"
_WEEK = 7
_REMEMBERED = 12
_LATER = (1, 2, 3, 7, 14)


def _reports(where: Where) -> list[SpaceReport]:
    return reports_of(where.plan, where.day) if _whole(where) else [where.followed]


def _whole(where: Where) -> bool:
    return where.look.more.get("whose") == HOUSEHOLD


def care_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: the climate is followed for it, as what is drawn and filled hangs on that."""
    try:
        reports = _reports(where)
    except EvaluationError as error:
        return {"unknown": said(error), "whole": _whole(where)}
    reader, day = where.reader(report), where.day
    jobs = care_of(reports, day)
    marks = care_marks(where.row, [space.id for space in where.plan.spaces])
    found = due(jobs, marks, day, day + dt.timedelta(days=AHEAD_D - 1))
    mine = [job for job in jobs if job.space_id == where.space.id]
    return {
        "whole": _whole(where),
        "care_today": [_row(item, reader) for item in found if item.day == day],
        "care_week": [
            (on, [_row(item, reader) for item in items])
            for on, items in by_day(item for item in found if 0 < (item.day - day).days <= _WEEK).items()
        ],
        "care_season": _season(found, day, reader),
        "later": _LATER,
        "care_stores": [_store(store, one.space.name, where.system) for one in reports for store in stores(one)],
        "watering_form": bad.get("watering")
        or WateringForm(where.space.watering.model_dump(mode="json"), system=where.system, prefix="watering"),
        "timed": where.space.watering.way in TIMED,
        "ways": WATERING,
        "soil": where.space.feed.way == "soil",
        "settled": _settled(where, mine, bad),
        "own_work": [(rule, _rule_form(rule, bad)) for rule in where.space.care if not rule.job],
        "left_out": [rule for rule in where.space.care if rule.job and rule.off],
        "written": CareMark.objects.filter(plan=where.row, struck=False)
        .select_related("by")
        .order_by("-pk")[:_REMEMBERED],
    }


def _row(item: Due, reader: Reader) -> dict[str, Any]:
    job = item.job
    return {
        "key": job.key,
        "family": job.family,
        "where": job.where,
        "title": job.title,
        "what": job.what.say(reader),
        "how": job.kind.text,
        "why": job.why.say(reader),
        "at": job.at,
        "minutes": job.minutes,
        "due": item.due,
        "late": item.late,
    }


def _season(found: Iterable[Due], day: dt.date, reader: Reader) -> list[tuple[str, list[dict[str, Any]]]]:
    """What comes after the week, by month: daily rounds as one line, all else by its days."""
    months: dict[str, dict[str, dict[str, Any]]] = {}
    for item in found:
        if (item.day - day).days <= _WEEK:
            continue
        lines = months.setdefault(f"{item.day:%B %Y}", {})
        line = lines.setdefault(
            item.job.key,
            {"where": item.job.where, "title": item.job.title, "what": item.job.what.say(reader), "days": []},
        )
        line["days"].append(item.day)
    return [
        (
            name,
            [
                line
                | {
                    "told": ", ".join(f"{on.day}" for on in line["days"])
                    if len(line["days"]) <= 6
                    else f"{counted(len(line['days']), 'time')}, first on the {line['days'][0].day}."
                }
                for line in lines.values()
            ],
        )
        for name, lines in months.items()
    ]


def _store(store: Store, where: str, system: str) -> dict[str, Any]:
    def litres(value: float) -> str:
        milli = value < 0.1
        return Amount(value=1000 * value if milli else value, unit="mL" if milli else "volume").text(system)

    return {
        "where": where,
        "name": store.name,
        "holds": litres(store.holds_l),
        "goes": litres(store.goes_l_d),
        "days": f"{store.days:.1f}" if store.days < 10 else f"{store.days:.0f}",
        "ends": store.ends,
        "verb": "dry" if store.dries else "full",
        "lasts": store.lasts,
        "away": store.away.say(system),
    }


def _settled(where: Where, jobs: list[Job], bad: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Every kind of work of the space once, with its interval and time of the day, to be changed."""
    rules = {rule.job: rule for rule in where.space.care if rule.job}
    found: dict[str, dict[str, Any]] = {}
    for job in jobs:
        name = job.family.partition(".")[2]
        if name in found or job.kind.id == "own":
            continue
        rule = rules.get(name)
        found[name] = {
            "name": name,
            "title": job.title,
            "derived": counted(job.every_days, "day") if job.every_days else "once",
            "form": bad.get(f"rule/{name}") or _form_of(rule, name, job),
            "changed": rule is not None,
        }
    return list(found.values())


def _form_of(rule: CareRule | None, name: str, job: Job, data: Any = None) -> CareRuleForm:
    record = rule.model_dump(mode="json") if rule else {"every_days": None, "at": None, "starts_on": None, "note": ""}
    return CareRuleForm(record, data, prefix=f"rule-{name}", usual=job.every_days, usual_at=job.at)


def _rule_form(rule: CareRule, bad: Mapping[str, Any], data: Any = None) -> CareRuleForm:
    return bad.get(f"own/{rule.id}") or CareRuleForm(
        rule.model_dump(mode="json"), data, prefix=f"own-{rule.id}", usual=None, usual_at="09:00", named=True
    )


@require_POST
@at_space
def mark(request: HttpRequest, where: Where) -> HttpResponse:
    """Write down that work was done, skipped or put off, as a fact beside the plan."""
    what, family = request.POST.get("what", ""), request.POST.get("family", "")
    now = today(request, where.plan)
    try:
        meant = dt.date.fromisoformat(request.POST.get("due", ""))
    except ValueError:
        raise Http404 from None
    known = {item.family: item for item in care_of(_reports(where), where.day)}
    if what not in ("done", "skipped", "postponed") or family not in known:
        return page(request, where, words="This work is no longer asked for; nothing was written.")
    on = now
    if what == "postponed":
        days = request.POST.get("days", "1")
        on = max(now, where.day) + dt.timedelta(days=int(days) if is_number(days) and int(days) in _LATER else 1)
    record = CareRecord(family=family, due=meant, what=what, on=on)
    actions.mark_care(where.row, record, f"{known[family].where}: {known[family].title}", request.user)
    words = {"done": "Written down as done", "skipped": "Skipped", "postponed": f"Put off to {on:%d %b}"}[what]
    return page(request, where, words=f"{words}: {known[family].title}.")


@require_POST
@at_space
def strike(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Take back what was written of some work."""
    actions.strike_care(where.row, pk)
    return page(request, where, words="Taken back; it is kept, struck out.")


@require_POST
@at_space
def edit_watering(request: HttpRequest, where: Where) -> HttpResponse:
    """Change how a space is watered."""
    return edit_record(
        request, where, WateringForm, under="watering", key="watering", label="Changed how it is watered"
    )


@require_POST
@at_space
def settle(request: HttpRequest, where: Where, name: str) -> HttpResponse:
    """Change how often and when some work comes."""
    found = next(
        (job for job in care_of([where.followed], where.day) if job.family == f"{where.space.id}.{name}"), None
    )
    rule = next((rule for rule in where.space.care if rule.job == name), None)
    if found is None:
        raise Http404
    form = _form_of(rule, name, found, request.POST)

    def act() -> Where:
        label = f"Settled: {found.title.lower()}"
        values = form.changes()
        if rule is not None:
            return where.do(label, Change(collection="care", part_id=rule.id, values=values, was=form.seen()))
        return where.do(label, Add(collection="care", parts=({"job": name, **values},), prefix="care"))

    return attempt_row(request, where, form, f"rule/{name}", act)


@require_POST
@at_space
def leave_out(request: HttpRequest, where: Where, name: str) -> HttpResponse:
    """Leave some work out, or ask for it again as the plan derives it."""
    rule = next((rule for rule in where.space.care if rule.job == name), None)
    if request.POST.get("back") and rule is not None:
        return change(request, where, "Asked for it again", Remove(collection="care", part_ids=(rule.id,)))
    if rule is not None:
        return change(request, where, "Left it out", Change(collection="care", part_id=rule.id, values={"off": True}))
    fresh = {"job": name, "off": True}
    return change(request, where, "Left it out", Add(collection="care", parts=(fresh,), prefix="care"))


@require_POST
@at_space
def add_own(request: HttpRequest, where: Where) -> HttpResponse:
    """Add work of one's own."""
    fresh = {"name": "Own work", "every_days": 7, "starts_on": where.day.isoformat()}
    return change(request, where, "Added own work", Add(collection="care", parts=(fresh,), prefix="care"))


@require_POST
@at_space
def edit_own(request: HttpRequest, where: Where, key: str) -> HttpResponse:
    """Change work of one's own, or take it out."""
    rule = next((rule for rule in where.drawn_space.care if rule.id == key), None)
    if rule is None:
        raise Http404
    if request.POST.get("remove"):
        return change(request, where, f"Removed {rule.name}", Remove(collection="care", part_ids=(key,)))
    form = _rule_form(rule, {}, request.POST)

    def act() -> Where:
        made = Change(collection="care", part_id=key, values=form.changes(), was=form.seen())
        return where.do(f"Changed {rule.name}", made)

    return attempt_row(request, where, form, f"own/{key}", act)
