"""The build of a space, step by step: made from its plan alone, each step with how one knows that it is right."""

from __future__ import annotations

from canopy.evaluate import SpaceReport
from canopy.kit.steps.air import aired
from canopy.kit.steps.devices import equipped, watched, wired
from canopy.kit.steps.light import lit
from canopy.kit.steps.running import dry_run, planted, watered
from canopy.kit.steps.shell import drilled, lined, prepared, stood
from canopy.kit.steps.step import BuildStep

__all__ = ["BuildStep", "build_of"]

_BEFORE = (prepared, stood, drilled, lined, lit, aired, equipped, watched, wired, watered)


def build_of(report: SpaceReport, empty: SpaceReport | None = None) -> tuple[BuildStep, ...]:
    """Make the checklist of a space.

    Parameters
    ----------
    report : of the space as it will stand, with its climate where it was followed
    empty : of the same space without plants, followed, for the dry run; its readings are left open when None

    Returns
    -------
    tuple of BuildStep : in the order in which they are done; what the plan does not need is not among them
    """
    found = [step for steps in _BEFORE for step in steps(report)]
    return (*found, *dry_run(report, empty), *planted(report))
