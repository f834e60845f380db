"""Compiles what runs a hundred thousand times, where a compiler is at hand; plain Python gives the same otherwise."""

from __future__ import annotations

import hashlib
import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

F = TypeVar("F", bound=Callable[..., Any])
Compiler = Callable[[Any], Any]
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


def _compilers() -> tuple[Compiler, Compiler] | None:
    """What compiles a loop, and what compiles its parts; None without a compiler."""
    if os.environ.get("MILD_CANOPY_PLAIN"):
        return None
    # The compiler looks at the date of one file only; what is called from others would go unnoticed.
    os.environ["NUMBA_CACHE_DIR"] = str(_place())
    try:
        import numba
    except ImportError:
        return None
    compiler: Any = numba.njit
    usual = {"cache": True, "nogil": True, "error_model": "numpy"}
    # Counting who holds each array that a part is given took five sixths of the time: a part that makes no array
    # need not count, and is put right where it is called.
    return compiler(**usual), compiler(**usual, forceinline=True, _nrt=False)


_COMPILERS = _compilers()
# Whether loops run compiled here; `MILD_CANOPY_PLAIN=1` leaves them as they are written.
COMPILED = _COMPILERS is not None


def loop(function: F) -> F:
    """Compile a function of plain numbers and arrays that is called from outside, and keep what was compiled.

    Parameters
    ----------
    function : written so that it runs as it stands, too

    Returns
    -------
    F : compiled where that can be done, else itself
    """
    compiled: F = function if _COMPILERS is None else _COMPILERS[0](function)
    return compiled


def part(function: F) -> F:
    """Compile a function that loops and other parts call.

    Parameters
    ----------
    function : as for `loop`; it makes no arrays, but for views of those that it is given

    Returns
    -------
    F : compiled where that can be done, else itself
    """
    compiled: F = function if _COMPILERS is None else _COMPILERS[1](function)
    return compiled
