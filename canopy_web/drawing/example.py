"""One drawing of the example household, for the door."""

from __future__ import annotations

from functools import cache
from threading import Event

from django.conf import settings

from canopy.evaluate import evaluate_space
from canopy.plan import load
from canopy.quantities import Reader
from canopy_web.drawing.scene import View
from canopy_web.drawing.sheet import sheet

_ready = Event()


@cache
def example_view() -> View:
    """Draw the example's tent from above, once."""
    plan = load(settings.BASE / "canopy_web" / "planning" / "demo-household.json")
    return sheet(evaluate_space(plan, plan.spaces[0]), Reader()).plan


def warm() -> None:
    """Draw it ahead of the first visitor."""
    example_view()
    _ready.set()


def example_if_drawn() -> View | None:
    """Give it once it is drawn: a door that opens at once is worth more than its picture."""
    return example_view() if _ready.is_set() else None
