"""What a drawing holds, ready to be written as SVG: plain numbers, in drawing units (px)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Box:
    """A rectangle."""

    x: float
    y: float
    w: float
    h: float


@dataclass(frozen=True, kw_only=True)
class Dimension:
    """A dimension line with its figure; ``upright`` ones run up and down."""

    x1: float
    y1: float
    x2: float
    y2: float
    text: str
    tx: float
    ty: float
    upright: bool = False
    style: str = ""


@dataclass(frozen=True, kw_only=True)
class Band:
    """The area above a level of light."""

    path: str
    step: int


@dataclass(frozen=True, kw_only=True)
class Isoline:
    """A contour line, with its number where there is room."""

    path: str
    text: str
    tx: float
    ty: float
    labelled: bool


@dataclass(frozen=True, kw_only=True)
class PlantMark:
    """A plant: a crown, and a pot where it is seen from the side; a ``mat`` is a tray of plants, drawn as its outline
    with a dot for each of its cells (x, y).
    """

    id: str
    number: int
    name: str
    title: str
    cx: float
    cy: float
    rx: float
    ry: float
    pot: str
    verdict: str
    trouble: str
    mat: bool
    cells: tuple[tuple[float, float], ...]

    @property
    def outline(self) -> str:
        """The crown as a path: an ellipse, or of a tray its edges with round corners."""
        if not self.mat:
            return (
                f"M{self.cx - self.rx:.1f} {self.cy:.1f}a{self.rx} {self.ry} 0 1 0 {2 * self.rx:.1f} 0"
                f"a{self.rx} {self.ry} 0 1 0 {-2 * self.rx:.1f} 0Z"
            )
        r = min(4.0, self.rx, self.ry)
        w, h = 2 * (self.rx - r), 2 * (self.ry - r)
        return (
            f"M{self.cx - self.rx + r:.1f} {self.cy - self.ry:.1f}h{w:.1f}q{r} 0 {r} {r}v{h:.1f}q0 {r} {-r} {r}"
            f"h{-w:.1f}q{-r} 0 {-r} {-r}v{-h:.1f}q0 {-r} {r} {-r}Z"
        )

    @property
    def dots(self) -> str:
        """Its cells as small strokes with round ends."""
        return "".join(f"M{x} {y}h.01" for x, y in self.cells)

    x_m: float
    y_m: float
    z_m: float


@dataclass(frozen=True, kw_only=True)
class LampMark:
    """A lamp: its outlines, the lines it hangs by, the way it shines, and what of it is covered."""

    id: str
    number: int
    title: str
    outlines: tuple[str, ...]
    hangers: tuple[tuple[float, float, float, float], ...]
    beam: str
    tx: float
    ty: float
    on: bool
    x_m: float
    y_m: float
    z_m: float
    covered: str = ""
    thinly: bool = False


@dataclass(frozen=True, kw_only=True)
class PortMark:
    """An opening: a circle or box seen face on, a gap seen from the side."""

    id: str
    title: str
    use: str
    cx: float
    cy: float
    r: float
    gap: tuple[float, float, float, float] | None
    box: Box | None = None
    across: str = ""
    up: str = ""
    u_m: float = 0.0
    v_m: float = 0.0


@dataclass(frozen=True, kw_only=True)
class AirMark:
    """A part of a way of air: its outline, the strokes in it, and its number, such as A2."""

    id: str
    airway_id: str
    kind: str
    label: str
    title: str
    body: str
    lines: str
    tx: float
    ty: float
    on: bool = True


@dataclass(frozen=True, kw_only=True)
class AirRun:
    """The thread through a way of air, arrows at its ends, what moves and where it leads, that in ``lines``."""

    id: str
    letter: str
    thread: str
    arrows: str
    flow: str
    end: str
    tx: float
    ty: float
    anchor: str
    title: str
    lines: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class FlowMark:
    """An arrow at an opening through which air goes by itself."""

    id: str
    path: str
    text: str
    tx: float
    ty: float
    anchor: str
    title: str


@dataclass(frozen=True, kw_only=True)
class StirMark:
    """A circulation fan and the cone it blows."""

    id: str
    number: int
    title: str
    cx: float
    cy: float
    r: float
    jet: str
    on: bool
    x_m: float
    y_m: float
    z_m: float


@dataclass(frozen=True, kw_only=True)
class DeviceMark:
    """A device where it stands: a small box with its number."""

    id: str
    number: int
    title: str
    x: float
    y: float
    w: float
    h: float
    x_m: float
    y_m: float
    z_m: float


@dataclass(frozen=True, kw_only=True)
class FurnitureMark:
    """A shelf, column, net or window: an outline, and a name where there is room."""

    id: str
    kind: str
    title: str
    path: str
    text: str = ""
    tx: float = 0.0
    ty: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Dot:
    """Something read at a point of the plan [m]: a short figure, what it says in full, and whether it stands out."""

    x_m: float
    y_m: float
    text: str
    title: str
    odd: bool = False


@dataclass(frozen=True, kw_only=True)
class DotMark:
    """A dot in its place on the plan [px]."""

    cx: float
    cy: float
    text: str
    title: str
    odd: bool


@dataclass(frozen=True, kw_only=True)
class View:
    """One view of a space."""

    name: str
    title: str
    width: float
    height: float
    scale: float
    box: Box
    door: str
    bands: tuple[Band, ...] = ()
    isolines: tuple[Isoline, ...] = ()
    plants: tuple[PlantMark, ...] = ()
    lamps: tuple[LampMark, ...] = ()
    ports: tuple[PortMark, ...] = ()
    furniture: tuple[FurnitureMark, ...] = ()
    dimensions: tuple[Dimension, ...] = ()
    level: Dimension | None = None
    air: tuple[AirMark, ...] = ()
    runs: tuple[AirRun, ...] = ()
    flows: tuple[FlowMark, ...] = ()
    stirrers: tuple[StirMark, ...] = ()
    devices: tuple[DeviceMark, ...] = ()
    caption: str = ""
    legend: tuple[tuple[int, str], ...] = ()
    dots: tuple[DotMark, ...] = ()
    many: bool = False
