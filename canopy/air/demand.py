"""How much air a space needs, by each of the four criteria."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.psychrometrics import (
    HEAT_CAPACITY_J_KGK,
    HEAT_OF_EVAPORATION_J_KG,
    dry_air_density_kg_m3,
    humidity_ratio,
)

AIR_MOLAR_KG = 0.028965
CRITERIA = ("exchange", "heat", "moisture", "co2")
# What asks for air with the lamps off: the exchange rule and CO2 stand for lamps and leaves at work.
BY_NIGHT = ("heat", "moisture")


@dataclass(frozen=True, kw_only=True)
class AirNeeds:
    """What decides the flow."""

    volume_m3: float
    exchange_minutes: float
    filter_allowance: float
    count_allowance: bool = False
    heat_w: float
    envelope_w_k: float
    rise_k: float
    vapour_kg_s: float
    co2_mol_s: float
    room_c: float
    room_rh_pct: float
    max_rh_pct: float
    co2_drop_ppm: float
    altitude_m: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Demand:
    """One criterion's answer: the flow [m³/h], or None with the reason why no flow would do.

    ``plain_m3_h`` is what another school says: heat without its credits for walls and evaporation (the catalogue
    figure), exchange with the flat filter allowance where it is not counted, and without it where it is.
    """

    criterion: str
    flow_m3_h: float | None
    reason: str = ""
    plain_m3_h: float | None = None


def exchange_flow_m3_h(volume_m3: float, minutes: float, allowance: float) -> float:
    """Give the flow that changes the whole volume every so many minutes.

    Parameters
    ----------
    volume_m3 : volume of the space [m³]
    minutes : time for one change [min]
    allowance : share added for a filter, 0..1

    Returns
    -------
    float : flow [m³/h]
    """
    return volume_m3 * 60 / minutes * (1 + allowance)


def demands(needs: AirNeeds) -> tuple[Demand, ...]:
    """Give the flow each criterion asks for.

    Parameters
    ----------
    needs : what decides the flow

    Returns
    -------
    tuple of Demand : exchange, heat, moisture, CO2, in this order
    """
    exhaust_c = needs.room_c + needs.rise_k
    ratio_in = humidity_ratio(needs.room_c, needs.room_rh_pct, needs.altitude_m)
    ratio_max = humidity_ratio(exhaust_c, needs.max_rh_pct, needs.altitude_m)
    density = dry_air_density_kg_m3(exhaust_c, ratio_in, needs.altitude_m)
    bare = exchange_flow_m3_h(needs.volume_m3, needs.exchange_minutes, 0.0)
    padded = exchange_flow_m3_h(needs.volume_m3, needs.exchange_minutes, needs.filter_allowance)
    exchange, other = (padded, bare) if needs.count_allowance else (bare, padded)
    carried = density * HEAT_CAPACITY_J_KGK * needs.rise_k
    left_w = needs.heat_w - needs.envelope_w_k * needs.rise_k - HEAT_OF_EVAPORATION_J_KG * needs.vapour_kg_s
    heat = max(0.0, left_w) / carried * 3600
    plain = needs.heat_w / carried * 3600
    if ratio_in >= ratio_max and needs.vapour_kg_s > 0:
        moisture = Demand(
            criterion="moisture",
            flow_m3_h=None,
            reason="the room's air already holds more water than is allowed inside: it needs a dehumidifier",
        )
    else:
        flow = needs.vapour_kg_s / (density * (ratio_max - ratio_in)) * 3600 if needs.vapour_kg_s > 0 else 0.0
        moisture = Demand(criterion="moisture", flow_m3_h=flow)
    drop = needs.co2_drop_ppm * 1e-6 * density / AIR_MOLAR_KG
    return (
        Demand(criterion="exchange", flow_m3_h=exchange, plain_m3_h=other),
        Demand(criterion="heat", flow_m3_h=heat, plain_m3_h=plain),
        moisture,
        Demand(criterion="co2", flow_m3_h=max(0.0, needs.co2_mol_s) / drop * 3600),
    )


def governing(found: tuple[Demand, ...], rule: str, *, lit: bool = True) -> Demand:
    """Pick the demand that sizes the fan.

    Parameters
    ----------
    found : the four demands
    rule : "largest", or the criterion the person chose
    lit : lamps on; by night only heat and moisture ask, for the exchange rule stands for lamps and leaves at work

    Returns
    -------
    Demand : the chosen one, or the largest that has an answer
    """
    if not lit:
        found = tuple(demand for demand in found if demand.criterion in BY_NIGHT)
        # Damp that no flow carries off comes before any flow that would do.
        return max(found, key=lambda demand: float("inf") if demand.flow_m3_h is None else demand.flow_m3_h)
    if rule != "largest":
        return next(demand for demand in found if demand.criterion == rule)
    return max(found, key=lambda demand: demand.flow_m3_h or 0.0)
