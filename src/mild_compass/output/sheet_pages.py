"""Pages to keep beside the easel: the table of measures, a transfer guide, the order of drawing."""

from __future__ import annotations

import io
from math import isfinite
from typing import TYPE_CHECKING

from reportlab.lib.utils import simpleSplit

from mild_compass.craft.drawing import Ink, Label
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.sheet.alignments import alignments
from mild_compass.craft.sheet.measure import side_words, study_measures
from mild_compass.craft.sheet.symmetry import compared_sides
from mild_compass.craft.sheet_sizes.lengths import Unit, format_length
from mild_compass.output.canvas import FONT, UNITS_PER_MM, MmCanvas
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.craft.sheet.block_in import BlockStep
    from mild_compass.craft.sheet.measure import Measures
    from mild_compass.craft.sheet.transfer import TransferGuide
    from mild_compass.plan.model import Plan
    from mild_compass.plan.study import Study

PAGE_MM, EDGE_MM, LINE_MM, SIZE_MM = (210.0, 297.0), 18.0, 5.4, 2.6
COLUMN_MM, PICTURE_MM = 88.0, 82.0


class Page:
    """Writes down an A4 page, and goes on to the next when it is full."""

    def __init__(self, title: str) -> None:
        self._target = io.BytesIO()
        self.canvas = MmCanvas(self._target, title)
        self._title = title
        self.y = 0.0
        self._open = False
        self._begin()

    def _begin(self) -> None:
        if self._open:
            self.canvas.end()
        self.canvas.begin(*PAGE_MM)
        self._open = True
        self.canvas.words(Label(self._title, EDGE_MM, EDGE_MM + 4, "mass", 4.2, "left"))
        self.y = EDGE_MM + 16

    def room(self, height_mm: float) -> None:
        """Turn the page when so much does not fit any more."""
        if self.y + height_mm > PAGE_MM[1] - EDGE_MM:
            self._begin()

    def head(self, text: str) -> None:
        """A heading of a part."""
        self.room(3 * LINE_MM)
        self.y += 2
        self.canvas.words(Label(text, EDGE_MM, self.y, "armature", 3.0, "left"))
        self.y += LINE_MM + 1

    def text(self, text: str, indent_mm: float = 0.0, mark: str = "") -> None:
        """Words that wrap."""
        wide = (PAGE_MM[0] - 2 * EDGE_MM - indent_mm) * UNITS_PER_MM
        lines = simpleSplit(text, FONT, SIZE_MM * 1.35 * UNITS_PER_MM, wide)
        self.room(len(lines) * LINE_MM)
        if mark:
            self.canvas.words(Label(mark, EDGE_MM, self.y, "armature", SIZE_MM, "left"))
        for line in lines:
            self.canvas.words(Label(line, EDGE_MM + indent_mm, self.y, "mass", SIZE_MM, "left"))
            self.y += LINE_MM

    def narrow(self, text: str, x: float, y: float, wide_mm: float, ink: Ink = "mass") -> float:
        """Words that wrap within a column somewhere on the page; where the next line would stand."""
        for line in simpleSplit(text, FONT, SIZE_MM * 1.35 * UNITS_PER_MM, wide_mm * UNITS_PER_MM):
            self.canvas.words(Label(line, x, y, ink, SIZE_MM, "left"))
            y += LINE_MM - 0.4
        return y

    def row(self, cells: tuple[str, ...], right: frozenset[int] = frozenset()) -> None:
        """Cells side by side, those named set to the right."""
        self.room(LINE_MM)
        wide = (PAGE_MM[0] - 2 * EDGE_MM) / len(cells)
        for index, cell in enumerate(cells):
            x = EDGE_MM + wide * (index + (0.9 if index in right else 0))
            self.canvas.words(Label(cell, x, self.y, "mass", SIZE_MM, "right" if index in right else "left"))
        self.y += LINE_MM

    def cells(self, cells: tuple[str, ...], ink: Ink = "mass") -> None:
        """Cells side by side whose words wrap, each within its column."""
        wide = (PAGE_MM[0] - 2 * EDGE_MM) / len(cells)
        lines = [simpleSplit(cell, FONT, SIZE_MM * 1.35 * UNITS_PER_MM, (wide - 3) * UNITS_PER_MM) for cell in cells]
        deep = max(1, *map(len, lines))
        self.room(deep * LINE_MM)
        for column, words in enumerate(lines):
            for place, line in enumerate(words):
                x, y = EDGE_MM + wide * column, self.y + place * LINE_MM
                self.canvas.words(Label(line, x, y, ink, SIZE_MM, "left"))
        self.y += deep * LINE_MM + 1

    def done(self) -> bytes:
        """The PDF's bytes."""
        self.canvas.end()
        self.canvas.save()
        return self._target.getvalue()


def measures_pdf(plan: Plan, unit: Unit = "mm") -> bytes:
    """The table of measures in the artist's unit.

    Raises:
        PlanError: there is no study to measure in.
    """
    study = plan.study
    if study is None:
        raise PlanError("There is no photo in the plan yet, so nothing is measured. Add one first.")
    frame_map = FrameMap.of(study.frame, plan.paper)
    found = study_measures(study, plan.ground(study), plan.paper)
    page = Page(f"{plan.name} – measures on the sheet")
    _datum_part(page, found, unit)
    _length_part(page, found, unit)
    _rest(page, study, frame_map, found, unit)
    return page.done()


def _datum_part(page: Page, found: Measures, unit: Unit) -> None:
    if found.datums:
        page.head("Datum lines")
        for datum in found.datums:
            edge = "left" if datum.kind == "upright" else "top"
            page.text(f"{datum.name}: {format_length(datum.at_mm, unit)} from the {edge} edge of the sheet")
    if found.points:
        page.head("Places")
        for point in found.points:
            offs = zip(found.datums, point.from_datums_mm, strict=True)
            told = [f"{side_words(d.kind, off, format_length(abs(off), unit))} {d.name}" for d, off in offs]
            corner = f"{format_length(point.x_mm, unit)} across, {format_length(point.y_mm, unit)} down"
            page.text(f"{point.name}: {'; '.join(told) or corner}")


def _length_part(page: Page, found: Measures, unit: Unit) -> None:
    if not found.lengths:
        return
    page.head("Lengths")
    figures = frozenset({1, 2, 3})
    printed = any(isfinite(row.print_mm) for row in found.lengths)
    unit_head = f"in {found.unit_name}" if found.unit_name else ""
    page.row(("", "on the sheet", "on the print" if printed else "", unit_head, "leans"), figures)
    for row in found.lengths:
        units = f"{row.units:.2f}" if isfinite(row.units) else ""
        on_print = format_length(row.print_mm, unit) if printed else ""
        page.row((row.name, format_length(row.length_mm, unit), on_print, units, row.lean), figures)


def _rest(page: Page, study: Study, frame_map: FrameMap, found: Measures, unit: Unit) -> None:
    lined_up = alignments(study.measures, frame_map)
    if lined_up:
        page.head("What lines up")
        for each in lined_up:
            page.text(f"{each.words}, off by {format_length(each.off_mm, unit)}")
    if found.negatives:
        page.head("Shapes between things")
        for row in found.negatives:
            page.text(f"{row.name}: {format_length(row.width_mm, unit)} × {format_length(row.height_mm, unit)}")
    if study.measures.symmetry is not None:
        sides = compared_sides(study.measures.symmetry, frame_map)
        page.head(f"Both sides of the axis ({sides.lean})")
        for side in sides.rows:
            left, right = (format_length(each, unit) for each in (side.left_mm, side.right_mm))
            page.text(f"{format_length(side.along_mm, unit)} down the axis: left {left}, right {right}")


def guide_pdf(name: str, guide: TransferGuide) -> bytes:
    """A transfer guide as one page."""
    page = Page(f"{name} – {guide.title}")
    page.head("What to print")
    for line in guide.to_print:
        page.text(line)
    page.head("In this order")
    for number, step in enumerate(guide.steps, 1):
        page.text(step, 8.0, str(number))
        page.y += 1.5
    page.head("To heed")
    for line in guide.heed:
        page.text(line)
    return page.done()


def block_in_pdf(plan: Plan, steps: tuple[BlockStep, ...], title: str = "the order of drawing") -> bytes:
    """The steps as small pictures, two in a row, their words below."""
    assert plan.study is not None
    page = Page(f"{plan.name} – {title}")
    box = picture_box(plan.paper, plan.study.frame)
    scale = min(PICTURE_MM / box.width, PICTURE_MM / box.height)
    wide = PICTURE_MM * UNITS_PER_MM
    words = [simpleSplit(step.words, FONT, 2.2 * 1.35 * UNITS_PER_MM, wide) for step in steps]
    height = box.height * scale + 4 * (max(2, *map(len, words)) + 1) + LINE_MM
    for index, step in enumerate(steps):
        column = index % 2
        if column == 0:
            page.room(height)
        left = EDGE_MM + column * COLUMN_MM
        canvas = page.canvas
        canvas.words(Label(f"{index + 1}  {step.title}", left, page.y, "mass", SIZE_MM, "left"))
        canvas.pushed(scale, 0, 0, scale, left - box.left * scale, page.y + 3 - box.top * scale)
        canvas.drawing(step.drawing(plan.paper))
        canvas.popped()
        for number, line in enumerate(words[index]):
            at = page.y + 3 + box.height * scale + 4 + number * 4
            canvas.words(Label(line, left, at, "mass", 2.2, "left"))
        if column == 1 or index == len(steps) - 1:
            page.y += height
    return page.done()
