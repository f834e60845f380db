"""The form of a crop of one's own: every figure of every stage, ranges as people write them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from django import forms
from pydantic import ValidationError

from canopy.errors import QuantityError
from canopy.evaluate.light.reading import light_figures
from canopy.library import FAMILIES, Crop, StageTargets, Window, crops
from canopy.light.spectra import source_factor
from canopy.quantities import (
    DURATION,
    EC,
    LENGTH,
    PERCENT,
    TEMPERATURE,
    Kind,
    LightUnit,
    magnitude,
    number,
    parse,
)
from canopy.quantities.reader import PPFD
from canopy_web.forms.fields import QuantityField

_BETWEEN = re.compile(r"\s*(?:–|—|\.\.+|\bto\b)\s*|(?<=[\w°%])\s*-\s*")
# Books give crops' lux and foot-candles for daylight.
OUTDOORS = LightUnit(lux_per_umol=source_factor("daylight").lux_per_umol)
OWN = {"source": "own-figure", "grade": "practice"}


@dataclass(frozen=True, kw_only=True)
class Figure:
    """One figure of a stage: its field, how it is called, its kind where units differ, and whether it is a range."""

    field: str
    label: str
    unit: str
    kind: Kind | None = None
    ranged: bool = True


FIGURES = (
    Figure(field="days", label="Days", unit="d"),
    Figure(field="ppfd_umol_m2_s", label="PPFD", unit=PPFD),
    Figure(field="ppfd_limit_umol_m2_s", label="Damage from", unit=PPFD, ranged=False),
    Figure(field="dli_mol_m2_d", label="DLI", unit="mol/m²/d"),
    Figure(field="photoperiod_h", label="Hours of light", unit="h", kind=DURATION),
    Figure(field="air_day_c", label="Air by day", unit="", kind=TEMPERATURE),
    Figure(field="air_night_c", label="Air by night", unit="", kind=TEMPERATURE),
    Figure(field="root_c", label="Root zone", unit="", kind=TEMPERATURE),
    Figure(field="rh_pct", label="Humidity", unit="%", kind=PERCENT),
    Figure(field="vpd_kpa", label="VPD", unit="kPa"),
    Figure(field="air_speed_m_s", label="Air over the leaves", unit="m/s"),
    Figure(field="ec_ms_cm", label="EC of the feed", unit="", kind=EC),
    Figure(field="ph", label="pH of the feed", unit=""),
    Figure(field="ph_soil", label="pH of mineral soil", unit=""),
    Figure(field="height_m", label="Height at its end", unit="", kind=LENGTH, ranged=False),
    Figure(field="spread_m", label="Spread at its end", unit="", kind=LENGTH, ranged=False),
    Figure(field="lai", label="Leaf area index", unit="", ranged=False),
)
_OPTIONAL = ("ec_ms_cm", "ph", "ph_soil")


class RangeField(forms.CharField):
    """Text like "180-320" in, a window (or one number) out, in the program's own unit."""

    def __init__(self, figure: Figure, system: str, **more: Any) -> None:
        self.figure, self.system = figure, system
        super().__init__(required=figure.field not in _OPTIONAL, strip=True, label=figure.label, **more)
        self.error_messages["required"] = "type a figure"

    def write(self, value: Any) -> str:
        """Write a figure as the field shows it."""
        if value is None:
            return ""
        if isinstance(value, Window):
            return f"{self._one(value.low)}–{self._one(value.high)}"
        return self._one(float(value))

    def _one(self, value: float) -> str:
        return magnitude(value, self.figure.kind, self.system) if self.figure.kind else number(value, 2)

    def _read(self, text: str) -> float:
        kind = self.figure.kind
        try:
            if self.figure.unit == PPFD:
                return light_figures(text, OUTDOORS)[0]
            if kind is None:
                return float(text.replace(",", ".").replace("−", "-"))
            return parse(
                text.replace("−", "-"), kind, default_unit=(kind.us if self.system == "us" else kind.metric).unit
            )
        except QuantityError as error:
            raise forms.ValidationError(str(error)) from error
        except ValueError:
            raise forms.ValidationError(f"“{text}” is not a number") from None

    def clean(self, value: Any) -> Any:
        """Read a range or one number."""
        text = super().clean(value)
        if not text:
            return None
        parts = [part for part in _BETWEEN.split(text) if part.strip()]
        if self.figure.unit == PPFD and len(parts) == 2 and not parts[0].strip()[-1].isalpha():
            # The unit behind the second figure holds for the first one too.
            parts[0] += re.sub(r"^[\s\d.,]+", " ", parts[1])
        if not self.figure.ranged:
            return self._read(text)
        if len(parts) == 1:
            parts = parts * 2
        if len(parts) != 2:
            raise forms.ValidationError("a range is two numbers, such as 180–320")
        low, high = (self._read(part) for part in parts)
        if low > high:
            raise forms.ValidationError(f"turned round: the first number is the lower one, so {parts[1]}–{parts[0]}?")
        return {"low": low, "high": high}


class CropForm(forms.Form):
    """A copy of a crop, to be changed."""

    name = forms.CharField(max_length=120, label="Name")
    note = forms.CharField(max_length=600, required=False, label="Note")
    spacing_m = QuantityField(LENGTH, 0.01, 6, label="spacing")
    harvest = forms.ChoiceField(
        label="harvest",
        choices=[
            ("once", "all at once"),
            ("cut-again", "cut again and again"),
            ("picking", "picked over weeks"),
            ("transplant", "moved on when ready"),
            ("keep", "none, it is kept"),
        ],
    )

    def __init__(self, crop: Crop, data: Any = None, *, system: str = "metric", taken: tuple[str, ...] = ()) -> None:
        super().__init__(data, auto_id="crop-%s")
        self.crop, self.taken = crop, taken
        spacing = self.fields["spacing_m"]
        assert isinstance(spacing, QuantityField)
        spacing.system = system
        self.initial = {
            "name": crop.name,
            "note": crop.note,
            "spacing_m": spacing.write(crop.spacing_m),
            "harvest": crop.harvest,
        }
        for stage in crop.stages:
            for figure in FIGURES:
                field = RangeField(figure, system)
                key = f"{stage.kind}.{figure.field}"
                self.fields[key] = field
                self.initial[key] = field.write(getattr(stage, figure.field))

    def clean_name(self) -> str:
        """A copy needs a name of its own."""
        name: str = self.cleaned_data["name"].strip()
        if name.casefold() in {crop.name.casefold() for crop in crops().values()}:
            raise forms.ValidationError(f"“{name}” is in the library already: give your copy a name of its own.")
        if name.casefold() in {item.casefold() for item in self.taken}:
            raise forms.ValidationError(f"You have a crop “{name}” already.")
        return name

    def table(self) -> Iterator[tuple[Figure, list[Any]]]:
        """Figures by rows, stages by columns."""
        for figure in FIGURES:
            yield figure, [self[f"{stage.kind}.{figure.field}"] for stage in self.crop.stages]

    def made(self, key: str) -> Crop | None:
        """The changed crop; None with errors at their fields when it is not sound."""
        got = self.cleaned_data
        data = self.crop.model_dump(mode="json") | {
            "id": key,
            "name": got["name"],
            "note": got["note"],
            "spacing_m": got["spacing_m"],
            "harvest": got["harvest"],
            "copied_from": self.crop.copied_from or self.crop.id,
        }
        for stage, own in zip(data["stages"], self.crop.stages, strict=True):
            self._take(stage, own)
        try:
            return Crop.model_validate(data)
        except ValidationError as error:
            for item in error.errors():
                self._show(item)
            return None

    def _take(self, stage: dict[str, Any], own: StageTargets) -> None:
        """Lay the typed figures over a stage; what was changed is the grower's own figure from now on."""
        for figure in FIGURES:
            key = f"{own.kind}.{figure.field}"
            if str(self.data.get(key, self.initial[key])).strip() == self.initial[key]:
                continue
            stage[figure.field] = self.cleaned_data[key]
            family = next(name for name, figures in FAMILIES.items() if figure.field in figures)
            stage[family] = OWN

    def _show(self, item: Any) -> None:
        where = item["loc"]
        words = str(item.get("ctx", {}).get("error") or item["msg"])
        if len(where) >= 2 and where[0] == "stages" and isinstance(where[1], int):
            kind = self.crop.stages[where[1]].kind
            key = f"{kind}.{where[2]}" if len(where) > 2 else None
            self.add_error(
                key if key in self.fields else None,
                f"{kind.replace('-', ' ')}: {words}" if key not in self.fields else words,
            )
        else:
            self.add_error(None, words)
