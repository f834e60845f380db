"""Labels of a drawing kept apart, inside its edges, and wrapped where a line is too long."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from textwrap import wrap

from canopy_web.drawing.scene import AirMark, AirRun, FlowMark

# How wide a character and how high a line of a label are [px].
CHAR_PX, LINE_PX = 6.3, 12.0
_GAP_PX, _EDGE_PX = 2.0, 2.0


@dataclass(frozen=True, kw_only=True)
class Area:
    """What a label covers [px]."""

    left: float
    top: float
    right: float
    bottom: float

    def meets(self, other: Area) -> bool:
        return (
            self.left < other.right + _GAP_PX
            and other.left < self.right + _GAP_PX
            and self.top < other.bottom
            and other.top < self.bottom
        )

    def moved(self, by: float) -> Area:
        return replace(self, top=self.top + by, bottom=self.bottom + by)


def area_of(tx: float, ty: float, anchor: str, lines: Sequence[str]) -> Area:
    """Give what a label of some lines covers, its first baseline at ``ty``."""
    wide = CHAR_PX * max(map(len, lines), default=0)
    left = tx if anchor == "start" else tx - wide if anchor == "end" else tx - wide / 2
    top = ty - 0.8 * LINE_PX
    return Area(left=left, top=top, right=left + wide, bottom=top + LINE_PX * len(lines))


def room_px(tx: float, anchor: str, width: float) -> float:
    """Give how long a line may be from its anchor to the drawing's edge [px]."""
    if anchor == "middle":
        return 2 * min(tx, width - tx) - 2 * _EDGE_PX
    return (width - tx if anchor == "start" else tx) - _EDGE_PX


def apart(
    marks: Sequence[AirMark], runs: Sequence[AirRun], flows: Sequence[FlowMark], width: float, height: float
) -> tuple[tuple[AirRun, ...], tuple[FlowMark, ...]]:
    """Wrap the ends of ways of air, and move what overprints a label before it, down first, then up."""
    taken = [area_of(mark.tx, mark.ty, "middle", (mark.label,)) for mark in marks]
    new_runs, new_flows = [], []
    for run in runs:
        letters = max(6, int(room_px(run.tx, run.anchor, width) / CHAR_PX))
        lines = tuple(wrap(run.end, letters)) or ("",)
        ty = _free(area_of(run.tx, run.ty, run.anchor, (run.flow, *lines)), taken, run.ty, height)
        new_runs.append(replace(run, ty=ty, lines=lines))
    for flow in flows:
        ty = _free(area_of(flow.tx, flow.ty, flow.anchor, (flow.text,)), taken, flow.ty, height)
        new_flows.append(replace(flow, ty=ty))
    return tuple(new_runs), tuple(new_flows)


def _free(area: Area, taken: list[Area], ty: float, height: float) -> float:
    """The baseline nearest to ``ty`` at which a label meets no other; takes that place."""
    step = LINE_PX / 2
    shifts = [0.0] + [sign * step * k for k in range(1, 17) for sign in (1, -1)]
    inside = [by for by in shifts if area.top + by >= 0 and area.bottom + by <= height]
    by = next((by for by in inside if not any(area.moved(by).meets(other) for other in taken)), 0.0)
    taken.append(area.moved(by))
    return round(ty + by, 1)
