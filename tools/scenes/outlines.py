"""The true outlines of the rendered photographs, from the models themselves: python -m tools.scenes.outlines [NAME…].

An outline is where one thing ends before another, where a surface turns by more than CREASE_DEG, and where one
material meets another. Written to tests/data/outlines as one-bit pictures half as wide as the photographs.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

import cv2
import mitsuba as mi
import numpy as np
from PIL import Image

from . import glasshouse
from .__main__ import SCENES, WIDER, _fixed
from .render import HEIGHT, WIDTH, camera_axes, lens_map, sensor

FOLDER = Path(__file__).parents[2] / "tests/data/outlines"
CREASE_DEG = 25.0
JUMP = 0.015  # of the distance: a step in depth larger than that is one thing before another
UNSEEN = ("glass", "glare")  # one looks through them


def surfaces_seen(meshes: dict, eye: dict) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Place (h, w, 3), normal (h, w, 3) and mesh number (h, w) of what each pixel of a camera shows."""
    seen = {"type": "aov", "aovs": "p:position,n:sh_normal,i:shape_index"}
    scene: dict = {"type": "scene", "sensor": eye, "integrator": seen}
    with tempfile.TemporaryDirectory() as folder:
        for name, mesh in meshes.items():
            if name in UNSEEN:
                continue
            path = Path(folder) / f"{name}.ply"
            mesh.write(path)
            smooth = name.startswith(("figure", "enamel", "terracotta"))
            scene[name] = {"type": "ply", "filename": str(path), "face_normals": not smooth}
        found = np.array(mi.render(mi.load_dict(scene), spp=1))
    return found[..., :3], found[..., 3:6], found[..., 6]


def outlines(place: np.ndarray, normal: np.ndarray, number: np.ndarray, camera: np.ndarray) -> np.ndarray:
    """Where neighbouring pixels show different surfaces (h, w)."""
    found = np.zeros(number.shape, bool)
    distance = np.linalg.norm(place - camera, axis=-1)
    for axis in (0, 1):
        here, there = (slice(None, -1), slice(None)), (slice(1, None), slice(None))
        if axis:
            here, there = here[::-1], there[::-1]
        step = place[there] - place[here]
        off = np.maximum(np.abs((step * normal[here]).sum(-1)), np.abs((step * normal[there]).sum(-1))) / np.minimum(
            distance[here], distance[there]
        ).clip(1e-6)
        turn = (normal[here] * normal[there]).sum(-1) < np.cos(np.radians(CREASE_DEG))
        other = number[here] != number[there]
        things = (np.abs(normal[here]).sum(-1) > 0) & (np.abs(normal[there]).sum(-1) > 0)  # the sky has no surface
        found[here] |= ((off > JUMP) | turn) & things | other
    return found


def bowed_like(flags: np.ndarray, k1: float, wider: float) -> np.ndarray:
    """As ``render.bowed`` does with the picture, for flags."""
    at = lens_map(flags.shape, k1, wider)
    return cv2.remap(flags.astype(np.float32), at[..., 0], at[..., 1], cv2.INTER_LINEAR) > 0.45


def main() -> None:
    """The named shots, or all of them."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    for scene, _ in SCENES:
        for shot in scene.SHOTS:
            if sys.argv[1:] and shot.name not in sys.argv[1:]:
                continue
            k1 = getattr(shot, "k1", 0.0)
            wider = WIDER if k1 else 1.0
            axes = camera_axes(shot.yaw_deg, shot.pitch_deg)
            eye = sensor(shot.camera, axes, 1, 1.0, wider)
            eye["film"]["rfilter"] = {"type": "box"}
            extras = glasshouse.extras(shot) if scene is glasshouse else {}
            flags = outlines(*surfaces_seen({**_fixed(scene), **extras}, eye), np.array(shot.camera))
            if k1:
                flags = bowed_like(flags, k1, wider)
            half = flags.reshape(HEIGHT // 2, 2, WIDTH // 2, 2).any((1, 3))
            Image.fromarray(half).save(FOLDER / f"{shot.name}.png", optimize=True)
            print(shot.name, f"{half.mean():.3f}")


if __name__ == "__main__":
    main()
