"""Air exchange from CO2 that was let up and falls again, plants out or lamps off."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.errors import QuantityError

Floats = NDArray[np.float64]
Seconds = NDArray[np.int64]
# Over the room at the beginning, and how much of that must fall [ppm]; readings at least.
_LEAST_PPM, _LEAST_FALL, _LEAST_POINTS = 150.0, 0.4, 6
# Air that is not mixed, and a meter that follows late.
_MODEL = 0.05


@dataclass(frozen=True, kw_only=True)
class Decay:
    """Air that comes in [m³/h], with its standard error; or why nothing can be told."""

    why_not: str = ""
    flow_m3_h: float | None = None
    off_m3_h: float | None = None
    from_ppm: float = 0.0
    to_ppm: float = 0.0
    minutes: float = 0.0


def decay(at: Seconds, ppm: Floats, room_ppm: float | None, volume_m3: float) -> Decay:
    """Read the air exchange off a fall of CO2.

    Parameters
    ----------
    at : seconds, rising, shape (n,)
    ppm : what the meter showed, shape (n,) [ppm]
    room_ppm : the room's; fitted as well when None [ppm]
    volume_m3 : air of the space [m³]

    Returns
    -------
    Decay : Q = V/(t2 − t1) ln((C1 − Cr)/(C2 − Cr)), fitted through all readings (tracer dilution, ASTM E741, 2011)

    Raises
    ------
    QuantityError : series of unlike length, or no volume
    """
    from scipy.optimize import least_squares

    if len(at) != len(ppm) or volume_m3 <= 0:
        raise QuantityError("as many moments as readings, and a space with a volume")
    if len(at) < _LEAST_POINTS:
        return Decay(why_not=f"at least {_LEAST_POINTS} readings are needed while it falls")
    high, low = float(ppm[:2].mean()), float(ppm[-2:].mean())
    base = min(room_ppm if room_ppm is not None else 430.0, low - 1.0)
    if high - base < _LEAST_PPM:
        return Decay(why_not=f"it began {high - base:.0f} ppm over the room: let it up to {_LEAST_PPM:.0f} ppm or more")
    if high - low < _LEAST_FALL * (high - base):
        return Decay(why_not="it hardly fell: wait longer, or something gives CO₂ off")
    hours = (at - at[0]) / 3600
    rate = float(np.log((high - base) / max(low - base, 1.0)) / max(hours[-1], 1e-6))
    held = 25.0 if room_ppm is not None else 60.0

    def left(x: Floats) -> Floats:
        told = x[2] + (x[1] - x[2]) * np.exp(-np.exp(x[0]) * hours)
        return np.append((ppm - told) / 12.0, (x[2] - base) / held)

    solved = least_squares(left, np.array([np.log(rate), high, base]), loss="soft_l1")
    size = max(1.0, float((solved.fun[:-1] ** 2).mean()))
    covariance = np.linalg.pinv(solved.jac.T @ solved.jac) * size
    flow = volume_m3 * float(np.exp(solved.x[0]))
    spread = float(np.hypot(np.sqrt(covariance[0, 0]), _MODEL))
    if spread > 0.4:
        return Decay(why_not="the readings scatter too much to tell it", from_ppm=high, to_ppm=low)
    return Decay(flow_m3_h=flow, off_m3_h=flow * spread, from_ppm=high, to_ppm=low, minutes=float(hours[-1]) * 60)


def falls(at: Seconds, ppm: Floats, still: NDArray[np.bool_]) -> tuple[slice, ...]:
    """Find stretches in which CO2 falls by itself, in the dark or with the plants out.

    Parameters
    ----------
    at : seconds, rising, shape (n,)
    ppm : what the meter showed, shape (n,)
    still : where nothing gives or takes it, shape (n,)

    Returns
    -------
    tuple of slice : long and deep enough to be read
    """
    found, begin = [], None
    smooth = np.convolve(np.pad(ppm, 1, mode="edge"), np.ones(3) / 3, mode="valid") if len(ppm) > 2 else ppm
    for number in range(1, len(at) + 1):
        goes_on = number < len(at) and still[number] and smooth[number] < smooth[number - 1] + 4
        if goes_on and begin is None:
            begin = number - 1
        elif not goes_on and begin is not None:
            if number - begin >= _LEAST_POINTS and ppm[begin] - ppm[number - 1] > _LEAST_PPM * 0.6:
                found.append(slice(begin, number))
            begin = None
    return tuple(found)
