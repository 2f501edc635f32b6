"""The values: how the picture is simplified, shapes changed by hand, where the eye is to end, and the way of working.

Points are in pixels of the study's picture, values are counted from the darkest.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from math import isfinite
from typing import Literal, get_args

from mild_compass.plan.errors import PlanError, require_within

MassChangeKind = Literal["shape", "area"]
DetailKind = Literal["hold", "let go"]
EdgeKind = Literal["hard", "soft", "lost"]
EDGE_KINDS: tuple[EdgeKind, ...] = get_args(EdgeKind)
StrokeWay = Literal["angle", "level", "upright", "along", "to a point"]
PullKind = Literal["face", "figure", "pointed", "warm"]
Medium = Literal["toned paper", "charcoal", "washes", "opaque", "hatching"]
MEDIA: tuple[Medium, ...] = get_args(Medium)
TOLERANCE = (1.0, 40.0)
ThresholdMethod = Literal["even", "found", "by hand"]
VALUE_COUNTS = (2, 7)
SMALLEST_MM2 = (2.0, 5000.0)  # nobody draws a shape smaller than a millimetre and a half
SOFTNESS_MM = (0.0, 20.0)


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


@dataclass(frozen=True, slots=True)
class ValuePlan:
    """How the picture is simplified: the number of values, the thresholds in L*, the smallest shape.

    ``simple`` is how simple, from all that is found (0) to two shapes (100), ``detail`` how much more is kept where it
    counts than elsewhere (0 for even). ``softness_mm`` is how round a border is drawn: it leaves the photo's by half of
    that at most. ``changes`` are made by hand, in order; ``areas``, ``edges`` and ``planes`` are as well.
    """

    count: int = 4
    method: ThresholdMethod = "found"
    thresholds: tuple[float, ...] = ()
    smallest_mm2: float = 40.0
    softness_mm: float = 2.4
    changes: tuple[MassChange, ...] = ()
    simple: float = 50.0
    detail: float = 0.0
    areas: tuple[DetailArea, ...] = ()
    edges: tuple[EdgeChange, ...] = ()
    planes: tuple[Plane, ...] = ()

    def __post_init__(self) -> None:
        require_within("How simple it is", self.simple, 0, 100, "")
        require_within("How much more detail is kept where it counts", self.detail, 0, 100, "")
        for each, what in ((self.areas, "areas"), (self.edges, "edges"), (self.planes, "planes")):
            if len({one.id for one in each}) != len(each):
                raise PlanError(f"Two of the {what} carry the same mark.")
        require_within("The number of values", self.count, *VALUE_COUNTS, "")
        require_within("The smallest shape", self.smallest_mm2, *SMALLEST_MM2, "mm²")
        require_within("The easing of edges", self.softness_mm, *SOFTNESS_MM, "mm")
        if len({each.id for each in self.changes}) != len(self.changes):
            raise PlanError("Two changed shapes carry the same mark.")
        if self.method == "by hand":
            if len(self.thresholds) != self.count - 1:
                raise PlanError(f"{self.count} values need {self.count - 1} thresholds.")
            ordered = (0.0, *self.thresholds, 100.0)
            if not all(a < b for a, b in pairwise(ordered)):
                raise PlanError("Thresholds go upward, between 0 and 100.")


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
