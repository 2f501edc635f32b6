"""Points as Qt's own."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPointF

from mild_compass.studio.painting import polygon


@pytest.mark.parametrize(
    "points", [np.zeros((0, 2)), np.array([[1.5, -2.25]]), np.random.default_rng(1).normal(size=(900, 2))]
)
def test_a_polygon_has_the_points_it_was_made_of_in_order_and_keeps_them(points):
    made = polygon(points)
    wanted = [QPointF(x, y) for x, y in points.tolist()]
    points += 7.0
    assert list(made) == wanted


def test_points_that_are_no_doubles_or_lie_apart_are_taken():
    grid = np.arange(12, dtype=np.float32).reshape(3, 4)[:, ::2]
    assert [each.toTuple() for each in polygon(grid)] == [(0.0, 2.0), (4.0, 6.0), (8.0, 10.0)]
