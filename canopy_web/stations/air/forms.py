"""Forms of the Air station: what is asked of the air, ways of air and parts, circulation fans, own data sheets."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.library import adapters, ducts, fans, filters, find, fittings
from canopy.plan import Plan, Space
from canopy.plan.airways import OtherSpeed
from canopy.quantities import (
    ANGLE,
    AREA,
    DIAMETER,
    FLOW,
    LENGTH,
    PERCENT,
    TEMPERATURE,
    TEMPERATURE_RISE,
    show,
)
from canopy.schedule import by_hand
from canopy_web.forms.choices import Choices
from canopy_web.forms.clock import RUNS, CycledForm
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm, offer

RULES: Choices = [
    ("largest", "the largest of all"),
    ("exchange", "air exchange"),
    ("heat", "heat"),
    ("moisture", "moisture"),
    ("co2", "CO₂"),
]
_KINDS = {"inline": "Inline fans", "axial": "Axial duct fans", "case": "Case fans, without a spigot"}
_SORTS = {
    "damper": "Back-draught flaps",
    "muffler": "Mufflers",
    "grille": "Grilles",
    "screen": "Insect screens",
    "light-trap": "Light traps",
    "other": "Other",
}


def fan_choices(system: str = "metric") -> Choices:
    """Fans of the library by kind, with what they move in free air."""
    found: dict[str, Choices] = {}
    for row in fans().values():
        text = f"{row.spec.name}, {show(row.spec.free_flow_m3_h, FLOW, system)} free"
        found.setdefault(_KINDS[row.spec.kind], []).append((row.id, text))
    return list(found.items())


def filter_choices(system: str = "metric") -> Choices:
    """Carbon filters of the library, with the flow they are made for."""
    return [
        (row.id, f"{row.spec.name}, to {show(row.spec.rated_flow_m3_h, FLOW, system)}") for row in filters().values()
    ]


def fitting_choices() -> Choices:
    """Fittings of the library by sort."""
    found: dict[str, Choices] = {}
    for row in fittings().values():
        found.setdefault(_SORTS[row.spec.sort], []).append((row.id, row.spec.name))
    return list(found.items())


def part_choices(system: str = "metric") -> Choices:
    """All that can be put into a way of air, by what it is."""
    found: Choices = [(name, [(f"fan:{key}", text) for key, text in rows]) for name, rows in fan_choices(system)]
    found.append(("Carbon filters", [(f"filter:{key}", text) for key, text in filter_choices(system)]))
    found.append(("Ducts", [(f"duct:{row.id}", row.spec.name) for row in ducts().values()]))
    found.append(
        (
            "Bends",
            [("bend:flex", "Bend of flexible duct"), ("bend:smooth", "Smooth elbow"), ("bend:mitre", "Sharp elbow")],
        )
    )
    found.append(("Adapters", [(f"adapter:{row.id}", row.name) for row in adapters().values()]))
    found += [(name, [(f"fitting:{key}", text) for key, text in rows]) for name, rows in fitting_choices()]
    return found


class NeedForm(PartForm):
    """What the air is asked to do, and how it is judged."""

    rule = forms.ChoiceField(choices=RULES, label="fan sized by")
    exchange_minutes = NumberField(min_value=0.5, max_value=60, label="whole volume every (min)")
    count_allowance = forms.BooleanField(required=False, label="count a flat filter allowance")
    filter_allowance = QuantityField(PERCENT, 0, 1, per=100, label="filter allowance")
    rise_k = QuantityField(TEMPERATURE_RISE, 0.1, 20, label="rise above what comes in")
    max_rh_pct = QuantityField(PERCENT, 20, 99.5, label="humidity at most")
    co2_drop_ppm = NumberField(min_value=1, max_value=400, label="CO₂ may fall by (ppm)")
    leak_cm2 = NumberField(min_value=0, max_value=2000, required=False, label="seams and leaks (cm²)")
    noise_wish_dba = NumberField(min_value=15, max_value=90, required=False, label="noise at most (dB(A))")
    listen_m = QuantityField(LENGTH, 0.3, 20, label="heard from")
    door_times = NumberField(min_value=0, max_value=48, label="door opened by hand, times a day")
    door_minutes = NumberField(min_value=0.1, max_value=600, label="each time (min)")

    together = (("door_times", "door_minutes"),)

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        times = record.get("door", {}).get("times", ())
        door = {"door_times": len(times), "door_minutes": times[0]["minutes"] if times else 10.0}
        super().__init__(record, data, shown=door, **more)

    def changes(self) -> dict[str, Any]:
        """Times a day and their length become what is done by hand."""
        out = super().changes()
        if "door_times" in out or "door_minutes" in out:
            times, minutes = (out.pop(key, self.cleaned_data[key]) for key in ("door_times", "door_minutes"))
            out["door"] = by_hand(times, minutes).model_dump(mode="json")
        return out

    def sources(self) -> Mapping[str, str]:
        """The times stand for the door's schedule."""
        return {"door": "door_times"}

    def clean_door_times(self) -> int:
        """Times a day are whole."""
        value = self.cleaned_data["door_times"]
        if value != int(value):
            raise forms.ValidationError("give a whole number of times, 0 to 48")
        return int(value)


class RoomAirForm(PartForm):
    """The room around, as far as it takes up heat and water."""

    floor_m2 = QuantityField(AREA, 0.6, 400, optional=True, label="room's floor")
    height_m = QuantityField(LENGTH, 1.5, 8, label="its ceiling")
    exchange_per_h = NumberField(min_value=0, max_value=20, label="its air changes an hour")
    loss_w_k = NumberField(min_value=0.1, max_value=2000, required=False, label="its heat loss (W/K)")


class WayForm(CycledForm):
    """A way of air: its name, which way it goes, where it ends, and its cycle."""

    name = forms.CharField(max_length=120, label="name")
    way = forms.ChoiceField(choices=[("out", "out of the space"), ("in", "into the space")], label="air goes")
    end = forms.ChoiceField(label="other end")
    runs = forms.ChoiceField(choices=RUNS, required=False, label="runs")
    on_min = NumberField(min_value=0.1, max_value=1440, required=False, label="for (min)")
    every_min = NumberField(min_value=0.2, max_value=1440, required=False, label="of every (min)")
    measured = QuantityField(FLOW, 0, 5000, optional=True, label="measured flow")

    def __init__(self, record: Mapping[str, Any], data: Any = None, *, plan: Plan, space: Space, **more: Any) -> None:
        end = record["ends"] if record["ends"] != "space" else _end_value(record)
        measured = (record.get("measured") or {}).get("flow_m3_h")
        super().__init__(record, data, shown={"end": end, "measured": measured}, **more)
        choices: Choices = [("room", "the room"), ("other-room", "another room"), ("outdoors", "outdoors")]
        for other in plan.spaces:
            if other.id == space.id:
                continue
            holes = [
                (f"space:{other.id}:{o.id}", f"opening {n}, {o.face}")
                for n, o in enumerate(other.openings, 1)
                if o.shape == "round"
            ]
            choices.append((other.name, [(f"space:{other.id}:", f"{other.name}, somewhere"), *holes]))
        offer(self, end=choices)

    def changes(self) -> dict[str, Any]:
        """The other end spelled out; a measured flow is kept with the fan's present speed."""
        out = super().changes()
        if "end" in out:
            kind, _, rest = out.pop("end").partition(":")
            space_id, _, opening = rest.partition(":")
            out |= {"ends": kind, "space_id": space_id or None, "far_opening_id": opening or None}
        if "measured" in out:
            flow = out.pop("measured")
            speeds = [part["speed"] for part in self.record["parts"] if part["kind"] == "fan" and part["speed"] > 0]
            out["measured"] = None if flow is None else {"flow_m3_h": flow, "speed": max(0.1, max(speeds, default=1.0))}
        return out

    def sources(self) -> Mapping[str, str]:
        """The other end stands for its three keys."""
        ends = dict.fromkeys(("ends", "space_id", "far_opening_id"), "end")
        return {**super().sources(), **ends}


def _end_value(record: Mapping[str, Any]) -> str:
    return f"space:{record['space_id']}:{record.get('far_opening_id') or ''}"


class AwayForm(PartForm):
    """Air at the other end where it is not the room's."""

    day_c = QuantityField(TEMPERATURE, -30, 60, label="there by day")
    day_rh_pct = QuantityField(PERCENT, 1, 100, label="humidity by day")
    night_c = QuantityField(TEMPERATURE, -30, 60, label="there by night")
    night_rh_pct = QuantityField(PERCENT, 1, 100, label="humidity by night")

    together = (("day_c", "day_rh_pct", "night_c", "night_rh_pct"),)

    def changes(self) -> dict[str, Any]:
        """Where nothing was said of that air, all four figures are kept together."""
        if self.record["away"] is None:
            return {"away": dict(self.cleaned_data)} if self.typed() else {}
        return {f"away.{key}": value for key, value in self.typed().items()}


class AirPartForm(PartForm):
    """One part of a way of air: only the fields its kind has."""

    class_id = forms.ChoiceField(required=False, label="which")
    speed = QuantityField(PERCENT, 0, 1, per=100, label="speed")
    night_speed = QuantityField(PERCENT, 0, 1, per=100, optional=True, label="by night")
    count = NumberField(min_value=1, max_value=4, label="side by side")
    loading = NumberField(min_value=1, max_value=4, label="resistance against new")
    diameter_m = QuantityField(DIAMETER, 0.02, 0.6, label="diameter")
    length_m = QuantityField(LENGTH, 0.01, 30, label="length")
    slack = QuantityField(PERCENT, 0, 0.45, per=100, label="slack")
    angle_deg = QuantityField(ANGLE, 5, 180, label="angle")
    make = forms.ChoiceField(label="make")
    from_m = QuantityField(DIAMETER, 0.02, 0.6, label="from")
    to_m = QuantityField(DIAMETER, 0.02, 0.6, label="to")
    opening_id = forms.ChoiceField(label="opening")

    FIELDS = {
        "fan": ("class_id", "speed", "night_speed", "count"),
        "filter": ("class_id", "loading"),
        "duct": ("class_id", "length_m", "diameter_m", "slack"),
        "bend": ("make", "angle_deg", "diameter_m"),
        "adapter": ("make", "from_m", "to_m"),
        "fitting": ("class_id",),
        "hood": ("diameter_m",),
        "port": ("opening_id",),
    }
    _SHELVES = {
        "fan": (fans, "fan"),
        "filter": (filters, "filter"),
        "duct": (ducts, "duct"),
        "fitting": (fittings, "fitting"),
    }

    def __init__(self, record: Mapping[str, Any], data: Any = None, *, space: Space, **more: Any) -> None:
        kind, spec = record["kind"], record.get("spec") or {}
        own = "" if spec.get("class_id") else "own"
        shown = {"class_id": spec.get("class_id") or own, "night_speed": (record.get("other") or {}).get("speed")}
        super().__init__(record, data, shown=shown, **more)
        for name in list(self.fields):
            if name not in self.FIELDS[kind]:
                del self.fields[name]
        if kind == "duct" and not spec.get("flexible", True):
            del self.fields["slack"]
        system = more.get("system", "metric")
        mine: Choices = [("own", spec.get("name", ""))] if own else []
        if kind in self._SHELVES:
            listed = {
                "fan": fan_choices(system),
                "filter": filter_choices(system),
                "fitting": fitting_choices(),
                "duct": [(row.id, row.spec.name) for row in ducts().values()],
            }[kind]
            offer(self, class_id=[*mine, *listed])
        if kind == "bend":
            offer(self, make=[("flex", "flexible"), ("smooth", "smooth"), ("mitre", "sharp")])
        if kind == "adapter":
            offer(self, make=[("cone", "cone"), ("step", "step ring")])
        if kind == "port":
            offer(self, opening_id=opening_choices(space, system))

    def clean_count(self) -> int:
        """Fans side by side are whole."""
        value = self.cleaned_data["count"]
        if value != int(value):
            raise forms.ValidationError("give 1, 2, 3 or 4")
        return int(value)

    def changes(self) -> dict[str, Any]:
        """A chosen class brings its whole data sheet."""
        out = super().changes()
        chosen = out.pop("class_id", None)
        if chosen and chosen != "own":
            shelf, what = self._SHELVES[self.record["kind"]]
            out["spec"] = find(shelf(), chosen, what).spec.model_dump(mode="json")  # type: ignore[attr-defined]
        if "night_speed" in out:
            speed = out.pop("night_speed")
            out["other"] = None if speed is None else OtherSpeed(speed=speed).model_dump(mode="json")
        return out

    def sources(self) -> Mapping[str, str]:
        """Fields that stand for keys of other names."""
        return {"spec": "class_id", "other": "night_speed"}


def opening_choices(space: Space, system: str = "metric") -> Choices:
    """The space's round openings that a duct may pass."""
    return [
        (
            hole.id,
            f"{n}, {hole.face}, "
            f"{show(hole.across_m, DIAMETER, system)}{'' if hole.open and hole.use != 'closed' else ', shut'}",
        )
        for n, hole in enumerate(space.openings, 1)
        if hole.shape == "round" and hole.use != "cable"
    ]


def hood_choices(space: Space) -> Choices:
    """Lamps with a hood that no way of air leads through yet."""
    led = {part.fixture_id for way in space.airways for part in way.hoods}
    return [
        (f"hood:{lamp.id}", f"Hood of lamp {number}, {lamp.spec.name}")
        for number, lamp in enumerate(space.fixtures, 1)
        if lamp.spec.hood_share > 0 and lamp.id not in led
    ]


class AddAirPartForm(PartForm):
    """A part from the library for a way of air."""

    what = forms.ChoiceField(label="part")

    def __init__(
        self,
        record: Mapping[str, Any],
        data: Any = None,
        *,
        can_pass: bool = False,
        hoods: Choices | None = None,
        **more: Any,
    ) -> None:
        super().__init__(record, data, **more)
        choices = part_choices(more.get("system", "metric"))
        if can_pass:
            choices = [("Through the wall", [("port:", "Port, one of the openings")]), *choices]
        if hoods:
            choices.append(("Lamps' hoods", hoods))
        offer(self, what=choices)
