"""Water above mains: pots over lamps and small fans."""

from __future__ import annotations

import pytest

from canopy.evaluate import evaluate_space
from canopy.evaluate.shell.drips import drips
from canopy.library import fixtures, stirrers
from canopy.plan import Fixture, Plant
from canopy.plan.airways import Stirrer
from canopy.plan.furnishing import Shelf
from tests.conftest import on
from tests.core.air.worked import household, tent

LAMP = Fixture(id="lamp-1", spec=fixtures()["board-100"].spec, x_m=0.5, y_m=0.5, z_m=0.6)


def pot(base, x=0.5, **more):
    return Plant(
        id="p",
        crop_id="basil-sweet",
        stage="vegetative",
        height_m=0.2,
        spread_m=0.2,
        x_m=x,
        y_m=0.5,
        base_m=base,
        **more,
    )


def board(kind):
    return Shelf(id="s", name="Board", x_m=0.1, y_m=0.1, z_m=0.9, width_m=0.8, depth_m=0.8, kind=kind)


@pytest.mark.parametrize(
    ("base", "x", "shelf", "through"),
    [
        (0.9, 0.5, None, ["air"]),
        (0.9, 0.5, "wire", ["open shelf"]),
        (0.9, 0.5, "perforated", ["open shelf"]),
        (0.9, 0.5, "solid", []),
        (0.9, 0.5, "glass", []),
        # Beside the lamp, below it, and on the floor nothing drips on it.
        (0.9, 0.12, None, []),
        (0.3, 0.5, None, []),
        (0.0, 0.5, None, []),
    ],
)
def test_what_lies_between_decides(base, x, shelf, through):
    space = tent(fixtures=(LAMP,), plants=(pot(base, x),), shelves=(board(shelf),) if shelf else ())
    assert [item.through for item in drips(on(space))] == through


def test_in_free_air_it_is_a_danger_and_through_a_shelf_a_saucer_helps():
    free = tent(fixtures=(LAMP,), plants=(pot(0.9, habit="hang"),))
    margin = evaluate_space(household(free), free, with_map=False).margin("space.drip")
    assert (margin.verdict, margin.word) == ("over", "drips on mains")
    assert "residual-current" in margin.danger
    shelved = free.model_copy(update={"shelves": (board("wire"),), "plants": (pot(0.9),)})
    margin = evaluate_space(household(shelved), shelved, with_map=False).margin("space.drip")
    assert (margin.verdict, margin.danger) == ("tight", "")
    assert "saucer" in margin.why.say()


def test_a_stirring_fan_counts_as_a_lamp_does():
    fan = Stirrer(id="fan-1", spec=next(iter(stirrers().values())).spec, x_m=0.5, y_m=0.5, z_m=0.5)
    space = tent(fixtures=(), stirrers=(fan,), plants=(pot(1.0),))
    assert [item.part_id for item in drips(on(space))] == ["fan-1"]
