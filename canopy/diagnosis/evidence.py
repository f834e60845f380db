"""What plan and log say of the plants that suffer: facts with figures, for or against causes."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from canopy.diagnosis.ranking import Fact
from canopy.evaluate.air.stir_margins import stirred
from canopy.evaluate.light.lighting import PlantLight
from canopy.evaluate.space import SpaceReport
from canopy.library import Window
from canopy.library.models import BEARING
from canopy.logs.entries import Entry, water_given_l
from canopy.margin import Amount, Sentence, sentence
from canopy.quantities.reader import PPFD
from canopy.season import Growing

# Entries older than so long say nothing of today [d]; a change works for so long, looks for pests hold so long.
_RECENT_D, _CHANGED_D, _SCOUTED_D = 14, 8, 14
# Dimmer than the mean of all by so much is an edge; so much over or under a window counts.
_EDGE, _OVER = 0.78, 1.05
_PESTS = {
    "pest-thrips": ("thrips",),
    "pest-mites": ("mite",),
    "pest-aphids": ("aphid", "greenfl"),
    "pest-whiteflies": ("whitefl",),
    "pest-mealybugs": ("mealybug",),
    "pest-scales": ("scale",),
    "pest-gnats": ("gnat", "sciarid"),
    "pest-leafminers": ("miner",),
    "pest-caterpillars": ("caterpillar", "worm"),
}
_SUCKING = ("pest-aphids", "pest-whiteflies", "pest-mealybugs", "pest-scales", "pest-thrips")


@dataclass(frozen=True, kw_only=True)
class Means:
    """What was measured of late with lamps on, and off: means; None where it was not."""

    lit: float | None = None
    dark: float | None = None


@dataclass(frozen=True, kw_only=True)
class Noticed:
    """What is known beside the plan: ids of the plants that suffer (none: all), the log's entries, means of what was
    measured in the last days by quantity, and when the plan of this space was last changed.
    """

    today: dt.date
    plants: tuple[str, ...] = ()
    entries: tuple[Entry, ...] = ()
    measured: Mapping[str, Means] = field(default_factory=dict)
    changed_on: dt.date | None = None


def facts_of(report: SpaceReport, noticed: Noticed) -> dict[str, Fact]:
    """Gather what plan and log say.

    Parameters
    ----------
    report : of the space, with its climate where it was followed
    noticed : what is known beside the plan

    Returns
    -------
    dict of str to Fact : by id; what neither knows is not among them: nothing is guessed
    """
    found: dict[str, Fact] = {}
    for source in (_light, _hours, _warmth, _damp, _moved, _roots, _solution, _watered, _history, _pests):
        for key, holds, words in source(report, noticed):
            found[key] = Fact(id=key, holds=holds, words=words)
    return found


Told = Iterator[tuple[str, bool, Sentence]]


def _warm(value: float) -> Amount:
    return Amount(value=value, unit="temperature")


def _chosen(report: SpaceReport, noticed: Noticed) -> list[Growing]:
    plants = list(report.here.plants)
    chosen = [plant for plant in plants if plant.id in noticed.plants]
    return chosen or plants


def _wanted(plants: Sequence[Growing], of: Callable[[Growing], Window]) -> tuple[float, float]:
    windows = [of(plant) for plant in plants]
    return max(window.low for window in windows), min(window.high for window in windows)


def _light(report: SpaceReport, noticed: Noticed) -> Told:
    chosen = {plant.id for plant in _chosen(report, noticed)}
    lights = report.lighting.plants
    mine = [light for light in lights if light.plant.id in chosen]
    if not mine or not report.space.lit_hours:
        return
    low = min(mine, key=lambda light: light.dli_mol_m2_d / light.plant.want.dli_mol_m2_d.low)
    need = low.plant.want.dli_mol_m2_d.low
    dim = sentence(
        f"daily light {low.dli_mol_m2_d:.1f} mol/m² for {low.plant.crop.name.lower()}, which wants {need:.0f} or more"
    )
    yield "light-low", low.dli_mol_m2_d < need / _OVER, dim
    high = max(mine, key=lambda light: _top(light) / light.plant.want.ppfd_umol_m2_s.high)
    most = high.plant.want.ppfd_umol_m2_s.high
    bright = sentence(
        f"{{there}} on the top of {high.plant.crop.name.lower()}, which wants up to {{most}}",
        there=Amount(value=_top(high), unit=PPFD),
        most=Amount(value=most, unit=PPFD),
    )
    yield "light-high", _top(high) > _OVER * most, bright
    middle = float(np.mean([light.ppfd_umol_m2_s for light in lights]))
    least = min(light.ppfd_umol_m2_s for light in mine)
    if len(lights) > 1 and middle > 0:
        edge = sentence(f"the dimmest of them gets {100 * least / middle:.0f} % of what all get on the mean")
        yield "edge-dim", least < _EDGE * middle, edge
    near = [
        (lamp.z_m - plant.top_m, lamp.least_distance_m)
        for plant in _chosen(report, noticed)
        for lamp in report.space.fixtures
        if lamp.enabled and abs(lamp.x_m - plant.x_m) < 0.6 and abs(lamp.y_m - plant.y_m) < 0.6
    ]
    if near:
        gap, keep = min(near)
        words = sentence(
            "{gap} between lamp and leaves; {keep} are kept",
            gap=Amount(value=max(gap, 0.0), unit="length"),
            keep=Amount(value=keep, unit="length"),
        )
        yield "lamp-near", gap < 1.1 * keep, words
    warm = report.margin("light.leaf-warmth")
    if warm is not None and warm.verdict != "unknown":
        hot = warm.verdict in ("over", "tight")
        words = warm.there
        yield "leaf-hot", hot, words
        yield "leaf-cool", not hot, words


def _top(light: PlantLight) -> float:
    return max(light.most_ppfd_umol_m2_s, light.ppfd_umol_m2_s)


def _hours(report: SpaceReport, noticed: Noticed) -> Told:
    plants, hours = _chosen(report, noticed), report.space.lit_hours
    if not plants or not hours:
        return
    low, high = _wanted(plants, lambda plant: plant.want.photoperiod_h)
    words = sentence(f"lamps are on for {hours:g} h; {low:g} to {high:g} h are wanted")
    yield "hours-long", hours > high + 0.25, words
    yield "hours-short", hours < low - 0.25, words
    yield "hours-right", low - 0.25 <= hours <= high + 0.25, words
    short = [plant for plant in plants if plant.crop.day_length == "short"]
    if short:
        yield "short-day", True, sentence(f"{short[0].crop.name} flowers in long dark nights")


def _mean(report: SpaceReport, noticed: Noticed, name: str, *, lit: bool) -> tuple[float, str] | None:
    """What was measured of late, else what is simulated; and which of both it is."""
    known = noticed.measured.get(name)
    value = None if known is None else known.lit if lit else known.dark
    if value is not None:
        return value, "measured"
    if report.climate is None or report.climate.overheats_s is not None:
        return None
    return report.climate.mean(name, day=lit), "simulated"


def _warmth(report: SpaceReport, noticed: Noticed) -> Told:
    plants = _chosen(report, noticed)
    day, night = (_mean(report, noticed, "air_c", lit=lit) for lit in (True, False))
    if not plants or day is None or night is None:
        return
    low, high = _wanted(plants, lambda plant: plant.want.air_day_c)
    words = sentence(
        f"{{there}} by day ({day[1]}); {{low}} to {{high}} are wanted",
        there=_warm(day[0]),
        low=_warm(low),
        high=_warm(high),
    )
    yield "air-hot", day[0] > high + 0.5, words
    cold_low, warm_high = _wanted(plants, lambda plant: plant.want.air_night_c)
    chilly = sentence(
        f"{{there}} by night ({night[1]}); from {{low}} is wanted", there=_warm(night[0]), low=_warm(cold_low)
    )
    yield "air-cold", day[0] < low - 0.5 or night[0] < cold_low - 0.5, words if day[0] < low - 0.5 else chilly
    nights = sentence(
        f"{{night}} by night, {{day}} by day ({night[1]}); up to {{most}} is wanted at night",
        night=_warm(night[0]),
        day=_warm(day[0]),
        most=_warm(warm_high),
    )
    yield "night-warm", night[0] > warm_high + 0.5 or night[0] > day[0] - 0.5, nights
    yield "night-cool", night[0] <= warm_high and night[0] < day[0] - 2, nights
    gas = _mean(report, noticed, "co2_ppm", lit=True)
    if gas is not None:
        words = sentence(f"CO₂ {gas[0]:.0f} ppm by day ({gas[1]})")
        yield "co2-low", gas[0] < 300, words
        yield "co2-right", gas[0] >= 350, words


def _damp(report: SpaceReport, noticed: Noticed) -> Told:
    plants = _chosen(report, noticed)
    day, night = (_mean(report, noticed, "rh_pct", lit=lit) for lit in (True, False))
    warm = _mean(report, noticed, "air_c", lit=True)
    if not plants or day is None or night is None or warm is None:
        return
    deficit = 0.61078 * np.exp(17.27 * warm[0] / (warm[0] + 237.3)) * (1 - day[0] / 100)
    low, high = _wanted(plants, lambda plant: plant.want.vpd_kpa)
    words = sentence(f"VPD {deficit:.1f} kPa by day ({day[1]}); {low:g} to {high:g} kPa are wanted")
    yield "vpd-high", deficit > _OVER * high, words
    yield "vpd-low", deficit < low / _OVER, words
    wet = max(day[0], night[0])
    most = _wanted(plants, lambda plant: plant.want.rh_pct)[1]
    limit = max(most, 78.0)
    damp = sentence(f"humidity {wet:.0f} % ({night[1]}); above {limit:.0f} % moulds have it easy")
    yield "damp", wet > limit, damp
    film = 0.0 if report.climate is None else report.climate.wet_hours
    measured = noticed.measured.get("rh_pct")
    soaked = measured is not None and measured.dark is not None and measured.dark > 93
    nights = f"humidity by night {night[0]:.0f} % ({night[1]})"
    how = f"water lies on walls for {film:.0f} h of the simulated day" if film > 0.5 else nights
    yield "dew", film > 0.5 or soaked, sentence(how)
    yield "dew-not", film <= 0.5 and not soaked, sentence(f"nothing condenses: {nights}")


def _moved(report: SpaceReport, noticed: Noticed) -> Told:
    chosen = {plant.id for plant in _chosen(report, noticed)}
    speeds = [item.speed_m_s for item in stirred(report.here).plants if item.plant.id in chosen]
    if not speeds:
        return
    words = sentence("the air moves at {v} at the calmest of them", v=Amount(value=min(speeds), unit="air speed"))
    yield "still", min(speeds) < 0.12, words
    yield "moving", min(speeds) >= 0.2, words
    windiest = Amount(value=max(speeds), unit="air speed")
    yield "windy", max(speeds) > 1.2, sentence("the air moves at {v} at the windiest of them", v=windiest)


def _roots(report: SpaceReport, noticed: Noticed) -> Told:
    plants = _chosen(report, noticed)
    if not plants:
        return
    found = [
        value for value in (_mean(report, noticed, "root_c", lit=lit) for lit in (True, False)) if value is not None
    ]
    if found:
        low, high = _wanted(plants, lambda plant: plant.want.root_c)
        coldest, warmest = min(found), max(found)
        cool = sentence(f"roots at {{t}} ({coldest[1]}); from {{w}} is wanted", t=_warm(coldest[0]), w=_warm(low))
        hot = sentence(f"roots at {{t}} ({warmest[1]}); up to {{w}} is wanted", t=_warm(warmest[0]), w=_warm(high))
        yield "root-cold", coldest[0] < low - 0.5, cool
        yield "root-hot", warmest[0] > high + 0.5, hot
    potted = [plant for plant in plants if plant.plant.pot_volume_l is not None and plant.tray_m is None]
    if potted:
        tight = min(potted, key=lambda plant: (plant.plant.pot_volume_l or 1) / plant.crop.container_l.low)
        litres, least = tight.plant.pot_volume_l or 0.0, tight.crop.container_l.low
        words = sentence(
            f"{{there}} for {tight.crop.name.lower()}, which wants {{least}} or more",
            there=Amount(value=litres, unit="volume"),
            least=Amount(value=least, unit="volume"),
        )
        yield "pot-small", litres < 0.9 * least, words
        yield "pot-right", litres >= least, words
    tub = any(plant.plant.pot_kind == "bucket" for plant in plants) or report.space.watering.way == "circulating"
    if tub:
        yield "tub", True, sentence("it grows in a solution")


def _since(noticed: Noticed, days: float) -> dt.date:
    return noticed.today - dt.timedelta(days=days)


def _readings(noticed: Noticed, key: str) -> list[tuple[dt.date, float]]:
    rows = [
        (entry.at.date(), float(entry.data[key]))
        for entry in sorted(noticed.entries, key=lambda entry: entry.at)
        if entry.kind in ("water", "reservoir") and not entry.struck and entry.data.get(key) is not None
    ]
    return [row for row in rows if row[0] >= _since(noticed, 2 * _RECENT_D)]


def _solution(report: SpaceReport, noticed: Noticed) -> Told:
    plants = _chosen(report, noticed)
    acids, salts = _readings(noticed, "ph"), _readings(noticed, "ec_ms_cm")
    windows = [w for plant in plants if (w := plant.want.ph or plant.want.ph_soil) is not None]
    if acids and windows:
        low, high = max(w.low for w in windows), min(w.high for w in windows)
        day, value = acids[-1]
        words = sentence(f"pH {value:g} on {day.day} {day:%b}; {low:g} to {high:g} is wanted")
        yield "ph-high", value > high, words
        yield "ph-low", value < low, words
        yield "ph-off", not low <= value <= high, words
        yield "ph-right", low <= value <= high, words
        if len(acids) >= 3:
            least, most = min(v for _, v in acids), max(v for _, v in acids)
            course = sentence(f"pH from {least:g} to {most:g} within {len(acids)} readings")
            yield "ph-drifts", most - least >= 0.6, course
            yield "ph-steady", most - least < 0.4, course
    strengths = [w for plant in plants if (w := plant.want.ec_ms_cm) is not None]
    if salts and strengths:
        low, high = max(w.low for w in strengths), min(w.high for w in strengths)
        day, value = salts[-1]
        words = sentence(f"EC {value:g} mS/cm on {day.day} {day:%b}; {low:g} to {high:g} is wanted")
        yield "ec-high", value > _OVER * high, words
        yield "ec-low", value < low / _OVER, words


def _watered(report: SpaceReport, noticed: Noticed) -> Told:
    since = _since(noticed, _RECENT_D)
    rows = [e for e in noticed.entries if e.kind == "water" and not e.struck and e.at.date() >= since]
    if len(rows) < 2 or report.climate is None or report.climate.overheats_s is not None:
        return
    rows.sort(key=lambda entry: entry.at)
    hours = (rows[-1].at - rows[0].at).total_seconds() / 3600
    if hours < 36:
        return
    given = water_given_l(rows[1:])
    traces, last = report.climate.traces, report.climate.last
    drunk = float(traces.given_g_h[last].sum() * report.climate.days.every_s / 3600) / 1000 * hours / 24
    if drunk <= 0:
        return
    words = sentence(
        f"{{given}} were given in {hours / 24:.0f} days; leaves and pots give off about {{drunk}} in that time",
        given=Amount(value=given, unit="volume"),
        drunk=Amount(value=drunk, unit="volume"),
    )
    yield "water-little", given < 0.6 * drunk, words
    yield "water-much", given > 1.6 * drunk, words
    yield "overwet", given > 1.6 * drunk, words
    gaps = np.diff([entry.at.timestamp() for entry in rows]) / 86400
    if len(gaps) >= 3:
        uneven = sentence(f"between waterings lay {gaps.min():.1f} to {gaps.max():.1f} days")
        yield "water-uneven", float(gaps.max()) > 2.5 * float(np.median(gaps)), uneven
        yield "water-even", float(gaps.max()) < 1.6 * float(np.median(gaps)), uneven


def _history(report: SpaceReport, noticed: Noticed) -> Told:
    works = [e for e in noticed.entries if e.kind == "work" and not e.struck]
    moved = [e.at.date() for e in works if e.data.get("act") in ("pot", "move", "top")]
    last = max([day for day in (noticed.changed_on, *moved) if day is not None], default=None)
    if last is not None:
        recent = last >= _since(noticed, _CHANGED_D)
        did = "something was changed on" if recent else "nothing was changed since"
        words = sentence(f"{did} {last.day} {last:%b}")
        yield "changed", recent, words
        yield "changed-not", not recent, words
    plants = _chosen(report, noticed)
    bearing = [plant for plant in plants if plant.stage in BEARING]
    if bearing:
        shaken = [e.at.date() for e in works if e.data.get("act") == "pollinate"]
        late = not shaken or max(shaken) < _since(noticed, 3)
        told = f"flowers were last shaken on {max(shaken).day} {max(shaken):%b}" if shaken else ""
        yield "indoor-fruit", late, sentence(told or "nobody wrote down that flowers were shaken")
    grown = [plant for plant in plants if plant.span is not None and plant.planting is not None]
    if grown:
        age = max((noticed.today - plant.planting.starts_on).days for plant in grown if plant.planting is not None)
        yield "grown", age > 60, sentence(f"the oldest is {age} days old")


def _pests(report: SpaceReport, noticed: Noticed) -> Told:
    looks = [e for e in noticed.entries if e.kind == "pests" and not e.struck]
    recent = [e for e in looks if e.at.date() >= _since(noticed, _RECENT_D)]
    last = max((e.at.date() for e in looks), default=None)
    scouted = last is not None and last >= _since(noticed, _SCOUTED_D)
    if last is None:
        yield "neglected", True, sentence("nobody has written down a look for pests yet")
    else:
        yield "neglected", not scouted, sentence(f"the last look for pests was on {last.day} {last:%b}")
    sucking = False
    for key, words in _PESTS.items():
        counted = [e for e in recent if any(word in str(e.data.get("what", "")).casefold() for word in words)]
        if counted:
            newest = max(counted, key=lambda entry: entry.at)
            count = int(newest.data.get("count", 0))
            told = f"{count} {newest.data.get('what')} counted on {newest.at.day} {newest.at:%b}"
            yield key, count > 0, sentence(told.replace("{", "(").replace("}", ")"))
            sucking = sucking or (count > 0 and key in _SUCKING)
    if sucking:
        yield "pest-sucking", True, sentence("insects that suck were counted of late")
