"""What devices are set to, held against what comes of it: settings that are not reached, and devices that fight."""

from __future__ import annotations

from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.climate.days import Simulated
from canopy.evaluate.climate.devices import setting_of
from canopy.evaluate.climate.flows import controlled, span_of
from canopy.evaluate.climate.losses import loss_and_dry_air
from canopy.evaluate.climate.workings import plain_working
from canopy.margin import Amount, Margin, Sentence, Step, sentence
from canopy.plan.controls import Hygrostat, Thermostat
from canopy.plan.document import Device
from canopy.power import MONTH_DAYS
from canopy.psychrometrics import humidity_ratio
from canopy.season import Standing

Array = NDArray[np.float64]
Rows = NDArray[np.bool_]
# It runs for all but so little of the time and is still further off than its band and a thermometer's doubt [K, %].
_ALL, _OFF_K, _OFF_PCT = 0.97, 0.5, 3.0
# Two devices fight where both ran within the same so many minutes, for more than so many hours a day.
_WITHIN_MIN, _LEAST_H = 20.0, 0.5
# What each kind does to warmth and damp: up or down.
_DOES = {
    "heater": ("warmth", 1),
    "mat": ("warmth", 1),
    "heat-lamp": ("warmth", 1),
    "cooler": ("warmth", -1),
    "humidifier": ("damp", 1),
    "dehumidifier": ("damp", -1),
}


def setting_margins(here: Standing, found: Simulated, price_per_kwh: float, currency: str) -> list[Margin]:
    """Judge settings by what comes of them.

    Parameters
    ----------
    here : the space on a day
    found : its simulated days
    price_per_kwh : tariff [currency/kWh]
    currency : such as "EUR"

    Returns
    -------
    list of Margin : one for each device whose setting is out of its reach, one for each pair that fights
    """
    margins = []
    for device in here.space.devices:
        setting = setting_of(device, here.plants).control
        if isinstance(setting, Thermostat):
            margins += _warmth(here, found, device, setting)
        elif isinstance(setting, Hygrostat):
            margins += _damp(here, found, device, setting)
    return [*margins, *_fights(here, found, price_per_kwh, currency)]


def _halves(found: Simulated) -> list[tuple[str, Rows]]:
    return [(name, rows) for name, rows in (("day", found.lit), ("night", found.dark)) if rows.any()]


def _warmth(here: Standing, found: Simulated, device: Device, setting: Thermostat) -> list[Margin]:
    trace = {"air": "air_c", "root": "root_c", "leaf": "leaf_c"}[setting.senses]
    below, ran = device.spec.kind != "cooler", found.ran(device.id)
    if ran is None:
        return []
    for name, rows in _halves(found):
        wanted = setting.day_c if name == "day" else setting.night_c
        mean = float(getattr(found.traces, trace)[rows].mean())
        off = (wanted - mean) if below else (mean - wanted)
        if ran[rows].mean() < _ALL or off <= setting.band_k / 2 + _OFF_K:
            continue
        loss, _ = loss_and_dry_air(found, rows)
        more = off * loss if setting.senses != "root" else device.spec.power_w * off / max(mean - _beyond(here), 1.0)
        amounts = {
            "set": Amount(value=wanted, unit="temperature"),
            "mean": Amount(value=mean, unit="temperature"),
            "more": Amount(value=1.25 * max(more, 1.0), unit="power", decimals=0),
            "loss": Amount(value=loss, unit="W/K", decimals=1),
        }
        what = "about {more} more" if setting.senses != "root" else "about {more} more under the roots"
        why = f"It runs without a break by {name} and does not get there: it would take {what}"
        why += (
            ", or less air moved and thicker walls." if below else " of heat taken, or the lamps dimmed, or more air."
        )
        return [
            _unreached(
                device,
                sentence(f"{{set}} by {name}", **amounts),
                sentence("{mean}", **amounts),
                sentence(why, **amounts),
                Step(symbol="", meaning="walls and air pass", amount=amounts["loss"]),
                "ΔP = 1.25 (UA + ρ Q c_p) (T_set − T_mean)",
            )
        ]
    return []


def _beyond(here: Standing) -> float:
    return min(here.around.air.day_c, here.around.air.night_c)


def _damp(here: Standing, found: Simulated, device: Device, setting: Hygrostat) -> list[Margin]:
    ran, wetter = found.ran(device.id), device.spec.kind == "humidifier"
    if ran is None:
        return []
    for name, rows in _halves(found):
        wanted = setting.day_rh_pct if name == "day" else setting.night_rh_pct
        mean, warm = float(found.traces.rh_pct[rows].mean()), float(found.traces.air_c[rows].mean())
        off = (wanted - mean) if wetter else (mean - wanted)
        if ran[rows].mean() < _ALL or off <= setting.band_pct / 2 + _OFF_PCT:
            continue
        _, moved = loss_and_dry_air(found, rows)
        altitude = here.around.altitude_m
        gap = abs(humidity_ratio(warm, wanted, altitude) - humidity_ratio(warm, mean, altitude))
        grams = moved * gap * 3.6e6
        amounts = {
            "set": Amount(value=wanted, unit="%", decimals=0),
            "mean": Amount(value=mean, unit="%", decimals=0),
            "g": Amount(value=grams, unit="g/h", decimals=0),
            "l": Amount(value=grams * 24 / 1000, unit="L/d", decimals=1),
        }
        more = "{g} more" if wetter else "{l} more"
        less = "or less air moved." if wetter else "or more air from a drier room."
        why = f"It runs without a break by {name} and does not get there: it would take about {more}, {less}"
        return [
            _unreached(
                device,
                sentence(f"{{set}} by {name}", **amounts),
                sentence("{mean}", **amounts),
                sentence(why, **amounts),
                Step(symbol="", meaning="water that the air carries in or out for the difference", amount=amounts["g"]),
                "Δm = ρ Q (W_set − W_mean)",
            )
        ]
    return []


def _unreached(device: Device, need: Sentence, there: Sentence, why: Sentence, step: Step, formula: str) -> Margin:
    above = device.spec.kind in ("cooler", "dehumidifier")
    return Margin(
        id=f"climate.setting.{device.id}",
        station="climate",
        title=f"Setting: {device.spec.name}",
        verdict="over" if above else "short",
        need=need,
        there=there,
        why=why,
        parts=(device.id,),
        mendable=True,
        working=plain_working(f"{formula}, on the third of three days alike", step),
    )


def _fights(here: Standing, found: Simulated, price_per_kwh: float, currency: str) -> list[Margin]:
    """Pairs that push against each other: devices, and what the controlled fan moves beyond what it is set to."""
    margins = []
    acting = [
        (device, *_DOES[device.spec.kind], ran)
        for device in here.space.devices
        if device.spec.kind in _DOES and (ran := found.ran(device.id)) is not None
    ]
    every_h = found.days.every_s / 3600
    for (one, what, way, ran), (two, other, against, ran_too) in combinations(acting, 2):
        if what != other or way == against:
            continue
        both = _together(ran[found.last], ran_too[found.last], every_h)
        up, down = (one, two) if way > 0 else (two, one)
        up_ran = ran if way > 0 else ran_too
        margins += _fight(found, up, down.spec.name, f"{up.id}.{down.id}", both, up_ran, price_per_kwh, currency)
    fan = _beyond_set(here, found)
    if fan is not None:
        for device, _, way, ran in acting:
            if way > 0 and device.spec.kind != "mat":
                both = _together(ran[found.last], fan[found.last], every_h)
                name = "the fan's controller"
                margins += _fight(found, device, name, f"{device.id}.fan", both, ran, price_per_kwh, currency)
    return margins


def _together(one: Array, two: Array, every_h: float) -> Rows:
    """Which intervals have both running within the same minutes."""
    near = max(1, round(_WITHIN_MIN / 60 / every_h))
    window = np.ones(near)

    def wide(values: Array) -> Rows:
        return np.asarray(np.convolve((values > 0.02).astype(float), window, mode="same") > 0.5)

    return np.asarray(wide(one) & wide(two))


def _beyond_set(here: Standing, found: Simulated) -> Array | None:
    """How far the controlled fan runs beyond the speed that is set, 0..1 of its span; None without one."""
    turned = controlled(here.space)
    if turned is None:
        return None
    least, planned, most = span_of(*turned)
    if most <= least:
        return None
    level = np.asarray(found.days.levels[:, found.days.place(found.space_id)], dtype=np.float64)
    return np.maximum(0.0, level - (planned - least) / (most - least) - 0.05)


def _fight(
    found: Simulated,
    up: Device,
    against: str,
    key: str,
    both: Rows,
    up_ran: Array,
    price_per_kwh: float,
    currency: str,
) -> list[Margin]:
    hours = float(both.sum() * found.days.every_s / 3600)
    if hours < _LEAST_H:
        return []
    kwh = float((up_ran[found.last] * both).sum() * found.days.every_s / 3600) * up.spec.power_w / 1000
    grams = float((up_ran[found.last] * both).sum() * found.days.every_s / 3600) * up.spec.gives_g_h
    amounts = {
        "hours": Amount(value=hours, unit="h", decimals=1),
        "kwh": Amount(value=kwh, unit="kWh", decimals=2),
        "cost": Amount(value=kwh * MONTH_DAYS * price_per_kwh, unit=currency, decimals=2),
        "litres": Amount(value=grams / 1000, unit="L", decimals=1),
    }
    costs = "{kwh} a day, {cost} a month" if grams <= 0 else "{litres} of water and {kwh} a day, {cost} a month"
    return [
        Margin(
            id=f"climate.fight.{key}",
            station="climate",
            title=f"{up.spec.name} against {against}",
            verdict="tight",
            need=sentence("one at a time"),
            there=sentence("both for {hours} of 24 h", **amounts),
            why=sentence(
                f"What one does the other undoes: it costs up to {costs}. Set them further apart than their bands.",
                **amounts,
            ),
            parts=(up.id,),
            working=plain_working(
                "both ran within the same 20 minutes, on the third of three days alike",
                Step(symbol="", meaning="hours with both", amount=amounts["hours"]),
                Step(symbol="", meaning=f"energy of {up.spec.name} meanwhile", amount=amounts["kwh"]),
            ),
        )
    ]
