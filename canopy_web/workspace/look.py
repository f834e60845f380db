"""What one looks at, as it stands in the address: tab, day, height of the map, section. Nothing of it is stored."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from urllib.parse import parse_qsl, urlencode, urlsplit

from django.http import HttpRequest

from canopy.errors import QuantityError
from canopy.quantities import LENGTH, parse_between
from canopy.words import capital

# In place of a height where the map shows each plant's own top.
ON_CANOPY = "canopy"
_FIRST_YEAR, _LAST_YEAR = 1990, 2200


@dataclass(frozen=True, kw_only=True)
class Look:
    """The query of a workspace's address. ``day`` None: today or the plan's own; ``level`` None: the plants' tops.

    ``more`` are figures of a tab's own, such as the day plants go out; ``wrong`` says what could not be read.
    """

    tab: str = ""
    day: dt.date | None = None
    level: float | str | None = None
    cut: float | None = None
    more: Mapping[str, str] = field(default_factory=dict)
    wrong: str = ""

    def pairs(self, **changes: object) -> dict[str, str]:
        """Give it as keys and values of an address, with some of it changed ("" leaves it out)."""
        values: dict[str, object] = {
            "tab": self.tab,
            "day": self.day.isoformat() if self.day else "",
            "level": self.level if self.level is not None else "",
            "cut": self.cut if self.cut is not None else "",
            **self.more,
            **changes,
        }
        return {key: str(value) for key, value in values.items() if value not in ("", None)}

    def query(self, **changes: object) -> str:
        """Write it as the query of an address, with some of it changed; "" where all is usual."""
        kept = self.pairs(**changes)
        return f"?{urlencode(kept)}" if kept else ""


def look_of(request: HttpRequest) -> Look:
    """Read what one looks at: a station's page from its own address, an act or a fragment from the page it comes
    from.
    """
    asked: dict[str, str] = {key: str(value) for key, value in request.GET.items()}
    match = request.resolver_match
    if match is None or match.url_name != "show" or request.method != "GET":
        page = urlsplit(request.headers.get("HX-Current-URL", ""))
        asked = {**dict(parse_qsl(page.query)), **asked}
    if request.method != "GET" and request.POST.get("tab"):
        asked["tab"] = request.POST["tab"]
    return read(asked)


def read(asked: Mapping[str, str]) -> Look:
    """Read a query; what cannot be read is left out, and said."""
    look = Look(tab=asked.get("tab", ""), more={k: v for k, v in asked.items() if k in _OWN})
    day, ahead = asked.get("day", "").strip(), asked.get("ahead", "").strip()
    if day:
        look = _with_day(look, day, ahead)
    level = asked.get("level", "").strip()
    if level == ON_CANOPY:
        look = replace(look, level=ON_CANOPY)
    elif level:
        look = _with_length(look, "level", level, 6.0, "map height")
    cut = asked.get("cut", "").strip()
    return _with_length(look, "cut", cut, 10.0, "section") if cut else look


# Figures that tabs keep in the address.
_OWN = (
    "latitude",
    "correct",
    "start",
    "days",
    "hour",
    "season",
    "whose",
    "against",
    "one_price",
    "two_price",
    "order",
    "span",
    "until",
    "kind",
)


def _with_day(look: Look, typed: str, ahead: str) -> Look:
    try:
        day = dt.date.fromisoformat(typed) + dt.timedelta(days=int(ahead or 0))
    except (ValueError, OverflowError):
        return replace(look, wrong=f"“{typed}” is not a day: type it as 2026-03-14.")
    if not _FIRST_YEAR <= day.year <= _LAST_YEAR:
        return replace(look, wrong=f"Choose a day between {_FIRST_YEAR} and {_LAST_YEAR}.")
    return replace(look, day=day)


def _with_length(look: Look, key: str, typed: str, most: float, what: str) -> Look:
    try:
        value = parse_between(typed, LENGTH, 0, most, default_unit="meter", what=what)
    except QuantityError as error:
        words = str(error)
        return replace(look, wrong=f"{capital(words)}.")
    return replace(look, cut=value) if key == "cut" else replace(look, level=value)
