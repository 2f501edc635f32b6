"""Engagement: whether horizontals and verticals run through the whole picture plane, and which one is weak."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

from mild_compass.craft.armature.lock_in import Marks
from mild_compass.craft.geometry.lines import parts_inside

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.lines import Box

    Array = NDArray[np.float64]

Way = Literal["level", "upright"]
LEAN_DEG = 10.0  # common practice, no published source, as are the two below
TOGETHER = 0.02  # of the other side: lines that near to one another count as one
ENGAGED = 2 / 3  # of the side that lines together must cover


@dataclass(frozen=True, eq=False, slots=True)
class Engaged:
    """The strongest line of one way: the share of the side it covers, its lines' indices, and its two ends in mm."""

    way: Way
    share: float
    members: tuple[int, ...]
    ends_mm: Array

    @property
    def whole(self) -> bool:
        """Whether it runs through the picture plane, or near enough."""
        return self.share >= ENGAGED


def engagement(marks: Marks, box: Box) -> list[Engaged]:
    """The strongest level and the strongest upright line, where there are any, in that order."""
    parts, inside = parts_inside(marks.lines, box)
    found = [_strongest(way, parts, inside, box) for way in ("level", "upright")]
    return [each for each in found if each is not None]


def _strongest(way: Way, parts: Array, inside: NDArray[np.bool_], box: Box) -> Engaged | None:
    along, square = (0, 1) if way == "level" else (1, 0)
    step = np.abs(parts[:, 1] - parts[:, 0])
    lean = np.degrees(np.arctan2(step[:, square], np.maximum(step[:, along], 1e-12)))
    members = np.flatnonzero(inside & (lean <= LEAN_DEG))
    if not len(members):
        return None
    side = (box.width, box.height)[along]
    near = TOGETHER * (box.width, box.height)[square]
    place = parts[members].mean(1)[:, square]
    groups = [members[np.abs(place - at) <= near] for at in place]
    shares = [_covered(parts[group][:, :, along]) / side for group in groups]
    share, group = max(zip(shares, groups, strict=True), key=lambda each: each[0])
    points = parts[group].reshape(-1, 2)
    ends = points[[points[:, along].argmin(), points[:, along].argmax()]]
    return Engaged(way, float(min(share, 1.0)), tuple(int(each) for each in group), ends)


def _covered(spans: Array) -> float:
    """Length covered by spans (n, 2), whatever they overlap."""
    total, reach = 0.0, -np.inf
    for low, high in np.sort(spans, 1)[np.argsort(spans.min(1))]:
        total += max(0.0, high - max(low, reach))
        reach = max(reach, high)
    return float(total)
