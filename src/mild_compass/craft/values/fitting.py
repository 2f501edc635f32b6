"""A picture fitted by a few flat values with a price on every border between them.

The piecewise constant model of D. Mumford & J. Shah, Comm. Pure Appl. Math. 42, 1989, its values given: the sum of
squared differences plus so much for each pixel of border is made small by threshold dynamics (B. Merriman, J. Bence,
S. Osher, J. Comp. Phys. 112, 1994; with a fit as S. Esedoglu & Y.-H. Tsai, J. Comp. Phys. 211, 2006), from coarse to
fine, and by single pixels at the end (J. Besag, J. Royal Stat. Soc. B 48, 1986).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.checkpoint import checkpoint
from mild_compass.craft.compiled import compiled

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float32]
    Steps = NDArray[np.uint8]
    Places = NDArray[np.int64]
    Flags = NDArray[np.bool_]

FIRST_PX = 1.5  # what is finer than that is not seen at the beginning
# How far border is looked at, px, and how often: first on a picture half as large, then for base and for crumbs.
COARSE, BASE, CRUMBS = (4.0, 8), (1.8, 6), (2.8, 6)
STILL = 3e-4  # of all pixels: so few changes end a round
MANY = 0.012  # of all pixels: after so many changes all is blurred anew
MOST_TURNS = 40  # where border is dearer here than there, two pixels might change over for ever
REACH = 4  # of its spread, how far a blur goes


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


def fitted_steps(costs: Array, price: float, weight: Array | None = None) -> Steps:
    """The value of each pixel (h, w) for costs (n, h, w) and a price for each pixel of border, ``weight`` (h, w) times
    that in places."""
    small = _halved(costs)
    soft = np.stack([np.asarray(cv2.GaussianBlur(each, (0, 0), FIRST_PX / 2)) for each in small])
    rough = _fitted_small(_cheapest(soft), soft, price, weight, COARSE)
    checkpoint()
    steps = _dynamics(_large(rough, costs), costs, price, weight, BASE)
    checkpoint()
    return _single_pixels(steps, costs, price, weight)


def fitted_crumbs(base: Steps, costs: Array, price: float, weight: Array | None = None) -> Steps:
    """The same from what was fitted at a higher price, at a lower one: what is small comes in besides."""
    small = _halved(costs)
    start = cv2.resize(base, small.shape[:0:-1], interpolation=cv2.INTER_NEAREST)
    fine = _fitted_small(np.asarray(start, np.uint8), small, price, weight, CRUMBS)
    checkpoint()
    return _single_pixels(_large(fine, costs), costs, price, weight)


def _halved(costs: Array) -> Array:
    """Pictures (n, h, w) half as large, but at least one pixel."""
    size = (max(1, costs.shape[2] // 2), max(1, costs.shape[1] // 2))
    return np.stack([_resized(each, size) for each in costs])


def _fitted_small(start: Steps, small: Array, price: float, weight: Array | None, rounds: tuple[float, int]) -> Steps:
    """Half as large, a pixel of border is twice as long and a pixel's cost stands for four."""
    slim = None if weight is None else _resized(weight, (start.shape[1], start.shape[0]))
    return _dynamics(start, small, price / 2, slim, (rounds[0] / 2, rounds[1]))


def _large(steps: Steps, costs: Array) -> Steps:
    return np.asarray(cv2.resize(steps, costs.shape[:0:-1], interpolation=cv2.INTER_NEAREST), np.uint8)


def _resized(values: Array, size: tuple[int, int]) -> Array:
    return np.asarray(cv2.resize(values, size, interpolation=cv2.INTER_AREA), np.float32)


@compiled
def _cheapest(costs: Array) -> Steps:
    """Which value costs least at each pixel, the darker of equal ones."""
    _, height, width = costs.shape
    found = np.zeros((height, width), np.uint8)
    for k in range(1, len(costs)):
        for y in range(height):
            for x in range(width):
                if costs[k, y, x] < costs[found[y, x], y, x]:
                    found[y, x] = k
    return found


def _dynamics(start: Steps, costs: Array, price: float, weight: Array | None, rounds: tuple[float, int]) -> Steps:
    """Each pixel takes the value that is cheapest with what lies round it, blurred: again and again."""
    sigma, times = rounds
    steps, left, near = start.copy(), np.empty_like(costs[1:]), np.empty_like(costs[1:])
    places, values = np.empty((start.size, 2), np.int64), np.empty(start.size, np.uint8)
    ease = np.ones((1, 1), np.float32) if weight is None else np.float32(1) / weight
    bell = cv2.getGaussianKernel(2 * round(REACH * sigma) + 1, sigma, cv2.CV_32F)
    square, blurred = np.asarray(bell @ bell.T, np.float32), False
    for _ in range(times):
        if not blurred:
            for k, each in enumerate(near):
                mine = (steps == k).astype(np.float32)
                cv2.sepFilter2D(mine, -1, bell, bell, dst=each, borderType=cv2.BORDER_REFLECT)
            _lay(left, costs, float(sigma / (price * np.sqrt(2 * np.pi))), ease, near)
        moved = _decided(steps, left, places, values)
        blurred = moved < MANY * steps.size
        _take(steps, left, places[:moved], values, square, blurred)
        if moved < STILL * steps.size:
            break
    return steps


@compiled
def _lay(left: Array, costs: Array, share: float, ease: Array, near: Array) -> None:
    """Put into ``left`` (n - 1, h, w) by how much each value but the last is dearer than the last: a share of what each
    costs (n, h, w), less of it where border is dear, without what lies near of it (n - 1, h, w). Of the last value lies
    near what is of no other."""
    last, height, width = near.shape
    others = np.empty(width, np.float32)
    for y in range(height):
        others[:] = np.float32(1)
        for k in range(last):
            for x in range(width):
                others[x] -= near[k, y, x]
        for k in range(last):
            for x in range(width):
                left[k, y, x] = (costs[k, y, x] - costs[last, y, x]) * np.float32(share)
            if ease.size > 1:
                for x in range(width):
                    left[k, y, x] *= ease[y, x]
            for x in range(width):
                left[k, y, x] += others[x] - near[k, y, x]


@compiled
def _decided(steps: Steps, left: Array, places: Places, values: Steps) -> int:
    """Note which pixels take another value, that of which least cost is left, the darker of equal ones: how many."""
    last, height, width = left.shape
    best, least, moved = np.empty(width, np.uint8), np.empty(width, np.float32), 0
    for y in range(height):
        best[:], least[:] = last, 0
        for k in range(last - 1, -1, -1):
            for x in range(width):
                cost = left[k, y, x]
                best[x] = k if cost <= least[x] else best[x]
                least[x] = min(least[x], cost)
        for x in range(width):
            if best[x] != steps[y, x]:
                places[moved, 0], places[moved, 1], values[moved] = y, x, best[x]
                moved += 1
    return moved


@compiled
def _take(steps: Steps, left: Array, places: Places, values: Steps, square: Array, spread: bool) -> None:
    """Give pixels their new values; that is ``spread`` as the ``square`` says to those round them."""
    more = -square
    for each in range(len(places)):
        (y, x), value = places[each], values[each]
        if spread:
            _count(left, steps[y, x], y, x, square, more)
            _count(left, value, y, x, more, square)
        steps[y, x] = value


@compiled
def _count(left: Array, value: int, y: int, x: int, square: Array, contrary: Array) -> None:
    """Add a square to what is left of a value's cost; the last value's is what the others' are told from."""
    if value < len(left):
        _spread(left[value], y, x, square)
    else:
        for k in range(len(left)):
            _spread(left[k], y, x, contrary)


@compiled
def _spread(left: Array, y: int, x: int, square: Array) -> None:
    """Add a square round a pixel; at the picture's edge it is seen as in a mirror."""
    height, width = left.shape
    reach = len(square) // 2
    for middle_y in (y, -1 - y, 2 * height - 1 - y):
        for middle_x in (x, -1 - x, 2 * width - 1 - x):
            top, start = max(middle_y - reach, 0), max(middle_x - reach, 0)
            high, wide = min(middle_y + reach + 1, height) - top, min(middle_x + reach + 1, width) - start
            if high <= 0 or wide <= 0:
                continue
            from_y, from_x = np.uintp(top - middle_y + reach), np.uintp(start - middle_x + reach)
            top, start = np.uintp(top), np.uintp(start)  # of numbers without a sign: so it is fast
            for v in range(np.uintp(high)):
                for u in range(np.uintp(wide)):
                    left[top + v, start + u] += square[from_y + v, from_x + u]


def _single_pixels(steps: Steps, costs: Array, price: float, weight: Array | None) -> Steps:
    """Every second pixel, as on a chessboard, takes what is cheapest beside its four neighbours, again and again until
    none would take another value than it has."""
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
