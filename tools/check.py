"""Every check: style, types, rooms and the whole suite, side by side, and what they cost: python -m tools.check.

Processor seconds (user and system) are what is held: they swing far less than the clock where other things run too.
"""

from __future__ import annotations

import argparse
import os
import resource
import subprocess
import sys
import time
from pathlib import Path

BIN = Path(sys.executable).parent
QUICK = (("ruff", "check", "."), ("lint-imports",), ("vulture",))
PARTS = (("--ignore=tests/studio",), ("tests/studio",))
WORKERS = 2  # as many as a small machine has processors


def main() -> int:
    """Run all; 1 where a check fails, or where they cost more processor seconds than allowed."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--most", type=float, default=0.0, help="processor seconds that all checks may cost")
    most = parser.parse_args().most
    begun = time.monotonic()
    if any(subprocess.run([BIN / words[0], *words[1:]], check=False).returncode for words in QUICK):
        return 1
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    types = subprocess.Popen([BIN / "mypy"])
    suite = [
        sys.executable,
        "-m",
        "pytest",
        "-n",
        str(WORKERS),
        "--dist",
        "loadfile",
    ]  # what a file shares is made once
    failed = 0
    for part in PARTS:  # apart: the window's tests remember from one to the next what the core's must make anew
        failed = subprocess.run([*suite, *part], env=environment, check=False).returncode or failed
    failed = types.wait() or failed
    used = resource.getrusage(resource.RUSAGE_CHILDREN)
    spent = used.ru_utime + used.ru_stime
    print(f"All checks: {spent:.0f} processor seconds in {time.monotonic() - begun:.0f} seconds of the clock.")
    if most and spent > most:
        print(f"That is more than the {most:.0f} they may cost: make the suite cheaper before it grows.")
        return 1
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
