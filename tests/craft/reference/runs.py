"""Connected components by runs, their sums and their adjacency.

What kernels/runs.c computes, as plain Python: the reference that it is compared with."""

from __future__ import annotations

import numpy as np

MOST_VALUES = 256
ROOM_EACH = 6


def components(steps):
    rows, begins = _runs(steps)
    values, joined = np.empty(rows[-1], np.uint8), np.arange(rows[-1]).astype(np.int32)
    flat, width = steps.ravel(), steps.shape[1]
    for run in range(len(values)):
        values[run] = flat[begins[run]]
    for y in range(1, steps.shape[0]):
        _join_above(begins, values, joined, rows[y - 1], rows[y], rows[y + 1], width)
    numbers, told = _numbered(joined, values)
    return rows, begins, numbers, told


def _runs(steps):
    """Where the runs of each row begin among all, and at which pixel each begins."""
    height, width = steps.shape
    rows, begins = np.zeros(height + 1, np.int64), np.empty(steps.size + 1, np.int32)
    changes, count = np.ones(width, np.uint8), np.uint64(0)  # without a sign: it never counts from the end
    for y in range(height):
        row = steps[y]
        for x in range(1, width):
            changes[x] = row[x] != row[x - 1]
        for x in range(width):  # where nothing changes what is noted is written over
            begins[count] = np.int32(y * width + x)
            count += np.uint64(changes[x])
        rows[y + 1] = np.int64(count)
    begins[count] = np.int32(steps.size)
    return rows, begins[: rows[-1] + 1].copy()


def _join_above(begins, values, joined, above, here, end, width):
    """Join the runs of a row, from ``here``, with those of the row above that touch them and are of the same value:
    each goes to an earlier one of the same shape, or is the first."""
    one, other = above, here
    while one < here and other < end:
        if values[one] == values[other]:
            first, second = _earliest(joined, one), _earliest(joined, other)
            joined[max(first, second)] = min(first, second)
        one_end, other_end = begins[one + 1] + width, begins[other + 1]
        one += one_end <= other_end
        other += other_end <= one_end


def _earliest(joined, run):
    while joined[run] != run:
        joined[run] = joined[joined[run]]
        run = joined[run]
    return run


def _numbered(joined, values):
    """The number of the shape of each run, by value and then in order, and the value of each shape."""
    begins = np.zeros(MOST_VALUES + 1, np.int64)
    for run in range(len(joined)):
        if joined[run] == run:
            begins[values[run] + 1] += 1
    begins = np.cumsum(begins)
    told = np.empty(begins[-1], np.int64)
    number = np.empty(len(joined), np.int32)
    for run in range(len(joined)):
        if joined[run] == run:
            told[begins[values[run]]] = values[run]
            number[run] = begins[values[run]]
            begins[values[run]] += 1
        else:  # an earlier one: it has its number already
            number[run] = number[_earliest(joined, run)]
    return number, told


def _filled(begins, numbers, told):
    found = np.empty(begins[-1], told.dtype)
    for run in range(len(numbers)):
        found[begins[run] : begins[run + 1]] = told[numbers[run]]
    return found


def pixel_counts(begins, numbers, count):
    found = np.zeros(count, np.int64)
    for run in range(len(numbers)):
        found[numbers[run]] += begins[run + 1] - begins[run]
    return found


def pixel_sums(begins, numbers, of, count):
    found, squares = np.zeros(count), np.zeros(count)
    for run in range(len(numbers)):
        held, squared = 0.0, 0.0
        for place in range(np.uint64(begins[run]), np.uint64(begins[run + 1])):
            each = np.float64(of[place])
            held += each
            squared += each * each
        found[numbers[run]] += held
        squares[numbers[run]] += squared
    return found, squares


def adjacency(rows, begins, numbers, count, weight):
    """A code of each pair that touches, and the length of its border."""
    width, room = begins[rows[1]], 64
    while room < ROOM_EACH * count:
        room *= 2
    codes, lengths = np.full(room, -1, np.int64), np.zeros(room)
    for y in range(len(rows) - 1):
        for run in range(rows[y], rows[y + 1] - 1):
            begin = begins[run + 1]
            place = _place_of(codes, numbers[run], numbers[run + 1])
            lengths[place] += _long(weight, begin, begin + 1, 1)
        one, other = rows[y - 1], rows[y]
        while y and one < rows[y] and other < rows[y + 1]:
            begin = max(begins[one] + width, begins[other])
            one_end, other_end = begins[one + 1] + width, begins[other + 1]
            if numbers[one] != numbers[other]:
                place = _place_of(codes, numbers[one], numbers[other])
                lengths[place] += _long(weight, begin, min(one_end, other_end), width)
            one += one_end <= other_end
            other += other_end <= one_end
    return codes[codes >= 0], lengths[codes >= 0]


def _long(weight, begin, end, back):
    """How long the border is between some pixels and those so many pixels before them."""
    if weight is None:
        return float(end - begin)
    long = 0.0
    for place in range(begin, end):
        long += np.float64((weight[place - back] + weight[place]) * np.float32(0.5))
    return long


def _place_of(codes, one, other):
    """Where the code of a pair stands in a table that has places to spare, or is put now."""
    low, high, mask = np.int64(min(one, other)), np.int64(max(one, other)), np.int64(len(codes) - 1)
    code, place = low << 32 | high, (low * 73856093 ^ high * 19349663) & mask
    while codes[place] >= 0 and codes[place] != code:
        place = (place + 1) & mask
    codes[place] = code
    return place


def column_sums(steps, of, count):
    """How many pixels of a map (h, w) have each value, and what they hold of a picture (h, w); added up by columns."""
    height, width = steps.shape
    areas, found = np.zeros((count, width), np.int64), np.zeros((count, width))
    for y in range(height):
        for value in range(count):
            area, held = areas[value], found[value]
            for x in range(width):
                inside = steps[y, x] == value
                area[x] += inside
                held[x] += np.float64(of[y, x]) if inside else 0.0
    return areas, found


def resolved_values(owner, values):
    """The value of each crumb (n,): that of the one which its own has gone to, from one to the next."""
    told = np.empty(len(owner), np.uint8)
    for crumb in range(len(owner)):
        at = crumb
        while owner[at] != at:
            owner[at] = owner[owner[at]]
            at = owner[at]
        told[crumb] = values[at]
    return told


def fill_some(steps, begins, numbers, values, which):
    """Give the pixels of some shapes their values."""
    flat = steps.ravel()
    for run in range(len(numbers)):
        if which[numbers[run]]:
            flat[begins[run] : begins[run + 1]] = values[numbers[run]]


def drop_touching(kept, firm, begins, numbers, values):
    """Of the shapes that are kept leave out those beside a pixel of their own value."""
    height, width = firm.shape
    for run in range(len(numbers)):
        value = values[numbers[run]]
        for place in range(begins[run], begins[run + 1] if kept[numbers[run]] else begins[run]):
            y, x = place // width, place % width
            for v, u in (
                (y, max(x - 1, 0)),
                (y, min(x + 1, width - 1)),
                (max(y - 1, 0), x),
                (min(y + 1, height - 1), x),
            ):
                if firm[v, u] == value:
                    kept[numbers[run]] = False


def filled_bytes(begins, numbers, told):
    return _filled(begins, numbers, told)


def filled_labels(begins, numbers, told):
    return _filled(begins, numbers, told)
