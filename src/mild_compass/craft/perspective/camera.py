"""The artist's eye as a camera: what stands where on the ground, and where things of a known size come to lie.

The scene is in metres: x to the right, y straight ahead on the ground, z up, the eye at (0, 0, eye height). The photo's
middle is taken as the camera's axis (R. Hartley & A. Zisserman, Multiple View Geometry, 2nd ed. 2004, ch. 6 and 8).
Heights on a tipped picture follow A. Criminisi, I. Reid, A. Zisserman, Single View Metrology, IJCV 40, 2000: with the
camera known, their cross-ratio is the projection itself.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite
from typing import TYPE_CHECKING, Literal

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import ArrayLike, NDArray

    from mild_compass.craft.perspective.horizon import HorizonLine

    Array = NDArray[np.float64]

FocalFrom = Literal["two sets", "uprights", "photo", "hand", "guess"]
NEAR_M = 0.02  # nothing nearer to the eye than that is drawn
USUAL_FOCAL = 0.78  # of the photo's longer side: a phone's main lens, common practice, no published source


@dataclass(frozen=True, slots=True)
class Focal:
    """A focal length in photo pixels and where it comes from."""

    px: float
    source: FocalFrom


@dataclass(frozen=True, eq=False, slots=True)
class Camera:
    """``axes`` (3, 3) has the camera's right, down and forward in scene coordinates as its rows."""

    focal: Focal
    centre_px: tuple[float, float]
    axes: Array
    eye_m: float

    def seen(self, points_m: ArrayLike) -> Array:
        """Photo points (n, 2) of scene points (n, 3); NaN for what lies behind the eye."""
        local = (np.asarray(points_m, np.float64).reshape(-1, 3) - (0, 0, self.eye_m)) @ self.axes.T
        depth = np.where(local[:, 2] > NEAR_M, local[:, 2], np.nan)
        return np.asarray(np.array(self.centre_px) + self.focal.px * local[:, :2] / depth[:, None])

    def in_front(self, segments_m: Array) -> Array:
        """The parts (k, 2, 3) of scene segments (n, 2, 3) that lie before the eye."""
        depth = (segments_m - (0, 0, self.eye_m)) @ self.axes[2] - 2 * NEAR_M
        kept = (depth > 0).any(1)
        segments, (first, last) = segments_m[kept], depth[kept].T
        with np.errstate(divide="ignore", invalid="ignore"):
            share = np.where(first * last < 0, first / (first - last), 0.0)[:, None]
        cut = segments[:, 0] + share * (segments[:, 1] - segments[:, 0])
        behind = (np.stack([first, last], 1) < 0)[..., None]
        return np.asarray(np.where(behind, cut[:, None], segments))

    def rays(self, points_px: ArrayLike) -> Array:
        """Directions (n, 3) in the scene of photo points (n, 2)."""
        off = (np.asarray(points_px, np.float64).reshape(-1, 2) - self.centre_px) / self.focal.px
        return np.concatenate([off, np.ones((len(off), 1))], 1) @ self.axes

    def on_ground(self, points_px: ArrayLike, height_m: float = 0.0) -> Array:
        """Where photo points (n, 2) lie on a level plane, in metres (n, 3); NaN above the horizon."""
        rays = self.rays(points_px)
        drop = height_m - self.eye_m
        with np.errstate(divide="ignore", invalid="ignore"):
            times = drop / rays[:, 2]
        times = np.where((times > 0) & np.isfinite(times), times, np.nan)
        return np.asarray(times[:, None] * rays + (0, 0, self.eye_m))

    def ground_of(self, point_px: Sequence[float]) -> Array:
        """One photo point on the ground, in metres (3,); as on_ground, but quick, for guides that follow the hand."""
        x, y, down = self._ray(point_px)
        times = -self.eye_m / down if down < 0 else float("nan")
        return np.array([times * x, times * y, times * 0.0])

    def height_of(self, foot_px: Sequence[float], top_px: Sequence[float]) -> float:
        """Height in metres of a thing that stands on the ground, from its foot and top; NaN where it has none."""
        away_x, away_y, _ = self.ground_of(foot_px).tolist()
        ray_x, ray_y, ray_z = self._ray(top_px)
        reach = away_x**2 + away_y**2
        if not isfinite(reach) or reach <= 0:
            return float("nan")
        # The point of the upright through the foot that comes nearest to the ray.
        share = (ray_x * away_x + ray_y * away_y) / reach
        return self.eye_m + ray_z / share if share > 1e-12 else float("nan")

    def _ray(self, point_px: Sequence[float]) -> tuple[float, float, float]:
        (px, py), (cx, cy) = point_px, self.centre_px
        x, y = (float(px) - cx) / self.focal.px, (float(py) - cy) / self.focal.px
        (rx, ry, rz), (dx, dy, dz), (fx, fy, fz) = self.axes.tolist()
        return x * rx + y * dx + fx, x * ry + y * dy + fy, x * rz + y * dz + fz

    def direction_px(self, direction: ArrayLike) -> Array:
        """The vanishing point (x, y, w) of a direction in the scene, in photo pixels."""
        x, y, z = np.asarray(direction, np.float64) @ self.axes.T
        return np.array([self.focal.px * x + self.centre_px[0] * z, self.focal.px * y + self.centre_px[1] * z, z])


def camera_of(horizon: HorizonLine, focal: Focal, centre_px: tuple[float, float], eye_m: float) -> Camera:
    """The camera that sees this horizon: its pitch and roll; straight ahead is where its axis points."""
    a, b, c = horizon.line
    # The plane through the eye and the horizon is level: its normal is up.
    down = np.array([a * focal.px, b * focal.px, a * centre_px[0] + b * centre_px[1] + c])
    up = -down / np.linalg.norm(down) * np.sign(down[1] or 1.0)
    ahead = np.array([0.0, 0.0, 1.0]) - up[2] * up
    if np.linalg.norm(ahead) < 1e-9:
        ahead = np.array([0.0, -1.0, 0.0])
    ahead /= np.linalg.norm(ahead)
    right = np.cross(ahead, up)
    # Columns: the scene's x, y and z as the camera sees them.
    return Camera(focal, centre_px, np.stack([right, ahead, up], 1), eye_m)


def focal_of_two(first: Array, second: Array, centre_px: tuple[float, float]) -> float | None:
    """Focal length from the points (x, y) of two level sets at right angles; None where they cannot be.

    f² = −(v1 − p)·(v2 − p) (B. Caprile & V. Torre, IJCV 4, 1990).
    """
    square = -float((first - centre_px) @ (second - centre_px))
    return float(np.sqrt(square)) if square > 0 else None


def focal_of_uprights(horizon: HorizonLine, upright: Array, centre_px: tuple[float, float]) -> float | None:
    """Focal length from the horizon and the point (x, y) of the uprights, which is square to it."""
    a, b, c = horizon.line
    size = float(np.hypot(a, b))
    off = (a * centre_px[0] + b * centre_px[1] + c) / size
    foot = np.array(centre_px) - off * np.array([a, b]) / size
    square = -float((foot - centre_px) @ (upright - centre_px))
    return float(np.sqrt(square)) if square > 0 else None


def guessed_focal(width_px: int, height_px: int) -> Focal:
    """What a phone's main lens usually has, when nothing tells it."""
    return Focal(USUAL_FOCAL * max(width_px, height_px), "guess")
