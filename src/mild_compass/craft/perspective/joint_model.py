"""The posterior: parameter vector, vanishing points of families, edge likelihood with outliers, mixture priors.

The row holds the horizon's tilt and height, the lens's focal length (its logarithm), centre and bow, and the angle of
each level family; lengths are in units of the picture's longer side, about its middle.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import combinations
from math import exp, log, log1p, radians
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Numbers = NDArray[np.intp]

ROUGH_SHARE = 0.9 / 1500  # of the picture's longer side: the error of a rough edge's end, across it
FINE = 0.8  # of a family's edges: those that are as exact as they claim, not rough
STRAY = 0.3  # of all edges: those that belong to nothing
TILT_RAD, PITCH, LENS = radians(4.0), 0.25, 0.45  # spreads of what is usual
USUAL_LENS, TOLD_LENS = log(30 / 36), 0.04
SQUARE_RAD = np.radians(2.0)  # families that are nearly square are taken to be
TILT, HEIGHT, FOCAL, CENTRE_X, CENTRE_Y, BOW, FIRST = range(7)  # places in the row of numbers that is sought
UNBOW_ROUNDS = 3


def horizon_height(row: Array, x: float) -> float:
    """The horizon's height at x, in units from the picture's middle."""
    s, c = np.sin(row[TILT]), np.cos(row[TILT])
    # (p − centre)·n = height, with n = (−sin, cos).
    return float((row[HEIGHT] + row[CENTRE_Y] * c - row[CENTRE_X] * s + x * s) / c)


def points_of(row: Array) -> Array:
    """The points (…, k, 3) of the uprights and of the level families, of one row of numbers or of several (…, n)."""
    s, c = np.sin(row[..., TILT, None]), np.cos(row[..., TILT, None])
    x, y, height = (row[..., k, None] for k in (CENTRE_X, CENTRE_Y, HEIGHT))
    focal, angle = np.exp(row[..., FOCAL, None]), row[..., FIRST:]
    reach, cos, sin = np.hypot(focal, height), np.cos(angle), np.sin(angle)
    across = cos * (x - height * s) + reach * sin * c
    down = cos * (y + height * c) + reach * sin * s
    upright = (height * x + focal**2 * s, height * y - focal**2 * c, height)
    return np.stack([np.concatenate(pair, -1) for pair in zip(upright, (across, down, cos), strict=True)], -1)


class Edges:
    """Edges in units of the picture's longer side, about its middle, each with the error of its ends across it."""

    def __init__(self, ends: Array, error: Array, weight: Array) -> None:
        self.ends, self.error, self.weight = ends, error, weight
        self.rough = np.maximum(ROUGH_SHARE, 3 * error)
        self.middle, self.way, self.half = _laid(ends)

    def softened(self, error: float) -> Edges:
        """The same edges, less exact."""
        return Edges(self.ends, np.hypot(self.error, error), self.weight)

    def picked(self, numbers: Numbers) -> Edges:
        """Some of the edges."""
        return Edges(self.ends[numbers], self.error[numbers], self.weight[numbers])

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


def edges_of(lines: Array, size_px: tuple[int, int], error_px: Array | None, weight: Array | None) -> Edges:
    """Lines (n, 2, 2) of a picture in photo pixels as edges; rough ones that all count alike where nothing is said."""
    unit = float(max(size_px))
    error = np.full(len(lines), ROUGH_SHARE) if error_px is None else error_px / unit
    return Edges((lines - np.array(size_px) / 2) / unit, error, np.ones(len(lines)) if weight is None else weight)


@dataclass(frozen=True, slots=True)
class NarrowWideMixture:
    """What is mostly near nothing, in that share of pictures, and else spread wide: both spreads in units."""

    share: float
    narrow: float
    wide: float

    def told(self, squared: float, numbers: int) -> tuple[float, float]:
        """The log likelihood of so many numbers whose squares add up to that; the precision that fits them best."""
        near, far = (
            log(part) - numbers * log(spread) - squared / spread**2 / 2
            for part, spread in ((self.share, self.narrow), (1 - self.share, self.wide))
        )
        first = 1 / (1 + exp(min(far - near, 500.0)))
        both = near - log(first) if near > far else far - log(1 - first)
        return both, first / self.narrow**2 + (1 - first) / self.wide**2


# Most lenses are set right by the camera, and most pictures are whole, so that the lens's centre is their middle.
BOWED = NarrowWideMixture(0.75, 0.004, 0.12)
CROPPED, CROPPED_IF_TOLD = NarrowWideMixture(0.6, 0.004, 0.07), NarrowWideMixture(0.97, 0.004, 0.07)
SEARCHED_BOW, SEARCHED_CENTRE = 0.04, 0.03  # as narrow while it is searched, so that nothing is caught there


@dataclass(frozen=True, slots=True)
class Lens:
    """What is known: the usual logarithm of the focal length in units and its spread; of the centre; of the bow."""

    usual: float
    spread: float
    centre: NarrowWideMixture
    bow: NarrowWideMixture = BOWED

    def searched(self) -> Lens:
        """The same, less strict with what is mostly nothing."""
        centre = replace(self.centre, narrow=SEARCHED_CENTRE)
        return replace(self, centre=centre, bow=replace(self.bow, narrow=SEARCHED_BOW))


def lens_of(focal_px: float, unit: float) -> Lens:
    """A photo that still tells its lens is seldom cropped."""
    if focal_px > 0:
        return Lens(log(focal_px / unit), TOLD_LENS, CROPPED_IF_TOLD)
    return Lens(USUAL_LENS, LENS, CROPPED)


def usual_of(row: Array, lens: Lens) -> tuple[Array, Array, Array]:
    """How far the numbers (n,) are from what is usual, in spreads; how that changes with each (6, n); how much each
    counts (6,)."""
    focal = np.exp(row[FOCAL])
    pitch = row[HEIGHT] / focal / PITCH
    spreads = np.array([TILT_RAD, PITCH * focal, lens.spread, 1.0, 1.0, 1.0])
    slope = np.zeros((FIRST, len(row)))
    np.fill_diagonal(slope, 1 / spreads)
    slope[HEIGHT, FOCAL] = -pitch
    usual = row[:FIRST] / spreads
    usual[FOCAL] = (row[FOCAL] - lens.usual) / lens.spread
    counts = 1 / (1 + usual**2 / 3)
    counts[[CENTRE_X, CENTRE_Y]] = lens.centre.told(_off_middle(row), 2)[1]
    counts[BOW] = lens.bow.told(float(row[BOW] ** 2), 1)[1]
    return usual, slope, counts


def _off_middle(row: Array) -> float:
    return float(row[CENTRE_X] ** 2 + row[CENTRE_Y] ** 2)


def square_pairs(row: Array) -> list[tuple[int, int, float]]:
    """Pairs of families that are nearly square, and by how many spreads they are not."""
    found = []
    for first, second in combinations(range(FIRST, len(row)), 2):
        off = (row[first] - row[second]) % np.pi - np.pi / 2
        if abs(off) < 3 * SQUARE_RAD:
            found.append((first, second, float(off / SQUARE_RAD)))
    return found


def prior_of(row: Array, lens: Lens) -> float:
    """The log likelihood of a row of numbers before any edge is seen."""
    tilt, height, focal = row[:CENTRE_X].tolist()
    spreads = (tilt / TILT_RAD, height / exp(focal) / PITCH, (focal - lens.usual) / lens.spread)
    # Heavy tails: what is unusual is unlikely, and no more than that.
    free = -1.5 * sum(log1p(0.5 * spread**2 / 1.5) for spread in spreads)
    return free + lens.centre.told(_off_middle(row), 2)[0] + lens.bow.told(float(row[BOW]) ** 2, 1)[0]
