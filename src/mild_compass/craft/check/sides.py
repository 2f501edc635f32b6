"""Sub-pixel fit of the four sides of a sheet to its borders in the photo, with the bow of the lens."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import cv2
import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Rgb = NDArray[np.uint8]

PLACES = 240  # along a side
MOST_BOW = 0.12  # Brown-Conrady k1 of points divided by half the photo's diagonal
REACHES = (0.012, 0.005, 0.003)  # how far beside a side its border is looked for, of the photo's diagonal, pass by pass
LEAST_PLACES = 24
LEAST_STEP = 4.0
WELL_PX = 0.25  # an edge is hardly known better in a photo
TUKEY, ROUNDS = 4.7, 8  # the biweight's constant for 95 % efficiency (4.685): Holland & Welsch, Commun. Stat. A6, 1977


@dataclass(frozen=True, eq=False, slots=True)
class Sides:
    """Corners (4, 2) in pixels of the photo, the bow of its lens about ``centre_px``, the corners' errors (4,)."""

    corners_px: Array
    bow: float
    centre_px: tuple[float, float]
    unit_px: float
    sigma_px: Array
    bow_sigma: float = 0.0

    def unbowed(self, points_px: Array) -> Array:
        """Points (n, 2) of the photo as a lens without bow would have thrown them."""
        return unbowed(points_px, self.bow, self.centre_px, self.unit_px)

    def bowed(self, points_px: Array) -> Array:
        """And back: where they are in the photo as taken."""
        flat = (np.asarray(points_px, np.float64) - self.centre_px) / self.unit_px
        grown = 1 + self.bow * (flat**2).sum(-1, keepdims=True)
        return np.asarray(flat * grown * self.unit_px + self.centre_px)

    def places(self, count: int) -> tuple[Array, Array]:
        """Places along all sides, bow and all, and the directions into the sheet there: both (4, count, 2)."""
        found = [_along(self, number, count) for number in range(4)]
        return np.stack([at for at, _ in found]), np.stack([into for _, into in found])

    def homography(self, width_mm: float, height_mm: float) -> Array:
        """From mm on the sheet (3, 3) to pixels of the unbowed photo, the first corner being the sheet's top left."""
        flat = np.array([[0, 0], [width_mm, 0], [width_mm, height_mm], [0, height_mm]], np.float32)
        return np.asarray(
            cv2.getPerspectiveTransform(flat, self.unbowed(self.corners_px).astype(np.float32)), np.float64
        )


def unbowed(points_px: Array, bow: float, centre_px: tuple[float, float], unit_px: float) -> Array:
    """Points without the bow: r + bow·r³ = r', solved for r by Newton's steps, r in ``unit_px`` from the centre."""
    flat = (np.asarray(points_px, np.float64) - centre_px) / unit_px
    far = np.hypot(flat[..., 0], flat[..., 1])
    radius = far.copy()
    for _ in range(12):
        radius -= (radius + bow * radius**3 - far) / np.maximum(1 + 3 * bow * radius**2, 0.2)
    share = np.where(far > 1e-12, radius / np.where(far > 1e-12, far, 1.0), 1.0)
    return np.asarray(flat * share[..., None] * unit_px + centre_px)


def _by_bow(flat_px: Array, bow: float, sides: Sides) -> Array:
    """By how much points (…, 2) without the bow move when it grows by one."""
    far = (flat_px - sides.centre_px) / sides.unit_px
    square = (far**2).sum(-1, keepdims=True)
    return np.asarray(-far * square / (1 + 3 * bow * square) * sides.unit_px)


def by_hand(corners_px: Array, size_px: tuple[int, int], bow: float = 0.0, sigma_px: float = 1.0) -> Sides:
    """Sides through corners that the artist has set."""
    width, height = size_px
    unit = float(np.hypot(width, height) / 2)
    return Sides(np.asarray(corners_px, np.float64), bow, (width / 2, height / 2), unit, np.full(4, sigma_px))


def rolled(sides: Sides, by: int) -> Sides:
    """The same with another corner as the first."""
    return replace(sides, corners_px=np.roll(sides.corners_px, by, 0), sigma_px=np.roll(sides.sigma_px, by, 0))


def fitted_sides(rgb: Rgb, corners_px: Array) -> Sides | None:
    """The sides near given corners laid onto the borders there; None where too little of a border is found."""
    height, width = rgb.shape[:2]
    sides = by_hand(corners_px, (width, height))
    for number, reach in enumerate(REACHES):
        edges = []
        for n in range(4):
            edge = _border(rgb, sides, n, reach * 2 * sides.unit_px)
            if edge is None:
                return sides if number and np.isfinite(sides.corners_px).all() else None
            edges.append(edge)
        found = _together(edges, sides)
        if found is None:
            return None
        sides = found
    return sides


def _along(sides: Sides, number: int, count: int = PLACES) -> tuple[Array, Array]:
    """Places along a side in the photo, and the directions (n, 2) into the sheet there."""
    flat = sides.unbowed(sides.corners_px)
    a, b = flat[number], flat[(number + 1) % 4]
    at = sides.bowed(a + (b - a) * np.linspace(0.012, 0.988, count)[:, None])
    step = np.gradient(at, axis=0)
    normal = np.stack([-step[:, 1], step[:, 0]], 1) / np.hypot(*step.T)[:, None]
    return at, normal


def _border(rgb: Rgb, sides: Sides, number: int, reach_px: float) -> Array | None:
    """Points (n, 2) where the paper ends along a side."""
    height, width = rgb.shape[:2]
    at, normal = _along(sides, number)
    count = 2 * int(np.ceil(reach_px)) + 1
    offsets = np.linspace(-reach_px, reach_px, count)
    points = (at[:, None] + normal[:, None] * offsets[None, :, None]).astype(np.float32) - 0.5
    seen = ((at > reach_px) & (at < (width - reach_px, height - reach_px))).all(1)
    if seen.sum() < LEAST_PLACES:
        return None
    profile = cv2.remap(rgb, points[..., 0], points[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    profile = cv2.GaussianBlur(profile.astype(np.float32), (0, 0), sigmaX=1.0, sigmaY=2.0)
    # Along the direction in which the paper differs from what lies outside, here and near by.
    third = count // 3
    step = profile[:, -third:].mean(1) - profile[:, :third].mean(1)
    step = cv2.GaussianBlur(step[:, None], (0, 0), sigmaX=1e-3, sigmaY=PLACES / 60)[:, 0]
    size = np.linalg.norm(step, axis=1)
    along = (profile * (step / np.maximum(size, 1e-6)[:, None])[:, None]).sum(2)
    slope = np.gradient(along, axis=1)
    peak = np.argmax(slope[:, 1:-1], axis=1) + 1
    rows = np.arange(PLACES)
    before, here, after = (slope[rows, peak + d] for d in (-1, 0, 1))
    bend = before - 2 * here + after
    sub = np.where(bend < -1e-6, 0.5 * (before - after) / np.where(bend < -1e-6, bend, -1), 0.0)
    spacing = offsets[1] - offsets[0]
    off = offsets[peak] + np.clip(sub, -1, 1) * spacing
    good = seen & (size > LEAST_STEP) & (peak > 1) & (peak < count - 2)
    if good.sum() < LEAST_PLACES:
        return None
    found = at + normal * off[:, None]
    return np.asarray(found[good], np.float64)


@dataclass(frozen=True, eq=False, slots=True)
class _Frame:
    """A side's own coordinates: a place on it, the direction across and along (unit vectors)."""

    at: Array
    across: Array
    along: Array

    def line(self, offset: float, slope: float) -> tuple[Array, float]:
        """Normal and offset of the line that leaves the side's own by ``offset`` + ``slope``·way."""
        normal = (self.across - slope * self.along) / np.hypot(1.0, slope)
        return normal, float(normal @ (self.at + offset * self.across))


def _frame(points: Array) -> _Frame:
    centre = points.mean(0)
    along = np.linalg.svd(points - centre, full_matrices=False)[2][0]
    return _Frame(centre, np.array([-along[1], along[0]]), along)


def _together(edges: list[Array], sides: Sides) -> Sides | None:
    """Four lines and one bow by least squares with Tukey's weights: nine unknowns, linear in the sides' own frames."""
    bow, weights = sides.bow, [np.ones(len(edge)) for edge in edges]
    lines: list[tuple[Array, float]] = []
    spreads = [1.0] * 4
    matrix, root = np.zeros((0, 9)), np.zeros(0)
    for _ in range(ROUNDS):
        flat = [unbowed(edge, bow, sides.centre_px, sides.unit_px) for edge in edges]
        frames = [_frame(each[weight > 0.05]) for each, weight in zip(flat, weights, strict=True)]
        rows, right, scale = [], [], []
        for n, (edge, points, frame) in enumerate(zip(edges, flat, frames, strict=True)):
            row = np.zeros((len(edge), 9))
            row[:, 0], row[:, 1 + 2 * n] = -_by_bow(points, bow, sides) @ frame.across, 1.0
            row[:, 2 + 2 * n] = (points - frame.at) @ frame.along
            rows.append(row)
            right.append((points - frame.at) @ frame.across)
            scale.append(np.sqrt(weights[n]))
        matrix, target, root = np.concatenate(rows), np.concatenate(right), np.concatenate(scale)
        found, *_ = np.linalg.lstsq(matrix * root[:, None], target * root, rcond=None)
        off = np.split(target - matrix @ found, np.cumsum([len(edge) for edge in edges])[:-1])
        spreads = [max(WELL_PX / 2, 1.4826 * float(np.median(abs(each)))) for each in off]
        weights = [
            np.clip(1 - (each / (TUKEY * spread)) ** 2, 0, 1) ** 2 for each, spread in zip(off, spreads, strict=True)
        ]
        bow = float(np.clip(bow + found[0], -MOST_BOW, MOST_BOW))
        lines = [frame.line(*found[1 + 2 * n : 3 + 2 * n].tolist()) for n, frame in enumerate(frames)]
    noise = np.concatenate([np.full(len(edge), spread) for edge, spread in zip(edges, spreads, strict=True)])
    # Neighbours along a side share their noise: four places tell as much as one alone.
    told = matrix * (root / noise)[:, None] / 2.0
    covariance = np.linalg.pinv(told.T @ told)
    if min(float(weight.sum()) for weight in weights) < LEAST_PLACES / 2:
        return None
    corners, sigma = [], []
    for n in range(4):
        (n1, o1), (n2, o2) = lines[n - 1], lines[n]
        both = np.array([n1, n2])
        if abs(np.linalg.det(both)) < 0.2:
            return None
        at = np.linalg.solve(both, [o1, o2])
        corners.append(at)
        one, other = (_side_error(covariance, frames[m], m, at, sides) for m in ((n - 1) % 4, n))
        sigma.append(float(np.hypot(one, other)))
    plain = Sides(np.array(corners), bow, sides.centre_px, sides.unit_px, np.array(sigma))
    bow_sigma = float(np.sqrt(covariance[0, 0]))
    return Sides(plain.bowed(plain.corners_px), bow, sides.centre_px, sides.unit_px, np.array(sigma), bow_sigma)


def _side_error(covariance: Array, frame: _Frame, number: int, at: Array, sides: Sides) -> float:
    """Standard error of a side, across it, at a place of the photo as taken: line and bow err together."""
    by_bow = _by_bow(at, sides.bow, sides) @ frame.across
    row = np.zeros(9)
    row[0], row[1 + 2 * number], row[2 + 2 * number] = -by_bow, 1.0, (at - frame.at) @ frame.along
    return float(np.sqrt(max(float(row @ covariance @ row), 0.0)))
