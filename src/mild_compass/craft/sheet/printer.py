"""The printer's own error: what its 100 mm bar measures on paper, and by how much the next print is scaled."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from mild_compass.plan.errors import require_within

if TYPE_CHECKING:
    from mild_compass.craft.sheet_sizes.lengths import Unit

UsualPage = Literal["A4", "Letter"]
BAR_MM = 100.0  # long enough to be read to half a percent with a ruler
MEASURED_MM = (90.0, 110.0)  # beyond ten percent it is another scale, not a printer's error


@dataclass(frozen=True, slots=True)
class Printer:
    """What the bars of the last uncorrected print measured, across and down, in mm."""

    across_mm: float = BAR_MM
    down_mm: float = BAR_MM

    def __post_init__(self) -> None:
        for measured in (self.across_mm, self.down_mm):
            require_within("What the 100 mm bar measures", measured, *MEASURED_MM, "mm")

    @property
    def across(self) -> float:
        """By how much the print is scaled across: 100 / measured."""
        return BAR_MM / self.across_mm

    @property
    def down(self) -> float:
        """By how much the print is scaled down the page."""
        return BAR_MM / self.down_mm


TRUE_PRINTER = Printer()


@dataclass(frozen=True, slots=True)
class OutputSettings:
    """What belongs to this desk and not to a plan: the printer's error, the unit of length, the usual page."""

    printer: Printer = TRUE_PRINTER
    unit: Unit = "mm"
    page: UsualPage = "A4"


USUAL_OUTPUT = OutputSettings()
