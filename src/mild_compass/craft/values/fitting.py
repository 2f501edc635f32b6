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

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float32]
    Steps = NDArray[np.uint8]

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
    found, least = np.zeros(costs.shape[1:], np.uint8), np.empty_like(costs[0])
    for k, cost in enumerate(costs):
        _take_cheaper(found, least, k, cost)
    return found


def _dynamics(
    steps: Steps, costs: Array, price: float, weight: Array | None, rounds: tuple[tuple[float, int], ...]
) -> Steps:
    """Each pixel takes the value that is cheapest with what lies round it, blurred: again and again."""
    mine, near, others, least = (np.empty_like(costs[0]) for _ in range(4))
    scaled, steps, new = np.empty_like(costs), steps.copy(), np.empty_like(steps)
    last = len(costs) - 1
    for sigma, times in rounds:
        pull = np.float32(price * np.sqrt(2 * np.pi) / sigma)
        np.divide(costs, pull if weight is None else pull * weight, out=scaled)
        scaled[last] -= 1
        for _ in range(times):
            new.fill(0)
            others.fill(0)
            for k in range(last):
                np.copyto(mine, steps == k)
                _blur(mine, sigma, near)
                np.add(others, near, out=others)
                _take_cheaper(new, least, k, np.subtract(scaled[k], near, out=near))
            # What is of none of the others is of the last.
            _take_cheaper(new, least, last, np.add(scaled[last], others, out=near))
            moved = np.count_nonzero(new != steps) / steps.size
            steps, new = new, steps
            if moved < STILL:
                break
    return steps


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


def _take_cheaper(found: Steps, least: Array, k: int, cost: Array) -> None:
    """Value k where it costs less than the least so far, which becomes its cost there; of equal ones the darker."""
    if k:
        np.maximum(found, (cost < least).view(np.uint8) * np.uint8(k), out=found)
        np.minimum(least, cost, out=least)
    else:
        np.copyto(least, cost)


def _single_pixels(steps: Steps, costs: Array, price: float, weight: Array | None) -> Steps:
    """Every second pixel, as on a chessboard, takes what is cheapest beside its four neighbours, again and again until
    none would take another value than it has."""
    found = steps.copy()
    flat, each_cost = found.reshape(-1), costs.reshape(len(costs), -1)
    prices = np.full(steps.shape, price, np.float32) if weight is None else np.float32(price) * weight
    may_change = _unsettled(steps, costs, prices).reshape(-1)
    rows, columns = np.indices(steps.shape, np.int32)
    colour = ((rows + columns) % 2).reshape(-1).astype(bool)
    for turn in range(MOST_TURNS):  # pixels of one colour do not touch: they may change at once
        if not may_change.any():
            break
        mine = np.flatnonzero(may_change & (colour == bool(turn % 2)))
        beside = _beside(mine, steps.shape)
        values, pull = flat[beside], prices.reshape(-1)[mine]
        new, least = np.zeros(len(mine), np.uint8), np.empty(len(mine), np.float32)
        for k, cost in enumerate(each_cost):
            _take_cheaper(new, least, k, cost[mine] - pull * (values == k).sum(0, dtype=np.float32))
        moved = new != flat[mine]
        flat[mine] = new
        may_change[mine] = False
        may_change[beside[:, moved]] = True
    return found


def _unsettled(steps: Steps, costs: Array, prices: Array) -> NDArray[np.bool_]:
    """Pixels beside another value, or that would be another though all four neighbours are as they are."""
    found = np.zeros(steps.shape, bool)
    for one, two in ((np.s_[1:], np.s_[:-1]), (np.s_[:, 1:], np.s_[:, :-1])):
        other = steps[one] != steps[two]
        found[one] |= other
        found[two] |= other
    least = costs.min(0) + 4 * prices
    for k, cost in enumerate(costs):
        found |= (steps == k) & (cost >= least)
    return found


def _beside(places: NDArray[np.intp], shape: tuple[int, ...]) -> NDArray[np.intp]:
    """The four neighbours (4, n) of places in a picture laid out in one row; beyond its edge a place itself."""
    row, column = np.divmod(places, shape[1])
    steps = (
        np.where(row > 0, -shape[1], 0),
        np.where(row < shape[0] - 1, shape[1], 0),
        np.where(column > 0, -1, 0),
        np.where(column < shape[1] - 1, 1, 0),
    )
    return np.stack([places + step for step in steps])
