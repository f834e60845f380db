"""What a page has by the hundred, written here and not as templates: a full tent has 1,200 marks and 400 lines."""

from __future__ import annotations

import json
from collections.abc import Collection
from typing import Any

from django import template
from django.utils.html import escape
from django.utils.safestring import mark_safe

from canopy_web.drawing.scene import PlantMark, View
from canopy_web.workspace.templatetags.growing import address_of, px

register = template.Library()
_PLANT = (
    '<g class="plant part{chosen}" tabindex="0" role="button" aria-label="Plant {number}, {title}, {verdict}"'
    ' data-kind="plants" data-id="{id}" data-x="{x}" data-y="{y}" data-z="{z}"><title>{number} {title}</title>'
    '{pot}<path class="crown{mat}" d="{outline}" clip-path="url(#in-{view})"/>{cells}{trouble}'
    '<text x="{cx}" y="{cy}" dy="3.5" text-anchor="middle">{number}</text></g>\n'
)
_TROUBLE = {"short": "M0 -15.5 4.6 -7.5H-4.6z", "over": "M0 -7.5 4.6 -15.5H-4.6z"}


@register.simple_tag
def plant_marks(view: View, selected: str) -> str:
    """Draw the plants of a view."""
    return mark_safe("".join(_plant_mark(plant, view.name, selected == plant.id) for plant in view.plants))


def _plant_mark(plant: PlantMark, view: str, chosen: bool) -> str:
    cx, cy, trouble = px(plant.cx), px(plant.cy), ""
    if view == "plan" and plant.trouble:
        trouble = f'<path class="trouble" transform="translate({cx} {cy})" d="{_TROUBLE[plant.trouble]}"/>'
    return _PLANT.format(
        chosen=" selected" if chosen else "",
        number=plant.number,
        title=escape(plant.title),
        verdict=escape(plant.verdict),
        id=escape(plant.id),
        x=plant.x_m,
        y=plant.y_m,
        z=plant.z_m,
        pot=f'<path class="pot" d="{plant.pot}"/>' if plant.pot else "",
        mat=" mat" if plant.mat else "",
        outline=plant.outline,
        view=view,
        cells=f'<path class="cells" d="{plant.dots}"/>' if plant.cells else "",
        trouble=trouble,
        cx=cx,
        cy=cy,
    )


# Stands for a plant in an address; no id has such a name.
_PLACE = "each-plant-of-these"
_LINE = (
    '<tr id="row-{id}" data-row="{id}" data-crop="{crop_id}" class="{shade}" hx-post="{edit}" hx-vals="{shown}"'
    ' hx-target="#workspace" hx-swap="outerHTML" hx-trigger="change" hx-include="this">'
    '<td data-name="Pick"><input type="checkbox" class="form-check-input pick" form="many" name="pick" value="{id}"'
    ' aria-label="Pick plant {number}"{picked}></td><td class="no" data-name="No.">{number}</td>'
    '<td class="what" data-name="Crop">{crop}{state}{wrong}</td><td data-name="Stage">{stage}</td>{cells}'
    '<td><button type="button" class="cross" hx-post="{remove}" hx-target="#workspace" hx-swap="outerHTML"'
    ' hx-trigger="click consume" hx-params="state" aria-label="Remove plant {number}">×</button></td></tr>\n'
)
_STAGES = '<select class="form-select" name="{id}-stage" aria-label="stage of plant {number}">{options}</select>'
_CELL = (
    '<td data-name="{label}"><input class="form-control" type="text" autocomplete="off" name="{name}" value="{value}"'
    ' aria-label="{label}, plant {number}"{invalid}>{wrong}</td>'
)


@register.simple_tag(takes_context=True)
def plant_lines(context: Any, rows: Any, picked: Collection[str], selected: str) -> str:
    """Write the lines of plants, each a form of its own."""
    edit, remove = (escape(address_of(context, name, ("plants", _PLACE))) for name in ("edit-part", "remove"))
    return mark_safe("".join(_line(row, row.plant.id in picked, selected, edit, remove) for row in rows))


def _line(row: Any, picked: bool, selected: str, edit: str, remove: str) -> str:
    key = escape(row.plant.id)
    shade = f"{'selected' if selected == row.plant.id else ''}{'' if row.here else ' away'}"
    stage: str = escape(row.stage)
    if row.stages:
        options = "".join(
            f'<option value="{escape(kind)}"{" selected" if chosen else ""}>{escape(text)}</option>'
            for kind, text, chosen in row.stages
        )
        stage = _STAGES.format(id=key, number=row.number, options=options)
    return _LINE.format(
        id=key,
        crop_id=escape(row.plant.crop_id),
        shade=shade,
        edit=edit.replace(_PLACE, key),
        remove=remove.replace(_PLACE, key),
        shown=escape(json.dumps({"selected": row.plant.id})),
        number=row.number,
        picked=" checked" if picked else "",
        crop=escape(row.crop),
        state=f"<small>{escape(row.state)}</small>" if row.state else "",
        wrong=f'<span class="wrong" role="alert">{escape(row.wrong)}</span>' if row.wrong else "",
        stage=stage,
        cells="".join(_cell(cell, row.number) for cell in row.cells),
    )


def _cell(cell: Any, number: int) -> str:
    invalid = wrong = ""
    if cell.wrong:
        invalid = f' aria-invalid="true" aria-describedby="{escape(cell.name)}-wrong"'
        wrong = f'<span class="wrong" id="{escape(cell.name)}-wrong">{escape(cell.wrong)}</span>'
    return _CELL.format(
        label=escape(cell.label),
        name=escape(cell.name),
        value=escape(cell.value),
        number=number,
        invalid=invalid,
        wrong=wrong,
    )
