"""What a space's log teaches, worked out once for as long as neither its plan nor its readings change."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from canopy.cache import ContentCache
from canopy.logs.entries import Entry
from canopy.plan.correction import Subject
from canopy.review.finding import Finding
from canopy.review.living import Asked, Fitted, identify
from canopy.review.pots import Loss, as_stomata, losses, weighed
from canopy.review.quantity import quantified
from canopy.review.shining import fading, shining
from canopy.review.slowly import FlowByDay, flow_by_day
from canopy.review.sound import Doubt, doubts
from canopy.review.trends import Trend
from canopy.schedule import WithLamps, shares_of
from canopy_web.logbook.entries import entries_of
from canopy_web.logbook.learnable import Learnable, learnable, newest_reading, sensors_around
from canopy_web.logbook.models import ProbeCheck
from canopy_web.workspace.where import Where


@dataclass(frozen=True, kw_only=True, eq=False)
class Taught:
    """All that was found of a space: factors with what they are about, what is doubtful, how lamps fade."""

    learnable: Learnable
    sound: Asked
    fitted: Fitted
    findings: tuple[Finding, ...]
    doubts: tuple[Doubt, ...]
    fading: Trend
    losses: tuple[Loss, ...]

    @cached_property
    def flow(self) -> FlowByDay:
        """What the fans move from day to day; worked out when it is first asked for."""
        return flow_by_day(self.sound, self.fitted)

    def finding(self, subject: Subject, target: str | None, basis: str) -> Finding | None:
        """Find what was found of one thing in one way."""
        return next(
            (f for f in self.findings if (f.subject, f.target or "", f.basis) == (subject, target or "", basis)), None
        )


_kept: ContentCache[Taught] = ContentCache(lambda found: 2_000_000)


def taught(where: Where) -> Taught | None:
    """Work out what the log of a space teaches; None where nothing was measured yet."""
    sensors = sensors_around(where.row, where.plan, where.space)
    newest = newest_reading(sensors)
    if not newest:
        return None
    checks = tuple(ProbeCheck.objects.filter(plan=where.row, struck=False).values_list("pk", flat=True))
    entries = tuple(item for item in entries_of(where.row, [where.space.id]) if item.kind in ("weigh", "water"))
    key = (
        where.row.pk,
        where.space,
        tuple(where.plan.rooms),
        where.plan.site,
        newest,
        tuple((sensor.pk, sensor.place, sensor.feeds, sensor.name) for sensor in sensors),
        checks,
        tuple((item.key, item.struck) for item in entries),
    )
    return _kept.get(key, lambda: _worked_out(where, entries))


def _worked_out(where: Where, entries: tuple[Entry, ...]) -> Taught:
    found = learnable(where.row, where.plan, where.space, where.zone)
    assert found is not None
    asked, report = found.asked, where.report
    steps = asked.grid.steps
    first = min(asked.midnights.values())
    start = (asked.grid.begins - first) // asked.grid.every_s
    by_day = shares_of(WithLamps(when="lit"), 288, 5.0, where.space.lit)
    lit = by_day.astype(np.float64)[[(start + k) % 288 for k in range(steps)]]
    doubtful = doubts((*found.series, *found.others), asked.grid, dict(asked.midnights), lit)
    sound = _sound(asked, doubtful)
    fitted = identify(sound)
    findings = [*fitted.findings, shining(asked.grid, report)]
    lost = losses(entries)
    if lost:
        by_plant = {light.plant.id: light.plant.ground_m2 * light.plant.lai for light in report.lighting.plants}
        whole = sum(by_plant.values()) or 1.0
        planned = quantified(Finding(subject="leaves"), where.plan, where.space, where.followed).computed or 0.0
        share = {key: value / whole for key, value in by_plant.items()}
        findings.append(as_stomata(weighed(lost, planned, share), where.plan, report))
    told = tuple(quantified(item, where.plan, where.space, where.followed) for item in findings)
    return Taught(
        learnable=found,
        fitted=fitted,
        findings=told,
        doubts=doubtful,
        fading=fading(asked.grid, report),
        sound=sound,
        losses=lost,
    )


def _sound(asked: Asked, doubtful: tuple[Doubt, ...]) -> Asked:
    """Without days that a doubt leaves out: nothing is mended, they only do not count."""
    days = dict(asked.midnights)
    for doubt in doubtful:
        if doubt.leave == "before":
            days = {day: at for day, at in days.items() if day >= doubt.since}
        elif doubt.leave == "day":
            days = {day: at for day, at in days.items() if day < doubt.since}
    return replace(asked, midnights=days)


def since_words(day: dt.date) -> str:
    """Write a day as people say it."""
    return f"{day.day} {day:%b}"
