"""The server's memory: what edits free serves the next, and what is left behind is looked for while nobody waits."""

from __future__ import annotations

import ctypes
import gc
import os
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from threading import Lock, Thread
from typing import Any

# Settings of the C library's allocator (mallopt(3)): freed matrices are kept for the next edit, whose pages then need
# not be fetched and cleared anew (a third of its time); all threads share one arena.
_TRIM_THRESHOLD, _TOP_PAD, _MMAP_THRESHOLD, _ARENA_MAX = -1, -2, -3, -8
_KEPT_BYTES, _PAD_BYTES, _APART_BYTES = 48_000_000, 24_000_000, 64_000_000
# What is more than this goes back to the machine [MB], looked at so often [s].
_RESIDENT_MB, _LOOK_S = 200.0, 0.5
# Looking through all objects for rings of them that nobody holds takes as long as an edit: it is done once nobody has
# asked for so long [s] and so many requests were answered since; within requests only where that never comes.
_QUIET_S, _ANSWERED = 0.4, 20
_GC = (2_000, 10, 10)

Application = Callable[[dict[str, Any], Callable[..., Any]], Iterable[bytes]]


def spare_memory() -> None:
    """Let freed matrices serve the next edit, and give back what lies idle; does nothing where the C library is
    another one.
    """
    try:
        library = ctypes.CDLL("libc.so.6")
    except OSError:
        return
    library.mallopt(_ARENA_MAX, 1)
    library.mallopt(_TRIM_THRESHOLD, _KEPT_BYTES)
    library.mallopt(_TOP_PAD, _PAD_BYTES)
    library.mallopt(_MMAP_THRESHOLD, _APART_BYTES)
    Thread(target=_give_back, args=(library,), name="memory", daemon=True).start()


def resident_mb() -> float:
    """How much memory this process holds [MB]; 0 where the system does not tell."""
    try:
        pages = int(Path("/proc/self/statm").read_text().split()[1])
    except (OSError, ValueError):
        return 0.0
    return pages * os.sysconf("SC_PAGESIZE") / 1e6


def _give_back(library: ctypes.CDLL) -> None:
    held = 0.0
    while True:
        time.sleep(_LOOK_S)
        now = resident_mb()
        # Where nothing came since, there is nothing more to give.
        if now > max(_RESIDENT_MB, held + 5):
            library.malloc_trim(_PAD_BYTES)
            held = resident_mb()
        held = min(held, now)


class Tidied:
    """An application whose garbage is collected between requests: it keeps count of those under way."""

    def __init__(self, application: Application) -> None:
        self._application = application
        self._lock = Lock()
        self._under_way = self._answered = 0
        self._last = time.monotonic()
        Thread(target=self._watch, name="tidying", daemon=True).start()

    def __call__(self, environ: dict[str, Any], start_response: Callable[..., Any]) -> Iterable[bytes]:
        """Answer a request."""
        with self._lock:
            self._under_way += 1
        try:
            return self._application(environ, start_response)
        finally:
            with self._lock:
                self._under_way -= 1
                self._answered += 1
                self._last = time.monotonic()

    def _watch(self) -> None:
        settled = False
        while True:
            time.sleep(_QUIET_S / 2)
            if self._idle(1 if not settled else _ANSWERED):
                gc.collect()
                if not settled:
                    # What was loaded for the first answers stays for good: it need not be looked through again.
                    gc.freeze()
                settled = True

    def _idle(self, answered: int) -> bool:
        """Whether so many requests were answered and nobody has asked for a while; counts anew from then on."""
        with self._lock:
            if self._under_way or self._answered < answered or time.monotonic() - self._last < _QUIET_S:
                return False
            self._answered = 0
            return True
