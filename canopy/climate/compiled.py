"""Compiles what runs a hundred thousand times, where a compiler is at hand; plain Python gives the same otherwise."""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import Any, TypeVar

F = TypeVar("F", bound=Callable[..., Any])


def _compiler() -> Callable[[F], F] | None:
    if os.environ.get("MILD_CANOPY_PLAIN"):
        return None
    try:
        from numba import njit
    except ImportError:
        return None
    return njit(cache=True, nogil=True, error_model="numpy")  # type: ignore[no-any-return]


_COMPILER = _compiler()
# Whether loops run compiled here; `MILD_CANOPY_PLAIN=1` leaves them as they are written.
COMPILED = _COMPILER is not None


def loop(function: F) -> F:
    """Compile a function of plain numbers and arrays, and keep what was compiled beside its file.

    Parameters
    ----------
    function : written so that it runs as it stands, too

    Returns
    -------
    F : compiled where that can be done, else itself
    """
    return function if _COMPILER is None else _COMPILER(function)
