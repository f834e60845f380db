"""Words as they begin a sentence."""

from __future__ import annotations


def capital(text: str) -> str:
    """Write a text with its first letter large, and the rest as it stands.

    Parameters
    ----------
    text : any text, also an empty one

    Returns
    -------
    str : "already at 4 °C" becomes "Already at 4 °C"
    """
    return text[:1].upper() + text[1:]


def short_name(name: str) -> str:
    """Give a name without what follows a comma or stands in brackets.

    Parameters
    ----------
    name : such as "Lettuce, butterhead" or "Garden seedlings (tomato, aster)"

    Returns
    -------
    str : "Lettuce", "Garden seedlings"
    """
    return name.partition(",")[0].partition("(")[0].strip() or name


def is_number(text: str, digits: int = 15) -> bool:
    """Say whether a text is a plain whole number, such as an id in an address.

    Parameters
    ----------
    text : as it was sent
    digits : how many at most

    Returns
    -------
    bool : True for ASCII digits only; a superscript two is a digit to some, and no number
    """
    return text.isascii() and text.isdigit() and len(text) <= digits
