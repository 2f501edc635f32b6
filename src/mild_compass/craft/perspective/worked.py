"""All that follows from the traced edges of one study: points, horizon, the focal lengths they give, the camera."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.camera import (
    Camera,
    Focal,
    camera_of,
    focal_of_two,
    focal_of_uprights,
    guessed_focal,
)
from mild_compass.craft.perspective.horizon import HorizonLine, horizon_line
from mild_compass.craft.perspective.stage_points import StagePoint, stage_points
from mild_compass.craft.perspective.vanishing import NoPoint, VanishingPoint, vanishing_point

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.plan.model import Ground, PerspectivePlan
    from mild_compass.plan.stage import Stage

FILM_MM = 36.0
MOST_TILT_RAD = np.radians(30.0)
LIKELY_FOCAL = (0.35, 6.0)  # of the photo's longer side: lenses outside that are not used for painting from


@dataclass(frozen=True, eq=False, slots=True)
class WorkedPerspective:
    """Points and refusals by set, and the horizon, in photo pixels; the camera where the photo and a horizon are known.

    ``focals`` are all focal lengths that something tells, the one in use first; ``of_stage`` are the points that the
    things on the stage run to.
    """

    points: tuple[VanishingPoint, ...]
    refusals: tuple[NoPoint, ...]
    horizon: HorizonLine | None
    camera: Camera | None = None
    focals: tuple[Focal, ...] = ()
    of_stage: tuple[StagePoint, ...] = ()

    @property
    def aims(self) -> tuple[VanishingPoint | StagePoint, ...]:
        """All points that lines of this drawing run to: those of the traced sets, then those of the stage."""
        return (*self.points, *self.of_stage)

    def point(self, letter: str) -> VanishingPoint | None:
        """The point of a set, if it has one."""
        return next((point for point in self.points if point.letter == letter), None)


def work_out(plan: PerspectivePlan, photo: Ground | None = None, stage: Stage | None = None) -> WorkedPerspective:
    """Fit every set, then the horizon, then the camera, and find where the things on the stage run to."""
    fitted = [vanishing_point(each, plan.tracing_error_px) for each in plan.sets]
    points = tuple(each for each in fitted if isinstance(each, VanishingPoint))
    refusals = tuple(each for each in fitted if isinstance(each, NoPoint))
    kinds = {each.letter: each.kind for each in plan.sets}
    level = [point for point in points if kinds[point.letter] == "level"]
    upright = next((point for point in points if kinds[point.letter] == "upright"), None)
    tilt = _tilt_of(upright, photo) if upright is not None and photo is not None and photo.is_photo else None
    horizon = horizon_line(level, plan.horizon, tilt)
    if horizon is not None:
        horizon = replace(horizon, aims=tuple(point.homogeneous for point in level))
    if horizon is None or photo is None:
        return WorkedPerspective(points, refusals, horizon)
    focals = _focals(plan, points, horizon, photo)
    camera = camera_of(horizon, focals[0], _axis_of(photo, horizon), plan.eye_m)
    of_stage = stage_points(stage, camera, "".join(kinds)) if stage is not None else ()
    return WorkedPerspective(points, refusals, horizon, camera, focals, of_stage)


def _tilt_of(upright: VanishingPoint, photo: Ground) -> float | None:
    """The horizon's tilt in radians: the way from the picture's middle to the uprights' point is square to it."""
    x, y, w = upright.homogeneous
    cx, cy = centre_of(photo)
    across, down = x - w * cx, y - w * cy
    if down < 0:
        across, down = -across, -down
    tilt = float(np.arctan2(-across, down))
    return tilt if abs(tilt) < MOST_TILT_RAD else None


def told_focal_px(photo: Ground) -> float:
    """The focal length in pixels that a photo itself tells, 0 where it does not."""
    return photo.focal_35mm / FILM_MM * max(photo.width_px, photo.height_px)


def _axis_of(ground: Ground, horizon: HorizonLine) -> tuple[float, float]:
    """Where the camera looks: at the middle of a photo; on a blank sheet straight at the horizon.

    A drawing from nothing is made on an upright picture plane, and its uprights stand parallel however high on the
    sheet the horizon is laid.
    """
    x, y = centre_of(ground)
    return (x, y) if ground.is_photo else (x, float(horizon.y_at(x)))


def centre_of(photo: Ground) -> tuple[float, float]:
    """The middle of the whole photo, in its pixels."""
    return photo.width_px / 2, photo.height_px / 2


def _focals(
    plan: PerspectivePlan, points: tuple[VanishingPoint, ...], horizon: HorizonLine, photo: Ground
) -> tuple[Focal, ...]:
    """What two sets at right angles, the uprights, the photo and the hand say; the one to be used comes first."""
    centre, long = centre_of(photo), max(photo.width_px, photo.height_px)
    kinds = {each.letter: each.kind for each in plan.sets}
    found: list[Focal] = []
    level = [point.point_px for point in points if kinds[point.letter] == "level" and point.point_px is not None]
    for first, second in combinations(level, 2):
        px = focal_of_two(first, second, centre)
        if px is not None and LIKELY_FOCAL[0] * long <= px <= LIKELY_FOCAL[1] * long:
            found.append(Focal(px, "two sets"))
            break
    for point in points:
        if kinds[point.letter] == "upright" and point.point_px is not None:
            px = focal_of_uprights(horizon, point.point_px, centre)
            if px is not None and LIKELY_FOCAL[0] * long <= px <= LIKELY_FOCAL[1] * long:
                found.append(Focal(px, "uprights"))
                break
    if photo.focal_35mm > 0:
        found.append(Focal(told_focal_px(photo), "photo"))
    if plan.focal == "hand" and plan.focal_px > 0:
        return (Focal(plan.focal_px, "hand"), *found)
    if plan.focal == "photo" and photo.focal_35mm > 0:
        return tuple(sorted(found, key=lambda focal: focal.source != "photo"))
    return tuple(found) or (guessed_focal(photo.width_px, photo.height_px),)


def homogeneous_on_sheet(point: VanishingPoint | StagePoint, frame_map: FrameMap) -> NDArray[np.float64]:
    """The point (x, y, w) in sheet mm."""
    return np.asarray(frame_map.matrix() @ point.homogeneous)
