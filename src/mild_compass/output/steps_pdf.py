"""The steps of a construction as one printed page with its figure."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import numpy as np
from reportlab.lib.utils import simpleSplit

from mild_compass.craft.armature.constructions import in_box, lines_of, titled
from mild_compass.craft.armature.steps import construction_steps
from mild_compass.craft.drawing import Label
from mild_compass.craft.geometry.lines import Box, picture_box
from mild_compass.output.canvas import FONT, UNITS_PER_MM, MmCanvas

if TYPE_CHECKING:
    from mild_compass.craft.sheet_sizes.lengths import Unit
    from mild_compass.plan.model import Plan
    from mild_compass.plan.structure import Construction

PAGE_MM, EDGE_MM, FIGURE_MM, LINE_MM, SIZE_MM = (210.0, 297.0), 18.0, (120.0, 90.0), 6.0, 3.0


def steps_pdf(plan: Plan, construction: Construction, unit: Unit = "mm") -> bytes:
    """The PDF's bytes, on A4."""
    assert plan.study is not None
    box, structure = picture_box(plan.paper, plan.study.frame), plan.study.structure
    target = io.BytesIO()
    title = f"{titled(construction)} on {plan.paper.name}"
    canvas = MmCanvas(target, title)
    canvas.begin(*PAGE_MM)
    canvas.words(Label(title, EDGE_MM, EDGE_MM + 5, "mass", 4.6, "left"))
    foot = _figure(canvas, box, lines_of(construction, box.width / box.height, structure.theme_end, structure.nested))
    y = foot + 12
    for number, step in enumerate(construction_steps(construction, box, unit, structure.nested), 1):
        wide = (PAGE_MM[0] - 2 * EDGE_MM - 10) * UNITS_PER_MM
        canvas.words(Label(f"{number}", EDGE_MM, y, "armature", SIZE_MM, "left"))
        for line in simpleSplit(step, FONT, SIZE_MM * 1.35 * UNITS_PER_MM, wide):
            canvas.words(Label(line, EDGE_MM + 10, y, "mass", SIZE_MM, "left"))
            y += LINE_MM
        y += 3
    canvas.end()
    canvas.save()
    return target.getvalue()


def _figure(canvas: MmCanvas, box: Box, lines: np.ndarray) -> float:
    """The construction in the sheet's proportion; where it ends on the page, in mm."""
    width = min(FIGURE_MM[0], FIGURE_MM[1] * box.width / box.height)
    top = EDGE_MM + 14
    here = Box(EDGE_MM, top, EDGE_MM + width, top + width * box.height / box.width)
    corners = np.array([[0, 0], [1, 0], [1, 1], [0, 1], [0, 0]], np.float64)
    canvas.stroke(corners * (here.width, here.height) + here[:2], 0.4, "mass")
    for line in in_box(lines, here):
        canvas.stroke(line, 0.25, "armature")
    return here.bottom
