"""Put a copy in the database's place."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection

from canopy_web.planning.backup import BackupError, check, restore


class Command(BaseCommand):
    """Put a copy in the database's place."""

    help = "Put a copy in the database's place, once it was looked through; stop the server first"

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("copy", help="a file that backup made")
        parser.add_argument("--check", action="store_true", help="only look it through; change nothing")

    def handle(self, *args: Any, **options: Any) -> None:
        path = Path(options["copy"])
        if not path.is_file():
            raise CommandError(f"there is no file {path}")
        try:
            plans = check(path)
            if options["check"]:
                self.stdout.write(f"{path}: whole, {plans} households")
                return
            connection.close()
            before = restore(path)
        except BackupError as error:
            raise CommandError(str(error)) from error
        # A copy of an older version is brought up to this one.
        call_command("migrate", verbosity=0)
        kept = f"; what was there before lies in {before}" if before else ""
        self.stdout.write(f"restored {plans} households from {path}{kept}")
