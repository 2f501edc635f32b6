"""The true ellipse of a circle in perspective: its middle and axes, which are not those of the circle."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray

    from mild_compass.craft.perspective.camera import Camera

    Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False, slots=True)
class Ellipse:
    """Middle (2,), half axes (longer first) and the longer axis' direction (2,), in photo pixels."""

    middle: Array
    half_axes: tuple[float, float]
    along: Array


def ellipse_of_circle(camera: Camera, centre_m: ArrayLike, radius_m: float) -> Ellipse | None:
    """The image of a level circle: the conic H⁻ᵀ C H⁻¹ under the plane's homography; None where it is no ellipse.

    A circle that reaches behind the eye is seen as a parabola or hyperbola (Hartley & Zisserman, 2004, ch. 2).
    """
    x, y, z = np.asarray(centre_m, np.float64)
    inner = np.array([[camera.focal.px, 0, camera.centre_px[0]], [0, camera.focal.px, camera.centre_px[1]], [0, 0, 1]])
    columns = [camera.axes[:, 0], camera.axes[:, 1], camera.axes @ np.array([0, 0, z - camera.eye_m])]
    plane = inner @ np.stack(columns, 1)
    circle = np.array([[1, 0, -x], [0, 1, -y], [-x, -y, x * x + y * y - radius_m**2]])
    back = np.linalg.inv(plane)
    conic = back.T @ circle @ back
    form, edge = conic[:2, :2], conic[:2, 2]
    if (
        np.linalg.det(form) <= 0
        or camera.seen([[x, y, z]]).size == 0
        or not np.isfinite(camera.seen([[x, y, z]])).all()
    ):
        return None
    middle = np.linalg.solve(form, -edge)
    size = -(edge @ middle + conic[2, 2])
    values, axes = np.linalg.eigh(form / size)
    if (values <= 0).any():
        return None
    return Ellipse(middle, (float(1 / np.sqrt(values[0])), float(1 / np.sqrt(values[1]))), axes[:, 0])
