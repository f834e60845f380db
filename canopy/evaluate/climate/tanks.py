"""Tanks and buckets: how many days pass between one filling and the next."""

from __future__ import annotations

from canopy.climate.columns import DESICCANT, PELTIER, REFRIGERANT
from canopy.climate.switching import dryer_share
from canopy.evaluate.climate.days import Simulated
from canopy.evaluate.climate.workings import plain_working
from canopy.margin import Amount, Margin, Step, Verdict, sentence
from canopy.plan.document import Device
from canopy.season import Standing

_DRYERS = {"refrigerant": REFRIGERANT, "desiccant": DESICCANT, "peltier": PELTIER}
# Somebody looks in once a day: what lasts less has to be filled more often than that.
_DAILY = 1.0
_EVERY_OTHER_DAY = 2.0


def water_l_d(device: Device, found: Simulated) -> float | None:
    """Give the water that a device gives or takes on the last day.

    Parameters
    ----------
    device : a humidifier or dehumidifier
    found : the simulated days

    Returns
    -------
    float : [L]; None for any other device, and for wet pads, whose output the air decides
    """
    ran = found.ran(device.id)
    if ran is None or (device.spec.kind == "humidifier" and device.spec.mist == "evaporative"):
        return None
    rows = found.last
    if device.spec.kind == "humidifier":
        return float(ran[rows].mean()) * device.spec.gives_g_h * 24 / 1000
    if device.spec.kind != "dehumidifier":
        return None
    kind, traces = _DRYERS[device.spec.drying], found.traces
    share = [
        float(on) * float(dryer_share(kind, float(t), float(rh)))  # type: ignore[no-untyped-call]
        for on, t, rh in zip(ran[rows], traces.air_c[rows], traces.rh_pct[rows], strict=True)
    ]
    return float(device.spec.takes_l_d * sum(share) / max(len(share), 1))


def tank_margins(here: Standing, found: Simulated) -> list[Margin]:
    """Judge how often tanks have to be filled and buckets emptied.

    Parameters
    ----------
    here : the space on a day
    found : its simulated days

    Returns
    -------
    list of Margin : one for each device with a tank that was used
    """
    return [
        _lasts(device, litres)
        for device in here.space.devices
        if device.spec.tank_l is not None and (litres := water_l_d(device, found)) is not None and litres > 0.005
    ]


def _lasts(device: Device, litres: float) -> Margin:
    tank = device.spec.tank_l or 0.0
    days = tank / litres
    fills = device.spec.kind == "humidifier"
    verdict: Verdict = "short" if days < _DAILY else "tight" if days < _EVERY_OTHER_DAY else "good"
    amounts = {
        "days": Amount(value=days, unit="days", decimals=1),
        "hours": Amount(value=24 * days, unit="h", decimals=0),
        "day": Amount(value=_DAILY, unit="day", decimals=0),
        "tank": Amount(value=tank, unit="L", decimals=1),
        "litres": Amount(value=litres, unit="L/d", decimals=1),
    }
    act = "filled" if fills else "emptied"
    words = {
        "short": f"It has to be {act} more than once a day; after that it does nothing until somebody comes.",
        "tight": f"It has to be {act} every day.",
        "good": f"It has to be {act} so often.",
    }
    return Margin(
        id=f"climate.tank.{device.id}",
        station="climate",
        title=f"{'Tank' if fills else 'Bucket'}: {device.spec.name}",
        verdict=verdict,
        need=sentence("at least {day}", **amounts),
        there=sentence("{days}" if days >= 1 else "{hours}", **amounts),
        why=sentence(words[verdict]),
        parts=(device.id,),
        mendable=verdict == "short",
        working=plain_working(
            "days = tank / water in a day, by how far it ran on the third of three days alike",
            Step(symbol="", meaning="tank" if fills else "bucket", amount=amounts["tank"]),
            Step(symbol="", meaning="gives" if fills else "takes", amount=amounts["litres"]),
        ),
    )
