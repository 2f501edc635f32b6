"""A viewfinder card to cut: an opening of the sheet's own proportion, and what it sees at arm's length."""

from __future__ import annotations

from dataclasses import dataclass
from math import atan, degrees, radians, tan
from typing import TYPE_CHECKING

from mild_compass.plan.errors import PlanError, require_within

if TYPE_CHECKING:
    from mild_compass.plan.paper import Paper

RIM_MM = 24.0  # of card round the opening: it must be held, and hide what is beside
PAGE_ROOM_MM = (180.0, 235.0)  # for the card on a page of A4 or Letter
OPENING_MM = (20.0, 160.0)
DISTANCE_MM = (80.0, 800.0)
USUAL_LONG_MM, USUAL_DISTANCE_MM = 90.0, 400.0


@dataclass(frozen=True, slots=True)
class ViewfinderCard:
    """The opening in mm, how far from the eye it is held, and notches: (x, y) on its rim, with what each is for."""

    width_mm: float
    height_mm: float
    distance_mm: float
    notches: tuple[tuple[float, float, str], ...]

    @property
    def view_deg(self) -> float:
        """How wide a view it sees where it is held: the angle its longer side spans."""
        return view_deg(max(self.width_mm, self.height_mm), self.distance_mm)

    def distance_for(self, angle_deg: float) -> float:
        """How far from the eye it sees a view of this angle along its longer side, in mm."""
        return max(self.width_mm, self.height_mm) / (2 * tan(radians(angle_deg) / 2))


def view_deg(side_mm: float, distance_mm: float) -> float:
    """The angle that a side spans at a distance: 2 atan(side / 2 / distance)."""
    return degrees(2 * atan(side_mm / 2 / distance_mm))


def viewfinder_card(
    paper: Paper, longest_mm: float = USUAL_LONG_MM, distance_mm: float = USUAL_DISTANCE_MM
) -> ViewfinderCard:
    """A card for a sheet; the opening's longer side is so long.

    Raises:
        PlanError: the opening is too small or too large to be cut, or does not fit a page.
    """
    require_within("The opening of the card", longest_mm, *OPENING_MM, "mm")
    require_within("The distance of the card from the eye", distance_mm, *DISTANCE_MM, "mm")
    ratio = paper.ratio
    width, height = (longest_mm, longest_mm / ratio) if ratio >= 1 else (longest_mm * ratio, longest_mm)
    if min(width, height) < OPENING_MM[0] / 2:
        raise PlanError("The picture is so long and narrow that no card can be cut for it. Make the opening larger.")
    across = sorted((width, height)), sorted(PAGE_ROOM_MM)
    if any(side + 2 * RIM_MM > room for side, room in zip(*across, strict=True)):
        raise PlanError("A card with this opening does not fit on a page. Make the opening smaller.")
    return ViewfinderCard(width, height, distance_mm, _notches(width, height))


def _notches(width: float, height: float) -> tuple[tuple[float, float, str], ...]:
    """Where threads lie: halves and thirds on all four sides, the diagonals in the corners."""
    found: list[tuple[float, float, str]] = []
    for share, name in ((1 / 2, "half"), (1 / 3, "third"), (2 / 3, "third")):
        found += [(share * width, 0.0, name), (share * width, height, name)]
        found += [(0.0, share * height, name), (width, share * height, name)]
    corners = ((0.0, 0.0), (width, 0.0), (0.0, height), (width, height))
    return (*found, *((x, y, "diagonal") for x, y in corners))
