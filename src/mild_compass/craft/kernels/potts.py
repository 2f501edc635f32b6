"""Thresholds, and checkerboard ICM sweeps on a Potts energy: the Python side of potts.c."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.kernels.library import BYTES, COUNT, FLOATS, kernel

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float32]
    Steps = NDArray[np.uint8]

_count_reached = kernel("count_reached", FLOATS, COUNT, FLOATS, COUNT, BYTES)
_descend = kernel("descend", BYTES, FLOATS, COUNT, COUNT, FLOATS, FLOATS, COUNT, FLOATS, COUNT, COUNT, returns=COUNT)


def reached(lightness: Array, marks: Array) -> Steps:
    """How many of the marks (n,) the L* of each pixel (h, w) reaches."""
    found = np.empty(lightness.shape, np.uint8)
    _count_reached(lightness, lightness.size, marks, len(marks), found)
    return found


def descended(steps: Steps, lightness: Array, marks: Array, rises: Array, prices: Array, most: int) -> Steps:
    """A map (h, w) after sweeps, at most so many: every second pixel at a border takes the value that costs least
    beside its four neighbours, until none would change.

    Value k + 1 costs rises[k] · (marks[k] - L*) more than value k, and each side of a pixel beside another value its
    price, (h, w) or (1, 1).
    """
    found = steps.copy()
    _descend(found, lightness, *steps.shape, marks, rises, len(marks), prices, prices.size == 1, most)
    return found
