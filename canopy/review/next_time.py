"""What a run teaches for the next one: changes, each with its reason from the log."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from canopy.evaluate.crops.feeding import uptake_l_d
from canopy.evaluate.space import SpaceReport
from canopy.logs.entries import Entry, water_given_l
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.changes import Act, Change
from canopy.review.harvest import Run
from canopy.season import cast_of, harvest, spans

# A first harvest so many days off, a yield or thirst off by such a share, is worth a change; what was watered counts
# over so many days, from so many times on.
_DAYS_OFF, _SHARE_OFF, _WATERED_D, _WATERED_TIMES = 3, 0.25, 21, 4


@dataclass(frozen=True, kw_only=True)
class NextTime:
    """A change for the next time: what, why, and the changes that do it; none where there is nothing to click."""

    key: str
    what: Sentence
    why: Sentence
    changes: tuple[Act, ...] = ()


def next_time(report: SpaceReport, run: Run, entries: Sequence[Entry], today: dt.date) -> tuple[NextTime, ...]:
    """Say what a run teaches.

    Parameters
    ----------
    report : of its space
    run : a planting and what came of it
    entries : of the space's log
    today : the day

    Returns
    -------
    tuple of NextTime : lengths of stages, yields and thirst as they were; nothing that the log does not show
    """
    return (*_sooner(report, run), *_came(run), *_sown(run), *_drank(report, run, entries, today))


def _sooner(report: SpaceReport, run: Run) -> Iterator[NextTime]:
    """A first harvest on another day than was told."""
    planting, crop = run.planting, cast_of(report.plan).crops.get(run.planting.crop_id)
    first = run.reaped.first
    if crop is None or first is None:
        return
    laid = spans(planting, crop)
    told = harvest(laid, crop)
    if told is None or abs((first - told.likely).days) < _DAYS_OFF:
        return
    off = (first - told.likely).days
    # What was longer or shorter is the stage that leads to it: the last that is over by then.
    done = [span for span in laid if span.ends <= told.likely]
    stage = done[-1] if done else laid[0]
    length = max(1, (stage.ends - stage.starts).days + off)
    days, way = {**planting.stage_days, stage.stage.kind: length}, "later" if off > 0 else "sooner"
    yield NextTime(
        key="days",
        what=sentence(f"Count {length} days for its stage “{stage.stage.kind}”"),
        why=sentence(f"its first harvest came on {first.day} {first:%b}, {abs(off)} days {way} than told"),
        changes=(Change(collection="plantings", part_id=planting.id, values={"stage_days": days}),),
    )


def _came(run: Run) -> Iterator[NextTime]:
    """A harvest that was another one than expected, once it is over."""
    typed = run.planting.yield_amount
    if not run.over or not run.reaped.kg or typed is None or run.planting.yield_unit.strip().casefold() != "kg":
        return
    if abs(run.reaped.kg / typed - 1) < _SHARE_OFF:
        return
    came = Amount(value=run.reaped.kg, unit="weight")
    yield NextTime(
        key="yield",
        what=sentence("Expect {came} of as many plants", came=came),
        why=sentence("{came} came, {typed} were expected", came=came, typed=Amount(value=typed, unit="weight")),
        changes=(
            Change(collection="plantings", part_id=run.planting.id, values={"yield_amount": round(run.reaped.kg, 3)}),
        ),
    )


def _sown(run: Run) -> Iterator[NextTime]:
    """More seeds for as many plants."""
    sown = run.planting.sown
    if sown is None or not run.living or run.living >= sown:
        return
    more = -(-sown * sown // run.living)
    yield NextTime(
        key="sown",
        what=sentence(f"Sow {more} for {sown} plants"),
        why=sentence(f"{run.living} of {sown} {'stood' if run.over else 'stand'}"),
    )


def _drank(report: SpaceReport, run: Run, entries: Sequence[Entry], today: dt.date) -> Iterator[NextTime]:
    """What the space really drank, by what was given and did not run out."""
    since = today - dt.timedelta(days=_WATERED_D)
    rows = sorted(
        (e for e in entries if e.kind == "water" and not e.struck and e.at.date() >= since), key=lambda entry: entry.at
    )
    if len(rows) < _WATERED_TIMES or not run.living:
        return
    days = (rows[-1].at - rows[0].at).total_seconds() / 86400
    if days < 4:
        return
    given, told = water_given_l(rows[1:]) / days, uptake_l_d(report.here, report.breathing)
    if given <= 0 or told <= 0 or abs(given / told - 1) < _SHARE_OFF:
        return
    amounts = {"given": Amount(value=given, unit="volume"), "told": Amount(value=told, unit="volume")}
    yield NextTime(
        key="water",
        what=sentence("Reckon with {given} of water a day", **amounts),
        why=sentence(f"so much was given over {days:.0f} days; {{told}} a day were told", **amounts),
        changes=(Change(values={"feed.uptake_l_d": round(given, 2)}),),
    )
