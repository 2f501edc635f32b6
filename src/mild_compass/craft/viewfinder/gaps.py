"""How much of the frame lies between a ringed subject and each side."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from mild_compass.plan.model import Frame, Ring

Side = Literal["left", "right", "top", "bottom"]
SIDES: tuple[Side, ...] = ("left", "right", "top", "bottom")


def gaps_px(ring: Ring, frame: Frame) -> dict[Side, float]:
    """Photo pixels from the ring's bounds to each side of the frame; below nothing where the side cuts the ring."""
    return {
        "left": ring.x_px - ring.radius_x_px - frame.x_px,
        "right": frame.x_px + frame.width_px - ring.x_px - ring.radius_x_px,
        "top": ring.y_px - ring.radius_y_px - frame.y_px,
        "bottom": frame.y_px + frame.height_px - ring.y_px - ring.radius_y_px,
    }
