"""The cut list of a space: bars, shelf boards, insulation and film, laid out on what they are bought in."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.errors import QuantityError
from canopy.kit.cutting import Bar, cut
from canopy.kit.gathering.shell import LININGS
from canopy.kit.mounts import bars_of
from canopy.kit.sheets import Piece, Sheet, boards, parted, roll
from canopy.library import materials
from canopy.plan.document import Space
from canopy.plan.shell import FACES
from canopy.plan.stock import StockSizes

# Paint is not cut.
_PAINT = ("white-paint",)


@dataclass(frozen=True, kw_only=True)
class CutList:
    """What is cut for a space. ``wrong`` says for what the bought sizes are too small, and what to do."""

    bars: tuple[Bar, ...] = ()
    boards: tuple[Sheet, ...] = ()
    foam: tuple[Sheet, ...] = ()
    film: tuple[tuple[str, Sheet], ...] = ()
    glass: tuple[Piece, ...] = ()
    wrong: tuple[str, ...] = ()

    @property
    def empty(self) -> bool:
        """Whether nothing is cut."""
        return not (self.bars or self.boards or self.foam or self.film or self.glass or self.wrong)


def cuts_of(space: Space, sizes: StockSizes) -> CutList:
    """Lay out all that is cut for a space.

    Parameters
    ----------
    space : with its shelves, lamps, linings and ground
    sizes : in which bars, boards, foam and film are bought

    Returns
    -------
    CutList : what is too long for its stock is named in ``wrong`` and left out, the rest laid out
    """
    kerf, wrong = _mm(sizes.kerf_m), list[str]()
    bars: tuple[Bar, ...] = ()
    lengths = [_mm(bar.length_m) for bar in bars_of(space)]
    try:
        bars = cut(lengths, _mm(sizes.bar_m), kerf) if lengths else ()
    except QuantityError as error:
        wrong.append(f"Hanging bars: {error}.")
    shelves, glass = list[Piece](), list[Piece]()
    for shelf in space.shelves:
        piece = Piece(name=shelf.name, wide_mm=_mm(shelf.depth_m), long_mm=_mm(shelf.width_m))
        if shelf.kind == "glass":
            glass.append(piece)
        elif shelf.kind == "solid":
            shelves.append(piece)
    long, wide = _mm(sizes.board_long_m), _mm(sizes.board_wide_m)
    cut_from = list[Piece]()
    for piece in shelves:
        if piece.long_mm > long:
            wrong.append(
                f"{piece.name} is {piece.long_mm} mm wide; a board has {long} mm: choose longer boards. "
                "A shelf is not joined in the middle."
            )
        else:
            cut_from += parted(piece, wide, long)
    found = boards(cut_from, wide, long, kerf)
    return CutList(
        bars=bars,
        boards=found,
        foam=_foam(space, sizes, kerf),
        film=tuple(_film(space, _mm(sizes.roll_wide_m))),
        glass=tuple(glass),
        wrong=tuple(wrong),
    )


def _foam(space: Space, sizes: StockSizes, kerf: int) -> tuple[Sheet, ...]:
    if space.ground.insulation_m <= 0:
        return ()
    whole = Piece(name="Floor", wide_mm=_mm(space.size.depth_m), long_mm=_mm(space.size.width_m))
    wide, long = _mm(sizes.foam_wide_m), _mm(sizes.foam_long_m)
    return boards(parted(whole, wide, long), wide, long, 0)


def _film(space: Space, wide: int) -> list[tuple[str, Sheet]]:
    """What is cut from a roll, by its material; a tent and a rack bring their own or need none."""
    if space.kind in ("tent", "shelf"):
        return []
    w, d, h = (_mm(value) for value in (space.size.width_m, space.size.depth_m, space.size.height_m))
    sides = {"left": (d, h), "right": (d, h), "front": (w, h), "back": (w, h), "floor": (d, w), "ceiling": (d, w)}
    made: dict[str, list[Piece]] = {}
    for face in FACES:
        material = getattr(space.faces, face).material_id
        if material in LININGS and material not in _PAINT:
            across, along = sides[face]
            made.setdefault(material, []).extend(parted(Piece(name=face, wide_mm=across, long_mm=along), wide))
    found = [(materials()[material].name, roll(pieces, wide)) for material, pieces in made.items()]
    return [(name, sheet) for name, sheet in found if sheet is not None]


def _mm(value_m: float) -> int:
    return round(1000 * value_m)
