import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.errors import QuantityError
from canopy.margin import Amount, sentence
from canopy.quantities import (
    AIR_SPEED,
    ANGLE,
    AREA,
    DURATION,
    FLOW,
    KINDS,
    LENGTH,
    PERCENT,
    POWER,
    PRESSURE,
    TEMPERATURE,
    TEMPERATURE_RISE,
    number,
    parse,
    parse_between,
    show,
    significant,
    spoken,
)


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [
        ("4 ft 2 in", LENGTH, 1.27),
        ("127cm", LENGTH, 1.27),
        ("1.27 m", LENGTH, 1.27),
        ("1,27 m", LENGTH, 1.27),
        ("50 1/2 in", LENGTH, 1.2827),
        ("4' 2\"", LENGTH, 1.27),
        ("5'10", LENGTH, 1.778),
        ("1/2 m", LENGTH, 0.5),
        ("0", LENGTH, 0),
        ("-3 m", LENGTH, -3),
        ("1270 mm", LENGTH, 1.27),
        ("4ft2in", LENGTH, 1.27),
        ("180 m3/h", FLOW, 180),
        ("180 m³/h", FLOW, 180),
        ("50 l/s", FLOW, 180),
        ("100 CFM", FLOW, 169.901079552),
        ("75 F", TEMPERATURE, 23.888889),
        ("-5 °C", TEMPERATURE, -5),
        ("22", TEMPERATURE, 22),
        ("9 F", TEMPERATURE_RISE, 5),
        ("180 Pa", PRESSURE, 180),
        ("0.72 in wg", PRESSURE, 179.344),
        ("0.5 in H2O", PRESSURE, 124.544),
        ("18 mm w.g.", PRESSURE, 176.52),
        ("1.5 mbar", PRESSURE, 150),
        ("0.5 m/s", AIR_SPEED, 0.5),
        ("100 ft/min", AIR_SPEED, 0.508),
        ("100 fpm", AIR_SPEED, 0.508),
        ("12 m2", AREA, 12),
        ("12 m²", AREA, 12),
        ("130 sq ft", AREA, 12.077395),
        ("500 cm²", AREA, 0.05),
        ("13 h 30 min", DURATION, 13.5),
        ("60 %", PERCENT, 60),
        ("0.2kW", POWER, 200),
        ("15°", ANGLE, 15),
    ],
)
def test_reads_what_people_type(text, kind, value):
    assert parse(text, kind) == pytest.approx(value, abs=1e-3 if kind is PRESSURE else 1e-6)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "type a length, such as 127 cm"),
        ("abc", "“abc” is not a length"),
        ("12 cm 5", "a number without a unit"),
        ("3 kg", "“kg” is not a unit of length"),
        ("1/0 m", "zero below the line"),
        ("1.5e400m", "beyond any size"),
        ("9" * 70, "too long"),
        ("4 ft -2 in", "is not a length"),
    ],
)
def test_says_what_it_cannot_read(text, words):
    with pytest.raises(QuantityError, match=r"\S") as error:
        parse(text, LENGTH)
    assert words in str(error.value)


def test_names_the_accepted_range():
    with pytest.raises(QuantityError, match="width is 0 cm: give 10 cm to 1000 cm".replace(" ", ".")):
        parse_between("0", LENGTH, 0.1, 10, default_unit="centimeter", what="width")


@given(st.floats(0.01, 9.99), st.sampled_from(["metric", "us"]))
def test_what_is_shown_reads_back(value, system):
    assert parse(show(value, LENGTH, system), LENGTH) == pytest.approx(value, abs=0.0013)


@given(st.text(max_size=40))
def test_any_text_gives_a_number_or_a_clear_refusal(text):
    for kind in KINDS.values():
        try:
            found = parse(text, kind)
        except QuantityError as error:
            found = str(error)
        assert found != ""


@pytest.mark.parametrize(
    ("value", "text"), [(1234.5, "1234"), (12.345, "12.3"), (0.01234, "0.0123"), (0, "0"), (5.0, "5"), (-2.5, "−2.5")]
)
def test_rounds_sensibly(value, text):
    assert significant(value) == text


def test_small_flows_do_not_round_to_nothing():
    assert show(1.63, FLOW) == "1.6\u00a0m³/h"
    assert number(12_345.6) == "12\u202f346"


@pytest.mark.parametrize(
    ("value", "kind", "metric", "us"),
    [
        (42.8, PRESSURE, "42.8 Pa", "0.17 in wg"),
        (-14.91, PRESSURE, "−14.9 Pa", "−0.06 in wg"),
        (180, PRESSURE, "180 Pa", "0.72 in wg"),
        (0.336, AIR_SPEED, "0.34 m/s", "66 ft/min"),
        (2.5, AIR_SPEED, "2.5 m/s", "492 ft/min"),
        (19, AREA, "19 m²", "205 ft²"),
    ],
)
def test_pressures_speeds_and_areas_are_shown_in_both_systems(value, kind, metric, us):
    assert show(value, kind, "metric").replace("\u00a0", " ") == metric
    assert show(value, kind, "us").replace("\u00a0", " ") == us


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("Inline fan 150 mm, electronic", "Inline fan 6 in, electronic"),
        ("Cone 200 to 150 mm", "Cone 8 to 6 in"),
        ("adapter 125 to 100 mm (needed)", "adapter 5 to 4 in (needed)"),
        ("LED bar 90 cm, 45 W class", "LED bar 35.4 in, 45 W class"),
        ("10 trays of 28 × 26 cm", "10 trays of 11 × 10.2 in"),
        ("80 cm² of mesh, 12 V", "80 cm² of mesh, 12 V"),
        ("no size at all", "no size at all"),
    ],
)
def test_sizes_in_names_and_sentences_follow_the_person(text, said):
    assert spoken(text, "us") == said
    assert spoken(text, "metric") == text
    assert sentence(text + " {x}", x=Amount(value=0.1, unit="diameter")).say("us").startswith(said)


@pytest.mark.parametrize(
    ("value", "kind", "metric", "us"),
    [
        (0.5, "pressure", "0.5 Pa", "0.002 in wg"),
        (12.0, "pressure", "12 Pa", "0.048 in wg"),
        (180.0, "pressure", "180 Pa", "0.72 in wg"),
        (1.857, "room volume", "1.86 m³", "66 ft³"),
        (0.03, "room volume", "0.03 m³", "1.1 ft³"),
        (0.45, "area", "0.45 m²", "4.8 ft²"),
        (80.0, "small area", "80 cm²", "12 in²"),
        (27.2, "heat loss", "27.2 W/K", "52 BTU/h·°F"),
        (87.0, "water rate", "87 g/h", "3.1 oz/h"),
        (33.0, "force", "33 N", "7 lbf"),
    ],
)
def test_small_values_keep_digits_that_say_something(value, kind, metric, us):
    shown = [Amount(value=value, unit=kind).text(system).replace("\u00a0", " ") for system in ("metric", "us")]
    assert shown == [metric, us]
