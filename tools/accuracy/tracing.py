"""Edges as a hand traces them: which are really to be seen, and how far off they are drawn."""

from __future__ import annotations

import numpy as np

from mild_compass.craft.picture.edges import sampled

from .scenes import Scene, level_edges

LEAST_STEP, LEAST_SEEN = 6.0, 0.75


def seen_edges(scene: Scene, values: np.ndarray, turn_deg: float, least_px: float = 90.0) -> np.ndarray:
    """Level edges (n, 2, 2) of one direction that can be seen along most of their length, in the straight picture."""
    edges = level_edges(scene.world, scene.camera, turn_deg)
    if not len(edges):
        return edges
    length = np.hypot(*(edges[:, 1] - edges[:, 0]).T)
    edges = edges[length >= least_px]
    if not len(edges):
        return edges
    share = (np.arange(30) + 0.5) / 30
    way = edges[:, 1] - edges[:, 0]
    square = np.stack([-way[:, 1], way[:, 0]], 1) / np.hypot(*way.T)[:, None]
    spots = scene.camera.bowed(edges[:, None, 0] + share[:, None] * way[:, None])
    step = sampled(values, spots + 2 * square[:, None]) - sampled(values, spots - 2 * square[:, None])
    same = np.sign(np.median(step, 1))[:, None] * step > LEAST_STEP
    return edges[same.mean(1) >= LEAST_SEEN]


def traced(edges: np.ndarray, error_px: float, hand: np.random.Generator) -> np.ndarray:
    """Edges with both ends off by chance."""
    return edges + hand.normal(0, error_px, edges.shape)
