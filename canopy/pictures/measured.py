"""A picture from above, measured: cover, each plant's spread, the leaves' colour."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from canopy.model import Record, Share
from canopy.pictures.colour import LeafColour, grey_at, leaf_colour
from canopy.pictures.ground import flat, marked, to_bytes, to_linear
from canopy.pictures.leaves import How, leaves
from canopy.pictures.spread import Seen, Stem, plants_seen

Spot = tuple[Share, Share]
MOST_SPOTS = 40


class Marks(Record):
    """What a person marked in a picture: shares of its width and height, from its upper left corner.

    ``corners`` are the floor's: back left, back right, front right, front left. ``leaf`` and ``ground`` are places
    in the picture laid flat that were pointed at. ``shift`` moves what still counts as leaf, -1 to 1. ``leaves_m`` says
    how high the leaves stand above the corners that were marked, ``camera_m`` how high the camera was held.
    ``white_light`` means that a lamp with all colours lit it, whatever lamps hang there.
    """

    corners: tuple[Spot, Spot, Spot, Spot]
    card: Spot | None = None
    card_kind: Literal["grey", "white"] = "grey"
    leaf: Annotated[tuple[Spot, ...], Field(max_length=MOST_SPOTS)] = ()
    ground: Annotated[tuple[Spot, ...], Field(max_length=MOST_SPOTS)] = ()
    shift: Annotated[float, Field(ge=-1, le=1)] = 0.0
    leaves_m: Annotated[float, Field(ge=0, le=5)] = 0.0
    camera_m: Annotated[float, Field(gt=0, le=6)] | None = None
    white_light: bool = False


class Reading(Record):
    """What a picture says: share of the floor that leaves cover as the camera saw it, its standard error, how leaves
    were told from ground and what limits that, their colour, and each plant that was found.
    """

    cover: Share
    standard_error: Annotated[float, Field(ge=0)]
    how: How
    limits: tuple[str, ...] = ()
    colour: LeafColour | None = None
    plants: tuple[Seen, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Measured:
    """A reading with the pictures it was made on: the floor from straight above as sRGB bytes, shape (rows, columns,
    3), and what is leaf in it, shape (rows, columns).
    """

    reading: Reading
    flat: NDArray[np.uint8]
    mask: NDArray[np.bool_]


def measure(
    picture: NDArray[np.uint8],
    marks: Marks,
    size_m: tuple[float, float],
    *,
    stems: Sequence[Stem] = (),
    green_share: float | None = None,
    lens_mm: float | None = None,
) -> Measured:
    """Measure a picture.

    Parameters
    ----------
    picture : sRGB, shape (h, w, 3)
    marks : what was marked in it
    size_m : width and depth of the floor between the corners [m]
    stems : plants where they should stand
    green_share : share of the lamps' photons between 500 and 600 nm; None where they are not known
    lens_mm : focal length as on 36 × 24 mm, where the camera noted it [mm]

    Returns
    -------
    Measured : of the plane on which the leaves stand, where that was said

    Raises
    ------
    PictureError : askew, of another floor, too dark, burnt out, or in a light that tells nothing apart
    """
    tall, wide = picture.shape[:2]

    def spot(at: Spot) -> tuple[float, float]:
        return at[0] * wide, at[1] * tall

    ground = marked(
        *size_m,
        (wide, tall),
        [spot(corner) for corner in marks.corners],
        lens_mm=lens_mm,
        height_m=marks.camera_m,
    )
    grey = None
    if marks.card is not None:
        grey = grey_at(to_linear(picture).astype(float), spot(marks.card), white=marks.card_kind == "white")
    drawn = flat(picture, ground, z_m=marks.leaves_m)
    rows, columns = drawn.shape[:2]

    def places(spots: Sequence[Spot]) -> list[tuple[int, int]]:
        return [(min(rows - 1, int(y * rows)), min(columns - 1, int(x * columns))) for x, y in spots]

    found = leaves(
        drawn,
        green_share=green_share,
        grey=grey,
        shift=marks.shift,
        leaf_spots=places(marks.leaf),
        ground_spots=places(marks.ground),
    )
    reading = Reading(
        cover=found.cover,
        standard_error=found.standard_error,
        how=found.how,
        limits=found.limits,
        colour=leaf_colour(drawn, found.mask, grey),
        plants=plants_seen(found.mask, size_m, stems),
    )
    return Measured(reading=reading, flat=to_bytes(drawn), mask=found.mask)
