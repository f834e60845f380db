"""What the stand-ins are, where each speaks, and what they have shown so far: what the application knows of them."""

from __future__ import annotations

import csv
import datetime as dt
from collections.abc import Iterator
from pathlib import Path

ABOUT: tuple[tuple[str, str, str], ...] = (
    (
        "A sensor hub",
        "/hub/berry-tent",
        "JSON: air, humidity, CO₂, roots, light, its battery; any other space by its name",
    ),
    ("Metering plugs", "/plug/berry-tent/fan", "JSON; told {“on”: false, “minutes”: 30} it switches; also …/lamps"),
    ("A light meter", "/meter/log.csv", "CSV with semicolons and decimal commas; /meter/survey.csv over each plant"),
    ("A weather station", "/weather", "JSON: air and humidity outdoors"),
)

# Which space was photographed from above, so many days ago, where its floor's corners are then in the picture (shares
# of its width and height); and how much wider its plants really are.
PICTURED, PICTURED_WIDER = "berry-tent", 1.15
PICTURED_DAYS = {
    21: ((0.17, 0.12), (0.83, 0.11), (0.92, 0.86), (0.09, 0.88)),
    14: ((0.17, 0.12), (0.83, 0.11), (0.92, 0.86), (0.09, 0.88)),
    7: ((0.17, 0.12), (0.83, 0.11), (0.92, 0.86), (0.09, 0.88)),
    1: ((0.15, 0.13), (0.82, 0.12), (0.93, 0.87), (0.08, 0.88)),
}


def picture_file(folder: Path, day: dt.date) -> Path:
    """Where the picture of a day lies."""
    return folder / f"stand-ins-{PICTURED}-{day.isoformat()}.jpg"


def week_file(folder: Path) -> Path:
    """Where it lies."""
    return folder / "stand-ins-week.csv"


def read_week(folder: Path) -> Iterator[tuple[str, str, int, float]]:
    """Give space ("" for outdoors), probe, second of UTC and value; nothing where no stand-ins were begun yet."""
    path = week_file(folder)
    if not path.exists():
        return
    with path.open(newline="") as file:
        for space_id, name, at, value in csv.reader(file):
            yield space_id, name, int(at), float(value)
