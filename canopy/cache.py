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
USUAL_MB = 80


class Pool:
    """The allowance that stores share: what was used longest ago goes first, whichever store it lies in."""

    def __init__(self, max_bytes: int) -> None:
        self._max_bytes = max_bytes
        self._held: OrderedDict[tuple[int, Hashable], tuple[Any, int]] = OrderedDict()
        self._bytes = 0
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
            found = self._held.get(key)
            if found is not None:
                self._held.move_to_end(key)
            return found

    def keep(self, key: tuple[int, Hashable], value: Any, size: int) -> None:
        """Hold something, unless it is held already."""
        with self._lock:
            if key not in self._held:
                self._held[key] = (value, size)
                self._bytes += size
                self._trim()

    def has(self, key: tuple[int, Hashable]) -> bool:
        """Say whether something is held, without marking it as used."""
        with self._lock:
            return key in self._held

    def drop(self, store: int) -> None:
        """Forget all of one store."""
        with self._lock:
            for key in [key for key in self._held if key[0] == store]:
                self._bytes -= self._held.pop(key)[1]

    def _trim(self) -> None:
        while self._bytes > self._max_bytes and len(self._held) > 1:
            _, (_, size) = self._held.popitem(last=False)
            self._bytes -= size


_ALLOWED = 1_000_000 * int(os.environ.get("MILD_CANOPY_CACHE_MB") or USUAL_MB)
# Reports are small and dear: matrices, of which each edit leaves some behind, never push them out.
_FOR_REPORTS = 0.35
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

    def clear(self) -> None:
        """Forget everything of this kind."""
        self._pool.drop(self._number)
