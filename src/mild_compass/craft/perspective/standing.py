"""How large something must be drawn where it stands, so that it comes out neither giant nor dwarfed."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.plan.pictures import Point
    from mild_compass.plan.study import Departure


def image_height_px(camera: Camera, foot_px: Point, height_m: float) -> float:
    """How tall a thing of a height looks in the photo, in pixels, from its foot; NaN where nothing can stand."""
    foot = camera.on_ground([foot_px])
    top = camera.seen(foot + np.array([0.0, 0.0, height_m]))[0]
    return float(np.hypot(*(top - foot_px)))


def made_to_stand(departure: Departure, camera: Camera | None) -> Departure:
    """An element moved or borrowed, sized by where its foot stands; as it is without a height or a camera."""
    if camera is None or departure.height_m <= 0 or not departure.moves:
        return departure
    _, top, _, bottom = departure.bounds
    half = (bottom - top) * departure.size / 2
    foot = (departure.x_px, departure.y_px + half)
    tall = image_height_px(camera, foot, departure.height_m)
    if not np.isfinite(tall) or tall <= 0:
        return departure
    # Its foot stays where it is.
    return replace(departure, size=tall / (bottom - top), y_px=foot[1] - tall / 2)
