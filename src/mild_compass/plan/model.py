"""The plan as frozen values.

Photo points are in pixels of the upright photo, x right, y down; lengths on the paper are in millimetres.
Each value checks itself when it is made, so a plan that exists is a plan that makes sense.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from math import isfinite
from typing import Literal, get_args

from mild_compass.plan.departure_kinds import LEAST_POINTS, DepartureKind, kind_of
from mild_compass.plan.errors import PlanError, require_within
from mild_compass.plan.guides import EYE_M, FocalSource, Guide, Lens, Light
from mild_compass.plan.record import Answer, CameOut, Outcome
from mild_compass.plan.sheet import BlockShape, MeasurePlan, Motif, SheetPlan
from mild_compass.plan.stage import Stage
from mild_compass.plan.structure import Construction, Structure
from mild_compass.plan.tones import MediumPlan, ReadsPlan, ValuePlan
from mild_compass.plan.work import Sitting, WorkPlan

StationName = Literal["references", "viewfinder", "armature", "perspective", "values", "sheet", "check", "logbook"]
STATION_NAMES: tuple[StationName, ...] = get_args(StationName)
Standing = Literal["kept", "set aside"]
DrawingStage = Literal["block-in", "lines", "values", "finished"]
Lay = Literal["as the photo", "by hand"]
Thread = Literal["halves", "thirds", "quarters", "diagonals"]
SetKind = Literal["level", "upright", "free"]
Facing = Literal["nowhere", "left", "right", "up", "down"]
Proportion = Literal["locked", "free", "stretched"]
School = Literal["thirds", "armature", "dynamic symmetry", "quarters and cross", "no grid"]
SCHOOLS: tuple[School, ...] = get_args(School)
MeasuredSpan = Literal["photo width", "photo height", "frame width", "frame height"]
Point = tuple[float, float]
LogKind = Literal["note", "decision"]

SIDE_MM = (20.0, 3000.0)
BLANK = ""  # the ground of a study on a blank sheet
LARGEST_PX = 1_000_000  # of a photo's side
BLANK_PX = 4000  # along the longer side of a blank sheet: marks keep their place when a larger sheet is taken
TURN_DEG = 45.0
STRETCH = 0.10
ELEMENT_SIZES = (0.02, 50.0)


@dataclass(frozen=True, slots=True)
class Paper:
    """The sheet as it lies before the artist, in mm.

    The picture area is what tape and margin leave of it; ``sides_mm`` (left, top, right, bottom) replaces the one
    margin all round. A mat covers ``mat_overlap_mm`` of the picture along every side and changes nothing else. Until
    the artist says how it lies, it is laid as the first photo lies.
    """

    name: str
    width_mm: float
    height_mm: float
    margin_mm: float = 15.0
    sides_mm: tuple[float, float, float, float] | None = None
    tape_mm: float = 0.0
    mat_overlap_mm: float = 0.0
    lay: Lay = "by hand"

    def __post_init__(self) -> None:
        require_within("The width of the sheet", self.width_mm, *SIDE_MM, "mm")
        require_within("The height of the sheet", self.height_mm, *SIDE_MM, "mm")
        most = min(self.width_mm, self.height_mm) / 2 - 5
        require_within("The margin of this sheet", self.margin_mm, 0, most, "mm")
        require_within("The tape on this sheet", self.tape_mm, 0, most, "mm")
        for side in self.sides_mm or ():
            require_within("The margin on each side of this sheet", side, 0, 2 * most, "mm")
        if min(self.picture_width_mm, self.picture_height_mm) < 10 - 1e-9:
            raise PlanError("Margins and tape leave less than 10 mm for the picture. Make them narrower.")
        hidden = min(self.picture_width_mm, self.picture_height_mm) / 4
        require_within("The overlap of the mat", self.mat_overlap_mm, 0, hidden, "mm")

    @property
    def across(self) -> bool:
        """Whether the sheet lies on its long side."""
        return self.width_mm > self.height_mm

    @property
    def borders_mm(self) -> tuple[float, float, float, float]:
        """From each edge of the sheet (left, top, right, bottom) to the picture area."""
        left, top, right, bottom = self.sides_mm or (self.margin_mm,) * 4
        return left + self.tape_mm, top + self.tape_mm, right + self.tape_mm, bottom + self.tape_mm

    @property
    def picture_width_mm(self) -> float:
        """Width of the picture area inside tape and margins."""
        return self.width_mm - self.borders_mm[0] - self.borders_mm[2]

    @property
    def picture_height_mm(self) -> float:
        """Height of the picture area inside tape and margins."""
        return self.height_mm - self.borders_mm[1] - self.borders_mm[3]

    @property
    def ratio(self) -> float:
        """Width over height of the picture area."""
        return self.picture_width_mm / self.picture_height_mm


@dataclass(frozen=True, slots=True)
class Ground:
    """What a study stands on: a size in pixels and, where it is a picture, its bytes known by their SHA-256.

    The size is that of the upright picture. ``focal_35mm`` is the focal length it was taken with, as on 36 mm film, 0
    where it does not tell. A blank sheet has no bytes.
    """

    id: str
    name: str
    sha256: str
    width_px: int
    height_px: int
    focal_35mm: float = field(default=0.0, kw_only=True)

    def __post_init__(self) -> None:
        require_within("The focal length of the photo", self.focal_35mm, 0, 5000, "mm")
        if self.width_px < 1 or self.height_px < 1:
            raise PlanError(f"The photo {self.name} has no width or no height.")
        if max(self.width_px, self.height_px) > LARGEST_PX:
            raise PlanError(f"The photo {self.name[:60]} is larger than any photo that can be read.")
        if self.sha256 and (len(self.sha256) != 64 or set(self.sha256) - set("0123456789abcdef")):
            raise PlanError(f"The photo {self.name} has no usable checksum.")

    @property
    def is_photo(self) -> bool:
        """Whether there is a picture to be seen; a blank sheet is none."""
        return bool(self.sha256)


def _require_bytes(picture: Ground) -> None:
    if not picture.is_photo:
        raise PlanError(f"The photo {picture.name} has no usable checksum.")


@dataclass(frozen=True, slots=True)
class Reference(Ground):
    """A photo to work from."""

    standing: Standing = "kept"
    reason: str = ""
    drew_me: str = ""

    def __post_init__(self) -> None:
        Ground.__post_init__(self)  # a class with slots is made anew, and a bare super() would mean the first one
        _require_bytes(self)


@dataclass(frozen=True, slots=True)
class DrawnPair:
    """A place of the plan, in mm on the sheet, and where it was drawn, in pixels of the photo: set by the artist."""

    plan_mm: Point
    drawn_px: Point

    def __post_init__(self) -> None:
        if not all(map(isfinite, (*self.plan_mm, *self.drawn_px))):
            raise PlanError("One of the two places is not a number. Click them again.")


@dataclass(frozen=True, slots=True)
class OwnDrawing(Ground):
    """A photo of the artist's own work on this sheet, when it was taken (ISO 8601) and how far the work had come.

    ``corners_px`` are the sheet's corners set by hand, from its top left clockwise, or none where they are found. The
    places of the plan (mm) in ``refused`` are not compared, those in ``mended`` have been put right since.
    """

    taken: str = ""
    stage: DrawingStage = "lines"
    corners_px: tuple[Point, ...] = ()
    pairs: tuple[DrawnPair, ...] = ()
    refused: tuple[Point, ...] = ()
    mended: tuple[Point, ...] = ()

    def __post_init__(self) -> None:
        Ground.__post_init__(self)
        _require_bytes(self)
        if len(self.corners_px) not in (0, 4):
            raise PlanError("A sheet has four corners. Set all of them, or none to have them found.")
        if not all(isfinite(number) for point in self.corners_px for number in point):
            raise PlanError("One of the corners is not a number. Set it again.")
        if self.corners_px and not _is_convex(self.corners_px):
            raise PlanError("These corners are not those of a sheet: put them on in order, round the sheet.")


def _is_convex(corners: tuple[Point, ...]) -> bool:
    turns = []
    for n, (x, y) in enumerate(corners):
        (x1, y1), (x2, y2) = corners[(n + 1) % 4], corners[(n + 2) % 4]
        turns.append((x1 - x) * (y2 - y1) - (y1 - y) * (x2 - x1))
    return all(turn > 0 for turn in turns)


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
    """An eye level set by hand: the line through a place of the photo, tilted clockwise off level."""

    y_px: float
    tilt_deg: float = 0.0
    x_px: float = 0.0

    def __post_init__(self) -> None:
        if not (isfinite(self.y_px) and isfinite(self.x_px)):
            raise PlanError("The horizon needs a height; what was given is not a number.")
        require_within("The tilt of the horizon", self.tilt_deg, -45, 45, "degrees")


@dataclass(frozen=True, slots=True)
class PerspectivePlan:
    """Traced sets of edges, the horizon where the artist has set it (None: through the points), guides, light, lens.

    ``focal_px`` is used where the focal length is set by hand (``focal`` "hand"), or known from the photo ("photo").
    """

    sets: tuple[EdgeSet, ...] = ()
    horizon: Horizon | None = None
    tracing_error_px: float = 1.5
    eye_m: float = 1.6
    focal: FocalSource = "found"
    focal_px: float = 0.0
    guides: tuple[Guide, ...] = ()
    light: Light = field(default_factory=Light)
    water_m: float | None = None
    lens: Lens = field(default_factory=Lens)

    def __post_init__(self) -> None:
        require_within("The eye height", self.eye_m, *EYE_M, "m")
        require_within("The focal length", self.focal_px, 0, 1e7, "pixels")
        if self.water_m is not None:
            require_within("The water", self.water_m, -100, 100, "m")
        ids = [guide.id for guide in self.guides]
        if len(set(ids)) != len(ids):
            raise PlanError("Two guides carry the same mark.")


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
class Acted:
    """A reading the artist acted on: what it said, and when its remedy was taken."""

    time: str
    station: StationName
    study: str
    key: str
    text: str


@dataclass(frozen=True, slots=True)
class StationTime:
    """How long a station has been in use."""

    station: StationName
    seconds: float


@dataclass(frozen=True, slots=True)
class Plan:
    """Everything decided for one sheet of paper: photos to work from, photos of the own drawing, studies, the log."""

    name: str = "Untitled"
    paper: Paper = field(default_factory=lambda: Paper("A3", 297.0, 420.0, lay="as the photo"))
    references: tuple[Reference, ...] = ()
    studies: tuple[Study, ...] = ()
    current_study: str = ""
    log: tuple[LogEntry, ...] = ()
    drawings: tuple[OwnDrawing, ...] = ()
    current_drawing: str = ""  # the one that is checked; empty for the last
    work: WorkPlan = field(default_factory=WorkPlan)
    sittings: tuple[Sitting, ...] = ()
    came_out: tuple[CameOut, ...] = ()
    acted: tuple[Acted, ...] = ()
    answers: tuple[Answer, ...] = ()
    spent: tuple[StationTime, ...] = ()  # at each station, while it was in use
    id: str = ""  # tells this plan from all others, a copy under another name too; empty until it is first taken up
    copy_of: str = ""  # the id of the plan that this one was saved from under another name

    def __post_init__(self) -> None:
        known = {reference.id for reference in self.references}
        for study in self.studies:
            if study.ground != BLANK and study.ground not in known:
                raise PlanError(f"The study {study.name} uses a photo that is not in the plan.")
            if any(departure.source and departure.source not in known for departure in study.departures):
                raise PlanError(f"The study {study.name} borrows from a photo that is not in the plan.")
            if study.stage and any(each.source and each.source not in known for each in study.stage.things):
                raise PlanError(f"On the stage of {study.name} stands a cut-out of a photo that is not in the plan.")
        ids = [study.id for study in self.studies]
        drawn = {drawing.id for drawing in self.drawings}
        twice = len(known) != len(self.references) or len(drawn) != len(self.drawings)
        if len(set(ids)) != len(ids) or twice:
            raise PlanError("Two parts of the plan carry the same mark.")
        if ids and self.current_study not in ids:
            raise PlanError("The plan points to a study that is not in it.")

    @property
    def study(self) -> Study | None:
        """The study being worked on, or None while the plan has no photo."""
        return next((study for study in self.studies if study.id == self.current_study), None)

    @property
    def drawing(self) -> OwnDrawing | None:
        """The drawing that is checked: the chosen one, or the last; None while there is none."""
        last = self.drawings[-1] if self.drawings else None
        return next((each for each in self.drawings if each.id == self.current_drawing), last)

    def reference(self, reference_id: str) -> Reference:
        """The reference with this id."""
        return next(reference for reference in self.references if reference.id == reference_id)

    def ground(self, study: Study) -> Ground:
        """What a study stands on: its photo, or a blank sheet of the picture area's size."""
        if study.ground != BLANK:
            return self.reference(study.ground)
        width, height = self.paper.picture_width_mm, self.paper.picture_height_mm
        px_per_mm = BLANK_PX / max(width, height)
        return Ground(BLANK, "blank sheet", "", round(width * px_per_mm), max(1, round(height * px_per_mm)))

    def has_picture(self, study: Study) -> bool:
        """Whether there are values to be seen: a photo, or a stage with a light on it."""
        return self.ground(study).is_photo or (study.staged and study.perspective.light.kind != "none")

    def picture_of(self, study: Study) -> tuple[object, ...]:
        """All that a study's picture as taken depends on: the photo's bytes, or stage, eye and sheet."""
        ground = self.ground(study)
        return (ground.sha256,) if ground.is_photo else (study.stage, study.perspective, ground)

    def stored(self) -> dict[str, str]:
        """Every picture whose bytes belong to the plan: its SHA-256, and the name it is known by."""
        return {picture.sha256: picture.name for picture in (*self.references, *self.drawings)}
