"""Straightening a picture: the bow of the lens taken out, leaning uprights set upright, and where every point goes.

Bow: Brown-Conrady k1, in OpenCV's model x' = x·(1 + k1·r²) of undistorted normalised points, found by making edges
straight (F. Devernay & O. Faugeras, Machine Vision and Applications 13, 2001). Keystone: K R K⁻¹ with the smallest
rotation that sends the point of the uprights to infinity.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.picture.edges import found_lines, sampled
from mild_compass.plan.guides import Lens

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import ArrayLike, NDArray

    from mild_compass.craft.picture.load import Picture

    Array = NDArray[np.float64]

MOST_BOW = 0.35
FURTHEST = 1e6  # focal lengths off the middle: beyond that the bow is as it is there, and no power runs over
SURE_EDGES, SURE_COUNTED, LIKELY_TIMES = 10, 4.0, 5.0
SURE_PX = 2.0  # at the corner: a bow known better than that may be taken out without a look
BOW_STEP, NOISE_PX = 0.02, 0.15  # for the slope; what an edge in a photo is off at best
LEAST_CHAINS = 5
CHAIN_SAMPLES, CHAIN_REACH = 61, 0.012  # places along an edge; how far beside it is looked, of the diagonal
LONG_EDGE = 0.12  # of the diagonal: shorter edges tell nothing of a bow


def straightened_points(points_px: ArrayLike, lens: Lens, centre_px: tuple[float, float]) -> Array:
    """Where points (…, 2) of the photo as taken lie in the straightened picture."""
    points = np.asarray(points_px, np.float64)
    flat = ((points.reshape(-1, 2) - centre_px) / lens.focal_px).reshape(-1, 1, 2)
    if lens.k1 and len(flat):
        flat = _unbowed(flat.reshape(-1, 2), lens.k1)
    rays = np.concatenate([flat.reshape(-1, 2), np.ones((len(flat), 1))], 1) @ _rotation(lens).T
    return np.asarray((rays[:, :2] / rays[:, 2:] * lens.focal_px + centre_px).reshape(points.shape))


def _unbowed(bowed: Array, k1: float) -> Array:
    """Undistorted normalised points (n, 2) of distorted ones: r + k1·r³ = r', solved for r by Newton's steps."""
    far = np.minimum(np.hypot(*bowed.T), FURTHEST)
    fold = 1 / np.sqrt(-3 * k1) if k1 < 0 else FURTHEST  # further out a picture bowed in has nothing to show
    radius = np.minimum(far, fold)
    for _ in range(40):
        step = (radius + k1 * radius**3 - far) / np.maximum(1 + 3 * k1 * radius**2, 0.05)
        radius = np.minimum(radius - step, fold)
    return np.asarray(bowed * np.where(far > 1e-15, radius / np.where(far > 1e-15, far, 1.0), 1.0)[:, None])


def original_points(points_px: ArrayLike, lens: Lens, centre_px: tuple[float, float]) -> Array:
    """Where points (…, 2) of the straightened picture lie in the photo as taken."""
    points = np.asarray(points_px, np.float64)
    rays = np.concatenate([(points.reshape(-1, 2) - centre_px) / lens.focal_px, np.ones((points.size // 2, 1))], 1)
    rays = rays @ _rotation(lens)
    flat = rays[:, :2] / rays[:, 2:]
    flat = flat * (1 + lens.k1 * (flat**2).sum(1, keepdims=True))
    return np.asarray((flat * lens.focal_px + centre_px).reshape(points.shape))


def _rotation(lens: Lens) -> Array:
    return np.asarray(cv2.Rodrigues(np.array(lens.turn, np.float64))[0], np.float64)


def straightened_picture(rgb: NDArray[np.uint8], photo_px: tuple[int, int], lens: Lens) -> NDArray[np.uint8]:
    """A raster of the whole photo, straightened, in its own size; where the photo ends its last pixels go on."""
    if lens.plain:
        return rgb
    height, width = rgb.shape[:2]
    across, down = width / photo_px[0], height / photo_px[1]
    # OpenCV counts from the middles of pixels. Every pixel by itself: a coarse map drawn out would ripple.
    inner = np.array([
        [lens.focal_px * across, 0.0, width / 2 - 0.5],
        [0.0, lens.focal_px * down, height / 2 - 0.5],
        [0.0, 0.0, 1.0],
    ])  # fmt: skip
    bow = np.array([lens.k1, 0.0, 0.0, 0.0])
    at_x, at_y = cv2.initUndistortRectifyMap(inner, bow, _rotation(lens), inner, (width, height), cv2.CV_32FC1)
    return np.asarray(cv2.remap(rgb, at_x, at_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.uint8)


# -- uprights -------------------------------------------------------------------------------------------------


def keystone(upright: Array, focal_px: float, centre_px: tuple[float, float]) -> tuple[float, float, float]:
    """The smallest rotation (vector, radians) that makes edges toward a point (x, y, w) upright and parallel."""
    x, y, w = upright
    ray = np.array([(x - w * centre_px[0]) / focal_px, (y - w * centre_px[1]) / focal_px, w])
    ray /= np.linalg.norm(ray)
    target = np.array([0.0, 1.0 if ray[1] >= 0 else -1.0, 0.0])
    axis = np.cross(ray, target)
    sine = float(np.linalg.norm(axis))
    if sine < 1e-12:
        return 0.0, 0.0, 0.0
    turn = axis / sine * float(np.arctan2(sine, ray @ target))
    return float(turn[0]), float(turn[1]), float(turn[2])


# -- the bow --------------------------------------------------------------------------------------------------


def bow_of(chains: Sequence[ArrayLike], focal_px: float, centre_px: tuple[float, float]) -> float | None:
    """k1 that makes edges straight, from points (n, 2) along each of them in the photo; None with too few of them.

    Each edge tells a k1 of its own, by how far its middle stands off its ends, and how sure it is of it; the weighted
    median of these is taken, so that edges which are bent in the world do not count. Repeated from there (Newton).
    """
    edges = [(np.asarray(chain, np.float64) - centre_px) / focal_px for chain in chains]
    edges = [edge for edge in edges if len(edge) >= 5]
    if len(edges) < LEAST_CHAINS:
        return None
    k1 = 0.0
    for _ in range(6):
        told = np.array([_told(edge, k1, NOISE_PX / focal_px) for edge in edges])
        order = np.argsort(told[:, 0], kind="stable")
        grown = told[order, 1].cumsum()
        k1 = float(np.clip(told[order[int(np.searchsorted(grown, grown[-1] / 2))], 0], -MOST_BOW, MOST_BOW))
    return k1


@dataclass(frozen=True, slots=True)
class Bow:
    """A found k1, how far it moves the picture's corner, in pixels, and the standard deviation of that; how many edges
    told it, and how many that is where some count for more."""

    k1: float
    corner_px: float
    corner_spread_px: float
    edges: int
    counted: float

    @property
    def sure(self) -> bool:
        """Whether straight edges will be straight also in the corners: on made pictures none of these was not so."""
        return 4 * self.corner_spread_px <= SURE_PX and self._many

    @property
    def likely(self) -> bool:
        """Whether there is a bow at all, though not known to the pixel in the corners."""
        return abs(self.corner_px) > LIKELY_TIMES * max(self.corner_spread_px, SURE_PX / 2) and self._many

    @property
    def _many(self) -> bool:
        return self.edges >= SURE_EDGES and self.counted >= SURE_COUNTED


def found_bow(chains: Sequence[ArrayLike], focal_px: float, size_px: tuple[int, int]) -> Bow | None:
    """The bow that edges of a picture tell, and how well they agree on it; None with too few of them.

    The spread is that of a weighted median: from how far the single edges' own answers lie off it, and how many count.
    """
    centre = (size_px[0] / 2, size_px[1] / 2)
    k1 = bow_of(chains, focal_px, centre)
    if k1 is None:
        return None
    edges = [(np.asarray(chain, np.float64) - centre) / focal_px for chain in chains if len(np.asarray(chain)) >= 5]
    told = np.array([_told(edge, k1, NOISE_PX / focal_px) for edge in edges])
    off, weight = np.abs(told[:, 0] - k1), told[:, 1]
    order = np.argsort(off, kind="stable")
    grown = weight[order].cumsum()
    usual = float(off[order[int(np.searchsorted(grown, grown[-1] / 2))]])
    counted = float(weight.sum() ** 2 / max(float((weight**2).sum()), 1e-12))
    spread = 1.25 * 1.48 * usual / np.sqrt(max(counted, 1.0))
    corner = float(np.hypot(*centre)) / focal_px
    moves = corner**3 * focal_px
    return Bow(k1, k1 * moves, float(spread * moves), len(edges), counted)


def _told(edge: Array, k1: float, noise: float) -> tuple[float, float]:
    """The k1 at which an edge would be straight, to first order from here, and its weight (one over its spread)."""
    (here, spread), (there, _) = _bend(edge, k1, noise), _bend(edge, k1 + BOW_STEP, noise)
    slope = (there - here) / BOW_STEP
    return (k1 - here / slope, abs(slope) / spread) if abs(slope) > 1e-9 else (k1, 0.0)


def _bend(edge: Array, k1: float, noise: float) -> tuple[float, float]:
    """How much an edge bends (the square term over its length) once k1 is taken out, and how sure that is."""
    flat = cv2.undistortPoints(edge.reshape(-1, 1, 2), np.eye(3), np.array([k1, 0, 0, 0.0])).reshape(-1, 2)
    off = flat - flat.mean(0)
    way = np.linalg.svd(off, full_matrices=False)[2][0]
    way = way if way @ (edge[-1] - edge[0]) >= 0 else -way
    along, aside = off @ way, off @ np.array([-way[1], way[0]])
    length = max(float(np.ptp(along)), 1e-12)
    terms = np.stack([np.ones(len(off)), along / length, (along / length) ** 2], 1)
    fit = np.linalg.lstsq(terms, aside / length, rcond=None)[0]
    miss = max(float((aside / length - terms @ fit).std()), noise / length)
    return float(fit[2]), miss * float(np.sqrt(np.linalg.inv(terms.T @ terms)[2, 2]))


def edge_chains(picture: Picture) -> list[Array]:
    """Points (n, 2), in photo pixels, along the long edges of a picture, which may be bent."""
    values = picture.lightness
    lines, _ = found_lines(values, 90, bent=True)
    diagonal = float(np.hypot(*values.shape))
    scale = np.array([values.shape[1] / picture.width_px, values.shape[0] / picture.height_px])
    chains = []
    for line in lines:
        if np.hypot(*(line[1] - line[0])) < LONG_EDGE * diagonal:
            continue
        chain = _followed(values, line, CHAIN_REACH * diagonal)
        if chain is not None:
            chains.append(chain / scale)
    return chains


def _followed(values: NDArray[np.float32], line: Array, reach_px: float) -> Array | None:
    """The edge near a straight line, place by place, kept where it bends smoothly; None where it is lost."""
    way = line[1] - line[0]
    square = np.array([-way[1], way[0]]) / max(float(np.hypot(*way)), 1e-9)
    share = (np.arange(CHAIN_SAMPLES) + 0.5) / CHAIN_SAMPLES
    offsets = np.arange(-reach_px, reach_px + 0.25, 0.5)
    points = line[0] + share[:, None, None] * way + offsets[None, :, None] * square
    slope = np.gradient(cv2.GaussianBlur(sampled(values, points), (0, 0), 1.2), 0.5, axis=1)
    sign = np.sign(np.median(slope[np.arange(len(share)), np.abs(slope).argmax(1)])) or 1.0
    slope = np.maximum(slope * sign, 0)
    best = np.clip(slope.argmax(1), 1, len(offsets) - 2)
    rows = np.arange(len(share))
    before, at, after = slope[rows, best - 1], slope[rows, best], slope[rows, best + 1]
    bend = before - 2 * at + after
    off = offsets[best] + 0.5 * np.where(bend < -1e-9, 0.5 * (before - after) / np.where(bend < -1e-9, bend, -1.0), 0.0)
    keep = at > 0.8
    for _ in range(5):
        if keep.sum() < 0.5 * len(share):
            return None
        fit = np.polyfit(share[keep], off[keep], 2)
        miss = np.abs(off - np.polyval(fit, share))
        keep = (at > 0.8) & (miss < max(0.6, 3 * float(np.median(miss[keep]))))
    if keep.sum() < 0.5 * len(share):
        return None
    return np.asarray(line[0] + share[keep, None] * way + off[keep, None] * square)
