"""Whether something failed because the disk is full."""

from __future__ import annotations

import errno

from django.db.utils import DatabaseError

_FULL = (errno.ENOSPC, errno.EDQUOT)
# What SQLite says where it finds no room for its file or its log.
_SAID = ("disk is full", "disk i/o error")


def no_room(error: BaseException | None) -> bool:
    """Say whether an error, or what led to it, is a full disk."""
    seen: set[int] = set()
    while error is not None and id(error) not in seen:
        seen.add(id(error))
        if isinstance(error, OSError) and error.errno in _FULL:
            return True
        if isinstance(error, DatabaseError) and any(words in str(error).lower() for words in _SAID):
            return True
        error = error.__cause__ or error.__context__
    return False
