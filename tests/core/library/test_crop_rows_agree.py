"""Crop rows agree with themselves: light, warmth and humidity, spread, harvest; nothing is inherited in silence."""

import tomllib

import numpy as np
import pytest

from canopy.library import BEARING, YOUNG, crops
from canopy.library.loader import DATA, SHELVES

ROWS = list(crops().values())
STAGES = [pytest.param(crop, stage, id=f"{crop.id}-{stage.kind}") for crop in ROWS for stage in crop.stages]


def test_there_are_more_than_a_hundred_crops():
    assert len(ROWS) >= 100


@pytest.mark.parametrize(("crop", "stage"), STAGES)
def test_daily_light_is_reached_by_ppfd_and_hours(crop, stage):
    least = stage.ppfd_umol_m2_s.low * stage.photoperiod_h.low * 0.0036
    most = stage.ppfd_umol_m2_s.high * stage.photoperiod_h.high * 0.0036
    assert 0.99 * least <= stage.dli_mol_m2_d.low
    assert stage.dli_mol_m2_d.high <= 1.01 * most


@pytest.mark.parametrize(("crop", "stage"), STAGES)
def test_vpd_is_met_by_most_of_warmth_and_humidity(crop, stage):
    warm = np.linspace(stage.air_day_c.low, stage.air_day_c.high, 15)[:, None]
    damp = np.linspace(stage.rh_pct.low, stage.rh_pct.high, 15)[None]
    vpd = 0.61094 * np.exp(17.625 * warm / (warm + 243.04)) * (1 - damp / 100)
    inside = (vpd >= stage.vpd_kpa.low - 0.02) & (vpd <= stage.vpd_kpa.high + 0.02)
    assert inside.mean() >= 0.6


@pytest.mark.parametrize(("crop", "stage"), STAGES)
def test_spread_fits_the_spacing_and_nights_are_not_warmer(crop, stage):
    assert stage.spread_m <= 1.07 * (stage.spacing_m or crop.spacing_m) + 1e-9
    assert stage.air_night_c.low <= stage.air_day_c.low
    assert stage.air_night_c.high <= stage.air_day_c.high
    assert crop.base_c < stage.air_day_c.high


def _written():
    for path in sorted((DATA / "crops").glob("*.toml")):
        for row in tomllib.loads(path.read_text())["crop"]:
            yield from ((row["id"], stage) for stage in row["stage"] if stage["kind"] in (*YOUNG[:2], "rest"))


@pytest.mark.parametrize(
    ("crop_id", "stage"), [pytest.param(*item, id=f"{item[0]}-{item[1]['kind']}") for item in _written()]
)
def test_stages_unlike_growth_say_everything_themselves(crop_id, stage):
    assert {"day_c", "night_c", "rh", "vpd", "root", "air", "water", "co2", "ppfd", "dli", "hours"} <= set(stage)


@pytest.mark.parametrize("crop", [crop for crop in ROWS if crop.harvest != "keep"], ids=lambda crop: crop.id)
def test_days_to_first_harvest_agree_with_the_stages(crop):
    assert crop.first_harvest
    grown = [stage for stage in crop.stages if stage.kind != "rest"]
    for row in crop.first_harvest:
        over = [stage for stage in grown if row.since == "sown" or stage.kind not in YOUNG]
        if not any(item.since == "sown" for item in crop.first_harvest):
            over = grown
        # Never before what bears begins, never after all is over.
        before = [stage for stage in over if stage.kind not in BEARING][: len(over) - 1]
        assert row.days.high <= 1.15 * sum(stage.days.high for stage in over)
        if any(stage.kind in BEARING for stage in over):
            assert row.days.high >= sum(stage.days.low for stage in before)


@pytest.mark.parametrize("crop", [crop for crop in ROWS if crop.group == "root"], ids=lambda crop: crop.id)
def test_roots_and_tubers_swell_in_a_stage_of_their_own(crop):
    kinds = {stage.kind for stage in crop.stages}
    assert kinds & {"root", "tuber", "rhizome"}
    assert "fruit" not in kinds


def test_cautions_and_other_names_are_known_and_not_twice():
    known = SHELVES["cautions"]()
    assert {key for crop in ROWS for key in crop.cautions} <= set(known)
    for crop in ROWS:
        names = [name.casefold() for name in crop.called]
        assert len(set(names)) == len(names)


@pytest.mark.parametrize(
    ("crop_id", "stage", "field", "low", "high"),
    [
        ("flytrap", "rest", "root_c", 3, 12),
        ("flytrap", "rest", "vpd_kpa", 0.1, 0.6),
        ("calamondin", "rest", "air_day_c", 10, 15),
        ("turmeric", "rest", "air_day_c", 15, 20),
        ("living-stones", "rest", "root_c", 8, 20),
        ("tatsoi", "vegetative", "dli_mol_m2_d", 9, 16),
        ("photoperiod-herb", "seedling", "ppfd_umol_m2_s", 150, 250),
        ("moth-orchid-miniature", "vegetative", "air_day_c", 20, 28),
        ("strawberry-day-neutral", "fruit", "air_night_c", 10, 17),
        ("lettuce-butterhead", "seedling", "photoperiod_h", 14, 18),
    ],
)
def test_windows_that_were_read_by_a_horticulturist(crop_id, stage, field, low, high):
    window = getattr(crops()[crop_id].stage(stage), field)
    assert (window.low, window.high) == (low, high)


def test_measured_stands_only_behind_what_that_work_measured():
    measured = {
        (crop.id, stage.light.source) for crop in ROWS for stage in crop.stages if stage.light.grade == "measured"
    }
    assert not {
        key for key, source in measured if source in ("life-support-crops", "bedding-dli", "microgreens-led")
    } - {
        "edamame",
        "potato",
        "bedding-plugs",
        "mustard-shoots",
    }
