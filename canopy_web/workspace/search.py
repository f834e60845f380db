"""A long search done a slice a request: it says how far it has come, and stops when nobody asks on."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field
from threading import Lock
from typing import Generic, TypeVar

Item = TypeVar("Item")
Tried = TypeVar("Tried")
_SLICE_S = 0.5


@dataclass(kw_only=True)
class _State(Generic[Tried]):
    """What has been tried of one search; one thread at a time goes on with it."""

    done: dict[str, Tried] = field(default_factory=dict)
    lock: Lock = field(default_factory=Lock)


# How many searches of a kind are gone on with at once; some dozens of proposals each, about 1 MB. They stand outside
# the cache of results: what a search tries would push out how far it has come, and it would never end.
_MOST = 6


class Search(Generic[Item, Tried]):
    """A kind of search, kept for what all its tries depend on."""

    def __init__(self, name: Callable[[Item], str]) -> None:
        self._name = name
        self._kept: OrderedDict[Hashable, _State[Tried]] = OrderedDict()
        self._lock = Lock()

    def _state(self, key: Hashable) -> _State[Tried]:
        """Find how far a search has come, or begin it; the one that was not asked for longest goes."""
        with self._lock:
            state = self._kept.setdefault(key, _State())
            self._kept.move_to_end(key)
            while len(self._kept) > _MOST:
                self._kept.popitem(last=False)
            return state

    def go_on(self, key: Hashable, row: Sequence[Item], attempt: Callable[[Item], Tried]) -> dict[str, Tried]:
        """Try some more of a row of choices; gives all that was tried so far, in the order of the row."""
        state = self._state(key)
        begin = time.monotonic()
        with state.lock:
            for item in row:
                name = self._name(item)
                if name not in state.done:
                    state.done[name] = attempt(item)
                    if time.monotonic() - begin > _SLICE_S:
                        break
            return dict(state.done)
