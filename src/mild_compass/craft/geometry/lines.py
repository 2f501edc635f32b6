"""Straight lines: clipping, distances, crossings."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mild_compass.plan.framing import picture_area

if TYPE_CHECKING:
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame

Points = NDArray[np.float64]


class Box(NamedTuple):
    """An upright rectangle by its low and high corners."""

    left: float
    top: float
    right: float
    bottom: float

    @property
    def width(self) -> float:
        """From left to right."""
        return self.right - self.left

    @property
    def height(self) -> float:
        """From top to bottom."""
        return self.bottom - self.top

    def part(self, left: float, top: float, right: float, bottom: float) -> Box:
        """A part of it, given in shares of its width and height."""
        return Box(
            self.left + left * self.width,
            self.top + top * self.height,
            self.left + right * self.width,
            self.top + bottom * self.height,
        )


def sheet_box(paper: Paper) -> Box:
    """The whole sheet in mm."""
    return Box(0.0, 0.0, paper.width_mm, paper.height_mm)


def picture_box(paper: Paper, frame: Frame | None = None) -> Box:
    """The picture area on the sheet in mm, or what a frame fills of it."""
    left, top, width, height = picture_area(paper, frame)
    return Box(left, top, left + width, top + height)


def clipped(start: ArrayLike, end: ArrayLike, box: Box, endless: bool = False) -> Points | None:
    """The part of a segment (or of the endless line through it) inside a box, (2, 2), or None (Liang-Barsky)."""
    p, q = np.asarray(start, np.float64), np.asarray(end, np.float64)
    d = q - p
    low, high = (-np.inf, np.inf) if endless else (0.0, 1.0)
    for axis, (near, far) in enumerate(((box.left, box.right), (box.top, box.bottom))):
        if d[axis] == 0:
            if not near <= p[axis] <= far:
                return None
            continue
        a, b = sorted(((near - p[axis]) / d[axis], (far - p[axis]) / d[axis]))
        low, high = max(low, a), min(high, b)
    if low > high or not np.isfinite([low, high]).all():
        return None
    return np.stack([p + low * d, p + high * d])


def parts_inside(lines: NDArray[np.float64], box: Box) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """The parts of segments (…, 2, 2) inside a box, and which have any: ``clipped`` for thousands at once.

    For one segment ``clipped`` takes a fifth of the time, and guides that follow the hand clip one by one.
    """
    start, step = lines[..., 0, :], lines[..., 1, :] - lines[..., 0, :]
    low = np.zeros(lines.shape[:-2])
    high = np.ones(lines.shape[:-2])
    inside = np.ones(lines.shape[:-2], bool)
    for axis, (near, far) in enumerate(((box.left, box.right), (box.top, box.bottom))):
        p, d = start[..., axis], step[..., axis]
        level = np.abs(d) < 1e-12
        safe = np.where(level, 1.0, d)
        a, b = (near - p) / safe, (far - p) / safe
        low = np.where(level, low, np.maximum(low, np.minimum(a, b)))
        high = np.where(level, high, np.minimum(high, np.maximum(a, b)))
        inside &= ~level | ((p >= near) & (p <= far))
    inside &= high > low
    ends = np.stack([low, high], -1)[..., None]
    return start[..., None, :] + ends * step[..., None, :], inside
