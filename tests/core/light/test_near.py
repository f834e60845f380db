"""The quick look: lamps' bodies on a raster, and how far its light may be off."""

import numpy as np
import pytest

from canopy.light.field import LightField
from canopy.light.near import near
from canopy.light.scene import FINE, PREVIEW, field_of, inside, scene_of
from canopy.plan.furnishing import Shelf
from tests.conftest import on


def _moved(space, **to):
    return space.model_copy(update={"fixtures": (space.fixtures[0].model_copy(update=to), *space.fixtures[1:])})


def test_a_lamp_goes_to_the_nearest_place_and_stays_inside(demo_plan):
    space = demo_plan.space("berry-tent")
    size = np.array([space.size.width_m, space.size.depth_m, space.size.height_m])
    rng = np.random.default_rng(3)
    for _ in range(30):
        lamp = space.fixtures[0]
        z = float(rng.uniform(0.3, size[2] - lamp.spec.thickness_m - 0.001))
        scene = scene_of(_moved(space, z_m=z, x_m=lamp.x_m + float(rng.uniform(-0.05, 0.05))))
        for emitter, moved in zip(scene.emitters, near(scene).emitters, strict=True):
            assert np.abs(moved.plate.centre - emitter.plate.centre).max() <= 0.016
            outline = moved.plate.outline.reshape(-1, 3)
            assert (outline > 0).all()
            assert (outline < size).all()
            assert moved.ppf_umol_s == emitter.ppf_umol_s


def test_under_a_shelf_a_lamp_keeps_its_height(demo_plan):
    space = demo_plan.space("berry-tent")
    shelf = Shelf(id="s", name="S", z_m=1.2, width_m=space.size.width_m, depth_m=space.size.depth_m)
    scene = scene_of(_moved(space.model_copy(update={"shelves": (shelf,)}), z_m=1.171))
    assert near(scene).emitters[0].plate.centre[2] == scene.emitters[0].plate.centre[2] == pytest.approx(1.171)


def test_within_the_raster_only_direct_light_changes(demo_plan):
    space = demo_plan.space("berry-tent")
    points = np.array([[0.3, 0.3, 0.4], [0.6, 0.5, 0.2]])
    one, two = (
        LightField(scene_of(_moved(space, x_m=0.6 + shift, y_m=0.6, z_m=1.5), PREVIEW)).at(points)
        for shift in (0.001, 0.004)
    )
    assert not np.allclose(one.direct[:, 0], two.direct[:, 0], rtol=1e-5)
    assert np.allclose(one.reflected, two.reflected, rtol=0.01)


@pytest.mark.parametrize(("space_id", "share"), [("berry-tent", 0.3), ("hall-closet", 0.3), ("sideboard", 0.6)])
def test_the_quick_look_is_within_five_per_cent_at_its_worst_point(demo_plan, space_id, share):
    from canopy.evaluate.light.lighting import crowns_of

    space = demo_plan.space(space_id)
    crowns = crowns_of(on(space)) if not any(plant.planting_id for plant in space.plants) else ()
    w, d, z = space.size.width_m, space.size.depth_m, share * space.size.height_m
    x, y = np.meshgrid((np.arange(12) + 0.5) / 12 * w, (np.arange(9) + 0.5) / 9 * d)
    points = inside(space, np.stack([x.ravel(), y.ravel(), np.full(x.size, z)], axis=1))
    quick, fine = (field_of(space, quality, crowns).at(points).total.sum(axis=1) for quality in (PREVIEW, FINE))
    off = np.abs(quick / fine - 1)
    assert off.max() < 0.05
    assert np.sqrt((off**2).mean()) < 0.02
