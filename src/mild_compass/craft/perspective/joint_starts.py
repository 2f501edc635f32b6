"""Starting points of the joint estimate: horizons through pairs of likely vanishing points, level families on each.

Points are proposed where two edges meet, those that much length of edge runs to are kept
(random sample consensus: M. Fischler & R. Bolles, Comm. ACM 24, 1981).
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.joint_model import (
    FOCAL,
    HEIGHT,
    SQUARE_RAD,
    STRAY,
    USUAL_LENS,
    Edges,
    Lens,
    points_of,
    prior_of,
)

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

MOST_FAMILIES = 3
FAMILY_COSTS = 9.0  # of log likelihood: a further family must be worth that
SQUARE_GAIN = 5.0  # of log likelihood: most of what people build is square
PROPOSALS, CANDIDATES, STARTS, SEED = 1500, 22, 11, 7
BESIDE_RAD = np.radians(4.0)  # families nearer to one another are one
SAME_EDGES = 0.6  # two points that share more of their edges are one


def starts(edges: Edges, lens: Lens) -> list[Array]:
    """Horizons through pairs of likely points, and level with the uprights through one; the likeliest of them."""
    rng = np.random.default_rng(SEED)
    lean = np.abs(np.degrees(np.arctan2(edges.way[:, 0], edges.way[:, 1])))
    steep = np.minimum(lean, 180 - lean) < 25
    level, upright = _candidates(edges, ~steep, rng), _candidates(edges, steep, rng)[:4]
    rows = []
    tilts = [0.0]
    for x, y, w in upright:
        # The way to the uprights' point from the picture's middle is square to the horizon.
        tilts.append(float(np.arctan2(-x, y) if y > 0 else np.arctan2(x, -y)) if abs(w) < 3 else 0.0)
    tilts = [tilt for tilt in tilts if abs(tilt) < np.radians(20)]
    for x, y, w in level:
        if abs(w) > 0.03:
            rows += [_row(tilt, np.array([x / w, y / w])) for tilt in tilts]
    for (x0, y0, w0), (x1, y1, w1) in combinations(level[:14], 2):
        line = np.cross([x0, y0, w0], [x1, y1, w1])
        size = float(np.hypot(line[0], line[1]))
        if size < 1e-12 or abs(line[1]) < 0.93 * size:
            continue
        line = line / size * np.sign(line[1])
        rows.append(_with_height(float(np.arctan2(-line[0], line[1])), float(-line[2])))
    scored = []
    angles = np.radians(np.arange(-88, 90, 2.0))
    for row in _different(rows):
        best = _with_lens(edges, row, lens)
        families, gain = families_on(edges, best, angles)
        scored.append((gain + prior_of(np.append(best, families), lens), np.append(best, families)))
    scored.sort(key=lambda pair: -pair[0])
    return [row for _, row in scored[:STARTS]]


def _different(rows: list[Array]) -> list[Array]:
    kept: list[Array] = []
    for row in rows:
        if abs(row[HEIGHT]) < 1.2 and all(np.abs(row - other)[:2].max() > 0.004 for other in kept):
            kept.append(row)
    return kept


def _row(tilt: float, point: Array) -> Array:
    return _with_height(tilt, float(-np.sin(tilt) * point[0] + np.cos(tilt) * point[1]))


def _with_height(tilt: float, height: float) -> Array:
    return np.array([tilt, height, USUAL_LENS, 0.0, 0.0, 0.0])


def _with_lens(edges: Edges, row: Array, lens: Lens) -> Array:
    """The lens for which the uprights fit best."""
    best, most = row, -np.inf
    for focal in lens.usual + lens.spread * np.array([-1.5, -0.75, 0.0, 0.75, 1.5]):
        tried = row.copy()
        tried[FOCAL] = focal
        gain = edges.likely(edges.odds(edges.off(points_of(tried)))[:, 0])
        if gain > most:
            best, most = tried, gain
    return best


def families_on(edges: Edges, row: Array, angles: Array) -> tuple[Array, float]:
    """Level families on a horizon, one after another while they are worth it, and the log likelihood with them."""
    odds = edges.odds(edges.off(points_of(np.append(row, angles)), row))
    now = odds[:, 0]
    times = (1 - STRAY) / STRAY / 2
    chosen: list[float] = []
    total = edges.likely(now)
    for _ in range(MOST_FAMILIES):
        gains = edges.weight @ np.log1p(times * (now[:, None] + odds[:, 1:]))
        if chosen:
            gains = np.where(beside(angles, chosen), -np.inf, gains + SQUARE_GAIN * _square_to(angles, chosen))
        best = int(gains.argmax())
        if gains[best] - total < FAMILY_COSTS:
            break
        chosen.append(float(angles[best]))
        now, total = now + odds[:, 1 + best], float(gains[best]) - FAMILY_COSTS
    return np.array(chosen), total


def _square_to(angles: Array, chosen: list[float]) -> Array:
    """Which angles are square to one of the chosen ones (1), and which are not (0)."""
    off = (angles[:, None] - np.array(chosen)) % np.pi - np.pi / 2
    return np.asarray((np.abs(off).min(1) < SQUARE_RAD).astype(np.float64))


def beside(angles: Array, chosen: list[float]) -> NDArray[np.bool_]:
    """Which angles are the same direction as one of the chosen ones."""
    off = (angles[:, None] - np.array(chosen) + np.pi / 2) % np.pi - np.pi / 2
    return np.asarray(np.abs(off).min(1) < BESIDE_RAD)


def _candidates(edges: Edges, pool: NDArray[np.bool_], rng: np.random.Generator) -> Array:
    """Points (k, 3) that much length of edge runs to, each of a different set of edges, the strongest first."""
    numbers = np.flatnonzero(pool)
    if len(numbers) < 2:
        return np.zeros((0, 3))
    ends = np.stack([edges.middle - edges.half[:, None] * edges.way, edges.middle + edges.half[:, None] * edges.way], 1)
    homogeneous = np.concatenate([ends, np.ones((len(ends), 2, 1))], 2)
    joined = np.cross(homogeneous[:, 0], homogeneous[:, 1])
    chance = (edges.weight * edges.half)[numbers]
    chance = chance / chance.sum()
    first, second = rng.choice(numbers, PROPOSALS, p=chance), rng.choice(numbers, PROPOSALS, p=chance)
    points = np.cross(joined[first], joined[second])
    size = np.linalg.norm(points, axis=1)
    points = points[size > 1e-9] / size[size > 1e-9, None]
    votes = np.clip(1 - np.abs(edges.off(points)[numbers]) / (3 * edges.error[numbers, None]), 0, 1)
    strength = (votes * (edges.weight * edges.half)[numbers, None]).sum(0)
    agree = (votes > 0).astype(np.float64)
    share = agree.T @ agree / np.maximum(agree.sum(0), 1e-9)[:, None]  # of the edges of the one, those of the other
    left = np.ones(len(points), bool)
    kept: list[int] = []
    for k in np.argsort(-strength, kind="stable").tolist():
        if left[k]:
            kept.append(k)
            left &= share[:, k] < SAME_EDGES
        if len(kept) == CANDIDATES:
            break
    return np.asarray(points[kept])
