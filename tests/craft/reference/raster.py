"""Polygons painted by exact area coverage.

What kernels/raster.c computes, as plain Python: the reference that it is compared with."""

from __future__ import annotations

import numpy as np


def cut_at_rows(points, first, changes, rows):
    """Lines (m,) cut at the rows of pixels: where each row begins among the pieces, and of each its x at both ends and
    by how much what lies right of it is lighter, times its height (n, 3)."""
    begins = np.zeros(rows + 1, np.int64)
    for line in range(len(changes)):
        for k in range(first[line], first[line + 1] - 1):
            y, to_y = points[k, 1], points[k + 1, 1]
            for row in range(int(min(y, to_y)), _below(y, to_y, rows)):
                begins[row + 1] += 1
    begins = np.cumsum(begins)
    at, pieces = begins.copy(), np.empty((begins[-1], 3))
    for line in range(len(changes)):
        for k in range(first[line], first[line + 1] - 1):
            y, to_y = points[k, 1], points[k + 1, 1]
            for row in range(int(min(y, to_y)), _below(y, to_y, rows)):
                low, high = min(max(y, row), row + 1), min(max(to_y, row), row + 1)
                slope = (points[k + 1, 0] - points[k, 0]) / (to_y - y)
                for end, height in enumerate((low, high)):
                    pieces[at[row], end] = points[k, 0] + slope * (height - y)
                pieces[at[row], 2] = (high - low) * changes[line]  # down, what lies left as one walks is right of it
                at[row] += 1
    return begins, pieces


def _below(y, to_y, rows):
    """The row below the last that a line passes; a level one passes none."""
    return min(int(np.ceil(max(y, to_y))), rows) if y != to_y else 0


def sweep(picture, added, begins, pieces):
    """Paint row by row: each piece changes all that is right of it, and what it crosses by its share."""
    height, width = picture.shape
    change, touched = np.zeros(width + 2), np.zeros(width // 8 * 8 + 16, np.uint8)
    eights = touched.view(np.uint64)
    for row in range(height):
        for k in range(begins[row], begins[row + 1]):
            x, to_x, by = min(pieces[k, 0], pieces[k, 1]), max(pieces[k, 0], pieces[k, 1]), pieces[k, 2]
            pixel, long = int(x), to_x - x
            while True:
                stop = min(to_x, pixel + 1.0)
                part, share = by * (stop - x) / long if long > 0 else by, (x + stop) / 2 - pixel
                change[pixel] += part * (1 - share)
                change[pixel + 1] += part * share
                touched[pixel] = touched[pixel + 1] = 1
                if stop >= to_x:
                    break
                x, pixel = stop, pixel + 1
        touched[width] = 1
        line, total, start = picture[row], added, 0
        while start < width:
            stop = start + 1
            while not touched[stop]:
                stop += 8 if stop & 7 == 0 and eights[stop >> 3] == 0 else 1
            total += change[start]
            change[start], touched[start] = 0, 0
            if stop == start + 1:
                line[start] = picture.dtype.type(total)
            else:
                line[start:stop] = picture.dtype.type(total)
            start = stop
        change[width:], touched[width : width + 2] = 0, 0


def lightness_histogram(values):
    """The share of L* values (h, w) in each whole step of L*."""
    found = np.zeros(100)
    for y in range(values.shape[0]):
        for x in range(values.shape[1]):
            found[int(min(max(float(values[y, x]), 0.0), 99.99))] += 1
    return found.astype(np.int64)
