"""Total variation denoising (ROF) on its dual: what is small or faint melts into its surroundings, and edges stay.

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
from mild_compass.craft.kernels import rof

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float32]

TIMES = 30  # at each size; ten times as many would give 3 pixels in 1000 another value
SIZES = 3  # the picture, half and a quarter of it
LEAST_PX = 8  # of the coarsest picture's shorter side


def flattened(lightness: Array, strength: float, weight: Array | None = None) -> Array:
    """L* (h, w) flattened: a disc of radius r loses 2 strength / r of what it differs by (strength in L* · px),
    ``weight`` (h, w) times that in places."""
    limits = np.full((1, 1), strength, np.float32) if weight is None else np.float32(strength) * weight
    return rof.primal(lightness, *_dual_field(lightness, limits, SIZES))


def _dual_field(lightness: Array, limits: Array, sizes: int) -> tuple[Array, Array]:
    """How each pixel is pulled towards the next across and the next down (h, w), at most so much; none beyond."""
    height, width = lightness.shape
    if sizes == 1 or min(height, width) < 2 * LEAST_PX:
        across, down = np.zeros_like(lightness), np.zeros_like(lightness)
    else:
        half = (width // 2, height // 2)
        slim = limits if limits.size == 1 else _resized(limits, half, cv2.INTER_AREA)
        small = _dual_field(_resized(lightness, half, cv2.INTER_AREA), slim / np.float32(2), sizes - 1)
        across, down = (_resized(each, (width, height), cv2.INTER_LINEAR) * np.float32(2) for each in small)
        across[:, -1] = down[-1] = 0
    checkpoint()
    rof.ascend_dual(lightness, limits, across, down, TIMES)
    return across, down


def _resized(values: Array, size: tuple[int, int], how: int) -> Array:
    return np.ascontiguousarray(cv2.resize(values, size, interpolation=how), np.float32)
