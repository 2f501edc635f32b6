"""Lock-in: which big lines and key points lie on an armature, and how often a random frame does as well.

Everything is measured on the sheet in mm. A big line counts by its length inside the frame times the contrast across
it; it locks onto a line of the armature when its mean distance from it and the angle between are within tolerance.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.geometry.lines import parts_inside

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.lines import Box

    Array = NDArray[np.float64]

SHIFT, LOW_SCALE, HIGH_SCALE = 0.15, 0.85, 1.15  # of the frame: how far random frames are from the true one
CHANCES, SEED = 1000, 20_260_314  # 1000 frames: the p-value to a standard error of at most 1.6 %; any seed
OVERSHOOT = 3.0  # times the tolerance: how far past an end of an armature line a big line still counts as on it


@dataclass(frozen=True, eq=False, slots=True)
class Marks:
    """Big lines (n, 2, 2) with the contrast across each (n,), and key points (m, 2), on the sheet in mm."""

    lines: Array
    contrast: Array
    points: Array

    @property
    def empty(self) -> bool:
        """Whether there is nothing to lock."""
        return not len(self.lines) and not len(self.points)


@dataclass(frozen=True, slots=True)
class Tolerance:
    """Within what a line locks: mm from the armature line, and degrees."""

    near_mm: float
    angle_deg: float


@dataclass(frozen=True, eq=False, slots=True)
class Locked:
    """What locks onto one armature: of each line and point the mm off, the angle in degrees, and whether it locks.

    Lines that lie outside the frame have length 0 inside it, and infinite distances; they do not count.
    """

    off_mm: Array
    angle_deg: Array
    locks: NDArray[np.bool_]
    inside_mm: Array
    point_off_mm: Array
    point_locks: NDArray[np.bool_]
    score: float

    @property
    def counted(self) -> int:
        """Lines inside the frame, and points."""
        return int((self.inside_mm > 0).sum()) + len(self.point_locks)

    @property
    def locked(self) -> int:
        """How many of them lock."""
        return int(self.locks.sum() + self.point_locks.sum())


def locked(marks: Marks, armature: Array, box: Box, tolerance: Tolerance) -> Locked:
    """Judge one frame: ``armature`` (k, 2, 2) in mm."""
    parts, inside = parts_inside(marks.lines, box)
    length = np.where(inside, np.hypot(*(parts[:, 1] - parts[:, 0]).T), 0.0)
    off, angle = _apart(parts[None], armature, tolerance)
    off, angle = off[0], angle[0]
    fit = (off <= tolerance.near_mm) & (angle <= tolerance.angle_deg)
    # The line it locks onto, else the one it comes nearest to among those it runs along, else any.
    cost = np.where(angle <= 3 * tolerance.angle_deg, off, off + 1e6) - 1e9 * fit
    best = cost.argmin(1) if armature.size else np.zeros(len(parts), int)
    rows = np.arange(len(parts))
    locks = fit.any(1) & inside if armature.size else np.zeros(len(parts), bool)
    none = np.full(len(parts), np.inf)
    point_off = _points_off(marks.points, armature, box)
    point_locks = point_off <= tolerance.near_mm
    weight = length * marks.contrast
    score = scored(weight[None], locks[None], point_locks[None], np.ones((1, len(point_locks)), bool))
    return Locked(
        np.where(inside, off[rows, best], np.inf) if armature.size else none,
        np.where(inside, angle[rows, best], np.inf) if armature.size else none,
        locks,
        length,
        point_off,
        point_locks,
        float(score[0]),
    )


def _apart(parts: Array, armature: Array, tolerance: Tolerance) -> tuple[Array, Array]:
    """Mean distance in mm and angle in degrees (f, n, k) of line parts (f, n, 2, 2) to armature lines (k, 2, 2)."""
    way = armature[:, 1] - armature[:, 0]
    length = np.maximum(np.hypot(*way.T), 1e-9)
    way = way / length[:, None]
    square = np.stack([-way[:, 1], way[:, 0]], 1)
    offset = (armature[:, 0] * square).sum(1)
    first = parts[:, :, 0] @ square.T - offset
    second = parts[:, :, 1] @ square.T - offset
    near, far = np.abs(first), np.abs(second)
    crossed = first * second < 0
    total = near + far
    mean = np.where(crossed, (near**2 + far**2) / np.maximum(2 * total, 1e-12), total / 2)
    step = parts[:, :, 1] - parts[:, :, 0]
    size = np.maximum(np.hypot(step[..., 0], step[..., 1]), 1e-9)
    angle = np.degrees(np.arcsin(np.clip(np.abs(step @ square.T) / size[..., None], 0, 1)))
    middle = parts.mean(2)
    along = middle @ way.T - (armature[:, 0] * way).sum(1)
    slack = OVERSHOOT * tolerance.near_mm
    beside = (along < -slack) | (along > length + slack)
    return np.where(beside, np.inf, mean), angle


def _points_off(points: Array, armature: Array, box: Box) -> Array:
    """How far key points (m, 2) inside the frame are from the nearest line; infinite outside it."""
    if not len(points) or not armature.size:
        return np.full(len(points), np.inf)
    start, step = armature[:, 0], armature[:, 1] - armature[:, 0]
    share = ((points[:, None] - start) * step).sum(-1) / np.maximum((step**2).sum(-1), 1e-12)
    nearest = start + np.clip(share, 0, 1)[..., None] * step
    off = np.hypot(*(points[:, None] - nearest).transpose(2, 0, 1)).min(1)
    within = (
        (points[:, 0] >= box.left)
        & (points[:, 0] <= box.right)
        & (points[:, 1] >= box.top)
        & (points[:, 1] <= box.bottom)
    )
    return np.where(within, off, np.inf)


def scored(
    weight: Array, locks: NDArray[np.bool_], point_locks: NDArray[np.bool_], points_in: NDArray[np.bool_]
) -> Array:
    """Locked weight over all weight (f,), from (f, n) and (f, m); a key point weighs as much as a line on the whole."""
    lines = weight.sum(1)
    count = np.maximum((weight > 0).sum(1), 1)
    point = np.where(lines > 0, lines / count, 1.0)
    total = lines + point * points_in.sum(1)
    held = (weight * locks).sum(1) + point * point_locks.sum(1)
    return np.asarray(np.divide(held, total, out=np.zeros_like(total), where=total > 0))
