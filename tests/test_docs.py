"""What the documents say is there."""

import re
import tomllib
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parent.parent
PAGES = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").rglob("*.md"))]


@pytest.mark.parametrize("page", PAGES, ids=lambda path: path.name)
def test_every_link_leads_somewhere(page):
    for target in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
        assert (page.parent / target).exists(), target


def test_the_two_commands_come_first():
    commands = re.findall(r"^make \w+", (ROOT / "README.md").read_text(), flags=re.MULTILINE)
    assert commands[:2] == ["make demo", "make test"]


def test_every_picture_is_linked_and_they_are_few():
    readme = (ROOT / "README.md").read_text()
    pictures = list((ROOT / "docs" / "screenshots").glob("*.png"))
    assert 5 < len(pictures) < 20
    assert [picture.name for picture in pictures if f"docs/screenshots/{picture.name}" not in readme] == []


def test_every_make_target_the_readme_names_exists():
    makefile = (ROOT / "Makefile").read_text()
    for target in set(re.findall(r"make (\w+)", (ROOT / "README.md").read_text())):
        assert re.search(rf"^{target}:", makefile, flags=re.MULTILINE), target


def test_counts_in_the_readme_are_true():
    from canopy.library import crops, fixtures

    readme = (ROOT / "README.md").read_text()
    assert f"{len(crops())} crops" in readme
    assert f"{len(fixtures())} generic classes of lamp" in readme


def test_nothing_personal_or_local_is_written_down():
    for path in (*PAGES, *(ROOT / "requirements").glob("*.txt"), ROOT / "pyproject.toml", ROOT / "Makefile"):
        text = path.read_text()
        assert "/work/" not in text, path
        assert not re.search(r"https?://(?!127\.0\.0\.1|\$)", text), path


def test_versions_agree():
    import canopy

    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    assert project["version"] == canopy.__version__
    assert f"## {canopy.__version__}" in (ROOT / "CHANGELOG.md").read_text()
