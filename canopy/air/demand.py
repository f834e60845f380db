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
# Air that comes in so much warmer than the crops bear is called hot: what warmth indoors is known to [K].
_HOT_K = 1.5
# A smaller rise than this carries nothing off [K].
_LEAST_RISE_K = 0.05
# What asks for air with the lamps off: the exchange rule and CO2 stand for lamps and leaves at work.
BY_NIGHT = ("heat", "moisture")


@dataclass(frozen=True, kw_only=True)
class AirNeeds:
    """What decides the flow. ``room_c`` and ``room_rh_pct`` are the air that comes in, ``around_c`` the air beyond the
    walls (what comes in when None), ``leaves_c`` how warm the air goes out that carries water (as warm as is allowed
    when None: by night it is no warmer than it gets), ``most_c`` the warmest that what grows there bears.
    """

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
    around_c: float | None = None
    leaves_c: float | None = None
    most_c: float | None = None


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
    around_c = needs.room_c if needs.around_c is None else needs.around_c
    allowed_c = around_c + needs.rise_k
    # Air that comes in warmer than the room leaves warmer yet.
    warmest_c = max(around_c, needs.room_c) + needs.rise_k
    leaves_c = warmest_c if needs.leaves_c is None else min(needs.leaves_c, warmest_c)
    ratio_in = humidity_ratio(needs.room_c, needs.room_rh_pct, needs.altitude_m)
    density = dry_air_density_kg_m3(allowed_c, ratio_in, needs.altitude_m)
    bare = exchange_flow_m3_h(needs.volume_m3, needs.exchange_minutes, 0.0)
    padded = exchange_flow_m3_h(needs.volume_m3, needs.exchange_minutes, needs.filter_allowance)
    exchange, other = (padded, bare) if needs.count_allowance else (bare, padded)
    drop = needs.co2_drop_ppm * 1e-6 * density / AIR_MOLAR_KG
    return (
        Demand(criterion="exchange", flow_m3_h=exchange, plain_m3_h=other),
        _heat(needs, allowed_c, density),
        _moisture(needs, ratio_in, humidity_ratio(leaves_c, needs.max_rh_pct, needs.altitude_m), density),
        Demand(criterion="co2", flow_m3_h=max(0.0, needs.co2_mol_s) / drop * 3600),
    )


def _heat(needs: AirNeeds, allowed_c: float, density: float) -> Demand:
    """What carries heat off: from how it comes in up to what is allowed; walls and leaves take their part."""
    if needs.most_c is not None and needs.room_c > needs.most_c + _HOT_K:
        return Demand(
            criterion="heat",
            flow_m3_h=None,
            reason="what comes in is warmer than the crops here want, and no flow cools below it: cool the room, give "
            "light in its cooler hours, or wait for colder days",
        )
    rise = allowed_c - needs.room_c
    if rise < _LEAST_RISE_K and needs.most_c is not None and needs.rise_k > _LEAST_RISE_K:
        # Air from a warmer place: what is allowed over the room is short of what the crops bear.
        rise = max(rise, needs.most_c - needs.room_c)
    left_w = needs.heat_w - needs.envelope_w_k * needs.rise_k - HEAT_OF_EVAPORATION_J_KG * needs.vapour_kg_s
    if rise < _LEAST_RISE_K and left_w > 0:
        return Demand(
            criterion="heat",
            flow_m3_h=None,
            reason="what comes in is as warm as is allowed inside, and no flow carries heat off with it: cool it, or "
            "lead in air from elsewhere",
        )
    carried = density * HEAT_CAPACITY_J_KGK * max(rise, _LEAST_RISE_K)
    heat, plain = max(0.0, left_w) / carried * 3600, needs.heat_w / carried * 3600
    return Demand(criterion="heat", flow_m3_h=heat, plain_m3_h=plain)


def _moisture(needs: AirNeeds, ratio_in: float, ratio_max: float, density: float) -> Demand:
    if needs.vapour_kg_s <= 0:
        return Demand(criterion="moisture", flow_m3_h=0.0)
    if ratio_in >= ratio_max:
        return Demand(
            criterion="moisture",
            flow_m3_h=None,
            reason="what comes in already holds more water than is allowed inside: it needs a dehumidifier, a little "
            "heat, or drier air from elsewhere",
        )
    return Demand(criterion="moisture", flow_m3_h=needs.vapour_kg_s / (density * (ratio_max - ratio_in)) * 3600)


def governing(found: tuple[Demand, ...], rule: str, *, lit: bool = True) -> Demand:
    """Pick the demand that sizes the fan.

    Parameters
    ----------
    found : the four demands
    rule : "largest", or the criterion the person chose
    lit : lamps on; by night only heat and moisture ask, for the exchange rule stands for lamps and leaves at work

    Returns
    -------
    Demand : the chosen one, or the largest of heat, moisture and CO2 that has an answer: an exchange every so many
        minutes is a rule of thumb, and decides only where the person chose it
    """
    if not lit:
        found = tuple(demand for demand in found if demand.criterion in BY_NIGHT)
        # Damp that no flow carries off comes before any flow that would do.
        return max(found, key=lambda demand: float("inf") if demand.flow_m3_h is None else demand.flow_m3_h)
    if rule != "largest":
        return next(demand for demand in found if demand.criterion == rule)
    asking = tuple(demand for demand in found if demand.criterion != "exchange")
    return max(asking, key=lambda demand: demand.flow_m3_h or 0.0)
