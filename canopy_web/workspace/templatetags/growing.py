"""Small words for templates."""

from __future__ import annotations

import json
from typing import Any

from django import forms, template
from django.forms import BoundField
from django.urls import reverse
from django.utils.html import format_html
from django.utils.safestring import mark_safe

from canopy.margin import Amount, Sentence, Step
from canopy.quantities import DIAMETER, FLOW, LENGTH, WEIGHT, show

register = template.Library()


@register.filter
def say(sentence: Sentence, system: str) -> str:
    """Write a sentence in a person's units."""
    return sentence.say(system)


@register.filter
def means(step: Step, system: str) -> str:
    """Write what a line of a working means in a person's units."""
    return step.means(system)


@register.filter
def amount(item: Amount, system: str) -> str:
    """Write an amount in a person's units."""
    return item.text(system)


@register.filter
def length_text(value: float, system: str) -> str:
    """Write a length in a person's units."""
    return show(value, LENGTH, system)


@register.filter
def diameter_text(value: float, system: str) -> str:
    """Write a diameter in a person's units."""
    return show(value, DIAMETER, system)


@register.filter
def flow_text(value: float, system: str) -> str:
    """Write a flow of air in a person's units."""
    return show(value, FLOW, system)


@register.filter
def weight_text(value: float, system: str) -> str:
    """Write a weight in a person's units."""
    return show(value, WEIGHT, system)


@register.filter
def percent(value: float) -> str:
    """Write a share as a percentage."""
    return f"{100 * value:.0f} %"


@register.filter
def px(value: Any) -> str:
    """Write a drawing coordinate with a point, whatever the language."""
    return f"{float(value):.1f}".rstrip("0").rstrip(".")


@register.simple_tag(takes_context=True)
def act(context: Any, name: str, *args: Any, **values: Any) -> str:
    """Write what sends an act of the workspace: its address, where the answer goes, the station and leaf it came
    from.
    """
    url = reverse(f"workspace:{name}", args=[context["row"].pk, context["space"].id, *args])
    carried = {"station": context["station"], "leaf": context.get("leaf", ""), **values}
    return format_html('hx-post="{}" hx-vals="{}" hx-target="#workspace" hx-swap="outerHTML"', url, json.dumps(carried))


def _select(field: BoundField, attributes: str) -> str:
    chosen = str(field.value() if field.value() is not None else "")

    def option(key: Any, text: Any) -> str:
        mark = " selected" if str(key) == chosen else ""
        return format_html('<option value="{}"{}>{}</option>', key, mark_safe(mark), text)

    body: list[str] = []
    for key, text in field.field.choices:  # type: ignore[attr-defined]
        if isinstance(text, list | tuple):
            inner = "".join(option(*item) for item in text)
            body.append(format_html('<optgroup label="{}">{}</optgroup>', key, mark_safe(inner)))
        else:
            body.append(option(key, text))
    return f'<select class="form-select" {attributes}>{"".join(body)}</select>'


@register.simple_tag
def cell(field: BoundField, bare: bool = False) -> str:
    """Write a form field: its label, its control, and what is wrong with it, in one label-above block."""
    key, wrong = field.id_for_label, field.errors
    note = f"{key}-wrong"
    attributes = format_html('id="{}" name="{}"', key, field.html_name)
    if wrong:
        attributes += format_html(' aria-invalid="true" aria-describedby="{}"', note)
    value = field.value()
    if hint := field.field.widget.attrs.get("placeholder"):
        attributes += format_html(' placeholder="{}"', hint)
    if isinstance(field.field, forms.BooleanField):
        checked = mark_safe(" checked" if value else "")
        control = format_html('<input type="checkbox" class="form-check-input" {}{}>', attributes, checked)
    elif isinstance(field.field, forms.ChoiceField):
        control = mark_safe(_select(field, attributes))
    elif isinstance(field.field, forms.DateField):
        day = value.isoformat() if hasattr(value, "isoformat") else value or ""
        control = format_html('<input class="form-control" type="date" {} value="{}">', attributes, day)
    else:
        number = isinstance(field.field, forms.IntegerField) and not isinstance(field.field, forms.FloatField)
        mode = mark_safe(' type="number" min="1"' if number else ' type="text" autocomplete="off"')
        shown = "" if value is None else value
        control = format_html('<input class="form-control"{} {} value="{}">', mode, attributes, shown)
    said = format_html('<span class="wrong" id="{}">{}</span>', note, " ".join(str(e) for e in wrong)) if wrong else ""
    hidden = mark_safe(' class="visually-hidden"' if bare else "")
    return format_html(
        '<span class="cell"><label for="{}"{}>{}</label>{}{}</span>', key, hidden, field.label, control, said
    )
