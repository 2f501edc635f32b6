"""Big lines from a picture: one traced by hand and laid onto the edge it meant, or all of them found."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.geometry.lines import parts_inside
from mild_compass.craft.picture.edges import edge_under, found_lines, steps_across
from mild_compass.plan.structure import MOST_LINES, BigLine

if TYPE_CHECKING:
    from numpy.typing import ArrayLike

    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.pictures import Point
    from mild_compass.plan.study import Frame

LOOKED_AT = 400  # lines at most, longest first: bounds the time
LEAST_INSIDE = 0.04  # of the frame's diagonal: less of a line than that inside the frame is no big line


def snapped_to_edge(picture: Picture, ends_px: ArrayLike, reach_px: float) -> tuple[Point, Point] | None:
    """Both ends of the straight edge that a line over the photo meant, in photo pixels; None where there is none."""
    scale = _scale(picture)
    line = np.asarray(ends_px, np.float64) * scale
    found = edge_under(picture.lightness, line, max(2.0, reach_px * float(scale.mean())))
    if found is None:
        return None
    (x0, y0), (x1, y1) = (found / scale).tolist()
    return (x0, y0), (x1, y1)


def traced_line(picture: Picture, ends_px: ArrayLike, name: str = "") -> BigLine:
    """A line over the photo with the step of L* across it."""
    ends = np.asarray(ends_px, np.float64)
    contrast = float(steps_across(picture.lightness, (ends * _scale(picture))[None])[0])
    (x0, y0), (x1, y1) = ends.tolist()
    return BigLine(x0, y0, x1, y1, name, round(min(contrast, 100.0), 1))


def found_big_lines(picture: Picture, frame: Frame, paper: Paper) -> tuple[BigLine, ...]:
    """The big lines of what the frame shows, by their length inside it times the step across them."""
    lines, contrast = found_lines(picture.lightness, LOOKED_AT)
    if not len(lines):
        return ()
    lines = lines / _scale(picture)
    frame_map = FrameMap.of(frame, paper)
    box = frame_map.box
    parts, inside = parts_inside(frame_map.to_sheet(lines.reshape(-1, 2)).reshape(-1, 2, 2), box)
    length = np.where(inside, np.hypot(*(parts[:, 1] - parts[:, 0]).T), 0.0)
    order = np.argsort(-length * contrast, kind="stable")
    big = [k for k in order if length[k] >= LEAST_INSIDE * np.hypot(box.width, box.height)][:MOST_LINES]
    ends = np.round(lines[big], 1).tolist()
    return tuple(
        BigLine(x0, y0, x1, y1, contrast=round(float(min(contrast[k], 100.0)), 1))
        for k, ((x0, y0), (x1, y1)) in zip(big, ends, strict=True)
        if (x0, y0) != (x1, y1)
    )


def _scale(picture: Picture) -> np.ndarray:
    """Pixels of the picture at hand to a photo pixel, across and down."""
    height, width = picture.rgb.shape[:2]
    return np.array([width / picture.width_px, height / picture.height_px])
