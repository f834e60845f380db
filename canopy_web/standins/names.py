"""What the stand-ins are, where each speaks, and what they have shown so far: what the application knows of them."""

from __future__ import annotations

import csv
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
