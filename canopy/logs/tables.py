"""Tables of readings as other programs write them: what shape they have, and their rows as readings, one at a time."""

from __future__ import annotations

import csv
import datetime as dt
import hashlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, Any, Literal
from zoneinfo import ZoneInfo

from pydantic import Field, field_validator

from canopy.errors import QuantityError
from canopy.logs.heads import name_of, quantity_of, unit_of
from canopy.logs.measured import MEASURED, kept
from canopy.model import Record
from canopy.plan.site import known_zones

# So much of a file is looked at to know its shape [bytes], so many rows are shown of it.
SAMPLE, SHOWN_ROWS = 200_000, 12
MOST_COLUMNS = 60
# A column is one of times where so much of it reads as such.
_MOST_READ = 0.8
_DELIMITERS = (",", ";", "\t", "|")
_ENCODINGS = ("utf-8-sig", "utf-16", "cp1252")
# How times are written, the unmistakable first.
FORMATS: dict[str, str] = {
    "iso": "2026-11-28 14:05:00, with or without zone",
    "epoch": "seconds since 1970",
    "epoch-ms": "milliseconds since 1970",
    "%d.%m.%Y %H:%M:%S": "28.11.2026 14:05:00",
    "%d.%m.%Y %H:%M": "28.11.2026 14:05",
    "%d/%m/%Y %H:%M:%S": "28/11/2026 14:05:00, day first",
    "%d/%m/%Y %H:%M": "28/11/2026 14:05, day first",
    "%m/%d/%Y %H:%M:%S": "11/28/2026 14:05:00, month first",
    "%m/%d/%Y %H:%M": "11/28/2026 14:05, month first",
    "%m/%d/%Y %I:%M:%S %p": "11/28/2026 02:05:00 PM",
    "%m/%d/%Y %I:%M %p": "11/28/2026 02:05 PM",
    "%Y/%m/%d %H:%M:%S": "2026/11/28 14:05:00",
    "%Y/%m/%d %H:%M": "2026/11/28 14:05",
    "%d-%m-%Y %H:%M:%S": "28-11-2026 14:05:00",
    "%d-%m-%Y %H:%M": "28-11-2026 14:05",
}
_FIRST, _LAST = dt.datetime(1990, 1, 1, tzinfo=dt.UTC).timestamp(), dt.datetime(2200, 1, 1, tzinfo=dt.UTC).timestamp()
_EMPTY = frozenset({"", "-", "--", "---", "n/a", "na", "nan", "null", "none", "?"})


class Column(Record):
    """A column that is taken: where it stands, what it measures in which unit, and the sensor's name."""

    place: Annotated[int, Field(ge=0, lt=MOST_COLUMNS)]
    quantity: Annotated[str, Field(max_length=20)]
    unit: Annotated[str, Field(max_length=20)] = ""
    name: Annotated[str, Field(min_length=1, max_length=80)]

    @field_validator("quantity")
    @classmethod
    def _there(cls, value: str) -> str:
        if value not in MEASURED:
            raise ValueError(f"there is no quantity “{value}”")
        return value


class Shape(Record):
    """How a table is read: its encoding, delimiter, the line of its header (0 for none), decimal sign, where its time
    stands (two columns where day and hour are apart), how it is written and in which zone, and the columns taken.
    """

    encoding: Literal["utf-8-sig", "utf-16", "cp1252"] = "utf-8-sig"
    delimiter: Literal[",", ";", "\t", "|"] = ","
    header_line: Annotated[int, Field(ge=0, le=500)] = 1
    comma: bool = False
    time: Annotated[int, Field(ge=0, lt=MOST_COLUMNS)] = 0
    clock: Annotated[int, Field(ge=0, lt=MOST_COLUMNS)] | None = None
    written: Annotated[str, Field(max_length=40)] = "iso"
    zone: Annotated[str, Field(max_length=64)] = "UTC"
    columns: tuple[Column, ...] = Field(default=(), max_length=MOST_COLUMNS)

    @field_validator("written")
    @classmethod
    def _known(cls, value: str) -> str:
        if value not in FORMATS:
            raise ValueError("times are not written in this way")
        return value

    @field_validator("zone")
    @classmethod
    def _zoned(cls, value: str) -> str:
        if value != "UTC" and value not in known_zones():
            raise ValueError(f"“{value}” is no time zone: give one such as “Europe/Lisbon”")
        return value


@dataclass(frozen=True, kw_only=True)
class Looked:
    """What a look at a table's beginning found: a shape to start from, its heads, its first rows, and a digest of its
    header by which a shape is remembered. ``unsure`` says what a person has to settle.
    """

    shape: Shape
    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    digest: str
    unsure: tuple[str, ...] = ()


def look_at(sample: bytes, zone: str = "UTC") -> Looked:
    """Look at the beginning of a table.

    Parameters
    ----------
    sample : its first bytes
    zone : the person's time zone, taken where times bring none

    Returns
    -------
    Looked : with a guess at its shape

    Raises
    ------
    QuantityError : it is no text, or no table with times and figures
    """
    encoding, text = _text(sample)
    lines = text.splitlines()
    if len(sample) >= SAMPLE:
        # The last line is cut off.
        lines = lines[:-1]
    delimiter = max(_DELIMITERS, key=lambda sign: _columns(lines, sign))
    rows = list(csv.reader(lines[:400], delimiter=delimiter))
    if not rows or _columns(lines, delimiter) < 2:
        raise QuantityError("this is no table: no comma, semicolon, tab or bar parts its columns")
    header_line = _header(rows)
    heads = [head.strip() for head in rows[header_line - 1]] if header_line else []
    body = [row for row in rows[header_line:] if len(row) >= 2 and any(cell.strip() for cell in row)]
    if not body:
        raise QuantityError("the table has a header and no row beneath it")
    width = min(MOST_COLUMNS, max(len(row) for row in body[:50]))
    heads = (heads + [f"column {number}" for number in range(len(heads) + 1, width + 1)])[:width]
    comma = delimiter != "," and _commas(body)
    time, clock, written, unsure = _times(body, heads)
    columns = _guessed(heads, body, {time, clock}, comma)
    shape = Shape(
        encoding=encoding,
        delimiter=delimiter,
        header_line=header_line,
        comma=comma,
        time=time,
        clock=clock,
        written=written,
        zone=zone,
        columns=columns,
    )
    digest = hashlib.sha256("|".join([delimiter, *heads]).casefold().encode()).hexdigest()[:32]
    shown = tuple(tuple(cell.strip() for cell in row[:width]) for row in body[:SHOWN_ROWS])
    return Looked(shape=shape, heads=tuple(heads), rows=shown, digest=digest, unsure=tuple(unsure))


def _text(sample: bytes) -> tuple[Any, str]:
    if sample[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return "utf-16", sample[: len(sample) // 2 * 2].decode("utf-16", errors="replace")
    if b"\0" in sample[:4000]:
        raise QuantityError("this is no text: save the table as CSV")
    try:
        return "utf-8-sig", sample.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        # A letter cut off at the end of the sample is no other encoding.
        if error.start >= len(sample) - 4:
            return "utf-8-sig", sample[: error.start].decode("utf-8-sig")
        return "cp1252", sample.decode("cp1252", errors="replace")


def _columns(lines: Sequence[str], delimiter: str) -> int:
    counts = sorted(len(row) for row in csv.reader(lines[:200], delimiter=delimiter) if row)
    return counts[len(counts) // 2] if counts else 0


def _header(rows: Sequence[Sequence[str]]) -> int:
    """The line of the header, counted from 1: the last line of words above the first of figures; 0 without one."""
    for number, row in enumerate(rows):
        figures = sum(
            1 for cell in row if _number(cell, comma=True) is not None or _number(cell, comma=False) is not None
        )
        if len(row) >= 2 and figures >= 1 and _time_like(row):
            words = rows[number - 1] if number else []
            return number if number and sum(1 for cell in words if cell.strip()) >= 2 else 0
    raise QuantityError("no row of this table has both a time and a figure")


def _time_like(row: Sequence[str]) -> bool:
    return any(_format_of([cell]) for cell in row) or any(_format_of([f"{one} {two}"]) for one, two in pairwise(row))


def _commas(body: Sequence[Sequence[str]]) -> bool:
    cells = [cell for row in body[:100] for cell in row]
    return sum(1 for cell in cells if _comma_number(cell)) > sum(1 for cell in cells if _point_number(cell))


def _comma_number(cell: str) -> bool:
    whole, sign, rest = cell.strip().lstrip("+-").partition(",")
    return bool(sign) and whole.isdigit() and rest.isdigit()


def _point_number(cell: str) -> bool:
    whole, sign, rest = cell.strip().lstrip("+-").partition(".")
    return bool(sign) and whole.isdigit() and rest.isdigit()


def _times(body: Sequence[Sequence[str]], heads: Sequence[str]) -> tuple[int, int | None, str, list[str]]:
    for place in range(len(heads)):
        cells = [row[place] for row in body[:200] if len(row) > place and row[place].strip()]
        formats = _format_of(cells)
        if formats:
            return place, None, formats[0], _unsure(formats)
    for place in range(len(heads) - 1):
        cells = [f"{row[place]} {row[place + 1]}" for row in body[:200] if len(row) > place + 1]
        formats = _format_of(cells)
        if formats:
            return place, place + 1, formats[0], _unsure(formats)
    raise QuantityError("no column of this table reads as a time")


def _unsure(formats: Sequence[str]) -> list[str]:
    ways = {name[:5] for name in formats}
    if {"%d/%m", "%m/%d"} <= ways:
        return ["In every row that was looked at the day could be the month: say which comes first."]
    return []


def _format_of(cells: Sequence[str]) -> list[str]:
    """In which ways nearly all of these read as times: a row that is broken spoils no table."""
    given = [cell.strip() for cell in cells if cell.strip()]
    shares: dict[str, int] = {}
    for written in FORMATS:
        read = _reader(written, _Local(dt.UTC))
        good = sum(1 for cell in given if _reads(read, cell, epoch=written.startswith("epoch")))
        if good and good >= _MOST_READ * len(given):
            shares[written] = good
    best = max(shares.values(), default=0)
    return [written for written, good in shares.items() if good == best]


def _reads(read: Stamp, cell: str, *, epoch: bool) -> bool:
    try:
        stamp = read(cell)
    except (ValueError, OverflowError):
        return False
    return 1e9 < stamp < 5e9 if epoch else _FIRST <= stamp <= _LAST


def _guessed(
    heads: Sequence[str], body: Sequence[Sequence[str]], times: set[int | None], comma: bool
) -> tuple[Column, ...]:
    found = []
    for place, head in enumerate(heads):
        cells = [row[place] for row in body[:100] if len(row) > place]
        if place in times or not any(_number(cell, comma=comma) is not None for cell in cells):
            continue
        item = quantity_of(head)
        if item is not None:
            name = name_of(head) or item.name
            found.append(Column(place=place, quantity=item.id, unit=unit_of(head, item.units), name=name))
    return tuple(found)


def _number(cell: str, *, comma: bool) -> float | None:
    text = cell.strip().rstrip("%°CFc ").strip()
    if text.casefold() in _EMPTY:
        return None
    if comma:
        text = text.replace(".", "").replace(",", ".")
    try:
        return float(text)
    except ValueError:
        return None


Stamp = Callable[[str], float]


def _reader(written: str, local: _Local) -> Stamp:
    """Read times of one way of writing as seconds since 1970; ValueError for what is none."""
    if written in ("epoch", "epoch-ms"):
        scale = 1.0 if written == "epoch" else 1000.0
        return lambda text: float(text) / scale
    if written == "iso":

        def iso(text: str) -> float:
            moment = dt.datetime.fromisoformat(text.strip())
            return moment.timestamp() if moment.tzinfo is not None else local.stamp(moment)

        return iso
    return lambda text: local.stamp(dt.datetime.strptime(text.strip(), written))


class _Local:
    """Local times as they follow each other: an hour that comes twice in autumn is its second time when the clock went
    back from one row to the next; one that does not exist in spring is refused.
    """

    def __init__(self, zone: dt.tzinfo, last: dt.datetime | None = None, fold: int = 0) -> None:
        self.zone, self.last, self.fold = zone, last, fold

    def stamp(self, moment: dt.datetime) -> float:
        """Seconds since 1970."""
        aware = moment.replace(tzinfo=self.zone)
        first, second = aware.utcoffset(), aware.replace(fold=1).utcoffset()
        if first == second:
            self.fold = 0
        elif first is not None and second is not None and first < second:
            raise ValueError("this hour does not exist: the clock was put forward over it")
        elif self.last is not None and moment < self.last:
            self.fold = 1
        self.last = moment
        return aware.replace(fold=self.fold).timestamp()


@dataclass(frozen=True, kw_only=True)
class Row:
    """A row of a table: its line, when it was [s since 1970], values by place of its columns in their kept units; and
    what of it could not be taken.
    """

    line: int
    at: int
    values: tuple[tuple[int, float], ...]
    wrong: str = ""


class TableReader:
    """Reads the rows of a table, piece by piece: what it stands at can be kept and taken up again.

    Parameters
    ----------
    shape : how rows are read
    line : how many lines were read before
    last : the last local time before, as ``state`` gave it; "" for none
    fold : 1 where that was in an hour's second time
    """

    def __init__(self, shape: Shape, line: int = 0, last: str = "", fold: int = 0) -> None:
        zone: dt.tzinfo = dt.UTC if shape.zone == "UTC" else ZoneInfo(shape.zone)
        self.shape, self.line = shape, line
        self._local = _Local(zone, dt.datetime.fromisoformat(last) if last else None, fold)
        self._read = _reader(shape.written, self._local)

    def rows(self, lines: Iterable[str]) -> Iterator[Row]:
        """Read lines that follow those read before.

        Parameters
        ----------
        lines : whole ones; what lies above the header's end is passed over

        Returns
        -------
        iterator of Row : one a line with anything in it, without values where its time or all its figures are wrong
        """
        for cells in csv.reader(lines, delimiter=self.shape.delimiter):
            self.line += 1
            if self.line > self.shape.header_line and any(cell.strip() for cell in cells):
                yield _row(self.line, cells, self.shape, self._read)

    @property
    def state(self) -> tuple[int, str, int]:
        """Where it stands: lines read, the last local time, and whether that was an hour's second time."""
        last = self._local.last
        return self.line, last.isoformat() if last else "", self._local.fold


def _row(line: int, cells: Sequence[str], shape: Shape, read: Stamp) -> Row:
    try:
        text = cells[shape.time] if shape.clock is None else f"{cells[shape.time].strip()} {cells[shape.clock].strip()}"
        at = read(text)
    except IndexError:
        return Row(line=line, at=0, values=(), wrong="the row is too short")
    except (ValueError, OverflowError) as error:
        words = (
            str(error) if "does not exist" in str(error) else f"“{text[:40]}” is no time as it was said to be written"
        )
        return Row(line=line, at=0, values=(), wrong=words)
    if not _FIRST <= at <= _LAST:
        return Row(line=line, at=0, values=(), wrong="its time lies before 1990 or after 2200")
    values, wrong = [], ""
    for number, column in enumerate(shape.columns):
        cell = cells[column.place] if column.place < len(cells) else ""
        value = _number(cell, comma=shape.comma)
        if value is None:
            if cell.strip().casefold() not in _EMPTY:
                wrong = wrong or f"“{cell.strip()[:30]}” is no number"
            continue
        try:
            values.append((number, kept(column.quantity, value, column.unit)))
        except QuantityError as error:
            wrong = wrong or str(error)
    return Row(line=line, at=int(at), values=tuple(values), wrong=wrong)
