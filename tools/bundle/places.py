"""Where the parts of the bundle lie."""

from __future__ import annotations

import tomllib
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
BUILD = ROOT / "build" / "bundle"
APP = "mild-compass"
FOLDER = BUILD / "dist" / APP
VERSION = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["version"]
ARCHIVE = BUILD / f"{APP}-{VERSION}-linux-x86_64.tar.xz"
PACKAGE = BUILD / f"{APP}_{VERSION}_amd64.deb"


def megabytes(path: Path) -> float:
    """The size of a file, or of all files in a folder."""
    files = [path] if path.is_file() else [each for each in path.rglob("*") if each.is_file() and not each.is_symlink()]
    return sum(each.stat().st_size for each in files) / 1e6
