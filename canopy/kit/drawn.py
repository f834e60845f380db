"""Views of a space as SVG in true measure: one unit is one millimetre, text stays text."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal, get_args
from xml.sax.saxutils import escape, quoteattr

from canopy.errors import QuantityError
from canopy.kit.holes import face_m, holes_of
from canopy.margin import Amount
from canopy.plan.document import Space
from canopy.plan.plants import standing_room_m
from canopy.plan.pose import corners
from canopy.plan.shell import Face
from canopy.season import Growing, Standing

View = Literal["front", "side", "plan"]
VIEWS: tuple[str, ...] = (*get_args(View), *(f"face:{face}" for face in get_args(Face)))
_PAD, _TEXT, _FOOT = 160.0, 26.0, 60.0
# Which two axes a view shows, and from which side: x, y, z are 0, 1, 2.
_AXES = {"front": (0, 2), "side": (1, 2), "plan": (0, 1)}
# Attributes, not a style sheet: pages that show it allow no styles but their own.
_LOOK = f'fill="none" stroke="#000" stroke-width="2" font-family="sans-serif" font-size="{_TEXT:g}"'
_THIN, _DIM, _HOLE = 'stroke-width="1"', 'stroke-width="1" stroke="#444"', 'stroke-width="3"'
_INK = 'fill="#000" stroke="none"'


def drawing(here: Standing, view: str, *, title: str = "", units: str = "metric") -> str:
    """Draw a view of a space.

    Parameters
    ----------
    here : the space on a day
    view : "front", "side", "plan", or a face such as "face:left"
    title : what stands under it
    units : "metric" or "us", for the dimensions' words

    Returns
    -------
    str : an SVG document whose user units, width and height are millimetres

    Raises
    ------
    QuantityError : there is no such view
    """
    if view not in VIEWS:
        raise QuantityError(f"there is no view “{view}”: use {', '.join(VIEWS)}")
    if view.startswith("face:"):
        face = next(item for item in get_args(Face) if view == f"face:{item}")
        wide, high = face_m(here.space, face)
        inside = list(_face(here.space, face))
    else:
        size = (here.space.size.width_m, here.space.size.depth_m, here.space.size.height_m)
        across, up = _AXES[view]
        wide, high = size[across], size[up]
        inside = [
            *_shelves(here.space, view),
            *_lamps(here.space, view),
            *_plants(here, view),
            *_holes(here.space, view),
        ]
    w, h = 1000 * wide, 1000 * high
    body = [f'<rect x="0" y="0" width="{w:.1f}" height="{h:.1f}"/>', *inside, *_dimensions(wide, high, units)]
    words = title or f"{here.space.name}, {view.replace('face:', '')}"
    body.append(f'<text {_INK} x="0" y="{h + _PAD - _FOOT / 2:.1f}">{escape(words)}, 1 unit = 1 mm</text>')
    box = (-_PAD, -_FOOT, w + 2 * _PAD, h + _PAD + _FOOT)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{box[2]:.1f}mm" height="{box[3]:.1f}mm" '
        f'viewBox="{box[0]:.1f} {box[1]:.1f} {box[2]:.1f} {box[3]:.1f}">\n<title>{escape(words)}</title>\n'
        f"<g {_LOOK}>\n" + "\n".join(body) + "\n</g>\n</svg>\n"
    )


def _to_mm(space: Space, view: str, point: tuple[float, float, float]) -> tuple[float, float]:
    """A point of the space on a view's sheet: right and down."""
    across, up = _AXES[view]
    size = (space.size.width_m, space.size.depth_m, space.size.height_m)
    return 1000 * point[across], 1000 * (size[up] - point[up])


def _named(shape: str, title: str) -> str:
    return f"<g><title>{escape(title)}</title>{shape}</g>"


def _box(space: Space, view: str, low: tuple[float, float, float], high: tuple[float, float, float], title: str) -> str:
    (x1, y1), (x2, y2) = _to_mm(space, view, low), _to_mm(space, view, high)
    left, top = min(x1, x2), min(y1, y2)
    shape = f'<rect {_THIN} x="{left:.1f}" y="{top:.1f}" width="{abs(x2 - x1):.1f}" height="{abs(y2 - y1):.1f}"/>'
    return _named(shape, title)


def _shelves(space: Space, view: str) -> Iterator[str]:
    for shelf in space.shelves:
        low = (shelf.x_m, shelf.y_m, shelf.z_m - shelf.thickness_m)
        high = (shelf.x_m + shelf.width_m, shelf.y_m + shelf.depth_m, shelf.z_m)
        yield _box(space, view, low, high, shelf.name)


def _lamps(space: Space, view: str) -> Iterator[str]:
    labels: dict[tuple[int, int], list[int]] = {}
    for number, lamp in enumerate(space.fixtures, 1):
        if not lamp.enabled:
            continue
        points = [_to_mm(space, view, (float(x), float(y), float(z))) for x, y, z in corners(lamp)]
        hull = " ".join(f"{x:.1f},{y:.1f}" for x, y in _hull(points))
        x, y = (sum(values) / len(points) for values in zip(*points, strict=True))
        labels.setdefault((round(x), round(y)), []).append(number)
        yield _named(f'<polygon points="{hull}"/>', f"Lamp {number}: {lamp.spec.name}")
    for (at, down), numbers in labels.items():
        # What stands behind each other in a view has one label.
        yield _label(at, down - _TEXT, ", ".join(map(str, numbers)))


def _label(x: float, y: float, words: str) -> str:
    return f'<text {_INK} x="{x:.1f}" y="{y + _TEXT / 3:.1f}" text-anchor="middle">{escape(words)}</text>'


def _hull(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """The outline of points (Andrew's monotone chain)."""
    ordered = sorted(set(points))

    def half(items: list[tuple[float, float]]) -> list[tuple[float, float]]:
        chain: list[tuple[float, float]] = []
        for point in items:
            while len(chain) > 1 and _turn(chain[-2], chain[-1], point) <= 0:
                chain.pop()
            chain.append(point)
        return chain[:-1]

    return half(ordered) + half(ordered[::-1]) or ordered


def _turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _plants(here: Standing, view: str) -> Iterator[str]:
    for plant in here.plants:
        yield _named(
            _pot(here.space, view, plant) + _crown(here.space, view, plant), f"{plant.crop.name} ({plant.number})"
        )
        if view == "plan":
            x, y = _to_mm(here.space, view, (plant.x_m, plant.y_m, 0.0))
            yield _label(x, y, str(plant.number))


def _pot(space: Space, view: str, plant: Growing) -> str:
    """The pot, seen from the side; from above the crown hides it."""
    one = plant.plant
    if view == "plan" or one.pot_height_m <= 0:
        return ""
    wide, deep = standing_room_m(one)
    across = deep if view == "side" else wide
    left, top = _to_mm(space, view, (one.x_m - wide / 2, one.y_m - deep / 2, one.base_m + one.pot_height_m))
    size = f'width="{1000 * across:.1f}" height="{1000 * one.pot_height_m:.1f}"'
    return f'<rect {_THIN} x="{left:.1f}" y="{top:.1f}" {size}/>'


def _crown(space: Space, view: str, plant: Growing) -> str:
    half_x, half_y = plant.half_m
    x, y = _to_mm(space, view, (plant.x_m, plant.y_m, (plant.bottom_m + plant.top_m) / 2))
    across = half_y if view == "side" else half_x
    up = half_y if view == "plan" else max((plant.top_m - plant.bottom_m) / 2, 0.005)
    return f'<ellipse {_THIN} cx="{x:.1f}" cy="{y:.1f}" rx="{1000 * across:.1f}" ry="{1000 * up:.1f}"/>'


def _holes(space: Space, view: str) -> Iterator[str]:
    """Holes of faces that a view looks at edgewise: a heavy line where each is."""
    edges: dict[str, tuple[Face, ...]] = {
        "front": ("left", "right", "floor", "ceiling"),
        "side": ("front", "back", "floor", "ceiling"),
        "plan": ("left", "right", "front", "back"),
    }
    w, d, h = (1000 * value for value in (space.size.width_m, space.size.depth_m, space.size.height_m))
    across, up = (w if view != "side" else d), (d if view == "plan" else h)
    for face, holes in holes_of(space).items():
        if face not in edges[view]:
            continue
        for hole in holes:
            u, v, a, b = (
                1000 * value for value in (hole.from_side_m, hole.from_foot_m, hole.wide_m / 2, hole.high_m / 2)
            )
            if view == "plan":
                at, half = (u, a)
                flat = face in ("front", "back")
            elif face in ("floor", "ceiling"):
                at, half, flat = (u, a, True) if view == "front" else (v, b, True)
            else:
                at, half, flat = v, b, False
            if flat:
                edge = up if face in ("floor", "front") else 0.0
                shape = f'<line {_HOLE} x1="{at - half:.1f}" x2="{at + half:.1f}" y1="{edge:.1f}" y2="{edge:.1f}"/>'
            else:
                edge = across if face in ("right", "back") else 0.0
                low, high = up - at - half, up - at + half
                shape = f'<line {_HOLE} x1="{edge:.1f}" x2="{edge:.1f}" y1="{low:.1f}" y2="{high:.1f}"/>'
            yield _named(shape, f"{hole.through}, {1000 * hole.wide_m:.0f} mm")


def _face(space: Space, face: Face) -> Iterator[str]:
    """A face flat before one, its holes with both distances."""
    _, high = face_m(space, face)
    for number, hole in enumerate(holes_of(space).get(face, ()), 1):
        x, y = 1000 * hole.from_side_m, 1000 * (high - hole.from_foot_m)
        rx, ry = 500 * hole.wide_m, 500 * hole.high_m
        if hole.opening.shape == "round":
            shape = f'<ellipse {_HOLE} cx="{x:.1f}" cy="{y:.1f}" rx="{rx:.1f}" ry="{ry:.1f}"/>'
        else:
            shape = f'<rect {_HOLE} x="{x - rx:.1f}" y="{y - ry:.1f}" width="{2 * rx:.1f}" height="{2 * ry:.1f}"/>'
        lines = (
            f'<line {_DIM} x1="0" x2="{x:.1f}" y1="{y:.1f}" y2="{y:.1f}"/>'
            f'<line {_DIM} x1="{x:.1f}" x2="{x:.1f}" y1="{y:.1f}" y2="{1000 * high:.1f}"/>'
        )
        words = f"{number}: {x:.0f} | {1000 * hole.from_foot_m:.0f}"
        label = f'<text {_INK} x="{x + rx + 8:.1f}" y="{y - 8:.1f}">{escape(words)}</text>'
        yield _named(shape + lines + label, f"{hole.through}, {1000 * hole.wide_m:.0f} mm")


def _dimensions(wide: float, high: float, units: str) -> Iterator[str]:
    w, h = 1000 * wide, 1000 * high
    across, up = (Amount(value=value, unit="length").text(units) for value in (wide, high))
    yield f'<line {_DIM} x1="0" x2="{w:.1f}" y1="{h + 40:.1f}" y2="{h + 40:.1f}"/>'
    yield f'<text {_INK} x="{w / 2:.1f}" y="{h + 75:.1f}" text-anchor="middle">{escape(across)}</text>'
    yield f'<line {_DIM} x1="-40" x2="-40" y1="0" y2="{h:.1f}"/>'
    turn = quoteattr(f"rotate(-90 -55 {h / 2:.1f})")
    yield f'<text {_INK} x="-55" y="{h / 2:.1f}" text-anchor="middle" transform={turn}>{escape(up)}</text>'
