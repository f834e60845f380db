"""Development only: a moved lamp in the core beside a path tracer, both at the same accuracy.

Needs the general-purpose renderer mitsuba (pip install mitsuba), which the application itself does not use:

    python scripts/bench_renderer.py
"""

from __future__ import annotations

import statistics
import sys
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from tests.core.light.conftest import level, panel, solve

SIZE, WALLS, BODY, PPF = (1.2, 1.0, 1.6), 0.7, 0.5, 300.0
HEIGHT, CELLS = 0.3, 8
_DOT_M, _DOT = 0.002, 0.5


def _scene(mi, x_m: float):  # type: ignore[no-untyped-def]
    """The box, one panel and a small matt dot at every point, each looked at by its own meter."""
    w, d, h = SIZE
    at = mi.ScalarTransform4f
    grey = {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": {"type": "rgb", "value": WALLS}}}
    body = {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": {"type": "rgb", "value": BODY}}}
    dot = {"type": "diffuse", "reflectance": {"type": "rgb", "value": _DOT}}
    box = at().translate([w / 2, d / 2, h / 2]).scale([w / 2, d / 2, h / 2])
    lamp = at().translate([x_m, 0.5, 1.3]).rotate([1, 0, 0], 180).scale([0.25, 0.15, 1])
    scene = {
        "type": "scene",
        "integrator": {"type": "path", "max_depth": 60, "rr_depth": 40},
        "box": {"type": "cube", "to_world": box, "flip_normals": True, "bsdf": grey},
        "lamp": {
            "type": "rectangle",
            "to_world": lamp,
            "bsdf": body,
            "emitter": {"type": "area", "radiance": {"type": "rgb", "value": PPF / (np.pi * 0.5 * 0.3)}},
        },
    }
    meters = {}
    for number, (x, y, z) in enumerate(level(SIZE, HEIGHT, CELLS)):
        spot = [float(x), float(y), float(z)]
        scene[f"dot{number}"] = {"type": "rectangle", "to_world": at().translate(spot).scale(_DOT_M / 2), "bsdf": dot}
        meters[f"meter{number}"] = {
            "type": "radiancemeter",
            "origin": [spot[0], spot[1], spot[2] + 0.001],
            "direction": [0, 0, -1],
            "film": {"type": "hdrfilm", "width": 1, "height": 1, "rfilter": {"type": "box"}},
        }
    film = {
        "type": "hdrfilm",
        "width": CELLS * CELLS,
        "height": 1,
        "rfilter": {"type": "box"},
        "pixel_format": "luminance",
    }
    scene["sensor"] = {"type": "batch", "film": film, "sampler": {"type": "independent"}, **meters}
    return mi.load_dict(scene)


def _traced(mi, x_m: float, spp: int, seed: int) -> np.ndarray:  # type: ignore[no-untyped-def]
    image = np.array(mi.render(_scene(mi, x_m), spp=spp, seed=seed))
    return np.asarray(image.reshape(-1) * np.pi / _DOT)


def main() -> None:
    """Print both times and errors."""
    try:
        import mitsuba as mi
    except ImportError:
        sys.exit("This bench needs the renderer: pip install mitsuba")
    mi.set_variant("scalar_rgb")
    points = level(SIZE, HEIGHT, CELLS)

    def core(x_m: float) -> np.ndarray:
        return np.asarray(
            solve(SIZE, (WALLS,) * 6, [panel(x_m, 0.5, 1.3, 0.5, 0.3, PPF, rho=BODY)]).at(points).total[:, 0]
        )

    core(0.55)
    times = []
    for number in range(9):
        begin = time.perf_counter()
        ours = core(0.6 + 0.001 * number)
        times.append(time.perf_counter() - begin)
    core_s, ours = statistics.median(times), core(0.6)
    truth = np.mean([_traced(mi, 0.6, 16_384, seed) for seed in range(3)], axis=0)
    begin = time.perf_counter()
    rough = _traced(mi, 0.6, 1024, 99)
    traced_s = time.perf_counter() - begin

    def rms(values: np.ndarray) -> float:
        return float(np.sqrt(np.mean((values / truth - 1) ** 2)))

    ratio = traced_s * (rms(rough) / rms(ours)) ** 2 / core_s
    worst = float(np.abs(ours / truth - 1).max())
    print(
        f"core:   {core_s * 1000:7.0f} ms, mean {np.mean(ours / truth) - 1:+.2%}, rms {rms(ours):.2%}, "
        f"worst {worst:.2%}"
    )
    print(f"traced: {traced_s * 1000:7.0f} ms at 1,024 paths a point, rms {rms(rough):.2%}")
    print(f"at equal accuracy the core is {ratio:.0f} times faster (wanted: 50)")


if __name__ == "__main__":
    main()
