"""Cutting bars and boards out of stock lengths with the least waste."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from canopy.errors import QuantityError

# Lengths are cut to the millimetre; a saw takes so much [mm].
KERF_MM = 3
_MOST_PATTERNS, _SEARCH_S = 4000, 0.8


@dataclass(frozen=True, kw_only=True)
class Bar:
    """A stock bar with what is cut from it, the longest first, and what is left [mm]."""

    stock_mm: int
    pieces_mm: tuple[int, ...]
    left_mm: int


def cut(pieces_mm: Sequence[int], stock_mm: int, kerf_mm: int = KERF_MM) -> tuple[Bar, ...]:
    """Lay pieces out on stock bars.

    Parameters
    ----------
    pieces_mm : lengths that are needed, over 0 [mm]
    stock_mm : length of a bar as it is sold [mm]
    kerf_mm : what each cut takes [mm]

    Returns
    -------
    tuple of Bar : as few bars as were found, the fullest first; the fewest there can be where the search ended in time

    Raises
    ------
    QuantityError : a piece is longer than a bar

    Notes
    -----
    Ways of cutting a bar are laid out, and the fewest bars taken that give every length: an integer programme (Gilmore
    and Gomory). Where there are too many ways, the longest go first into the first bar that holds them, which is at
    most a ninth over the best.
    """
    if not pieces_mm:
        return ()
    longest = max(pieces_mm)
    if longest > stock_mm:
        raise QuantityError(
            f"a piece of {longest} mm is longer than a bar of {stock_mm} mm: choose longer bars, or join"
        )
    simple = _first_fit(pieces_mm, stock_mm, kerf_mm)
    # A last cut takes nothing where the rest is thrown away: a kerf more of stock.
    least = -(-sum(piece + kerf_mm for piece in pieces_mm) // (stock_mm + kerf_mm))
    if len(simple) <= least:
        return simple
    better = _fewest(Counter(pieces_mm), stock_mm, kerf_mm, len(simple))
    return better if better is not None and len(better) < len(simple) else simple


def _bar(pieces: Sequence[int], stock: int, kerf: int) -> Bar:
    ordered = tuple(sorted(pieces, reverse=True))
    return Bar(stock_mm=stock, pieces_mm=ordered, left_mm=max(0, stock - sum(ordered) - kerf * (len(ordered) - 1)))


def _first_fit(pieces: Sequence[int], stock: int, kerf: int) -> tuple[Bar, ...]:
    bars: list[list[int]] = []
    for piece in sorted(pieces, reverse=True):
        fits = next((bar for bar in bars if sum(bar) + piece + kerf * len(bar) <= stock), None)
        if fits is None:
            bars.append([piece])
        else:
            fits.append(piece)
    return tuple(sorted((_bar(bar, stock, kerf) for bar in bars), key=lambda bar: bar.left_mm))


def _fewest(wanted: Counter[int], stock: int, kerf: int, known: int) -> tuple[Bar, ...] | None:
    from scipy.optimize import Bounds, LinearConstraint, milp

    lengths = sorted(wanted, reverse=True)
    patterns = _patterns(lengths, [wanted[length] for length in lengths], stock + kerf, kerf)
    if patterns is None:
        return None
    table = np.array(patterns).T
    found = milp(
        np.ones(table.shape[1]),
        integrality=np.ones(table.shape[1]),
        bounds=Bounds(0, known),
        constraints=[LinearConstraint(table, [wanted[length] for length in lengths], np.inf)],
        options={"time_limit": _SEARCH_S},
    )
    if found.x is None:
        return None
    left, bars = Counter(wanted), []
    for pattern, times in zip(patterns, np.round(found.x).astype(int), strict=True):
        for _ in range(times):
            # More than is needed of a length is not cut.
            taken = [length for length, n in zip(lengths, pattern, strict=True) for _ in range(min(n, left[length]))]
            left.subtract(taken)
            if taken:
                bars.append(_bar(taken, stock, kerf))
    return tuple(sorted(bars, key=lambda bar: bar.left_mm))


def _patterns(lengths: list[int], most: list[int], room: int, kerf: int) -> list[tuple[int, ...]] | None:
    """All ways to fill a bar that leave no room for another piece; None where there are too many."""
    found: list[tuple[int, ...]] = []

    def fill(place: int, left: int, taken: list[int]) -> bool:
        if place == len(lengths):
            if all(n == m or length + kerf > left for n, m, length in zip(taken, most, lengths, strict=True)):
                found.append(tuple(taken))
            return len(found) <= _MOST_PATTERNS
        step = lengths[place] + kerf
        return all(
            fill(place + 1, left - number * step, [*taken, number])
            for number in range(min(most[place], left // step), -1, -1)
        )

    return found if fill(0, room, []) else None
