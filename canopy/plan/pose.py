"""How a placed fixture lies in its space: its axes and its corners."""

from __future__ import annotations

from math import cos, radians, sin
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from canopy.plan.document import Fixture

Vector = NDArray[np.float64]


class Axes(NamedTuple):
    """Unit vectors of a fixture: along its length, across it, and the way it shines."""

    length: Vector
    width: Vector
    beam: Vector


def axes(fixture: Fixture) -> Axes:
    """Turn a fixture's three angles into unit vectors.

    Parameters
    ----------
    fixture : the placed fixture

    Returns
    -------
    Axes : three orthogonal unit vectors, each of shape (3,)

    Notes
    -----
    Tilt about the long axis first, pitch about the width axis next, yaw about the vertical last.
    """
    tilt, pitch, yaw = radians(fixture.tilt_deg), radians(fixture.pitch_deg), radians(fixture.yaw_deg)
    roll = np.array([[1, 0, 0], [0, cos(tilt), -sin(tilt)], [0, sin(tilt), cos(tilt)]])
    lift = np.array([[cos(pitch), 0, -sin(pitch)], [0, 1, 0], [sin(pitch), 0, cos(pitch)]])
    turn = np.array([[cos(yaw), -sin(yaw), 0], [sin(yaw), cos(yaw), 0], [0, 0, 1]])
    frame = turn @ lift @ roll
    return Axes(frame[:, 0], frame[:, 1], -frame[:, 2])


def centre(fixture: Fixture) -> Vector:
    """Give the centre of the emitting face.

    Parameters
    ----------
    fixture : the placed fixture

    Returns
    -------
    ndarray : shape (3,) [m]
    """
    return np.array([fixture.x_m, fixture.y_m, fixture.z_m], dtype=np.float64)


def corners(fixture: Fixture, *, with_body: bool = True) -> Vector:
    """Give the corners of a fixture's box.

    Parameters
    ----------
    fixture : the placed fixture
    with_body : include the back of the body, not only the emitting face

    Returns
    -------
    ndarray : shape (8, 3), or (4, 3) without the body [m]
    """
    spec, frame = fixture.spec, axes(fixture)
    across = spec.overall_width_m if spec.shape == "rectangle" else spec.length_m
    half_l, half_w = frame.length * spec.length_m / 2, frame.width * across / 2
    face = np.array([centre(fixture) + a * half_l + b * half_w for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))])
    return np.vstack([face, face - frame.beam * spec.thickness_m]) if with_body else face
