"""One journey in a real X window, on a virtual screen."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from tests.conftest import jpeg

JOURNEY = Path(__file__).with_name("real_window_journey.py")


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="Xvfb is not installed; make test installs it")
def test_the_journey_in_a_real_window(tmp_path: Path):
    photo = tmp_path / "quay.jpg"
    photo.write_bytes(jpeg())
    number_read, number_write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(number_write), "-screen", "0", "1400x900x24", "-nolisten", "tcp"],
        pass_fds=[number_write],
        stderr=subprocess.DEVNULL,
    )
    try:
        os.close(number_write)
        with os.fdopen(number_read) as numbers:
            display = f":{numbers.readline().strip()}"
        environment = {
            **os.environ,
            "DISPLAY": display,
            "QT_QPA_PLATFORM": "xcb",
            "XDG_STATE_HOME": str(tmp_path / "state"),
            "XDG_CONFIG_HOME": str(tmp_path / "config"),
        }
        words = [sys.executable, str(JOURNEY), str(photo), str(tmp_path / "out")]
        done = subprocess.run(words, env=environment, capture_output=True, text=True, timeout=120, check=False)
        assert done.returncode == 0, done.stdout + done.stderr
        assert "journey done on xcb" in done.stdout
        assert (tmp_path / "out.pdf").stat().st_size > 2000
        assert (tmp_path / "out.mildplan").exists()
        assert list((tmp_path / "state").rglob("journal.json")) == []
    finally:
        server.terminate()
        server.wait()
