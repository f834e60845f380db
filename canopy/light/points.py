"""Light at points read from a CSV file."""

from __future__ import annotations

import csv
import datetime as dt
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from canopy.errors import GeometryError
from canopy.light.crowns import Crown
from canopy.light.scene import POINTS, Quality, field_of, inside, weights
from canopy.plan.document import Space

Array = NDArray[np.float64]
MAX_POINTS = 200_000
_BATCH = 2000


class Points(NamedTuple):
    """Points (n, 3) [m] and unit normals (n, 3)."""

    points: Array
    normals: Array


def read_points(path: Path) -> Points:
    """Read points from a CSV file with columns x_m, y_m, z_m and, if wanted, nx, ny, nz.

    Parameters
    ----------
    path : where the file lies

    Returns
    -------
    Points : points and unit normals, straight up where none are given

    Raises
    ------
    GeometryError : the file cannot be read, lacks a column, or a line does not hold numbers; the line is named
    """
    try:
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise GeometryError(f"cannot read {path}: {getattr(error, 'strerror', None) or 'it is not UTF-8'}") from error
    rows = csv.DictReader(text.splitlines())
    names = [name.strip() for name in rows.fieldnames or []]
    rows.fieldnames = names
    missing = [key for key in ("x_m", "y_m", "z_m") if key not in names]
    if missing:
        raise GeometryError(f"{path}: the first line lacks the column {', '.join(missing)}")
    keys = [key for key in ("nx", "ny", "nz") if key in names]
    if len(keys) not in (0, 3):
        raise GeometryError(f"{path}: give all of nx, ny and nz, or none")
    points, normals = [], []
    for number, row in enumerate(rows, start=2):
        try:
            points.append([float(row[key]) for key in ("x_m", "y_m", "z_m")])
            given = [float(row[key]) if (row[key] or "").strip() else None for key in keys]
        except (TypeError, ValueError) as error:
            raise GeometryError(f"{path}, line {number}: these are not numbers: {list(row.values())}") from error
        normals.append(_unit(path, number, given))
        if len(points) > MAX_POINTS:
            raise GeometryError(f"{path}: more than {MAX_POINTS} points")
    if not points:
        raise GeometryError(f"{path}: there is no point in it")
    return Points(np.array(points), np.array(normals))


def _unit(path: Path, number: int, given: list[float | None]) -> list[float]:
    values = [value for value in given if value is not None]
    if not values:
        return [0.0, 0.0, 1.0]
    size = float(np.linalg.norm(values))
    if len(values) != 3 or not 0.9 < size < 1.1:
        raise GeometryError(f"{path}, line {number}: nx, ny, nz must be a unit normal (its length is {size:.3f})")
    return [value / size for value in values]


def light_at_points(
    space: Space,
    points: Array,
    normals: Array,
    quality: Quality = POINTS,
    *,
    crowns: tuple[Crown, ...] = (),
    day: dt.date | None = None,
) -> Array:
    """Give the PPFD at points with all lamps as they are set.

    Parameters
    ----------
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals of the receiving surface
    quality : how finely to cut the walls
    crowns : what grows there
    day : the day, for daylight by month

    Returns
    -------
    ndarray : shape (n,) [µmol/m²/s]

    Raises
    ------
    GeometryError : a point lies outside the space
    """
    placed, field, share = inside(space, points), field_of(space, quality, crowns), weights(space, day)
    out = np.empty(len(placed))
    for start in range(0, len(placed), _BATCH):
        part = slice(start, start + _BATCH)
        out[part] = field.at(placed[part], normals[part]).total @ share
    return out
