"""Lives of pests by warmth: how long a generation takes here, which helpers work, and an outbreak as a course."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.care.job import Job, job
from canopy.evaluate import SpaceReport
from canopy.library.ailments import Beneficial, Pest, pests
from canopy.logs.entries import Entry
from canopy.margin import sentence
from canopy.plan.care import Course

Floats = NDArray[np.float64]
# Known to about so much on another host and food.
DOUBT = 0.25
# Between two looks at least and at most [d]; so many looks without one end a course.
_LOOKS, CLEAN_LOOKS = (3, 14), 3


@dataclass(frozen=True, kw_only=True)
class Generation:
    """Days from egg to adult in some air, with the least and the most that other hosts make of it; None where it is too
    cold for any.
    """

    days: float | None
    least: float | None = None
    most: float | None = None


def generation(pest: Pest, air_c: Floats) -> Generation:
    """Say how long a generation of a pest takes.

    Parameters
    ----------
    pest : which
    air_c : the air through a day, evenly, shape (n,) [°C]

    Returns
    -------
    Generation : sum of degree-days over the day's, each moment above the base and no more than at the top

    Raises
    ------
    ValueError : no air at all
    """
    if not len(air_c):
        raise ValueError("there is no air to live in")
    a_day = float(np.mean(np.clip(air_c, pest.base_c, pest.top_c) - pest.base_c))
    if a_day < 0.3:
        return Generation(days=None)
    days = pest.sum_k_d / a_day
    return Generation(days=days, least=days * (1 - DOUBT), most=days * (1 + DOUBT))


@dataclass(frozen=True, kw_only=True)
class Helper:
    """A helper, and why it would not work here; "" where it would."""

    beneficial: Beneficial
    why_not: str = ""


def helpers(pest: Pest, day_c: float, night_c: float, rh_pct: float) -> tuple[Helper, ...]:
    """Say which helpers work in some air.

    Parameters
    ----------
    pest : against which
    day_c : mean with lamps on [°C]
    night_c : mean with lamps off [°C]
    rh_pct : mean [%]

    Returns
    -------
    tuple of Helper : those that work first
    """
    found = []
    for item in pest.beneficial:
        why = ""
        if day_c > item.works_c.high:
            why = f"too warm for it by day: {day_c:.0f} °C, it works up to {item.works_c.high:.0f} °C"
        elif max(day_c, night_c) < item.works_c.low:
            why = f"too cold for it: {max(day_c, night_c):.0f} °C, it works from {item.works_c.low:.0f} °C"
        elif rh_pct < item.least_rh_pct - 3:
            why = f"too dry for it: {rh_pct:.0f} %, it wants {item.least_rh_pct:.0f} %"
        found.append(Helper(beneficial=item, why_not=why))
    return tuple(sorted(found, key=lambda item: bool(item.why_not)))


@dataclass(frozen=True, kw_only=True)
class Step:
    """A step of a course: on which day, what, and how."""

    on: dt.date
    what: str
    text: str


def looks_every(found: Generation) -> int:
    """Say how often one looks during an outbreak.

    Parameters
    ----------
    found : the generation here

    Returns
    -------
    int : a third of a generation, at least every two weeks and at most every three days [d]
    """
    if found.days is None:
        return _LOOKS[1]
    return int(np.clip(round(found.days / 3), *_LOOKS))


def course(pest: Pest, begun: dt.date, found: Generation, helper: Beneficial | None = None) -> tuple[Step, ...]:
    """Lay an outbreak out as a course.

    Parameters
    ----------
    pest : which
    begun : its first day
    found : how long a generation takes here
    helper : the helper that is brought out, if any

    Returns
    -------
    tuple of Step : what is done once, in the order of days; the looks between are every `looks_every` days until three
        in a row find none
    """
    steps = [
        Step(on=begun, what="Shut it in", text="Nothing leaves the space; tend it last, wash hands and tools after."),
        Step(on=begun, what="Hang traps", text=f"{pest.traps[:1].upper()}{pest.traps[1:]}."),
        Step(on=begun, what="Take the worst off", text="Into a bag that is tied shut, out of the home the same day."),
    ]
    if helper is not None:
        for number in range(helper.times):
            day = begun + dt.timedelta(days=1 + number * helper.every_days)
            steps.append(Step(on=day, what=f"Bring out {helper.name}", text=helper.text))
    if found.days is not None:
        day = begun + dt.timedelta(days=round(found.days))
        steps.append(
            Step(
                on=day,
                what="The next generation is due",
                text=f"Look twice as closely: {pest.scout[:1].lower()}{pest.scout[1:]}",
            )
        )
    return tuple(sorted(steps, key=lambda step: step.on))


def air_of(report: SpaceReport) -> Floats:
    """Give the air that pests live in here.

    Parameters
    ----------
    report : of the space

    Returns
    -------
    ndarray : the followed day [°C]; what the room has by day and by night where no day was followed
    """
    if report.climate is not None and report.climate.overheats_s is None:
        return np.asarray(report.climate.traces.air_c[report.climate.last], dtype=np.float64)
    air = report.here.around.air
    return np.array([air.day_c, air.night_c])


def helper_of(pest: Pest, name: str) -> Beneficial | None:
    """Find a helper by its name.

    Parameters
    ----------
    pest : against which
    name : as the data call it

    Returns
    -------
    Beneficial : or None where there is no such helper
    """
    return next((item for item in pest.beneficial if item.name == name), None)


def clean_looks(item: Course, entries: Iterable[Entry]) -> int:
    """Count how many looks in a row found none of a pest, up to now.

    Parameters
    ----------
    item : the outbreak
    entries : of the space's log

    Returns
    -------
    int : the last ones since it began; one that found any begins anew
    """
    word = pests()[item.pest].name.split()[-1].casefold().rstrip("s")
    looks = sorted(
        (e for e in entries if e.kind == "pests" and not e.struck and e.at.date() > item.begun_on), key=lambda e: e.at
    )
    clean = 0
    for look in looks:
        if word in str(look.data.get("what", "")).casefold():
            clean = clean + 1 if int(look.data.get("count", 0)) == 0 else 0
    return clean


def outbreak_jobs(report: SpaceReport) -> Iterator[Job]:
    """Say what outbreaks that are not over ask for.

    Parameters
    ----------
    report : of the space

    Returns
    -------
    iterator of Job : each step once, and looks until somebody ends it
    """
    for item in report.space.courses:
        if item.ended_on is not None or item.pest not in pests():
            continue
        pest = pests()[item.pest]
        here = generation(pest, air_of(report))
        for number, step in enumerate(course(pest, item.begun_on, here, helper_of(pest, item.helper))):
            yield job(
                report.space,
                "outbreak-step",
                step.on,
                of=f"{item.id}-{number}",
                title=f"{pest.name}: {step.what.lower() if number < 3 else step.what}",
                what=sentence(step.text),
                every_days=None,
            )
        every = looks_every(here)
        yield job(
            report.space,
            "outbreak-look",
            item.begun_on + dt.timedelta(days=every),
            of=item.id,
            title=f"Look for {pest.name.lower()}",
            what=sentence(pest.scout),
            why=sentence(f"Until {CLEAN_LOOKS} looks in a row find none; write down 0, too."),
            every_days=every,
        )
