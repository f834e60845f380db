"""One command for an installed copy: ``mild-canopy serve``, ``demo``, ``backup``, ``restore``, ``manage``."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Sequence
from importlib.metadata import version
from pathlib import Path

NAME = "mild-canopy"
_HELP = f"""{NAME} plans light, air and power for growing at home under lamps.

  {NAME} serve [--host H] [--port N] [--proxy A]   migrates the data, then serves until stopped
  {NAME} demo [--port N]                           the same with an invented household, in data of its own
  {NAME} backup [FOLDER] [--keep N]                a whole copy, while it runs
  {NAME} restore FILE [--check]                    takes a copy in, with the server stopped
  {NAME} manage ...                                any other command of Django's

Data lie in MILD_CANOPY_DATA, else where this system keeps a person's data: {{data}}
"""


def main(argv: Sequence[str] | None = None) -> None:
    """Run one of the commands; exits with 2 and a hint where there is none of that name."""
    given = list(sys.argv[1:] if argv is None else argv)
    what, rest = (given[0], given[1:]) if given else ("help", [])
    chosen = os.environ.get("MILD_CANOPY_DATA")
    data = Path(chosen) if chosen else _usual_data()
    if what == "demo" and not chosen:
        data /= "demo"
    os.environ["MILD_CANOPY_DATA"] = str(data)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "canopy_web.settings")
    if what in ("help", "-h", "--help"):
        print(_HELP.format(data=data))
    elif what == "--version":
        print(f"{NAME} {version(NAME)}")
    elif what == "serve":
        _serve(rest)
    elif what == "demo":
        os.environ["MILD_CANOPY_DEMO"] = "1"
        _serve(rest, demo=True)
    elif what in ("backup", "restore"):
        _manage(what, *rest)
    elif what == "manage":
        _manage(*rest)
    else:
        print(f"There is no command “{what}”.\n\n{_HELP.format(data=data)}", file=sys.stderr)
        raise SystemExit(2)


def _usual_data() -> Path:
    """Where the platform keeps a person's data."""
    from platformdirs import user_data_path

    return user_data_path(NAME, appauthor=False)


def _manage(*arguments: str) -> None:
    from django.core.management import execute_from_command_line

    execute_from_command_line([NAME, *arguments])


def _serve(rest: Sequence[str], *, demo: bool = False) -> None:
    from canopy_web import serve
    from canopy_web.beside import keep_out

    keep_out()
    given = serve.parser().parse_args(rest)
    _made_ready(given, demo=demo)
    serve.run(given)


def _made_ready(given: argparse.Namespace, *, demo: bool) -> None:
    """Bring the data to this version, and lay the static files out where they are not yet."""
    import django

    django.setup()
    from django.conf import settings
    from django.core.management import call_command

    call_command("migrate", verbosity=0)
    if demo:
        call_command("load_demo")
    stamp = Path(settings.STATIC_ROOT) / ".laid-out"
    fresh = _static_state(Path(settings.STATICFILES_DIRS[0]))
    if not stamp.exists() or stamp.read_text() != fresh:
        call_command("collectstatic", interactive=False, verbosity=0)
        stamp.write_text(fresh)
    print(f"Mild Canopy{' (demo)' if demo else ''} at http://{given.host}:{given.port}   stop with Ctrl-C", flush=True)


def _static_state(folder: Path) -> str:
    """What the static files are: how many, and when the newest was written."""
    files = [path for path in folder.rglob("*") if path.is_file()]
    newest = max((path.stat().st_mtime_ns for path in files), default=0)
    return f"{version(NAME)} {len(files)} {newest}"


if __name__ == "__main__":
    main()
