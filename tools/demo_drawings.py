"""Draw the demo's own drawings anew: python -m tools.demo_drawings (writes src/mild_compass/demo/photos)."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
from PIL import Image

from mild_compass.craft.check.planned import study_lines
from mild_compass.craft.check.stand_in import HANDS, Clumsiness, drawn_badly
from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.values.masses import study_masses
from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.demo.pumping_station import pumping_plan
from mild_compass.plan.photos import PhotoFolder

PHOTO_PX = (2400, 1800)
# First the lines by an ordinary hand; then the values, when most of what was off has been mended.
LATER = Clumsiness(0.9, 0.3, 0.15, 2.4, 2, 0.1, 0.04, 9.0, values=9.0)
LAST = Clumsiness(0.9, 0.3, 0.15, 1.6, 1, 0.1, 0.04, 8.0, values=7.0)
STAGES: tuple[tuple[str, Clumsiness, int], ...] = (
    ("lines", HANDS["ordinary"], 12),
    ("values", LATER, 8),
    ("finished", LAST, 21),
)
# In the finished work the middle values of the foreground have gone dark: their L*, how far down, by how much.
MIDDLE, FOREGROUND, DARKER = (50.0, 62.0), 0.84, 21.0


def main() -> None:
    """Write both photos."""
    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        plan = pumping_plan(photos)
        study = plan.study
        assert study is not None
        picture = study_picture(plan, study, photos)
        lines = [line for line in study_lines(plan, picture) if line.layer == "lines"]
        tones = np.asarray(study_masses(picture, study, plan.paper).painted(1600))
    size, box = (plan.paper.width_mm, plan.paper.height_mm), picture_box(plan.paper, study.frame)
    for stage, hand, seed in STAGES:
        shaded = None if stage == "lines" else tones
        if stage == "finished":
            down, across = np.mgrid[0 : 1 : tones.shape[0] * 1j, 0 : 1 : tones.shape[1] * 1j]
            brushed = down + 0.03 * np.sin(11 * across) > FOREGROUND
            gone = brushed & (tones > MIDDLE[0]) & (tones < MIDDLE[1])
            shaded = np.where(gone, tones - DARKER, tones).astype(np.float32)
        rgb = drawn_badly(lines, size, hand, seed, shaded, tuple(box), PHOTO_PX)
        Image.fromarray(rgb).save(PHOTOS / f"pumping-drawing-{stage}.jpg", quality=84, optimize=True)


if __name__ == "__main__":
    main()
