"""What is to be put right, as a drawing: for each part where it belongs, an arrow, and how far, in mm."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check.readings import is_mended, off_parts
from mild_compass.craft.check.whole import applied
from mild_compass.craft.drawing import Drawing, Label, Layer, Stroke, stroke
from mild_compass.craft.sheet_sizes.lengths import format_length

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.checked import Checked, PartFound, PlaceFound
    from mild_compass.craft.drawing import Ink
    from mild_compass.craft.sheet_sizes.lengths import Unit
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.pictures import OwnDrawing

    Array = NDArray[np.float64]

TIMES = 5.0  # an arrow of its own length would hardly be seen
HEAD_MM, LEAST_MM = 3.0, 7.0
PLACE_MM, FAR_APART_MM = 1.0, 9.0  # single places that are off by more are shown as well, none near another


def correction(checked: Checked, drawing: OwnDrawing, paper: Paper, unit: Unit = "mm", times: float = TIMES) -> Drawing:
    """Arrows, ``times`` as long as what is off, numbered as the readings are; where each part belongs is dashed."""
    strokes: list[Stroke] = []
    labels: list[Label] = []
    if checked.matrix is not None:
        for number, part in enumerate(off_parts(checked, drawing), 1):
            strokes += [Stroke(line, "perspective", 0.25, "dashed") for line in belongs(checked, part)]
            tail = drawn_at(checked, part)
            strokes += arrow(tail, -np.array(part.shift_mm), times)
            words = f"{number}  {format_length(part.far_mm, unit)}"
            labels.append(Label(words, float(tail[0]) + 2, float(tail[1]) - 2, "armature", 4.0, "left"))
        for place in lone_places(checked, drawing):
            strokes += arrow(np.array(place.drawn_mm), -np.array(place.rest_mm), times, "measure", 0.3)
    return Drawing(paper.width_mm, paper.height_mm, (Layer("corrections", tuple(strokes), tuple(labels)),))


def belongs(checked: Checked, part: PartFound) -> list[Array]:
    """Where the lines of a part belong, drawn as the whole is: (n, 2) in mm each."""
    assert checked.matrix is not None
    return [applied(checked.matrix, np.array(line)) for line in part.lines_mm]


def drawn_at(checked: Checked, part: PartFound) -> Array:
    """Where the middle of a part was drawn, in mm."""
    assert checked.matrix is not None
    return np.asarray(applied(checked.matrix, np.array(part.centre_mm)) + np.array(part.shift_mm))


def arrow(tail: Array, way: Array, times: float, ink: Ink = "armature", width_mm: float = 0.6) -> list[Stroke]:
    """An arrow from where something is drawn toward where it belongs."""
    far = float(np.hypot(*way))
    if far < 1e-6:
        return []
    direction = way / far
    tip = tail + direction * max(far * times, LEAST_MM)
    side = np.array([-direction[1], direction[0]])
    head = [tip - direction * HEAD_MM + side * HEAD_MM / 2.4, tip, tip - direction * HEAD_MM - side * HEAD_MM / 2.4]
    return [stroke(np.stack([tail, tip]), ink, width_mm), stroke(np.stack(head), ink, width_mm)]


def lone_places(checked: Checked, drawing: OwnDrawing) -> list[PlaceFound]:
    """Places that are off without a part round them, the furthest first, few and apart."""
    parts = [part for part in checked.parts if part.sure or is_mended(part, drawing)]
    found: list[PlaceFound] = []
    for place in sorted(checked.places, key=lambda each: -float(np.hypot(*each.rest_mm))):
        if not place.off or np.hypot(*place.rest_mm) < PLACE_MM or place.part >= 0:
            continue
        mended = any(np.hypot(*np.subtract(place.plan_mm, at)) < FAR_APART_MM for at in drawing.mended)
        near = [*(other.plan_mm for other in found), *(part.centre_mm for part in parts)]
        if not mended and all(np.hypot(*np.subtract(place.plan_mm, at)) > FAR_APART_MM for at in near):
            found.append(place)
    return found
