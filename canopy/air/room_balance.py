"""What a room can take: how much a space's heat and water warm it and damp it, by its own exchange of air."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.plan.rooms import Around
from canopy.psychrometrics import (
    HEAT_CAPACITY_J_KGK,
    dry_air_density_kg_m3,
    humidity_ratio,
    relative_humidity_pct,
)

# Heat a room in a home gives to the rest of it and to outdoors, by floor area [W/K per m²] (3 to 4 for a furnished
# room).
LOSS_W_K_M2 = 3.0
# What a small air conditioner takes as dry heat, of all that it takes at 27 °C and 47 % (ISO 5151, T1; usual).
DRY_SHARE = 0.75


@dataclass(frozen=True, kw_only=True)
class RoomLoad:
    """A room with a space in it: how much warmer and damper it gets, and its own exchange [m³/h]."""

    rise_k: float
    temperature_c: float
    rh_pct: float
    ratio_rise: float
    exchange_m3_h: float
    loss_w_k: float


def room_load(
    around: Around, heat_w: float, vapour_kg_s: float, *, day: bool = True, drawn_m3_h: float = 0.0
) -> RoomLoad | None:
    """Find what a space's heat and water make of the room around it.

    Parameters
    ----------
    around : the room as it is without the space, and the height above sea level
    heat_w : heat that ends in the room [W]
    vapour_kg_s : water that ends in the room as vapour [kg/s]
    day : its air by day, or by night
    drawn_m3_h : air that is drawn from it out of the home, which more must replace [m³/h]

    Returns
    -------
    RoomLoad : steady state; None for a room without a floor area, which is taken as large

    Notes
    -----
    Conservation of heat and water in a well-mixed room: ΔT = P/(UA + ρ c Q), ΔW = E/(ρ Q); the room's exchange is
    its only way out for water. Replacing air has the room's own state without the space. A heater or air conditioner
    holds the room at its setting as far as it can; what the conditioner dries is left out here (it is simulated).
    """
    room, altitude = around.room, around.altitude_m
    if room.floor_m2 is None:
        return None
    start_c, start_rh = around.temperature_c(lit=day), around.rh_pct(lit=day)
    exchange = room.floor_m2 * room.height_m * room.exchange_per_h + drawn_m3_h
    ratio = humidity_ratio(start_c, start_rh, altitude)
    mass = dry_air_density_kg_m3(start_c, ratio, altitude) * exchange / 3600
    loss = room.loss_w_k if room.loss_w_k is not None else LOSS_W_K_M2 * room.floor_m2
    rise = heat_w / (loss + mass * HEAT_CAPACITY_J_KGK)
    warm = start_c + rise
    by_watt = 1 / (loss + mass * HEAT_CAPACITY_J_KGK)
    if warm > room.cool_to_c and room.cooling_w is not None:
        warm = max(room.cool_to_c, warm - DRY_SHARE * room.cooling_w * by_watt)
    elif warm < room.heat_to_c and room.heating_w is not None:
        warm = min(room.heat_to_c, warm + room.heating_w * by_watt)
    most = humidity_ratio(min(warm, 60.0), 100, altitude)
    wetter = min(vapour_kg_s / max(mass, 1e-9), max(0.0, most - ratio))
    rh = relative_humidity_pct(min(warm, 60.0), ratio + wetter, altitude)
    return RoomLoad(
        rise_k=warm - start_c,
        temperature_c=warm,
        rh_pct=min(100.0, rh),
        ratio_rise=wetter,
        exchange_m3_h=exchange,
        loss_w_k=loss,
    )
