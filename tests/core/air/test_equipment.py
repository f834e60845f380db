"""The library of the air: enough of it, complete, and such as could be built."""

import pytest

from canopy.air.fan_curve import fan_curve
from canopy.air.filter_bed import filter_load
from canopy.air.stirring import jet_of
from canopy.library import adapters, ducts, fans, filters, fittings, stirrers
from canopy.plan import Stirrer

FANS = [row.spec for row in fans().values()]


def test_there_is_enough_to_choose_from():
    assert sum(len(shelf()) for shelf in (fans, filters, ducts, fittings, adapters, stirrers)) >= 30
    inline = {round(spec.diameter_m * 1000) for spec in FANS if spec.kind == "inline"}
    assert {75, 100, 125, 150, 200, 250} <= inline
    assert {spec.kind for spec in FANS} == {"inline", "axial", "case"}
    assert {row.spec.kind for row in stirrers().values()} >= {"clip", "tower", "usb"}
    assert {row.spec.sort for row in fittings().values()} >= {"damper", "muffler", "grille", "screen", "light-trap"}


@pytest.mark.parametrize("spec", FANS, ids=lambda spec: spec.class_id)
def test_a_fan_is_whole_and_gives_less_than_it_draws(spec):
    assert spec.steps[-1] == 1
    assert spec.weight_kg
    assert spec.noise_dba_1m
    assert spec.max_pressure_pa
    curve = fan_curve(spec)
    best = max(
        curve.pressure_pa(share / 20 * curve.free_m3_s, 1.0) * share / 20 * curve.free_m3_s for share in range(1, 20)
    )
    # Small fans turn 5 to 45 % of their power into moved air.
    assert 0.01 < best / spec.power_w < 0.5
    velocity = curve.free_m3_s / (0.785 * spec.diameter_m**2)
    assert 1.5 < velocity < 10


@pytest.mark.parametrize("row", filters().values(), ids=lambda row: row.id)
def test_a_filter_holds_what_it_is_rated_for(row):
    load = filter_load("f", row.spec, row.spec.rated_flow_m3_h)
    assert row.spec.weight_kg
    if load.face_m_s is not None:
        assert load.face_m_s <= 0.401
        assert load.contact_s >= 0.06
        assert load.carbon_kg < row.spec.weight_kg


@pytest.mark.parametrize("row", stirrers().values(), ids=lambda row: row.id)
def test_a_stirring_fan_is_whole(row):
    assert row.spec.weight_kg
    assert row.spec.noise_dba_1m
    assert row.spec.power_w
    assert 0.8 < jet_of(Stirrer(id="s", spec=row.spec, x_m=0, y_m=0, z_m=0)).speed_m_s < 5


def test_adapters_and_fittings_have_sizes_and_weights():
    for row in adapters().values():
        assert row.narrow_m < row.wide_m
        assert row.weight_kg > 0
    for row in fittings().values():
        assert row.spec.weight_kg
        assert (row.spec.opens_at_pa > 0) is (row.spec.sort == "damper")
    assert all(row.spec.weight_kg_m > 0 for row in ducts().values())
