"""Rows of a form that each ask what, and how many of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django import forms

from canopy_web.forms.choices import Choices
from canopy_web.forms.part import offer


@dataclass(frozen=True, kw_only=True)
class Pairs:
    """So many rows of a form: fields ``what`` and ``count``, numbered from 1.

    ``label`` is the first row's, ``more`` that of the others; only the first may be needed, and ``missing`` is said
    where it is left out.
    """

    what: str
    count: str
    most: int
    label: str
    more: str = "and"
    missing: str = ""

    def add_to(self, form: forms.Form, rows: Choices) -> None:
        """Put the rows at a form's end."""
        for number in _to(self.most):
            first = number == 1
            form.fields[f"{self.what}_{number}"] = forms.ChoiceField(
                label=self.label if first else self.more,
                required=first and bool(self.missing),
                error_messages={"required": self.missing} if self.missing else None,
            )
            form.fields[f"{self.count}_{number}"] = forms.IntegerField(
                min_value=1, max_value=400, required=False, label="How many?"
            )
            offer(form, **{f"{self.what}_{number}": [("", "choose" if first and self.missing else "—"), *rows]})

    def fields(self, form: forms.Form) -> list[tuple[Any, Any]]:
        """What is asked and how many of it, row by row."""
        return [(form[f"{self.what}_{number}"], form[f"{self.count}_{number}"]) for number in _to(self.most)]

    def said(self, form: forms.Form) -> list[tuple[str, int | None]]:
        """What was answered, in the order of the rows; None where no number was."""
        got = form.cleaned_data
        rows = [(got.get(f"{self.what}_{number}"), got.get(f"{self.count}_{number}")) for number in _to(self.most)]
        return [(what, count) for what, count in rows if what]

    def write(self, rows: list[tuple[str, int | None]]) -> list[tuple[str, Any]]:
        """Write answers as the fields' values."""
        found: list[tuple[str, Any]] = []
        for number, (what, count) in enumerate(rows[: self.most], 1):
            found += [(f"{self.what}_{number}", what), *([(f"{self.count}_{number}", count)] if count else [])]
        return found


def _to(most: int) -> range:
    return range(1, most + 1)
