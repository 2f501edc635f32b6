"""The viewfinder's arithmetic: where a frame lies on the photo, and which frames a sheet allows."""

from __future__ import annotations

from dataclasses import replace
from math import cos, radians, sin

from mild_compass.plan.errors import PlanError
from mild_compass.plan.paper import Paper
from mild_compass.plan.pictures import Ground, Point
from mild_compass.plan.study import STRETCH, Frame

SMALLEST_SHARE = 0.05  # of the widest possible frame: below that there is nothing left to see
LARGEST_SHARE = 4.0  # of the widest possible frame: beyond that the photo is lost on the sheet
SLACK = 1e-6


def widest_px(reference: Ground, ratio: float) -> float:
    """Width of the largest upright frame of this ratio on the photo, in pixels."""
    return min(reference.width_px, reference.height_px * ratio)


def corners(frame: Frame) -> tuple[Point, Point, Point, Point]:
    """The frame's corners in photo pixels: top left, top right, bottom right, bottom left as it is turned."""
    x, y = frame.middle
    c, s = cos(radians(frame.turn_deg)), sin(radians(frame.turn_deg))

    def corner(across: float, down: float) -> Point:
        dx, dy = across * frame.width_px, down * frame.height_px
        return x + c * dx - s * dy, y + s * dx + c * dy

    return corner(-0.5, -0.5), corner(0.5, -0.5), corner(0.5, 0.5), corner(-0.5, 0.5)


def reach(frame: Frame) -> tuple[float, float]:
    """Width and height of the frame's upright bounds on the photo, in pixels."""
    c, s = abs(cos(radians(frame.turn_deg))), abs(sin(radians(frame.turn_deg)))
    return frame.width_px * c + frame.height_px * s, frame.width_px * s + frame.height_px * c


def is_beyond(frame: Frame, reference: Ground) -> bool:
    """Whether the frame reaches beyond the photo."""
    return reaches_beyond(frame, (reference.width_px, reference.height_px))


def reaches_beyond(frame: Frame, size_px: tuple[int, int]) -> bool:
    """Whether the frame reaches beyond a photo of this width and height; by a millionth it does not."""
    slack = SLACK * max(size_px)
    return any(not (-slack <= x <= size_px[0] + slack and -slack <= y <= size_px[1] + slack) for x, y in corners(frame))


def picture_area(paper: Paper, frame: Frame | None = None) -> tuple[float, float, float, float]:
    """Left, top, width, height in mm of what the frame fills on the sheet.

    A frame of free proportion is laid as large as it goes into the middle of the picture area.
    """
    left, top, _, _ = paper.borders_mm
    width, height = paper.picture_width_mm, paper.picture_height_mm
    if frame is None or frame.proportion != "free":
        return left, top, width, height
    ratio = frame.width_px / frame.height_px
    inner = min(width, height * ratio)
    return left + (width - inner) / 2, top + (height - inner / ratio) / 2, inner, inner / ratio


def stretch_of(frame: Frame, paper: Paper) -> float:
    """How much wider the sheet draws things than they are in the photo: 0 for none, 0.05 for five per cent."""
    return 0.0 if frame.proportion == "free" else paper.ratio / (frame.width_px / frame.height_px) - 1


def largest_frame(reference: Ground, paper: Paper) -> Frame:
    """The largest frame of the picture area's ratio, in the middle of the photo."""
    width = widest_px(reference, paper.ratio)
    height = width / paper.ratio
    return Frame((reference.width_px - width) / 2, (reference.height_px - height) / 2, width, height)


def about(frame: Frame, middle: Point, width: float, height: float) -> Frame:
    """The frame with another middle and size."""
    return replace(frame, x_px=middle[0] - width / 2, y_px=middle[1] - height / 2, width_px=width, height_px=height)


def on_photo(frame: Frame, reference: Ground) -> Frame:
    """The frame moved, and made smaller where it must be, so that it lies on the photo."""
    wide, high = reach(frame)
    shrink = min(1.0, reference.width_px / wide, reference.height_px / high)
    wide, high = wide * shrink, high * shrink
    x = min(max(frame.middle[0], wide / 2), reference.width_px - wide / 2)
    y = min(max(frame.middle[1], high / 2), reference.height_px - high / 2)
    return about(frame, (x, y), frame.width_px * shrink, frame.height_px * shrink)


def fitted(frame: Frame, reference: Ground, paper: Paper) -> Frame:
    """The nearest frame the sheet allows: same area and middle where possible, on the photo unless it was beyond."""
    beyond = is_beyond(frame, reference)
    if frame.proportion == "stretched" and abs(stretch_of(frame, paper)) > STRETCH:
        frame = replace(frame, proportion="locked")
    if frame.proportion == "locked":
        widest = widest_px(reference, paper.ratio)
        width = (frame.width_px * frame.height_px * paper.ratio) ** 0.5
        width = min(max(width, SMALLEST_SHARE * widest), widest * (LARGEST_SHARE if beyond else 1))
        frame = about(frame, frame.middle, width, width / paper.ratio)
    return frame if beyond else on_photo(frame, reference)


def require_fitting(frame: Frame, reference: Ground, paper: Paper) -> Frame:
    """The frame itself when the sheet allows it, else a PlanError.

    Raises:
        PlanError: the sheet does not allow the frame.
    """
    if frame.proportion == "locked" and abs(stretch_of(frame, paper)) > SLACK:
        raise PlanError("The viewfinder must keep the proportion of the picture area. Nothing was changed.")
    if frame.proportion == "stretched" and abs(stretch_of(frame, paper)) > STRETCH + SLACK:
        raise PlanError("A stretch of more than 10 % would squeeze figures and circles. Nothing was changed.")
    x, y = frame.middle
    if not (-SLACK <= x <= reference.width_px + SLACK and -SLACK <= y <= reference.height_px + SLACK):
        raise PlanError("The viewfinder has left the photo. Nothing was changed; keep its middle on the photo.")
    widest = widest_px(reference, frame.width_px / frame.height_px)
    if frame.width_px > LARGEST_SHARE * widest * (1 + SLACK):
        raise PlanError("The viewfinder is far larger than the photo. Nothing was changed.")
    return frame
