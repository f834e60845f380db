"""Which settings: setpoints, fan speeds and triggers that hold the crops' windows best with the devices there are."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from itertools import product
from typing import Any

import numpy as np

from canopy.evaluate.climate.contents import in_the_open
from canopy.evaluate.climate.days import Simulated, simulated
from canopy.evaluate.climate.devices import setting_of
from canopy.evaluate.climate.runs import running_shares
from canopy.evaluate.power.loads import as_followed, running
from canopy.evaluate.space import SpaceReport
from canopy.library import Window
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.changes import Act, Change
from canopy.plan.controls import FanControl
from canopy.plan.document import Device, Plan, Space
from canopy.plan.edit import apply
from canopy.season import Growing, Standing, cast_of, standing_of

# No more than so many are tried, each a few tenths of a second.
MOST = 96
_SPEEDS = (0.25, 0.4, 0.55, 0.7, 0.85, 1.0)
# By how much being outside a window counts as much as in the margins: what the simulation may be off.
_COUNTS = {"air_c": 1.5, "rh_pct": 6.0, "vpd_kpa": 0.2, "root_c": 1.5}
_WET_H, _POOR_PPM = 6.0, 350.0
# Two that lie so near each other hold as well: the cheaper one is taken.
_AS_GOOD_H = 0.5


@dataclass(frozen=True, kw_only=True)
class Choice:
    """A set of settings: its name, what one does for it, and what it says."""

    key: str
    changes: tuple[Act, ...]
    label: Sentence


@dataclass(frozen=True, kw_only=True)
class Tried:
    """What comes of a set: hours a day outside windows, of the worst-off crop, by quantity; all of them together,
    weighed by how far [h]; energy and money.
    """

    choice: Choice
    outside_h: Mapping[str, float]
    weight_h: float
    energy_kwh_d: float
    cost_per_month: float
    currency: str


def choices_for(report: SpaceReport) -> tuple[Choice, ...]:
    """List the sets of settings worth trying in a space.

    Parameters
    ----------
    report : with what grows there

    Returns
    -------
    tuple of Choice : as it is set first; every mix of a few levels for each kind of device and of speeds and triggers
        for the fan, thinned out evenly where there would be too many; empty where nothing grows or nothing can be set
    """
    here = replace(report.here, plants=in_the_open(report.here))
    if not here.plants:
        return ()
    kinds: dict[str, list[Device]] = {}
    for device in here.space.devices:
        setting = setting_of(device, here.plants).control
        if setting is not None and setting.kind != "co2":
            kinds.setdefault(device.spec.kind, []).append(device)
    rows = [_levels(kind, here.plants) for kind in kinds]
    fans = _fan_levels(here)
    if not rows and len(fans) < 2:
        return ()
    mixes = list(product(product(*rows), fans))
    if len(mixes) > MOST - 1:
        mixes = [mixes[round(k)] for k in np.linspace(0, len(mixes) - 1, MOST - 1)]
    found = [Choice(key="now", changes=(), label=sentence("As it is"))]
    for number, (levels, (acts, turned)) in enumerate(mixes):
        changes: list[Act] = []
        words: list[str] = []
        amounts: dict[str, Amount] = {}
        for kind, level in zip(kinds, levels, strict=True):
            changes += [
                Change(collection="devices", part_id=device.id, values={"control": _control(device, here, level)})
                for device in kinds[kind]
            ]
            words.append(_said(kind, level, amounts))
        changes += acts
        if turned is not None:
            words.append(turned.text)
            amounts |= dict(turned.amounts)
        found.append(Choice(key=f"set-{number}", changes=tuple(changes), label=sentence("; ".join(words), **amounts)))
    return tuple(found)


def joint_window(plants: Iterable[Growing], figure: str) -> Window:
    """Give what all share of a window.

    Parameters
    ----------
    plants : at least one
    figure : such as "rh_pct"

    Returns
    -------
    Window : where they share nothing, the middle between the two that part most
    """
    windows = [getattr(plant.want, figure) for plant in plants]
    low, high = max(w.low for w in windows), min(w.high for w in windows)
    middle = (low + high) / 2
    return Window(low=low, high=high) if low <= high else Window(low=middle, high=middle)


def _levels(kind: str, plants: tuple[Growing, ...]) -> list[tuple[float, float]]:
    """Settings by day and by night to try for a kind of device."""
    if kind in ("humidifier", "dehumidifier"):
        rh = joint_window(plants, "rh_pct")
        inside = min(3.0, (rh.high - rh.low) / 2)
        edge = rh.low + inside if kind == "humidifier" else rh.high - inside
        return [(edge, edge), ((rh.low + rh.high) / 2,) * 2]
    if kind == "mat":
        root = joint_window(plants, "root_c")
        return [(root.low + 1,) * 2, ((root.low + root.high) / 2,) * 2]
    day, night = joint_window(plants, "air_day_c"), joint_window(plants, "air_night_c")
    if kind == "cooler":
        return [(day.high - 1, night.high - 0.5), ((day.low + day.high) / 2, (night.low + night.high) / 2)]
    return [(day.low + 1, night.low + 0.5), ((day.low + day.high) / 2, (night.low + night.high) / 2)]


def _control(device: Device, here: Standing, level: tuple[float, float]) -> dict[str, Any]:
    setting = setting_of(device, here.plants).control
    values: dict[str, Any] = setting.model_dump(mode="json") if setting else {}
    one, two = ("day_c", "night_c") if "day_c" in values else ("day_rh_pct", "night_rh_pct")
    return {**values, one: round(level[0], 1), two: round(level[1], 1)}


_NAMES = {
    "heater": "heating",
    "heat-lamp": "heat lamp",
    "mat": "mat",
    "cooler": "cooling",
    "humidifier": "humidifier",
    "dehumidifier": "dehumidifier",
}


def _said(kind: str, level: tuple[float, float], amounts: dict[str, Amount]) -> str:
    damp = kind in ("humidifier", "dehumidifier")
    for half, value in zip(("day", "night"), level, strict=True):
        key = f"{kind.replace('-', '_')}_{half}"
        amounts[key] = Amount(value=value, unit="%" if damp else "temperature", decimals=0 if damp else None)
    day, night = (f"{{{kind.replace('-', '_')}_{half}}}" for half in ("day", "night"))
    return f"{_NAMES[kind]} {day}" if level[0] == level[1] else f"{_NAMES[kind]} {day} by day, {night} by night"


def _fan_levels(here: Standing) -> list[tuple[tuple[Act, ...], Sentence | None]]:
    """Speeds of the first way's fan, and triggers from a low speed on."""
    way = next((item for item in here.space.airways if item.fans), None)
    if way is None or way.lead is None:
        return [((), None)]
    lead = way.lead
    steps = sorted({step for step in (getattr(lead.spec, "steps", None) or _SPEEDS) if 0 < step <= 1})
    found: list[tuple[tuple[Act, ...], Sentence | None]] = []

    def speed(value: float, control: FanControl | None, words: str) -> None:
        at = ("airways", way.id)
        acts: tuple[Act, ...] = (
            Change(at=at, collection="parts", part_id=lead.id, values={"speed": value, "other": None}),
            Change(
                collection="airways",
                part_id=way.id,
                values={"control": control.model_dump(mode="json") if control else None},
            ),
        )
        amounts = {"speed": Amount(value=100 * value, unit="%", decimals=0)}
        if control is not None:
            amounts["hot"] = Amount(value=control.hot_day_c or 0.0, unit="temperature")
            amounts["damp"] = Amount(value=control.damp_day_pct or 0.0, unit="%", decimals=0)
        found.append((acts, sentence(words, **amounts)))

    for value in steps[:: max(1, len(steps) // 5)]:
        speed(value, None, "fan at {speed}")
    day, night, rh = (joint_window(here.plants, key) for key in ("air_day_c", "air_night_c", "rh_pct"))
    low = steps[0]
    control = FanControl(
        least=low,
        most=1.0,
        hot_day_c=day.high - 1.5,
        hot_night_c=night.high - 1.5,
        damp_day_pct=max(20.0, rh.high - 8),
        damp_night_pct=max(20.0, rh.high - 8),
    )
    speed(low, control, "fan from {speed} up where it is above {hot} by day or {damp}")
    return found


def try_choice(report: SpaceReport, choice: Choice) -> Tried:
    """Simulate a set of settings.

    Parameters
    ----------
    report : the space's report
    choice : one of its sets

    Returns
    -------
    Tried : what comes of it on the third of three days alike
    """
    plan, space = report.plan, report.space
    if choice.changes:
        plan = apply(plan, space.id, choice.changes)
        space = plan.space(space.id) or space
    here = standing_of(space, report.here.day, cast_of(plan))
    found = simulated(plan, here, report.lighting)
    return _judge(plan, space, here, found, choice)


def _judge(plan: Plan, space: Space, here: Standing, found: Simulated, choice: Choice) -> Tried:
    outside: dict[str, float] = {}
    here = replace(here, plants=in_the_open(here))
    weight = 1e6 if found.overheats_s is not None else 0.0
    every_h = found.days.every_s / 3600
    for figure, trace, rows, name in (
        ("air_day_c", "air_c", found.half(day=True), "air by day"),
        ("air_night_c", "air_c", found.half(day=False), "air by night"),
        ("rh_pct", "rh_pct", found.last, "humidity"),
        ("vpd_kpa", "vpd_kpa", found.half(day=True), "VPD by day"),
        ("root_c", "root_c", found.last, "roots"),
    ):
        values = getattr(found.traces, trace)[rows]
        worst = 0.0
        for plants in here.by_kind.values():
            window = getattr(plants[0].want, figure)
            off = np.maximum(np.maximum(window.low - values, values - window.high), 0.0)
            worst = max(worst, float((off > 0).sum() * every_h))
            weight += float(np.minimum(off / _COUNTS[trace], 3.0).sum() * every_h) / len(here.by_kind)
        outside[name] = worst
    lit = found.traces.co2_ppm[found.half(day=True)]
    outside["CO₂ by day"] = float((lit < _POOR_PPM).sum() * every_h)
    weight += float(np.clip((_POOR_PPM - lit) / 100, 0, 3).sum() * every_h)
    outside["wet walls"] = found.wet_hours
    weight += max(0.0, found.wet_hours - _WET_H)
    run = as_followed(running(plan, space), running_shares(space, found), plan.tariff)
    return Tried(
        choice=choice,
        outside_h=outside,
        weight_h=weight,
        energy_kwh_d=run.energy_kwh_d,
        cost_per_month=run.cost_per_month,
        currency=run.currency,
    )


def best_of(tried: Iterable[Tried]) -> tuple[Tried, ...]:
    """Pick the sets to stand beside what is set now.

    Parameters
    ----------
    tried : all that were simulated, what is set now among them

    Returns
    -------
    tuple of Tried : the cheapest of those that hold as well as any; then, where there are such, cheaper ones that hold
        better than what is set now; no more than three, none that holds no better and costs no less
    """
    row = list(tried)
    now = next((item for item in row if item.choice.key == "now"), None)
    others = [item for item in row if item.choice.key != "now"]
    if not others:
        return ()
    least = min(item.weight_h for item in others)
    good = min((item for item in others if item.weight_h <= least + _AS_GOOD_H), key=lambda item: item.cost_per_month)
    found = [good]
    for item in sorted(others, key=lambda item: item.weight_h):
        if len(found) < 3 and item.cost_per_month < min(known.cost_per_month for known in found) - 0.005:
            found.append(item)
    if now is None:
        return tuple(found)

    def better(item: Tried) -> bool:
        saves = item.cost_per_month < now.cost_per_month - 0.005 and item.weight_h <= now.weight_h + _AS_GOOD_H
        return item.weight_h < now.weight_h - _AS_GOOD_H or saves

    return tuple(item for item in found if better(item))
