"""Simulations in a process of their own: what compiles and runs them stays out of the server, and neither waits for
the other.
"""

from __future__ import annotations

import os
import time
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from threading import Lock, Thread
from typing import TYPE_CHECKING

from canopy_web.children import stay_with

if TYPE_CHECKING:
    from canopy.climate.simulate import Days
    from canopy.climate.system import System

# A process that nobody asked for so long is let go, with its memory; looked at so often [s].
_IDLE_S, _LOOK_S = 600.0, 30.0
# Says that loops run as they are written, and that this is so in the server only.
_PLAIN, _HERE = "MILD_CANOPY_PLAIN", "server"
# By how much it gives way to the server, and to all else that runs.
_GIVES_WAY = 5


def _stay_with(server: int) -> None:
    """End this process when the server it works for is gone, however that ended; what that does goes first."""
    if hasattr(os, "nice"):
        os.nice(_GIVES_WAY)
    stay_with(server)


def _begin(pool: ProcessPoolExecutor) -> None:
    """Start a pool's process, where what keeps the compiler out of the server does not hold."""
    kept_out = os.environ.get(_PLAIN) == _HERE
    if kept_out:
        del os.environ[_PLAIN]
    try:
        pool.submit(os.getpid)
    finally:
        if kept_out:
            os.environ[_PLAIN] = _HERE


def keep_out() -> None:
    """Keep the compiler out of this process, unless somebody has settled it; to be called before anything is imported
    that it compiles.
    """
    os.environ.setdefault(_PLAIN, _HERE)


class Beside:
    """A runner of simulations beside this process, begun when it is first asked."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._pool: ProcessPoolExecutor | None = None
        self._asked = 0.0
        Thread(target=self._let_go, name="simulations", daemon=True).start()

    def __call__(self, system: System) -> Days:
        """Simulate a system there; once more in a fresh process where it was ended meanwhile."""
        from canopy.climate.simulate import simulate

        try:
            return self._of().submit(simulate, system).result()
        except BrokenProcessPool:
            self._end()
            return self._of().submit(simulate, system).result()

    def _of(self) -> ProcessPoolExecutor:
        with self._lock:
            self._asked = time.monotonic()
            if self._pool is None:
                self._pool = ProcessPoolExecutor(
                    max_workers=1, mp_context=get_context("spawn"), initializer=_stay_with, initargs=(os.getpid(),)
                )
                _begin(self._pool)
            return self._pool

    def _end(self) -> None:
        with self._lock:
            pool, self._pool = self._pool, None
        if pool is not None:
            pool.shutdown(wait=False)

    def _let_go(self) -> None:
        while True:
            time.sleep(_LOOK_S)
            if self._pool is not None and time.monotonic() - self._asked > _IDLE_S:
                self._end()

    def warm(self) -> None:
        """Begin it now, so that the first question finds it ready."""
        from canopy.climate.warm import warm

        Thread(target=lambda: self._of().submit(warm), name="warming", daemon=True).start()


def run_beside() -> None:
    """Let simulations run in a process of their own from now on, and begin it."""
    from canopy.climate import engine

    runner = Beside()
    engine.use(runner)
    runner.warm()
