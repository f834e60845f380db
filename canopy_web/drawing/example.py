"""One drawing of the example household, for the door."""

from __future__ import annotations

from functools import cache

from django.conf import settings

from canopy.evaluate import evaluate_space
from canopy.plan import load
from canopy.quantities import Reader
from canopy_web.drawing.scene import View
from canopy_web.drawing.sheet import sheet


@cache
def example_view() -> View:
    """Draw the example's tent from above, once."""
    plan = load(settings.BASE / "examples" / "demo-household.json")
    return sheet(evaluate_space(plan, plan.spaces[0]), Reader()).plan
