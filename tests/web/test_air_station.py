"""The Air station: ways of air from their rows, own data sheets, speeds, layouts, circulation fans, which fan and
filter.
"""

import re

import pytest

from canopy.evaluate import evaluate_space
from canopy.plan.airways import OtherSpeed
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy_web.drawing.airpath import LETTERS
from canopy_web.drawing.sheet import sheet
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import to_plan
from canopy_web.stations.air.forms import AirPartForm, NeedForm, WayForm
from canopy_web.stations.air.own_forms import CurveField, OwnFanForm
from canopy_web.stations.air.station import AIR

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}

AIR_TABS = [tab.key for tab in AIR.tabs]


@pytest.fixture
def tent(grower, demo_plan):
    """The demo household as the person's own."""
    return actions.create_plan(grower, demo_plan)


@pytest.fixture
def air(tent):
    return f"/plans/{tent.pk}/spaces/berry-tent/air/"


def _space(row, place=0):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk)).spaces[place]


def _plan(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))


def _way(row):
    return _space(row).airways[0]


def _shown(client, air, prefix, tab="path"):
    """What the browser would send for the fields of one form, as they are shown."""
    page = client.get(f"{air}?tab={tab}").text
    found = dict(re.findall(rf'name="({re.escape(prefix)}-[\w.]+)" value="([^"]*)"', page))
    for name, options in re.findall(rf'<select[^>]*name="({re.escape(prefix)}-[\w.]+)"[^>]*>(.*?)</select>', page):
        found[name] = re.search(r'value="([^"]*)" selected', options)[1]
    return found


def _post(client, url, **data):
    return client.post(url, data, headers=HTMX).text.replace("\u00a0", " ")


@pytest.mark.parametrize("tab", AIR_TABS)
@pytest.mark.parametrize("space", ["berry-tent", "hall-closet", "sideboard", "fern-case"])
def test_each_leaf_opens_for_every_space(mine, tent, tab, space):
    page = mine.get(f"/plans/{tent.pk}/spaces/{space}/air/?tab={tab}").text
    assert 'aria-current="page"' in page
    assert 'id="view-front"' in page


def test_the_drawing_shows_the_path_port_to_port(mine, air):
    page = mine.get(air).text
    assert [f">A{n}<" in page for n in (1, 2, 3, 5, 6, 7)] == [True] * 6
    assert 'class="thread"' in page
    assert 'class="fan-line now"' in page
    assert "stalls" not in page


@pytest.mark.parametrize(
    ("part", "typed", "want"),
    [
        ("fan", {"speed": "70 %"}, {"speed": 0.7}),
        ("fan", {"night_speed": "0"}, {"other": OtherSpeed(speed=0)}),
        ("fan", {"count": "2"}, {"count": 2}),
        ("duct-1", {"length_m": "3 ft"}, {"length_m": pytest.approx(0.9144)}),
        ("duct-2", {"slack": "4 %", "diameter_m": "5 in"}, {"slack": 0.04, "diameter_m": 0.127}),
        ("bend-1", {"make": "smooth", "angle_deg": "45"}, {"make": "smooth", "angle_deg": 45}),
        ("filter", {"loading": "2,5"}, {"loading": 2.5}),
        ("port", {"opening_id": "port-2"}, {"opening_id": "port-2"}),
    ],
)
def test_a_part_is_changed_from_its_row(mine, air, tent, part, typed, want):
    sent = _shown(mine, air, f"exhaust-{part}") | {f"exhaust-{part}-{key}": value for key, value in typed.items()}
    _post(mine, f"{air}way/exhaust/part/{part}/", **sent)
    after = next(item for item in _way(tent).parts if item.id == part)
    assert {key: getattr(after, key) for key in want} == want
    states = PlanState.objects.count()
    _post(mine, f"{air}way/exhaust/part/{part}/", **_shown(mine, air, f"exhaust-{part}"))
    assert PlanState.objects.count() == states


def test_another_class_brings_its_data_sheet(mine, air, tent):
    sent = _shown(mine, air, "exhaust-fan") | {"exhaust-fan-class_id": "inline-150"}
    _post(mine, f"{air}way/exhaust/part/fan/", **sent)
    assert (_way(tent).fans[0].spec.free_flow_m3_h, _way(tent).fans[0].speed) == (520, 1)


@pytest.mark.parametrize(
    ("part", "typed", "words"),
    [
        ("duct-1", {"length_m": "200 m"}, "length is 20 000 cm: give 1 cm to 3000 cm"),
        ("duct-1", {"diameter_m": "0"}, "give 20 mm to 600 mm"),
        ("fan", {"count": "1,5"}, "give 1, 2, 3 or 4"),
        ("fan", {"speed": "fast"}, "“fast” is not a share"),
        ("bend-1", {"angle_deg": "400"}, "give 5° to 180°"),
    ],
)
def test_what_cannot_be_is_kept_and_explained(mine, air, part, typed, words):
    states = PlanState.objects.count()
    sent = _shown(mine, air, f"exhaust-{part}") | {f"exhaust-{part}-{key}": value for key, value in typed.items()}
    text = _post(mine, f"{air}way/exhaust/part/{part}/", **sent)
    assert words in text
    assert all(f'value="{value}"' in text for value in typed.values())
    assert PlanState.objects.count() == states


def test_parts_are_added_moved_and_taken_out(mine, air, tent):
    for what in (
        "fitting:muffler-100",
        "filter:filter-125",
        "duct:rigid-steel",
        "bend:smooth",
        "adapter:cone-125-100",
        "fan:axial-100",
    ):
        _post(mine, f"{air}way/exhaust/add/", **{"add-exhaust-what": what})
    kinds = [part.kind for part in _way(tent).parts]
    assert kinds[:3] == ["filter", "fan", "filter"]
    assert kinds[-4:] == ["fitting", "duct", "bend", "adapter"]
    assert _way(tent).parts[-3].diameter_m == 0.1
    ids = [part.id for part in _way(tent).parts]
    _post(mine, f"{air}way/exhaust/part/{ids[0]}/later/")
    assert [part.id for part in _way(tent).parts][:2] == [ids[1], ids[0]]
    _post(mine, f"{air}way/exhaust/part/{ids[0]}/sooner/")
    _post(mine, f"{air}way/exhaust/part/{ids[0]}/remove/")
    assert [part.id for part in _way(tent).parts] == ids[1:]
    assert mine.post(f"{air}way/exhaust/part/{ids[0]}/remove/", headers=HTMX).status_code == 404
    _post(mine, f"{air}way/exhaust/part/{ids[-1]}/to/", onto=ids[1])
    assert _way(tent).parts[0].id == ids[-1]
    assert mine.post(f"{air}way/exhaust/part/{ids[-1]}/to/", {"onto": "nothing"}, headers=HTMX).status_code == 404
    assert mine.post(f"{air}way/exhaust/part/{ids[1]}/twist/", headers=HTMX).status_code == 404
    _post(mine, f"{air}way/exhaust/part/port/remove/")
    assert _way(tent).port is None
    _post(mine, f"{air}way/exhaust/add/", **{"add-exhaust-what": "port:"})
    assert _way(tent).port.opening_id == "port-1"


def test_a_way_is_led_elsewhere_cycled_and_measured(mine, air, tent):
    sent = _shown(mine, air, "way-exhaust")
    _post(
        mine,
        f"{air}way/exhaust/",
        **sent | {"way-exhaust-end": "outdoors", "way-exhaust-on_min": "15", "way-exhaust-every_min": "60"},
    )
    assert (_way(tent).ends, _way(tent).duty(())) == ("outdoors", 0.25)
    assert "carbon monoxide alarm" in mine.get(air).text
    assert 'name="away-exhaust-day_c"' not in mine.get(air).text
    _post(mine, f"{air}way/exhaust/", **_shown(mine, air, "way-exhaust") | {"way-exhaust-way": "in"})
    _post(mine, f"{air}way/exhaust/away/", **_shown(mine, air, "away-exhaust") | {"away-exhaust-day_c": "50 F"})
    assert _way(tent).away.day_c == pytest.approx(10)
    _post(mine, f"{air}way/exhaust/", **_shown(mine, air, "way-exhaust") | {"way-exhaust-way": "out"})
    _post(
        mine, f"{air}way/exhaust/", **_shown(mine, air, "way-exhaust") | {"way-exhaust-end": "space:hall-closet:port-2"}
    )
    assert (_way(tent).ends, _way(tent).space_id, _way(tent).far_opening_id) == ("space", "hall-closet", "port-2")
    _post(mine, f"{air}way/exhaust/", **_shown(mine, air, "way-exhaust") | {"way-exhaust-measured": "33 CFM"})
    assert (_way(tent).measured.flow_m3_h, _way(tent).measured.speed) == (pytest.approx(56.1, abs=0.1), 1)
    for typed, words in (
        ({"on_min": "9", "every_min": ""}, "needs both"),
        ({"on_min": "90", "every_min": "60"}, "cannot run 90 of every 60"),
    ):
        changed = {f"way-exhaust-{key}": value for key, value in typed.items()}
        assert words in _post(mine, f"{air}way/exhaust/", **_shown(mine, air, "way-exhaust") | changed)
    _post(mine, f"{air}part/airways/exhaust/remove/")
    assert _space(tent).airways == ()
    assert "No fan moves air here" in mine.get(air).text


def test_speeds_are_set_from_the_table(mine, air, tent):
    _post(mine, f"{air}way/exhaust/speed/", speed="0.7")
    assert _way(tent).fans[0].speed == 0.7
    assert mine.post(f"{air}way/exhaust/speed/", {"speed": "x"}, headers=HTMX).status_code == 404
    assert mine.post(f"{air}way/none/speed/", {"speed": "1"}, headers=HTMX).status_code == 404


SHEET = {"name": "Mine", "free_flow_m3_h": "118 CFM", "diameter_m": "4 in", "power_w": "22", "steps": "40 60 80 100 %"}


def test_own_fans_come_by_pressure_or_by_points(mine, air, tent):
    def send(**more):
        return _post(mine, f"{air}way/exhaust/fan/", **{f"fan-exhaust-{k}": v for k, v in {**SHEET, **more}.items()})

    send(max_pressure_pa="0.7 in wg")
    fan = _way(tent).fans[0].spec
    assert (fan.free_flow_m3_h, fan.max_pressure_pa) == (pytest.approx(200.5, abs=0.1), pytest.approx(174.4, abs=0.2))
    assert fan.steps == (0.4, 0.6, 0.8, 1.0)
    send(curve="0 m3/h 180 Pa\n100 m3/h, 120 Pa\n200 m³/h 0 Pa")
    assert _way(tent).fans[0].spec.curve == ((0, 180), (100, 120), (200, 0))
    states = PlanState.objects.count()
    assert "climbs from 60 to 140 Pa" in send(curve="0 100; 50 60; 80 140; 120 0")
    assert "is not a point" in send(curve="half of it")
    assert "give percentages" in send(steps="low high")
    assert "up to 100 %" in send(steps="40 60")
    assert PlanState.objects.count() == states
    _post(
        mine,
        f"{air}way/exhaust/filter/",
        **{
            "filter-exhaust-name": "Mine",
            "filter-exhaust-diameter_m": "125 mm",
            "filter-exhaust-rated_flow_m3_h": "250",
            "filter-exhaust-rated_pressure_pa": "60 Pa",
            "filter-exhaust-bed_thickness_m": "38 mm",
            "filter-exhaust-bed_length_m": "40 cm",
        },
    )
    strain = _way(tent).filters[0].spec
    assert (strain.name, strain.bed_inner_m, strain.bed_length_m) == ("Mine", 0.125, 0.4)


def test_a_fitting_of_one_s_own_goes_to_the_end(mine, air, tent):
    _post(
        mine,
        f"{air}way/exhaust/fitting/",
        **{
            "fitting-exhaust-name": "Old louvre",
            "fitting-exhaust-sort": "grille",
            "fitting-exhaust-diameter_m": "4 in",
            "fitting-exhaust-loss": "3,5",
        },
    )
    last = _way(tent).parts[-1]
    assert (last.kind, last.spec.name, last.spec.loss) == ("fitting", "Old louvre", 3.5)


@pytest.mark.parametrize(
    ("kind", "count"), [("exhaust", 1), ("filtered", 1), ("intake", 1), ("push-pull", 2), ("loop", 4)]
)
def test_usual_layouts_are_one_click(mine, tent, kind, count):
    base = f"/plans/{tent.pk}/spaces/sideboard/air/"
    _post(mine, f"{base}add/{kind}/")
    space = _space(tent, 2)
    assert len(space.airways) == count
    assert mine.get(base).status_code == 200
    _post(mine, f"{base}undo/")
    assert _space(tent, 2).airways == ()


def test_a_loop_needs_a_second_space(mine, row):
    assert "no other space" in _post(mine, f"/plans/{row.pk}/spaces/box/air/add/loop/")


def test_what_is_asked_is_typed_and_the_room_answers(mine, air, tent):
    sent = _shown(mine, air, "need", "need")
    _post(
        mine,
        f"{air}need/",
        **sent | {"need-rise_k": "7 F", "need-count_allowance": "on", "need-noise_wish_dba": "40", "tab": "need"},
    )
    after = _space(tent).air
    assert (after.rise_k, after.count_allowance, after.noise_wish_dba) == (pytest.approx(3.89, abs=0.01), True, 40)
    assert "0 to 48" in _post(mine, f"{air}need/", **sent | {"need-door_times": "2,5", "tab": "need"})
    room = _shown(mine, air, "room-air", "need")
    text = _post(mine, f"{air}room/", **room | {"room-air-floor_m2": "60 ft2", "tab": "need"})
    assert _plan(tent).rooms[0].floor_m2 == pytest.approx(5.57, abs=0.01)
    assert "the room gets" in text


def test_stirring_fans_are_hung_moved_and_cycled(mine, air, tent):
    part = f"{air}part/"
    _post(mine, f"{air}stir/add/", **{"add-stir-class_id": "usb-140"})
    _post(
        mine,
        f"{air}stir/own/",
        **{
            "own-stir-name": "Mine",
            "own-stir-flow_m3_h": "60",
            "own-stir-diameter_m": "12 cm",
            "own-stir-power_w": "3",
            "own-stir-sweep_deg": "",
            "own-stir-noise_dba_1m": "",
        },
    )
    fans = _space(tent).stirrers
    assert [fan.id for fan in fans] == ["stirrer-1", "stirrer-20", "stirrer-21"]
    assert fans[2].spec.diameter_m == 0.12
    _post(mine, f"{part}stirrers/stirrer-20/move/", x_m="0.9", z_m="1.2")
    assert (_space(tent).stirrers[1].x_m, _space(tent).stirrers[1].z_m) == (0.9, 1.2)
    sent = _shown(mine, air, "stirrer-20", "stir") | {
        "stirrer-20-on_min": "10",
        "stirrer-20-every_min": "30",
        "stirrer-20-enabled": "on",
    }
    _post(mine, f"{part}stirrers/stirrer-20/", **sent)
    assert _space(tent).stirrers[1].duty(()) == pytest.approx(1 / 3)
    assert "outside the space" in _post(
        mine, f"{part}stirrers/stirrer-20/", **sent | {"stirrer-20-x_m": "3 m", "tab": "stir"}
    )
    _post(mine, f"{part}stirrers/stirrer-20/remove/")
    assert len(_space(tent).stirrers) == 2


def test_an_opening_slides_on_its_face(mine, air, tent):
    part = f"{air}part/"
    _post(mine, f"{part}openings/port-1/move/", v_m="1.5")
    assert _space(tent).openings[0].v_m == 1.5
    assert "reaches over the edge" in _post(mine, f"{part}openings/port-1/move/", v_m="1.84")
    _post(mine, f"{part}openings/port-1/remove/")
    assert _way(tent).port is None


def test_the_search_goes_on_until_all_sets_are_tried_and_fits_one(mine, air, tent):
    text = mine.get(f"{air}sets/?filter=1").text
    for _ in range(20):
        if "All " in text:
            break
        assert "sets tried" in text
        text = mine.get(f"{air}sets/?filter=1").text
    assert "smallest" in text
    assert "quietest" in text
    key = re.search(r"/air/sets/([\w.-]+)/", text)[1]
    shown = mine.get(f"{air}sets/{key}/").text
    assert "What it moves" in shown
    _post(mine, f"{air}sets/{key}/")
    report = evaluate_space(to_plan(GrowPlan.objects.get(pk=tent.pk)), _space(tent), with_map=False)
    assert report.margin("air.flow").verdict == "good"
    assert "already" in mine.get(f"{air}sets/{key}/").text
    assert mine.get(f"{air}sets/none.at-all/").status_code == 404
    assert "smallest" in mine.get(f"{air}sets/?filter=0").text


def test_mending_a_short_airflow_takes_one_click(mine, grower, demo_plan):
    # Sized by the exchange that somebody chose: a rule of thumb decides only then.
    chosen = apply(demo_plan, "berry-tent", [Change(values={"air.rule": "exchange"})])
    tent = actions.create_plan(grower, chosen)
    base = f"/plans/{tent.pk}/spaces/berry-tent/"
    shown = mine.get(f"{base}light/remedy/air.flow/").text
    assert "Fit Inline fan 100 mm" in shown
    assert "Noise" in shown
    _post(mine, f"{base}light/remedy/air.flow/", station="air")
    report = evaluate_space(to_plan(GrowPlan.objects.get(pk=tent.pk)), _space(tent), with_map=False)
    assert report.margin("air.flow").verdict == "good"


def test_forms_read_what_is_written():
    field = CurveField(required=False)
    field.system = "us"
    ((flow, pressure), *_) = field.clean("100 0.5; 50 0.7")
    assert (flow, pressure) == (pytest.approx(169.9, abs=0.1), pytest.approx(124.5, abs=0.1))
    assert field.clean("") == []
    assert {"rule", "rise_k", "door_times"} <= set(NeedForm({}).fields)
    assert set(AirPartForm.FIELDS) == {"fan", "filter", "duct", "bend", "adapter", "fitting", "hood", "port"}
    assert "measured" in WayForm.base_fields
    assert "curve" in OwnFanForm.base_fields


@pytest.mark.parametrize("name", ["berry-tent", "hall-closet"])
def test_parts_are_drawn_in_order_and_inside_the_shell(demo_plan, name):
    space = demo_plan.space(name)
    report = evaluate_space(demo_plan, space, with_map=False)
    view = sheet(report, "metric", air=True).front
    assert {mark.id for mark in view.air} == {part.id for part in space.airways[0].parts if part.kind != "port"}
    assert all(mark.label[0] == LETTERS[0] for mark in view.air)
    box = view.box
    for mark in view.air:
        xs = [float(pair.split()[0]) for pair in mark.body.strip("MZ").split("L")]
        ys = [float(pair.split()[1]) for pair in mark.body.strip("MZ").split("L")]
        inside = space.airways[0].is_inside(mark.id)
        within = (
            box.x - 1 <= min(xs)
            and max(xs) <= box.x + box.w + 1
            and box.y - 1 <= min(ys)
            and max(ys) <= box.y + box.h + 1
        )
        assert within is inside
        assert min(xs) >= -5
        assert max(xs) <= view.width
        assert min(ys) >= -5
    (run,) = view.runs
    assert run.end == "room"
    assert "m³/h" in run.flow
    assert len(view.flows) == 1
    assert view.flows[0].title.endswith("in by itself")
    assert view.stirrers[0].jet
    assert sheet(report, "metric").front.air == ()


def test_a_household_kept_by_version_one_opens_with_its_fan_as_a_way(mine, row, small_plan):
    import json
    import zlib

    from tests.core.plan.test_airways import old_plan

    old = json.dumps(old_plan(small_plan)).encode()
    state = row.head
    state.document = zlib.compress(old)
    state.save()
    page = mine.get(f"/plans/{row.pk}/spaces/box/air/").text
    assert "A1" in page
    assert _way(row).fans[0].spec.name == "Old"
