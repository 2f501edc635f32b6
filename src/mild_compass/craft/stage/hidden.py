"""Which parts of which edges are seen, exactly.

A convex face hides what lies behind its plane within the pyramid from the eye through its corners; a segment lies in
that region between two places, found from the planes alone (L. G. Roberts, Machine Perception of Three-Dimensional
Solids, 1963, from memory). Ground hides what is below it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.perspective.camera import NEAR_M
from mild_compass.craft.stage.body import MOST_CORNERS

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.stage.scene import Edges, Faces

    Array = NDArray[np.float64]
    Numbers = NDArray[np.intp]
    Flags = NDArray[np.bool_]

BEHIND_M = 1e-6  # as far behind a face a point must lie to be hidden by it
PAIRS_AT_ONCE = 200_000
# A face of three or four corners has its last one repeated up to the eighth: only these sides have a length.
FOUR_SIDES, ALL_SIDES = [0, 1, 2, 7], list(range(MOST_CORNERS))
EDGE_ON_M = 1e-9  # a face whose plane passes so near to the eye is seen edge-on and hides nothing
TOUCHING_M = 1e-5  # nearer than that to a face's border things touch and do not go through one another
SEAM = 1e-9  # faces side by side leave no gap


@dataclass(frozen=True, eq=False, slots=True)
class Parts:
    """Parts of edges: which (k,), from and to (k, 2) as shares of the edge, and whether they are seen."""

    edges: Numbers
    shares: Array
    seen: NDArray[np.bool_]


def before_the_eye(edges: Edges) -> Edges:
    """The edges cut off where they come nearer to the eye than can be drawn."""
    depth = edges.ends[..., 2] - NEAR_M
    kept = np.asarray((depth > 0).any(1))
    found, (first, last) = edges.part(kept), depth[kept].T
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(first * last < 0, first / (first - last), 0.0)
    cut = found.ends[:, 0] + share[:, None] * (found.ends[:, 1] - found.ends[:, 0])
    angle = found.along[:, 0] + share * (found.along[:, 1] - found.along[:, 0])
    behind = np.stack([first < 0, last < 0], 1)
    ends = np.where(behind[..., None], cut[:, None], found.ends)
    along = np.where(behind, angle[:, None], found.along)
    return replace(found, ends=ends, along=along)


def faces_before_the_eye(faces: Faces) -> Faces:
    """The faces cut off where they come nearer to the eye than can be drawn; they stay convex."""
    depth = faces.corners[..., 2] - NEAR_M
    kept = np.asarray((depth > 0).any(1))
    found, depth = faces.part(kept), depth[kept]
    crossing = np.flatnonzero((depth < 0).any(1))
    if not len(crossing):
        return found
    corners = found.corners.copy()
    for k in crossing.tolist():
        corners[k] = _cut(found.corners[k], depth[k])
    return replace(found, corners=corners)


def _cut(corners: Array, depth: Array) -> Array:
    """A convex face on its near side cut off. A cut adds a corner at most; where there is no room for it two near
    ones are joined, which takes away less than they lie apart."""
    kept: list[Array] = []
    for k in range(len(corners)):
        after = (k + 1) % len(corners)
        if depth[k] >= 0:
            kept.append(corners[k])
        if depth[k] * depth[after] < 0:
            kept.append(corners[k] + depth[k] / (depth[k] - depth[after]) * (corners[after] - corners[k]))
    rows: list[Array] = []
    for each in kept:
        if not rows or not np.array_equal(each, rows[-1]):
            rows.append(each)
    if len(rows) > len(corners):
        gaps = [float(np.linalg.norm(rows[k] - rows[k - 1])) for k in range(len(rows))]
        rows.pop(int(np.argmin(gaps)))
    return np.array([*rows, *(rows[-1],) * (len(corners) - len(rows))])


def seen_parts(edges: Edges, faces: Faces, up: Array | None = None, eye_m: float = 0.0) -> Parts:
    """Split edges into seen and hidden parts, in order along each edge.

    Edges and faces are cut before the eye. With ``up`` (3,) the ground, ``eye_m`` below the eye, hides what is under
    it.
    """
    solid = faces.part(~faces.laid_on & ~_behind_its_own(faces))
    pyramid = _Pyramids.of(solid)
    which, low, high = [np.zeros(0, np.intp)], [np.zeros(0)], [np.zeros(0)]
    first, second = _overlapping(edges.ends, solid.corners)
    first, second, behind = pyramid.may_hide(edges, first, second, solid.rounds)
    few = (solid.corners[:, 4:] == solid.corners[:, 3:4]).all((1, 2))[second]
    for some, sides in ((few, FOUR_SIDES), (~few, ALL_SIDES)):
        chosen = np.flatnonzero(some)
        for start in range(0, len(chosen), PAIRS_AT_ONCE):
            pair = chosen[start : start + PAIRS_AT_ONCE]
            hidden, a, b = pyramid.hides(edges, first[pair], second[pair], behind[pair], sides)
            which.append(first[pair][hidden])
            low.append(a)
            high.append(b)
    if up is not None and len(edges):
        below, a, b = _under(edges.ends, up, eye_m)
        which.append(below)
        low.append(a)
        high.append(b)
    return _split(len(edges), np.concatenate(which), np.concatenate(low), np.concatenate(high))


def _behind_its_own(faces: Faces) -> Flags:
    """Of a round part what is turned away hides nothing that its near side does not, unless the eye is inside it."""
    away = (faces.normals * faces.corners[:, 0]).sum(1) > 0
    is_round = faces.rounds >= 0
    seen_from_outside = np.zeros(int(faces.rounds.max(initial=-1)) + 1, bool)
    seen_from_outside[faces.rounds[is_round & ~away]] = True
    cut = is_round & (faces.corners[..., 2].min(1) <= NEAR_M + SEAM)
    seen_from_outside[faces.rounds[cut]] = False
    found = is_round & away
    found[found] = seen_from_outside[faces.rounds[found]]
    return np.asarray(found)


def _under(ends: Array, up: Array, eye_m: float) -> tuple[Numbers, Array, Array]:
    """The parts of edges that lie below the ground."""
    below = -(ends @ up) - eye_m - BEHIND_M
    a, b = below[:, 0], below[:, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(a * b < 0, a / (a - b), 0.0)
    low, high = np.where(a > 0, 0.0, share), np.where(b > 0, 1.0, share)
    which = np.flatnonzero((a > 0) | (b > 0))
    return which, low[which], high[which]


def screen_boxes(points: Array) -> NDArray[np.object_]:
    """The upright boxes round point sets (n, k, 3) as they are seen, as shapely boxes."""
    x, y = points[..., 0] / points[..., 2], points[..., 1] / points[..., 2]
    return np.asarray(shapely.box(x.min(1) - SEAM, y.min(1) - SEAM, x.max(1) + SEAM, y.max(1) + SEAM))


def _overlapping(ends: Array, corners: Array) -> tuple[Numbers, Numbers]:
    """Pairs of edges and faces that may meet on the picture, the edge not wholly nearer than the face."""
    if not len(ends) or not len(corners):
        none = np.zeros(0, np.intp)
        return none, none
    tree = shapely.STRtree(screen_boxes(corners))
    e, f = tree.query(screen_boxes(ends))
    behind = ends[..., 2].max(1)[e] > corners[..., 2].min(1)[f]
    return e[behind], f[behind]


@dataclass(frozen=True, eq=False, slots=True)
class _Pyramids:
    """Of each face the planes through the eye and its sides (n, k, 3), inward; its own plane: normal, distance."""

    sides: Array
    normals: Array
    away: Array

    @classmethod
    def of(cls, faces: Faces) -> _Pyramids:
        corners = faces.corners
        sides = np.cross(corners, np.roll(corners, -1, 1))
        size = np.linalg.norm(sides, axis=2, keepdims=True)
        sides = np.where(size > 1e-14, sides / np.maximum(size, 1e-14), 0.0)
        middle = corners.mean(1)
        inward = np.sign((sides * middle[:, None]).sum(2))[..., None]
        away = (faces.normals * corners[:, 0]).sum(1)
        flip = np.sign(away)
        return cls(sides * inward, faces.normals * flip[:, None], np.abs(away))

    def may_hide(self, edges: Edges, e: Numbers, f: Numbers, rounds: Numbers) -> tuple[Numbers, Numbers, Array]:
        """The pairs in which some of the edge lies behind the face's plane, and how far both ends (n, 2) do."""
        own = (edges.rounds[e] >= 0) & (edges.rounds[e] == rounds[f])
        slack = edges.slack_m[e]
        kept = (self.away[f] > EDGE_ON_M) & ~(own & np.isinf(slack))
        e, f, slack = e[kept], f[kept], BEHIND_M + np.where(own & np.isfinite(slack), slack, 0.0)[kept]
        behind = np.einsum("nki,ni->nk", edges.ends[e], self.normals[f]) - (self.away[f] + slack)[:, None]
        kept = np.asarray((behind > 0).any(1))
        return e[kept], f[kept], behind[kept]

    def hides(
        self, edges: Edges, e: Numbers, f: Numbers, behind: Array, sides: list[int]
    ) -> tuple[Numbers, Array, Array]:
        """Which of the pairs are such that face f hides some of edge e, and from where to where."""
        # Sides first, pairs last: what is gone through side by side lies together then.
        planes = self.sides[:, sides].transpose(1, 2, 0)[..., f]
        ends = edges.ends[e].transpose(1, 2, 0)
        a = (planes * ends[0]).sum(1) + SEAM
        b = (planes * ends[1]).sum(1) + SEAM
        beside = ((a < 0) & (b < 0)).any(0)  # wholly outside one side: most of them
        near = np.flatnonzero(~beside)
        low, high = np.zeros(len(near)), np.ones(len(near))
        for first, last in [*zip(a[:, near], b[:, near], strict=True), (behind[near, 0], behind[near, 1])]:
            with np.errstate(divide="ignore", invalid="ignore"):
                share = first / (first - last)
            np.maximum(low, np.where(first < 0, np.where(last > 0, share, 2.0), 0.0), out=low)
            np.minimum(high, np.where(last < 0, np.where(first > 0, share, -1.0), 1.0), out=high)
        hidden = high - low > 1e-12
        return near[hidden], low[hidden], high[hidden]


def meetings(faces: Faces) -> tuple[Array, Numbers]:
    """Where faces of different things go through one another: segments (n, 2, 3), and the thing of each first face.

    Two convex faces meet along the line of both planes, between the places where it leaves either; where one only
    touches the other along its border, that border is drawn already.
    """
    solid = faces.part(~faces.laid_on)
    none = np.zeros((0, 2, 3)), np.zeros(0, np.intp)
    if len(solid) < 2:
        return none
    corners = solid.corners
    low, high = corners.min(1), corners.max(1)
    # As seen from above far fewer lie over one another than as seen from the eye.
    from_above = shapely.box(low[:, 0], low[:, 2], high[:, 0], high[:, 2])
    first, second = shapely.STRtree(from_above).query(from_above)
    apart = solid.things[first] < solid.things[second]
    first, second = first[apart], second[apart]
    near = ((low[first] <= high[second]) & (low[second] <= high[first])).all(1)
    first, second = first[near], second[near]
    n, m = solid.normals[first], solid.normals[second]
    way = np.cross(n, m)
    size = (way**2).sum(1)
    crossing = size > 1e-8
    first, second, n, m, way, size = (each[crossing] for each in (first, second, n, m, way, size))
    d, e = (n * corners[first, 0]).sum(1), (m * corners[second, 0]).sum(1)
    start = (d[:, None] * np.cross(m, way) + e[:, None] * np.cross(way, n)) / size[:, None]
    spans = [_within_face(corners[which], normal, start, way) for which, normal in ((first, n), (second, m))]
    low_t = np.maximum(spans[0][0], spans[1][0])
    high_t = np.minimum(spans[0][1], spans[1][1])
    found = np.flatnonzero((high_t - low_t) * np.sqrt(size) > 1e-6)
    ends = start[found, None] + np.stack([low_t[found], high_t[found]], 1)[..., None] * way[found, None]
    middle = ends.mean(1)
    inside = np.minimum(
        _off_border(corners[first[found]], n[found], middle), _off_border(corners[second[found]], m[found], middle)
    )
    real = inside > TOUCHING_M
    return ends[real], solid.things[first[found][real]]


def _inward(corners: Array, normals: Array) -> Array:
    """Unit directions in the faces' planes, inward across each side; nought for a side without length."""
    along = np.roll(corners, -1, 1) - corners
    across = np.cross(normals[:, None], along)
    size = np.linalg.norm(across, axis=2, keepdims=True)
    return np.asarray(np.where(size > 1e-12, across / np.maximum(size, 1e-12), 0.0))


def _within_face(corners: Array, normals: Array, start: Array, way: Array) -> tuple[Array, Array]:
    """From where to where lines in the faces' planes lie within them."""
    across = _inward(corners, normals)
    off = ((start[:, None] - corners) * across).sum(2)
    rate = (way[:, None] * across).sum(2)
    flat = np.abs(rate) < 1e-12
    with np.errstate(divide="ignore", invalid="ignore"):
        place = np.where(flat, np.nan, -off / rate)
    low = np.where(~flat & (rate > 0), place, -np.inf).max(1)
    high = np.where(~flat & (rate < 0), place, np.inf).min(1)
    outside = (flat & (off < -SEAM)).any(1)
    return np.where(outside, np.inf, low), high


def _off_border(corners: Array, normals: Array, points: Array) -> Array:
    """How far points of faces lie from their nearest side."""
    across = _inward(corners, normals)
    off = ((points[:, None] - corners) * across).sum(2)
    return np.asarray(np.where((across != 0).any(2), off, np.inf).min(1))


def _split(count: int, which: Numbers, low: Array, high: Array) -> Parts:
    """Hidden stretches joined where they overlap, and what is between them."""
    order = np.lexsort((low, which))
    which, low, high = which[order], low[order], high[order]
    # Each edge has a number line of its own, two long, so that one running maximum serves all.
    base = 2.0 * which
    reach = np.maximum.accumulate(high + base) if len(which) else high
    begins = np.ones(len(which), bool)
    begins[1:] = (low + base)[1:] > reach[:-1] + SEAM
    starts = np.flatnonzero(begins)
    ends = np.append(starts[1:], len(which)) - 1 if len(starts) else starts
    hidden_of, hidden_low = which[starts], low[starts]
    hidden_high = (reach[ends] - base[ends]) if len(starts) else low[starts]
    # What is seen lies from the end of one hidden stretch to the beginning of the next.
    every = np.arange(count)
    cuts_of = np.concatenate([every, hidden_of])
    from_ = np.concatenate([np.zeros(count), hidden_high])
    order = np.lexsort((from_, cuts_of))
    cuts_of, from_ = cuts_of[order], from_[order]
    to_of = np.concatenate([hidden_of, every])
    to = np.concatenate([hidden_low, np.ones(count)])
    to = to[np.lexsort((to, to_of))]
    seen = to - from_ > 1e-9
    edges = np.concatenate([cuts_of[seen], hidden_of])
    shares = np.stack([np.concatenate([from_[seen], hidden_low]), np.concatenate([to[seen], hidden_high])], 1)
    flags = np.concatenate([np.ones(int(seen.sum()), bool), np.zeros(len(hidden_of), bool)])
    order = np.lexsort((shares[:, 0], edges))
    return Parts(edges[order], shares[order], flags[order])
