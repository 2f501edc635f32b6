"""Cast shadows on level ground, from the sun or a near lamp, and reflections in still water."""

from __future__ import annotations

from math import cos, radians, sin
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray

    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.plan.guides import Light

    Array = NDArray[np.float64]


def sun_direction(azimuth_deg: float, altitude_deg: float) -> Array:
    """The way the light travels (3,): azimuth 0 from behind the artist, 90 from the right, 180 from ahead."""
    az, alt = radians(azimuth_deg), radians(altitude_deg)
    return np.array([-sin(az) * cos(alt), cos(az) * cos(alt), -sin(alt)])


def shadow_points(points_m: ArrayLike, light: Light, camera: Camera) -> Array:
    """Where the shadows of scene points (n, 3) fall on level ground (n, 3); NaN where they fall nowhere.

    A vertical of height H throws a shadow H / tan(altitude) long. From a near lamp shadows run away from its foot; what
    is as high as the lamp or higher throws none that ends.
    """
    points = np.asarray(points_m, np.float64).reshape(-1, 3)
    if light.kind == "sun":
        way = sun_direction(light.azimuth_deg, light.altitude_deg)
        return np.asarray(points - points[:, 2:] / way[2] * way)
    foot = camera.on_ground([light.foot])[0]
    lamp = np.array([foot[0], foot[1], light.height_m])
    drop = lamp[2] - points[:, 2:]
    with np.errstate(divide="ignore", invalid="ignore"):
        times = np.where(drop > 1e-6, lamp[2] / drop, np.nan)
    return np.asarray(lamp + (points - lamp) * times)


def reflected_points(points_m: ArrayLike, water_m: float) -> Array:
    """Scene points (n, 3) mirrored in a level water surface: as far below it as they are above, at the same place."""
    points = np.asarray(points_m, np.float64).reshape(-1, 3)
    return points * (1, 1, -1) + (0, 0, 2 * water_m)
