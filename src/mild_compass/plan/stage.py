"""The stage: a small model of a scene in metres, set down on a ground plan and seen by the artist's own eye.

On the ground plan x runs to the right and y away from where the artist first stands. A thing's own front is the side
towards smaller y while it is not turned. Sizes of the kinds are common practice, no published source.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite
from typing import Literal, get_args

from mild_compass.plan.errors import PlanError, require_within

ThingKind = Literal[
    "block",
    "house",
    "wall",
    "fence",
    "hedge",
    "road",
    "pavement",
    "steps",
    "tree",
    "post",
    "lamp",
    "standing figure",
    "sitting figure",
    "car",
    "cart",
    "cylinder",
    "cup",
    "bottle",
    "bowl",
    "ball",
    "half ball",
    "water",
    "cut-out",
]
THING_KINDS: tuple[ThingKind, ...] = get_args(ThingKind)
Roof = Literal["gable", "hip", "lean-to", "flat"]
ROOFS: tuple[Roof, ...] = get_args(Roof)
WallSide = Literal["front", "right", "back", "left"]
OpeningKind = Literal["door", "window"]

SIDE_M = (0.01, 1000.0)
PLACE_M = 10_000.0
ROW = (1, 200)  # of one thing; ten thousand fence posts are a fence
MOST_THINGS = 400
MOST_SOLIDS = 1500  # with the things of all rows
MOST_OPENINGS = 60
MOST_CROWNS = 5
MOST_SCREENS = 40
MOST_OUTLINE = 2000  # points of one outline
VIEW_DEG = (10.0, 110.0)


@dataclass(frozen=True, slots=True)
class KindOfThing:
    """One row: its words, its usual width, depth and height in metres, its own value in L*, and what else is asked.

    Whatever treats some kinds otherwise asks a column here; no list of kinds stands anywhere else.
    """

    name: ThingKind
    width_m: float
    depth_m: float
    height_m: float
    tone: float = 75.0
    round: bool = False  # width and depth are one
    flat: bool = False  # lies on the ground and has no height of its own
    square: bool = False  # level edges that run to two points
    rimmed: bool = False  # its top is seen as an ellipse
    stretches: bool = False  # drawn too wide at the edge of the view, it looks wrong
    laid: bool = False  # drawn with the ground, before what stands on it
    tall: bool = False  # makes the line of the tops
    head_up: bool = False  # its eyes are as high as those of whoever stands beside it
    mirrors: bool = False  # what stands beyond it is seen in it upside down
    pictured: bool = False  # a piece of a photo, always facing the eye
    roofed: bool = False
    parted: bool = False  # steps, rails or joints: ``parts`` counts
    parts: int = 1
    many: int = 1  # how many are set down at once
    gap_m: float = 0.0


ROWS: tuple[KindOfThing, ...] = (
    KindOfThing("block", 2.0, 2.0, 2.0, square=True, tall=True),
    KindOfThing("house", 6.0, 8.0, 3.0, 78.0, square=True, roofed=True, tall=True),
    KindOfThing("wall", 6.0, 0.3, 1.2, 70.0, square=True, tall=True),
    KindOfThing("fence", 8.0, 0.08, 1.1, 60.0, square=True, parted=True, parts=5),
    KindOfThing("hedge", 6.0, 0.8, 1.4, 40.0, square=True),
    KindOfThing("road", 5.0, 60.0, 0.0, 55.0, flat=True, laid=True),
    KindOfThing("pavement", 1.8, 60.0, 0.12, 68.0, square=True, laid=True, parted=True, parts=30),
    KindOfThing("steps", 2.0, 1.5, 0.85, 72.0, square=True, parted=True, parts=5),
    KindOfThing("tree", 4.0, 4.0, 7.0, 42.0, round=True, stretches=True, tall=True, parted=True),
    KindOfThing("post", 0.16, 0.16, 1.2, 50.0, round=True),
    KindOfThing("lamp", 0.3, 0.3, 4.5, 45.0, round=True, stretches=True, many=5, gap_m=8.0),
    KindOfThing("standing figure", 0.5, 0.3, 1.7, 50.0, head_up=True),
    KindOfThing("sitting figure", 0.5, 0.6, 1.3, 50.0),
    KindOfThing("car", 1.8, 4.4, 1.45, 45.0, square=True),
    KindOfThing("cart", 1.2, 1.9, 1.0, 55.0, square=True),
    KindOfThing("cylinder", 1.0, 1.0, 1.0, round=True, rimmed=True, stretches=True),
    KindOfThing("cup", 0.085, 0.085, 0.095, 88.0, round=True, rimmed=True, stretches=True),
    KindOfThing("bottle", 0.075, 0.075, 0.3, 35.0, round=True, rimmed=True, stretches=True),
    KindOfThing("bowl", 0.22, 0.22, 0.09, 80.0, round=True, rimmed=True, stretches=True),
    KindOfThing("ball", 0.4, 0.4, 0.4, round=True, stretches=True),
    KindOfThing("half ball", 3.0, 3.0, 1.5, round=True, stretches=True),
    KindOfThing("water", 12.0, 8.0, 0.0, 60.0, flat=True, laid=True, mirrors=True),
    KindOfThing("cut-out", 1.0, 0.02, 1.7, 60.0, pictured=True),
)
_BY_NAME = {row.name: row for row in ROWS}


def row_of(kind: ThingKind) -> KindOfThing:
    """The row of a kind.

    Raises:
        PlanError: the kind is not known.
    """
    if kind not in _BY_NAME:
        raise PlanError(f"“{str(kind)[:40]}” is no thing that is known here.")
    return _BY_NAME[kind]


@dataclass(frozen=True, slots=True)
class Opening:
    """A door or window as a rectangle on a wall: from the wall's left end as seen from outside, and from its foot."""

    side: WallSide
    left_m: float
    bottom_m: float
    width_m: float
    height_m: float
    kind: OpeningKind = "window"

    def __post_init__(self) -> None:
        require_within("The place of the opening", self.left_m, 0, SIDE_M[1], "m")
        require_within("The height of the sill", self.bottom_m, 0, SIDE_M[1], "m")
        require_within("The width of the opening", self.width_m, *SIDE_M, "m")
        require_within("The height of the opening", self.height_m, *SIDE_M, "m")


@dataclass(frozen=True, slots=True)
class Thing:
    """One thing, or a row of equal ones.

    (``x_m``, ``y_m``) is the middle of the first one's foot, ``turn_deg`` how far it is turned clockwise on the plan,
    ``base_m`` how high above the ground it stands. ``height_m`` is to the eaves of a house and to the top of anything
    else. A row has ``count`` of them, ``gap_m`` from one to the next, in the direction ``row_deg`` (0: to the right
    as the thing lies). ``parts`` counts steps, joints, posts of a fence or the ovals of a crown; ``tone`` is its own
    value in L*. A cut-out is the part of the reference ``source`` within ``points``, in pixels of that photo; with
    ``clear_paper`` it is a sketch of which only the marks count, and what lies behind its paper is seen.
    """

    id: str
    kind: ThingKind
    x_m: float
    y_m: float
    width_m: float
    depth_m: float
    height_m: float
    name: str = ""
    turn_deg: float = 0.0
    base_m: float = 0.0
    roof: Roof = "gable"
    pitch_deg: float = 40.0
    porch_m: float = 0.0
    openings: tuple[Opening, ...] = ()
    count: int = 1
    gap_m: float = 0.0
    row_deg: float = 0.0
    parts: int = 1
    tone: float = 75.0
    source: str = ""
    points: tuple[tuple[float, float], ...] = ()
    clear_paper: bool = False

    def __post_init__(self) -> None:
        for what, value in (("place", self.x_m), ("place", self.y_m), ("height above the ground", self.base_m)):
            require_within(f"The {what} of {self.words}", value, -PLACE_M, PLACE_M, "m")
        for what, value in (("width", self.width_m), ("depth", self.depth_m)):
            require_within(f"The {what} of {self.words}", value, *SIDE_M, "m")
        least = 0.0 if row_of(self.kind).flat else SIDE_M[0]
        require_within(f"The height of {self.words}", self.height_m, least, SIDE_M[1], "m")
        for angle in (self.turn_deg, self.row_deg):
            require_within("The turn", angle, -360, 360, "degrees")
        require_within("The pitch of the roof", self.pitch_deg, 5, 75, "degrees")
        require_within("The porch", self.porch_m, 0, 50, "m")
        require_within("The number in the row", self.count, *ROW, "")
        require_within("The distance in the row", self.gap_m, 0, SIDE_M[1], "m")
        require_within("The number of parts", self.parts, 1, ROW[1], "")
        require_within("Its own value", self.tone, 0, 100, "L*")
        if len(self.openings) > MOST_OPENINGS:
            raise PlanError(f"{MOST_OPENINGS} doors and windows are the most for one house.")
        if not all(isfinite(number) for point in self.points for number in point):
            raise PlanError("One of the points of the cut-out is not a number. Draw it again.")
        for word, known in ((self.roof, ROOFS), *((each.side, get_args(WallSide)) for each in self.openings)):
            if word not in known:
                raise PlanError(f"“{str(word)[:40]}” is no part of a house that is known here.")
        if row_of(self.kind).pictured and (not self.source or len(set(self.points)) < 3):
            raise PlanError("A cut-out needs a photo and an outline round the thing in it. Draw round it once more.")

    @property
    def words(self) -> str:
        """What it is called: by the artist, or by its kind."""
        return self.name or f"the {self.kind}"


def new_thing(kind: ThingKind, key: str, x_m: float, y_m: float, **changes: object) -> Thing:
    """A thing of the usual size of its kind."""
    row = row_of(kind)
    usual: dict[str, object] = {
        "width_m": row.width_m,
        "depth_m": row.depth_m,
        "height_m": row.height_m,
        "tone": row.tone,
        "parts": row.parts,
        "count": row.many,
        "gap_m": row.gap_m,
    }
    return Thing(key, kind, x_m, y_m, **{**usual, **changes})  # type: ignore[arg-type]


@dataclass(frozen=True, slots=True)
class Screen:
    """Something in the picture itself that stands before what is further away: its outline in pixels of the study's
    picture, and how far off it stands, straight ahead."""

    id: str
    points: tuple[tuple[float, float], ...]
    away_m: float
    name: str = ""

    def __post_init__(self) -> None:
        if not all(isfinite(number) for point in self.points for number in point):
            raise PlanError("One of the points of the outline is not a number. Draw it again.")
        if len(set(self.points)) < 3:
            raise PlanError("An outline needs three points at least. Draw it a little larger.")
        if len(self.points) > MOST_OUTLINE:
            raise PlanError(f"{MOST_OUTLINE} points are the most for one outline. Draw it in two.")
        require_within("How far away it stands", self.away_m, *SIDE_M, "m")


@dataclass(frozen=True, slots=True)
class Stage:
    """The things, and where on the plan the artist stands: place and heading, clockwise off straight ahead (+y).

    The height of the eye, the width of view and the light are those of the study's perspective; the light's azimuth
    is told from the artist, so that standing elsewhere changes it.
    """

    things: tuple[Thing, ...] = ()
    eye_x_m: float = 0.0
    eye_y_m: float = 0.0
    heading_deg: float = 0.0
    ground_tone: float = 82.0
    sky_tone: float = 95.0
    screens: tuple[Screen, ...] = ()

    def __post_init__(self) -> None:
        require_within("The place of the eye", self.eye_x_m, -PLACE_M, PLACE_M, "m")
        require_within("The place of the eye", self.eye_y_m, -PLACE_M, PLACE_M, "m")
        require_within("The heading", self.heading_deg, -360, 360, "degrees")
        require_within("The value of the ground", self.ground_tone, 0, 100, "L*")
        require_within("The value of the sky", self.sky_tone, 0, 100, "L*")
        ids = [thing.id for thing in self.things]
        if len(set(ids)) != len(ids):
            raise PlanError("Two things on the stage carry the same mark.")
        if len({screen.id for screen in self.screens}) != len(self.screens):
            raise PlanError("Two outlines before the stage carry the same mark.")
        if len(self.screens) > MOST_SCREENS:
            raise PlanError(f"{MOST_SCREENS} outlines are the most for one stage. Take some away first.")
        if len(ids) > MOST_THINGS:
            raise PlanError(f"{MOST_THINGS} things are the most for one stage. Take some away first.")
        solids = sum(thing.count for thing in self.things)
        if solids > MOST_SOLIDS:
            raise PlanError(
                f"With all rows there would be {solids} things; {MOST_SOLIDS} are the most. "
                "Make a row shorter, or set down a fence instead of single posts."
            )

    def thing(self, key: str) -> Thing:
        """The thing of this mark, or a PlanError.

        Raises:
            PlanError: there is none.
        """
        found = next((each for each in self.things if each.id == key), None)
        if found is None:
            raise PlanError("That thing is not on the stage any more.")
        return found
