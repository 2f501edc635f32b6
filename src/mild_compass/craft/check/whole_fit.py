"""Fine registration: reweighted least squares of distances along normals, coarse to fine, from many beginnings.

Across a straight line only the distance can be known (the aperture problem), so what is fitted are the distances along
normals. A part that is off must not tilt the rest: each piece pulls only where a drawn line is near what the others
agree on, nearer and nearer (iteratively reweighted least squares on several candidates per line). In a row of upright
lines a whole drawn narrower by one of them agrees too, less well: so many beginnings are tried, and the one with which
most lines agree in the end is taken.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check.ridges import Profiles, profiles, turned_normals
from mild_compass.craft.check.whole import Similarity, applied

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.pieces import Pieces
    from mild_compass.craft.check.ridges import Ridges
    from mild_compass.craft.check.whole import CoarseFit

    Array = NDArray[np.float64]

MOST_TO_START = 400  # pieces that are asked to begin with
NARROWING_MM = (2.2, 1.6, 1.1, 0.8, 0.6, 0.45, 0.35, 0.3)
NEAR_MM = NARROWING_MM[3:]  # from a beginning that was looked for
REACH_MM = 5.0
LOOKED_SHIFT_MM = np.arange(-2.0, 2.01, 0.5)
LOOKED_SCALE = np.arange(-0.018, 0.0181, 0.006)
LOOKED_TURN_RAD = np.radians(np.arange(-0.6, 0.61, 0.2))
LOOKED_MM = 0.5  # how near a line counts when beginnings are looked for
BEGINNINGS, ANOTHER_MM = 5, 0.6


def candidates(profile: Profiles, most: int = 5, least: float = 0.3) -> tuple[Array, Array]:
    """Offsets (n, most) at which each piece may be drawn, and how well it is followed there, 0 where there is none."""
    values = profile.followed
    peak = np.zeros_like(values, bool)
    peak[:, 1:-1] = (values[:, 1:-1] >= values[:, :-2]) & (values[:, 1:-1] > values[:, 2:])
    strength = np.where(peak & (values > least), values, 0.0)
    order = np.argsort(-strength, axis=1, kind="stable")[:, :most]
    rows = np.arange(len(values))[:, None]
    return profile.offsets[order], strength[rows, order]


@dataclass(frozen=True, eq=False, slots=True)
class _Asked:
    """The pieces laid out by one map: what a unit of each unknown moves them (n, 5), and where lines are near them."""

    start: Array
    middle: tuple[float, float]
    rows: Array
    length: Array
    offsets: Array
    strength: Array
    profile: Profiles

    @classmethod
    def of(cls, ridges: Ridges, pieces: Pieces, start: Array, middle: tuple[float, float]) -> _Asked:
        profile = profiles(ridges, pieces, start, REACH_MM)
        rows = _rows(applied(start, pieces.middle), turned_normals(pieces.across, start), np.array(middle))
        return cls(start, middle, rows, pieces.length, *candidates(profile), profile)

    def near(self, moved: Array, slack_mm: float) -> Array:
        """How much each line near a piece counts (n, k) where the pieces are moved (n,) along their normals."""
        return np.asarray(self.strength**2 * np.exp(-(((self.offsets - moved[:, None]) / slack_mm) ** 2) / 2))


@dataclass(frozen=True, eq=False, slots=True)
class _Fitted:
    matrix: Array
    covariance: Array
    agreed: float  # 0 to 1: the share of all length that lies where it should


def fitted_whole(ridges: Ridges, pieces: Pieces, coarse: CoarseFit, middle: tuple[float, float]) -> tuple[Array, Array]:
    """The affine map (2, 3) of the whole; its covariance (5, 5) in shift x, shift y (mm), scale, turn (rad), shear."""
    some = pieces.some(MOST_TO_START)
    asked = [_Asked.of(ridges, some, start, middle) for start in coarse.maps]
    tried = [_narrowed(each, np.zeros(5), NARROWING_MM) for each in asked]
    tried += [_narrowed(asked[0], begun, NEAR_MM) for begun in _beginnings(asked[0])]
    best = max(tried, key=lambda found: found.agreed)
    found = _narrowed(_Asked.of(ridges, pieces, best.matrix, middle), np.zeros(5), NEAR_MM)
    return found.matrix, found.covariance


def narrowed(ridges: Ridges, pieces: Pieces, start: Array, middle: tuple[float, float]) -> tuple[Array, Array]:
    """The whole fitted from one start on, nearer and nearer: map (2, 3) and covariance (5, 5)."""
    found = _narrowed(_Asked.of(ridges, pieces, start, middle), np.zeros(5), NARROWING_MM)
    return found.matrix, found.covariance


def _beginnings(asked: _Asked) -> list[Array]:
    """Shifts, sizes and turns near a first map with which many lines agree, each another one; the best first."""
    grid = np.stack(
        np.meshgrid(LOOKED_SHIFT_MM, LOOKED_SHIFT_MM, LOOKED_SCALE, LOOKED_TURN_RAD, indexing="ij"), -1
    ).reshape(-1, 4)
    offsets = asked.profile.offsets
    count = len(offsets)
    table = np.minimum(
        (asked.strength**2)[:, :, None] * np.exp(-(((asked.offsets[:, :, None] - offsets) / LOOKED_MM) ** 2) / 2), 1.0
    ).max(1)
    worth = (table * asked.length[:, None]).astype(np.float32)
    moved = asked.rows[:, :4] @ grid.T  # (n, m)
    index = np.clip(np.round((moved - offsets[0]) / (offsets[1] - offsets[0])), 0, count - 1).astype(np.intp)
    score = np.take_along_axis(worth, index, 1).sum(0)
    kept: list[int] = []
    for m in np.argsort(-score, kind="stable").tolist():
        if all(np.sqrt(np.mean((moved[:, m] - moved[:, k]) ** 2)) > ANOTHER_MM for k in kept):
            kept.append(m)
        if len(kept) == BEGINNINGS:
            break
    return [np.append(grid[m], 0.0) for m in kept]


def _narrowed(asked: _Asked, begun: Array, steps_mm: tuple[float, ...]) -> _Fitted:
    """From unknowns (5,) on, each line counting only if it is nearer and nearer to what the others agree on."""
    rows, unknowns = asked.rows, begun
    for step in steps_mm:
        used = rows if step < 0.7 else rows[:, :4]  # the shear last, when the rest stands
        for _ in range(3):
            near = asked.near(rows @ unknowns, step)
            total = near.sum(1)
            weight = total * asked.length
            target = (near * asked.offsets).sum(1) / np.maximum(total, 1e-12)
            # A weak wish to change nothing, where the lines alone would not tell.
            prior = np.diag(np.array([1.0, 1.0, 1e4, 1e4, 4e4])[: used.shape[1]]) * 1e-2
            weighted = used * weight[:, None]
            unknowns = np.zeros(5)
            unknowns[: used.shape[1]] = np.linalg.solve(weighted.T @ used + prior, weighted.T @ target)
    rest = target - rows @ unknowns
    spread = max(0.05, 1.4826 * float(np.median(abs(rest[weight > 0.1])))) if (weight > 0.1).any() else 1.0
    sure = np.clip(weight / np.maximum(asked.length, 1e-9), 0, 1)
    covariance = np.linalg.inv((rows * sure[:, None]).T @ rows + 1e-6 * np.eye(5)) * spread**2
    agreed = float((np.minimum(total, 1.0) * asked.length).sum() / asked.length.sum())
    return _Fitted(_moved(unknowns, asked.middle) @ _square(asked.start), covariance, agreed)


def _rows(at: Array, normal: Array, middle: Array) -> Array:
    """What a unit of shift x, shift y, scale, turn (rad) and shear moves each place along its normal (n, 5)."""
    x, y = (at - middle).T
    return np.stack(
        [
            normal[:, 0],
            normal[:, 1],
            normal[:, 0] * x + normal[:, 1] * y,
            normal[:, 1] * x - normal[:, 0] * y,
            normal[:, 0] * y,
        ],
        1,
    )


def _moved(unknowns: Array, middle: tuple[float, float]) -> Array:
    dx, dy, scale, turn, shear = unknowns
    return Similarity(middle, (dx, dy), 1 + scale, float(np.degrees(turn)), shear).matrix()


def _square(matrix: Array) -> Array:
    return np.vstack([matrix, [0.0, 0.0, 1.0]])
