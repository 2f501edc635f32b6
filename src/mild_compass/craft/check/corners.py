"""Page detection: four corners of a sheet of paper in a photo, by straight steps from something paler inside.

Candidates are lines through found segments; four of them are a sheet when along each side the paper inside differs
from what lies outside. The sides are then laid onto the steps to a fraction of a pixel, all four together with the bow
of the lens, which bends them alike (Brown-Conrady k1; F. Devernay & O. Faugeras 2001).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.check.sides import Sides, fitted_sides

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Rgb = NDArray[np.uint8]

SMALL_PX = 800  # along the longer side: bounds the time
CLOSE_PX = 9  # pencil lines are closed over before borders are looked for
LEAST_SIDE = 0.18  # of the picture's shorter side
MOST_LINES = 48  # bounds the time
MOST_GLANCED, MOST_FOURS, KEPT_FOURS = 40_000, 300, 40  # are looked at; closely; are compared
GLANCES = 9
CLEAR_SCORE, MOST_MENDED = 1.0, 6  # where nothing stands out, so many are laid onto the borders near them
LEAST_SUPPORT, LEAST_SEEN = 0.35, 0.45
SLANT = 0.12  # by how much, in ln, perspective alone may change the proportion of the sides
BAND_PX = (2.0, 4.0, 6.0)  # beside a side: where the paper and what lies outside are looked at
PLACES = 40
STEP = 7.0  # of L*, a*, b* together: what is a border for certain
SURE_SUPPORT, SURE_LEAD = 0.72, 0.12
CORNER_MM = 0.12  # known better than that, a corner is sure; of the sheet's longer side 297 mm


@dataclass(frozen=True, eq=False, slots=True)
class FoundSheet:
    """Corners (4, 2) of a sheet in pixels, clockwise; the bow of the lens; how well the corners are known.

    ``sigma_px`` is the standard error of the corners, ``support`` the share of the sides along which there is a border,
    ``lead`` how far the next best four lines are behind. Where it is not ``sure`` the artist is asked to look.
    """

    sides: Sides
    support: float
    lead: float

    @property
    def corners_px(self) -> Array:
        """The corners in the photo as taken."""
        return self.sides.corners_px

    @property
    def sure(self) -> bool:
        """Whether they may be taken without a look."""
        longest = max(np.hypot(*(np.roll(self.corners_px, -1, 0) - self.corners_px).T))
        known = self.sides.sigma_px.max() < CORNER_MM / 297.0 * longest
        return bool(self.support >= SURE_SUPPORT and self.lead >= SURE_LEAD and known)


def found_sheet(rgb: Rgb, ratio: float | None = None) -> FoundSheet | None:
    """The sheet of paper in a photo (h, w, 3); None where there is none to be seen.

    ``ratio`` is the longer over the shorter side of the sheet that is looked for, where it is known.
    """
    height, width = rgb.shape[:2]
    scale = min(1.0, SMALL_PX / max(height, width))
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    small = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), np.uint8)
    candidates = _quads(small, ratio)
    if not candidates:
        return None
    (score, support, best), rest = candidates[0], candidates[1:]
    others = [other for other, _, quad in rest if _apart(quad, best) > 0.02 * max(small.shape)]
    lead = score - max(others, default=0.0)
    sides = fitted_sides(rgb, (best + 0.0) / scale)
    return FoundSheet(sides, support, lead) if sides is not None else None


def _apart(one: Array, other: Array) -> float:
    turns = [np.hypot(*(np.roll(one, n, 0) - other).T).max() for n in range(4)]
    return float(min(turns))


def _lab(rgb: Rgb) -> NDArray[np.float32]:
    return np.asarray(cv2.cvtColor(rgb.astype(np.float32) / 255, cv2.COLOR_RGB2LAB), np.float32)


def _quads(small: Rgb, ratio: float | None) -> list[tuple[float, float, Array]]:
    """Four lines that may be a sheet: score, support and corners clockwise, best first."""
    closed = np.asarray(cv2.morphologyEx(small, cv2.MORPH_CLOSE, np.ones((CLOSE_PX, CLOSE_PX), np.uint8)), np.uint8)
    lines = _lines(closed)
    height, width = small.shape[:2]
    fours = _combined(lines, width, height)[:MOST_GLANCED]
    if not len(fours):
        return []
    smooth = np.asarray(cv2.GaussianBlur(_lab(closed), (0, 0), 1.2), np.float32)
    if len(fours) > MOST_FOURS:
        fours = fours[np.argsort(-_glanced(fours, smooth), kind="stable")[:MOST_FOURS]]
    score, support = _scored(fours, *_straight(fours), smooth, ratio)
    order = np.argsort(-score, kind="stable")[:KEPT_FOURS]
    found = [(float(score[n]), float(support[n]), fours[n]) for n in order if support[n] >= LEAST_SUPPORT]
    if score[order[0]] < CLEAR_SCORE:
        found += _mended(small, fours[order[:MOST_MENDED]], smooth, ratio)
    return sorted(found, key=lambda each: -each[0])


def _mended(
    small: Rgb, fours: Array, smooth: NDArray[np.float32], ratio: float | None
) -> list[tuple[float, float, Array]]:
    """Fours laid onto the borders near them, bow and all, and scored anew: a line may have been only nearly right."""
    found = []
    for four in fours:
        sides = fitted_sides(small, four)
        if sides is None:
            continue
        corners, at, into = sides.corners_px[None], *(each[None] for each in sides.places(PLACES))
        score, support = _scored(corners, at, into, smooth, ratio)
        if support[0] >= LEAST_SUPPORT:
            found.append((float(score[0]), float(support[0]), corners[0]))
    return found


def _lines(closed: Rgb) -> Array:
    """Lines (n, 4): a normal, its offset, and the length of the segments on it; the longest first."""
    pieces = []
    detector = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD)
    lab = cv2.cvtColor(closed, cv2.COLOR_RGB2LAB)
    for channel in (lab[..., 0], lab[..., 1], lab[..., 2]):
        stretched = channel if channel is lab[..., 0] else cv2.convertScaleAbs(channel, alpha=3.0, beta=-256.0)
        found = detector.detect(np.ascontiguousarray(stretched))[0]
        if found is not None:
            pieces.append(found.reshape(-1, 4).astype(np.float64))
    if not pieces:
        return np.zeros((0, 4))
    segments = np.concatenate(pieces)
    step = segments[:, 2:] - segments[:, :2]
    length = np.hypot(*step.T)
    keep = length > 0.02 * max(closed.shape)
    segments, step, length = segments[keep], step[keep], length[keep]
    normal = np.stack([-step[:, 1], step[:, 0]], 1) / length[:, None]
    middle = (segments[:, :2] + segments[:, 2:]) / 2
    lines, left = [], length.copy()
    for _ in range(MOST_LINES):
        if not len(left) or left.max() <= 0:
            break
        first = int(np.argmax(left))
        n, offset = normal[first], normal[first] @ middle[first]
        for _ in range(3):
            off = np.maximum(abs(segments[:, :2] @ n - offset), abs(segments[:, 2:] @ n - offset))
            mine = (off < 4.0) & (left > 0) & (abs(normal @ n) > 0.985)
            if not mine.any():
                break
            points = np.concatenate([segments[mine, :2], segments[mine, 2:]])
            weight = np.tile(length[mine], 2)
            centre = np.average(points, axis=0, weights=weight)
            spread = ((points - centre) * weight[:, None]).T @ (points - centre)
            n = np.linalg.eigh(spread)[1][:, 0]
            offset = float(n @ centre)
        lines.append((*n, offset, float(length[mine].sum())))
        left[mine] = 0
    found = np.array(lines, np.float64).reshape(-1, 4)
    return found[np.argsort(-found[:, 3], kind="stable")]


def _combined(lines: Array, width: int, height: int) -> Array:
    """Corners (n, 4, 2) of all convex fours of lines of a sensible size, clockwise; the best covered come first."""
    alike = [(i, j) for i, j in combinations(range(len(lines)), 2) if abs(lines[i, :2] @ lines[j, :2]) > 0.80]
    if len(alike) < 2:
        return np.zeros((0, 4, 2))
    pairs = np.array(alike)
    one, other = (index.ravel() for index in np.triu_indices(len(pairs), 1))
    i, j, k, m = *pairs[one].T, *pairs[other].T
    cross = abs((lines[i, :2] * lines[k, :2]).sum(1)) < 0.6
    i, j, k, m = i[cross], j[cross], k[cross], m[cross]
    order = [_meetings(lines[a], lines[b]) for a, b in ((i, k), (k, j), (j, m), (m, i))]
    corners = np.stack(order, 1)
    side = np.roll(corners, -1, 1) - corners
    long = np.hypot(side[..., 0], side[..., 1])
    after = np.roll(side, -1, 1)
    turn = side[..., 0] * after[..., 1] - side[..., 1] * after[..., 0]
    margin = 0.25 * max(width, height)
    inside = (corners > -margin).all((1, 2)) & (corners < np.array([width, height]) + margin).all((1, 2))
    convex = (turn > 0).all(1) | (turn < 0).all(1)
    good = inside & convex & (long.min(1) > LEAST_SIDE * min(width, height))
    covered = np.minimum(lines[np.stack([k, j, m, i], 1), 3], long).sum(1) / np.maximum(long.sum(1), 1e-9)
    large = np.sqrt(np.clip(np.ptp(corners, axis=1).prod(1), 0, None) / (width * height))
    rank = np.argsort(-np.where(good, covered + 0.2 * large, -1), kind="stable")[: int(good.sum())]
    found = corners[rank]
    clockwise = turn[rank, 0] > 0
    return np.asarray(np.where(clockwise[:, None, None], found, found[:, ::-1]))


def _meetings(one: Array, other: Array) -> Array:
    """Where lines (n, 4) meet others: points (n, 2), far away where they are parallel."""
    across = one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
    across = np.where(abs(across) < 1e-9, 1e-9, across)
    x = (one[:, 2] * other[:, 1] - other[:, 2] * one[:, 1]) / across
    y = (one[:, 0] * other[:, 2] - other[:, 0] * one[:, 2]) / across
    return np.stack([x, y], 1)


def _glanced(fours: Array, smooth: NDArray[np.float32]) -> Array:
    """A first idea of the same from few places (n,), for very many."""
    height, width = smooth.shape[:2]
    corners = fours.astype(np.float32)
    step = np.roll(corners, -1, 1) - corners
    into = np.stack([-step[..., 1], step[..., 0]], 2) / np.hypot(step[..., 0], step[..., 1])[..., None]
    total = np.zeros((len(fours), 4), np.float32)
    for share in np.linspace(0.06, 0.94, GLANCES):
        at = corners + step * np.float32(share)
        seen = ((at > 1) & (at < (width - 2, height - 2))).all(2)
        beside = []
        for off in (BAND_PX[1], -BAND_PX[1]):
            xy = np.clip((at + into * off).astype(np.int32), 0, (width - 1, height - 1))
            lab = smooth[xy[..., 1], xy[..., 0]]
            beside.append(lab[..., 0] - 0.6 * np.hypot(lab[..., 1], lab[..., 2]))
        total += np.where(seen, np.clip((beside[0] - beside[1]) / STEP, 0, 1), 0.4)
    return np.asarray(total.min(1) + 0.5 * total.mean(1), np.float64)


def _straight(fours: Array) -> tuple[Array, Array]:
    """Places along the sides of fours of lines, and the directions into the sheet there: both (n, 4, PLACES, 2)."""
    step = np.roll(fours, -1, 1) - fours
    long = np.hypot(step[..., 0], step[..., 1])
    into = np.stack([-step[..., 1], step[..., 0]], 2) / long[..., None]  # clockwise: it points inside
    share = np.linspace(0.03, 0.97, PLACES)
    at = fours[:, :, None] + step[:, :, None] * share[:, None]
    return at, np.broadcast_to(into[:, :, None], at.shape)


def _scored(
    fours: Array, at: Array, into: Array, smooth: NDArray[np.float32], ratio: float | None
) -> tuple[Array, Array]:
    """How much fours of lines (n, 4, 2) look like a sheet, and the share of their sides with a border, each (n,).

    ``at`` and ``into`` (n, 4, places, 2) are places along the sides and the directions into the sheet.
    """
    height, width = smooth.shape[:2]
    step = np.roll(fours, -1, 1) - fours
    long = np.hypot(step[..., 0], step[..., 1])
    seen = ((at > 1) & (at < (width - 2, height - 2))).all(3)
    beside = np.array([*BAND_PX, *(-off for off in BAND_PX)])
    points = at[:, :, :, None] + into[:, :, :, None] * beside[:, None]
    looked = _at(smooth, points.reshape(len(fours), -1, 2)).reshape(*at.shape[:3], 2, len(BAND_PX), 3).mean(4)
    inside, outside = looked[..., 0, :], looked[..., 1, :]
    differs = np.sqrt(((inside - outside) ** 2).sum(3))
    chroma = np.hypot(looked[..., 1], looked[..., 2])
    paler = (inside[..., 0] - outside[..., 0]) + 0.6 * (chroma[..., 1] - chroma[..., 0])
    count = np.maximum(seen.sum(2), 1)
    good = np.where(seen, np.clip(np.minimum(differs, paler) / STEP, 0, 1), 0).sum(2) / count
    supports = np.where(seen.mean(2) < LEAST_SEEN, 0.0, good * seen.mean(2) ** 0.3)
    support = supports.min(1)
    within = inside.reshape(len(fours), -1, 3)
    spread = within.std(1)
    even = np.clip(1.2 - spread[:, 1:].sum(1) / 10 - spread[:, 0] / 60, 0, 1)
    area = np.sqrt(np.ptp(fours[..., 0], axis=1) * np.ptp(fours[..., 1], axis=1) / (width * height))
    score = 0.5 * support + 0.5 * supports.mean(1) - 0.3 * (1 - even) + 0.25 * np.minimum(area, 0.8)
    if ratio is not None:
        one, other = long[:, 0] + long[:, 2], long[:, 1] + long[:, 3]
        told = np.maximum(one, other) / np.minimum(one, other)
        score -= 0.5 * np.clip(abs(np.log(told / ratio)) - SLANT, 0, 0.4)
    return score, support


def _at(values: NDArray[np.float32], points: Array) -> NDArray[np.float32]:
    """Values (n, m, channels) at points (n, m, 2); beyond the picture those of its rim."""
    xy = points.astype(np.float32) - 0.5
    got = cv2.remap(values, xy[..., 0], xy[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(got, np.float32)
