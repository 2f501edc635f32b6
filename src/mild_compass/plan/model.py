"""The plan as frozen values.

Photo points are in pixels of the upright photo, x right, y down; lengths on the paper are in millimetres.
Each value checks itself when it is made, so a plan that exists is a plan that makes sense.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise
from math import isfinite
from typing import Literal, get_args

from mild_compass.plan.errors import PlanError

StationName = Literal["references", "viewfinder", "armature", "perspective", "values", "sheet", "logbook"]
STATION_NAMES: tuple[StationName, ...] = get_args(StationName)
Standing = Literal["kept", "set aside"]
Thread = Literal["halves", "thirds", "quarters", "diagonals"]
Construction = Literal["diagonals", "thirds", "quarters", "fourteen"]
SetKind = Literal["level", "upright", "free"]
ThresholdMethod = Literal["even", "found", "by hand"]
Pages = Literal["one page", "A4", "Letter"]
SheetLayer = Literal["picture", "frame", "armature", "horizon", "masses", "grid"]
Facing = Literal["nowhere", "left", "right"]
LogKind = Literal["note", "decision"]

SIDE_MM = (20.0, 3000.0)
VALUE_COUNTS = (2, 7)
SMALLEST_MM2 = (2.0, 5000.0)  # nobody draws a shape smaller than a millimetre and a half
GRID_MM = (5.0, 500.0)


def _within(name: str, value: float, low: float, high: float, unit: str) -> None:
    if not (isfinite(value) and low <= value <= high):
        raise PlanError(f"{name} must be between {low:g} and {high:g} {unit}; {value:g} was given.")


@dataclass(frozen=True, slots=True)
class Paper:
    """The sheet as it lies before the artist, with one margin all round, in mm."""

    name: str
    width_mm: float
    height_mm: float
    margin_mm: float = 15.0

    def __post_init__(self) -> None:
        _within("The width of the sheet", self.width_mm, *SIDE_MM, "mm")
        _within("The height of the sheet", self.height_mm, *SIDE_MM, "mm")
        most = min(self.width_mm, self.height_mm) / 2 - 5
        _within("The margin of this sheet", self.margin_mm, 0, most, "mm")

    @property
    def across(self) -> bool:
        """Whether the sheet lies on its long side."""
        return self.width_mm > self.height_mm

    @property
    def picture_width_mm(self) -> float:
        """Width of the picture area inside the margins."""
        return self.width_mm - 2 * self.margin_mm

    @property
    def picture_height_mm(self) -> float:
        """Height of the picture area inside the margins."""
        return self.height_mm - 2 * self.margin_mm

    @property
    def ratio(self) -> float:
        """Width over height of the picture area."""
        return self.picture_width_mm / self.picture_height_mm


@dataclass(frozen=True, slots=True)
class Reference:
    """A photo: its bytes are known by their SHA-256, its size is that of the upright picture."""

    id: str
    name: str
    sha256: str
    width_px: int
    height_px: int
    standing: Standing = "kept"
    reason: str = ""

    def __post_init__(self) -> None:
        if self.width_px < 1 or self.height_px < 1:
            raise PlanError(f"The photo {self.name} has no width or no height.")
        if len(self.sha256) != 64 or set(self.sha256) - set("0123456789abcdef"):
            raise PlanError(f"The photo {self.name} has no usable checksum.")


@dataclass(frozen=True, slots=True)
class Frame:
    """The viewfinder's opening over the photo, in photo pixels."""

    x_px: float
    y_px: float
    width_px: float
    height_px: float

    def __post_init__(self) -> None:
        if not all(map(isfinite, (self.x_px, self.y_px, self.width_px, self.height_px))):
            raise PlanError("The viewfinder needs a place and a size; one of them is not a number.")
        if self.width_px <= 0 or self.height_px <= 0:
            raise PlanError("The viewfinder needs some width and height.")


@dataclass(frozen=True, slots=True)
class Ring:
    """An ellipse drawn round a subject, in photo pixels, and which way the subject looks, points or moves."""

    x_px: float
    y_px: float
    radius_x_px: float
    radius_y_px: float
    name: str = "subject"
    facing: Facing = "nowhere"

    def __post_init__(self) -> None:
        if not all(map(isfinite, (self.x_px, self.y_px))) or not (self.radius_x_px > 0 and self.radius_y_px > 0):
            raise PlanError("A ring needs a centre and some size; draw it a little larger.")


@dataclass(frozen=True, slots=True)
class TracedEdge:
    """A straight edge traced over the photo, from one end to the other, in photo pixels."""

    x0_px: float
    y0_px: float
    x1_px: float
    y1_px: float

    def __post_init__(self) -> None:
        ends = (self.x0_px, self.y0_px, self.x1_px, self.y1_px)
        if not all(map(isfinite, ends)) or ends[:2] == ends[2:]:
            raise PlanError("A traced edge needs two different ends; draw it a little longer.")


@dataclass(frozen=True, slots=True)
class EdgeSet:
    """Edges that are parallel in the world: level ones going back, uprights, or free."""

    letter: str
    kind: SetKind = "level"
    edges: tuple[TracedEdge, ...] = ()


@dataclass(frozen=True, slots=True)
class Horizon:
    """An eye level set by hand: a level line across the photo."""

    y_px: float

    def __post_init__(self) -> None:
        if not isfinite(self.y_px):
            raise PlanError("The horizon needs a height; what was given is not a number.")


@dataclass(frozen=True, slots=True)
class PerspectivePlan:
    """Traced sets of edges, and the horizon where the artist has set it; None means through the points."""

    sets: tuple[EdgeSet, ...] = ()
    horizon: Horizon | None = None
    tracing_error_px: float = 1.5


@dataclass(frozen=True, slots=True)
class ValuePlan:
    """How the picture is simplified: the number of values, the thresholds in L*, the smallest shape."""

    count: int = 4
    method: ThresholdMethod = "found"
    thresholds: tuple[float, ...] = ()
    smallest_mm2: float = 40.0

    def __post_init__(self) -> None:
        _within("The number of values", self.count, *VALUE_COUNTS, "")
        _within("The smallest shape", self.smallest_mm2, *SMALLEST_MM2, "mm²")
        if self.method == "by hand":
            if len(self.thresholds) != self.count - 1:
                raise PlanError(f"{self.count} values need {self.count - 1} thresholds.")
            ordered = (0.0, *self.thresholds, 100.0)
            if not all(a < b for a, b in pairwise(ordered)):
                raise PlanError("Thresholds go upward, between 0 and 100.")


@dataclass(frozen=True, slots=True)
class SheetPlan:
    """What is printed: layers, spacing of the squared grid in mm, page format, mirrored for tracing."""

    layers: tuple[SheetLayer, ...] = ("picture", "frame", "grid")
    grid_mm: float = 25.0
    pages: Pages = "one page"
    mirrored: bool = False

    def __post_init__(self) -> None:
        _within("The squares of the grid", self.grid_mm, *GRID_MM, "mm")


@dataclass(frozen=True, slots=True)
class Study:
    """One complete candidate: a frame on one reference and all that is decided about it."""

    id: str
    name: str
    reference: str
    frame: Frame
    threads: tuple[Thread, ...] = ("thirds",)
    rings: tuple[Ring, ...] = ()
    armature: tuple[Construction, ...] = ("fourteen",)
    perspective: PerspectivePlan = field(default_factory=PerspectivePlan)
    values: ValuePlan = field(default_factory=ValuePlan)
    sheet: SheetPlan = field(default_factory=SheetPlan)


@dataclass(frozen=True, slots=True)
class LogEntry:
    """A line of the logbook; topic lets a later decision on the same thing replace an earlier one."""

    time: str
    station: StationName
    study: str
    kind: LogKind
    text: str
    topic: str = ""


@dataclass(frozen=True, slots=True)
class Plan:
    """Everything decided for one sheet of paper."""

    name: str = "Untitled"
    paper: Paper = field(default_factory=lambda: Paper("A3", 297.0, 420.0))
    references: tuple[Reference, ...] = ()
    studies: tuple[Study, ...] = ()
    current_study: str = ""
    log: tuple[LogEntry, ...] = ()

    def __post_init__(self) -> None:
        known = {reference.id for reference in self.references}
        for study in self.studies:
            if study.reference not in known:
                raise PlanError(f"The study {study.name} uses a photo that is not in the plan.")
        ids = [study.id for study in self.studies]
        if len(set(ids)) != len(ids) or len(known) != len(self.references):
            raise PlanError("Two parts of the plan carry the same mark.")
        if ids and self.current_study not in ids:
            raise PlanError("The plan points to a study that is not in it.")

    @property
    def study(self) -> Study | None:
        """The study being worked on, or None while the plan has no photo."""
        return next((study for study in self.studies if study.id == self.current_study), None)

    def reference(self, reference_id: str) -> Reference:
        """The reference with this id."""
        return next(reference for reference in self.references if reference.id == reference_id)
