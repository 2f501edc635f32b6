"""Reads: where the strongest contrast sits, ranked first, second, third read.

The contrast map is a weighted sum over three scales of the local standard deviation of L* and of the size of its
difference of Gaussians. Its peaks, no two nearer than 12 % of the diagonal, are the reads.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

LONGEST_PX = 320
SCALES = (0.006, 0.015, 0.035)  # of the diagonal
WEIGHTS = (0.25, 0.35, 0.4)  # broad contrasts are seen first: common practice, no published source
APART = 0.12  # of the diagonal
COMPETING = 0.85
WANTED = 3
FLAT = 0.5  # L*: a picture whose strongest contrast is below that has no reads


@dataclass(frozen=True, slots=True)
class Read:
    """One read: its place in shares of the picture (0-1), and its strength relative to the first."""

    x: float
    y: float
    strength: float


def contrast_map(values: NDArray[np.floating]) -> NDArray[np.float32]:
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


def reads_of(values: NDArray[np.floating], wanted: int = WANTED) -> list[Read]:
    """The reads of a framed picture's L* (h, w), strongest first; none in a picture without contrast."""
    shrink = min(1.0, LONGEST_PX / max(values.shape))
    size = (max(1, round(values.shape[1] * shrink)), max(1, round(values.shape[0] * shrink)))
    small = np.asarray(values, np.float32)
    if shrink < 1:
        small = cv2.resize(small, size, interpolation=cv2.INTER_AREA).reshape(size[::-1])
    strength = contrast_map(small)
    peaks = peaks_of(strength, APART * float(np.hypot(*small.shape)), wanted)
    first = peaks[0][2] if peaks else 0.0
    if first < FLAT:
        return []
    return [Read((x + 0.5) / size[0], (y + 0.5) / size[1], value / first) for x, y, value in peaks]


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
