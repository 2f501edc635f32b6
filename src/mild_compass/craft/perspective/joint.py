"""Joint maximum a posteriori estimate of a camera from straight edges: horizon, its tilt, uprights, up to three
level families.

Every edge belongs to the uprights, to one of the level families, or to nothing; a family's edges run to its point
but for an error across them: most by their own, small one, some by a rough one. The camera may be rolled and tipped,
its lens is free within what people use and may bow, and the picture may have been cropped off its middle. The
likelihood of this mixture is made as great as can be, from many beginnings, by the EM algorithm (A. Dempster, N. Laird,
D. Rubin, J. Royal Stat. Soc. B 39, 1977) over a damped least squares step (D. Marquardt, SIAM J. Appl. Math. 11, 1963).
Points of level lines lie on one horizon, square to the uprights'
(R. Hartley & A. Zisserman, Multiple View Geometry, 2nd ed. 2004, ch. 8.6).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.geometry.least_squares import slopes_of
from mild_compass.craft.perspective.joint_model import (
    BOW,
    CENTRE_X,
    CENTRE_Y,
    FIRST,
    FOCAL,
    ROUGH_SHARE,
    SQUARE_RAD,
    STRAY,
    TILT,
    Edges,
    Lens,
    edges_of,
    horizon_height,
    lens_of,
    points_of,
    prior_of,
    square_pairs,
    usual_of,
)
from mild_compass.craft.perspective.joint_starts import FAMILY_COSTS, SEED, SQUARE_GAIN, beside, families_on, starts

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Numbers = NDArray[np.intp]

SOFTENED = (ROUGH_SHARE, 0.4 * ROUGH_SHARE, 0.0)  # edges are taken for rougher than they are, then less and less
CLOSER = 6  # beginnings that are climbed to the end
STEPS, FIRST_STEPS = 14, 5
FAR_LESS = 40.0  # of log likelihood: such beginnings are left where they are
HALVINGS = 3
ANOTHER = 0.01  # of the height: horizons no further apart are one


@dataclass(frozen=True, eq=False, slots=True)
class JointCamera:
    """What was found, in photo pixels and radians: the row of numbers, its log likelihood, its covariance, and which
    family each edge belongs to (-1 none, 0 uprights, 1… level)."""

    row: Array
    score: float
    covariance: Array
    families: Numbers
    unit_px: float
    middle_px: Array

    @property
    def tilt_deg(self) -> float:
        """Of the horizon, clockwise."""
        return float(np.degrees(self.row[TILT]))

    @property
    def focal_px(self) -> float:
        """The lens."""
        return float(np.exp(self.row[FOCAL]) * self.unit_px)

    def horizon_at(self, x_px: float) -> float:
        """How far down the picture the horizon lies at a place across."""
        return horizon_height(self.row, (x_px - self.middle_px[0]) / self.unit_px) * self.unit_px + float(
            self.middle_px[1]
        )

    @property
    def height_spread_px(self) -> float:
        """The standard deviation of the horizon at the picture's middle."""
        slope = slopes_of(lambda row: np.array([horizon_height(row, 0.0)]), self.row)[0]
        return float(np.sqrt(max(slope @ self.covariance @ slope, 0.0)) * self.unit_px)

    @property
    def tilt_spread_deg(self) -> float:
        """The standard deviation of the horizon's tilt."""
        return float(np.degrees(np.sqrt(max(self.covariance[TILT, TILT], 0.0))))

    @property
    def counts(self) -> tuple[int, ...]:
        """How many edges belong to the uprights and to each level family."""
        return tuple(int((self.families == family).sum()) for family in range(len(self.row) - FIRST + 1))

    def off(self, lines: Array, family: int, as_seen: bool = False) -> Array:
        """How far the ends of lines (n, 2, 2) lie off the lines from their middles to a family's point, signed, px;
        without the lens's bow taken out where they count ``as_seen``."""
        scaled = Edges((lines - self.middle_px) / self.unit_px, np.ones(len(lines)), np.ones(len(lines)))
        point = points_of(self.row)[family : family + 1]
        return np.asarray(scaled.off(point, None if as_seen else self.row)[:, 0] * self.unit_px)


def joint_camera(
    lines: Array,
    size_px: tuple[int, int],
    focal_px: float = 0.0,
    error_px: Array | None = None,
    weight: Array | None = None,
) -> list[JointCamera]:
    """The likeliest cameras for edges (n, 2, 2), the best first; others where they are quite different.

    ``focal_px`` is what the photo tells of its lens, 0 for nothing; ``error_px`` (n,) is how exact each edge's ends
    are across it, ``weight`` (n,) how much each edge counts.
    """
    unit, middle = float(max(size_px)), np.array(size_px) / 2
    edges = edges_of(lines, size_px, error_px, weight)
    lens = lens_of(focal_px, unit)
    found = [_at_best(edges, row, lens) for row in _refined_few(edges, lens.searched())]
    found.sort(key=lambda each: -each[1])
    kept: list[JointCamera] = []
    for row, score in found:
        made = JointCamera(row, score, _covariance(edges, row, lens), _members(edges, row), unit, middle)
        if all(_another(made, other, size_px) for other in kept):
            kept.append(made)
    return kept


@dataclass(frozen=True, slots=True)
class DeleteHalfSpread:
    """How far the horizon moves when only half of the edges tell it: shares of the picture's height at its middle and
    degrees of tilt, each for the middle one and the worst one of the halves tried."""

    height: tuple[float, float]
    tilt_deg: tuple[float, float]


def delete_half_spread(
    camera: JointCamera, lines: Array, size_px: tuple[int, int], focal_px: float, error_px: Array, weight: Array
) -> DeleteHalfSpread:
    """Fit the horizon again to random halves of the edges (after B. Efron, Ann. Statist. 7, 1979)."""
    unit, edges = camera.unit_px, edges_of(lines, size_px, error_px, weight)
    lens, hand = lens_of(focal_px, unit), np.random.default_rng(SEED)
    heights, tilts = [], []
    for _ in range(HALVINGS):
        order = hand.permutation(len(lines))
        for half in (order[::2], order[1::2]):
            row, _ = _refined(edges.picked(half), camera.row, lens)
            heights.append(abs(horizon_height(row, 0.0) - horizon_height(camera.row, 0.0)) * unit / size_px[1])
            tilts.append(abs(float(np.degrees(row[TILT] - camera.row[TILT]))))
    heights.sort()
    tilts.sort()
    return DeleteHalfSpread((heights[HALVINGS], heights[-1]), (tilts[HALVINGS], tilts[-1]))


def _another(one: JointCamera, other: JointCamera, size_px: tuple[int, int]) -> bool:
    """Whether their horizons lie apart somewhere in the picture."""
    places = (0.25 * size_px[0], 0.75 * size_px[0])
    return any(abs(one.horizon_at(x) - other.horizon_at(x)) > ANOTHER * size_px[1] for x in places)


# -- the best -------------------------------------------------------------------------------------------------


def _looked_closer(edges: Edges, lens: Lens) -> list[Array]:
    """The beginnings climbed with rough edges, their level families found anew there; the likeliest of them."""
    rough, fine = edges.softened(SOFTENED[0]), edges.softened(SOFTENED[1])
    angles = np.radians(np.arange(-89, 90, 1.0))
    scored: list[tuple[float, Array]] = []
    for row in starts(rough, lens):
        climbed, _ = _climbed(rough, row, lens, FIRST_STEPS)
        for tried in (climbed, np.append(climbed[:FIRST], families_on(rough, climbed[:FIRST], angles)[0])):
            again, score = _climbed(fine, _once(tried), lens, FIRST_STEPS)
            scored.append((score, again))
    scored.sort(key=lambda pair: -pair[0])
    kept: list[Array] = []
    for _, row in scored:
        if all(_apart(row, other) for other in kept):
            kept.append(row)
    return kept[:CLOSER]


def _score(edges: Edges, row: Array, lens: Lens) -> float:
    odds = edges.odds(edges.off(points_of(row), row)).sum(1)
    square = sum(np.log1p(np.exp(SQUARE_GAIN - 0.5 * off**2)) for *_, off in square_pairs(row))
    return edges.likely(odds) + prior_of(row, lens) + float(square) - FAMILY_COSTS * (len(row) - FIRST)


def _refined(edges: Edges, row: Array, lens: Lens) -> tuple[Array, float]:
    """Made likelier step by step, the edges taken for less exact than they are to begin with."""
    best, score = row, -np.inf
    for error in SOFTENED[1:]:
        best, score = _climbed(edges.softened(error), best, lens)
    return best, score


def _once(row: Array) -> Array:
    """The row without families that have become the same as another."""
    kept: list[float] = []
    for angle in row[FIRST:].tolist():
        if not kept or not beside(np.array([angle]), kept)[0]:
            kept.append(angle)
    return np.append(row[:FIRST], kept)


def _refined_few(edges: Edges, lens: Lens) -> list[Array]:
    """The beginnings worth the most refined, each another one; those that are far less likely are left."""
    found = [_refined(edges, row, lens) for row in _looked_closer(edges, lens)]
    found.sort(key=lambda pair: -pair[1])
    kept: list[Array] = []
    for row, score in found:
        single = _once(row)
        if score > found[0][1] - FAR_LESS and all(_apart(single, other) for other in kept):
            kept.append(single)
    return kept


def _apart(row: Array, other: Array) -> bool:
    return len(row) != len(other) or bool(np.abs(row - other).max() > 1e-3)


def _at_best(edges: Edges, row: Array, lens: Lens) -> tuple[Array, float]:
    """Made as likely as can be: with a lens that bows and a centre off the middle, or without the one, or both."""
    tried = []
    for gone in ((), (BOW,), (CENTRE_X, CENTRE_Y), (BOW, CENTRE_X, CENTRE_Y)):
        plain = row.copy()
        plain[list(gone)] = 0.0
        tried.append(_climbed(edges, plain, lens, FIRST_STEPS))
    best, score = _climbed(edges, max(tried, key=lambda pair: pair[1])[0], lens)
    single = _once(best)
    return (best, score) if len(single) == len(best) else _climbed(edges, single, lens)


def _climbed(edges: Edges, row: Array, lens: Lens, steps: int = STEPS) -> tuple[Array, float]:
    best, score, damp = row, _score(edges, row, lens), 1e-2
    for _ in range(steps):
        normal, gradient = _normal_equations(edges, best, lens)
        moved = False
        for _ in range(4):
            step = np.linalg.solve(normal + damp * np.diag(np.diag(normal)), gradient)
            tried = best - step
            now = _score(edges, tried, lens)
            if now > score:
                gained = now - score
                best, score, damp, moved = tried, now, damp / 4, True
                break
            damp *= 5
        if not moved or gained < 1e-3:
            break
    return best, score


SMALL = 1e-6  # step for slopes


def _normal_equations(edges: Edges, row: Array, lens: Lens) -> tuple[Array, Array]:
    """Of the weighted misfits and of what is usual: JᵀWJ and JᵀWr."""

    moved = row + np.concatenate([np.zeros((1, len(row))), SMALL * np.eye(len(row))])
    offs = edges.off(points_of(moved), moved)
    off, slope = offs[0], (np.moveaxis(offs[1:], 0, -1) - offs[0][..., None]).reshape(-1, len(row)) / SMALL
    fine, rough = edges.densities(off)
    likely = (1 - STRAY) / STRAY / 2 * (fine + rough) * edges.half[:, None]
    share = likely / (1 + likely.sum(1, keepdims=True))  # how far each edge belongs to each family
    exact = fine / np.maximum(fine + rough, 1e-300)
    precision = exact / edges.error[:, None] ** 2 + (1 - exact) / edges.rough[:, None] ** 2
    w = (edges.weight[:, None] * share * precision).ravel()
    normal, gradient = slope.T @ (slope * w[:, None]), slope.T @ (w * off.ravel())
    usual, bend, counts = usual_of(row, lens)
    normal += bend.T @ (bend * counts[:, None])
    gradient += bend.T @ (counts * usual)
    for first, second, spread in square_pairs(row):
        pull = np.zeros(len(row))
        pull[first], pull[second] = 1 / SQUARE_RAD, -1 / SQUARE_RAD
        held = np.exp(SQUARE_GAIN - 0.5 * spread**2)
        held /= 1 + held
        normal += held * np.outer(pull, pull)
        gradient += held * spread * pull
    return normal + 1e-9 * np.eye(len(row)), gradient


def _covariance(edges: Edges, row: Array, lens: Lens) -> Array:
    normal, _ = _normal_equations(edges, row, lens)
    return np.asarray(np.linalg.pinv(normal))


def _members(edges: Edges, row: Array) -> Numbers:
    odds = edges.odds(edges.off(points_of(row), row))
    best = odds.argmax(1)
    return np.where(odds[np.arange(len(edges)), best] > 1.0, best, -1)
