"""An air-cooled hood cools by the air that is drawn through it, and by nothing else."""

import pytest
from pydantic import ValidationError

from canopy.air.chain import chain_of
from canopy.air.losses import dynamic_pa
from canopy.errors import PlanError
from canopy.evaluate import evaluate_space
from canopy.library import fixtures
from canopy.plan import Airway, FanPart, dumps, loads
from canopy.plan.airways import HoodPart
from canopy.plan.changes import Remove
from canopy.plan.edit import apply
from tests.core.air.worked import FAN, exhaust, household
from tests.core.evaluate.air.test_verdicts import planted, with_port

HOOD = HoodPart(id="hood", fixture_id="lamp", diameter_m=0.15)


def hooded(led, way="out", *, speed=1.0):
    """The worked tent under a 435 W lamp in a hood, with air drawn or blown through it, or beside it."""
    out = with_port(exhaust(speed=speed))
    ways = [out]
    if led and way == "out":
        ways = [out.model_copy(update={"parts": (HOOD, *out.parts)})]
    if led and way == "in":
        ways.append(Airway(id="in", name="In", way="in", parts=(FanPart(id="g", spec=FAN, speed=0.3), HOOD)))
    space = planted(*ways)
    lamp = space.fixtures[0].model_copy(update={"spec": fixtures()["hps-400-hood"].spec, "dim": 1.0})
    return space.model_copy(update={"fixtures": (lamp,)})


def report_of(space):
    plan = loads(dumps(household(space)))
    return evaluate_space(plan, plan.spaces[0], with_map=False)


def test_air_drawn_through_a_hood_takes_its_share_of_the_heat_along():
    beside, through = report_of(hooded(False)), report_of(hooded(True))
    assert beside.breathing.lit.hood_w == 0
    assert through.breathing.lit.hood_w == pytest.approx(0.45 * 435)
    assert through.breathing.lit.needs.heat_w == pytest.approx(beside.breathing.lit.needs.heat_w - 0.45 * 435, abs=0.1)
    assert through.breathing.day.temperature_c < beside.breathing.day.temperature_c - 1
    assert through.breathing.dark.hood_w == 0
    # Nothing is saved at the plug, and the room takes all of it.
    assert through.running.power_w == beside.running.power_w
    assert through.margin("air.hood.lamp").verdict == "good"


def test_without_a_way_its_heat_stays_and_that_is_said_at_the_lamp():
    margin = report_of(hooded(False)).margin("air.hood.lamp")
    assert (margin.verdict, margin.parts) == ("tight", ("lamp",))
    assert "all 435 W stay in the space" in margin.why.say().replace("\u00a0", " ")


def test_air_blown_in_through_a_hood_brings_the_heat_in():
    report = report_of(hooded(True, "in"))
    assert report.breathing.lit.hood_w == 0
    assert "brings its heat along" in report.margin("air.hood.lamp").why.say()


def test_a_trickle_takes_no_more_than_it_can_hold():
    report = report_of(hooded(True, speed=0.04))
    flow = report.paths[0].flow_m3_h / 3600
    assert 0 < report.breathing.lit.hood_w == pytest.approx(1.19 * 1020 * flow * 30)
    assert report.breathing.lit.hood_w < 0.45 * 435


def test_a_hood_is_a_loss_in_its_path():
    plain, led = (chain_of(hooded(on).airways[0]) for on in (False, True))
    more = led.loss_pa(0.05) - plain.loss_pa(0.05)
    cones = sum(item.drop_pa(0.05) for item in led.elements if "needed" in item.name)
    # Its spigot has a sharp edge where it is the first.
    assert more == pytest.approx((1.5 + 0.5) * dynamic_pa(0.05, 0.15) + cones, rel=1e-6)


def test_a_hood_goes_with_its_lamp_and_is_in_one_way_only():
    space = hooded(True)
    plan = loads(dumps(household(space)))
    after = apply(plan, "tent", (Remove(collection="fixtures", part_ids=("lamp",)),))
    assert not after.spaces[0].airways[0].hoods
    twice = space.model_copy(update={"airways": (*space.airways, Airway(id="b", name="B", parts=(HOOD,)))})
    with pytest.raises(PlanError, match="two ways of air"):
        loads(dumps(household(twice)))
    with pytest.raises(PlanError, match="no lamp"):
        loads(dumps(household(space.model_copy(update={"fixtures": ()}))))
    with pytest.raises(ValidationError):
        HoodPart(id="h", fixture_id="lamp", diameter_m=5)
