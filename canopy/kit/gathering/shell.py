"""The space itself: linings, shelves, bars, what keeps it upright, what is drilled and sealed."""

from __future__ import annotations

from collections.abc import Iterator
from math import ceil

from canopy.kit.gathering.base import SPARE, Lines, across, long
from canopy.kit.holes import GLASSY, holes_of
from canopy.kit.line import KitLine, small
from canopy.kit.mounts import bars_of
from canopy.library import Window, materials
from canopy.margin import Amount, sentence
from canopy.plan.document import Space
from canopy.plan.furnishing import Shelf
from canopy.plan.shell import FACES
from canopy.words import capital, counted

# Linings that are bought and put up; bare boards, glass and open sides are there or are not.
LININGS = ("reflective-film", "white-paint", "white-plastic", "foam-white", "black-fabric", "mirror")
# What is so many times as high as its foot is deep is fixed to a wall.
_TIPS, _TIPS_OVER_M = 2.5, 0.75
# A shelf rests on two brackets, and one more for each such length.
_BRACKET_M, _SCREWS = 0.6, 4


def can_tip(space: Space) -> bool:
    """Whether a space may fall over and is fixed to a wall.

    Parameters
    ----------
    space : of whatever kind

    Returns
    -------
    bool : cabinets and racks that are high for their depth
    """
    size = space.size
    stands = space.kind in ("cabinet", "shelf") and size.height_m > _TIPS_OVER_M
    return stands and size.height_m > _TIPS * min(size.width_m, size.depth_m)


def brackets_for(shelf: Shelf) -> int:
    """Count the brackets under a shelf.

    Parameters
    ----------
    shelf : of wood, wire or glass

    Returns
    -------
    int : two, and one for each length over that; a pin at each corner of glass
    """
    if shelf.kind == "glass":
        return 4
    return 2 + max(0, ceil(shelf.width_m / _BRACKET_M) - 1)


class Shell(Lines):
    """Lines of the space itself."""

    def all(self) -> Iterator[KitLine]:
        """Give them in the order in which they are used."""
        yield self._space()
        yield from self._linings()
        yield from self._seals()
        for shelf in self.space.shelves:
            yield self._shelf(shelf)
        yield from self._fixings()
        yield from self._saws()
        yield from self._floor()
        yield from self._furnished()

    def _space(self) -> KitLine:
        size, kind = self.space.size, self.space.kind
        row = small(kind) if kind in ("tent", "glass-case") else None
        return self.line(
            "shell",
            "space",
            capital(kind.replace("-", " ")),
            1,
            "the space itself, if it is not there",
            kind="space",
            size=sentence(
                "{w} × {d} × {h} inside",
                w=Amount(value=size.width_m, unit="length"),
                d=Amount(value=size.depth_m, unit="length"),
                h=Amount(value=size.height_m, unit="length"),
            ),
            bears_kg=self.space.load_limit_kg,
            text=row.text if row else "An old one that is dry and sound will do.",
            price=row.price_at(size.width_m * size.depth_m) if row else None,
        )

    def _linings(self) -> Iterator[KitLine]:
        # A tent brings its lining.
        if self.space.kind == "tent":
            return
        area, made = face_areas(self.space), dict[str, list[str]]()
        for face in FACES:
            made.setdefault(getattr(self.space.faces, face).material_id, []).append(face)
        for material_id, faces in made.items():
            if material_id in LININGS:
                yield self.little(
                    "shell",
                    "lining",
                    round(SPARE * sum(area[face] for face in faces), 1),
                    f"lines {', '.join(faces)}",
                    name=materials()[material_id].name,
                    key=f"lining.{material_id}",
                )

    def _seals(self) -> Iterator[KitLine]:
        if not is_sealed(self.space):
            return
        size, side = self.space.size, self.space.door_side
        wide = size.width_m if side in ("front", "back") else size.depth_m
        yield self.little("shell", "seal", round(SPARE * 2 * (wide + size.height_m), 1), "round the door")
        yield self.little("shell", "sealant", 1, "joints and drilled holes")

    def _shelf(self, shelf: Shelf) -> KitLine:
        size = sentence(
            "{w} × {d}",
            w=Amount(value=shelf.width_m, unit="length"),
            d=Amount(value=shelf.depth_m, unit="length"),
        )
        kinds = {"solid": "shelf", "wire": "shelf-wire", "perforated": "shelf-wire", "glass": "shelf-glass"}
        return self.little(
            "shell",
            kinds[shelf.kind],
            1,
            shelf.name,
            key=f"shelf.{shelf.id}",
            size=size,
            parts=(shelf.id,),
            bears_kg=shelf.load_limit_kg,
        )

    def _fixings(self) -> Iterator[KitLine]:
        brackets = sum(brackets_for(shelf) for shelf in self.space.shelves)
        if brackets:
            yield self.little("shell", "bracket", brackets, "under the shelves")
        bars, a_metre = bars_of(self.space), small("bar").price
        lengths = sorted({round(bar.length_m, 3) for bar in bars}, reverse=True)
        for length in lengths:
            same = [bar for bar in bars if round(bar.length_m, 3) == length]
            hangs = {number for bar in same for number in bar.lamps}
            yield self.little(
                "shell",
                "bar",
                len(same),
                f"for {counted(len(hangs), 'lamp')}, from wall to wall" if hangs else "for fan and filter",
                key=f"bar.{length * 1000:.0f}",
                size=long(length),
                unit="",
                price=Window(low=a_metre.low * length, high=a_metre.high * length),
            )
        if bars:
            yield self.little("shell", "bar-socket", 2 * len(bars), "both ends of the bars")
        tips = can_tip(self.space)
        if tips:
            yield self.little("shell", "wall-strap", 2, "from its top to the wall: it must not tip over")
        screws = _SCREWS * brackets + 4 * len(bars) + (4 if tips else 0)
        if screws:
            yield self.little(
                "shell", "screws", ceil(screws / 50), f"{screws} screws with plugs for the wall they go in"
            )

    def _saws(self) -> Iterator[KitLine]:
        if self.space.kind == "tent":
            return
        saws: dict[tuple[bool, int], list[str]] = {}
        for face, holes in holes_of(self.space).items():
            glass = getattr(self.space.faces, face).material_id in GLASSY
            for hole in holes:
                if hole.saw_mm:
                    saws.setdefault((glass, hole.saw_mm), []).append(hole.opening.id)
        for (glass, size), holes_ in sorted(saws.items()):
            yield self.little(
                "shell",
                "diamond-saw" if glass else "hole-saw",
                1,
                f"for {counted(len(holes_), 'hole')}; one may borrow it",
                key=f"saw.{size}{'.glass' if glass else ''}",
                size=across(size / 1000),
                parts=tuple(holes_),
                optional=True,
            )

    def _floor(self) -> Iterator[KitLine]:
        floor, ground = self.space.size.width_m * self.space.size.depth_m, self.space.ground
        if ground.insulation_m > 0:
            thick = sentence("{t} thick", t=Amount(value=ground.insulation_m, unit="length"))
            yield self.little("shell", "insulation", round(SPARE * floor, 2), "under the floor", size=thick)
        if self.space.plants and self.space.kind != "glass-case":
            yield self.little("shell", "liner", round(floor, 2), "holds what is spilt")

    def _furnished(self) -> Iterator[KitLine]:
        for item in self.space.trellises:
            size = sentence(
                "{w} × {h}", w=Amount(value=item.width_m, unit="length"), h=Amount(value=item.height_m, unit="length")
            )
            yield self.little("shell", "trellis", 1, item.name, key=f"trellis.{item.id}", size=size, parts=(item.id,))
        for lid in self.space.lids:
            size = sentence(
                "{w} × {d} × {h}",
                w=Amount(value=lid.width_m, unit="length"),
                d=Amount(value=lid.depth_m, unit="length"),
                h=Amount(value=lid.height_m, unit="length"),
            )
            yield self.little("shell", "lid", 1, lid.name, key=f"lid.{lid.id}", size=size, parts=(lid.id,))


def face_areas(space: Space) -> dict[str, float]:
    """Give the areas of a space's faces.

    Parameters
    ----------
    space : of whatever kind

    Returns
    -------
    dict of float : by face [m²]
    """
    w, d, h = space.size.width_m, space.size.depth_m, space.size.height_m
    return {"left": d * h, "right": d * h, "front": w * h, "back": w * h, "floor": w * d, "ceiling": w * d}


def is_sealed(space: Space) -> bool:
    """Whether a space's door and joints are sealed: a box of boards through which air is led.

    Parameters
    ----------
    space : of whatever kind

    Returns
    -------
    bool : not where its door is of glass or open, nor where no fan brings air: sealed, it would only get damp
    """
    if space.kind not in ("closet", "cabinet") or space.door_side is None:
        return False
    door = materials()[getattr(space.faces, space.door_side).material_id]
    return bool(space.airways) and not door.open and door.id not in GLASSY
