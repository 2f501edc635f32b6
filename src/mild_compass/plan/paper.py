"""The sheet: its size, margin and how it lies."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mild_compass.plan.errors import PlanError, require_within

Lay = Literal["as the photo", "by hand"]
SIDE_MM = (20.0, 3000.0)


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
