"""The application served from a throwaway directory on a free port, for pictures and timings."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
_STARTS_S = 30.0
# The shell is the same browser without windows; one of the two is there where the tests run.
CHROMIUM = next(
    (path for path in ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium") if Path(path).exists()),
    "/usr/bin/chromium",
)


class Site(str):
    """The address of a server, its process, and how long it took to its first answer [s]."""

    pid: int
    starts_s: float

    @property
    def resident_mb(self) -> float:
        """What the process holds in memory [MB]; Linux only."""
        text = Path(f"/proc/{self.pid}/status").read_text()
        return int(text.split("VmRSS:")[1].split()[0]) / 1024


@contextmanager
def served(*, lived: bool = False) -> Iterator[Site]:
    """Serve a demo; gives its address. Raises RuntimeError where the server that was started does not answer.

    One that is ``lived`` in has its worker and its stand-ins beside it, and a week behind it.
    """
    with tempfile.TemporaryDirectory() as data:
        env = {
            **os.environ,
            "MILD_CANOPY_DATA": data,
            "MILD_CANOPY_DEMO": "1",
            "DJANGO_SETTINGS_MODULE": "canopy_web.settings",
        }
        for step in (["migrate", "-v0"], ["load_demo"], ["collectstatic", "--noinput", "-v0"]):
            subprocess.run(
                [sys.executable, "manage.py", *step], cwd=ROOT, env=env, check=True, stdout=subprocess.DEVNULL
            )
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            port = free.getsockname()[1]
        begin = time.monotonic()
        module = ["canopy_web.command", "demo"] if lived else ["canopy_web.serve"]
        server = subprocess.Popen([sys.executable, "-m", *module, "--port", str(port)], cwd=ROOT, env=env)
        site = Site(f"http://127.0.0.1:{port}")
        try:
            _wait(server, site)
            site.pid, site.starts_s = server.pid, time.monotonic() - begin
            while lived and not (Path(data) / "stand-ins-week.csv").exists():
                time.sleep(0.2)
            yield site
        finally:
            server.terminate()
            server.wait()


def _wait(server: subprocess.Popen[bytes], site: str) -> None:
    """Until this very server answers."""
    end = time.monotonic() + _STARTS_S
    while time.monotonic() < end:
        if server.poll() is not None:
            raise RuntimeError(f"the server ended with {server.returncode} before it answered")
        try:
            urllib.request.urlopen(f"{site}/account/sign-in/", timeout=2).close()
        except OSError:
            time.sleep(0.02)
        else:
            return
    raise RuntimeError(f"the server did not answer within {_STARTS_S:.0f} s")
