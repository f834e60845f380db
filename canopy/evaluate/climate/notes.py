"""The steady temperature and humidity, for information: what the plants here would feel, roughly."""

from __future__ import annotations

from canopy.air import envelope_w_k
from canopy.evaluate.air.breathing import Breathing, Half
from canopy.evaluate.air.steady import SteadyAir
from canopy.margin import Amount, Margin, Sentence, Step, Working, sentence
from canopy.plan.document import Space
from canopy.psychrometrics import HEAT_OF_EVAPORATION_J_KG
from canopy.season import Standing

_ROUGH_K = 2.0
_FAR_TOO_HOT = (
    "Far too hot: the balance ends at {t} or beyond, where it is not followed further. Nothing grows there, and it can "
    "set fire: fewer or smaller lamps, or much more air, before anything is switched on."
)


def climate_notes(here: Standing, breathing: Breathing) -> list[Margin]:
    """Say what the air is likely to be by day and by night, and whether the crops here like it.

    Parameters
    ----------
    here : the space on a day
    breathing : its computed air

    Returns
    -------
    list of Margin : two, for information; a steady balance is too rough to judge by. Air beyond what it follows is
        judged: it is over
    """
    return [_note(here, breathing.lit, day=True), _note(here, breathing.dark, day=False)]


_OVERHEATS = (
    "A closed space this hot harms who reaches in, melts fans and cords, and can start a fire. Leave its lamps off "
    "until the air carries their heat away, and give heat a cut-out that needs no program."
)


def _note(here: Standing, half: Half, *, day: bool) -> Margin:
    space, air = here.space, half.steady
    amounts = {
        "t": Amount(value=air.temperature_c, unit="temperature"),
        "rh": Amount(value=air.rh_pct, unit="%", decimals=0),
        "vpd": Amount(value=air.vpd_kpa, unit="kPa", decimals=1),
    }
    room, intake = half.around.temperature_c, half.intake.temperature_c
    apart = (
        (Step(symbol="in", meaning="air that comes in", amount=Amount(value=intake, unit="temperature")),)
        if abs(intake - room) > 0.05
        else ()
    )
    cooling = HEAT_OF_EVAPORATION_J_KG * air.vapour_kg_s
    when = "day" if day else "night"
    return Margin(
        id=f"air.climate-{when}",
        station="air",
        title=f"Air by {when}, about",
        verdict="over" if air.bounded else "good",
        information=not air.bounded,
        said="overheats" if air.bounded else "",
        danger=_OVERHEATS if air.bounded else "",
        need=sentence("less than {t}", **amounts) if air.bounded else sentence("for information"),
        there=sentence("{t} or more", **amounts) if air.bounded else sentence("{t}, {rh}, {vpd}", **amounts),
        why=sentence(_FAR_TOO_HOT, **amounts) if air.bounded else _with_devices(space, _why(here, air, day=day)),
        working=Working(
            formula=(
                "T = (UA·room + ρ c Q·in + P − λE)/(UA + ρ c Q), W = in + E/(ρ Q), E answering to both; VPD = "
                "p sat(T)·(1 − RH)"
            ),
            steps=(
                Step(symbol="room", meaning=f"by {when}", amount=Amount(value=room, unit="temperature")),
                *apart,
                Step(symbol="P", meaning="heat inside", amount=Amount(value=air.heat_w, unit="power")),
                Step(
                    symbol="E",
                    meaning="water given off by the leaves",
                    amount=Amount(value=air.vapour_kg_s * 3.6e6, unit="water rate"),
                ),
                Step(symbol="λE", meaning="heat that water takes up", amount=Amount(value=cooling, unit="power")),
                Step(symbol="UA", meaning="walls and top", amount=Amount(value=envelope_w_k(space), unit="heat loss")),
                Step(symbol="Q", meaning="air moved", amount=Amount(value=air.flow_m3_h, unit="airflow")),
                Step(symbol="T", meaning="air inside", amount=amounts["t"]),
                Step(symbol="RH", meaning="humidity inside", amount=amounts["rh"]),
                Step(symbol="VPD", meaning="of the air", amount=amounts["vpd"]),
            ),
            source="Energy and water balance; transpiration after Stanghellini (1987); ISO 6946 for the walls",
            certainty=(
                "Rough: ±2 K and ±10 points of humidity. Heaters, mats, humidifiers and dehumidifiers, wet pots and "
                "slow warming are not in it."
            ),
        ),
    )


def _with_devices(space: Space, why: Sentence) -> Sentence:
    """Say which devices the balance leaves out."""
    left = [device.spec for device in space.devices if device.spec.on_demand and device.spec.power_w > 0]
    if not left:
        return why
    names = ", ".join(f"{spec.name} ({{d{n}}})" for n, spec in enumerate(left))
    verb = "is" if len(left) == 1 else "are"
    more = {f"d{n}": Amount(value=spec.power_w, unit="power") for n, spec in enumerate(left)}
    text = f"{why.text} {names} {verb} not counted in this yet: what runs by a thermostat or humidistat is not."
    return sentence(text, **dict(why.amounts), **more)


def _why(here: Standing, air: SteadyAir, *, day: bool) -> Sentence:
    windows = [plant.want.air_day_c if day else plant.want.air_night_c for plant in here.plants]
    if not windows:
        return sentence("Nothing grows here yet to hold it against.")
    low, high = max(window.low for window in windows), min(window.high for window in windows)
    amounts = {"low": Amount(value=low, unit="temperature"), "high": Amount(value=high, unit="temperature")}
    if low > high:
        return sentence(
            "The crops here share no temperature: one wants at least {low}, another at most {high}.", **amounts
        )
    if air.temperature_c < low - _ROUGH_K:
        return sentence("Likely too cold: the crops here want {low} to {high}.", **amounts)
    if air.temperature_c > high + _ROUGH_K:
        return sentence("Likely too warm: the crops here want {low} to {high}.", **amounts)
    if low <= air.temperature_c <= high:
        return sentence("Inside what the crops here want, {low} to {high}.", **amounts)
    return sentence("Near the edge of what the crops here want, {low} to {high}.", **amounts)
