"""Summed-area tables of a picture in a few tones: the tones of any rectangle of it in a handful of look-ups."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

BINS = 24


def binned(values: NDArray[np.floating]) -> NDArray[np.int64]:
    """The tone (0 to BINS - 1) of every L*."""
    return np.clip((np.asarray(values) * (BINS / 100)).astype(np.int64), 0, BINS - 1)


def tone_values() -> NDArray[np.float64]:
    """The L* each tone stands for."""
    return np.asarray((np.arange(BINS) + 0.5) * (100 / BINS), np.float64)


@dataclass(frozen=True, eq=False)
class Tables:
    """Tables over a picture of L* (h, w): pixels by tone, their places across, and contrast energy."""

    values: NDArray[np.float32]
    energy: NDArray[np.float64]

    @cached_property
    def pixels(self) -> NDArray[np.int32]:
        """Pixels of each tone above and left of a corner (h + 1, w + 1, BINS)."""
        return _summed(self._one_hot)

    @cached_property
    def places_doubled(self) -> NDArray[np.int32]:
        """The same, each pixel counted by twice its place across: whole numbers, so that no sum is rounded."""
        across = 2 * np.arange(self.values.shape[1], dtype=np.int32) + 1
        return _summed(self._one_hot * across[None, :, None])

    @cached_property
    def contrast(self) -> NDArray[np.float64]:
        """Contrast energy above and left of a corner (h + 1, w + 1)."""
        return np.pad(self.energy.cumsum(0).cumsum(1), ((1, 0), (1, 0)))

    @cached_property
    def _one_hot(self) -> NDArray[np.int32]:
        return np.asarray(binned(self.values)[..., None] == np.arange(BINS), np.int32)


def _summed(array: NDArray[np.int32]) -> NDArray[np.int32]:
    height, width, tones = array.shape
    table = np.zeros((height + 1, width + 1, tones), np.int32)
    np.cumsum(array, 0, out=table[1:, 1:])
    np.cumsum(table[1:, 1:], 1, out=table[1:, 1:])
    return table


def inside(
    table: NDArray[np.floating] | NDArray[np.int32],
    left: NDArray[np.int64],
    top: NDArray[np.int64],
    right: NDArray[np.int64],
    bottom: NDArray[np.int64],
) -> NDArray[np.float64]:
    """Sums over rectangles of whole pixels: corners (n,) each, answers (n, …)."""
    width = table.shape[1]
    flat = table.reshape(-1, *table.shape[2:])
    return np.asarray(
        flat[bottom * width + right]
        - flat[top * width + right]
        - flat[bottom * width + left]
        + flat[top * width + left],
        np.float64,
    )
