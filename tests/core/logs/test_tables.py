"""Tables of readings of many shapes: looked at, read, and what is wrong told; the clock's odd hours."""

import datetime as dt
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.errors import QuantityError
from canopy.logs.tables import FORMATS, Column, Shape, TableReader, look_at

AIR = Column(place=1, quantity="air_c", unit="°C", name="Air")


def _stamp(text, zone="UTC", fold=0):
    return dt.datetime.fromisoformat(text).replace(tzinfo=ZoneInfo(zone), fold=fold).timestamp()


def _shape(**more):
    return Shape.model_validate({"header_line": 0, "columns": (AIR,), **more})


def test_a_plain_table_is_known_by_itself():
    text = "time,Temp (°F),RH %\n2026-11-20T08:00:00Z,71.6,55\n2026-11-20T08:05:00Z,72.0,56\n"
    looked = look_at(text.encode())
    assert looked.shape.columns == (
        Column(place=1, quantity="air_c", unit="°F", name="Temp"),
        Column(place=2, quantity="rh_pct", unit="%", name="RH"),
    )
    row = next(TableReader(looked.shape).rows(text.splitlines()))
    assert row.at == _stamp("2026-11-20T08:00:00")
    assert dict(row.values) == {0: pytest.approx(22.0), 1: 55.0}


def test_a_header_in_the_middle_decimal_commas_and_a_day_apart_from_its_hour():
    text = "Logger;12\n\n;\nDatum;Uhr;Temperatur;Feuchte\n20.11.2026;08:00;21,5;60\n21.11.2026;08:05;1.021,0;61\n"
    looked = look_at(text.encode("cp1252"), "Europe/Berlin")
    shape = looked.shape
    assert (shape.delimiter, shape.header_line, shape.comma) == (";", 4, True)
    assert (shape.time, shape.clock, shape.written) == (0, 1, "%d.%m.%Y %H:%M")
    first, second = TableReader(shape).rows(text.splitlines())
    assert (first.line, first.at) == (5, _stamp("2026-11-20T08:00", "Europe/Berlin"))
    assert dict(first.values) == {0: 21.5, 1: 60.0}
    assert "cannot be" in second.wrong
    assert dict(second.values) == {1: 61.0}


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_letters_of_every_encoding(encoding):
    text = "Zeit\tTemp °C\n2026-11-20 08:00\t21.5\n2026-11-20 08:05\t21.6\n"
    looked = look_at(text.encode(encoding))
    assert looked.heads == ("Zeit", "Temp °C")
    assert looked.shape.columns[0].quantity == "air_c"


@pytest.mark.parametrize("written", [name for name in FORMATS if name.startswith("%")])
def test_every_way_of_writing_a_time_is_read_back(written):
    moment = dt.datetime(2026, 11, 28, 14, 5, 30 if "%S" in written else 0)
    # On the 28th nothing can be a month.
    rows = "\n".join(f"{(moment + dt.timedelta(days=n)).strftime(written)},2{n}.5" for n in (-3, -2, -1, 0))
    looked = look_at(f"t,temp\n{rows}\n".encode())
    last = list(TableReader(looked.shape).rows(f"t,temp\n{rows}".splitlines()))[-1]
    assert last.at == moment.replace(tzinfo=dt.UTC).timestamp()
    assert looked.unsure == ()


@pytest.mark.parametrize(("text", "written"), [("1795874700", "epoch"), ("1795874700000", "epoch-ms")])
def test_seconds_since_1970(text, written):
    looked = look_at(f"ts,temp\n{text},21\n{text},21\n".encode())
    assert looked.shape.written == written
    rows = list(TableReader(looked.shape).rows(["ts,temp", f"{text},21"]))
    assert rows[0].at == 1795874700


def test_a_day_that_could_be_a_month_is_asked_about():
    looked = look_at(b"t,temp\n03/04/2026 10:00,21\n04/04/2026 10:00,21\n")
    assert "month" in looked.unsure[0]
    # A thirteenth month is none: then it was the day.
    assert look_at(b"t,temp\n03/04/2026 10:00,21\n13/04/2026 10:00,21\n").unsure == ()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"\x89PNG\r\n\0\0\0", "no text"),
        (b"just some words\nand more\n", "no table"),
        (b"a,b\n1,2\n3,4\n", "no row of this table"),
        (b"<html><body>no</body></html>", "no table"),
        (b"", "no table"),
        (b"13.13.2026 10:00,21\n", "no row of this table"),
    ],
)
def test_what_is_no_table_of_readings_is_refused_in_words(content, words):
    with pytest.raises(QuantityError, match=words):
        look_at(content)


def test_the_hour_that_comes_twice_is_told_apart_by_the_order_of_rows():
    zone = "Europe/Berlin"
    lines = [f"2026-10-25 {clock},20" for clock in ("01:30", "02:30", "02:45", "02:15", "02:59", "03:10")]
    found = [row.at for row in TableReader(_shape(zone=zone)).rows(lines)]
    assert found == sorted(found)
    assert found[3] - found[1] == 45 * 60
    assert found[5] == _stamp("2026-10-25T03:10", zone)


def test_an_hour_that_does_not_exist_is_refused():
    (row,) = TableReader(_shape(zone="Europe/Berlin")).rows(["2026-03-29 02:30,20"])
    assert "does not exist" in row.wrong
    assert row.values == ()


def test_a_reader_goes_on_where_another_stopped_even_within_the_double_hour():
    shape = _shape(zone="Europe/Berlin")
    lines = [f"2026-10-25 {clock},20" for clock in ("01:30", "02:30", "02:15", "02:40", "03:10")]
    whole = list(TableReader(shape).rows(lines))
    for cut in range(1, len(lines)):
        first = TableReader(shape)
        begun = list(first.rows(lines[:cut]))
        rest = list(TableReader(shape, *first.state).rows(lines[cut:]))
        assert begun + rest == whole


@pytest.mark.parametrize(
    ("cell", "words"), [("1e99", "cannot be"), ("-273", "cannot be"), ("inf", "cannot be"), ("warm", "no number")]
)
def test_a_figure_that_cannot_be_spoils_itself_only(cell, words):
    shape = _shape(columns=(AIR, Column(place=2, quantity="rh_pct", unit="%", name="RH")))
    (row,) = TableReader(shape).rows([f"2026-11-20 08:00,{cell},50"])
    assert words in row.wrong
    assert row.values == ((1, 50.0),)


@pytest.mark.parametrize("cell", ["", "NaN", "--", "n/a", "null"])
def test_an_empty_figure_is_a_gap_and_no_fault(cell):
    (row,) = TableReader(_shape()).rows([f"2026-11-20 08:00,{cell}"])
    assert (row.values, row.wrong) == ((), "")


def test_a_short_row_and_a_time_beyond_all_are_told():
    rows = list(TableReader(_shape(time=1)).rows(["x", "21,1850-01-01 00:00"]))
    assert "too short" in rows[0].wrong
    assert "before 1990" in rows[1].wrong


@given(st.lists(st.floats(-40, 80), min_size=2, max_size=30), st.sampled_from([",", ";", "\t"]))
def test_figures_come_back_whatever_parts_the_columns(values, sign):
    lines = [f"2026-11-20T08:{number:02d}:00{sign}{value:.3f}" for number, value in enumerate(values)]
    rows = list(TableReader(_shape(delimiter=sign)).rows(lines))
    assert [row.values[0][1] for row in rows] == [pytest.approx(value, abs=6e-4) for value in values]


def test_shapes_of_unknown_ways_are_refused():
    for wrong in (
        {"written": "%Q"},
        {"zone": "Mars/Base"},
        {"columns": ({"place": 1, "quantity": "joy", "name": "x"},)},
    ):
        with pytest.raises(ValueError, match="validation error"):
            _shape(**wrong)
