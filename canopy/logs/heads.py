"""What a column's head or a field's name says: the quantity it measures, its unit, and its name without that."""

from __future__ import annotations

import re
from collections.abc import Iterable

from canopy.logs.measured import MEASURED, Measured


def quantity_of(head: str) -> Measured | None:
    """Guess what is measured under a head.

    Parameters
    ----------
    head : as another program wrote it

    Returns
    -------
    Measured : the first whose words it holds; None where it holds none
    """
    low = head.casefold()
    return next((item for item in MEASURED.values() if any(_says(low, word) for word in item.words)), None)


def unit_of(head: str, units: Iterable[str]) -> str:
    """Guess the unit a head names.

    Parameters
    ----------
    head : as another program wrote it
    units : those that are possible, the usual one first

    Returns
    -------
    str : the longest that stands in it; the first where none does
    """
    names, low = list(units), head.casefold()
    if "°F" in names and re.search(r"(?:^|[ _(\[])f(?:ahrenheit)?[)\]]?$", low):
        return "°F"
    return next((unit for unit in sorted(names, key=len, reverse=True) if unit.casefold() in low), names[0])


def name_of(head: str) -> str:
    """Take the unit off a head.

    Parameters
    ----------
    head : as another program wrote it

    Returns
    -------
    str : at most 80 letters
    """
    units = sorted({unit for item in MEASURED.values() for unit in item.units}, key=len, reverse=True)
    pattern = "|".join(re.escape(unit) for unit in units)
    return re.sub(rf"\s*[\[(]?(?:{pattern})[\])]?\s*$", "", head).strip()[:80]


def _says(head: str, word: str) -> bool:
    """Whether a head holds a word; a short one only by itself."""
    return re.search(rf"(?<![a-z]){re.escape(word)}(?![a-z])", head) is not None if len(word) <= 3 else word in head
