"""Greedy merging on a region adjacency graph of half-edges.

What kernels/adjacency.c computes, as plain Python: the reference that it is compared with."""

from __future__ import annotations

import heapq
from typing import NamedTuple

import numpy as np

from mild_compass.craft.kernels.adjacency import Order

NONE = -1
LEAST_SHAPES = 2


class Neighbours(NamedTuple):
    """The first half-edge in each region's list (n,); of each half-edge (2 m,) the region beyond, those after and
    before it, and its length; and room to work in (n,), NONE everywhere."""

    first: np.ndarray
    beyond: np.ndarray
    after: np.ndarray
    before: np.ndarray
    length: np.ndarray
    toward: np.ndarray


def neighbours_of(one, other, lengths, count):
    """The neighbours of so many shapes, from pairs (m,) that touch and how long their border is."""
    halves = 2 * len(one)
    beyond, after, before = np.empty(halves, np.int64), np.empty(halves, np.int64), np.empty(halves, np.int64)
    first = np.full(count, NONE, np.int64)
    for k in range(len(one) - 1, NONE, -1):
        for half, shape, there in ((2 * k, one[k], other[k]), (2 * k + 1, other[k], one[k])):
            beyond[half] = there
            _list(first, after, before, half, shape)
    return Neighbours(first, beyond, after, before, np.repeat(lengths, 2), np.full(count, NONE, np.int64))


def _list(first, after, before, half, shape):
    """Put a half at the front of a shape's list."""
    after[half], before[half] = first[shape], NONE
    if first[shape] != NONE:
        before[first[shape]] = half
    first[shape] = half


def _unlist(first, after, before, half, shape):
    if before[half] == NONE:
        first[shape] = after[half]
    else:
        after[before[half]] = after[half]
    if after[half] != NONE:
        before[after[half]] = before[half]


def join(shapes, gone, kept):
    """Let one shape be part of another: borders with the same neighbour become one."""
    first, beyond, after, before, length, toward = shapes
    _point(first, beyond, after, toward, kept, True)
    half = first[gone]
    while half != NONE:
        there, next_, known = beyond[half], after[half], toward[beyond[half]]
        if there == kept:
            _unlist(first, after, before, half ^ 1, kept)
        elif known != NONE:
            _unlist(first, after, before, half ^ 1, there)
            length[known] += length[half]
            length[known ^ 1] = length[known]
        else:
            beyond[half ^ 1] = kept
            _list(first, after, before, half, kept)
        half = next_
    first[gone] = toward[gone] = NONE
    _point(first, beyond, after, toward, kept, False)


def _point(first, beyond, after, toward, shape, there):
    """Note at each neighbour of a shape the half that leads there, or no more."""
    half = first[shape]
    while half != NONE:
        toward[beyond[half]] = half if there else NONE
        half = after[half]


def around(shapes, shape):
    """The halves in a shape's list."""
    first, _, after, _, _, _ = shapes
    count, half = 0, first[shape]
    while half != NONE:
        count, half = count + 1, after[half]
    found, half = np.empty(count, np.int64), first[shape]
    for k in range(count):
        found[k], half = half, after[half]
    return found


def owners_without_small(areas, values, one, other, lengths, smallest_px):
    """Which shape each shape ends up in."""
    owner, shapes = np.arange(len(areas)), neighbours_of(one, other, lengths, len(areas))
    queue = [(areas[k], k) for k in range(len(areas)) if areas[k] < smallest_px]
    heapq.heapify(queue)
    while queue:
        area, gone = heapq.heappop(queue)
        if owner[gone] != gone or area != areas[gone] or shapes.first[gone] == NONE:
            continue
        beside = shapes.beyond[around(shapes, gone)]
        kept = _taker(shapes, values, gone)
        # The grown shape will touch shapes of its own value, all of them neighbours of the small one: they are one.
        for each in np.append(beside[(values[beside] == values[kept]) & (beside != kept)], gone)[::-1]:
            join(shapes, each, kept)
            owner[each] = kept
            areas[kept] += areas[each]
        if areas[kept] < smallest_px:
            heapq.heappush(queue, (areas[kept], kept))
    for k in range(len(owner)):
        while owner[owner[k]] != owner[k]:
            owner[k] = owner[owner[k]]
    return owner


def _taker(shapes, values, gone):
    """The neighbour that shares most border with a shape; of equal ones the nearer value, then the darker."""
    kept, best = NONE, (0.0, 0, 0, 0)
    for half in around(shapes, gone):
        beyond = shapes.beyond[half]
        told = (-shapes.length[half], abs(values[beyond] - values[gone]), values[beyond], beyond)
        if kept == NONE or told < best:
            kept, best = beyond, told
    return kept


def merging_order(values, costs, sizes, one, other, lengths, shape_price):
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
    border[0] = sum(lengths.tolist())
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


def _note_beside(shapes, r, beside):
    """Put a shape and its neighbours into ``beside``: how many."""
    beyond, after = shapes.beyond, shapes.after
    beside[0], count, half = r, 1, shapes.first[r]
    while half != NONE:
        beside[count] = beyond[half]
        count, half = count + 1, after[half]
    return count


def _note_alike(shapes, values, r, value, alike):
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


def _best(shapes, values, costs, sizes, shape_price, r, age, saved, number):
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


def stops_of(forced, price, loss):
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
