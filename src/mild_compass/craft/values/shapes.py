"""Connected shapes of a value map, what is in each, and which touch: found by runs of pixels, row by row."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

from mild_compass.craft.compiled import compiled

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Steps = NDArray[np.uint8]
    Labels = NDArray[np.int32]
    Numbers = NDArray[np.int64]
    Weights = NDArray[np.float32]
    Sums = NDArray[np.float64]

MOST_VALUES = 256
ROOM_EACH = 6  # in a table of pairs: shapes of a plane touch in less than three times as many pairs as there are


class Shapes(NamedTuple):
    """Connected shapes (side by side, not by corners), the darker first, of one value in the order in which they begin.

    Each row of the map is runs of pixels of one shape: ``rows`` (h + 1,) is where its runs begin among all (r,),
    ``begins`` (r + 1,) the pixel at which each begins, counted through the whole map, ``numbers`` (r,) its shape.
    ``values`` (n,) are the shapes'.
    """

    rows: Numbers
    begins: Labels
    numbers: Labels
    values: Numbers

    @property
    def shape(self) -> tuple[int, int]:
        """Height and width of the map."""
        height = len(self.rows) - 1
        return height, int(self.begins[-1]) // height

    def labels(self) -> Labels:
        """The number of the shape of each pixel (h, w)."""
        return np.asarray(_filled(self.rows, self.begins, self.numbers, np.arange(len(self.values), dtype=np.int32)))

    def filled(self, told: Steps) -> Steps:
        """A map (h, w) of what is told of each shape (n,)."""
        return np.asarray(_filled(self.rows, self.begins, self.numbers, told))

    def areas(self) -> Numbers:
        """The pixels of each shape."""
        return _areas(self.begins, self.numbers, len(self.values))

    def sums(self, of: Weights) -> tuple[Sums, Sums]:
        """What each shape holds of a picture (h, w), and of its squares."""
        return _sums(self.begins, self.numbers, of.ravel(), len(self.values))

    def borders(self, weight: Weights | None = None) -> tuple[Numbers, Numbers, Sums]:
        """Pairs of touching shapes, the lower number first, and how long their border is, in sides of pixels: each
        counted as the mean ``weight`` (h, w) of its two pixels where that is given."""
        weights = np.ones(1, np.float32) if weight is None else weight.ravel()
        codes, lengths = _borders(self.rows, self.begins, self.numbers, len(self.values), weights)
        order = np.argsort(codes)
        return codes[order] >> 32, codes[order] & 0xFFFFFFFF, lengths[order]


def shapes_of(steps: Steps) -> Shapes:
    """The connected shapes of a map of values (h, w)."""
    return Shapes(*_found(np.ascontiguousarray(steps)))


@compiled
def _found(steps: Steps) -> tuple[Numbers, Labels, Labels, Numbers]:
    rows, begins = _runs(steps)
    values, joined = np.empty(rows[-1], np.uint8), np.arange(rows[-1]).astype(np.int32)
    flat, width = steps.ravel(), steps.shape[1]
    for run in range(len(values)):
        values[run] = flat[begins[run]]
    for y in range(1, steps.shape[0]):
        _join_above(begins, values, joined, rows[y - 1], rows[y], rows[y + 1], width)
    numbers, told = _numbered(joined, values)
    return rows, begins, numbers, told


@compiled
def _runs(steps: Steps) -> tuple[Numbers, Labels]:
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


@compiled
def _join_above(begins: Labels, values: Steps, joined: Labels, above: int, here: int, end: int, width: int) -> None:
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


@compiled
def _earliest(joined: Labels, run: int) -> int:
    while joined[run] != run:
        joined[run] = joined[joined[run]]
        run = joined[run]
    return run


@compiled
def _numbered(joined: Labels, values: Steps) -> tuple[Labels, Numbers]:
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


@compiled
def _filled(rows: Numbers, begins: Labels, numbers: Labels, told: Any) -> Any:
    height = len(rows) - 1
    found = np.empty(begins[-1], told.dtype)
    for run in range(len(numbers)):
        found[begins[run] : begins[run + 1]] = told[numbers[run]]
    return found.reshape(height, -1)


@compiled
def _areas(begins: Labels, numbers: Labels, count: int) -> Numbers:
    found = np.zeros(count, np.int64)
    for run in range(len(numbers)):
        found[numbers[run]] += begins[run + 1] - begins[run]
    return found


@compiled
def _sums(begins: Labels, numbers: Labels, of: Weights, count: int) -> tuple[Sums, Sums]:
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


@compiled
def _borders(rows: Numbers, begins: Labels, numbers: Labels, count: int, weight: Weights) -> tuple[Numbers, Sums]:
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


@compiled
def _long(weight: Weights, begin: int, end: int, back: int) -> float:
    """How long the border is between some pixels and those so many pixels before them."""
    if len(weight) == 1:
        return float(end - begin)
    long = 0.0
    for place in range(begin, end):
        long += np.float64((weight[place - back] + weight[place]) * np.float32(0.5))
    return long


@compiled
def _place_of(codes: Numbers, one: int, other: int) -> np.int64:
    """Where the code of a pair stands in a table that has places to spare, or is put now."""
    low, high, mask = np.int64(min(one, other)), np.int64(max(one, other)), np.int64(len(codes) - 1)
    code, place = low << 32 | high, (low * 73856093 ^ high * 19349663) & mask
    while codes[place] >= 0 and codes[place] != code:
        place = (place + 1) & mask
    codes[place] = code
    return place


@compiled
def sums_of(steps: Steps, of: Weights, count: int) -> tuple[Numbers, Sums]:
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
    return areas.sum(1), found.sum(1)
