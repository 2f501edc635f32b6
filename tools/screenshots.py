"""Make docs/screenshots/*.png from the demo data, one picture per main view, in the real window."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

FOLDER = Path(__file__).parents[1] / "docs/screenshots"
STATIONS = ("references", "viewfinder", "armature", "sheet", "logbook")


def take(name: str, *words: str) -> None:
    """One picture of the window at 1280 x 800."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    target = FOLDER / f"{name}.png"
    command = [sys.executable, "-m", "mild_compass", "demo", "--screenshot", str(target), *words]
    subprocess.run([*command, "--size", "1280x800"], env=environment, check=True)
    print(target.name)


def main() -> None:
    """Every main view, and one in dark surroundings."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    for station in STATIONS:
        take(station, "--station", station)
    for name, instrument in (("found-frames", "find"), ("studies-wall", "wall"), ("planned-changes", "changes")):
        take(name, "--station", "viewfinder", "--instrument", instrument)
    for name, instrument in (("lock-in", "lock-in"), ("one-armature", "one armature")):
        take(name, "--station", "armature", "--instrument", instrument)
    pumping = ("--scene", "pumping-station", "--station", "perspective")
    for name, instrument in (("perspective", "trace"), ("figures", "guides"), ("strings", "strings")):
        take(name, *pumping, "--instrument", instrument)
    take("straightened", *pumping, "--instrument", "straighten")
    bench = ("--scene", "lantern-bench", "--station", "values")
    for name, instrument in (("values", "masses"), ("reads", "reads"), ("way-of-working", "medium")):
        take(name, *bench, "--instrument", instrument)
    take("side-by-side", "--station", "references", "--instrument", "compare")
    take("dark", "--station", "viewfinder", "--dark")


if __name__ == "__main__":
    main()
