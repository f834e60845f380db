"""The simulation against the same equations in a stiff solver (SciPy's LSODA): eleven varied cases."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest

from canopy.climate import columns as c
from canopy.climate.simulate import simulate
from canopy.climate.system import Enclosure, Face, Gives, Group, Leaves, Pots, System
from tests.core.climate import cases
from tests.core.climate.stiff import Solver

HEATER = Group(id="heater", where="tent", drive="night", gives=Gives(air_w=150.0))
STEAM = Group(id="steam", where="tent", drive="always", gives=Gives(vapour_kg_s=60e-3 / 3600, air_w=6.0))
DAY = 1.25


def night(dt: float = 20.0) -> dict[str, np.ndarray]:
    return {"night": cases.hours(round(DAY * 86400 / dt), dt, 0, 6)}


def lid() -> System:
    """A propagator's lid in a tent: a small air of its own whose beyond is the tent's."""
    base = cases.tent(days=DAY, lai=0.0, watts=40.0)
    small = Enclosure(
        id="lid",
        host="tent",
        floor="tent",
        volume_m3=0.03,
        faces=(Face(area_m2=0.4, resistance_m2k_w=0.01, holds_j_m2k=2_000),),
        pots=Pots(area_m2=0.15, wet=0.3, holds_j_k=30_000, floor_w_k=1.0),
        leaves=Leaves(ground_m2=0.1, lai=0.3),
        lit="lamps",
    )
    mat = Group(id="mat", where="lid", drive="always", gives=Gives(pot_w=12.0))
    return dataclasses.replace(
        base,
        enclosures=(*base.enclosures, small),
        groups=(*base.groups, mat),
        links=(*base.links, *cases.both_ways("tent", "lid", "lid", 0.12)),
    )


def conditioned() -> System:
    """Two in a room of its own that is cooled by day and heated by night."""
    base = cases.linked(days=DAY, dryer=False)
    room = dataclasses.replace(base.rooms[0], cooling_w=220.0, cool_to_c=21.5, heating_w=300.0, heat_to_c=21.0)
    return dataclasses.replace(base, rooms=(room,))


CASES = {
    "tent": cases.tent(days=DAY),
    "tent, little air": cases.tent(days=DAY, m3_h=25.0),
    "tent without plants": cases.tent(days=DAY, lai=0.0),
    "cold room, heater by night": cases.tent(days=DAY, room=(9, 60), more=(HEATER,), drives=night()),
    "steam": cases.tent(days=DAY, m3_h=40.0, room=(19, 28), more=(STEAM,)),
    "high up": dataclasses.replace(cases.tent(days=DAY), pressure_pa=83_000.0, density_kg_m3=0.97),
    "glass case": cases.glass_case(days=DAY),
    "glass case whose panes run": cases.glass_case(days=DAY, changes_h=3.0, wet=0.5),
    "two on a loop, with a dehumidifier, in a room they warm": cases.linked(days=DAY),
    "a lid on a mat": lid(),
    "in a room with a conditioner and a heater": conditioned(),
}


@pytest.mark.parametrize("case", CASES)
def test_agrees_within_a_tenth_of_a_kelvin_and_a_point_of_humidity(case: str) -> None:
    system = CASES[case]
    days = simulate(dataclasses.replace(system, every=1))
    times, states = Solver(system).run(days.enclosures[:, :, c.OUT_CO2])
    steps = np.round(times / system.dt_s).astype(int) - 1
    # Ten minutes around a switch are steep: the end of a step is not the mean over it.
    switched = np.flatnonzero(np.abs(np.diff(system.drives["lamps"])) > 0.5) * system.dt_s
    calm = np.array([k for k, t in enumerate(times) if all(abs(t - s) > 400 for s in switched) and t > 1800])
    for number, space in enumerate(system.enclosures):
        here = days.enclosures[steps[calm], number]
        there = states[calm, 8 * number : 8 * number + 8]
        worst = {
            "air": np.abs(here[:, c.OUT_AIR] - there[:, 0]).max(),
            "leaf": np.abs(here[:, c.OUT_LEAF] - there[:, 2]).max() if space.leaves else 0.0,
            "sheet": np.abs(here[:, c.OUT_SHEET] - there[:, 3]).max(),
            "pot": np.abs(here[:, c.OUT_POT] - there[:, 4]).max(),
            # A lamp's body rises by thirty kelvin in minutes.
            "lamp": np.abs(here[:, c.OUT_LAMP] - there[:, 5]).max() / 2,
        }
        assert max(worst.values()) < 0.1, (space.id, worst)
        full = cases.RATIO / (system.pressure_pa / np.array([cases.saturation_pa(t) for t in there[:, 0]]) - 1)
        assert np.abs(here[:, c.OUT_RATIO] - there[:, 1]).max() < 0.01 * full.min(), space.id
        assert abs(here[-1, c.OUT_FILM] - there[-1, 7]) < 0.02 * max(there[:, 7].max(), 1e-3), space.id
    assert max(days.closure.heat, days.closure.water, days.closure.co2) < 1e-9
