"""What both kinds of photometric file share: text with line numbers, and what comes of it."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.equipment import Photometry
from canopy.errors import PhotometricError
from canopy.light.intensity import IntensityTable

MAX_BYTES = 2_000_000
MAX_ANGLES = 721
_LONGEST_M = 10.0


@dataclass(frozen=True, kw_only=True)
class PhotometricFile:
    """A lamp from its photometric file: luminous face [m] (0: a point), lumens and watts where it gives them."""

    name: str
    photometry: Photometry
    length_m: float
    width_m: float
    round: bool
    flux_lm: float | None
    power_w: float | None


@dataclass(frozen=True, kw_only=True)
class Word:
    """A word of the file and the line it stands in."""

    text: str
    line: int

    def number(self, what: str, low: float = -1e9, high: float = 1e9) -> float:
        """Read the word as a number.

        Parameters
        ----------
        what : what it should be, for the message
        low : least accepted
        high : greatest accepted

        Returns
        -------
        float : the number

        Raises
        ------
        PhotometricError : not a number, or out of range
        """
        try:
            value = float(self.text.replace(",", "."))
        except ValueError:
            raise PhotometricError(f"line {self.line}: {what} should be a number, it is “{self.text[:20]}”") from None
        if not low <= value <= high:
            raise PhotometricError(f"line {self.line}: {what} is {self.text[:20]}; {low:g} to {high:g} makes sense")
        return value

    def count(self, what: str, high: int) -> int:
        """Read the word as a whole number, one or more.

        Parameters
        ----------
        what : what it counts, for the message
        high : greatest accepted

        Returns
        -------
        int : the number

        Raises
        ------
        PhotometricError : not a whole number, or out of range
        """
        value = self.number(what, 1, high)
        if value != int(value):
            raise PhotometricError(f"line {self.line}: {what} should be a whole number, it is {self.text}")
        return int(value)


def text_of(raw: bytes) -> list[str]:
    """Split a file into lines.

    Parameters
    ----------
    raw : as the file lies on disk, up to 2 MB

    Returns
    -------
    list of str : its lines

    Raises
    ------
    PhotometricError : empty, too large, or not text
    """
    if len(raw) > MAX_BYTES:
        raise PhotometricError(f"the file has {len(raw) / 1e6:.0f} MB; a photometric file has at most 2 MB")
    if b"\0" in raw:
        raise PhotometricError("the file is not plain text: save it as ANSI or UTF-8")
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = raw.decode("latin-1")
    lines = text.splitlines()
    if not any(line.strip() for line in lines):
        raise PhotometricError("the file is empty")
    return lines


def length_m(word: Word, what: str, unit_m: float) -> float:
    """Read a measure of the luminous face.

    Parameters
    ----------
    word : the number
    what : what it measures
    unit_m : the file's unit [m]

    Returns
    -------
    float : the measure; a minus sign, which some kinds use for round faces, is kept [m]

    Raises
    ------
    PhotometricError : longer than 10 m
    """
    value = word.number(what) * unit_m
    if abs(value) > _LONGEST_M:
        raise PhotometricError(f"line {word.line}: {what} would be {abs(value):.0f} m: are the units right?")
    return value


def rising(words: list[Word], what: str) -> list[float]:
    """Read rising angles.

    Parameters
    ----------
    words : the angles
    what : which angles, for the message

    Returns
    -------
    list of float : the angles [°]

    Raises
    ------
    PhotometricError : not numbers, out of 0..360, or not rising
    """
    values = [word.number(what, 0, 360) for word in words]
    for before, after, word in zip(values, values[1:], words[1:], strict=False):
        if after <= before:
            raise PhotometricError(f"line {word.line}: {what} must rise, but {after:g} follows {before:g}")
    return values


def candela(words: list[Word]) -> list[float]:
    """Read intensities.

    Parameters
    ----------
    words : the numbers

    Returns
    -------
    list of float : zero or more

    Raises
    ------
    PhotometricError : not a number, or negative
    """
    return [word.number("an intensity", 0, 1e9) for word in words]


def thinned(horizontal: list[float], vertical: list[float], rows: list[list[float]]) -> Photometry:
    """Make a table of what was read, no finer than a plan keeps.

    Parameters
    ----------
    horizontal : angles that end at 0, 90, 180 or 360 [°]
    vertical : angles within 0..180 [°]
    rows : intensities, one row a horizontal angle

    Returns
    -------
    Photometry : at most 73 × 181, relative to the greatest intensity

    Raises
    ------
    PhotometricError : no light anywhere
    """
    most = max((value for row in rows for value in row), default=0.0)
    if most <= 0:
        raise PhotometricError("all intensities are zero")
    h = _every(len(horizontal), 73)
    v = _every(len(vertical), 181)
    return Photometry(
        horizontal_deg=tuple(horizontal[k] for k in h),
        vertical_deg=tuple(vertical[k] for k in v),
        intensity=tuple(tuple(round(rows[i][j] / most, 5) for j in v) for i in h),
    )


# A luminaire gives between these shares of what its lamps give. Outside of them the intensities are no candela.
_LEAST_RATIO, _MOST_RATIO = 0.35, 1.1


def flux_lm(photometry: Photometry, peak_cd: float, rated_lm: float) -> float | None:
    """Give what a luminaire gives off: its intensities summed up over all directions.

    Parameters
    ----------
    photometry : relative to the greatest intensity
    peak_cd : that intensity [cd]
    rated_lm : what its lamps are rated at; 0 or less where the file gives none, as with absolute photometry [lm]

    Returns
    -------
    float : lumens; what the lamps are rated at where the intensities do not fit that at all (they are not candela)
    """
    summed = IntensityTable.unfolded(photometry).total() * peak_cd
    if rated_lm > 0 and not _LEAST_RATIO <= summed / rated_lm <= _MOST_RATIO:
        return rated_lm
    return summed


def _every(count: int, most: int) -> list[int]:
    if count <= most:
        return list(range(count))
    step = -(-(count - 1) // (most - 1))
    kept = list(range(0, count, step))
    return kept if kept[-1] == count - 1 else [*kept, count - 1]
