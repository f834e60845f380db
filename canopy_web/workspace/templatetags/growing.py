"""Small words for templates."""

from __future__ import annotations

import json
from typing import Any

from django import forms, template
from django.forms import BoundField
from django.urls import reverse
from django.utils.html import format_html, format_html_join
from django.utils.safestring import mark_safe

from canopy import words
from canopy.margin import Amount, Margin, Sentence, Step
from canopy.quantities import DIAMETER, FLOW, LENGTH, WEIGHT, Reader, show, spoken
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import CONFLICT

register = template.Library()


@register.filter
def say(sentence: Sentence, reader: str | Reader) -> str:
    """Write a sentence in a person's units."""
    return sentence.say(reader)


@register.filter
def means(step: Step, reader: str | Reader) -> str:
    """Write what a line of a working means in a person's units."""
    return step.means(reader)


@register.filter
def worked(item: Amount, reader: str | Reader) -> str:
    """Write an amount of a working in a person's units."""
    return item.worked(reader)


@register.filter
def length_text(value: float, system: str) -> str:
    """Write a length in a person's units."""
    return show(value, LENGTH, system)


@register.filter
def diameter_text(value: float, system: str) -> str:
    """Write a diameter in a person's units."""
    return show(value, DIAMETER, system)


@register.filter
def sized(text: str, system: str) -> str:
    """Say the sizes in a name in a person's units."""
    return spoken(str(text), system)


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
    return words.percent(value)


@register.filter
def split_words(text: str) -> list[str]:
    """Part words."""
    return text.split()


@register.filter
def px(value: Any) -> str:
    """Write a drawing coordinate with a point, whatever the language."""
    return f"{float(value):.1f}".rstrip("0").rstrip(".")


def address_of(context: Any, name: str, args: tuple[Any, ...]) -> str:
    """Write the address of an act or fragment of the station that is shown."""
    return reverse(f"{context['station'].key}:{name}", args=[context["row"].pk, context["space"].id, *args])


@register.simple_tag(takes_context=True)
def address(context: Any, name: str, *args: Any) -> str:
    """Write the address of an act or fragment of the station that is shown."""
    return address_of(context, name, args)


@register.simple_tag(takes_context=True)
def act(context: Any, name: str, *args: Any, **values: Any) -> str:
    """Write what sends an act of the station that is shown: its address, what goes with it, where the answer goes.

    The state that the page was drawn from goes along by itself: the workspace hands it down.
    """
    sent = format_html(' hx-vals="{}"', json.dumps(values)) if values else ""
    return format_html(
        'hx-post="{}"{} hx-target="#workspace" hx-swap="outerHTML"', address_of(context, name, args), sent
    )


@register.simple_tag(takes_context=True)
def look(context: Any, **changes: Any) -> str:
    """Write what shows the same place with another look, such as another day; the address follows."""
    where = context["where"]
    url = where.url("show") + where.look.query(**changes)
    return format_html('hx-get="{}" hx-params="not state" hx-target="#workspace" hx-swap="outerHTML"', url)


@register.simple_tag(takes_context=True)
def look_form(context: Any) -> str:
    """Write what makes a form ask for another look, with and without script; ``look_inputs`` goes into it."""
    url = context["where"].url("show")
    return format_html(
        'method="get" action="{}" hx-get="{}" hx-params="not state" hx-target="#workspace" hx-swap="outerHTML"',
        url,
        url,
    )


@register.simple_tag(takes_context=True)
def look_inputs(context: Any, *besides: str) -> str:
    """Write the rest of the look as hidden inputs, besides what the form itself asks for."""
    pairs = context["where"].look.pairs(**dict.fromkeys(besides, ""))
    return format_html_join("", '<input type="hidden" name="{}" value="{}">', pairs.items())


@register.filter
def tab_url(where: Any, key: str) -> str:
    """Write the address of a tab of the station that is shown, on the same day."""
    return str(where.url("show") + where.look.query(tab=key))


@register.filter
def station_url(where: Any, station: Any) -> str:
    """Write the address of a station of the same space, on the same day."""
    url = reverse(f"{station.key}:show", args=[where.row.pk, where.space.id])
    return url + str(where.look.query(tab="", level="", cut="", start="", days=""))


@register.filter
def margin_url(where: Any, margin: Margin) -> str:
    """Write the address of the station at which a margin stands, on the same day."""
    station = next((item for item in where.house.stations if item.key == margin.station), where.station)
    return station_url(where, station)


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


def _choice(field: BoundField) -> str:
    """Where a figure was changed meanwhile: keep one's own, or take what is there now."""
    if not any(error.code == CONFLICT for error in field.errors.as_data()):
        return ""
    return mark_safe(
        ' <button type="button" class="linklike" data-keep>keep mine</button> '
        '<button type="button" class="linklike" data-reload>take theirs</button>'
    )


def _keyboard(field: forms.Field) -> str:
    """Which keyboard a phone brings up: figures, but where a minus may be wanted, which those keyboards lack."""
    if isinstance(field, QuantityField):
        return ' inputmode="decimal"' if field.low >= 0 else ""
    if isinstance(field, NumberField):
        low = field.min_value
        return ' inputmode="decimal"' if isinstance(low, int | float) and low >= 0 else ""
    return ""


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
    elif isinstance(field.field.widget, forms.Textarea):
        rows = field.field.widget.attrs.get("rows", 3)
        control = format_html(
            '<textarea class="form-control" rows="{}" {}>{}</textarea>', rows, attributes, value or ""
        )
    else:
        number = isinstance(field.field, forms.IntegerField) and not isinstance(field.field, forms.FloatField)
        plain = f' type="text" autocomplete="off"{_keyboard(field.field)}'
        least = getattr(field.field, "min_value", None)
        mode = format_html(' type="number" min="{}"', 1 if least is None else least) if number else mark_safe(plain)
        if getattr(field.field.widget, "input_type", "") == "datetime-local":
            mode = mark_safe(' type="datetime-local"')
        shown = "" if value is None else value
        control = format_html('<input class="form-control"{} {} value="{}">', mode, attributes, shown)
    said = ""
    if wrong:
        words = " ".join(map(str, wrong))
        said = format_html('<span class="wrong" id="{}">{}{}</span>', note, words, _choice(field))
    hidden = mark_safe(' class="visually-hidden"' if bare else "")
    return format_html(
        '<span class="cell"><label for="{}"{}>{}</label>{}{}</span>', key, hidden, field.label, control, said
    )
