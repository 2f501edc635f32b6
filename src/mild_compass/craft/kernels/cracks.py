"""Crack edges of a label map, linked into chains from junction to junction: the Python side of cracks.c."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.kernels.library import BYTES, COUNT, DOUBLES, FLOATS, LABELS, NUMBERS, REAL, kernel

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Labels = NDArray[np.int32]
    Numbers = NDArray[np.int64]

_find_segments = kernel("find_segments", LABELS, LABELS, COUNT, COUNT, NUMBERS, returns=COUNT)
_link_segments = kernel("link_segments", NUMBERS, COUNT, COUNT, COUNT, NUMBERS, NUMBERS, returns=COUNT)
_walk_chains = kernel(
    "walk_chains", LABELS, COUNT, NUMBERS, NUMBERS, NUMBERS, COUNT, DOUBLES, DOUBLES, NUMBERS, DOUBLES, NUMBERS
)
_find_shifts = kernel("find_shifts", DOUBLES, DOUBLES, COUNT, FLOATS, BYTES, COUNT, COUNT, DOUBLES, REAL, DOUBLES)


def segments(padded: Labels) -> Numbers:
    """Straight runs of pixel sides between different labels as segments (n, 2, 2) of x, y, the level ones first;
    ``padded`` (h + 2, w + 2) has a rim of its own label. A run ends where the border turns or more than two sides
    meet."""
    sides = np.empty((2 * padded.size, 2, 2), np.int64)
    count = _find_segments(padded, np.ascontiguousarray(padded.T), *padded.shape, sides)
    return sides[:count].copy()


def linked(sides: Numbers, width: int) -> tuple[Numbers, Numbers]:
    """Segments (n, 2, 2) put one behind another where exactly two meet, and round and round where they close: the ends
    by which they are entered (n,), 2k for the start of segment k and 2k + 1 for its end, and where among these each
    chain begins (m + 1,). ``width`` is the number of corners of pixels in a row."""
    entries, begins = np.empty(len(sides), np.int64), np.empty(len(sides) + 1, np.int64)
    corners = (int(sides[:, :, 1].max()) + 1) * width
    chains = _link_segments(sides, len(sides), corners, width, entries, begins)
    return entries, begins[: chains + 1]


def walked(
    padded: Labels, sides: Numbers, entries: Numbers, begins: Numbers
) -> tuple[Array, Array, Numbers, Array, Numbers]:
    """The middle of each pixel side along the chains and the way to its left (n, 2), where each chain begins among
    these (m + 1,), its ends (m, 2, 2), and the labels to its left and right (m, 2)."""
    total, chains = int(np.abs(sides[:, 1] - sides[:, 0]).sum()), len(begins) - 1
    middles, asides, first = np.empty((total, 2)), np.empty((total, 2)), np.empty(chains + 1, np.int64)
    ends, beside = np.empty((chains, 2, 2)), np.empty((chains, 2), np.int64)
    _walk_chains(padded, padded.shape[1], sides, entries, begins, chains, middles, asides, first, ends, beside)
    return middles, asides, first, ends, beside


def shifts(
    middles: Array, asides: Array, lightness: NDArray[np.float32], steps: NDArray[np.uint8], shown: Array, least: float
) -> Array:
    """How far toward the left pixel of each side (n,) from half way the picture passes the middle between the two
    values, in pixels: at most half of one, and nought where it does not pass there or rises by less than ``least``
    L*."""
    found = np.empty(len(middles))
    _find_shifts(middles, asides, len(middles), lightness, steps, *steps.shape, shown, least, found)
    return found
