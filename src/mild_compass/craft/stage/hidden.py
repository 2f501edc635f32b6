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

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.stage.scene import Edges, Faces

    Array = NDArray[np.float64]
    Numbers = NDArray[np.intp]
    Flags = NDArray[np.bool_]

NEAR_M = 0.02  # nothing nearer to the eye than that is drawn
BEHIND_M = 1e-6  # as far behind a face a point must lie to be hidden by it
PAIRS_AT_ONCE = 200_000
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
    solid = faces.part(~faces.laid_on)
    pyramid = _Pyramids.of(solid)
    which, low, high = [np.zeros(0, np.intp)], [np.zeros(0)], [np.zeros(0)]
    first, second = _overlapping(edges.ends, solid.corners)
    for start in range(0, len(first), PAIRS_AT_ONCE):
        e, f = first[start : start + PAIRS_AT_ONCE], second[start : start + PAIRS_AT_ONCE]
        a, b, hidden = pyramid.hides(edges, e, f, solid.rounds)
        which.append(e[hidden])
        low.append(a[hidden])
        high.append(b[hidden])
    if up is not None and len(edges):
        below, a, b = _under(edges.ends, up, eye_m)
        which.append(below)
        low.append(a)
        high.append(b)
    return _split(len(edges), np.concatenate(which), np.concatenate(low), np.concatenate(high))


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

    def hides(self, edges: Edges, e: Numbers, f: Numbers, rounds: Numbers) -> tuple[Array, Array, NDArray[np.bool_]]:
        """From where to where face f hides edge e, for pairs, and whether it does at all."""
        ends = edges.ends
        a = np.einsum("nki,ni->nk", self.sides[f], ends[e, 0]) + SEAM
        b = np.einsum("nki,ni->nk", self.sides[f], ends[e, 1]) + SEAM
        own = (edges.rounds[e] >= 0) & (edges.rounds[e] == rounds[f])
        slack = BEHIND_M + np.where(own & np.isfinite(edges.slack_m[e]), edges.slack_m[e], 0.0)
        behind_a = (self.normals[f] * ends[e, 0]).sum(1) - self.away[f] - slack
        behind_b = (self.normals[f] * ends[e, 1]).sum(1) - self.away[f] - slack
        a, b = np.column_stack([a, behind_a]), np.column_stack([b, behind_b])
        with np.errstate(divide="ignore", invalid="ignore"):
            share = a / (a - b)
        low = np.where(a < 0, np.where(b > 0, share, 2.0), 0.0).max(1)
        high = np.where(b < 0, np.where(a > 0, share, -1.0), 1.0).min(1)
        free = own & np.isinf(edges.slack_m[e])
        edge_on = self.away[f] < 1e-9  # seen edge-on it hides nothing
        return low, high, (high - low > 1e-12) & ~edge_on & ~free


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
