"""Parts of the values: shapes changed by hand, where the eye is meant to end, and the way of working.

Points are in pixels of the study's picture, values are counted from the darkest.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite
from typing import Literal, get_args

from mild_compass.plan.errors import PlanError, require_within

MassChangeKind = Literal["shape", "area"]
DetailKind = Literal["hold", "let go"]
EdgeKind = Literal["hard", "soft", "lost"]
EDGE_KINDS: tuple[EdgeKind, ...] = get_args(EdgeKind)
StrokeWay = Literal["angle", "level", "upright", "along", "to a point"]
PullKind = Literal["face", "figure", "pointed", "warm"]
PULL_KINDS: tuple[PullKind, ...] = get_args(PullKind)
Medium = Literal["toned paper", "charcoal", "washes", "opaque", "hatching"]
MEDIA: tuple[Medium, ...] = get_args(Medium)
TOLERANCE = (1.0, 40.0)


@dataclass(frozen=True, slots=True)
class MassChange:
    """A mass changed by hand.

    shape: the whole shape that lies under the one point gets the value; ``share`` of the picture it took when it was
    pointed at. area: all within the outline gets it. ``value`` was one of ``of`` values.
    """

    id: str
    kind: MassChangeKind
    points: tuple[tuple[float, float], ...]
    value: int
    of: int
    share: float = 0.0

    def __post_init__(self) -> None:
        if not all(isfinite(number) for point in self.points for number in point):
            raise PlanError("One of the points of this shape is not a number. Point at it again.")
        if len(set(self.points)) < (1 if self.kind == "shape" else 3):
            raise PlanError("This area has no size yet; draw it a little larger.")
        require_within("The number of values", self.of, 2, 7, "")
        require_within("The value", self.value, 0, self.of - 1, "")

    def value_of(self, count: int) -> int:
        """Its value when there are so many: darkest stays darkest, lightest stays lightest."""
        return self.value if count == self.of else round(self.value * (count - 1) / (self.of - 1))


@dataclass(frozen=True, slots=True)
class DetailArea:
    """An area in which small shapes are kept ("hold") or only big ones ("let go")."""

    id: str
    kind: DetailKind
    points: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        _require_outline(self.points)


@dataclass(frozen=True, slots=True)
class EdgeChange:
    """The border that passes nearest to a place is meant to be hard, soft or lost, whatever the photo says."""

    id: str
    place: tuple[float, float]
    kind: EdgeKind

    def __post_init__(self) -> None:
        if not all(map(isfinite, self.place)):
            raise PlanError("The place of this edge is not a number. Point at it again.")


@dataclass(frozen=True, slots=True)
class Plane:
    """A plane of something, and the way the strokes run on it.

    angle: ``angle_deg`` up from level, to the right; to a point: toward that of the traced set ``letter``; along: with
    the plane's own longer way.
    """

    id: str
    points: tuple[tuple[float, float], ...]
    way: StrokeWay = "angle"
    angle_deg: float = 45.0
    letter: str = ""
    name: str = ""
    printed: bool = True

    def __post_init__(self) -> None:
        _require_outline(self.points)
        require_within("The direction of the strokes", self.angle_deg, -180, 180, "°")


def _require_outline(points: tuple[tuple[float, float], ...]) -> None:
    if not all(isfinite(number) for point in points for number in point):
        raise PlanError("One of the points of this area is not a number. Draw it again.")
    if len(set(points)) < 3:
        raise PlanError("This area has no size yet; draw it a little larger.")


@dataclass(frozen=True, slots=True)
class Pull:
    """A place that draws the eye by what it is."""

    kind: PullKind
    x_px: float
    y_px: float

    def __post_init__(self) -> None:
        if not (isfinite(self.x_px) and isfinite(self.y_px)):
            raise PlanError("The place of this mark is not a number. Set it again.")


@dataclass(frozen=True, slots=True)
class ReadsPlan:
    """Where the artist wants the eye to end, and what pulls by what it is."""

    focus: tuple[float, float] | None = None
    pulls: tuple[Pull, ...] = ()

    def __post_init__(self) -> None:
        if self.focus is not None and not all(map(isfinite, self.focus)):
            raise PlanError("The place of the focus is not a number. Set it again.")


@dataclass(frozen=True, slots=True)
class MediumPlan:
    """The way of working; ``paper_value`` is the L* of a toned paper (None for the best), ``tolerance`` how far off it
    still counts as the paper's."""

    medium: Medium = "washes"
    paper_value: float | None = None
    tolerance: float = 8.0

    def __post_init__(self) -> None:
        if self.paper_value is not None:
            require_within("The paper's value", self.paper_value, 5, 98, "L*")
        require_within("How far off still counts as paper", self.tolerance, *TOLERANCE, "L*")
