"""The correction sheet: the drawing pale, what is to be put right on it at true size, and the list."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import numpy as np
from reportlab.lib.utils import simpleSplit

from mild_compass.craft.check.correction import correction
from mild_compass.craft.check.readings import off_parts, part_name, part_words, readings
from mild_compass.craft.check.tones import in_even_light
from mild_compass.craft.drawing import Label
from mild_compass.craft.geometry.lines import Box
from mild_compass.craft.sheet.tiles import pages_for
from mild_compass.output.canvas import FONT, UNITS_PER_MM, MmCanvas
from mild_compass.output.pdf import PageSetup, Printed, pages_pdf
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.craft.sheet.printer import OutputSettings
    from mild_compass.craft.worked import Worked

PALE, TRUE_TIMES = 0.45, 1.0  # how much of the drawing's darkness is left; arrows as long as what is off
PAGE_MM, EDGE_MM, LINE_MM, SIZE_MM = (210.0, 297.0), 18.0, 5.6, 3.2


def correction_pdf(worked: Worked, output: OutputSettings) -> bytes:
    """The sheet with arrows as long as what is off, on the pages the plan prints on.

    Raises:
        PlanError: nothing has been told of a drawing yet.
    """
    checked, drawing = worked.check, worked.plan.drawing
    if checked is None or checked.flat is None or drawing is None or checked.problem:
        raise PlanError("There is no check of a drawing to print yet. Nothing was written.")
    paper = worked.plan.paper
    even = in_even_light(checked.flat, worked.frame_map.box)
    pale = np.asarray(255 - (255 - even.astype(np.float32)) * PALE, np.uint8)
    marks = correction(checked, drawing, paper, worked.unit, TRUE_TIMES)
    printed = Printed(
        f"{worked.plan.name} – corrections", paper, marks, pale, Box(0, 0, paper.width_mm, paper.height_mm)
    )
    setup = PageSetup(
        pages_for(worked.study.sheet, paper, output), worked.study.sheet.overlap_mm, printer=output.printer
    )
    return pages_pdf(printed, setup)


def correction_list_pdf(worked: Worked) -> bytes:
    """The same as a list on one page, the furthest first."""
    checked, drawing = worked.check, worked.plan.drawing
    if checked is None or drawing is None or checked.problem:
        raise PlanError("There is no check of a drawing to print yet. Nothing was written.")
    target = io.BytesIO()
    canvas = MmCanvas(target, f"{worked.plan.name} – what to put right")
    canvas.begin(*PAGE_MM)
    canvas.words(Label(f"What to put right: {drawing.name}", EDGE_MM, EDGE_MM + 5, "mass", 4.6, "left"))
    y = EDGE_MM + 18
    parts = [f"{part_name(part, worked)}: {part_words(part, worked)}." for part in off_parts(checked, drawing)]
    rest = [each.text for each in readings(worked) if not each.key.startswith("part ")]
    for number, text in enumerate([*parts, *rest], 1):
        wide = (PAGE_MM[0] - 2 * EDGE_MM - 10) * UNITS_PER_MM
        if y > PAGE_MM[1] - EDGE_MM:
            canvas.end()
            canvas.begin(*PAGE_MM)
            y = EDGE_MM + 8
        if number <= len(parts):
            canvas.words(Label(f"{number}", EDGE_MM, y, "armature", SIZE_MM, "left"))
        for line in simpleSplit(text[:1].upper() + text[1:], FONT, SIZE_MM * 1.35 * UNITS_PER_MM, wide):
            canvas.words(Label(line, EDGE_MM + 10, y, "mass", SIZE_MM, "left"))
            y += LINE_MM
        y += 2.5
    canvas.end()
    canvas.save()
    return target.getvalue()
