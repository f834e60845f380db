"""Parts as lines of a schedule, each with its form."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.plan.changes import Collection
from canopy_web.workspace.where import Where


def rows_of(where: Where, collection: Collection, bad: Mapping[str, Any]) -> list[dict[str, Any]]:
    """One line a part, with its form."""
    kind = where.house.part_kind(collection)
    if kind is None or kind.form is None:
        return []
    found = []
    for count, part in enumerate(getattr(where.space, collection), 1):
        form = bad.get(f"{collection}/{part.id}") or kind.form(where, part, None)
        found.append({"number": count, "part": part, "form": form, "kind": collection})
    return found
