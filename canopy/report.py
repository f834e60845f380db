"""A report as text for people and as data for programs: the same figures the page shows."""

from __future__ import annotations

from typing import Any

from canopy.evaluate import Report, SpaceReport
from canopy.evaluate.air.noise import noise_of
from canopy.evaluate.air.paths import PathReport
from canopy.margin import Amount, Margin, Sentence
from canopy.quantities import LENGTH, number, show, significant

_MARKS = {"good": "●", "tight": "◐", "short": "△", "over": "▽", "unknown": "□"}


def as_text(report: Report, *, system: str = "metric", working: bool = False) -> str:
    """Write a report as plain text.

    Parameters
    ----------
    system : "metric" or "us"
    working : add every margin's working

    Returns
    -------
    str : lines, ending in a newline
    """
    plan = report.plan
    lines = [f"{plan.name}, {report.day.isoformat()}", ""]
    for space in report.spaces:
        lines += _space_lines(space, system, working)
    lines.append(f"Whole household: {report.cost_per_month:.2f} {plan.site.currency} a month.")
    for load in report.circuits:
        lines.append(
            f"Circuit {load.circuit.name}: {load.continuous_w:.0f} W of {load.limit_w:.0f} W for continuous loads, "
            f"{load.all_on_w:.0f} W with all on."
        )
    return "\n".join(lines) + "\n"


def _space_lines(report: SpaceReport, system: str, working: bool) -> list[str]:
    space, light, air = report.space, report.lighting, report.breathing
    size = " × ".join(show(v, LENGTH, system) for v in (space.size.width_m, space.size.depth_m, space.size.height_m))
    lines = [f"{space.name} ({space.kind}, {size})  {_MARKS[report.verdict]} {report.verdict}"]
    lines.append(
        f"  {number(report.running.power_w)} W · PPFD {significant(light.mean_ppfd_umol_m2_s)} µmol/m²/s · "
        f"DLI {significant(light.dli_mol_m2_d)} mol/m²/d · "
        f"{Amount(value=air.delivered_m3_h, unit='airflow').text(system)}{_climate_words(report, system)}"
    )
    for margin in report.margins:
        mark = "i" if margin.information else _MARKS[margin.verdict]
        word = "" if margin.information else margin.verdict
        lines.append(
            f"  {mark} {word:<8}{margin.title}: {margin.there.say(system)} (need: {margin.need.say(system)})."
            f" {margin.why.say(system)}"
        )
        if working:
            lines += _working_lines(margin, system)
    lines.append("")
    return lines


def _climate_words(report: SpaceReport, system: str) -> str:
    climate = report.climate
    if climate is None:
        return ""
    said = [
        f"{when} {Amount(value=climate.mean('air_c', day=day), unit='temperature').text(system)}, "
        f"{climate.mean('vpd_kpa', day=day):.1f} kPa"
        for when, day in (("day", True), ("night", False))
    ]
    return f" · {' · '.join(said)}"


def _working_lines(margin: Margin, system: str) -> list[str]:
    work = margin.working
    lines = [f"      {work.formula}"]
    lines += [
        f"        {step.symbol or '·'} = {step.amount.text(system)}  ({step.means(system)})" for step in work.steps
    ]
    return [*lines, f"      Source: {work.source}", f"      How sure: {work.certainty}"]


def _sentence(item: Sentence) -> dict[str, Any]:
    return {"text": item.say(), "amounts": {key: _amount(amount) for key, amount in item.amounts}}


def _amount(item: Amount) -> dict[str, Any]:
    unit = {
        "length": "m",
        "diameter": "m",
        "airflow": "m3/h",
        "power": "W",
        "temperature": "degC",
        "temperature rise": "K",
        "volume": "L",
        "weight": "kg",
    }
    found: dict[str, Any] = {"value": item.value, "unit": unit.get(item.unit, item.unit)}
    return found if item.high is None else {**found, "high": item.high}


def margin_data(margin: Margin) -> dict[str, Any]:
    """Write a margin as plain data.

    Returns
    -------
    dict : JSON-ready, SI units named beside each value
    """
    return {
        "id": margin.id,
        "station": margin.station,
        "title": margin.title,
        "verdict": margin.verdict,
        "information": margin.information,
        "need": _sentence(margin.need),
        "there": _sentence(margin.there),
        "why": margin.why.say(),
        "parts": list(margin.parts),
        "working": {
            "formula": margin.working.formula,
            "steps": [
                {"symbol": step.symbol, "meaning": step.means(), **_amount(step.amount)}
                for step in margin.working.steps
            ],
            "source": margin.working.source,
            "certainty": margin.working.certainty,
        },
    }


def _path(path: PathReport) -> dict[str, Any]:
    point = path.point
    return {
        "id": path.airway.id,
        "name": path.airway.name,
        "flow_m3_h": path.flow_m3_h,
        "night_m3_h": path.night_m3_h,
        "speed": point.speed if point else None,
        "fan_pa": point.lift_pa if point else None,
        "power_w": point.power_w if point else 0.0,
        "stalls": bool(point and point.stalls),
        "drops": [
            {
                "part": drop.element.part_id,
                "name": drop.element.name,
                "drop_pa": drop.drop_pa,
                "speed_m_s": drop.speed_m_s,
            }
            for drop in path.drops
        ],
        "adapters_needed": [
            {"from_m": item.from_m, "to_m": item.to_m, "class_id": item.class_id} for item in path.chain.needed
        ],
        "filters": [
            {"part": load.part_id, "face_m_s": load.face_m_s, "contact_s": load.contact_s, "drop_pa": load.drop_pa}
            for load in path.filters
        ],
    }


def _climate(report: SpaceReport) -> dict[str, Any] | None:
    found = report.climate
    if found is None:
        return None
    names = ("air_c", "rh_pct", "vpd_kpa", "leaf_vpd_kpa", "root_c", "co2_ppm")
    return {
        "day": {name: found.mean(name, day=True) for name in names},
        "night": {name: found.mean(name, day=False) for name in names},
        "condensed_g_d": found.condensed_g_d,
        "wet_h": found.wet_hours,
        "devices": {device.id: found.share_of(device.id) for device in report.space.devices},
        "assumed_controls": list(found.assumed),
        "not_closed": {"heat": found.days.closure.heat, "water": found.days.closure.water},
    }


def _space_data(report: SpaceReport) -> dict[str, Any]:
    light, air, run = report.lighting, report.breathing, report.running
    return {
        "id": report.space.id,
        "name": report.space.name,
        "verdict": report.verdict,
        "light": {
            "ppf_umol_s": light.ppf_umol_s,
            "power_w": light.power_w,
            "mean_ppfd_umol_m2_s": light.mean_ppfd_umol_m2_s,
            "min_ppfd_umol_m2_s": light.min_ppfd_umol_m2_s,
            "evenness": light.evenness,
            "mean_dli_mol_m2_d": light.dli_mol_m2_d,
            "plants": [
                {
                    "id": item.plant.id,
                    "crop": item.plant.crop.name,
                    "stage": item.plant.stage,
                    "height_m": item.plant.height_m,
                    "spread_m": item.plant.spread_m,
                    "top_m": item.plant.top_m,
                    "ppfd_umol_m2_s": item.ppfd_umol_m2_s,
                    "dli_mol_m2_d": item.dli_mol_m2_d,
                    "reflected_share": item.reflected_share,
                }
                for item in light.plants
            ],
        },
        "air": {
            "demands_m3_h": {item.criterion: item.flow_m3_h for item in air.demands},
            "demands_night_m3_h": {item.criterion: item.flow_m3_h for item in air.dark.demands},
            "governing": air.governing.criterion,
            "delivered_m3_h": air.delivered_m3_h,
            "delivered_night_m3_h": air.dark.air.total_m3_h,
            "fresh_m3_h": air.lit.air.fresh_m3_h,
            "pressure_pa": air.lit.air.running.pressure_pa,
            "unfiltered_m3_h": air.lit.air.running.unfiltered_m3_h,
            "noise_dba": noise_of(report.space).total_dba,
            "paths": [_path(path) for path in report.paths],
        },
        "climate": _climate(report),
        "power": {
            "power_w": run.power_w,
            "energy_kwh_d": run.energy_kwh_d,
            "cost_per_month": run.cost_per_month,
            "currency": run.currency,
        },
        "margins": [margin_data(margin) for margin in report.margins],
    }


def as_data(report: Report) -> dict[str, Any]:
    """Write a report as plain data.

    Returns
    -------
    dict : JSON-ready
    """
    return {
        "plan": report.plan.name,
        "date": report.day.isoformat(),
        "cost_per_month": report.cost_per_month,
        "currency": report.plan.site.currency,
        "spaces": [_space_data(space) for space in report.spaces],
        "circuits": [
            {
                "id": load.circuit.id,
                "name": load.circuit.name,
                "continuous_w": load.continuous_w,
                "limit_w": load.limit_w,
                "all_on_w": load.all_on_w,
            }
            for load in report.circuits
        ],
    }
