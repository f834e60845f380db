"""Reading the light at a point, or on an upright line."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from canopy.errors import GeometryError
from canopy.evaluate.light.lighting import Probe, probe
from canopy.quantities import LENGTH, LightUnit, show
from canopy_web.stations.light import forms as light_forms
from canopy_web.workspace.where import Where, at_space


@require_GET
@at_space
def read_point(request: HttpRequest, where: Where) -> HttpResponse:
    """Read the light at a point: in all, from each lamp, and by way of the walls."""
    typed = any(key.startswith("probe-") for key in request.GET)
    try:
        if typed:
            form = light_forms.ProbeForm({}, request.GET, system=where.system, prefix="probe")
            if not form.is_valid():
                return render(
                    request,
                    "light/_probe.html",
                    {"wrong": " ".join(str(w) for e in form.errors.values() for w in e)},
                )
            point = tuple(form.cleaned_data[key] for key in ("x_m", "y_m", "z_m"))
        else:
            point = tuple(float(request.GET.get(key, "nan")) for key in ("x", "y", "z"))
        if point[2] is None:
            return render(request, "light/_column.html", _column(where, *point[:2]))
        found, unit = probe(where.report.here, *point), where.reader(where.report).light
    except (ValueError, GeometryError):
        return render(request, "light/_probe.html", {"wrong": "That point lies outside the space."})
    return render(
        request,
        "light/_probe.html",
        {
            "total": unit.text(found.total) + unit.doubt_text,
            "lamps": _lamp_parts(where, found, unit),
            "walls": unit.number(found.reflected_umol_m2_s, 0),
        },
    )


def _lamp_parts(where: Where, found: Probe, unit: LightUnit) -> list[tuple[str, str]]:
    """What each lamp and window gives at a point, those that give anything."""
    lamps, direct = len(where.space.fixtures), found.direct_umol_m2_s
    names = [*(f"lamp {number}" for number in range(1, lamps + 1)), *("daylight" for _ in direct[lamps:])]
    return [(name, unit.number(value, 0)) for name, value in zip(names, direct, strict=True) if value >= 0.5]


def _column(where: Where, x_m: float, y_m: float) -> dict[str, Any]:
    """The light on an upright line, in even steps from the top down."""
    here, height = where.report.here, where.space.size.height_m
    steps = max(6, min(24, round(height / 0.1)))
    levels = [height * (number + 0.5) / steps for number in reversed(range(steps))]
    unit = where.reader(where.report).light
    found = [(level, probe(here, x_m, y_m, level)) for level in levels]
    return {
        "x": show(x_m, LENGTH, where.system),
        "y": show(y_m, LENGTH, where.system),
        "unit": "PPFD" if unit.is_photons else unit.title,
        "levels": [
            {
                "z": show(level, LENGTH, where.system),
                "total": unit.number(item.total, 0),
                "parts": _lamp_parts(where, item, unit),
                "walls": unit.number(item.reflected_umol_m2_s, 0),
            }
            for level, item in found
        ],
    }
