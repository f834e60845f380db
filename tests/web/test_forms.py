"""Forms: what is typed is read, what is not touched is left alone."""

from functools import partial

import pytest
from django import forms

from canopy.equipment import FixtureSpec
from canopy.errors import PlanError, PlanProblem
from canopy.library import crops, fixtures
from canopy.light.spectra import band_shares, spectrum_of
from canopy.quantities import DIAMETER, LENGTH, PERCENT
from canopy_web.forms.choices import crop_choices, lamp_choices
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.own_lamp import OwnLampForm
from canopy_web.household.forms import CircuitForm, ImportForm, NewSpaceForm
from canopy_web.stations.crops.forms import AddPlantsForm, ManyForm, PlantForm
from canopy_web.stations.light.lamp_forms import LampForm
from canopy_web.stations.space.forms import FaceForm

LAMP = {
    "x_m": 0.4234,
    "y_m": 0.3,
    "z_m": 1.0163,
    "dim": 0.62,
    "schedule": {"kind": "daily", "start": "06:00", "hours": 14.5, "ramp_up_min": 0, "ramp_down_min": 0},
    "yaw_deg": 0,
    "tilt_deg": 0,
    "pitch_deg": 0,
    "enabled": True,
}


def _typed(form_class, record, prefix="p", **typed):
    """A form as the browser would send it, with some fields typed over."""
    shown = form_class(record, prefix=prefix)
    data = {f"{prefix}-{name}": value for name, value in shown.initial.items() if value not in (None, False)}
    data |= {f"{prefix}-{name}": value for name, value in typed.items() if value is not None}
    for name, value in typed.items():
        if value is None:
            data.pop(f"{prefix}-{name}")
    return form_class(record, data, prefix=prefix)


@pytest.mark.parametrize(
    ("system", "value", "shown", "typed", "read"),
    [
        ("metric", 1.27, "127 cm", "90", 0.9),
        ("us", 1.27, "50 in", "90", 2.286),
        ("us", 1.27, "50 in", "90 cm", 0.9),
        ("metric", 0.0, "0 cm", "3 ft", 0.9144),
    ],
)
def test_a_bare_number_is_in_the_person_s_own_unit(system, value, shown, typed, read):
    field = QuantityField(LENGTH, 0, 10)
    field.system = system
    assert field.write(value) == shown
    assert field.clean(typed) == pytest.approx(read)


def test_shares_are_shown_in_percent_and_diameters_in_millimetres():
    share, hole = QuantityField(PERCENT, 0, 1, per=100), QuantityField(DIAMETER, 0.005, 1)
    assert share.write(0.62) == "62 %"
    assert share.clean("45") == pytest.approx(0.45)
    assert hole.write(0.125) == "125 mm"
    assert hole.clean("4 in") == pytest.approx(0.1016)
    with pytest.raises(forms.ValidationError, match="share is 140"):
        share.clean("140")


def test_optional_quantities_may_be_left_open():
    field = QuantityField(LENGTH, 0, 1, optional=True)
    assert field.clean("  ") is None
    assert field.write(None) == ""
    with pytest.raises(forms.ValidationError, match="type a"):
        QuantityField(LENGTH, 0, 1).clean("")


@pytest.mark.parametrize(("typed", "read"), [("0,31", 0.31), ("0.31", 0.31), (" 7 ", 7.0)])
def test_numbers_take_a_comma_or_a_point(typed, read):
    assert NumberField().clean(typed) == read


def test_untouched_fields_keep_their_exact_value():
    form = _typed(LampForm, LAMP)
    assert form.is_valid(), form.errors
    assert form.changes() == {}
    form = _typed(LampForm, LAMP, z_m="1.2 m", enabled=None)
    assert form.is_valid()
    assert form.changes() == {"z_m": pytest.approx(1.2), "enabled": False}


def test_a_refusal_of_the_plan_is_shown_at_its_field_or_above_all():
    form = _typed(LampForm, LAMP, z_m="1.2 m")
    assert form.is_valid()
    form.take(
        PlanError(
            [
                PlanProblem(path="spaces[0].fixtures[0].z_m", message="too high"),
                PlanProblem(path="spaces[0].name", message="no name"),
            ]
        )
    )
    assert form.errors["z_m"] == ["Too high"]
    assert form.non_field_errors() == ["No name"]


PLANT = {
    "crop_id": "tatsoi",
    "stage": "vegetative",
    "x_m": 0.1,
    "y_m": 0.1,
    "base_m": 0,
    "pot_height_m": 0.1,
    "height_m": 0.3,
    "spread_m": 0.3,
}


@pytest.mark.parametrize(
    ("typed", "want"),
    [
        ({"stage": "seedling"}, {"stage": "seedling", "height_m": 0.05, "spread_m": 0.07}),
        ({"stage": "seedling", "height_m": "4 cm"}, {"stage": "seedling", "height_m": 0.04, "spread_m": 0.07}),
        ({"x_m": "20"}, {"x_m": 0.2}),
    ],
)
def test_a_new_stage_brings_its_size(typed, want):
    form = _typed(partial(PlantForm, crop=crops()["tatsoi"]), PLANT, **typed)
    assert form.is_valid(), form.errors
    assert form.changes() == {
        key: pytest.approx(value) if isinstance(value, float) else value for key, value in want.items()
    }


@pytest.mark.parametrize(
    ("crop", "stage", "fine"), [("tatsoi", "seedling", True), ("tatsoi", "fruit", False), ("tatsoi", "", True)]
)
def test_only_a_crop_s_own_stages_are_taken(crop, stage, fine):
    form = AddPlantsForm({}, {"a-crop_id": crop, "a-stage": stage, "a-count": "2"}, prefix="a")
    assert form.is_valid() is fine
    assert fine or "no such stage: use seedling, vegetative" in form.errors["stage"][0]


def test_repeats_need_a_first_day_and_many_keeps_what_is_left_open():
    form = AddPlantsForm({}, {"a-crop_id": "tatsoi", "a-count": "2", "a-times": "3"}, prefix="a")
    assert "on which day" in form.errors["starts_on"][0]
    many = ManyForm({}, {"m-height_m": "20 cm", "m-stage": "", "m-habit": "hang"}, prefix="m")
    assert many.is_valid(), many.errors
    assert many.given() == {"height_m": 0.2, "habit": "hang"}


def test_a_new_lining_brings_its_own_reflectance():
    form = _typed(FaceForm, {"material_id": "glass", "reflectance": 0.2}, material_id="white-paint")
    assert form.is_valid()
    assert form.changes() == {"material_id": "white-paint", "reflectance": None}


@pytest.mark.parametrize(
    ("output", "amount", "want"),
    [
        ("ppf", "240", {"kind": "ppf", "ppf_umol_s": 240}),
        ("efficacy", "2,6", {"kind": "efficacy", "efficacy_umol_per_j": 2.6}),
        ("lumens", "9000", {"kind": "lumens", "flux_lm": 9000, "source_id": "hps", "cct_k": 4000}),
    ],
)
def test_a_lamp_s_light_can_be_stated_in_three_ways(output, amount, want):
    data = {
        "name": "Mine",
        "power_w": "100 W",
        "output": output,
        "amount": amount,
        "source_id": "hps",
        "length_m": "2 ft",
        "width_m": "10 cm",
        "beam_angle_deg": "60",
        "min_distance_m": "20 cm",
    }
    form = OwnLampForm({}, {f"o-{key}": value for key, value in data.items()}, prefix="o")
    assert form.is_valid(), form.errors
    spec = form.spec()
    assert spec["output"] == want
    # However it is stated, a sodium lamp stays one.
    assert (spec["technology"], spec["spectrum_id"]) == ("hps", "hps")
    assert (spec["emission"], spec["beam_angle_deg"], spec["min_distance_m"]) == ("beam", 60, 0.2)


@pytest.mark.parametrize("output", ["ppf", "efficacy", "lumens"])
def test_a_white_lamp_keeps_its_colour_however_it_is_stated(output):
    data = {"name": "Mine", "power_w": "50", "output": output, "amount": "2", "length_m": "50", "width_m": "5"}
    shares = []
    for colour in ("2700", "6500"):
        typed = data | {"source_id": "white-led", "cct_k": colour}
        form = OwnLampForm({}, {f"o-{key}": value for key, value in typed.items()}, prefix="o")
        assert form.is_valid(), form.errors
        spec = FixtureSpec.model_validate(form.spec())
        shares.append(band_shares(spectrum_of(spec)))
    assert shares[0]["blue"] < 0.6 * shares[1]["blue"]
    assert shares[0]["red"] > 1.3 * shares[1]["red"]
    red = data | {"source_id": "red-blue"}
    form = OwnLampForm({}, {f"o-{key}": value for key, value in red.items()}, prefix="o")
    assert form.is_valid() == (output != "lumens")


def test_a_new_rule_set_brings_its_breaker_and_mains():
    record = {"name": "C", "rule_set_id": "eu-16", "breaker_a": 16, "mains_v": 230}
    form = _typed(CircuitForm, record, rule_set_id="na-15")
    assert form.is_valid()
    assert form.changes() == {"rule_set_id": "na-15", "breaker_a": 15, "mains_v": 120}


def test_choices_hold_the_whole_library():
    assert sum(len(rows) for _, rows in crop_choices()) == len(crops())
    assert sum(len(rows) for _, rows in lamp_choices()) == len(fixtures())


def test_a_space_is_named_after_its_crop_and_kind():
    data = {
        "new-kind": "glass-case",
        "new-width_m": "50",
        "new-depth_m": "40",
        "new-height_m": "45",
        "new-crop_id": "lettuce-butterhead",
        "new-name": " ",
    }
    form = NewSpaceForm({}, data, prefix="new")
    assert form.is_valid(), form.errors
    assert form.cleaned_data["name"] == "Lettuce glass case"


def test_an_import_without_a_file_says_so():
    form = ImportForm({}, {})
    assert form.errors["file"] == ["Choose a plan file first."]
