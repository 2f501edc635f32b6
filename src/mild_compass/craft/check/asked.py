"""The model that a drawing is registered to: the plan's lines in pieces, and what else is known of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check.pieces import pieces_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from mild_compass.craft.check.checked import Point
    from mild_compass.craft.check.pieces import Pieces, PlanLine


@dataclass(frozen=True, slots=True)
class Asked:
    """What is looked for: the sheet (mm), its lines, its frame, what the artist has set by hand, what it is called."""

    width_mm: float
    height_mm: float
    lines: tuple[PlanLine, ...]
    frame: tuple[PlanLine, ...] = ()
    names: tuple[tuple[str, float, float, float], ...] = ()  # name, x, y, radius in mm
    paper: str = "this sheet"
    corners_px: tuple[Point, ...] = ()
    focal_35mm: float = 0.0
    pairs: tuple[tuple[Point, Point], ...] = ()  # of the plan (mm) and of the photo (px), clicked by hand
    refused: tuple[Point, ...] = ()  # places of the plan that are not compared


@dataclass(frozen=True, eq=False, slots=True)
class PlanSegments:
    """All lines of the plan in pieces, and the kind of each."""

    pieces: Pieces
    kind: NDArray[np.str_]

    @classmethod
    def of_lines(cls, lines: Sequence[PlanLine]) -> PlanSegments:
        """The pieces of all lines."""
        pieces = pieces_of(lines)
        return cls(pieces, np.array([line.layer for line in lines], np.str_)[pieces.line])

    @property
    def kinds(self) -> list[str]:
        """The kinds there are, in the plan's order."""
        return list(dict.fromkeys(self.kind.tolist()))

    def of(self, kinds: Sequence[str]) -> Pieces:
        """The pieces of some kinds."""
        return self.pieces.only(np.isin(self.kind, list(kinds)))
