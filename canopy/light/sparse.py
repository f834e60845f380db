"""Matrices that are mostly nothing; the library behind them is loaded when the first is made, not at the start."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from scipy.sparse import csr_array


def gathered(
    values: NDArray[np.floating],
    rows: NDArray[np.integer],
    cols: NDArray[np.integer],
    shape: tuple[int, int],
) -> csr_array:
    """Gather values into a matrix, those of one place added up.

    Parameters
    ----------
    values : shape (k,), any
    rows : their rows, shape (k,)
    cols : their columns, shape (k,)
    shape : of the matrix, rows and columns, 0 or more each

    Returns
    -------
    csr_array : of that shape
    """
    from scipy.sparse import coo_array

    return coo_array((values, (rows, cols)), shape=shape).tocsr()


def nothing(shape: tuple[int, int]) -> csr_array:
    """Give a matrix of nothing.

    Parameters
    ----------
    shape : rows and columns, 0 or more each

    Returns
    -------
    csr_array : of that shape
    """
    from scipy.sparse import csr_array

    return csr_array(shape)
