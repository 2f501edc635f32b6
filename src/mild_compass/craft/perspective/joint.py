"""One estimate of all that straight edges tell of a camera: horizon, its tilt, uprights, up to three level families.

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
from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.geometry.least_squares import slopes_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Numbers = NDArray[np.intp]

ROUGH_SHARE = 0.9 / 1500  # of the picture's longer side: the error of a rough edge's end, across it
FINE = 0.8  # of a family's edges: those that are as exact as they claim, not rough
SOFTENED = (ROUGH_SHARE, 0.4 * ROUGH_SHARE, 0.0)  # edges are taken for rougher than they are, then less and less
STRAY = 0.3  # of all edges: those that belong to nothing
MOST_FAMILIES = 3
FAMILY_COSTS = 9.0  # of log likelihood: a further family must be worth that
TILT_RAD, CENTRE_SHARE, PITCH, LENS, BOW_USUAL = np.radians(4.0), 0.04, 0.25, 0.45, 0.05  # spreads of what is usual
USUAL_LENS, TOLD_LENS, TOLD_CENTRE = np.log(30 / 36), 0.04, 0.01
SQUARE_RAD = np.radians(2.0)  # families that are nearly square are taken to be
SQUARE_GAIN = 5.0  # of log likelihood: most of what people build is square
PROPOSALS, CANDIDATES, STARTS, CLOSER, SEED = 2000, 22, 14, 6, 7
SAME_EDGES = 0.6  # two points that share more of their edges are one
STEPS, FIRST_STEPS = 14, 5
HALVINGS = 3
ANOTHER = 0.01  # of the height: horizons no further apart are one
TILT, HEIGHT, FOCAL, CENTRE_X, CENTRE_Y, BOW, FIRST = range(7)  # places in the row of numbers that is sought


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
        return _height(self.row, (x_px - self.middle_px[0]) / self.unit_px) * self.unit_px + float(self.middle_px[1])

    @property
    def height_spread_px(self) -> float:
        """The standard deviation of the horizon at the picture's middle."""
        slope = slopes_of(lambda row: np.array([_height(row, 0.0)]), self.row)[0]
        return float(np.sqrt(max(slope @ self.covariance @ slope, 0.0)) * self.unit_px)

    @property
    def tilt_spread_deg(self) -> float:
        """The standard deviation of the horizon's tilt."""
        return float(np.degrees(np.sqrt(max(self.covariance[TILT, TILT], 0.0))))

    @property
    def counts(self) -> tuple[int, ...]:
        """How many edges belong to the uprights and to each level family."""
        return tuple(int((self.families == family).sum()) for family in range(len(self.row) - FIRST + 1))

    def off(self, lines: Array, family: int) -> Array:
        """How far the ends of lines (n, 2, 2) lie off the lines from their middles to a family's point, signed, px."""
        scaled = _Edges((lines - self.middle_px) / self.unit_px, np.ones(len(lines)), np.ones(len(lines)))
        return np.asarray(scaled.off(_points(self.row)[family : family + 1], self.row)[:, 0] * self.unit_px)

    def point(self, family: int) -> Array:
        """The point (x, y, w) of a family in photo pixels."""
        x, y, w = _points(self.row)[family]
        return np.array([x * self.unit_px + w * self.middle_px[0], y * self.unit_px + w * self.middle_px[1], w])


def _height(row: Array, x: float) -> float:
    """The horizon's height at x, in units from the picture's middle."""
    s, c = np.sin(row[TILT]), np.cos(row[TILT])
    # (p − centre)·n = height, with n = (−sin, cos).
    return float((row[HEIGHT] + row[CENTRE_Y] * c - row[CENTRE_X] * s + x * s) / c)


def _points(row: Array) -> Array:
    """The points (…, k, 3) of the uprights and of the level families, of one row of numbers or of several (…, n)."""
    s, c = np.sin(row[..., TILT, None]), np.cos(row[..., TILT, None])
    x, y, height = (row[..., k, None] for k in (CENTRE_X, CENTRE_Y, HEIGHT))
    focal, angle = np.exp(row[..., FOCAL, None]), row[..., FIRST:]
    reach, cos, sin = np.hypot(focal, height), np.cos(angle), np.sin(angle)
    across = cos * (x - height * s) + reach * sin * c
    down = cos * (y + height * c) + reach * sin * s
    upright = (height * x + focal**2 * s, height * y - focal**2 * c, height)
    return np.stack([np.concatenate(pair, -1) for pair in zip(upright, (across, down, cos), strict=True)], -1)


class _Edges:
    """Edges in units of the picture's longer side, about its middle, each with the error of its ends across it."""

    def __init__(self, ends: Array, error: Array, weight: Array) -> None:
        self.ends, self.error, self.weight = ends, error, weight
        self.rough = np.maximum(ROUGH_SHARE, 3 * error)
        self.middle, self.way, self.half = _laid(ends)

    def softened(self, error: float) -> _Edges:
        """The same edges, less exact."""
        return _Edges(self.ends, np.hypot(self.error, error), self.weight)

    def picked(self, numbers: Numbers) -> _Edges:
        """Some of the edges."""
        return _Edges(self.ends[numbers], self.error[numbers], self.weight[numbers])

    def likely(self, odds: Array) -> float:
        """The log likelihood of all edges from how many times likelier each is than without points."""
        return float((self.weight * np.log1p((1 - STRAY) / STRAY / 2 * odds)).sum())

    def __len__(self) -> int:
        return len(self.half)

    def off(self, points: Array, row: Array | None = None) -> Array:
        """How far the ends lie off the lines from their middles to points (…, k, 3): (…, n, k), signed.

        ``row`` (…, n) tells how the lens bows; without it edges count as they lie.
        """
        laid = (self.middle, self.way, self.half) if row is None else _laid(_unbowed(self.ends, row))
        middle, way, half = laid
        toward = points[..., None, :, :2] - points[..., None, :, 2:] * middle[..., None, :]
        x, y = toward[..., 0], toward[..., 1]
        size = np.maximum(np.sqrt(x * x + y * y), 1e-12)
        return np.asarray((way[..., 0, None] * y - way[..., 1, None] * x) / size * half[..., None])

    def odds(self, off: Array) -> Array:
        """How many times likelier each edge is, so far off (n, k) each point, than without one."""
        fine, rough = self.densities(off)
        return np.asarray((fine + rough) * self.half[:, None])

    def densities(self, off: Array) -> tuple[Array, Array]:
        """Of being so far off (n, k): as exact edges, and as rough ones."""
        fine, rough = (
            share / np.sqrt(2 * np.pi) / error[:, None] * np.exp(-0.5 * (off / error[:, None]) ** 2)
            for share, error in ((FINE, self.error), (1 - FINE, self.rough))
        )
        return fine, rough


def _laid(ends: Array) -> tuple[Array, Array, Array]:
    """Middles, unit directions and half lengths of edges (…, 2, 2)."""
    first, last = ends[..., 0, :], ends[..., 1, :]
    way = last - first
    length = np.hypot(way[..., 0], way[..., 1])
    return (first + last) / 2, way / np.maximum(length, 1e-12)[..., None], length / 2


def _unbowed(ends: Array, row: Array) -> Array:
    """Where a lens without bow would show ends (n, 2, 2): x' = x·(1 + bow·r²) about the centre, turned round.

    For several rows of numbers (…, k) the ends as each of them has it (…, n, 2, 2).
    """
    centre, bow = row[..., None, None, [CENTRE_X, CENTRE_Y]], row[..., None, None, BOW]
    seen = ends - centre
    far = seen[..., 0] ** 2 + seen[..., 1] ** 2
    nearer = far
    for _ in range(UNBOW_ROUNDS):
        nearer = far / (1 + bow * nearer) ** 2
    return np.asarray(seen / (1 + bow * nearer)[..., None] + centre)


UNBOW_ROUNDS = 4


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
    edges = _edges(lines, size_px, error_px, weight)
    lens = _lens_of(focal_px, unit)
    found = [_refined(edges, row, lens) for row in _looked_closer(edges, lens)]
    found.sort(key=lambda each: -each[1])
    kept: list[JointCamera] = []
    for row, score in found:
        made = JointCamera(row, score, _covariance(edges, row, lens), _members(edges, row), unit, middle)
        if all(_another(made, other, size_px) for other in kept):
            kept.append(made)
    return kept


def _edges(lines: Array, size_px: tuple[int, int], error_px: Array | None, weight: Array | None) -> _Edges:
    unit = float(max(size_px))
    error = np.full(len(lines), ROUGH_SHARE) if error_px is None else error_px / unit
    return _Edges((lines - np.array(size_px) / 2) / unit, error, np.ones(len(lines)) if weight is None else weight)


@dataclass(frozen=True, slots=True)
class _Lens:
    """What is known: the usual logarithm of the focal length in units, its spread, and that of the lens's centre."""

    usual: float
    spread: float
    centre: float


def _lens_of(focal_px: float, unit: float) -> _Lens:
    """A photo that still tells its lens is seldom cropped."""
    if focal_px > 0:
        return _Lens(float(np.log(focal_px / unit)), TOLD_LENS, TOLD_CENTRE)
    return _Lens(float(USUAL_LENS), LENS, CENTRE_SHARE)


@dataclass(frozen=True, slots=True)
class Sway:
    """How far the horizon moves when only half of the edges tell it: shares of the picture's height at its middle and
    degrees of tilt, each for the middle one and the worst one of the halves tried."""

    height: tuple[float, float]
    tilt_deg: tuple[float, float]


def sway_of(
    camera: JointCamera, lines: Array, size_px: tuple[int, int], focal_px: float, error_px: Array, weight: Array
) -> Sway:
    """Fit the horizon again to random halves of the edges (after B. Efron, Ann. Statist. 7, 1979)."""
    unit, edges = camera.unit_px, _edges(lines, size_px, error_px, weight)
    lens, hand = _lens_of(focal_px, unit), np.random.default_rng(SEED)
    heights, tilts = [], []
    for _ in range(HALVINGS):
        order = hand.permutation(len(lines))
        for half in (order[::2], order[1::2]):
            row, _ = _refined(edges.picked(half), camera.row, lens)
            heights.append(abs(_height(row, 0.0) - _height(camera.row, 0.0)) * unit / size_px[1])
            tilts.append(abs(float(np.degrees(row[TILT] - camera.row[TILT]))))
    heights.sort()
    tilts.sort()
    return Sway((heights[HALVINGS], heights[-1]), (tilts[HALVINGS], tilts[-1]))


def _another(one: JointCamera, other: JointCamera, size_px: tuple[int, int]) -> bool:
    """Whether their horizons lie apart somewhere in the picture."""
    places = (0.25 * size_px[0], 0.75 * size_px[0])
    return any(abs(one.horizon_at(x) - other.horizon_at(x)) > ANOTHER * size_px[1] for x in places)


# -- beginnings -----------------------------------------------------------------------------------------------


def _starts(edges: _Edges, lens: _Lens) -> list[Array]:
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
        families, gain = _families(edges, best, angles)
        scored.append((gain + _prior(np.append(best, families), lens), np.append(best, families)))
    scored.sort(key=lambda pair: -pair[0])
    return [row for _, row in scored[:STARTS]]


def _looked_closer(edges: _Edges, lens: _Lens) -> list[Array]:
    """The beginnings climbed with rough edges, their level families found anew there; the likeliest of them."""
    rough, fine = edges.softened(SOFTENED[0]), edges.softened(SOFTENED[1])
    angles = np.radians(np.arange(-89, 90, 1.0))
    scored: list[tuple[float, Array]] = []
    for row in _starts(rough, lens):
        climbed, _ = _climbed(rough, row, lens, FIRST_STEPS)
        for tried in (climbed, np.append(climbed[:FIRST], _families(rough, climbed[:FIRST], angles)[0])):
            again, score = _climbed(fine, tried, lens, FIRST_STEPS)
            scored.append((score, again))
    scored.sort(key=lambda pair: -pair[0])
    kept: list[Array] = []
    for _, row in scored:
        if all(len(row) != len(other) or np.abs(row - other).max() > 1e-3 for other in kept):
            kept.append(row)
    return kept[:CLOSER]


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


def _with_lens(edges: _Edges, row: Array, lens: _Lens) -> Array:
    """The lens for which the uprights fit best."""
    best, most = row, -np.inf
    for focal in lens.usual + lens.spread * np.array([-1.5, -0.75, 0.0, 0.75, 1.5]):
        tried = row.copy()
        tried[FOCAL] = focal
        gain = edges.likely(edges.odds(edges.off(_points(tried)))[:, 0])
        if gain > most:
            best, most = tried, gain
    return best


def _families(edges: _Edges, row: Array, angles: Array) -> tuple[Array, float]:
    """Level families on a horizon, one after another while they are worth it, and the log likelihood with them."""
    odds = edges.odds(edges.off(_points(np.append(row, angles)), row))
    now = odds[:, 0]
    times = (1 - STRAY) / STRAY / 2
    chosen: list[float] = []
    total = edges.likely(now)
    for _ in range(MOST_FAMILIES):
        gains = edges.weight @ np.log1p(times * (now[:, None] + odds[:, 1:]))
        if chosen:
            gains = gains + SQUARE_GAIN * _square_to(angles, chosen)
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


def _candidates(edges: _Edges, pool: NDArray[np.bool_], rng: np.random.Generator) -> Array:
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


# -- the best -------------------------------------------------------------------------------------------------


def _usual(row: Array, lens: _Lens) -> tuple[Array, Array]:
    """How far the numbers (n,) are from what is usual, in spreads, and how that changes with each (6, n)."""
    focal = np.exp(row[FOCAL])
    pitch = row[HEIGHT] / focal / PITCH
    spreads = np.array([TILT_RAD, PITCH * focal, lens.spread, lens.centre, lens.centre, BOW_USUAL])
    slope = np.zeros((FIRST, len(row)))
    np.fill_diagonal(slope, 1 / spreads)
    slope[HEIGHT, FOCAL] = -pitch
    usual = row[:FIRST] / spreads
    usual[FOCAL] = (row[FOCAL] - lens.usual) / lens.spread
    return usual, slope


def _squares(row: Array) -> list[tuple[int, int, float]]:
    """Pairs of families that are nearly square, and by how many spreads they are not."""
    found = []
    for first, second in combinations(range(FIRST, len(row)), 2):
        off = (row[first] - row[second]) % np.pi - np.pi / 2
        if abs(off) < 3 * SQUARE_RAD:
            found.append((first, second, float(off / SQUARE_RAD)))
    return found


def _prior(row: Array, lens: _Lens) -> float:
    spread, _ = _usual(row, lens)
    # Heavy tails: what is unusual is unlikely, and no more than that.
    return float(-np.log1p(0.5 * spread**2 / 1.5).sum() * 1.5)


def _score(edges: _Edges, row: Array, lens: _Lens) -> float:
    odds = edges.odds(edges.off(_points(row), row)).sum(1)
    square = sum(np.log1p(np.exp(SQUARE_GAIN - 0.5 * off**2)) for *_, off in _squares(row))
    return edges.likely(odds) + _prior(row, lens) + float(square) - FAMILY_COSTS * (len(row) - FIRST)


def _refined(edges: _Edges, row: Array, lens: _Lens) -> tuple[Array, float]:
    """Made likelier step by step, the edges taken for less exact than they are to begin with."""
    best, score = row, -np.inf
    for error in SOFTENED[1:]:
        best, score = _climbed(edges.softened(error), best, lens)
    return best, score


def _climbed(edges: _Edges, row: Array, lens: _Lens, steps: int = STEPS) -> tuple[Array, float]:
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


def _normal_equations(edges: _Edges, row: Array, lens: _Lens) -> tuple[Array, Array]:
    """Of the weighted misfits and of what is usual: JᵀWJ and JᵀWr."""

    moved = row + np.concatenate([np.zeros((1, len(row))), SMALL * np.eye(len(row))])
    offs = edges.off(_points(moved), moved)
    off, slope = offs[0], (np.moveaxis(offs[1:], 0, -1) - offs[0][..., None]).reshape(-1, len(row)) / SMALL
    fine, rough = edges.densities(off)
    likely = (1 - STRAY) / STRAY / 2 * (fine + rough) * edges.half[:, None]
    share = likely / (1 + likely.sum(1, keepdims=True))  # how far each edge belongs to each family
    exact = fine / np.maximum(fine + rough, 1e-300)
    precision = exact / edges.error[:, None] ** 2 + (1 - exact) / edges.rough[:, None] ** 2
    w = (edges.weight[:, None] * share * precision).ravel()
    normal, gradient = slope.T @ (slope * w[:, None]), slope.T @ (w * off.ravel())
    usual, bend = _usual(row, lens)
    heavy = 1 / (1 + usual**2 / 3)
    normal += bend.T @ (bend * heavy[:, None])
    gradient += bend.T @ (heavy * usual)
    for first, second, spread in _squares(row):
        pull = np.zeros(len(row))
        pull[first], pull[second] = 1 / SQUARE_RAD, -1 / SQUARE_RAD
        held = np.exp(SQUARE_GAIN - 0.5 * spread**2)
        held /= 1 + held
        normal += held * np.outer(pull, pull)
        gradient += held * spread * pull
    return normal + 1e-9 * np.eye(len(row)), gradient


def _covariance(edges: _Edges, row: Array, lens: _Lens) -> Array:
    normal, _ = _normal_equations(edges, row, lens)
    return np.asarray(np.linalg.pinv(normal))


def _members(edges: _Edges, row: Array) -> Numbers:
    odds = edges.odds(edges.off(_points(row), row))
    best = odds.argmax(1)
    return np.where(odds[np.arange(len(edges)), best] > 1.0, best, -1)
