"""The light core's figures: accuracy against closed forms, time at a thousand points, and the backward tools."""

from __future__ import annotations

import datetime as dt
import time
from collections.abc import Callable
from typing import Any

import numpy as np

_DAY = dt.date(2026, 3, 14)
Row = Callable[[str, str, str], None]
Times = Callable[..., list[float]]


def _field(space: Any, quality: Any, points: np.ndarray) -> np.ndarray:
    from canopy.evaluate.light.lighting import crowns_of
    from canopy.light.scene import field_of, inside
    from canopy.season import standing_of

    here = standing_of(space, _DAY)
    return field_of(space, quality, crowns_of(here)).at(inside(space, points)).total


def points_and_dimmers(space: Any, row: Row, times: Times, middle: Callable[[list[float]], str]) -> None:
    """A thousand points under six lamps and over twenty plants, bodies and crowns in the way."""
    from canopy.light.scene import DEFAULT, FINE, PREVIEW, weights

    size = space.size
    x, y = np.meshgrid((np.arange(40) + 0.5) / 40 * size.width_m, (np.arange(25) + 0.5) / 25 * size.depth_m)
    points = np.stack([x.ravel(), y.ravel(), np.full(x.size, 0.3)], axis=1)

    def moved(number: int) -> Any:
        lamp = space.fixtures[0].model_copy(update={"z_m": 0.8 + 0.0013 * number, "x_m": 0.36 + 0.0017 * number})
        return space.model_copy(update={"fixtures": (lamp, *space.fixtures[1:])})

    for quality, name in ((DEFAULT, "default"), (FINE, "fine")):
        wider = space.model_copy(update={"size": size.model_copy(update={"width_m": size.width_m + 0.013})})
        first = times(lambda _, q=quality, s=wider: _field(s, q, points), 1)[0]
        wanted = "under 1000 ms" if quality is DEFAULT else ""
        row(f"light: 6 lamps, 1,000 points, 20 plants, new room, {name}", f"{first:.0f} ms", wanted)
    for quality, name, wanted in ((PREVIEW, "preview", "under 40 ms"), (DEFAULT, "settled", "under 200 ms")):
        _field(moved(99), quality, points)
        row(f"light: one lamp moved, {name}", middle(times(lambda n, q=quality: _field(moved(n), q, points))), wanted)
    basis = _field(space, DEFAULT, points)
    dims = weights(space)
    row("light: a dimmer turned, sum of basis maps", f"{times(lambda n: basis @ (dims * n))[3]:.2f} ms", "under 5 ms")


def quick_look(row: Row) -> None:
    """How far the preview is off at its worst of 108 points in each planted space of the demo, against the finest."""
    from pathlib import Path

    from canopy.light.scene import FINE, PREVIEW
    from canopy.plan import load

    demo = load(Path(__file__).resolve().parent.parent / "examples" / "demo-household.json")
    worst, at = 0.0, ""
    for space in demo.spaces:
        for share in (0.3, 0.6):
            size = space.size
            x, y = np.meshgrid((np.arange(12) + 0.5) / 12 * size.width_m, (np.arange(9) + 0.5) / 9 * size.depth_m)
            points = np.stack([x.ravel(), y.ravel(), np.full(x.size, share * size.height_m)], axis=1)
            bare = space.model_copy(update={"plants": tuple(p for p in space.plants if not p.planting_id)})
            quick, fine = (_field(bare, quality, points).sum(axis=1) for quality in (PREVIEW, FINE))
            off = float(np.abs(quick / fine - 1).max())
            if off > worst:
                worst, at = off, space.id
    row(f"light: preview's worst point in the demo ({at})", f"{worst:.1%}", "within 5 %")


def closed_forms(row: Row) -> None:
    """Worst and mean error against a rectangle's view factor, a long line, and photons booked in a closed box."""
    from canopy.light.scene import DEFAULT, FINE, field_of
    from canopy.plan import Faces, Fixture, Size, Space, Surface

    def box(reflectance: float, fixture: Any) -> Space:
        side = Surface(material_id="white-paint", reflectance=reflectance)
        faces = Faces(**dict.fromkeys(("left", "right", "front", "back", "floor", "ceiling"), side))
        return Space(
            id="b",
            name="B",
            kind="tent",
            size=Size(width_m=1.2, depth_m=1.2, height_m=2.0),
            faces=faces,
            fixtures=(fixture,),
        )

    spec = {
        "name": "P",
        "power_w": 100,
        "output": {"kind": "ppf", "ppf_umol_s": 200.0},
        "length_m": 0.6,
        "width_m": 0.4,
        "thickness_m": 0.05,
        "body_reflectance": 0.5,
    }
    lamp = Fixture.model_validate({"id": "l", "spec": spec, "x_m": 0.6, "y_m": 0.6, "z_m": 1.5})
    g = np.linspace(0.1, 1.1, 11)
    x, y = (part.ravel() for part in np.meshgrid(g, g))
    for name, quality in (("default", DEFAULT), ("fine", FINE)):
        worst = []
        for height in (0.2, 0.9, 1.3, 1.4):
            points = np.stack([x, y, np.full(x.size, height)], axis=1)
            got = field_of(box(0.0, lamp), quality).at(points).total[:, 0]
            want = 200 / 0.24 * _rectangle(x - 0.3, x - 0.9, y - 0.4, y - 0.8, 1.5 - height)
            worst.append(np.abs(got / want - 1).max())
        row(f"light: panel in a black box, worst of 484 points, {name}", f"{max(worst):.2%}", "within 5 %")
        book = field_of(box(0.85, lamp), quality).energy()
        lost = float(((book.absorbed_walls + book.absorbed_bodies) / book.emitted)[0] - 1)
        row(f"light: photons lost in a white box, {name}", f"{lost:+.3%}", "none")


def _rectangle(a1: np.ndarray, a2: np.ndarray, b1: np.ndarray, b2: np.ndarray, h: float) -> np.ndarray:
    """View factor of a level rectangle from level elements below it, from its four corner terms."""

    def corner(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        u, v = np.sqrt(a * a + h * h), np.sqrt(b * b + h * h)
        return np.asarray((a / u * np.arctan(b / u) + b / v * np.arctan(a / v)) / (2 * np.pi))

    return corner(a1, b1) - corner(a2, b1) - corner(a1, b2) + corner(a2, b2)


def against_a_path_tracer(row: Row) -> None:
    """A moved lamp in a white box at the same rms error: our photon tracer of the tests against the core."""
    from tests.core.light.conftest import level, panel, solve
    from tests.core.light.photon_trace import count_photons

    size, rho = (1.2, 1.0, 1.6), (0.7,) * 6
    points = level(size, 0.3, 8)
    lamp = panel(0.6, 0.5, 1.3, 0.5, 0.3, 300)
    solve(size, rho, [panel(0.62, 0.5, 1.3, 0.5, 0.3, 300)]).at(points)
    begin = time.perf_counter()
    ours = solve(size, rho, [lamp]).at(points).total[:, 0]
    core_s = time.perf_counter() - begin
    begin = time.perf_counter()
    runs = np.stack([count_photons(size, rho, [lamp], 0.3, 8, 400_000, seed=seed).ravel() for seed in (1, 2, 3, 4)])
    traced_s = time.perf_counter() - begin
    traced = runs.mean(axis=0)
    noise = float(np.mean(runs.std(axis=0, ddof=1) / 2 / traced))
    rms = float(np.sqrt(np.mean((ours / traced - 1) ** 2)))
    # Noise falls with the root of the photons: what equal accuracy, 1 %, costs such a tracer.
    equal = traced_s * (noise / 0.01) ** 2
    row(f"light: rms against counted photons (their noise {noise:.1%})", f"{rms:.2%}", "within 2 %")
    row("light: times faster than counting to 1 %, one lamp moved", f"{equal / core_s:.0f} ×", "")


def planted_and_shaded(row: Row) -> None:
    """Planted tents, thin bars and narrow beams against traced paths and brute sums, beside what they must reach."""
    from canopy.light.leaves import LEAF_ALBEDO
    from canopy.light.passing import irradiance
    from tests.core.light import test_leaves, test_shadows
    from tests.core.light.path_trace import World, trace

    size = test_leaves.SIZE
    for name, (rho, crowns, z) in test_leaves.PLANTED.items():
        lamp = test_leaves.panel(0.5, 0.5, z, 0.6, 0.6, 600)
        field = test_leaves._field(rho, crowns, (lamp,))
        world = World(size, rho, [lamp], crowns=crowns, omega=LEAF_ALBEDO)
        some = crowns[:: max(1, len(crowns) // 6)]
        found = []
        for level in (lambda c: c.top_m, lambda c: (c.top_m + c.bottom_m) / 2, lambda c: max(c.bottom_m - 0.03, 0.01)):
            points = np.array([(c.x_m, c.y_m, level(c)) for c in some])
            up = np.tile([0.0, 0.0, 1.0], (len(points), 1))
            want = trace(world, points, up, 5000)[0]
            found.append(field.at(points, up).total.sum(axis=1).mean() / want.mean() - 1)
        said = " / ".join(f"{off:+.1%}" for off in found)
        row(f"light: {name}, tops / among / below leaves", said, "3 / 15 / 15 %")
    points = test_shadows.level(test_shadows.SIZE, 0.3, 9)
    up = np.tile([0.0, 0.0, 1.0], (len(points), 1))
    bars = [bar.plate for bar in test_shadows._bars(1.0)]
    got = irradiance(test_shadows.LAMP, points, up, bars)
    want = test_shadows._brute(test_shadows.LAMP, bars, points)
    said = f"{got.mean() / want.mean() - 1:+.1%} / {np.abs(got / want - 1).max():.1%}"
    row("light: four 3 cm bars under a panel, mean / worst", said, "3 / 10 %")
    bar = test_shadows.panel(0.6, 0.5, 1.2, 1.1, 0.03, 100, n=20.0)
    under = np.array([[0.6, 0.5, 1.18]])
    u, v = (np.arange(9000) + 0.5) / 9000 * 1.1 - 0.55, (np.arange(60) + 0.5) / 60 * 0.03 - 0.015
    r2 = u[:, None] ** 2 + v[None, :] ** 2 + 0.02**2
    true = (100 * 21 / (2 * np.pi) * (0.02 / np.sqrt(r2)) ** 21 / r2).mean()
    row("light: cos²⁰ bar at 2 cm", f"{irradiance(bar, under, up[:1])[0] / true - 1:+.2%}", "within 5 %")


def backwards(row: Row, times: Times, middle: Callable[[list[float]], str]) -> None:
    """The backward tools on thirty plants of two kinds."""
    from canopy.design.light.choose import choices_for, try_choice
    from canopy.design.light.dimmers import set_dimmers
    from canopy.design.light.heights import find_height, space_lamps
    from canopy.design.light.places import place_plants
    from canopy.design.start.answers import Answers
    from canopy.design.start.space import begin_space
    from canopy.season import standing_of

    answers = Answers(
        space_id="many",
        name="Many",
        kind="tent",
        width_m=1.4,
        depth_m=1.2,
        height_m=1.9,
        crop_id="tatsoi",
        count=30,
        lamp_class_id="board-100",
        lamp_count=2,
        circuit_id="hall",
    )
    space = begin_space(answers)
    tall = {number: {"crop_id": "chervil", "height_m": 0.3, "spread_m": 0.2} for number in range(0, 30, 3)}
    plants = tuple(plant.model_copy(update=tall.get(n, {})) for n, plant in enumerate(space.plants))
    here = standing_of(space.model_copy(update={"plants": plants}), _DAY)
    for name, tool, wanted in (
        ("set the dimmers", set_dimmers, ""),
        ("find the height", find_height, ""),
        ("space the lamps", space_lamps, ""),
        ("place the plants", place_plants, "under 1000 ms"),
    ):
        first = times(lambda _, act=tool: act(here), 1)[0]
        row(f"backwards, 30 plants: {name}", f"{first:.0f} ms", wanted)
    begin = time.perf_counter()
    tried = [try_choice(here, choice) for choice in choices_for(here)]
    row(
        f"backwards, 30 plants: which lamps, {len(tried)} sets",
        f"{(time.perf_counter() - begin) * 1000:.0f} ms",
        "under 5000 ms",
    )
