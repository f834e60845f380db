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
