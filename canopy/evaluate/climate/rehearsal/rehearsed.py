"""A rehearsal: days alike, then something goes wrong; what passes a crop's limit, and when."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from canopy.climate.balance import HEAT_J_KGK
from canopy.evaluate.climate.days import Simulated, simulated
from canopy.evaluate.climate.rehearsal.faults import Fault
from canopy.evaluate.climate.rehearsal.limits import NAMES, UNITS, Figure, Limit, limits_of
from canopy.evaluate.climate.upsets import Upset
from canopy.evaluate.light.lighting import Lighting
from canopy.library import find, mixes
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.document import Plan
from canopy.plan.rooms import Season, around_on
from canopy.season import Standing

# Written down every minute; so much is shown after it is over [h].
_NOTED_S, _AFTER_H = 60.0, 6.0
# An alert that lies nearer than this to a normal day's extreme rings for nothing.
_TELLS = {"air_c": 1.0, "leaf_c": 1.0, "root_c": 1.0, "rh_pct": 5.0, "co2_ppm": 60.0}
# Half of the water that a wet mix holds is easily drawn (rough).
_DRAWN = 0.5


@dataclass(frozen=True, kw_only=True)
class Passed:
    """What becomes of a limit: when it is passed after the trouble began [h], None where it never is; ``already``
    where a normal day is past it, too; the furthest value.
    """

    limit: Limit
    after_h: float | None
    already: bool
    furthest: float


@dataclass(frozen=True, kw_only=True)
class Warning:
    """An alert that would ring: at what value, when after the trouble began, how long before the limit is passed [h];
    ``normal`` is the furthest of a normal day.
    """

    figure: Figure
    value: float
    most: bool
    after_h: float
    ahead_h: float
    normal: float


@dataclass(frozen=True, kw_only=True, eq=False)
class Rehearsed:
    """What came of a fault; ``found`` holds two days alike, the trouble, and some hours after it."""

    fault: Fault
    amount: float
    upset: Upset
    found: Simulated
    here: Standing
    passes: tuple[Passed, ...]
    water_l: float | None

    @cached_property
    def normal(self) -> NDArray[np.bool_]:
        """Which intervals are the normal day before it."""
        hours = self.found.traces.hours
        return np.asarray((hours > self.upset.begins_h - 24) & (hours <= self.upset.begins_h))

    @cached_property
    def amiss(self) -> NDArray[np.bool_]:
        """Which intervals come after it began."""
        return np.asarray(self.found.traces.hours > self.upset.begins_h)

    @cached_property
    def first(self) -> Passed | None:
        """The limit that is passed first, of those that a normal day keeps."""
        timed = [item for item in self.passes if item.after_h is not None and not item.already]
        return min(timed, key=lambda item: item.after_h or 0.0, default=None)

    @cached_property
    def warning(self) -> Warning | None:
        """What would have warned of the first limit; None where an alert could not tell it from a normal day."""
        first = self.first
        if first is None or first.after_h is None:
            return None
        limit = first.limit
        values = getattr(self.found.around_plant(limit.plant_id).traces, limit.figure)
        rows = self.normal & (self.found.traces.lit > 0.5) if limit.lit_only else self.normal
        if not rows.any():
            return None
        normal = float(values[rows].max() if limit.most else values[rows].min())
        if abs(limit.value - normal) < _TELLS[limit.figure]:
            return None
        step = 10.0 if limit.figure == "co2_ppm" else 0.5
        value = round((normal + limit.value) / 2 / step) * step
        rung = replace(limit, value=value)
        after = _first_beyond(self.found, rung, self.upset.begins_h)
        if after is None:
            return None
        return Warning(
            figure=limit.figure,
            value=value,
            most=limit.most,
            after_h=after,
            ahead_h=max(0.0, first.after_h - after),
            normal=normal,
        )

    def furthest(self, figure: Figure, *, most: bool, plant_id: str = "") -> tuple[float, float]:
        """Give the furthest that a figure gets, and when after it began.

        Parameters
        ----------
        figure : a trace
        most : the highest, or the lowest
        plant_id : whose air; the space's own where it is empty

        Returns
        -------
        (float, float) : value; hours after it began
        """
        rows = np.flatnonzero(self.amiss)
        values = getattr(self.found.around_plant(plant_id).traces, figure)[rows]
        at = int(values.argmax() if most else values.argmin())
        return float(values[at]), float(self.found.traces.hours[rows[at]] - self.upset.begins_h)

    @property
    def said(self) -> Sentence:
        """It in a plain sentence, with a time in it."""
        return _said(self)


def rehearse(
    plan: Plan,
    here: Standing,
    lighting: Lighting,
    fault: Fault,
    amount: float,
    season: Season = "day",
    **better: object,
) -> Rehearsed:
    """Play a fault through.

    Parameters
    ----------
    plan : the plan, for joined spaces and those in the same room
    here : the space on a day
    lighting : its computed light
    fault : what goes wrong
    amount : how long or how much, in what it asks for
    season : the room as it is on the day, or on the year's coldest or hottest day
    better : what would be otherwise in it, as fields of an ``Upset``

    Returns
    -------
    Rehearsed : with every crop's limits
    """
    there = in_season(plan, here, season)
    normal = simulated(plan, there, lighting)
    upset = replace(fault.at(normal, amount), **better)  # type: ignore[arg-type]
    hours = int(np.ceil(upset.ends_h + _AFTER_H))
    found = simulated(plan, there, lighting, upset=upset, hours=hours, every_s=_NOTED_S)
    passes = tuple(_passed(found, limit, upset) for limit in limits_of(there))
    return Rehearsed(
        fault=fault,
        amount=amount,
        upset=upset,
        found=found,
        here=there,
        passes=passes,
        water_l=_water_l(there) if upset.unfilled else None,
    )


def in_season(plan: Plan, here: Standing, season: Season) -> Standing:
    """Give a space with its room as on the year's coldest or hottest day.

    Parameters
    ----------
    plan : where the household lies
    here : the space on a day
    season : "day" leaves it as it is

    Returns
    -------
    Standing : on its typical day where the room has no such day
    """
    if season == "day":
        return here
    return replace(here, around=around_on(here.around.room, plan.site, here.day, season))


def _first_beyond(found: Simulated, limit: Limit, begins_h: float) -> float | None:
    traces = found.around_plant(limit.plant_id).traces
    values = getattr(traces, limit.figure)
    past = (values > limit.value) if limit.most else (values < limit.value)
    if limit.lit_only:
        past = past & (traces.lit > 0.5)
    rows = np.flatnonzero(past & (traces.hours > begins_h))
    return max(0.0, float(traces.hours[rows[0]] - begins_h)) if len(rows) else None


def _passed(found: Simulated, limit: Limit, upset: Upset) -> Passed:
    traces = found.around_plant(limit.plant_id).traces
    values = getattr(traces, limit.figure)
    before = (traces.hours > upset.begins_h - 24) & (traces.hours <= upset.begins_h)
    after = traces.hours > upset.begins_h
    if limit.lit_only:
        before = before & (traces.lit > 0.5)
        after = after & (traces.lit > 0.5)
    usual = values[before]
    already = bool(len(usual)) and limit.beyond(float(usual.max() if limit.most else usual.min()))
    later = values[after] if after.any() else values[-1:]
    return Passed(
        limit=limit,
        after_h=_first_beyond(found, limit, upset.begins_h),
        already=already,
        furthest=float(later.max() if limit.most else later.min()),
    )


def _water_l(here: Standing) -> float | None:
    """Water that plants can draw on without anybody; None where nothing grows."""
    if not here.plants:
        return None
    feed = here.space.feed
    if feed.way == "solution":
        return feed.reservoir_l
    mix = find(mixes(), feed.mix_id, "mix")
    litres = sum(plant.plant.pot_volume_l or plant.crop.container_l.low for plant in here.plants)
    return max(0.0, mix.moist_kg_l - mix.dry_kg_l) * litres * _DRAWN


def time_amount(hours: float) -> Amount:
    """Write a time as people say it.

    Parameters
    ----------
    hours : how long [h]

    Returns
    -------
    Amount : in minutes, hours or days
    """
    if hours < 1.5:
        return Amount(value=max(1.0, round(60 * hours)), unit="min", decimals=0)
    if hours < 48:
        return Amount(value=hours, unit="h", decimals=0 if hours >= 10 else 1)
    return Amount(value=hours / 24, unit="days", decimals=1)


def figure_amount(figure: str, value: float) -> Amount:
    """Write a trace's value.

    Parameters
    ----------
    figure : such as "air_c"
    value : in its unit

    Returns
    -------
    Amount : as people read it
    """
    unit = UNITS[figure]
    return Amount(value=value, unit=unit, decimals=None if unit == "temperature" else 0)


def _said(done: Rehearsed) -> Sentence:
    if done.found.overheats_s is not None:
        after = time_amount(done.found.overheats_s / 3600 - done.upset.begins_h)
        return sentence(
            "After {after} the air passes {limit}: nothing survives that, and it can set fire.",
            after=after,
            limit=Amount(value=60.0, unit="temperature"),
        )
    dry = _dry_after_h(done)
    first = done.first
    if first is None or first.after_h is None:
        warmest, when = done.furthest("air_c", most=True)
        coldest, when_cold = done.furthest("air_c", most=False)
        amounts = {
            "all": time_amount(done.upset.ends_h - done.upset.begins_h),
            "warm": figure_amount("air_c", warmest),
            "when": time_amount(when),
            "cold": figure_amount("air_c", coldest),
            "coldly": time_amount(when_cold),
        }
        text = (
            "In {all} nothing new passes a limit: the air stays between {cold} (after {coldly}) and {warm} "
            "(after {when})."
        )
    else:
        limit = first.limit
        most, far = done.furthest(limit.figure, most=limit.most, plant_id=limit.plant_id)
        word = "above" if limit.most else "below"
        amounts = {
            "after": time_amount(first.after_h),
            "limit": figure_amount(limit.figure, limit.value),
            "far": figure_amount(limit.figure, most),
            "when": time_amount(far),
        }
        text = (
            f"After {{after}} {NAMES[limit.figure]} {_be(limit.figure)} {word} {{limit}}, the limit of "
            f"{limit.who}; {'the most' if limit.most else 'the least'} is {{far}}, after {{when}}."
        )
    if dry is not None:
        amounts["dry"] = time_amount(dry)
        text += " The plants have drawn their water after {dry}."
    return sentence(text, **amounts)


def _be(figure: str) -> str:
    return "are" if figure in ("leaf_c", "root_c") else "is"


def _dry_after_h(done: Rehearsed) -> float | None:
    """When the plants have drawn what water there is, by what the leaves give off on a normal day."""
    if done.water_l is None:
        return None
    daily = float(done.found.traces.given_g_h[done.normal].mean()) * 24 / 1000
    return None if daily <= 0 else 24 * done.water_l / daily


@dataclass(frozen=True, kw_only=True)
class ByHand:
    """The same by hand: heat that the air feels [W], what walls and leaks pass [W/K], what takes it up [J/K], air and
    walls alone and with pots and lamps' bodies, the time constants of both [h], where it would end [°C], and
    between when it would be at a limit [h]; None where it never is.
    """

    heat_w: float
    loss_w_k: float
    holds_j_k: tuple[float, float]
    tau_h: tuple[float, float]
    ends_c: float
    from_c: float
    limit_c: float
    after_h: tuple[float, float] | None


def by_hand(done: Rehearsed) -> ByHand | None:
    """Work out by the closed form how fast the air warms when its fans stop, without what leaves take up.

    Parameters
    ----------
    done : a rehearsal of stopped fans

    Returns
    -------
    ByHand : t = τ ln((T∞ − T0)/(T∞ − T_lim)), with air and sheet as what takes heat up, and with all there is; None
        for any other fault, or where no limit of the air lies above

    Notes
    -----
    First-order lag with the heat as its source (ISO 13786's time constant of a zone). Without leaves the simulation
    lies about between the two; leaves that cool slow it further.
    """
    upset, found = done.upset, done.found
    limits = [item.limit.value for item in done.passes if item.limit.figure == "air_c" and item.limit.most]
    if not upset.still or not limits:
        return None
    box = found.days.system.enclosures[found.days.place(found.space_id)]
    walls = sum(f.area_m2 / (1 / f.inner_film_w_m2k + 1 / max(f.outside_w_m2k, 1e-9)) for f in box.faces)
    density = found.days.system.density_kg_m3
    amiss = np.flatnonzero(done.amiss)
    leaks = density * HEAT_J_KGK * float(found.traces.flow_m3_h[amiss[5:65]].mean()) / 3600
    ids = [group.where for group in found.days.system.groups]
    at = int(np.flatnonzero(done.normal)[-1])
    # Heat that falls on the sheet is half outside already: its share of an air's (Norton's equivalent source).
    inner = 1 - walls / sum(f.area_m2 * f.inner_film_w_m2k for f in box.faces)
    heat = sum(
        float(found.days.groups[amiss[5], k]) * (group.gives.heat_w - (1 - inner) * group.gives.sheet_w)
        for k, group in enumerate(found.days.system.groups)
        if ids[k] == found.space_id
    )
    air = box.volume_m3 * density * HEAT_J_KGK + sum(f.area_m2 * f.holds_j_m2k for f in box.faces)
    holds = air, air + box.pots.holds_j_k + box.lamp_j_k
    beyond = done.here.around.temperature_c(lit=True)
    ends, start, limit = beyond + heat / (walls + leaks), float(found.traces.air_c[at]), min(limits)
    early, late = (held / (walls + leaks) / 3600 for held in holds)
    ratio = float(np.log((ends - start) / (ends - limit))) if ends > limit > start else None
    return ByHand(
        heat_w=heat,
        loss_w_k=walls + leaks,
        holds_j_k=holds,
        tau_h=(early, late),
        ends_c=ends,
        from_c=start,
        limit_c=limit,
        after_h=None if ratio is None else (early * ratio, late * ratio),
    )
