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
    Places = NDArray[np.int64]
    Flags = NDArray[np.bool_]

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
    found = steps.copy()
    marks, rises = np.array(thresholds, np.float32), np.float32(2) * np.diff(np.array(means, np.float32))
    prices = np.full((1, 1), price, np.float32) if weight is None else np.float32(price) * weight
    _settle(found, lightness, marks, rises, prices)
    return found


@compiled
def _settle(steps: Steps, lightness: Array, marks: Array, rises: Array, prices: Array) -> None:
    height, width = steps.shape
    lists = np.empty((2, steps.size), np.int64)  # of the pixels of either colour that may change
    listed = np.zeros(steps.shape, np.bool_)
    numbers = _list_borders(steps, lists, listed)
    for turn in range(MOST_TURNS):  # pixels of one colour do not touch: they may change at once
        now, then, number = lists[turn % 2], lists[1 - turn % 2], numbers[turn % 2]
        if not numbers.any():
            break
        for place in now[:number]:
            y, x = place // width, place % width
            listed[y, x] = False
            price = prices[y, x] if prices.size > 1 else prices[0, 0]
            best = _cheapest_beside(steps, lightness[y, x], marks, rises, price, y, x)
            if best == steps[y, x]:
                continue
            steps[y, x] = best
            for v, u in _four(y, x, height, width):
                if not listed[v, u] and (v != y or u != x):
                    listed[v, u] = True
                    then[numbers[1 - turn % 2]] = v * width + u
                    numbers[1 - turn % 2] += 1
        numbers[turn % 2] = 0


@compiled
def _list_borders(steps: Steps, lists: Places, listed: Flags) -> Places:
    """List the pixels beside another value: how many of either colour."""
    height, width = steps.shape
    numbers, differs = np.zeros(2, np.int64), np.zeros(width + 1, np.bool_)
    for y in range(height):
        above, below, here = max(y - 1, 0), min(y + 1, height - 1), listed[y]
        for x in range(1, width):
            differs[x] = steps[y, x] != steps[y, x - 1]
        for x in range(width):
            upright = (steps[above, x] != steps[y, x]) | (steps[below, x] != steps[y, x])
            here[x] = upright | differs[x] | differs[x + 1]
        for x in range(width):
            if here[x]:
                colour = (y + x) % 2
                lists[colour, numbers[colour]] = y * width + x
                numbers[colour] += 1
    return numbers


@compiled
def _cheapest_beside(
    steps: Steps, lightness: np.float32, marks: Array, rises: Array, price: np.float32, y: int, x: int
) -> int:
    """The value that costs a pixel least, its four neighbours being as they are; the darker of equal ones."""
    (a, i), (b, j), (c, m), (d, n) = _four(y, x, *steps.shape)
    one, two, three, four = steps[a, i], steps[b, j], steps[c, m], steps[d, n]
    best, least, dearer = 0, np.float32(np.inf), np.float32(0)
    for k in range(len(marks) + 1):
        if k:
            dearer += rises[k - 1] * (marks[k - 1] - lightness)
        alike = np.float32(int(one == k) + int(two == k) + int(three == k) + int(four == k))
        cost = dearer - price * alike
        if cost < least:
            best, least = k, cost
    return best


@compiled
def _four(y: int, x: int, height: int, width: int) -> tuple[tuple[int, int], ...]:
    """The four neighbours of a pixel; beyond the edge it is its own."""
    return (max(y - 1, 0), x), (min(y + 1, height - 1), x), (y, max(x - 1, 0)), (y, min(x + 1, width - 1))
