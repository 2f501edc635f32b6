"""All bodies of a stage before the eye, as arrays in the camera's own axes: x right, y down, z ahead, in metres."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from math import cos, radians, sin
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.memo import Memo
from mild_compass.craft.perspective.camera import NEAR_M
from mild_compass.craft.stage.body import MOST_CORNERS, Body, Skin
from mild_compass.craft.stage.solids import body_of
from mild_compass.plan.stage import MOST_THINGS

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray

    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.plan.stage import Stage, Thing

    Array = NDArray[np.float64]
    Numbers = NDArray[np.intp]
    Flags = NDArray[np.bool_]

LEAST_CHORDS = 24  # of a drawn circle
OWN_ROUND = 0.08  # of its width: as far a round part's own facets stand before its outline without hiding it


@dataclass(frozen=True, eq=False, slots=True)
class Faces:
    """Convex faces: corners (n, MOST_CORNERS, 3), the last one repeated where there are fewer; outward unit normals
    (n, 3); own values in L*, the thing each belongs to; which lie on others; the round part each is of, or -1; and the
    surface's own normals at the corners (n, MOST_CORNERS, 3), which on round parts are not those of the facet."""

    corners: Array
    normals: Array
    tones: Array
    things: Numbers
    laid_on: Flags
    rounds: Numbers
    bent: Array

    def __len__(self) -> int:
        return len(self.corners)

    def part(self, chosen: Numbers | Flags) -> Faces:
        """Some of them."""
        return Faces(*(getattr(self, name)[chosen] for name in Faces.__slots__))

    def mapped(self, turn: Array, shift: Array) -> Faces:
        """Turned by a matrix (3, 3), then shifted."""
        return replace(
            self, corners=self.corners @ turn.T + shift, normals=self.normals @ turn.T, bent=self.bent @ turn.T
        )


@dataclass(frozen=True, eq=False, slots=True)
class Edges:
    """Segments (n, 2, 3) and the thing each belongs to; ``curves`` numbers the circle a chord is of, -1 for straight
    ones, and ``along`` (n, 2) are its ends on it in radians.

    ``rounds`` numbers the round part whose outline a segment is, -1 for none; it stands on that part's own facets, so
    those hide it only where they stand ``slack_m`` before it.
    """

    ends: Array
    things: Numbers
    curves: Numbers
    along: Array
    rounds: Numbers
    slack_m: Array

    def __len__(self) -> int:
        return len(self.ends)

    def part(self, chosen: Numbers | Flags) -> Edges:
        """Some of them."""
        return Edges(*(getattr(self, name)[chosen] for name in Edges.__slots__))


@dataclass(frozen=True, eq=False, slots=True)
class Scene:
    """Everything on the stage as the camera has it: faces, edges, circles (m, 3, 3: middle and two half axes)."""

    faces: Faces
    edges: Edges
    circles: Array
    camera: Camera

    @property
    def up(self) -> Array:
        """Straight up, in the camera's axes."""
        return np.asarray(self.camera.axes[:, 2])


def on_plan(stage: Stage, scene_m: ArrayLike) -> Array:
    """Scene points (n, 2 or 3), told from the eye, as points of the ground plan."""
    points = np.asarray(scene_m, np.float64)
    points = points.reshape(-1, points.shape[-1])
    h = radians(stage.heading_deg)
    found = points.copy()
    found[:, 0] = stage.eye_x_m + cos(h) * points[:, 0] + sin(h) * points[:, 1]
    found[:, 1] = stage.eye_y_m - sin(h) * points[:, 0] + cos(h) * points[:, 1]
    return found


def from_eye(stage: Stage, plan_m: ArrayLike) -> Array:
    """Points of the ground plan (n, 2 or 3) as scene points told from the eye."""
    points = np.asarray(plan_m, np.float64)
    points = points.reshape(-1, points.shape[-1])
    h = radians(stage.heading_deg)
    x, y = points[:, 0] - stage.eye_x_m, points[:, 1] - stage.eye_y_m
    found = points.copy()
    found[:, 0] = cos(h) * x - sin(h) * y
    found[:, 1] = sin(h) * x + cos(h) * y
    return found


def places_of(thing: Thing) -> Array:
    """Where the things of a row stand on the plan (count, 2)."""
    angle = radians(thing.turn_deg + thing.row_deg)
    way = np.array([cos(angle), -sin(angle)])
    return np.asarray(np.array([thing.x_m, thing.y_m]) + np.arange(thing.count)[:, None] * thing.gap_m * way)


@lru_cache(maxsize=2048)
def footprints(thing: Thing) -> tuple[Array, ...]:
    """The outline of each thing of a row as seen from above, on the plan (k, 2)."""
    points = np.array(body_of(thing).points)[:, :2]
    hull = shapely.get_coordinates(shapely.convex_hull(shapely.multipoints(points)))
    return tuple(hull @ turn_of(thing)[:2, :2].T + place for place in places_of(thing))


def thing_at(stage: Stage, x_m: float, y_m: float, reach_m: float) -> Thing | None:
    """The thing that stands at a place of the plan, the smallest of several; None where there is none in reach."""
    here = shapely.Point(x_m, y_m)
    found = []
    for thing in stage.things:
        outlines = [_area(each) for each in footprints(thing)]
        if any(shapely.distance(outline, here) <= reach_m for outline in outlines):
            found.append((float(shapely.area(outlines[0])), thing))
    return min(found, key=lambda pair: pair[0])[1] if found else None


def _area(outline: Array) -> shapely.Geometry:
    return shapely.convex_hull(shapely.multipoints(outline))


def turn_of(thing: Thing) -> Array:
    """A thing's turn on the plan as a matrix (3, 3): clockwise as seen from above."""
    a = radians(thing.turn_deg)
    return np.array([[cos(a), sin(a), 0.0], [-sin(a), cos(a), 0.0], [0.0, 0.0, 1.0]])


@dataclass(frozen=True, eq=False, slots=True)
class _Group:
    """One thing, or row of things, on the plan: faces, straight edges, circles, skins, and how many round parts;
    ``chords`` (m,) are those of each circle."""

    faces: Faces
    edges: Array
    circles: Array
    chords: Numbers
    skins: tuple[Skin, ...]
    rounds: int


@lru_cache(maxsize=512)
def _group(thing: Thing) -> _Group:
    body = body_of(thing)
    points = np.array(body.points)
    faces, edges, circles = _faces(body, points), _edges(body, points), _circles(body)
    turn = turn_of(thing)
    parts, lines, rims, skins = [], [], [], []
    for number, (x, y) in enumerate(places_of(thing).tolist()):
        shift, first = np.array([x, y, thing.base_m]), number * body.round_count
        moved = faces.mapped(turn, shift)
        parts.append(replace(moved, rounds=np.where(faces.rounds < 0, -1, faces.rounds + first)))
        lines.append(edges @ turn.T + shift)
        rims.append(circles @ turn.T + np.array([shift, np.zeros(3), np.zeros(3)]))
        skins += [
            Skin(each.points @ turn.T + shift, each.normals @ turn.T, each.bulging, each.number + first)
            for each in body.skins
        ]
    return _Group(
        joined_faces(parts),
        np.concatenate(lines),
        np.concatenate(rims),
        np.tile(_chord_counts(body), thing.count),
        tuple(skins),
        thing.count * body.round_count,
    )


def _faces(body: Body, points: Array) -> Faces:
    padded = np.array([(*face, *(face[-1],) * (MOST_CORNERS - len(face))) for face in body.faces], np.intp)
    corners = points[padded.reshape(-1, MOST_CORNERS)]
    count = len(corners)
    # Newell's normal is right for any flat face, also where two corners are one.
    after = np.roll(corners, -1, 1)
    normals = np.cross(corners, after).sum(1)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-15)
    return Faces(
        corners,
        normals,
        np.array(body.tones, np.float64),
        np.zeros(count, np.intp),
        np.array(body.laid_on, bool),
        np.array(body.rounds, np.intp),
        _bent(np.array(body.rounds, np.intp), padded.reshape(-1, MOST_CORNERS), normals, len(points)),
    )


def _bent(rounds: Numbers, padded: Numbers, normals: Array, count: int) -> Array:
    """Normals at the corners: on a round part the mean of its facets that meet there."""
    found = np.repeat(normals[:, None], MOST_CORNERS, 1)
    smooth = rounds >= 0
    sums = np.zeros((count, 3))
    np.add.at(sums, padded[smooth].ravel(), found[smooth].reshape(-1, 3))
    sums /= np.maximum(np.linalg.norm(sums, axis=1, keepdims=True), 1e-12)
    found[smooth] = sums[padded[smooth]]
    return np.asarray(found)


def _edges(body: Body, points: Array) -> Array:
    """Each edge once, those without length left out."""
    seen = {(min(a, b), max(a, b)) for a, b in body.edges}
    ends = points[np.array(sorted(seen), np.intp).reshape(-1, 2)]
    return np.asarray(ends[np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) > 1e-9])


def _chord_counts(body: Body) -> Numbers:
    """A whole number for each side of the body: its corners lie on the chords' ends, and no facet hides a rim."""
    return np.array([each.sides * max(1, -(-LEAST_CHORDS // each.sides)) for each in body.circles], np.intp)


def _circles(body: Body) -> Array:
    return np.array([[each.middle, each.across, each.along] for each in body.circles]).reshape(-1, 3, 3)


def joined_faces(parts: list[Faces]) -> Faces:
    """All faces in one."""
    return Faces(*(np.concatenate([getattr(each, name) for each in parts]) for name in Faces.__slots__))


def scene_of(stage: Stage, camera: Camera) -> Scene:
    """The stage as this camera has it; things are numbered as they are listed."""
    shift = np.array([stage.eye_x_m, stage.eye_y_m, camera.eye_m])
    h = radians(stage.heading_deg)
    towards = np.array([[cos(h), -sin(h), 0.0], [sin(h), cos(h), 0.0], [0.0, 0.0, 1.0]])
    turn = camera.axes @ towards
    groups = [_group(thing) for thing in stage.things]
    firsts = np.cumsum([0, *(group.rounds for group in groups)])
    faces = [
        replace(
            group.faces,
            things=np.full(len(group.faces), number),
            rounds=np.where(group.faces.rounds < 0, -1, group.faces.rounds + firsts[number]),
        )
        for number, group in enumerate(groups)
    ]
    circles = np.concatenate([np.zeros((0, 3, 3)), *(group.circles for group in groups)])
    circles = (circles - np.array([shift, np.zeros(3), np.zeros(3)])) @ turn.T
    owners = np.repeat(np.arange(len(groups)), [len(group.circles) for group in groups])
    chords = np.concatenate([np.zeros(0, np.intp), *(group.chords for group in groups)])
    lines = [_no_edges(), _chords(circles, chords, owners)]
    for number, group in enumerate(groups):
        lines.append(_straight((group.edges - shift) @ turn.T, number))
        for skin, seen in zip(group.skins, _outlines_of(stage.things[number], group, turn, shift), strict=True):
            lines.append(_round(seen, number, skin, int(firsts[number])))
    whole = joined_faces([_NO_FACES, *faces]).mapped(turn, -turn @ shift)
    return Scene(whole, joined_edges(*lines), circles, camera)


_OUTLINES: Memo[tuple[Array, ...]] = Memo(2 * MOST_THINGS)


def _outlines_of(thing: Thing, group: _Group, turn: Array, shift: Array) -> tuple[Array, ...]:
    """The outlines of a thing's round parts; kept while neither it nor the eye moves."""
    if not group.skins:
        return ()
    key = (turn.tobytes(), shift.tobytes())
    return _OUTLINES.of(
        thing, key, lambda: tuple(_outline((s.points - shift) @ turn.T, s.normals @ turn.T) for s in group.skins)
    )


_NO_FACES = Faces(
    np.zeros((0, MOST_CORNERS, 3)),
    np.zeros((0, 3)),
    np.zeros(0),
    np.zeros(0, np.intp),
    np.zeros(0, bool),
    np.zeros(0, np.intp),
    np.zeros((0, MOST_CORNERS, 3)),
)


def joined_edges(*parts: Edges) -> Edges:
    """All edges in one."""
    return Edges(*(np.concatenate([getattr(each, name) for each in parts]) for name in Edges.__slots__))


def straight_edges(ends: Array, things: Numbers) -> Edges:
    """Segments (n, 2, 3) as straight edges of these things (n,)."""
    none = np.full(len(ends), -1)
    return Edges(ends, things, none, np.zeros((len(ends), 2)), none, np.zeros(len(ends)))


def _no_edges() -> Edges:
    return _straight(np.zeros((0, 2, 3)), 0)


def _straight(ends: Array, thing: int) -> Edges:
    return straight_edges(ends, np.full(len(ends), thing))


def _round(ends: Array, thing: int, skin: Skin, first: int) -> Edges:
    """An outline: never hidden by its own part where that bulges, else where it stands well before it."""
    size = float(np.ptp(skin.points[..., :2].reshape(-1, 2), axis=0).max())
    slack = np.inf if skin.bulging else OWN_ROUND * size
    return replace(
        _straight(ends, thing), rounds=np.full(len(ends), skin.number + first), slack_m=np.full(len(ends), slack)
    )


def _chords(circles: Array, counts: Numbers, owners: Numbers) -> Edges:
    """The chords (k, 2, 3) of circles, so many of each, circle by circle."""
    curves = np.repeat(np.arange(len(circles)), counts)
    place = np.arange(len(curves)) - np.repeat(np.cumsum(counts) - counts, counts)
    step = 2 * np.pi / counts[curves]
    along = np.stack([place * step, (place + 1) * step], 1)
    ends = np.stack([on_circles(circles[curves], along[:, k]) for k in (0, 1)], 1)
    return replace(_straight(ends, 0), things=owners[curves], curves=curves, along=along)


def on_picture(points: Array, camera: Camera) -> Array:
    """Points before the eye (n, 3), in the camera's axes, in photo pixels (n, 2)."""
    return np.asarray(points[:, :2] / np.maximum(points[:, 2:], NEAR_M) * camera.focal.px + camera.centre_px)


def on_circles(circles: Array, angles: Array) -> Array:
    """Points (n, 3) of circles (n, 3, 3) at these angles (n,)."""
    c, s = np.cos(angles)[:, None], np.sin(angles)[:, None]
    return np.asarray(circles[:, 0] + c * circles[:, 1] + s * circles[:, 2])


def _outline(points: Array, normals: Array) -> Array:
    """Where a smooth surface turns away from the eye: segments (k, 2, 3), through each cell of its grid at most one.

    The turn of the normal off the sight line is taken as straight along a cell's sides, and the points found are put
    back onto the true round of their ring.
    """
    facing = (points * normals).sum(2)
    closed = np.concatenate([facing, facing[:, :1]], 1)
    spots = np.concatenate([points, points[:, :1]], 1)
    low, high = closed[:-1], closed[1:]
    # Each cell's sides in order round it: values at both ends, and the points there.
    first = np.stack([low[:, :-1], low[:, 1:], high[:, 1:], high[:, :-1]])
    last = np.stack([low[:, 1:], high[:, 1:], high[:, :-1], low[:, :-1]])
    a, b = spots[:-1], spots[1:]
    start = np.stack([a[:, :-1], a[:, 1:], b[:, 1:], b[:, :-1]])
    end = np.stack([a[:, 1:], b[:, 1:], b[:, :-1], a[:, :-1]])
    crossed = (first > 0) != (last > 0)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(crossed, first / (first - last), 0.0)[..., None]
    at = start + share * (end - start)
    middles = points.mean(1)
    ring = np.stack([middles[:-1], middles[1:]])
    for side, level in ((0, 0), (2, 1)):  # along a ring: back from the chord onto the round
        centre = ring[level][:, None]
        reach = (
            np.linalg.norm(start[side] - centre, axis=2) * (1 - share[side][..., 0])
            + np.linalg.norm(end[side] - centre, axis=2) * share[side][..., 0]
        )
        off = at[side] - centre
        at[side] = centre + off * (reach / np.maximum(np.linalg.norm(off, axis=2), 1e-12))[..., None]
    rows, columns = np.nonzero(crossed.sum(0) == 2)
    sides = crossed[:, rows, columns]
    one = sides.argmax(0)
    other = 3 - sides[::-1].argmax(0)
    found = np.stack([at[one, rows, columns], at[other, rows, columns]], 1)
    return np.asarray(found[np.linalg.norm(found[:, 1] - found[:, 0], axis=1) > 1e-9])
