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
SWEEPS = 3
STILL = 3e-4  # of all pixels: so few changes end a round
LEAST_HALVED_PX = 160


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
    start = np.stack([cv2.GaussianBlur(each, (0, 0), FIRST_PX) for each in costs])
    if min(costs.shape[1:]) >= LEAST_HALVED_PX:
        half = (costs.shape[2] // 2, costs.shape[1] // 2)
        small = np.stack([_resized(each, half) for each in start])
        slim = None if weight is None else _resized(weight, half)
        # Half as large, a pixel of border is twice as long and a pixel's cost stands for four.
        halved = tuple((sigma / 2, times) for sigma, times in COARSE)
        rough = _dynamics(_cheapest(small), small, price / 2, slim, halved)
        whole = cv2.resize(rough, (costs.shape[2], costs.shape[1]), interpolation=cv2.INTER_NEAREST)
        steps = _dynamics(np.asarray(whole, np.uint8), costs, price, weight, FINE)
    else:
        steps = _dynamics(_cheapest(start), costs, price, weight, (*COARSE, *FINE))
    return _single_pixels(steps, costs, price, weight)


def _resized(values: Array, size: tuple[int, int]) -> Array:
    return np.asarray(cv2.resize(values, size, interpolation=cv2.INTER_AREA), np.float32)


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
    near, least = np.empty_like(costs[0]), np.empty_like(costs[0])
    for sigma, times in rounds:
        pull = np.float32(price * np.sqrt(2 * np.pi) / sigma)
        each_pull = pull if weight is None else pull * weight
        for _ in range(times):
            new = np.zeros_like(steps)
            for k in range(len(costs)):
                mine = (steps == k).astype(np.float32)
                cv2.GaussianBlur(mine, (0, 0), sigma, dst=near, borderType=cv2.BORDER_REFLECT)
                np.multiply(near, each_pull, out=near)
                np.subtract(costs[k], near, out=near)
                _take_cheaper(new, least, k, near)
            moved = float(np.count_nonzero(new != steps)) / steps.size
            steps = new
            if moved < STILL:
                break
    return steps


def _take_cheaper(found: Steps, least: Array, k: int, cost: Array) -> None:
    """Value k where it costs less than the least so far, which becomes its cost there; of equal ones the darker."""
    if k:
        np.copyto(found, np.uint8(k), where=cost < least)
        np.minimum(least, cost, out=least)
    else:
        np.copyto(least, cost)


def _single_pixels(steps: Steps, costs: Array, price: float, weight: Array | None) -> Steps:
    """Every second pixel, as on a chessboard, takes what is cheapest beside its four neighbours."""
    padded = np.pad(steps, 1, mode="edge")
    inner = padded[1:-1, 1:-1]
    for sweep in range(2 * SWEEPS):
        first = sweep % 2
        for row, column in ((0, first), (1, 1 - first)):  # pixels of one colour do not touch: they may change at once
            places = (slice(row, None, 2), slice(column, None, 2))
            mine = inner[places]
            if not mine.size:
                continue
            beside = [_shifted(padded, places, *way)[: mine.shape[0], : mine.shape[1]]
                      for way in ((0, 1), (2, 1), (1, 0), (1, 2))]  # fmt: skip
            each_price = np.float32(price) if weight is None else np.float32(price) * weight[places]
            found, least = np.zeros_like(mine), np.empty(mine.shape, np.float32)
            for k in range(len(costs)):
                same = np.zeros(mine.shape, np.uint8)
                for each in beside:
                    same += each == k
                _take_cheaper(found, least, k, costs[k][places] - each_price * same.astype(np.float32))
            mine[...] = found
        padded[0], padded[-1] = padded[1], padded[-2]
        padded[:, 0], padded[:, -1] = padded[:, 1], padded[:, -2]
    return inner.copy()


def _shifted(padded: Steps, places: tuple[slice, slice], down: int, across: int) -> Steps:
    """What lies so far on from places of the picture, which begins at (1, 1)."""
    return padded[places[0].start + down :: 2, places[1].start + across :: 2]
