"""A device that holds a crop's window, the smallest that does: each tried in the simulation before it is offered."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from canopy.air.fan_curve import STANDS, steps_of
from canopy.air.operating import at_speed
from canopy.design.change import Remedy, changes_between
from canopy.design.climate.sizes import sizes_of, strength
from canopy.design.climate.sizing import seasons_of
from canopy.equipment import DeviceSpec
from canopy.evaluate.climate.contents import under_lids
from canopy.evaluate.climate.days import simulated
from canopy.evaluate.climate.margins import climate_margins
from canopy.evaluate.climate.rehearsal.rehearsed import in_season
from canopy.evaluate.climate.settings import setting_margins
from canopy.evaluate.space import SpaceReport
from canopy.margin import ORDER, Amount, Margin, Verdict, sentence
from canopy.plan.changes import Act, Add, Change
from canopy.plan.controls import Hygrostat, Thermostat
from canopy.plan.document import Device
from canopy.plan.edit import apply
from canopy.plan.furnishing import Lid
from canopy.plan.rooms import Season
from canopy.season import Growing, cast_of, standing_of

# A setting lies so far inside the window that its band stays in it.
_INSIDE_K, _INSIDE_PCT = 1.0, 4.0
Setting = Thermostat | Hygrostat
# How far a lid may stand open; whether more air answers a margin, or less; how many steps of a fan are tried.
_OPENINGS, _STEPS = (0.0, 0.02, 0.05, 0.1, 0.2, 0.4, 0.7, 1.0), 4
_TURNS = {
    ("climate.air-day", "short"): False,
    ("climate.air-night", "short"): False,
    ("climate.rh", "short"): False,
    ("climate.vpd", "over"): False,
    ("climate.air-day", "over"): True,
    ("climate.air-night", "over"): True,
    ("climate.rh", "over"): True,
    ("climate.vpd", "short"): True,
    ("climate.co2", "short"): True,
    ("climate.condensation", "over"): True,
    ("climate.mould", "over"): True,
}
# The day of the year that each kind is sized for.
_DESIGN: dict[str, Season] = {
    "heater": "coldest",
    "mat": "coldest",
    "humidifier": "coldest",
    "dehumidifier": "hottest",
    "cooler": "hottest",
}


def mend_climate(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Find what mends a margin of the climate: a lid opened or shut, the fan turned, else the smallest device.

    Parameters
    ----------
    report : with its climate
    margin : one of them

    Returns
    -------
    Remedy : for plants under a lid how far it stands open, where that does it; a fan's speed that mends it and makes
        no other margin of the climate worse; a device with its setting, simulated to mend it; the one that comes
        nearest where none does; None where nothing grows, or for what none of them changes
    """
    if report.climate is None or not report.here.plants:
        return None
    lid = _lid_of(report, margin)
    opened = _open_lid(report, margin, lid) if lid is not None else None
    if opened is not None:
        return opened
    turned = _by_fan(report, margin)
    if turned is not None:
        return turned
    kind = _kind_for(margin)
    if kind is None:
        return None
    setting = setting_for(report.here.plants, kind)
    if setting is None:
        return None
    season = _DESIGN.get(kind, "day")
    season = season if season in seasons_of(report) else "day"
    best: tuple[int, DeviceSpec] | None = None
    empties: DeviceSpec | None = None
    for spec in sizes_of(kind):
        after = _after(report, (_add(spec, setting),))
        found = after.get(margin.id)
        if found is None:
            continue
        rank = ORDER.index(found)
        if best is None or rank > best[0]:
            best = (rank, spec)
        if found in ("good", "tight"):
            extreme = found if season == "day" else _after(report, (_add(spec, setting),), season).get(margin.id)
            if extreme in ("good", "tight"):
                if _lasts(report, after):
                    return _remedy(spec, setting, season)
                empties = empties or spec
    if empties is not None:
        # None has a tank that lasts: the smallest that does it is filled more often.
        return _remedy(empties, setting, season)
    if best is None or best[0] <= ORDER.index(margin.verdict):
        return None
    return _remedy(best[1], setting)


def mend_device(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Find the next larger class of a device that does not hold what it is set to, or whose tank empties too soon.

    Parameters
    ----------
    report : with its climate
    margin : of a device's setting or tank

    Returns
    -------
    Remedy : simulated to mend it and to put nothing of the kind outside; None where no class does
    """
    device = next((item for item in report.space.devices if item.id in margin.parts), None)
    if report.climate is None or device is None:
        return None
    tank = margin.id.startswith("climate.tank.")
    for spec in sizes_of(device.spec.kind):
        larger = strength(spec) > strength(device.spec) or (tank and (spec.tank_l or 0.0) > (device.spec.tank_l or 0.0))
        if not larger:
            continue
        change = Change(collection="devices", part_id=device.id, values={"spec": spec.model_dump(mode="json")})
        after = _after(report, (change,))
        if after.get(margin.id) in ("good", "tight", None) and _lasts(report, after):
            return Remedy(
                label=sentence(f"Take {spec.name} in place of {device.spec.name}"),
                changes=(change,),
            )
    return None


def _lasts(report: SpaceReport, after: dict[str, Verdict]) -> bool:
    """Whether the device holds what it is set to, and no tank empties too soon that did not before."""
    known = {margin.id for margin in report.margins}
    fresh = [key for key in after if key.startswith(("climate.tank.", "climate.setting.")) and key not in known]
    return not any(after[key] in ("short", "over") for key in fresh)


def _lid_of(report: SpaceReport, margin: Margin) -> Lid | None:
    """The lid that the plants it speaks of stand under."""
    under = {plant.id: lid for lid, plants in under_lids(report.here) for plant in plants}
    return under.get(margin.parts[0]) if margin.parts else None


def _open_lid(report: SpaceReport, margin: Margin, lid: Lid) -> Remedy | None:
    """As little as it has to be opened or shut, each tried."""
    for share in sorted(_OPENINGS, key=lambda item: abs(item - lid.open_share)):
        if share == lid.open_share:
            continue
        change = Change(collection="lids", part_id=lid.id, values={"open_share": share})
        found = _after(report, (change,))
        if found.get(margin.id) in ("good", "tight", None):
            word = "Open" if share > lid.open_share else "Shut"
            amount = Amount(value=100 * share, unit="%", decimals=0)
            return Remedy(label=sentence(f"{word} {lid.name} to {{share}} of its top", share=amount), changes=(change,))
    return None


def _by_fan(report: SpaceReport, margin: Margin) -> Remedy | None:
    """The next step of the fan's speed that mends it, where nothing else of the climate gets worse by it."""
    way = next((item for item in report.space.airways if item.fans), None)
    up = _TURNS.get((margin.id, margin.verdict))
    if way is None or way.lead is None or way.control is not None or up is None:
        return None
    now = way.lead.speed
    before = {item.id: item.verdict for item in report.margins if item.station == "climate"}
    steps = [step for step in steps_of(way.lead.spec) if (step > now + 1e-6 if up else STANDS < step < now - 1e-6)]
    for step in sorted(steps, reverse=not up)[:_STEPS]:
        space = at_speed(report.space, way, step)
        changes = tuple(changes_between(report.space, space, ("airways",)))
        after = _after(report, changes)
        if any(ORDER.index(after[key]) < ORDER.index(verdict) for key, verdict in before.items() if key in after):
            return None
        if after.get(margin.id) in ("good", "tight"):
            verb = "Speed the fan up" if up else "Slow the fan"
            amount = Amount(value=100 * step, unit="%", decimals=0)
            return Remedy(label=sentence(f"{verb} to {{s}}", s=amount), changes=changes)
    return None


def _after(report: SpaceReport, changes: tuple[Act, ...], season: Season = "day") -> dict[str, Verdict]:
    """What the margins of the climate become, on a day of the year: light and leaves stay what they are."""
    plan = apply(report.plan, report.space.id, changes)
    space = plan.space(report.space.id)
    if space is None:
        return {}
    here = in_season(plan, standing_of(space, report.here.day, cast_of(plan)), season)
    climate = simulated(plan, here, report.lighting)
    found = climate_margins(here, climate)
    if climate.overheats_s is None:
        found += setting_margins(here, climate, plan.tariff.mean_price, plan.site.currency)
    return {item.id: item.verdict for item in found}


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


def setting_for(plants: Sequence[Growing], kind: str) -> Setting | None:
    """Find a setting inside what all crops want, so far inside that the device's band stays in it.

    Parameters
    ----------
    plants : at least one
    kind : "heater", "cooler", "mat", "humidifier" or "dehumidifier"

    Returns
    -------
    Thermostat or Hygrostat : None where they share no humidity
    """
    wants = [plant.want for plant in plants]
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


def _remedy(spec: DeviceSpec, setting: Setting, season: Season = "day") -> Remedy:
    too = f", on the {season} day of the year too" if season != "day" else ""
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
                label=sentence(f"Add {what} ({{w}}) that holds {{day}} {holds}{too}", **amounts),
                changes=(_add(spec, setting),),
            )
        return Remedy(
            label=sentence(f"Add {what} ({{w}}) that holds {{day}} by day and {{night}} by night{too}", **amounts),
            changes=(_add(spec, setting),),
        )
    amounts = {"rh": Amount(value=setting.day_rh_pct, unit="%", decimals=0), "w": power}
    if spec.kind == "humidifier":
        amounts["g"] = Amount(value=spec.gives_g_h, unit="g/h", decimals=0)
        words = f"Add a humidifier ({{g}}, {{w}}) that holds {{rh}}{too}"
    else:
        amounts["l"] = Amount(value=spec.takes_l_d, unit="L/d", decimals=1)
        words = f"Add a dehumidifier ({{l}}, {{w}}) that holds {{rh}}{too}"
    return Remedy(label=sentence(words, **amounts), changes=(_add(spec, setting),))
