"""The points that the things on a stage run to: known exactly, for the things are set down by numbers."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, radians, sin
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.plan.stage import row_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.plan.stage import Stage

    Array = NDArray[np.float64]

SAME_DEG = 2.0  # turned by no more than that, things run to the same points
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
PARALLEL = 1e-6  # of the size of the other two: below, a point is at infinity to a double's precision


@dataclass(frozen=True, eq=False, slots=True)
class StagePoint:
    """Where level lines of things turned so run to: a letter, and the point (x, y, w) in photo pixels."""

    letter: str
    turn_deg: float
    homogeneous: Array

    @property
    def at_infinity(self) -> bool:
        """Whether these lines are parallel to the picture, and stay so in the drawing."""
        x, y, w = self.homogeneous
        return bool(abs(w) <= PARALLEL * max(abs(x), abs(y)))


def directions(stage: Stage) -> list[float]:
    """The ways square things are turned, each once, in degrees off the artist's heading (0-90)."""
    found: list[float] = []
    for thing in stage.things:
        turn = (thing.turn_deg - stage.heading_deg) % 90
        if row_of(thing.kind).square and all(_apart(turn, other) > SAME_DEG for other in found):
            found.append(turn)
    return found


def _apart(first: float, second: float) -> float:
    return min(abs(first - second), 90 - abs(first - second))


def stage_points(stage: Stage, camera: Camera, taken: str = "") -> tuple[StagePoint, ...]:
    """Two points for each way, as long as there are letters that no traced set has."""
    letters = iter([letter for letter in LETTERS if letter not in taken])
    turns = [turn + extra for turn in directions(stage) for extra in (0.0, 90.0)]
    return tuple(
        StagePoint(letter, turn, camera.direction_px([cos(radians(turn)), -sin(radians(turn)), 0.0]))
        for turn, letter in zip(turns, letters, strict=False)
    )


def pair_of(points: tuple[StagePoint, ...], turn_deg: float) -> tuple[StagePoint, StagePoint] | None:
    """Both points of things turned so far off the heading; None where no letters were left for them."""
    pairs = [(points[k], points[k + 1]) for k in range(0, len(points) - 1, 2)]
    nearest = min(pairs, key=lambda pair: _apart(turn_deg % 90, pair[0].turn_deg % 90), default=None)
    return nearest if nearest and _apart(turn_deg % 90, nearest[0].turn_deg % 90) <= SAME_DEG else None
