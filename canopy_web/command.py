"""One command for an installed copy: ``mild-canopy serve``, ``demo``, ``backup``, ``restore``, ``manage``."""

from __future__ import annotations

import argparse
import os
import socket
import sys
from collections.abc import Sequence
from importlib.metadata import version
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from canopy_web.children import Children

NAME = "mild-canopy"
_HELP = f"""{NAME} plans light, air and power for growing at home under lamps.

  {NAME} serve [--host H] [--port N] [--proxy A]   migrates the data, then serves until stopped
  {NAME} demo [--port N]                           the same with an invented household, in data of its own
  {NAME} worker                                    asks sensors and watches alerts; serve begins one by itself
  {NAME} backup [FOLDER] [--keep N]                a whole copy, while it runs
  {NAME} restore FILE [--check]                    takes a copy in, with the server stopped
  {NAME} take-in NAME FILE                         takes an account's archive in for a person, of any size
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
    elif what == "worker":
        from canopy_web.worker.run import main as work

        work()
    elif what == "take-in" and len(rest) == 2:
        _take_in(*rest)
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


def _take_in(name: str, path: str) -> None:
    import django

    django.setup()
    from django.contrib.auth import get_user_model

    from canopy.errors import PlanError
    from canopy_web.household.archive.taking import told
    from canopy_web.household.archive.unpacking import unpack

    user = get_user_model().objects.filter(username=name).first()
    if user is None:
        raise SystemExit(f"There is nobody called “{name}” here.")
    try:
        with Path(path).open("rb") as file:
            print(f"Taken in: {told(unpack(user, file))}.")
    except (PlanError, OSError) as error:
        raise SystemExit(f"Nothing was taken in: {error}.") from None


def _serve(rest: Sequence[str], *, demo: bool = False) -> None:
    from canopy_web import serve
    from canopy_web.beside import keep_out
    from canopy_web.children import Children

    given = serve.parser().parse_args(rest)
    if given.https is None and secure_port(given):
        # The usual port, or another where that is taken.
        given.https = _free_port(secure_port(given), {given.port})
    beside = Children()
    if demo:
        _begin_standins(beside, given)
    if secure_port(given):
        _begin_secure(beside, given)
    keep_out()
    _made_ready(given, demo=demo)
    if not given.no_worker:
        beside.begin("canopy_web.worker.run")
    try:
        serve.run(given)
    finally:
        beside.end()


def secure_port(given: argparse.Namespace) -> int:
    """Where encrypted connections are taken in; 0 for nowhere."""
    if given.https is not None:
        return int(given.https)
    return 0 if given.proxy or given.host in ("127.0.0.1", "localhost", "::1") else 8443


def _begin_secure(beside: Children, given: argparse.Namespace) -> None:
    """Take encrypted connections in beside, under the names this machine has at home."""
    from canopy_web.secure.certificates import fingerprint, make_sure, own_names, papers

    port, names = secure_port(given), own_names()
    data = Path(os.environ["MILD_CANOPY_DATA"])
    data.mkdir(parents=True, exist_ok=True, mode=0o700)
    found = papers(data)
    make_sure(found, names)
    os.environ["MILD_CANOPY_SECURE_PORT"] = str(port)
    hosts = [os.environ.get("MILD_CANOPY_HOSTS", ""), *(f"[{name}]" if ":" in name else name for name in names)]
    os.environ["MILD_CANOPY_HOSTS"] = ",".join(filter(None, hosts))
    # What comes through it tells who it came from.
    given.proxy = "127.0.0.1" if given.host in ("0.0.0.0", "::", "") else given.host
    there = ("--to", given.proxy, "--port", str(given.port))
    beside.begin("canopy_web.secure.relay", "--host", given.host, "--https", str(port), *there)
    print(f"For phones: https://{names[0]}:{port}/trust/   SHA-256 {fingerprint(found)}", flush=True)


def _begin_standins(beside: Children, given: argparse.Namespace) -> None:
    """Begin the demo's stand-ins for sensors on two free ports of this machine, those after its own where they are."""
    taken = {given.port, secure_port(given)}
    http = _free_port(given.port + 1, taken)
    mqtt = _free_port(http + 1, taken | {http})
    os.environ["MILD_CANOPY_STANDINS"] = f"{http},{mqtt}"
    os.environ.pop("MILD_CANOPY_PLAIN", None)
    Path(os.environ["MILD_CANOPY_DATA"]).mkdir(parents=True, exist_ok=True, mode=0o700)
    beside.begin("canopy_web.standins.run", "--http", str(http), "--mqtt", str(mqtt))


def _free_port(wanted: int, taken: set[int]) -> int:
    """A port that nobody listens at: the one wanted or, where that is taken or soon will be, another."""
    for port in (wanted, 0):
        if port in taken:
            continue
        with socket.socket() as tried:
            tried.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                tried.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(tried.getsockname()[1])
    raise SystemExit("no port of this machine is free")


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
