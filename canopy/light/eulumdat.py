"""EULUMDAT photometric files."""

from __future__ import annotations

from canopy.errors import PhotometricError
from canopy.light.photometric_text import MAX_ANGLES, PhotometricFile, Word, candela, flux_lm, length_m, rising, thinned

_MM = 0.001
_HEAD = 26


def read_eulumdat(lines: list[str], name: str = "") -> PhotometricFile:
    """Read a EULUMDAT file.

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
    Line by line: 3 symmetry, 4 planes, 6 angles, 9 name, 16-17 luminous face, 26 lamp sets, then six lines a set, ten
    direct ratios, planes, angles, intensities [cd/klm]. The plane C0 lies across the luminaire's length (CIE 34), so
    planes are turned by 90° into our own convention, which counts from the length.
    """

    def at(number: int) -> Word:
        if number > len(lines):
            raise PhotometricError(f"line {len(lines)}: the file ends early; line {number} is missing")
        return Word(text=lines[number - 1].strip(), line=number)

    symmetry = int(at(3).number("the symmetry", 0, 4))
    planes = at(4).count("the number of planes", MAX_ANGLES)
    angles = at(6).count("the number of angles", MAX_ANGLES)
    long, wide = length_m(at(16), "the luminous length", _MM), length_m(at(17), "the luminous width", _MM)
    sets = at(_HEAD).count("the number of lamp sets", 20)
    first = _HEAD + 1
    counts = [at(first + k).number("the number of lamps", -1000, 1000) for k in range(sets)]
    flux = [at(first + 2 * sets + k).number("lumens", 0, 1e7) for k in range(sets)]
    watts = [at(first + 5 * sets + k).number("watts", 0, 1e6) for k in range(sets)]
    start = first + 6 * sets + 10
    c = [at(start + k) for k in range(planes)]
    gamma = rising([at(start + planes + k) for k in range(angles)], "vertical angles")
    if gamma[-1] > 180:
        raise PhotometricError(f"line {start + planes + angles - 1}: vertical angles end at 180")
    given = _given(symmetry, planes)
    begin = start + planes + angles
    rows = [candela([at(begin + row * angles + k) for k in range(angles)]) for row in range(given)]
    for number in range(begin + given * angles, len(lines) + 1):
        if lines[number - 1].strip():
            raise PhotometricError(
                f"line {number}: more lines than {given} × {angles} intensities; are the counts right?"
            )
    horizontal, table = _turned(symmetry, rising(c, "planes"), rows)
    total = sum(abs(count) * lumens if count > 0 else lumens for count, lumens in zip(counts, flux, strict=True))
    photometry, peak = thinned(horizontal, gamma, table), max(value for row in table for value in row)
    # Intensities are given for a thousand lumens of its lamps.
    given_lm = flux_lm(photometry, peak * total / 1000, total) if total > 0 else None
    return PhotometricFile(
        name=lines[8].strip()[:120] or name or "Photometric file",
        photometry=photometry,
        length_m=long,
        width_m=wide or long,
        round=wide == 0 and long > 0,
        flux_lm=given_lm,
        power_w=sum(watts) or None,
    )


def _given(symmetry: int, planes: int) -> int:
    """How many planes of intensities a kind of symmetry writes down."""
    if symmetry == 1:
        return 1
    if symmetry in (2, 3):
        return planes // 2 + 1
    return planes // 4 + 1 if symmetry == 4 else planes


def _turned(symmetry: int, c: list[float], rows: list[list[float]]) -> tuple[list[float], list[list[float]]]:
    """All planes from 0 to 360, counted from the length."""
    if symmetry == 1:
        return [0.0], rows
    whole: dict[float, list[float]] = {}
    if symmetry == 0:
        whole = dict(zip(c, rows, strict=True))
    elif symmetry == 2:
        for angle, row in zip(c, rows, strict=False):
            whole[angle % 360] = whole[(360 - angle) % 360] = row
    elif symmetry == 3:
        # Written from C90 to C270; C0 to C180 mirror them.
        start = len(c) // 4
        for angle, row in zip(c[start:], rows, strict=False):
            whole[angle % 360] = whole[(180 - angle) % 360] = row
    else:
        for angle, row in zip(c, rows, strict=False):
            for other in (angle, 180 - angle, 180 + angle, 360 - angle):
                whole[other % 360] = row
    turned = {(angle + 90) % 360: row for angle, row in whole.items()}
    angles = sorted(turned)
    if angles[0] != 0:
        raise PhotometricError("the planes leave a gap: C90 or C270 is missing")
    return [*angles, 360.0], [*(turned[angle] for angle in angles), turned[angles[0]]]
