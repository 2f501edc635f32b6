"""Edits of the label map: a region pointed at (flood of equal labels), or a polygon, takes another label."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.geometry.frame_map import FrameMap

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame
    from mild_compass.plan.tones import MassChange, ValuePlan

    Steps = NDArray[np.uint8]

OTHER_SHAPE = 3.0  # times larger or smaller than when it was pointed at: it is another shape now


@dataclass(frozen=True, slots=True)
class StaleChange:
    """A change that does not fit the masses as they are now, and why."""

    id: str
    why: str


def to_steps_px(
    points: tuple[tuple[float, float], ...], frame: Frame, paper: Paper, shape: tuple[int, ...]
) -> NDArray[np.float64]:
    """Points of the picture (n, 2) in pixels of the value map."""
    frame_map = FrameMap.of(frame, paper)
    box = frame_map.box
    on_sheet = frame_map.to_sheet(np.array(points, np.float64)) - (box.left, box.top)
    return np.asarray(on_sheet * (shape[1] / box.width, shape[0] / box.height))


def filled(points: NDArray[np.float64], shape: tuple[int, ...]) -> NDArray[np.bool_]:
    """Which pixels (h, w) lie within an outline (n, 2), to a sixteenth of a pixel."""
    mask = np.zeros(shape, np.uint8)
    cv2.fillPoly(mask, [np.round((points - 0.5) * 16).astype(np.int32).reshape(-1, 1, 2)], 1, shift=4)
    return np.asarray(mask > 0)


def shape_at(steps: Steps, x: float, y: float) -> NDArray[np.bool_] | None:
    """The connected shape (h, w) under a place; None outside the picture."""
    column, row = int(np.floor(x)), int(np.floor(y))
    if not (0 <= row < steps.shape[0] and 0 <= column < steps.shape[1]):
        return None
    same = (steps == steps[row, column]).astype(np.uint8)
    filled = np.zeros((steps.shape[0] + 2, steps.shape[1] + 2), np.uint8)
    cv2.floodFill(same, filled, (column, row), 2, flags=4)
    return np.asarray(same == 2)


def with_changes(steps: Steps, values: ValuePlan, frame: Frame, paper: Paper) -> tuple[Steps, tuple[StaleChange, ...]]:
    """The value map with the changes made in their order; those that do not fit any more are left out and named."""
    steps, unfit = steps.copy(), []
    for change in values.changes:
        where, why = _where(steps, change, frame, paper)
        if where is None:
            unfit.append(StaleChange(change.id, why))
        else:
            steps[where] = change.value_of(values.count)
    return steps, tuple(unfit)


def _where(steps: Steps, change: MassChange, frame: Frame, paper: Paper) -> tuple[NDArray[np.bool_] | None, str]:
    points = to_steps_px(change.points, frame, paper, steps.shape)
    if change.kind == "area":
        mask = filled(points, steps.shape)
        return (mask, "") if mask.any() else (None, "it lies outside the frame")
    shape = shape_at(steps, *points[0].tolist())
    if shape is None:
        return None, "it lies outside the frame"
    share = float(shape.mean())
    if change.share and not change.share / OTHER_SHAPE <= share <= change.share * OTHER_SHAPE:
        return None, "there is quite another shape now"
    return shape, ""
