"""Whole test pictures from seeds: a world before a camera, with enough in it that an answer can be found."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from . import cameras, worlds
from .cameras import KnownCamera
from .painting import Spoilt, painted
from .worlds import World

LEAST_EDGES, LEAST_PX, LEAST_FAN_DEG = 10, 110.0, 8.0
MOST_TRIES = 60


@dataclass(frozen=True, eq=False, slots=True)
class Scene:
    """A world, its camera and how its picture is spoilt; ``hand`` goes on from there."""

    name: str
    world: World
    camera: KnownCamera
    spoilt: Spoilt
    seed: int

    def picture(self) -> np.ndarray:
        """The picture (h, w, 3)."""
        return painted(self.world, self.camera, np.random.default_rng(self.seed + 77), self.spoilt)


def scene(seed: int, leaves: bool = False) -> Scene:
    """The scene of a seed: worlds and cameras of all kinds in turn."""
    world_kind, camera_kind = worlds.KINDS[seed % 5], cameras.KINDS[seed // 5 % 5]
    for attempt in range(MOST_TRIES):
        hand = np.random.default_rng([seed, attempt, int(leaves)])
        camera = cameras.random_camera(hand, camera_kind)
        made = worlds.world(hand, world_kind)
        if world_kind != "room":
            made = made.stepped_back(max(0.0, 36 * camera.focal_px / max(camera.size_px) / 28 - 1) * 9.0)
        spoilt = Spoilt(
            float(hand.uniform(0.4, 1.3)), float(hand.uniform(1, 6)), int(hand.choice([45, 70, 90])), leaves
        )
        if _tells(made, camera):
            break
    name = f"{world_kind}, {camera_kind}" + (", leaves" if leaves else "")
    return Scene(name, made, camera, spoilt, seed)


def scene_with_lens(seed: int, focal_35mm: float, k1: float, leaves: bool = False) -> Scene:
    """The scene of a seed, taken with a given lens."""
    made = scene(seed, leaves)
    hand = np.random.default_rng([seed, 17])
    view = cameras.camera(
        focal_35mm,
        *(float(hand.uniform(-4, 6)), float(hand.normal(0, 0.7)), float(hand.uniform(-12, 12))),
        k1=k1,
        eye_m=float(hand.uniform(1.2, 2.4)),
    )
    return Scene(made.name, made.world, view, made.spoilt, seed)


def level_edges(world: World, camera: KnownCamera, turn_deg: float) -> np.ndarray:
    """Edges of faces that run level along a direction, as segments (n, 2, 2) inside the straight picture."""
    way = np.array([np.sin(np.radians(turn_deg)), np.cos(np.radians(turn_deg)), 0.0])
    found = []
    for corners, _, on in world.faces:
        if on < -1:
            continue
        for k in range(len(corners)):
            a, b = corners[k], corners[(k + 1) % len(corners)]
            length = np.linalg.norm(b - a)
            if length > 0.3 and abs(abs((b - a) @ way) / length - 1) < 1e-9:
                spots = camera.straight(np.stack([a, b]))
                if np.isfinite(spots).all():
                    found.append(spots)
    return clipped_to(np.array(found).reshape(-1, 2, 2), camera.size_px)


def clipped_to(segments: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """What of segments (n, 2, 2) lies inside a picture."""
    if not len(segments):
        return segments
    low, high = np.zeros(len(segments)), np.ones(len(segments))
    way = segments[:, 1] - segments[:, 0]
    for axis in (0, 1):
        for sign, bound in ((1, 0.0), (-1, float(size[axis]))):
            start, rate = sign * (segments[:, 0, axis] - bound), sign * way[:, axis]
            with np.errstate(divide="ignore", invalid="ignore"):
                cut = -start / rate
            low = np.where(rate > 0, np.maximum(low, cut), np.where((rate == 0) & (start < 0), 2.0, low))
            high = np.where(rate < 0, np.minimum(high, cut), high)
    kept = high > low
    ends = [segments[kept, 0] + share[kept, None] * way[kept] for share in (low, high)]
    return np.stack(ends, 1)


def _tells(world: World, camera: KnownCamera) -> bool:
    """Whether enough long edges of one direction are in the picture, and run apart enough to tell a point."""
    for turn in (world.turns_deg[0], world.turns_deg[0] + 90):
        edges = level_edges(world, camera, turn)
        length = np.hypot(*(edges[:, 1] - edges[:, 0]).T) if len(edges) else np.zeros(0)
        long = edges[length >= LEAST_PX]
        if len(long) < LEAST_EDGES:
            continue
        way = long[:, 1] - long[:, 0]
        angle = np.degrees(np.arctan2(way[:, 1], way[:, 0])) % 180
        spread = np.ptp(np.sort(angle)) if np.ptp(angle) < 90 else np.ptp((angle + 90) % 180)
        if spread >= LEAST_FAN_DEG:
            return True
    return False
