"""Light, half-light and shadow on the stage: by the turn of each face, and by what stands in its light.

Cast shadows are exact: what stands before a lit face is laid along the light onto its plane and cut to it (shapely).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.perspective.light import sun_direction
from mild_compass.craft.stage.scene import joined_faces

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.stage.scene import Faces, Scene
    from mild_compass.plan.guides import Light

    Array = NDArray[np.float64]
    Numbers = NDArray[np.intp]

HALF = 0.5  # a face turned further than 60 degrees off the light is in half-light; common practice
ABOVE_M = 1e-6  # so far before a face a thing must stand to throw a shadow on it
LEAST_M2 = 1e-9  # below a square of 0.03 mm
SNAP_M = 1e-6  # a thousandth of a millimetre
LAMP_LEVEL = 2e-3  # of the lamp's height over a plane
GROUND = -1  # as a receiver


@dataclass(frozen=True, eq=False, slots=True)
class Source:
    """Where the light comes from, in the camera's axes: a place with ``near``, else the direction towards it."""

    at: Array
    near: bool

    def towards(self, points: Array) -> Array:
        """Unit directions (n, 3) from points (n, 3) towards the light."""
        way = self.at - points if self.near else np.broadcast_to(self.at, points.shape)
        return np.asarray(way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-12))


@dataclass(frozen=True, eq=False, slots=True)
class Plane:
    """A plane's own axes: ``origin``, ``across`` and ``along`` (3,), unit and square to each other, and its normal."""

    origin: Array
    across: Array
    along: Array

    def to_space(self, points: Array) -> Array:
        """Points (n, 2) of the plane as points (n, 3)."""
        return np.asarray(self.origin + points[:, :1] * self.across + points[:, 1:] * self.along)


@dataclass(frozen=True, eq=False, slots=True)
class CastShadow:
    """What of a face, or of the ground (GROUND), lies in cast shadow, in the axes of its plane."""

    face: int
    plane: Plane
    area: shapely.Geometry

    def rings(self) -> list[Array]:
        """Its outlines in the camera's axes, each closed (n, 3)."""
        parts = shapely.get_parts(self.area)
        rings = [ring for part in parts if part.geom_type == "Polygon" for ring in (part.exterior, *part.interiors)]
        return [self.plane.to_space(shapely.get_coordinates(ring)) for ring in rings]


@dataclass(frozen=True, eq=False, slots=True)
class Lit:
    """How each face is turned to the light (cosine; below 0 it is turned away), and the shadows cast."""

    source: Source | None
    turned: Array
    shadows: tuple[CastShadow, ...]
    ground: Faces


def source_of(light: Light, scene: Scene) -> Source | None:
    """The light of a study in the camera's axes; None where there is none."""
    camera = scene.camera
    if light.kind == "sun":
        return Source(-sun_direction(light.azimuth_deg, light.altitude_deg) @ camera.axes.T, False)
    if light.kind == "lamp":
        foot = camera.on_ground([light.foot])[0]
        if not np.isfinite(foot).all():
            return None
        return Source((np.array([foot[0], foot[1], light.height_m - camera.eye_m])) @ camera.axes.T, True)
    return None


def light_up(scene: Scene, faces: Faces, ground: Faces, light: Light) -> Lit:
    """Turn and cast shadows of all faces before the eye; ``ground`` is the piece of ground that is seen, as one face or
    none. What stands behind the eye throws its shadow too."""
    source = source_of(light, scene)
    if source is None:
        return Lit(None, np.ones(len(faces)), (), ground)
    turned = (faces.normals * source.towards(faces.corners.mean(1))).sum(1)
    return Lit(source, turned, _cast(scene.faces, faces, ground, turned, source), ground)


def _cast(every: Faces, faces: Faces, ground: Faces, turned: Array, source: Source) -> tuple[CastShadow, ...]:
    """All cast shadows on what is seen; all bodies are closed, and the lit side casts as the whole body does."""
    lit_side = (every.normals * source.towards(every.corners.mean(1))).sum(1) > 1e-9
    casters = every.part(~every.laid_on & lit_side)
    # What is turned away from the eye needs no shadow on it.
    seen = (faces.normals * faces.corners[:, 0]).sum(1) < 0
    lit = np.flatnonzero((turned > 1e-9) & ~faces.laid_on & seen)
    receivers = _both(faces.part(lit), ground)
    numbers = np.append(lit, np.full(len(ground), GROUND))
    if not len(casters) or not len(receivers):
        return ()
    first, second = _pairs(receivers, casters, source)
    same_round = (receivers.rounds[first] >= 0) & (receivers.rounds[first] == casters.rounds[second])
    first, second = first[~same_round], second[~same_round]
    planes = _planes(receivers)
    outlines, kept = _laid(receivers, casters, planes, first, second, source)
    return _joined(receivers, planes, outlines, first[kept], numbers)


def _both(faces: Faces, ground: Faces) -> Faces:
    return joined_faces([faces, ground])


def _pairs(receivers: Faces, casters: Faces, source: Source) -> tuple[Numbers, Numbers]:
    """Receivers and casters that may meet as seen from the light."""
    if source.near:
        return _pairs_of_lamp(receivers, casters, source)
    turn = _axes(source.at[None])[0]
    flat = [_hulls((each.corners @ turn.T)[..., :2]) for each in (receivers, casters)]
    second, first = shapely.STRtree(flat[0]).query(flat[1], predicate="intersects")
    return first, second


def _pairs_of_lamp(receivers: Faces, casters: Faces, source: Source) -> tuple[Numbers, Numbers]:
    """The same from a place: by the cones that hold them; what is larger than a half space meets everything."""
    cones = []
    for each in (receivers, casters):
        way = each.corners - source.at
        way /= np.maximum(np.linalg.norm(way, axis=2, keepdims=True), 1e-9)
        middle = way.mean(1)
        middle /= np.maximum(np.linalg.norm(middle, axis=1, keepdims=True), 1e-9)
        wide = np.arccos(np.clip((way * middle[:, None]).sum(2).min(1), -1, 1))
        cones.append((middle, np.where(wide > 1.4, np.pi, wide)))
    (one, wide_one), (other, wide_other) = cones
    between = np.arccos(np.clip(one @ other.T, -1, 1))
    first, second = np.nonzero(between <= wide_one[:, None] + wide_other)
    return first, second


def _axes(ahead: Array) -> Array:
    """Three axes (n, 3, 3) in rows for each direction (n, 3), the last along it."""
    last = ahead / np.linalg.norm(ahead, axis=1, keepdims=True)
    helper = np.eye(3)[np.abs(last).argmin(1)]
    first = np.cross(helper, last)
    first /= np.linalg.norm(first, axis=1, keepdims=True)
    return np.stack([first, np.cross(last, first), last], 1)


def _planes(faces: Faces) -> tuple[Array, Array, Array]:
    """Origins and both axes (n, 3) in the faces' planes."""
    axes = _axes(faces.normals)
    return faces.corners[:, 0], axes[:, 0], axes[:, 1]


def _laid(
    receivers: Faces,
    casters: Faces,
    planes: tuple[Array, Array, Array],
    first: Numbers,
    second: Numbers,
    source: Source,
) -> tuple[Array, Numbers]:
    """Casters laid onto receivers' planes as polygons, and which of the pairs they are of."""
    normals, origins = receivers.normals[first], planes[0][first]
    corners = casters.corners[second]
    above = ((corners - origins[:, None]) * normals[:, None]).sum(2) - ABOVE_M
    if source.near:
        lamp = ((source.at - origins) * normals).sum(1)
        # What is as high over the plane as the lamp throws no shadow that ends; a hair lower it ends far off.
        below = (1 - LAMP_LEVEL) * lamp[:, None] - above
        room = (below > 0).any(1)
    else:
        below, room = np.ones_like(above), np.ones(len(above), bool)
    kept = np.flatnonzero((above > 0).any(1) & room)
    corners, above, below = corners[kept], above[kept], below[kept]
    shapes = np.empty(len(kept), object)
    crossing = (above < 0).any(1) | (below < 0).any(1)
    for group, cut in ((np.flatnonzero(~crossing), False), (np.flatnonzero(crossing), True)):
        points = corners[group]
        if cut and len(group):
            points, (_, lower) = _cut_at(points, above[group], below[group])
            points, _ = _cut_at(points, lower, lower)
        at = kept[group]
        spots = _flat(_onto_all(points, normals[at], origins[at], source), planes, first[at])
        # Cut or not, it is convex: its hull is itself, whatever corners are there twice.
        shapes[group] = _hulls(spots)
    there = shapely.area(shapes) > 0
    return shapes[there], kept[there]


def _hulls(points: Array) -> Array:
    """The convex outlines of point sets (n, k, 2)."""
    return np.asarray(shapely.convex_hull(shapely.linestrings(points))) if len(points) else np.zeros(0, object)


def _flat(points: Array, planes: tuple[Array, Array, Array], which: Numbers) -> Array:
    """Points (n, k, 3) in the axes of their receivers' planes (n, k, 2)."""
    off = points - planes[0][which][:, None]
    across = (off * planes[1][which][:, None]).sum(2)
    along = (off * planes[2][which][:, None]).sum(2)
    return np.asarray(np.stack([across, along], 2))


def _cut_at(corners: Array, height: Array, other: Array) -> tuple[Array, tuple[Array, Array]]:
    """The parts of convex faces (n, k, 3) where ``height`` (n, k) is not negative, as (n, 2k, 3), with both heights.

    Corners that are cut away are taken up by the one before them, so that the order round the face is kept.
    """
    after = np.roll(height, -1, 1)
    crossed = height * after < 0
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(crossed, height / (height - after), 0.0)
    count, size = height.shape
    points = np.empty((count, 2 * size, 3))
    points[:, ::2], points[:, 1::2] = corners, corners + share[..., None] * (np.roll(corners, -1, 1) - corners)
    heights = np.empty((2, count, 2 * size))
    for kept, given in zip(heights, (height, other), strict=True):
        kept[:, ::2], kept[:, 1::2] = given, given + share * (np.roll(given, -1, 1) - given)
    heights[0, :, 1::2] = np.where(crossed, 0.0, heights[0, :, 1::2])
    valid = np.empty((count, 2 * size), bool)
    valid[:, ::2], valid[:, 1::2] = height >= 0, crossed
    place = np.where(valid, np.arange(2 * size), -1)
    last = np.maximum(place.max(1, keepdims=True), 0)
    place = np.maximum.accumulate(place, 1)
    place = np.where(place < 0, last, place)
    rows = np.arange(count)[:, None]
    return points[rows, place], (heights[0][rows, place], heights[1][rows, place])


def _onto_all(corners: Array, normals: Array, origins: Array, source: Source) -> Array:
    """Points (n, k, 3) carried along the light onto planes."""
    way = corners - source.at if source.near else np.broadcast_to(-source.at, corners.shape)
    height = ((corners - origins[:, None]) * normals[:, None]).sum(2)
    fall = (way * normals[:, None]).sum(2)
    with np.errstate(divide="ignore", invalid="ignore"):
        times = np.where(np.abs(fall) > 1e-12, -height / fall, 0.0)
    return np.asarray(corners + times[..., None] * way)


def _common(outlines: Array, own: shapely.Geometry) -> shapely.Geometry:
    """What the outlines together cover of a receiver.

    Each is cut to it first: a lamp's shadows reach for miles, and among those a small one would be lost. Where hairs of
    nearly one line are too much for exact unions they are snapped.
    """
    cut = shapely.intersection(outlines, own)
    try:
        return shapely.union_all(cut)
    except shapely.GEOSException:
        return shapely.union_all(cut, grid_size=SNAP_M)


def _joined(
    receivers: Faces, planes: tuple[Array, Array, Array], outlines: Array, owners: Numbers, numbers: Numbers
) -> tuple[CastShadow, ...]:
    """Each receiver's shadows cut to it and made one."""
    if not len(outlines):
        return ()
    found = []
    order = np.argsort(owners, kind="stable")
    outlines, owners = outlines[order], owners[order]
    cuts = np.flatnonzero(np.diff(owners)) + 1
    for group, owner in zip(np.split(outlines, cuts), owners[np.concatenate([[0], cuts])].tolist(), strict=True):
        plane = Plane(planes[0][owner], planes[1][owner], planes[2][owner])
        off = receivers.corners[owner] - plane.origin
        own = shapely.convex_hull(shapely.linestrings(np.column_stack([off @ plane.across, off @ plane.along])))
        area = _common(group, own)
        if shapely.area(area) > LEAST_M2:
            found.append(CastShadow(int(numbers[owner]), plane, area))
    return tuple(found)
