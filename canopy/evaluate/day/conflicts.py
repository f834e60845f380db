"""What fights on the clock: carbon dioxide blown out, fog under full exhaust, broken nights, light from next door."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from canopy.evaluate.air.noise import noise_of
from canopy.evaluate.day.clock import Lane, lanes_of, quiet_lane
from canopy.evaluate.light.day_length import hangs_on_hours
from canopy.evaluate.naming import stage_name
from canopy.margin import Amount, Margin, Step, Verdict, Working, sentence
from canopy.plan.document import Plan, Space
from canopy.schedule import Span, dark
from canopy.season import Growing, Standing

# From this share of full speed on an exhaust takes fog out faster than it spreads; a low one lets CO2 stay.
_FULL, _LOW = 0.8, 0.35
# Minutes a day that are worth a word.
_WORTH_MIN = 5.0
# What people sleep by, where nobody said another wish [dB(A)] (WHO night noise, indoors).
QUIET_DBA = 30.0
_OPEN_KINDS = ("shelf", "glass-case")


def day_margins(plan: Plan, here: Standing) -> list[Margin]:
    """Judge a space's clock.

    Parameters
    ----------
    plan : the household, for the light of other spaces in the room and its quiet hours
    here : the space on a day

    Returns
    -------
    list of Margin : what fights; one that is good where nothing does; none where nothing runs by a clock
    """
    space = here.space
    lanes = lanes_of(plan, space)
    found = [
        *_blown_out(space, lanes),
        *_fogged(space, lanes),
        *_heated_and_cooled(lanes),
        *_nights(here),
        *_next_door(plan, here),
        *_quiet(plan, space, lanes),
    ]
    runs = [lane for lane in lanes if lane.kind not in ("plants", "door")]
    if runs and not any(margin.verdict in ("short", "over", "tight") for margin in found):
        found.append(_calm(runs))
    return found


def overlap_min(one: Iterable[Span], two: Iterable[Span]) -> float:
    """Say for how long two things run at once.

    Parameters
    ----------
    one : spans of a day, parted
    two : spans of the same day, parted

    Returns
    -------
    float : [min]
    """
    others = tuple(two)
    return sum(max(0.0, min(a.end_min, b.end_min) - max(a.start_min, b.start_min)) for a in one for b in others)


def _hours(minutes: float) -> Amount:
    return Amount(value=minutes / 60, unit="h", decimals=1)


def _margin(
    key: str,
    title: str,
    verdict: Verdict,
    minutes: float,
    why: str,
    *,
    parts: tuple[str, ...] = (),
    need: str = "not at once",
    formula: str = "minutes of the day in which both run, by their schedules",
    information: bool = False,
    mendable: bool = False,
    **amounts: Amount,
) -> Margin:
    amounts = {"both": _hours(minutes), **amounts}
    return Margin(
        id=f"day.{key}",
        station="day",
        title=title,
        verdict=verdict,
        information=information,
        mendable=mendable,
        parts=parts,
        need=sentence(need, **amounts),
        there=sentence("{both} a day", **amounts),
        why=sentence(why, **amounts),
        working=Working(
            formula=formula,
            steps=(Step(symbol="t", meaning="in a day", amount=amounts["both"]),),
            source="The clock of this plan; what fights is practice among growers",
            certainty="As exact as the hours that were typed.",
        ),
    )


def _exhausts(space: Space, lanes: Iterable[Lane], least: float) -> tuple[Span, ...]:
    """When a way of air out runs at a share of its speed or more."""
    out = {f"airways.{way.id}" for way in space.airways if way.way == "out"}
    return tuple(span for lane in lanes if lane.id in out for span in lane.spans if max(span.first, span.last) >= least)


def _blown_out(space: Space, lanes: tuple[Lane, ...]) -> Iterator[Margin]:
    blown = _exhausts(space, lanes, _LOW)
    for lane in lanes:
        if lane.kind != "co2":
            continue
        both = overlap_min(lane.spans, blown)
        night = overlap_min(lane.spans, dark(space.lit)) if space.lit else 0.0
        if both > _WORTH_MIN:
            why = "While it gives, the fan draws it out: let the fan run low or stop for those hours, or spare the gas."
            yield _margin(f"co2.{lane.parts[0]}", "CO₂ while exhausting", "tight", both, why, parts=lane.parts)
        elif night > _WORTH_MIN:
            why = "Leaves take it up in light only: give it with the lamps."
            yield _margin(
                f"co2.{lane.parts[0]}", "CO₂ in the dark", "tight", night, why, parts=lane.parts, need="with the lamps"
            )


def _fogged(space: Space, lanes: tuple[Lane, ...]) -> Iterator[Margin]:
    full = _exhausts(space, lanes, _FULL)
    for lane in lanes:
        both = overlap_min(lane.spans, full) if lane.kind == "damp" else 0.0
        if both > _WORTH_MIN:
            what = "may run" if lane.may else "runs"
            why = f"{lane.name} {what} while the exhaust is at four fifths or more: most of the fog goes straight out."
            verdict: Verdict = "good" if lane.may else "tight"
            yield _margin(
                f"fog.{lane.parts[0]}",
                "Fog under full exhaust",
                verdict,
                both,
                why,
                parts=lane.parts,
                # How far it runs then is simulated at the climate station, which judges it.
                information=lane.may,
            )


def _heated_and_cooled(lanes: tuple[Lane, ...]) -> Iterator[Margin]:
    for warm in (lane for lane in lanes if lane.kind == "heat" and not lane.may):
        for cold in (lane for lane in lanes if lane.kind == "cool" and not lane.may):
            both = overlap_min(warm.spans, cold.spans)
            if both > _WORTH_MIN:
                why = f"{warm.name} and {cold.name} run against each other by their clocks: part their hours."
                parts = (*warm.parts, *cold.parts)
                yield _margin(f"heat.{warm.parts[0]}", "Heating against cooling", "tight", both, why, parts=parts)


def _nights(here: Standing) -> Iterator[Margin]:
    """Plants of the short day flower by one long night: light within it undoes it."""
    nights = _stretches(dark(here.space.lit)) if here.space.lit else [24 * 60.0]
    for plants in here.by_kind.values():
        plant = plants[0]
        if plant.crop.day_length != "short" or not hangs_on_hours(plant).more:
            continue
        need = 60 * (24 - plant.want.photoperiod_h.high)
        longest, total = max(nights, default=0.0), sum(nights)
        # Too long a day altogether is judged at the light station.
        if total < need:
            continue
        broken = longest < need
        yield _margin(
            f"night.{plant.crop_id}.{plant.stage}",
            f"{stage_name(plant)}: unbroken night",
            "short" if broken else "good",
            longest,
            "Light within the night starts it anew, and it does not flower: put the hours of dark together."
            if broken
            else "Its night is one stretch of {both}.",
            parts=tuple(item.id for item in plants),
            need="at least {least}",
            formula="longest stretch without lamps, over midnight",
            least=_hours(need),
        )


def _stretches(spans: tuple[Span, ...]) -> list[float]:
    """Lengths of stretches of dark, what passes midnight as one [min]."""
    if not spans:
        return []
    lengths = [span.end_min - span.start_min for span in spans]
    if len(spans) > 1 and spans[0].start_min <= 0 and spans[-1].end_min >= 24 * 60:
        lengths[0] += lengths.pop()
    return lengths


def _open(space: Space) -> bool:
    """Whether light passes: a rack, a case of glass, an open door."""
    return space.kind in _OPEN_KINDS or space.door_open or space.door_side is None


def _next_door(plan: Plan, here: Standing) -> Iterator[Margin]:
    space = here.space
    if not here.plants or not space.lit or not _open(space):
        return
    night = dark(space.lit)
    for other in plan.spaces:
        if other.id == space.id or other.room_id != space.room_id or not _open(other):
            continue
        both = overlap_min(other.lit, night)
        if both <= _WORTH_MIN:
            continue
        tender = [plant for plant in here.plants if plant.crop.day_length == "short" and hangs_on_hours(plant).more]
        why = f"{other.name} is lit while it is night here, and neither holds its light back"
        yield _margin(
            f"leak.{other.id}",
            f"Light from {other.name}",
            "over" if tender else "good",
            both,
            f"{why}: a curtain between them, or the same hours."
            if tender
            else f"{why}. Nothing that grows here hangs on an unbroken night.",
            parts=_ids(tender),
            need="dark in the night" if tender else "for information",
            information=not tender,
        )


def _ids(plants: Iterable[Growing]) -> tuple[str, ...]:
    return tuple(plant.id for plant in plants)


def _quiet(plan: Plan, space: Space, lanes: tuple[Lane, ...]) -> Iterator[Margin]:
    lane = quiet_lane(plan)
    if lane is None:
        return
    wish = space.air.noise_wish_dba or QUIET_DBA
    loud, most, minutes = "", 0.0, 0.0
    for lit in (True, False):
        half = space.lit if lit else (dark(space.lit) if space.lit else lane.spans)
        shared = overlap_min(lane.spans, half)
        found = noise_of(space, lit=lit)
        if shared > _WORTH_MIN and found.total_dba is not None:
            if found.total_dba > wish:
                minutes += shared
            if found.total_dba > most:
                most = found.total_dba
                loud = max(found.sources, key=lambda item: item.heard_dba).name
    if not loud:
        return
    over = most > wish
    yield _margin(
        "quiet",
        "Quiet hours",
        "over" if over else "good",
        minutes,
        f"In quiet hours {{heard}} are heard, {loud} most of it: turn it down for them, or shift it."
        if over
        else "In quiet hours {heard} are heard.",
        need="at most {wish} in them",
        mendable=over,
        formula="noise of all that may run then, lamps on and off, against what is wished",
        heard=Amount(value=most, unit="dB(A)", decimals=0),
        wish=Amount(value=wish, unit="dB(A)", decimals=0),
    )


def _calm(runs: list[Lane]) -> Margin:
    count = Amount(value=len(runs), unit="", decimals=0)
    return Margin(
        id="day.clock",
        station="day",
        title="The clock",
        verdict="good",
        need=sentence("nothing that fights"),
        there=sentence("{count} on one clock", count=count),
        why=sentence(
            "Looked at: CO₂ and fog against the exhaust, heating against cooling, unbroken nights, light from next door"
            " and quiet hours, by the hours that are set. What the air switches is judged at the climate station."
        ),
        parts=(),
        working=Working(
            formula="minutes in which what fights runs at once = 0",
            steps=tuple(
                Step(symbol="", meaning=f"{lane.name}: {lane.told}", amount=_hours(lane.runs_min)) for lane in runs[:12]
            ),
            source="The clock of this plan; what fights is practice among growers",
            certainty="As exact as the hours that were typed.",
        ),
    )
