"""Water and feed: how often, how much, and for how long it runs, month by month as the plants grow."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass
from math import ceil

from canopy.care.job import Job, job
from canopy.care.thirst import Pots, Thirst, middle, months, pots_of, thirst_of
from canopy.errors import QuantityError
from canopy.evaluate import SpaceReport
from canopy.evaluate.crops.feeding import main_kind
from canopy.feed import Dose, doses
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.care import STANDING, TIMED, WATERING
from canopy.plan.document import Space
from canopy.season import Cast, Standing, standing_of

# A little more than is drawn is given by hand, so that some runs through.
_THROUGH = 1.1
# A tank is refilled before a fifth of it is left, a reservoir topped up before a quarter of it is gone.
_TANK_SHARE, _TOP_UP_SHARE = 0.8, 0.25
_LEAST_L_D, _MILLI_L = 0.005, 0.1


@dataclass(frozen=True, kw_only=True)
class Month:
    """A stretch of days with the space as it stands in its middle and the water drawn in a day then [L/d]."""

    first: dt.date
    last: dt.date
    here: Standing
    pots: Pots
    litres_d: float

    @property
    def name(self) -> str:
        """What parts its jobs from those of other months."""
        return f"{self.first:%Y-%m}"


def laid_by_month(report: SpaceReport, thirst: Thirst, begins: dt.date, to: dt.date, cast: Cast) -> tuple[Month, ...]:
    """Lay a space's thirst out by months.

    Parameters
    ----------
    report : of the space today
    thirst : what its plants draw now
    begins : first day
    to : last day
    cast : crops and plantings

    Returns
    -------
    tuple of Month : those in which something grows
    """
    found = []
    for first, last in months(begins, to):
        day = report.here.day if first <= report.here.day <= last else middle(first, last)
        here = standing_of(report.plan.space(report.space.id) or report.space, day, cast)
        if here.plants:
            pots = pots_of(here)
            # A figure that somebody typed holds as long as nothing else is known.
            drawn = thirst.litres_d if thirst.source == "as typed" else thirst.on(pots.leaf_m2)
            found.append(Month(first=first, last=last, here=here, pots=pots, litres_d=drawn))
    return tuple(found)


def watering_jobs(report: SpaceReport, thirst: Thirst, laid: tuple[Month, ...]) -> Iterator[Job]:
    """Say when a space is watered and fed.

    Parameters
    ----------
    report : of the space today
    thirst : what its plants draw now
    laid : the months to come

    Returns
    -------
    iterator of Job : by hand, at the tank, or at the reservoir; none where nothing grows
    """
    if not laid:
        return
    space = report.space
    for month in laid:
        if month.litres_d < _LEAST_L_D:
            continue
        if space.feed.way == "solution" or space.watering.way == "circulating":
            yield from _reservoir(space, month, thirst)
        elif space.watering.way == "hand":
            yield _by_hand(space, month, thirst)
        else:
            yield from _tank(space, month, thirst)
    first = laid[0].first
    if space.feed.way == "solution":
        yield job(space, "check-feed", first, what=_windows(report))
    if space.watering.way in TIMED:
        yield job(space, "emitters", first)


def _litres(value: float) -> Amount:
    """Litres, and millilitres where litres would say nothing."""
    if value < _MILLI_L:
        return Amount(value=1000 * value, unit="mL", decimals=0)
    return Amount(value=value, unit="volume")


def _why(month: Month, thirst: Thirst) -> Sentence:
    return sentence(
        f"Plants draw {{day}} a day ({thirst.source}), by their leaf area in the month.", day=_litres(month.litres_d)
    )


def _by_hand(space: Space, month: Month, thirst: Thirst) -> Job:
    drawn = month.litres_d / month.pots.leaf_m2 if month.pots.leaf_m2 else 0.0
    lasts = month.pots.days(drawn)
    every = max(1, int(lasts)) if lasts is not None else 1
    # More than once a day only where one would wilt before the next.
    times = min(6, ceil(drawn / month.pots.wilts_l_m2)) if every == 1 and drawn > 0 else 1
    all_l = _THROUGH * month.litres_d * every / times
    count = sum(plant.count for plant in month.pots.plants if plant.tray_m is None) or len(month.pots.plants)
    amounts = {"all": _litres(all_l), "each": _litres(all_l / max(1, count))}
    words = "{all} in all" + (f", about {{each}} for each of {count}" if count > 1 else "")
    if times > 1:
        words = f"{times} times a day, {words} each time"
    soonest = month.pots.soonest
    first = f" The pot of {soonest[1].crop.name} ({soonest[1].number}) dries first." if soonest else ""
    reason = _why(month, thirst)
    return job(
        space,
        "water",
        month.first,
        what=sentence(words + ".", **amounts),
        why=Sentence(text=reason.text + first, amounts=reason.amounts),
        every_days=every,
        until=month.last,
        part=month.name,
    )


def _tank(space: Space, month: Month, thirst: Thirst) -> Iterator[Job]:
    given = space.watering
    run = run_minutes(space, month.litres_d)
    words = "" if given.way in STANDING else f"Set it to {given.runs} runs a day"
    if run is not None:
        words = f"Set {WATERING[given.way]} to {given.runs} runs a day of {run:.0f} min, the first at {given.first_at}"
    if given.tank_l is None:
        yield job(
            space,
            "refill",
            month.first,
            title="Refill what waters it",
            what=sentence(
                "It takes {week} a week: say under Watering what the tank holds.", week=_litres(7 * month.litres_d)
            ),
            why=_why(month, thirst),
            until=month.last,
            part=month.name,
        )
        return
    every = max(1, int(_TANK_SHARE * given.tank_l / month.litres_d))
    yield job(
        space,
        "refill",
        month.first,
        what=sentence(
            "{litres} into the tank of {tank}." + (f" {words}." if words else ""),
            litres=_litres(min(given.tank_l, every * month.litres_d)),
            tank=_litres(given.tank_l),
        ),
        why=_why(month, thirst),
        every_days=every,
        until=month.last,
        part=month.name,
    )


def run_minutes(space: Space, litres_d: float) -> float | None:
    """Give for how long drippers or sprayers run each time.

    Parameters
    ----------
    space : with how it is watered
    litres_d : what its plants draw [L/d]

    Returns
    -------
    float : [min]; a tenth more than is drawn, so that some runs through; None where it does not run by a timer or
        nobody said what it gives
    """
    given = space.watering
    if given.way not in TIMED or not given.flow_l_h:
        return None
    return max(1.0, 60 * _THROUGH * litres_d / given.flow_l_h / given.runs)


def water_timer(report: SpaceReport) -> Sentence | None:
    """Say what to set the timer of drippers or sprayers to.

    Parameters
    ----------
    report : the space's report

    Returns
    -------
    Sentence : None where no timer runs water; without minutes where nobody said what the emitters give
    """
    given = report.space.watering
    if given.way not in TIMED:
        return None
    run = run_minutes(report.space, thirst_of(report).litres_d)
    often = f"{given.runs} runs a day, the first at {given.first_at}, one every {24 / given.runs:g} h"
    if run is None:
        return sentence(f"{often}. Say under Day, Care what the emitters give, to know for how long.")
    return sentence(f"{often}, {{run}} each.", run=Amount(value=run, unit="min", decimals=0))


def _reservoir(space: Space, month: Month, thirst: Thirst) -> Iterator[Job]:
    feed = space.feed
    volume = feed.reservoir_l or space.watering.tank_l
    if volume is None:
        return
    # Once as much was topped up as it holds, what plants leave behind is changed with all of it.
    change = max(1, min(feed.change_days, int(volume / month.litres_d)))
    top_up = max(1, int(_TOP_UP_SHARE * volume / month.litres_d))
    yield job(
        space,
        "change",
        month.first,
        what=_mixed(space, month, volume, 1.0),
        why=_why(month, thirst),
        every_days=change,
        until=month.last,
        part=month.name,
    )
    if top_up < change:
        yield job(
            space,
            "top-up",
            month.first + dt.timedelta(days=top_up),
            what=_mixed(space, month, top_up * month.litres_d, feed.top_up_share),
            why=_why(month, thirst),
            every_days=top_up,
            until=month.last,
            part=month.name,
        )


def _mixed(space: Space, month: Month, volume: float, share: float) -> Sentence:
    """So many litres, and what goes into them at a share of full strength."""
    full = _doses(space, month, volume)
    amounts = {"volume": _litres(volume)}
    if not full or share <= 0:
        return sentence("{volume} of water." if share <= 0 else "{volume}.", **amounts)
    strength = "" if share == 1 else f" at {100 * share:.0f} % strength"
    parts = ", ".join(f"{item.part.name} {share * item.ml:.0f} {'g' if item.part.powder else 'mL'}" for item in full)
    return sentence(f"{{volume}}{strength}, in this order: {parts}.", **amounts)


def _doses(space: Space, month: Month, volume: float) -> tuple[Dose, ...]:
    feed, main = space.feed, main_kind(month.here)
    ec = main.want.ec_ms_cm if main else None
    target = feed.target_ec_ms_cm or ((ec.low + ec.high) / 2 if ec else None)
    if target is None or not feed.parts:
        return ()
    try:
        return doses(
            feed.parts,
            target,
            feed.water_ec_ms_cm,
            volume,
            main.stage if main else "",
            above_water=feed.above_water,
        )
    except QuantityError:
        return ()


def _windows(report: SpaceReport) -> Sentence:
    """What pH and EC should be today."""
    found, amounts, words = report.feeding, {}, []
    if found.ph is not None:
        amounts["ph"] = Amount(value=found.ph.low, high=found.ph.high, unit="", decimals=1)
        words.append("pH {ph}")
    if found.target_ec_ms_cm is not None:
        amounts["ec"] = Amount(value=found.target_ec_ms_cm, unit="mS/cm", decimals=1)
        words.append("EC about {ec}")
    return sentence(", ".join(words) + ("." if words else ""), **amounts)
