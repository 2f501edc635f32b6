"""What the sheet says: its size, the pages it needs, the squares of the grid."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.reading import Reading
from mild_compass.craft.sheet.layers import sheet_drawing
from mild_compass.craft.sheet.measure_readings import lift_reading, measure_readings, motif_readings
from mild_compass.craft.sheet.squared import cell_mm, grid_marks, squared_grid
from mild_compass.craft.sheet.tiles import pages_for, tiling_of
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked


NOT_DRAWN = ("picture", "lines")


def page_count(worked: Worked) -> int:
    """Pages the printer will use."""
    tiling = tiling_of(worked.study.sheet, worked.plan.paper, worked.output)
    return 1 if tiling is None else len(tiling.tiles)


def headline(worked: Worked) -> str:
    """For the route."""
    try:
        count = page_count(worked)
    except PlanError:
        return "too many pages"
    return "1 page" if count == 1 else f"{count} pages"


def readings(worked: Worked) -> list[Reading]:
    """All readings of the sheet."""
    found = [_size(worked), _pages(worked)]
    if "grid" in worked.study.sheet.layers:
        found.append(_squares(worked))
    if worked.study.sheet.mirrored:
        text = "Printed mirrored: for tracing with graphite on the back. Turned over, it comes out right."
        found.append(Reading("mirrored", "Mirrored", text, verdict="look", shown="yes"))
    found += [*measure_readings(worked), *motif_readings(worked)]
    layers = tuple(name for name in worked.study.sheet.layers if name not in NOT_DRAWN)
    try:
        drawing = sheet_drawing(worked.study, worked.plan.paper, worked.perspective, worked.masses, layers)
    except PlanError:
        return found
    return [*found, *lift_reading(worked, drawing)]


def _size(worked: Worked) -> Reading:
    paper, unit = worked.plan.paper, worked.unit
    width, height = format_length(paper.width_mm, unit), format_length(paper.height_mm, unit)
    box = worked.frame_map.box
    inner = f"{format_length(box.width, unit)} × {format_length(box.height, unit)}"
    text = f"The sheet is {width} × {height}; the picture on it {inner}."
    return Reading("sheet_size", "Sheet", text, round(paper.width_mm, 2), "mm wide", shown=paper.name)


def _pages(worked: Worked) -> Reading:
    sheet, paper = worked.study.sheet, worked.plan.paper
    try:
        tiling = tiling_of(sheet, paper, worked.output)
    except PlanError as error:
        return Reading("pages", "Pages", str(error), verdict="act", shown="–")
    if tiling is None:
        text = "Printed on one page of the sheet's own size."
        return Reading("pages", "Pages", text, 1.0, "pages", shown="1")
    pages = pages_for(sheet, paper, worked.output)
    count = len(tiling.tiles)
    text = (
        f"Printed on {count} {pages} pages, {tiling.columns} across and {tiling.rows} down. "
        "Measure the 100 mm bar on the first page before you join them."
    )
    return Reading("pages", "Pages", text, float(count), "pages", shown=str(count))


def _squares(worked: Worked) -> Reading:
    paper, box = worked.plan.paper, worked.frame_map.box
    spacing = cell_mm(box.width, worked.study.sheet)
    try:
        squared_grid(box, paper, spacing)
    except PlanError as error:
        return Reading("squares", "Grid", str(error), verdict="act", shown="–")
    columns = len(grid_marks(box.width, spacing)) + 1
    rows = len(grid_marks(box.height, spacing)) + 1
    on_photo = spacing / worked.frame_map.mm_per_px
    side = format_length(spacing, worked.unit)
    text = f"{columns} × {rows} squares of {side}; each takes in {on_photo:.0f} pixels of the photo."
    return Reading("squares", "Grid", text, round(spacing, 2), "mm", shown=f"{columns} × {rows}")
