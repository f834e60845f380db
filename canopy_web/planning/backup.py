"""A copy of the whole database while it is in use, and the way back."""

from __future__ import annotations

import datetime as dt
import os
import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

from django.conf import settings

NAME = "mild-canopy-{:%Y%m%d-%H%M%S}.sqlite3"
_LIKE = "mild-canopy-*.sqlite3"
# What a database of ours holds, whatever else.
_TABLES = {"planning_growplan", "planning_planstate", "auth_user", "django_migrations"}


class BackupError(Exception):
    """A backup that cannot be made or is not sound."""


def database() -> Path:
    """Where the database lies."""
    return Path(str(settings.DATABASES["default"]["NAME"]))


def back_up(folder: Path, *, keep: int = 0, now: dt.datetime | None = None) -> Path:
    """Copy the database by SQLite's own online backup; it may be read and written meanwhile.

    Photographs and logs are in it. Of ``keep`` copies the newest stay, of the folder's others none; 0 keeps all.
    """
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    target = folder / NAME.format(now or dt.datetime.now(dt.UTC))
    part = target.with_suffix(".part")
    # Nobody else may read it: it holds password hashes and photographs.
    os.close(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600))
    try:
        with (
            closing(sqlite3.connect(f"file:{database()}?mode=ro", uri=True)) as source,
            closing(sqlite3.connect(part)) as copy,
        ):
            # All in one step, off one state: readers hold up no writer here, while step by step every write of
            # somebody else's would begin the copy anew, and with many it would never end.
            source.backup(copy)
            # One file, whole by itself.
            copy.execute("PRAGMA journal_mode=DELETE")
        check(part)
        part.rename(target)
    except (sqlite3.Error, OSError) as error:
        part.unlink(missing_ok=True)
        raise BackupError(f"the backup was not made: {error}") from error
    except BackupError:
        part.unlink(missing_ok=True)
        raise
    if keep > 0:
        for old in sorted(folder.glob(_LIKE))[:-keep]:
            old.unlink()
    return target


def check(path: Path) -> int:
    """Look a copy through; gives how many plans it holds. Raises BackupError where it is not whole, or not ours."""
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as copy:
            said = [row[0] for row in copy.execute("PRAGMA integrity_check")]
            if said != ["ok"]:
                raise BackupError(f"{path.name} is damaged: {said[0]}")
            if copy.execute("PRAGMA foreign_key_check").fetchone():
                raise BackupError(f"{path.name} is damaged: rows point at rows that are not there")
            held = {row[0] for row in copy.execute("SELECT name FROM sqlite_master WHERE type='table'")}
            if not held >= _TABLES:
                raise BackupError(f"{path.name} is no database of Mild Canopy")
            return int(copy.execute("SELECT count(*) FROM planning_growplan").fetchone()[0])
    except sqlite3.Error as error:
        raise BackupError(f"{path.name} is no database that can be read: {error}") from error


def restore(path: Path) -> Path | None:
    """Put a copy in the database's place, once it was looked through; the server must not be running.

    What was there before stays beside it under another name, which is given; None where there was nothing.
    """
    check(path)
    here = database()
    here.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    fresh = here.with_suffix(".restoring")
    shutil.copyfile(path, fresh)
    fresh.chmod(0o600)
    check(fresh)
    before: Path | None = None
    if here.exists():
        with closing(sqlite3.connect(here)) as old:
            # What stands in its log comes into the file; a server that still runs holds a lock and stops us here.
            try:
                old.execute("PRAGMA locking_mode=EXCLUSIVE")
                old.execute("BEGIN EXCLUSIVE")
                old.execute("COMMIT")
                old.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            except sqlite3.OperationalError as error:
                fresh.unlink()
                raise BackupError("the database is in use: stop the server first") from error
        before = here.with_name(f"before-restore-{dt.datetime.now(dt.UTC):%Y%m%d-%H%M%S}.sqlite3")
        here.rename(before)
    for rest in ("-wal", "-shm"):
        here.with_name(here.name + rest).unlink(missing_ok=True)
    fresh.rename(here)
    return before
