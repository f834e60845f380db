"""Probes that are not quite right: an offset, drift, noise, steps, lag, readings that are missing, and a fault."""

from __future__ import annotations

from dataclasses import dataclass
from zlib import crc32

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
# A day in so many has a stretch in which a probe sticks at what it showed [min].
_FAULT_EVERY_D, _STUCK_MIN = 9, 150
_SILENT_MIN = (3, 25)


@dataclass(frozen=True, kw_only=True)
class Probe:
    """A probe of a quantity: it is off by ``offset`` and by ``drift_a_day`` more each day since it was hung, scatters
    by ``noise``, shows whole steps of ``step``, follows in ``lag_min``, and is silent at times by ``silent_a_day``.
    """

    name: str
    quantity: str
    offset: float = 0.0
    drift_a_day: float = 0.0
    noise: float = 0.0
    step: float = 0.0
    lag_min: float = 0.0
    silent_a_day: float = 0.6
    least: float = -100.0
    most: float = 1e6


def shown(probe: Probe, true: Array, day: int, hung: int, seed: int) -> Array:
    """Give what a probe shows through a day.

    Parameters
    ----------
    probe : which
    true : what there is, minute by minute, shape (1440,)
    day : its number
    hung : the number of the day on which it was hung
    seed : 0 or more

    Returns
    -------
    ndarray : shape (1440,); NaN where it is silent. The same whenever it is asked
    """
    chance = np.random.Generator(np.random.Philox(key=[seed, crc32(probe.name.encode())], counter=[day, 0, 0, 0]))
    seen = np.array(true, dtype=np.float64)
    if probe.lag_min > 0:
        keeps = np.exp(-1 / probe.lag_min)
        for minute in range(1, len(seen)):
            seen[minute] = keeps * seen[minute - 1] + (1 - keeps) * true[minute]
    seen += probe.offset + probe.drift_a_day * (day - hung) + probe.noise * chance.standard_normal(len(seen))
    if probe.step > 0:
        seen = np.round(seen / probe.step) * probe.step
    seen = np.clip(seen, probe.least, probe.most)
    begin = int(chance.integers(0, len(seen) - _STUCK_MIN))
    if (day + crc32(probe.name.encode())) % _FAULT_EVERY_D == 0:
        seen[begin : begin + _STUCK_MIN] = seen[begin]
    for _ in range(int(chance.poisson(probe.silent_a_day))):
        begin, long = int(chance.integers(0, len(seen))), int(chance.integers(*_SILENT_MIN))
        seen[begin : begin + long] = np.nan
    return seen
