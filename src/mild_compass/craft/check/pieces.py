"""The plan's polylines segmented at corners into pieces that can be matched on their own (the aperture problem
bounds their length)."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    Array = NDArray[np.float64]

SAMPLES = 12  # places along a piece
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

    def only(self, which: NDArray[np.bool_] | NDArray[np.int64]) -> Pieces:
        """Some of them."""
        return Pieces(
            self.at[which],
            self.normal[which],
            self.length[which],
            self.line[which],
            self.middle[which],
            self.across[which],
        )

    def some(self, most: int) -> Pieces:
        """At most so many of them, evenly from all."""
        return self if len(self) <= most else self.only(np.linspace(0, len(self) - 1, most).astype(np.int64))


class _Run:
    """A polyline by the way along it."""

    def __init__(self, points: Array) -> None:
        self.points = points
        step = np.diff(points, axis=0)
        self.way = np.concatenate([[0.0], np.cumsum(np.hypot(step[:, 0], step[:, 1]))])
        self.length = float(self.way[-1])

    def at(self, way: Array) -> Array:
        """Points (…, 2) so far along it, in mm."""
        x, y = (np.interp(way, self.way, self.points[:, axis]) for axis in (0, 1))
        return np.stack([x, y], -1)


def _cut(run: _Run) -> list[tuple[float, float]]:
    """From where to where along a line its pieces go: cut where it turns sharply, and where it has turned much."""
    count = max(3, int(run.length / 0.5) + 1)
    way = np.linspace(0, run.length, count)
    here, back, ahead = run.at(np.stack([way, way - CORNER_MM, way + CORNER_MM]))
    one, other = here - back, ahead - here
    turn = abs(np.arctan2(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0], (one * other).sum(1)))
    turn[(way < CORNER_MM) | (way > run.length - CORNER_MM)] = 0
    cuts = [0.0]
    for n in np.nonzero(turn > np.radians(CORNER_DEG))[0]:
        if turn[n] == turn[max(0, n - 3) : n + 4].max() and way[n] - cuts[-1] > CORNER_MM:
            cuts.append(float(way[n]))
    step = np.diff(here, axis=0)
    angle = np.unwrap(np.arctan2(step[:, 1], step[:, 0]))
    cuts.append(run.length)
    found = []
    for low, high in pairwise(cuts):
        if high - low < LEAST_MM:
            continue
        inside = angle[np.searchsorted(way, low) : max(np.searchsorted(way, high) - 1, np.searchsorted(way, low) + 1)]
        bends = int(np.ceil(np.ptp(inside) / np.radians(BEND_DEG))) if len(inside) else 1
        parts = max(1, int(np.ceil((high - low) / MOST_MM)), min(bends, int((high - low) / LEAST_MM)))
        edges = np.linspace(low, high, parts + 1).tolist()
        found += list(pairwise(edges))
    return found


INSET = 0.04  # of a piece at each end: a corner is rounded


def pieces_of(lines: Sequence[PlanLine]) -> Pieces:
    """All lines in pieces; those shorter than LEAST_MM are left out."""
    share = np.linspace(INSET, 1 - INSET, SAMPLES)
    at, owner, length = [], [], []
    for number, line in enumerate(lines):
        if len(line.points_mm) < 2:
            continue
        run = _Run(np.asarray(line.points_mm, np.float64))
        if run.length < LEAST_MM:
            continue
        cuts = np.array(_cut(run)).reshape(-1, 2)
        at.append(run.at(cuts[:, :1] + (cuts[:, 1:] - cuts[:, :1]) * share))
        owner.append(np.full(len(cuts), number))
        length.append(cuts[:, 1] - cuts[:, 0])
    if not at:
        nowhere, none = np.zeros((0, SAMPLES, 2)), np.zeros((0, 2))
        return Pieces(nowhere, nowhere, np.zeros(0), np.zeros(0, np.int64), none, none)
    places = np.concatenate(at)
    step = np.gradient(places, axis=1)
    normal = np.stack([-step[..., 1], step[..., 0]], 2)
    normal /= np.maximum(np.hypot(normal[..., 0], normal[..., 1]), 1e-9)[..., None]
    half = slice(SAMPLES // 2 - 1, SAMPLES // 2 + 1)
    across = normal[:, half].mean(1)
    across /= np.maximum(np.hypot(*across.T), 1e-9)[:, None]
    owners = np.concatenate(owner).astype(np.int64)
    return Pieces(places, normal, np.concatenate(length), owners, places[:, half].mean(1), across)


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
