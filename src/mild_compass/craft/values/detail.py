"""A spatially varying price of border: lower near what counts, where regions may also be smaller.

A border that is cheaper near the focus and dearer away from it keeps small shapes here and wants big ones there; a
weight on the fit would do almost nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.values.by_hand import filled, to_steps_px

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame, Study
    from mild_compass.plan.tones import DetailArea

MOST_TIMES = 4.0  # dearer or cheaper at the full amount
HELD_TIMES = 4.0  # cheaper where detail is held by hand, dearer where it is let go
NEAR_SHARE = 0.16  # of the diagonal: how far round a focus without a size detail counts
SOFT_SHARE = 0.02  # of the diagonal: how softly an area drawn by hand ends


@dataclass(frozen=True, slots=True)
class DetailWeight:
    """A place that counts, in photo pixels: its middle and how far it reaches across and down (0: as a focus does)."""

    x_px: float
    y_px: float
    across_px: float = 0.0
    down_px: float = 0.0


def what_counts(study: Study) -> tuple[DetailWeight, ...]:
    """The focus and the ringed subjects, where detail is to be kept for them; nothing where it is even."""
    return subjects_of(study) if study.values.detail else ()


def subjects_of(study: Study) -> tuple[DetailWeight, ...]:
    """The focus and the ringed subjects."""
    found = [DetailWeight(ring.x_px, ring.y_px, ring.radius_x_px, ring.radius_y_px) for ring in study.rings]
    if study.reads.focus is not None:
        found.append(DetailWeight(*study.reads.focus))
    return tuple(found)


def nearness(
    shape: tuple[int, int], frame: Frame, paper: Paper, counts: tuple[DetailWeight, ...]
) -> NDArray[np.float32]:
    """How near each pixel (h, w) of the value map is to what counts: 1 inside, 0 at twice its size and beyond."""
    diagonal = float(np.hypot(*shape))
    near = np.zeros(shape, np.float32)
    x, y = np.arange(shape[1], dtype=np.float32)[None, :], np.arange(shape[0], dtype=np.float32)[:, None]
    for each in counts:
        spots = ((each.x_px, each.y_px), (each.x_px + max(each.across_px, 1e-6), each.y_px + each.down_px))
        (cx, cy), (ex, ey) = to_steps_px(spots, frame, paper, shape).tolist()
        across = max(abs(ex - cx), NEAR_SHARE * diagonal if each.across_px <= 0 else 1.0)
        down = max(abs(ey - cy), NEAR_SHARE * diagonal if each.down_px <= 0 else 1.0)
        far = np.sqrt(((x + 0.5 - cx) / across) ** 2 + ((y + 0.5 - cy) / down) ** 2)
        near = np.maximum(near, np.clip(2 - far, 0, 1))
    return near


def border_weight(
    shape: tuple[int, int],
    frame: Frame,
    paper: Paper,
    counts: tuple[DetailWeight, ...],
    amount: float,
    areas: tuple[DetailArea, ...],
) -> NDArray[np.float32] | None:
    """How dear border is in each pixel (h, w) of the value map, 1 for the usual; None where it is the same all over."""
    diagonal = float(np.hypot(*shape))
    weight: NDArray[np.float32] = np.ones(shape, np.float32)
    if counts and amount > 0:
        near = nearness(shape, frame, paper, counts)
        weight = np.exp(np.float32(np.log(MOST_TIMES) * amount / 100) * (1 - 2 * near)).astype(np.float32)
    for area in areas:
        mask = filled(to_steps_px(area.points, frame, paper, shape), shape).astype(np.float32)
        mask = np.asarray(cv2.GaussianBlur(mask, (0, 0), max(SOFT_SHARE * diagonal / 2, 0.5)), np.float32)
        times = 1 / HELD_TIMES if area.kind == "hold" else HELD_TIMES
        weight = np.asarray(weight * np.exp(np.float32(np.log(times)) * mask), np.float32)
    return None if (weight == 1).all() else weight.astype(np.float32)
