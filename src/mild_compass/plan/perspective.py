"""What is traced and set of the perspective of a study."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import isfinite
from typing import Literal

from mild_compass.plan.errors import PlanError, require_within
from mild_compass.plan.guides import EYE_M, FocalSource, Guide, Lens, Light

SetKind = Literal["level", "upright", "free"]


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
