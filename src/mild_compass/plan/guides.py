"""Guides of the perspective: figures, rows, boxes and the like, the light, the water, and a straightened lens.

Points are in pixels of the study's picture; heights, widths and depths are metres in the scene.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite
from typing import Literal, get_args

from mild_compass.plan.errors import PlanError, require_within

GuideKind = Literal["figure", "row", "rectangle", "division", "level line", "box", "circle", "arch", "floor"]
GUIDE_KINDS: tuple[GuideKind, ...] = get_args(GuideKind)
Thing = Literal["man", "woman", "child", "car", "door", "storey", "lamp post", "own"]
LightKind = Literal["none", "sun", "lamp"]
FocalSource = Literal["found", "photo", "hand"]

SIZE_M = (0.01, 200.0)
COUNT = (2, 60)
EYE_M = (0.05, 200.0)
LEAST_POINTS: dict[GuideKind, int] = {
    "figure": 1,
    "row": 2,
    "rectangle": 2,
    "division": 2,
    "level line": 2,
    "box": 1,
    "circle": 1,
    "arch": 1,
    "floor": 0,
}


@dataclass(frozen=True, slots=True)
class Guide:
    """One guide.

    figure: its foot; ``height_m``. row: feet of the first two posts, or of the first three when the horizon is not to
    be trusted, or the first and a direction with ``spacing_m`` between them (0: as given); ``count``, ``height_m``.
    rectangle: foot and top of an upright, carried to a third point; ``width_m``. division: two ends on the ground,
    parted into ``count``. level line: foot and top of an upright, carried to a third foot. box: nearest corner; width,
    depth, height, ``turn_deg`` off the picture plane, with a ``gable`` whose ridge is ``rise_m`` over the eaves, or
    none. circle and arch: middle (foot of the middle for an arch); ``width_m`` across, ``turn_deg``. floor: squares of
    ``width_m``, ``count`` each way.
    """

    id: str
    kind: GuideKind
    points: tuple[tuple[float, float], ...] = ()
    name: str = ""
    thing: Thing = "own"
    height_m: float = 1.75
    width_m: float = 1.0
    depth_m: float = 1.0
    count: int = 6
    turn_deg: float = 0.0
    gable: bool = False
    rise_m: float = 1.7
    spacing_m: float = 0.0
    shadow: bool = False
    reflected: bool = False
    shown: bool = True

    def __post_init__(self) -> None:
        if not all(isfinite(number) for point in self.points for number in point):
            raise PlanError("One of the points of this guide is not a number. Place it again.")
        if self.kind not in GUIDE_KINDS:
            raise PlanError(f"“{str(self.kind)[:40]}” is no guide that is known here.")
        if len(self.points) < LEAST_POINTS[self.kind]:
            raise PlanError("This guide needs another point; draw it a little longer.")
        if self.kind in ("row", "rectangle", "division", "level line") and self.points[0] == self.points[1]:
            raise PlanError("This guide has no size yet; draw it a little longer.")
        require_within("The height", self.height_m, *SIZE_M, "m")
        require_within("The width", self.width_m, *SIZE_M, "m")
        require_within("The depth", self.depth_m, *SIZE_M, "m")
        require_within("The rise of the roof", self.rise_m, *SIZE_M, "m")
        require_within("The distance between posts", self.spacing_m, 0.0, SIZE_M[1], "m")
        require_within("The number of parts", self.count, *COUNT, "")
        require_within("The turn", self.turn_deg, -180, 180, "degrees")


def guide_name(guide: Guide, number: int) -> str:
    """What it is called: by the artist, or by its kind and number."""
    return guide.name or f"{guide.kind} {number}"


@dataclass(frozen=True, slots=True)
class Light:
    """Where the light comes from: the sun by its azimuth (0 from behind the artist, 90 from the right, 180 from ahead)
    and altitude, or a lamp above a place on the ground."""

    kind: LightKind = "none"
    azimuth_deg: float = 60.0
    altitude_deg: float = 40.0
    foot: tuple[float, float] = (0.0, 0.0)
    height_m: float = 3.0

    def __post_init__(self) -> None:
        require_within("The direction of the sun", self.azimuth_deg, -360, 360, "degrees")
        require_within("The height of the sun", self.altitude_deg, 1, 89, "degrees")
        require_within("The height of the lamp", self.height_m, *SIZE_M, "m")
        if not all(map(isfinite, self.foot)):
            raise PlanError("The lamp needs a place; what was given is not a number.")


@dataclass(frozen=True, slots=True)
class Lens:
    """How the picture has been straightened: the bow taken out (Brown-Conrady k1) and a turn of the camera undone.

    ``turn`` is a rotation vector in radians about the camera's x (right), y (down) and z (forward).
    """

    k1: float = 0.0
    turn: tuple[float, float, float] = (0.0, 0.0, 0.0)
    focal_px: float = 1000.0

    def __post_init__(self) -> None:
        require_within("The bow of the lens", self.k1, -1, 1, "")
        require_within("The focal length", self.focal_px, 1, 1e7, "pixels")
        for angle in self.turn:
            require_within("The turn of the camera", angle, -1.2, 1.2, "radians")

    @property
    def plain(self) -> bool:
        """Whether nothing is changed."""
        return self.k1 == 0 and self.turn == (0.0, 0.0, 0.0)
