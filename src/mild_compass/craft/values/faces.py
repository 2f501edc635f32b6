"""Faces of a planar subdivision from its half-edges: each face takes the border's own points, to the bit."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.kernels import subdivision
from mild_compass.craft.values.tracing import OUTSIDE

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.values.tracing import Chains

    Array = NDArray[np.float64]
    Flags = NDArray[np.bool_]
    Numbers = NDArray[np.int64]

NONE = -1  # the number of no face
LEAST_POINTS = 3  # of an area


def faces_of(
    chains: Chains, points: Array, first: Numbers, count: int, moved_px: float
) -> tuple[NDArray[np.object_], Flags]:
    """The polygon (count,) of each label, from lines drawn for the chains that do not cross: line k holds points (n, 2)
    from ``first[k]`` to ``first[k + 1]``; and which are not sure to be valid.

    None where it would lie inside out or be none; and not sure where a hole is so narrow that it may have passed by
    another line whole, when two lines moved by ``moved_px`` against each other.
    """
    beside = np.stack([chains.left, chains.right], 1).reshape(-1)
    ends, begins, labels = subdivision.face_walks(*_at_nodes(chains), beside, OUTSIDE)
    around, rings, areas = subdivision.rings(points, first, ends, begins)
    shells = areas < 0  # y goes down: with its face to the left a shell runs against the clock
    sound = np.bincount(labels[shells], minlength=count) == 1
    sound[labels[np.diff(rings) < LEAST_POINTS]] = False
    order = np.lexsort((~shells, labels))
    order = order[sound[labels[order]]]
    found = np.full(count, None, object)
    if len(order):
        parts, sizes = np.split(around, rings[1:-1]), np.diff(rings)[order]
        together = np.concatenate([parts[k] for k in order.tolist()])
        drawn = shapely.linearrings(together, indices=np.repeat(np.arange(len(order)), sizes))
        _, numbers = np.unique(labels[order], return_inverse=True)
        found[sound] = shapely.polygons(drawn, indices=numbers)
    sides = np.add.reduceat(np.diff(chains.first)[ends >> 1], begins[:-1])  # of pixels, twice its area over its width
    sound[labels[~shells & (areas <= moved_px * sides)]] = False
    return found, ~sound


def _at_nodes(chains: Chains) -> tuple[Numbers, Numbers, Numbers]:
    """The node of each end of each chain (2 m,), which way it goes from there, 0 right, 1 down, 2 left, 3 up, and the
    end that goes each way from each node (n, 4)."""
    node = chains.nodes
    inward = np.stack([chains.middles[chains.first[:-1]], chains.middles[chains.first[1:] - 1]], 1) - chains.ends
    x, y = inward.reshape(-1, 2).T
    way = np.where(np.abs(x) > np.abs(y), np.where(x > 0, 0, 2), np.where(y > 0, 1, 3))
    table = np.full((node.max() + 1, 4), NONE, np.int64)
    table[node, way] = np.arange(len(node))
    return node, way, table
