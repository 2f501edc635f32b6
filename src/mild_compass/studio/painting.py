"""Points of the core as Qt's own."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, cast

from PySide6.QtGui import QPolygonF
from shiboken6 import Shiboken

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

DOUBLE_BYTES = 8
_VOID_PTR = cast("Any", Shiboken).VoidPtr  # its stub does not know that it takes a buffer's owner


def polygon(points: NDArray[np.float64]) -> QPolygonF:
    """Widget points (n, 2) as a Qt polygon, written into its own memory: made point by point it takes a hundred times
    as long."""
    import numpy as np  # the first window stands before any numbers are loaded

    made = QPolygonF()
    made.resize(len(points))
    if len(points):
        memory = np.frombuffer(_VOID_PTR(made.data(), points.size * DOUBLE_BYTES, True), np.float64)
        memory.reshape(-1, 2)[:] = points
    return made
