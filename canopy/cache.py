"""Bounded stores of costly results, found again by their content, that share one allowance of memory."""

from __future__ import annotations

import os
from collections import OrderedDict
from collections.abc import Callable, Hashable
from itertools import count
from threading import Lock
from typing import Any, Generic, TypeVar

T = TypeVar("T")
# What all stores together may hold unless ``MILD_CANOPY_CACHE_MB`` says otherwise [MB].
USUAL_MB = 96
# What was asked for more than once may take up this much of the allowance.
_PROVEN = 0.85


class Pool:
    """The allowance that stores share: what was never asked for again goes first, then what was used longest ago,
    whichever store it lies in (a segmented LRU; Karedla, Love & Wherry 1994).

    What an edit leaves behind for good so never pushes out what every edit needs.
    """

    def __init__(self, max_bytes: int) -> None:
        self._max_bytes = max_bytes
        self._new: OrderedDict[tuple[int, Hashable], tuple[Any, int]] = OrderedDict()
        self._proven: OrderedDict[tuple[int, Hashable], tuple[Any, int]] = OrderedDict()
        self._bytes, self._proven_bytes = 0, 0
        self._lock = Lock()

    def allow(self, max_bytes: int) -> None:
        """Set how much may be held, and drop what is beyond it.

        Parameters
        ----------
        max_bytes : 0 or more
        """
        with self._lock:
            self._max_bytes = max_bytes
            self._trim()

    @property
    def held_bytes(self) -> int:
        """How much is held, as its stores weigh it."""
        return self._bytes

    def find(self, key: tuple[int, Hashable]) -> tuple[Any, int] | None:
        """Give what is held under a key, and mark it as used."""
        with self._lock:
            found = self._proven.get(key)
            if found is not None:
                self._proven.move_to_end(key)
                return found
            found = self._new.pop(key, None)
            if found is not None:
                self._proven[key] = found
                self._proven_bytes += found[1]
                while self._proven_bytes > _PROVEN * self._max_bytes and len(self._proven) > 1:
                    old, item = self._proven.popitem(last=False)
                    self._proven_bytes -= item[1]
                    self._new[old] = item
            return found

    def keep(self, key: tuple[int, Hashable], value: Any, size: int) -> None:
        """Hold something, unless it is held already."""
        with self._lock:
            if key not in self._proven and key not in self._new:
                self._new[key] = (value, size)
                self._bytes += size
                self._trim()

    def has(self, key: tuple[int, Hashable]) -> bool:
        """Say whether something is held, without marking it as used."""
        with self._lock:
            return key in self._proven or key in self._new

    def forget(self, key: tuple[int, Hashable]) -> None:
        """Let go of what is held under a key."""
        with self._lock:
            self._remove(key)

    def drop(self, store: int) -> None:
        """Forget all of one store."""
        with self._lock:
            for key in [key for held in (self._new, self._proven) for key in held if key[0] == store]:
                self._remove(key)

    def _remove(self, key: tuple[int, Hashable]) -> None:
        found = self._new.pop(key, None)
        if found is None and (found := self._proven.pop(key, None)) is not None:
            self._proven_bytes -= found[1]
        if found is not None:
            self._bytes -= found[1]

    def _trim(self) -> None:
        while self._bytes > self._max_bytes and len(self._new) + len(self._proven) > 1:
            # What came last is what is being worked with.
            held = self._new if len(self._new) > 1 or not self._proven else self._proven
            self._remove(next(iter(held)))


_ALLOWED = 1_000_000 * int(os.environ.get("MILD_CANOPY_CACHE_MB") or USUAL_MB)
# Reports are small and dear: matrices, of which each edit leaves some behind, never push them out.
_FOR_REPORTS = 0.25
POOL = Pool(int(_ALLOWED * (1 - _FOR_REPORTS)))
REPORTS = Pool(int(_ALLOWED * _FOR_REPORTS))
_numbers = count()
# What an entry weighs besides its arrays: its key and its record.
_OVERHEAD = 2_000


class ContentCache(Generic[T]):
    """Results of one kind in the shared allowance; safe to use from several threads."""

    def __init__(self, size_of: Callable[[T], int], pool: Pool = POOL) -> None:
        self._size_of, self._pool, self._number = size_of, pool, next(_numbers)

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return what is kept under a key, or make and keep it.

        Parameters
        ----------
        key : the content the result depends on
        make : computes the result

        Returns
        -------
        T : the result, to be treated as read-only
        """
        whole = (self._number, key)
        found = self._pool.find(whole)
        if found is not None:
            value: T = found[0]
            return value
        value = make()
        self._pool.keep(whole, value, self._size_of(value) + _OVERHEAD)
        return value

    def peek(self, key: Hashable) -> T | None:
        """Return what is kept under a key, and make nothing.

        Parameters
        ----------
        key : the content the result depends on

        Returns
        -------
        T : None where nothing is kept
        """
        found = self._pool.find((self._number, key))
        return None if found is None else found[0]

    def holds(self, key: Hashable) -> bool:
        """Say whether a result is kept.

        Parameters
        ----------
        key : the content the result depends on

        Returns
        -------
        bool : True when it need not be made again
        """
        return self._pool.has((self._number, key))

    def forget(self, key: Hashable) -> None:
        """Let go of one result: what took its place serves as well.

        Parameters
        ----------
        key : the content the result depends on
        """
        self._pool.forget((self._number, key))

    def clear(self) -> None:
        """Forget everything of this kind."""
        self._pool.drop(self._number)
