"""Forms of plants and plantings."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from typing import Any

from django import forms

from canopy.library import STAGES, Crop, crops
from canopy.plan import Shelf
from canopy.quantities import ANGLE, LENGTH, VOLUME
from canopy_web.forms.choices import Choices, container_choices, crop_choices, stage_choices
from canopy_web.forms.fields import QuantityField, date_field
from canopy_web.forms.part import PartForm, offer

HABITS: Choices = [
    ("stand", "stands"),
    ("hang", "hangs"),
    ("pole", "climbs a pole"),
    ("wall", "climbs wall or trellis"),
    ("outward", "grows outward"),
]
MOST_AT_ONCE = 200


def level_choices(shelves: Sequence[Shelf]) -> Choices:
    """The floor and the shelves."""
    return [("", "floor"), *((shelf.id, shelf.name) for shelf in shelves)]


def any_stage_choices() -> Choices:
    """Every stage there is, and leaving it to the tool."""
    return [("", "as usual"), *((stage, stage.replace("-", " ")) for stage in STAGES)]


class PlantForm(PartForm):
    """A plant in its place; of dated plants the stage is not asked, it follows from their days."""

    stage = forms.ChoiceField(label="stage", required=False)
    x_m = QuantityField(LENGTH, 0, 10, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, label="from front")
    base_m = QuantityField(LENGTH, 0, 6, label="raised by")
    pot_height_m = QuantityField(LENGTH, 0, 1.5, label="pot")
    height_m = QuantityField(LENGTH, 0.001, 6, label="height")
    spread_m = QuantityField(LENGTH, 0.001, 4, label="spread")

    def __init__(
        self,
        record: Mapping[str, Any],
        data: Any = None,
        *,
        crop: Crop | None = None,
        day: dt.date | None = None,
        **more: Any,
    ) -> None:
        self.crop, self.dated, self.day = crop, bool(record.get("planting_id")), day
        super().__init__(record, data, **more)
        if self.dated:
            del self.fields["stage"]
        else:
            offer(self, stage=stage_choices(crop))

    together = (("height_m", "spread_m", "stage"),)

    def changes(self) -> dict[str, Any]:
        """A new stage brings its height and spread, unless they were typed too."""
        out = super().changes()
        stage = self.crop.stage(str(out["stage"])) if self.crop and "stage" in out else None
        if stage:
            out.setdefault("height_m", stage.height_m)
            out.setdefault("spread_m", stage.spread_m)
        if self.dated and self.day and ("height_m" in out or "spread_m" in out):
            # A size typed for a dated plant is what was seen on the day that is shown.
            shown = {key: self.cleaned_data[key] for key in ("height_m", "spread_m")}
            out = {**shown, **out, "seen_on": self.day.isoformat()}
        return out

    def seen(self) -> dict[str, Any]:
        """A dated plant's size follows from its days: what was seen of it before does not stand against what is now."""
        out = super().seen()
        dated = ("height_m", "spread_m", "seen_on") if self.dated else ()
        return {key: value for key, value in out.items() if key not in dated}


class AddPlantsForm(PartForm):
    """Plants to add: as they stand, or begun on a day, once or again and again."""

    crop_id = forms.ChoiceField(label="crop")
    count = forms.IntegerField(min_value=1, max_value=400, initial=1, label="how many plants")
    stage = forms.ChoiceField(label="stage", required=False)
    container = forms.ChoiceField(label="container", required=False)
    level = forms.ChoiceField(label="on", required=False)
    starts_on = date_field(label="sown or planted on", required=False)
    times = forms.IntegerField(min_value=1, max_value=60, required=False, label="how many times")
    every_days = forms.IntegerField(min_value=1, max_value=400, required=False, label="every so many days")

    def __init__(
        self,
        record: Mapping[str, Any],
        data: Any = None,
        *,
        known: Mapping[str, Crop] | None = None,
        shelves: Sequence[Shelf] = (),
        **more: Any,
    ) -> None:
        super().__init__(record, data, **more)
        self.known = known or crops()
        offer(
            self,
            crop_id=crop_choices(self.known),
            stage=any_stage_choices(),
            container=[("", "as usual"), *container_choices()],
            level=level_choices(shelves),
        )

    def clean(self) -> dict[str, Any]:
        """The stage must be one of the crop's; repeats need a first day."""
        got = self.cleaned_data
        crop, stage = self.known.get(got.get("crop_id", "")), got.get("stage")
        if crop and stage and crop.stage(stage) is None:
            kinds = ", ".join(item.kind.replace("-", " ") for item in crop.stages)
            self.add_error("stage", f"{crop.name} has no such stage: use {kinds}")
        if (got.get("times") or 1) > 1 and not got.get("starts_on"):
            self.add_error("starts_on", "say on which day the first is sown or planted")
        return got


class ManyForm(PartForm):
    """One change for many plants; what is left open stays as it is."""

    crop_id = forms.ChoiceField(label="crop", required=False)
    stage = forms.ChoiceField(label="stage", required=False)
    height_m = QuantityField(LENGTH, 0.001, 6, optional=True, label="height")
    spread_m = QuantityField(LENGTH, 0.001, 4, optional=True, label="spread")
    level = forms.ChoiceField(label="on", required=False)
    base_m = QuantityField(LENGTH, 0, 6, optional=True, label="raised by")
    container = forms.ChoiceField(label="container", required=False)
    pot_volume_l = QuantityField(VOLUME, 0.01, 500, optional=True, label="volume")
    cells = forms.IntegerField(min_value=1, max_value=400, required=False, label="plants a tray")
    habit = forms.ChoiceField(label="how it grows", required=False)
    facing_deg = QuantityField(ANGLE, -360, 360, optional=True, label="facing")

    def __init__(
        self,
        record: Mapping[str, Any],
        data: Any = None,
        *,
        known: Mapping[str, Crop] | None = None,
        shelves: Sequence[Shelf] = (),
        **more: Any,
    ) -> None:
        super().__init__(record, data, **more)
        offer(
            self,
            crop_id=[("", "as it is"), *crop_choices(known)],
            stage=[("", "as it is"), *any_stage_choices()[1:]],
            level=[("", "as it is"), ("floor", "floor"), *level_choices(shelves)[1:]],
            container=[("", "as it is"), *container_choices()],
            habit=[("", "as it is"), *HABITS],
        )

    def given(self) -> dict[str, Any]:
        """What was filled in."""
        return {key: value for key, value in self.cleaned_data.items() if value not in (None, "")}


class GridForm(PartForm):
    """An even grid for many plants: where, how many side by side, how far apart."""

    where = forms.ChoiceField(label="where", required=False)
    columns = forms.IntegerField(min_value=1, max_value=60, required=False, label="side by side, or places a ring")
    spacing_m = QuantityField(LENGTH, 0.01, 3, optional=True, label="apart")

    def __init__(
        self,
        record: Mapping[str, Any],
        data: Any = None,
        *,
        places: Choices | tuple[()] = (),
        **more: Any,
    ) -> None:
        super().__init__(record, data, **more)
        offer(self, where=list(places))


class PlantingForm(PartForm):
    """A planting's name and days."""

    name = forms.CharField(max_length=120, label="name")
    starts_on = date_field(label="sown or planted on")
    first_stage = forms.ChoiceField(label="starting as", required=False)
    cleared_on = date_field(label="cleared on", required=False)

    def __init__(self, record: Mapping[str, Any], data: Any = None, *, crop: Crop | None = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        self.crop = crop
        offer(self, first_stage=[("", "from its first stage"), *stage_choices(crop)])
        for stage in crop.stages if crop else ():
            key = f"days-{stage.kind}"
            self.fields[key] = forms.IntegerField(
                min_value=1, max_value=2000, required=False, label=f"{stage.kind.replace('-', ' ')}, days"
            )
            self.initial[key] = record.get("stage_days", {}).get(stage.kind) or ""
            usual = f"{stage.days.low:g} to {stage.days.high:g}"
            self.fields[key].widget.attrs["placeholder"] = usual

    def changes(self) -> dict[str, Any]:
        """Lengths of stages lie in one record; days are written as the plan keeps them."""
        out = self.typed()
        days = dict(self.record.get("stage_days", {}))
        for key in [key for key in out if key.startswith("days-")]:
            length = out.pop(key)
            days.pop(key.removeprefix("days-"), None)
            if length:
                days[key.removeprefix("days-")] = length
            out["stage_days"] = days
        for key in ("starts_on", "cleared_on"):
            if key in out and out[key] is not None:
                out[key] = out[key].isoformat()
        return out


class TrainingForm(PartForm):
    """Cut a planting back, or hold it, at a height from a day on."""

    how = forms.ChoiceField(label="what", choices=[("hold", "hold at"), ("cut", "cut back to")])
    height_m = QuantityField(LENGTH, 0.01, 6, label="height")
    on = date_field(label="on")


class CopyForm(PartForm):
    """Begin a planting again: when and where."""

    starts_on = date_field(label="again from")
    to = forms.ChoiceField(label="in")

    def __init__(self, record: Mapping[str, Any], data: Any = None, *, spaces: Choices, **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, to=spaces)


class MoveOnForm(PartForm):
    """Move a planting, or a crop, to another space."""

    to = forms.ChoiceField(label="to")
    on = date_field(label="on")
    container = forms.ChoiceField(label="potted on into", required=False)

    def __init__(
        self,
        record: Mapping[str, Any],
        data: Any = None,
        *,
        spaces: Choices | tuple[()] = (),
        **more: Any,
    ) -> None:
        super().__init__(record, data, **more)
        offer(self, to=list(spaces), container=[("", "as it is"), *container_choices()])
