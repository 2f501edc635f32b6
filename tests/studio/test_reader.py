"""The studio over the real accessibility bus, by the client library that readers of the screen use.

The client runs in the system's own Python, which has that library; where it or the bus is missing this is skipped.
Every instrument of every station is looked at with THOROUGH=1 (make hands); otherwise the first is.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sysconfig
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import pypdfium2 as pdfium
import pytest
from tests.conftest import THOROUGH, jpeg

if TYPE_CHECKING:
    from collections.abc import Iterator

READER = Path(__file__).with_name("reader_of_others.py")
PYTHON = Path("/usr/bin/python3")
PROGRAM = Path(sysconfig.get_path("scripts")) / "mild-compass"
LIBRARY = "import gi; gi.require_version('Atspi', '2.0'); from gi.repository import Atspi"


def why_not() -> str:
    """What is missing here; empty where nothing is."""
    if any(shutil.which(each) is None for each in ("Xvfb", "dbus-run-session")) or not PYTHON.exists():
        return "Xvfb or a session bus is missing: tools/system_libraries.sh screen reader"
    found = subprocess.run([PYTHON, "-c", LIBRARY], capture_output=True, check=False)
    return "" if found.returncode == 0 else "a reader's library is missing: tools/system_libraries.sh reader"


pytestmark = pytest.mark.skipif(bool(why_not()), reason=why_not() or "can be tried")


@contextmanager
def screen() -> Iterator[str]:
    """A virtual screen."""
    number_read, number_write = os.pipe()
    command = ["Xvfb", "-displayfd", str(number_write), "-screen", "0", "1400x900x24", "-nolisten", "tcp"]
    with subprocess.Popen(command, pass_fds=[number_write], stderr=subprocess.DEVNULL) as server:
        try:
            os.close(number_write)
            with os.fdopen(number_read) as numbers:
                yield f":{numbers.readline().strip()}"
        finally:
            server.terminate()


def read(folder: Path, *words: object) -> str:
    """What the reader tells."""
    with screen() as display:
        told = {**os.environ, "DISPLAY": display, "HOME": str(folder)}
        told |= {f"XDG_{name}_HOME": str(folder / name) for name in ("STATE", "CONFIG", "DATA", "CACHE")}
        command = ["dbus-run-session", "--", str(PYTHON), str(READER), *map(str, words)]
        done = subprocess.run(command, env=told, capture_output=True, text=True, timeout=240, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


def test_every_control_can_be_named(tmp_path: Path):
    most = 99 if THOROUGH else 1
    told = read(tmp_path, "names", PROGRAM, most)
    assert "looked at" in told


def test_the_plans_menu_and_its_dialogs_can_be_opened_and_named(tmp_path: Path):
    assert "all dialogs" in read(tmp_path, "dialogs", PROGRAM)


def test_from_a_photo_to_a_sheet_by_accessible_actions_alone(tmp_path: Path):
    photo, target = tmp_path / "quay.jpg", tmp_path / "sheet.pdf"
    photo.write_bytes(jpeg())
    assert "journey done" in read(tmp_path, "journey", PROGRAM, photo, target)
    with pdfium.PdfDocument(target) as document:
        assert len(document) >= 1
