"""What an hour is like, written where it is: air, leaves, roots, the coldest wall, what comes in."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from canopy.evaluate import SpaceReport
from canopy_web.drawing.scene import View


@dataclass(frozen=True, kw_only=True)
class PinMark:
    """A few words in a view: where they begin or end, and the words."""

    x: float
    y: float
    anchor: str
    text: str


def pin_marks(view: View, report: SpaceReport, pinned: Iterable[tuple[str, str]]) -> tuple[PinMark, ...]:
    """Place an hour's figures in the front view.

    Parameters
    ----------
    view : the front view
    report : whose plants and pots say how high leaves and roots are
    pinned : place ("air", "leaf", "root", "wall" or "flow") and words of each

    Returns
    -------
    tuple of PinMark : parted so far that none lies over another
    """
    box, plants = view.box, report.here.plants
    tops = [plant.top_m for plant in plants]
    top = sum(tops) / len(tops) if tops else 0.3 * report.space.size.height_m
    rims = [plant.plant.base_m + plant.plant.pot_height_m for plant in plants]
    rim = sum(rims) / len(rims) if rims else 0.05
    foot = box.y + box.h
    wanted = {
        "flow": (box.x + 5, box.y + 14, "start"),
        "wall": (box.x + 5, box.y + 0.3 * box.h, "start"),
        "air": (box.x + box.w / 2, box.y + 0.42 * box.h, "middle"),
        "leaf": (box.x + box.w / 2, foot - view.scale * (top + rim) / 2, "middle"),
        "root": (box.x + box.w / 2, foot - view.scale * rim / 2, "middle"),
    }
    found: list[PinMark] = []
    last = -1e9
    for place, words in sorted(pinned, key=lambda item: wanted[item[0]][1]):
        x, y, anchor = wanted[place]
        y = max(y, last + 13)
        last = y
        found.append(PinMark(x=round(x, 1), y=round(min(y, foot - 3), 1), anchor=anchor, text=words))
    return tuple(found)
