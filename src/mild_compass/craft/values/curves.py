"""Crack-edge chains as smooth curves through the junctions of a planar subdivision, or anything between these and
the pixels."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.kernels import curves as kernels
from mild_compass.craft.values.smoothing import Corners, Runs, before_each, corners_of, smoothed
from mild_compass.craft.values.tracing import OUTSIDE, shared_ends

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.values.tracing import Chains, Strokes

    Array = NDArray[np.float64]
    Numbers = NDArray[np.int64]

ROUNDS, SHARP_COS = 2, float(np.cos(np.radians(22)))  # turns between places that are no corners are cut off so often
STRAYS = 0.44  # of the rounding: what is cut off between two places may add a little to that, up to a half
LEAVE_PX = 0.04  # points of a curve are left out that lie no further off it


class Curves:
    """All borders as curves, and as anything between these and their pixels."""

    def __init__(self, chains: Chains, strokes: Strokes, rounding_px: float) -> None:
        self._chains = chains
        self._node = chains.nodes
        self._nodes = np.empty((self._node.max() + 1, 2))
        self._nodes[self._node] = chains.ends.reshape(-1, 2)
        self._nodes_now = self._nodes
        self._moved = chains.middles
        self._corners = Corners(np.zeros(0, np.int64), np.zeros((0, 2)))
        self.rounding_px = rounding_px
        if rounding_px > 0 and strokes.runs:
            self._smooth(_Drawn(chains, strokes, self._node), rounding_px)

    def _smooth(self, drawn: _Drawn, rounding_px: float) -> None:
        most = STRAYS * rounding_px
        whole = drawn.runs(self._nodes)
        corners = corners_of(whole, rounding_px)
        pixels = np.take(self._chains.middles, drawn.order, axis=0)  # much faster than by square brackets
        vertex = shared_ends(pixels[corners.before], pixels[before_each(whole, corners.before)])
        corners = Corners(corners.before, kernels.held_near(corners.points, vertex, most))
        for _ in range(2):  # a border that ends at another's curve is drawn again to where that lies
            moved = kernels.held_near(smoothed(drawn.runs(self._nodes_now), corners, rounding_px), pixels, most)
            self._nodes_now = drawn.passed(self._nodes, moved, corners, most)
        self._moved = self._chains.middles.copy()
        self._moved[drawn.order] = moved
        # In a chain that its stroke runs through backwards a corner lies behind the place, not before it.
        before = drawn.order[corners.before] + drawn.backwards[corners.before]
        order = np.argsort(before, kind="stable")
        self._corners = Corners(before[order], corners.points[order])

    def lines(self, held: Array) -> tuple[Array, Numbers]:
        """The points (n, 2) of all borders as lines, one after another, and where each begins; ``held`` (m,) is how
        much of its curve each keeps, 0 for its pixels."""
        chains = self._chains
        share = np.repeat(held, np.diff(chains.first))[:, None]
        places = chains.middles + share * (self._moved - chains.middles)
        inner = (chains.left != OUTSIDE) & (chains.right != OUTSIDE)
        ends = self._held_nodes(held)[self._node].reshape(-1, 2, 2)
        points, fast, which = kernels.assembled(
            *(places, chains.first, ends, inner, held == 1, self._corners.before, self._corners.points)
        )
        for _ in range(ROUNDS):
            points, fast, which = kernels.with_corners_cut(points, fast, which, SHARP_COS)
        points, which = kernels.simplified(points, which, LEAVE_PX)
        if (held > 0).all():
            return points, np.searchsorted(which, np.arange(len(held) + 1))
        lines = np.where(held > 0, shapely.linestrings(points, indices=which), chains.lines)
        return shapely.get_coordinates(lines), np.cumsum([0, *shapely.get_num_coordinates(lines)])

    def _held_nodes(self, held: Array) -> Array:
        """All junctions, each as far on its curve as the most held of its borders."""
        least = np.ones(len(self._nodes))
        np.minimum.at(least, self._node, np.repeat(held, 2))
        return np.asarray(self._nodes + least[:, None] * (self._nodes_now - self._nodes))


class _Drawn:
    """Strokes as they are drawn: the places in their order, and where they pass from one chain to the next."""

    def __init__(self, chains: Chains, strokes: Strokes, node: Numbers) -> None:
        entries = np.array([entry for run in strokes.runs for entry in run], np.int64)
        size = np.diff(chains.first)[entries >> 1]
        at = np.cumsum(size) - size
        step = np.where(entries & 1, -1, 1)
        start = np.where(entries & 1, chains.first[(entries >> 1) + 1] - 1, chains.first[entries >> 1])
        number = np.arange(size.sum()) - np.repeat(at, size)
        self.order: Numbers = np.repeat(start, size) + np.repeat(step, size) * number
        self.backwards: Numbers = np.repeat(entries & 1, size)
        begins = np.cumsum([0, *(len(run) for run in strokes.runs)])
        self._first = np.append(at, size.sum())[begins].astype(np.int64)
        self._closed = np.array(strokes.closed, bool)
        self._ends = np.stack([node[entries[begins[:-1]]], node[entries[begins[1:] - 1] ^ 1]], 1)
        self._places = np.take(chains.passed, self.order, axis=0)
        # Each chain but a stroke's first goes on from another; of one that closes also that.
        goes_on = np.ones(len(entries), bool)
        goes_on[begins[:-1]] = self._closed
        before = at - 1
        before[begins[:-1]] = self._first[1:] - 1
        self._joints, self._before, self._behind = node[entries[goes_on]], before[goes_on], at[goes_on]

    def runs(self, nodes: Array) -> Runs:
        """The strokes as runs, with their ends at junctions (n, 2) that lie so."""
        return Runs(self._places, self._first, nodes[self._ends], self._closed)

    def passed(self, nodes: Array, moved: Array, corners: Corners, most: float) -> Array:
        """Where the junctions lie that a stroke passes through, no further than so much from where they were."""
        spots = (moved[self._behind] + moved[self._before]) / 2
        cornered = np.isin(self._behind, corners.before)
        spots[cornered] = corners.points[np.searchsorted(corners.before, self._behind[cornered])]
        joints, first = np.unique(self._joints, return_index=True)  # of two strokes the first one holds
        found = nodes.copy()
        found[joints] = kernels.held_near(spots[first], nodes[joints], most)
        return found
