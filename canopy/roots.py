"""Where a falling function passes zero."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

# What a sum of pressures or flows cannot tell from nothing; products of smaller values pass below the least number
# that a float holds, and the bracketing with them.
_NOTHING = 1e-15


@cache
def _solver() -> Callable[..., float]:
    from fluids.numerics import brenth

    found: Callable[..., float] = brenth
    return found


def falling_root(function: Callable[[float], float], step: float, tolerance: float) -> float:
    """Find where a falling function of one variable passes zero.

    Parameters
    ----------
    function : falls everywhere
    step : first step away from zero; doubled until the sign changes
    tolerance : of the root

    Returns
    -------
    float : the root (hyperbolic Brent's method between brackets); values under 1e-15 are taken as 0
    """

    def told(value: float) -> float:
        found = function(value)
        return 0.0 if abs(found) < _NOTHING else found

    here = told(0.0)
    if here == 0:
        return 0.0
    side = 1.0 if here > 0 else -1.0
    near, near_value, far = 0.0, here, side * step
    for _ in range(60):
        value = told(far)
        if value * side <= 0:
            break
        near, near_value, far = far, value, 2 * far
    else:
        return far
    if value == 0:
        return far
    return float(_solver()(told, near, far, xtol=tolerance, rtol=1e-10, fa=near_value, fb=value))
