"""Regions below the smallest that can be drawn, merged into a neighbour (union-find over the region adjacency
graph)."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.kernels.adjacency import owners_without_small
from mild_compass.craft.values.shapes import shapes_of

if TYPE_CHECKING:
    from numpy.typing import NDArray


def without_small(steps: NDArray[np.uint8], smallest_px: float) -> NDArray[np.uint8]:
    """The value map with every shape under a size given to the neighbour that shares most border.

    Ties go to the nearer value, then to the darker. The smallest shape goes first; a shape that has grown by
    taking in another is judged anew. Deterministic.
    """
    shapes = shapes_of(steps)
    if len(shapes.values) < 2:
        return steps
    owner = owners_without_small(shapes.areas(), shapes.values, *shapes.borders(), float(smallest_px))
    return shapes.filled(shapes.values[owner].astype(np.uint8))
