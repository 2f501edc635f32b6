"""The framed photo for printing, and the small preview that travels in a plan file."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import numpy as np
from PIL import Image

from mild_compass.craft.sheet_sizes.lengths import MM_PER_INCH
from mild_compass.craft.viewfinder.readings import FINE_DPI

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.model import Frame, Paper

PREVIEW_PX = 320


def framed(rgb: NDArray[np.uint8], frame: Frame, paper: Paper, dpi: float = FINE_DPI) -> NDArray[np.uint8]:
    """What the viewfinder shows of the whole photo (h, w, 3), at most at dpi on the sheet.

    The edges of the frame fall between pixels; the picture is resampled so that they come out exactly.
    """
    width = min(round(frame.width_px), round(paper.picture_width_mm / MM_PER_INCH * dpi))
    height = max(1, round(width / paper.ratio))
    box = (frame.x_px, frame.y_px, frame.x_px + frame.width_px, frame.y_px + frame.height_px)
    box = (max(0.0, box[0]), max(0.0, box[1]), min(rgb.shape[1], box[2]), min(rgb.shape[0], box[3]))
    return np.asarray(Image.fromarray(rgb).resize((max(1, width), height), Image.Resampling.LANCZOS, box=box))


def preview_png(picture: Picture, frame: Frame) -> bytes:
    """The framed picture as a small PNG."""
    scale = picture.scale
    box = (
        max(0.0, frame.x_px * scale),
        max(0.0, frame.y_px * scale),
        min(picture.rgb.shape[1], (frame.x_px + frame.width_px) * scale),
        min(picture.rgb.shape[0], (frame.y_px + frame.height_px) * scale),
    )
    shrink = PREVIEW_PX / max(frame.width_px, frame.height_px)
    size = (max(1, round(frame.width_px * shrink)), max(1, round(frame.height_px * shrink)))
    packed = io.BytesIO()
    Image.fromarray(picture.rgb).resize(size, Image.Resampling.BOX, box=box).save(packed, "PNG", optimize=True)
    return packed.getvalue()
