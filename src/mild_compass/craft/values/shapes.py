"""Connected components of a label map by run-length encoding, their sums, and the region adjacency graph."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from mild_compass.craft.kernels import runs

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Steps = NDArray[np.uint8]
    Labels = NDArray[np.int32]
    Numbers = NDArray[np.int64]
    Weights = NDArray[np.float32]
    Sums = NDArray[np.float64]


class Shapes(NamedTuple):
    """Connected shapes (side by side, not by corners), the darker first, of one value in the order in which they begin.

    Each row of the map is runs of pixels of one shape: ``rows`` (h + 1,) is where its runs begin among all (r,),
    ``begins`` (r + 1,) the pixel at which each begins, counted through the whole map, ``numbers`` (r,) its shape.
    ``values`` (n,) are the shapes'.
    """

    rows: Numbers
    begins: Labels
    numbers: Labels
    values: Numbers

    @property
    def shape(self) -> tuple[int, int]:
        """Height and width of the map."""
        height = len(self.rows) - 1
        return height, int(self.begins[-1]) // height

    def labels(self) -> Labels:
        """The number of the shape of each pixel (h, w)."""
        numbers = np.arange(len(self.values), dtype=np.int32)
        return runs.filled_labels(self.begins, self.numbers, numbers).reshape(self.shape)

    def filled(self, told: Steps) -> Steps:
        """A map (h, w) of what is told of each shape (n,)."""
        return runs.filled_bytes(self.begins, self.numbers, told).reshape(self.shape)

    def areas(self) -> Numbers:
        """The pixels of each shape."""
        return runs.pixel_counts(self.begins, self.numbers, len(self.values))

    def sums(self, of: Weights) -> tuple[Sums, Sums]:
        """What each shape holds of a picture (h, w), and of its squares."""
        return runs.pixel_sums(self.begins, self.numbers, of.ravel(), len(self.values))

    def borders(self, weight: Weights | None = None) -> tuple[Numbers, Numbers, Sums]:
        """Pairs of touching shapes, the lower number first, and how long their border is, in sides of pixels: each
        counted as the mean ``weight`` (h, w) of its two pixels where that is given."""
        weights = None if weight is None else weight.ravel()
        codes, lengths = runs.adjacency(self.rows, self.begins, self.numbers, len(self.values), weights)
        order = np.argsort(codes)
        return codes[order] >> 32, codes[order] & 0xFFFFFFFF, lengths[order]


def shapes_of(steps: Steps) -> Shapes:
    """The connected shapes of a map of values (h, w)."""
    return Shapes(*runs.components(np.ascontiguousarray(steps)))


def sums_of(steps: Steps, of: Weights, count: int) -> tuple[Numbers, Sums]:
    """How many pixels of a map (h, w) have each value, and what they hold of a picture (h, w); added up by columns."""
    areas, found = runs.column_sums(steps, of, count)
    return areas.sum(1), found.sum(1)
