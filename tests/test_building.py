"""The loops in C as they are built from source: what is told where that cannot be done, and what a build holds."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


@pytest.fixture
def source(tmp_path: Path) -> Path:
    """What a build needs, as a source archive has it."""
    kernels = "src/mild_compass/craft/kernels"
    shutil.copytree(ROOT / kernels, tmp_path / kernels, ignore=shutil.ignore_patterns("*.so", "__pycache__"))
    for name in ("setup.py", "pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, tmp_path / name)
    return tmp_path


def built(source: Path, **settings: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "setup.py", "-q", "build_ext", "--inplace"]
    return subprocess.run(
        command, cwd=source, env={**os.environ, **settings}, capture_output=True, text=True, check=False
    )


def test_without_a_compiler_one_sentence_says_what_is_missing(source: Path):
    done = built(source, CC="no-such-compiler")
    assert done.returncode != 0
    assert "a C compiler is missing or failed (Debian: apt install gcc libc6-dev; a wheel needs none)" in done.stderr
    assert "Traceback" not in done.stderr


def test_the_loops_are_built_without_a_warning(source: Path):
    done = built(source, CFLAGS="-O0 -Wall -Wextra -Werror")
    assert done.returncode == 0, done.stderr
    assert len(list(source.glob("src/mild_compass/craft/kernels/*.abi3.so"))) == 1
