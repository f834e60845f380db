"""Lamps that are partly covered: tape over an end, film all over."""

import numpy as np
import pytest
from pydantic import ValidationError

from canopy.light.photometry import given_ppf
from canopy.light.scene import emitter_of, field_of, scene_of
from canopy.plan import Fixture
from canopy.plan.document import Cover


def _space(plan, cover, **spec):
    data = {"name": "Bar", "power_w": 40, "output": {"kind": "ppf", "ppf_umol_s": 90}, "length_m": 0.6, "width_m": 0.06}
    lamp = Fixture.model_validate(
        {"id": "a", "spec": {**data, **spec}, "x_m": 0.4, "y_m": 0.3, "z_m": 1.0, "cover": cover}
    )
    return plan.spaces[0].model_copy(update={"fixtures": (lamp,), "plants": ()})


@pytest.mark.parametrize("where", ["start", "end", "evenly"])
def test_a_cover_takes_its_share_of_the_photons(small_plan, where):
    space = _space(small_plan, Cover(share=0.3, where=where))
    lamp = space.fixtures[0]
    assert given_ppf(lamp) == pytest.approx(63)
    assert emitter_of(lamp).ppf_umol_s == pytest.approx(63)
    book = field_of(space).energy()
    assert book.absorbed[0] == pytest.approx(63, rel=1e-2)


def test_tape_over_an_end_leaves_that_end_dark(small_plan):
    points = np.array([[0.15, 0.3, 0.97], [0.65, 0.3, 0.97]])
    bare, start, end = (
        field_of(_space(small_plan, cover)).at(points).direct[:, 0]
        for cover in (None, Cover(share=0.5, where="start"), Cover(share=0.5, where="end"))
    )
    assert bare[0] == pytest.approx(bare[1], rel=1e-6)
    assert start[0] < 0.02 * bare[0]
    assert start[1] == pytest.approx(bare[1], rel=0.02)
    # The other end is its mirror image.
    assert np.allclose(end, start[::-1], rtol=1e-6)


def test_what_is_left_open_shines_as_a_shorter_lamp(small_plan):
    """Half a bar under tape is a bar of half the length and light, shifted by a quarter of it."""
    points = np.array([[0.2, 0.3, 0.4], [0.6, 0.2, 0.0], [0.4, 0.3, 0.7]])
    taped = field_of(_space(small_plan, Cover(share=0.5, where="start"))).at(points).direct[:, 0]
    space = _space(small_plan, None, length_m=0.3, output={"kind": "ppf", "ppf_umol_s": 45})
    moved = space.fixtures[0].model_copy(update={"x_m": 0.4 + 0.15})
    short = field_of(space.model_copy(update={"fixtures": (moved,)})).at(points).direct[:, 0]
    assert np.allclose(taped, short, rtol=1e-9)


def test_the_covered_part_still_stands_in_the_way(small_plan):
    assert len(scene_of(_space(small_plan, Cover(share=0.5, where="start"))).bodies) == 1
    assert len(scene_of(_space(small_plan, Cover(share=0.5))).bodies) == 0


def test_a_round_lamp_has_no_ends(small_plan):
    with pytest.raises(ValidationError, match="a round lamp has no ends"):
        _space(small_plan, Cover(share=0.5, where="end"), shape="disc")
