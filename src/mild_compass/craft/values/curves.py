"""Chains of pixel sides as curves, drawn through junctions as a hand would, or anything between these and pixels."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.values.smoothing import Corners, Runs, before_each, corners_of, smoothed
from mild_compass.craft.values.tracing import OUTSIDE

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.values.tracing import Chains, Strokes

    Array = NDArray[np.float64]
    Numbers = NDArray[np.int64]
    Node = tuple[float, float]

ROUNDS, SHARP_RAD = 2, np.radians(22)  # turns between places that are no corners are cut off so often
STRAYS = 0.44  # of the rounding: what is cut off between two places may add a little to that, up to a half
LEAVE_PX = 0.04  # points of a curve are left out that lie no further off it


class Curves:
    """All borders as curves, and as anything between these and their pixels."""

    def __init__(self, chains: Chains, strokes: Strokes, rounding_px: float) -> None:
        self._chains, self._strokes = chains, strokes
        self._order = _places_in_order(chains, strokes)
        self._nodes: list[Node] = [(x, y) for x, y in chains.ends.reshape(-1, 2).tolist()]
        self._corners: dict[int, list[tuple[int, Array]]] = {}
        self._moved = chains.middles
        self._node_now: dict[Node, Node] = {}
        self.round = rounding_px > 0
        if rounding_px > 0 and strokes.runs:
            self._smooth(rounding_px)

    def _smooth(self, rounding_px: float) -> None:
        whole = self._runs()
        corners = corners_of(whole, rounding_px)
        pixels = self._chains.middles[self._order]
        vertex = _shared_ends(pixels[corners.before], pixels[before_each(whole, corners.before)])
        corners = Corners(corners.before, _near(corners.points, vertex, STRAYS * rounding_px))
        moved = np.zeros((len(self._order), 2))
        for _ in range(2):  # a border that ends at another's curve is drawn again to where that lies
            pieces, numbers = _cut(self._runs(), corners)
            moved[numbers] = smoothed(pieces, rounding_px)
            moved = _near(moved, pixels, STRAYS * rounding_px)
            self._node_now = self._passed(moved, corners, STRAYS * rounding_px)
        self._moved = self._chains.middles.copy()
        self._moved[self._order] = moved
        # In a chain that its stroke runs through backwards a corner lies behind the place, not before it.
        before = self._order[corners.before] + self._backwards()[corners.before]
        of = np.searchsorted(self._chains.first, before, side="right") - 1
        for chain, place, point in zip(of.tolist(), before.tolist(), corners.points, strict=True):
            self._corners.setdefault(chain, []).append((place, point))
        for each in self._corners.values():
            each.sort(key=lambda corner: corner[0])

    def _backwards(self) -> NDArray[np.bool_]:
        counts = np.diff(self._chains.first)
        return np.concatenate(
            [np.full(counts[entry // 2], entry % 2 == 1) for run in self._strokes.runs for entry in run]
        )

    def _runs(self) -> Runs:
        counts = np.diff(self._chains.first)
        sizes = [int(sum(counts[entry // 2] for entry in run)) for run in self._strokes.runs]
        ends = [[self._node(run[0]), self._node(run[-1] ^ 1)] for run in self._strokes.runs]
        first = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int64)
        places = self._chains.passed[self._order]
        return Runs(places, first, np.array(ends, np.float64).reshape(-1, 2, 2), np.array(self._strokes.closed, bool))

    def _node(self, end: int) -> Node:
        return self._node_now.get(self._nodes[end], self._nodes[end])

    def _passed(self, moved: Array, corners: Corners, most: float) -> dict[Node, Node]:
        """Where the junctions lie that a stroke passes through, no further than so much from where they were."""
        counts = np.diff(self._chains.first)
        corner = dict(zip(corners.before.tolist(), corners.points.tolist(), strict=True))
        found: dict[Node, Node] = {}
        at = 0
        for run, closed in zip(self._strokes.runs, self._strokes.closed, strict=True):
            begin = at
            stop = begin + int(sum(counts[entry // 2] for entry in run))
            for number, entry in enumerate(run):
                if number or closed:
                    previous = at - 1 if number else stop - 1
                    spot = np.array([corner.get(at, ((moved[at] + moved[previous]) / 2).tolist())])
                    x, y = _near(spot, np.array([self._nodes[entry]]), most)[0].tolist()
                    found.setdefault(self._nodes[entry], (x, y))
                at += int(counts[entry // 2])
        return found

    def lines(self, held: Array) -> NDArray[np.object_]:
        """All borders as lines; ``held`` (m,) is how much of its curve each keeps, 0 for its pixels."""
        chains = self._chains
        counts = np.diff(chains.first)
        share = np.repeat(held, counts)[:, None]
        places = chains.middles + share * (self._moved - chains.middles)
        nodes = self._held_nodes(held)
        inner = (chains.left != OUTSIDE) & (chains.right != OUTSIDE)
        parts: list[Array] = []
        fixed: list[NDArray[np.bool_]] = []
        for k in range(len(chains)):
            start, stop = int(chains.first[k]), int(chains.first[k + 1])
            ends = [np.array([nodes[2 * k]]), np.array([nodes[2 * k + 1]])]
            if not inner[k]:
                parts.append(_frame_part(chains, k, ends))
                fixed.append(np.ones(len(parts[-1]), bool))
                continue
            inside = [each for each in self._corners.get(k, ()) if start < each[0] < stop] if held[k] == 1 else []
            cuts = [start, *(before for before, _ in inside), stop]
            middle = [places[start : cuts[1]]]
            for number, (_, point) in enumerate(inside, 1):
                middle += [point[None], places[cuts[number] : cuts[number + 1]]]
            parts.append(np.concatenate([ends[0], *middle, ends[1]]))
            held_fast = np.zeros(len(parts[-1]), bool)
            held_fast[[0, -1, *(before - start + number for number, (before, _) in enumerate(inside, 1))]] = True
            fixed.append(held_fast)
        which = np.repeat(np.arange(len(parts)), [len(part) for part in parts])
        points, fast = np.concatenate(parts), np.concatenate(fixed)
        for _ in range(ROUNDS):
            points, fast, which = _rounded(points, fast, which)
        made = shapely.linestrings(points, indices=which)
        curves = np.asarray(shapely.simplify(made, LEAVE_PX, preserve_topology=False))
        return np.where(held > 0, curves, chains.lines)

    def _held_nodes(self, held: Array) -> list[Node]:
        """All ends of chains, each junction as far on its curve as the most held of its borders."""
        least: dict[Node, float] = {}
        for end, node in enumerate(self._nodes):
            least[node] = min(least.get(node, 1.0), float(held[end // 2]))
        found = []
        for x, y in self._nodes:
            nx, ny = self._node_now.get((x, y), (x, y))
            share = least[x, y]
            found.append((x + share * (nx - x), y + share * (ny - y)))
        return found


def _shared_ends(one: Array, other: Array) -> Array:
    """The ends (n, 2) that pairs of neighbouring pixel sides share, from the sides' middles."""
    level = np.abs(one[:, 1] - np.round(one[:, 1])) < 1e-9
    level_there = np.abs(other[:, 1] - np.round(other[:, 1])) < 1e-9
    turned = np.where(level[:, None], np.stack([other[:, 0], one[:, 1]], 1), np.stack([one[:, 0], other[:, 1]], 1))
    return np.where((level == level_there)[:, None], (one + other) / 2, turned)


def _near(points: Array, middles: Array, most: float) -> Array:
    """Points no further from the middles of their pixel sides than so much."""
    off = points - middles
    far = np.hypot(*off.T)
    return np.asarray(middles + off * np.minimum(1.0, most / np.maximum(far, 1e-12))[:, None])


def _rounded(points: Array, fast: NDArray[np.bool_], which: Numbers) -> tuple[Array, NDArray[np.bool_], Numbers]:
    """Lines, one after another, with the points at which they turn sharply cut off (G. Chaikin, Computer Graphics and
    Image Processing 3, 1974), but for those held fast."""
    before, behind = np.roll(points, 1, 0), np.roll(points, -1, 0)
    here, there = points - before, behind - points
    turn = np.arctan2(here[:, 0] * there[:, 1] - here[:, 1] * there[:, 0], (here * there).sum(1))
    cut = ~fast & (np.abs(turn) > SHARP_RAD)
    times = 1 + cut.astype(np.int64)
    at = np.repeat(np.arange(len(points)), times)
    made = points[at]
    first = np.cumsum(times)[cut] - 2
    made[first] = points[cut] + (before[cut] - points[cut]) / 4
    made[first + 1] = points[cut] + (behind[cut] - points[cut]) / 4
    return made, fast[at], which[at]


def _places_in_order(chains: Chains, strokes: Strokes) -> Numbers:
    """The numbers of the places of all strokes, one after another."""
    found = []
    for run in strokes.runs:
        for entry in run:
            numbers = np.arange(chains.first[entry // 2], chains.first[entry // 2 + 1])
            found.append(numbers[::-1] if entry % 2 else numbers)
    return np.concatenate(found).astype(np.int64) if found else np.zeros(0, np.int64)


def _cut(runs: Runs, corners: Corners) -> tuple[Runs, Numbers]:
    """Runs cut at corners, which then are ends of theirs, and the number each place had before; a closed run is cut
    open at its first corner."""
    first, count = runs.first[:-1], np.diff(runs.first)
    run_of = np.searchsorted(runs.first, corners.before, side="right") - 1
    cut_open = np.zeros(len(first), np.int64)  # how far on a ring begins at its first corner
    cornered = np.zeros(len(first), bool)
    cornered[run_of] = True
    opened = np.flatnonzero(runs.closed & cornered)
    cut_open[opened] = corners.before[np.searchsorted(run_of, opened)] - first[opened]
    of = np.repeat(np.arange(len(first)), count)
    order = first[of] + (np.arange(len(of)) - first[of] + cut_open[of]) % count[of]
    at = np.concatenate([first, corners.before - cut_open[run_of]])
    begins, where = np.unique(at, return_inverse=True)
    start = np.empty((len(begins), 2))
    start[where[: len(first)]] = runs.ends[:, 0]
    start[where[len(first) :]] = corners.points
    run = of[begins]
    last = np.append(run[1:] != run[:-1], True)
    stop = np.where(last[:, None], runs.ends[run, 1], np.roll(start, -1, 0))
    ring = last & (runs.closed & cornered)[run]
    stop[ring] = start[where[run[ring]]]
    pieces = Runs(
        runs.places[order],
        np.append(begins, len(of)).astype(np.int64),
        np.stack([start, stop], 1),
        (runs.closed & ~cornered)[run],
    )
    return pieces, order


def _frame_part(chains: Chains, k: int, ends: list[Array]) -> Array:
    """A stretch of the picture's own edge: its ends, and the corners of the picture on it."""
    places = chains.middles[chains.first[k] : chains.first[k + 1]]
    whole = np.concatenate([ends[0], places, ends[1]])
    way = np.diff(places, axis=0)
    turns = np.flatnonzero((np.abs(way) > 1e-9).all(1))
    corners = []
    for t in turns.tolist():
        a, b = places[t], places[t + 1]
        along = b - a
        level_first = abs(places[t][1] - round(places[t][1])) < 1e-9
        corners.append((t, np.array([a[0] + along[0], a[1]] if level_first else [a[0], a[1] + along[1]])))
    return np.concatenate([whole[:1], *(corner[None] for _, corner in corners), whole[-1:]])
