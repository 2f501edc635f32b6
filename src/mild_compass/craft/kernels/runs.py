"""Connected components of a label map by runs, their sums, and their region adjacency graph: the Python side of
runs.c."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.kernels.library import (
    BYTES,
    COUNT,
    DOUBLES,
    FLAGS,
    FLOATS,
    LABELS,
    NUMBERS,
    OrNone,
    kernel,
)

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Steps = NDArray[np.uint8]
    Labels = NDArray[np.int32]
    Numbers = NDArray[np.int64]
    Weights = NDArray[np.float32]
    Sums = NDArray[np.float64]
    Flags = NDArray[np.bool_]

SLOTS_EACH = 6  # of a hash table of pairs: a planar graph has less than three edges for each node, and half stays free

_find_runs = kernel("find_runs", BYTES, COUNT, COUNT, NUMBERS, LABELS, returns=COUNT)
_label_runs = kernel("label_runs", BYTES, COUNT, COUNT, NUMBERS, LABELS, LABELS, NUMBERS, returns=COUNT)
_fill_bytes = kernel("fill_bytes", LABELS, LABELS, COUNT, BYTES, BYTES)
_fill_labels = kernel("fill_labels", LABELS, LABELS, COUNT, LABELS, LABELS)
_fill_some = kernel("fill_some", LABELS, LABELS, COUNT, NUMBERS, FLAGS, BYTES)
_count_pixels = kernel("count_pixels", LABELS, LABELS, COUNT, NUMBERS)
_sum_pixels = kernel("sum_pixels", LABELS, LABELS, COUNT, FLOATS, DOUBLES, DOUBLES)
_sum_columns = kernel("sum_columns", BYTES, FLOATS, COUNT, COUNT, COUNT, NUMBERS, DOUBLES)
_find_adjacency = kernel("find_adjacency", NUMBERS, COUNT, LABELS, LABELS, OrNone(FLOATS), COUNT, NUMBERS, DOUBLES)
_drop_touching = kernel("drop_touching", FLAGS, BYTES, COUNT, COUNT, LABELS, LABELS, COUNT, NUMBERS)
_resolve_values = kernel("resolve_values", NUMBERS, NUMBERS, COUNT, BYTES)


def components(steps: Steps) -> tuple[Numbers, Labels, Labels, Numbers]:
    """4-connected components of a map (h, w): where each row's runs begin among all (h + 1,), the pixel at which each
    run begins and the end of all (r + 1,), the component of each run (r,), and the value of each component (n,);
    components are in order of their value, then of their first pixel."""
    h, w = steps.shape
    rows, begins = np.empty(h + 1, np.int64), np.empty(steps.size + 1, np.int32)
    runs = _find_runs(steps, h, w, rows, begins)
    begins = begins[: runs + 1].copy()
    numbers, values = np.empty(runs, np.int32), np.empty(runs, np.int64)
    count = _label_runs(steps, h, w, rows, begins, numbers, values)
    return rows, begins, numbers, values[:count].copy()


def filled_bytes(begins: Labels, numbers: Labels, told: Steps) -> Steps:
    """A map (h·w,) of one number per component (n,)."""
    found = np.empty(begins[-1], np.uint8)
    _fill_bytes(begins, numbers, len(numbers), told, found)
    return found


def filled_labels(begins: Labels, numbers: Labels, told: Labels) -> Labels:
    """The same in whole numbers."""
    found = np.empty(begins[-1], np.int32)
    _fill_labels(begins, numbers, len(numbers), told, found)
    return found


def fill_some(steps: Steps, begins: Labels, numbers: Labels, values: Numbers, wanted: Flags) -> None:
    """Give the pixels of the components that are wanted (n,) their values, in place."""
    _fill_some(begins, numbers, len(numbers), values, wanted, steps)


def pixel_counts(begins: Labels, numbers: Labels, count: int) -> Numbers:
    """The pixels of each component (n,)."""
    found = np.zeros(count, np.int64)
    _count_pixels(begins, numbers, len(numbers), found)
    return found


def pixel_sums(begins: Labels, numbers: Labels, of: Weights, count: int) -> tuple[Sums, Sums]:
    """Sums (n,) of a picture (h·w,) over each component, and of its squares."""
    sums, squares = np.zeros(count), np.zeros(count)
    _sum_pixels(begins, numbers, len(numbers), of, sums, squares)
    return sums, squares


def column_sums(steps: Steps, of: Weights, count: int) -> tuple[Numbers, Sums]:
    """How many pixels of a map (h, w) have each value, and what they hold of a picture (h, w), by columns (count,
    w)."""
    h, w = steps.shape
    areas, sums = np.zeros((count, w), np.int64), np.zeros((count, w))
    _sum_columns(steps, of, h, w, count, areas, sums)
    return areas, sums


def adjacency(
    rows: Numbers, begins: Labels, numbers: Labels, count: int, weight: Weights | None
) -> tuple[Numbers, Sums]:
    """The edges of the region adjacency graph, in no order: low << 32 | high of each pair of components that touch
    (m,), and the length of their border in pixel sides, each counted as the mean ``weight`` (h·w,) of its two
    pixels."""
    room = 64
    while room < SLOTS_EACH * count:
        room *= 2
    codes, lengths = np.full(room, -1, np.int64), np.zeros(room)
    _find_adjacency(rows, len(rows) - 1, begins, numbers, weight, room, codes, lengths)
    there = codes >= 0
    return codes[there], lengths[there]


def drop_touching(kept: Flags, firm: Steps, begins: Labels, numbers: Labels, values: Numbers) -> None:
    """Of the components kept (n,) leave out those with a pixel beside one of their own value in another map (h, w), in
    place."""
    _drop_touching(kept, firm, *firm.shape, begins, numbers, len(numbers), values)


def resolved_values(owner: Numbers, values: Numbers) -> Steps:
    """The value of each crumb (n,): that of the root its owner leads to; ``owner`` is changed."""
    told = np.empty(len(owner), np.uint8)
    _resolve_values(owner, values, len(owner), told)
    return told
