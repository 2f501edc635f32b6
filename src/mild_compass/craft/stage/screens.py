"""Outlines in the picture before the stage: upright screens that hide what is further away, and draw nothing."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.stage.body import MOST_CORNERS
from mild_compass.craft.stage.scene import Faces, Scene, joined_faces

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.plan.stage import Screen, Stage

    Array = NDArray[np.float64]

NOBODY = -1  # the thing a screen belongs to
LEAST_AHEAD = 1e-3  # of a sight line: flatter than that it never meets a plane straight ahead


def with_screens(stage: Stage, scene: Scene, faces: Faces) -> Faces:
    """Faces before the eye, and before them the stage's screens."""
    return joined_faces([faces, *(_faces(screen, scene) for screen in stage.screens)])


def away_of(outline_px: Array, camera: Camera) -> float | None:
    """How far off something stands, straight ahead: by its lowest point, which is its foot; None above the horizon."""
    away = camera.on_ground(outline_px)[:, 1]
    lowest = np.asarray(outline_px)[np.argmax(np.where(np.isfinite(away), -away, -np.inf))]
    found = float(camera.on_ground([lowest])[0, 1])
    return found if np.isfinite(found) and found > 0 else None


def _faces(screen: Screen, scene: Scene) -> Faces:
    """The outline on an upright plane straight ahead, in triangles that touch."""
    camera = scene.camera
    area = shapely.make_valid(shapely.Polygon(screen.points))
    parts = [part for part in shapely.get_parts(area) if part.geom_type == "Polygon"]
    triangles = [tri for part in parts for tri in shapely.get_parts(shapely.constrained_delaunay_triangles(part))]
    spots = np.array([shapely.get_coordinates(tri)[:3] for tri in triangles]).reshape(-1, 3, 2)
    ahead = np.array([0.0, 1.0, 0.0]) @ camera.axes.T
    rays = np.concatenate([(spots - camera.centre_px) / camera.focal.px, np.ones((*spots.shape[:2], 1))], 2)
    speed = rays @ ahead
    met = (speed > LEAST_AHEAD).all(1)
    corners = rays[met] * (screen.away_m / speed[met])[..., None]
    count = len(corners)
    padded = np.concatenate([corners, np.repeat(corners[:, -1:], MOST_CORNERS - 3, 1)], 1)
    normals = np.repeat(-ahead[None], count, 0)
    none = np.full(count, NOBODY)
    return Faces(padded, normals, np.zeros(count), none, np.zeros(count, bool), none.copy(),
                 np.repeat(normals[:, None], MOST_CORNERS, 1))  # fmt: skip
