"""Read what people type: "4 ft 2 in", "127cm", "1,27 m", "50 1/2 in", "180 m3/h", "75 F"."""

from __future__ import annotations

import re

from canopy.errors import QuantityError
from canopy.quantities.kinds import FLOW, LENGTH, Kind
from canopy.quantities.units import convert

_TERM = re.compile(
    r"""\s*(?P<sign>[-−+]?)\s*
        (?: (?P<whole>\d+)[\s-]+(?P<num>\d+)\s*/\s*(?P<den>\d+)      # 50 1/2
          | (?P<num2>\d+)\s*/\s*(?P<den2>\d+)                         # 1/2
          | (?P<dec>(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:e[+-]?\d+)?) )      # 127  1.27  1,27
        \s*(?P<unit>[^\d\s+\-−.,][^\s+\-−,]*?(?:[³^]?\d?/\w+)?)?(?=[\s\d+\-−.,]|$)""",
    re.VERBOSE | re.IGNORECASE,
)
_THOUSANDS = re.compile(r"^\s*\d{1,3}(,\d{3})+(\.\d+)?(?=\D|$)")


def _number(match: re.Match[str]) -> float:
    part = match.groupdict()
    if part["dec"] is not None:
        value = float(part["dec"].replace(",", "."))
    else:
        whole, num, den = part["whole"] or "0", part["num"] or part["num2"], part["den"] or part["den2"]
        if int(den) == 0:
            raise QuantityError("a fraction cannot have zero below the line")
        value = int(whole) + int(num) / int(den)
    return -value if part["sign"] in ("-", "−") else value


def _terms(text: str, kind: Kind) -> list[tuple[float, str | None]]:
    terms: list[tuple[float, str | None]] = []
    at = 0
    while at < len(text):
        match = _TERM.match(text, at)
        if match is None or match.end() == at:
            raise QuantityError(f"“{text.strip()}” is not a {kind.name}: try {kind.example}")
        unit = match["unit"]
        terms.append((_number(match), unit.lower() if unit else None))
        at = match.end()
        at += len(text[at:]) - len(text[at:].lstrip())
    return terms


def parse(text: str, kind: Kind, *, default_unit: str | None = None) -> float:
    """Read one quantity as a person types it.

    Parameters
    ----------
    text : what was typed; several terms add up ("4 ft 2 in")
    kind : which kind of quantity is asked for
    default_unit : pint name of the unit of a bare number; the kind's own unit when None

    Returns
    -------
    float : the value in ``kind.unit``

    Raises
    ------
    QuantityError : nothing typed, a word that is no unit of this kind, or a number that cannot be read
    """
    raw = text.strip().replace("\u00a0", " ")
    if not raw:
        raise QuantityError(f"type a {kind.name}, such as {kind.example}")
    if len(raw) > 60:
        raise QuantityError(f"that is too long for a {kind.name}: try {kind.example}")
    if _THOUSANDS.match(raw) and kind is not LENGTH and kind is not FLOW:
        raw = raw.replace(",", "")
    for pattern, plain in kind.rewrites:
        raw = re.sub(pattern, plain, raw, flags=re.IGNORECASE)
    fallback = default_unit or kind.unit
    total, previous = 0.0, ""
    for index, (value, word) in enumerate(_terms(raw, kind)):
        if word is None:
            # "5' 10" means 5 ft 10 in; any other bare second number is a slip.
            if index and previous == "foot":
                unit = "inch"
            elif index:
                raise QuantityError(f"“{raw}” has a number without a unit: try {kind.example}")
            else:
                unit = fallback
        elif word in kind.aliases:
            unit = kind.aliases[word]
        else:
            raise QuantityError(f"“{word}” is not a unit of {kind.name}: try {kind.example}")
        if index and value < 0:
            raise QuantityError(f"“{raw}” is not a {kind.name}: try {kind.example}")
        total += convert(value, unit, kind.unit)
        previous = unit
    if not abs(total) < 1e9:
        raise QuantityError(f"“{raw}” is beyond any size we can plan for: try {kind.example}")
    return round(total, 9)


def parse_between(
    text: str, kind: Kind, low: float, high: float, *, default_unit: str | None = None, what: str = ""
) -> float:
    """Read one quantity and hold it against a range.

    Parameters
    ----------
    text : what was typed
    kind : which kind of quantity is asked for
    low : least accepted value [kind.unit]
    high : greatest accepted value [kind.unit]
    default_unit : pint name of the unit of a bare number
    what : name of the quantity for the message

    Returns
    -------
    float : the value in ``kind.unit``

    Raises
    ------
    QuantityError : unreadable, or outside low..high; the message names the accepted range
    """
    from canopy.quantities.show import show

    value = parse(text, kind, default_unit=default_unit)
    if not low <= value <= high:
        system = "us" if default_unit and default_unit == kind.us.unit != kind.metric.unit else "metric"
        name = what or kind.name
        raise QuantityError(
            f"{name} is {show(value, kind, system)}: give {show(low, kind, system)} to {show(high, kind, system)}"
        )
    return value
