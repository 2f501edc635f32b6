"""The squared grid: lines every n mm over the picture area, letters along the top, numbers down the side."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.drawing import Label, Layer, Stroke, stroke
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.plan.model import Paper

MOST_CELLS = 10_000


def column_name(index: int) -> str:
    """A, B, … Z, AA, AB, … for 0, 1, …"""
    name = ""
    index += 1
    while index:
        index, rest = divmod(index - 1, 26)
        name = chr(65 + rest) + name
    return name


def grid_marks(length_mm: float, spacing_mm: float) -> np.ndarray:
    """Places of the inner lines along one side, in mm from its start; none on the far edge itself."""
    return np.arange(1, int(np.ceil(length_mm / spacing_mm - 1e-9))) * spacing_mm


def squared_grid(box: Box, paper: Paper, spacing_mm: float) -> Layer:
    """The grid from the picture's top left corner; cells at the right and bottom may be cut."""
    left, top, width, height = box.left, box.top, box.width, box.height
    xs, ys = grid_marks(width, spacing_mm), grid_marks(height, spacing_mm)
    if (len(xs) + 1) * (len(ys) + 1) > MOST_CELLS:
        raise PlanError(f"Squares of {spacing_mm:g} mm would be over {MOST_CELLS} on this sheet. Choose larger ones.")
    lines: list[Stroke] = [stroke([[left + x, top], [left + x, top + height]], "grid", 0.15) for x in xs]
    lines += [stroke([[left, top + y], [left + width, top + y]], "grid", 0.15) for y in ys]
    size = float(np.clip(0.16 * spacing_mm, 1.8, 4.5))
    return Layer("grid", tuple(lines), tuple(_cell_names(box, paper, xs, ys, size)))


def _cell_names(box: Box, paper: Paper, xs: np.ndarray, ys: np.ndarray, size: float) -> list[Label]:
    """Outside the picture where the margin has room, just inside it otherwise."""
    outside = min(*paper.borders_mm[:2]) >= size + 1.5
    x_edges, y_edges = [0.0, *xs, box.width], [0.0, *ys, box.height]
    top = box.top - 1.2 if outside else box.top + size + 0.6
    side = box.left - 1.2 if outside else box.left + 0.8
    anchor = "right" if outside else "left"
    across = [
        Label(column_name(k), box.left + (x_edges[k] + x_edges[k + 1]) / 2, top, "grid", size)
        for k in range(len(xs) + 1)
    ]
    down = [
        Label(str(k + 1), side, box.top + (y_edges[k] + y_edges[k + 1]) / 2 + size * 0.36, "grid", size, anchor)  # type: ignore[arg-type]
        for k in range(len(ys) + 1)
    ]
    return across + down
