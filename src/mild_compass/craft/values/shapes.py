"""Connected shapes of a value map, what is in each, and which touch: the loops over its pixels."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.compiled import compiled

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Steps = NDArray[np.uint8]
    Labels = NDArray[np.int32]
    AnyLabels = NDArray[np.int32] | NDArray[np.uint8]
    Numbers = NDArray[np.int64]
    Weights = NDArray[np.float32]
    Sums = NDArray[np.float64]

MOST_VALUES = 256


def shapes_of(steps: Steps) -> tuple[Labels, Numbers]:
    """Connected shapes (side by side, not by corners) of a map of values (h, w): labels (h, w) and the value of each,
    the darker first, of one value in the order in which they begin."""
    return _labelled(np.ascontiguousarray(steps))


@compiled
def _labelled(steps: Steps) -> tuple[Labels, Numbers]:
    """By runs of pixels of one value, row by row."""
    height, width = steps.shape
    begins, values = np.empty(height * width + 1, np.int32), np.empty(height * width + 1, np.uint8)
    joined = np.empty(height * width + 1, np.int32)  # of each run an earlier one of the same shape, or itself
    rows = np.zeros(height + 1, np.int64)  # where its runs begin
    for y in range(height):
        rows[y + 1] = _note_runs(steps[y], begins, values, joined, rows[y])
        if y:
            _join_above(begins, values, joined, rows[y - 1], rows[y], rows[y + 1], width)
    count = rows[height]
    number, told = _numbered(joined[:count], values[:count])
    labels = np.empty((height, width), np.int32)
    for y in range(height):
        for run in range(rows[y], rows[y + 1]):
            end = begins[run + 1] if run + 1 < rows[y + 1] else width
            labels[y, begins[run] : end] = number[run]
    return labels, told


@compiled
def _note_runs(row: Steps, begins: Labels, values: Steps, joined: Labels, count: int) -> int:
    for x in range(len(row)):
        if x == 0 or row[x] != row[x - 1]:
            begins[count], values[count], joined[count] = x, row[x], count
            count += 1
    return count


@compiled
def _join_above(begins: Labels, values: Steps, joined: Labels, above: int, here: int, end: int, width: int) -> None:
    """Join the runs of a row with those of the row above that touch them and are of the same value."""
    one, other = above, here
    while one < here and other < end:
        one_end = begins[one + 1] if one + 1 < here else width
        other_end = begins[other + 1] if other + 1 < end else width
        if values[one] == values[other]:
            first, second = _earliest(joined, one), _earliest(joined, other)
            joined[max(first, second)] = min(first, second)
        if one_end <= other_end:
            one += 1
        if other_end <= one_end:
            other += 1


@compiled
def _earliest(joined: Labels, label: int) -> int:
    while joined[label] != label:
        joined[label] = joined[joined[label]]
        label = joined[label]
    return label


@compiled
def _numbered(joined: Labels, values: Steps) -> tuple[Labels, Numbers]:
    """The number of the shape of each label, by value and then in order, and the value of each shape."""
    begins = np.zeros(MOST_VALUES + 1, np.int64)
    for label in range(len(joined)):
        if joined[label] == label:
            begins[values[label] + 1] += 1
    begins = np.cumsum(begins)
    told = np.empty(begins[-1], np.int64)
    number = np.empty(len(joined), np.int32)
    for label in range(len(joined)):
        if joined[label] == label:
            told[begins[values[label]]] = values[label]
            number[label] = begins[values[label]]
            begins[values[label]] += 1
        else:  # an earlier one: it has its number already
            number[label] = number[_earliest(joined, label)]
    return number, told


@compiled
def sums_of(labels: AnyLabels, of: Weights, count: int) -> tuple[Numbers, Sums, Sums]:
    """How many pixels each shape has, what it holds of a picture (h, w), and of its squares; added up run by run."""
    areas, found, squares = np.zeros(count, np.int64), np.zeros(count), np.zeros(count)
    height, width = labels.shape
    for y in range(height):
        x = 0
        while x < width:
            begin, label, held, squared = x, labels[y, x], 0.0, 0.0
            while x < width and labels[y, x] == label:
                each = np.float64(of[y, x])
                held += each
                squared += each * each
                x += 1
            areas[label] += x - begin
            found[label] += held
            squares[label] += squared
    return areas, found, squares


@compiled
def areas_of(labels: AnyLabels, count: int) -> Numbers:
    """The pixels of each shape."""
    found = np.zeros(count, np.int64)
    height, width = labels.shape
    for y in range(height):
        begin = 0
        for x in range(1, width):
            if labels[y, x] != labels[y, begin]:
                found[labels[y, begin]] += x - begin
                begin = x
        found[labels[y, begin]] += width - begin
    return found


def borders_of(labels: Labels, weight: Weights | None = None) -> tuple[Numbers, Numbers, Sums]:
    """Pairs of touching shapes, the lower number first, and how long their border is, in sides of pixels: each counted
    as the mean ``weight`` (h, w) of its two pixels where that is given."""
    codes, lengths = _borders(labels, weight if weight is not None else np.ones((1, 1), np.float32))
    order = np.argsort(codes)
    return codes[order] >> 32, codes[order] & 0xFFFFFFFF, lengths[order]


@compiled
def _borders(labels: Labels, weight: Weights) -> tuple[Numbers, Sums]:
    height, width = labels.shape
    weighted = weight.size > 1
    codes, lengths, used = np.full(1024, -1, np.int64), np.zeros(1024), 0
    for across in (True, False):
        for y in range(0 if across else 1, height):
            for x in range(1 if across else 0, width):
                v, u = (y, x - 1) if across else (y - 1, x)
                one, other = labels[v, u], labels[y, x]
                if one == other:
                    continue
                long = np.float64((weight[v, u] + weight[y, x]) * np.float32(0.5)) if weighted else 1.0
                used += _counted(codes, lengths, np.int64(min(one, other)) << 32 | np.int64(max(one, other)), long)
                if 2 * used > len(codes):
                    codes, lengths = _roomier(codes, lengths)
    return codes[codes >= 0], lengths[codes >= 0]


@compiled
def _counted(codes: Numbers, lengths: Sums, code: np.int64, long: float) -> int:
    """Add to the length of a code, in a table with places to spare: 1 if it is a new one."""
    mask = len(codes) - 1
    place = ((code >> 32) * 73856093 ^ (code & 0xFFFFFFFF) * 19349663) & mask
    while codes[place] >= 0 and codes[place] != code:
        place = (place + 1) & mask
    new = codes[place] < 0
    codes[place] = code
    lengths[place] += long
    return int(new)


@compiled
def _roomier(codes: Numbers, lengths: Sums) -> tuple[Numbers, Sums]:
    more, longer = np.full(4 * len(codes), -1, np.int64), np.zeros(4 * len(codes))
    for k in range(len(codes)):
        if codes[k] >= 0:
            _counted(more, longer, codes[k], lengths[k])
    return more, longer
