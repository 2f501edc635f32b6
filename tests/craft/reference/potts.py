"""Thresholds and checkerboard ICM sweeps on a Potts energy.

What kernels/potts.c computes, as plain Python: the reference that it is compared with."""

from __future__ import annotations

import numpy as np

NO_VALUE = 7


def reached(lightness, marks):
    found = np.zeros(lightness.shape, np.uint8)
    for y in range(lightness.shape[0]):
        for k in range(len(marks)):
            for x in range(lightness.shape[1]):
                found[y, x] += np.uint8(lightness[y, x] >= marks[k])
    return found


def descended(steps, lightness, marks, rises, prices, most):
    """On a map with a rim of no value all round, its pixels numbered row after row."""
    height, width = steps.shape
    rimmed, wide = np.full((height + 2, width + 2), NO_VALUE, np.uint8), width + 2
    rimmed[1:-1, 1:-1] = steps
    values, light, dear = rimmed.ravel(), _rimmed(lightness), _rimmed(prices) if prices.size > 1 else prices.ravel()
    lists = np.empty((2, values.size), np.int32)  # of the pixels of either colour that may change
    listed = np.zeros(values.size, np.bool_)
    numbers = _list_borders(rimmed, lists, listed)
    for turn in range(most):  # pixels of one colour do not touch: they may change at once
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


def _rimmed(picture):
    """A picture with a rim round it, row after row."""
    found = np.zeros((picture.shape[0] + 2, picture.shape[1] + 2), np.float32)
    found[1:-1, 1:-1] = picture
    return found.ravel()


def _list_borders(rimmed, lists, listed):
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


def _differ(one, other):
    return bool(one != other) & bool(other != NO_VALUE)


def _cheapest(values, light, dear, marks, rises, places, wide):
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


def _beside(values, light, dear, places, wide):
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
