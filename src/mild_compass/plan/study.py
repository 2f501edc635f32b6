"""One study: a frame on a ground, and all that is decided in it."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import isfinite
from typing import Literal, get_args

from mild_compass.plan.departure_kinds import LEAST_POINTS, DepartureKind, kind_of
from mild_compass.plan.errors import PlanError, require_within
from mild_compass.plan.perspective import PerspectivePlan
from mild_compass.plan.pictures import Point
from mild_compass.plan.record import Outcome
from mild_compass.plan.sheet import BlockShape, MeasurePlan, Motif, SheetPlan
from mild_compass.plan.stage import Stage
from mild_compass.plan.stations import StationName
from mild_compass.plan.structure import Construction, Structure
from mild_compass.plan.tones import MediumPlan, ReadsPlan, ValuePlan

Thread = Literal["halves", "thirds", "quarters", "diagonals"]
Facing = Literal["nowhere", "left", "right", "up", "down"]
Proportion = Literal["locked", "free", "stretched"]
School = Literal["thirds", "armature", "dynamic symmetry", "quarters and cross", "no grid"]
SCHOOLS: tuple[School, ...] = get_args(School)
MeasuredSpan = Literal["photo width", "photo height", "frame width", "frame height"]
TURN_DEG = 45.0
STRETCH = 0.10
ELEMENT_SIZES = (0.02, 50.0)


@dataclass(frozen=True, slots=True)
class Frame:
    """The viewfinder's opening over the photo, in photo pixels.

    The rectangle is turned about its own middle by ``turn_deg`` (clockwise), and what it shows is changed over left
    and right when ``flipped``. Its proportion is locked to the picture area's, free, or deliberately stretched to it.
    """

    x_px: float
    y_px: float
    width_px: float
    height_px: float
    turn_deg: float = 0.0
    flipped: bool = False
    proportion: Proportion = "locked"

    def __post_init__(self) -> None:
        if not all(map(isfinite, (self.x_px, self.y_px, self.width_px, self.height_px, self.turn_deg))):
            raise PlanError("The viewfinder needs a place and a size; one of them is not a number.")
        if self.width_px <= 0 or self.height_px <= 0:
            raise PlanError("The viewfinder needs some width and height.")
        require_within("The turn of the viewfinder", self.turn_deg, -TURN_DEG, TURN_DEG, "degrees")

    @property
    def middle(self) -> Point:
        """Its middle, in photo pixels."""
        return self.x_px + self.width_px / 2, self.y_px + self.height_px / 2

    @property
    def plain(self) -> bool:
        """Whether it is neither turned, flipped nor stretched."""
        return self.turn_deg == 0 and not self.flipped and self.proportion != "stretched"


@dataclass(frozen=True, slots=True)
class Ring:
    """An ellipse drawn round a subject, in photo pixels, and which way the subject looks, points or moves.

    With ``heads`` the ring is round the head of a figure that stands so many heads tall.
    """

    x_px: float
    y_px: float
    radius_x_px: float
    radius_y_px: float
    name: str = "subject"
    facing: Facing = "nowhere"
    heads: float = 0.0

    def __post_init__(self) -> None:
        if not all(map(isfinite, (self.x_px, self.y_px))) or not (self.radius_x_px > 0 and self.radius_y_px > 0):
            raise PlanError("A ring needs a centre and some size; draw it a little larger.")
        require_within("The height in heads", self.heads, 0, 20, "heads")


@dataclass(frozen=True, slots=True)
class KeepArea:
    """A rectangle of the photo that must be inside the viewfinder, in photo pixels."""

    left_px: float
    top_px: float
    right_px: float
    bottom_px: float
    name: str = "this"

    def __post_init__(self) -> None:
        if not all(map(isfinite, (self.left_px, self.top_px, self.right_px, self.bottom_px))):
            raise PlanError("An area to keep needs a place; one of its sides is not a number.")
        if self.right_px <= self.left_px or self.bottom_px <= self.top_px:
            raise PlanError("An area to keep needs some size; draw it a little larger.")


@dataclass(frozen=True, slots=True)
class Departure:
    """Something the drawing will do otherwise than the photo, with its reason and what became of it.

    ``points`` are the outline of an area, or a line for extend, straighten and gradation, in photo pixels (for borrow:
    of the photo ``source``). ``value`` is the L* of a plain mass, how much darker or lighter, or percent of contrast; a
    gradation darkens by it where its line begins, not at all where it ends. What is moved or borrowed comes to
    lie with the middle of its bounds at (x_px, y_px), ``size`` times as large; with ``height_m`` it is so tall in the
    scene, and as large as the perspective makes that where it stands.
    """

    id: str
    kind: DepartureKind
    points: tuple[Point, ...]
    name: str = ""
    reason: str = ""
    value: float = 20.0
    source: str = ""
    x_px: float = 0.0
    y_px: float = 0.0
    size: float = 1.0
    mirrored: bool = False
    outcome: Outcome = "open"
    happened: str = ""
    height_m: float = 0.0

    def __post_init__(self) -> None:
        require_within("The height in the scene", self.height_m, 0, 200, "m")
        numbers = [number for point in self.points for number in point]
        if not all(map(isfinite, (*numbers, self.x_px, self.y_px))):
            raise PlanError("One of the points of this change is not a number. Draw it again.")
        row = kind_of(self.kind)
        if len(set(self.points)) < LEAST_POINTS[row.shape]:
            raise PlanError("This change has no size yet; draw it a little larger.")
        low, high = (row.value.low, row.value.high) if row.value is not None else (0.0, 100.0)
        require_within("The value", self.value, low, high, "")
        require_within("The size", self.size, *ELEMENT_SIZES, "times")
        if (self.kind == "borrow") != bool(self.source):
            raise PlanError("What is borrowed must say from which photo.")

    @property
    def moves(self) -> bool:
        """Whether something is put elsewhere."""
        return kind_of(self.kind).moves

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, top, right, bottom of its points, in pixels of the photo they were drawn on."""
        xs, ys = [x for x, _ in self.points], [y for _, y in self.points]
        return min(xs), min(ys), max(xs), max(ys)

    def placed(self) -> tuple[Point, ...]:
        """Its outline where it comes to lie, in pixels of the study's photo."""
        if not self.moves:
            return self.points
        left, top, right, bottom = self.bounds
        middle_x, middle_y, side = (left + right) / 2, (top + bottom) / 2, -1 if self.mirrored else 1
        return tuple(
            (self.x_px + side * self.size * (x - middle_x), self.y_px + self.size * (y - middle_y))
            for x, y in self.points
        )


@dataclass(frozen=True, slots=True)
class Measured:
    """A length measured once on a print or a screen that shows the photo, in mm: what it is, and how long."""

    span: MeasuredSpan
    length_mm: float

    def __post_init__(self) -> None:
        require_within("The measured length", self.length_mm, 1, 10_000, "mm")


@dataclass(frozen=True, slots=True)
class Silenced:
    """A reading that is not to speak in this study, and why."""

    station: StationName
    key: str
    reason: str = ""


@dataclass(frozen=True, slots=True)
class RuleChange:
    """A threshold of the readings that the artist has set otherwise; the names are those of the rules."""

    name: str
    value: float

    def __post_init__(self) -> None:
        require_within("A threshold", self.value, 0, 1000, "")


@dataclass(frozen=True, slots=True)
class Study:
    """One complete candidate: a frame on its ground and all that is decided about it.

    The ground is a photo of the plan, by its id, or BLANK for a blank sheet. Rings are in order of importance.
    ``chosen_because`` is filled on the study that was chosen for the sheet.
    """

    id: str
    name: str
    ground: str
    frame: Frame
    threads: tuple[Thread, ...] = ("thirds",)
    rings: tuple[Ring, ...] = ()
    keep: tuple[KeepArea, ...] = ()
    departures: tuple[Departure, ...] = ()
    school: School = "armature"
    rules: tuple[RuleChange, ...] = ()
    silenced: tuple[Silenced, ...] = ()
    chosen_because: str = ""
    measured: Measured | None = None
    armature: tuple[Construction, ...] = ("fourteen",)
    structure: Structure = field(default_factory=Structure)
    perspective: PerspectivePlan = field(default_factory=PerspectivePlan)
    values: ValuePlan = field(default_factory=ValuePlan)
    reads: ReadsPlan = field(default_factory=ReadsPlan)
    medium: MediumPlan = field(default_factory=MediumPlan)
    sheet: SheetPlan = field(default_factory=SheetPlan)
    measures: MeasurePlan = field(default_factory=MeasurePlan)
    shapes: tuple[BlockShape, ...] = ()
    motif: Motif | None = None
    stage: Stage | None = None

    @property
    def staged(self) -> bool:
        """Whether there is anything on its stage."""
        return self.stage is not None and bool(self.stage.things)
