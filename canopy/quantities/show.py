"""Write quantities as growers read them, rounded sensibly, unit always shown."""

from __future__ import annotations

import re

from canopy.quantities.kinds import DIAMETER, LENGTH, Kind
from canopy.quantities.units import convert


def number(value: float, decimals: int = 0) -> str:
    """Write a plain number.

    Parameters
    ----------
    value : the number
    decimals : how many decimals at most; trailing zeros go

    Returns
    -------
    str : such as "1 240", "0.35" or "12"; a true minus sign, a thin space from 10 000 on
    """
    text = f"{abs(value):,.{decimals}f}" if abs(value) >= 10_000 else f"{abs(value):.{decimals}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    text = text.replace(",", "\u202f")
    return f"−{text}" if value < 0 and text.strip("0.") else text


def significant(value: float, digits: int = 3) -> str:
    """Write a number to so many significant digits, never in exponent form.

    Parameters
    ----------
    value : the number
    digits : significant digits wanted

    Returns
    -------
    str : such as "0.0123", "12.3" or "1230"
    """
    if value == 0 or value != value:
        return "0" if value == 0 else "?"
    size = len(str(int(abs(value)))) if abs(value) >= 1 else 0
    if size:
        return number(value, max(0, digits - size))
    lead = len(f"{abs(value):.12f}".split(".")[1]) - len(f"{abs(value):.12f}".split(".")[1].lstrip("0"))
    return number(value, digits + lead)


# What pipes of these millimetres (rounded to five) are called in inches.
_NOMINAL_IN = {75: 3, 100: 4, 125: 5, 150: 6, 200: 8, 205: 8, 250: 10, 255: 10, 315: 12, 305: 12}
_ROUND_MM = 5


def magnitude(value: float, kind: Kind, system: str) -> str:
    """Write a quantity's number in a unit system, without its unit.

    Parameters
    ----------
    value : in the kind's own unit, finite
    system : "metric" or "us"

    Returns
    -------
    str : the rounded number
    """
    display = kind.us if system == "us" else kind.metric
    shown = convert(value, kind.unit, display.unit)
    inches = _NOMINAL_IN.get(round(value * 1000 / _ROUND_MM) * _ROUND_MM) if system == "us" else None
    if kind.name == "diameter" and inches is not None:
        # Pipes, fans and holes go by their names: 200 mm is sold as 8 in, which is 203.
        return str(inches)
    return number(shown, display.decimals + _finer(shown, kind.name, display.decimals))


# Kinds whose small values (the pressure in a tent, a case's volume) would round to nothing, and how many decimals more
# they may take.
_FINE = {"airflow": 1, "pressure": 2, "area": 2, "room volume": 3, "heat loss": 2, "water rate": 1}


def _finer(shown: float, name: str, decimals: int) -> int:
    """How many decimals more a small value needs for two digits that say something."""
    more = 0
    while more < _FINE.get(name, 0) and 0 < abs(shown) < 10 ** (1 - decimals - more):
        more += 1
    return more


_NUMBER = r"\d+(?:\.\d+)?"
_SIZES = re.compile(rf"(?<![\d.])({_NUMBER}(?:(?: to | × |–){_NUMBER})*)[ \u00a0](mm|cm)\b(?![²³])")


def spoken(text: str, system: str) -> str:
    """Say the sizes in a name or a sentence in a unit system.

    Parameters
    ----------
    text : such as "Cone 150 to 100 mm" or "LED bar 90 cm"
    system : "metric" or "us"

    Returns
    -------
    str : as it is in metric; in inches else: "Cone 6 to 4 in", "11 × 10.2 in"
    """
    if system != "us":
        return text

    def said(found: re.Match[str]) -> str:
        kind, per_m = (DIAMETER, 1000) if found[2] == "mm" else (LENGTH, 100)
        return re.sub(_NUMBER, lambda part: magnitude(float(part[0]) / per_m, kind, system), found[1]) + " in"

    return _SIZES.sub(said, text)


def show(value: float, kind: Kind, system: str = "metric") -> str:
    """Write a quantity with its unit.

    Parameters
    ----------
    value : in the kind's own unit, finite
    system : "metric" or "us"

    Returns
    -------
    str : such as "127 cm" or "50 in"
    """
    display = kind.us if system == "us" else kind.metric
    gap = "" if display.symbol == "°" else "\u00a0"
    return f"{magnitude(value, kind, system)}{gap}{display.symbol}"
