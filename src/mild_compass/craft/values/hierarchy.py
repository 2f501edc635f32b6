"""Shapes that merge in a fixed nested order, from crumbs to two: a picture made simpler step by step.

Each step gives one shape the value of a neighbour, where that costs the least fit for the border it saves (region
merging under the piecewise constant model: G. Koepfler, C. Lopez, J.-M. Morel, SIAM J. Numer. Anal. 31, 1994). Ties
go to the smaller shape, then to the one that begins first, then to the darker value: it is deterministic.
"""

from __future__ import annotations

import heapq
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.values.fitting import costs_of, fitted_steps
from mild_compass.craft.values.merging import Labels, shapes_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Lightness = NDArray[np.float32]
    Steps = NDArray[np.uint8]
    Stop = tuple[int, float, float, float, int]  # steps, price, loss, border, shapes

BASE_PRICE = 1.75  # of a pixel of border, in variances of the picture: where the borders are fitted
CRUMB_PRICE = 0.35  # the same for what is let in besides
PRICE_OF_A_SHAPE = 25.0  # in pixels of border, on a picture of 600: one shape less is worth something by itself
EVEN = 50.0  # how simple a picture is at the price its borders were fitted for
DOUBLED_EVERY = 8.0  # steps of simplicity
SIMPLEST = 100.0
LEAST_SHAPES = 2
_BESIDE = ThreadPoolExecutor(1, "fitting")  # kept: a new thread's memory is slow at first


@dataclass(frozen=True, eq=False, slots=True)
class Hierarchy:
    """Nested shapes of a picture.

    ``labels`` (h, w) numbers the crumbs; ``values`` (n,) are theirs at the beginning. Step k gives the shape of crumb
    ``moved[k]`` the value ``to[k]`` and joins it with the shapes of ``joined[k]``. The arrays of stops tell where one
    may stand: how many steps that is, its price in variances, the loss of fit (L*² · px), the border (px) and the
    shapes that are left; loss and border are monotone.
    """

    labels: Labels
    values: NDArray[np.uint8]
    moved: tuple[int, ...]
    to: tuple[int, ...]
    joined: tuple[tuple[int, ...], ...]
    stop_steps: NDArray[np.int64]
    prices: Array
    losses: Array
    borders: Array
    counts: NDArray[np.int64]

    def stop_at(self, simple: float) -> int:
        """The stop for so much simplicity, 0 to 100; at 100 as few shapes as there can be."""
        if simple >= SIMPLEST:
            return len(self.stop_steps) - 1
        return max(0, int(np.searchsorted(self.prices, price_at(simple), side="right")) - 1)

    def steps_at(self, stop: int) -> Steps:
        """The value of each pixel (h, w) at a stop."""
        values, owner = self.values.copy(), np.arange(len(self.values))
        for k in range(int(self.stop_steps[stop])):
            values[self.moved[k]] = self.to[k]
            for each in self.joined[k]:
                owner[each] = self.moved[k]
        while True:
            further = owner[owner]
            if (further == owner).all():
                break
            owner = further
        return np.asarray(values[owner][self.labels], np.uint8)


def price_at(simple: float) -> float:
    """The price of border, in variances, for so much simplicity."""
    return float(BASE_PRICE * 2 ** ((simple - EVEN) / DOUBLED_EVERY))


def hierarchy_of(
    lightness: Lightness,
    thresholds: tuple[float, ...],
    means: tuple[float, ...],
    smallest_px: float,
    weight: Lightness | None = None,
) -> Hierarchy:
    """Nested shapes of L* values (h, w), parted by thresholds into values with these means.

    ``weight`` (h, w) makes border dearer (over 1) or cheaper in places, and shapes that may stay larger or smaller.
    """
    variance = max(float(lightness.var()), 1.0)
    costs = costs_of(lightness, thresholds, means)
    # NumPy and OpenCV let go of the interpreter: the two are made at the same time.
    beside = _BESIDE.submit(fitted_steps, costs, CRUMB_PRICE * variance, weight)
    base = fitted_steps(costs, BASE_PRICE * variance, weight)
    crumbs = beside.result()
    steps = with_islands(base, crumbs, smallest_px, weight)
    return _Merging(steps, costs, smallest_px, weight, variance).run()


def with_islands(base: Steps, crumbs: Steps, smallest_px: float, weight: Lightness | None) -> Steps:
    """A fitted picture with the crumbs let in that touch nothing of their own value: so they can vanish again without
    moving any other border."""
    other = np.where(crumbs != base, crumbs + 1, 0).astype(np.uint8)
    labels, values = shapes_of(other)
    if len(values) < 2:
        return base
    areas = np.bincount(labels.ravel(), minlength=len(values))
    least = np.full(len(values), smallest_px)
    if weight is not None:
        least = least * np.bincount(labels.ravel(), weight.ravel(), minlength=len(values)) / np.maximum(areas, 1)
    fine = (values > 0) & (areas >= least)
    touching = np.zeros(len(values), bool)
    for here, there in ((np.s_[:, :-1], np.s_[:, 1:]), (np.s_[:-1], np.s_[1:])):
        for one, two in ((here, there), (there, here)):
            # A crumb beside a pixel of its own value that is not part of it: of the base, or another crumb's.
            apart = labels[one] != labels[two]
            now = np.where(other[two] > 0, crumbs[two], base[two])
            same = apart & (other[one] > 0) & ((now == crumbs[one]) | (base[two] == crumbs[one]))
            touching[labels[one][same]] = True
    kept = (fine & ~touching)[labels]
    return np.where(kept, crumbs, base).astype(np.uint8)


class _Merging:
    """The merging itself: shapes with their costs at each value and the border they share with each neighbour."""

    def __init__(
        self, steps: Steps, costs: NDArray[np.float32], smallest_px: float, weight: Lightness | None, variance: float
    ) -> None:
        self.labels, values = shapes_of(steps)
        count = len(values)
        flat = self.labels.ravel()
        self.first = values.astype(np.uint8)
        self.values: list[int] = values.tolist()
        areas = np.bincount(flat, minlength=count).astype(np.float64)
        each = [np.bincount(flat, cost.ravel().astype(np.float64), minlength=count) for cost in costs]
        self.costs: list[list[float]] = np.stack(each, 1).tolist()
        if weight is None:
            self.sizes = (areas / max(smallest_px, 1e-9)).tolist()
        else:
            heavy = np.bincount(flat, weight.ravel().astype(np.float64), minlength=count)
            self.sizes = (areas**2 / np.maximum(heavy, 1e-9) / max(smallest_px, 1e-9)).tolist()
        self.beside = _shared(self.labels, weight, count)
        self.variance = variance
        self.shape_price = PRICE_OF_A_SHAPE * max(steps.shape) / 600
        self.owner = list(range(count))
        self.age = [0] * count

    def run(self) -> Hierarchy:
        queue = [(*best, r, 0) for r in range(len(self.values)) if (best := self._best(r)) is not None]
        heapq.heapify(queue)
        moved: list[int] = []
        to: list[int] = []
        joined: list[tuple[int, ...]] = []
        loss = sum(self.costs[r][v] for r, v in enumerate(self.values))
        border, price, alive = sum(sum(each.values()) for each in self.beside) / 2, 0.0, len(self.values)
        stops: list[Stop] = [(0, 0.0, loss, border, alive)]
        while queue and alive > LEAST_SHAPES:
            rank, ratio, _, value, r, age = heapq.heappop(queue)
            if self.owner[r] != r or age != self.age[r]:
                continue
            if alive - sum(self.values[other] == value for other in self.beside[r]) < LEAST_SHAPES:
                continue
            gain, with_, saved = self._move(r, value)
            loss, border, alive = loss + gain, border - saved, alive - len(with_)
            price = max(price, ratio / self.variance if rank else 0.0)
            moved.append(r)
            to.append(value)
            joined.append(with_)
            step = (len(moved), price, loss, border, alive)
            # What is forced away comes before all stops; a step that gains fit goes with the one before it.
            while stops and (not rank or loss < stops[-1][2] or price <= stops[-1][1]):
                stops.pop()
            stops.append(step)
            for other in (r, *self.beside[r]):
                self.age[other] += 1
                best = self._best(other)
                if best is not None:
                    heapq.heappush(queue, (*best, other, self.age[other]))
        return self._told(moved, to, joined, stops)

    def _told(self, moved: list[int], to: list[int], joined: list[tuple[int, ...]], stops: list[Stop]) -> Hierarchy:
        numbers, prices, losses, borders, counts = (np.array(each) for each in zip(*stops, strict=True))
        return Hierarchy(
            *(self.labels, self.first, tuple(moved), tuple(to), tuple(joined)),
            *(numbers.astype(np.int64), prices, losses, borders, counts.astype(np.int64)),
        )

    def _best(self, r: int) -> tuple[int, float, float, int] | None:
        """The cheapest value of a neighbour for a shape: whether it may stay, the price, its size, the value."""
        saved: dict[int, float] = {}
        number: dict[int, int] = {}
        for other, length in self.beside[r].items():
            value = self.values[other]
            saved[value] = saved.get(value, 0.0) + length
            number[value] = number.get(value, 0) + 1
        mine, may_stay = self.costs[r], int(self.sizes[r] >= 1)
        here = mine[self.values[r]]
        found = None
        for value, length in saved.items():
            loss = mine[value] - here
            told = (may_stay, loss / (length + self.shape_price * number[value]), self.sizes[r], value)
            if found is None or told < found:
                found = told
        return found

    def _move(self, r: int, value: int) -> tuple[float, tuple[int, ...], float]:
        """Give a shape a value and join it with its neighbours of that value: loss, those joined, border saved."""
        loss = self.costs[r][value] - self.costs[r][self.values[r]]
        with_ = tuple(sorted(other for other in self.beside[r] if self.values[other] == value))
        saved = sum(self.beside[r][other] for other in with_)
        self.values[r] = value
        for other in with_:
            self.owner[other] = r
            self.sizes[r] += self.sizes[other]
            self.costs[r] = [a + b for a, b in zip(self.costs[r], self.costs[other], strict=True)]
            del self.beside[r][other]
            for further, length in self.beside[other].items():
                if further != r:
                    del self.beside[further][other]
                    self.beside[r][further] = self.beside[r].get(further, 0.0) + length
                    self.beside[further][r] = self.beside[r][further]
            self.beside[other] = {}
        return loss, with_, saved


def _shared(labels: Labels, weight: Lightness | None, count: int) -> list[dict[int, float]]:
    """For each shape the border it shares with each neighbour, in pixel sides, weighted."""
    codes, lengths = [], []
    for here, there in ((np.s_[:, :-1], np.s_[:, 1:]), (np.s_[:-1], np.s_[1:])):
        apart = labels[here] != labels[there]
        a, b = labels[here][apart].astype(np.int64), labels[there][apart].astype(np.int64)
        codes.append(np.minimum(a, b) * count + np.maximum(a, b))
        both = np.ones(len(a)) if weight is None else (weight[here][apart] + weight[there][apart]) / 2
        lengths.append(both)
    code, number = np.unique(np.concatenate(codes), return_inverse=True)
    length = np.bincount(number, np.concatenate(lengths), minlength=len(code))
    beside: list[dict[int, float]] = [{} for _ in range(count)]
    for i, j, each in zip((code // count).tolist(), (code % count).tolist(), length.tolist(), strict=True):
        beside[i][j] = each
        beside[j][i] = each
    return beside
