"""Compile the simulation's loop ahead of the first question: `python -m canopy.climate.warm`."""

from __future__ import annotations

import numpy as np

from canopy.climate.simulate import simulate
from canopy.climate.system import Control, Enclosure, Face, Gives, Group, Leaves, Link, Pots, RoomNode, System, Weather


def warm() -> None:
    """Run a small system once, with all that a run can have."""
    steps = 4
    there = Weather(id="out", temperature_c=np.full(2, 20.0), ratio=np.full(2, 0.007), co2_ppm=np.full(2, 450.0))
    space = Enclosure(
        id="space",
        host="room",
        floor="out",
        volume_m3=1.0,
        faces=(Face(area_m2=5.0),),
        pots=Pots(area_m2=0.2, wet=0.2, holds_j_k=1e5, floor_w_k=1.0),
        leaves=Leaves(ground_m2=0.5, lai=2.0),
        lit="always",
    )
    flow = np.full((1, 1, 1), 0.01)
    simulate(
        System(
            steps=steps,
            dt_s=20.0,
            pressure_pa=101325.0,
            density_kg_m3=1.19,
            weathers=(there,),
            enclosures=(space,),
            rooms=(
                RoomNode(id="room", beyond="out", volume_m3=20.0, holds_j_k=4e5, loss_w_k=30.0, exchange_m3_s=0.003),
            ),
            groups=(Group(id="heater", where="space", drive="always", gives=Gives(air_w=50.0)),),
            controls=(Control(target="heater", where="space", sensed="air", day=22.0, night=18.0),),
            links=(Link(source="room", into="space", owner="space", flow_m3_s=flow),),
            drives={"always": np.ones(steps, dtype=np.float32)},
        )
    )


if __name__ == "__main__":
    warm()
