"""How much of the frame lies between a ringed subject and each side."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.plan.study import Ring

Side = Literal["left", "right", "top", "bottom"]
SIDES: tuple[Side, ...] = ("left", "right", "top", "bottom")


def gaps_mm(ring: Ring, frame_map: FrameMap) -> dict[Side, float]:
    """Millimetres from the ring's bounds to each side of the picture; below nothing where the side cuts the ring."""
    bounds, box = ring_bounds(ring, frame_map), frame_map.box
    return {
        "left": bounds.left - box.left,
        "right": box.right - bounds.right,
        "top": bounds.top - box.top,
        "bottom": box.bottom - bounds.bottom,
    }


def ring_bounds(ring: Ring, frame_map: FrameMap) -> Box:
    """The ring's bounds on the sheet, in mm."""
    return frame_map.ellipse_bounds(ring.x_px, ring.y_px, ring.radius_x_px, ring.radius_y_px)
