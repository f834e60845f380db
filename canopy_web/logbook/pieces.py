"""Large files that are sent in pieces, each from where the one before ended: no request is larger than usual."""

from __future__ import annotations

import re
import time
from pathlib import Path
from typing import Any

from django.conf import settings

from canopy.errors import QuantityError

# Pieces of a file whose rest does not come for so long are taken away [s].
_LEFT_S = 86400


def folder() -> Path:
    """Where files lie until they are taken in."""
    found = Path(settings.DATA) / "imports"
    found.mkdir(parents=True, exist_ok=True, mode=0o700)
    return found


def part_of(owner: str, key: str) -> Path:
    """Where the pieces of a file lie: ``owner`` says whose it is, ``key`` which."""
    return folder() / f"{owner}-{key}.part"


def add_piece(owner: str, key: str, at: int, piece: Any, most_bytes: int) -> int:
    """Lay down a piece of a file; gives how much of it is there now.

    A piece that does not follow what is there changes nothing: the sender goes on from the number that is given back.
    """
    if re.fullmatch(r"[0-9a-f-]{16,64}", key) is None:
        raise QuantityError("a file that is sent in pieces needs a name of its own")
    _sweep()
    path = part_of(owner, key)
    there = path.stat().st_size if path.exists() else 0
    if at != there:
        return there
    if there + piece.size > most_bytes:
        path.unlink(missing_ok=True)
        raise QuantityError(f"this file is larger than the {most_bytes / 1e6:.0f} MB that are taken")
    with path.open("ab") as out:
        for chunk in piece.chunks():
            out.write(chunk)
    return path.stat().st_size


def _sweep() -> None:
    """Take away pieces whose rest never came."""
    for path in folder().glob("*.part"):
        if time.time() - path.stat().st_mtime > _LEFT_S:
            path.unlink(missing_ok=True)
