"""Pixels of thin edges made into lines: chained from junction to junction, joined where they go on."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import shapely

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

TANGENT_PX = 9.0  # how much of a line's end says where it is going


@dataclass(frozen=True, eq=False, slots=True)
class Crowded:
    """Where lines lie thickly (h, w): some end always lies ahead there by chance, and only those are joined that are no
    further apart and bend no more than so much."""

    where: NDArray[np.bool_]
    gap_px: float
    bend_deg: float

    def holds(self, points: Array) -> NDArray[np.bool_]:
        """Which of the points (n, 2) lie there."""
        column, row = np.floor(points).astype(int).T
        height, width = self.where.shape
        return np.asarray(self.where[np.clip(row, 0, height - 1), np.clip(column, 0, width - 1)])


def chains_of(on: NDArray[np.bool_]) -> list[Array]:
    """Lines (n, 2) through the pixels that are on, pixel centres at .5, from junction or end to junction or end."""
    if not on.any():
        return []
    padded = np.pad(on, 1)
    segments = []
    for down, across in ((0, 1), (1, 0), (1, 1), (1, -1)):
        here = padded[1:-1, 1:-1] & padded[1 + down : padded.shape[0] - 1 + down, 1 + across : on.shape[1] + 1 + across]
        if down and across:  # a diagonal step only where no square one leads there
            beside = padded[1:-1, 1 + across : on.shape[1] + 1 + across] | padded[2:, 1:-1]
            here = here & ~beside
        y, x = np.nonzero(here)
        start = np.stack([x, y], 1) + 0.5
        segments.append(np.stack([start, start + np.array([across, down])], 1))
    lines = shapely.linestrings(np.concatenate(segments))
    merged = shapely.line_merge(shapely.multilinestrings(lines))
    return [shapely.get_coordinates(part) for part in shapely.get_parts(merged)]


def lengths(lines: list[Array]) -> Array:
    """How long polylines are (n,)."""
    return np.array([float(np.hypot(*np.diff(line, axis=0).T).sum()) for line in lines])


def _ends_and_ways(lines: list[Array]) -> tuple[Array, Array]:
    """The ends of lines (2n, 2), first and last of each, and the unit vectors in which the lines go on beyond them."""
    points, counts = np.concatenate(lines), np.array([len(line) for line in lines])
    first = np.cumsum(counts) - counts
    steps = np.arange(min(int(TANGENT_PX) + 2, int(counts.max())))  # points are at least a pixel apart
    inward = np.minimum(steps, counts[:, None] - 1)
    index = np.stack([first[:, None] + inward, (first + counts - 1)[:, None] - inward], 1).reshape(-1, len(steps))
    heads = points[index]
    long = np.cumsum(np.hypot(*np.moveaxis(np.diff(heads, axis=1), 2, 0)), axis=1)
    last = np.minimum(np.repeat(counts, 2), len(steps)) - 1
    at = np.minimum((long < TANGENT_PX).sum(1) + 1, last)
    way = heads[:, 0] - heads[np.arange(len(heads)), at]
    return heads[:, 0], way / np.maximum(np.hypot(*way.T), 1e-9)[:, None]


def joined_chains(lines: list[Array], gap_px: float, bend_deg: float, crowded: Crowded | None = None) -> list[Array]:
    """Lines that go on in each other's direction across a gap, or through a junction, made one.

    Of all ends that could be joined the straightest and nearest pairs are taken first; every end once.
    """
    if len(lines) < 2:
        return lines
    pairs = _pairs(*_ends_and_ways(lines), gap_px, bend_deg, crowded)
    partner: dict[int, int] = {}
    for a, b in pairs:
        if a not in partner and b not in partner:
            partner[a], partner[b] = b, a
    return _walked(lines, partner)


def _pairs(at: Array, ways: Array, gap_px: float, bend_deg: float, crowded: Crowded | None) -> list[tuple[int, int]]:
    """Ends that face each other, the best first."""
    places = shapely.points(at)
    first, second = shapely.STRtree(places).query(places, "dwithin", gap_px)
    ahead = (first < second) & (first // 2 != second // 2)
    first, second = first[ahead], second[ahead]
    gap = at[second] - at[first]
    distance = np.hypot(*gap.T)
    step = gap / np.maximum(distance, 1e-9)[:, None]
    turn = np.degrees(np.arccos(np.clip(-(ways[first] * ways[second]).sum(1), -1, 1)))
    far = distance > 2.0  # of ends that nearly touch the direction of the gap says nothing
    aside = np.maximum(
        np.degrees(np.arccos(np.clip((ways[first] * step).sum(1), -1, 1))),
        np.degrees(np.arccos(np.clip(-(ways[second] * step).sum(1), -1, 1))),
    )
    good = (turn <= bend_deg) & (~far | (aside <= bend_deg))
    if crowded is not None:
        inside = crowded.holds((at[first] + at[second]) / 2)
        good &= ~inside | ((distance <= crowded.gap_px) & (turn <= crowded.bend_deg))
    cost = turn / bend_deg + distance / gap_px
    order = np.argsort(cost[good], kind="stable")
    return [(int(a), int(b)) for a, b in zip(first[good][order], second[good][order], strict=True)]


def _walked(lines: list[Array], partner: dict[int, int]) -> list[Array]:
    """Every run of joined lines as one; end 2k is the start of line k, end 2k + 1 its end."""
    done = np.zeros(len(lines), bool)
    starts = [k for k in range(len(lines)) if 2 * k not in partner or 2 * k + 1 not in partner]
    found = []
    for start in (*starts, *range(len(lines))):  # rings, which have no free end, come last
        if done[start]:
            continue
        run, entry = [], 2 * start if 2 * start not in partner else 2 * start + 1
        if 2 * start in partner and 2 * start + 1 in partner:
            entry = 2 * start
        while True:
            line = entry // 2
            if done[line]:
                run.append(lines[line][:1] if entry % 2 == 0 else lines[line][-1:])
                break
            done[line] = True
            run.append(lines[line] if entry % 2 == 0 else lines[line][::-1])
            leaving = entry ^ 1
            if leaving not in partner:
                break
            entry = partner[leaving]
        found.append(np.concatenate(run))
    return found
