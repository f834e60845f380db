"""What a space and a circuit draw."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from canopy.library import find, rule_sets
from canopy.light.photometry import fixture_load
from canopy.plan.document import Circuit, Fixture, Plan, Space
from canopy.plan.tariff import Tariff
from canopy.power import Load, Tree, appliance_loads, coinciding_w, monthly_cost, tree_of
from canopy.psychrometrics import density_share
from canopy.schedule import Daily, unbroken_h


@dataclass(frozen=True, kw_only=True)
class CircuitLoad:
    """A circuit with all that hangs on it.

    ``continuous_w`` is the most that runs for hours together, ``peak_w`` the most that runs together at all, both at
    the minute of the day that follows; ``all_on_w`` the sum of everything, whether it coincides or not [W]. What wires
    and breakers carry of the two is ``continuous_va`` and ``peak_va`` [VA].
    """

    circuit: Circuit
    limit_w: float
    continuous_w: float
    peak_w: float
    continuous_va: float
    peak_va: float
    all_on_w: float
    breaker_w: float
    loads: tuple[tuple[str, Load], ...]
    continuous_at_min: int = 0
    peak_at_min: int = 0

    @property
    def share(self) -> float:
        """Continuous load over its limit."""
        return self.continuous_w / self.limit_w


@dataclass(frozen=True, kw_only=True)
class Running:
    """What a space draws and costs."""

    loads: tuple[Load, ...]
    power_w: float
    energy_kwh_d: float
    cost_per_month: float
    currency: str


def space_loads(space: Space, density: float = 1.0) -> tuple[Load, ...]:
    """Give every load of a space.

    Parameters
    ----------
    density : density of the air against sea level's, over 0

    Returns
    -------
    tuple of Load : lamps as they are set, fan, devices
    """
    lamps = tuple(
        Load(
            part_id=lamp.id,
            name=lamp.spec.name,
            power_w=fixture_load(lamp),
            hours_per_day=lamp.full_hours,
            unbroken_h=unbroken_h(lamp.schedule),
            schedule=lamp.schedule,
            ramps=isinstance(lamp.schedule, Daily) and lamp.schedule.ramp_up_min + lamp.schedule.ramp_down_min > 0,
            kind_id=_kind_of(lamp),
            plug=lamp.plug,
            pinned=lamp.pinned,
            chain=lamp.chain,
        )
        for lamp in space.fixtures
        if lamp.enabled
    )
    return lamps + appliance_loads(space, density)


def _kind_of(lamp: Fixture) -> str:
    """How a lamp draws: by its technology; small LED lamps are made without correction of their power factor."""
    kind = lamp.spec.technology
    return "led-small" if kind == "led" and lamp.spec.power_w < _SMALL_W else kind


_SMALL_W = 25.0


def household_tree(plan: Plan) -> Tree:
    """Build a household's tree from what all its spaces draw.

    Parameters
    ----------
    plan : with its spaces, circuits, outlets and strips

    Returns
    -------
    Tree : circuits, outlets, strips and loads
    """
    density = density_share(plan.site.altitude_m)
    return tree_of(plan, {space.id: space_loads(space, density) for space in plan.spaces})


def running(plan: Plan, space: Space) -> Running:
    """Sum up what a space draws and costs.

    Parameters
    ----------
    plan : the plan, for its tariff

    Returns
    -------
    Running : loads, power with all on [W], energy a day [kWh], cost a month
    """
    loads = space_loads(space, density_share(plan.site.altitude_m))
    return Running(
        loads=loads,
        power_w=sum(load.power_w for load in loads),
        energy_kwh_d=sum(load.energy_kwh_d for load in loads),
        cost_per_month=monthly_cost(loads, plan.tariff),
        currency=plan.site.currency,
    )


def as_followed(found: Running, shares: Mapping[str, float], tariff: Tariff) -> Running:
    """Give what a space draws and costs with devices that run as far as the climate asks.

    Parameters
    ----------
    found : with each of them running in all hours that stand for it
    shares : the share of the day for which a device runs, by its id
    tariff : price by the minute

    Returns
    -------
    Running : energy and cost by what they ran; the power with all on stays
    """
    loads = tuple(
        replace(load, hours_per_day=24 * shares[load.part_id]) if load.part_id in shares else load
        for load in found.loads
    )
    return replace(
        found,
        loads=loads,
        energy_kwh_d=sum(load.energy_kwh_d for load in loads),
        cost_per_month=monthly_cost(loads, tariff),
    )


def circuit_load(plan: Plan, circuit: Circuit, tree: Tree | None = None) -> CircuitLoad:
    """Sum up what hangs on a circuit.

    Parameters
    ----------
    circuit : one of its circuits
    tree : of the household, where it is at hand

    Returns
    -------
    CircuitLoad : continuous load (anything on for 3 h or more at a stretch) against the rule set's share
    """
    rules = find(rule_sets(), circuit.rule_set_id, "rule set")
    hung = (tree or household_tree(plan)).under(circuit.id)
    loads = [item.load for item in hung]
    full = circuit.breaker_a * circuit.mains_v
    lasting, together = coinciding_w(loads, for_hours=True), coinciding_w(loads)
    return CircuitLoad(
        circuit=circuit,
        limit_w=rules.continuous_share * full,
        continuous_w=float(lasting.max()),
        continuous_at_min=int(lasting.argmax()),
        peak_w=float(together.max()),
        peak_at_min=int(together.argmax()),
        continuous_va=float(coinciding_w(loads, for_hours=True, apparent=True).max()),
        peak_va=float(coinciding_w(loads, apparent=True).max()),
        all_on_w=sum(load.power_w for load in loads),
        breaker_w=full,
        loads=tuple((item.where, item.load) for item in hung),
    )
