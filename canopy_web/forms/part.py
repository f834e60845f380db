"""Forms over records: they show a record, and hand over only what a person changed, with what they saw before."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from django import forms
from django.utils.choices import flatten_choices

from canopy.errors import PlanConflictError, PlanError
from canopy.plan.applying import merged
from canopy.quantities import number, spoken
from canopy.words import capital
from canopy_web.forms.fields import NumberField, QuantityField, ScheduleField

CONFLICT = "conflict"
_MISSING = object()


def offer(form: forms.Form, **choices: Any) -> None:
    """Give a form's choosers what the library holds at this moment, sizes in the person's units."""
    system = getattr(form, "system", "metric")
    for name, rows in choices.items():
        field = form.fields[name]
        assert isinstance(field, forms.ChoiceField)
        field.choices = _spoken(rows, system)


def _spoken(rows: Any, system: str) -> Any:
    """Choices, grouped or not, with the sizes in their words said in a unit system."""
    if system != "us" or callable(rows):
        return rows
    return [
        (key, _spoken(words, system) if isinstance(words, list | tuple) else spoken(str(words), system))
        for key, words in rows
    ]


class PartForm(forms.Form):
    """A form over a record as the page showed it.

    A field's name is the key it edits (dots reach into parts). ``shown`` gives values for fields that are not keys of
    the record; such a form turns them into keys in ``changes``. ``together`` names fields that make one figure of the
    record: where one of them is refused, none is taken.
    """

    together: ClassVar[tuple[tuple[str, ...], ...]] = ()

    def __init__(
        self,
        record: Mapping[str, Any],
        data: Any = None,
        *,
        system: str = "metric",
        prefix: str = "",
        shown: Mapping[str, Any] | None = None,
    ) -> None:
        super().__init__(data, prefix=prefix or None, auto_id=f"{prefix}-%s" if prefix else "f-%s")
        self.record, self.system = record, system
        for name, field in self.fields.items():
            if isinstance(field, QuantityField):
                field.system = system
            self.initial[name] = self._written(name, {**record, **(shown or {})})

    def _written(self, name: str, record: Mapping[str, Any]) -> Any:
        field, value = self.fields[name], _value(record, name)
        value = None if value is _MISSING else value
        if isinstance(field, QuantityField):
            return field.write(value)
        if isinstance(field, ScheduleField):
            return "" if value is None else field.write(value)
        if isinstance(field, NumberField):
            return "" if value is None else number(float(value), 3).replace("−", "-")
        return field.initial if value is None else value

    def typed(self) -> dict[str, Any]:
        """Give the fields whose text is not what the page showed, by name."""
        out = {}
        for name, field in self.fields.items():
            # A field that was refused keeps its text and changes nothing; the others do.
            if any(item not in self.cleaned_data for item in (name, *self._partners(name))):
                continue
            raw = field.widget.value_from_datadict(self.data, self.files, self.add_prefix(name))
            if isinstance(field, forms.BooleanField):
                changed = bool(raw) != bool(self.initial.get(name))
            else:
                changed = raw is not None and str(raw).strip() != str(self.initial.get(name) or "").strip()
            if changed:
                out[name] = self.cleaned_data[name]
        return out

    def _partners(self, name: str) -> tuple[str, ...]:
        """The fields that are taken with one or not at all, as far as the form has them."""
        return tuple(item for names in self.together if name in names for item in names if item in self.fields)

    def changes(self) -> dict[str, Any]:
        """Give new values by the record's keys."""
        return self.typed()

    def seen(self) -> dict[str, Any]:
        """Give what the page showed of all that is changed, by the record's keys."""
        found = {key: _value(self.record, key) for key in self.changes()}
        return {key: value for key, value in found.items() if value is not _MISSING}

    @property
    def others_hold(self) -> bool:
        """Whether some of what was typed can be taken while fields that were refused keep their text."""
        return not self.non_field_errors() and bool(self.errors) and bool(self.typed())

    def settle(self) -> None:
        """Show the fields that were taken as the record now has them; those refused keep what was typed."""
        data: Any = self.data.copy()  # type: ignore[attr-defined]
        for name, value in self.typed().items():
            if isinstance(self.fields[name], QuantityField | NumberField | ScheduleField):
                data[self.add_prefix(name)] = self._written(name, {name: value})
        self.data = data

    def take(self, error: PlanError) -> None:
        """Show what the plan refuses, at the field it concerns."""
        for problem in error.problems:
            message = spoken(capital(problem.message), self.system)
            self.add_error(self._field_of(problem.path), message)

    def clash(self, error: PlanConflictError) -> None:
        """Say at a field that it was changed meanwhile; what was typed stays, and the person chooses."""
        for problem in error.problems:
            theirs = self._in_words(problem.path, error.now.get(problem.path))
            message = f"{capital(problem.message)}{theirs}. Yours is kept here: choose."
            self.add_error(self._field_of(problem.path), forms.ValidationError(message, code=CONFLICT))

    def _in_words(self, path: str, value: Any) -> str:
        """What a field is by now, as the form would show it; nothing where no field stands for the key itself."""
        field = self.fields.get(path)
        if field is None:
            return ""
        shown = self._written(path, merged(self.record, {path: value}))
        if isinstance(field, forms.BooleanField):
            shown = "ticked" if shown else "not ticked"
        if isinstance(field, forms.ChoiceField):
            choices: Any = field.choices
            words: dict[Any, Any] = dict(flatten_choices(choices))
            shown = words.get(shown, shown)
        return f": it is {shown} now" if shown not in ("", None) else ": it is empty now"

    def _field_of(self, path: str) -> str | None:
        last = path.rpartition(".")[2]
        names = [name for name in self.fields if name.rpartition(".")[2] == last]
        return names[0] if names else self.sources().get(last)

    def sources(self) -> Mapping[str, str]:
        """Say which field stands for a key of the record that has another name."""
        return {}


def _value(record: Any, path: str) -> Any:
    for step in path.split("."):
        if not isinstance(record, Mapping) or step not in record:
            return _MISSING
        record = record[step]
    return record
