"""A drawing as pixels: one layer at a time with alpha, or all of the sheet together."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from mild_compass.assets import FONTS
from mild_compass.craft.sheet_sizes.lengths import MM_PER_INCH
from mild_compass.output.canvas import DASHES_MM, INKS
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Iterator

    from numpy.typing import NDArray

    from mild_compass.craft.drawing import Drawing, Label, Layer, Stroke
    from mild_compass.craft.geometry.lines import Box

    Rgba = NDArray[np.uint8]
    Mask = NDArray[np.uint8]

MOST_MEGAPIXELS = 120.0
SHIFT = 4  # sixteenths of a pixel
CAPITAL = 1.35


def sheet_px(drawing: Drawing, dpi: float) -> tuple[int, int]:
    """Width and height of a sheet in pixels; a PlanError when that is more than can be held.

    Raises:
        PlanError: there would be more pixels than can be held.
    """
    width, height = (max(1, round(mm / MM_PER_INCH * dpi)) for mm in (drawing.width_mm, drawing.height_mm))
    if width * height > MOST_MEGAPIXELS * 1e6:
        raise PlanError(f"{width} × {height} pixels are too many. Choose fewer dots per inch; nothing was written.")
    return width, height


def layer_pixels(layer: Layer, size_px: tuple[int, int], px_per_mm: float) -> Rgba:
    """One layer (h, w, 4), clear where nothing is drawn."""
    width, height = size_px
    found = np.zeros((height, width, 4), np.uint8)
    for ink, colour in INKS.items():
        mask = np.zeros((height, width), np.uint8)
        for mark in layer.strokes:
            if mark.ink == ink:
                _draw(mask, mark, px_per_mm)
        for label in layer.labels:
            if label.ink == ink:
                mask = _write(mask, label, px_per_mm)
        if mask.any():
            over = mask > found[..., 3]
            found[over, :3] = np.round(np.array(colour) * 255)
            found[..., 3] = np.maximum(found[..., 3], mask)
    return found


def _draw(mask: Mask, mark: Stroke, px_per_mm: float) -> None:
    thick = max(1, round(mark.width_mm * px_per_mm))
    for run in _dashes(mark):
        points = np.round((run * px_per_mm - 0.5) * 2**SHIFT).astype(np.int32).reshape(-1, 1, 2)
        cv2.polylines(mask, [points], False, 255, thick, cv2.LINE_AA, SHIFT)


def _dashes(mark: Stroke) -> Iterator[NDArray[np.float64]]:
    """The stroke itself, or its dashes as runs of points in mm."""
    pattern = DASHES_MM[mark.dash]
    lengths = np.hypot(*np.diff(mark.points_mm, axis=0).T)
    total = float(lengths.sum())
    if not pattern or total <= 0:
        yield mark.points_mm
        return
    along = np.concatenate([[0.0], np.cumsum(lengths)])
    at, k = 0.0, 0
    while at < total:
        end = min(at + pattern[k % len(pattern)], total)
        if k % 2 == 0:
            inner = along[(along > at) & (along < end)]
            places = np.concatenate([[at], inner, [end]])
            yield np.stack([np.interp(places, along, mark.points_mm[:, axis]) for axis in (0, 1)], 1)
        at, k = end, k + 1


@cache
def _font(size_px: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(FONTS / "OpenSans-Regular.ttf"), size_px)


def _write(mask: Mask, label: Label, px_per_mm: float) -> Mask:
    image = Image.fromarray(mask)
    anchor = {"left": "ls", "middle": "ms", "right": "rs"}[label.anchor]
    font = _font(max(6, round(label.size_mm * CAPITAL * px_per_mm)))
    ImageDraw.Draw(image).text((label.x_mm * px_per_mm, label.y_mm * px_per_mm), label.text, 255, font, anchor)
    return np.array(image)


def placed(picture: NDArray[np.uint8], box: Box, size_px: tuple[int, int], px_per_mm: float) -> Rgba:
    """A framed picture (h, w, 3) where it lies on the sheet, clear around it."""
    width, height = size_px
    left, top = round(box.left * px_per_mm), round(box.top * px_per_mm)
    right, bottom = min(width, round(box.right * px_per_mm)), min(height, round(box.bottom * px_per_mm))
    found = np.zeros((height, width, 4), np.uint8)
    if right > left and bottom > top:
        sized = Image.fromarray(picture).resize((right - left, bottom - top), Image.Resampling.LANCZOS)
        found[top:bottom, left:right, :3] = np.asarray(sized)
        found[top:bottom, left:right, 3] = 255
    return found


def merged(layers: list[Rgba]) -> NDArray[np.uint8]:
    """Layers laid over white paper, the first at the bottom (h, w, 3)."""
    paper = np.full((*layers[0].shape[:2], 3), 255, np.float32)
    for layer in layers:
        weight = layer[..., 3:].astype(np.float32) / 255
        paper += weight * (layer[..., :3] - paper)
    return np.round(paper).astype(np.uint8)
