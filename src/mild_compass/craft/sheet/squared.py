"""The squared grid: equal squares over the picture area, letters along the top, numbers down the side."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.drawing import Label, Layer, Stroke, stroke
from mild_compass.craft.geometry.lines import clipped
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.sheet import SheetPlan

MOST_CELLS = 10_000  # bounds the drawing
LINE_MM, DIAGONAL_MM = 0.15, 0.1


def column_name(index: int) -> str:
    """A, B, … Z, AA, AB, … for 0, 1, …"""
    name = ""
    index += 1
    while index:
        index, rest = divmod(index - 1, 26)
        name = chr(65 + rest) + name
    return name


def cell_mm(width_mm: float, sheet: SheetPlan) -> float:
    """The side of a square on a picture of this width: as asked for, or so that the number of squares is right."""
    return width_mm / sheet.grid_count if sheet.grid_count else sheet.grid_mm


def grid_marks(length_mm: float, spacing_mm: float) -> np.ndarray:
    """Places of the inner lines along one side, in mm from its start; none on the far edge itself."""
    return np.arange(1, int(np.ceil(length_mm / spacing_mm - 1e-9))) * spacing_mm


def squared_grid(box: Box, paper: Paper, spacing_mm: float, diagonals: bool = False) -> Layer:
    """The grid from the picture's top left corner; cells at the right and bottom may be cut.

    Raises:
        PlanError: the squares are too small for the sheet.
    """
    left, top, width, height = box.left, box.top, box.width, box.height
    if (width / spacing_mm) * (height / spacing_mm) > MOST_CELLS:
        raise PlanError(f"Squares of {spacing_mm:g} mm would be over {MOST_CELLS} on this sheet. Choose larger ones.")
    xs, ys = grid_marks(width, spacing_mm), grid_marks(height, spacing_mm)
    lines: list[Stroke] = [stroke([[left + x, top], [left + x, top + height]], "grid", LINE_MM) for x in xs]
    lines += [stroke([[left, top + y], [left + width, top + y]], "grid", LINE_MM) for y in ys]
    if diagonals:
        lines += _diagonals(box, spacing_mm)
    size = float(np.clip(0.16 * spacing_mm, 1.8, 4.5))
    return Layer("grid", tuple(lines), tuple(_cell_names(box, paper, xs, ys, size)))


def _diagonals(box: Box, spacing_mm: float) -> list[Stroke]:
    """Both diagonals of every square, each a long line from side to side."""
    columns, rows = int(np.ceil(box.width / spacing_mm)), int(np.ceil(box.height / spacing_mm))
    reach = rows * spacing_mm
    found = []
    for k in range(-rows + 1, columns + rows):
        x = box.left + k * spacing_mm
        for way in (1, -1):
            part = clipped((x, box.top), (x + way * reach, box.top + reach), box)
            if part is not None and np.ptp(part, axis=0).max() > 1e-6:
                found.append(Stroke(part, "grid", DIAGONAL_MM, "dashed"))
    return found


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
