"""What a factor is about, as a figure: how much is computed of it without any correction."""

from __future__ import annotations

from dataclasses import dataclass, replace

from canopy.air import envelope_w_k
from canopy.air.network import Moment
from canopy.air.ventilation import ventilation
from canopy.evaluate.climate.devices import gives
from canopy.evaluate.space import SpaceReport
from canopy.light.photometry import fixture_load
from canopy.plan import Plan, Space
from canopy.plan.correction import Subject
from canopy.plan.learnt import factor_on
from canopy.quantities.reader import PPFD
from canopy.review.finding import Finding
from canopy.season.standing import leaf_group

# Seams are told of at so much warmth inside [K].
SEAMS_AT_K = 2.0


@dataclass(frozen=True, kw_only=True)
class Told:
    """A figure with the unit it is told in (`canopy.quantities`), and what it is."""

    name: str
    value: float
    unit: str


def told_of(plan: Plan, space: Space, report: SpaceReport, subject: Subject, target: str | None) -> Told:
    """Give what is computed of a thing, as though nothing had been learnt of it.

    Parameters
    ----------
    plan : the household
    space : one of its spaces
    report : of the space as it stands, with its climate where it was followed
    subject : what is asked
    target : id of the way of air or the device

    Returns
    -------
    Told : what the fans move, seams let in with the fans off, walls pass, leaves give off in a day, lamps draw and
        give, a device gives or takes
    """
    plain = space.model_copy(update={"learnt": ()})
    match subject:
        case "airflow":
            air = ventilation(_with(plan, plain), plain, Moment(lit=True))
            way = next(way for way in space.airways if way.id == target)
            flow = air.way(way.id)
            return Told(name=f"{way.name}: air moved", value=abs(flow.flow_m3_h) if flow else 0.0, unit="airflow")
        case "leak":
            still = tuple(way.id for way in space.airways if way.fans)
            air = ventilation(_with(plan, plain), plain, Moment(lit=False, rise_k=SEAMS_AT_K, still=still))
            return Told(name="Air through seams, fan off", value=air.total_m3_h, unit="airflow")
        case "walls":
            return Told(name="Walls and top pass", value=envelope_w_k(plain), unit="heat loss")
        case "leaf-area":
            plants = [plant for plant in report.here.plants if leaf_group(plant.plant) == target]
            mean = sum(plant.lai / plant.leafier for plant in plants) / max(1, len(plants))
            name = plants[0].planting.name if plants and plants[0].planting else plants[0].crop.name if plants else ""
            return Told(name=f"{name}: leaf area over its ground", value=mean, unit="")
        case "leaves":
            return Told(name="Leaves and pots give off in a day", value=_given_l_d(report), unit="volume")
        case "lamp-heat":
            watts = sum(fixture_load(lamp) for lamp in space.fixtures)
            return Told(name="Lamps draw", value=watts, unit="power")
        case "lamp-light":
            return Told(name="Light at the plants", value=mean_ppfd(report), unit=PPFD)
        case "device":
            device = next(item for item in space.devices if item.id == target)
            found = gives(device)
            water = 3.6e6 * (found.vapour_kg_s or found.rated_kg_s)
            if water > 0:
                return Told(name=device.spec.name, value=water, unit="water rate")
            return Told(name=device.spec.name, value=device.spec.power_w, unit="power")


def _given_l_d(report: SpaceReport) -> float:
    """What leaves and pots give off on the followed day [L]; by the steady balance without that."""
    if report.climate is not None and report.climate.overheats_s is None:
        traces, last = report.climate.traces, report.climate.last
        return float(traces.given_g_h[last].sum() * report.climate.days.every_s / 3600) / 1000
    lit = report.space.lit_hours
    day, night = report.breathing.day.vapour_kg_s, report.breathing.night.vapour_kg_s
    return (day * lit + night * (24 - lit)) * 3600


def mean_ppfd(report: SpaceReport) -> float:
    """Give the light on a space's leaves with all lamps on, a mean over the ground they cover.

    Parameters
    ----------
    report : of the space

    Returns
    -------
    float : PPFD, without what was learnt of the lamps [µmol/m²/s]
    """
    plants = report.lighting.plants
    ground = sum(light.plant.ground_m2 for light in plants)
    if ground <= 0:
        return 0.0
    lamps = len(report.space.fixtures)
    total = sum(light.plant.ground_m2 * sum(light.by_source_umol_m2_s[:lamps]) for light in plants)
    return float(total / ground / factor_on(report.space, "lamp-light"))


def _with(plan: Plan, space: Space) -> Plan:
    return plan.model_copy(update={"spaces": tuple(space if item.id == space.id else item for item in plan.spaces)})


def quantified(finding: Finding, plan: Plan, space: Space, report: SpaceReport) -> Finding:
    """Give a finding with the quantity it is about.

    Parameters
    ----------
    finding : a factor, or why there is none
    plan : the household
    space : one of its spaces
    report : of the space as it stands

    Returns
    -------
    Finding : with what is computed and its unit
    """
    told = told_of(plan, space, report, finding.subject, finding.target)
    return replace(finding, computed=told.value, unit=told.unit)
