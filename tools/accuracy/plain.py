"""A plain solver to compare with: vanishing points by least squares, heights by one known height.

Height above the ground from its foot and top, the horizon and the uprights' point, up to a factor:
A. Criminisi, I. Reid, A. Zisserman, Single View Metrology, Int. J. Computer Vision 40, 2000, eq. 5.
"""

from __future__ import annotations

import numpy as np

from .cameras import SIZE
from .scenes import Scene
from .tracing import seen_edges, traced

UNIT_PX = 1000.0  # for even numbers in the least squares


def point_of(lines: np.ndarray) -> np.ndarray:
    """The point (3,) that segments (n, 2, 2) in px run to: least squares on their unit normals."""
    ends = np.concatenate([lines / UNIT_PX, np.ones((*lines.shape[:2], 1))], 2)
    normals = np.cross(ends[:, 0], ends[:, 1])
    normals /= np.hypot(normals[:, 0], normals[:, 1])[:, None]
    point = np.linalg.svd(normals)[2][-1]
    return np.asarray(point * (UNIT_PX, UNIT_PX, 1.0))


def height_by(known: tuple[np.ndarray, float], spots: np.ndarray, level: list[np.ndarray], up: np.ndarray) -> float:
    """The height of what stands on ``spots`` (foot and top, px), given one known so, two level points, the upright."""
    horizon = np.cross(level[0], level[1])

    def raw(pair: np.ndarray) -> float:
        foot, top = (np.append(each, 1.0) for each in pair)
        across = np.linalg.norm(np.cross(foot, top)) / np.linalg.norm(np.cross(up, top))
        return float(across / abs(horizon @ foot))

    return known[1] * raw(spots) / raw(known[0])


NEAR_SHARE, NEAR_DEG = 0.02, 2.0
TRIES, TRACED, OFF_PX = 5, 4, 1.5


def told_plainly(scene: Scene, values: np.ndarray) -> bool:
    """Whether edges that are really to be seen, the longest of two directions, traced by a hand, tell this solver the
    horizon within 2 % of the height and 2°, in most of a few tries: whether the picture holds an answer at all."""
    turn, hand = scene.world.turns_deg[0], np.random.default_rng([scene.seed, 23])
    seen = [seen_edges(scene, values, turn + square) for square in (0, 90)]
    if min(len(each) for each in seen) < 2:
        return False
    longest = [each[np.argsort(-np.hypot(*(each[:, 1] - each[:, 0]).T))[:TRACED]] for each in seen]
    y, tilt = scene.camera.horizon
    good = 0
    for _ in range(TRIES):
        a, b, c = np.cross(*(point_of(traced(scene.camera.bowed(each), OFF_PX, hand)) for each in longest))
        off = abs(-(a * SIZE[0] / 2 + c) / b - y) / SIZE[1]
        good += off <= NEAR_SHARE and abs(np.degrees(np.arctan(-a / b)) - tilt) <= NEAR_DEG
    return good > TRIES / 2
