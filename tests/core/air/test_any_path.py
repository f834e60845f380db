"""Whatever a person puts together: it is solved, drawn, put into words in both unit systems, and mended without
harm.
"""

import re
from itertools import pairwise

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from canopy.air import breath, is_open, ventilation
from canopy.air.chain import chain_of
from canopy.air.network import Moment
from canopy.air.operating import operating_points
from canopy.evaluate import evaluate_space
from canopy.library import ducts, fans, filters, fittings
from canopy.margin import ORDER
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
    dumps,
    loads,
)
from canopy.plan.airways import OtherSpeed
from canopy.plan.edit import apply
from canopy.schedule import Cycle, WithLamps
from tests.conftest import mending
from tests.core.air.worked import household, tent
from tests.core.evaluate.air.test_verdicts import planted

SPEEDS = st.sampled_from([0.0, 0.1, 0.45, 0.7, 1.0])
BORES = st.sampled_from([0.05, 0.1, 0.125, 0.2])
MAKES = st.sampled_from(["flex", "smooth", "mitre"])


def specs(shelf):
    return st.sampled_from([row.spec for row in shelf().values()])


def part(number):
    """One part of any kind but a port."""
    key = f"part-{number}"
    return st.one_of(
        st.builds(
            FanPart,
            id=st.just(key),
            spec=specs(fans),
            speed=SPEEDS,
            count=st.integers(1, 3),
            other=st.none() | SPEEDS.map(lambda speed: OtherSpeed(speed=speed)),
        ),
        st.builds(FilterPart, id=st.just(key), spec=specs(filters), loading=st.floats(1, 3)),
        st.builds(
            DuctPart,
            id=st.just(key),
            spec=specs(ducts),
            diameter_m=BORES,
            length_m=st.floats(0.1, 30),
            slack=st.floats(0, 0.45),
        ),
        st.builds(BendPart, id=st.just(key), diameter_m=BORES, angle_deg=st.floats(5, 180), make=MAKES),
        st.builds(AdapterPart, id=st.just(key), from_m=BORES, to_m=BORES, make=st.sampled_from(["cone", "step"])),
        st.builds(FittingPart, id=st.just(key), spec=specs(fittings)),
    )


@st.composite
def ways(draw, number):
    """A way of air of any parts, perhaps through a port."""
    parts = [draw(part(n)) for n in range(draw(st.integers(0, 6)))]
    if draw(st.booleans()):
        parts.insert(draw(st.integers(0, len(parts))), PortPart(id="port", opening_id=f"port-{number}"))
    cycle = draw(
        st.sampled_from([{}, {"schedule": Cycle(on_min=10.0, every_min=60.0)}, {"schedule": WithLamps(when="dark")}])
    )
    return Airway(
        id=f"way-{number}",
        name=f"Way {number}",
        way=draw(st.sampled_from(["out", "in"])),
        parts=tuple(parts),
        ends=draw(st.sampled_from(["room", "other-room", "outdoors", "space"])),
        space_id="far",
        **cycle,
    )


@st.composite
def plans(draw):
    """A planted tent with up to three ways, and a cupboard that they may lead to."""
    found = [draw(ways(number)) for number in range(draw(st.integers(0, 3)))]
    holes = [
        Opening(
            id=f"port-{number}",
            face=draw(st.sampled_from(["left", "right", "front", "back", "ceiling"])),
            u_m=0.4,
            v_m=0.4,
            diameter_m=draw(st.sampled_from([0.06, 0.15])),
            use=draw(st.sampled_from(["exhaust", "intake", "closed"])),
            open=draw(st.booleans()),
        )
        for number in range(3)
    ]
    space = planted(
        *found,
        flaps=draw(st.booleans()),
        kind=draw(st.sampled_from(["tent", "closet", "cabinet"])),
        air=Air(leak_cm2=draw(st.sampled_from([0.0, 1.0, 20.0])), noise_wish_dba=35),
    )
    space = space.model_copy(update={"openings": (*space.openings, *holes)})
    far = tent(kind="cabinet", openings=(), air=Air(leak_cm2=draw(st.sampled_from([0.5, 10.0]))))
    return household(space, far.model_copy(update={"id": "far", "name": "Far"}))


RELAXED = settings(
    max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)


@RELAXED
@given(plans())
def test_a_plan_with_any_ways_round_trips_and_keeps_its_mass(plan):
    assert loads(dumps(plan)) == plan
    for space in plan.spaces:
        for lit in (True, False):
            air = ventilation(plan, space, Moment(lit=lit, rise_k=4.0))
            seeping = 3600 * sum(hole.flow_m3_s for hole in air.holes)
            if not is_open(space):
                assert air.fan_in_m3_h + seeping == pytest.approx(air.fan_out_m3_h, abs=0.05)
            assert abs(air.pressure_pa) < 3000
            assert air.fresh_m3_h >= 0
            assert air.unfiltered_m3_h >= 0


@RELAXED
@given(plans())
def test_phases_of_cycles_fill_the_time(plan):
    mean = breath(plan, plan.spaces[0], lit=True, rise_k=2.0)
    assert sum(phase.share for phase in mean.phases) == pytest.approx(1)
    assert all(phase.share >= 0 for phase in mean.phases)
    low, high = (pick(phase.air.total_m3_h for phase in mean.phases) for pick in (min, max))
    assert low - 1e-6 <= mean.total_m3_h - mean.door_m3_h <= high + 1e-6


@RELAXED
@given(ways(0))
def test_gathered_losses_are_the_sum_of_all_elements_and_rise_with_flow(way):
    chain = chain_of(way)
    flows = [0.002, 0.01, 0.03, 0.08]
    losses = [chain.loss_pa(flow) for flow in flows]
    for flow, loss in zip(flows, losses, strict=True):
        assert loss == pytest.approx(sum(item.drop_pa(flow) for item in chain.elements), rel=1e-6, abs=1e-9)
    assert losses == sorted(losses)
    assert len(chain.needed) <= len(way.parts)


@RELAXED
@given(ways(0), st.floats(-50, 50))
def test_a_chain_s_flow_is_where_fans_and_losses_agree_and_rises_with_the_pressure_behind_it(way, head):
    chain = chain_of(way)
    speeds = [fan.speed_at(lit=True) for fan in way.fans]
    flow = chain.flow_m3_s(speeds, head)
    if chain.shut:
        assert flow == 0
        return
    assert chain.gain_pa(flow, speeds) + head == pytest.approx(0, abs=max(0.05, 1e-3 * abs(head)))
    assert chain.flow_m3_s(speeds, head + 5) >= flow - 1e-9


@settings(max_examples=16, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(plans())
def test_every_margin_has_words_in_both_unit_systems(plan):
    report = evaluate_space(plan, plan.spaces[0], with_map=False)
    for margin in report.margins:
        for system in ("metric", "us"):
            said = " ".join([margin.need.say(system), margin.there.say(system), margin.why.say(system)])
            assert said.strip()
            assert "{" not in said
            assert "nan" not in said
        if margin.id.startswith("air."):
            us = " ".join([margin.need.say("us"), margin.there.say("us"), margin.why.say("us")])
            us += " ".join(
                step.means("us") + step.amount.text("us") for step in margin.working.steps if step.symbol != "V"
            )
            assert not re.search(r"\d\s?(m³/h|Pa|m/s|°C)(?!\w)", us), (margin.id, us)


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(plans())
def test_no_remedy_of_the_air_worsens_its_own_margin(plan):
    space = plan.spaces[0]
    report = evaluate_space(plan, space, with_map=False)
    for margin in report.margins:
        if not (margin.id.startswith("air.") and margin.mendable):
            continue
        remedy = mending(plan, space, margin.id)
        if remedy is None:
            continue
        changed = apply(plan, "tent", remedy.changes)
        after = evaluate_space(changed, changed.spaces[0], with_map=False).margin(margin.id)
        assert after is None or ORDER.index(after.verdict) >= ORDER.index(margin.verdict), margin.id


@RELAXED
@given(plans())
def test_every_speed_step_has_a_working_point(plan):
    space = plan.spaces[0]
    for way in space.airways:
        points = operating_points(plan, space, way)
        steps = set(way.lead.spec.steps) if way.lead else set()
        between = {way.lead.speed} if way.lead and way.lead.speed > 0 else set()
        assert [point.speed for point in points] == sorted(steps | between)
        for before, after in pairwise(points):
            # A fan that is blown through faster than it turns is drawn a little apart from one that stands.
            if all(way.follows(fan) for fan in way.fans):
                assert after.flow_m3_h >= before.flow_m3_h - 0.01
            assert after.power_w > before.power_w
