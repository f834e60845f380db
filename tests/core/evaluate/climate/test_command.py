"""`canopy climate`: a space through days as CSV, and what it says of what cannot be followed."""

import csv
import io

import pytest

from canopy.cli import main
from tests.conftest import DEMO


def told(capsys, *arguments):
    code = main(["climate", str(DEMO), *arguments])
    out, wrong = capsys.readouterr()
    return code, list(csv.reader(io.StringIO(out))), wrong


def test_a_column_for_each_quantity_and_device(capsys):
    code, (header, *rows), _ = told(capsys, "--space", "fern-case", "--hours", "24")
    assert code == 0
    assert header[0] == "t_h"
    assert {"air_degC", "rh_pct", "dew_point_degC", "root_degC", "co2_ppm", "device-1_share"} <= set(header)
    assert float(rows[-1][0]) == pytest.approx(24, abs=0.05)
    assert all(len(row) == len(header) for row in rows)


def test_the_summary_and_half_the_step_agree(capsys):
    figures = []
    for step in ("20", "10"):
        code, rows, _ = told(capsys, "--space", "berry-tent", "--summary", "--step", step)
        assert code == 0
        figures.append({row[0]: row[1:] for row in rows})
    for name, within in (("air_degC", 0.1), ("rh_pct", 1.0), ("root_degC", 0.1)):
        one, two = (float(found[name][0]) for found in figures)
        assert one == pytest.approx(two, abs=within)


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--space", "cellar"), "no space “cellar”"),
        (("--space", "fern-case", "--hours", "5"), "give 24 to 240"),
        (("--space", "fern-case", "--step", "900"), "give 1 to 60"),
    ],
)
def test_what_cannot_be_followed_is_said(capsys, arguments, words):
    code, _, wrong = told(capsys, *arguments)
    assert code == 1
    assert words in wrong
