"""Whether the worker is at work: a file that it touches, and a lock that keeps a second one out."""

from __future__ import annotations

import fcntl
import os
import time
from pathlib import Path
from typing import IO

from django.conf import settings

# One that was not heard for so long does not work [s].
SILENT_S = 45.0


def _beat() -> Path:
    return Path(settings.DATA) / "worker-beat"


def beat() -> None:
    """Say that it is at work."""
    _beat().touch(mode=0o600)


def at_work(now: float | None = None) -> bool:
    """Say whether a worker was heard lately."""
    try:
        heard = _beat().stat().st_mtime
    except OSError:
        return False
    return (time.time() if now is None else now) - heard < SILENT_S


def alone() -> IO[str] | None:
    """Take the lock, held as long as the file that is given is open; None where another worker has it.

    The system lets go of it however a worker ends.
    """
    path = Path(settings.DATA) / "worker-lock"
    file = os.fdopen(os.open(path, os.O_RDWR | os.O_CREAT, 0o600), "r+")
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        file.close()
        return None
    return file
