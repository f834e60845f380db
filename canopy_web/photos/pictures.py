"""Read a picture a person sends, and write it anew: small enough, upright, and without where it was taken."""

from __future__ import annotations

import datetime as dt
import io
from dataclasses import dataclass
from threading import Lock
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

MAX_BYTES = 15_000_000
MAX_PIXELS, MAX_SIDE = 40_000_000, 12_000
# Decoding takes four bytes a pixel: one picture at a time, whoever sends it.
_ONE_AT_A_TIME = Lock()
LONGEST, SMALL = 1800, 320
FORMATS = ("JPEG", "PNG", "WEBP")


class PictureError(ValueError):
    """What was sent is not a picture we can keep."""


@dataclass(frozen=True, kw_only=True)
class Picture:
    """A picture as it is kept: JPEG bytes, a small one, its size [px], and the day and the focal length as on
    36 × 24 mm [mm] that its camera notes, if it does.
    """

    image: bytes
    small: bytes
    width: int
    height: int
    day: dt.date | None = None
    lens_mm: float | None = None


def read_picture(file: Any, size: int) -> Picture:
    """Check and re-encode a picture; its size in pixels is read before any of it is decoded, and one picture is decoded
    at a time.
    """
    with _ONE_AT_A_TIME:
        return _read(file, size)


def _read(file: Any, size: int) -> Picture:
    if size > MAX_BYTES:
        raise PictureError(f"This picture has {size / 1e6:.0f} MB; at most {MAX_BYTES / 1e6:.0f} MB are taken.")
    # Our own limit is checked before anything is decoded; the library's warning would only repeat it.
    Image.MAX_IMAGE_PIXELS = None
    try:
        with Image.open(file, formats=FORMATS) as found:
            if max(found.size) > MAX_SIDE:
                raise PictureError(
                    f"This picture is {found.width} × {found.height} pixels; at most {MAX_SIDE} a side are taken. "
                    "Send it smaller."
                )
            if found.width * found.height > MAX_PIXELS:
                raise PictureError(
                    f"This picture has {found.width * found.height / 1e6:.0f} megapixels; at most "
                    f"{MAX_PIXELS / 1e6:.0f} are taken. Send it smaller."
                )
            day, lens = _day(found), _lens(found)
            found.draft("RGB", (LONGEST, LONGEST))
            upright = ImageOps.exif_transpose(found).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        if isinstance(error, PictureError):
            raise
        raise PictureError("This is not a picture we can read: send a JPEG, PNG or WebP.") from None
    upright.thumbnail((LONGEST, LONGEST))
    width, height = upright.size
    large = _jpeg(upright, 84)
    upright.thumbnail((SMALL, SMALL))
    return Picture(image=large, small=_jpeg(upright, 78), width=width, height=height, day=day, lens_mm=lens)


def kept_picture(content: bytes) -> Picture:
    """Take a picture as it was kept before, byte by byte; what we would not have written so is written anew."""
    with _ONE_AT_A_TIME:
        try:
            with Image.open(io.BytesIO(content), formats=("JPEG",)) as found:
                ours = max(found.size) <= LONGEST and found.mode == "RGB" and not found.getexif()
                if ours:
                    found.load()
                    small = found.copy()
        except (UnidentifiedImageError, OSError, SyntaxError, ValueError):
            raise PictureError("This is not a picture we can read.") from None
    if not ours:
        return read_picture(io.BytesIO(content), len(content))
    width, height = small.size
    small.thumbnail((SMALL, SMALL))
    return Picture(image=content, small=_jpeg(small, 78), width=width, height=height)


# Where a camera notes when a picture was taken, and when its file was written.
_NOTES, _TAKEN, _WRITTEN, _LENS = 0x8769, 0x9003, 0x0132, 0xA405


def _day(image: Image.Image) -> dt.date | None:
    """The day a camera says a picture was taken; None where it says none, or one that cannot be."""
    notes = image.getexif()
    said = str(notes.get_ifd(_NOTES).get(_TAKEN) or notes.get(_WRITTEN) or "")
    try:
        day = dt.datetime.strptime(said[:10], "%Y:%m:%d").date()
    except ValueError:
        return None
    return day if dt.date(1990, 1, 1) <= day <= dt.date.today() + dt.timedelta(days=1) else None


def _lens(image: Image.Image) -> float | None:
    """The focal length a camera says a picture was taken with, as on 36 × 24 mm [mm]."""
    said = image.getexif().get_ifd(_NOTES).get(_LENS)
    try:
        lens = float(said) if said else 0.0
    except (TypeError, ValueError):
        return None
    return lens if 8 <= lens <= 300 else None


def _jpeg(image: Image.Image, quality: int) -> bytes:
    out = io.BytesIO()
    # A fresh image holds nothing of the camera's notes.
    clean = Image.new("RGB", image.size)
    clean.paste(image)
    clean.save(out, "JPEG", quality=quality, optimize=True, progressive=True)
    return out.getvalue()


def pixels(content: bytes) -> NDArray[np.uint8]:
    """Give the sRGB pixels of a picture that is kept, shape (h, w, 3)."""
    with _ONE_AT_A_TIME, Image.open(io.BytesIO(content), formats=("JPEG",)) as found:
        return np.asarray(found.convert("RGB"))


def drawn(flat: NDArray[np.uint8]) -> bytes:
    """Write a floor laid flat as JPEG."""
    return _jpeg(Image.fromarray(flat), 82)


# What is no leaf lies under a veil; leaves keep their colours, with a rim in one that no leaf has.
_VEIL, _RIM = (251, 248, 239), (214, 38, 138)


def leaf_mask(mask: NDArray[np.bool_]) -> bytes:
    """Write what is leaf as a PNG to lay over the floor: clear there, with a rim, and a veil over the rest."""
    from scipy.ndimage import binary_erosion

    rim = mask & ~binary_erosion(mask, iterations=2)
    levels = Image.fromarray((mask.astype(np.uint8) + rim).astype(np.uint8), "P")
    levels.putpalette([*_VEIL, *_VEIL, *_RIM])
    out = io.BytesIO()
    levels.save(out, "PNG", transparency=bytes((150, 0, 255)), optimize=True)
    return out.getvalue()
