"""Readings out of JSON of any shape: paths, times, and what is offered to a person."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from canopy.errors import QuantityError
from canopy.logs.pointed import Pointer, document_of, moment_of, offered, read, time_path

NOW = 1_795_000_000.0
HUB = {
    "time": "2026-11-18T08:00:00Z",
    "shelf": {"air_temp_f": 71.6, "humidity": "55.5", "battery": 88},
    "probes": [{"soil-temperature": 19.0}, {"odd key's": 4, "on": True, "name": "b"}],
    "rssi": -61,
}


def pointer(path, quantity="air_c", **more):
    return Pointer(path=path, quantity=quantity, name="x", **more)


def test_values_are_found_by_their_paths_and_brought_into_the_kept_unit():
    asked = [
        pointer("$.shelf.air_temp_f", unit="°F"),
        pointer("$.shelf.humidity", "rh_pct"),
        pointer("$.probes[0].'soil-temperature'", "root_c"),
    ]
    found, wrong = read(HUB, asked, NOW)
    assert [(round(item.value, 9), item.at) for item in found] == [(22.0, NOW), (55.5, NOW), (19.0, NOW)]
    assert wrong == ()


@pytest.mark.parametrize(
    ("path", "words"),
    [
        ("$.shelf.co2", r"nothing at \$.shelf.co2"),
        ("$.probes", "no number"),
        ("$.probes[1].on", "no number"),
        ("$.probes[1].name", "“b” at"),
        ("$.rssi", "cannot be"),
    ],
)
def test_what_is_not_there_or_no_number_is_told_and_holds_up_no_other(path, words):
    found, wrong = read(HUB, [pointer(path, "rh_pct"), pointer("$.shelf.humidity", "rh_pct")], NOW)
    assert len(found) == 1
    assert len(wrong) == 1
    assert re.search(words, wrong[0])


def test_a_documents_own_time_counts():
    assert time_path(HUB) == "$.time"
    found, _ = read(HUB, [pointer("$.shelf.humidity", "rh_pct")], NOW, "$.time")
    assert found[0].at == 1_794_988_800
    with pytest.raises(QuantityError, match="ahead of this server"):
        read({**HUB, "time": "2031-01-01T00:00:00Z"}, [], NOW, "$.time")


@pytest.mark.parametrize(
    ("given", "second"),
    [
        ("1970-01-01T00:00:00Z", None),
        ("2026-11-18T09:00:00+01:00", 1_794_988_800),
        (1_794_988_800, 1_794_988_800),
        (1_794_988_800_123, 1_794_988_800),
        ("1794988800", 1_794_988_800),
        ("2026-11-18 08:00", None),
        (True, None),
        ([], None),
        (float("nan"), None),
        (1e99, None),
    ],
)
def test_times_are_read_as_programs_write_them(given, second):
    if second is None:
        with pytest.raises(QuantityError):
            moment_of(given, NOW)
    else:
        assert moment_of(given, NOW) == second


def test_numbers_are_offered_with_a_guess_at_what_they_measure():
    found = {item.path: (item.quantity, item.unit) for item in offered(HUB)}
    assert found["$.shelf.air_temp_f"] == ("air_c", "°F")
    assert found["$.shelf.humidity"] == ("rh_pct", "%")
    assert found["$.shelf.battery"] == ("battery_pct", "%")
    assert found["$.probes[0].'soil-temperature'"] == ("root_c", "°C")
    assert found["$.rssi"] == ("", "")
    assert "$.time" not in found
    assert not any("on" in path.rsplit(".", 1)[-1] for path in found if path.startswith("$.probes[1]"))


_JSON = st.recursive(
    st.none() | st.booleans() | st.floats(-500, 500) | st.text(max_size=6),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=12,
)


@given(_JSON)
def test_whatever_is_offered_is_found_again_at_its_path(document):
    for item in offered(document):
        found, wrong = read(document, [pointer(item.path, "power_w")], NOW)
        assert (len(found), wrong) == (1, ())
        assert found[0].value == item.value


def test_what_is_no_json_is_told_with_how_it_begins():
    with pytest.raises(QuantityError, match="it begins “<!doctype html>"):
        document_of(b"<!doctype html><title>Sign in</title>")
    with pytest.raises(QuantityError, match="nothing came"):
        document_of(b"")
    with pytest.raises(QuantityError):
        document_of(b"[" * 200_000)


@pytest.mark.parametrize("path", ["$.a[", "…", "$..[?"])
def test_a_path_that_is_none_is_refused_when_it_is_settled(path):
    with pytest.raises(ValidationError, match="no path"):
        pointer(path)
