"""Coarse registration: an exhaustive search over shift, scale and turn on oriented ridge maps."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.check.ridges import pressed, ridges_of, turned_normals

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.flat import Grey
    from mild_compass.craft.check.pieces import Pieces

    Array = NDArray[np.float64]

COARSE_PX_PER_MM = 2.0  # half of what the fine fit wants; bounds the time of the search
DIRECTIONS = 8  # 22.5° apart
SHIFT_MM, SHIFT_STEP_MM = 14.0, 1.0
SCALES = (-0.03, -0.015, 0.0, 0.015, 0.03)
TURNS_DEG = (-1.8, -0.9, 0.0, 0.9, 1.8)
COARSE_PLACES = 450  # bounds the time of the search
PADDING = 64  # px round the coarse picture, more than any shift
BLUR_MM = 0.9
STARTS = 4  # of the first look


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


def similarity_of(matrix: Array, middle: tuple[float, float]) -> Similarity:
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
