"""A device that holds a crop's window, the smallest that does: each tried in the simulation before it is offered."""

from __future__ import annotations

from typing import Any

from canopy.design.change import Remedy
from canopy.design.climate.sizes import sizes_of
from canopy.equipment import DeviceSpec
from canopy.evaluate.climate.days import simulated
from canopy.evaluate.climate.margins import climate_margins
from canopy.evaluate.space import SpaceReport
from canopy.margin import ORDER, Amount, Margin, sentence
from canopy.plan.changes import Add
from canopy.plan.controls import Hygrostat, Thermostat
from canopy.plan.document import Device
from canopy.plan.edit import apply
from canopy.season import cast_of, standing_of

# A setting lies so far inside the window that its band stays in it.
_INSIDE_K, _INSIDE_PCT = 1.0, 4.0
Setting = Thermostat | Hygrostat


def mend_climate(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Find the smallest device that mends a margin of the climate.

    Parameters
    ----------
    report : with its climate
    margin : one of them

    Returns
    -------
    Remedy : a device with its setting, simulated to mend it; the one that comes nearest where none does; None where
        nothing grows, or for what no device changes
    """
    kind = _kind_for(margin)
    if kind is None or report.climate is None or not report.here.plants:
        return None
    setting = _setting(report, kind)
    if setting is None:
        return None
    best: tuple[int, DeviceSpec] | None = None
    for spec in sizes_of(kind):
        found = _tried(report, spec, setting, margin.id)
        if found is None:
            continue
        rank = ORDER.index(found.verdict)
        if best is None or rank > best[0]:
            best = (rank, spec)
        if found.verdict in ("good", "tight"):
            break
    if best is None or best[0] <= ORDER.index(margin.verdict):
        return None
    return _remedy(best[1], setting)


def _kind_for(margin: Margin) -> str | None:
    """What kind of device answers a margin."""
    return {
        ("climate.air-day", "short"): "heater",
        ("climate.air-night", "short"): "heater",
        ("climate.air-day", "over"): "cooler",
        ("climate.air-night", "over"): "cooler",
        ("climate.root", "short"): "mat",
        ("climate.rh", "short"): "humidifier",
        ("climate.vpd", "over"): "humidifier",
        ("climate.rh", "over"): "dehumidifier",
        ("climate.vpd", "short"): "dehumidifier",
        ("climate.condensation", "over"): "dehumidifier",
        ("climate.mould", "over"): "dehumidifier",
    }.get((margin.id, margin.verdict))


def _setting(report: SpaceReport, kind: str) -> Setting | None:
    """A setting inside what all crops here want; None where they share nothing."""
    wants = [plant.want for plant in report.here.plants]
    if kind == "heater":
        day, night = max(w.air_day_c.low for w in wants), max(w.air_night_c.low for w in wants)
        return Thermostat(day_c=day + _INSIDE_K, night_c=night + _INSIDE_K)
    if kind == "cooler":
        day, night = min(w.air_day_c.high for w in wants), min(w.air_night_c.high for w in wants)
        return Thermostat(day_c=day - _INSIDE_K, night_c=night - _INSIDE_K)
    if kind == "mat":
        root = max(w.root_c.low for w in wants) + _INSIDE_K
        return Thermostat(senses="root", day_c=root, night_c=root)
    low, high = max(w.rh_pct.low for w in wants), min(w.rh_pct.high for w in wants)
    if low >= high:
        return None
    inside = min(_INSIDE_PCT, (high - low) / 2)
    level = low + inside if kind == "humidifier" else high - inside
    return Hygrostat(day_rh_pct=level, night_rh_pct=level)


def _add(spec: DeviceSpec, setting: Setting) -> Add:
    part: dict[str, Any] = Device(id="new", spec=spec, control=setting).model_dump(mode="json")
    return Add(collection="devices", parts=(part,), prefix="device")


def _tried(report: SpaceReport, spec: DeviceSpec, setting: Setting, margin_id: str) -> Margin | None:
    """What a margin becomes with a device: its light and leaves stay what they are."""
    plan = apply(report.plan, report.space.id, [_add(spec, setting)])
    space = plan.space(report.space.id)
    if space is None:
        return None
    here = standing_of(space, report.here.day, cast_of(plan))
    found = climate_margins(here, simulated(plan, here, report.lighting))
    return next((item for item in found if item.id == margin_id), None)


def _remedy(spec: DeviceSpec, setting: Setting) -> Remedy:
    power = Amount(value=spec.power_w, unit="power")
    if isinstance(setting, Thermostat):
        amounts = {
            "day": Amount(value=setting.day_c, unit="temperature"),
            "night": Amount(value=setting.night_c, unit="temperature"),
            "w": power,
        }
        what = {"heater": "a heater", "mat": "a heat mat", "cooler": "a small air conditioner"}[spec.kind]
        holds = "at the roots" if setting.senses == "root" else "in the air"
        if setting.day_c == setting.night_c:
            return Remedy(
                label=sentence(f"Add {what} ({{w}}) that holds {{day}} {holds}", **amounts),
                changes=(_add(spec, setting),),
            )
        return Remedy(
            label=sentence(f"Add {what} ({{w}}) that holds {{day}} by day and {{night}} by night", **amounts),
            changes=(_add(spec, setting),),
        )
    amounts = {"rh": Amount(value=setting.day_rh_pct, unit="%", decimals=0), "w": power}
    if spec.kind == "humidifier":
        amounts["g"] = Amount(value=spec.gives_g_h, unit="g/h", decimals=0)
        words = "Add a humidifier ({g}, {w}) that holds {rh}"
    else:
        amounts["l"] = Amount(value=spec.takes_l_d, unit="L/d", decimals=1)
        words = "Add a dehumidifier ({l}, {w}) that holds {rh}"
    return Remedy(label=sentence(words, **amounts), changes=(_add(spec, setting),))
