"""The built wheel in an empty environment: one command that brings all it needs."""

from __future__ import annotations

import os
import re
import shutil
import socket
import stat
import subprocess
import sys
import time
import urllib.error
import urllib.request
import zipfile
from contextlib import contextmanager
from pathlib import Path

import pytest

from tests.conftest import ROOT

UV = Path(sys.executable).parent / "uv"


def _clear():
    for left in [ROOT / "build/lib", *ROOT.glob("build/bdist*")]:
        shutil.rmtree(left, ignore_errors=True)


@pytest.fixture(scope="module")
def wheel(tmp_path_factory):
    folder = tmp_path_factory.mktemp("wheel")
    build = [str(UV), "build", "--wheel", "--no-build-isolation", "--python", sys.executable, "--out-dir", str(folder)]
    # What an earlier build left would come along.
    _clear()
    subprocess.run([*build, str(ROOT)], check=True, capture_output=True, cwd=folder)
    _clear()
    return next(folder.glob("*.whl"))


@pytest.fixture(scope="module")
def command(wheel, tmp_path_factory):
    """The command of an environment that holds the wheel and what it asks for, and nothing else."""
    folder = tmp_path_factory.mktemp("empty") / "env"
    subprocess.run([str(UV), "venv", "-q", "--python", sys.executable, str(folder)], check=True)
    python = str(folder / "bin/python")
    constraints = ["--constraint", str(ROOT / "requirements/base.txt")]
    subprocess.run([str(UV), "pip", "install", "-q", "--python", python, *constraints, str(wheel)], check=True)
    return folder / "bin/mild-canopy"


@pytest.fixture
def home(tmp_path):
    """Somebody's home, empty; nothing of this checkout is in the environment's variables."""
    kept = {key: value for key, value in os.environ.items() if not key.startswith(("MILD_CANOPY", "DJANGO", "PYTHON"))}
    # Its loops run as they are written: compiling them would take a minute from whatever is tested beside.
    return {**kept, "HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path / "share"), "MILD_CANOPY_PLAIN": "1"}


def _run(command, home, *arguments, code=0):
    done = subprocess.run([str(command), *arguments], env=home, cwd=home["HOME"], capture_output=True, text=True)
    assert done.returncode == code, done.stderr
    return done.stdout + done.stderr


@contextmanager
def _serving(command, home, *arguments):
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    server = subprocess.Popen([str(command), *arguments, "--port", str(port)], env=home, cwd=home["HOME"])
    site, end = f"http://127.0.0.1:{port}", time.monotonic() + 60
    try:
        while True:
            try:
                urllib.request.urlopen(f"{site}/account/sign-in/", timeout=20).close()
                break
            except (urllib.error.URLError, ConnectionError):
                assert server.poll() is None
                assert time.monotonic() < end
                time.sleep(0.1)
        yield site
    finally:
        server.terminate()
        server.wait()


def test_templates_static_files_migrations_and_data_are_inside(wheel):
    names = zipfile.ZipFile(wheel).namelist()
    for wanted in (
        "canopy/library/data/fans.toml",
        "canopy_web/templates/base.html",
        "canopy_web/stations/light/_lamps.html",
        "canopy_web/static/css/canopy.css",
        "canopy_web/static/vendor/htmx.min.js",
        "canopy_web/planning/migrations/0001_initial.py",
        "canopy_web/planning/management/commands/backup.py",
        "canopy_web/planning/demo-household.json",
    ):
        assert wanted in names
    assert not [name for name in names if name.startswith(("tests/", "scripts/", "data", "build"))]


def test_it_serves_from_where_the_system_keeps_a_person_s_data(command, home):
    with _serving(command, home, "serve") as site:
        page = urllib.request.urlopen(f"{site}/account/sign-in/", timeout=120).read().decode()
        assert b"caches" in urllib.request.urlopen(f"{site}/reach.js", timeout=120).read()
        for path in re.findall(r'(?:href|src)="(/static/[^"]+)"', page):
            assert urllib.request.urlopen(site + path, timeout=120).status == 200
        assert "Open the demo" not in page
    data = Path(home["XDG_DATA_HOME"]) / "mild-canopy"
    assert stat.S_IMODE(data.stat().st_mode) == 0o700
    assert (data / "mild-canopy.sqlite3").exists()
    # The second start finds the static files laid out.
    laid = (data / "static" / ".laid-out").stat().st_mtime_ns
    with _serving(command, home, "serve"):
        pass
    assert (data / "static" / ".laid-out").stat().st_mtime_ns == laid
    copies = Path(home["HOME"]) / "copies"
    assert "whole, 0 households" in _run(command, home, "backup", str(copies))
    copy = next(copies.glob("*.sqlite3"))
    assert "whole" in _run(command, home, "restore", str(copy), "--check")
    _run(command, home, "manage", "check")


def test_the_demo_has_data_of_its_own(command, home):
    with _serving(command, home, "demo") as site:
        page = urllib.request.urlopen(f"{site}/account/sign-in/", timeout=120).read().decode()
        assert "Open the demo" in page
    assert (Path(home["XDG_DATA_HOME"]) / "mild-canopy" / "demo" / "mild-canopy.sqlite3").exists()


def test_it_says_what_it_can_and_refuses_what_it_cannot(command, home):
    said = _run(command, home, "--help")
    assert all(word in said for word in ("serve", "demo", "backup", "restore", "manage", "share/mild-canopy"))
    assert "There is no command “grow”" in _run(command, home, "grow", code=2)
    assert re.fullmatch(r"mild-canopy \d+\.\d+\.\d+\n", _run(command, home, "--version"))
