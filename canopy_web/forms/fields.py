"""A form field that takes quantities as people type them and keeps what was typed."""

from __future__ import annotations

from typing import Any

from django import forms
from pydantic import TypeAdapter

from canopy.errors import QuantityError
from canopy.quantities import Kind, parse_between, show
from canopy.schedule import Schedule
from canopy.schedule_words import ACCEPTED, read_schedule, say_schedule

_SCHEDULE: TypeAdapter[Any] = TypeAdapter(Schedule)


class QuantityField(forms.CharField):
    """Text like "4 ft 2 in" in, a number in the program's own unit out.

    ``low`` and ``high`` are in the program's unit; ``per`` is how many of the
    kind's unit make one of the program's (100 for a share kept as 0..1).
    """

    def __init__(
        self,
        kind: Kind,
        low: float,
        high: float,
        *,
        per: float = 1.0,
        what: str = "",
        optional: bool = False,
        **more: Any,
    ) -> None:
        self.kind, self.low, self.high, self.per, self.what = kind, low, high, per, what
        self.system = "metric"
        super().__init__(required=not optional, strip=True, **more)
        self.error_messages["required"] = f"type a {what or kind.name}, such as {kind.example}"

    def write(self, value: float | None) -> str:
        """Write a value as the field shows it."""
        return "" if value is None else show(value * self.per, self.kind, self.system).replace("\u00a0", " ")

    def clean(self, value: Any) -> float | None:
        """Read what was typed."""
        text = super().clean(value)
        if not text:
            return None
        display = self.kind.us if self.system == "us" else self.kind.metric
        try:
            number = parse_between(
                text,
                self.kind,
                self.low * self.per,
                self.high * self.per,
                default_unit=display.unit,
                what=self.what or str(self.label or "").lower(),
            )
        except QuantityError as error:
            raise forms.ValidationError(str(error), code="quantity") from error
        return number / self.per


class ScheduleField(forms.CharField):
    """When something runs, in words such as "7 min every 3 h"; a schedule's record out."""

    def __init__(self, **more: Any) -> None:
        super().__init__(required=True, strip=True, max_length=80, **more)
        self.error_messages["required"] = f"say when it runs: {ACCEPTED}"

    def write(self, value: Any) -> str:
        """Write a schedule's record as the field shows it."""
        return say_schedule(_SCHEDULE.validate_python(value))

    def clean(self, value: Any) -> dict[str, Any]:
        """Read what was typed."""
        text = super().clean(value)
        try:
            found: dict[str, Any] = read_schedule(text).model_dump(mode="json")
        except (QuantityError, ValueError) as error:
            raise forms.ValidationError(str(error), code="schedule") from error
        return found


class NumberField(forms.FloatField):
    """A plain number with a decimal comma or point."""

    def to_python(self, value: Any) -> float | None:  # type: ignore[override]
        """Read a number with either decimal mark."""
        if isinstance(value, str):
            value = value.strip().replace(",", ".")
        return super().to_python(value)


def date_field(**more: Any) -> forms.DateField:
    """A day, in the browser's own picker or typed year first."""
    return forms.DateField(
        error_messages={"invalid": "type a day as 2026-03-14"}, widget=forms.DateInput(attrs={"type": "date"}), **more
    )
