"""Make docs/screenshots/*.png from the demo data, one picture per main view, in the real window."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

FOLDER = Path(__file__).parents[1] / "docs/screenshots"
STATIONS = ("references", "viewfinder", "armature", "sheet")


def take(name: str, *words: str) -> None:
    """One picture of the window at 1280 x 800."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    target = FOLDER / f"{name}.png"
    command = [sys.executable, "-m", "mild_compass", "demo", "--screenshot", str(target), *words]
    subprocess.run([*command, "--size", "1280x800"], env=environment, check=True)
    print(target.name)


def main() -> None:
    """Every main view."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    for station in STATIONS:
        take(station, "--station", station)
    take("studies-wall", "--station", "viewfinder", "--instrument", "wall")
    pumping = ("--scene", "pumping-station", "--station")
    take("perspective", *pumping, "perspective", "--instrument", "trace")
    bench = ("--scene", "lantern-bench", "--station")
    take("values", *bench, "values", "--instrument", "masses")
    take("measure", *pumping, "sheet", "--instrument", "measure")
    court = ("--scene", "observatory-court", "--station")
    for name, instrument in (("stage", "stage"), ("ground-plan", "ground plan")):
        take(name, *court, "perspective", "--instrument", instrument)
    take("edges", *bench, "values", "--instrument", "edges")
    for name, instrument in (
        ("check", "off"),
        ("plan-over-drawing", "over it"),
    ):
        take(name, *pumping, "check", "--instrument", instrument)
    take("logbook", *pumping, "logbook")
    for name, instrument in (("planned-and-done", "done"), ("practice", "practice"), ("trend", "trend")):
        take(name, *pumping, "logbook", "--instrument", instrument)
    for name, instrument in (("working-order", "order"), ("easel", "easel")):
        take(name, "--station", "logbook", "--instrument", instrument)

    guide_pictures()


def guide_pictures() -> None:
    """The pictures of the guide: the same, small enough to travel with the application."""
    from PIL import Image

    folder = Path(__file__).parents[1] / "src/mild_compass/assets/guide/pictures"
    folder.mkdir(exist_ok=True)
    for name in ("references", "viewfinder", "armature", "perspective", "values", "sheet", "check", "working-order"):
        picture = Image.open(FOLDER / f"{name}.png").convert("RGB").resize((600, 375), Image.Resampling.LANCZOS)
        picture.quantize(96).save(folder / f"{name}.png", optimize=True)


if __name__ == "__main__":
    main()
