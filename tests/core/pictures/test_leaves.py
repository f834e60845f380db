"""Leaves told from ground: rendered floors of known cover under lamps of several colours."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import pytest

from canopy.errors import PictureError
from canopy.light.spectra import band_shares, typical
from canopy.pictures.ground import flat, marked, to_linear
from canopy.pictures.leaves import leaves
from canopy.standins.camera import lamp, of, photograph, scene

SMALL = (760, 570)


def look(what, name, rng, **how):
    picture, corners = photograph(what, lamp(name), rng, size=SMALL, **how)
    return flat(picture, marked(*what.size_m, SMALL, corners), longest_px=600)


def told(what, name, rng, **how):
    return leaves(look(what, name, rng, **how), green_share=band_shares(typical(name))["green"])


def told_or_not(what, name, rng, **how):
    try:
        return told(what, name, rng, **how)
    except PictureError:
        return None


@pytest.mark.parametrize("name", ["white-led-4000", "hps", "white-660"])
@pytest.mark.parametrize("floor", ["film", "grey", "soil"])
@pytest.mark.parametrize("cover", [0.04, 0.3, 0.6, 0.9])
def test_cover_within_three_points(name, floor, cover):
    rng = np.random.default_rng(int(100 * cover))
    what = scene(cover, rng, floor=of(floor), px_m=0.002)
    found = told(what, name, rng, balance=1.0 if cover in (0.3, 0.9) else 0.5)
    assert found.how == "green"
    assert abs(found.cover - what.cover) < 0.03
    assert abs(found.cover - what.cover) < 3 * found.standard_error


@pytest.mark.parametrize("balance", [0.5, 1.0])
@pytest.mark.parametrize("cover", [0.1, 0.4, 0.8])
def test_purple_light_on_a_light_floor_without_yellowish_leaves(balance, cover):
    rng = np.random.default_rng(7)
    what = scene(cover, rng, px_m=0.002)
    what.material[what.material == of("pale")] = 5
    found = told(what, "red-blue", rng, balance=balance)
    assert found.how == "dark"
    assert any("darkness alone" in words for words in found.limits)
    assert abs(found.cover - what.cover) < 0.03


@pytest.mark.parametrize("floor", ["black", "soil"])
@pytest.mark.parametrize("balance", [0.5, 1.0])
def test_purple_light_on_a_dark_floor_is_refused_or_doubted(floor, balance):
    rng = np.random.default_rng(3)
    what = scene(0.45, rng, floor=of(floor), px_m=0.002)
    found = told_or_not(what, "red-blue", rng, balance=balance)
    assert found is None or abs(found.cover - what.cover) < 3 * found.standard_error


@lru_cache
def blobs(cover):
    """Round leaves, each of its own brightness; 0 where there is none."""
    rng = np.random.default_rng(3)
    y, x = np.mgrid[0:300, 0:400]
    shade = np.zeros((300, 400))
    while (shade > 0).mean() < cover:
        near = np.hypot(x - rng.uniform(0, 400), 1.3 * (y - rng.uniform(0, 300))) < rng.uniform(8, 28)
        shade[near] = rng.uniform(0.7, 1.25)
    return shade


def painted(cover, colour, floor, noise=4.0):
    """A floor with round green leaves, drawn in a screen's colours and multiplied by a lamp's."""
    shade = blobs(cover)[..., None]
    shown = np.where(shade > 0, np.array((70, 140, 55)) * shade, np.array(floor))
    noisy = shown * colour + np.random.default_rng(1).normal(0, noise, shown.shape)
    return to_linear(np.clip(noisy, 0, 255).astype(np.uint8)).astype(float), float((shade > 0).mean())


@pytest.mark.parametrize("colour", [(1, 1, 1), (1, 0.75, 0.4), (0.85, 0.25, 0.95), (0.5, 0.2, 1)])
@pytest.mark.parametrize("floor", [(150, 150, 150), (90, 70, 50), (235, 235, 235)])
@pytest.mark.parametrize("cover", [0.1, 0.85])
@pytest.mark.parametrize("green", [None, 0.01])
def test_a_lamp_shifts_all_colours_alike(colour, floor, cover, green):
    linear, true = painted(cover, colour, floor)
    assert leaves(linear, green_share=green).cover == pytest.approx(true, abs=0.015)


@pytest.mark.parametrize("floor", ["film", "grey", "soil", "clay"])
def test_no_leaves_are_none(floor):
    rng = np.random.default_rng(1)
    what = scene(0.0, rng, floor=of(floor), px_m=0.002)
    what.material[100:160, 200:300] = of("soil")
    what.material[100:160, 320:400] = of("grey")
    what.material[40:90, 200:300] = of("clay")
    drawn = look(what, "white-led-4000", rng, balance=1.0)
    with pytest.raises(PictureError, match="no part of the floor is greener"):
        leaves(drawn, green_share=0.4)
    assert leaves(drawn, green_share=0.4, grey=np.array([0.18, 0.18, 0.18])).cover == 0


def test_leaves_all_over_are_all_and_a_card_makes_it_sure():
    rng = np.random.default_rng(2)
    what = scene(0.0, rng, px_m=0.002)
    what.material[:] = 5
    drawn = look(what, "white-led-4000", rng, balance=1.0)
    grey = np.array([0.2, 0.2, 0.2])
    drawn = drawn[12:-12, 12:-12]
    assert leaves(drawn, green_share=0.45).cover == 1
    assert "card" in leaves(drawn, green_share=0.45).limits[-1]
    assert leaves(drawn, green_share=0.45, grey=grey).limits[-1] == "no part of it is greener than another"
    # Held against a card as green as they are, they are no leaves.
    assert leaves(drawn, green_share=0.45, grey=np.median(drawn.reshape(-1, 3), axis=0)).cover == 0


@pytest.mark.parametrize(
    ("linear", "words"),
    [
        (np.full((60, 80, 3), 0.001), "too dark"),
        (np.full((60, 80, 3), 1.0), "burnt out"),
        (np.full((60, 80, 3), 0.4) * np.array([0.3, 1, 0.2]), "one plain colour"),
    ],
)
def test_what_shows_nothing_is_refused(linear, words):
    with pytest.raises(PictureError, match=words):
        leaves(linear)


class TestPointing:
    """Somebody pointed at leaves and at what is none."""

    def drawn(self):
        rng = np.random.default_rng(5)
        what = scene(0.35, rng, floor=of("soil"), px_m=0.002)
        what.material[what.material == of("pale")] = 5
        linear = look(what, "red-blue", rng, balance=1.0)
        rows, columns = linear.shape[:2]
        inside = [what.leaves, ~what.leaves]
        spots = []
        for mask in inside:
            at = np.argwhere(mask)
            # Far enough from any edge that a tap lies within.
            deep = [
                p
                for p in at[rng.permutation(len(at))[:400]]
                if (mask[max(0, p[0] - 8) : p[0] + 9, max(0, p[1] - 8) : p[1] + 9]).all()
            ][:4]
            spots.append([(int(p[0] * rows / mask.shape[0]), int(p[1] * columns / mask.shape[1])) for p in deep])
        return linear, what.cover, spots

    def test_tells_apart_what_greenness_does_not(self):
        linear, true, (leaf, ground) = self.drawn()
        found = leaves(linear, green_share=0.01, leaf_spots=leaf, ground_spots=ground)
        assert found.how == "shown"
        assert found.cover == pytest.approx(true, abs=0.06)

    def test_wants_both_kinds(self):
        linear, _, (leaf, _) = self.drawn()
        with pytest.raises(PictureError, match="once each"):
            leaves(linear, leaf_spots=leaf)
        with pytest.raises(PictureError, match="alike"):
            leaves(linear, leaf_spots=leaf[:1], ground_spots=leaf[:1])
        with pytest.raises(PictureError, match="beside the floor"):
            leaves(linear, leaf_spots=leaf, ground_spots=[(9999, 0)])


def test_a_slider_moves_what_counts():
    linear, _ = painted(0.4, (1, 1, 1), (150, 150, 150), noise=12)
    less, middle, more = (leaves(linear, shift=shift).cover for shift in (-1, 0, 1))
    assert less < middle < more
