"""All that follows from the traced edges of one study."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.horizon import HorizonLine, horizon_line
from mild_compass.craft.perspective.vanishing import NoPoint, VanishingPoint, vanishing_point

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.plan.model import PerspectivePlan


@dataclass(frozen=True, eq=False, slots=True)
class WorkedPerspective:
    """Points and refusals by set, and the horizon, in photo pixels."""

    points: tuple[VanishingPoint, ...]
    refusals: tuple[NoPoint, ...]
    horizon: HorizonLine | None

    def point(self, letter: str) -> VanishingPoint | None:
        """The point of a set, if it has one."""
        return next((point for point in self.points if point.letter == letter), None)


def work_out(plan: PerspectivePlan) -> WorkedPerspective:
    """Fit every set, then the horizon."""
    fitted = [vanishing_point(each, plan.tracing_error_px) for each in plan.sets]
    points = tuple(each for each in fitted if isinstance(each, VanishingPoint))
    refusals = tuple(each for each in fitted if isinstance(each, NoPoint))
    level = {each.letter for each in plan.sets if each.kind == "level"}
    horizon = horizon_line([point for point in points if point.letter in level], plan.horizon)
    return WorkedPerspective(points, refusals, horizon)


def homogeneous_on_sheet(point: VanishingPoint, frame_map: FrameMap) -> NDArray[np.float64]:
    """The point (x, y, w) in sheet mm."""
    return np.asarray(frame_map.matrix() @ point.homogeneous)
