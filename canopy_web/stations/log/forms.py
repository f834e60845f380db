"""Forms of the log: each kind of entry with what was said the last time, a sensor, a source."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Mapping, Sequence
from typing import Any
from uuid import uuid4

from django import forms

from canopy.logs.entries import KINDS
from canopy.logs.measured import SHOWN, measured
from canopy.quantities import EC, TEMPERATURE, VOLUME, WEIGHT
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm, offer

WORKS = (
    ("prune", "pruned"),
    ("top", "topped"),
    ("train", "trained"),
    ("tie", "tied"),
    ("pot", "potted on"),
    ("move", "moved"),
    ("sow", "sown"),
    ("thin", "thinned"),
    ("pollinate", "pollinated"),
    ("clean", "cleaned"),
    ("other", "something else"),
)


def fresh_key() -> str:
    """A key that no other entry has."""
    return uuid4().hex


_COMMON = ("plants", "at", "note", "entry_key", "corrects")


class EntryForm(PartForm):
    """What every entry asks for: which plants, when, and words; all of it may be left as it is."""

    plants = forms.CharField(required=False, max_length=200, label="plants, by number")
    at = forms.CharField(required=False, max_length=20, label="when")
    note = forms.CharField(required=False, max_length=1000, label="note")
    entry_key = forms.CharField(required=False, max_length=64, widget=forms.HiddenInput)
    corrects = forms.CharField(required=False, max_length=64, widget=forms.HiddenInput)

    def __init__(self, record: Mapping[str, Any], data: Any = None, *, plants: int = 0, **more: Any) -> None:
        super().__init__(record, data, **more)
        self.most = plants
        # What tells this kind from others comes first.
        self.order_fields([name for name in self.fields if name not in _COMMON] + list(_COMMON))
        self.fields["at"].widget = forms.DateTimeInput(attrs={"type": "datetime-local"})
        self.fields["plants"].widget.attrs["placeholder"] = "all"
        self.fields["entry_key"].initial = fresh_key()

    def clean_plants(self) -> tuple[int, ...]:
        """Numbers such as “1-4, 7”; none for the whole space."""
        text = self.cleaned_data["plants"].strip()
        if not text or text.casefold() == "all":
            return ()
        found: list[int] = []
        for part in re.split(r"[,;\s]+", text.replace("–", "-")):
            match = re.fullmatch(r"(\d{1,3})(?:-(\d{1,3}))?", part)
            if match is None:
                raise forms.ValidationError("type numbers of plants, such as 1-4, 7; empty for all")
            first, last = int(match[1]), int(match[2] or match[1])
            if not 1 <= first <= last <= self.most:
                raise forms.ValidationError(f"plants here have the numbers 1 to {self.most}")
            found += range(first, last + 1)
        return tuple(dict.fromkeys(found))

    def clean_at(self) -> dt.datetime | None:
        """A day and hour as the person's clock had it; None for now."""
        text = self.cleaned_data["at"].strip()
        if not text:
            return None
        try:
            return dt.datetime.fromisoformat(text)
        except ValueError:
            raise forms.ValidationError("type day and hour as 2026-03-14 08:30") from None

    def figures(self) -> dict[str, Any]:
        """What the kind of entry says."""
        return {
            name: value for name, value in self.cleaned_data.items() if name not in _COMMON and value not in (None, "")
        }


class WaterForm(EntryForm):
    """Water or feed."""

    litres = QuantityField(VOLUME, 0.001, 2000, label="given, each or in all")
    feed = forms.BooleanField(required=False, label="with feed")
    ec_ms_cm = QuantityField(EC, 0, 30, optional=True, label="EC")
    ph = NumberField(min_value=0, max_value=14, required=False, label="its pH")
    drained_l = QuantityField(VOLUME, 0, 2000, optional=True, label="ran out again")


class ReservoirForm(EntryForm):
    """Meters in the solution."""

    ec_ms_cm = QuantityField(EC, 0, 30, optional=True, label="EC")
    ph = NumberField(min_value=0, max_value=14, required=False, label="its pH")
    level_l = QuantityField(VOLUME, 0, 5000, optional=True, label="level")
    water_c = QuantityField(TEMPERATURE, -5, 60, optional=True, label="temperature")
    act = forms.ChoiceField(
        required=False,
        label="and",
        choices=[("", "read only"), *((key, key) for key in ("topped up", "changed", "cleaned"))],
    )


class WorkForm(EntryForm):
    """Work on plants."""

    act = forms.ChoiceField(choices=WORKS, label="what")


class PestsForm(EntryForm):
    """Pests counted."""

    what = forms.CharField(max_length=60, label="what")
    count = forms.IntegerField(min_value=0, max_value=100_000, label="how many")
    on = forms.ChoiceField(choices=[(key, f"on {key}") for key in ("leaves", "trap", "plants")], label="where")
    looked_at = forms.IntegerField(min_value=1, max_value=10_000, label="of so many looked at")


class HarvestForm(EntryForm):
    """Harvest."""

    weight_kg = QuantityField(WEIGHT, 0, 500, optional=True, label="weight")
    count = forms.IntegerField(min_value=0, max_value=100_000, required=False, label="how many")
    quality = forms.ChoiceField(
        required=False,
        label="how good",
        choices=[("", "–"), ("5", "5, the best"), ("4", "4"), ("3", "3"), ("2", "2"), ("1", "1")],
    )
    last = forms.BooleanField(required=False, label="the last of it")


class WeighForm(EntryForm):
    """Pots weighed: twice, some hours apart, they tell what the plants drink."""

    weight_kg = QuantityField(WEIGHT, 0.01, 500, label="weigh together")


class NoteForm(EntryForm):
    """Words."""

    note = forms.CharField(max_length=1000, label="note", widget=forms.Textarea(attrs={"rows": 2, "cols": 40}))


FORMS: dict[str, type[EntryForm]] = {
    "water": WaterForm,
    "harvest": HarvestForm,
    "reservoir": ReservoirForm,
    "work": WorkForm,
    "pests": PestsForm,
    "weigh": WeighForm,
    "note": NoteForm,
}
assert set(FORMS) == set(KINDS)


class SensorForm(PartForm):
    """A sensor's name and where it hangs."""

    name = forms.CharField(max_length=80, label="name")
    place = forms.ChoiceField(
        choices=[("space", "in this space"), ("room", "in its room"), ("outdoors", "outdoors")], label="hangs"
    )
    feeds = forms.ChoiceField(required=False, label="its plug feeds")

    def __init__(self, record: Mapping[str, Any], data: Any = None, *, fed: Sequence[Any] = (), **more: Any) -> None:
        super().__init__(record, data, **more)
        if fed:
            offer(self, feeds=fed)
        else:
            del self.fields["feeds"]


class SourceForm(PartForm):
    """Something that sends readings by itself."""

    name = forms.CharField(max_length=80, label="name")


OFTEN = ((10, "10 s"), (30, "30 s"), (60, "minute"), (300, "5 minutes"), (900, "15 minutes"), (3600, "hour"))


class ReachedForm(PartForm):
    """What is called how, and how often it is asked."""

    name = forms.CharField(max_length=80, label="name")
    every_s = forms.TypedChoiceField(coerce=int, required=False, label="asked every")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        known = dict(OFTEN)
        # One that was settled elsewhere keeps its own.
        own = {record["every_s"]: f"{record['every_s']} s"} if record.get("every_s", 60) not in known else {}
        offer(self, every_s=[*known.items(), *own.items()])


class ColumnForm(forms.Form):
    """A column of a table: whether and as what it is taken."""

    quantity = forms.ChoiceField(required=False, label="measures")
    unit = forms.ChoiceField(required=False, label="in")
    name = forms.CharField(required=False, max_length=80, label="sensor")

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        units = dict.fromkeys(unit for key in SHOWN for unit in measured(key).units)
        offer(
            self,
            quantity=[("", "not taken"), *((key, measured(key).name) for key in SHOWN)],
            unit=[("", "its usual unit"), *((unit, unit) for unit in units)],
        )
