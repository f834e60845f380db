"""Water on a space's coldest surface through the simulated day, and whether mould can begin there."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.climate.days import Simulated
from canopy.evaluate.climate.workings import plain_working
from canopy.margin import Amount, Margin, Step, Verdict, sentence

Array = NDArray[np.float64]
# Mould: where a surface holds its air above this for a day (ISO 13788 asks for 0.8 as a mean of a month).
_MOULD_RH, _MOULD_H = 80.0, 22.0
_DRIPS_H, _DRIPS_G = 6.0, 30.0


def water_margins(found: Simulated, *, wants_damp: bool) -> list[Margin]:
    """Judge water on walls.

    Parameters
    ----------
    found : the simulated days
    wants_damp : what grows there asks for damp air, so that mould can only be lived with

    Returns
    -------
    list of Margin : what condenses, and mould
    """
    traces, rows = found.traces, found.last
    every_h = found.days.every_s / 3600
    gap = traces.dew_c - traces.cold_c
    near_h, condensed, wet_h = float((gap[rows] > -0.5).sum() * every_h), found.condensed_g_d, found.wet_hours
    verdict: Verdict = "good"
    if condensed > _DRIPS_G and wet_h > _DRIPS_H:
        verdict = "over"
    elif wet_h > 0.5 or near_h > 2.0:
        verdict = "tight"
    amounts = {
        "g": Amount(value=condensed, unit="g", decimals=0),
        "h": Amount(value=wet_h, unit="h", decimals=1),
        "near": Amount(value=near_h, unit="h", decimals=1),
        "dew": Amount(value=float(traces.dew_c[rows].max()), unit="temperature"),
        "cold": Amount(value=float(traces.cold_c[rows].min()), unit="temperature"),
    }
    words = {
        "over": "Water runs down the coldest surface day after day: mould, wet floors, and drops on what hangs below.",
        "tight": "The dew point comes close to the coldest surface, or reaches it for a while.",
        "good": "The coldest surface stays clear of the dew point.",
    }
    found_margins = [
        Margin(
            id="climate.condensation",
            station="climate",
            title="Water on walls",
            verdict=verdict,
            mendable=verdict == "over",
            need=sentence("dry walls"),
            there=sentence("{g} a day, wet for {h}" if condensed >= 1 else "none", **amounts),
            why=sentence(words[verdict]),
            working=plain_working(
                "m = g (W − W_s(T_wall)) where positive; a film stays up to 0.12 kg/m², what is beyond runs off",
                Step(symbol="", meaning="condenses in a day", amount=amounts["g"]),
                Step(symbol="", meaning="highest dew point", amount=amounts["dew"]),
                Step(symbol="", meaning="coldest surface", amount=amounts["cold"]),
                Step(symbol="", meaning="hours with both within half a kelvin", amount=amounts["near"]),
            ),
        )
    ]
    damp = _at_surface(traces.dew_c[rows], traces.cold_c[rows])
    mould_h = float((damp > _MOULD_RH).sum() * every_h)
    rh = Amount(value=float(damp.mean()), unit="%", decimals=0)
    hours = Amount(value=mould_h, unit="h", decimals=0)
    mouldy: Verdict = "over" if mould_h >= _MOULD_H and not wants_damp else "tight" if mould_h > 12 else "good"
    said = {
        "over": "Day and night: whatever dust lies there grows mould within weeks.",
        "tight": "For half of the day and more: it dries in between.",
        "good": "Dry enough for long enough.",
    }
    found_margins.append(
        Margin(
            id="climate.mould",
            station="climate",
            title="Mould at the coldest surface",
            verdict=mouldy,
            mendable=mouldy == "over",
            need=sentence("below {rh} there for part of the day", rh=Amount(value=_MOULD_RH, unit="%", decimals=0)),
            there=sentence("{rh} on average, {hours} above it", rh=rh, hours=hours),
            why=sentence(
                "The damp that grows here lets mould begin, too: wipe the coldest panes, and keep the air moving."
                if wants_damp and mould_h >= _MOULD_H
                else said[mouldy]
            ),
            working=plain_working(
                "RH at the surface = p_v / p_sat(T_surface); above 80 % for a day mould can begin (ISO 13788)",
                Step(symbol="", meaning="mean there", amount=rh),
                Step(symbol="", meaning="hours above", amount=hours),
            ),
        )
    )
    return found_margins


def _at_surface(dew_c: Array, surface_c: Array) -> Array:
    """Humidity of air that has taken on a surface's warmth [%]: by dew point and surface alone."""

    # Magnus (Sonntag 1990); the same constants above and below, so that equal temperatures give 100 %.
    def power(t: Array) -> Array:
        return np.asarray(17.62 * t / (243.12 + t))

    return np.asarray(100 * np.exp(np.minimum(power(dew_c) - power(surface_c), 0.0)))
