"""Light that is taken over from before is the light found afresh: while plants and lamps move, go and come back."""

import numpy as np
import pytest

from canopy import cache
from canopy.evaluate.light.lighting import lighting
from canopy.light import reading
from canopy.plan import load
from canopy.season import cast_of, standing_of
from tests.conftest import ROOT

SPACES = [
    ("practices/fruiting-column", "column-tent"),
    ("practices/trellis-behind-peppers", "trellis"),
]


@pytest.fixture
def forgetful():
    """Forget all that is kept, when asked to and at the end."""
    allowed = cache.POOL._max_bytes

    def forget():
        cache.POOL.allow(0)
        cache.POOL.allow(allowed)

    yield forget
    forget()


def _edits(space):
    """The space after each of some edits: a plant moved, taller, a lamp moved, the plant back, a lamp gone."""
    lamps, plants = list(space.fixtures), list(space.plants)
    step = 0.03 if plants[0].x_m < space.size.width_m / 2 else -0.03
    moved = plants[0].model_copy(update={"x_m": plants[0].x_m + step, "y_m": plants[0].y_m})
    yield space
    yield space.model_copy(update={"plants": (moved, *plants[1:])})
    taller = moved.model_copy(update={"height_m": (moved.height_m or 0.2) * 1.15})
    yield space.model_copy(update={"plants": (taller, *plants[1:])})
    lower = lamps[0].model_copy(update={"z_m": lamps[0].z_m - 0.03})
    yield space.model_copy(update={"plants": (taller, *plants[1:]), "fixtures": (lower, *lamps[1:])})
    yield space.model_copy(update={"fixtures": (lower, *lamps[1:])})
    yield space.model_copy(update={"plants": tuple(plants[1:])})
    yield space


def _light(plan, space):
    here = standing_of(space, plan.date, cast_of(plan))
    found = lighting(here)
    return np.array([plant.by_source_umol_m2_s for plant in found.plants]), found.map.ppfd_umol_m2_s


@pytest.mark.parametrize(("name", "space_id"), SPACES)
def test_light_taken_over_is_the_light_found_afresh(name, space_id, forgetful):
    plan = load(ROOT / "examples" / f"{name}.json")
    space = next(item for item in plan.spaces if item.id == space_id)
    forgetful()
    warm = [_light(plan, edited) for edited in _edits(space)]
    for (leaves, level), edited in zip(warm, _edits(space), strict=True):
        forgetful()
        afresh, level_afresh = _light(plan, edited)
        most = afresh.max()
        assert leaves == pytest.approx(afresh, rel=2e-4, abs=2e-5 * most)
        assert level == pytest.approx(level_afresh, rel=2e-4, abs=2e-5 * most)
    # Nothing here is the same all along.
    assert abs(warm[1][0] / np.maximum(warm[0][0], 1e-9) - 1).max() > 1e-3


def test_very_many_points_that_see_patches_whole_get_the_same_light(forgetful, monkeypatch):
    plan = load(ROOT / "examples" / "practices" / "stretched-rack.json")
    forgetful()
    cut, _ = _light(plan, plan.spaces[0])
    monkeypatch.setattr(reading, "_MOST_LINES", 1)
    forgetful()
    whole, _ = _light(plan, plan.spaces[0])
    total, other = cut.sum(axis=1), whole.sum(axis=1)
    assert other == pytest.approx(total, rel=0.02)
    assert other.mean() == pytest.approx(total.mean(), rel=0.004)
