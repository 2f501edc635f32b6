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
    def pixels(self) -> NDArray[np.float64]:
        """Pixels of each tone above and left of a corner (h + 1, w + 1, BINS)."""
        return _summed(self._one_hot)

    @cached_property
    def places(self) -> NDArray[np.float64]:
        """The same, each pixel counted by its place across."""
        across = np.arange(self.values.shape[1], dtype=np.float32) + np.float32(0.5)
        return _summed(self._one_hot * across[None, :, None])

    @cached_property
    def contrast(self) -> NDArray[np.float64]:
        """Contrast energy above and left of a corner (h + 1, w + 1)."""
        return np.pad(self.energy.cumsum(0).cumsum(1), ((1, 0), (1, 0)))

    @property
    def _one_hot(self) -> NDArray[np.float32]:
        return np.asarray(binned(self.values)[..., None] == np.arange(BINS), np.float32)


def _summed(array: NDArray[np.float32]) -> NDArray[np.float64]:
    # Places add up to some millions; single precision would lose whole pixels on the way.
    summed = array.astype(np.float64).cumsum(0).cumsum(1)
    return np.pad(summed, ((1, 0), (1, 0), (0, 0)))


def inside(
    table: NDArray[np.floating],
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
