"""The compiled loops made ready in good time: once for each machine, in a process of its own, about a minute long.

Made in the window's own process they would hold up the hand for as long. An installation from source does it at once.
"""

from __future__ import annotations

import hashlib
import logging
import subprocess
import sys
from functools import cache
from pathlib import Path
from threading import Lock

from mild_compass.craft.compiled import HOST, compiled, kept_in

log = logging.getLogger(__name__)
COMMAND = "prepare"
_ONE_AT_A_TIME = Lock()
_ready = False


def is_ready() -> bool:
    """Whether they are; while they are not, what needs them would take long."""
    mark = _marker()
    return _ready or mark is None or mark.exists()


def make_sure() -> None:
    """Wait until they are, having them made where that has not been done on this machine."""
    global _ready
    if _ready:
        return
    with _ONE_AT_A_TIME:
        if not is_ready():
            program = [sys.executable] if getattr(sys, "frozen", False) else [sys.executable, "-m", "mild_compass"]
            done = subprocess.run([*program, COMMAND], capture_output=True, text=True, check=False)
            if done.returncode:
                log.warning("The loops were not made ready: %s", done.stderr.strip())
        _ready = True


def begin_anew() -> None:
    """Drop what has been kept, to make all of it here and now: a loop that another has taken in may have changed, which
    is not noticed."""
    global _ready
    _ready = True
    mark = _marker()
    for old in mark.parent.glob("*") if mark is not None else ():
        if old.suffix in (".nbi", ".nbc") or old.name.startswith("ready-"):
            old.unlink(missing_ok=True)


def have_made() -> None:
    """Remember that all has been made."""
    mark = _marker()
    if mark is not None:
        mark.touch()


@compiled
def _nothing() -> None:
    pass


@cache
def _marker() -> Path | None:
    """Named after all that decides whether what has been made still holds; None where nothing can be kept."""
    folder = kept_in(_nothing)
    if folder is None:
        return None
    told = [HOST]
    files = [Path(sys.executable)] if getattr(sys, "frozen", False) else sorted(Path(__file__).parent.glob("*.py"))
    for file in files:
        about = file.stat()
        told.append(f"{file} {about.st_size} {about.st_mtime_ns}")
    return folder / f"ready-{hashlib.sha256(' '.join(told).encode()).hexdigest()[:16]}"
