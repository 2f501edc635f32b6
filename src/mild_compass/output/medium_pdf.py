"""The plan of work as printed sheets: step pictures beside a value scale; and a value scale by itself."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import numpy as np
from reportlab.lib.utils import simpleSplit

from mild_compass.craft.cautions import cautions_for
from mild_compass.craft.drawing import Label
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.picture.tone import grey_of_lightness
from mild_compass.craft.values.edges import edges_of
from mild_compass.craft.values.medium import MEDIUM_WORDS, medium_work
from mild_compass.craft.values.scale import strip_values
from mild_compass.output.canvas import FONT, UNITS_PER_MM, MmCanvas, as_reader

if TYPE_CHECKING:
    from mild_compass.craft.values.masses import Masses
    from mild_compass.plan.model import Plan

PAGE_MM, EDGE_MM, LINE_MM, SIZE_MM = (210.0, 297.0), 16.0, 4.6, 2.4
COLUMN_MM, ROW_GAP_MM, PICTURE_MM, MASK_MM = 78.0, 8.0, (50.0, 50.0), 19.0
SCALE_MM = 12.0  # width of the value scale at the right
PATCH_MM = (26.0, 180.0)


def medium_pdf(plan: Plan, masses: Masses) -> bytes:
    """The PDF's bytes, on A4: two columns of steps, the scale of the values at the right of every page."""
    assert plan.study is not None
    study, box = plan.study, picture_box(plan.paper, plan.study.frame)
    edges = edges_of(masses, study.values.edges, FrameMap.of(study.frame, plan.paper))
    work = medium_work(masses, study.medium, edges)
    target = io.BytesIO()
    title = f"{plan.name} – study {plan.study.name}: {MEDIUM_WORDS[plan.study.medium.medium]}"
    canvas = MmCanvas(target, title)
    width = min(PICTURE_MM[0], PICTURE_MM[1] * box.width / box.height)
    height = width * box.height / box.width
    y = _begin(canvas, title, masses)
    for line in (*work.warnings, *cautions_for(plan.study.medium.medium)):
        y = _words(canvas, line, EDGE_MM, y, 2 * COLUMN_MM) + 1
    y += 4
    column, row_foot = 0, y
    for number, step in enumerate(work.steps, 1):
        needed = height + 3 * LINE_MM + ROW_GAP_MM
        if column == 0 and y + needed > PAGE_MM[1] - EDGE_MM:
            canvas.end()
            y = row_foot = _begin(canvas, title, masses)
        x = EDGE_MM + column * (COLUMN_MM + 4)
        grey = np.repeat(grey_of_lightness(step.after)[..., None], 3, 2)
        canvas.picture(as_reader(grey), x, y, width, height)
        _mask(canvas, step.mask, x + width + 2, y, height * MASK_MM / width)
        canvas.words(Label(f"{number}  {step.title}, {100 * step.share:.0f} %", x, y + height + 5, "mass", 2.8, "left"))
        row_foot = max(row_foot, _words(canvas, step.words, x, y + height + 10, COLUMN_MM))
        column = 1 - column
        if column == 0:
            y = row_foot = row_foot + ROW_GAP_MM
    canvas.end()
    canvas.save()
    return target.getvalue()


def _mask(canvas: MmCanvas, mask: np.ndarray, x: float, y: float, height: float) -> None:
    """What is worked on in a step, dark on white."""
    pixels = np.repeat(np.where(mask, 70, 255).astype(np.uint8)[..., None], 3, 2)
    canvas.picture(as_reader(pixels), x, y, MASK_MM, height)
    rim = np.array([[0, 0], [1, 0], [1, 1], [0, 1], [0, 0]]) * (MASK_MM, height) + (x, y)
    canvas.stroke(rim, 0.15, "mass")


def _begin(canvas: MmCanvas, title: str, masses: Masses) -> float:
    canvas.begin(*PAGE_MM)
    canvas.words(Label(title, EDGE_MM, EDGE_MM + 4, "mass", 4.0, "left"))
    right = PAGE_MM[0] - EDGE_MM - SCALE_MM
    _patches(canvas, masses.shown, right, EDGE_MM + 14, (SCALE_MM, 150.0))
    return EDGE_MM + 14


def _words(canvas: MmCanvas, text: str, x: float, y: float, width_mm: float) -> float:
    """Words in lines; where the next line would stand."""
    for line in simpleSplit(text, FONT, SIZE_MM * 1.35 * UNITS_PER_MM, width_mm * UNITS_PER_MM):
        canvas.words(Label(line, x, y, "mass", SIZE_MM, "left"))
        y += LINE_MM
    return y


def _patches(canvas: MmCanvas, values: tuple[float, ...], x: float, y: float, size_mm: tuple[float, float]) -> None:
    """Patches from light on top to dark, each with its L* at the left."""
    height = size_mm[1] / len(values)
    for k, value in enumerate(reversed(values)):
        grey = int(grey_of_lightness(np.array(value)))
        canvas.picture(as_reader(np.full((8, 8, 3), grey, np.uint8)), x, y + k * height, size_mm[0], height)
        canvas.words(Label(f"L* {value:.0f}", x - 1.5, y + (k + 0.5) * height + 1, "mass", 2.2, "right"))
    frame = np.array([[x, y], [x + size_mm[0], y], [x + size_mm[0], y + size_mm[1]], [x, y + size_mm[1]], [x, y]])
    canvas.stroke(frame, 0.2, "mass")


def value_strip_pdf(steps: int) -> bytes:
    """A value scale for matching, patches of even steps in L*, on A4."""
    values = strip_values(steps)
    target = io.BytesIO()
    canvas = MmCanvas(target, f"Value scale of {steps}")
    canvas.begin(*PAGE_MM)
    canvas.words(Label(f"Value scale, {steps} steps", EDGE_MM, EDGE_MM + 4, "mass", 4.0, "left"))
    y = EDGE_MM + 14
    _patches(canvas, values, EDGE_MM + 24, y, PATCH_MM)
    how = (
        "Cut along the edge of the scale. Hold it against the drawing and half close your eyes: the patch that "
        "disappears is the value. Printers differ; what counts is that the steps look even."
    )
    _words(canvas, how, EDGE_MM + 62, y + 6, 90)
    canvas.end()
    canvas.save()
    return target.getvalue()
