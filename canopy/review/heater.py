"""The test with an empty space: a metered fan heater, the fan off for hours and then on, room and space measured."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from canopy.errors import QuantityError
from canopy.psychrometrics import HEAT_CAPACITY_J_KGK

Floats = NDArray[np.float64]
# Warmer than the room by so many times the scatter of the readings, or nothing can be told.
_TIMES_NOISE = 5.0
# At least so long off and on [min], and so much difference between the two at all [K].
OFF_MIN, ON_MIN, _LEAST_K = 60.0, 30.0, 0.5
# What the fit does not see: walls that are not one sheet, air that is not mixed (empty and dry; with pots in it).
_MODEL_EMPTY, _MODEL_FILLED = 0.03, 0.07
# Errors of a fit last: readings within so long count as one [min].
_COUNTS_ONCE_MIN = 15.0
_BELIEFS = {"c_air": 3.0, "c_side": 3.0, "g_side": 3.0, "shift": 0.15}


@dataclass(frozen=True, kw_only=True, eq=False)
class HeaterTest:
    """What was measured, each shape (n,), one step apart: air inside and of the room [°C], the heater's power [W], for
    how much of the step the fan ran. ``emptied`` is False where pots or plants stayed in it.
    """

    step_s: float
    air_c: Floats
    room_c: Floats
    power_w: Floats
    fan: Floats
    density_kg_m3: float = 1.19
    emptied: bool = True


@dataclass(frozen=True, kw_only=True)
class HeaterResult:
    """What the fan moves [m³/h] and what walls and seams pass with the fan off [W/K], each with its standard error; the
    simpler ways to the same (steady, integral), for comparison; or why nothing can be told.
    """

    why_not: str = ""
    flow_m3_h: float | None = None
    flow_off: float | None = None
    loss_w_k: float | None = None
    loss_off: float | None = None
    steady_flow_m3_h: float | None = None
    integral_flow_m3_h: float | None = None
    left_k: float = 0.0
    ratio: float | None = None


def stage(test: HeaterTest) -> tuple[Literal["warming", "off enough", "on", "enough"], float]:
    """Say how far a test is.

    Parameters
    ----------
    test : what was measured so far

    Returns
    -------
    (str, float) : warming with the fan off; off for long enough, so that the fan may be switched on; on; enough. And
        how far that stage has come, 0..1

    Notes
    -----
    Off is enough after five time constants or three hours: when the air rose by less than a fiftieth of all its rise
    within the last twenty minutes; on is enough after two hours or as settled.
    """
    on, minutes = test.fan > 0.5, test.step_s / 60
    if not len(on) or on.all():
        return "warming", 0.0
    first_off = int(np.argmax(~on))
    back_on = np.flatnonzero(on[first_off:])
    if not len(back_on):
        off_min = (len(on) - first_off) * minutes
        share = _settled(test.air_c[first_off:], test.room_c[first_off:], minutes, off_min, 180.0)
        done = share >= 1 and off_min >= OFF_MIN
        return ("off enough", 1.0) if done else ("warming", min(share, off_min / OFF_MIN))
    begin = first_off + int(back_on[0])
    on_min = (len(on) - begin) * minutes
    share = _settled(test.air_c[begin:], test.room_c[begin:], minutes, on_min, 120.0)
    return ("enough", 1.0) if share >= 1 and on_min >= ON_MIN else ("on", min(share, on_min / ON_MIN))


def _settled(air: Floats, room: Floats, minutes: float, so_far: float, most: float) -> float:
    """How far a stretch is towards a steady state, 0..1."""
    if so_far >= most or not len(air):
        return min(1.0, so_far / most)
    rise = air - room
    back = max(1, round(20 / minutes))
    if len(rise) <= 2 * back:
        return min(0.9, so_far / most)
    whole = float(np.ptp(rise))
    moved = abs(float(np.mean(rise[-back // 2 :]) - np.mean(rise[-back - back // 2 : -back])))
    return 1.0 if moved < max(whole / 50, 0.03) else min(0.95, max(so_far / most, 1 - moved / max(whole, 0.1)))


def heater_test(test: HeaterTest) -> HeaterResult:
    """Work out what a fan moves and walls pass from a test with a heater.

    Parameters
    ----------
    test : fan off first, then on; gaps are NaN

    Returns
    -------
    HeaterResult : or why nothing can be told

    Raises
    ------
    QuantityError : series of unlike length

    Notes
    -----
    Steady: UA = P/ΔT_off, Q = (P/ΔT_on − UA)/(ρ c). Integral least squares: T(t) on ∫P, −∫ΔT, −∫s ΔT and 1. Fit: air
    and a side mass with exact steps, ln UA, ln Q, ln C1, ln C2, ln G2, where both begin and what the thermometers
    differ by, under a soft L1 loss with weak log-normal beliefs on the masses; without these it has no single answer
    (physics/air-climate D). Two-node models of walls as ISO 13790:2008 has them.
    """
    if len({len(test.air_c), len(test.room_c), len(test.power_w), len(test.fan)}) != 1:
        raise QuantityError("air, room, power and fan must be measured at the same moments")
    why = _cannot(test)
    if why:
        return HeaterResult(why_not=why, ratio=_ratio(test))
    steady = _steady(test)
    integral = _integral(test)
    x, spread, left = _fitted(test, integral or steady)
    rho_c = test.density_kg_m3 * HEAT_CAPACITY_J_KGK
    loss, flow = float(np.exp(x[0])), float(np.exp(x[1])) * 3600 / rho_c
    model = _MODEL_EMPTY if test.emptied else _MODEL_FILLED
    return HeaterResult(
        flow_m3_h=flow,
        flow_off=flow * float(np.hypot(spread[1], model)),
        loss_w_k=loss,
        loss_off=loss * float(np.hypot(spread[0], model)),
        steady_flow_m3_h=steady[1] * 3600 / rho_c,
        integral_flow_m3_h=None if integral is None else integral[1] * 3600 / rho_c,
        left_k=left,
    )


def _fine(test: HeaterTest) -> NDArray[np.bool_]:
    rows = np.array([test.air_c, test.room_c, test.power_w, test.fan])
    return np.asarray(np.isfinite(rows).all(axis=0))


def _cannot(test: HeaterTest) -> str:
    fine, minutes = _fine(test), test.step_s / 60
    on = fine & (test.fan > 0.9)
    off = fine & (test.fan < 0.1)
    if on.sum() * minutes < ON_MIN and off.sum() * minutes < OFF_MIN:
        return "there is too little of it: the fan off for at least an hour, then on for at least half an hour"
    if off.sum() * minutes < OFF_MIN:
        return "not identifiable: the fan never stopped for an hour"
    if on.sum() * minutes < ON_MIN:
        return "not identifiable: the fan was never on for half an hour"
    if float(np.nanmax(test.power_w)) < 5:
        return "not identifiable: nobody knows what the heater gave; its power must be metered"
    warm_off, warm_on = _ends(test)
    noise = float(np.median(np.abs(np.diff(test.air_c[fine])))) / 0.95 + 0.02
    if warm_on < max(_LEAST_K, _TIMES_NOISE * noise) or warm_off - warm_on < max(_LEAST_K, _TIMES_NOISE * noise):
        return (
            f"not identifiable: {warm_off:.1f} K over the room with the fan off and {warm_on:.1f} K with it on is too "
            "little beside what the thermometers scatter; use a stronger heater"
        )
    return ""


def _ends(test: HeaterTest) -> tuple[float, float]:
    """How much warmer than the room it is at the end of the time off, and of the time on [K]."""
    fine, back = _fine(test), max(1, round(1200 / test.step_s))
    rise = test.air_c - test.room_c
    off, on = np.flatnonzero(fine & (test.fan < 0.1)), np.flatnonzero(fine & (test.fan > 0.9))
    on = on[on > off[0]] if len(off) else on
    if not len(off) or not len(on):
        return 0.0, 0.0
    return float(np.mean(rise[off[-back:]])), float(np.mean(rise[on[-back:]]))


def _ratio(test: HeaterTest) -> float | None:
    """What is known without the power: ρ c Q/UA = ΔT_off/ΔT_on − 1."""
    warm_off, warm_on = _ends(test)
    return warm_off / warm_on - 1 if warm_on > _LEAST_K and warm_off > warm_on else None


def _power_at(test: HeaterTest, which: NDArray[np.bool_]) -> float:
    return float(np.mean(test.power_w[np.flatnonzero(which)[-max(1, round(1200 / test.step_s)) :]]))


def _steady(test: HeaterTest) -> tuple[float, float]:
    """UA, and ρ c Q [W/K], from the ends of both stretches."""
    fine = _fine(test)
    warm_off, warm_on = _ends(test)
    loss = _power_at(test, fine & (test.fan < 0.1)) / warm_off
    return loss, max(0.05 * loss, _power_at(test, fine & (test.fan > 0.9)) / warm_on - loss)


def _integral(test: HeaterTest) -> tuple[float, float] | None:
    """The same from integrals, without any derivative of what is noisy; None where that gives no sense."""
    fine = _fine(test)
    air, room, power, fan = (np.where(fine, row, 0.0) for row in (test.air_c, test.room_c, test.power_w, test.fan))

    def over(row: Floats) -> Floats:
        steps = np.where(fine, row, 0.0) * test.step_s
        return np.asarray(np.cumsum(steps) - 0.5 * steps)

    table = np.array([over(power), -over(air - room), -over(fan * (air - room)), np.ones(len(air))]).T[fine]
    found, *_ = np.linalg.lstsq(table, test.air_c[fine], rcond=None)
    if found[0] <= 0 or found[1] <= 0 or found[2] <= 0:
        return None
    return float(found[1] / found[0]), float(found[2] / found[0])


def _fitted(test: HeaterTest, seed: tuple[float, float]) -> tuple[Floats, Floats, float]:
    from scipy.optimize import least_squares

    fine = _fine(test)
    first = float(test.air_c[fine][0])
    masses = np.log([4000.0, 15_000.0, 15.0])
    begin = np.array([np.log(seed[0]), np.log(seed[1]), *masses, first, first, 0.0])
    noise = max(0.05, float(np.median(np.abs(np.diff(test.air_c[fine])))) / 0.95)
    weight = 1 / (noise * np.sqrt(max(1.0, _COUNTS_ONCE_MIN * 60 / test.step_s)))
    held = np.array([_BELIEFS["c_air"], _BELIEFS["c_side"], _BELIEFS["g_side"]])

    def left(x: Floats) -> Floats:
        told = _followed(test, x)
        rows = np.where(fine, (test.air_c - told) * weight, 0.0)
        beliefs = np.concatenate([(x[2:5] - begin[2:5]) / held, [x[7] / _BELIEFS["shift"]]])
        return np.concatenate([rows, beliefs])

    solved = least_squares(left, begin, loss="soft_l1", x_scale=np.array([0.2, 0.2, 1, 1, 1, 0.5, 0.5, 0.1]))
    rows = solved.fun[: len(test.air_c)]
    count = max(1.0, fine.sum() * test.step_s / 60 / _COUNTS_ONCE_MIN)
    size = max(1.0, float((rows**2).sum() * max(1.0, _COUNTS_ONCE_MIN * 60 / test.step_s) / count / 15))
    covariance = np.linalg.pinv(solved.jac.T @ solved.jac) * size
    apart = test.air_c - _followed(test, solved.x)
    return solved.x, np.sqrt(np.diag(covariance)), float(np.sqrt(np.nanmean(apart**2)))


def _followed(test: HeaterTest, x: Floats) -> Floats:
    """Air and a side mass, step by step exactly: what the thermometer inside shows [°C]."""
    loss, moved, air_j_k, side_j_k, side_w_k = (float(np.exp(v)) for v in x[:5])
    room = _whole(test.room_c) + x[7]
    power, fan = _whole(test.power_w), np.clip(_whole(test.fan), 0, 1)
    state = np.array([x[5], x[6]])
    told = np.empty(len(room))
    steps = {share: _step(loss, share * moved, air_j_k, side_j_k, side_w_k, test.step_s) for share in (0.0, 0.5, 1.0)}
    for number in range(len(room)):
        turn, push = steps[round(2 * fan[number]) / 2]
        out = loss + round(2 * fan[number]) / 2 * moved
        drive = (power[number] + out * room[number]) / air_j_k
        told[number] = state[0]
        state = turn @ state + push * drive
    return told


def _step(
    loss: float, moved: float, air_j_k: float, side_j_k: float, side_w_k: float, step_s: float
) -> tuple[Floats, Floats]:
    from scipy.linalg import expm

    a = np.array(
        [
            [-(loss + moved + side_w_k) / air_j_k, side_w_k / air_j_k],
            [side_w_k / side_j_k, -side_w_k / side_j_k],
        ]
    )
    whole = np.zeros((3, 3))
    whole[:2, :2], whole[0, 2] = a, 1.0
    found = expm(whole * step_s)
    return found[:2, :2], found[:2, 2]


def _whole(row: Floats) -> Floats:
    fine = np.flatnonzero(np.isfinite(row))
    return np.asarray(np.interp(np.arange(len(row)), fine, row[fine]))
