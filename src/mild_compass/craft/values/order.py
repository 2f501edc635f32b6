"""The order in which shapes merge, each time that which costs the least fit for the border it saves.

Region merging under the piecewise constant model (G. Koepfler, C. Lopez, J.-M. Morel, SIAM J. Numer. Anal. 31, 1994).
"""

from __future__ import annotations

import heapq
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from mild_compass.craft.compiled import compiled
from mild_compass.craft.values.neighbours import NONE, join, neighbours_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.values.neighbours import Neighbours

    Array = NDArray[np.float64]
    Flags = NDArray[np.bool_]
    Numbers = NDArray[np.int64]

LEAST_SHAPES = 2


class Order(NamedTuple):
    """The steps (n,) of a merging: the shape that takes a value, and which; each shape that is joined (j,) and the one
    it goes to; and from before the first step (n + 1,) how many are joined, whether one was forced, its price, the loss
    and the border."""

    moved: Numbers
    to: Numbers
    gone: Numbers
    taker: Numbers
    joined: Numbers
    forced: Flags
    price: Array
    loss: Array
    border: Array


@compiled
def merging_order(
    values: Numbers, costs: Array, sizes: Array, one: Numbers, other: Numbers, lengths: Array, shape_price: float
) -> Order:
    """Merge shapes (n,) with their costs (n, k) at each value, their sizes in those of the smallest, and the pairs (m,)
    that touch with the lengths of their borders."""
    count = len(values)
    shapes, owner, age = neighbours_of(one, other, lengths, count), np.arange(count), np.zeros(count, np.int64)
    moved, to, gone, taker = (
        np.empty(count, np.int64),
        np.empty(count, np.int64),
        np.empty(count, np.int64),
        np.empty(count, np.int64),
    )
    joined, forced = np.zeros(count + 1, np.int64), np.zeros(count + 1, np.bool_)
    price, loss, border = np.zeros(count + 1), np.zeros(count + 1), np.zeros(count + 1)
    for r in range(count):
        loss[0] += costs[r, values[r]]
    border[0] = lengths.sum()
    saved, number = np.empty(costs.shape[1]), np.empty(costs.shape[1])  # room to work in, as are these
    beside, alike = np.empty(count, np.int64), np.empty(count, np.int64)
    queue = [_best(shapes, values, costs, sizes, shape_price, r, 0, saved, number) for r in range(count)]
    heapq.heapify(queue)
    k, left = 0, 0
    while queue and count - left > LEAST_SHAPES:
        may_stay, ratio, _, value, r, then = heapq.heappop(queue)
        if owner[r] != r or then != age[r] or value == NONE:
            continue
        many, long = _note_alike(shapes, values, r, value, alike)
        if count - left - many < LEAST_SHAPES:
            continue
        moved[k], to[k], forced[k + 1] = r, value, not may_stay
        price[k + 1] = max(price[k], ratio) if may_stay else price[k]
        loss[k + 1] = loss[k] + (costs[r, value] - costs[r, values[r]])
        border[k + 1] = border[k] - long
        values[r] = value
        touched = _note_beside(shapes, r, beside)
        for each in alike[:many]:
            join(shapes, each, r)
            sizes[r] += sizes[each]
            for n in range(costs.shape[1]):
                costs[r, n] += costs[each, n]
            owner[each], gone[left], taker[left], left = r, each, r, left + 1
        k += 1
        joined[k] = left
        if many > 1:  # who touched two of them now touches one
            touched = _note_beside(shapes, r, beside)
        for each in beside[:touched]:  # for all others it is as it was
            if owner[each] == each:
                age[each] += 1
                heapq.heappush(queue, _best(shapes, values, costs, sizes, shape_price, each, age[each], saved, number))
    return Order(
        moved[:k],
        to[:k],
        gone[:left],
        taker[:left],
        joined[: k + 1],
        forced[: k + 1],
        price[: k + 1],
        loss[: k + 1],
        border[: k + 1],
    )


@compiled
def _note_beside(shapes: Neighbours, r: int, beside: Numbers) -> int:
    """Put a shape and its neighbours into ``beside``: how many."""
    beyond, after = shapes.beyond, shapes.after
    beside[0], count, half = r, 1, shapes.first[r]
    while half != NONE:
        beside[count] = beyond[half]
        count, half = count + 1, after[half]
    return count


@compiled
def _note_alike(shapes: Neighbours, values: Numbers, r: int, value: int, alike: Numbers) -> tuple[int, float]:
    """Put the neighbours of a shape that have a value into ``alike``, in order: how many, and how long their border
    with it is."""
    beyond, after, length = shapes.beyond, shapes.after, shapes.length
    count, long, half = 0, 0.0, shapes.first[r]
    while half != NONE:
        if values[beyond[half]] == value:
            alike[count] = beyond[half]
            count, long = count + 1, long + length[half]
        half = after[half]
    alike[:count].sort()
    return count, long


@compiled
def _best(
    shapes: Neighbours,
    values: Numbers,
    costs: Array,
    sizes: Array,
    shape_price: float,
    r: int,
    age: int,
    saved: Array,
    number: Array,
) -> tuple[int, float, float, int, int, int]:
    """The cheapest value of a neighbour for a shape: whether it may stay, the price, its size, the value; NONE where it
    has no neighbours. There is room (k,) to add up what would be ``saved`` and the ``number`` of neighbours."""
    beyond, after, length = shapes.beyond, shapes.after, shapes.length
    for value in range(costs.shape[1]):
        saved[value] = number[value] = 0
    half = shapes.first[r]
    while half != NONE:
        value = values[beyond[half]]
        saved[value] += length[half]
        number[value] += 1
        half = after[half]
    may_stay, best, least = int(sizes[r] >= 1), NONE, np.inf
    for value in range(costs.shape[1]):
        if number[value]:
            price = (costs[r, value] - costs[r, values[r]]) / (saved[value] + shape_price * number[value])
            if best == NONE or price < least:
                best, least = value, price
    return may_stay, least, sizes[r], best, r, age


@compiled
def stops_of(forced: Flags, price: Array, loss: Array) -> Numbers:
    """The steps after which one may stand: not before what is forced away, and a step that gains fit goes with the one
    before it."""
    kept = np.empty(len(forced), np.int64)
    count = 0
    for k in range(len(forced)):
        while count and (forced[k] or loss[k] < loss[kept[count - 1]] or price[k] <= price[kept[count - 1]]):
            count -= 1
        kept[count] = k
        count += 1
    return kept[:count]
