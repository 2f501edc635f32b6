"""The vanishing point of a set of traced edges, by maximum likelihood, with its uncertainty.

Method: R. Hartley & A. Zisserman, Multiple View Geometry, 2nd ed. 2004, ch. 8. Each traced end is off by an
independent error; for a candidate point v the edge's fitted position is the line through v that runs closest to
both ends, and the sum of squared distances of the ends from it is the smaller eigenvalue of their scatter about v.
The point is kept homogeneous, so edges that are parallel in the photo give a point at infinity without a special case.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from mild_compass.plan.perspective import EdgeSet, TracedEdge

Array = NDArray[np.float64]
CHI2_95_TWO = 5.991464547107979  # 95 % of a chi-square with two degrees of freedom
OUTLIER_SIGMAS = 4.0
USUAL_COUNTS = 4.0  # as many edges as the usual tracing error weighs against their own


@dataclass(frozen=True, eq=False, slots=True)
class VanishingPoint:
    """A point (x, y, w) in photo pixels, w = 0 at infinity, with its spread on the unit sphere.

    ``tangent`` (2, 3) spans the directions of the spread, ``spread`` (2, 2) is the covariance along them,
    both in the centred and scaled coordinates of ``shift`` and ``unit_px``. ``residuals_px`` (n,) are the signed
    misfits of the edges; ``odd_one`` is the index of an edge that does not go with the others, or None.
    """

    letter: str
    sphere: Array
    tangent: Array
    spread: Array
    shift: Array
    unit_px: float
    residuals_px: Array
    odd_one: int | None

    @property
    def homogeneous(self) -> Array:
        """(x, y, w) with x / w and y / w in photo pixels."""
        u, v, w = self.sphere
        return np.array([u * self.unit_px + self.shift[0] * w, v * self.unit_px + self.shift[1] * w, w])

    @property
    def at_infinity(self) -> bool:
        """Whether the spread does not tell the point from one infinitely far away."""
        w_spread = float(np.sqrt(self.tangent[:, 2] @ self.spread @ self.tangent[:, 2]))
        return bool(abs(self.sphere[2]) < max(1e-9, 2.0 * w_spread))

    @property
    def point_px(self) -> Array | None:
        """The point in photo pixels, or None at infinity."""
        return None if self.at_infinity else np.asarray(self.homogeneous[:2] / self.homogeneous[2])

    @property
    def direction(self) -> Array:
        """Unit direction of the edges in the photo, meaningful at infinity."""
        return np.asarray(self.sphere[:2] / np.hypot(*self.sphere[:2]))

    @property
    def covariance_px2(self) -> Array | None:
        """Covariance (2, 2) of the point in photo pixels, first order, or None at infinity."""
        if self.at_infinity:
            return None
        u, v, w = self.sphere
        jacobian = np.array([[1 / w, 0, -u / w**2], [0, 1 / w, -v / w**2]]) * self.unit_px
        return np.asarray(jacobian @ self.tangent.T @ self.spread @ self.tangent @ jacobian.T)

    def ellipse_px(self, steps: int = 72) -> Array | None:
        """Outline (steps, 2) of the region that holds the true point 95 times in 100."""
        covariance, point = self.covariance_px2, self.point_px
        if covariance is None or point is None:
            return None
        values, axes = np.linalg.eigh(covariance)
        angle = np.linspace(0, 2 * np.pi, steps)
        circle = np.stack([np.cos(angle), np.sin(angle)], -1) * np.sqrt(np.maximum(values, 0) * CHI2_95_TWO)
        return np.asarray(point + circle @ axes.T)


@dataclass(frozen=True, slots=True)
class NoPoint:
    """A set that gives no point, with the reason as a sentence."""

    letter: str
    reason: str


def ends(edges: tuple[TracedEdge, ...]) -> Array:
    """Edge ends as an array (n, 2, 2)."""
    rows = [[[edge.x0_px, edge.y0_px], [edge.x1_px, edge.y1_px]] for edge in edges]
    return np.array(rows, np.float64).reshape(-1, 2, 2)


@lru_cache(maxsize=256)  # a set is fitted once, however often things about it move
def vanishing_point(edge_set: EdgeSet, tracing_error_px: float = 1.5, disown: bool = True) -> VanishingPoint | NoPoint:
    """Where the edges of a set meet; one edge, or edges that lie on one line, give a NoPoint.

    With ``disown`` one edge that does not go with the others is noticed and left out.
    """
    letter = edge_set.letter
    if len(edge_set.edges) < 2:
        return NoPoint(letter, f"Set {letter} has one edge; trace another that is parallel to it in the world.")
    segments = ends(edge_set.edges)
    shift = segments.reshape(-1, 2).mean(0)
    unit = float(np.abs(segments - shift).max())
    scaled = (segments - shift) / unit
    if _on_one_line(scaled, tracing_error_px / unit):
        return NoPoint(letter, f"The edges of set {letter} lie on one line; trace one further away from it.")
    sphere = _fit(scaled)
    odd = _odd_one(scaled, sphere, tracing_error_px / unit) if disown else None
    residuals = misfits(sphere, scaled) * unit
    if odd is not None:
        sphere = _fit(np.delete(scaled, odd, 0))
        residuals = misfits(sphere, scaled) * unit
    used = scaled if odd is None else np.delete(scaled, odd, 0)
    tangent = tangent_at(sphere)
    jacobian = slopes(sphere, tangent, used)
    error = _error_of(misfits(sphere, used) * unit, tracing_error_px)
    spread = np.asarray((error / unit) ** 2 * np.linalg.pinv(jacobian.T @ jacobian), np.float64)
    return VanishingPoint(letter, sphere, tangent, spread, shift, unit, residuals, odd)


def _error_of(residuals_px: Array, usual_px: float) -> float:
    """How exactly these edges were traced, by how well they agree; few edges say little, and the usual error counts."""
    free = max(len(residuals_px) - 2, 0)  # two numbers make the point
    return float(np.sqrt((USUAL_COUNTS * usual_px**2 + (residuals_px**2).sum()) / (USUAL_COUNTS + free)))


def misfits(v: Array, segments: Array) -> Array:
    """Signed misfit (n,) of every edge (n, 2, 2) at a point v on the unit sphere.

    The square root of the smaller eigenvalue of its ends' scatter about v.
    """
    p, q = segments[:, 0], segments[:, 1]
    u, w = v[:2], v[2]
    a, b = w * p - u, w * q - u
    total = (a**2).sum(1) + (b**2).sum(1)
    # The line through both ends applied to v; finite and smooth also at infinity.
    across = (p[:, 1] - q[:, 1]) * v[0] + (q[:, 0] - p[:, 0]) * v[1] + (p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]) * v[2]
    root = np.sqrt(np.maximum(total**2 - 4 * (w * across) ** 2, 0))
    return np.asarray(across * np.sqrt(2 / np.maximum(total + root, 1e-300)))


def tangent_at(v: Array) -> Array:
    """Two unit vectors (2, 3) at right angles to v and to each other."""
    _, _, rows = np.linalg.svd(v[None])
    return np.asarray(rows[1:])


def slopes(v: Array, tangent: Array, segments: Array) -> Array:
    """How the misfits change (n, 2) when the point v moves along each of two tangents (2, 3)."""
    step = 1e-6
    columns = [(misfits(v + step * t, segments) - misfits(v - step * t, segments)) / (2 * step) for t in tangent]
    return np.stack(columns, 1)


def _fit(segments: Array) -> Array:
    """Levenberg-Marquardt on the sphere, from the best of the pairwise crossings.

    Our own and not SciPy's, which the tests hold it to: a plan with traced edges is fitted before the first window
    shows, and importing SciPy's optimiser takes half a second.
    """
    v = _start(segments)
    damping = 1e-3
    cost = float((misfits(v, segments) ** 2).sum())
    for _ in range(60):
        tangent = tangent_at(v)
        jacobian, residuals = slopes(v, tangent, segments), misfits(v, segments)
        normal = jacobian.T @ jacobian
        slope = jacobian.T @ residuals
        step = np.linalg.lstsq(normal + damping * np.diag(np.diag(normal) + 1e-15), -slope, rcond=None)[0]
        moved = v + step @ tangent
        moved /= np.linalg.norm(moved)
        moved_cost = float((misfits(moved, segments) ** 2).sum())
        if moved_cost <= cost:
            settled = cost - moved_cost <= 1e-14 * (cost + 1e-30)
            v, cost, damping = moved, moved_cost, damping / 5
            if settled and float(np.abs(step).max()) < 1e-10:
                break
        else:
            damping *= 8
            if damping > 1e12:
                break
    return np.asarray(v if v[2] >= 0 else -v)


def _start(segments: Array) -> Array:
    """The crossing of two of the longer edges that the whole set likes best."""
    homogeneous = np.concatenate([segments, np.ones((*segments.shape[:2], 1))], 2)
    lines = np.cross(homogeneous[:, 0], homogeneous[:, 1])
    lines /= np.linalg.norm(lines, axis=1, keepdims=True)
    lengths = np.hypot(*(segments[:, 1] - segments[:, 0]).T)
    longest = np.argsort(-lengths)[:12]
    i, j = np.triu_indices(len(longest), 1)
    crossings = np.cross(lines[longest[i]], lines[longest[j]])
    norms = np.linalg.norm(crossings, axis=1)
    crossings = crossings[norms > 1e-12] / norms[norms > 1e-12, None]
    costs = [np.median(np.abs(misfits(each, segments))) for each in crossings]
    sums = [float((misfits(each, segments) ** 2).sum()) for each in crossings]
    best = min(range(len(crossings)), key=lambda k: (round(float(costs[k]), 12), sums[k]))
    return np.asarray(crossings[best])


def _odd_one(segments: Array, v: Array, sigma: float) -> int | None:
    """The one edge that the others, fitted without it, disown; None with fewer than four edges."""
    if len(segments) < 4 or np.abs(misfits(v, segments)).max() < 2.5 * sigma:
        return None
    worst, misfit = None, OUTLIER_SIGMAS * sigma
    for index in range(len(segments)):
        rest = np.delete(segments, index, 0)
        without = _fit(rest)
        alone = abs(float(misfits(without, segments[index : index + 1])[0]))
        if np.abs(misfits(without, rest)).max() < 3 * sigma and alone > misfit:
            worst, misfit = index, alone
    return worst


def _on_one_line(segments: Array, sigma: float) -> bool:
    points = segments.reshape(-1, 2)
    spread = np.linalg.svd(points - points.mean(0), compute_uv=False)
    return bool(spread[1] / np.sqrt(len(points)) < max(0.5 * sigma, 1e-9))
