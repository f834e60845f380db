"""The Light station: its leaves, files, bars, points, proposals, survey and outdoors."""

import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from canopy.light.spectra import lux_factor
from canopy.light.survey import fit_survey
from canopy.plan.changes import Change
from canopy_web.logbook.querysets import survey_record, surveys_of
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}
IES = (
    b"IESNA:LM-63-2002\r\n[LUMINAIRE] Test bar\r\nTILT=NONE\r\n1 1500 1 4 1 1 2 0.1 0.4 0\r\n1 1 18\r\n0 30 "
    b"60 90\r\n0\r\n"
    b"477 413 239 0\r\n"
)


@pytest.fixture
def base(row):
    return f"/plans/{row.pk}/spaces/box/"


def _space(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk)).spaces[0]


def _post(mine, address, data=None, tab="lamps", **more):
    data = {"tab": tab, **(data or {})}
    return mine.post(address, data, headers=HTMX, **more).text.replace("\u00a0", " ")


@pytest.mark.parametrize("tab", ["lamps", "leaves", "backwards", "survey", "outdoors"])
def test_each_tab_shows_itself(mine, base, tab):
    text = mine.get(f"{base}light/", {"tab": tab}).text
    assert f'?tab={tab}" aria-current="page"' in text
    assert 'id="view-plan"' in text


@pytest.mark.parametrize("tab", ["lamps", "leaves", "backwards", "survey", "outdoors"])
def test_each_leaf_stands_in_an_empty_space(mine, base, row, tab):
    for lamp in _space(row).fixtures:
        _post(mine, f"{base}light/part/fixtures/{lamp.id}/remove/")
    for plant in _space(row).plants:
        mine.post(f"{base}crops/part/plants/{plant.id}/remove/", headers=HTMX)
    assert not _space(row).fixtures
    assert not _space(row).plants
    assert mine.get(f"{base}light/", {"tab": tab}).status_code == 200


def test_a_lamp_hangs_from_its_file(mine, base, row):
    before = len(_space(row).fixtures)
    text = _post(mine, f"{base}light/lamps/file/", {"photometry": SimpleUploadedFile("bar.ies", IES)})
    assert "Test bar hangs over the plants" in text
    lamp = _space(row).fixtures[-1]
    assert len(_space(row).fixtures) == before + 1
    assert (lamp.spec.emission, lamp.spec.power_w, lamp.spec.length_m) == ("photometric", 18, 0.4)
    # What its intensities sum up to, about what its lamp is rated at.
    assert lamp.spec.output.flux_lm == pytest.approx(1500, rel=0.05)


def test_what_was_typed_goes_before_the_file_and_a_spectrum_comes_along(mine, base, row):
    spectrum = SimpleUploadedFile("red.csv", b"nm,power\n640,0\n660,1\n680,0\n")
    data = {
        "photometry": SimpleUploadedFile("bar.ies", IES),
        "power_w": "20 W",
        "ppf_umol_s": "44",
        "spectrum": spectrum,
    }
    _post(mine, f"{base}light/lamps/file/", data)
    lamp = _space(row).fixtures[-1]
    assert (lamp.spec.power_w, lamp.spec.output.ppf_umol_s, len(lamp.spec.spectrum)) == (20, 44, 3)


def test_a_file_with_absolute_photometry_needs_nothing_else(mine, base, row):
    raw = IES.replace(b"1 1500 1 4", b"1 -1 1 4")
    data = {"photometry": SimpleUploadedFile("x.ies", raw), "source_id": "hps"}
    _post(mine, f"{base}light/lamps/file/", data)
    lamp = _space(row).fixtures[-1]
    assert lamp.spec.output.flux_lm == pytest.approx(1500, rel=0.05)
    assert (lamp.spec.technology, lamp.spec.output.source_id) == ("hps", "hps")


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({}, "Choose a photometric file first"),
        ({"photometry": SimpleUploadedFile("x.ies", b"hello")}, "neither an IES file"),
        ({"photometry": SimpleUploadedFile("x.ies", IES.replace(b"413", b"-413"))}, "Line 8"),
        ({"photometry": SimpleUploadedFile("x.ies", b"TILT=NONE\n" + b"1 " * 5_000_000)}, "MB"),
        ({"photometry": SimpleUploadedFile("x.ies", IES), "power_w": "much"}, "is not a number"),
        ({"photometry": SimpleUploadedFile("x.ies", IES.replace(b"1 1 18", b"1 1 0"))}, "type it"),
        ({"photometry": SimpleUploadedFile("x.ies", IES), "spectrum": SimpleUploadedFile("s.csv", b"1,2")}, "Line"),
    ],
)
def test_a_bad_file_is_refused_where_the_grower_is(mine, base, row, data, words):
    before = _space(row)
    for item in data.values():
        if hasattr(item, "seek"):
            item.seek(0)
    text = _post(mine, f"{base}light/lamps/file/", data)
    assert words in text
    assert _space(row) == before


def test_typed_figures_stay_when_a_file_is_refused(mine, base):
    text = _post(
        mine, f"{base}light/lamps/file/", {"photometry": SimpleUploadedFile("x.ies", b"no"), "power_w": "37.5"}
    )
    assert 'value="37.5"' in text


def test_bars_are_linked_along_a_side(mine, base, row):
    before = len(_space(row).fixtures)
    data = {
        "line-class_id": "bar-30",
        "line-along": "width",
        "line-gap_m": "2 cm",
        "line-z_m": "1.2 m",
        "line-count": "",
    }
    classes = re.findall(
        r'<option value="([^"]+)"',
        mine.get(f"{base}light/").text.split('name="line-class_id"')[1].split("</select>")[0],
    )
    data["line-class_id"] = classes[0]
    _post(mine, f"{base}light/lamps/bars/", data)
    made = _space(row).fixtures[before:]
    assert made
    assert len({lamp.chain for lamp in made}) == 1
    assert {lamp.z_m for lamp in made} == {1.2}
    text = _post(mine, f"{base}light/lamps/bars/", data | {"line-z_m": "1.598 m"})
    assert "Not even one" in text
    one = len(_space(row).fixtures)
    strip = {"line-class_id": "strip-10", "line-z_m": "1 m", "line-along": "width", "line-gap_m": "2 cm"}
    _post(mine, f"{base}light/lamps/bars/", strip | {"line-length_m": "35 cm"})
    assert len(_space(row).fixtures) == one + 1
    _post(mine, f"{base}light/lamps/bars/", strip | {"line-length_m": "65 cm", "line-z_m": "0.9 m"})
    assert len(_space(row).fixtures) == one + 3


AT = {"probe-x_m": "40 cm", "probe-y_m": "30 cm", "probe-z_m": "50 cm"}


@pytest.mark.parametrize(
    ("at", "words"),
    [
        ({"x": "0.4", "y": "0.3", "z": "0.5"}, "µmol/m²/s"),
        ({"x": "9", "y": "0", "z": "0"}, "outside"),
        ({"x": "here"}, "outside"),
        (AT, "walls"),
        (AT | {"probe-x_m": "far"}, "“far” is not a length"),
    ],
)
def test_a_point_is_read(mine, base, at, words):
    assert words in mine.get(f"{base}light/point/", at).text


def test_a_whole_upright_line_is_read(mine, base):
    text = mine.get(f"{base}light/point/", AT | {"probe-z_m": ""}).text
    totals = [int(word) for word in re.findall(r'data-name="PPFD">(\d+)', text)]
    assert len(totals) == 16
    # Below the lamp's face the light falls off downward.
    assert max(totals) not in (totals[0], totals[-1])
    assert totals[-1] < 0.6 * max(totals)


def test_a_point_s_parts_add_up(mine, base):
    text = mine.get(f"{base}light/point/", {"x": "0.4", "y": "0.3", "z": "0.5"}).text.replace("\u00a0", " ")
    total, *parts = [
        float(word)
        for word in re.findall(r"(?<![\w.])(\d+(?:\.\d+)?)(?= µmol|</|,|\s*$|<)", re.sub(r"lamp \d+", "lamp", text))
    ]
    assert sum(parts) == pytest.approx(total, abs=len(parts))


def test_the_map_can_show_each_plant_s_own_top(mine, base):
    text = mine.get(f"{base}light/", {"level": "canopy", "tab": "leaves"}, headers=HTMX).text
    assert "own top" in text
    assert 'tab=leaves&amp;level=canopy" aria-current' in text
    assert "PPFD on each plant" in text
    assert "PPFD on each plant" not in mine.get(f"{base}light/").text


def test_a_section_is_shown_and_hidden(mine, base):
    text = mine.get(f"{base}light/", {"cut": "0.3"}, headers=HTMX).text
    assert "from the front" in text
    assert 'id="field-front"' in text
    assert text.split('id="field-front"')[1].split("</g>")[0].count("band") > 2
    assert 'class="iso"' not in mine.get(f"{base}light/").text.split('id="field-front"')[1].split("</g>")[0]
    assert "“deep” is not a" in mine.get(f"{base}light/", {"cut": "deep"}, headers=HTMX).text


@pytest.mark.parametrize("tool", ["dimmers", "height", "spacing"])
def test_a_tool_proposes_and_only_a_click_does_it(mine, base, row, tool):
    for lamp in _space(row).fixtures:
        _post(mine, f"{base}light/part/fixtures/{lamp.id}/move/", {"dim": "0.3"})
    before = _space(row)
    text = mine.get(f"{base}light/backward/{tool}/", headers=HTMX).text
    assert "Before" in text
    assert "After" in text
    assert _space(row) == before
    _post(mine, f"{base}light/backward/{tool}/", tab="backwards")
    assert _space(row) != before
    mine.post(f"{base}light/undo/", headers=HTMX)
    assert _space(row) == before


def test_nothing_better_is_said(mine, base, row):
    assert "nothing better" in mine.get(f"{base}light/backward/places/").text.lower()
    assert "nothing better" in _post(mine, f"{base}light/backward/places/").lower()
    assert mine.get(f"{base}light/backward/moon/").status_code == 404


def test_lamps_are_tried_slice_by_slice_and_one_is_hung(mine, base, row):
    for _ in range(60):
        text = mine.get(f"{base}light/backward/choose/", headers=HTMX).text
        if "sets tried" in text and "All " in text:
            break
        assert "hx-trigger" in text
    names = re.findall(r"backward/(lamps-[\w-]+)/", text)
    assert names
    shown = mine.get(f"{base}light/backward/{names[0]}/", headers=HTMX).text
    assert "After" in shown
    _post(mine, f"{base}light/backward/{names[0]}/", tab="backwards")
    assert names[0].rpartition("-")[2] == str(len(_space(row).fixtures))


LINES = "40 30 30 280\n20 15 30 250\n60 45 30 243\n20 45 30 253"


def _survey(row):
    return survey_record(surveys_of(row, "box")[-1])


def test_readings_are_taken_in_fitted_followed_and_set_aside(mine, base, row):
    text = _post(mine, f"{base}light/survey/readings/", {"lines": LINES}, tab="survey")
    assert "scatter about the fit" in text
    assert len(_survey(row).counting) == 4
    assert _space(row).survey is None
    _post(mine, f"{base}light/survey/act/", {"what": "apply"}, tab="survey")
    survey = _space(row).survey
    assert survey.applied
    assert survey.factors
    assert survey.fitted_on
    assert "by the survey" in mine.get(f"{base}light/").text
    assert "follows the survey of" in mine.get(f"{base}light/", {"tab": "outdoors"}).text
    _post(mine, f"{base}light/survey/act/", {"what": "aside"}, tab="survey")
    assert not _space(row).survey.applied


def test_a_reading_is_struck_and_kept_and_a_new_survey_keeps_the_old_one(mine, base, row):
    _post(mine, f"{base}light/survey/readings/", {"lines": LINES}, tab="survey")
    text = _post(mine, f"{base}light/survey/act/", {"what": "strike", "reading": 1}, tab="survey")
    assert "struck, counts for nothing" in text
    assert [reading.struck for reading in _survey(row).readings] == [True, False, False, False]
    _post(mine, f"{base}light/survey/act/", {"what": "restore", "reading": 1}, tab="survey")
    assert len(_survey(row).counting) == 4
    text = _post(mine, f"{base}light/survey/act/", {"what": "anew"}, tab="survey")
    assert "Earlier surveys" in text
    assert _survey(row).readings == ()
    assert len(survey_record(surveys_of(row, "box")[0]).counting) == 4
    assert mine.post(f"{base}light/survey/act/", {"what": "moon"}).status_code == 404


def test_undo_of_the_plan_takes_no_reading_away(mine, base, row):
    _post(mine, f"{base}light/survey/readings/", {"lines": LINES}, tab="survey")
    _post(mine, f"{base}light/survey/act/", {"what": "apply"}, tab="survey")
    for _ in range(3):
        mine.post(f"/plans/{row.pk}/undo/")
    assert _space(row).survey is None
    assert len(_survey(row).counting) == 4


def test_readings_are_held_against_the_lamps_as_they_hung_then(mine, base, row):
    before = _post(mine, f"{base}light/survey/readings/", {"lines": LINES}, tab="survey")
    lamp = _space(row).fixtures[0]
    actions.change_space(row, "box", [Change(values={"z_m": lamp.z_m - 0.1}, at=("fixtures", lamp.id))], "Lower")
    after = mine.get(f"{base}light/", {"tab": "survey"}).text
    fits = re.compile(r'data-name="Stated">(\d+)')
    assert fits.findall(after) == fits.findall(before)
    assert "held against the lamps as they hung then" in after
    now = _post(mine, f"{base}light/survey/act/", {"what": "now"}, tab="survey")
    assert fits.findall(now) != fits.findall(before)
    assert "as they hung then" not in now


def test_readings_stand_on_the_plan_with_their_differences(mine, base, row):
    text = _post(mine, f"{base}light/survey/readings/", {"lines": LINES}, tab="survey")
    assert text.count('class="dot') == 4
    assert "measured," in text
    assert 'class="dot' not in mine.get(f"{base}light/").text


def test_a_factor_far_off_asks_before_anything_follows_it(mine, base, row):
    far = "\n".join(f"{' '.join(line.split()[:3])} {int(line.split()[3]) // 3}" for line in LINES.splitlines())
    text = _post(mine, f"{base}light/survey/readings/", {"lines": far}, tab="survey")
    assert "Does the meter show the unit" in text
    assert "Answer first" in _post(mine, f"{base}light/survey/act/", {"what": "apply"}, tab="survey")
    assert _space(row).survey is None
    _post(mine, f"{base}light/survey/act/", {"what": "apply", "sure": "1"}, tab="survey")
    assert _space(row).survey.applied


def test_later_readings_say_that_the_plan_follows_older_ones(mine, base, row):
    _post(mine, f"{base}light/survey/readings/", {"lines": LINES}, tab="survey")
    text = _post(mine, f"{base}light/survey/act/", {"what": "apply"}, tab="survey")
    assert "say otherwise by now" not in text
    more = LINES.replace("280", "310").replace("250", "285").replace("243", "275")
    text = _post(mine, f"{base}light/survey/readings/", {"lines": more}, tab="survey")
    assert "say otherwise by now" in text


def test_a_space_that_shrank_leaves_out_what_was_read_outside(mine, base, row):
    _post(mine, f"{base}light/survey/readings/", {"lines": LINES}, tab="survey")
    survey = _survey(row)
    here = _space(row)
    small = here.model_copy(update={"size": here.size.model_copy(update={"width_m": 0.5})})
    assert [reading.number for reading in fit_survey(small, survey).readings] == [1, 2, 4]


def test_lux_for_ppfd_is_noticed_and_put_right(mine, base, row):
    lux = "\n".join(f"{' '.join(line.split()[:3])} {int(line.split()[3]) * 65}" for line in LINES.splitlines())
    assert "is this lux?" in _post(mine, f"{base}light/survey/readings/", {"lines": lux}, tab="survey")
    data = {"survey-taken_on": "2026-03-01", "survey-unit": "lux", "lines": "12 13 14 15"}
    text = _post(mine, f"{base}light/survey/edit/", data, tab="survey")
    assert "is this lux?" not in text
    # What stands pasted and is not taken in yet stays where it is.
    assert "12 13 14 15" in text
    assert _survey(row).unit == "lux"
    assert len(_survey(row).counting) == 4


def test_two_tabs_over_one_survey_do_not_undo_each_other(mine, base, row):
    _post(mine, f"{base}light/survey/readings/", {"lines": LINES}, tab="survey")
    day = _survey(row).taken_on.isoformat()
    drawn = {"was-taken_on": day, "was-unit": "ppfd", "survey-taken_on": day, "survey-unit": "ppfd"}
    _post(mine, f"{base}light/survey/edit/", drawn | {"survey-unit": "fc"}, tab="survey")
    _post(mine, f"{base}light/survey/edit/", drawn | {"survey-taken_on": "2026-03-01"}, tab="survey")
    assert (_survey(row).unit, _survey(row).taken_on.isoformat()) == ("fc", "2026-03-01")
    text = _post(mine, f"{base}light/survey/edit/", drawn | {"survey-unit": "lux"}, tab="survey")
    assert "changed meanwhile: it is foot-candles now" in text
    assert _survey(row).unit == "fc"


def test_a_survey_sheet_has_numbered_points(mine, base):
    text = mine.get(f"{base}light/survey/sheet/").text
    assert text.count('class="point"') >= 12
    assert ">12</" in text or ">12<" in text


def test_outdoors_is_compared_where_the_garden_lies(mine, base):
    data = {"outdoors-latitude_deg": "-33", "outdoors-start": "2026-12-05", "outdoors-days": "7"}
    text = _post(mine, f"{base}light/outdoors/", data, tab="outdoors")
    assert "at -33°" in text
    assert text.count("h outdoors") == 7
    assert "66" in _post(mine, f"{base}light/outdoors/", data | {"outdoors-latitude_deg": "80"}, tab="outdoors")


def test_another_s_light_is_not_shown(client, other, base):
    client.force_login(other)
    for address in ("point/", "backward/dimmers/", "backward/choose/", "survey/sheet/"):
        assert client.get(f"{base}{address}").status_code == 404


def test_a_lamp_is_put_upright_in_one_act(mine, base, row):
    lamp = _space(row).fixtures[0]
    text = _post(mine, f"{base}light/lamps/pose/", {"lamp": lamp.id, "pose": "left"})
    stood = _space(row).fixtures[0]
    assert (stood.pitch_deg, stood.x_m < 0.15) == (90, True)
    # It is drawn upright, without ropes; the others hang on theirs.
    marks = re.findall(r'<g class="lamp part.*?</g>', text, re.S)
    front = [mark for mark in marks if f'data-id="{lamp.id}"' in mark]
    assert all("hanger" not in mark for mark in front)
    assert any("hanger" in mark for mark in marks)
    assert "valid choice" in _post(mine, f"{base}light/lamps/pose/", {"lamp": lamp.id, "pose": "moon"})


# ---- light in lux and foot-candles ------------------------------------------------


def test_light_is_read_in_foot_candles_everywhere(mine, base, row):
    before = mine.get(f"{base}light/", {"tab": "leaves"}).text
    assert "foot-candles ±" not in before
    mine.post("/account/preferences/", {"light": "fc", "next": "/"})
    for station, tab in (("light", "lamps"), ("light", "leaves"), ("crops", "plants"), ("crops", "short")):
        text = mine.get(f"{base}{station}/", {"tab": tab}).text
        assert "Foot-candles at" in text, (station, tab)
        assert "\u00a0fc ±\u00a010\u00a0%" in text, (station, tab)
    assert "\u00a0lm" in mine.get(f"{base}light/", {"tab": "lamps"}).text
    point = mine.get(f"{base}light/point/", {"x": "0.4", "y": "0.3", "z": "0.5"}).text
    assert "\u00a0fc ±" in point
    mine.post("/account/preferences/", {"light": "candles", "next": "/"})
    assert "Foot-candles at" in mine.get(f"{base}light/").text


def test_a_target_in_foot_candles_is_set_kept_and_taken_back(mine, base, row):
    crop = _space(row).plants[0].crop_id
    text = _post(mine, f"{base}light/goal/", {"kind": crop, "light": "1,000 fc"}, tab="leaves")
    goal = _space(row).light_goals[0]
    # The suggested board is white LED of 3500 K.
    per = 10.764 / lux_factor(_space(row).fixtures[0].spec).lux_per_umol
    assert (goal.low_umol_m2_s, goal.high_umol_m2_s) == pytest.approx((900 * per, 1100 * per), rel=1e-3)
    assert "your own target" in text
    _post(mine, f"{base}light/goal/", {"kind": crop, "light": "200-300"}, tab="leaves")
    assert [item.high_umol_m2_s for item in _space(row).light_goals] == [300]
    wrong = _post(mine, f"{base}light/goal/", {"kind": crop, "light": "plenty"}, tab="leaves")
    assert "“plenty” is not an amount of light" in wrong
    assert 'value="plenty"' in wrong
    _post(mine, f"{base}light/goal/", {"kind": crop, "light": ""}, tab="leaves")
    assert _space(row).light_goals == ()
    assert "Type what it should get" in _post(mine, f"{base}light/goal/", {"kind": crop, "light": ""}, tab="leaves")


def _lamp(mine, base, key, **typed):
    """Change a lamp's row, all of its fields sent as the page has them."""
    page = mine.get(f"{base}light/", {"tab": "lamps"}).text
    data = dict(re.findall(rf'<input class="form-control"[^>]* name="({key}-[^"]+)"[^>]* value="([^"]*)"', page))
    data |= {f"{key}-enabled": "on"} | {f"{key}-{name}": value for name, value in typed.items()}
    return _post(mine, f"{base}light/part/fixtures/{key}/", data)


def test_a_lamp_is_covered_at_an_end_and_drawn_so(mine, base, row):
    lamp = _space(row).fixtures[0].id
    text = _lamp(mine, base, lamp, covered="50 %")
    cover = _space(row).fixtures[0].cover
    assert (cover.share, cover.where) == (0.5, "start")
    assert 'class="cover"' in text
    assert "50 % of it covered" in text
    text = _lamp(mine, base, lamp, covered="50 %", covered_where="evenly")
    assert _space(row).fixtures[0].cover.where == "evenly"
    assert 'class="cover thin"' in text
    assert "give 0 % to 95 %" in _lamp(mine, base, lamp, covered="99 %", covered_where="end")
    _lamp(mine, base, lamp, covered="0 %", covered_where="evenly")
    assert _space(row).fixtures[0].cover is None


def test_lower_leaves_are_stripped_and_grow_back(mine, base, row):
    lamps = [lamp.id for lamp in _space(row).fixtures]
    for lamp in lamps:
        _lamp(mine, base, lamp, dim="8 %")
    assert "strip the lowest" not in mine.get(f"{base}light/", {"tab": "leaves"}).text
    _post(mine, f"{base}light/goal/", {"kind": _space(row).plants[0].crop_id, "light": "10-300"}, tab="leaves")
    text = mine.get(f"{base}light/", {"tab": "leaves"}).text
    assert "strip the lowest" in text
    plant = _space(row).plants[0].id
    text = _post(mine, f"{base}light/strip/{plant}/", tab="leaves")
    assert all(item.stripped_m > 0.02 for item in _space(row).plants)
    assert "bare up to" in text
    for lamp in lamps:
        _lamp(mine, base, lamp, dim="100 %")
    _post(mine, f"{base}light/strip/{plant}/", tab="leaves")
    assert all(item.stripped_m == 0 for item in _space(row).plants)
    assert "no longer here" in _post(mine, f"{base}light/strip/nobody/", tab="leaves")


def test_more_lamps_are_offered_at_three_prices_and_hung(mine, base, row):
    before = len(_space(row).fixtures)
    for lamp in _space(row).fixtures[1:]:
        _lamp(mine, base, lamp.id, covered="90 %")
    lamp = _space(row).fixtures[0].id
    _lamp(mine, base, lamp, covered="75 %", dim="100 %")
    text = mine.get(f"{base}light/backward/more/").text
    for _ in range(40):
        if "sets tried</label>" in text and "All " in text:
            break
        text = mine.get(f"{base}light/backward/more/").text
    assert "Costs about" in text
    assert "A month, more than now" in text
    key = re.search(r"backward/(more-[a-z0-9-]+)/", text)[1]
    shown = mine.get(f"{base}light/backward/{key}/").text
    assert "more" in shown
    _post(mine, f"{base}light/backward/{key}/", tab="backwards")
    count = int(key.rpartition("-")[2])
    assert len(_space(row).fixtures) == before + count
    chosen = mine.get(f"{base}light/backward/more/chosen/", {"class": "bar-30", "count": "1"})
    assert chosen.status_code == 200
    assert mine.get(f"{base}light/backward/more/chosen/", {"class": "bar-30", "count": "99"}).status_code == 404
    assert mine.get(f"{base}light/backward/more/chosen/", {"class": "nothing", "count": "1"}).status_code == 404
