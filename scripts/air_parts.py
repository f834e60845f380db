"""Parts of ways of air from the library, for the scripts that write plans."""

from __future__ import annotations

from typing import Any

from canopy.library import ducts, fans, filters, fittings, stirrers
from canopy.plan import BendPart, DuctPart, FanPart, FilterPart, FittingPart, PortPart, Stirrer


def fan(class_id: str, **more: Any) -> FanPart:
    """A fan of the library."""
    return FanPart(**{"id": "fan", "spec": fans()[class_id].spec, **more})


def strain(class_id: str, **more: Any) -> FilterPart:
    """A carbon filter of the library."""
    return FilterPart(**{"id": "filter", "spec": filters()[class_id].spec, **more})


def duct(number: int, diameter_m: float, length_m: float, class_id: str = "flex-alu", **more: Any) -> DuctPart:
    """A length of the library's duct."""
    return DuctPart(id=f"duct-{number}", spec=ducts()[class_id].spec, diameter_m=diameter_m, length_m=length_m, **more)


def bend(number: int, diameter_m: float, angle_deg: float = 90, make: Any = "flex") -> BendPart:
    """A bend."""
    return BendPart(id=f"bend-{number}", diameter_m=diameter_m, angle_deg=angle_deg, make=make)


def fitting(number: int, class_id: str) -> FittingPart:
    """A fitting of the library."""
    return FittingPart(id=f"fitting-{number}", spec=fittings()[class_id].spec)


def port(opening_id: str) -> PortPart:
    """Where the chain passes the shell."""
    return PortPart(id="port", opening_id=opening_id)


def stirrer(number: int, class_id: str, x: float, y: float, z: float, **more: Any) -> Stirrer:
    """A circulation fan of the library in its place."""
    return Stirrer(id=f"stirrer-{number}", spec=stirrers()[class_id].spec, x_m=x, y_m=y, z_m=z, **more)
