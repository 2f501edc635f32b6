"""Which lines cross, and the faces between lines.

What kernels/subdivision.c computes, as plain Python: the reference that it is compared with."""

from __future__ import annotations

import numpy as np

NONE, SQUARE, NOUGHT = -1, 4.0, 1e-9


def crossing_lines(points, first):
    """Lines (m,) that cross or touch another or themselves, but where they end in the same point; line k holds points
    (n, 2) from ``first[k]`` to ``first[k + 1]``."""
    line, ends, wrong = _lines_of(first), np.zeros(len(points), np.bool_), np.zeros(len(first) - 1, np.bool_)
    ends[first[:-1]] = ends[first[1:] - 1] = True
    low, high = np.minimum(points[:-1], points[1:]), np.maximum(points[:-1], points[1:])
    begins, held = _in_squares(points, line)
    for square in range(len(begins) - 1):
        for i in range(begins[square] + 1, begins[square + 1]):
            other = held[i]
            left, top, right, bottom = low[other, 0], low[other, 1], high[other, 0], high[other, 1]
            for j in range(begins[square], i):
                one = held[j]
                across = (low[one, 0] <= right) & (high[one, 0] >= left)
                if across & (low[one, 1] <= bottom) & (high[one, 1] >= top) and _meet(points, ends, one, other):
                    wrong[line[one]] = wrong[line[other]] = True
    return wrong


def _lines_of(first):
    """The line of each piece, by the number of the point at which it begins; -1 for the last points of lines."""
    line = np.full(first[-1], -1, np.int64)
    for k in range(len(first) - 1):
        line[first[k] : first[k + 1] - 1] = k
    return line


def _in_squares(points, line):
    """The pieces in each square of the grid, and where among these each square begins."""
    columns, rows = _squares(points[:, 0]), _squares(points[:, 1])
    wide, high = columns.max() + 1, rows.max() + 1
    counts, held = np.zeros(wide * high + 1, np.int64), np.empty(0, np.int64)
    for turn in range(2):  # they are counted, and then put in
        if turn:
            counts = np.cumsum(counts)
            held = np.empty(counts[-1], np.int64)
        for k in range(len(line) - 1):
            if line[k] < 0:
                continue
            left, right = min(columns[k], columns[k + 1]), max(columns[k], columns[k + 1])
            for row in range(min(rows[k], rows[k + 1]), max(rows[k], rows[k + 1]) + 1):
                for square in range(row * wide + left, row * wide + right + 1):
                    if turn:  # from the back, so that in the end each is where its square begins
                        counts[square] -= 1
                        held[counts[square]] = k
                    else:
                        counts[square] += 1
    return counts, held


def _squares(along):
    found, least = np.empty(len(along), np.int64), along.min()
    for k in range(len(along)):
        found[k] = int((along[k] - least) / SQUARE)
    return found


def _meet(points, ends, one, other):
    """Whether two pieces near each other have more in common than a point in which both may end."""
    if abs(one - other) == 1:  # one behind the other
        at = max(one, other)
        return _overlap(points, at, at - 1, at + 1)
    for a in (one, one + 1):
        for b in (other, other + 1):
            if ends[a] and ends[b] and points[a, 0] == points[b, 0] and points[a, 1] == points[b, 1]:
                return _overlap(points, a, 2 * one + 1 - a, 2 * other + 1 - b)
    here, there = _side(points, one, one + 1, other), _side(points, one, one + 1, other + 1)
    back, on = _side(points, other, other + 1, one), _side(points, other, other + 1, one + 1)
    return here * there <= 0 and back * on <= 0


def _overlap(points, at, one, other):
    """Whether two pieces from one point run the same way."""
    x, y = points[one, 0] - points[at, 0], points[one, 1] - points[at, 1]
    to_x, to_y = points[other, 0] - points[at, 0], points[other, 1] - points[at, 1]
    return bool(x * to_x + y * to_y > 0 and abs(x * to_y - y * to_x) <= NOUGHT)


def _side(points, start, stop, at):
    """On which side of a piece a point lies: 1 or -1, and 0 on it."""
    x, y = points[stop, 0] - points[start, 0], points[stop, 1] - points[start, 1]
    area = x * (points[at, 1] - points[start, 1]) - y * (points[at, 0] - points[start, 0])
    return 0 if abs(area) <= NOUGHT else (1 if area > 0 else -1)


def face_walks(node, way, table, face, outside):
    """Walks along the chains with the same face to the left all the way round: the ends at which chains are entered,
    where among these each walk begins, and its face. ``face`` (2 m,) is what lies left of a chain entered there."""
    done, ends = np.zeros(len(node), np.bool_), np.empty(len(node), np.int64)
    begins, labels, walks, at = np.empty(len(node) + 1, np.int64), np.empty(len(node), np.int64), 0, 0
    for start in range(len(node)):
        if done[start] or face[start] == outside:
            continue
        begins[walks], labels[walks] = at, face[start]
        walks += 1
        end = start
        while not done[end]:
            done[end], ends[at] = True, end
            at += 1
            other = end ^ 1
            ahead = way[other] + 2
            for turn in (1, 0, 3):  # right before on and left: a face that touches itself has a hole there
                following = table[node[other], (ahead + turn) % 4]
                if following != NONE and face[following] == face[start]:
                    end = following
                    break
    begins[walks] = at
    return ends[:at], begins[: walks + 1], labels[:walks]


def rings(points, first, ends, begins):
    """The walks as rings of points, where each begins among these, and twice its area with a sign."""
    around, rings, areas = np.empty((2 * len(points), 2)), np.zeros(len(begins), np.int64), np.empty(len(begins) - 1)
    at = 0
    for walk in range(len(areas)):
        for end in ends[begins[walk] : begins[walk + 1]]:
            low, high = first[end >> 1], first[(end >> 1) + 1]
            for k in range(high - low - 1):  # its last point is the next one's first
                place = high - 1 - k if end & 1 else low + k
                around[at, 0], around[at, 1] = points[place, 0], points[place, 1]
                at += 1
        rings[walk + 1] = at
        twice = 0.0
        for k in range(rings[walk], at):
            behind = k + 1 if k + 1 < at else rings[walk]
            twice += around[k, 0] * around[behind, 1] - around[behind, 0] * around[k, 1]
        areas[walk] = twice
    return around[:at], rings, areas
