"""Crack edges of a label map as chains from junction to junction, each once, with the labels on both sides."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.kernels import cracks

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Numbers = NDArray[np.int64]

OUTSIDE = -1  # the label beyond the picture
TANGENT_SIDES = 6  # so many pixel sides tell where a border is going
LEAST_RISE = 1.0  # of L*, from pixel to pixel: flatter, and it is noise that tells where
MOST_TURN_DEG = 50.0  # a border goes on through a junction where another ends at it


@dataclass(frozen=True, eq=False)
class Chains:
    """Borders as chains of pixel sides.

    ``middles`` (n, 2) are the middles of all sides, chain after chain; ``passed`` (n, 2) is where near each the picture
    passes from the one value to the other. Chain k holds those from ``first[k]`` to ``first[k + 1]``; ``ends``
    (m, 2, 2) are its two ends, ``left`` and ``right`` (m,) the labels beside each as one walks along it, y down,
    OUTSIDE beyond the picture.
    """

    middles: Array
    passed: Array
    first: Numbers
    ends: Array
    left: Numbers
    right: Numbers

    def __len__(self) -> int:
        return len(self.left)

    @cached_property
    def nodes(self) -> Numbers:
        """The junction at each start and end (2 m,), numbered."""
        places = self.ends.reshape(-1, 2)
        return np.unique(places[:, 0] + 1j * places[:, 1], return_inverse=True)[1]

    @cached_property
    def lines(self) -> NDArray[np.object_]:
        """The chains (m,) along the pixels, as lines."""
        found = []
        for k in range(len(self)):
            places = self.middles[self.first[k] : self.first[k + 1]]
            corners = shared_ends(places[:-1], places[1:])
            found.append(np.concatenate([self.ends[k, :1], corners, self.ends[k, 1:]]))
        which = np.repeat(np.arange(len(found)), [len(each) for each in found])
        return np.asarray(shapely.simplify(shapely.linestrings(np.concatenate(found), indices=which), 0.0))


@dataclass(frozen=True, eq=False, slots=True)
class LevelCrossing:
    """L* (h, w), the value of each pixel (h, w) and the L* of each value: where a picture passes between two values."""

    lightness: NDArray[np.float32]
    steps: NDArray[np.uint8]
    shown: tuple[float, ...]


def chains_of_labels(labels: NDArray[np.int32], crossing: LevelCrossing | None = None) -> Chains:
    """All borders of a map of labels (h, w), and its outer edge."""
    padded = np.full((labels.shape[0] + 2, labels.shape[1] + 2), OUTSIDE, np.int32)
    padded[1:-1, 1:-1] = labels
    sides = cracks.segments(padded)
    entries, begins = cracks.linked(sides, labels.shape[1] + 1)
    middles, asides, first, ends, beside = cracks.walked(padded, sides, entries, begins)
    shifts = np.zeros(len(middles))
    if crossing is not None:
        lightness, steps, shown = crossing.lightness, crossing.steps, np.array(crossing.shown)
        shifts = cracks.shifts(middles, asides, lightness, steps, shown, LEAST_RISE)
    return Chains(middles, middles + shifts[:, None] * asides, first, ends, beside[:, 0], beside[:, 1])


def shared_ends(one: Array, other: Array) -> Array:
    """The ends (n, 2) that pairs of neighbouring pixel sides share, from the sides' middles."""
    level = np.abs(one[:, 1] - np.round(one[:, 1])) < 1e-9
    level_there = np.abs(other[:, 1] - np.round(other[:, 1])) < 1e-9
    turned = np.where(level[:, None], np.stack([other[:, 0], one[:, 1]], 1), np.stack([one[:, 0], other[:, 1]], 1))
    return np.where((level == level_there)[:, None], (one + other) / 2, turned)


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
    places, ways = chains.ends.reshape(-1, 2).tolist(), _ways(chains).tolist()
    for k in np.flatnonzero(inner).tolist():
        for end in (2 * k, 2 * k + 1):
            at.setdefault((places[end][0], places[end][1]), []).append(end)
    least = -float(np.cos(np.radians(MOST_TURN_DEG)))
    partner: dict[int, int] = {}
    for (x, y), ends in at.items():
        if len(ends) == 2 and ends[0] ^ 1 == ends[1]:  # a ring by itself
            partner[ends[0]], partner[ends[1]] = ends[1], ends[0]
            continue
        if not (0 < x < size[0] and 0 < y < size[1]):
            continue
        pairs = sorted((_turn(ways[a], ways[b]), a, b) for i, a in enumerate(ends) for b in ends[i + 1 :])
        for turn, a, b in pairs:
            if turn <= least and a not in partner and b not in partner:
                partner[a], partner[b] = b, a
    return partner


def _turn(one: list[float], other: list[float]) -> float:
    """The cosine between two ways: -1 straight on."""
    return one[0] * other[0] + one[1] * other[1]


def _ways(chains: Chains) -> Array:
    """Unit vectors (2m, 2) from each end of each chain into it."""
    count = np.diff(chains.first)
    reach = np.minimum(TANGENT_SIDES, count) - 1
    inward = [chains.middles[chains.first[:-1] + reach], chains.middles[chains.first[1:] - 1 - reach]]
    ways = np.stack(inward, 1) - chains.ends
    ways = ways / np.maximum(np.hypot(ways[..., 0], ways[..., 1]), 1e-9)[..., None]
    return np.asarray(ways.reshape(-1, 2))
