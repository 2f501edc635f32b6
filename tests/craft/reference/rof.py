"""Total variation denoising by fast gradient projection on the dual.

What kernels/rof.c computes, as plain Python: the reference that it is compared with."""

from __future__ import annotations

import numpy as np

PACE = np.float32(0.125)


def ascend_dual(lightness, limits, across, down, times):
    """Bring the pulls nearer so many times, each time a little further on in the direction taken."""
    height, width = lightness.shape
    ahead_across, ahead_down, pace = across.copy(), down.copy(), 1.0
    row, below = np.empty(width + 1, np.float32), np.empty(width + 1, np.float32)
    most = np.full(width, limits[0, 0])
    for _ in range(times):
        next_pace = (1 + np.sqrt(1 + 4 * pace * pace)) / 2
        further, pace = np.float32((pace - 1) / next_pace), next_pace
        _lay(row, lightness, ahead_across, ahead_down, 0)
        for y in range(height):
            if y < height - 1:
                _lay(below, lightness, ahead_across, ahead_down, y + 1)
            else:
                below[:] = row
            if limits.size > 1:
                most = limits[y]
            _pull_row(row, below, ahead_across[y], ahead_down[y], across[y], down[y], most, further)
            row, below = below, row


def _pull_row(row, below, ahead_across, ahead_down, across, down, most, further):
    for x in range(len(across)):
        a = ahead_across[x] + PACE * (row[x + 1] - row[x])
        d = ahead_down[x] + PACE * (below[x] - row[x])
        held = most[x] / max(most[x], np.sqrt(a * a + d * d))
        a *= held
        d *= held
        ahead_across[x], ahead_down[x] = a + further * (a - across[x]), d + further * (d - down[x])
        across[x], down[x] = a, d


def _lay(row, lightness, across, down, y):
    """Put a row of the picture as the pulls make it into ``row`` (w + 1,), its last pixel twice."""
    width = lightness.shape[1]
    for x in range(width):
        row[x] = lightness[y, x] + across[y, x] + down[y, x]
    for x in range(1, width):
        row[x] -= across[y, x - 1]
    if y > 0:
        for x in range(width):
            row[x] -= down[y - 1, x]
    row[width] = row[width - 1]


def primal(lightness, across, down):
    found, row = np.empty_like(lightness), np.empty(lightness.shape[1] + 1, np.float32)
    for y in range(lightness.shape[0]):
        _lay(row, lightness, across, down, y)
        found[y] = row[:-1]
    return found
