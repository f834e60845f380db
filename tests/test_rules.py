"""The rules of the house: imports, lint, types, templates, nothing from outside."""

import re
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parent.parent
BIN = Path(sys.executable).parent


def _run(*command):
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


def test_imports_keep_to_their_floors():
    _run(str(BIN / "lint-imports"), "--no-cache")


def test_lint_and_format():
    _run(str(BIN / "ruff"), "check", "--no-cache", ".")
    _run(str(BIN / "ruff"), "format", "--no-cache", "--check", ".")


def test_types():
    _run(str(BIN / "mypy"), "--cache-dir", "build/mypy")


def test_templates():
    _run(str(BIN / "djlint"), "canopy_web/templates", "canopy_web/stations", "--lint", "--quiet")


LINE = 160


@pytest.mark.parametrize("path", sorted((ROOT / "canopy_web").rglob("*.html")), ids=lambda p: p.name)
def test_templates_are_indented_and_no_line_is_long(path):
    lines = path.read_text(encoding="utf-8").splitlines()
    assert [n for n, line in enumerate(lines, 1) if len(line) > LINE] == []
    # What stands inside a block never stands further out than the block's own tag.
    open_at: list[int] = []
    for number, line in enumerate(lines, 1):
        depth = len(line) - len(line.lstrip())
        inner = line.strip()
        if re.match(r"{% (?:end|else|elif|empty)", inner) and open_at:
            assert depth == open_at[-1], (path.name, number)
            if inner.startswith("{% end"):
                open_at.pop()
        elif re.fullmatch(r"{% (?:if|for|with|block) [^%]*%}", inner):
            assert not open_at or depth >= open_at[-1], (path.name, number)
            open_at.append(depth)
        elif open_at and inner:
            assert depth >= open_at[-1], (path.name, number)


def test_no_formatter_is_switched_off():
    for path in [p for top in ("canopy", "canopy_web", "tests", "scripts") for p in (ROOT / top).rglob("*.py")]:
        text = path.read_text(encoding="utf-8")
        assert not re.search(r"#\s*fmt:\s*(?:off|skip|on)\b", text), path
        assert not re.search(r"noqa: E5" + "01", text), path


@pytest.mark.parametrize("path", ["canopy_web/static/css/canopy.css", "canopy_web/static/js/canopy.js"])
def test_no_line_of_style_or_script_is_long(path):
    lines = (ROOT / path).read_text(encoding="utf-8").splitlines()
    assert [n for n, line in enumerate(lines, 1) if len(line) > LINE and "data:image" not in line] == []


def test_migrations_are_complete():
    _run(sys.executable, "manage.py", "makemigrations", "--check", "--dry-run")


OUTSIDE = re.compile(r"""(?:src|href|url\()\s*=?\s*["'(]?(?:https?:)?//(?!www\.w3\.org)""")


@pytest.mark.parametrize("path", sorted((ROOT / "canopy_web").rglob("*.*")), ids=lambda p: p.name)
def test_nothing_is_asked_from_outside(path):
    if path.suffix in (".html", ".css", ".js", ".svg"):
        assert not OUTSIDE.search(path.read_text(encoding="utf-8"))


_SELDOM = (
    "skimage",
    "scipy.signal",
    "scipy.stats",
    "scipy.optimize",
    "optuna",
    "numba",
    "icalendar",
    "cryptography.x509",
)
_START = """
import os, sys
os.environ["DJANGO_SETTINGS_MODULE"] = "canopy_web.settings_test"
from canopy_web.beside import keep_out
keep_out()
import django
django.setup()
import canopy_web.urls
print(*sys.modules)
"""


def test_what_is_used_seldom_is_loaded_when_it_is_used():
    """The server starts, and holds in memory, what its pages need; libraries of single tools come with their use."""
    loaded = _run(sys.executable, "-c", _START).split()
    assert "canopy_web.urls" in loaded
    assert [name for name in _SELDOM if name in loaded] == []
