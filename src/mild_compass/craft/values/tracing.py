"""The borders of a label map as runs of pixel sides: from junction to junction, each once, with what lies beside it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import shapely

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Numbers = NDArray[np.int64]

OUTSIDE = -1
TANGENT_SIDES = 6  # so many pixel sides tell where a border is going
LEAST_RISE = 1.0  # of L*, from pixel to pixel: flatter, and it is noise that tells where
MOST_TURN_DEG = 50.0  # a border goes on through a junction where another ends at it


@dataclass(frozen=True, eq=False, slots=True)
class Chains:
    """Borders as chains of pixel sides.

    ``middles`` (n, 2) are the middles of all sides, chain after chain; ``passed`` (n, 2) is where near each the picture
    passes from the one value to the other. Chain k holds those from ``first[k]`` to ``first[k + 1]``; ``lines`` (m,)
    are the chains along the pixels, ``ends`` (m, 2, 2) their two ends, ``left`` and ``right`` (m,) the labels beside
    each as one walks along it, y down, OUTSIDE beyond the picture.
    """

    middles: Array
    passed: Array
    lines: NDArray[np.object_]
    first: Numbers
    ends: Array
    left: Numbers
    right: Numbers

    def __len__(self) -> int:
        return len(self.left)


def chains_of_labels(labels: NDArray[np.int32], crossing: Crossing | None = None) -> Chains:
    """All borders of a map of labels (h, w), and its outer edge."""
    sides = _sides(labels)
    entries, chain = _linked(sides, labels.shape[1] + 1)
    corners = sides.reshape(-1, 2)
    start, way = corners[entries], corners[entries ^ 1] - corners[entries]
    length = np.abs(way).sum(1).round().astype(np.int64)
    step = way / length[:, None]
    number = np.arange(length.sum()) - np.repeat(np.cumsum(length) - length, length)
    middles = np.repeat(start, length, 0) + (number + 0.5)[:, None] * np.repeat(step, length, 0)
    first = np.concatenate([[0], np.cumsum(np.bincount(chain, length))]).astype(np.int64)
    begins = np.flatnonzero(np.diff(chain, prepend=-1))
    stops = np.append(begins[1:], len(chain)) - 1
    ends = np.stack([start[begins], (start + way)[stops]], 1)
    points = np.insert(start, stops + 1, ends[:, 1], 0)
    lines = np.asarray(shapely.linestrings(points, indices=np.insert(chain, stops + 1, chain[stops])))
    ahead = np.repeat(step, length, 0)
    aside = np.stack([ahead[:, 1], -ahead[:, 0]], 1)
    beside = [np.floor(middles + side * aside).astype(np.int64) for side in (0.5, -0.5)]
    padded = np.pad(labels.astype(np.int64), 1, constant_values=OUTSIDE)
    left, right = (padded[each[first[:-1], 1] + 1, each[first[:-1], 0] + 1] for each in beside)
    shifts = np.zeros(len(middles)) if crossing is None else crossing.shifts(beside[0], beside[1])
    return Chains(middles, middles + shifts[:, None] * aside, lines, first, ends, left, right)


@dataclass(frozen=True, eq=False, slots=True)
class Crossing:
    """L* (h, w), the value of each pixel (h, w) and the L* of each value: where a picture passes between two values."""

    lightness: NDArray[np.float32]
    steps: NDArray[np.uint8]
    shown: tuple[float, ...]

    def shifts(self, left: Numbers, right: Numbers) -> Array:
        """How far toward the left pixel (n, 2) from half way the picture passes the middle between the two values, in
        pixels: at most half of one, and nought where it does not pass there."""
        height, width = self.steps.shape
        both = [(each >= 0).all(1) & (each[:, 0] < width) & (each[:, 1] < height) for each in (left, right)]
        found = np.zeros(len(left))
        inside = np.flatnonzero(both[0] & both[1])
        values, steps = [], []
        for each in (left[inside], right[inside]):
            values.append(self.lightness[each[:, 1], each[:, 0]].astype(np.float64))
            steps.append(self.steps[each[:, 1], each[:, 0]])
        shown = np.array(self.shown)
        level = (shown[steps[0]] + shown[steps[1]]) / 2
        rise = values[0] - values[1]
        share = (level - values[1]) / np.where(np.abs(rise) < 1e-6, 1.0, rise)
        passes = (np.abs(rise) >= LEAST_RISE) & (share >= 0) & (share <= 1) & (rise * (shown[steps[0]] - level) > 0)
        found[inside] = np.where(passes, share - 0.5, 0.0)
        return found


def _sides(labels: NDArray[np.int32]) -> Array:
    """Straight runs of pixel sides between different labels, and round the picture, as segments (n, 2, 2).

    A run ends where the border turns or where more than two borders meet.
    """
    padded = np.pad(labels, 1, constant_values=OUTSIDE)
    level = padded[1:, 1:-1] != padded[:-1, 1:-1]
    upright = padded[1:-1, 1:] != padded[1:-1, :-1]
    degree = np.zeros((labels.shape[0] + 1, labels.shape[1] + 1), np.int8)
    degree[:, :-1] += level
    degree[:, 1:] += level
    degree[:-1] += upright
    degree[1:] += upright
    across = _runs(level, degree == 2)
    down = _runs(upright.T, degree.T == 2)[..., ::-1]
    return np.concatenate([across, down])


def _runs(sides: NDArray[np.bool_], plain: NDArray[np.bool_]) -> Array:
    """Runs along the rows: sides (m, n) lie between vertices (m, n + 1), which they pass where these are plain."""
    blank = np.zeros((sides.shape[0], 1), bool)
    before, after = np.hstack([blank, sides]), np.hstack([sides, blank])
    through = before & after & plain
    start_rows, starts = np.nonzero(after & ~through)
    end_rows, stops = np.nonzero(before & ~through)
    return np.stack([np.stack([starts, start_rows], -1), np.stack([stops, end_rows], -1)], 1).astype(np.float64)


def _linked(sides: Array, width: int) -> tuple[Numbers, Numbers]:
    """Segments (n, 2, 2) put one behind another where exactly two meet, and round and round where they close: the ends
    by which they are entered, 2k for the start of segment k and 2k + 1 for its end, and the chain of each."""
    node = (sides[..., 1] * width + sides[..., 0]).astype(np.int64).reshape(-1)
    order = np.argsort(node, kind="stable")
    same = np.concatenate([[False], node[order][1:] == node[order][:-1], [False]])
    two = np.flatnonzero(~same[:-2] & same[1:-1] & ~same[2:]) if len(order) > 1 else np.zeros(0, np.int64)
    partner = np.full(len(node), -1)
    partner[order[two]], partner[order[two + 1]] = order[two + 1], order[two]
    goes_on = partner.tolist()
    done = bytearray(len(sides))
    entries: list[int] = []
    chain: list[int] = []
    count = 0
    for begin in (*np.flatnonzero(partner < 0).tolist(), *range(0, len(node), 2)):
        entry = begin
        while entry >= 0 and not done[entry >> 1]:
            done[entry >> 1] = 1
            entries.append(entry)
            chain.append(count)
            entry = goes_on[entry ^ 1]
        if entries and chain[-1] == count:
            count += 1
    return np.array(entries, np.int64), np.array(chain, np.int64)


@dataclass(frozen=True, slots=True)
class Strokes:
    """Chains drawn in one go: for each stroke the ends by which its chains are entered, 2k for the start of chain k and
    2k + 1 for its end, and whether it closes."""

    runs: tuple[tuple[int, ...], ...]
    closed: tuple[bool, ...]


def strokes_of(chains: Chains, size: tuple[int, int]) -> Strokes:
    """Borders that go on through a junction made one, as a hand draws them; the outer edge is left out.

    ``size`` is the width and height of the map.
    """
    inner = (chains.left != OUTSIDE) & (chains.right != OUTSIDE)
    partner = _partners(chains, inner, size)
    done = ~inner
    runs: list[tuple[int, ...]] = []
    closed: list[bool] = []
    entries = [2 * k for k in np.flatnonzero(inner).tolist()]
    starts = [entry for k in entries for entry in (k, k + 1) if entry not in partner]
    for start in (*starts, *entries):
        if done[start // 2]:
            continue
        run, entry, rings = [], start, False
        while not done[entry // 2]:
            done[entry // 2] = True
            run.append(entry)
            leaving = entry ^ 1
            if leaving not in partner:
                break
            entry = partner[leaving]
            rings = entry == start
        runs.append(tuple(run))
        closed.append(rings)
    return Strokes(tuple(runs), tuple(closed))


def _partners(chains: Chains, inner: NDArray[np.bool_], size: tuple[int, int]) -> dict[int, int]:
    """For each end of a chain the end by which its stroke goes on, where it does."""
    at: dict[tuple[float, float], list[int]] = {}
    for k in np.flatnonzero(inner).tolist():
        (x0, y0), (x1, y1) = chains.ends[k].tolist()
        at.setdefault((x0, y0), []).append(2 * k)
        at.setdefault((x1, y1), []).append(2 * k + 1)
    ways = _ways(chains)
    least = -float(np.cos(np.radians(MOST_TURN_DEG)))
    partner: dict[int, int] = {}
    for (x, y), ends in at.items():
        if len(ends) == 2 and ends[0] ^ 1 == ends[1]:  # a ring by itself
            partner[ends[0]], partner[ends[1]] = ends[1], ends[0]
            continue
        if not (0 < x < size[0] and 0 < y < size[1]):
            continue
        pairs = sorted((float(ways[a] @ ways[b]), a, b) for i, a in enumerate(ends) for b in ends[i + 1 :])
        for turn, a, b in pairs:
            if turn <= least and a not in partner and b not in partner:
                partner[a], partner[b] = b, a
    return partner


def _ways(chains: Chains) -> Array:
    """Unit vectors (2m, 2) from each end of each chain into it."""
    count = np.diff(chains.first)
    reach = np.minimum(TANGENT_SIDES, count) - 1
    inward = [chains.middles[chains.first[:-1] + reach], chains.middles[chains.first[1:] - 1 - reach]]
    ways = np.stack(inward, 1) - chains.ends
    ways = ways / np.maximum(np.hypot(ways[..., 0], ways[..., 1]), 1e-9)[..., None]
    return np.asarray(ways.reshape(-1, 2))
