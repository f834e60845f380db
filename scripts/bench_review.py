"""Bench of what readings teach: households whose truth is hidden, and how long it takes.

Run by itself: ``python scripts/bench_review.py``. Its households are others than those of the tests.
"""

from __future__ import annotations

import statistics
import sys
import time
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
# How many households, half of them berry tents, half closets; how many of each kind that nobody can tell from.
HOUSEHOLDS, UNKNOWABLE_EACH = 40, 4
_FIRST_SEED = 0


def _row(name: str, got: str, wanted: str) -> None:
    print(f"{name:<66}{got:>14}   {wanted}")


def main() -> None:
    """Print the figures, each beside what it must reach."""
    from canopy.plan import load
    from canopy.review.finding import Finding
    from canopy.review.living import Asked, identify
    from canopy.review.series import Series, laid_out
    from canopy.standins.neighbours import UNKNOWABLE, Neighbour, neighbour

    plan = load(ROOT / "examples" / "demo-household.json")

    def look(made: Neighbour) -> tuple[dict[str, Finding], float]:
        begin = time.perf_counter()
        grid = laid_out(made.series, made.begins, made.begins + 86400 * len(made.days))
        midnights = {day: made.begins + 86400 * number for number, day in enumerate(made.days)}
        found = identify(Asked(plan=made.plan, space=made.space, grid=grid, midnights=midnights))
        return {item.subject: item for item in found.findings}, time.perf_counter() - begin

    rows = []
    for seed in range(_FIRST_SEED, _FIRST_SEED + HOUSEHOLDS):
        habit = ("a night off", "pulses")[(seed // 2) % 2]
        made = neighbour(plan, ("berry-tent", "hall-closet")[seed % 2], seed, habit)  # type: ignore[arg-type]
        rows.append((made.truth, *look(made)))
    for subject, true, within in (("airflow", "moves", 0.10), ("leak", "leaks", 0.20), ("leaves", "opens", 0.25)):
        for grade in ("known", "rough"):
            told = [(found[subject], getattr(truth, true)) for truth, found, _ in rows if found[subject].grade == grade]
            good = sum(abs(item.factor / value - 1) <= within for item, value in told)
            wanted = "9 of 10" if grade == "known" else "(no claim)"
            _row(f"{subject}, {grade}: within {within:.0%} of the truth", f"{good} of {len(told)}", wanted)
    blind = [
        look(neighbour(plan, "berry-tent", 900 + number, habit, days=4))[0]["airflow"].grade
        for habit in UNKNOWABLE
        for number in range(UNKNOWABLE_EACH)
    ]
    _row("built to be unknowable: said to be so", f"{blind.count('unknown')} of {len(blind)}", "all")
    _row("identification, 6 days (median)", f"{statistics.median(t for *_, t in rows):.2f} s", "")
    month = neighbour(plan, "berry-tent", 77, "pulses", days=30)
    minutes = np.arange(month.begins, month.begins + 30 * 86400, 60)
    fine = tuple(
        Series(**{**vars(item), "at": minutes, "value": np.interp(minutes, item.at, item.value)})
        for item in month.series
    )
    minute_data = Neighbour(**{**vars(month), "series": fine})
    look(minute_data)
    took = [look(minute_data)[1] for _ in range(3)]
    _row("identification from 30 days of minute data (median of 3)", f"{statistics.median(took):.2f} s", "1.5 s")
    _pictures()


def _pictures() -> None:
    """A photograph of 12 megapixels, from the file as it was sent to cover; and cover on rendered floors."""
    import io

    from PIL import Image

    from canopy.light.spectra import band_shares, typical
    from canopy.pictures.measured import Marks, measure
    from canopy.standins.camera import lamp, photograph, scene
    from canopy_web.photos.pictures import pixels, read_picture

    off: dict[str, list[float]] = {}
    for name in ("white-led-4000", "hps", "red-heavy-white"):
        for seed in range(12):
            rng = np.random.default_rng(5000 + seed)
            what = scene(rng.uniform(0.03, 0.95), rng, floor=seed % 4, px_m=0.002)
            shown, at = photograph(what, lamp(name), rng, size=(1200, 900), balance=rng.uniform(0.4, 1.0))
            marks = Marks(corners=tuple((x / 1200, y / 900) for x, y in at))  # type: ignore[arg-type]
            share = band_shares(typical(name))["green"]
            try:
                found = measure(shown, marks, what.size_m, green_share=share).reading.cover
            except ValueError:
                found = float("nan")
            off.setdefault(name, []).append(100 * abs(found - what.cover))
    for name, each in off.items():
        told = [value for value in each if value == value]
        _row(f"cover under {name}: worst of {len(told)} told of {len(each)}", f"{max(told):.1f} points", "3 points")
    rng = np.random.default_rng(1)
    what = scene(0.4, rng, px_m=0.002)
    shown, at = photograph(what, lamp("white-led-4000"), rng, size=(1800, 1350))
    marks = Marks(corners=tuple((x / 1800, y / 1350) for x, y in at))  # type: ignore[arg-type]
    for kind in ("JPEG", "PNG"):
        sent = io.BytesIO()
        Image.fromarray(shown).resize((4000, 3000)).save(
            sent, kind, **({"quality": 90} if kind == "JPEG" else {"compress_level": 1})
        )
        took = []
        for _ in range(3):
            sent.seek(0)
            begin = time.perf_counter()
            kept = read_picture(sent, min(sent.getbuffer().nbytes, 15_000_000))
            measure(pixels(kept.image), marks, what.size_m, green_share=0.4)
            took.append(time.perf_counter() - begin)
        _row(f"cover from a 12-megapixel {kind}, as sent (median of 3)", f"{statistics.median(took):.2f} s", "3 s")


if __name__ == "__main__":
    main()
