"""A long search done a slice a request: it says how far it has come, and stops when nobody asks on."""

from __future__ import annotations

import time
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field
from threading import Lock
from typing import Generic, TypeVar

from canopy.cache import REPORTS, ContentCache

Item = TypeVar("Item")
Tried = TypeVar("Tried")
_SLICE_S = 0.5


@dataclass(kw_only=True)
class _State(Generic[Tried]):
    """What has been tried of one search; one thread at a time goes on with it."""

    done: dict[str, Tried] = field(default_factory=dict)
    lock: Lock = field(default_factory=Lock)


# What the tries of one search weigh, some dozens of proposals; kept with the reports, since the matrices of its own
# tries would push out how far it has come.
_STATE_BYTES = 1_000_000


class Search(Generic[Item, Tried]):
    """A kind of search, kept for what all its tries depend on."""

    def __init__(self, name: Callable[[Item], str]) -> None:
        self._name = name
        self._kept: ContentCache[_State[Tried]] = ContentCache(lambda item: _STATE_BYTES, REPORTS)

    def go_on(self, key: Hashable, row: Sequence[Item], attempt: Callable[[Item], Tried]) -> dict[str, Tried]:
        """Try some more of a row of choices; gives all that was tried so far, in the order of the row."""
        state = self._kept.get(key, _State)
        begin = time.monotonic()
        with state.lock:
            for item in row:
                name = self._name(item)
                if name not in state.done:
                    state.done[name] = attempt(item)
                    if time.monotonic() - begin > _SLICE_S:
                        break
            return dict(state.done)
