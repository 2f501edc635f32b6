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


def costs_of(lightness: Array, thresholds: tuple[float, ...], means: tuple[float, ...]) -> Array:
    """What each value (n, h, w) costs at each pixel: its squared difference, so that two values cost the same at the
    threshold between them."""
    return _costs(lightness, np.array(thresholds, np.float32), np.array(means, np.float32))


@compiled
def _costs(lightness: Array, marks: Array, means: Array) -> Array:
    height, width = lightness.shape
    found = np.empty((len(means), height, width), np.float32)
    for y in range(height):
        for x in range(width):
            found[0, y, x] = (lightness[y, x] - means[0]) ** 2
        for k in range(len(marks)):
            rise = np.float32(2) * (means[k + 1] - means[k])
            for x in range(width):
                found[k + 1, y, x] = found[k, y, x] + rise * (marks[k] - lightness[y, x])
    return found


def fitted(steps: Steps, costs: Array, price: float, weight: Array | None = None) -> Steps:
    """Values (h, w) brought nearer to the cheapest for costs (n, h, w) and a price for each pixel of border, ``weight``
    (h, w) times that in places: every second pixel, as on a chessboard, takes what is cheapest beside its four
    neighbours, again and again until none would take another value than it has."""
    found = steps.copy()
    prices = np.full(steps.shape, price, np.float32) if weight is None else np.float32(price) * weight
    _settle(found, costs, prices)
    return found


@compiled
def _settle(steps: Steps, costs: Array, prices: Array) -> None:
    height, width = steps.shape
    lists = np.empty((2, steps.size), np.int64)  # of the pixels of either colour that may change
    listed = np.zeros(steps.shape, np.bool_)
    numbers = _list_unsettled(steps, costs, prices, lists, listed)
    for turn in range(MOST_TURNS):  # pixels of one colour do not touch: they may change at once
        now, then, number = lists[turn % 2], lists[1 - turn % 2], numbers[turn % 2]
        if not numbers.any():
            break
        for place in now[:number]:
            y, x = place // width, place % width
            listed[y, x] = False
            best = _cheapest_beside(steps, costs, prices, y, x)
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
def _list_unsettled(steps: Steps, costs: Array, prices: Array, lists: Places, listed: Flags) -> Places:
    """List the pixels beside another value, or that would be another though all four neighbours are as they are: how
    many of either colour."""
    height, width = steps.shape
    numbers, unsettled = np.zeros(2, np.int64), np.empty((height, width), np.bool_)
    _mark_unsettled(unsettled, steps, costs, prices)
    for y in range(height):
        for x in range(width):
            if unsettled[y, x]:
                colour = (y + x) % 2
                lists[colour, numbers[colour]] = y * width + x
                listed[y, x] = True
                numbers[colour] += 1
    return numbers


@compiled
def _mark_unsettled(unsettled: Flags, steps: Steps, costs: Array, prices: Array) -> None:
    count, height, width = costs.shape
    mine, least = np.empty(width, np.float32), np.empty(width, np.float32)
    for y in range(height):
        mine[:], least[:] = costs[0, y], costs[0, y]
        for k in range(1, count):
            for x in range(width):
                cost = costs[k, y, x]
                mine[x] = cost if steps[y, x] == np.uint8(k) else mine[x]
                least[x] = min(least[x], cost)
        above, below = max(y - 1, 0), min(y + 1, height - 1)
        for x in range(width):
            dear = mine[x] >= least[x] + np.float32(4) * prices[y, x]
            unsettled[y, x] = dear | (steps[above, x] != steps[y, x]) | (steps[below, x] != steps[y, x])
        for x in range(1, width):
            if steps[y, x] != steps[y, x - 1]:
                unsettled[y, x - 1] = unsettled[y, x] = True


@compiled
def _cheapest_beside(steps: Steps, costs: Array, prices: Array, y: int, x: int) -> int:
    """The value that costs a pixel least, its four neighbours being as they are; the darker of equal ones."""
    (a, i), (b, j), (c, m), (d, n) = _four(y, x, *steps.shape)
    one, two, three, four = steps[a, i], steps[b, j], steps[c, m], steps[d, n]
    best, least = 0, np.float32(np.inf)
    for k in range(len(costs)):
        alike = np.float32(int(one == k) + int(two == k) + int(three == k) + int(four == k))
        cost = costs[k, y, x] - prices[y, x] * alike
        if cost < least:
            best, least = k, cost
    return best


@compiled
def _four(y: int, x: int, height: int, width: int) -> tuple[tuple[int, int], ...]:
    """The four neighbours of a pixel; beyond the edge it is its own."""
    return (max(y - 1, 0), x), (min(y + 1, height - 1), x), (y, max(x - 1, 0)), (y, min(x + 1, width - 1))
