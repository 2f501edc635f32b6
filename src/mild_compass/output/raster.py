"""The framed photo for printing, and the small preview that travels in a plan file."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import numpy as np
from PIL import Image

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.picture.framed import framed_colour
from mild_compass.craft.sheet_sizes.lengths import MM_PER_INCH
from mild_compass.craft.sheet_sizes.sharpness import FINE_DPI

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame

PREVIEW_PX = 320


def framed(picture: Picture, frame: Frame, paper: Paper, dpi: float = FINE_DPI) -> NDArray[np.uint8]:
    """What the viewfinder shows of a picture (h, w, 3), at most at dpi on the sheet; white where the photo ends.

    The edges of the frame fall between pixels; the picture is resampled so that they come out exactly.
    """
    frame_map = FrameMap.of(frame, paper)
    scale = picture.rgb.shape[1] / picture.width_px
    sharpest = max(frame_map.box.width, frame_map.box.height) / frame_map.mm_per_px * scale
    printed = max(frame_map.box.width, frame_map.box.height) / MM_PER_INCH * dpi
    return framed_colour(picture, frame, frame_map, max(1, round(min(sharpest, printed))))


def framed_small(picture: Picture, frame: Frame, paper: Paper, longest_px: int) -> NDArray[np.uint8]:
    """The framed picture (h, w, 3) with its longest side as given, as for a small picture on a wall."""
    return framed_colour(picture, frame, FrameMap.of(frame, paper), longest_px)


def preview_png(picture: Picture, frame: Frame, paper: Paper) -> bytes:
    """The framed picture as a small PNG."""
    packed = io.BytesIO()
    Image.fromarray(framed_small(picture, frame, paper, PREVIEW_PX)).save(packed, "PNG", optimize=True)
    return packed.getvalue()
