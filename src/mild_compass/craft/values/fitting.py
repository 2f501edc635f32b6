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

from mild_compass.craft.compiled import compiled

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float32]
    Steps = NDArray[np.uint8]
    Places = NDArray[np.int64]
    Flags = NDArray[np.bool_]

FIRST_PX = 1.5  # what is finer than that is not seen at the beginning
COARSE, FINE = ((4.0, 8),), ((2.0, 6), (1.0, 5))  # how far border is looked at, px, and how often
STILL = 3e-4  # of all pixels: so few changes end a round
MOST_TURNS = 40  # where border is dearer here than there, two pixels might change over for ever
LEAST_HALVED_PX = 160
HALVED_FROM_PX = 2.0  # a wider blur is made from a picture half as large
VARIANCE_OF_HALVING = 0.25 + 0.625  # px²: what making it half as large, and large again, blurs by itself


def costs_of(lightness: Array, thresholds: tuple[float, ...], means: tuple[float, ...]) -> Array:
    """What each value (n, h, w) costs at each pixel: its squared difference, so that two values cost the same at the
    threshold between them."""
    found = [(lightness - np.float32(means[0])) ** 2]
    for k, mark in enumerate(thresholds):
        found.append(found[-1] + np.float32(2 * (means[k + 1] - means[k])) * (np.float32(mark) - lightness))
    return np.stack(found)


def fitted_steps(costs: Array, price: float, weight: Array | None = None) -> Steps:
    """The value of each pixel (h, w) for costs (n, h, w) and a price for each pixel of border, ``weight`` (h, w) times
    that in places."""
    size = (costs.shape[2], costs.shape[1])
    if min(size) >= LEAST_HALVED_PX:
        half = (size[0] // 2, size[1] // 2)
        small = np.stack([_soft(_resized(each, half), FIRST_PX / 2) for each in costs])
        slim = None if weight is None else _resized(weight, half)
        # Half as large, a pixel of border is twice as long and a pixel's cost stands for four.
        halved = tuple((sigma / 2, times) for sigma, times in COARSE)
        rough = _dynamics(_cheapest(small), small, price / 2, slim, halved)
        whole = cv2.resize(rough, size, interpolation=cv2.INTER_NEAREST)
        steps = _dynamics(np.asarray(whole, np.uint8), costs, price, weight, FINE)
    else:
        start = _cheapest(np.stack([_soft(each, FIRST_PX) for each in costs]))
        steps = _dynamics(start, costs, price, weight, (*COARSE, *FINE))
    return _single_pixels(steps, costs, price, weight)


def _resized(values: Array, size: tuple[int, int]) -> Array:
    return np.asarray(cv2.resize(values, size, interpolation=cv2.INTER_AREA), np.float32)


def _soft(values: Array, sigma: float) -> Array:
    return np.asarray(cv2.GaussianBlur(values, (0, 0), sigma))


def _cheapest(costs: Array) -> Steps:
    """Which value costs least at each pixel, the darker of equal ones."""
    return np.asarray(costs.argmin(0), np.uint8)


def _dynamics(
    steps: Steps, costs: Array, price: float, weight: Array | None, rounds: tuple[tuple[float, int], ...]
) -> Steps:
    """Each pixel takes the value that is cheapest with what lies round it, blurred: again and again."""
    steps, last = steps.copy(), len(costs) - 1
    mine = np.empty_like(costs[:last])
    for k, each in enumerate(mine):
        np.equal(steps, k, out=each)
    near, scaled = np.empty_like(mine), np.empty_like(costs)
    for sigma, times in rounds:
        pull = np.float32(price * np.sqrt(2 * np.pi) / sigma)
        np.divide(costs, pull if weight is None else pull * weight, out=scaled)
        scaled[last] -= 1
        for _ in range(times):
            for each, blurred in zip(mine, near, strict=True):
                _blur(each, sigma, blurred)
            if _moved(steps, mine, scaled, near) < STILL * steps.size:
                break
    return steps


@compiled
def _moved(steps: Steps, mine: Array, scaled: Array, near: Array) -> int:
    """Give each pixel the value whose cost (n, h, w), less what lies near of it, is least, the darker of equal ones:
    how many change. ``mine`` and ``near`` (n - 1, h, w) are where each value is and that blurred, for all but the last,
    of which there is what the others leave."""
    last, width, moved = len(mine), steps.shape[1], 0
    best, least, others = np.empty(width, np.uint8), np.empty(width, np.float32), np.empty(width, np.float32)
    for y in range(len(steps)):
        best[:], least[:], others[:] = 0, np.inf, 0
        for k in range(last):
            for x in range(width):
                cost = scaled[k, y, x] - near[k, y, x]
                best[x] = k if cost < least[x] else best[x]
                least[x] = min(least[x], cost)
                others[x] += near[k, y, x]
        for x in range(width):
            best[x] = last if scaled[last, y, x] + others[x] < least[x] else best[x]
        for x in range(width):
            was, now = steps[y, x], best[x]
            if was == now:
                continue
            steps[y, x] = now
            moved += 1
            if was < last:
                mine[was, y, x] = 0
            if now < last:
                mine[now, y, x] = 1
    return moved


def _blur(values: Array, sigma: float, into: Array) -> None:
    """Values (h, w) blurred by a Gaussian; a wide one is near enough on half as many pixels each way."""
    if sigma < HALVED_FROM_PX or min(values.shape) < LEAST_HALVED_PX:
        cv2.GaussianBlur(values, (0, 0), sigma, dst=into, borderType=cv2.BORDER_REFLECT)
        return
    height, width = values.shape
    small = _resized(values, (width // 2, height // 2))
    rest = float(np.sqrt(sigma**2 - VARIANCE_OF_HALVING)) / 2
    cv2.GaussianBlur(small, (0, 0), rest, dst=small, borderType=cv2.BORDER_REFLECT)
    cv2.resize(small, (width, height), dst=into, interpolation=cv2.INTER_LINEAR)


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
    numbers = np.zeros(2, np.int64)
    mine, least = np.empty(width, np.float32), np.empty(width, np.float32)
    for y in range(height):
        least[:] = np.inf
        for k in range(len(costs)):
            for x in range(width):
                mine[x] = costs[k, y, x] if steps[y, x] == k else mine[x]
                least[x] = min(least[x], costs[k, y, x])
        above, below = steps[max(y - 1, 0)], steps[min(y + 1, height - 1)]
        for x in range(width):
            here = steps[y, x]
            alone = steps[y, max(x - 1, 0)] != here or steps[y, min(x + 1, width - 1)] != here
            if alone or above[x] != here or below[x] != here or mine[x] >= least[x] + np.float32(4) * prices[y, x]:
                colour = (y + x) % 2
                lists[colour, numbers[colour]] = y * width + x
                listed[y, x] = True
                numbers[colour] += 1
    return numbers


@compiled
def _cheapest_beside(steps: Steps, costs: Array, prices: Array, y: int, x: int) -> int:
    """The value that costs a pixel least, its four neighbours being as they are; the darker of equal ones."""
    (a, i), (b, j), (c, m), (d, n) = _four(y, x, *steps.shape)
    one, two, three, four = steps[a, i], steps[b, j], steps[c, m], steps[d, n]
    best, least = 0, np.float32(np.inf)
    for k in range(len(costs)):
        alike = np.float32((one == k) + (two == k) + (three == k) + (four == k))
        cost = costs[k, y, x] - prices[y, x] * alike
        if cost < least:
            best, least = k, cost
    return best


@compiled
def _four(y: int, x: int, height: int, width: int) -> tuple[tuple[int, int], ...]:
    """The four neighbours of a pixel; beyond the edge it is its own."""
    return (max(y - 1, 0), x), (min(y + 1, height - 1), x), (y, max(x - 1, 0)), (y, min(x + 1, width - 1))
