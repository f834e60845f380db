"""Lay a picture flat: from four marked corners of a floor to metres on it, and to a plane above it.

Coordinates of a picture are pixels, x to the right and y down; those of the ground are metres, x to the right and y to
the back, z up.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import acos, degrees, hypot, log
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from canopy.errors import PictureError

if TYPE_CHECKING:
    from skimage.transform import ProjectiveTransform

Array = NDArray[np.float64]
Bytes = NDArray[np.uint8]
# A picture on 36 × 24 mm, by whose diagonal [mm] cameras state what their lens is equivalent to.
FULL_FRAME_MM = 43.27
# Lenses that a phone or camera may have [mm, as above].
_LENSES = tuple(float(mm) for mm in np.geomspace(12, 120, 60))
# The floor takes at least this share of the picture; a square of it on one side looks at most so many times as large
# as on the other; sides and angles may be off by this much from what a flat floor can look like.
_LEAST_SHARE, _MOST_SLANT, _MOST_MISFIT = 0.06, 5.0, 0.2


@dataclass(frozen=True, kw_only=True)
class Ground:
    """A rectangle of ground in a picture, seen from above.

    Parameters
    ----------
    width_m : of the rectangle [m]
    depth_m : of the rectangle [m]
    picture : width and height of the picture [px]
    corners : where its corners are in the picture [px], back left, back right, front right, front left
    lens_mm : focal length as on 36 × 24 mm [mm], where the camera noted one
    height_m : how high above the rectangle the camera was [m], where somebody measured it
    """

    width_m: float
    depth_m: float
    picture: tuple[int, int]
    corners: tuple[tuple[float, float], ...]
    lens_mm: float | None = None
    height_m: float | None = None

    @cached_property
    def plan(self) -> ProjectiveTransform:
        """Metres on the ground to pixels."""
        from skimage.transform import ProjectiveTransform

        w, d = self.width_m, self.depth_m
        found = ProjectiveTransform.from_estimate(np.array([(0, d), (w, d), (w, 0), (0, 0)]), np.array(self.corners))
        if not found:
            raise PictureError("the four corners lie in one line")
        plan: ProjectiveTransform = found
        return plan

    @cached_property
    def camera(self) -> Camera | None:
        """Where the camera was; None while neither its lens nor its height is known."""
        from scipy.optimize import brentq

        if self.lens_mm is None and self.height_m is None:
            return None
        if self.lens_mm is not None:
            return _camera(self, self.lens_mm)
        assert self.height_m is not None
        wanted = self.height_m

        def off(mm: float) -> float:
            return log(_camera(self, mm).place_m[2] / wanted)

        low, high = _LENSES[0], _LENSES[-1]
        if off(low) * off(high) > 0:
            raise PictureError(
                f"no usual lens sees this floor so large from {wanted:.2f} m: is the height that above the corners?"
            )
        return _camera(self, float(brentq(off, low, high, xtol=1e-3)))

    def at_height(self, z_m: float) -> ProjectiveTransform:
        """Give metres on a plane above the ground to pixels.

        Parameters
        ----------
        z_m : how high above the marked corners [m]

        Returns
        -------
        ProjectiveTransform : of places straight above those of the ground

        Raises
        ------
        PictureError : without lens and height, or when the camera was no higher
        """
        from skimage.transform import ProjectiveTransform

        if z_m <= 0:
            return self.plan
        if self.camera is None:
            raise PictureError(
                "what stands above the corners is placed only when lens or height of the camera is known"
            )
        if z_m > 0.8 * self.camera.place_m[2]:
            raise PictureError("leaves stand nearly as high as the camera was: hold it higher")
        return ProjectiveTransform(
            matrix=self.camera.matrix[:, [0, 1, 3]] + z_m * np.outer(self.camera.matrix[:, 2], (0, 0, 1))
        )


@dataclass(frozen=True, kw_only=True)
class Camera:
    """A camera: from metres (x, y, z, 1) to pixels, shape (3, 4); where it was [m]; how far it looked off the vertical
    [°]; its lens [mm].
    """

    matrix: Array
    place_m: tuple[float, float, float]
    tilt_deg: float
    lens_mm: float


def _columns(ground: Ground, lens_mm: float) -> tuple[Array, float]:
    """The ground's columns as the camera would have them: K⁻¹H, and its focal length [px]."""
    wide, tall = ground.picture
    focal = lens_mm / FULL_FRAME_MM * hypot(wide, tall)
    inner = np.array([[1 / focal, 0, -wide / 2 / focal], [0, 1 / focal, -tall / 2 / focal], [0, 0, 1]])
    found: Array = inner @ np.asarray(ground.plan.params)
    return found * np.sign(found[2] @ (ground.width_m / 2, ground.depth_m / 2, 1)), focal


def _camera(ground: Ground, lens_mm: float) -> Camera:
    """The camera for a lens: the columns of a rotation are of one length and square to each other.

    References
    ----------
    Zhang 2000, "A flexible new technique for camera calibration", section 3.1.
    """
    columns, focal = _columns(ground, lens_mm)
    scale = 1 / np.sqrt(np.linalg.norm(columns[:, 0]) * np.linalg.norm(columns[:, 1]))
    one, two, at = (scale * columns).T
    # The nearest rotation to what was found.
    u, _, v = np.linalg.svd(np.column_stack([one, two, np.cross(one, two)]))
    turn = u @ v
    wide, tall = ground.picture
    lens = np.array([[focal, 0, wide / 2], [0, focal, tall / 2], [0, 0, 1]])
    x, y, z = (float(part) for part in -turn.T @ at)
    # The ground's own columns are kept as they were marked; the third is the rotation's.
    matrix = lens @ np.column_stack([one, two, turn[:, 2], at])
    return Camera(matrix=matrix, place_m=(x, y, z), tilt_deg=degrees(acos(min(1.0, abs(turn[2, 2])))), lens_mm=lens_mm)


def marked(
    width_m: float,
    depth_m: float,
    picture: tuple[int, int],
    corners: Sequence[tuple[float, float]],
    *,
    lens_mm: float | None = None,
    height_m: float | None = None,
) -> Ground:
    """Take the four corners of a floor in a picture, after looking whether they can be its corners.

    Parameters
    ----------
    width_m : of the floor [m]
    depth_m : of the floor [m]
    picture : width and height [px]
    corners : back left, back right, front right, front left [px]
    lens_mm : focal length as on 36 × 24 mm [mm], where known
    height_m : how high above the corners the camera was [m], where known

    Returns
    -------
    Ground : the floor in the picture

    Raises
    ------
    PictureError : corners outside, crossed or the other way round; a floor too small, too slanting or of another shape
    """
    wide, tall = picture
    if any(not (0 <= x <= wide and 0 <= y <= tall) for x, y in corners):
        raise PictureError("a corner lies outside the picture: all four must be seen")
    turns = [_turn(corners[k - 1], corners[k], corners[(k + 1) % 4]) for k in range(4)]
    if all(turn < 0 for turn in turns):
        raise PictureError("the corners go round the wrong way: back left, back right, front right, front left")
    if not all(turn > 0 for turn in turns):
        raise PictureError("the lines between the corners cross, or one corner lies between the others")
    share = _area(corners) / (wide * tall)
    if share < _LEAST_SHARE:
        raise PictureError(f"the floor takes {100 * share:.0f} % of the picture: too little to measure, go nearer")
    ground = Ground(
        width_m=width_m,
        depth_m=depth_m,
        picture=picture,
        corners=tuple((float(x), float(y)) for x, y in corners),
        lens_mm=lens_mm,
        height_m=height_m,
    )
    slant = _slant(ground)
    if slant > _MOST_SLANT:
        raise PictureError(
            "taken too much from the side: near leaves hide those behind; hold the camera over the middle, looking down"
        )
    _fits(ground)
    return ground


def _turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
    return (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0])


def _area(corners: Sequence[tuple[float, float]]) -> float:
    xs, ys = np.array(corners).T
    return float(abs(xs @ np.roll(ys, -1) - ys @ np.roll(xs, -1)) / 2)


def _slant(ground: Ground) -> float:
    """How many times as large a square on the near side looks as on the far one: areas go by 1/w³."""
    w, d = ground.width_m, ground.depth_m
    depth = np.array([(0, 0, 1), (w, 0, 1), (0, d, 1), (w, d, 1)]) @ np.asarray(ground.plan.params)[2]
    depth = np.abs(depth)
    return float((depth.max() / depth.min()) ** 3)


def _fits(ground: Ground) -> None:
    """Refuse corners that no lens could see of such a floor: its sides at another ratio, or not square."""
    misfits = []
    for mm in (ground.lens_mm,) if ground.lens_mm else _LENSES:
        one, two, _ = _columns(ground, mm)[0].T
        lengths = np.linalg.norm(one), np.linalg.norm(two)
        misfits.append(abs(log(lengths[0] / lengths[1])) + abs(float(one @ two)) / (lengths[0] * lengths[1]))
    if min(misfits) > _MOST_MISFIT:
        raise PictureError(
            f"no floor of {100 * ground.width_m:.0f} × {100 * ground.depth_m:.0f} cm looks like that from above: "
            "are these its corners, and is it this space?"
        )


def flat(picture: Bytes, ground: Ground, longest_px: int = 800, z_m: float = 0.0) -> Array:
    """Draw the floor as it looks from straight above.

    Parameters
    ----------
    picture : sRGB, shape (h, w, 3)
    ground : where the floor is in it
    longest_px : its longer side becomes so long
    z_m : the plane drawn, above the marked corners [m]

    Returns
    -------
    ndarray : linear red, green and blue, 0 to 1, shape (rows, columns, 3); the first row is the back

    Raises
    ------
    PictureError : as `Ground.at_height`
    """
    from skimage.transform import warp

    step = max(ground.width_m, ground.depth_m) / longest_px
    rows, columns = max(1, round(ground.depth_m / step)), max(1, round(ground.width_m / step))
    there = ground.at_height(z_m)
    linear = to_linear(picture)

    def where(places: Array) -> Array:
        x, y = (places[:, 0] + 0.5) * step, ground.depth_m - (places[:, 1] + 0.5) * step
        found: Array = there(np.column_stack([x, y])) - 0.5
        return found

    drawn: Array = warp(linear, where, output_shape=(rows, columns), order=1, mode="edge")
    return drawn


_LINEAR = np.array([v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in np.arange(256) / 255])


def to_linear(picture: Bytes) -> NDArray[np.float32]:
    """Give linear light of sRGB bytes.

    Parameters
    ----------
    picture : sRGB, any shape

    Returns
    -------
    ndarray : 0 to 1, same shape (IEC 61966-2-1)
    """
    linear: NDArray[np.float32] = _LINEAR.astype(np.float32)[picture]
    return linear


def to_bytes(linear: Array) -> Bytes:
    """Give sRGB bytes of linear light.

    Parameters
    ----------
    linear : 0 to 1, any shape; what lies outside is cut off, as a camera does

    Returns
    -------
    ndarray : same shape (IEC 61966-2-1)
    """
    v = np.clip(linear, 0, 1)
    coded = np.where(v <= 0.0031308, 12.92 * v, 1.055 * v ** (1 / 2.4) - 0.055)
    return np.round(255 * coded).astype(np.uint8)
