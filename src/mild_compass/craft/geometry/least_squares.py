"""Damped least squares for a few numbers: our own, since loading a library's takes longer than any of our fits."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Callable

    from numpy.typing import NDArray

    Array = NDArray[np.float64]

STEP = 1e-6  # of forward differences of numbers near one: well above the square root of a double's precision


def damped_least_squares(
    misfits: Callable[[Array], Array], start: Array, rounds: int = 60
) -> tuple[Array, Array, Array]:
    """The numbers (k,) for which the misfits (n,) are least together, those misfits, and their slopes (n, k).

    Levenberg-Marquardt (D. Marquardt, SIAM J. Appl. Math. 11, 1963), with slopes by small steps.
    """
    row, damping = np.asarray(start, np.float64), 1e-3
    off = misfits(row)
    slopes = slopes_of(misfits, row, off)
    for _ in range(rounds):
        normal = slopes.T @ slopes
        damped = normal + damping * np.diag(np.diag(normal) + 1e-12)
        tried = row - np.linalg.lstsq(damped, slopes.T @ off, rcond=None)[0]
        then = misfits(tried)
        gain = float(off @ off - then @ then)
        if gain > 0:
            row, off, damping = tried, then, damping / 5
            slopes = slopes_of(misfits, row, off)
            if gain < 1e-10 * float(off @ off + 1e-12):
                break
        else:
            damping *= 8
            if damping > 1e12:
                break
    return row, off, slopes


def slopes_of(misfits: Callable[[Array], Array], row: Array, here: Array | None = None) -> Array:
    """How misfits (n,) change with each of the numbers (n, k)."""
    here = misfits(row) if here is None else here
    found = []
    for k in range(len(row)):
        moved = row.copy()
        moved[k] += STEP
        found.append((misfits(moved) - here) / STEP)
    return np.stack(found, 1)
