"""What it would take: heating, mats, wetting, drying, cooling and air for the year's coldest and hottest day."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from canopy.climate.columns import REFRIGERANT
from canopy.climate.switching import dryer_share
from canopy.design.climate.settings import joint_window
from canopy.design.climate.sizes import sizes_of, strength
from canopy.equipment import DeviceSpec
from canopy.evaluate.climate.contents import in_the_open
from canopy.evaluate.climate.days import Simulated, simulated
from canopy.evaluate.climate.losses import loss_and_dry_air
from canopy.evaluate.climate.rehearsal.rehearsed import in_season
from canopy.evaluate.space import SpaceReport
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.rooms import Season
from canopy.psychrometrics import humidity_ratio

Kind = Literal["heater", "mat", "humidifier", "dehumidifier", "cooler", "exhaust"]
NAMES: dict[Kind, str] = {
    "heater": "Heating",
    "mat": "Mat under the pots",
    "humidifier": "Wetting",
    "dehumidifier": "Drying",
    "cooler": "Cooling",
    "exhaust": "Exhaust",
}
# To spare: heat and cold by a quarter, drying by three tenths; of mist so much lands as drops; a fan at four fifths.
_HEAT, _DRY, _MIST, _FAN = 1.25, 1.3, 0.85, 0.8
_INSIDE_K = 1.0
_SEASONS: tuple[Season, ...] = ("coldest", "hottest")
_SAID: dict[Season, str] = {"day": "the day shown", "coldest": "the coldest day", "hottest": "the hottest day"}


@dataclass(frozen=True, kw_only=True)
class Size:
    """What a kind of device would have to do, and on which day; nothing where ``need`` is None. ``spec`` is the
    smallest class that does it, None where none is large enough; ``refill_days`` how long its tank lasts then.
    """

    kind: Kind
    need: Amount | None
    on: str
    said: Sentence
    spec: DeviceSpec | None = None
    refill_days: float | None = None


def seasons_of(report: SpaceReport) -> tuple[Season, ...]:
    """List the days that things are sized for.

    Parameters
    ----------
    report : the space's report

    Returns
    -------
    tuple of str : the year's extremes as far as its room has them, else the day shown
    """
    room, follows = report.here.around.room, report.here.around.hourly is not None
    known = {"coldest": room.coldest is not None, "hottest": room.hottest is not None}
    found = tuple(season for season in _SEASONS if follows or known[season])
    return found or ("day",)


def sizes_for(report: SpaceReport, seasons: tuple[Season, ...] | None = None) -> tuple[Size, ...]:
    """Size everything that a space's climate could need.

    Parameters
    ----------
    report : with what grows there
    seasons : the days it is sized for; the year's extremes, as far as its room has them, when None

    Returns
    -------
    tuple of Size : one a kind, by simulation without any device that heats, cools, wets or dries; empty where nothing
        grows

    Notes
    -----
    Steady balances on the simulated means, with walls and air as they are simulated: ΔP = 1.25 (UA + ρ Q c_p) ΔT,
    m = ρ Q ΔW / 0.85, d = 1.3 ρ Q ΔW / f(T, RH) (ASHRAE Fundamentals, ch. 18 and 16).
    """
    if not in_the_open(report.here):
        return ()
    bare = {season: _without(report, season) for season in seasons or seasons_of(report)}
    return (*sizes_on(report, bare), _exhaust(report))


def sizes_on(report: SpaceReport, followed: Mapping[Season, Simulated]) -> tuple[Size, ...]:
    """Size what would warm, cool, wet and dry a space beyond what does so already.

    Parameters
    ----------
    report : with what grows there
    followed : its days, simulated with what stands there

    Returns
    -------
    tuple of Size : one a kind
    """
    kinds: tuple[Kind, ...] = ("heater", "mat", "humidifier", "dehumidifier", "cooler")
    found = []
    for kind in kinds:
        needs = {season: _need(kind, report, days) for season, days in followed.items()}
        worst = max(needs, key=lambda season: needs[season][0])
        found.append(_size(kind, *needs[worst], _SAID[worst]))
    return tuple(found)


def _without(report: SpaceReport, season: Season) -> Simulated:
    kept = tuple(device for device in report.space.devices if not device.spec.on_demand)
    space = report.space.model_copy(update={"devices": kept})
    here = in_season(report.plan, report.here.moved(space), season)
    spaces = tuple(space if other.id == space.id else other for other in report.plan.spaces)
    return simulated(report.plan.model_copy(update={"spaces": spaces}), here, report.lighting)


def _halves(found: Simulated) -> list[tuple[bool, NDArray[np.bool_]]]:
    return [(day, found.half(day=day)) for day in (True, False)]


def _need(kind: Kind, report: SpaceReport, found: Simulated) -> tuple[float, float]:
    """How much is needed in the kind's own measure, and the figure that is reached without, for what is said."""
    plants, altitude = in_the_open(report.here), report.here.around.altitude_m
    needs: list[tuple[float, float]] = []
    water, hours_all = 0.0, 0.0
    for day, rows in _halves(found):
        loss, moved = loss_and_dry_air(found, rows)
        traces = found.traces
        warm, damp = float(traces.air_c[rows].mean()), float(traces.rh_pct[rows].mean())
        air, rh = joint_window(plants, "air_day_c" if day else "air_night_c"), joint_window(plants, "rh_pct")
        if kind == "heater":
            needs.append((_HEAT * loss * max(0.0, air.low + _INSIDE_K - warm) if warm < air.low else 0.0, warm))
        elif kind == "cooler":
            needs.append((_HEAT * loss * max(0.0, warm - air.high + _INSIDE_K) if warm > air.high else 0.0, warm))
        elif kind == "mat":
            root, roots = joint_window(plants, "root_c"), float(traces.root_c[rows].mean())
            pots = found.days.system.enclosures[found.days.place(found.space_id)].pots
            passes = pots.film_w_m2k * pots.area_m2 + pots.floor_w_k
            needs.append((_HEAT * passes * (root.low + _INSIDE_K - roots) if roots < root.low else 0.0, roots))
        else:
            # Once it is heated or cooled into what the crops want, the same water is another humidity.
            held = min(max(warm, air.low), air.high)
            ratio = humidity_ratio(warm, min(100.0, max(1.0, damp)), altitude)
            if kind == "humidifier":
                gap = humidity_ratio(held, rh.low + 3, altitude) - ratio
                needs.append((max(0.0, moved * gap / _MIST * 3.6e6) if damp < rh.low else 0.0, damp))
            else:
                gap = ratio - humidity_ratio(held, rh.high - 3, altitude)
                hours = float(rows.sum()) * found.days.every_s / 3600
                share = max(0.1, float(dryer_share(REFRIGERANT, held, rh.high - 3)))  # type: ignore[no-untyped-call]
                water += _DRY * max(0.0, moved * gap * 3600 * hours) / share if damp > rh.high else 0.0
                hours_all += hours
                needs.append((0.0, damp))
    if kind == "dehumidifier":
        dampest = max(figure for _, figure in needs)
        return water * 24 / max(hours_all, 1.0), dampest
    return max(needs, key=lambda item: (item[0], -item[1] if kind in ("heater", "mat", "humidifier") else item[1]))


def _keep(kind: Kind) -> str:
    return "stay" if kind == "mat" else "stays"


def _size(kind: Kind, need: float, reached: float, on: str) -> Size:
    damp = kind in ("humidifier", "dehumidifier")
    there = Amount(value=reached, unit="%" if damp else "temperature", decimals=0 if damp else None)
    least = {"humidifier": 1.0, "dehumidifier": 0.02}.get(kind, 1.0)
    what = {"mat": "the roots", "humidifier": "humidity", "dehumidifier": "humidity"}.get(kind, "the air")
    if need < least:
        return Size(
            kind=kind,
            need=None,
            on=on,
            said=sentence(f"not needed: {what} {_keep(kind)} at {{there}} without", there=there),
        )
    spec = next((item for item in sizes_of(kind) if strength(item) >= need), None)
    unit, decimals = {"humidifier": ("g/h", 0), "dehumidifier": ("L/d", 1)}.get(kind, ("power", 0))
    refill = None
    if kind == "humidifier" and spec is not None and spec.tank_l:
        refill = spec.tank_l * 1000 / (need * 24)
    return Size(
        kind=kind,
        need=Amount(value=need, unit=unit, decimals=decimals),
        on=on,
        said=sentence(f"{what} would stand at {{there}} without", there=there),
        spec=spec,
        refill_days=refill,
    )


def _exhaust(report: SpaceReport) -> Size:
    chosen, there = report.breathing.governing, report.breathing.delivered_m3_h
    amount = Amount(value=there, unit="airflow")
    if chosen.flow_m3_h is None:
        return Size(kind="exhaust", need=None, on="the day shown", said=sentence(f"{chosen.reason}"))
    return Size(
        kind="exhaust",
        need=Amount(value=chosen.flow_m3_h / _FAN, unit="airflow"),
        on="the day shown",
        said=sentence("delivered through its path, with a fifth to spare; {there} move now", there=amount),
    )
