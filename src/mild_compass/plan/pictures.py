"""Pictures that a plan stands on: photos, blank sheets, photos of the drawing."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import isfinite
from typing import Literal

from mild_compass.plan.errors import PlanError, require_within

Standing = Literal["kept", "set aside"]
DrawingStage = Literal["block-in", "lines", "values", "finished"]
Point = tuple[float, float]
BLANK = ""  # the ground of a study on a blank sheet
LARGEST_PX = 1_000_000  # of a photo's side
BLANK_PX = 4000  # along the longer side of a blank sheet: marks keep their place when a larger sheet is taken


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
