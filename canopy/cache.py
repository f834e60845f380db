"""Bounded stores of costly results, found again by their content, that share one allowance of memory."""

from __future__ import annotations

import os
from collections.abc import Callable, Hashable
from heapq import heapify, heappop, heappush
from itertools import count
from threading import Lock, local
from time import perf_counter
from typing import Any, Generic, TypeVar

T = TypeVar("T")
# What all stores together may hold unless ``MILD_CANOPY_CACHE_MB`` says otherwise [MB].
USUAL_MB = 65
# Being used more often than this makes nothing dearer.
_MOST_USES = 4
# What nobody asks for falls back by this while as much comes in as may be held [s/byte]: as much as most things are
# dear for their size, so that what an edit left behind makes way for what the next one needs.
_FALLS_BACK = 0.1e-6


class _Item:
    """What is held: how much it weighs [bytes], what making it again would cost [s], and how it stands to be let go."""

    __slots__ = ("cost_s", "rank", "size", "used", "value")

    def __init__(self, value: Any, size: int, cost_s: float) -> None:
        self.value, self.size, self.cost_s = value, size, cost_s
        self.used, self.rank = 1, 0.0


class Pool:
    """The allowance that stores share: what is cheapest to make again for the room it takes goes first, the sooner the
    longer nobody has asked for it, whichever store it lies in (GreedyDual-Size-Frequency; Cherkasova 1998; things also
    grow old by what comes in after them, not only by what was let go).
    """

    def __init__(self, max_bytes: int) -> None:
        self._max_bytes = max_bytes
        self._held: dict[tuple[int, Hashable], _Item] = {}
        # Ranks that were given, the lowest first; those given anew since count no more.
        self._order: list[tuple[float, int, tuple[int, Hashable]]] = []
        self._given = count()
        # What the last one let go was ranked: those used since stand above it.
        self._age = 0.0
        self._bytes = self._came = 0
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

    def find(self, key: tuple[int, Hashable]) -> tuple[Any] | None:
        """Give what is held under a key, alone in a tuple, and mark it as used."""
        with self._lock:
            item = self._held.get(key)
            if item is None:
                return None
            item.used = min(item.used + 1, _MOST_USES)
            self._place(key, item)
            return (item.value,)

    def keep(self, key: tuple[int, Hashable], value: Any, size: int, cost_s: float = 1e-3) -> None:
        """Hold something, unless it is held already.

        Parameters
        ----------
        key : its store and its content
        value : what to hold
        size : how much it weighs [bytes]
        cost_s : what it took to make [s]
        """
        with self._lock:
            if key not in self._held:
                item = self._held[key] = _Item(value, size, cost_s)
                self._bytes += size
                self._came += size
                self._place(key, item)
                self._trim(key)

    def has(self, key: tuple[int, Hashable]) -> bool:
        """Say whether something is held, without marking it as used."""
        with self._lock:
            return key in self._held

    def forget(self, key: tuple[int, Hashable]) -> None:
        """Let go of what is held under a key."""
        with self._lock:
            self._remove(key)

    def drop(self, store: int) -> None:
        """Forget all of one store."""
        with self._lock:
            for key in [key for key in self._held if key[0] == store]:
                self._remove(key)

    def _place(self, key: tuple[int, Hashable], item: _Item) -> None:
        age = max(self._age, _FALLS_BACK * self._came / max(self._max_bytes, 1))
        item.rank = age + item.used * item.cost_s / max(item.size, 1)
        heappush(self._order, (item.rank, next(self._given), key))
        if len(self._order) > 4 * len(self._held) + 1000:
            self._order = [(item.rank, next(self._given), key) for key, item in self._held.items()]
            heapify(self._order)

    def _remove(self, key: tuple[int, Hashable]) -> None:
        item = self._held.pop(key, None)
        if item is not None:
            self._bytes -= item.size

    def _trim(self, fresh: tuple[int, Hashable] | None = None) -> None:
        """Let go of what ranks lowest; not of what came in just now, which whoever made it will ask for."""
        spared = False
        while self._bytes > self._max_bytes and len(self._held) > 1:
            rank, _, key = heappop(self._order)
            item = self._held.get(key)
            if item is None or item.rank != rank:
                continue
            if key == fresh:
                spared = True
                continue
            self._age = rank
            self._remove(key)
        if spared and fresh is not None:
            self._place(fresh, self._held[fresh])


_ALLOWED = 1_000_000 * int(os.environ.get("MILD_CANOPY_CACHE_MB") or USUAL_MB)
# Reports are small and dear: matrices, of which each edit leaves some behind, never push them out.
_FOR_REPORTS = 0.2
POOL = Pool(int(_ALLOWED * (1 - _FOR_REPORTS)))
REPORTS = Pool(int(_ALLOWED * _FOR_REPORTS))
_numbers, _working = count(), local()
# What an entry weighs besides its arrays: its key and its record.
_OVERHEAD = 2_000


class ContentCache(Generic[T]):
    """Results of one kind in the shared allowance; safe to use from several threads.

    What making a result took tells how dear it is; ``s_per_mb`` is what it would take afresh, for kinds that are often
    mended from one before in no time.
    """

    def __init__(self, size_of: Callable[[T], int], pool: Pool = POOL, *, s_per_mb: float = 0.0) -> None:
        self._size_of, self._pool, self._number, self._s_per_mb = size_of, pool, next(_numbers), s_per_mb

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
        # What other stores make meanwhile is dear by itself.
        before, begin = getattr(_working, "elsewhere_s", 0.0), perf_counter()
        _working.elsewhere_s = 0.0
        try:
            value = make()
        finally:
            took, own = perf_counter() - begin, _working.elsewhere_s
            _working.elsewhere_s = before + took
        size = self._size_of(value) + _OVERHEAD
        self._pool.keep(whole, value, size, max(took - own, 1e-6, self._s_per_mb * size / 1e6))
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
