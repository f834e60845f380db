"""Classes of devices: credible data, what they draw by how far they run, and how long a tank lasts."""

from itertools import pairwise

import pytest

from canopy.design.climate.sizes import sizes_of, strength
from canopy.evaluate.climate.devices import gives
from canopy.evaluate.climate.tanks import tank_margins, water_l_d
from canopy.evaluate.kept import report_of
from canopy.library import devices
from canopy.plan.controls import Hygrostat
from canopy.plan.document import Device
from canopy.psychrometrics import HEAT_OF_EVAPORATION_J_KG
from tests.core.evaluate.climate.test_building import with_space


def test_there_are_at_least_forty_and_every_kind_has_several_sizes():
    assert len(devices()) >= 40
    for kind in ("heater", "mat", "cooler", "humidifier", "dehumidifier"):
        sizes = [strength(spec) for spec in sizes_of(kind)]
        assert len(sizes) >= 4
        assert sizes == sorted(sizes)
        # No step between one size and the next is larger than three times.
        assert all(b <= 3 * a for a, b in pairwise(sizes))


@pytest.mark.parametrize("row", devices().values(), ids=lambda row: row.id)
def test_each_does_what_physics_lets_it(row):
    spec = row.spec
    assert 0 < row.price.low < row.price.high <= 700
    assert 0 < spec.weight_kg < 40
    if spec.kind == "humidifier" and spec.mist == "steam":
        # Boiling takes its heat: no more grams than watts give.
        assert spec.gives_g_h / 3.6e6 * HEAT_OF_EVAPORATION_J_KG <= spec.power_w
    if spec.kind == "dehumidifier" and spec.drying == "refrigerant":
        assert 0.8 < spec.takes_l_d / (0.024 * spec.power_w) < 3.0
    if spec.kind == "dehumidifier" and spec.drying == "peltier":
        assert spec.takes_l_d / (0.024 * spec.power_w) < 0.6
    if spec.kind == "cooler":
        assert 2 < spec.cools_w / spec.power_w < 3.5
    device = Device(id="one", spec=spec)
    assert gives(device).heat_w == pytest.approx(-spec.cools_w if spec.kind == "cooler" else _heat(device), rel=1e-6)


def _heat(device):
    """What it draws, less the heat that leaves the air with the drops it makes; steam's is in the steam."""
    spec = device.spec
    if spec.kind == "mat":
        return spec.power_w
    if spec.kind != "humidifier" or spec.mist == "evaporative":
        return spec.power_w * spec.heats_space
    dried = HEAT_OF_EVAPORATION_J_KG * spec.gives_g_h / 3.6e6
    return max(0.0, spec.power_w - dried) if spec.mist == "steam" else spec.power_w - dried


def with_mist(plan, litres):
    space = plan.space("berry-tent")
    spec = devices()["mist-100"].spec.model_copy(update={"tank_l": litres})
    device = Device(id="mist", spec=spec, control=Hygrostat(day_rh_pct=75, night_rh_pct=75))
    return with_space(plan, space.model_copy(update={"devices": (device,)}))


def test_a_tank_lasts_as_long_as_its_water(demo_plan):
    plan = with_mist(demo_plan, 1.5)
    report = report_of(plan, plan.space("berry-tent"), follow=True)
    share = report.climate.share_of("mist")
    assert 0.1 < share <= 1
    litres = water_l_d(report.space.devices[0], report.climate)
    assert litres == pytest.approx(share * 100 * 24 / 1000, rel=1e-6)
    (margin,) = tank_margins(report.here, report.climate)
    assert margin.verdict == ("short" if litres > 1.5 else "tight")
    large = with_mist(demo_plan, 20.0)
    there = report_of(large, large.space("berry-tent"), follow=True)
    assert there.margin("climate.tank.mist").verdict == "good"


def test_energy_and_cost_follow_how_far_it_runs(demo_plan):
    plan = with_mist(demo_plan, 3.0)
    before = report_of(plan, plan.space("berry-tent"))
    assert before.climate is None
    after = report_of(plan, plan.space("berry-tent"), follow=True)
    share = after.climate.share_of("mist")
    saved = devices()["mist-100"].spec.power_w * 24 / 1000 * (1 - share)
    assert before.running.energy_kwh_d - after.running.energy_kwh_d == pytest.approx(saved, rel=1e-6)
    assert after.running.power_w == before.running.power_w
    assert after.margin("power.cost").there.say() == f"{after.running.cost_per_month:.2f}\u00a0EUR a month"
