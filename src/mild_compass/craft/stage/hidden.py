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
PAIRS_AT_ONCE = 200_000  # bounds memory
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


@dataclass(frozen=True, eq=False, slots=True)
class Stretches:
    """Hidden stretches: of which edges (k,), from and to as shares of the edge, and the thing that hides each."""

    edges: Numbers
    low: Array
    high: Array
    by: Numbers


def seen_parts(edges: Edges, faces: Faces, up: Array | None = None, eye_m: float = 0.0) -> Parts:
    """Split edges into seen and hidden parts, in order along each edge.

    Edges and faces are cut before the eye. With ``up`` (3,) the ground, ``eye_m`` below the eye, hides what is under
    it.
    """
    return split(edges, [hidden_stretches(edges, Hiders.of(faces))], up, eye_m)


@dataclass(frozen=True, eq=False, slots=True)
class Hiders:
    """Faces made ready to hide edges: their pyramids, the boxes round them as seen, and which have four corners."""

    faces: Faces
    pyramids: Pyramids
    boxes: NDArray[np.object_]
    few: Flags

    @classmethod
    def of(cls, faces: Faces) -> Hiders:
        """Those of these faces that hide anything; they are cut before the eye."""
        solid = faces.part(~faces.laid_on & ~_behind_its_own(faces))
        few = (solid.corners[:, 4:] == solid.corners[:, 3:4]).all((1, 2))
        return cls(solid, Pyramids.of(solid), screen_boxes(solid.corners), few)

    def part(self, chosen: Flags) -> Hiders:
        """Some of them."""
        return Hiders(self.faces.part(chosen), self.pyramids.part(chosen), self.boxes[chosen], self.few[chosen])


def hidden_stretches(edges: Edges, hiders: Hiders) -> Stretches:
    """Where faces hide edges, face by face; both are cut before the eye."""
    solid, pyramids = hiders.faces, hiders.pyramids
    found = [(np.zeros(0, np.intp), np.zeros(0), np.zeros(0), np.zeros(0, np.intp))]
    first, second = _overlapping(edges.ends, hiders)
    first, second, behind = pyramids.may_hide(edges, first, second, solid.rounds)
    few = hiders.few[second]
    for some, sides in ((few, FOUR_SIDES), (~few, ALL_SIDES)):
        chosen = np.flatnonzero(some)
        for start in range(0, len(chosen), PAIRS_AT_ONCE):
            pair = chosen[start : start + PAIRS_AT_ONCE]
            hidden, low, high = pyramids.hides(edges, first[pair], second[pair], behind[pair], sides)
            found.append((first[pair][hidden], low, high, solid.things[second[pair][hidden]]))
    return Stretches(*(np.concatenate(each) for each in zip(*found, strict=True)))


def split(edges: Edges, stretches: list[Stretches], up: Array | None = None, eye_m: float = 0.0) -> Parts:
    """Edges in seen and hidden parts, from where they are hidden; the ground as in ``seen_parts``."""
    which, low, high = ([getattr(each, name) for each in stretches] for name in ("edges", "low", "high"))
    if up is not None and len(edges):
        below, a, b = _under(edges.ends, up, eye_m)
        which, low, high = [*which, below], [*low, a], [*high, b]
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


def _overlapping(ends: Array, hiders: Hiders) -> tuple[Numbers, Numbers]:
    """Pairs of edges and faces that may meet on the picture, the edge not wholly nearer than the face."""
    if not len(ends) or not len(hiders.boxes):
        none = np.zeros(0, np.intp)
        return none, none
    tree = shapely.STRtree(hiders.boxes)
    e, f = tree.query(screen_boxes(ends))
    behind = ends[..., 2].max(1)[e] > hiders.faces.corners[..., 2].min(1)[f]
    return e[behind], f[behind]


@dataclass(frozen=True, eq=False, slots=True)
class Pyramids:
    """Of each face the planes through the eye and its sides (n, k, 3), inward; its own plane: normal, distance."""

    sides: Array
    normals: Array
    away: Array

    @classmethod
    def of(cls, faces: Faces) -> Pyramids:
        """Those of these faces."""
        corners = faces.corners
        sides = np.cross(corners, np.roll(corners, -1, 1))
        size = np.linalg.norm(sides, axis=2, keepdims=True)
        sides = np.where(size > 1e-14, sides / np.maximum(size, 1e-14), 0.0)
        middle = corners.mean(1)
        inward = np.sign((sides * middle[:, None]).sum(2))[..., None]
        away = (faces.normals * corners[:, 0]).sum(1)
        flip = np.sign(away)
        return cls(sides * inward, faces.normals * flip[:, None], np.abs(away))

    def part(self, chosen: Flags) -> Pyramids:
        """Some of them."""
        return Pyramids(self.sides[chosen], self.normals[chosen], self.away[chosen])

    def may_hide(self, edges: Edges, e: Numbers, f: Numbers, rounds: Numbers) -> tuple[Numbers, Numbers, Array]:
        """The pairs in which some of the edge lies behind the face's plane, and how far both ends (n, 2) do."""
        own = (edges.rounds[e] >= 0) & (edges.rounds[e] == rounds[f])
        slack = edges.slack_m[e]
        kept = (self.away[f] > EDGE_ON_M) & ~(own & np.isinf(slack))
        e, f, slack = e[kept], f[kept], BEHIND_M + np.where(own & np.isfinite(slack), slack, 0.0)[kept]
        (x, y, z), far = self.normals.T[:, f], self.away[f] + slack
        behind = np.stack(
            [end[0] * x + end[1] * y + end[2] * z - far for end in edges.ends.transpose(1, 2, 0)[..., e]], 1
        )
        kept = np.asarray((behind > 0).any(1))
        return e[kept], f[kept], behind[kept]

    def hides(
        self, edges: Edges, e: Numbers, f: Numbers, behind: Array, sides: list[int]
    ) -> tuple[Numbers, Array, Array]:
        """Which of the pairs are such that face f hides some of edge e, and from where to where."""
        # Sides first, pairs last: what is gone through side by side lies together then.
        x, y, z = (self.sides[:, sides, axis].T[:, f] for axis in range(3))
        a, b = (x * end[0] + y * end[1] + z * end[2] + SEAM for end in edges.ends.transpose(1, 2, 0)[..., e])
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


@dataclass(frozen=True, eq=False, slots=True)
class Meetings:
    """Segments (n, 2, 3) where two things go through one another, the thing listed first and the other (n,)."""

    ends: Array
    first: Numbers
    second: Numbers

    def part(self, chosen: Flags) -> Meetings:
        """Some of them."""
        return Meetings(self.ends[chosen], self.first[chosen], self.second[chosen])


def meetings(faces: Faces, changed: Flags | None = None) -> Meetings:
    """Where faces of different things go through one another; of pairs with a ``changed`` thing only, where given.

    Two convex faces meet along the line of both planes, between the places where it leaves either; where one only
    touches the other along its border, that border is drawn already.
    """
    solid = faces.part(~faces.laid_on)
    if len(solid) < 2:
        return Meetings(np.zeros((0, 2, 3)), np.zeros(0, np.intp), np.zeros(0, np.intp))
    corners = solid.corners
    first, second = _near_other_things(solid, changed)
    reaching = _reaches(corners, solid.normals, first, second)
    first, second = first[reaching], second[reaching]
    reaching = _reaches(corners, solid.normals, second, first)
    first, second = first[reaching], second[reaching]
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
    return Meetings(ends[real], solid.things[first[found][real]], solid.things[second[found][real]])


def _near_other_things(faces: Faces, changed: Flags | None) -> tuple[Numbers, Numbers]:
    """Pairs of faces of different things whose upright boxes meet, the first of the thing listed earlier.

    Searched from above, where far fewer lie over one another than as seen from the eye, and only among faces that
    come into the box round the other thing. Faces of one thing stand together.
    """
    low, high = faces.corners.min(1), faces.corners.max(1)
    starts = np.flatnonzero(np.diff(faces.things, prepend=-1))
    ends = np.append(starts[1:], len(faces))
    number = np.repeat(np.arange(len(starts)), ends - starts)
    least, most = np.minimum.reduceat(low, starts), np.maximum.reduceat(high, starts)
    boxes = shapely.box(low[:, 0], low[:, 2], high[:, 0], high[:, 2])
    face, thing = shapely.STRtree(shapely.box(least[:, 0], least[:, 2], most[:, 0], most[:, 2])).query(boxes)
    meets = (number[face] < thing) & (low[face, 1] <= most[thing, 1]) & (high[face, 1] >= least[thing, 1])
    if changed is not None:
        listed = changed[faces.things[starts]]
        meets &= listed[number[face]] | listed[thing]
    face, thing = face[meets], thing[meets]
    first, second = [np.zeros(0, np.intp)], [np.zeros(0, np.intp)]
    for each in np.unique(thing).tolist():
        mine = face[thing == each]
        a, b = shapely.STRtree(boxes[starts[each] : ends[each]]).query(boxes[mine])
        first.append(mine[a])
        second.append(starts[each] + b)
    one, other = np.concatenate(first), np.concatenate(second)
    near = (low[one, 1] <= high[other, 1]) & (low[other, 1] <= high[one, 1])
    return one[near], other[near]


def _reaches(corners: Array, normals: Array, first: Numbers, second: Numbers) -> Flags:
    """Whether the second face has corners on both sides of the first one's plane: most do not."""
    off = np.einsum("nki,ni->nk", corners[second], normals[first]) - (normals * corners[:, 0]).sum(1)[first, None]
    return np.asarray((off.min(1) < 0) & (off.max(1) > 0))


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
