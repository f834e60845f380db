"""Requests that are answered in the tests, small enough to be answered quickly."""

from __future__ import annotations

import datetime as dt

import pytest

from canopy.designer.design import designer_for
from canopy.designer.request import Request

DAY = dt.date(2026, 11, 28)


def asked(**values):
    """A request for one space."""
    keys = ("kind", "width_m", "depth_m", "height_m", "levels", "crops", "name")
    space = {"kind": "tent", "width_m": 0.8, "depth_m": 0.8, "height_m": 1.8}
    space |= {"crops": ({"crop_id": "pepper", "count": 4},)}
    space |= {key: values.pop(key) for key in keys if key in values}
    return Request(spaces=({key: value for key, value in space.items() if value is not None},), **values)


def answering(request, most=6, classes=("board-100", "board-150", "bar-30-fruit"), **more):
    """A designer that looks at few classes of lamps."""
    found = designer_for(request, DAY, most=most)
    found.classes = classes
    for key, value in more.items():
        setattr(found, key, value)
    return found


@pytest.fixture(scope="session")
def peppers():
    """A small tent of peppers, answered."""
    found = answering(asked(), most=12, helps=False)
    found.run()
    return found
