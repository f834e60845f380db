"""Compiles what runs a hundred thousand times, where a compiler is at hand; plain Python gives the same otherwise."""

from __future__ import annotations

import hashlib
import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

F = TypeVar("F", bound=Callable[..., Any])
_HERE = Path(__file__).resolve().parent
# What is compiled: a change in any of them makes all of it stale.
_SOURCES = ("columns.py", "compiled.py", "moist.py", "balance.py", "switching.py", "moving.py", "books.py", "kernel.py")


def _place() -> Path:
    """Where what was compiled is kept: beside the files, or where they cannot be written, among the user's caches."""
    sha = hashlib.blake2b(digest_size=8)
    for name in _SOURCES:
        sha.update((_HERE / name).read_bytes())
    beside = _HERE / "__pycache__"
    if os.access(beside if beside.exists() else _HERE, os.W_OK):
        return beside / f"compiled-{sha.hexdigest()}"
    base = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    root = Path(base) if os.access(Path(base).parent, os.W_OK) else Path(tempfile.gettempdir())
    return root / "mild-canopy" / f"compiled-{sha.hexdigest()}"


def _compiler() -> Callable[[F], F] | None:
    if os.environ.get("MILD_CANOPY_PLAIN"):
        return None
    # The compiler looks at the date of one file only; what is called from others would go unnoticed.
    os.environ["NUMBA_CACHE_DIR"] = str(_place())
    try:
        from numba import njit
    except ImportError:
        return None
    compiler: Any = njit(cache=True, nogil=True, error_model="numpy")
    return compiler  # type: ignore[no-any-return]


_COMPILER = _compiler()
# Whether loops run compiled here; `MILD_CANOPY_PLAIN=1` leaves them as they are written.
COMPILED = _COMPILER is not None


def loop(function: F) -> F:
    """Compile a function of plain numbers and arrays, and keep what was compiled.

    Parameters
    ----------
    function : written so that it runs as it stands, too

    Returns
    -------
    F : compiled where that can be done, else itself
    """
    return function if _COMPILER is None else _COMPILER(function)
