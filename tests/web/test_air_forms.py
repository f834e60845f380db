"""Forms of the air: needs, rooms, ways, parts, circulation fans and own data sheets, read as people type them."""

from functools import partial

import pytest
from django import forms

from canopy.equipment import DuctSpec, FanSpec, FilterSpec, FittingSpec
from canopy.library import adapters, ducts, fans, filters, fittings, stirrers
from canopy.plan import (
    AdapterPart,
    Air,
    Airway,
    BendPart,
    DuctPart,
    FanPart,
    FilterPart,
    FittingPart,
    Opening,
    PortPart,
)
from canopy.plan.airways import OtherSpeed, usual_away
from canopy.plan.rooms import USUAL_ROOM
from canopy.schedule import Cycle, by_hand
from canopy_web.stations.air.forms import (
    AddAirPartForm,
    AirPartForm,
    AwayForm,
    NeedForm,
    RoomAirForm,
    WayForm,
    fan_choices,
    filter_choices,
    fitting_choices,
    opening_choices,
)
from canopy_web.stations.air.own_forms import (
    AddStirForm,
    CurveField,
    OwnFanForm,
    OwnFilterForm,
    OwnFittingForm,
    OwnStirForm,
    StirForm,
)
from tests.core.air.worked import FAN, exhaust, household, tent

PORT = Opening(id="port", face="left", u_m=0.4, v_m=1.6, diameter_m=0.15, use="exhaust")
SHUT = PORT.model_copy(update={"id": "shut", "face": "back", "open": False})
CABLE = PORT.model_copy(update={"id": "cable", "use": "cable"})


def as_typed(form_class, record, **typed):
    """A form as the browser would send it, with some fields typed over; None clears a box or a tick."""
    shown = form_class(record, prefix="p")
    data = {f"p-{name}": value for name, value in shown.initial.items() if value not in (None, False)}
    for name, value in typed.items():
        data[f"p-{name}"] = value
        if value is None:
            del data[f"p-{name}"]
    return form_class(record, data, prefix="p")


def valid(form):
    assert form.is_valid(), form.errors
    return form


def values(field):
    """Values a chooser offers, groups opened up."""
    found = []
    for value, text in field.choices:
        found += [value] if isinstance(text, str) else [inner for inner, _ in text]
    return found


def need(**typed):
    return as_typed(NeedForm, Air(leak_cm2=18).model_dump(mode="json"), **typed)


def test_needs_left_alone_change_nothing():
    assert valid(need()).changes() == {}


@pytest.mark.parametrize(
    ("typed", "want"),
    [
        ({"rule": "heat"}, {"rule": "heat"}),
        ({"exchange_minutes": "1,5"}, {"exchange_minutes": 1.5}),
        ({"rise_k": "3"}, {"rise_k": 3.0}),
        ({"rise_k": "9 F"}, {"rise_k": 5.0}),
        ({"max_rh_pct": "65 %"}, {"max_rh_pct": 65.0}),
        ({"filter_allowance": "30"}, {"filter_allowance": 0.3}),
        ({"leak_cm2": ""}, {"leak_cm2": None}),
        ({"noise_wish_dba": "38"}, {"noise_wish_dba": 38.0}),
        ({"listen_m": "8 ft"}, {"listen_m": 2.4384}),
        ({"door_times": "6", "door_minutes": "4"}, {"door": by_hand(6, 4).model_dump(mode="json")}),
    ],
)
def test_needs_are_read_in_any_unit(typed, want):
    got = valid(need(**typed)).changes()
    assert got.keys() == want.keys()
    assert list(got.values()) == [pytest.approx(v) if isinstance(v, float) else v for v in want.values()]


@pytest.mark.parametrize(
    ("name", "typed", "says"),
    [
        ("door_times", "2.5", "whole number"),
        ("door_times", "60", "48"),
        ("exchange_minutes", "0", "0.5"),
        ("max_rh_pct", "120", "humidity at most"),
        ("rise_k", "0", "rise above what comes in"),
        ("listen_m", "far", "far"),
        ("rule", "guess", "guess"),
    ],
)
def test_needs_out_of_reason_are_refused_where_they_stand(name, typed, says):
    form = need(**{name: typed})
    assert not form.is_valid()
    assert list(form.errors) == [name]
    assert says in str(form.errors[name])


def test_a_room_has_a_floor_only_if_one_is_given():
    record = USUAL_ROOM.model_dump(mode="json")
    got = valid(as_typed(RoomAirForm, record, floor_m2="130 ft2", exchange_per_h="0,4", loss_w_k="35")).changes()
    assert got == {"floor_m2": pytest.approx(12.077, rel=1e-3), "exchange_per_h": 0.4, "loss_w_k": 35.0}
    assert valid(as_typed(RoomAirForm, record)).changes() == {}
    assert not as_typed(RoomAirForm, record, floor_m2="0.2").is_valid()


def other_and_way(**more):
    """A way of the tent's and a plan in which a rack with a port stands beside the tent."""
    space, way = tent(exhaust(**more)), exhaust(**more)
    rack = tent().model_copy(update={"id": "rack", "name": "Rack", "openings": (CABLE, PORT, SHUT)})
    plan = household(space, rack)
    return partial(WayForm, plan=plan, space=space), way.model_dump(mode="json")


def test_a_way_may_end_in_a_room_outdoors_or_any_round_hole_of_another_space():
    form, record = other_and_way()
    offered = values(form(record).fields["end"])
    assert offered[:3] == ["room", "other-room", "outdoors"]
    assert offered[3:] == ["space:rack:", "space:rack:cable", "space:rack:port", "space:rack:shut"]


@pytest.mark.parametrize(
    ("end", "want"),
    [
        ("outdoors", {"ends": "outdoors", "space_id": None, "far_opening_id": None}),
        ("space:rack:", {"ends": "space", "space_id": "rack", "far_opening_id": None}),
        ("space:rack:port", {"ends": "space", "space_id": "rack", "far_opening_id": "port"}),
    ],
)
def test_an_end_is_spelled_out(end, want):
    form, record = other_and_way()
    assert valid(as_typed(form, record, end=end)).changes() == want
    # Shown again, the end it has is the one chosen.
    again = as_typed(form, {**record, **want})
    assert again.initial["end"] == end
    assert valid(again).changes() == {}


@pytest.mark.parametrize(("speed", "kept"), [(1.0, 1.0), (0.6, 0.6), (0.0, 1.0)])
def test_a_measured_flow_keeps_the_speed_it_was_measured_at(speed, kept):
    form, record = other_and_way(speed=speed)
    assert valid(as_typed(form, record, measured="140")).changes() == {"measured": {"flow_m3_h": 140.0, "speed": kept}}
    measured = {**record, "measured": {"flow_m3_h": 140.0, "speed": kept}}
    assert valid(as_typed(form, measured)).changes() == {}
    assert valid(as_typed(form, measured, measured="")).changes() == {"measured": None}


@pytest.mark.parametrize(
    ("on", "every", "field"), [("10", None, "every_min"), (None, "30", "on_min"), ("40", "30", "on_min")]
)
def test_a_cycle_needs_both_figures_and_must_fit(on, every, field):
    form, record = other_and_way()
    typed = {name: value for name, value in (("on_min", on), ("every_min", every)) if value}
    refused = as_typed(form, record, **typed)
    assert not refused.is_valid()
    assert list(refused.errors) == [field]


def test_a_cycle_that_fits_is_taken():
    form, record = other_and_way()
    assert valid(as_typed(form, record, on_min="10", every_min="30")).changes() == {
        "schedule": Cycle(on_min=10, every_min=30).model_dump(mode="json")
    }


def test_air_elsewhere_takes_either_scale_of_warmth():
    way = Airway(id="w", name="W", ends="outdoors")
    usual = usual_away(way)
    record = way.model_copy(update={"away": usual}).model_dump(mode="json")
    form = partial(AwayForm, shown=record["away"])
    got = valid(as_typed(form, record, day_c="50 F", night_rh_pct="90")).changes()
    assert got == {"away.day_c": pytest.approx(10.0), "away.night_rh_pct": 90.0}
    first_time = valid(as_typed(form, record | {"away": None}, night_rh_pct="90")).changes()
    assert first_time["away"] == pytest.approx(record["away"] | {"night_rh_pct": 90.0})
    assert not as_typed(form, record, day_c="80").is_valid()


def first(rows):
    return next(iter(rows.values()))


PARTS = {
    "fan": FanPart(id="p", spec=FAN),
    "filter": FilterPart(id="p", spec=first(filters()).spec),
    "duct": DuctPart(id="p", spec=DuctSpec(name="Flex"), diameter_m=0.125, length_m=1.2),
    "bend": BendPart(id="p", diameter_m=0.125),
    "adapter": AdapterPart(id="p", from_m=0.125, to_m=0.15),
    "fitting": FittingPart(id="p", spec=first(fittings()).spec),
    "port": PortPart(id="p", opening_id="port"),
}
SPACE = tent().model_copy(update={"openings": (PORT, SHUT, CABLE)})
PART_FORM = partial(AirPartForm, space=SPACE)


@pytest.mark.parametrize("kind", PARTS)
def test_a_part_has_its_own_fields_and_is_left_alone_untouched(kind):
    record = PARTS[kind].model_dump(mode="json")
    form = as_typed(PART_FORM, record)
    assert tuple(form.fields) == tuple(name for name in form.fields if name in AirPartForm.FIELDS[kind])
    assert set(form.fields) == set(AirPartForm.FIELDS[kind])
    assert valid(form).changes() == {}


@pytest.mark.parametrize(
    ("kind", "typed", "want"),
    [
        (
            "fan",
            {"speed": "60", "night_speed": "40 %", "count": "2"},
            {"speed": 0.6, "other": OtherSpeed(speed=0.4).model_dump(mode="json"), "count": 2},
        ),
        ("filter", {"loading": "1,8"}, {"loading": 1.8}),
        ("duct", {"length_m": "6 ft", "diameter_m": "4 in"}, {"length_m": 1.8288, "diameter_m": 0.1016}),
        ("duct", {"slack": "25"}, {"slack": 0.25}),
        ("bend", {"make": "mitre", "angle_deg": "45"}, {"make": "mitre", "angle_deg": 45.0}),
        ("adapter", {"make": "step", "to_m": "100 mm"}, {"make": "step", "to_m": 0.1}),
        ("port", {"opening_id": "shut"}, {"opening_id": "shut"}),
    ],
)
def test_a_part_is_read(kind, typed, want):
    got = valid(as_typed(PART_FORM, PARTS[kind].model_dump(mode="json"), **typed)).changes()
    assert got == {key: pytest.approx(value) if isinstance(value, float) else value for key, value in want.items()}


@pytest.mark.parametrize(
    ("kind", "name", "typed"),
    [
        ("fan", "count", "1.5"),
        ("fan", "count", "9"),
        ("fan", "speed", "140"),
        ("filter", "loading", "0.5"),
        ("duct", "slack", "60"),
        ("duct", "length_m", "0"),
        ("bend", "angle_deg", "270"),
        ("port", "opening_id", "cable"),
    ],
)
def test_a_part_that_cannot_be_is_refused(kind, name, typed):
    form = as_typed(PART_FORM, PARTS[kind].model_dump(mode="json"), **{name: typed})
    assert not form.is_valid()
    assert list(form.errors) == [name]


@pytest.mark.parametrize(
    ("kind", "rows", "made"),
    [
        ("fan", fans, FanSpec),
        ("filter", filters, FilterSpec),
        ("duct", ducts, DuctSpec),
        ("fitting", fittings, FittingSpec),
    ],
)
def test_every_class_of_the_library_can_be_chosen_and_brings_its_data_sheet(kind, rows, made):
    record = PARTS[kind].model_dump(mode="json")
    record["spec"]["class_id"] = None
    record["spec"]["name"] = "Mine"
    assert dict(as_typed(PART_FORM, record).fields["class_id"].choices)["own"] == "Mine"
    for key, row in rows().items():
        got = valid(as_typed(PART_FORM, record, class_id=key)).changes()
        assert made.model_validate(got["spec"]) == row.spec
        assert row.spec.class_id == key


def test_a_rigid_duct_has_no_slack():
    rigid = next(row for row in ducts().values() if not row.spec.flexible)
    record = DuctPart(id="p", spec=rigid.spec, diameter_m=0.125, length_m=1).model_dump(mode="json")
    assert "slack" not in as_typed(PART_FORM, record).fields


@pytest.mark.parametrize(("system", "shown"), [("metric", "mm"), ("us", "in")])
def test_ports_are_named_by_face_and_measure_and_cable_holes_left_out(system, shown):
    found = dict(opening_choices(SPACE, system))
    assert list(found) == ["port", "shut"]
    assert shown in found["port"]
    assert not found["port"].endswith("shut")
    assert found["shut"].endswith(", shut")


@pytest.mark.parametrize(("system", "unit"), [("metric", "m³/h"), ("us", "CFM")])
def test_choosers_speak_the_person_s_units(system, unit):
    texts = [text for _, rows in fan_choices(system) for _, text in rows]
    texts += [text for _, text in filter_choices(system)]
    assert len(texts) == len(fans()) + len(filters())
    assert all(unit.casefold() in text.casefold() for text in texts)
    assert unit.casefold() in AddStirForm({}, system=system).fields["class_id"].choices[0][1].casefold()


def test_all_that_the_library_has_can_be_added():
    offered = set(values(AddAirPartForm({}).fields["what"]))
    want = {f"fan:{key}" for key in fans()} | {f"filter:{key}" for key in filters()}
    want |= {f"duct:{key}" for key in ducts()} | {f"adapter:{key}" for key in adapters()}
    want |= {f"fitting:{key}" for key in fittings()} | {"bend:flex", "bend:smooth", "bend:mitre"}
    assert offered == want
    assert set(values(AddAirPartForm({}, can_pass=True).fields["what"])) == want | {"port:"}
    assert {key for _, rows in fitting_choices() for key, _ in rows} == set(fittings())
    assert set(values(AddStirForm({}).fields["class_id"])) == set(stirrers())


@pytest.mark.parametrize(
    ("system", "typed", "want"),
    [
        ("metric", "0 m3/h 180 Pa; 120 m³/h 90 Pa; 200 m3/h 0 Pa", [(0, 180), (120, 90), (200, 0)]),
        ("metric", "0 180\n120 90\n\n200 0", [(0, 180), (120, 90), (200, 0)]),
        ("metric", "0, 0.5 in w.g.; 100 cfm, 0", [(0, 124.5), (169.9, 0)]),
        ("us", "0 0.4\n50 0.2\n110 0", [(0, 99.6), (84.95, 49.8), (186.9, 0)]),
        ("metric", "", []),
    ],
)
def test_a_fan_s_curve_is_typed_as_points(system, typed, want):
    field = CurveField(required=False)
    field.system = system
    got = field.clean(typed)
    assert got == [pytest.approx(point, rel=2e-3) for point in want]


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("120", "is not a point"),
        ("1 2 3", "is not a point"),
        ("fast strong", "is not a point"),
        ("9000 10", "flow"),
        ("100 9000", "pressure"),
        ("100 kg 50 Pa", "kg"),
    ],
)
def test_what_is_no_point_is_said(typed, says):
    with pytest.raises(forms.ValidationError, match=says):
        CurveField(required=False).clean(typed)


SHEET = {
    "name": "Attic fan",
    "free_flow_m3_h": "286",
    "diameter_m": "125 mm",
    "power_w": "28",
    "max_pressure_pa": "238",
}


def own(form_class, **typed):
    return form_class({}, {f"p-{name}": value for name, value in typed.items()}, prefix="p")


@pytest.mark.parametrize(
    ("typed", "steps"),
    [
        ("", None),
        ("40, 60, 80, 100", [0.4, 0.6, 0.8, 1.0]),
        ("100 %; 50 %", [0.5, 1.0]),
        ("33/66/100", [0.33, 0.66, 1.0]),
    ],
)
def test_an_own_fan_with_its_steps(typed, steps):
    spec = valid(own(OwnFanForm, **SHEET, steps=typed)).spec()
    assert spec.get("steps") == steps
    made = FanSpec.model_validate(spec)
    assert (made.free_flow_m3_h, made.max_pressure_pa, made.diameter_m) == (286, 238, 0.125)


@pytest.mark.parametrize(("typed", "says"), [("slow", "percentages"), ("5, 100", "10 %"), ("40, 80", "100 %")])
def test_steps_that_cannot_be_are_refused(typed, says):
    form = own(OwnFanForm, **SHEET, steps=typed)
    assert not form.is_valid()
    assert says in str(form.errors["steps"])


@pytest.mark.parametrize("missing", ["name", "free_flow_m3_h", "diameter_m", "power_w"])
def test_an_own_fan_needs_its_sheet(missing):
    form = own(OwnFanForm, **{name: value for name, value in SHEET.items() if name != missing})
    assert not form.is_valid()
    assert list(form.errors) == [missing]


def test_an_own_filter_with_a_bed_is_as_wide_inside_as_its_spigot():
    sheet = {"name": "Drum", "diameter_m": "125", "rated_flow_m3_h": "248", "rated_pressure_pa": "64"}
    plain = valid(own(OwnFilterForm, **sheet)).spec()
    assert "bed_inner_m" not in plain
    bed = valid(own(OwnFilterForm, **sheet, bed_thickness_m="38 mm", bed_length_m="40 cm")).spec()
    assert bed["bed_inner_m"] == 0.125
    given = valid(
        own(OwnFilterForm, **sheet, bed_thickness_m="38 mm", bed_length_m="40 cm", bed_inner_m="90 mm")
    ).spec()
    assert given["bed_inner_m"] == 0.09
    for spec in (plain, bed, given):
        FilterSpec.model_validate(spec)


@pytest.mark.parametrize("sort", [sort for sort, _ in OwnFittingForm.SORTS])
def test_an_own_fitting_of_each_sort(sort):
    spec = valid(own(OwnFittingForm, name="Thing", sort=sort, diameter_m="5 in", loss="1,4")).spec()
    assert FittingSpec.model_validate(spec).loss == 1.4
    assert spec["diameter_m"] == pytest.approx(0.127)
    assert not own(OwnFittingForm, name="Thing", sort=sort, diameter_m="5 in", loss="-1").is_valid()


def test_an_own_stirring_fan():
    spec = valid(own(OwnStirForm, name="Clip", flow_m3_h="300", diameter_m="15 cm", power_w="6", sweep_deg="90")).spec()
    assert spec == {"name": "Clip", "flow_m3_h": 300.0, "diameter_m": 0.15, "power_w": 6.0, "sweep_deg": 90.0}


STIR = {
    "x_m": 0.2,
    "y_m": 0.3,
    "z_m": 1.1,
    "yaw_deg": 40,
    "pitch_deg": -10,
    "speed": 0.7,
    "schedule": {"kind": "always"},
    "swings": True,
    "enabled": True,
}


@pytest.mark.parametrize(
    ("typed", "want"),
    [
        ({}, {}),
        ({"z_m": "3 ft", "yaw_deg": "-90"}, {"z_m": 0.9144, "yaw_deg": -90.0}),
        ({"swings": None, "enabled": None}, {"swings": False, "enabled": False}),
        (
            {"speed": "40", "on_min": "15", "every_min": "60"},
            {"speed": 0.4, "schedule": Cycle(on_min=15, every_min=60).model_dump(mode="json")},
        ),
    ],
)
def test_a_stirring_fan_in_its_place(typed, want):
    got = valid(as_typed(StirForm, STIR, **typed)).changes()
    assert got == {key: pytest.approx(value) if isinstance(value, float) else value for key, value in want.items()}


def test_a_stirring_fan_does_not_stand_still_at_speed_nought():
    assert list(as_typed(StirForm, STIR, speed="0").errors) == ["speed"]
