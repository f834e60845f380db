"""The form of a request: under ten answers, all but two of them optional."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.designer.request import Request, problems_of
from canopy.errors import PlanError
from canopy.kit.owning import ownable
from canopy.library import Crop, rule_sets
from canopy.plan.document import Plan
from canopy.plan.rooms import USUAL_ROOM, Room
from canopy.quantities import LENGTH, TEMPERATURE
from canopy_web.forms.choices import KINDS, crop_choices, owned_choices
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.pairs import Pairs
from canopy_web.forms.part import PartForm, offer

LIKES = (
    ("", "nothing above the rest"),
    ("cheap", "it costs little"),
    ("quiet", "it is quiet"),
    ("hands-off", "it asks for little work"),
)
REFUSES = (
    ("drilling", "nothing is drilled or cut"),
    ("smell", "nobody smells it"),
    ("sockets", "one socket has to do"),
)
CROPS = Pairs(
    what="crop_id",
    count="count",
    most=4,
    label="What shall grow there?",
    missing="Say what shall grow there; it decides the rest.",
)
HAS = Pairs(what="has", count="number", most=4, label="What do you have already?")
AIR = ("day_c", "night_c", "coldest_c", "hottest_c")


class WholeForm(PartForm):
    """What is asked for."""

    kind = forms.ChoiceField(choices=KINDS, widget=forms.RadioSelect, label="Where?")
    width_m = QuantityField(LENGTH, 0.02, 10, optional=True, label="Inner width")
    depth_m = QuantityField(LENGTH, 0.02, 10, optional=True, label="Inner depth")
    height_m = QuantityField(LENGTH, 0.02, 6, optional=True, label="Inner height")
    levels = forms.IntegerField(min_value=1, max_value=8, required=False, label="How many levels?")
    begins = forms.DateField(required=False, label="from", widget=forms.DateInput(attrs={"type": "date"}))
    budget = NumberField(min_value=0, max_value=1e7, required=False, label="To spend now, at most")
    budget_month = NumberField(min_value=0, max_value=1e7, required=False, label="and a month, at most")
    likes = forms.ChoiceField(choices=LIKES, required=False, label="I like best that")
    refuses = forms.MultipleChoiceField(choices=REFUSES, required=False, widget=forms.CheckboxSelectMultiple)
    day_c = QuantityField(TEMPERATURE, -10, 45, optional=True, label="The room by day")
    night_c = QuantityField(TEMPERATURE, -10, 45, optional=True, label="and by night")
    coldest_c = QuantityField(TEMPERATURE, -30, 40, optional=True, label="in its coldest night")
    hottest_c = QuantityField(TEMPERATURE, -10, 55, optional=True, label="on its hottest day")
    room_id = forms.ChoiceField(required=False, label="In which room?")
    rule_set_id = forms.ChoiceField(required=False, label="Sockets where you live")

    def __init__(
        self, data: Any = None, *, known: Mapping[str, Crop], plan: Plan | None = None, system: str = "metric"
    ) -> None:
        super().__init__({}, data, system=system, prefix="ask")
        self.plan = plan
        CROPS.add_to(self, crop_choices(known))
        if plan is None:
            HAS.add_to(self, owned_choices())
            offer(self, rule_set_id=[(row.id, row.name) for row in rule_sets().values()])
            self.initial["rule_set_id"] = "eu-16"
            gone: tuple[str, ...] = ("room_id",)
        else:
            # Rooms and sockets are the household's.
            offer(self, room_id=[(room.id, room.name) for room in plan.rooms])
            gone = ("rule_set_id", *AIR) if len(plan.rooms) > 1 else ("rule_set_id", "room_id", *AIR)
        for name in gone:
            del self.fields[name]
        self.initial["kind"] = "tent"

    @property
    def money(self) -> str:
        """The money that budgets are in."""
        return self.plan.site.currency if self.plan else "EUR or USD, as your sockets are"

    @property
    def crop_rows(self) -> list[tuple[Any, Any]]:
        """Fields of a crop and its number, row by row."""
        return CROPS.fields(self)

    @property
    def has_rows(self) -> list[tuple[Any, Any]]:
        """Fields of what one has; none where the household's stock says it."""
        return HAS.fields(self) if self.plan is None else []

    def take_request(self, crops: Mapping[str, Crop]) -> Request | None:
        """Make the request; None where it breaks a rule, with what is wrong at the form."""
        got = self.cleaned_data
        said = CROPS.said(self)
        wishes = [{"crop_id": crop_id, "count": count or 0} for crop_id, count in said]
        space = {
            "kind": got["kind"],
            "levels": (got.get("levels") or 1) if got["kind"] in ("shelf", "cabinet") else 1,
            "crops": wishes,
            **{key: got.get(key) for key in ("width_m", "depth_m", "height_m")},
        }
        values = {
            "spaces": [space],
            "begins": got.get("begins"),
            "budget": got.get("budget"),
            "budget_month": got.get("budget_month"),
            "likes": got.get("likes") or "",
            "refuses": got.get("refuses") or (),
            "room": self._room(),
            "rule_set_id": got.get("rule_set_id") or "eu-16",
            "stock": self._stock(),
            "crops": [crops[crop_id].model_dump(mode="json") for crop_id, _ in said if crop_id in crops],
        }
        try:
            return Request.model_validate(values)
        except ValueError as error:
            self.take(PlanError(problems_of(error)))
            return None

    def _stock(self) -> list[dict[str, Any]]:
        """What one has, each thing once."""
        owned: Counter[str] = Counter()
        for key, number in HAS.said(self) if self.plan is None else ():
            owned[key] += number or 1
        return [ownable()[key].item(number).model_dump(mode="json") for key, number in owned.items()]

    def _room(self) -> dict[str, Any] | None:
        """The room as it was said; None where nothing was."""
        got = self.cleaned_data
        said = {key: got.get(key) for key in AIR}
        if all(value is None for value in said.values()):
            return None
        base = USUAL_ROOM
        day = base.day_c if said["day_c"] is None else said["day_c"]
        night = min(day, base.night_c) if said["night_c"] is None else said["night_c"]
        room: dict[str, Any] = Room.model_validate(base.model_dump() | {"day_c": day, "night_c": night}).model_dump(
            mode="json"
        )
        air = {key: room[key] for key in ("day_c", "night_c", "day_rh_pct", "night_rh_pct")}
        if said["coldest_c"] is not None:
            swing = max(0.0, day - night)
            room["coldest"] = air | {"night_c": said["coldest_c"], "day_c": said["coldest_c"] + swing}
        if said["hottest_c"] is not None:
            swing = max(0.0, day - night)
            room["hottest"] = air | {"day_c": said["hottest_c"], "night_c": said["hottest_c"] - swing}
        return room

    def sources(self) -> dict[str, str]:
        """Which field a figure of the request was typed in."""
        return {"crops": "crop_id_1", "crop_id": "crop_id_1", "count": "count_1"}
