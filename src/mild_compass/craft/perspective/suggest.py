"""Sets of edges suggested from the found lines: which of them run to one point, and whether one can be sure of it.

Random pairs of lines propose points; the point that most length of line agrees with is taken, fitted, its lines set
aside, and so on (a plain consensus search after M. Fischler & R. Bolles, CACM 24, 1981, always the same one).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.camera import guessed_focal
from mild_compass.craft.perspective.vanishing import NoPoint, VanishingPoint, ends, vanishing_point
from mild_compass.craft.picture.edges import found_lines
from mild_compass.plan.model import EdgeSet, SetKind, TracedEdge

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.picture.load import Picture

    Array = NDArray[np.float64]

LOOKED_AT, PROPOSALS, SEED = 260, 3000, 7
AGREE_DEG = 1.2  # between a line and the direction from its middle to the point
UPRIGHT_DEG = 20.0
MOST_LEVEL = 5
MORE_SPREAD, MORE_SHARE = 0.02, 0.4
EXPECTED_WITHIN = 0.03  # of the picture's height: how far from where uprights put the horizon a point may be
LEAST_LINES, LEAST_SHARE = 5, 0.10  # lines, and share of all length, that a set must have to be suggested
SURE_SPREAD = 0.015  # of the picture's height: the horizon's own uncertainty up to which one can be sure
TRACING_PX = 1.5
EDGES_TAKEN = 8


@dataclass(frozen=True, slots=True)
class Suggested:
    """A set of edges in photo pixels, what they seem to be, and the share of all found length that agrees."""

    kind: SetKind
    edges: tuple[TracedEdge, ...]
    share: float


@dataclass(frozen=True, slots=True)
class Suggestion:
    """The sets, the strongest first; ``sure`` tells whether a horizon may be laid through them without a look."""

    sets: tuple[Suggested, ...]
    sure: bool
    reason: str = ""


def suggested_sets(picture: Picture, focal_px: float = 0.0) -> Suggestion:
    """Sets of edges that run back, and uprights, from the long edges of a picture.

    Uprights and focal length (0: what a phone usually has) tell about where the horizon must be; edges that run to a
    point elsewhere, such as those of a roof, are not suggested as level.
    """
    values = picture.lightness
    lines, _ = found_lines(values, LOOKED_AT)
    scale = np.array([values.shape[1] / picture.width_px, values.shape[0] / picture.height_px])
    lines = lines / scale
    if len(lines) < 2 * LEAST_LINES:
        return Suggestion((), False, "There are too few straight edges in this picture. Trace them by hand.")
    length = np.hypot(*(lines[:, 1] - lines[:, 0]).T)
    steep = _lean_deg(lines) < UPRIGHT_DEG
    total = float(length.sum())
    found: list[Suggested] = []
    left = ~steep
    rng = np.random.default_rng(SEED)
    for _ in range(MOST_LEVEL):
        members = _consensus(lines, length, left, rng)
        share = float(length[members].sum()) / total
        if len(members) < LEAST_LINES or share < LEAST_SHARE:
            break
        found.append(Suggested("level", _longest(lines, length, members), share))
        left[members] = False
    upright = _uprights(lines, length, steep, rng, total)
    level = _plausible(found, upright, picture, focal_px or guessed_focal(picture.width_px, picture.height_px).px)
    sure, reason = _sure(level, bool(found), picture)
    return Suggestion((*level, *upright), sure, reason)


def _lean_deg(lines: Array) -> Array:
    step = np.abs(lines[:, 1] - lines[:, 0])
    return np.asarray(np.degrees(np.arctan2(step[:, 0], step[:, 1])))


def _consensus(lines: Array, length: Array, left: NDArray[np.bool_], rng: np.random.Generator) -> NDArray[np.int64]:
    """The lines that agree on one point, by length times how well they agree."""
    pool = np.flatnonzero(left)
    if len(pool) < LEAST_LINES:
        return np.zeros(0, np.int64)
    homogeneous = np.concatenate([lines, np.ones((*lines.shape[:2], 1))], 2)
    joined = np.cross(homogeneous[:, 0], homogeneous[:, 1])
    weight = length[pool] / length[pool].sum()
    pairs = np.stack([rng.choice(pool, PROPOSALS, p=weight), rng.choice(pool, PROPOSALS, p=weight)], 1)
    pairs = pairs[pairs[:, 0] != pairs[:, 1]]
    points = np.cross(joined[pairs[:, 0]], joined[pairs[:, 1]])
    off = _off_deg(lines[pool], points)
    votes = (np.clip(1 - off / AGREE_DEG, 0, 1) * length[pool]).sum(1)
    best = points[int(votes.argmax())]
    for within in (1.0, 0.8, 0.65, 0.65):  # the winner is fitted to those that agree, and agreement asked again
        members = pool[_off_deg(lines[pool], best[None])[0] <= within * AGREE_DEG]
        if len(members) < 2:
            return np.zeros(0, np.int64)
        fitted = vanishing_point(EdgeSet("A", edges=_longest(lines, length, members, 16)), TRACING_PX, disown=False)
        if isinstance(fitted, NoPoint):
            return np.zeros(0, np.int64)
        best = fitted.homogeneous
    return np.asarray(pool[_off_deg(lines[pool], best[None])[0] <= AGREE_DEG])


def _off_deg(lines: Array, points: Array) -> Array:
    """Angles (p, n) between lines (n, 2, 2) and the direction from their middles to points (p, 3)."""
    middle, way = lines.mean(1), lines[:, 1] - lines[:, 0]
    toward = points[:, None, :2] - points[:, None, 2:] * middle[None]
    sine = np.abs(toward[..., 0] * way[:, 1] - toward[..., 1] * way[:, 0])
    size = np.hypot(toward[..., 0], toward[..., 1]) * np.hypot(*way.T)
    return np.asarray(np.degrees(np.arcsin(np.clip(sine / np.maximum(size, 1e-12), 0, 1))))


def _longest(
    lines: Array, length: Array, members: NDArray[np.int64], most: int = EDGES_TAKEN
) -> tuple[TracedEdge, ...]:
    chosen = members[np.argsort(-length[members], kind="stable")][:most]
    return tuple(TracedEdge(*(round(float(value), 1) for value in lines[k].ravel())) for k in chosen)


def _plausible(found: list[Suggested], upright: list[Suggested], picture: Picture, focal_px: float) -> list[Suggested]:
    """Level sets whose points lie where the uprights put the horizon, and on one horizon among themselves."""
    expected = _expected_horizon(upright, picture, focal_px)
    kept: list[tuple[Suggested, Array]] = []
    for each in found:
        point = vanishing_point(EdgeSet("A", edges=each.edges), TRACING_PX)
        at = None if isinstance(point, NoPoint) else point.point_px
        if at is None:
            continue
        height, spread = picture.height_px, float(np.sqrt(point.covariance_px2[1, 1]))  # type: ignore[index,union-attr]
        slack = min(2 * spread, EXPECTED_WITHIN * height)
        if abs(_below(expected, at)) > EXPECTED_WITHIN * height + slack:
            continue
        if kept and (spread > MORE_SPREAD * height or each.share < MORE_SHARE * kept[0][0].share):
            continue  # a further set must be worth having: a vague one only tilts the horizon
        if all(abs(at[1] - other[1]) <= 0.03 * height + 0.03 * abs(at[0] - other[0]) for _, other in kept):
            kept.append((each, at))
    return [each for each, _ in kept]


def _expected_horizon(upright: list[Suggested], picture: Picture, focal_px: float) -> Array | None:
    """The line (a, b, c) square to the uprights; None where there are none."""
    if not upright:
        return None
    point = vanishing_point(EdgeSet("A", edges=upright[0].edges), TRACING_PX)
    if isinstance(point, NoPoint):
        return None
    x, y, w = point.homogeneous
    cx, cy = picture.width_px / 2, picture.height_px / 2
    # The image of the plane square to the direction K⁻¹v is the line K⁻ᵀK⁻¹v.
    a, b = (x - w * cx) / focal_px**2, (y - w * cy) / focal_px**2
    line = np.array([a, b, w - a * cx - b * cy])
    size = float(np.hypot(a, b))
    return line / size if size > 1e-12 and abs(b) > 0.5 * size else None


def _below(line: Array | None, at: Array) -> float:
    """How far a point lies below a line, in pixels; nothing where there is no line."""
    return 0.0 if line is None else float(-(line[0] * at[0] + line[2]) / line[1] - at[1])


def _uprights(
    lines: Array, length: Array, steep: NDArray[np.bool_], rng: np.random.Generator, total: float
) -> list[Suggested]:
    members = _consensus(lines, length, steep.copy(), rng)
    share = float(length[members].sum()) / total
    if len(members) < LEAST_LINES or share < LEAST_SHARE / 2:
        return []
    return [Suggested("upright", _longest(lines, length, members), share)]


def _sure(level: list[Suggested], any_found: bool, picture: Picture) -> tuple[bool, str]:
    """Whether the points are sharp and strong enough, and agree; else why not."""
    if not level and any_found:
        return False, "Not sure: what runs together does not lie level. Trace two edges that do."
    if not level:
        return False, "Not sure: no edges agree on a point. Trace two that run back."
    points = [vanishing_point(EdgeSet("A", edges=each.edges), TRACING_PX) for each in level]
    sharp = [point for point in points if isinstance(point, VanishingPoint) and point.covariance_px2 is not None]
    spread = min(float(np.sqrt(point.covariance_px2[1, 1])) for point in sharp)  # type: ignore[index]
    if spread > SURE_SPREAD * picture.height_px:
        return False, "Not sure: the edges found are too short to tell where they meet. Trace longer ones."
    if level[0].share < 1.5 * LEAST_SHARE or len(ends(level[0].edges)) < LEAST_LINES:
        return False, "Not sure: only a few of the edges agree. Look before you accept."
    return True, ""
