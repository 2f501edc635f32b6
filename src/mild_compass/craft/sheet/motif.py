"""One tracing placed several times: what is hidden, how the space is parted, how often the tracing is reloaded."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, radians, sin
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.memo import Memo
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.lines import Box
    from mild_compass.plan.sheet import Motif, MotifPlace

    Array = NDArray[np.float64]

_REPEATS: Memo[Repeats] = Memo(4)
LEAST_MM2 = 4.0  # a smaller tracing cannot be cut or drawn round
TOUCH_MM = 1.0  # an outline that near to the picture's edge touches it


@dataclass(frozen=True, slots=True)
class Transfer:
    """One laying down of the tracing: which place, which side of the tracing, and whether to load it before."""

    place: int
    side: str
    reload: bool


@dataclass(frozen=True, eq=False, slots=True)
class Repeats:
    """What the places come to.

    ``shapes`` are the parts seen of each place (shapely, mm on the sheet, back to front), ``lines`` its visible
    outline. ``positive`` is the share of the picture they cover; ``lower`` is the share of their area in the lower
    half. ``contacts`` are where they meet the picture's edges, one point an edge at most, and ``triangle`` the share
    of the picture between the first three.
    """

    shapes: tuple[shapely.Geometry, ...]
    lines: tuple[tuple[Array, ...], ...]
    transfers: tuple[Transfer, ...]
    positive: float
    lower: float
    hidden: tuple[float, ...]
    contacts: tuple[tuple[str, float, float], ...]
    triangle: float

    @property
    def sides(self) -> dict[str, int]:
        """Transfers per side of the tracing."""
        return {side: sum(each.side == side for each in self.transfers) for side in ("front", "back")}

    @property
    def reloads(self) -> int:
        """How often a side is loaded again after the first time."""
        return sum(each.reload for each in self.transfers)


def placed_outline(motif: Motif, place: MotifPlace) -> Array:
    """The motif's closed outline (n, 2) on the sheet: turned over first where it is flipped, then turned."""
    points = np.array(motif.outline_mm, np.float64)
    if place.flipped:
        points = points * (-1.0, 1.0)
    angle = radians(place.turn_deg)
    points = points @ np.array([[cos(angle), sin(angle)], [-sin(angle), cos(angle)]]) + (place.x_mm, place.y_mm)
    return np.asarray(np.concatenate([points, points[:1]]))


def centred(points_mm: Array) -> tuple[tuple[tuple[float, float], ...], tuple[float, float]]:
    """An outline round its own middle, and where that middle lay; a PlanError where it goes round nothing.

    Raises:
        PlanError: the outline goes round nothing.
    """
    shape = shapely.make_valid(shapely.Polygon(points_mm)) if len(points_mm) > 2 else shapely.Polygon()
    if shape.area < LEAST_MM2:
        raise PlanError("The tracing goes round nothing yet. Draw round a thing, not along a line.")
    x, y = shape.centroid.x, shape.centroid.y
    return tuple((round(a - x, 2), round(b - y, 2)) for a, b in points_mm.tolist()), (x, y)


def repeats(motif: Motif, box: Box) -> Repeats:
    """What a motif's places come to inside a picture area; kept while the motif stays as it is."""
    return _REPEATS.of(motif, box, lambda: _repeats(motif, box))


def _repeats(motif: Motif, box: Box) -> Repeats:
    whole = np.array(
        [shapely.make_valid(shapely.Polygon(placed_outline(motif, place))) for place in motif.places], object
    )
    picture = shapely.box(*box)
    inside = shapely.intersection(whole, picture)
    seen: list[shapely.Geometry] = []
    lines: list[tuple[Array, ...]] = []
    for index, shape in enumerate(whole):
        front = whole[index + 1 :]
        over = shapely.union_all(front[shapely.intersects(front, shape)])  # what is nearer covers what is behind it
        seen.append(shapely.difference(inside[index], over))
        lines.append(_lines(shapely.difference(shapely.intersection(shape.boundary, picture), over)))
    over = shapely.union_all(inside)
    middle = (box.top + box.bottom) / 2
    below = shapely.intersection(over, shapely.box(box.left, middle, box.right, box.bottom))
    contacts = _contacts(over, box)
    return Repeats(
        tuple(seen),
        tuple(lines),
        transfers(motif),
        over.area / picture.area,
        below.area / over.area if over.area else 0.0,
        tuple(1 - part.area / shape.area if shape.area else 0.0 for part, shape in zip(seen, whole, strict=True)),
        contacts,
        shapely.Polygon([(x, y) for _, x, y in contacts[:3]]).area / picture.area if len(contacts) > 2 else 0.0,
    )


def _lines(geometry: shapely.Geometry) -> tuple[Array, ...]:
    merged = shapely.line_merge(geometry) if geometry.geom_type == "MultiLineString" else geometry
    parts = shapely.get_parts(merged)
    return tuple(shapely.get_coordinates(part) for part in parts if part.geom_type == "LineString" and part.length > 0)


def transfers(motif: Motif) -> tuple[Transfer, ...]:
    """In the order of the places from the front, so that hidden parts are known; each side counts for itself."""
    done = {"front": 0, "back": 0}
    found = []
    for index in range(len(motif.places) - 1, -1, -1):
        side = "back" if motif.places[index].flipped else "front"
        reload = done[side] > 0 and done[side] % motif.copies_per_load == 0
        done[side] += 1
        found.append(Transfer(index, side, reload))
    return tuple(found)


def _contacts(over: shapely.Geometry, box: Box) -> tuple[tuple[str, float, float], ...]:
    """The middle of where the shapes meet each edge of the picture."""
    corners = {
        "left": ((box.left, box.top), (box.left, box.bottom)),
        "top": ((box.left, box.top), (box.right, box.top)),
        "right": ((box.right, box.top), (box.right, box.bottom)),
        "bottom": ((box.left, box.bottom), (box.right, box.bottom)),
    }
    found = []
    for name, ends in corners.items():
        met = shapely.intersection(shapely.buffer(over, TOUCH_MM), shapely.LineString(ends))
        if not met.is_empty:
            longest = max(shapely.get_parts(met), key=lambda part: part.length)
            middle = longest.centroid
            found.append((name, float(middle.x), float(middle.y)))
    return tuple(found)
