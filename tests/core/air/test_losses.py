"""Ducts, bends and adapters against hand-worked cases and the library of fluid mechanics."""

import fluids
import numpy as np
import pytest
from fluids.fittings import contraction_conical_Crane, diffuser_conical_Crane
from hypothesis import given
from hypothesis import strategies as st

from canopy.air.losses import (
    adapter_loss,
    area_m2,
    bend_loss,
    duct_drop_pa,
    dynamic_pa,
    end_reflection_db,
    flex_factor,
    hole_flow_m3_s,
)
from canopy.library import ducts


def test_dynamic_pressure_by_hand():
    # 4 m/s in air of 1.19 kg/m³: 9.52 Pa.
    assert dynamic_pa(4 * area_m2(0.125), 0.125) == pytest.approx(9.52)


@pytest.mark.parametrize("roughness", [1e-5, 1.2e-4, 1e-3])
@pytest.mark.parametrize(("diameter", "flow"), [(0.075, 40), (0.1, 90), (0.125, 184), (0.2, 600), (0.25, 1100)])
def test_friction_stays_within_three_percent_of_colebrook(diameter, flow, roughness):
    velocity = flow / 3600 / area_m2(diameter)
    reynolds = velocity * diameter / 1.54e-5
    factor = fluids.friction.Colebrook(reynolds, roughness / diameter)
    want = fluids.dP_from_K(factor * 2.5 / diameter, rho=1.19, V=velocity)
    assert duct_drop_pa(flow / 3600, diameter, 2.5, roughness) == pytest.approx(want, rel=0.03)


def test_slow_air_is_laminar():
    # f = 64/Re: Δp = 32 μ L v / D² (Hagen-Poiseuille).
    velocity, diameter = 0.1, 0.1
    want = 32 * 1.54e-5 * 1.19 * 3 * velocity / diameter**2
    assert duct_drop_pa(velocity * area_m2(diameter), diameter, 3, 1e-4) == pytest.approx(want, rel=0.01)
    assert duct_drop_pa(0, diameter, 3, 1e-4) == duct_drop_pa(-1, diameter, 3, 1e-4) == 0


@pytest.mark.parametrize(("slack", "want"), [(0, 1), (0.04, 2.25), (0.15, 5.7), (0.30, 10.4)])
def test_slack_duct_takes_many_times_more(slack, want):
    assert flex_factor(0.125, slack) == pytest.approx(want, rel=0.01)


@pytest.mark.parametrize(
    ("make", "angle", "want"),
    [
        ("smooth", 90, 0.25),
        ("mitre", 90, 1.2),
        ("flex", 90, 0.7),
        ("flex", 45, 0.42),
        ("mitre", 180, 1.68),
        ("flex", 20, 0.217),
        ("smooth", 67.5, 0.21),
    ],
)
def test_bends(make, angle, want):
    assert bend_loss(make, angle) == pytest.approx(want)


@pytest.mark.parametrize(("wide", "narrow"), [(0.15, 0.125), (0.125, 0.1), (0.2, 0.125), (0.25, 0.2)])
def test_adapters_by_hand_and_by_the_library(wide, narrow):
    ratio = (narrow / wide) ** 2
    assert adapter_loss(wide, narrow, "step") == pytest.approx(0.5 * (1 - ratio))
    assert adapter_loss(narrow, wide, "step") == pytest.approx((1 - ratio) ** 2)
    # A cone of 60° in all: 0.5 (1 − B) √sin 30°; the diffuser counts as abrupt from 45° on.
    assert adapter_loss(wide, narrow) == pytest.approx(0.5 * (1 - ratio) * 0.5**0.5)
    assert adapter_loss(wide, narrow) == pytest.approx(contraction_conical_Crane(Di1=wide, Di2=narrow, angle=60))
    assert adapter_loss(narrow, wide) == pytest.approx(diffuser_conical_Crane(Di1=narrow, Di2=wide, angle=60))
    assert adapter_loss(wide, wide) == 0


def test_holes_pass_air_both_ways():
    # 100 cm² sharp-edged at 5 Pa: 0.6 · 0.01 · √(10/1.19) = 62.6 m³/h.
    assert hole_flow_m3_s(5, 0.006) * 3600 == pytest.approx(62.6, rel=0.001)
    assert hole_flow_m3_s(-5, 0.006) == -hole_flow_m3_s(5, 0.006)


@pytest.mark.parametrize(("hertz", "want"), [(63, 19.8), (125, 14.0), (250, 8.5), (500, 4.0)])
def test_an_open_end_throws_low_sound_back(hertz, want):
    assert end_reflection_db(0.125, hertz) == pytest.approx(want, abs=0.1)


@given(st.floats(1e-4, 0.3), st.floats(0.05, 0.3), st.floats(1e-5, 3e-3))
def test_more_air_always_takes_more_pressure(flow, diameter, roughness):
    assert duct_drop_pa(flow * 1.05, diameter, 1, roughness) > duct_drop_pa(flow, diameter, 1, roughness)


# ---- sizes as they are sold, and a hole at the end ---------------------------------


@pytest.mark.parametrize(
    ("inches", "mm", "fits"),
    [(4, 100, True), (5, 125, True), (6, 150, True), (8, 200, True), (10, 250, True), (4, 125, False), (5, 120, False)],
)
def test_inch_and_millimetre_sizes_of_a_name_fit(inches, mm, fits):
    from canopy.air.chain import same_size

    assert same_size(inches * 0.0254, mm / 1000) is fits
    assert same_size(mm / 1000, inches * 0.0254) is fits


def test_pipes_are_called_by_their_inches():
    from canopy.quantities import DIAMETER, show

    assert [show(mm / 1000, DIAMETER, "us") for mm in (75, 100, 125, 150, 200, 203.2, 250)] == [
        f"{inches}\u00a0in" for inches in (3, 4, 5, 6, 8, 8, 10)
    ]
    assert show(0.11, DIAMETER, "us") == "4.3\u00a0in"
    assert show(0.2, DIAMETER, "metric") == "200\u00a0mm"


DUCT = next(iter(ducts().values())).spec.model_dump()


def _way(*parts, way="out"):
    from canopy.plan.airways import Airway

    return Airway.model_validate({"id": "w", "name": "W", "way": way, "parts": parts})


def test_a_narrow_hole_at_the_end_lets_the_air_out_at_its_own_diameter():
    """Loss behind 150 mm through a 100 mm hole: narrowing ½(1-β²) and one dynamic pressure, both of the hole."""
    from canopy.air.chain import chain_of
    from canopy.air.losses import DENSITY_KG_M3

    duct = {"id": "d", "kind": "duct", "spec": DUCT, "length_m": 1.0, "diameter_m": 0.15}
    port = {"id": "p", "kind": "port", "opening_id": "o"}
    bare = chain_of(_way(duct, port), port_m=0.15)
    narrow = chain_of(_way(duct, port), port_m=0.1)
    q = 0.02
    dynamic = DENSITY_KG_M3 / 2 * (q / (np.pi * 0.05**2)) ** 2
    exit_bare = DENSITY_KG_M3 / 2 * (q / (np.pi * 0.075**2)) ** 2
    added = narrow.loss_pa(q) - bare.loss_pa(q) + exit_bare
    assert added == pytest.approx((0.5 * (1 - (0.1 / 0.15) ** 2) + 1) * dynamic, rel=0.05)


def test_a_cone_before_a_narrow_hole_never_costs_flow():
    from canopy.air.chain import chain_of

    duct = {"id": "d", "kind": "duct", "spec": DUCT, "length_m": 1.0, "diameter_m": 0.15}
    cone = {"id": "c", "kind": "adapter", "from_m": 0.15, "to_m": 0.1, "make": "cone"}
    port = {"id": "p", "kind": "port", "opening_id": "o"}
    for q in (0.005, 0.02, 0.05):
        without = chain_of(_way(duct, port), port_m=0.1).loss_pa(q)
        assert chain_of(_way(duct, cone, port), port_m=0.1).loss_pa(q) <= without
