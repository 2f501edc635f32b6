"""A picture fitted by a few flat values with a price on every border between them.

The piecewise constant model of D. Mumford & J. Shah, Comm. Pure Appl. Math. 42, 1989, its values given: the flattened
picture divided at the thresholds, and then the sum of squared differences plus so much for each pixel of border made
less by single pixels (J. Besag, J. Royal Stat. Soc. B 48, 1986).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.compiled import compiled

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float32]
    Steps = NDArray[np.uint8]
    Places = NDArray[np.int32]
    Numbers = NDArray[np.int64]
    Flags = NDArray[np.bool_]

NO_VALUE = 7  # beyond the edge; there are at most seven, 0 to 6
MOST_TURNS = 40  # where border is dearer here than there, two pixels might change over for ever


def divided(lightness: Array, thresholds: tuple[float, ...]) -> Steps:
    """The value of each pixel (h, w): how many thresholds its L* reaches."""
    return _divided(lightness, np.array(thresholds, np.float32))


@compiled
def _divided(lightness: Array, marks: Array) -> Steps:
    found = np.zeros(lightness.shape, np.uint8)
    for y in range(lightness.shape[0]):
        for k in range(len(marks)):
            for x in range(lightness.shape[1]):
                found[y, x] += np.uint8(lightness[y, x] >= marks[k])
    return found


def fitted(
    steps: Steps,
    lightness: Array,
    thresholds: tuple[float, ...],
    means: tuple[float, ...],
    price: float,
    weight: Array | None = None,
) -> Steps:
    """Values (h, w) brought nearer to the cheapest: every second pixel at a border, as on a chessboard, takes what is
    cheapest beside its four neighbours, again and again until none there would take another value than it has.

    A value costs its squared difference from the L* (h, w), so that two cost the same at the threshold between them,
    and each side of a pixel beside another value the ``price``, ``weight`` (h, w) times that in places.
    """
    marks, rises = np.array(thresholds, np.float32), np.float32(2) * np.diff(np.array(means, np.float32))
    prices = np.full((1, 1), price, np.float32) if weight is None else np.float32(price) * weight
    return _settled(steps, lightness, marks, rises, prices)


@compiled
def _settled(steps: Steps, lightness: Array, marks: Array, rises: Array, prices: Array) -> Steps:
    """On a map with a rim of no value all round, its pixels numbered row after row."""
    height, width = steps.shape
    rimmed, wide = np.full((height + 2, width + 2), NO_VALUE, np.uint8), width + 2
    rimmed[1:-1, 1:-1] = steps
    values, light, dear = rimmed.ravel(), _rimmed(lightness), _rimmed(prices) if prices.size > 1 else prices.ravel()
    lists = np.empty((2, values.size), np.int32)  # of the pixels of either colour that may change
    listed = np.zeros(values.size, np.bool_)
    numbers = _list_borders(rimmed, lists, listed)
    for turn in range(MOST_TURNS):  # pixels of one colour do not touch: they may change at once
        now, then, number = lists[turn % 2], lists[1 - turn % 2], numbers[turn % 2]
        if not numbers.any():
            break
        best = _cheapest(values, light, dear, marks, rises, now[:number], wide)
        for k in range(number):
            place = now[k]
            listed[place] = False
            if best[k] == values[place]:
                continue
            values[place] = best[k]
            for beside in (place - wide, place + wide, place - 1, place + 1):
                if not listed[beside] and values[beside] != NO_VALUE:
                    listed[beside] = True
                    then[numbers[1 - turn % 2]] = beside
                    numbers[1 - turn % 2] += 1
        numbers[turn % 2] = 0
    return rimmed[1:-1, 1:-1].copy()


@compiled
def _rimmed(picture: Array) -> Array:
    """A picture with a rim round it, row after row."""
    found = np.zeros((picture.shape[0] + 2, picture.shape[1] + 2), np.float32)
    found[1:-1, 1:-1] = picture
    return found.ravel()


@compiled
def _list_borders(rimmed: Steps, lists: Places, listed: Flags) -> Numbers:
    """List the pixels beside another value: how many of either colour."""
    height, wide = rimmed.shape
    at_border = listed.reshape(rimmed.shape)
    for y in range(1, height - 1):
        above, row, below, here = rimmed[y - 1], rimmed[y], rimmed[y + 1], at_border[y]
        for x in range(1, wide - 1):
            upright = _differ(row[x], above[x]) | _differ(row[x], below[x])
            here[x] = upright | _differ(row[x], row[x - 1]) | _differ(row[x], row[x + 1])
    numbers = np.zeros(2, np.int64)
    for colour in range(2):
        count, into = np.uint64(0), lists[colour]  # without a sign: it never counts from the end
        for y in range(1, height - 1):
            for x in range(1 + (y + 1 + colour) % 2, wide - 1, 2):
                into[count] = np.int32(y * wide + x)
                count += np.uint64(at_border[y, x])
        numbers[colour] = np.int64(count)
    return numbers


@compiled
def _differ(one: np.uint8, other: np.uint8) -> bool:
    return bool(one != other) & bool(other != NO_VALUE)


@compiled
def _cheapest(values: Steps, light: Array, dear: Array, marks: Array, rises: Array, places: Places, wide: int) -> Steps:
    """The value that costs each listed pixel least, its four neighbours being as they are; the darker of equal ones."""
    alike, here, price = _beside(values, light, dear, places, wide)
    best, least, dearer = np.zeros(len(places), np.uint8), np.empty(len(places), np.float32), np.zeros_like(here)
    for k in range(len(places)):
        least[k] = -price[k] * np.float32(np.int32(alike[k] & np.uint32(15)))
    for value in range(1, len(marks) + 1):
        mark, rise, shift = marks[value - 1], rises[value - 1], np.uint32(4 * value)
        for k in range(len(places)):
            dearer[k] += rise * (mark - here[k])
            cost = dearer[k] - price[k] * np.float32(np.int32((alike[k] >> shift) & np.uint32(15)))
            best[k] = np.uint8(value) if cost < least[k] else best[k]
            least[k] = min(cost, least[k])
    return best


@compiled
def _beside(
    values: Steps, light: Array, dear: Array, places: Places, wide: int
) -> tuple[NDArray[np.uint32], Array, Array]:
    """How many neighbours of each listed pixel have each value, four bits for each; its L*; and the price there."""
    alike = np.empty(len(places), np.uint32)
    here, price = np.empty(len(places), np.float32), np.full(len(places), dear[0])
    for k in range(len(places)):
        place, counted = places[k], np.uint32(0)
        for beside in (place - wide, place + wide, place - 1, place + 1):
            counted += np.uint32(1) << np.uint32(4 * values[beside])
        alike[k], here[k] = counted, light[place]
    if len(dear) > 1:
        for k in range(len(places)):
            price[k] = dear[places[k]]
    return alike, here, price
