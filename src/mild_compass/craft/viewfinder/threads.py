"""Threads across the viewfinder, as fractions of the frame."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.study import Thread


def _ruled(parts: int) -> list[list[list[float]]]:
    marks = [k / parts for k in range(1, parts)]
    return [[[m, 0.0], [m, 1.0]] for m in marks] + [[[0.0, m], [1.0, m]] for m in marks]


THREADS: dict[Thread, NDArray[np.float64]] = {
    "halves": np.array(_ruled(2)),
    "thirds": np.array(_ruled(3)),
    "quarters": np.array(_ruled(4)),
    "diagonals": np.array([[[0.0, 0.0], [1.0, 1.0]], [[0.0, 1.0], [1.0, 0.0]]]),
}
