"""A picture flattened: what is small or faint melts into what lies round it, and edges stay where they are.

Least total variation (L. Rudin, S. Osher & E. Fatemi, Physica D 60, 1992), found by fast gradient projection on its
dual (A. Beck & M. Teboulle, IEEE Trans. Image Processing 18, 2009), from coarse to fine. Divided at a threshold, such a
picture is the division that is cheapest of all in squared differences and length of border (A. Chambolle, J. Math.
Imaging Vis. 20, 2004; T. Chan, S. Esedoglu & M. Nikolova, SIAM J. Appl. Math. 66, 2006): made once, it serves for all
thresholds.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.checkpoint import checkpoint
from mild_compass.craft.compiled import compiled

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float32]

TIMES = 30  # at each size; ten times as many would give 3 pixels in 1000 another value
SIZES = 3  # the picture, half and a quarter of it
LEAST_PX = 8
PACE = np.float32(0.125)  # the largest with which it is sure to come nearer


def flattened(lightness: Array, strength: float, weight: Array | None = None) -> Array:
    """L* (h, w) flattened: a disc of radius r loses 2 strength / r of what it differs by (strength in L* · px),
    ``weight`` (h, w) times that in places."""
    limits = np.full((1, 1), strength, np.float32) if weight is None else np.float32(strength) * weight
    return _flat(lightness, *_pulls(lightness, limits, SIZES))


def _pulls(lightness: Array, limits: Array, sizes: int) -> tuple[Array, Array]:
    """How each pixel is pulled towards the next across and the next down (h, w), at most so much; none beyond."""
    height, width = lightness.shape
    if sizes == 1 or min(height, width) < 2 * LEAST_PX:
        across, down = np.zeros_like(lightness), np.zeros_like(lightness)
    else:
        half = (width // 2, height // 2)
        slim = limits if limits.size == 1 else _resized(limits, half, cv2.INTER_AREA)
        small = _pulls(_resized(lightness, half, cv2.INTER_AREA), slim / np.float32(2), sizes - 1)
        across, down = (_resized(each, (width, height), cv2.INTER_LINEAR) * np.float32(2) for each in small)
        across[:, -1] = down[-1] = 0
    checkpoint()
    _pull(lightness, limits, across, down, TIMES)
    return across, down


def _resized(values: Array, size: tuple[int, int], how: int) -> Array:
    return np.ascontiguousarray(cv2.resize(values, size, interpolation=how), np.float32)


@compiled
def _pull(lightness: Array, limits: Array, across: Array, down: Array, times: int) -> None:
    """Bring the pulls nearer so many times, each time a little further on in the direction taken."""
    height, width = lightness.shape
    ahead_across, ahead_down, pace = across.copy(), down.copy(), 1.0
    row, below = np.empty(width + 1, np.float32), np.empty(width + 1, np.float32)
    most = np.full(width, limits[0, 0])
    for _ in range(times):
        next_pace = (1 + np.sqrt(1 + 4 * pace * pace)) / 2
        further, pace = np.float32((pace - 1) / next_pace), next_pace
        _lay(row, lightness, ahead_across, ahead_down, 0)
        for y in range(height):
            if y < height - 1:
                _lay(below, lightness, ahead_across, ahead_down, y + 1)
            else:
                below[:] = row
            if limits.size > 1:
                most = limits[y]
            _pull_row(row, below, ahead_across[y], ahead_down[y], across[y], down[y], most, further)
            row, below = below, row


@compiled
def _pull_row(
    row: Array,
    below: Array,
    ahead_across: Array,
    ahead_down: Array,
    across: Array,
    down: Array,
    most: Array,
    further: np.float32,
) -> None:
    for x in range(len(across)):
        a = ahead_across[x] + PACE * (row[x + 1] - row[x])
        d = ahead_down[x] + PACE * (below[x] - row[x])
        held = most[x] / max(most[x], np.sqrt(a * a + d * d))
        a *= held
        d *= held
        ahead_across[x], ahead_down[x] = a + further * (a - across[x]), d + further * (d - down[x])
        across[x], down[x] = a, d


@compiled
def _lay(row: Array, lightness: Array, across: Array, down: Array, y: int) -> None:
    """Put a row of the picture as the pulls make it into ``row`` (w + 1,), its last pixel twice."""
    width = lightness.shape[1]
    for x in range(width):
        row[x] = lightness[y, x] + across[y, x] + down[y, x]
    for x in range(1, width):
        row[x] -= across[y, x - 1]
    if y > 0:
        for x in range(width):
            row[x] -= down[y - 1, x]
    row[width] = row[width - 1]


@compiled
def _flat(lightness: Array, across: Array, down: Array) -> Array:
    found, row = np.empty_like(lightness), np.empty(lightness.shape[1] + 1, np.float32)
    for y in range(lightness.shape[0]):
        _lay(row, lightness, across, down, y)
        found[y] = row[:-1]
    return found
