"""The whole drawing against the whole plan: first a look at many shifts, sizes and turns, then a robust fit.

Across a straight line only the distance can be known (the aperture problem), so what is fitted are the distances along
normals. A part that is off must not tilt the rest: each piece pulls only where a drawn line is near what the others
agree on, nearer and nearer (iteratively reweighted least squares on several candidates per line).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.check.ridges import Profiles, pressed, profiles, ridges_of, turned_normals

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.flat import Grey
    from mild_compass.craft.check.pieces import Pieces
    from mild_compass.craft.check.ridges import Ridges

    Array = NDArray[np.float64]

COARSE_PX_PER_MM = 2.0
DIRECTIONS = 8
SHIFT_MM, SHIFT_STEP_MM = 14.0, 1.0
SCALES = (-0.03, -0.015, 0.0, 0.015, 0.03)
TURNS_DEG = (-1.8, -0.9, 0.0, 0.9, 1.8)
COARSE_PLACES = 450
PADDING = 64  # px round the coarse picture, more than any shift
BLUR_MM = 0.9
STARTS, MOST_TO_START = 4, 400  # ways to begin; pieces that are asked then
NARROWING_MM = (2.2, 1.6, 1.1, 0.8, 0.6, 0.45, 0.35, 0.3)
REACH_MM = 5.0


@dataclass(frozen=True, eq=False, slots=True)
class Similarity:
    """A shift (mm), a scale and a turn (clockwise, degrees) about a middle, and a shear (parts of one)."""

    middle: tuple[float, float]
    shift_mm: tuple[float, float] = (0.0, 0.0)
    scale: float = 1.0
    turn_deg: float = 0.0
    shear: float = 0.0

    def matrix(self) -> Array:
        """As an affine map (2, 3) of mm to mm."""
        c, s = np.cos(np.radians(self.turn_deg)), np.sin(np.radians(self.turn_deg))
        linear = self.scale * np.array([[c, -s], [s, c]]) @ np.array([[1.0, self.shear], [0.0, 1.0]])
        middle = np.array(self.middle)
        return np.column_stack([linear, middle + self.shift_mm - linear @ middle])


def told_of(matrix: Array, middle: tuple[float, float]) -> Similarity:
    """The shift, scale, turn and shear of an affine map (2, 3) about a middle."""
    linear, about = matrix[:, :2], np.array(middle)
    shift = linear @ about + matrix[:, 2] - about
    turn = np.arctan2(linear[1, 0], linear[0, 0])
    c, s = np.cos(turn), np.sin(turn)
    upright = np.array([[c, s], [-s, c]]) @ linear
    scale = float(np.sqrt(abs(np.linalg.det(linear))))
    return Similarity(
        middle, (float(shift[0]), float(shift[1])), scale, float(np.degrees(turn)), float(upright[0, 1] / upright[0, 0])
    )


def applied(matrix: Array, points: Array) -> Array:
    """Points (…, 2) moved by an affine map (2, 3)."""
    return np.asarray(points @ matrix[:, :2].T + matrix[:, 2])


def best_similarity(source: Array, target: Array) -> Array:
    """The shift, scale and turn (2, 3) that take points (n, 2) nearest to others, by least squares.

    In closed form (S. Umeyama, IEEE PAMI 13(4), 1991). With one point it is a shift.
    """
    if len(source) < 2:
        return np.column_stack([np.eye(2), target.mean(0) - source.mean(0)])
    from_middle, to_middle = source - source.mean(0), target - target.mean(0)
    left, singular, right = np.linalg.svd(to_middle.T @ from_middle)
    sign = np.array([1.0, np.sign(np.linalg.det(left) * np.linalg.det(right))])
    turn = left @ np.diag(sign) @ right
    scale = float((singular * sign).sum() / max((from_middle**2).sum(), 1e-12))
    linear = scale * turn
    return np.column_stack([linear, target.mean(0) - linear @ source.mean(0)])


@dataclass(frozen=True, eq=False, slots=True)
class CoarseFit:
    """Where the whole seems to lie: affine maps (2, 3), the best first, their scores, and what chance would give."""

    maps: tuple[Array, ...]
    score: float
    chance: float
    spread: float

    @property
    def stands_out(self) -> float:
        """By how many spreads of all other places the best is above them."""
        return (self.score - self.chance) / max(self.spread, 1e-9)


def directions_of(ink: Grey, size_mm: tuple[float, float]) -> Grey:
    """The flat sheet's lines by direction (DIRECTIONS, h, w), coarse, with a margin."""
    width_px, height_px = (round(side * COARSE_PX_PER_MM) for side in size_mm)
    small = np.asarray(cv2.resize(ink, (width_px, height_px), interpolation=cv2.INTER_AREA), np.float32)
    return _by_direction(small)


def turned_directions(maps: Grey, quarters: int) -> Grey:
    """The same with the sheet turned by quarters: a direction is then so many quarters of a turn on."""
    turned = np.rot90(maps, quarters, (1, 2))
    return np.ascontiguousarray(np.roll(turned, -quarters * DIRECTIONS // 2, 0))


def coarse_fit(maps: Grey, pieces: Pieces, size_mm: tuple[float, float]) -> CoarseFit:
    """The plan's pieces laid over the flat sheet's lines by direction at many shifts, sizes and turns."""
    places, normals = _places(pieces)
    middle = np.array(size_mm) / 2
    steps = np.arange(-SHIFT_MM, SHIFT_MM + 0.1, SHIFT_STEP_MM)
    dx, dy = (grid.ravel() for grid in np.meshgrid(steps, steps))
    _, height, width = maps.shape
    shifts = (np.round(dy * COARSE_PX_PER_MM) * width + np.round(dx * COARSE_PX_PER_MM)).astype(np.int32)
    found: list[tuple[float, Array]] = []
    every = []
    for scale in SCALES:
        for turn in TURNS_DEG:
            matrix = Similarity((middle[0], middle[1]), (0, 0), 1 + scale, turn).matrix()
            at = np.floor(applied(matrix, places) * COARSE_PX_PER_MM).astype(np.int32) + PADDING
            at = np.clip(at, PADDING // 2, np.array([width, height]) - PADDING // 2 - 1)
            start = (_bins(turned_normals(normals, matrix)) * height + at[:, 1]) * width + at[:, 0]
            score = maps.ravel().take(start.astype(np.int32)[None] + shifts[:, None]).mean(1)
            every.append(score)
            for n in np.argsort(-score)[:3]:
                moved = matrix.copy()
                moved[:, 2] += dx[n], dy[n]
                found.append((float(score[n]), moved))
    found.sort(key=lambda each: -each[0])
    scores = np.concatenate(every)
    return CoarseFit(tuple(m for _, m in found[:STARTS]), found[0][0], float(np.median(scores)), float(scores.std()))


def _by_direction(ink: Grey) -> Grey:
    """How much of a line across each direction is near each place (DIRECTIONS, h, w), with a margin of PADDING."""
    ridges = ridges_of(ink, COARSE_PX_PER_MM, 0.3)
    xx, xy, yy = cv2.split(ridges.second)
    found = []
    for n in range(DIRECTIONS):
        c, s = np.cos(np.pi * n / DIRECTIONS), np.sin(np.pi * n / DIRECTIONS)
        response = pressed(-(c * c * xx + 2 * c * s * xy + s * s * yy))
        blurred = cv2.GaussianBlur(response, (0, 0), BLUR_MM * COARSE_PX_PER_MM)
        blurred = np.minimum(blurred / max(float(np.quantile(blurred[::2, ::2], 0.98)), 1e-3), 1.5)
        found.append(cv2.copyMakeBorder(blurred, *(PADDING,) * 4, cv2.BORDER_CONSTANT))
    return np.stack(found)


def _bins(normals: Array) -> NDArray[np.int64]:
    angle = np.arctan2(normals[:, 1], normals[:, 0]) % np.pi
    return np.round(angle / np.pi * DIRECTIONS).astype(np.int64) % DIRECTIONS


def _places(pieces: Pieces) -> tuple[Array, Array]:
    """Places along all pieces, at most COARSE_PLACES, as many on a line as it is long."""
    at, normal = pieces.at[:, ::4].reshape(-1, 2), pieces.normal[:, ::4].reshape(-1, 2)
    weight = np.repeat(pieces.length, pieces.at[:, ::4].shape[1])
    count = min(COARSE_PLACES, len(at))
    way = np.cumsum(weight)
    picked = np.searchsorted(way, (np.arange(count) + 0.5) / count * way[-1])
    return at[picked], normal[picked]


# -- the fit ---------------------------------------------------------------------------------------------------


def candidates(profile: Profiles, most: int = 5, least: float = 0.3) -> tuple[Array, Array]:
    """Offsets (n, most) at which each piece may be drawn, and how well it is followed there, 0 where there is none."""
    values = profile.followed
    peak = np.zeros_like(values, bool)
    peak[:, 1:-1] = (values[:, 1:-1] >= values[:, :-2]) & (values[:, 1:-1] > values[:, 2:])
    strength = np.where(peak & (values > least), values, 0.0)
    order = np.argsort(-strength, axis=1, kind="stable")[:, :most]
    rows = np.arange(len(values))[:, None]
    return profile.offsets[order], strength[rows, order]


def fitted_whole(ridges: Ridges, pieces: Pieces, coarse: CoarseFit, middle: tuple[float, float]) -> tuple[Array, Array]:
    """The affine map (2, 3) of the whole; its covariance (5, 5) in shift x, shift y (mm), scale, turn (rad), shear."""
    some = pieces.some(MOST_TO_START)
    tried = [narrowed(ridges, some, start, middle) for start in coarse.maps]
    best = max(range(len(tried)), key=lambda n: tried[n][2])
    matrix, covariance, _ = narrowed(ridges, pieces, tried[best][0], middle, NARROWING_MM[2:])
    return matrix, covariance


def narrowed(
    ridges: Ridges, pieces: Pieces, start: Array, middle: tuple[float, float], steps: tuple[float, ...] = NARROWING_MM
) -> tuple[Array, Array, float]:
    """The whole fitted from a start on, nearer and nearer: map (2, 3), covariance (5, 5), how much agrees (0 to 1)."""
    profile = profiles(ridges, pieces, start, REACH_MM)
    offsets, strength = candidates(profile)
    normal = turned_normals(pieces.across, start)
    at = applied(start, pieces.middle)
    rows = _rows(at, normal, np.array(middle))
    unknowns = np.zeros(5)
    covariance = np.eye(5)
    for step in steps:
        used = rows if step < 0.7 else rows[:, :4]  # the shear last, when the rest stands
        for _ in range(3):
            off = offsets - (rows @ unknowns)[:, None]
            near = strength**2 * np.exp(-((off / step) ** 2) / 2)
            total = near.sum(1)
            weight = total * pieces.length
            target = (near * offsets).sum(1) / np.maximum(total, 1e-12)
            root = np.sqrt(weight)
            # A weak wish to change nothing, where the lines alone would not tell.
            prior = np.diag(np.array([1.0, 1.0, 1e4, 1e4, 4e4])[: used.shape[1]]) * 1e-2
            normal_matrix = (used * root[:, None]).T @ (used * root[:, None]) + prior
            unknowns = np.zeros(5)
            unknowns[: used.shape[1]] = np.linalg.solve(normal_matrix, (used * weight[:, None]).T @ target)
    rest = target - rows @ unknowns
    spread = max(0.05, 1.4826 * float(np.median(abs(rest[weight > 0.1])))) if (weight > 0.1).any() else 1.0
    sure = np.clip(weight / np.maximum(pieces.length, 1e-9), 0, 1)
    covariance = np.linalg.inv((rows * np.sqrt(sure)[:, None]).T @ (rows * np.sqrt(sure)[:, None]) + 1e-6 * np.eye(5))
    agreed = float((np.minimum(total, 1.0) * pieces.length).sum() / pieces.length.sum())
    return _moved(unknowns, middle) @ _square(start), covariance * spread**2, agreed


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
