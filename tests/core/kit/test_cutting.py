"""Bars cut with the least waste: against trying everything, and every piece there once."""

from collections import Counter
from itertools import permutations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.errors import QuantityError
from canopy.kit.cutting import KERF_MM, cut


def _fewest_by_trying(pieces, stock, kerf):
    best = len(pieces)
    for order in set(permutations(pieces)):
        bars, left = 0, -1
        for piece in order:
            if left < piece:
                bars, left = bars + 1, stock
            left -= piece + kerf
        best = min(best, bars)
    return best


@given(st.lists(st.integers(150, 1000), min_size=1, max_size=6))
def test_as_few_bars_as_trying_every_order(pieces):
    assert len(cut(pieces, 1000)) == _fewest_by_trying(pieces, 1000, KERF_MM)


@given(st.lists(st.integers(50, 2400), min_size=0, max_size=60))
def test_every_piece_is_cut_once_and_fits(pieces):
    bars = cut(pieces, 2400)
    assert Counter(piece for bar in bars for piece in bar.pieces_mm) == Counter(pieces)
    for bar in bars:
        used = sum(bar.pieces_mm) + KERF_MM * (len(bar.pieces_mm) - 1)
        assert used <= bar.stock_mm
        assert bar.left_mm == bar.stock_mm - used


def test_what_the_first_fit_misses_is_found():
    # The longest first take three bars: 6+2, 4+4, 3+3+2 leaves one over; well cut it is two.
    pieces = [600, 400, 500, 500]
    assert len(cut(pieces, 1000, 0)) == 2
    hard = [410, 410, 300, 300, 290, 290]
    assert len(cut(hard, 1000, 0)) == 2


def test_a_piece_longer_than_its_stock_is_refused():
    with pytest.raises(QuantityError, match="longer than a bar of 2000 mm"):
        cut([2001], 2000)
    assert cut([2000], 2000)[0].left_mm == 0
