"""What lines of sight can meet, and what stays known while points move: against looking at every line."""

from time import perf_counter

import numpy as np
import pytest

from canopy.cache import ContentCache, Pool
from canopy.light.crowns import Crown
from canopy.light.depths import depths
from canopy.light.shafts import Lots, faced, met
from canopy.light.spots import by_rows, spots_of

RNG = np.random.default_rng(7)


def _crowns(count, rng):
    return [
        Crown(
            x_m=2 * rng.random(),
            y_m=2 * rng.random(),
            bottom_m=0.2 * rng.random(),
            top_m=0.3 + 0.9 * rng.random(),
            radius_m=0.05 + 0.2 * rng.random(),
            lai=1 + 3 * rng.random(),
        )
        for _ in range(count)
    ]


def _by_hand(crowns, here, there, steps=3000):
    """Depth along each line by walking along it."""
    at = (np.arange(steps) + 0.5) / steps
    out = np.zeros((len(here), len(there)))
    for i, p in enumerate(here):
        for j, q in enumerate(there):
            way = p + at[:, None] * (q - p)
            for crown in crowns:
                inside = ((((way - crown.middle) / crown.semi_axes) ** 2).sum(axis=1) < 1).mean()
                out[i, j] += crown.weakening_per_m * inside * np.linalg.norm(q - p)
    return out


@pytest.mark.parametrize("count", [1, 5, 16, 17, 33, 200])
def test_every_point_is_in_one_lot(count):
    found = Lots(RNG.random((count, 3)), 16)
    assert sorted(found.members[found.real].tolist()) == list(range(count))
    assert found.real.sum(axis=1).max() <= 16


def test_lots_are_of_neighbours():
    points = RNG.random((512, 3))
    found = Lots(points, 16)
    assert np.prod(found.high - found.low, axis=1).mean() < 0.06


def test_no_line_that_meets_a_box_is_passed_over():
    # Against every line of many random shafts, cut with the box by the slab method.
    missed, culled = 0, 0
    for _ in range(300):
        ours, theirs = (RNG.random((6, 3)) * RNG.random(3) + 2 * RNG.random(3) for _ in range(2))
        middle = 2 * RNG.random(3)
        low, high = middle - 0.3 * RNG.random(3), middle + 0.3 * RNG.random(3)
        may = bool(met((ours.min(0), ours.max(0)), (theirs.min(0), theirs.max(0)), (low, high)))
        way = theirs[None] - ours[:, None]
        first, last = (low - ours)[:, None] / way, (high - ours)[:, None] / way
        enter = np.minimum(first, last).max(axis=2).clip(0, 1)
        leave = np.maximum(first, last).min(axis=2).clip(0, 1)
        hit = bool((leave > enter).any())
        missed += hit and not may
        culled += not may
    assert missed == 0
    assert culled > 100


def test_a_flat_lot_at_the_top_of_a_box_and_one_above_it_do_not_meet_it():
    level, above = (np.array([[0.0, 0, 0.3], [1, 1, 0.3]]), np.array([[0.0, 0, 1.2], [1, 1, 1.2]]))
    box = np.array([0.4, 0.4, 0.1]), np.array([0.6, 0.6, 0.3])
    assert not met((level.min(0), level.max(0)), (above.min(0), above.max(0)), box)
    lower = level - (0, 0, 0.05)
    assert met((lower.min(0), lower.max(0)), (above.min(0), above.max(0)), box)


def test_what_lies_behind_all_points_of_a_lot_is_not_faced():
    points = np.array([[0.2, 0.2, 0.5], [0.4, 0.3, 0.6]])
    ups = np.tile([0.0, 0, 1], (2, 1))
    low = np.array([[0.0, 0, 0], [0, 0, 0.55], [0, 0, 0.4]])
    high = np.array([[1.0, 1, 0.5], [1, 1, 0.6], [1, 1, 0.7]])
    assert faced(Lots(points, 16), ups, low, high).tolist() == [[False, True, True]]


def test_depths_are_those_along_each_line():
    rng = np.random.default_rng(11)
    crowns, here, there = _crowns(12, rng), 2 * rng.random((40, 3)), 2 * rng.random((25, 3))
    assert depths(crowns, here, there).total == pytest.approx(_by_hand(crowns, here, there), abs=0.02)


def test_what_lies_behind_a_point_needs_no_depth_and_what_lies_ahead_has_it():
    rng = np.random.default_rng(12)
    crowns, here, there = _crowns(12, rng), 2 * rng.random((60, 3)), 2 * rng.random((50, 3))
    facing = rng.normal(size=(60, 3))
    facing /= np.linalg.norm(facing, axis=1)[:, None]
    whole, seen = depths(crowns, here, there).total, depths(crowns, here, there, facing).total
    ahead = np.einsum("nmc,nc->nm", there[None] - here[:, None], facing) > 1e-6
    assert seen[ahead] == pytest.approx(whole[ahead], abs=1e-5)


def test_moving_points_and_crowns_gives_what_looking_afresh_gives():
    rng = np.random.default_rng(13)
    crowns, here, there = _crowns(30, rng), 2 * rng.random((150, 3)), 2 * rng.random((70, 3))
    before = depths(crowns, here, there)
    for turn in range(4):
        moved = here.copy()
        moved[turn : turn + 5] += 0.05
        crowns = [*crowns[:turn], *_crowns(1, rng), *crowns[turn + 1 :]]
        # Another order of crowns and one less: owners are renumbered.
        mixed = [crowns[k] for k in rng.permutation(len(crowns))[: 29 - turn]]
        now = depths(mixed, moved, there)
        afresh = sum(depths([crown], moved, there).total for crown in mixed)
        assert now.total == pytest.approx(afresh, abs=2e-5)
        weight = rng.random(now.shape)
        apart = [depths([crown], moved, there) for crown in mixed]
        gone = np.where(now.total > 1e-6, -np.expm1(-now.total) / np.maximum(now.total, 1e-9), 1) * weight
        want = np.array([(gone * item.total).sum(axis=1) for item in apart]).T
        assert now.taken(weight).toarray() == pytest.approx(want, abs=1e-4)
        before, here, crowns = now, moved, mixed
    assert not before.clear


def test_points_in_one_place_share_their_lines():
    rng = np.random.default_rng(16)
    crowns, here, there = _crowns(9, rng), 2 * rng.random((7, 3)), 2 * rng.random((5, 3))
    rows, cols = np.array([6, 0, 0, 3, 1, 6, 2]), np.array([4, 4, 0, 1])
    once = depths(crowns, here, there)
    assert once.spread(rows).total == pytest.approx(once.total[rows])
    both = once.spread(rows, cols)
    assert both.total == pytest.approx(once.total[rows][:, cols])
    weight = rng.random(both.shape)
    afresh = depths(crowns, here[rows], there[cols])
    assert both.taken(weight).toarray() == pytest.approx(afresh.taken(weight).toarray(), abs=1e-5)


def test_twins_count_twice_each_time():
    rng = np.random.default_rng(14)
    one, here, there = _crowns(1, rng), 2 * rng.random((60, 3)), 2 * rng.random((40, 3))
    alone = depths(one, here, there)
    for _ in range(2):
        assert depths([*one, *one], here, there).total == pytest.approx(2 * alone.total, abs=1e-5)


def test_only_points_that_moved_are_looked_at_again():
    rng = np.random.default_rng(15)
    points, ups = rng.random((90, 3)), np.tile([0.0, 0, 1], (90, 1))
    store, asked = ContentCache(lambda item: item.nbytes), []

    def find(at, facing):
        asked.append(len(at))
        return at.sum(axis=1) + facing[:, 2]

    first = by_rows(store, spots_of(points, ups), "k", find)
    moved = points.copy()
    moved[[3, 40, 41]] += 0.1
    second = by_rows(store, spots_of(moved, ups), "k", find)
    assert asked == [90, 3]
    assert second == pytest.approx(moved.sum(axis=1) + 1)
    assert first == pytest.approx(points.sum(axis=1) + 1)
    # Back again, and as many points elsewhere altogether.
    assert by_rows(store, spots_of(points, ups), "k", find) == pytest.approx(first)
    assert asked == [90, 3, 3]
    by_rows(store, spots_of(rng.random((90, 3)), ups), "k", find)
    assert asked[-1] == 90


def test_a_pool_keeps_what_is_dear_to_make_and_lets_the_rest_go():
    pool = Pool(1000)
    for number in range(5):
        pool.keep((0, number), number, 100, cost_s=0.5)
    # A flood of things that are cheap to make again leaves the five where they are.
    for number in range(100, 160):
        pool.keep((1, number), number, 100, cost_s=0.001)
        assert pool.held_bytes <= 1000
    assert all(pool.has((0, number)) for number in range(5))
    assert pool.has((1, 159))
    assert not pool.has((1, 120))


def test_of_things_alike_a_pool_lets_go_of_what_was_not_asked_for():
    pool = Pool(1000)
    for number in range(10):
        pool.keep((0, number), number, 100)
    assert pool.find((0, 0)) == (0,)
    for number in range(10, 15):
        pool.keep((0, number), number, 100)
    assert pool.has((0, 0))
    assert not pool.has((0, 1))
    assert pool.has((0, 14))


def test_what_was_dear_once_ages_until_nobody_keeps_it():
    pool = Pool(1000)
    pool.keep((0, 0), "dear", 100, cost_s=0.01)
    for number in range(1, 400):
        pool.keep((1, number), number, 100, cost_s=0.001)
        assert pool.held_bytes <= 1000
    assert not pool.has((0, 0))
    assert pool.has((1, 399))
    pool.forget((1, 399))
    assert pool.held_bytes == 900
    pool.drop(1)
    assert pool.held_bytes == 0


def test_what_is_made_for_another_store_is_not_counted_twice():
    pool, costs = Pool(10_000_000), {}
    inner, outer = ContentCache(lambda item: 1, pool), ContentCache(lambda item: 1, pool)
    keep = pool.keep

    def noting(key, value, size, cost_s=0.0):
        costs[value] = cost_s
        keep(key, value, size, cost_s)

    pool.keep = noting

    def slow(value):
        end = perf_counter() + 0.02
        while perf_counter() < end:
            pass
        return value

    assert outer.get("a", lambda: slow("outer") if inner.get("b", lambda: slow("inner")) else "") == "outer"
    assert 0.02 <= costs["inner"] < 0.04
    assert 0.02 <= costs["outer"] < 0.04
