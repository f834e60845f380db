"""Households that were lived in."""

from __future__ import annotations

import pytest

from canopy.review.living import Asked, identify
from canopy.review.series import laid_out
from canopy.standins.neighbours import Neighbour, neighbour


def asked_of(found: Neighbour) -> Asked:
    grid = laid_out(found.series, found.begins, found.begins + 86400 * len(found.days))
    midnights = {day: found.begins + 86400 * number for number, day in enumerate(found.days)}
    return Asked(plan=found.plan, space=found.space, grid=grid, midnights=midnights)


@pytest.fixture(scope="session")
def pulsed(demo_plan):
    """Its fan stands three times a day for the better part of an hour."""
    return neighbour(demo_plan, "berry-tent", 500, "pulses")


@pytest.fixture(scope="session")
def fitted(pulsed):
    return identify(asked_of(pulsed))
