"""From a length measured once on any print, screen or phone to lengths on the sheet."""

from __future__ import annotations

from math import sqrt
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.plan.model import Frame, Ground, Measured

HEADS_TALL = 8.0  # Vitruvius, De architectura III.1: the head is an eighth of the body's height


def scale_factor(measured: Measured, photo: Ground, frame: Frame, frame_map: FrameMap) -> float:
    """How many times as long a length is on the sheet as on the print or screen it was measured on."""
    pixels = {
        "photo width": float(photo.width_px),
        "photo height": float(photo.height_px),
        "frame width": frame.width_px,
        "frame height": frame.height_px,
    }[measured.span]
    return pixels * frame_map.mm_per_px / measured.length_mm


def figure_mm(head_mm: float, heads: float = HEADS_TALL) -> float:
    """Height of a standing figure from the height of its head."""
    return head_mm * heads


def both_ways(ratio: float) -> tuple[float, float]:
    """A ratio given either way round, as upright (below one) and across (above one)."""
    low = min(ratio, 1 / ratio)
    return low, 1 / low


def diagonal_mm(width_mm: float, height_mm: float) -> float:
    """From corner to corner."""
    return sqrt(width_mm**2 + height_mm**2)
