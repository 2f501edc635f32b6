"""Which way is up in a photo, from everything traced that tells it: uprights run along it, level edges square to it.

Uprights alone tell it badly where they are short; the level edges add what they know once the lens is known. The
misfits of all traced edges are made least together (R. Hartley & A. Zisserman, Multiple View Geometry, 2nd ed. 2004,
ch. 8.6), unless uprights and level edges speak against each other, as in a cropped picture: then uprights count alone.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.geometry.least_squares import damped_least_squares
from mild_compass.craft.perspective.vanishing import VanishingPoint, ends, vanishing_point

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.perspective import PerspectivePlan

    Array = NDArray[np.float64]

AGAINST = 12.0  # of a chi-square with few degrees of freedom: what chance hardly ever reaches


def uprights_point(plan: PerspectivePlan, focal_px: float, centre_px: tuple[float, float]) -> Array | None:
    """The point (x, y, w) in photo pixels that uprights run to, or None where no uprights are traced."""
    fitted = [(each, vanishing_point(each, plan.tracing_error_px)) for each in plan.sets]
    sets = [(each, point) for each, point in fitted if isinstance(point, VanishingPoint)]
    upright = next(((each, point) for each, point in sets if each.kind == "upright"), None)
    if upright is None:
        return None
    alone = upright[1].homogeneous
    level = [(each, point) for each, point in sets if each.kind == "level"]
    if not level:
        return alone
    lens = _Lens(focal_px, centre_px)
    edges = [ends(each.edges) for each, _ in (upright, *level)]
    own = [point.homogeneous for _, point in (upright, *level)]
    together, misfits = _fitted(edges, own, lens)
    apart = sum(float((_off(lines, point) ** 2).sum()) for lines, point in zip(edges, own, strict=True))
    worse = (float(misfits @ misfits) - apart) / (plan.tracing_error_px**2 / 2)
    return alone if worse > AGAINST else together


class _Lens:
    """Takes points (x, y, w) of the photo to directions before the eye, and back."""

    def __init__(self, focal_px: float, centre_px: tuple[float, float]) -> None:
        (x, y), f = centre_px, focal_px
        self._shown = np.array([[f, 0, x], [0, f, y], [0, 0, 1]])
        self._ray = np.linalg.inv(self._shown)

    def direction(self, point: Array) -> Array:
        way = self._ray @ point
        return np.asarray(way / np.linalg.norm(way))

    def point(self, direction: Array) -> Array:
        return np.asarray(self._shown @ direction)


def _fitted(edges: list[Array], points: list[Array], lens: _Lens) -> tuple[Array, Array]:
    """The uprights' point for which all edges fit best, those of the uprights first, and the misfits."""
    up = lens.direction(points[0])
    side = np.linalg.svd(up[None])[2][1:]  # two directions (2, 3) square to the first guess
    turns = [float(np.arctan2(*(side @ lens.direction(point))[::-1])) for point in points[1:]]

    def places(row: Array) -> list[Array]:
        now = up + row[0] * side[0] + row[1] * side[1]
        now = now / np.linalg.norm(now)
        level = [np.cos(turn) * side[0] + np.sin(turn) * side[1] for turn in row[2:]]
        return [lens.point(now), *(lens.point(each - (each @ now) * now) for each in level)]

    def misfits(row: Array) -> Array:
        return np.concatenate([_off(lines, point) for lines, point in zip(edges, places(row), strict=True)])

    row, off, _ = damped_least_squares(misfits, np.array([0.0, 0.0, *turns]))
    return places(row)[0], off


def _off(lines: Array, point: Array) -> Array:
    """How far the ends of lines (n, 2, 2) lie off the lines from their middles to a point (x, y, w), in pixels."""
    middle, way = lines.mean(1), (lines[:, 1] - lines[:, 0]) / 2
    toward = point[:2] - point[2] * middle
    across = way[:, 0] * toward[:, 1] - way[:, 1] * toward[:, 0]
    return np.asarray(across / np.maximum(np.hypot(*toward.T), 1e-12))
