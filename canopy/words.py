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


def clock(minute: float) -> str:
    """Write a minute of the day as a clock does.

    Parameters
    ----------
    minute : since midnight, any number of days [min]

    Returns
    -------
    str : such as "18:05"
    """
    of_day = round(minute) % 1440
    return f"{of_day // 60:02d}:{of_day % 60:02d}"


def counted(number: int, noun: str, plural: str = "") -> str:
    """Say how many of something.

    Parameters
    ----------
    number : 0 or more
    noun : of one, such as "plant"
    plural : of several; the noun with an s when empty

    Returns
    -------
    str : such as "1 plant" or "3 plants"
    """
    return f"{number} {noun}" if number == 1 else f"{number} {plural or noun + 's'}"


def percent(share: float) -> str:
    """Write a share as a percentage, with the space that SI asks for.

    Parameters
    ----------
    share : 0..1, or more

    Returns
    -------
    str : such as "85 %", the space unbroken
    """
    return f"{100 * share:.0f}\u00a0%"
