"""Mirrors on whole faces: lamps seen in them are lamps again, behind the face (image sources, to the second order).

A mirror sends lamps' direct light on as a mirror; what reaches it by way of the walls it gives back diffusely.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from canopy.light.crowns import Crown
from canopy.light.emitters import Emitter, in_the_way
from canopy.light.parts import Scene
from canopy.light.passing import irradiance
from canopy.light.pillars import Pillar
from canopy.light.plates import Body, Plate
from canopy.light.room import FACE_AXES

Array = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True, eq=False)
class Image:
    """A lamp as seen in a mirror, or in two: its light, the mirrors it goes by, and the bodies in its way."""

    emitter: Emitter
    by: tuple[str, ...]
    shading: list[Body]

    def through(self, scene: Scene, crowns: tuple[Crown, ...]) -> tuple[Crown, ...]:
        """Give the crowns that its light passes: those of the space, and their own images behind its mirrors.

        Parameters
        ----------
        scene : the scene it belongs to
        crowns : those of the space

        Returns
        -------
        tuple of Crown : as many again for each mirror, in the same order
        """
        out, seen = crowns, crowns
        for face in self.by:
            seen = tuple(_mirrored_crown(scene, face, crown) for crown in seen)
            out = (*out, *seen)
        return out


def _flip(scene: Scene, face: str, point: Array, *, direction: bool = False) -> Array:
    axis, side = FACE_AXES[face]
    out = np.array(point, dtype=np.float64)
    out[axis] = -out[axis] if direction else 2 * scene.room.size_m[axis] * side - out[axis]
    return out


def _mirrored(scene: Scene, face: str, plate: Plate) -> Plate:
    return replace(
        plate,
        centre=_flip(scene, face, plate.centre),
        along=_flip(scene, face, plate.along, direction=True),
        across=_flip(scene, face, plate.across, direction=True),
        beam=_flip(scene, face, plate.beam, direction=True),
    )


def _mirrored_crown(scene: Scene, face: str, crown: Crown) -> Crown:
    x, y, middle = _flip(scene, face, crown.middle)
    up = middle - crown.middle[2]
    facing = _flip(scene, face, np.array(crown.facing), direction=True)
    return replace(
        crown,
        x_m=float(x),
        y_m=float(y),
        bottom_m=crown.bottom_m + up,
        top_m=crown.top_m + up,
        facing=(float(facing[0]), float(facing[1]), float(crown.facing[2])),
    )


def _mirrored_body(scene: Scene, face: str, body: Body) -> Body:
    if isinstance(body, Plate):
        return _mirrored(scene, face, body)
    assert isinstance(body, Pillar)
    x, y, low = _flip(scene, face, np.array([body.x_m, body.y_m, body.low_m]))
    high = _flip(scene, face, np.array([body.x_m, body.y_m, body.high_m]))[2]
    return replace(body, x_m=float(x), y_m=float(y), low_m=float(min(low, high)), high_m=float(max(low, high)))


def _share(scene: Scene, face: str) -> float:
    patches = next(item.patches for item in scene.room.faces if item.name == face)
    return float(scene.reflectance[patches].mean())


def images(scene: Scene, emitter: Emitter) -> list[Image]:
    """Give a lamp's images in the mirrors of a scene.

    Parameters
    ----------
    emitter : one of its lamps

    Returns
    -------
    list of Image : first in each mirror, then in every two; two mirrors at right angles make one image together
    """
    found: list[Image] = []
    for face in scene.mirrors:
        found.append(_image(scene, emitter, (face,)))
    for one in scene.mirrors:
        for two in scene.mirrors:
            opposite = FACE_AXES[one][0] == FACE_AXES[two][0]
            if one != two and (opposite or one < two):
                found.append(_image(scene, emitter, (one, two)))
    return found


def _image(scene: Scene, emitter: Emitter, by: tuple[str, ...]) -> Image:
    plate, bodies, share = emitter.plate, list(scene.plates), 1.0
    # A lamp's own body stands in the way of its image, too.
    shading = list(bodies)
    for face in by:
        plate = _mirrored(scene, face, plate)
        bodies = [_mirrored_body(scene, face, body) for body in bodies]
        shading += bodies
        share *= _share(scene, face)
    own = bodies[[body is emitter.plate for body in scene.plates].index(True)] if emitter.body else None
    image = replace(emitter, plate=plate, ppf_umol_s=emitter.ppf_umol_s * share)
    return Image(emitter=image, by=by, shading=in_the_way(image, [body for body in shading if body is not own]))


def mirror_patches(scene: Scene) -> NDArray[np.bool_]:
    """Say which wall patches are mirrors.

    Returns
    -------
    ndarray of bool : shape (patches,)
    """
    out = np.zeros(scene.room.count, dtype=bool)
    for face in scene.room.faces:
        if face.name in scene.mirrors:
            out[face.patches] = True
    return out


def mirrored_light(
    scene: Scene, seen: list[Image], direct: Array, is_mirror: NDArray[np.bool_]
) -> tuple[list[Array], float]:
    """Give what mirrors throw on the walls of one lamp's direct light.

    Parameters
    ----------
    seen : the lamp's images
    direct : shape (patches, pieces), direct light of the lamp itself [µmol/m²/s]
    is_mirror : shape (patches,)

    Returns
    -------
    (list of ndarray, float) : the lamp's own light, then each image's, shapes (patches, pieces), where on mirrors only
        what has met two of them already is left (it goes on diffusely); and what mirrors swallowed [µmol/s]
    """
    if not seen:
        return [direct], 0.0
    pieces = direct.shape[1]
    points = scene.room.points(round(np.sqrt(pieces))).reshape(-1, 3)
    normals = np.repeat(scene.room.normals, pieces, axis=0)
    area = scene.room.areas[:, None] / pieces
    own = np.where(is_mirror[:, None], 0.0, direct)
    lost, parts = float(((direct - own) * area).sum()), [own]
    for image in seen:
        light = irradiance(image.emitter, points, normals, image.shading, edges=False).reshape(-1, pieces)
        on = np.zeros_like(is_mirror)
        for face in scene.room.faces:
            if face.name in image.by[-1:]:
                on[face.patches] = True
        light[on] = 0.0
        if len(image.by) == 1:
            # What meets a second mirror goes on as the images of the second order.
            light[is_mirror] = 0.0
        lost -= float((light * area).sum())
        parts.append(light)
    return parts, lost
