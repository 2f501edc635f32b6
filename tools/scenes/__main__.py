"""Render every demo photograph: python -m tools.scenes [--draft] [NAME…]."""

from __future__ import annotations

import argparse
import tempfile
from pathlib import Path

from . import glasshouse
from .render import camera_axes, camera_facts, finish, render, save, sensor

PHOTOS = Path(__file__).parents[2] / "src/mild_compass/demo/photos"
SUN = (0.62, 0.42, -0.78)


def main() -> None:
    """Render the named shots, or all of them."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="*")
    parser.add_argument("--draft", action="store_true", help="a small, noisy picture")
    parser.add_argument("--samples", type=int, default=64)
    parser.add_argument("--out", type=Path, default=PHOTOS)
    options = parser.parse_args()
    options.out.mkdir(parents=True, exist_ok=True)
    surfaces = glasshouse.surfaces()
    fixed = {**glasshouse.structure(), **glasshouse.benches(), **glasshouse.ground(), **glasshouse.planting()}
    for number, shot in enumerate(glasshouse.SHOTS):
        if options.names and shot.name not in options.names:
            continue
        axes = camera_axes(shot.yaw_deg, shot.pitch_deg)
        samples, scale = (12, 0.45) if options.draft else (options.samples, 1.0)
        eye = sensor(shot.camera, axes, samples, scale)
        with tempfile.TemporaryDirectory() as folder:
            linear = render({**fixed, **glasshouse.extras(shot)}, surfaces, eye, Path(folder), SUN)
        picture = finish(linear, seed=number)
        facts = camera_facts(shot.camera, axes, picture.shape[1], picture.shape[0])
        save(picture, options.out / f"{shot.name}.jpg", facts)
        print(shot.name, picture.shape)


if __name__ == "__main__":
    main()
