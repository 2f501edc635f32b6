"""Total variation denoising on its dual: the Python side of rof.c."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.kernels.library import COUNT, FLOATS, kernel

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float32]

_ascend_dual = kernel("ascend_dual", FLOATS, FLOATS, COUNT, FLOATS, FLOATS, COUNT, COUNT, COUNT, returns=COUNT)
_primal_of = kernel("primal_of", FLOATS, FLOATS, FLOATS, COUNT, COUNT, FLOATS, returns=COUNT)


def ascend_dual(lightness: Array, limits: Array, across: Array, down: Array, times: int) -> None:
    """So many steps of fast gradient projection on the dual field across, down (h, w), in place, each of its vectors at
    most ``limits`` long, (h, w) or (1, 1)."""
    _ascend_dual(lightness, limits, limits.size == 1, across, down, *lightness.shape, times)


def primal(lightness: Array, across: Array, down: Array) -> Array:
    """The picture (h, w) that a dual field stands for."""
    found = np.empty_like(lightness)
    _primal_of(lightness, across, down, *lightness.shape, found)
    return found
