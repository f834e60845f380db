"""A fan's pressure against its flow, at any speed."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from math import pi

from canopy.air.losses import DENSITY_KG_M3
from canopy.equipment import FanSpec, rough_pressure_pa
from canopy.library import fan_wheels, find

# What a fan that stands takes, on the velocity in its spigot (1 to 5), and below which speed it stands.
STOPPED_K, STANDS = 2.0, 0.02
_BACK = 0.3
# An inline fan whose curve is as straight as this has a mixed-flow wheel, else a radial one.
_MIXED_FROM = 0.6


@dataclass(frozen=True, kw_only=True)
class FanCurve:
    """A fan at full speed: greatest pressure [Pa], free flow [m³/s], and cubic pieces between the points of its curve.

    A piece is (flow where it begins, pressure there, and the factors of the first, second and third power of what is
    beyond).
    """

    free_m3_s: float
    max_pa: float
    shape: float
    diameter_m: float
    pieces: tuple[tuple[float, float, float, float, float], ...] = ()
    last_slope: float = 0.0

    def pressure_pa(self, flow_m3_s: float, speed: float) -> float:
        """Give its static pressure.

        Parameters
        ----------
        flow_m3_s : flow, negative when air is pushed back through it [m³/s]
        speed : share of full speed, 0..1

        Returns
        -------
        float : pressure; negative past free flow, and when it stands [Pa]

        Notes
        -----
        Affinity laws: Q ~ s, Δp ~ s². Without points Δp = s² P0 (1 − b x − (1 − b) x²), x = Q/(s Q0). Past free flow
        the last slope m is carried on to twice the free flow, and from there m Q²/(4 Q0): carried on further, a
        faster fan would hinder more than a slower one. Air pushed back meets P0 (1 + 0.3 |x|), a fan that stands
        takes K = 2 in its spigot.
        """
        if speed < STANDS:
            velocity = flow_m3_s / (pi * self.diameter_m**2 / 4)
            return -STOPPED_K / 2 * DENSITY_KG_M3 * velocity * abs(velocity)
        return speed * speed * self._full_pa(flow_m3_s / speed)

    def _full_pa(self, flow: float) -> float:
        if flow < 0:
            return self.max_pa * (1 - _BACK * flow / self.free_m3_s)
        if self.pieces:
            if flow >= self.free_m3_s:
                return self.last_slope * self.free_m3_s * _blown_through(flow / self.free_m3_s)
            start, pressure, one, two, three = self.pieces[
                bisect_right(self.pieces, flow, key=lambda piece: piece[0]) - 1
            ]
            beyond = flow - start
            return pressure + beyond * (one + beyond * (two + beyond * three))
        x, b = flow / self.free_m3_s, self.shape
        if x > 1:
            return self.max_pa * (b - 2) * _blown_through(x)
        return self.max_pa * (1 - b * x - (1 - b) * x * x)


def _blown_through(x: float) -> float:
    """What a fan takes past free flow, in units of its last slope times free flow: the same at every speed past 2."""
    return x - 1 if x <= 2 else x * x / 4


@lru_cache(maxsize=512)
def fan_curve(spec: FanSpec) -> FanCurve:
    """Make a fan's curve of what its data sheet says.

    Parameters
    ----------
    spec : the fan

    Returns
    -------
    FanCurve : falling everywhere; dips before the peak are levelled to the running minimum, and a curve of points
    passes through them without overshoot (Fritsch and Carlson, 1980)
    """
    top = rough_pressure_pa(spec)
    plain = FanCurve(free_m3_s=spec.free_flow_m3_h / 3600, max_pa=top, shape=spec.shape, diameter_m=spec.diameter_m)
    if not spec.curve:
        return plain
    points = [(flow / 3600, pressure) for flow, pressure in spec.curve]
    if points[0][0] > 0:
        points.insert(0, (0.0, points[0][1]))
    falling, lowest = [], float("inf")
    for flow, pressure in points:
        lowest = min(lowest, pressure)
        falling.append((flow, lowest))
    (q0, p0), (q1, p1) = falling[-2], falling[-1]
    slope = (p1 - p0) / (q1 - q0)
    if slope >= 0:
        slope = -falling[0][1] / q1
    if p1 > 0:
        falling.append((q1 - p1 / slope, 0.0))
    free = falling[-1][0]
    return FanCurve(
        free_m3_s=free,
        max_pa=falling[0][1],
        shape=spec.shape,
        diameter_m=spec.diameter_m,
        pieces=_pieces(falling),
        last_slope=slope,
    )


def _pieces(points: list[tuple[float, float]]) -> tuple[tuple[float, float, float, float, float], ...]:
    """Monotone cubic pieces between points of rising flow and falling pressure."""
    widths = [b[0] - a[0] for a, b in pairwise(points)]
    slopes = [(b[1] - a[1]) / w for a, b, w in zip(points, points[1:], widths, strict=False)]
    tangents = [slopes[0]]
    for before, after, w0, w1 in zip(slopes, slopes[1:], widths, widths[1:], strict=False):
        if before * after <= 0:
            tangents.append(0.0)
        else:
            one, two = 2 * w1 + w0, w1 + 2 * w0
            tangents.append((one + two) / (one / before + two / after))
    tangents.append(slopes[-1])
    found = []
    for (flow, pressure), width, slope, here, there in zip(
        points, widths, slopes, tangents, tangents[1:], strict=False
    ):
        found.append(
            (flow, pressure, here, (3 * slope - 2 * here - there) / width, (here + there - 2 * slope) / width**2)
        )
    return tuple(found)


def power_w(spec: FanSpec, speed: float) -> float:
    """Give what a fan draws at a speed.

    Parameters
    ----------
    spec : the fan
    speed : share of full speed, 0..1

    Returns
    -------
    float : power by the cube of speed (affinity laws), of a mains motor that is turned down by its square [W]
    """
    return spec.power_w * spec.drawn_share(speed) if speed >= STANDS else 0.0


def stall_share(spec: FanSpec) -> float:
    """Give below which share of its free flow a fan stalls and pulses.

    Parameters
    ----------
    spec : the fan

    Returns
    -------
    float : by its kind of wheel; where its typed curve has a peak, at least the flow of that peak

    Notes
    -----
    Wheels differ: an axial one stalls far to the right of a backward-curved one (ASHRAE HVAC Systems and Equipment,
    fans). The figures and their spans stand in the library, ``fan_wheels``.
    """
    wheel = spec.kind if spec.kind != "inline" else "mixed" if spec.shape >= _MIXED_FROM else "radial"
    share = find(fan_wheels(), wheel, "kind of fan").stall_share
    if not spec.curve:
        return share
    peak = max(spec.curve, key=lambda point: point[1])[0]
    return max(share, peak / 3600 / fan_curve(spec).free_m3_s)


def steps_of(spec: FanSpec) -> tuple[float, ...]:
    """Give the speeds a fan can be set to, as looked at here.

    Parameters
    ----------
    spec : the fan

    Returns
    -------
    tuple of float : the steps of its control, or tenths from 0.3 for one that is set freely
    """
    return spec.steps or (0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
