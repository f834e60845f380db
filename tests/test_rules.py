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


def test_imports_keep_to_their_floors():
    _run(str(BIN / "lint-imports"), "--no-cache")


def test_lint_and_format():
    _run(str(BIN / "ruff"), "check", "--no-cache", ".")
    _run(str(BIN / "ruff"), "format", "--no-cache", "--check", ".")


def test_types():
    _run(str(BIN / "mypy"), "--cache-dir", "build/mypy")


def test_templates():
    _run(str(BIN / "djlint"), "canopy_web/templates", "--lint", "--quiet")


def test_migrations_are_complete():
    _run(sys.executable, "manage.py", "makemigrations", "--check", "--dry-run")


OUTSIDE = re.compile(r"""(?:src|href|url\()\s*=?\s*["'(]?(?:https?:)?//(?!www\.w3\.org)""")


@pytest.mark.parametrize("path", sorted((ROOT / "canopy_web").rglob("*.*")), ids=lambda p: p.name)
def test_nothing_is_asked_from_outside(path):
    if path.suffix in (".html", ".css", ".js", ".svg"):
        assert not OUTSIDE.search(path.read_text(encoding="utf-8"))
