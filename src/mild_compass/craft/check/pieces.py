"""The plan's lines in pieces that can be looked for on their own: no corner within, at most so long."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

SAMPLES = 16  # places along a piece
MOST_MM, LEAST_MM = 16.0, 3.0
CORNER_DEG, CORNER_MM = 35.0, 1.5
BEND_DEG = 28.0  # a piece that turns more is not moved alike along its normals
MEET_MM = 1.2  # ends of pieces nearer than that meet
NEAR = 6  # pieces beside each one that are asked to go along with it


@dataclass(frozen=True, eq=False, slots=True)
class PlanLine:
    """A line of the plan (n, 2) in mm on the sheet, the layer it is in, and what it is called, if anything."""

    points_mm: Array
    layer: str
    name: str = ""


@dataclass(frozen=True, eq=False, slots=True)
class Pieces:
    """Pieces of lines: places (n, SAMPLES, 2) and normals in mm, lengths, and the line each belongs to."""

    at: Array
    normal: Array
    length: Array
    line: NDArray[np.int64]
    middle: Array  # (n, 2)
    across: Array  # (n, 2): the normal at the middle

    def __len__(self) -> int:
        return len(self.length)

    def some(self, most: int) -> Pieces:
        """At most so many of them, evenly from all."""
        if len(self) <= most:
            return self
        picked = np.linspace(0, len(self) - 1, most).astype(int)
        return Pieces(*(part[picked] for part in (self.at, self.normal, self.length, self.line, self.middle, self.across)))


def resampled(points: Array, places: Array) -> Array:
    """Points of a polyline at given ways along it, in mm."""
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    return np.stack([np.interp(places, way, points[:, axis]) for axis in range(2)], 1)


def _length(points: Array) -> float:
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


def _cuts(points: Array) -> list[float]:
    """Ways along a line at which it turns sharply, its two ends among them."""
    total = _length(points)
    count = max(2, int(total / 0.5) + 1)
    way = np.linspace(0, total, count)
    here = resampled(points, way)
    back, ahead = resampled(points, np.clip(way - CORNER_MM, 0, total)), resampled(points, np.clip(way + CORNER_MM, 0, total))
    one, other = here - back, ahead - here
    turn = abs(np.degrees(np.arctan2(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0], (one * other).sum(1))))
    turn[(way < CORNER_MM) | (way > total - CORNER_MM)] = 0
    cuts = [0.0]
    for n in range(1, count - 1):
        near = turn[max(0, n - 3) : n + 4]
        if turn[n] > CORNER_DEG and turn[n] == near.max() and way[n] - cuts[-1] > CORNER_MM:
            cuts.append(float(way[n]))
    return [*cuts, total]


def _bends(points: Array, low: float, high: float) -> int:
    """In how many pieces a run must be cut for none of them to turn by more than BEND_DEG."""
    step = np.diff(resampled(points, np.linspace(low, high, max(3, int(high - low) + 1))), axis=0)
    angle = np.unwrap(np.arctan2(step[:, 1], step[:, 0]))
    return int(np.ceil(np.ptp(angle) / np.radians(BEND_DEG)))


def pieces_of(lines: list[PlanLine]) -> Pieces:
    """All lines in pieces; those shorter than LEAST_MM are left out."""
    at, owner, length = [], [], []
    for number, line in enumerate(lines):
        points = np.asarray(line.points_mm, np.float64)
        if len(points) < 2 or _length(points) < LEAST_MM:
            continue
        cuts = _cuts(points)
        for a, b in zip(cuts[:-1], cuts[1:], strict=True):
            if b - a < LEAST_MM:
                continue
            parts = max(int(np.ceil((b - a) / MOST_MM)), min(_bends(points, a, b), int((b - a) / LEAST_MM)))
            for k in range(parts):
                low, high = a + (b - a) * k / parts, a + (b - a) * (k + 1) / parts
                inset = 0.04 * (high - low)
                at.append(resampled(points, np.linspace(low + inset, high - inset, SAMPLES)))
                owner.append(number)
                length.append(high - low)
    places = np.array(at).reshape(-1, SAMPLES, 2)
    step = np.gradient(places, axis=1) if len(places) else places
    normal = np.stack([-step[..., 1], step[..., 0]], 2)
    normal /= np.maximum(np.hypot(normal[..., 0], normal[..., 1]), 1e-9)[..., None]
    half = slice(SAMPLES // 2 - 1, SAMPLES // 2 + 1)
    across = normal[:, half].mean(1)
    across /= np.maximum(np.hypot(*across.T), 1e-9)[:, None]
    return Pieces(places, normal, np.array(length), np.array(owner, np.int64), places[:, half].mean(1), across)


def neighbours(pieces: Pieces) -> tuple[NDArray[np.int64], Array]:
    """Pairs of pieces (m, 2) that are likely to have been moved together, and how likely (m,) in mm of line."""
    from scipy.spatial import cKDTree

    if len(pieces) < 2:
        return np.zeros((0, 2), np.int64), np.zeros(0)
    ends = np.concatenate([pieces.at[:, 0], pieces.at[:, -1]])
    owner = np.tile(np.arange(len(pieces)), 2)
    weights: dict[tuple[int, int], float] = {}
    for a, b in cKDTree(ends).query_pairs(MEET_MM):
        i, j = sorted((int(owner[a]), int(owner[b])))
        if i != j:
            weights[i, j] = max(weights.get((i, j), 0.0), 4.0 if pieces.line[i] == pieces.line[j] else 2.0)
    near = cKDTree(pieces.middle).query(pieces.middle, min(NEAR + 1, len(pieces)))
    for i, (far, others) in enumerate(zip(*near, strict=True)):
        for distance, j in zip(far[1:], others[1:], strict=True):
            pair = (min(i, int(j)), max(i, int(j)))
            weights[pair] = weights.get(pair, 0.0) + 0.5 * float(np.exp(-distance / 12.0))
    return np.array(list(weights), np.int64).reshape(-1, 2), np.array(list(weights.values()))
