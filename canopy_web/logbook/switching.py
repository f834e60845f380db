"""Plugs switched from here: told once a person has said so twice, and written down with who it was."""

from __future__ import annotations

import asyncio
import json
from typing import Any

from django.utils import timezone

from canopy.errors import QuantityError
from canopy.logs.pointed import document_of, value_at
from canopy.logs.switching import LONGEST_MIN, comes_on_by_itself
from canopy_web.logbook.fetch import fetch
from canopy_web.logbook.models import Source, Switching
from canopy_web.logbook.sources import Switched, shape_of


def plug_of(source: Source) -> Switched | None:
    """How a source is switched; None for one that cannot be."""
    return shape_of(source).switch if source.kind == "pull" and source.shape.get("switch") else None


def is_on(source: Source) -> bool | None:
    """Ask a plug whether it is on; None where it does not say. Raises QuantityError where it does not answer."""
    plug = plug_of(source)
    if plug is None:
        return None
    state = value_at(document_of(asyncio.run(fetch(source.address))), plug.state)
    return state if isinstance(state, bool) else None


def switch(source: Source, by: Any, *, on: bool, minutes: float | None) -> Switching:
    """Tell a plug to go on or off, for some minutes or until somebody switches it again, and write that down.

    What a plug answers with trouble is written down, too, and raised as QuantityError. What may not come on by itself
    is never asked to: minutes are left away then.
    """
    plug = plug_of(source)
    if plug is None:
        raise QuantityError("this cannot be switched")
    back = minutes if not on and minutes and comes_on_by_itself(plug.feeds) else None
    if back is not None and not 0 < back <= LONGEST_MIN:
        raise QuantityError(f"for at most {LONGEST_MIN} min")
    told = {"on": on, "who": str(by), **({"minutes": back} if back else {})}
    trouble = ""
    try:
        asyncio.run(fetch(plug.address, json.dumps(told).encode()))
    except QuantityError as error:
        trouble = str(error)[:300]
    made = Switching.objects.create(
        plan=source.plan,
        space_id=source.space_id,
        source=source,
        name=source.name,
        feeds=plug.feeds,
        on=on,
        for_min=back,
        by=by,
        at=timezone.now(),
        trouble=trouble,
    )
    if trouble:
        raise QuantityError(trouble)
    return made
