"""The tab of cuts: every face with what is drilled into it, to scale, with distances from two edges."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.evaluate import SpaceReport
from canopy.kit.holes import face_m, holes_of
from canopy.kit.template import LARGEST_M
from canopy.margin import Amount
from canopy_web.stations.kit.cuts import cut_sheets, sizes_form
from canopy_web.workspace.where import Where

_WIDE_PX, _PAD = 300.0, 34.0
# From which edges a hole is measured; those of front and back from the space's left, as it is seen from its front.
_EDGES = {
    "left": ("front edge", "lower edge"),
    "right": ("front edge", "lower edge"),
    "floor": ("left side", "front edge"),
    "ceiling": ("left side", "front edge"),
}


def holes_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""

    def text(value: float, unit: str = "length") -> str:
        return Amount(value=value, unit=unit).text(where.system)

    faces = []
    for face, holes in holes_of(where.space).items():
        wide, high = face_m(where.space, face)
        scale = _WIDE_PX / max(wide, high)
        faces.append(
            {
                "name": face,
                "size": f"{text(wide)} × {text(high)}",
                "edges": _EDGES.get(face, ("left side", "lower edge")),
                "box": (wide * scale + 2 * _PAD, high * scale + 2 * _PAD),
                "frame": (_PAD, _PAD, wide * scale, high * scale),
                "holes": [
                    {
                        "number": number,
                        "x": _PAD + hole.from_side_m * scale,
                        "y": _PAD + (high - hole.from_foot_m) * scale,
                        "rx": max(2.0, hole.wide_m * scale / 2),
                        "ry": max(2.0, hole.high_m * scale / 2),
                        "round": hole.opening.shape == "round",
                        "foot": _PAD + high * scale,
                        "across": text(hole.wide_m, "diameter")
                        if hole.opening.shape == "round"
                        else f"{text(hole.wide_m)} × {text(hole.high_m)}",
                        "saw": f"{hole.saw_mm} mm" if hole.saw_mm else "cut out by hand",
                        "side": text(hole.from_side_m),
                        "up": text(hole.from_foot_m),
                        "through": hole.through,
                        "grommet": hole.grommet,
                        "notes": hole.notes,
                    }
                    for number, hole in enumerate(holes, 1)
                ],
            }
        )
    small = any(
        max(hole.wide_m, hole.high_m) <= LARGEST_M for holes in holes_of(where.space).values() for hole in holes
    )
    return {
        "cut_faces": faces,
        "tent": where.space.kind == "tent",
        "any_small": small,
        "cuts": cut_sheets(where),
        "sizes_form": bad.get("sizes") or sizes_form(where),
    }
