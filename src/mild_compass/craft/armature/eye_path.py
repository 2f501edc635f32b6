"""The eye's path as the artist draws it: a soft curve with entry, turns and rest, and what can be said of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray

    from mild_compass.craft.armature.lock_in import Tolerance
    from mild_compass.craft.geometry.lines import Box

    Array = NDArray[np.float64]

MOST_STEPS = 5000  # points of the smoothed curve at most: bounds the time
STEP_SHARE = 0.01  # of the frame's diagonal, between points of the smoothed curve
SOFT_SHARE = 0.02  # of the diagonal: wobbles of the hand smaller than that are smoothed away
TURN_DEG, TURN_SHARE = 55.0, 0.10  # a turn: so much change of direction within so much of the diagonal
ALONG_TIMES = 2.0  # a curve runs along a line within so many times the tolerance, which is meant for straight lines


@dataclass(frozen=True, eq=False, slots=True)
class EyePath:
    """The smoothed curve (n, 2) in mm at even steps, and the indices of its turns."""

    points: Array
    turns: tuple[int, ...]

    @property
    def length_mm(self) -> float:
        """From entry to rest."""
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())


def smoothed_path(points_mm: ArrayLike, diagonal_mm: float) -> EyePath | None:
    """The hand's line (n, 2) in mm as a soft curve; None when it has no length."""
    points = np.asarray(points_mm, np.float64)
    lengths = np.hypot(*np.diff(points, axis=0).T)
    total = float(lengths.sum())
    if total <= 1e-6 * diagonal_mm:
        return None
    count = round(min(max(8, total / (STEP_SHARE * diagonal_mm)), MOST_STEPS))
    place = np.concatenate([[0.0], lengths.cumsum()])
    even = np.linspace(0, total, count + 1)
    curve = np.stack([np.interp(even, place, points[:, axis]) for axis in (0, 1)], 1)
    curve = _soft(curve, SOFT_SHARE * diagonal_mm / (total / count))
    return EyePath(curve, _turns(curve, max(2, round(TURN_SHARE * diagonal_mm / (total / count)))))


def _soft(curve: Array, sigma: float) -> Array:
    """Averaged along itself, the ends kept where they are: the line is mirrored through each end."""
    reach = min(len(curve) - 1, max(1, int(3 * sigma)))
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / max(sigma, 1e-6)) ** 2)
    kernel /= kernel.sum()
    head = 2 * curve[0] - curve[reach:0:-1]
    tail = 2 * curve[-1] - curve[-2 : -reach - 2 : -1]
    whole = np.concatenate([head, curve, tail])
    return np.stack([np.convolve(whole[:, axis], kernel, "valid") for axis in (0, 1)], 1)


def _turns(curve: Array, window: int) -> tuple[int, ...]:
    """Where the direction changes most, by TURN_DEG at least within the window, one for each bend."""
    way = np.diff(curve, axis=0)
    angle = np.unwrap(np.arctan2(way[:, 1], way[:, 0]))
    half = max(1, window // 2)
    change = np.zeros(len(curve))
    for index in range(1, len(curve) - 1):
        low, high = max(0, index - half), min(len(angle) - 1, index + half - 1)
        change[index] = abs(angle[high] - angle[low])
    found: list[int] = []
    left = change.copy()
    while left.max() >= np.radians(TURN_DEG):
        index = int(left.argmax())
        found.append(index)
        left[max(0, index - window) : index + window + 1] = 0
    return tuple(sorted(found))


def outside_share(path: EyePath, box: Box) -> float:
    """Share of the path that lies outside the frame."""
    x, y = path.points.T
    out = (x < box.left) | (x > box.right) | (y < box.top) | (y > box.bottom)
    return float(out.mean())


def nearest_mm(path: EyePath, point_mm: ArrayLike) -> float:
    """How near the path comes to a point."""
    return float(np.hypot(*(path.points - np.asarray(point_mm)).T).min())


def along_share(path: EyePath, armature: Array, tolerance: Tolerance) -> float:
    """Share of the path that runs along a line (k, 2, 2) of the armature: near it, and in its direction."""
    if not len(armature):
        return 0.0
    middle, way = (path.points[1:] + path.points[:-1]) / 2, np.diff(path.points, axis=0)
    start, step = armature[:, 0], armature[:, 1] - armature[:, 0]
    share = ((middle[:, None] - start) * step).sum(-1) / np.maximum((step**2).sum(-1), 1e-12)
    nearest = start + np.clip(share, 0, 1)[..., None] * step
    off = np.hypot(*(middle[:, None] - nearest).transpose(2, 0, 1))
    sizes = np.hypot(*way.T)[:, None] * np.hypot(*step.T)
    lean = np.abs(way[:, None, 0] * step[:, 1] - way[:, None, 1] * step[:, 0]) / np.maximum(sizes, 1e-12)
    near = off <= ALONG_TIMES * tolerance.near_mm
    return float((near & (lean <= np.sin(np.radians(min(90, 4 * tolerance.angle_deg))))).any(1).mean())
