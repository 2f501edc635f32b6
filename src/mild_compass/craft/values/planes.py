"""The way strokes run on the planes of things, as light hatching."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.perspective.worked import homogeneous_on_sheet

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.perspective.worked import WorkedPerspective
    from mild_compass.craft.values.masses import Masses
    from mild_compass.plan.tones import Plane

    Array = NDArray[np.float64]
    Points = tuple[tuple[float, float], ...]

APART_MM = 5.0
MOST_STROKES = 400  # of one plane
LEAST_MM = 1.0
OUTLINE_PX = 0.7  # of the value map: so far an outline of a mass may be told with fewer points


def hatching(plane: Plane, worked: WorkedPerspective, frame_map: FrameMap) -> list[Array]:
    """Strokes (2, 2) in mm on the sheet, inside the plane and the picture; none where its direction is not known."""
    box = frame_map.box
    outline = area_of(frame_map.to_sheet(np.array(plane.points, np.float64)))
    area = shapely.intersection(outline, shapely.box(*box))
    if area.is_empty:
        return []
    if plane.way == "to a point":
        point = worked.point(plane.letter)
        if point is None:
            return []
        lines = _toward(area, homogeneous_on_sheet(point, frame_map))
    else:
        lines = _parallel(area, np.radians(-direction_deg(plane, outline)))
    cut = shapely.intersection(shapely.linestrings(lines), area) if len(lines) else np.zeros(0, object)
    parts = shapely.get_parts(cut)
    parts = parts[(shapely.get_type_id(parts) == 1) & (shapely.length(parts) >= LEAST_MM)]
    return [shapely.get_coordinates(part)[[0, -1]] for part in parts]


def direction_deg(plane: Plane, outline: shapely.Polygon | shapely.MultiPolygon) -> float:
    """The direction of parallel strokes on the sheet, up from level to the right."""
    if plane.way == "level":
        return 0.0
    if plane.way == "upright":
        return 90.0
    if plane.way == "along":
        ring = shapely.get_coordinates(shapely.oriented_envelope(outline))
        sides = np.diff(ring[:3], axis=0)
        x, y = sides[int(np.hypot(*sides.T).argmax())].tolist()
        return float(np.degrees(np.arctan2(-y, x)))
    return plane.angle_deg


def area_of(points: ArrayLike) -> shapely.Polygon | shapely.MultiPolygon:
    """What a closed outline (n, 2) goes round, also one that crosses or touches itself."""
    parts = shapely.get_parts(shapely.make_valid(shapely.Polygon(np.asarray(points, np.float64))))
    return shapely.union_all(parts[np.isin(shapely.get_type_id(parts), (3, 6))])


def outline_of_shape(masses: Masses, spot_mm: Array, frame_map: FrameMap) -> Points | None:
    """The outline of the mass under a place on the sheet, in photo pixels; None beside all of them.

    What lies within it is cut out: the outline goes in to it and comes back the same way.
    """
    box, (height, width) = frame_map.box, masses.steps.shape
    scale = np.array([box.width / width, box.height / height])
    x, y = ((spot_mm - box[:2]) / scale).tolist()
    found = np.flatnonzero(shapely.intersects_xy(masses.shapes.polygons, x, y))
    if not len(found):
        return None
    shape = shapely.simplify(masses.shapes.polygons[found[0]], OUTLINE_PX)
    ring = shapely.get_coordinates(shape.exterior)
    for hole in sorted(shape.interiors, key=lambda each: each.bounds):
        ring = _with_hole(ring, shapely.get_coordinates(hole))
    return tuple((px, py) for px, py in frame_map.to_photo(ring[:-1] * scale + box[:2]).tolist())


def _with_hole(ring: Array, hole: Array) -> Array:
    """A closed ring that goes in to a hole by the shortest way, round it, and back."""
    apart = np.hypot(*(ring[:, None] - hole[None]).transpose(2, 0, 1))
    k, j = np.unravel_index(int(apart.argmin()), apart.shape)
    round_it = np.concatenate([hole[j:-1], hole[: j + 1]])
    return np.concatenate([ring[: k + 1], round_it, ring[k:]])


def _parallel(area: shapely.Polygon, angle: float) -> Array:
    """Lines (n, 2, 2) across an area, APART_MM from each other."""
    way = np.array([np.cos(angle), np.sin(angle)])
    across = np.array([-way[1], way[0]])
    points = shapely.get_coordinates(area)
    low, high = float((points @ across).min()), float((points @ across).max())
    start, end = float((points @ way).min()) - 1, float((points @ way).max()) + 1
    count = min(MOST_STROKES, int((high - low) / APART_MM) + 1)
    at = (low + high) / 2 + (np.arange(count) - (count - 1) / 2) * APART_MM
    return np.stack([at[:, None] * across + start * way, at[:, None] * across + end * way], 1)


def _toward(area: shapely.Polygon, point: Array) -> Array:
    """Lines (n, 2, 2) to a point (x, y, w), APART_MM from each other where they pass the middle of the area."""
    x, y, w = point.tolist()
    middle = shapely.get_coordinates(shapely.point_on_surface(area))[0]
    away = np.array([x, y]) - w * middle
    points = shapely.get_coordinates(area)
    reach = float(np.hypot(*(points - middle).T).max()) + 1
    if float(np.hypot(*away)) > 50 * abs(w) * reach:  # so far off that they are parallel
        return _parallel(area, float(np.arctan2(away[1], away[0])))
    origin = np.array([x, y]) / w
    angles = np.arctan2(*(points - origin).T[::-1])
    centre = float(np.arctan2(*(middle - origin)[::-1]))
    off = (angles - centre + np.pi) % (2 * np.pi) - np.pi
    step = APART_MM / max(float(np.hypot(*(middle - origin))), APART_MM)
    count = min(MOST_STROKES, int((off.max() - off.min()) / step) + 1)
    at = centre + (off.min() + off.max()) / 2 + (np.arange(count) - (count - 1) / 2) * step
    far = float(np.hypot(*(points - origin).T).max()) + 1
    ends = origin + far * np.stack([np.cos(at), np.sin(at)], 1)
    return np.stack([np.repeat(origin[None], count, 0), ends], 1)
