"""Render every demo photograph: python -m tools.scenes [--draft] [NAME…]."""

from __future__ import annotations

import argparse
import tempfile
from pathlib import Path

from . import glasshouse, lantern_bench, pumping_station
from .render import bowed, camera_axes, camera_facts, despeckled, finish, render, save, sensor

PHOTOS = Path(__file__).parents[2] / "src/mild_compass/demo/photos"
SUN = (0.62, 0.42, -0.78)
SCENES = ((glasshouse, SUN), (pumping_station, pumping_station.SUN), (lantern_bench, lantern_bench.SUN))
WIDER = 1.2  # how much more is rendered where the lens will bow the picture


def main() -> None:
    """Render the named shots, or all of them."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="*")
    parser.add_argument("--draft", action="store_true", help="a small, noisy picture")
    parser.add_argument("--samples", type=int, default=64)
    parser.add_argument("--out", type=Path, default=PHOTOS)
    options = parser.parse_args()
    options.out.mkdir(parents=True, exist_ok=True)
    number = 0
    for scene, sun in SCENES:
        wanted = [shot for shot in scene.SHOTS if not options.names or shot.name in options.names]
        fixed = _fixed(scene) if wanted else {}
        for shot in wanted:
            k1 = getattr(shot, "k1", 0.0)
            wider = WIDER if k1 else 1.0
            axes = camera_axes(shot.yaw_deg, shot.pitch_deg)
            samples, scale = (12, 0.45) if options.draft else (options.samples, 1.0)
            eye = sensor(shot.camera, axes, samples, scale, wider)
            with tempfile.TemporaryDirectory() as folder:
                extras = glasshouse.extras(shot) if scene is glasshouse else {}
                linear = render({**fixed, **extras}, scene.surfaces(), eye, Path(folder), sun)
            if scene is lantern_bench:
                linear = despeckled(linear)
            picture = finish(bowed(linear, k1, wider) if k1 else linear, seed=number)
            facts = camera_facts(shot.camera, axes, picture.shape[1], picture.shape[0], k1)
            if scene is pumping_station:
                facts |= pumping_station.facts()
            save(picture, options.out / f"{shot.name}.jpg", facts)
            print(shot.name, picture.shape)
            number += 1


def _fixed(scene) -> dict:
    """Everything that is the same in every shot of a scene."""
    if scene is glasshouse:
        return {**glasshouse.structure(), **glasshouse.benches(), **glasshouse.ground(), **glasshouse.planting()}
    if scene is lantern_bench:
        return {**lantern_bench.room(), **lantern_bench.things()}
    return {**pumping_station.house(), **pumping_station.things(), **pumping_station.ground()}


if __name__ == "__main__":
    main()
