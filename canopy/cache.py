"""A bounded store of costly results, found again by their content."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

T = TypeVar("T")


class ContentCache(Generic[T]):
    """Keep the latest results, up to so many bytes; safe to share between threads."""

    def __init__(self, max_bytes: int, size_of: Callable[[T], int]) -> None:
        self._max_bytes = max_bytes
        self._size_of = size_of
        self._held: OrderedDict[Hashable, T] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

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
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key]
        value = make()
        with self._lock:
            if key not in self._held:
                self._held[key] = value
                self._bytes += self._size_of(value)
                while self._bytes > self._max_bytes and len(self._held) > 1:
                    _, dropped = self._held.popitem(last=False)
                    self._bytes -= self._size_of(dropped)
        return value

    def holds(self, key: Hashable) -> bool:
        """Say whether a result is kept.

        Parameters
        ----------
        key : the content the result depends on

        Returns
        -------
        bool : True when it need not be made again
        """
        with self._lock:
            return key in self._held

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._held.clear()
            self._bytes = 0
