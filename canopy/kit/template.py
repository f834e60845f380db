"""Drilling templates in true size, on paper that is laid on the face; a ruler shows whether the printer kept it."""

from __future__ import annotations

from xml.sax.saxutils import escape, quoteattr

from canopy.kit.holes import Hole, face_m
from canopy.plan.document import Space

# What fits on a sheet of A4 or Letter with its cross and words [m]; an edge this near is drawn, to lay it on.
LARGEST_M, _NEAR_M = 0.13, 0.09
RULER_MM = 100
_AROUND, _TEXT = 14.0, 4.0
_INK = 'fill="none" stroke="#000" stroke-width="0.35"'
_HEAVY = 'fill="none" stroke="#000" stroke-width="0.7"'
_WORDS = 'fill="#000" stroke="none" font-family="sans-serif"'


def template(space: Space, hole: Hole, number: int) -> str | None:
    """Draw the template of a hole.

    Parameters
    ----------
    space : whose hole it is
    hole : one of a face
    number : as on the cut and drill sheet

    Returns
    -------
    str : an SVG whose units are millimetres, with the outline, a cross through its middle and edges that are near; None
        for what is larger than a sheet of paper
    """
    if max(hole.wide_m, hole.high_m) > LARGEST_M:
        return None
    wide, high = face_m(space, hole.face)
    half_w, half_h = 500 * hole.wide_m, 500 * hole.high_m
    edges = {
        "left": hole.from_side_m,
        "right": wide - hole.from_side_m,
        "foot": hole.from_foot_m,
        "top": high - hole.from_foot_m,
    }
    near = {name: 1000 * away for name, away in edges.items() if 0 < away <= _NEAR_M}
    reach_x, reach_y = half_w + _AROUND, half_h + _AROUND
    left, right = -max(reach_x, near.get("left", 0)), max(reach_x, near.get("right", 0))
    top, foot = -max(reach_y, near.get("top", 0)), max(reach_y, near.get("foot", 0))
    outline = (
        f'<circle cx="0" cy="0" r="{half_w:.2f}" {_INK}/>'
        if hole.opening.shape == "round"
        else f'<rect x="{-half_w:.2f}" y="{-half_h:.2f}" width="{2 * half_w:.2f}" height="{2 * half_h:.2f}" {_INK}/>'
    )
    body = [
        outline,
        f'<path d="M{-reach_x:.2f} 0H{reach_x:.2f}M0 {-reach_y:.2f}V{reach_y:.2f}" {_INK} stroke-dasharray="3 1.5"/>',
        f'<circle cx="0" cy="0" r="0.8" {_WORDS}/>',
    ]
    for name, away in near.items():
        at = -away if name in ("left", "top") else away
        line = f"M{at:.2f} {top:.2f}V{foot:.2f}" if name in ("left", "right") else f"M{left:.2f} {at:.2f}H{right:.2f}"
        body.append(f'<path d="{line}" {_HEAVY}/>')
    saw = f", hole saw {hole.saw_mm} mm" if hole.saw_mm else ""
    lines = [
        f"{hole.face}, hole {number}: {hole.through}",
        f"{1000 * hole.wide_m:.0f} mm across{saw}",
        f"middle {1000 * hole.from_side_m:.0f} mm from the side, {1000 * hole.from_foot_m:.0f} mm from below",
        *(f"heavy line: the {_edge(hole.face, name)}" for name in near),
    ]
    below = foot + 2
    body += [
        f'<text x="{left:.2f}" y="{below + _TEXT * row:.2f}" font-size="3.2" {_WORDS}>{escape(words)}</text>'
        for row, words in enumerate(lines, 1)
    ]
    width = max(right - left, 70.0) + 2
    return _svg(left - 1, top - 1, width, below - top + _TEXT * len(lines) + 3, body, lines[0])


def _edge(face: str, name: str) -> str:
    """What an edge of a face is called, turned as the face is drawn."""
    if face in ("left", "right"):
        return {"left": "front edge", "right": "back edge", "foot": "lower edge", "top": "upper edge"}[name]
    if face in ("floor", "ceiling"):
        return {"left": "left side", "right": "right side", "foot": "front edge", "top": "back edge"}[name]
    return {"left": "left side", "right": "right side", "foot": "lower edge", "top": "upper edge"}[name]


def ruler() -> str:
    """Draw a ruler of 100 mm, to be measured on the print.

    Returns
    -------
    str : an SVG whose units are millimetres
    """
    body = [f'<path d="M0 8H{RULER_MM}" {_INK}/>']
    for mark in range(0, RULER_MM + 1, 5):
        long = 6 if mark % 10 == 0 else 3
        body.append(f'<path d="M{mark} 8v{-long}" {_INK}/>')
        if mark % 20 == 0:
            body.append(f'<text x="{mark}" y="12" font-size="3.2" text-anchor="middle" {_WORDS}>{mark}</text>')
    return _svg(-4, 0, RULER_MM + 12, 14, body, "100 mm")


def _svg(x: float, y: float, width: float, height: float, body: list[str], title: str) -> str:
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.2f}mm" height="{height:.2f}mm" '
        f'viewBox="{x:.2f} {y:.2f} {width:.2f} {height:.2f}" role="img" aria-label={quoteattr(title)}>\n'
        + "\n".join(body)
        + "\n</svg>\n"
    )
