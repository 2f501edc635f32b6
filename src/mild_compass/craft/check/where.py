"""The local displacement field: where any place of the plan was drawn; measures, edges and strings as drawn."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check.whole import applied
from mild_compass.craft.perspective.string_check import StringCheck, string_checks
from mild_compass.craft.perspective.vanishing import ends
from mild_compass.craft.perspective.worked import homogeneous_on_sheet
from mild_compass.craft.sheet.measure import length_name, lengths_mm

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray

    from mild_compass.craft.check.checked import Checked, PlaceFound
    from mild_compass.craft.worked import Worked

    Array = NDArray[np.float64]

NEAR_MM, FADE_MM = 12.0, 4.0  # places so near a point tell of it; how fast they tell less
LOOSE_MM = 1.2  # how far what no line tells may be off
KNOWN_MM = 0.6  # known worse than that, a place is not told
ALONG_MM, SPANNED = 1.2, 0.5  # places so near an edge are on it; of its length they must span
TELLS_MM, TELLS_SIGMAS = 1.0, 3.0
LEAST_ON_EDGE = 3


@dataclass(frozen=True, slots=True)
class Drawn:
    """Where a place was drawn, in mm on the sheet, and its standard error in the worse direction."""

    x_mm: float
    y_mm: float
    sigma_mm: float


def where_drawn(checked: Checked, point_mm: ArrayLike) -> Drawn | None:
    """Where a place of the plan was drawn; None where the lines round it do not tell in both directions."""
    point = np.asarray(point_mm, np.float64)
    near = _near(checked, point)
    if checked.matrix is None or not near:
        return None
    at = applied(checked.matrix, point)
    system, right = np.eye(2) / LOOSE_MM**2, np.zeros(2)
    for place in near:
        far = float(np.hypot(*np.subtract(place.plan_mm, point)))
        # A place some way off tells less: what lies between may have been drawn otherwise.
        sigma = np.hypot(place.sigma_mm, 0.02 * far)
        weight = float(np.exp(-((far / FADE_MM) ** 2) / 2)) / sigma**2
        rows = np.eye(2) if place.normal is None else np.outer(place.normal, place.normal)
        system += weight * rows
        right += weight * rows @ np.array(place.rest_mm)
    rest = np.linalg.solve(system, right)
    sigma = float(np.sqrt(np.linalg.eigvalsh(np.linalg.inv(system))[-1]))
    return Drawn(float(at[0] + rest[0]), float(at[1] + rest[1]), sigma) if sigma < KNOWN_MM else None


def _near(checked: Checked, point: Array) -> list[PlaceFound]:
    near = [place for place in checked.places if np.hypot(*np.subtract(place.plan_mm, point)) < NEAR_MM]
    if not near:
        return []
    # Only of one part: at its border places of both would be mixed.
    nearest = min(near, key=lambda place: float(np.hypot(*np.subtract(place.plan_mm, point))))
    return [place for place in near if place.part == nearest.part]


@dataclass(frozen=True, slots=True)
class DrawnLength:
    """A measured length as planned and as drawn, mm; the drawn one is None where the drawing does not tell."""

    name: str
    planned_mm: float
    drawn_mm: float | None
    sigma_mm: float = 0.0

    @property
    def off_percent(self) -> float:
        """How much too long it is drawn, in percent."""
        return 100 * (self.drawn_mm / self.planned_mm - 1) if self.drawn_mm and self.planned_mm else 0.0

    @property
    def is_off(self) -> bool:
        """Whether it is off beyond doubt."""
        off = abs((self.drawn_mm or self.planned_mm) - self.planned_mm)
        return self.drawn_mm is not None and off > max(TELLS_MM, TELLS_SIGMAS * self.sigma_mm)


def drawn_lengths(checked: Checked, worked: Worked) -> list[DrawnLength]:
    """Every measured length of the study as it was drawn."""
    found = []
    plan = worked.study.measures
    for number, ((a, b), each) in enumerate(zip(lengths_mm(plan, worked.frame_map), plan.lengths, strict=True)):
        planned = float(np.hypot(*(b - a)))
        one, other = where_drawn(checked, a), where_drawn(checked, b)
        name = length_name(each.name, number)
        if one is None or other is None:
            found.append(DrawnLength(name, planned, None))
        else:
            length = float(np.hypot(other.x_mm - one.x_mm, other.y_mm - one.y_mm))
            found.append(DrawnLength(name, planned, length, float(np.hypot(one.sigma_mm, other.sigma_mm))))
    return found


@dataclass(frozen=True, slots=True)
class DrawnString:
    """A drawn edge against the string to its point: what to do with its end, and where the end is (mm)."""

    letter: str
    name: str
    check: StringCheck
    sigma_mm: float
    from_mm: tuple[float, float]
    to_mm: tuple[float, float]

    @property
    def is_off(self) -> bool:
        """Whether it is off beyond doubt."""
        return abs(self.check.off_mm) > max(TELLS_MM, TELLS_SIGMAS * self.sigma_mm)


def drawn_strings(checked: Checked, worked: Worked) -> list[DrawnString]:
    """Traced edges as they were drawn against their points, the worst first.

    The points are where the whole drawing has them: a drawing that is shifted as a whole has its pins shifted too.
    """
    if checked.matrix is None:
        return []
    found = []
    places = [place for place in checked.places if place.normal is not None]
    for group in worked.study.perspective.sets:
        point = worked.perspective.point(group.letter)
        if point is None or not group.edges:
            continue
        x, y, w = homogeneous_on_sheet(point, worked.frame_map)
        matrix = np.vstack([checked.matrix, [0, 0, 1]])
        target = matrix @ np.array([x, y, w])
        segments = worked.frame_map.to_sheet(ends(group.edges).reshape(-1, 2)).reshape(-1, 2, 2)
        for number, segment in enumerate(segments, 1):
            drawn = _edge_drawn(segment, places)
            if drawn is not None:
                a, b, sigma = drawn
                least = min(string_checks(a, b, target), key=lambda check: abs(check.off_mm))  # the least to do
                found.append(
                    DrawnString(
                        group.letter, f"edge {number} of {group.letter}", least, sigma, (a[0], a[1]), (b[0], b[1])
                    )
                )
    return sorted(found, key=lambda each: -abs(each.check.off_mm))


def _edge_drawn(segment: Array, places: list[PlaceFound]) -> tuple[Array, Array, float] | None:
    """The ends of a planned edge as drawn, from the places found along it, and the error of its ends."""
    a, b = segment
    length = float(np.hypot(*(b - a)))
    if length < 5 or not places:
        return None
    along = (b - a) / length
    across = np.array([-along[1], along[0]])
    plan = np.array([place.plan_mm for place in places])
    way, off = (plan - a) @ along, (plan - a) @ across
    normals = np.array([place.normal for place in places])
    mine = (abs(off) < ALONG_MM) & (way > -1) & (way < length + 1) & (abs(normals @ across) > 0.97)
    if mine.sum() < LEAST_ON_EDGE or np.ptp(way[mine]) < SPANNED * length:
        return None
    # Where each place was drawn, less how far the place itself lies beside the traced edge.
    drawn = np.array([place.drawn_mm for place in places])[mine] - off[mine, None] * across
    middle = way[mine].mean()
    rows = np.stack([np.ones(mine.sum()), way[mine] - middle], 1)
    target = (drawn - a) @ across
    (offset, slope), *_ = np.linalg.lstsq(rows, target, rcond=None)
    rest = target - rows @ [offset, slope]
    spread = max(0.08, float(np.sqrt((rest**2).sum() / max(mine.sum() - 2, 1))))
    reach = max(middle, length - middle)
    sigma = spread * np.sqrt(1 / mine.sum() + reach**2 / max(((way[mine] - middle) ** 2).sum(), 1e-9))
    shift = ((drawn - a) @ along - way[mine]).mean() * along
    ends_drawn = [point + shift + across * (offset + slope * (at - middle)) for point, at in ((a, 0.0), (b, length))]
    return ends_drawn[0], ends_drawn[1], float(sigma)
