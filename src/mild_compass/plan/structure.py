"""What the artist has decided at the armature: constructions and their look, own lines, big lines, the eye's path.

Lines of the armature are in fractions of the frame (0-1, x right, y down), because they belong to the rectangle; big
lines, key points and the path are in photo pixels, because they belong to the picture.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite
from typing import Literal, get_args

from mild_compass.plan.errors import PlanError, require_within

Construction = Literal[
    "fourteen",
    "diagonals",
    "halves",
    "thirds",
    "quarters",
    "reciprocals",
    "rabatment",
    "golden section",
    "phi",
    "root 2",
    "root 3",
    "root 4",
    "root 5",
    "2:3",
    "3:4",
    "4:6:9",
    "9:12:16",
    "reading Z",
]
CONSTRUCTION_NAMES: tuple[Construction, ...] = get_args(Construction)
LineInk = Literal["iron oxide", "ultramarine", "ink black", "chalk white"]
ThemeEnd = Literal["first", "second", "both"]
OwnKind = Literal["own", "upright", "level"]

MOST_LINES = 60  # more big lines than that are no longer big
LINE_WEIGHTS_MM = (0.05, 2.0)
MOST_NESTED = 4


@dataclass(frozen=True, slots=True)
class LineStyle:
    """How one construction is drawn, where the artist wants it otherwise than usual."""

    construction: Construction
    ink: LineInk = "iron oxide"
    weight_mm: float = 0.25

    def __post_init__(self) -> None:
        require_within("The weight of a line", self.weight_mm, *LINE_WEIGHTS_MM, "mm")


@dataclass(frozen=True, slots=True)
class OwnLine:
    """A line the artist adds to the armature, in fractions of the frame: drawn, or dropped through a crossing."""

    x0: float
    y0: float
    x1: float
    y1: float
    kind: OwnKind = "own"

    def __post_init__(self) -> None:
        ends = (self.x0, self.y0, self.x1, self.y1)
        if not all(isfinite(each) and -1 <= each <= 2 for each in ends) or ends[:2] == ends[2:]:
            raise PlanError("A line of the armature needs two different ends near the frame; draw it again.")


@dataclass(frozen=True, slots=True)
class BigLine:
    """One of the picture's big lines, in photo pixels; ``contrast`` is the step of L* across it."""

    x0_px: float
    y0_px: float
    x1_px: float
    y1_px: float
    name: str = ""
    contrast: float = 20.0

    def __post_init__(self) -> None:
        ends = (self.x0_px, self.y0_px, self.x1_px, self.y1_px)
        if not all(map(isfinite, ends)) or ends[:2] == ends[2:]:
            raise PlanError("A big line needs two different ends; draw it a little longer.")
        require_within("The contrast of a line", self.contrast, 0, 100, "L*")


@dataclass(frozen=True, slots=True)
class KeyPoint:
    """A place the picture hangs on, in photo pixels."""

    x_px: float
    y_px: float
    name: str = ""

    def __post_init__(self) -> None:
        if not (isfinite(self.x_px) and isfinite(self.y_px)):
            raise PlanError("A key point needs a place; what was given is not a number.")


@dataclass(frozen=True, slots=True)
class Structure:
    """All of it; tolerances are shares of the frame's diagonal and degrees."""

    styles: tuple[LineStyle, ...] = ()
    theme_end: ThemeEnd = "both"
    nested: int = 0
    own: tuple[OwnLine, ...] = ()
    lines: tuple[BigLine, ...] = ()
    points: tuple[KeyPoint, ...] = ()
    eye_path: tuple[tuple[float, float], ...] = ()
    near_share: float = 0.01
    angle_deg: float = 3.0

    def __post_init__(self) -> None:
        require_within("How deep themes are nested", self.nested, 0, MOST_NESTED, "levels")
        require_within("The distance at which a line locks", 100 * self.near_share, 0.1, 5, "% of the diagonal")
        require_within("The angle at which a line locks", self.angle_deg, 0.2, 15, "degrees")
        if len(self.lines) > MOST_LINES:
            raise PlanError(f"A picture has at most {MOST_LINES} big lines. Remove some of the short ones first.")
        if not all(isfinite(number) for point in self.eye_path for number in point):
            raise PlanError("One of the points of the eye's path is not a number. Draw it again.")
        if len(self.eye_path) == 1:
            raise PlanError("The eye's path needs some length; draw it a little longer.")

    def style(self, construction: Construction) -> LineStyle:
        """How a construction is drawn."""
        return next((each for each in self.styles if each.construction == construction), LineStyle(construction))
