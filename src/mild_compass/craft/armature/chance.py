"""The sceptics' number: how well armatures fit a random frame, all armatures at once.

A similarity does not change the angle between two lines, so that is settled once; only pairs that run together are
looked at again for each of the random frames.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.armature.lock_in import (
    CHANCES,
    HIGH_SCALE,
    LOW_SCALE,
    OVERSHOOT,
    SEED,
    SHIFT,
    Locked,
    Marks,
    Tolerance,
    locked,
    scored,
)
from mild_compass.craft.geometry.lines import parts_inside

if TYPE_CHECKING:
    from collections.abc import Mapping

    from numpy.typing import NDArray

    from mild_compass.craft.geometry.lines import Box
    from mild_compass.plan.structure import Construction

    Array = NDArray[np.float64]

SAME_FRAME, MOST_APART = 3.0, 0.12  # times the tolerance: nearer than that a frame is the same frame
EVIDENCE = 0.05  # below that, corrected, chance is no longer a good explanation: common practice, no published source


@dataclass(frozen=True, eq=False, slots=True)
class Trial:
    """One armature: what locks, how well random frames do on average, and how often one does as well.

    ``p`` is (1 + random frames at least as good) / (1 + random frames); ``p_holm`` is corrected for having looked at
    several armatures (S. Holm, Scandinavian Journal of Statistics 6, 1979).
    """

    construction: Construction
    locked: Locked
    chance_mean: float
    p: float
    p_holm: float

    @property
    def evidence(self) -> bool:
        """Whether chance is a poor explanation."""
        return self.p_holm <= EVIDENCE


@dataclass(frozen=True, eq=False, slots=True)
class Moves:
    """Other frames as seen from the true one: shifts (f, 2) in shares of its size, and scalings (f,)."""

    shifts: Array
    scales: Array

    @classmethod
    def random(cls, count: int = CHANCES, seed: int = SEED, apart: float = 0.0) -> Moves:
        """Random frames, always the same ones, no corner of which lies within ``apart`` (a share) of the true frame's.

        A frame that differs by no more than what counts as locked is the true one again, and no evidence of chance.
        """
        rng = np.random.default_rng(seed)
        drawn = rng.uniform((-SHIFT, -SHIFT, LOW_SCALE), (SHIFT, SHIFT, HIGH_SCALE), (4 * count, 3))
        corner = np.abs(drawn[:, :2]).max(1) + np.abs(drawn[:, 2] - 1) / 2
        chosen = drawn[corner >= apart][:count]
        return cls(chosen[:, :2], chosen[:, 2])

    def with_true(self) -> Moves:
        """The same with the true frame put first."""
        return Moves(np.concatenate([np.zeros((1, 2)), self.shifts]), np.concatenate([[1.0], self.scales]))

    def seen(self, points: Array, box: Box) -> Array:
        """Points (…, 2) in mm as they lie in each frame (f, …, 2), when that is brought onto the true one."""
        middle = np.array([(box.left + box.right) / 2, (box.top + box.bottom) / 2])
        tail = (1,) * (points.ndim - 1)
        shift = (self.shifts * (box.width, box.height)).reshape(-1, *tail, 2)
        return np.asarray(middle + (points[None] - middle - shift) / self.scales.reshape(-1, *tail, 1))


class Bench:
    """Big lines and key points against several armatures (name to lines in mm), for as many frames as asked."""

    def __init__(self, marks: Marks, armatures: Mapping[Construction, Array], box: Box, tolerance: Tolerance) -> None:
        self.marks, self.box, self.tolerance = marks, box, tolerance
        self.names = list(armatures)
        self.lines = np.concatenate([each.reshape(-1, 2, 2) for each in armatures.values()] or [np.zeros((0, 2, 2))])
        self.owner = np.repeat(np.arange(len(self.names)), [len(each) for each in armatures.values()])

    @cached_property
    def _pairs(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Big lines and armature lines that run together, by armature and big line."""
        way = _ways(self.lines)
        lean = np.abs(_cross(_ways(self.marks.lines)[:, None], way[None]))
        big, line = np.nonzero(lean <= np.sin(np.radians(self.tolerance.angle_deg)))
        order = np.lexsort((big, self.owner[line]))
        return big[order], line[order]

    def scores(self, moves: Moves) -> Array:
        """Score of every armature in every frame (f, armatures)."""
        parts, inside = parts_inside(moves.seen(self.marks.lines, self.box), self.box)
        length = np.where(inside, np.hypot(*(parts[..., 1, :] - parts[..., 0, :]).transpose(2, 0, 1)), 0.0)
        weight = length * self.marks.contrast
        locks = self._locks(parts) & inside[:, None]
        points_in, point_locks = self._point_locks(moves)
        return np.stack([scored(weight, locks[:, k], point_locks[:, k], points_in) for k in range(len(self.names))], 1)

    def _locks(self, parts: Array) -> NDArray[np.bool_]:
        """Which big line locks onto which armature in which frame (f, armatures, n)."""
        big, line = self._pairs
        count = parts.shape[1]
        found = np.zeros((len(parts), len(self.names) * count), bool)
        if len(big):
            start, way, reach = self._rulers(line)
            across, along = _turned(parts, big, start, way)
            total = np.abs(across[0]) + np.abs(across[1])
            both = across[0] ** 2 + across[1] ** 2
            crossed = across[0] * across[1] < 0
            # Times the total: a division of a million numbers costs as much as all the rest.
            near = self.tolerance.near_mm
            fits = np.where(crossed, both <= 2 * near * total, total <= 2 * near)
            slack = OVERSHOOT * near
            fits &= (along >= -slack) & (along <= reach + slack)
            keys = self.owner[line] * count + big
            firsts = np.flatnonzero(np.diff(keys, prepend=-1))
            found[:, keys[firsts]] = np.logical_or.reduceat(fits, firsts, axis=1)
        return found.reshape(len(parts), len(self.names), count)

    def _rulers(self, line: NDArray[np.int64]) -> tuple[Array, Array, Array]:
        """Start, direction and length of armature lines."""
        chosen = self.lines[line]
        return chosen[:, 0], _ways(chosen), np.hypot(*(chosen[:, 1] - chosen[:, 0]).T)

    def _point_locks(self, moves: Moves) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Which key points are inside each frame (f, m), and lock onto each armature (f, armatures, m)."""
        points = moves.seen(self.marks.points, self.box)
        box = self.box
        inside = (
            (points[..., 0] >= box.left) & (points[..., 0] <= box.right)
            & (points[..., 1] >= box.top) & (points[..., 1] <= box.bottom)
        )  # fmt: skip
        locks = np.zeros((len(points), len(self.names), points.shape[1]), bool)
        if points.shape[1] and len(self.lines):
            start, step = self.lines[:, 0], self.lines[:, 1] - self.lines[:, 0]
            from_start = points[:, :, None] - start
            share = np.clip((from_start * step).sum(-1) / np.maximum((step**2).sum(-1), 1e-12), 0, 1)
            near = ((from_start - share[..., None] * step) ** 2).sum(-1) <= self.tolerance.near_mm**2
            for k in range(len(self.names)):
                locks[:, k] = near[..., self.owner == k].any(-1) & inside
        return inside, locks


def trials(
    marks: Marks,
    armatures: Mapping[Construction, Array],
    box: Box,
    tolerance: Tolerance,
    count: int = CHANCES,
    seed: int = SEED,
) -> list[Trial]:
    """Every armature against the same random frames, the least likely by chance first."""
    if marks.empty or not armatures:
        return []
    bench = Bench(marks, armatures, box, tolerance)
    apart = SAME_FRAME * tolerance.near_mm / min(box.width, box.height)
    scores = bench.scores(Moves.random(count, seed, min(apart, MOST_APART)).with_true())
    true, chance = scores[0], scores[1:]
    ps = (1 + (chance >= true - 1e-12).sum(0)) / (1 + len(chance))
    found = [
        Trial(name, locked(marks, armatures[name], box, tolerance), float(mean), float(p), float(p_holm))
        for name, mean, p, p_holm in zip(bench.names, chance.mean(0), ps, holm(ps), strict=True)
    ]
    # With some hundred random frames p is known to about a hundredth; below that the locked share decides.
    return sorted(found, key=lambda each: (round(each.p, 2), -each.locked.score))


def holm(ps: Array) -> Array:
    """p-values (m,) corrected for having made m tests (S. Holm, 1979)."""
    order = np.argsort(ps, kind="stable")
    stepped = np.minimum(1, np.maximum.accumulate(ps[order] * np.arange(len(ps), 0, -1)))
    found = np.empty_like(stepped)
    found[order] = stepped
    return np.asarray(found)


def _ways(lines: Array) -> Array:
    way = lines[:, 1] - lines[:, 0]
    return np.asarray(way / np.maximum(np.hypot(*way.T), 1e-9)[:, None])


def _cross(a: Array, b: Array) -> Array:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def _turned(parts: Array, big: NDArray[np.int64], start: Array, way: Array) -> tuple[tuple[Array, Array], Array]:
    """How far both ends lie across, and the middle along, of parts (f, n, 2, 2) chosen by ``big`` to rulers (p,)."""
    (x, y), (x_start, y_start) = way.T, start.T
    x_first, y_first, x_second, y_second = parts.reshape(len(parts), -1, 4).transpose(2, 0, 1)
    offset = y_start * x - x_start * y
    first = y_first[:, big] * x - x_first[:, big] * y - offset
    second = y_second[:, big] * x - x_second[:, big] * y - offset
    x_middle, y_middle = (x_first + x_second) / 2, (y_first + y_second) / 2
    along = x_middle[:, big] * x + y_middle[:, big] * y - (x_start * x + y_start * y)
    return (first, second), along
