"""What everything draws, hour sums, and what it costs."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.plan.document import Circuit, Plan, Space

CONTINUOUS_H = 3.0
MONTH_DAYS = 30.4


@dataclass(frozen=True, kw_only=True)
class Load:
    """One thing on a plug: drawn power [W] for so many hours a day."""

    part_id: str
    name: str
    power_w: float
    hours_per_day: float
    heats_space: float = 1.0

    @property
    def energy_kwh_d(self) -> float:
        """Energy a day [kWh]."""
        return self.power_w * self.hours_per_day / 1000

    @property
    def continuous(self) -> bool:
        """Whether it runs for three hours or more."""
        return self.hours_per_day >= CONTINUOUS_H


def other_loads(circuit: Circuit) -> tuple[Load, ...]:
    """Give the household's other loads on a circuit.

    Parameters
    ----------
    circuit : the circuit

    Returns
    -------
    tuple of Load : one for each
    """
    return tuple(
        Load(part_id=item.id, name=item.name, power_w=item.power_w, hours_per_day=item.hours_per_day)
        for item in circuit.other_loads
    )


def appliance_loads(space: Space) -> tuple[Load, ...]:
    """Give the loads of a space that are not lamps: its fan and its devices.

    Parameters
    ----------
    space : the space

    Returns
    -------
    tuple of Load : one for each device; a fan draws by the cube of its speed (affinity laws), and half of it is
        heat inside (the motor sits in the stream that leaves)
    """
    found = []
    fan = space.air.fan
    if fan:
        found.append(
            Load(
                part_id="fan", name=fan.name, power_w=fan.power_w * space.air.fan_speed**3,
                hours_per_day=space.air.fan_hours, heats_space=0.5,
            )
        )  # fmt: skip
    for device in space.devices:
        spec = device.spec
        found.append(
            Load(
                part_id=device.id, name=spec.name, power_w=spec.power_w, hours_per_day=spec.hours_per_day,
                heats_space=spec.heats_space,
            )
        )  # fmt: skip
    return tuple(found)


def monthly_cost(loads: tuple[Load, ...], price_per_kwh: float) -> float:
    """Give what loads cost in a month.

    Parameters
    ----------
    loads : the loads
    price_per_kwh : tariff [currency/kWh]

    Returns
    -------
    float : cost of 30.4 days [currency]
    """
    return sum(load.energy_kwh_d for load in loads) * MONTH_DAYS * price_per_kwh


def spaces_on(plan: Plan, circuit_id: str) -> tuple[Space, ...]:
    """Give the spaces that hang on a circuit.

    Parameters
    ----------
    plan : the plan
    circuit_id : the circuit

    Returns
    -------
    tuple of Space : in plan order
    """
    return tuple(space for space in plan.spaces if space.circuit_id == circuit_id)
