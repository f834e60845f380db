"""Copy the database while it is in use."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from canopy_web.planning.backup import BackupError, back_up, check, database


class Command(BaseCommand):
    """Copy the database while it is in use."""

    help = "Copy the whole database (plans, photographs, logs, accounts) while it is in use"

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", nargs="?", help="where copies go (default: backups beside the database)")
        parser.add_argument("--keep", type=int, default=14, help="how many copies stay there, 0 for all (default 14)")

    def handle(self, *args: Any, **options: Any) -> None:
        folder = Path(options["folder"]) if options["folder"] else database().parent / "backups"
        try:
            made = back_up(folder, keep=max(0, options["keep"]))
            plans = check(made)
        except BackupError as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{made}: whole, {plans} households, {made.stat().st_size / 1e6:.1f} MB")
