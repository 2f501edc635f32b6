"""Chains of pixel sides as curves, drawn through junctions as a hand would, or anything between these and pixels."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.compiled import compiled
from mild_compass.craft.values.smoothing import Corners, Runs, before_each, corners_of, smoothed
from mild_compass.craft.values.tracing import OUTSIDE, shared_ends

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.values.tracing import Chains, Strokes

    Array = NDArray[np.float64]
    Flags = NDArray[np.bool_]
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
        corners = Corners(corners.before, _near(corners.points, vertex, most))
        for _ in range(2):  # a border that ends at another's curve is drawn again to where that lies
            moved = _near(smoothed(drawn.runs(self._nodes_now), corners, rounding_px), pixels, most)
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
        points, fast, which = _assembled(
            *(places, chains.first, ends, inner, held == 1, self._corners.before, self._corners.points)
        )
        for _ in range(ROUNDS):
            points, fast, which = _rounded(points, fast, which)
        points, which = _thinned(points, which, LEAVE_PX)
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
        found[joints] = _near(spots[first], nodes[joints], most)
        return found


@compiled
def _near(points: Array, middles: Array, most: float) -> Array:
    """Points no further from the middles of their pixel sides than so much."""
    found = points.copy()
    for k in range(len(points)):
        off_x, off_y = points[k, 0] - middles[k, 0], points[k, 1] - middles[k, 1]
        far = np.sqrt(off_x**2 + off_y**2)
        if far > most:
            found[k, 0], found[k, 1] = middles[k, 0] + off_x * most / far, middles[k, 1] + off_y * most / far
    return found


@compiled
def _assembled(
    places: Array, first: Numbers, ends: Array, inner: Flags, curved: Flags, corner_before: Numbers, corner: Array
) -> tuple[Array, Flags, Numbers]:
    """The points of all lines, whether each is held fast, and the line it is of: a border's ends, its places, and in
    those that are ``curved`` its corners; of the picture's own edge its ends and the picture's corners."""
    room = len(places) + len(corner) + 2 * len(inner) + 4
    points, fast, which, count = np.empty((room, 2)), np.zeros(room, np.bool_), np.empty(room, np.int64), 0
    for k in range(len(inner)):
        points[count], fast[count], which[count] = ends[k, 0], True, k
        count += 1
        at = np.searchsorted(corner_before, first[k], "right")
        for place in range(first[k], first[k + 1]):
            x, y = places[place, 0], places[place, 1]
            if at < len(corner) and corner_before[at] == place:
                if curved[k] and inner[k]:
                    points[count, 0], points[count, 1] = corner[at, 0], corner[at, 1]
                    fast[count], which[count] = True, k
                    count += 1
                at += 1
            if inner[k]:
                points[count, 0], points[count, 1], fast[count], which[count] = x, y, False, k
                count += 1
            elif place > first[k] and abs(x - places[place - 1, 0]) > 1e-9 and abs(y - places[place - 1, 1]) > 1e-9:
                level = abs(y - np.round(y)) < 1e-9
                points[count, 0] = places[place - 1, 0] if level else x
                points[count, 1] = y if level else places[place - 1, 1]
                fast[count], which[count] = True, k
                count += 1
        points[count], fast[count], which[count] = ends[k, 1], True, k
        count += 1
    return points[:count], fast[:count], which[:count]


@compiled
def _rounded(points: Array, fast: Flags, which: Numbers) -> tuple[Array, Flags, Numbers]:
    """Lines, one after another, with the points at which they turn sharply cut off (G. Chaikin, Computer Graphics and
    Image Processing 3, 1974), but for those held fast, as their ends are."""
    made, held, of, count = (
        np.empty((2 * len(points), 2)),
        np.empty(2 * len(points), np.bool_),
        np.empty(2 * len(points), np.int64),
        0,
    )
    for k in range(len(points)):
        cut = False
        if not fast[k]:
            here_x, here_y = points[k, 0] - points[k - 1, 0], points[k, 1] - points[k - 1, 1]
            there_x, there_y = points[k + 1, 0] - points[k, 0], points[k + 1, 1] - points[k, 1]
            long = np.sqrt((here_x**2 + here_y**2) * (there_x**2 + there_y**2))
            cut = here_x * there_x + here_y * there_y < SHARP_COS * long
        if cut:
            made[count, 0], made[count, 1] = points[k, 0] - here_x / 4, points[k, 1] - here_y / 4
            made[count + 1, 0], made[count + 1, 1] = points[k, 0] + there_x / 4, points[k, 1] + there_y / 4
        else:
            made[count, 0], made[count, 1] = points[k, 0], points[k, 1]
        for _ in range(2 if cut else 1):
            held[count], of[count] = fast[k], which[k]
            count += 1
    return made[:count], held[:count], of[:count]


@compiled
def _thinned(points: Array, which: Numbers, most: float) -> tuple[Array, Numbers]:
    """Lines, one after another, without the points that lie no further than so much off the line between the two that
    stay (D. Douglas & T. Peucker, Cartographica 10, 1973)."""
    stays, parts = np.zeros(len(points), np.bool_), np.empty((len(points) + 1, 2), np.int64)
    start = 0
    while start < len(points):
        last = start
        while last + 1 < len(points) and which[last + 1] == which[start]:
            last += 1
        stays[start] = stays[last] = True
        parts[0, 0], parts[0, 1], left = start, last, 1
        while left:
            left -= 1
            low, high = parts[left, 0], parts[left, 1]
            furthest, far = _furthest(points, low, high)
            if far > most:
                stays[furthest] = True
                parts[left, 0], parts[left, 1] = low, furthest
                parts[left + 1, 0], parts[left + 1, 1] = furthest, high
                left += 2
        start = last + 1
    return points[stays], which[stays]


@compiled
def _furthest(points: Array, low: int, high: int) -> tuple[int, float]:
    """Which point between two lies furthest from the line between these, and how far; the first of equal ones."""
    x, y = points[low, 0], points[low, 1]
    along_x, along_y = points[high, 0] - x, points[high, 1] - y
    long = along_x**2 + along_y**2
    furthest, far = low, 0.0
    for k in range(low + 1, high):
        share = ((points[k, 0] - x) * along_x + (points[k, 1] - y) * along_y) / long if long > 0 else 0.0
        share = min(max(share, 0.0), 1.0)
        off = (points[k, 0] - x - share * along_x) ** 2 + (points[k, 1] - y - share * along_y) ** 2
        if off > far:
            furthest, far = k, off
    return furthest, np.sqrt(far)
