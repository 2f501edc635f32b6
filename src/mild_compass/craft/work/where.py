"""At which step a planned departure comes up: the first that works where it lies."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np

if TYPE_CHECKING:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.work.planned import WorkingOrder
    from mild_compass.plan.study import Departure, Study

LEAST_SHARE = 0.3  # of a departure's own area that a step works on
LINE_PX = 5


def departures_at(order: WorkingOrder, study: Study, frame_map: FrameMap) -> dict[str, tuple[str, ...]]:
    """The ids of departures by the mark of the step they come up at; those that no step touches come up at the last."""
    found: dict[str, list[str]] = {}
    steps = [step for step in order.in_order if step.place is not None]
    for each in study.departures:
        step = next((step.key for step in steps if _touches(order, step.place or 0, each, frame_map)), None)
        if step is None and order.steps:
            step = order.in_order[-1].key
        if step is not None:
            found.setdefault(step, []).append(each.id)
    return {key: tuple(ids) for key, ids in found.items()}


def _touches(order: WorkingOrder, place: int, departure: Departure, frame_map: FrameMap) -> bool:
    """Whether a step of the way of working works on enough of where a departure lies."""
    if order.work is None:
        return False
    mask = order.work.steps[place].mask
    points = frame_map.to_sheet(np.array(departure.placed(), np.float64))
    box = frame_map.box
    scale = (mask.shape[1] / box.width, mask.shape[0] / box.height)
    pixels = np.round((points - (box.left, box.top)) * scale).astype(np.int32)
    own = np.zeros(mask.shape, np.uint8)
    if len(pixels) > 2:
        cv2.fillPoly(own, [pixels], 1)
    cv2.polylines(own, [pixels], len(pixels) > 2, 1, LINE_PX)
    whole = int(own.sum())
    return whole > 0 and int((own.astype(bool) & mask).sum()) >= LEAST_SHARE * whole
