"""Horizon and eye height from two upright things of known height, also where the camera was tipped or rolled.

Each thing's foot and top tell where it stands and how it leans; horizon, its tilt and the eye height are those for
which both tops come where they are seen (A. Criminisi, I. Reid, A. Zisserman, Single View Metrology, IJCV 40, 2000).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.geometry.least_squares import damped_least_squares
from mild_compass.craft.perspective.camera import Focal, camera_of
from mild_compass.craft.perspective.horizon import horizon_line
from mild_compass.plan.errors import PlanError
from mild_compass.plan.perspective import Horizon

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.pictures import Ground, Point

END_PX = 1.5  # an end set down by hand is off by about that
TILT_DEG, PITCH = 3.0, 0.3  # how far cameras are usually rolled, and tipped (of the focal length): where nothing tells
MOST_MISFIT, MOST_SPREAD = 4.0, 0.06  # in errors of an end; of the picture's height
CROPPED = 0.04  # of the height: how far off the middle cropped photos were looked at, mostly
LEAST_APART = 0.02  # of the longer of the two: feet nearer together than that tell nothing


@dataclass(frozen=True, slots=True)
class KnownThing:
    """Foot and top in photo pixels, and the true height in metres."""

    foot: Point
    top: Point
    height_m: float

    @property
    def seen_px(self) -> float:
        """How tall it looks."""
        return self.foot[1] - self.top[1]


def horizon_and_eye(first: KnownThing, second: KnownThing) -> tuple[float, float]:
    """The horizon's height in pixels and the eye height in metres; a PlanError says why they cannot be told.

    For a level camera h = (y_foot − y_horizon)·H / E for both things, which is linear in y_horizon and E.

    Raises:
        PlanError: the two things stand at the same distance, or contradict one another.
    """
    tall = max(first.seen_px, second.seen_px)
    apart = first.foot[1] - second.foot[1]
    scales = first.seen_px / first.height_m, second.seen_px / second.height_m
    if tall <= 0 or abs(apart) < LEAST_APART * tall or scales[0] == scales[1]:
        raise PlanError(
            "These two stand at the same distance, so they cannot tell the horizon. Take one nearer and one farther."
        )
    eye_m = apart / (scales[0] - scales[1])
    horizon_px = first.foot[1] - scales[0] * eye_m
    if eye_m <= 0 or horizon_px > min(first.foot[1], second.foot[1]):
        raise PlanError(
            "With these heights the nearer thing would look smaller. Nothing was changed; check the heights."
        )
    return horizon_px, eye_m


@dataclass(frozen=True, slots=True)
class KnownEye:
    """The horizon with its tilt, and the eye height in metres."""

    horizon: Horizon
    eye_m: float


def known_eye(first: KnownThing, second: KnownThing, photo: Ground, focal_px: float) -> KnownEye:
    """Horizon and eye height of any camera with this focal length; a PlanError says why they cannot be told.

    Raises:
        PlanError: the two stand at the same distance, contradict one another, or tell too little.
    """
    level_y, level_eye = horizon_and_eye(first, second)
    centre = (photo.width_px / 2, photo.height_px / 2)
    tops = np.array([first.top, second.top])

    def misfits(row: NDArray[np.float64]) -> NDArray[np.float64]:
        height, tilt_deg, eye = row[0] * focal_px, row[1], float(np.exp(row[2]))
        line = horizon_line([], Horizon(centre[1] + height, float(np.clip(tilt_deg, -44, 44)), centre[0]))
        assert line is not None
        # A cropped photo was not looked at about its middle.
        camera = camera_of(line, Focal(focal_px, "hand"), (centre[0], centre[1] + row[3] * photo.height_px), eye)
        feet = camera.on_ground([first.foot, second.foot])
        seen = camera.seen(feet + np.array([[0, 0, first.height_m], [0, 0, second.height_m]]))
        off = np.nan_to_num((seen - tops) / END_PX, nan=1e3).ravel()
        pitch = row[0] - row[3] * photo.height_px / focal_px
        usual = [tilt_deg / TILT_DEG, pitch / PITCH, row[3] / CROPPED]
        return np.concatenate([np.clip(off, -1e3, 1e3), usual])

    start = np.array([(level_y - centre[1]) / focal_px, 0.0, float(np.log(max(level_eye, 0.05))), 0.0])
    row, off, slopes = damped_least_squares(misfits, start)
    if np.abs(off[:4]).max() > MOST_MISFIT:
        raise PlanError(
            "These two do not go together: upright things of these heights are not seen so. Nothing was changed; "
            "check the heights, and that both stand upright on the same ground."
        )
    covariance = np.linalg.pinv(slopes.T @ slopes)
    spread = float(np.sqrt(max(covariance[0, 0], 0.0)) * focal_px)
    if spread > MOST_SPREAD * photo.height_px:
        raise PlanError(
            "Not sure: these two stand too nearly at the same distance to tell the horizon. Nothing was changed; take "
            "one much nearer and one much farther."
        )
    horizon = Horizon(centre[1] + row[0] * focal_px, float(row[1]), centre[0])
    return KnownEye(horizon, float(np.exp(row[2])))
