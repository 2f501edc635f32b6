"""Saliency by local contrast at three scales, its peaks after non-maximum suppression: first, second, third read.

The contrast map is a weighted sum over three scales of the local standard deviation of L* and of the size of its
difference of Gaussians. Its peaks, no two nearer than 12 % of the diagonal, are the reads.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from mild_compass.plan.tones import PullKind

LONGEST_PX = 320  # along the longer side: the finest scale is then two pixels
SCALES = (0.006, 0.015, 0.035)  # of the diagonal
WEIGHTS = (0.25, 0.35, 0.4)  # broad contrasts are seen first: common practice, no published source
APART = 0.12  # of the diagonal
COMPETING = 0.85
WANTED = 3
PULL_REACH = 0.06  # of the diagonal
CORNER, EDGE = 0.15, 0.06  # of the sides, of the short side
PULLS: dict[PullKind, float] = {  # how much of the strongest contrast they are worth: common practice, no source
    "face": 0.8,
    "figure": 0.6,
    "pointed": 0.3,
    "warm": 0.3,
}
InterestPoint = tuple[float, float, float]
FLAT = 0.5  # L*: a picture whose strongest contrast is below that has no reads


@dataclass(frozen=True, slots=True)
class Read:
    """One read: its place in shares of the picture (0-1), and its strength relative to the first."""

    x: float
    y: float
    strength: float


def saliency_map(values: NDArray[np.floating]) -> NDArray[np.float32]:
    """How strongly each place of L* (h, w) stands out, in L*."""
    values = np.asarray(values, np.float32)
    diagonal = float(np.hypot(*values.shape))
    found = np.zeros_like(values)
    for share, weight in zip(SCALES, WEIGHTS, strict=True):
        sigma = max(0.8, share * diagonal)
        mean = _blurred(values, sigma)
        spread = np.sqrt(np.maximum(_blurred(values**2, sigma) - mean**2, 0))
        found += weight * (spread + np.abs(mean - _blurred(values, 1.6 * sigma)))
    return np.asarray(_blurred(found, 0.02 * diagonal), np.float32)


def _blurred(values: NDArray[np.float32], sigma: float) -> NDArray[np.float32]:
    return np.asarray(cv2.GaussianBlur(values, (0, 0), sigma, borderType=cv2.BORDER_REFLECT), np.float32)


def reads_of(values: NDArray[np.floating], wanted: int = WANTED, pulls: Sequence[InterestPoint] = ()) -> list[Read]:
    """The reads of a framed picture's L* (h, w), strongest first; none in a picture without contrast.

    What pulls by what it is (x, y in shares of the picture, and how much) counts on top of its contrast.
    """
    strength = saliency_with_interest(saliency_map(small_enough(values)), pulls)
    height, width = strength.shape
    peaks = peaks_of(strength, APART * float(np.hypot(height, width)), wanted)
    first = peaks[0][2] if peaks else 0.0
    if first < FLAT:
        return []
    return [Read((x + 0.5) / width, (y + 0.5) / height, value / first) for x, y, value in peaks]


def small_enough(values: NDArray[np.floating]) -> NDArray[np.float32]:
    """L* (h, w) with its longest side at most 320 px: reads are broad."""
    small = np.asarray(values, np.float32)
    shrink = min(1.0, LONGEST_PX / max(values.shape))
    size = (max(1, round(values.shape[1] * shrink)), max(1, round(values.shape[0] * shrink)))
    return cv2.resize(small, size, interpolation=cv2.INTER_AREA).reshape(size[::-1]) if shrink < 1 else small


def saliency_with_interest(strength: NDArray[np.float32], pulls: Sequence[InterestPoint]) -> NDArray[np.float32]:
    """A contrast map (h, w) with what pulls by what it is: stronger there, and by some of the strongest contrast."""
    if not pulls:
        return strength
    height, width = strength.shape
    rows, columns = np.mgrid[:height, :width]
    reach = PULL_REACH * float(np.hypot(height, width))
    found, top = strength.astype(np.float32), float(strength.max())
    for x, y, weight in pulls:
        off = (columns + 0.5 - x * width) ** 2 + (rows + 0.5 - y * height) ** 2
        found = found + np.float32(weight) * (strength / 2 + top / 2) * np.exp(-off / (2 * reach**2)).astype(np.float32)
    return np.asarray(found, np.float32)


def hierarchy(reads: Sequence[Read]) -> float:
    """How clearly the first read leads: 1 − second / first; 1 with only one."""
    return 1.0 - (reads[1].strength if len(reads) > 1 else 0.0)


def rim_saliency(strength: NDArray[np.float32]) -> tuple[float, float]:
    """Mean contrast of the corners and of the edges over that of the whole picture."""
    height, width = strength.shape
    whole = float(strength.mean())
    if whole < 1e-6:
        return 0.0, 0.0
    h, w = max(1, round(CORNER * height)), max(1, round(CORNER * width))
    corners = np.concatenate(
        [strength[a, b].ravel() for a in (slice(h), slice(-h, None)) for b in (slice(w), slice(-w, None))]
    )
    rim = max(1, round(EDGE * min(height, width)))
    edges = np.ones(strength.shape, bool)
    edges[rim:-rim, rim:-rim] = False
    return float(corners.mean()) / whole, float(strength[edges].mean()) / whole


def peaks_of(strength: NDArray[np.float32], apart_px: float, wanted: int) -> list[tuple[int, int, float]]:
    """The strongest places (x, y, strength), none nearer to a stronger one than ``apart_px``."""
    left = strength.astype(np.float64).copy()
    rows, columns = np.mgrid[: left.shape[0], : left.shape[1]]
    found = []
    for _ in range(wanted):
        y, x = np.unravel_index(int(left.argmax()), left.shape)
        value = float(left[y, x])
        if value <= 0:
            break
        found.append((int(x), int(y), value))
        left[(rows - y) ** 2 + (columns - x) ** 2 <= apart_px**2] = -1.0
    return found
