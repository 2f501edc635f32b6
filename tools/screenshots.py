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
    take("stage", *court, "perspective", "--instrument", "stage")
    take("first-start", "--station", "references", "--instrument", "first start")
    take("guide", *bench, "values", "--instrument", "guide")
    take("true-size", *bench, "sheet", "--instrument", "true size")
    take_along()
    for name, instrument in (
        ("check", "off"),
        ("plan-over-drawing", "over it"),
    ):
        take(name, *pumping, "check", "--instrument", instrument)
    take("logbook", *pumping, "logbook")
    take("practice", *pumping, "logbook", "--instrument", "practice")
    for name, instrument in (("working-order", "order"), ("easel", "easel")):
        take(name, "--station", "logbook", "--instrument", instrument)

    guide_pictures()


def take_along() -> None:
    """The first side of the take-along page, as it is printed."""
    import tempfile

    import pypdfium2

    from mild_compass.demo import plan_of
    from mild_compass.output.brief_pdf import brief_pdf
    from mild_compass.output.logbook_document import worked_out
    from mild_compass.plan.photos import PhotoFolder

    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        worked = worked_out(plan_of("pumping-station", photos), photos)
    assert worked is not None
    with pypdfium2.PdfDocument(brief_pdf(worked)) as document:
        document[0].render(scale=1.4).to_pil().convert("RGB").quantize(96).save(
            FOLDER / "take-along.png", optimize=True
        )
    print("take-along.png")


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
