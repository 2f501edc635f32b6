"""What goes onto the sheet: layers, grid and pages; what is measured; simple shapes; a motif that repeats.

Measures and shapes belong to the picture and are in pixels of the study's photo; a motif is one tracing of a fixed
size, so its outline and its places are in mm on the sheet.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite
from typing import TYPE_CHECKING, Literal, get_args

from mild_compass.plan.errors import PlanError, require_within

if TYPE_CHECKING:
    from collections.abc import Iterable

Pages = Literal["usual", "one page", "A5", "A4", "Letter", "Legal", "A3", "Tabloid"]
SheetLayer = Literal[
    "picture",
    "frame",
    "margins",
    "grid",
    "masses",
    "edges",
    "planes",
    "lines",
    "armature",
    "horizon",
    "pins",
    "ticks",
    "guides",
    "stage",
    "stage behind",
    "stage construction",
    "stage shadows",
    "big lines",
    "shapes",
    "departures",
    "motif",
    "datum",
    "measures",
]
SHEET_LAYERS: tuple[SheetLayer, ...] = get_args(SheetLayer)
# Where there is no picture; those of the stage come with the first thing on it.
BLANK_LAYERS: tuple[SheetLayer, ...] = ("frame", "horizon", "guides", "pins", "ticks")
Inks = Literal["coloured", "grey"]
DatumKind = Literal["upright", "level"]
ShapeKind = Literal["oval", "box", "triangle", "line", "figure", "head"]
SHAPE_KINDS: tuple[ShapeKind, ...] = get_args(ShapeKind)
Method = Literal["squared grid", "transfer paper", "graphite tracing", "light table", "freehand"]
METHODS: tuple[Method, ...] = get_args(Method)
Spot = tuple[float, float]

GRID_MM = (5.0, 500.0)
GRID_COUNT = (0, 200)
OVERLAP_MM = (0.0, 200.0)
PNG_DPI = (30.0, 1200.0)
PHOTO_PRINT_MM = (40.0, 1500.0)
TOLERANCE_MM = (0.1, 20.0)
MOST_MEASURES = 200
MOST_PLACES = 60


def _finite(numbers: Iterable[float], what: str) -> None:
    if not all(map(isfinite, numbers)):
        raise PlanError(f"One of the points of {what} is not a number. Set it again.")


@dataclass(frozen=True, slots=True)
class SheetPlan:
    """What is printed, and how.

    ``pages`` are those that lie in the printer: the usual ones of the desk the plan is on, or named. The squared grid
    is by size, or with ``grid_count`` by the number of squares across. ``staying`` are the layers whose lines are not
    lifted at the end. ``photo_print_mm`` is the width of the photo print that carries the same grid, ``png_dpi`` the
    dots per inch of a PNG and OpenRaster. ``trace_amount`` (0-100) says how many lines are drawn from the photo.
    """

    layers: tuple[SheetLayer, ...] = ("picture", "frame", "grid")
    grid_mm: float = 25.0
    grid_count: int = 0
    grid_diagonals: bool = False
    labels: bool = True
    pages: Pages = "usual"
    overlap_mm: float = 15.0
    mirrored: bool = False
    inks: Inks = "coloured"
    staying: tuple[SheetLayer, ...] = ("masses", "lines", "big lines", "departures", "motif")
    photo_print_mm: float = 180.0
    trace_amount: float = 95.0
    png_dpi: float = 150.0
    method: Method = "transfer paper"

    def __post_init__(self) -> None:
        require_within("The squares of the grid", self.grid_mm, *GRID_MM, "mm")
        require_within("The number of squares", self.grid_count, *GRID_COUNT, "")
        require_within("The overlap of the pages", self.overlap_mm, *OVERLAP_MM, "mm")
        require_within("The width of the photo print", self.photo_print_mm, *PHOTO_PRINT_MM, "mm")
        require_within("Dots per inch", self.png_dpi, *PNG_DPI, "dpi")
        require_within("The amount of lines", self.trace_amount, 0, 100, "")


@dataclass(frozen=True, slots=True)
class Datum:
    """An upright or level line through a place, from which others are measured."""

    kind: DatumKind
    x_px: float
    y_px: float
    name: str = ""

    def __post_init__(self) -> None:
        _finite((self.x_px, self.y_px), "this datum")


@dataclass(frozen=True, slots=True)
class MeasuredPoint:
    """A place that is measured from the datum lines."""

    x_px: float
    y_px: float
    name: str = ""

    def __post_init__(self) -> None:
        _finite((self.x_px, self.y_px), "this place")


@dataclass(frozen=True, slots=True)
class MeasuredLength:
    """From one place to another: a length, a ratio and an angle."""

    x0_px: float
    y0_px: float
    x1_px: float
    y1_px: float
    name: str = ""

    def __post_init__(self) -> None:
        _finite((self.x0_px, self.y0_px, self.x1_px, self.y1_px), "this length")
        if (self.x0_px, self.y0_px) == (self.x1_px, self.y1_px):
            raise PlanError("A length needs two different ends; drag a little further.")


@dataclass(frozen=True, slots=True)
class NegativeShape:
    """The outline of an empty shape between things."""

    points: tuple[Spot, ...]
    name: str = ""

    def __post_init__(self) -> None:
        _finite((number for point in self.points for number in point), "this shape")
        if len(set(self.points)) < 3:
            raise PlanError("A shape between things needs some size; draw it a little larger.")


@dataclass(frozen=True, slots=True)
class Symmetry:
    """A thing that should be the same on both sides: its axis from end to end, and its outline as it is seen."""

    axis: tuple[Spot, Spot]
    outline: tuple[Spot, ...] = ()

    def __post_init__(self) -> None:
        _finite((number for point in (*self.axis, *self.outline) for number in point), "this axis")
        if self.axis[0] == self.axis[1]:
            raise PlanError("An axis needs two different ends; drag a little further.")
        if self.outline and len(set(self.outline)) < 3:
            raise PlanError("The outline needs some size; draw it a little larger.")


@dataclass(frozen=True, slots=True)
class MeasurePlan:
    """All that is measured; ``unit`` counts the lengths from 1, 0 where none is the unit of comparison."""

    datums: tuple[Datum, ...] = ()
    points: tuple[MeasuredPoint, ...] = ()
    lengths: tuple[MeasuredLength, ...] = ()
    unit: int = 0
    negatives: tuple[NegativeShape, ...] = ()
    symmetry: Symmetry | None = None
    tolerance_mm: float = 1.5

    def __post_init__(self) -> None:
        require_within("What still counts as level or plumb", self.tolerance_mm, *TOLERANCE_MM, "mm")
        require_within("The unit of comparison", self.unit, 0, len(self.lengths), "")
        if max(len(self.points), len(self.lengths), len(self.negatives), len(self.datums)) > MOST_MEASURES:
            raise PlanError(f"More than {MOST_MEASURES} measures of one kind are too many. Remove some first.")


@dataclass(frozen=True, slots=True)
class BlockShape:
    """A simple shape laid over the picture for the first block-in, or a proportion guide.

    Its middle, half its width and height and its turn (clockwise) are in photo pixels and degrees. A line lies along
    its width and has no height. ``heads`` divides a figure.
    """

    kind: ShapeKind
    x_px: float
    y_px: float
    half_width_px: float
    half_height_px: float = 0.0
    turn_deg: float = 0.0
    heads: float = 8.0
    stays: bool = False
    name: str = ""

    def __post_init__(self) -> None:
        _finite((self.x_px, self.y_px), "this shape")
        require_within("Half the width of this shape", self.half_width_px, 1e-3, 1e6, "pixels")
        require_within("Half the height of this shape", self.half_height_px, 0, 1e6, "pixels")
        if self.kind != "line" and self.half_height_px < 1e-3:
            raise PlanError("This shape has no height yet; draw it a little larger.")
        require_within("The turn of this shape", self.turn_deg, -360, 360, "degrees")
        require_within("The height in heads", self.heads, 2, 12, "heads")


@dataclass(frozen=True, slots=True)
class MotifPlace:
    """Where the middle of the motif comes to lie on the sheet, turned clockwise, and whether it is turned over."""

    x_mm: float
    y_mm: float
    turn_deg: float = 0.0
    flipped: bool = False

    def __post_init__(self) -> None:
        _finite((self.x_mm, self.y_mm), "this place")
        require_within("The turn of the motif", self.turn_deg, -360, 360, "degrees")


@dataclass(frozen=True, slots=True)
class Motif:
    """One tracing, placed several times: its outline in mm round its own middle, the places from back to front."""

    outline_mm: tuple[Spot, ...]
    places: tuple[MotifPlace, ...] = ()
    name: str = "motif"
    copies_per_load: int = 3

    def __post_init__(self) -> None:
        _finite((number for point in self.outline_mm for number in point), "the motif")
        if len(set(self.outline_mm)) < 3:
            raise PlanError("The motif needs some size; draw its outline a little larger.")
        if len(self.places) > MOST_PLACES:
            raise PlanError(f"A motif can be placed {MOST_PLACES} times at most.")
        require_within("The transfers a side gives", self.copies_per_load, 1, 50, "")
