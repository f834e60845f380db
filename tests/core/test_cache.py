"""The stores' shared allowance: what is dear stays, what is cheap goes, what came just now is there when asked for."""

from __future__ import annotations

from canopy.cache import Pool


def test_what_is_dear_for_its_room_stays():
    pool = Pool(1_000)
    pool.keep((0, "dear"), "d", 400, 5.0)
    pool.keep((0, "cheap"), "c", 400, 0.01)
    pool.keep((0, "next"), "n", 400, 1.0)
    assert pool.has((0, "dear"))
    assert not pool.has((0, "cheap"))
    assert pool.has((0, "next"))


def test_what_came_in_just_now_is_there_though_all_else_is_dearer():
    pool = Pool(1_000)
    for number in range(5):
        pool.keep((0, number), "d", 200, 5.0)
    for number in range(20):
        pool.keep((1, number), "n", 300, 0.001)
        assert pool.find((1, number)) == ("n",)
        assert pool.held_bytes <= 1_000


def test_one_that_is_larger_than_all_is_held_alone():
    pool = Pool(1_000)
    pool.keep((0, "small"), "s", 200, 5.0)
    pool.keep((0, "huge"), "h", 5_000, 0.001)
    assert pool.has((0, "huge"))
    assert not pool.has((0, "small"))
    pool.keep((0, "small"), "s", 200, 0.001)
    assert pool.held_bytes <= 1_000


def test_what_nobody_asks_for_makes_way_for_cheap_things_in_use():
    # Twice the room comes in while one dear thing lies idle and a cheap one is asked for again and again.
    pool = Pool(1_000)
    pool.keep((0, "idle"), "i", 300, 300 * 0.15e-6)
    pool.keep((0, "used"), "u", 300, 300 * 0.01e-6)
    for number in range(12):
        pool.keep((1, number), "n", 300, 300 * 0.02e-6)
        assert pool.find((0, "used")) == ("u",)
    assert not pool.has((0, "idle"))


def test_what_is_very_dear_outlasts_much_that_comes_in():
    pool = Pool(1_000)
    pool.keep((0, "dear"), "d", 300, 300 * 5e-6)
    for number in range(30):
        pool.keep((1, number), "n", 300, 300 * 0.02e-6)
    assert pool.has((0, "dear"))
