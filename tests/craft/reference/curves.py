"""Chains of crack edges as curves.

What kernels/curves.c computes, as plain Python: the reference that it is compared with."""

from __future__ import annotations

import math

import numpy as np


def corners(places, first, ends, closed, looks, limits):
    """Places before which two straight lines meet that turn: which, by how many degrees, how far off straight the one
    behind is, and the lines behind and ahead, each a place and a way (n, 4)."""
    (long, short, skipped), (most_miss, most_cos, sharpness) = looks, limits
    which, turns, misses = np.empty(len(places), np.int64), np.empty(len(places)), np.empty(len(places))
    back, on, count = np.empty((len(places), 4)), np.empty((len(places), 4)), 0
    reach = long + skipped
    for run in range(len(closed)):
        spots = _padded(places[first[run] : first[run + 1]], ends[run], closed[run], reach)
        size = first[run + 1] - first[run]
        lines, shorter = _lines(spots, long), _lines(spots, short)
        for k in range(size):
            if not closed[run] and not reach <= k <= size - reach:
                continue
            far = k + reach + skipped
            straight = max(lines[4, k], lines[4, far]) < most_miss
            if not straight or lines[2, k] * lines[2, far] + lines[3, k] * lines[3, far] >= most_cos:
                continue
            turn = _angle(lines[:, k], lines[:, far])
            if _angle(shorter[:, k + long - short], shorter[:, far]) > sharpness * turn:
                which[count], turns[count], misses[count] = first[run] + k, turn, lines[4, k]
                back[count], on[count] = lines[:4, k], lines[:4, far]
                count += 1
    return which[:count], turns[:count], misses[:count], back[:count], on[:count]


def _lines(spots, long):
    """Lines (5, n) fitted to so many spots (2, ..) from each on: middle, unit way, and how far off it they are."""
    count = spots.shape[1] - long + 1
    x, y, xx, yy, xy = np.zeros(count), np.zeros(count), np.zeros(count), np.zeros(count), np.zeros(count)
    for j in range(long):
        for k in range(count):
            x[k] += spots[0, j + k]
            y[k] += spots[1, j + k]
    x /= long
    y /= long
    for j in range(long):
        for k in range(count):
            off_x, off_y = spots[0, j + k] - x[k], spots[1, j + k] - y[k]
            xx[k] += off_x * off_x
            yy[k] += off_y * off_y
            xy[k] += off_x * off_y
    lines = np.empty((5, count))
    lines[0], lines[1] = x, y
    for k in range(count):
        apart = np.sqrt((xx[k] - yy[k]) ** 2 + 4 * xy[k] ** 2)
        # Half the angle whose cosine that is; where the spots lie all round any way will do.
        cos = (xx[k] - yy[k]) / apart if apart > 0 else 1.0
        way_x, way_y = np.sqrt(max(0.5 + 0.5 * cos, 0.0)), np.sqrt(max(0.5 - 0.5 * cos, 0.0))
        way_y = -way_y if xy[k] < 0 else way_y
        along = way_x * (spots[0, k + long - 1] - spots[0, k]) + way_y * (spots[1, k + long - 1] - spots[1, k])
        lines[2, k], lines[3, k] = (way_x, way_y) if along >= 0 else (-way_x, -way_y)
        lines[4, k] = np.sqrt(max((xx[k] + yy[k] - apart) / (2 * long), 0.0))
    return lines


def _angle(one, other):
    """Degrees between the ways of two lines."""
    return float(math.degrees(math.acos(min(1.0, max(-1.0, one[2] * other[2] + one[3] * other[3])))))


def _padded(places, ends, closed, reach):
    """A run (2, n) with places put before and behind it, so that one may look that far beyond its ends: round and round
    where it closes; turned about the end where not, so that it is held there and comes in straight."""
    size = len(places)
    spots = np.empty((2, size + 2 * reach))
    for axis in range(2):
        for k in range(size):
            spots[axis, reach + k] = places[k, axis]
        for k in range(reach):
            if closed:
                spots[axis, k] = places[(k - reach) % size, axis]
                spots[axis, reach + size + k] = places[k % size, axis]
            else:
                spots[axis, k] = 2 * ends[0, axis] - places[min(reach - 1 - k, size - 1), axis]
                spots[axis, reach + size + k] = 2 * ends[1, axis] - places[max(size - 1 - k, 0), axis]
    return spots


def strongest(first, closed, which, strength, apart):
    """Those of greatest strength among places, none within so many places of a stronger one, in their order."""
    run_of = np.searchsorted(first, which, "right") - 1
    kept, places = np.zeros(len(which), np.bool_), np.arange(len(which))
    for k in np.argsort(-strength, kind="mergesort"):
        if strength[k] <= 0:
            break
        run = run_of[k]
        size = first[run + 1] - first[run] if closed[run] else 1 << 40
        free = True
        for other in places[np.searchsorted(run_of, run, "left") : np.searchsorted(run_of, run, "right")]:
            gap = abs(which[k] - which[other])
            free = free and not (kept[other] and min(gap, size - gap) < apart)
        kept[k] = free
    return places[kept]


def smoothed(places, first, ends, closed, before, corner, weight):
    """The places (n, 2) averaged with those round them, weight (2·reach + 1,), in the pieces between corners."""
    found, at = np.empty((len(places), 2)), 0
    for run in range(len(closed)):
        start, stop = first[run], first[run + 1]
        one = at
        while at < len(before) and before[at] < stop:
            at += 1
        if one == at:
            found[start:stop] = _eased(places[start:stop], ends[run], closed[run], weight)
            continue
        # A closed run is cut open at its first corner, which ends the last piece too.
        rolled = np.concatenate((places[before[one] : stop], places[start : before[one]]))
        own, begin = (rolled, before[one]) if closed[run] else (places[start:stop], start)
        eased, between = np.empty_like(own), np.empty((2, 2))
        count = at - one + (0 if closed[run] else 1)
        for piece in range(count):
            low = one + piece - (0 if closed[run] else 1)
            between[0] = corner[low] if low >= one else ends[run, 0]
            between[1] = corner[low + 1] if low + 1 < at else (corner[one] if closed[run] else ends[run, 1])
            left = before[low] - begin if low >= one else 0
            right = before[low + 1] - begin if low + 1 < at else stop - start
            eased[left:right] = _eased(own[left:right], between, False, weight)
        found[begin:stop] = eased[: stop - begin]
        found[start:begin] = eased[stop - begin :]
    return found


def _eased(places, ends, closed, weight):
    """The places (n, 2) of one piece averaged with those round them."""
    spots, found = _padded(places, ends, closed, len(weight) // 2), np.zeros((2, len(places)))
    for axis in range(2):
        for j in range(len(weight)):
            for k in range(len(places)):
                found[axis, k] += weight[j] * spots[axis, k + j]
    return found.T


def held_near(points, middles, most):
    """Points no further from the middles of their pixel sides than so much."""
    found = points.copy()
    for k in range(len(points)):
        off_x, off_y = points[k, 0] - middles[k, 0], points[k, 1] - middles[k, 1]
        far = np.sqrt(off_x**2 + off_y**2)
        if far > most:
            found[k, 0], found[k, 1] = middles[k, 0] + off_x * most / far, middles[k, 1] + off_y * most / far
    return found


def assembled(places, first, ends, inner, curved, corner_before, corner):
    """The points of all lines, whether each is held fast, and the line it is of: a border's ends, its places, and in
    those that are ``curved`` its corners; of the picture's own edge its ends and the picture's corners."""
    room = len(places) + len(corner) + 2 * len(inner) + 4
    points, fast, which, count = np.empty((room, 2)), np.zeros(room, np.bool_), np.empty(room, np.int64), 0
    for k in range(len(inner)):
        points[count], fast[count], which[count] = ends[k, 0], True, k
        count += 1
        at = np.searchsorted(corner_before, first[k], "right")
        for place in range(first[k], first[k + 1]):
            x, y = places[place, 0], places[place, 1]
            if at < len(corner) and corner_before[at] == place:
                if curved[k] and inner[k]:
                    points[count, 0], points[count, 1] = corner[at, 0], corner[at, 1]
                    fast[count], which[count] = True, k
                    count += 1
                at += 1
            if inner[k]:
                points[count, 0], points[count, 1], fast[count], which[count] = x, y, False, k
                count += 1
            elif place > first[k] and abs(x - places[place - 1, 0]) > 1e-9 and abs(y - places[place - 1, 1]) > 1e-9:
                level = abs(y - np.round(y)) < 1e-9
                points[count, 0] = places[place - 1, 0] if level else x
                points[count, 1] = y if level else places[place - 1, 1]
                fast[count], which[count] = True, k
                count += 1
        points[count], fast[count], which[count] = ends[k, 1], True, k
        count += 1
    return points[:count], fast[:count], which[:count]


def with_corners_cut(points, fast, which, sharp_cosine):
    """Lines, one after another, with the points at which they turn sharply cut off (G. Chaikin, Computer Graphics and
    Image Processing 3, 1974), but for those held fast, as their ends are."""
    made, held, of, count = (
        np.empty((2 * len(points), 2)),
        np.empty(2 * len(points), np.bool_),
        np.empty(2 * len(points), np.int64),
        0,
    )
    for k in range(len(points)):
        cut = False
        if not fast[k]:
            here_x, here_y = points[k, 0] - points[k - 1, 0], points[k, 1] - points[k - 1, 1]
            there_x, there_y = points[k + 1, 0] - points[k, 0], points[k + 1, 1] - points[k, 1]
            long = np.sqrt((here_x**2 + here_y**2) * (there_x**2 + there_y**2))
            cut = here_x * there_x + here_y * there_y < sharp_cosine * long
        if cut:
            made[count, 0], made[count, 1] = points[k, 0] - here_x / 4, points[k, 1] - here_y / 4
            made[count + 1, 0], made[count + 1, 1] = points[k, 0] + there_x / 4, points[k, 1] + there_y / 4
        else:
            made[count, 0], made[count, 1] = points[k, 0], points[k, 1]
        for _ in range(2 if cut else 1):
            held[count], of[count] = fast[k], which[k]
            count += 1
    return made[:count], held[:count], of[:count]


def simplified(points, which, most):
    """Lines, one after another, without the points that lie no further than so much off the line between the two that
    stay (D. Douglas & T. Peucker, Cartographica 10, 1973)."""
    stays, parts = np.zeros(len(points), np.bool_), np.empty((len(points) + 1, 2), np.int64)
    start = 0
    while start < len(points):
        last = start
        while last + 1 < len(points) and which[last + 1] == which[start]:
            last += 1
        stays[start] = stays[last] = True
        parts[0, 0], parts[0, 1], left = start, last, 1
        while left:
            left -= 1
            low, high = parts[left, 0], parts[left, 1]
            furthest, far = _furthest(points, low, high)
            if far > most:
                stays[furthest] = True
                parts[left, 0], parts[left, 1] = low, furthest
                parts[left + 1, 0], parts[left + 1, 1] = furthest, high
                left += 2
        start = last + 1
    return points[stays], which[stays]


def _furthest(points, low, high):
    """Which point between two lies furthest from the line between these, and how far; the first of equal ones."""
    x, y = points[low, 0], points[low, 1]
    along_x, along_y = points[high, 0] - x, points[high, 1] - y
    long = along_x**2 + along_y**2
    furthest, far = low, 0.0
    for k in range(low + 1, high):
        share = ((points[k, 0] - x) * along_x + (points[k, 1] - y) * along_y) / long if long > 0 else 0.0
        share = min(max(share, 0.0), 1.0)
        off = (points[k, 0] - x - share * along_x) ** 2 + (points[k, 1] - y - share * along_y) ** 2
        if off > far:
            furthest, far = k, off
    return furthest, np.sqrt(far)
