"""Work that goes on by itself one try at a time: kept while somebody looks on, gone on with a slice a request."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from threading import Lock
from typing import Generic, Protocol, TypeVar

from django.http import HttpRequest, HttpResponse

# How many of a kind are gone on with at once, and how long one goes on within a request [s].
_MOST, _SLICE_S = 3, 0.8


class Working(Protocol):
    """What can be gone on with until it is finished."""

    finished: bool

    def go_on(self) -> bool:
        """Try one more thing; says whether there is more."""


Work = TypeVar("Work", bound=Working)


@dataclass(eq=False)
class Slice(Generic[Work]):
    """One of them; one thread at a time goes on with it, and whoever waits finds what the other has found."""

    work: Work
    lock: Lock = field(default_factory=Lock)
    told_to_stop: bool = False

    def go_on(self) -> None:
        """Try some more, at least one thing; nothing once it was told to stop."""
        with self.lock:
            begin = time.monotonic()
            while not self.told_to_stop and self.work.go_on() and time.monotonic() - begin < _SLICE_S:
                pass

    @property
    def stopped(self) -> bool:
        """Whether it was told to stop before it was finished."""
        return self.told_to_stop and not self.work.finished

    def heed(self, request: HttpRequest) -> HttpResponse | None:
        """Do what the request asks for: stop, go on after a stop, or go on for a moment.

        Stopping does not wait for what is under way: whoever looks on is told with the next slice, so the answer is
        only a word in place of the button. None for the other two, after which there is something new to show.
        """
        if "stop" in request.GET:
            self.told_to_stop = True
            return HttpResponse("stopping…")
        if "go" in request.GET:
            self.told_to_stop = False
        self.go_on()
        return None


class Slices(Generic[Work]):
    """Those of a kind, by all that they depend on; the one that was not asked for longest goes."""

    def __init__(self) -> None:
        self._kept: OrderedDict[Hashable, Slice[Work]] = OrderedDict()
        self._lock = Lock()

    def get(self, key: Hashable, begin: Callable[[], Work]) -> Slice[Work]:
        """Find how far one has come, or begin it."""
        with self._lock:
            found = self._kept.get(key)
            if found is None:
                found = self._kept[key] = Slice(begin())
            self._kept.move_to_end(key)
            while len(self._kept) > _MOST:
                self._kept.popitem(last=False)
            return found
