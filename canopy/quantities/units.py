"""Conversion between units, through pint, loaded only when first asked."""

from __future__ import annotations

from functools import cache
from typing import Any


@cache
def _registry() -> Any:
    import pint

    registry: Any = pint.UnitRegistry(autoconvert_offset_to_baseunit=True)
    # Meters show "ppm" by one of two conventions.
    registry.define("ppm500 = 0.002 * millisiemens / centimeter")
    registry.define("ppm700 = millisiemens / centimeter / 700")
    return registry


# Decimal steps of the metre need no library: a report in metric units starts without loading pint.
_DECIMAL = {("meter", "centimeter"): 100.0, ("meter", "millimeter"): 1000.0}


@cache
def _line(source: str, target: str) -> tuple[float, float]:
    """Slope and offset of the (affine) conversion from source to target."""
    if (source, target) in _DECIMAL:
        return _DECIMAL[source, target], 0.0
    registry = _registry()
    zero = float(registry.Quantity(0.0, source).to(target).magnitude)
    hundred = float(registry.Quantity(100.0, source).to(target).magnitude)
    return (hundred - zero) / 100.0, zero


def convert(value: float, source: str, target: str) -> float:
    """Convert a value between two units of one dimension.

    Parameters
    ----------
    value : the number in ``source``
    source : pint name of the unit it is in
    target : pint name of the unit wanted

    Returns
    -------
    float : the number in ``target``; temperatures are shifted as well as scaled
    """
    if source == target:
        return value
    slope, offset = _line(source, target)
    return value * slope + offset
