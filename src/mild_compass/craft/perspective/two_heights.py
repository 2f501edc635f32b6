"""Horizon and eye height from two upright things of known height, for a level camera."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.plan.model import Point

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
