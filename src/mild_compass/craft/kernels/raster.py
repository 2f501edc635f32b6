"""Polygons painted by exact area coverage, and a histogram: the Python side of raster.c."""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeVar

import numpy as np

from mild_compass.craft.kernels.library import BYTES, COUNT, DOUBLES, FLOATS, NUMBERS, REAL, OrNone, kernel

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Numbers = NDArray[np.int64]
    Painted = TypeVar("Painted", NDArray[np.float32], NDArray[np.uint8])

_cut_at_rows = kernel(
    "cut_at_rows", DOUBLES, NUMBERS, DOUBLES, COUNT, COUNT, NUMBERS, NUMBERS, OrNone(DOUBLES), returns=COUNT
)
_sweep_floats = kernel("sweep_floats", FLOATS, COUNT, COUNT, REAL, NUMBERS, DOUBLES, returns=COUNT)
_sweep_bytes = kernel("sweep_bytes", BYTES, COUNT, COUNT, REAL, NUMBERS, DOUBLES, returns=COUNT)
_count_lightness = kernel("count_lightness", FLOATS, COUNT, NUMBERS)


def cut_at_rows(points: Array, first: Numbers, changes: Array, rows: int) -> tuple[Numbers, Array]:
    """Lines (m,) cut at the rows of pixels: where each row begins among the pieces (rows + 1,), and of each its x at
    both ends and by how much what lies right of it is lighter, times its height (n, 3)."""
    begins, room = np.empty(rows + 1, np.int64), np.empty(rows, np.int64)
    lines = (points, first, changes, len(changes), rows, begins, room)
    pieces = np.empty((_cut_at_rows(*lines, None), 3))
    _cut_at_rows(*lines, pieces)
    return begins, pieces


def sweep(picture: Painted, added: float, begins: Numbers, pieces: Array) -> None:
    """Paint a picture (h, w) row by row from pieces cut at its rows, with so much added everywhere, in place: each
    piece changes all that is right of it, and what it crosses by its share."""
    each = _sweep_floats if picture.dtype == np.float32 else _sweep_bytes
    each(picture, *picture.shape, added, begins, pieces)


def lightness_histogram(values: NDArray[np.float32]) -> Numbers:
    """How many of some L* values lie in each whole step (100,)."""
    found = np.zeros(100, np.int64)
    _count_lightness(values, values.size, found)
    return found
