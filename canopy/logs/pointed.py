"""Readings out of JSON of any shape: a path to each value, found by itself where a person shows the document."""

from __future__ import annotations

import datetime as dt
import json
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field, field_validator

from canopy.errors import QuantityError
from canopy.logs.heads import name_of, quantity_of, unit_of
from canopy.logs.measured import MEASURED, kept
from canopy.model import Record
from canopy.words import capital

if TYPE_CHECKING:
    from jsonpath_ng import JSONPath

MOST_VALUES = 60
# Numbers of a document that are offered, and how deep they are looked for.
_MOST_FOUND, _DEEPEST = 200, 12
# What lies before is no time of ours; a clock that runs ahead by more is wrong [s].
_FIRST, AHEAD_S = 631_152_000, 600
_TIMES = ("time", "timestamp", "ts", "at", "date", "datetime", "measured_at", "updated")


class Pointer(Record):
    """Where a value stands: the topic it comes under ("" for any), the path to it, what it measures, and where."""

    topic: Annotated[str, Field(max_length=200)] = ""
    path: Annotated[str, Field(min_length=1, max_length=200)]
    quantity: Annotated[str, Field(max_length=20)]
    unit: Annotated[str, Field(max_length=20)] = ""
    name: Annotated[str, Field(min_length=1, max_length=80)]
    place: Literal["space", "room", "outdoors"] = "space"

    @field_validator("quantity")
    @classmethod
    def _there(cls, value: str) -> str:
        if value not in MEASURED:
            raise ValueError(f"there is no quantity “{value}”")
        return value

    @field_validator("path")
    @classmethod
    def _leads(cls, value: str) -> str:
        try:
            _parsed(value)
        except QuantityError as error:
            raise ValueError(str(error)) from None
        return value


@dataclass(frozen=True, kw_only=True)
class Taken:
    """A reading that was found: of which pointer, when [s of UTC], in the unit in which it is kept."""

    pointer: Pointer
    at: int
    value: float


@dataclass(frozen=True, kw_only=True)
class Offered:
    """A number that stands in a document: its path, what it shows, and what it may measure ("" where that is open)."""

    path: str
    value: float
    quantity: str
    unit: str
    name: str


@lru_cache(maxsize=512)
def _parsed(path: str) -> JSONPath:
    from jsonpath_ng.parser import parse as parse_path

    try:
        return parse_path(path)
    except Exception as error:  # its lexer and parser raise bare ones
        raise QuantityError(f"“{path}” is no path: write one such as $.air.temperature or $[0].value") from error


def document_of(content: bytes) -> Any:
    """Read what a source gave as JSON.

    Parameters
    ----------
    content : what came, in UTF-8

    Returns
    -------
    Any : the document

    Raises
    ------
    QuantityError : it is no JSON; says how it begins
    """
    try:
        return json.loads(content.decode("utf-8"))
    except (UnicodeDecodeError, ValueError, RecursionError):
        begins = content[:40].decode("utf-8", errors="replace").strip()
        raise QuantityError(f"what came is no JSON: it begins “{begins}”" if begins else "nothing came") from None


def read(
    document: Any, pointers: Sequence[Pointer], now: float, at_path: str = ""
) -> tuple[tuple[Taken, ...], tuple[str, ...]]:
    """Take values out of a document.

    Parameters
    ----------
    document : as `document_of` gives it
    pointers : where they stand
    now : when it came [s of UTC]
    at_path : where its own time stands; it is taken as of now without one

    Returns
    -------
    tuple of Taken : what was found
    tuple of str : what was not, and why, in words

    Raises
    ------
    QuantityError : its time cannot be read, or lies ahead
    """
    at = int(now) if not at_path else moment_of(value_at(document, at_path), now)
    found: list[Taken] = []
    wrong: list[str] = []
    for pointer in pointers:
        try:
            value = kept(pointer.quantity, _number(value_at(document, pointer.path), pointer.path), pointer.unit)
        except (QuantityError, OverflowError) as error:
            wrong.append(f"{pointer.name}: {error}")
            continue
        found.append(Taken(pointer=pointer, at=at, value=value))
    return tuple(found), tuple(wrong)


def value_at(document: Any, path: str) -> Any:
    """Give what stands at a path.

    Parameters
    ----------
    document : as `document_of` gives it
    path : such as $.on

    Returns
    -------
    Any : the first that is found

    Raises
    ------
    QuantityError : it is no path, or nothing stands there
    """
    found = _parsed(path).find(document)
    if not found:
        raise QuantityError(f"there is nothing at {path}")
    return found[0].value


def _number(value: Any, path: str) -> float:
    """A number, or a text that is one."""
    if isinstance(value, str):
        try:
            value = float(value.strip())
        except ValueError:
            raise QuantityError(f"“{value[:40]}” at {path} is no number") from None
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise QuantityError(f"what stands at {path} is no number")
    return float(value)


def moment_of(given: Any, now: float) -> int:
    """Read a time: ISO 8601 with its zone, or seconds (or milliseconds) since 1970.

    Parameters
    ----------
    given : a text or a number
    now : this machine's clock [s of UTC]

    Returns
    -------
    int : seconds of UTC

    Raises
    ------
    QuantityError : it is no time, has no zone, or lies before 1990 or ahead of this machine's clock
    """
    try:
        if isinstance(given, bool):
            raise TypeError
        if isinstance(given, str) and not given.strip().replace(".", "", 1).isdigit():
            moment = dt.datetime.fromisoformat(given)
            zoned, at = moment.tzinfo is not None, moment.timestamp()
        else:
            zoned, at = True, float(given)
    except (TypeError, ValueError, OverflowError):
        raise QuantityError(
            f"“{str(given)[:40]}” is no time: write 2026-11-28T14:05:00Z or seconds since 1970"
        ) from None
    if not zoned:
        raise QuantityError("a time needs its zone: write 2026-11-28T14:05:00Z")
    if at > 1000.0 * _FIRST:
        at /= 1000
    if not _FIRST <= at <= now + AHEAD_S:
        raise QuantityError("its time lies before 1990 or ahead of this server's clock")
    return int(at)


def offered(document: Any) -> tuple[Offered, ...]:
    """Find the numbers of a document, and guess what each measures by the names on the way to it.

    Parameters
    ----------
    document : as `document_of` gives it

    Returns
    -------
    tuple of Offered : in its order, at most 200
    """
    found = []
    for steps, value in _leaves(document, ()):
        if steps and str(steps[-1]).casefold() in _TIMES:
            continue
        words = [str(step).replace("_", " ").replace("-", " ") for step in steps if not isinstance(step, int)]
        # The nearest name says most; those before it say what it is of.
        item = next((guess for guess in map(quantity_of, reversed(words)) if guess is not None), None)
        item = quantity_of(" ".join(words)) if item is not None and item.id == "air_c" else item
        heads = " ".join(words)
        found.append(
            Offered(
                path=_path(steps),
                value=value,
                quantity=item.id if item else "",
                unit=unit_of(heads, item.units) if item else "",
                name=capital((name_of(heads) or (item.name if item else ""))[:80] or "value"),
            )
        )
        if len(found) == _MOST_FOUND:
            break
    return tuple(found)


def time_path(document: Any) -> str:
    """Find where a document says when it was measured.

    Parameters
    ----------
    document : as `document_of` gives it

    Returns
    -------
    str : its path; "" where it does not, or not in a way that can be read
    """
    if not isinstance(document, Mapping):
        return ""
    for key, value in document.items():
        if str(key).casefold() in _TIMES:
            try:
                moment_of(value, dt.datetime.now(dt.UTC).timestamp())
            except QuantityError:
                continue
            return _path((str(key),))
    return ""


def _leaves(value: Any, steps: tuple[str | int, ...]) -> Iterator[tuple[tuple[str | int, ...], float]]:
    if len(steps) > _DEEPEST:
        return
    if isinstance(value, Mapping):
        for key, part in value.items():
            yield from _leaves(part, (*steps, str(key)))
    elif isinstance(value, list):
        for number, part in enumerate(value[:_MOST_FOUND]):
            yield from _leaves(part, (*steps, number))
    else:
        try:
            yield steps, _number(value, "")
        except QuantityError:
            return


def _path(steps: Sequence[str | int]) -> str:
    """Write steps as a path; keys that are no plain words in quotes."""
    out = "$"
    for step in steps:
        if isinstance(step, int):
            out += f"[{step}]"
        elif step.isidentifier() and step.isascii():
            out += f".{step}"
        else:
            quoted = step.replace("\\", "\\\\").replace("'", "\\'")
            out += f".'{quoted}'"
    return out
