"""Forms of the Light station's leaves: survey, lines of bars, files, outdoors."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from django import forms

from canopy.errors import QuantityError
from canopy.evaluate.light.reading import read_light
from canopy.library import Window, fixtures, light_sources
from canopy.quantities import LENGTH, LightUnit, parse_between
from canopy.words import capital
from canopy_web.forms.fields import NumberField, QuantityField, date_field
from canopy_web.forms.own_lamp import kinds_of_light
from canopy_web.forms.part import PartForm, offer

UNITS = [("ppfd", "PPFD, µmol/m²/s"), ("lux", "lux"), ("fc", "foot-candles")]
_MOST = 400


class SurveyForm(PartForm):
    """When and with what a survey was taken."""

    taken_on = date_field(label="taken on")
    unit = forms.ChoiceField(choices=UNITS, label="the meter shows")
    source_id = forms.ChoiceField(label="kind of light")
    cct_k = NumberField(min_value=1800, max_value=10_000, label="colour temperature, K")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        if record["unit"] == "ppfd":
            # A PPFD meter needs no word about the light that it reads.
            del self.fields["source_id"], self.fields["cct_k"]
            return
        offer(self, source_id=[(row.id, row.name) for row in light_sources().values()])


class ReadingsForm(forms.Form):
    """Readings, pasted or typed: one a line, x, y, height and value."""

    lines = forms.CharField(widget=forms.Textarea, label="Readings")

    def __init__(
        self,
        data: Any = None,
        *,
        system: str = "metric",
        size: tuple[float, float, float] = (10, 10, 6),
        initial: Mapping[str, Any] | None = None,
    ) -> None:
        super().__init__(data, auto_id="readings-%s", initial=dict(initial or {}))
        self.system, self.size = system, size

    def clean_lines(self) -> list[tuple[float, float, float, float]]:
        """Read lines such as "30 20 45 312" or "30 cm; 20 cm; 45 cm; 312"."""
        found = []
        unit = "inch" if self.system == "us" else "centimeter"
        for number, line in enumerate(self.cleaned_data["lines"].splitlines(), 1):
            words = [word.strip() for word in _split(line)]
            if not words:
                continue
            if len(words) != 4:
                raise forms.ValidationError(
                    f"Line {number}: four figures, from left, from front, height and reading; these are {len(words)}."
                )
            try:
                places = [
                    parse_between(word, LENGTH, 0, most, default_unit=unit, what=what)
                    for word, most, what in zip(
                        words[:3], self.size, ("from left", "from front", "height"), strict=True
                    )
                ]
                value = float(words[3].replace(",", "."))
            except QuantityError as error:
                raise forms.ValidationError(f"Line {number}: {error}.") from error
            except ValueError:
                raise forms.ValidationError(f"Line {number}: “{words[3]}” is not a reading.") from None
            if not 0 <= value <= 1e6:
                raise forms.ValidationError(f"Line {number}: a reading lies between 0 and 1,000,000.")
            found.append((places[0], places[1], places[2], value))
        if len(found) > _MOST:
            raise forms.ValidationError(f"At most {_MOST} readings; these are {len(found)}.")
        return found


def _split(line: str) -> list[str]:
    """Part a line at tabs or semicolons, else at spaces."""
    for mark in ("\t", ";"):
        if mark in line:
            return [word for word in line.split(mark) if word.strip()]
    return line.replace(", ", " ").split()


class LineUpForm(PartForm):
    """Bars end to end along the width or the depth."""

    class_id = forms.ChoiceField(label="bar")
    along = forms.ChoiceField(choices=[("width", "the width"), ("depth", "the depth")], label="along")
    gap_m = QuantityField(LENGTH, 0, 1, label="gap for the link")
    z_m = QuantityField(LENGTH, 0.02, 6, label="height")
    count = forms.IntegerField(min_value=1, max_value=20, required=False, label="how many")
    length_m = QuantityField(LENGTH, 0.05, 10, optional=True, label="within a length of")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        bars = [
            (r.id, r.spec.name)
            for r in fixtures().values()
            if r.spec.bars == 1 and r.spec.length_m > 4 * r.spec.width_m
        ]
        offer(self, class_id=bars)


_NUMBERS = re.compile(r"(\d+)(?:\s*[-–]\s*(\d+))?")


class LinkForm(PartForm):
    """Lamps plugged into each other, wherever they hang, by their numbers."""

    lamps = forms.CharField(max_length=120, label="lamps, such as 1-3 or 1, 4")

    def __init__(self, record: Mapping[str, Any], data: Any = None, *, count: int = 0, **more: Any) -> None:
        super().__init__(record, data, **more)
        self.count = count

    def clean_lamps(self) -> list[int]:
        """Places of lamps in the space's list, from 0."""
        text = self.cleaned_data["lamps"]
        if _NUMBERS.sub("", text).strip(" ,;and"):
            raise forms.ValidationError("give lamps by their numbers, such as 1-3 or 1, 4")
        found: set[int] = set()
        for ends in _NUMBERS.findall(text):
            first, last = ends[0], ends[1] or ends[0]
            # Looked at before it is counted out: a number may be as long as the field.
            for number in (first, last):
                if len(number) > 4 or not 1 <= int(number) <= self.count:
                    raise forms.ValidationError(f"there is no lamp {number}: they run from 1 to {self.count}")
            found |= set(range(int(first), int(last) + 1))
        return sorted(number - 1 for number in found)


class LampFileForm(forms.Form):
    """A photometric file, and a spectrum if there is one, for a lamp of one's own."""

    photometry = forms.FileField(
        label="IES or LDT file", error_messages={"required": "Choose a photometric file first."}
    )
    spectrum = forms.FileField(required=False, label="Spectrum, CSV")
    source_id = forms.ChoiceField(required=False, label="kind of light, without a spectrum")
    cct_k = forms.CharField(required=False, label="colour, K")
    power_w = forms.CharField(required=False, label="power drawn, W")
    ppf_umol_s = forms.CharField(required=False, label="PPF, µmol/s")

    def __init__(self, data: Any = None, files: Any = None) -> None:
        super().__init__(data, files, auto_id="file-%s")
        offer(self, source_id=kinds_of_light())

    def number(self, name: str) -> float | None:
        """A figure that may be left open."""
        text = str(self.cleaned_data.get(name) or "").replace(",", ".").replace("W", "").strip()
        try:
            value = float(text) if text else None
        except ValueError:
            self.add_error(name, f"“{text}” is not a number")
            return None
        if value is not None and not 0 < value <= 20_000:
            self.add_error(name, "give a figure above 0 and up to 20,000")
        return value


class OutdoorsForm(PartForm):
    """Where the garden lies, and when plants go out."""

    latitude_deg = NumberField(min_value=-66, max_value=66, label="latitude, north positive")
    start = date_field(label="first day out")
    days = forms.IntegerField(min_value=2, max_value=30, label="over, days")


class GoalForm(forms.Form):
    """A target of light of the person's own for what grows here."""

    kind = forms.ChoiceField(label="for")
    light = forms.CharField(max_length=60, required=False, label="should get")

    def __init__(self, kinds: Sequence[tuple[str, str]], unit: LightUnit, data: Any = None) -> None:
        super().__init__(data, auto_id="goal-%s")
        self.unit = unit
        self.fields["light"].widget.attrs["placeholder"] = "1500 fc"
        offer(self, kind=kinds)

    def clean_light(self) -> Window | None:
        """Read a range or one figure in any unit of light; nothing takes the target back."""
        text = self.cleaned_data["light"].strip()
        try:
            return read_light(text, self.unit) if text else None
        except QuantityError as error:
            raise forms.ValidationError(capital(str(error))) from error


class ProbeForm(PartForm):
    """A point to read the light at."""

    x_m = QuantityField(LENGTH, 0, 10, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, label="from front")
    z_m = QuantityField(LENGTH, 0, 6, optional=True, label="height, or none for all")
