"""All recurring work of a household: derived from its plan, with what a person settled about it."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Iterator

from canopy.care.growing import growing_jobs
from canopy.care.job import Job, as_settled, job
from canopy.care.outbreak import outbreak_jobs
from canopy.care.thirst import thirst_of
from canopy.care.upkeep import upkeep_jobs
from canopy.care.watering import laid_by_month, watering_jobs
from canopy.evaluate import SpaceReport
from canopy.margin import sentence
from canopy.season import cast_of

YEAR_D = 365


def care_of(reports: Iterable[SpaceReport], begins: dt.date, days: int = YEAR_D) -> tuple[Job, ...]:
    """Derive the work of some spaces.

    Parameters
    ----------
    reports : of spaces of one plan, with their climate where it was followed
    begins : first day
    days : how far ahead, 1 or more [d]

    Returns
    -------
    tuple of Job : space by space; work that a person left out is not among it, their own is
    """
    to = begins + dt.timedelta(days=days - 1)
    return tuple(item for report in reports for item in _settled(report, begins, to))


def _settled(report: SpaceReport, begins: dt.date, to: dt.date) -> Iterator[Job]:
    space = report.space
    rules = {f"{space.id}.{rule.job}": rule for rule in space.care if rule.job}
    for item in derived(report, begins, to):
        kept = as_settled(item, rules.get(item.family))
        if kept is not None:
            yield kept
    for rule in space.care:
        if rule.job or rule.off or not rule.name:
            continue
        item = job(
            space,
            "own",
            rule.starts_on or begins,
            of=rule.id,
            title=rule.name,
            what=sentence(rule.note),
            every_days=rule.every_days,
        )
        kept = as_settled(item, rule.model_copy(update={"note": "", "every_days": None}))
        if kept is not None:
            yield kept


def derived(report: SpaceReport, begins: dt.date, to: dt.date) -> Iterator[Job]:
    """Derive a space's work from its plan alone.

    Parameters
    ----------
    report : of the space today
    begins : first day
    to : last day

    Returns
    -------
    iterator of Job : water and feed, upkeep, what plants ask for
    """
    cast, thirst = cast_of(report.plan), thirst_of(report)
    yield from watering_jobs(report, thirst, laid_by_month(report, thirst, begins, to, cast))
    yield from upkeep_jobs(report, begins, min(begins, report.plan.date))
    yield from growing_jobs(report, begins, to, cast)
    yield from outbreak_jobs(report)
