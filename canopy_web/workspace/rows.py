"""Parts as lines of a schedule, each with its form."""

from __future__ import annotations

from typing import Any

from canopy_web.workspace import forms, furnish_forms, own_air_forms
from canopy_web.workspace.page import Where

PARTS = {
    "fixtures": forms.LampForm,
    "openings": forms.OpeningForm,
    "devices": forms.DeviceForm,
    "shelves": furnish_forms.ShelfForm,
    "columns": furnish_forms.ColumnForm,
    "hung": furnish_forms.HungForm,
    "daylight": furnish_forms.DaylightForm,
    "stirrers": own_air_forms.StirForm,
}


def rows_of(where: Where, kind: str, bad: dict[str, Any]) -> list[dict[str, Any]]:
    """One line a part, with its form."""
    form_class = PARTS[kind]
    found = []
    for count, part in enumerate(getattr(where.space, kind), 1):
        data = part.model_dump(mode="json")
        record = data["spec"] if kind == "devices" else data
        form = bad.get(f"{kind}/{part.id}") or form_class(record, system=where.system, prefix=part.id)
        found.append({"number": count, "part": part, "form": form, "kind": kind})
    return found
