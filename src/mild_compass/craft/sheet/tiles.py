"""Dividing a sheet into pages of a small printer, with marks by which they are joined."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil
from typing import TYPE_CHECKING

from mild_compass.craft.sheet.printer import TRUE_PRINTER, Printer
from mild_compass.craft.sheet.squared import column_name
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.craft.sheet.printer import OutputSettings
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.sheet import Pages, SheetPlan

# ISO 216; ANSI/ASME Y14.1 and US paper sizes.
PAGES_MM: dict[str, tuple[float, float]] = {
    "A5": (148.0, 210.0),
    "A4": (210.0, 297.0),
    "Letter": (215.9, 279.4),
    "Legal": (215.9, 355.6),
    "A3": (297.0, 420.0),
    "Tabloid": (279.4, 431.8),
}
PRINTER_EDGE_MM = 10.0  # no home printer prints right to the edge: common practice, no published source
OVERLAP_MM = 15.0
FOOT_MM = 14.0  # kept free at the bottom of every page for the calibration bar and the words
LEAST_NEW_MM = 20.0  # of the sheet that every further page must add
MOST_TILES = 400  # bounds the printing


@dataclass(frozen=True, slots=True)
class Tile:
    """One page: which part of the sheet it shows, and where on the page that part's corner lies."""

    row: int
    column: int
    left_mm: float
    top_mm: float
    width_mm: float
    height_mm: float
    page_x_mm: float
    page_y_mm: float

    @property
    def name(self) -> str:
        """Row letter and column number, as A1, A2, B1."""
        return f"{column_name(self.row)}{self.column + 1}"

    @property
    def joining(self) -> str:
        """How it joins the pages before it: rows are joined first, then row to row."""
        if self.column:
            return f"Lay its left edge over {column_name(self.row)}{self.column}, mark on mark."
        if self.row:
            return f"Begins row {column_name(self.row)}; lay the joined row over row {column_name(self.row - 1)}."
        return "Begin here."


@dataclass(frozen=True, slots=True)
class Tiling:
    """Pages in order, their size, and the registration points on the sheet that neighbours share.

    Lengths are true ones; a page is so many of them large that the ``printer`` fills the real page with it.
    """

    page_width_mm: float
    page_height_mm: float
    rows: int
    columns: int
    tiles: tuple[Tile, ...]
    overlap_mm: float = OVERLAP_MM
    printer: Printer = TRUE_PRINTER

    def marks_of(self, tile: Tile) -> list[tuple[float, float]]:
        """Registration points in sheet mm that lie on this tile: in the middle of each overlap, two per seam."""
        step_x = _step(self.page_width_mm, 0.0, self.overlap_mm)
        step_y = _step(self.page_height_mm, FOOT_MM, self.overlap_mm)
        points = []
        for seam in (tile.column, tile.column + 1):
            if 0 < seam < self.columns:
                x = seam * step_x + self.overlap_mm / 2
                points += [(x, tile.top_mm + share * tile.height_mm) for share in (0.25, 0.75)]
        for seam in (tile.row, tile.row + 1):
            if 0 < seam < self.rows:
                y = seam * step_y + self.overlap_mm / 2
                points += [(tile.left_mm + share * tile.width_mm, y) for share in (0.25, 0.75)]
        return points


def _step(page_mm: float, foot_mm: float, overlap_mm: float) -> float:
    return page_mm - 2 * PRINTER_EDGE_MM - foot_mm - overlap_mm


def tiles_for(paper: Paper, pages: str, overlap_mm: float = OVERLAP_MM, printer: Printer = TRUE_PRINTER) -> Tiling:
    """Pages of the named format, upright or across, whichever needs fewer; a PlanError where the overlap eats them.

    Raises:
        PlanError: the overlap leaves nothing of a page, or there would be far too many pages.
    """
    width, height = PAGES_MM[pages]
    if _step(min(width, height), FOOT_MM, overlap_mm) < LEAST_NEW_MM:
        raise PlanError(
            f"An overlap of {overlap_mm:g} mm leaves nothing of a page of {width:g} × {height:g} mm. "
            "Choose a smaller overlap or larger pages."
        )
    ways = [
        _tiling(paper, across / printer.across, down / printer.down, overlap_mm, printer)
        for across, down in ((width, height), (height, width))
    ]
    best = min(ways, key=lambda tiling: len(tiling.tiles))
    if len(best.tiles) > MOST_TILES:
        raise PlanError(f"This sheet would need {len(best.tiles)} pages. Choose one page and a print shop instead.")
    return best


def pages_for(sheet: SheetPlan, paper: Paper, output: OutputSettings) -> Pages:
    """The pages a sheet is printed on: those named, or the usual ones of the printer at hand.

    A sheet as large as the usual page, or so little smaller that the edges of the printer and the foot would part it,
    is printed on one page of its own size.
    """
    if sheet.pages != "usual":
        return sheet.pages
    page, own = sorted(PAGES_MM[output.page]), sorted((paper.width_mm, paper.height_mm))
    fits = own[0] <= page[0] + 0.5 and own[1] <= page[1] + 0.5
    if fits and len(tiles_for(paper, output.page, sheet.overlap_mm, output.printer).tiles) > 1:
        return "one page"
    return output.page


def tiling_of(sheet: SheetPlan, paper: Paper, output: OutputSettings) -> Tiling | None:
    """The pages of a study as they are set up; None for one page of the sheet's own size.

    Raises:
        PlanError: the overlap leaves nothing of a page, or there would be far too many.
    """
    pages = pages_for(sheet, paper, output)
    return None if pages == "one page" else tiles_for(paper, pages, sheet.overlap_mm, output.printer)


def _tiling(paper: Paper, page_width: float, page_height: float, overlap_mm: float, printer: Printer) -> Tiling:
    step_x, step_y = _step(page_width, 0.0, overlap_mm), _step(page_height, FOOT_MM, overlap_mm)
    columns = max(1, ceil((paper.width_mm - overlap_mm - 1e-9) / step_x))
    rows = max(1, ceil((paper.height_mm - overlap_mm - 1e-9) / step_y))
    tiles = tuple(
        Tile(
            row,
            column,
            column * step_x,
            row * step_y,
            min(step_x + overlap_mm, paper.width_mm - column * step_x),
            min(step_y + overlap_mm, paper.height_mm - row * step_y),
            PRINTER_EDGE_MM,
            PRINTER_EDGE_MM,
        )
        for row in range(rows)
        for column in range(columns)
    )
    return Tiling(page_width, page_height, rows, columns, tiles, overlap_mm, printer)
