"""All that follows from the traced edges of one study: points, horizon, the focal lengths they give, the camera."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import combinations
from math import log
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
    from mild_compass.plan.perspective import PerspectivePlan
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.stage import Stage

FILM_MM = 36.0  # the long side of the 35 mm still frame: ISO 1754
LEAST_OFF, MOST_OFF = 0.04, 0.3  # of the picture's height: how far off its middle a camera's axis is told to be
NOT_SQUARE = 0.4  # of the logarithm: a focal length so far from all others comes of sets that are not square
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
    tilt = tilt_of(upright, photo) if upright is not None and photo is not None and photo.is_photo else None
    horizon = horizon_line(level, plan.horizon, tilt)
    if horizon is not None:
        horizon = replace(horizon, aims=tuple(point.homogeneous for point in level))
    if horizon is None or photo is None:
        return WorkedPerspective(points, refusals, horizon)
    focals = _focals(plan, points, horizon, photo)
    axis = _axis_of(photo, horizon)
    off = _off_middle(upright, horizon, focals[0], photo) if upright is not None and photo.is_photo else 0.0
    if off:
        a, b, _ = _downward(horizon)
        axis = axis[0] + off * a, axis[1] + off * b
    camera = camera_of(horizon, focals[0], axis, plan.eye_m)
    of_stage = stage_points(stage, camera, "".join(kinds)) if stage is not None else ()
    return WorkedPerspective(points, refusals, horizon, camera, focals, of_stage)


def aims_of(worked: WorkedPerspective) -> tuple[tuple[float, float, float], ...]:
    """The points (x, y, w) in photo pixels that lines of the traced sets run to."""
    found = []
    for point in worked.points:
        x, y, w = point.homogeneous.tolist()
        found.append((x, y, w))
    return tuple(found)


def tilt_of(upright: VanishingPoint, photo: Ground) -> float | None:
    """The horizon's tilt in radians: the way from the picture's middle to the uprights' point is square to it.

    None where it would be absurd.
    """
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


def _off_middle(upright: VanishingPoint, horizon: HorizonLine, focal: Focal, photo: Ground) -> float:
    """How far below the picture's middle, square to the horizon, the camera really looked; 0 where nothing says so.

    A picture that was cropped, or taken with a lens that shifts, has its camera's axis elsewhere: then horizon and
    uprights do not go together about the middle. With the lens known, h − z = f·(tan θ + 1 / tan θ) for the horizon's
    and the uprights' places h and z on the line square to the horizon, and the axis lies f·tan θ above the horizon.
    """
    if focal.source not in ("photo", "hand"):
        return 0.0
    a, b, c = _downward(horizon)
    x, y = centre_of(photo)
    h = -(a * x + b * y + c)
    px, py, w = upright.homogeneous
    along = a * (px - w * x) + b * (py - w * y)
    if abs(along) < 1e-9:
        return 0.0
    turned = w / along  # one over the uprights' place: nought where they are parallel
    spread = float(np.sqrt(upright.tangent[:, 2] @ upright.spread @ upright.tangent[:, 2])) / upright.unit_px
    expected = -h / focal.px**2
    if abs(turned - expected) < max(4 * spread, LEAST_OFF * photo.height_px / focal.px**2):
        return 0.0
    gap = np.inf if abs(turned) < 1e-12 else h - 1 / turned
    sine = float(np.clip(2 * focal.px / gap, -1, 1))
    off = float(h - focal.px * np.tan(np.arcsin(sine) / 2))
    return off if abs(off) <= MOST_OFF * photo.height_px else 0.0


def _downward(horizon: HorizonLine) -> tuple[float, float, float]:
    """The horizon's line with its normal of length 1, pointing down."""
    a, b, c = (horizon.line / np.hypot(*horizon.line[:2]) * np.sign(horizon.line[1] or 1.0)).tolist()
    return a, b, c


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
    pairs = [px for first, second in combinations(level, 2) if (px := focal_of_two(first, second, centre)) is not None]
    pairs = [px for px in pairs if LIKELY_FOCAL[0] * long <= px <= LIKELY_FOCAL[1] * long]
    for point in points:
        if kinds[point.letter] == "upright" and point.point_px is not None:
            px = focal_of_uprights(horizon, point.point_px, centre)
            if px is not None and LIKELY_FOCAL[0] * long <= px <= LIKELY_FOCAL[1] * long:
                found.append(Focal(px, "uprights"))
                break
    if photo.focal_35mm > 0:
        found.append(Focal(told_focal_px(photo), "photo"))
    if pairs:
        # Of several pairs not all are square: the one that goes with all else, or with the usual lens, is.
        others = [focal.px for focal in found] or [guessed_focal(photo.width_px, photo.height_px).px]
        best = min(pairs, key=lambda px: min(abs(log(px / other)) for other in others))
        agrees = min(abs(log(best / other)) for other in others) < NOT_SQUARE
        found.insert(0 if agrees or (len(pairs) == 1 and not photo.focal_35mm) else len(found), Focal(best, "two sets"))
    if plan.focal == "hand" and plan.focal_px > 0:
        return (Focal(plan.focal_px, "hand"), *found)
    if plan.focal == "photo" and photo.focal_35mm > 0:
        return tuple(sorted(found, key=lambda focal: focal.source != "photo"))
    return tuple(found) or (guessed_focal(photo.width_px, photo.height_px),)


def homogeneous_on_sheet(point: VanishingPoint | StagePoint, frame_map: FrameMap) -> NDArray[np.float64]:
    """The point (x, y, w) in sheet mm."""
    return np.asarray(frame_map.matrix() @ point.homogeneous)
