"""IES LM-63 photometric files, editions 1986, 1991, 1995, 2002 and 2019."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.errors import PhotometricError
from canopy.light.photometric_text import (
    MAX_ANGLES,
    PhotometricFile,
    Word,
    candela,
    flux_lm,
    length_m,
    rising,
    thinned,
)

_FOOT_M = 0.3048


class _Words:
    """The numbers of the file in order, whatever lines they stand in."""

    def __init__(self, lines: list[str], first: int) -> None:
        self._words = [
            Word(text=text, line=number)
            for number, line in enumerate(lines[first:], first + 1)
            for text in line.replace(",", " ").split()
        ]
        self._at = 0
        self._last = len(lines)

    def take(self, count: int, what: str) -> list[Word]:
        found = self._words[self._at : self._at + count]
        if len(found) < count:
            raise PhotometricError(
                f"line {self._last}: the file ends early: {count} × {what} expected, {len(found)} found"
            )
        self._at += count
        return found

    def one(self, what: str) -> Word:
        return self.take(1, what)[0]

    def left(self) -> Iterator[Word]:
        yield from self._words[self._at :]


def read_lm63(lines: list[str], name: str = "") -> PhotometricFile:
    """Read an IES file.

    Parameters
    ----------
    lines : the file's lines
    name : the lamp's name when the file gives none

    Returns
    -------
    PhotometricFile : the lamp

    Raises
    ------
    PhotometricError : malformed; the message names the line

    Notes
    -----
    IES LM-63 type C: the horizontal angle 0 lies along the luminous length, 90 along its width. Horizontal angles that
    end at 0, 90, 180 (or run from 90 to 270) and 360 are the four kinds of symmetry. A lamp's tilt table is read past.
    Lumens of -1 mean absolute photometry: the intensities are what the luminaire gives, and their sum is its flux.
    """
    tilt = next(number for number, line in enumerate(lines) if line.strip().upper().startswith("TILT"))
    words = _Words(lines, tilt + 1)
    kind = lines[tilt].partition("=")[2].strip().upper()
    if kind == "INCLUDE":
        words.one("the lamp's position in its luminaire")
        pairs = words.one("the number of tilt angles").count("the number of tilt angles", MAX_ANGLES)
        words.take(2 * pairs, "tilt angle or factor")
    elif kind not in ("NONE", ""):
        raise PhotometricError(
            f"line {tilt + 1}: the tilt table lies in another file, “{kind[:40]}”: ask for one with TILT=NONE"
        )
    lamps, lumens, multiplier = words.take(3, "number of lamps, lumens and multiplier")
    nv = words.one("the number of vertical angles").count("the number of vertical angles", MAX_ANGLES)
    nh = words.one("the number of horizontal angles").count("the number of horizontal angles", MAX_ANGLES)
    photometric, units = words.take(2, "photometric type and units")
    if photometric.number("the photometric type") != 1:
        raise PhotometricError(f"line {photometric.line}: only type C (1) is read; this is type {photometric.text}")
    unit_m = {1: _FOOT_M, 2: 1.0}.get(int(units.number("the units", 1, 2)), 1.0)
    width, length, _ = words.take(3, "width, length and height")
    ballast, _, watts = words.take(3, "ballast factor, a reserve and watts")
    vertical = rising(words.take(nv, "vertical angle"), "vertical angles")
    horizontal = rising(words.take(nh, "horizontal angle"), "horizontal angles")
    factor = multiplier.number("the multiplier", 1e-9, 1e9)
    rows = [candela(words.take(nv, f"intensity ({nh} × {nv} in all)")) for _ in range(nh)]
    extra = next(words.left(), None)
    if extra is not None:
        raise PhotometricError(f"line {extra.line}: more numbers than {nh} × {nv} intensities; are the counts right?")
    if vertical[-1] > 180:
        raise PhotometricError("vertical angles end at 180")
    horizontal, rows = _canonical(horizontal, rows)
    rows = [[value * factor for value in row] for row in rows]
    wide, long = length_m(width, "the luminous width", unit_m), length_m(length, "the luminous length", unit_m)
    rated = lumens.number("lumens") * lamps.number("the number of lamps")
    photometry, peak = thinned(horizontal, vertical, rows), max(value for row in rows for value in row)
    driven = ballast.number("the ballast factor", 0, 10) or 1.0
    given = flux_lm(photometry, peak * driven, rated * driven)
    return PhotometricFile(
        name=_name(lines[:tilt]) or name or "Photometric file",
        photometry=photometry,
        length_m=abs(long or wide),
        width_m=abs(wide or long),
        round=wide < 0 or (long == 0 and wide > 0 and len(rows) == 1),
        flux_lm=given,
        power_w=watts.number("watts", 0, 1e6) or None,
    )


def _canonical(horizontal: list[float], rows: list[list[float]]) -> tuple[list[float], list[list[float]]]:
    """Bring every kind of symmetry to angles from 0 to 0, 90, 180 or 360."""
    if len(horizontal) == 1:
        return [0.0], rows
    if (horizontal[0], horizontal[-1]) == (90.0, 270.0):
        # Alike on both sides of its width: planes 0..90 mirror 180..90, then on to 360.
        by_angle = dict(zip(horizontal, rows, strict=True))
        whole = {angle % 360: row for angle, row in by_angle.items()}
        whole |= {(180 - angle) % 360: row for angle, row in by_angle.items()}
        angles = sorted(whole)
        return [*angles, 360.0], [*(whole[angle] for angle in angles), whole[angles[0]]]
    if horizontal[0] != 0 or horizontal[-1] not in (90.0, 180.0, 360.0):
        if horizontal[0] == 0 and horizontal[-1] > 270:
            return [*horizontal, 360.0], [*rows, rows[0]]
        raise PhotometricError(
            f"horizontal angles run from {horizontal[0]:g} to {horizontal[-1]:g}; 0 to 0, 90, 180 or 360, "
            "or 90 to 270 are known"
        )
    return horizontal, rows


def _name(head: list[str]) -> str:
    """The lamp's name from the keywords; catalogue numbers and makers are left out."""
    for line in head:
        key, _, text = line.strip().partition("]")
        if key.upper() == "[LUMINAIRE" and text.strip():
            return text.strip()[:120]
    return ""
