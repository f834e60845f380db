"""Read photometric files: IES LM-63 (1986 to 2019) and EULUMDAT."""

from __future__ import annotations

from canopy.errors import PhotometricError
from canopy.light.eulumdat import read_eulumdat
from canopy.light.lm63 import read_lm63
from canopy.light.photometric_text import MAX_BYTES, PhotometricFile, text_of

__all__ = ["MAX_BYTES", "PhotometricFile", "read_photometric"]


def read_photometric(raw: bytes, name: str = "") -> PhotometricFile:
    """Read a photometric file of either kind.

    Parameters
    ----------
    raw : the file's bytes
    name : the file's name; used for the lamp's when the file gives none

    Returns
    -------
    PhotometricFile : intensities, measures, lumens and watts

    Raises
    ------
    PhotometricError : too large, not text, or malformed; the message names the line

    Notes
    -----
    A file with a line that begins with TILT= is LM-63; one with a symmetry code 0..4 in its third line is EULUMDAT.
    """
    lines = text_of(raw)
    if any(line.strip().upper().startswith("TILT") for line in lines):
        return read_lm63(lines, name)
    if len(lines) > 26 and lines[2].strip() in ("0", "1", "2", "3", "4"):
        return read_eulumdat(lines, name)
    raise PhotometricError(
        "this is neither an IES file (no line TILT=) nor EULUMDAT (no symmetry code 0 to 4 in line 3)"
    )
