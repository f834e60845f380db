"""Shelves, columns, trellises, net and windows in the three views."""

from __future__ import annotations

from collections.abc import Callable

from canopy.plan.document import Space
from canopy_web.drawing.scene import FurnitureMark

Place = Callable[[float, float], tuple[float, float]]


def furniture(space: Space, view: str, place: Place) -> tuple[FurnitureMark, ...]:
    """Draw what stands and hangs besides plants and lamps; ``place`` takes the two coordinates of the view [m]."""
    return (
        *_shelves(space, view, place),
        *_columns(space, view, place),
        *_lids(space, view, place),
        *_trellises(space, view, place),
        *_net(space, view, place),
        *_windows(space, view, place),
        *_ground(space, view, place),
    )


def _box(place: Place, a1: float, b1: float, a2: float, b2: float) -> str:
    (x1, y1), (x2, y2) = place(a1, b1), place(a2, b2)
    return f"M{x1:.1f} {y1:.1f}L{x2:.1f} {y1:.1f}L{x2:.1f} {y2:.1f}L{x1:.1f} {y2:.1f}Z"


def _shelves(space: Space, view: str, place: Place) -> list[FurnitureMark]:
    found = []
    for shelf in space.shelves:
        low, far = (shelf.x_m, shelf.x_m + shelf.width_m), (shelf.y_m, shelf.y_m + shelf.depth_m)
        if view == "plan":
            path = _box(place, low[0], far[0], low[1], far[1])
        else:
            along = low if view == "front" else far
            path = _box(place, along[0], shelf.z_m - shelf.thickness_m, along[1], shelf.z_m)
        found.append(
            FurnitureMark(id=shelf.id, kind=f"shelf {shelf.kind}", title=f"{shelf.name}, {shelf.kind}", path=path)
        )
    return found


# A raised floor stands on a foot at either end, so wide [m], and is drawn no deeper than this below the floor [m].
_FOOT_M, _DEEPEST_M = 0.04, 0.12


def _ground(space: Space, view: str, place: Place) -> list[FurnitureMark]:
    """What lies under the floor and round it in the sections: insulation, feet that hold it off, a raised lip."""
    if view == "plan":
        return []
    ground, found = space.ground, []
    wide = space.size.width_m if view == "front" else space.size.depth_m
    below = min(ground.insulation_m, _DEEPEST_M / 2)
    if below > 0:
        path = _box(place, 0, -below, wide, 0)
        found.append(FurnitureMark(id="", kind="insulation", title="Insulation under the floor", path=path))
    if ground.stand_off_m > 0:
        deep = min(ground.stand_off_m, _DEEPEST_M - below)
        feet = (0.02, wide - 0.02 - _FOOT_M)
        path = "".join(_box(place, at, -below - deep, at + _FOOT_M, -below) for at in feet)
        found.append(FurnitureMark(id="", kind="stand-off", title="Held off the floor", path=path))
    if ground.lip_m > 0:
        ends = [place(at, z) for at in (0, wide) for z in (0, ground.lip_m)]
        path = "".join("{}{:.1f} {:.1f}".format("ML"[n % 2], *end) for n, end in enumerate(ends))
        found.append(FurnitureMark(id="", kind="lip", title="Raised edge that holds a spill", path=path))
    return found


def _columns(space: Space, view: str, place: Place) -> list[FurnitureMark]:
    found = []
    for column in space.columns:
        r = column.diameter_m / 2
        if view == "plan":
            (x1, y), (x2, _) = place(column.x_m - r, column.y_m), place(column.x_m + r, column.y_m)
            radius = (x2 - x1) / 2
            path = (
                f"M{x1:.1f} {y:.1f}A{radius:.1f} {radius:.1f} 0 1 1 {x2:.1f} {y:.1f}A{radius:.1f} {radius:.1f} "
                f"0 1 1 {x1:.1f} {y:.1f}Z"
            )
        else:
            at = column.x_m if view == "front" else column.y_m
            path = _box(place, at - r, column.z_m, at + r, column.z_m + column.height_m)
        found.append(FurnitureMark(id=column.id, kind="column", title=column.name, path=path))
    return found


def _lids(space: Space, view: str, place: Place) -> list[FurnitureMark]:
    """Lids as outlines over what stands under them."""
    found = []
    for lid in space.lids:
        if view == "plan":
            path = _box(place, lid.x_m, lid.y_m, lid.x_m + lid.width_m, lid.y_m + lid.depth_m)
        else:
            at, wide = (lid.x_m, lid.width_m) if view == "front" else (lid.y_m, lid.depth_m)
            path = _box(place, at, lid.z_m, at + wide, lid.z_m + lid.height_m)
        found.append(FurnitureMark(id=lid.id, kind="lid", title=lid.name, path=path))
    return found


# Strings of a trellis stand so far apart in the drawing [m].
_STRING_M = 0.15


def _trellises(space: Space, view: str, place: Place) -> list[FurnitureMark]:
    """Face on a grid of strings, from its edge one upright line."""
    found = []
    for trellis in space.trellises:
        half, low, high = trellis.width_m / 2, trellis.z_m, trellis.z_m + trellis.height_m
        wide = trellis.along == "width"
        across = trellis.x_m if wide else trellis.y_m
        ends, edge = (across - half, across + half), trellis.y_m if wide else trellis.x_m
        lines: list[tuple[float, float, float, float]] = []
        if view == "plan":
            lines = [(ends[0], edge, ends[1], edge)] if wide else [(edge, ends[0], edge, ends[1])]
        elif (view == "front") == wide:
            upright = max(2, round(trellis.width_m / _STRING_M) + 1)
            level = max(2, round(trellis.height_m / _STRING_M) + 1)
            lines = [(x, low, x, high) for x in (ends[0] + trellis.width_m * k / (upright - 1) for k in range(upright))]
            lines += [
                (ends[0], z, ends[1], z) for z in (low + trellis.height_m * k / (level - 1) for k in range(level))
            ]
        else:
            lines = [(edge, low, edge, high)]
        path = "".join("M{:.1f} {:.1f}L{:.1f} {:.1f}".format(*place(a, b), *place(c, d)) for a, b, c, d in lines)
        found.append(FurnitureMark(id=trellis.id, kind="trellis", title=trellis.name, path=path))
    return found


def _net(space: Space, view: str, place: Place) -> list[FurnitureMark]:
    if space.net is None or view == "plan":
        return []
    wide = space.size.width_m if view == "front" else space.size.depth_m
    (x1, y), (x2, _) = place(0.0, space.net.z_m), place(wide, space.net.z_m)
    return [FurnitureMark(id="net", kind="net", title="Net", path=f"M{x1:.1f} {y:.1f}L{x2:.1f} {y:.1f}")]


def _windows(space: Space, view: str, place: Place) -> list[FurnitureMark]:
    face_on = {"plan": ("floor", "ceiling"), "front": ("front", "back"), "side": ("left", "right")}[view]
    size, found = space.size, []
    for window in space.daylight:
        u, v = (window.u_m - window.width_m / 2, window.u_m + window.width_m / 2), window.v_m
        up = (v - window.height_m / 2, v + window.height_m / 2)
        if window.face in face_on:
            path = _box(place, u[0], up[0], u[1], up[1])
        else:
            ends = _edge(window.face, view, u, up, (size.width_m, size.depth_m, size.height_m))
            (x1, y1), (x2, y2) = place(*ends[0]), place(*ends[1])
            path = f"M{x1:.1f} {y1:.1f}L{x2:.1f} {y2:.1f}"
        found.append(FurnitureMark(id=window.id, kind="window", title=f"Window, {window.face}", path=path))
    return found


def _edge(
    face: str, view: str, u: tuple[float, float], up: tuple[float, float], size: tuple[float, float, float]
) -> tuple[tuple[float, float], tuple[float, float]]:
    """Where a window on a face seen edge on lies in a view."""
    width, depth, height = size
    if view == "plan":
        if face in ("left", "right"):
            x = width if face == "right" else 0.0
            return (x, u[0]), (x, u[1])
        y = depth if face == "back" else 0.0
        return (u[0], y), (u[1], y)
    if face in ("floor", "ceiling"):
        z = height if face == "ceiling" else 0.0
        along = u if view == "front" else up
        return (along[0], z), (along[1], z)
    far = (width if view == "front" else depth) if face in ("right", "back") else 0.0
    return (far, up[0]), (far, up[1])
