import pytest

from canopy.errors import LibraryError
from canopy.library import GROUPS, SHELVES, crops, find, fixtures, light_sources, sources
from canopy.library.models import Window

FAMILIES = ("light", "climate", "form", "feed")
STAGES = [(crop, stage) for crop in crops().values() for stage in crop.stages]


def _name(item):
    return getattr(item, "id", None) or getattr(item, "kind", None)


def test_holds_enough_for_a_start():
    groups = {crop.group for crop in crops().values()}
    assert len(crops()) >= 60
    assert groups == set(GROUPS)
    assert len(fixtures()) >= 12
    assert {row.spec.technology for row in fixtures().values()} >= {"led", "fluorescent", "hps", "metal-halide"}


@pytest.mark.parametrize(("crop", "stage"), STAGES, ids=_name)
def test_every_figure_has_a_source_and_lies_in_sane_bounds(crop, stage):
    for family in FAMILIES:
        cited = getattr(stage, family)
        assert cited is not None or (family == "feed" and stage.ec_ms_cm is None)
        assert cited is None or cited.source in sources()
    assert 0 <= stage.ppfd_umol_m2_s.low <= stage.ppfd_umol_m2_s.high <= stage.ppfd_limit_umol_m2_s <= 1500
    assert stage.dli_mol_m2_d.high <= 40
    assert 0 <= stage.vpd_kpa.low <= stage.vpd_kpa.high <= 2.5
    # Winter rests go down to near freezing.
    assert 0 <= stage.air_night_c.low <= stage.air_day_c.high <= 32
    assert stage.air_night_c.high <= stage.air_day_c.high
    assert stage.days.low >= 1


@pytest.mark.parametrize("shelf", SHELVES)
def test_every_row_cites_a_known_source(shelf):
    for row in SHELVES[shelf]().values():
        cited = getattr(row, "cited", None)
        assert cited is None or cited.source in sources()


def test_lamps_give_what_their_kind_gives():
    from canopy.light.photometry import ppf

    bounds = {
        "led": (1.1, 3.2),
        "fluorescent": (0.65, 1.2),
        "hps": (1.1, 1.8),
        "metal-halide": (0.8, 1.5),
    }
    for row in fixtures().values():
        if row.spec.output.kind == "none":
            continue
        low, high = bounds[row.spec.technology]
        assert low <= ppf(row.spec) / row.spec.power_w <= high, row.id
        assert row.spec.output.kind != "lumens" or row.spec.output.source_id in light_sources()


def test_lamps_for_animals_light_no_plant_and_draw_power():
    from canopy.light.photometry import ppf

    keepers = [row for row in fixtures().values() if row.spec.output.kind == "none"]
    assert {"uv-tube-24", "heat-lamp-75"} <= {row.id for row in keepers}
    for spec in (row.spec for row in keepers):
        assert ppf(spec) == 0
        assert spec.power_w > 0


def test_a_window_turned_round_is_refused():
    with pytest.raises(ValueError, match=r"turned round: 5\.0 to 3\.0"):
        Window(low=5, high=3)


def test_an_unknown_id_names_near_ones():
    with pytest.raises(LibraryError, match="holds no crop “tatsoy”; did you mean tatsoi"):
        find(crops(), "tatsoy", "crop")
