"""How much of each wall patch a point sees: the last step, from the walls to the asked points."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from canopy.light.polygons import parallel_corner, polygon_factors, upright_corner
from canopy.light.room import Face, Matrix, RoomGrid

Array = NDArray[np.float64]


def gather_factors(room: RoomGrid, fine: int, points: Array, normals: Array) -> Matrix:
    """Give the form factor from points to every wall patch cut finely, with nothing between.

    Parameters
    ----------
    room : the box
    fine : pieces along each side of a patch
    points : shape (n, 3), inside the box [m]
    normals : shape (n, 3), unit normals of the receiving surface

    Returns
    -------
    ndarray : shape (n, patches * fine * fine), patch by patch; rows sum to one
    """
    out = np.empty((len(points), room.count * fine * fine), dtype=np.float32)
    straight = np.abs(normals).max(axis=1) > 1 - 1e-9
    for axis in range(3):
        for sign in (1, -1):
            rows = np.flatnonzero(straight & (normals[:, axis] * sign > 0.5))
            for face in room.faces if len(rows) else ():
                columns = slice(face.patches.start * fine * fine, face.patches.stop * fine * fine)
                out[rows, columns] = _straight(room, face, fine, points[rows], axis, sign)
    rows = np.flatnonzero(~straight)
    if len(rows):
        out[rows] = polygon_factors(points[rows], normals[rows], _quads(room, fine))
    return out


def _edges(room: RoomGrid, axis: int, fine: int) -> Array:
    return np.linspace(0.0, room.size_m[axis], room.divisions[axis] * fine + 1)


def _straight(room: RoomGrid, face: Face, fine: int, points: Array, axis: int, sign: int) -> Array:
    """Factors to one face for points whose normal is +/- an axis."""
    n, (b, c) = len(points), face.across
    if face.axis == axis:
        if (face.side == 1) != (sign == 1):
            return np.zeros((n, face.counts[0] * face.counts[1] * fine * fine))
        gap = np.maximum(np.abs(points[:, axis] - room.size_m[axis] * face.side), 1e-9)[:, None, None]
        x = (_edges(room, b, fine)[None, :] - points[:, b, None])[:, :, None]
        y = (_edges(room, c, fine)[None, :] - points[:, c, None])[:, None, :]
        corners = parallel_corner(x, y, gap)
    else:
        gap = np.maximum(np.abs(points[:, face.axis] - room.size_m[face.axis] * face.side), 0)[:, None, None]
        edges_b, edges_c = (
            _edges(room, k, fine)[None, :] - points[:, k, None] for k in (b, c)
        )  # signed extents from the foot
        if b == axis:
            up, along = np.maximum(edges_b * sign, 0)[:, :, None], edges_c[:, None, :]
        else:
            up, along = np.maximum(edges_c * sign, 0)[:, None, :], edges_b[:, :, None]
        corners = upright_corner(along, up, gap)
    pieces = np.abs(np.diff(np.diff(corners, axis=1), axis=2))
    nb, nc = face.counts
    return np.asarray(pieces.reshape(n, nb, fine, nc, fine).transpose(0, 1, 3, 2, 4).reshape(n, -1))


def _quads(room: RoomGrid, fine: int) -> Array:
    centres = room.points(fine)
    out = []
    for face in room.faces:
        middle = centres[face.patches].reshape(-1, 3)
        half = room.pitch_m / (2 * fine)
        step_b, step_c = np.zeros(3), np.zeros(3)
        step_b[face.across[0]], step_c[face.across[1]] = half[face.across[0]], half[face.across[1]]
        out.append(
            np.stack(
                [
                    middle - step_b - step_c,
                    middle + step_b - step_c,
                    middle + step_b + step_c,
                    middle - step_b + step_c,
                ],
                axis=1,
            )
        )
    return np.concatenate(out)
