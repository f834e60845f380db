"""What a guided test comes to: its result as factors on what is computed."""

from __future__ import annotations

import datetime as dt

from canopy.air.shell import envelope_w_k
from canopy.evaluate.space import SpaceReport
from canopy.plan import Plan, Space
from canopy.plan.correction import Basis, Subject
from canopy.psychrometrics import HEAT_CAPACITY_J_KGK
from canopy.review.decay import Decay
from canopy.review.finding import Finding, unknown
from canopy.review.heater import HeaterResult
from canopy.review.quantity import told_of

_RHO_C = 1.19 * HEAT_CAPACITY_J_KGK


def heater_findings(
    result: HeaterResult, plan: Plan, space: Space, report: SpaceReport, way_id: str, day: dt.date
) -> tuple[Finding, ...]:
    """Turn the result of a test with a heater into findings.

    Parameters
    ----------
    result : of the test
    plan : the household
    space : one of its spaces
    report : of the space as it stands
    way_id : the way of air whose fan was switched
    day : of the test

    Returns
    -------
    tuple of Finding : what the fan moves, and what walls pass: what goes through seams with the fan off, as computed,
        taken off what both pass together
    """
    if result.why_not or result.flow_m3_h is None or result.loss_w_k is None:
        return (unknown("airflow", result.why_not, way_id, "heater"),)
    flow = told_of(plan, space, report, "airflow", way_id).value
    seams = told_of(plan, space, report, "leak", None).value * _RHO_C / 3600
    walls = envelope_w_k(space.model_copy(update={"learnt": ()}))
    found = [
        _finding("airflow", way_id, result.flow_m3_h, result.flow_off or 0.0, flow, day, "heater", _limits(result)),
        _finding(
            "walls",
            None,
            result.loss_w_k - seams,
            float(((result.loss_off or 0.0) ** 2 + (0.5 * seams) ** 2) ** 0.5),
            walls,
            day,
            "heater",
            f"walls, floor and seams together pass {result.loss_w_k:.1f} W/K; {seams:.1f} of it taken as seams",
        ),
    ]
    return tuple(found)


def _limits(result: HeaterResult) -> str:
    others = [("steady", result.steady_flow_m3_h), ("by integrals", result.integral_flow_m3_h)]
    told = ", ".join(f"{name} {value:.0f} m³/h" for name, value in others if value is not None)
    return f"the simpler ways to it: {told}; readings lie {result.left_k:.2f} K from the fit"


def decay_finding(
    result: Decay, plan: Plan, space: Space, report: SpaceReport, way_id: str | None, day: dt.date
) -> Finding:
    """Turn a fall of CO2 into a finding.

    Parameters
    ----------
    result : of the fall
    plan : the household
    space : one of its spaces
    report : of the space as it stands
    way_id : the way of air whose fan ran meanwhile; None where it stood
    day : of the test

    Returns
    -------
    Finding : of what the fan moves, or of the seams
    """
    subject: Subject = "airflow" if way_id else "leak"
    if result.flow_m3_h is None:
        return unknown(subject, result.why_not, way_id, "co2")
    computed = told_of(plan, space, report, subject, way_id).value
    words = f"CO₂ fell from {result.from_ppm:.0f} to {result.to_ppm:.0f} ppm in {result.minutes:.0f} min"
    return _finding(subject, way_id, result.flow_m3_h, result.off_m3_h or 0.0, computed, day, "co2", words)


def _finding(
    subject: Subject,
    target: str | None,
    value: float,
    off: float,
    computed: float,
    day: dt.date,
    basis: Basis,
    limits: str,
) -> Finding:
    if computed <= 0 or value <= 0:
        return unknown(subject, "nothing is computed of it that this could be held against", target, basis)
    return Finding(
        subject=subject,
        target=target,
        factor=value / computed,
        standard_error=off / computed,
        computed=computed,
        unit="heat loss" if subject == "walls" else "airflow",
        basis=basis,
        limits=limits,
        begins=day,
        ends=day,
    )
