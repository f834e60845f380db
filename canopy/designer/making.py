"""A choice made into a plan: lamps hung, air led, devices sized, each by the rules that every plan is judged by."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass, field

from canopy.air.fan_curve import steps_of
from canopy.air.operating import at_speed, main_way
from canopy.care.thirst import thirst_of
from canopy.design.air.building import exhaust_parts, filter_for, settled, slowest_step
from canopy.design.air.openings import intake_opening, new_port, with_port
from canopy.design.air.quiet import mend_quiet
from canopy.design.air.stirring import suggest_stirrer
from canopy.design.climate.mend import setting_for
from canopy.design.climate.settings import joint_window
from canopy.design.climate.sizes import sizes_of
from canopy.design.climate.sizing import Size, sizes_on
from canopy.design.start.answers import Answers
from canopy.design.start.space import bare_space, level_of, stacked
from canopy.designer.choice import Choice, Vent
from canopy.designer.outcome import Outcome, outcome_of
from canopy.equipment import DeviceSpec
from canopy.errors import CanopyError
from canopy.evaluate.air.breathing import breathing
from canopy.evaluate.air.excess import usual_flow_m3_h
from canopy.evaluate.climate.days import Simulated
from canopy.evaluate.light.lighting import lighting
from canopy.library import fans, rule_sets
from canopy.light.scene import PREVIEW
from canopy.plan.airways import Airway
from canopy.plan.care import Watering
from canopy.plan.controls import FanControl
from canopy.plan.document import Device, Plan, Space
from canopy.plan.edit import apply
from canopy.plan.rooms import Season
from canopy.plan.shell import Opening
from canopy.season import Cast, Growing, Standing, cast_of, standing_of

# The port at which another space's exhaust ends.
LINK = "port-from-next-door"
# Kinds whose walls are cut into for air.
STIFF = ("closet", "cabinet")
# So many times devices are added for what is still outside; a tank has to last so many days.
_ROUNDS, _TANK_DAYS = 3, 1.25
# A fan moves so many times the usual exchange before its choice adds to it.
_TO_SPARE = 1.25
# Drippers give so much each [L/h]; a tank lasts so many days.
_DRIPPER_L_H, _TANK_D, _TANKS_L = 2.0, 10, (2.0, 5.0, 10.0, 20.0, 40.0, 80.0, 160.0)
# What a device is for: the margins that it answers.
_ANSWERS = {
    "heater": ("climate.air-day", "climate.air-night"),
    "mat": ("climate.root",),
    "humidifier": ("climate.rh", "climate.vpd"),
    "dehumidifier": ("climate.rh", "climate.vpd", "climate.mould", "climate.condensation"),
    "cooler": ("climate.air-day", "climate.air-night"),
}
# Where a cooler or a dryer has room to stand and blow [m³].
_ROOMY_M3 = {"cooler": 1.0, "dehumidifier": 0.15, "humidifier": 0.05, "heater": 0.15}


@dataclass(eq=False)
class Maker:
    """Makes plans of one space of a household: ``bare`` is planted only, ``level`` one level of it. The exhaust of the
    space of ``feeder_id`` is led into it.
    """

    household: Plan
    answers: Answers
    day: dt.date
    refuses: Sequence[str] = ()
    feeder_id: str = ""
    bare: Space = field(init=False)
    level: Standing = field(init=False)
    cast: Cast = field(init=False)

    def __post_init__(self) -> None:
        self.cast = cast_of(self.household)
        racked = self.answers.levels > 1
        one = bare_space(level_of(self.answers) if racked else self.answers, self.cast)
        if "drilling" in self.refuses and one.kind in STIFF:
            # Without a hole there is no way for a fan: its door is left open, and takes its light along.
            one = one.model_copy(update={"door_open": True})
        self.bare = stacked(one, self.answers) if racked else one
        self._check_room()
        self.level = standing_of(one, self.day, self.cast)

    def _check_room(self) -> None:
        """Whether what grows there can stand there at all; PlanError in words otherwise."""
        self.plan_of(self.bare)

    def plan_of(self, space: Space) -> Plan:
        """Put a space into the household, checked.

        Parameters
        ----------
        space : with the id of the answers

        Returns
        -------
        Plan : with the space in place of one of its id, else at the end

        Raises
        ------
        PlanError : it breaks a rule
        """
        others = tuple(_led_into(item, space) if item.id == self.feeder_id else item for item in self._others(space))
        plan = self.household.model_copy(update={"spaces": (*others, space)})
        return Plan.model_validate(plan.model_dump(mode="json"))

    def _others(self, space: Space) -> tuple[Space, ...]:
        return tuple(item for item in self.household.spaces if item.id != space.id)

    def made(self, choice: Choice) -> Outcome | None:
        """Make a plan of a choice and work out what it comes to.

        Parameters
        ----------
        choice : one of each part

        Returns
        -------
        Outcome : None where it cannot be made: what is chosen finds no room, or breaks a rule
        """
        try:
            space = self._aired(self._linked(self._lit(choice)), choice)
            found = None if space is None else self._equipped(self._hushed(self._outcome(space)), choice)
            return found if found is None or self._on_its_socket(found) else None
        except CanopyError:
            return None

    def _outcome(self, space: Space) -> Outcome:
        return outcome_of(self.plan_of(space), space.id, self.day, seasons=True)

    def _here(self, space: Space) -> Standing:
        return standing_of(space, self.day, self.cast)

    def _lit(self, choice: Choice) -> Space:
        """The lamps of a level on each level that is planted."""
        one = self.level.space.model_copy(update={"fixtures": choice.lamps.lamps})
        lit = stacked(one, self.answers) if self.answers.levels > 1 else one
        return self.bare.model_copy(update={"fixtures": lit.fixtures})

    def _aired(self, space: Space, choice: Choice) -> Space | None:
        """Lead its air; None where the fan does not bring what it should."""
        vent = choice.vent
        if vent.door:
            space = space.model_copy(update={"door_open": True})
        elif vent.gaps > 0:
            gaps = _pushed_back(space, vent.gaps) if space.kind == "glass-case" else self._slits(space, vent.gaps)
            space = space.model_copy(update={"openings": (*space.openings, *gaps)})
        elif vent.fan is not None:
            drawn = self._drawn(space, vent, choice.flow)
            if drawn is None:
                return None
            space = _turned_by_air(drawn, self.level.plants) if choice.control else drawn
        return self._stirred(space)

    def _slits(self, space: Space, times: float) -> tuple[Opening, ...]:
        """A slit low in one wall and one high in another, as for a fan that moves so many times the usual exchange."""
        flow = times * self._usual_m3_h(space)
        low = intake_opening(space, flow)
        if low is None:
            return ()
        one = space.model_copy(update={"openings": (*space.openings, low)})
        high = intake_opening(one, flow, outlet=True)
        return (low,) if high is None else (low, high)

    def _usual_m3_h(self, space: Space) -> float:
        here = self._here(space)
        return usual_flow_m3_h(breathing(self.plan_of(space), here, lighting(here, PREVIEW, with_map=False)))

    def _drawn(self, space: Space, vent: Vent, flow: float) -> Space | None:
        here, spec, plan = self._here(space), vent.fan, self.plan_of(space)
        assert spec is not None
        wanted = _TO_SPARE * flow * self._usual_m3_h(space)
        strain = filter_for(spec.diameter_m, wanted) if vent.filtered else None
        if vent.filtered and strain is None:
            return None
        airway = Airway(id="exhaust-1", name="Exhaust", parts=exhaust_parts(spec, None, strain=strain))
        made = with_port(space, airway, spec.diameter_m, here)
        intake = intake_opening(made, wanted)
        if intake:
            made = made.model_copy(update={"openings": (*made.openings, intake)})
        way = made.airways[-1]
        speed = slowest_step(plan, made, way, wanted)
        if speed is None or not steps_of(spec):
            return None
        return settled(plan, at_speed(made, way, speed), way.id, wanted)

    def _stirred(self, space: Space) -> Space:
        """What moves the air at the leaves, where it does not move enough: one on each level of a rack."""
        for _ in range(max(1, self.answers.levels)):
            here = self._here(space)
            stirrer = suggest_stirrer(here)
            if stirrer is None:
                break
            space = space.model_copy(update={"stirrers": (*space.stirrers, stirrer)})
        return space

    def _on_its_socket(self, found: Outcome) -> bool:
        """Whether one socket carries all of it for hours, where only one is wanted."""
        circuit = self.household.circuit(self.answers.circuit_id)
        if "sockets" not in self.refuses or circuit is None:
            return True
        rules = rule_sets()[circuit.rule_set_id]
        return found.report.running.power_w <= rules.outlet_continuous_a * circuit.mains_v

    def _linked(self, space: Space) -> Space:
        """With a port that another space's exhaust ends at, where one is led into it."""
        feeder = self.household.space(self.feeder_id)
        way = main_way(feeder.airways) if feeder else None
        if way is None or way.lead is None:
            return space
        port = new_port(space, way.lead.spec.diameter_m, "intake", None, self._here(space))
        if port is None:
            return space
        return space.model_copy(update={"openings": (*space.openings, port.model_copy(update={"id": LINK}))})

    def _hushed(self, found: Outcome) -> Outcome:
        """With the household's quiet hours kept, where the fan can."""
        loud = found.report.margin("day.quiet")
        remedy = mend_quiet(found.report, loud) if loud is not None and loud.verdict == "over" else None
        if remedy is None:
            return found
        space_id = found.report.space.id
        return outcome_of(apply(found.report.plan, space_id, remedy.changes), space_id, self.day, seasons=True)

    def _equipped(self, first: Outcome, choice: Choice) -> Outcome:
        """Devices for what the climate lacks, then once more for what these change; water as it is chosen."""
        found = first
        for _ in range(_ROUNDS):
            devices = self._lacking(found, choice)
            if not devices:
                break
            better = self._outcome(_with_devices(found.report.space, devices))
            if _both(better, choice) >= _both(found, choice) - 1e-9:
                break
            found = better
        if choice.water == "drip" and found.report.here.plants:
            space = found.report.space.model_copy(update={"watering": _dripped(found)})
            found = self._outcome(space)
        return found

    def _lacking(self, found: Outcome, choice: Choice) -> list[Device]:
        """Devices that answer what is outside and of whose kind there is none, each the smallest class that does it."""
        outside = {margin.id for margin in found.bad}
        if choice.equip != "today":
            outside |= {margin.id for _, margin in found.bad_seasons}
        space, plants = found.report.space, found.report.here.plants
        if space.kind == "shelf" or not any(item.startswith("climate.") for item in outside):
            return []
        there = {device.spec.kind for device in space.devices}
        volume = space.size.width_m * space.size.depth_m * space.size.height_m
        made: list[Device] = []
        for size in self._sizes(found, choice):
            answers = outside & set(_ANSWERS.get(size.kind, ()))
            if size.spec is None or size.kind in there or not answers or volume < _ROOMY_M3.get(size.kind, 0.0):
                continue
            row = sizes_of(size.kind)
            place = next((number for number, item in enumerate(row) if item.class_id == size.spec.class_id), 0)
            place = min(len(row) - 1, place + (choice.equip == "larger"))
            setting = setting_for(plants, size.kind)
            if setting is not None:
                spec = _lasting(row[place:], size)
                made.append(Device(id=f"device-{len(space.devices) + len(made) + 1}", spec=spec, control=setting))
        return made

    def _sizes(self, found: Outcome, choice: Choice) -> tuple[Size, ...]:
        """What it would take beyond what is there, on the days that the choice is sized for."""
        report, days = found.report, dict[Season, Simulated]()
        if choice.equip != "today":
            days = {season: day for season, (_, day) in found.extreme_days.items()}
        if report.climate is not None:
            days["day"] = report.climate
        return sizes_on(report, days)


def _both(found: Outcome, choice: Choice) -> float:
    """What is outside on the days that a choice is sized for."""
    return found.weight + (found.extreme_weight if choice.equip != "today" else 0.0)


def _led_into(feeder: Space, space: Space) -> Space:
    """A space with its exhaust led into another, as far as that has the port for it."""
    way = main_way(feeder.airways)
    if way is None or way.way != "out" or all(hole.id != LINK for hole in space.openings):
        return feeder
    led = way.model_copy(update={"ends": "space", "space_id": space.id, "far_opening_id": LINK})
    ways = tuple(led if item.id == way.id else item for item in feeder.airways)
    return feeder.model_copy(update={"airways": ways})


def _with_devices(space: Space, devices: Sequence[Device]) -> Space:
    return space.model_copy(update={"devices": (*space.devices, *devices)})


def _lasting(row: Sequence[DeviceSpec], size: Size) -> DeviceSpec:
    """The first whose tank lasts more than a day; those without a tank last."""
    if size.kind != "humidifier" or size.need is None:
        return row[0]
    lasting = (spec for spec in row if not spec.tank_l or spec.tank_l * 1000 >= _TANK_DAYS * 24 * size.need.value)
    return next(lasting, row[-1])


def _turned_by_air(space: Space, plants: Sequence[Growing]) -> Space:
    """A fan that slows down where it gets cold and speeds up where it gets hot or damp."""
    day, night, rh = (joint_window(plants, key) for key in ("air_day_c", "air_night_c", "rh_pct"))
    way = space.airways[-1]
    assert way.lead is not None
    least = min(steps_of(way.lead.spec), default=way.lead.speed)
    control = FanControl(
        least=min(least, way.lead.speed),
        most=1.0,
        hot_day_c=round(day.high - 1.0, 1),
        hot_night_c=round(night.high - 1.0, 1),
        damp_day_pct=max(20.0, rh.high - 5),
        damp_night_pct=max(20.0, rh.high - 5),
        cold_day_c=round(min(day.low + 1.5, day.high - 1.5), 1),
        cold_night_c=round(min(night.low + 1.5, night.high - 1.5), 1),
    )
    turned = way.model_copy(update={"control": control})
    return space.model_copy(update={"airways": (*space.airways[:-1], turned)})


def _pushed_back(space: Space, share: float) -> tuple[Opening, ...]:
    """A lid pushed forward and a front slid open: a gap at the back of the roof, one low in the front."""
    size = space.size
    deep, high = max(0.005, share * size.depth_m), max(0.005, min(0.75 * share, 0.4) * size.height_m)
    middle, wide = round(size.width_m / 2, 4), round(size.width_m, 4)
    roof = {"face": "ceiling", "v_m": round(size.depth_m - deep / 2, 4), "height_m": round(deep, 4)}
    front = {"face": "front", "v_m": round(high / 2, 4), "height_m": round(high, 4)}
    values = {"u_m": middle, "width_m": wide, "shape": "seam"}
    return (
        Opening.model_validate({"id": "lid-gap", "use": "exhaust", **values, **roof}),
        Opening.model_validate({"id": "front-gap", "use": "intake", **values, **front}),
    )


def _dripped(first: Outcome) -> Watering:
    """Drippers on a timer from a tank that lasts."""
    litres_d = thirst_of(first.report).litres_d
    need = litres_d * _TANK_D / 0.8
    tank = next((size for size in _TANKS_L if size >= need), _TANKS_L[-1])
    return Watering(way="drip", tank_l=tank, flow_l_h=_DRIPPER_L_H * len(first.report.here.plants))


# How far a case's lid and front are pushed back; how many times the usual exchange slits are cut for.
_BACK, _SLITS = (0.0, 0.02, 0.1, 0.4), (1.0, 3.0, 9.0)


def vents_for(space: Space, flow_m3_h: float, refuses: Sequence[str], *, most: int = 8) -> tuple[Vent, ...]:
    """List the ways of airing worth trying.

    Parameters
    ----------
    space : planted and lit
    flow_m3_h : the usual exchange [m³/h]
    refuses : what is not wanted: "drilling", "smell"
    most : how many fans at the most

    Returns
    -------
    tuple of Vent : fans first, the smallest of them first
    """
    if space.kind == "shelf":
        return (Vent(),)
    if space.kind == "glass-case":
        return (*(Vent(gaps=share) for share in _BACK), Vent(door=True))
    stiff = space.kind in STIFF
    if "drilling" in refuses and stiff:
        return (Vent(door=True),)
    filtered = "smell" in refuses
    able = [
        row.spec
        for row in fans().values()
        if row.spec.free_flow_m3_h >= 1.1 * flow_m3_h
        and not (row.spec.kind == "case" and (filtered or space.kind == "tent"))
    ]
    able.sort(key=lambda spec: (spec.diameter_m, spec.free_flow_m3_h, spec.class_id))
    # Half of them the smallest of any kind, half of them those that can run slow.
    slow = [spec for spec in able if spec.class_id.endswith("-ec")][: most // 2]
    others = [spec for spec in able if spec not in slow][: most - len(slow)]
    found = [Vent(fan=spec, filtered=filtered) for spec in sorted((*slow, *others), key=able.index)]
    if stiff and not filtered:
        found += [*(Vent(gaps=times) for times in _SLITS), Vent(door=True)]
    return tuple(found)
