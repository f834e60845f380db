"""Fetch the page's third-party files from the npm registry, at fixed versions. Run again to renew them."""

from __future__ import annotations

import re
import shutil
import subprocess
import tarfile
import tempfile
from pathlib import Path

TARGET = Path(__file__).resolve().parent.parent / "canopy_web" / "static" / "vendor"
# package@version -> {file in the package: file here}
FILES = {
    "bootstrap@5.3.9": {"dist/css/bootstrap.min.css": "bootstrap.min.css", "LICENSE": "bootstrap.LICENSE"},
    "htmx.org@2.0.11": {"dist/htmx.min.js": "htmx.min.js", "LICENSE": "htmx.LICENSE"},
    "@fontsource-variable/archivo@5.3.0": {
        "files/archivo-latin-wght-normal.woff2": "archivo-latin-wght.woff2",
        "LICENSE": "archivo.LICENSE",
    },
    "uplot@1.6.32": {
        "dist/uPlot.iife.min.js": "uplot.min.js",
        "dist/uPlot.min.css": "uplot.min.css",
        "LICENSE": "uplot.LICENSE",
    },
    "bootstrap-icons@1.13.2": {
        **{
            f"icons/{name}.svg": f"icons/{name}.svg"
            for name in (
                "arrow-counterclockwise",
                "arrow-clockwise",
                "plus-lg",
                "download",
                "upload",
            )
        },
        "LICENSE": "bootstrap-icons.LICENSE",
    },
}
TEST_FILES = {"axe-core@4.14.1": {"axe.min.js": "axe.min.js", "LICENSE": "axe.LICENSE"}}


def _fetch(package: str, files: dict[str, str], target: Path) -> None:
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run(["npm", "pack", "--silent", package], cwd=folder, check=True, stdout=subprocess.DEVNULL)
        (archive,) = Path(folder).glob("*.tgz")
        with tarfile.open(archive) as tar:
            for inside, here in files.items():
                member = tar.extractfile(f"package/{inside}")
                assert member is not None
                content = member.read()
                if here.endswith((".css", ".js")):
                    content = re.sub(rb"/[*/][#@]\s*sourceMappingURL=\S+(\s*\*/)?", b"", content)
                path = target / here
                path.parent.mkdir(parents=True, exist_ok=True)
                path.write_bytes(content)
    print(f"{package}: {len(files)} files")


def main() -> None:
    """Fetch everything anew."""
    shutil.rmtree(TARGET, ignore_errors=True)
    for package, files in FILES.items():
        _fetch(package, files, TARGET)
    for package, files in TEST_FILES.items():
        _fetch(package, files, Path(__file__).resolve().parent.parent / "tests" / "browser" / "vendor")


if __name__ == "__main__":
    main()
