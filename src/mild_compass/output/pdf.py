"""A drawing as a PDF at true size: on one page, or on pages of a small printer to be joined."""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.drawing import Drawing, Label
from mild_compass.craft.sheet.printer import BAR_MM, TRUE_PRINTER, Printer
from mild_compass.craft.sheet.tiles import FOOT_MM, OVERLAP_MM, PRINTER_EDGE_MM, Tile, Tiling, tiles_for
from mild_compass.output.canvas import MmCanvas, as_reader

if TYPE_CHECKING:
    from numpy.typing import NDArray
    from reportlab.lib.utils import ImageReader

    from mild_compass.craft.geometry.lines import Box
    from mild_compass.plan.paper import Paper

MARK_ARM_MM = 4.0
SHEET = "sheet"  # drawn once, laid onto every page


@dataclass(frozen=True, eq=False, slots=True)
class Printed:
    """What is to be printed: a sheet, the drawing on it, and the picture (h, w, 3) that fills ``box``, or None."""

    title: str
    paper: Paper
    drawing: Drawing
    picture: NDArray[np.uint8] | None
    box: Box


@dataclass(frozen=True, slots=True)
class PageSetup:
    """On which pages, with how much overlap, turned over or not, and the printer's own error."""

    pages: str = "one page"
    overlap_mm: float = OVERLAP_MM
    mirrored: bool = False
    printer: Printer = TRUE_PRINTER


def pages_pdf(printed: Printed, setup: PageSetup) -> bytes:
    """The PDF's bytes; every length in it is scaled by what the printer makes too small or too large."""
    paper, printer = printed.paper, setup.printer
    target = io.BytesIO()
    canvas = MmCanvas(target, printed.title)
    reader = as_reader(printed.picture) if printed.picture is not None else None
    if setup.pages == "one page":
        canvas.begin(paper.width_mm, paper.height_mm, printer.across, printer.down)
        _sheet(canvas, printed, reader, setup.mirrored)
        _bar_on_sheet(canvas, paper)
        canvas.end()
    else:
        tiling = tiles_for(paper, setup.pages, setup.overlap_mm, printer)
        canvas.define(SHEET, paper.width_mm, paper.height_mm, lambda: _sheet(canvas, printed, reader, setup.mirrored))
        for tile in tiling.tiles:
            width, height = tiling.page_width_mm * printer.across, tiling.page_height_mm * printer.down
            canvas.begin(width, height, printer.across, printer.down)
            _tile(canvas, tiling, tile)
            canvas.end()
    canvas.save()
    return target.getvalue()


def _sheet(canvas: MmCanvas, printed: Printed, reader: ImageReader | None, mirrored: bool) -> None:
    """Everything on the sheet in its own coordinates, turned over when it is to be traced from the back."""
    canvas.pushed(-1 if mirrored else 1, 0, 0, 1, printed.paper.width_mm if mirrored else 0, 0)
    if reader is not None:
        box = printed.box
        canvas.picture(reader, box.left, box.top, box.width, box.height)
    canvas.drawing(printed.drawing)
    canvas.popped()


def _tile(canvas: MmCanvas, tiling: Tiling, tile: Tile) -> None:
    canvas.pushed(1, 0, 0, 1, tile.page_x_mm - tile.left_mm, tile.page_y_mm - tile.top_mm)
    canvas.clip(tile.left_mm, tile.top_mm, tile.width_mm, tile.height_mm)
    canvas.lay(SHEET)
    canvas.popped()
    canvas.pushed(1, 0, 0, 1, tile.page_x_mm - tile.left_mm, tile.page_y_mm - tile.top_mm)
    for x, y in tiling.marks_of(tile):
        _registration_mark(canvas, x, y)
    canvas.popped()
    _foot(canvas, tiling, tile)


def _registration_mark(canvas: MmCanvas, x: float, y: float) -> None:
    arm = MARK_ARM_MM
    canvas.stroke(np.array([[x - arm, y], [x + arm, y]]), 0.15, "mass")
    canvas.stroke(np.array([[x, y - arm], [x, y + arm]]), 0.15, "mass")
    angle = np.linspace(0, 2 * np.pi, 25)
    canvas.stroke(np.stack([x + 2 * np.cos(angle), y + 2 * np.sin(angle)], -1), 0.15, "mass")


def _foot(canvas: MmCanvas, tiling: Tiling, tile: Tile) -> None:
    """Name and map of the page, how it is joined, and the bar both ways, in the strip kept free for them."""
    base = tiling.page_height_mm - PRINTER_EDGE_MM - 3
    left = PRINTER_EDGE_MM
    _bar(canvas, left, base, BAR_MM)
    _upright_bar(canvas, PRINTER_EDGE_MM - 3.5, base, BAR_MM)
    number = tile.row * tiling.columns + tile.column + 1
    words = left + BAR_MM + 6
    canvas.words(Label(f"Page {tile.name}  ({number} of {len(tiling.tiles)})", words, base - 4.2, "mass", 2.8, "left"))
    canvas.words(Label(tile.joining, words, base, "mass", 2.0, "left"))
    cell = min(4.0, (FOOT_MM - 4) / tiling.rows)
    right = tiling.page_width_mm - PRINTER_EDGE_MM
    for other in tiling.tiles:
        x = right - (tiling.columns - other.column) * cell
        y = base - (tiling.rows - other.row) * cell + 2
        here = (other.row, other.column) == (tile.row, tile.column)
        square = np.array([[0, 0], [1, 0], [1, 1], [0, 1], [0, 0]]) * (cell - 0.6) + (x, y)
        canvas.stroke(square, 0.6 if here else 0.15, "mass")


def _bar_on_sheet(canvas: MmCanvas, paper: Paper) -> None:
    """A bar in the bottom margin, and one up the left margin where it fits."""
    length = BAR_MM if paper.width_mm >= BAR_MM + 4 else 10.0
    base = paper.height_mm - 2.0
    _bar(canvas, 2.0, base, length)
    if paper.height_mm >= BAR_MM + 8:
        _upright_bar(canvas, 2.0, base, length)


def _bar(canvas: MmCanvas, x: float, y: float, length: float) -> None:
    canvas.stroke(np.array([[x, y], [x + length, y]]), 0.2, "mass")
    for k in range(11):
        at, tick = x + length * k / 10, 2.0 if k % 5 == 0 else 1.2
        canvas.stroke(np.array([[at, y], [at, y - tick]]), 0.2, "mass")
    canvas.words(Label(f"{length:g} mm", x + length / 2 + 1, y - 2.4, "mass", 1.9))


def _upright_bar(canvas: MmCanvas, x: float, y: float, length: float) -> None:
    canvas.stroke(np.array([[x, y], [x, y - length]]), 0.2, "mass")
    for k in range(11):
        at, tick = y - length * k / 10, 2.0 if k % 5 == 0 else 1.2
        canvas.stroke(np.array([[x, at], [x + tick, at]]), 0.2, "mass")
