"""The margin of the room around: what the space's heat and water make of it, and how damp its walls bear it."""

from __future__ import annotations

from canopy.air.room_balance import RoomLoad
from canopy.evaluate.air.amounts import flow
from canopy.evaluate.air.breathing import Breathing, Half
from canopy.margin import Amount, Margin, Step, Verdict, Working, sentence
from canopy.plan.rooms import Around
from canopy.psychrometrics import saturation_pa

_ROOM_RISE_K, _ROOM_RISE_MOST_K, _ROOM_RH_PCT, _ROOM_RH_MOST_PCT = 2.0, 4.0, 65.0, 70.0
# Mould grows where the air at a surface is over 80 % for days; a middling outer wall's temperature factor (ISO 13788).
_MOULD_RH_PCT, _WALL_SHARE = 80.0, 0.7


def wall_bears_rh_pct(around: Around, room_c: float) -> float:
    """Give how damp a room may be before its outer walls grow mould.

    Parameters
    ----------
    around : the room, with the air outdoors where it is known
    room_c : its air [°C]

    Returns
    -------
    float : at most 70 %; less where it is cold outdoors: the humidity that makes 80 % on the inside of a middling outer
        wall, whose surface has 0.7 of the difference (ISO 13788) [%]
    """
    if around.outdoors is None:
        return _ROOM_RH_MOST_PCT
    outdoors_c = sum(around.outdoors.temperature_c) / len(around.outdoors.temperature_c)
    wall_c = min(room_c, outdoors_c + _WALL_SHARE * (room_c - outdoors_c))
    return min(_ROOM_RH_MOST_PCT, _MOULD_RH_PCT * saturation_pa(wall_c) / saturation_pa(room_c))


def room_margins(around: Around, breathing: Breathing) -> list[Margin]:
    """Judge what a space makes of the room around it.

    Parameters
    ----------
    around : the room on the day
    breathing : the space's computed air

    Returns
    -------
    list of Margin : none for a room that is taken as large
    """
    load = breathing.lit.room
    if load is None:
        return []
    worst: Verdict = "good"
    most_rh = wall_bears_rh_pct(around, load.temperature_c)
    if load.rise_k > _ROOM_RISE_K or load.rh_pct > most_rh - _ROOM_RH_MOST_PCT + _ROOM_RH_PCT:
        worst = "tight"
    if load.rise_k > _ROOM_RISE_MOST_K or load.rh_pct > most_rh:
        worst = "over"
    amounts = {
        "k": Amount(value=load.rise_k, unit="temperature rise"),
        "t": Amount(value=load.temperature_c, unit="temperature"),
        "rh": Amount(value=load.rh_pct, unit="%", decimals=0),
        "q": flow(load.exchange_m3_h),
    }
    words = {
        "good": "The room takes it: {t} and {rh} while the lamps are on.",
        "tight": (
            "The room warms by {k} to {t}, at {rh}: the space breathes that air in again. Keep a door or window ajar."
        ),
        "over": (
            "The room's own {q} of exchange cannot take it: it comes to {t} and {rh}, and the space breathes "
            "that in again. Lead the exhaust outdoors, open the room, or dehumidify it."
        ),
    }
    return [
        Margin(
            id="air.room",
            station="air",
            title="The room around",
            verdict=worst,
            need=sentence(
                "at most {k} warmer, {rh}",
                k=Amount(value=_ROOM_RISE_MOST_K, unit="temperature rise"),
                rh=Amount(value=most_rh, unit="%", decimals=0),
            ),
            there=sentence("{k} warmer, {rh}", **amounts),
            why=sentence(words[worst], **amounts),
            working=_room_working(breathing.lit, load, amounts),
        )
    ]


def _room_working(half: Half, load: RoomLoad, amounts: dict[str, Amount]) -> Working:
    return Working(
        formula="ΔT = P/(UA + ρ c Q), ΔW = E/(ρ Q), Q the room's own exchange",
        steps=(
            Step(symbol="P", meaning="heat inside the space", amount=Amount(value=half.needs.heat_w, unit="power")),
            Step(
                symbol="E",
                meaning="water given off by the leaves",
                amount=Amount(value=half.needs.vapour_kg_s * 3.6e6, unit="water rate"),
            ),
            Step(symbol="Q", meaning="the room's own exchange of air", amount=amounts["q"]),
            Step(
                symbol="UA",
                meaning="the room to the rest of the home and outdoors",
                amount=Amount(value=load.loss_w_k, unit="heat loss"),
            ),
            Step(symbol="ΔT", meaning="the room gets warmer by", amount=amounts["k"]),
            Step(symbol="RH", meaning="the room comes to", amount=amounts["rh"]),
        ),
        source="Steady balance of heat and water; 3 W/K per m² of floor where nothing was typed",
        certainty="±40 %: furniture, open doors and heating that turns itself down are not in it.",
    )
