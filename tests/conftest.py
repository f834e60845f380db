"""What all tests share."""

from __future__ import annotations

import datetime as dt
import json
import os
from pathlib import Path

import pytest
from hypothesis import settings

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

from canopy.design.preview import preview
from canopy.design.remedies import remedy_for
from canopy.design.start.answers import Answers
from canopy.design.start.space import begin_space
from canopy.evaluate import evaluate_space
from canopy.plan import Circuit, Plan, load
from canopy.plan.edit import add_space
from canopy.season import Standing, standing_of

# No test is timed: the machines are shared. In continuous integration the same examples are tried each time, so that a
# run fails for what was changed and not by chance; elsewhere new ones are looked for.
settings.register_profile("untimed", deadline=None)
settings.register_profile("steady", deadline=None, derandomize=True)
settings.load_profile("steady" if os.environ.get("CI") else "untimed")
ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "examples" / "demo-household.json"


DAY = dt.date(2026, 3, 14)


def not_laid_out():
    """Whether a static file is missing from what was laid out, maybe before it was there."""
    manifest = ROOT / "build/static/staticfiles.json"
    if not manifest.exists():
        return True
    known = json.loads(manifest.read_text())["paths"]
    folder = ROOT / "canopy_web/static"
    return any(path.relative_to(folder).as_posix() not in known for path in folder.rglob("*.*"))


def on(space, day: dt.date = DAY, cast=None) -> Standing:
    """A space as it stands on a day."""
    return standing_of(space, day, cast)


def mending(plan, space, margin_id: str, day: dt.date | None = None):
    """The remedy of a margin, from a report made for it."""
    return remedy_for(evaluate_space(plan, space, day=day, with_map=False), margin_id)


def moving(plan, space, remedy, day: dt.date | None = None):
    """What a remedy moves, from a report made for it."""
    return preview(evaluate_space(plan, space, day=day, with_map=False), remedy)


@pytest.fixture(scope="session")
def demo_plan() -> Plan:
    return load(DEMO)


@pytest.fixture(scope="session")
def small_plan() -> Plan:
    """One closet with lettuce, a suggested lamp and fan."""
    circuit = Circuit(id="c1", name="Hall", rule_set_id="eu-16", mains_v=230, breaker_a=16)
    plan = Plan(name="Test house", date=dt.date(2026, 3, 1), circuits=(circuit,))
    answers = Answers(
        space_id="box",
        name="Box",
        kind="closet",
        width_m=0.8,
        depth_m=0.6,
        height_m=1.6,
        crop_id="lettuce-butterhead",
        count=4,
        circuit_id="c1",
    )
    return add_space(plan, begin_space(answers))
