"""The viewfinder's arithmetic: a frame of the picture area's ratio that stays on the photo."""

from __future__ import annotations

from dataclasses import replace

from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Frame, Paper, Reference

SMALLEST_SHARE = 0.05  # of the widest possible frame: below that there is nothing left to see


def widest_px(reference: Reference, ratio: float) -> float:
    """Width of the largest frame of this ratio on the photo, in pixels."""
    return min(reference.width_px, reference.height_px * ratio)


def largest_frame(reference: Reference, paper: Paper) -> Frame:
    """The largest frame of the picture area's ratio, in the middle of the photo."""
    width = widest_px(reference, paper.ratio)
    height = width / paper.ratio
    return Frame((reference.width_px - width) / 2, (reference.height_px - height) / 2, width, height)


def fitted(frame: Frame, reference: Reference, paper: Paper) -> Frame:
    """The nearest frame of the picture area's ratio on the photo: same area and centre where possible."""
    widest = widest_px(reference, paper.ratio)
    width = (frame.width_px * frame.height_px * paper.ratio) ** 0.5
    width = min(max(width, SMALLEST_SHARE * widest), widest)
    height = width / paper.ratio
    x = frame.x_px + (frame.width_px - width) / 2
    y = frame.y_px + (frame.height_px - height) / 2
    return Frame(
        min(max(x, 0.0), reference.width_px - width),
        min(max(y, 0.0), reference.height_px - height),
        width,
        height,
    )


def require_fitting(frame: Frame, reference: Reference, paper: Paper) -> Frame:
    """The frame itself when it has the paper's ratio and lies on the photo, else a PlanError."""
    slack = 1e-6 * max(reference.width_px, reference.height_px)
    if abs(frame.width_px / frame.height_px / paper.ratio - 1) > 1e-6:
        raise PlanError("The viewfinder must keep the proportion of the picture area. Nothing was changed.")
    inside = (
        frame.x_px >= -slack
        and frame.y_px >= -slack
        and frame.x_px + frame.width_px <= reference.width_px + slack
        and frame.y_px + frame.height_px <= reference.height_px + slack
    )
    if not inside:
        raise PlanError("The viewfinder reaches beyond the photo. Nothing was changed; move it back inside.")
    return replace(frame, x_px=max(frame.x_px, 0.0), y_px=max(frame.y_px, 0.0))
