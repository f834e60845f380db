"""A scenario with a person's moves as a system to simulate."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import inf
from typing import Any

import numpy as np
from numpy.typing import NDArray

from canopy.climate.system import Control, Enclosure, Face, Gives, Group, Leaves, Link, Pots, Sensed, System, Weather
from canopy.evaluate.climate.devices import gives
from canopy.library import find, materials
from canopy.plan.document import Device
from canopy.psychrometrics import dry_air_density_kg_m3, humidity_ratio, pressure_pa
from canopy.trainer.scenario import Box, Knob, Mover, Scenario

Shares = NDArray[np.float32]
STEP_S, NOTED_S = 20.0, 120.0
# Of a lamp's power: light and what goes its way (white LED); of that, what leaves take where they cover the floor.
_RADIANT, _TAKEN = 0.5, 0.75
_BODY_W_K, _BODY_J_K = 0.03, 15.0
_ROOM = "room"


@dataclass(frozen=True, kw_only=True)
class Move:
    """A knob turned to a value at an hour after the beginning."""

    at_h: float
    knob: str
    value: float


def values_of(knob: Knob, moves: Iterable[Move], steps: int) -> NDArray[np.float64]:
    """Give what a knob stands at in each step.

    Parameters
    ----------
    knob : with where it begins
    moves : of all knobs, in any order
    steps : how many

    Returns
    -------
    ndarray : shape (steps,)
    """
    found = np.full(steps, knob.start)
    for move in sorted((item for item in moves if item.knob == knob.id), key=lambda item: item.at_h):
        found[max(0, round(move.at_h * 3600 / STEP_S)) :] = move.value
    return found


def world_of(scenario: Scenario, moves: Iterable[Move]) -> System:
    """Make the system of a scenario as a person turned its knobs.

    Parameters
    ----------
    scenario : the small world
    moves : every turn of a knob

    Returns
    -------
    System : from the scenario's beginning on
    """
    return _World(scenario, tuple(moves)).system()


class _World:
    def __init__(self, scenario: Scenario, moves: tuple[Move, ...]) -> None:
        self.scenario, self.moves = scenario, moves
        self.steps = round(scenario.hours * 3600 / STEP_S)
        self.hours = (np.arange(self.steps) + 0.5) * STEP_S / 3600
        self.drives: dict[str, Shares] = {}
        self.groups: list[Group] = []
        self.controls: list[Control] = []
        self.links: list[Link] = []
        self.states: dict[str, Shares] = {}

    def system(self) -> System:
        boxes = tuple(self._box(box) for box in self.scenario.boxes)
        for machine in self.scenario.machines:
            self._machine(machine.id)
        for mover in self.scenario.movers:
            if mover.kind != "vent":
                self._mover(mover)
        return System(
            steps=self.steps,
            dt_s=STEP_S,
            pressure_pa=pressure_pa(0.0),
            density_kg_m3=dry_air_density_kg_m3(22.0, humidity_ratio(22.0, 50.0)),
            weathers=self._weathers(),
            enclosures=boxes,
            groups=tuple(self.groups),
            controls=tuple(self.controls),
            links=tuple(self.links),
            drives=self.drives,
            states=self.states,
            every=round(NOTED_S / STEP_S),
        )

    def _weathers(self) -> tuple[Weather, ...]:
        room, every_h = self.scenario.room, 1 / 6
        hours = np.arange(0, self.scenario.hours + 2 * every_h, every_h)
        at = [item.at_h for item in room]
        warm = np.interp(hours, at, [item.c for item in room])
        water = np.interp(hours, at, [humidity_ratio(item.c, item.rh) for item in room])
        ppm = np.full(len(hours), self.scenario.co2_ppm)
        floor = warm if self.scenario.floor_c is None else np.full(len(hours), self.scenario.floor_c)
        return tuple(
            Weather(id=key, temperature_c=t, ratio=water, co2_ppm=ppm, every_s=600.0)
            for key, t in ((_ROOM, warm), ("floor", floor))
        )

    def _values(self, target: str, way: str = "level") -> NDArray[np.float64] | None:
        knob = next((item for item in self.scenario.knobs if item.acts == target and item.way == way), None)
        return None if knob is None else values_of(knob, self.moves, self.steps)

    def _upset(self, target: str, share: NDArray[np.float64]) -> NDArray[np.float64]:
        """Lay what fails or sticks over how far something would run."""
        for event in self.scenario.events:
            if event.target == target:
                within = (self.hours >= event.at_h) & (self.hours < event.until_h)
                share = np.where(within, 0.0 if event.what == "fails" else 1.0, share)
        return share

    def _drive(self, key: str, shares: NDArray[Any]) -> str:
        self.drives[key] = np.asarray(shares, dtype=np.float32)
        return key

    def _lit(self) -> NDArray[np.float64]:
        clock = (self.hours + self.scenario.starts_h) % 24
        on = np.zeros(self.steps)
        for begins, ends in self.scenario.lit:
            inside = (clock >= begins) & (clock < ends) if begins < ends else (clock >= begins) | (clock < ends)
            on[inside] = 1.0
        return on

    def _box(self, box: Box) -> Enclosure:
        level = self._values(f"lamps-{box.id}")
        lamps = self._lit() * (1.0 if level is None else level)
        lit = self._drive(f"lit-{box.id}", (lamps > 0.02).astype(float))
        if box.lamp_w > 0:
            covered = min(0.9, box.ground_m2 / (box.width_m * box.depth_m))
            radiant = _RADIANT * box.lamp_w
            leaf = radiant * _TAKEN * covered if box.lai > 0 else 0.0
            found = Gives(ppfd=box.ppfd, leaf_w=leaf, sheet_w=radiant - leaf, lamp_w=box.lamp_w - radiant)
            drive = self._drive(f"lamps-{box.id}", self._upset(f"lamps-{box.id}", lamps))
            self.groups.append(Group(id=f"lamps-{box.id}", where=box.id, drive=drive, gives=found))
        self._vent(box)
        w, d, h = box.width_m, box.depth_m, box.height_m
        wall = find(materials(), box.wall, "material")
        return Enclosure(
            id=box.id,
            host=_ROOM,
            floor="floor",
            volume_m3=w * d * h,
            faces=(
                Face(
                    area_m2=2 * (w + d) * h + w * d,
                    inner_film_w_m2k=wall.inner_film_w_m2k,
                    resistance_m2k_w=wall.resistance_m2k_w,
                    holds_j_m2k=wall.holds_j_m2k,
                ),
            ),
            pots=Pots(area_m2=box.pots_m2, wet=box.wet, holds_j_k=box.pots_j_k, floor_w_k=box.floor_w_k),
            leaves=Leaves(ground_m2=box.ground_m2, lai=box.lai) if box.ground_m2 > 0 and box.lai > 0 else None,
            lamp_w_k=max(0.05, _BODY_W_K * box.lamp_w),
            lamp_j_k=max(50.0, _BODY_J_K * box.lamp_w),
            breath_mol_s=1e-6 * max(box.ground_m2, 0.1 * box.pots_m2),
            lit=lit,
            start_c=box.start_c,
            start_rh_pct=box.start_rh,
        )

    def _vent(self, box: Box) -> None:
        """Leaks always, and a lid or vent as far as it is open: the two states of its ways."""
        vent = next((m for m in self.scenario.movers if m.box == box.id and m.kind == "vent"), None)
        level = self._values(vent.id) if vent else None
        wide = np.zeros(self.steps) if vent is None else self._upset(vent.id, np.ones(1) if level is None else level)
        wide = np.broadcast_to(wide, (self.steps,))
        self.states[box.id] = np.array([1 - wide, wide], dtype=np.float32)
        leak, full = box.leak_m3_h / 3600, (vent.m3_h if vent else 0.0) / 3600
        table = np.array([[[leak], [leak]], [[leak + full], [leak + full]]])
        self.links.append(Link(source=_ROOM, into=box.id, owner=box.id, flow_m3_s=table))

    def _mover(self, mover: Mover) -> None:
        level = self._values(mover.id)
        share = self._upset(mover.id, np.ones(self.steps) if level is None else level)
        drive = self._drive(f"moves-{mover.id}", share)
        self.controls.append(Control(target=mover.box, fan=True, where=mover.box, sensed=None, gate=drive))
        full = mover.m3_h / 3600
        table = np.array([[[0.0], [full]], [[0.0], [full]]])
        far = mover.into if mover.kind == "loop" and mover.into else _ROOM
        self.links.append(Link(source=mover.box, into=far, owner=mover.box, flow_m3_s=table))
        if mover.kind == "loop":
            self.links.append(Link(source=far, into=mover.box, owner=mover.box, flow_m3_s=table))

    def _machine(self, machine_id: str) -> None:
        machine = next(item for item in self.scenario.machines if item.id == machine_id)
        found = gives(Device(id=machine.id, spec=machine.spec))
        knob = next((item for item in self.scenario.knobs if item.acts == machine.id), None)
        ones = np.ones(self.steps)
        if knob is None or knob.way == "level":
            level = ones if knob is None else values_of(knob, self.moves, self.steps)
            drive = self._drive(f"runs-{machine.id}", self._upset(machine.id, level))
            self.groups.append(Group(id=machine.id, where=machine.box, drive=drive, gives=found, tank_kg=inf))
            return
        fails = self._drive(f"sound-{machine.id}", np.where(self._upset(machine.id, ones) > 0, 1.0, 0.0))
        self.groups.append(Group(id=machine.id, where=machine.box, drive=fails, gives=found, tank_kg=inf))
        sticks = self._upset(machine.id, np.zeros(self.steps))
        if sticks.max() > 0:
            gate = self._drive(f"sticks-{machine.id}", sticks)
            self.controls.append(Control(target=machine.id, where=machine.box, sensed=None, gate=gate))
        stands = values_of(knob, self.moves, self.steps)
        sensed: dict[str, Sensed] = {"air": "air", "root": "root", "rh": "rh", "co2": "co2"}
        below = machine.spec.kind not in ("cooler", "dehumidifier")
        for value in sorted({*knob.values} - {knob.off}):
            gate = self._drive(f"set-{machine.id}-{value:g}", (stands == value).astype(float))
            if knob.way == "co2":
                gate = self._drive(gate, self.drives[gate] * self.drives[f"lit-{machine.box}"])
            self.controls.append(
                Control(
                    target=machine.id,
                    where=machine.box,
                    sensed=sensed[knob.way],
                    day=value,
                    night=value,
                    below=below,
                    band=knob.band,
                    gate=gate,
                )
            )
