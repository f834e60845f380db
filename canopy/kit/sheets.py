"""Cutting boards, film and insulation: strips across the sheet, then pieces along each strip, with the least waste."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import ceil

import numpy as np

from canopy.errors import QuantityError
from canopy.kit.cutting import KERF_MM, cut

_SEARCH_S, _MOST_EXACT = 0.6, 40


@dataclass(frozen=True, kw_only=True)
class Piece:
    """A rectangle to be cut [mm]: ``wide_mm`` across the sheet or roll, ``long_mm`` along it; for what it is."""

    name: str
    wide_mm: int
    long_mm: int


@dataclass(frozen=True, kw_only=True)
class Placed:
    """A piece on its sheet: how far from the sheet's edge across and from its end along [mm]."""

    piece: Piece
    across_mm: int
    along_mm: int


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """A sheet with what is cut from it [mm]; of a roll, the length that is taken off it."""

    wide_mm: int
    long_mm: int
    placed: tuple[Placed, ...]

    @property
    def used_share(self) -> float:
        """How much of it is not waste, 0..1."""
        used = sum(item.piece.wide_mm * item.piece.long_mm for item in self.placed)
        return used / (self.wide_mm * self.long_mm)


def parted(piece: Piece, wide_mm: int, long_mm: int | None = None) -> tuple[Piece, ...]:
    """Part what is larger than a sheet into as few parts as cover it.

    Parameters
    ----------
    piece : the whole
    wide_mm : across a sheet or roll [mm]
    long_mm : along a sheet [mm]; None for a roll

    Returns
    -------
    tuple of Piece : the piece itself where it fits; else full sheets and rests, numbered
    """
    turned = Piece(name=piece.name, wide_mm=piece.long_mm, long_mm=piece.wide_mm)
    for way in (piece, turned):
        if way.wide_mm <= wide_mm and (long_mm is None or way.long_mm <= long_mm):
            return (way,)
    best = min((piece, turned), key=lambda way: ceil(way.wide_mm / wide_mm) * ceil(way.long_mm / (long_mm or 10**9)))
    rows = _lengths(best.wide_mm, wide_mm)
    columns = _lengths(best.long_mm, long_mm or best.long_mm)
    found = [(wide, long) for wide in rows for long in columns]
    return tuple(
        Piece(name=f"{piece.name} {number}/{len(found)}", wide_mm=wide, long_mm=long)
        for number, (wide, long) in enumerate(found, 1)
    )


def _lengths(whole: int, most: int) -> list[int]:
    full, rest = divmod(whole, most)
    return [most] * full + ([rest] if rest else [])


def roll(pieces: Sequence[Piece], wide_mm: int) -> Sheet | None:
    """Lay pieces out on a roll, so that the least length is taken off it.

    Parameters
    ----------
    pieces : none wider than the roll
    wide_mm : of the roll [mm]; film is cut with a knife, which takes nothing

    Returns
    -------
    Sheet : as long as what is taken off; None without pieces

    Raises
    ------
    QuantityError : a piece is wider than the roll
    """
    if not pieces:
        return None
    strips = _strips(pieces, wide_mm, 0)
    placed, at = [], 0
    for strip in strips:
        placed += _along(strip, at, 0)
        at += _deep(strip)
    return Sheet(wide_mm=wide_mm, long_mm=at, placed=tuple(placed))


def boards(pieces: Sequence[Piece], wide_mm: int, long_mm: int, kerf_mm: int = KERF_MM) -> tuple[Sheet, ...]:
    """Lay pieces out on boards that are cut across first and then along, as with a hand saw.

    Parameters
    ----------
    pieces : none larger than a board
    wide_mm : across a board [mm]
    long_mm : along it [mm]
    kerf_mm : what each cut takes [mm]

    Returns
    -------
    tuple of Sheet : as few boards as were found, the fullest first

    Raises
    ------
    QuantityError : a piece is larger than a board

    Notes
    -----
    Strips of the least length together (an integer programme of levels, Lodi, Martello and Vigo, 2004), then strips cut
    from boards as bars are (``cut``). Both are the best of their kind where the search ends in time; a layout that is
    not in strips may waste less, and asks for cuts that stop in the middle of a board.
    """
    if not pieces:
        return ()
    for piece in pieces:
        if piece.long_mm > long_mm:
            raise QuantityError(
                f"{piece.name} is {piece.long_mm} mm long; a board has {long_mm} mm: choose longer boards, or join"
            )
    strips = _strips(pieces, wide_mm, kerf_mm)
    waiting: dict[int, list[list[Piece]]] = {}
    for strip in strips:
        waiting.setdefault(_deep(strip), []).append(strip)
    found = []
    for bar in cut([_deep(strip) for strip in strips], long_mm, kerf_mm):
        placed, at = [], 0
        for depth in bar.pieces_mm:
            placed += _along(waiting[depth].pop(), at, kerf_mm)
            at += depth + kerf_mm
        found.append(Sheet(wide_mm=wide_mm, long_mm=long_mm, placed=tuple(placed)))
    return tuple(sorted(found, key=lambda sheet: -sheet.used_share))


def _deep(strip: Sequence[Piece]) -> int:
    return max(piece.long_mm for piece in strip)


def _along(strip: Sequence[Piece], at: int, kerf: int) -> list[Placed]:
    placed, across = [], 0
    for piece in sorted(strip, key=lambda piece: -piece.long_mm):
        placed.append(Placed(piece=piece, across_mm=across, along_mm=at))
        across += piece.wide_mm + kerf
    return placed


def _strips(pieces: Sequence[Piece], wide: int, kerf: int) -> list[list[Piece]]:
    """Group pieces side by side, so that the strips are short together."""
    for piece in pieces:
        if piece.wide_mm > wide:
            raise QuantityError(
                f"{piece.name} is {piece.wide_mm} mm wide; it is cut from {wide} mm: choose wider ones, or join"
            )
    lying = [_turned(piece, wide) for piece in pieces]
    tries = [_first_fit(lying, wide, kerf), _first_fit(list(pieces), wide, kerf)]
    for group in (lying, list(pieces)):
        if len(group) <= _MOST_EXACT:
            better = _levels(group, wide, kerf)
            if better is not None:
                tries.append(better)
    return min(tries, key=lambda strips: (sum(_deep(strip) for strip in strips), len(strips)))


def _turned(piece: Piece, wide: int) -> Piece:
    """A piece lying across its sheet, where it is longer than wide and fits so."""
    if piece.wide_mm < piece.long_mm <= wide:
        return replace(piece, wide_mm=piece.long_mm, long_mm=piece.wide_mm)
    return piece


def _first_fit(pieces: Sequence[Piece], wide: int, kerf: int) -> list[list[Piece]]:
    strips: list[list[Piece]] = []
    for piece in sorted(pieces, key=lambda piece: -piece.long_mm):
        fits = next((s for s in strips if sum(p.wide_mm + kerf for p in s) + piece.wide_mm <= wide), None)
        if fits is None:
            strips.append([piece])
        else:
            fits.append(piece)
    return strips


def _levels(pieces: Sequence[Piece], wide: int, kerf: int) -> list[list[Piece]] | None:
    """The shortest strips: piece i begins a strip and is its longest, shorter pieces j > i lie beside it."""
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import lil_matrix

    ordered = sorted(pieces, key=lambda piece: -piece.long_mm)
    count = len(ordered)
    pairs = [(i, j) for i in range(count) for j in range(i, count)]
    place = {pair: number for number, pair in enumerate(pairs)}
    cost = np.array([ordered[i].long_mm if i == j else 0 for i, j in pairs], dtype=float)
    rows = lil_matrix((2 * count, len(pairs)))
    for (i, j), number in place.items():
        rows[j, number] = 1
        rows[count + i, number] = ordered[j].wide_mm + kerf if i != j else ordered[i].wide_mm - wide
    low = np.concatenate([np.ones(count), np.full(count, -np.inf)])
    high = np.concatenate([np.ones(count), np.zeros(count)])
    found = milp(
        cost,
        integrality=np.ones(len(pairs)),
        bounds=Bounds(0, 1),
        constraints=[LinearConstraint(rows.tocsr(), low, high)],
        options={"time_limit": _SEARCH_S},
    )
    if found.x is None:
        return None
    taken = np.round(found.x).astype(int)
    strips = [[ordered[j] for j in range(i, count) if taken[place[i, j]]] for i in range(count)]
    return [strip for strip in strips if strip]
