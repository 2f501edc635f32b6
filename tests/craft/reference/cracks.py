"""Crack edges of a label map, linked into chains.

What kernels/cracks.c computes, as plain Python: the reference that it is compared with."""

from __future__ import annotations

import numpy as np


def segments(padded):
    """Straight runs of pixel sides between different labels, and round the picture, as segments (n, 2, 2), the level
    ones first; ``padded`` has a pixel more all round.

    A run ends where the border turns or where more than two borders meet.
    """
    sides = np.empty((2 * padded.size, 2, 2), np.int64)
    level = _level_sides(padded, sides)
    upright = _level_sides(np.ascontiguousarray(padded.T), sides[level:])
    return np.concatenate((sides[:level], sides[level : level + upright, :, ::-1]))


def _level_sides(padded, sides):
    """Put the level runs into ``sides``: how many."""
    count = 0
    for y in range(padded.shape[0] - 1):
        for x in range(padded.shape[1] - 1):
            behind, ahead = padded[y, x] != padded[y + 1, x], padded[y, x + 1] != padded[y + 1, x + 1]
            if not behind and not ahead:
                continue
            through = behind and ahead and _plain(padded, y, x)
            if behind and not through:
                sides[count, 1, 0], sides[count, 1, 1] = x, y
                count += 1
            if ahead and not through:
                sides[count, 0, 0], sides[count, 0, 1] = x, y
    return count


def _plain(padded, y, x):
    """Whether two sides meet in a corner of pixels, no more."""
    a, b, c, d = padded[y, x], padded[y, x + 1], padded[y + 1, x], padded[y + 1, x + 1]
    return int(a != b) + int(c != d) + int(a != c) + int(b != d) == 2


def linked(sides, width):
    """Segments (n, 2, 2) put one behind another where exactly two meet, and round and round where they close: the ends
    by which they are entered, 2k for the start of segment k and 2k + 1 for its end, and where among these each chain
    begins."""
    count = len(sides)
    meeting = np.full((sides[:, :, 1].max() + 1) * width, -1, np.int64)  # the end last seen at each corner of pixels
    partner = np.full(2 * count, -1, np.int64)
    many = np.zeros(len(meeting), np.uint8)
    for end in range(2 * count):
        node = sides[end >> 1, end & 1, 1] * width + sides[end >> 1, end & 1, 0]
        many[node] += 1
        if many[node] == 2:
            partner[end], partner[meeting[node]] = meeting[node], end
        elif many[node] == 3:
            partner[partner[meeting[node]]] = -1
            partner[meeting[node]] = -1
        meeting[node] = end if many[node] < 3 else meeting[node]
    done = np.zeros(count, np.bool_)
    entries, begins, chains, at = np.empty(count, np.int64), np.empty(count + 1, np.int64), 0, 0
    for turn in range(2):
        for begin in range(0, 2 * count, 1 + turn):
            if done[begin >> 1] or (turn == 0 and partner[begin] >= 0):
                continue
            begins[chains] = at
            chains += 1
            entry = begin
            while entry >= 0 and not done[entry >> 1]:
                done[entry >> 1] = True
                entries[at] = entry
                at += 1
                entry = partner[entry ^ 1]
    begins[chains] = at
    return entries, begins[: chains + 1]


def walked(padded, sides, entries, begins):
    """The middle of each pixel side along the chains and the way to its left (n, 2), where each chain begins among
    these, its ends (m, 2, 2), and the labels to its left and right (m, 2)."""
    total = np.abs(sides[:, 1] - sides[:, 0]).sum()
    middles, asides = np.empty((total, 2)), np.empty((total, 2))
    chains = len(begins) - 1
    first, ends, beside = np.zeros(chains + 1, np.int64), np.empty((chains, 2, 2)), np.empty((chains, 2), np.int64)
    at = 0
    for chain in range(chains):
        for entry in entries[begins[chain] : begins[chain + 1]]:
            start, stop = sides[entry >> 1, entry & 1], sides[entry >> 1, 1 - (entry & 1)]
            long = abs(stop[0] - start[0]) + abs(stop[1] - start[1])
            way_x, way_y = (stop[0] - start[0]) / long, (stop[1] - start[1]) / long
            if entry == entries[begins[chain]]:
                ends[chain, 0, 0], ends[chain, 0, 1] = start[0], start[1]
                x, y = start[0] + way_x / 2, start[1] + way_y / 2
                beside[chain, 0] = padded[int(y - way_x / 2 + 1), int(x + way_y / 2 + 1)]
                beside[chain, 1] = padded[int(y + way_x / 2 + 1), int(x - way_y / 2 + 1)]
            for k in range(long):
                middles[at, 0], middles[at, 1] = start[0] + (k + 0.5) * way_x, start[1] + (k + 0.5) * way_y
                asides[at, 0], asides[at, 1] = way_y, -way_x
                at += 1
            ends[chain, 1, 0], ends[chain, 1, 1] = stop[0], stop[1]
        first[chain + 1] = at
    return middles, asides, first, ends, beside


def shifts(middles, asides, lightness, steps, shown, least):
    """How far toward the left pixel of each side (n,) from half way the picture passes the middle between the two
    values, in pixels: at most half of one, and nought where it does not pass there."""
    height, width = steps.shape
    found = np.zeros(len(middles))
    for k in range(len(middles)):
        (x, y), (aside_x, aside_y) = middles[k], asides[k]
        u, v = int(np.floor(x + aside_x / 2)), int(np.floor(y + aside_y / 2))
        i, j = int(np.floor(x - aside_x / 2)), int(np.floor(y - aside_y / 2))
        if min(u, v, i, j) < 0 or max(u, i) >= width or max(v, j) >= height:
            continue
        here, there = np.float64(lightness[v, u]), np.float64(lightness[j, i])
        level = (shown[steps[v, u]] + shown[steps[j, i]]) / 2
        rise = here - there
        if abs(rise) < least or rise * (shown[steps[v, u]] - level) <= 0:
            continue
        share = (level - there) / rise
        if 0 <= share <= 1:
            found[k] = share - 0.5
    return found
