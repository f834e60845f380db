"""Processes beside the server: begun with it, begun again where one ends, and gone when it is."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Sequence
from dataclasses import dataclass, field
from threading import Event, Lock, Thread

# One that ends is begun again after so long, longer each time; one that ran so long had begun well [s].
_FIRST_S, _LONGEST_S, _WELL_S = 1.0, 60.0, 120.0
_PARENT = "MILD_CANOPY_PARENT"
_LOOK_S = 1.0


@dataclass
class Children:
    """Modules that run as processes of their own while this one does."""

    _ends: Event = field(default_factory=Event)
    _lock: Lock = field(default_factory=Lock)
    _running: dict[str, subprocess.Popen[bytes]] = field(default_factory=dict)

    def begin(self, module: str, *arguments: str, without: Sequence[str] = ()) -> None:
        """Begin a module with arguments, its environment ``without`` some of ours; it is kept running."""
        Thread(target=self._keep, args=(module, arguments, without), name=module, daemon=True).start()

    def _keep(self, module: str, arguments: Sequence[str], without: Sequence[str]) -> None:
        given = {key: value for key, value in os.environ.items() if key not in without} | {_PARENT: str(os.getpid())}
        waits = _FIRST_S
        while not self._ends.is_set():
            began = time.monotonic()
            with self._lock:
                if self._ends.is_set():
                    return
                child = subprocess.Popen([sys.executable, "-m", module, *arguments], env=given)
                self._running[module] = child
            child.wait()
            waits = _FIRST_S if time.monotonic() - began > _WELL_S else min(2 * waits, _LONGEST_S)
            self._ends.wait(waits)

    def end(self) -> None:
        """End them all, and wait a moment for them."""
        self._ends.set()
        with self._lock:
            running = list(self._running.values())
        for child in running:
            if child.poll() is None:
                child.terminate()
        for child in running:
            try:
                child.wait(5)
            except subprocess.TimeoutExpired:
                child.kill()


def stay_with_parent() -> None:
    """End this process when the one that began it is gone, however that ended; nothing where nobody did."""
    parent = os.environ.get(_PARENT, "")
    if parent.isdigit():
        stay_with(int(parent))


def stay_with(parent: int) -> None:
    """End this process when another is no longer its parent."""

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(_LOOK_S)
        os._exit(0)

    Thread(target=watch, name="parent", daemon=True).start()
