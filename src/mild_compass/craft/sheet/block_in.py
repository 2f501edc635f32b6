"""The order of drawing: halves first, then the largest lines and shapes, the small things last."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.drawing import Drawing, Layer, Stroke, stroke
from mild_compass.craft.sheet.artist_layers import big_lines_layer, datum_layer, shapes_layer
from mild_compass.craft.sheet.lifting import length_of

if TYPE_CHECKING:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.picture.line_drawing import LineDrawing
    from mild_compass.craft.values.masses import Masses
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Study

PARTS = (1, 3, 8, 20)  # every step draws two or three times as many things as the one before
TITLES = ("Halves and datum", "The biggest", "Next in size", "Middle sizes", "Small things")


@dataclass(frozen=True, eq=False, slots=True)
class Thing:
    """Something to be drawn: its strokes on the sheet, how large it is, and what it is."""

    name: str
    size_mm: float
    strokes: tuple[Stroke, ...]


@dataclass(frozen=True, eq=False, slots=True)
class BlockStep:
    """One step: what is new, what is there already, and its words."""

    title: str
    words: str
    new: tuple[Stroke, ...]
    before: tuple[Stroke, ...]

    def drawing(self, paper: Paper) -> Drawing:
        """New lines strong over pale ones that are there already."""
        pale = tuple(Stroke(mark.points_mm, "faint", 0.3, mark.dash) for mark in self.before)
        strong = tuple(Stroke(mark.points_mm, "mass", 0.5, mark.dash) for mark in self.new)
        return Drawing(paper.width_mm, paper.height_mm, (Layer("lines", pale), Layer("big lines", strong)))


def block_in(
    study: Study, frame_map: FrameMap, masses: Masses | None, lines: LineDrawing | None
) -> tuple[BlockStep, ...]:
    """Four or five steps where there is enough to draw; fewer where there is not."""
    things = sorted(_things(study, frame_map, masses, lines), key=lambda thing: -thing.size_mm)
    first = _halves(study, frame_map)
    steps = [BlockStep(TITLES[0], "Place everything from these lines.", first, ())]
    before = first
    bounds = np.cumsum((0, *PARTS)) / sum(PARTS)
    cuts = sorted({round(len(things) * share) for share in bounds})
    for number, (low, high) in enumerate(pairwise(cuts), 1):
        part = things[low:high]
        new = tuple(mark for thing in part for mark in thing.strokes)
        named = [thing.name for thing in part if thing.name][:3]
        told = f": {', '.join(named)}" if named else ""
        count = f"{len(part)} lines and shapes" if len(part) > 1 else "one line or shape"
        words = f"{count} of {part[-1].size_mm:.0f} mm and more{told}."
        steps.append(BlockStep(TITLES[min(number, len(TITLES) - 1)], words, new, before))
        before = (*before, *new)
    return tuple(steps)


def _halves(study: Study, frame_map: FrameMap) -> tuple[Stroke, ...]:
    left, top, right, bottom = frame_map.box
    x, y = (left + right) / 2, (top + bottom) / 2
    outline = [[left, top], [right, top], [right, bottom], [left, bottom], [left, top]]
    halves = (stroke([[x, top], [x, bottom]], "measure", 0.25, "dashed"), stroke([[left, y], [right, y]], "measure",
              0.25, "dashed"))  # fmt: skip
    return (stroke(outline, "measure", 0.35), *halves, *datum_layer(study.measures, frame_map).strokes)


def _things(study: Study, frame_map: FrameMap, masses: Masses | None, lines: LineDrawing | None) -> list[Thing]:
    found = [Thing("", length_of(mark), (mark,)) for mark in big_lines_layer(study.structure, frame_map).strokes]
    for shape in study.shapes:
        layer = shapes_layer((shape,), frame_map)
        if layer.strokes:
            points = np.concatenate([mark.points_mm for mark in layer.strokes])
            size = float(np.hypot(*np.ptp(points, axis=0)))
            found.append(Thing(shape.name or shape.kind, size, layer.strokes))
    if lines is not None:
        found += [
            Thing("", length_of(mark), (mark,)) for mark in (Stroke(line, "mass", 0.3) for line in lines.lines_mm)
        ]
    elif masses is not None:
        found += _mass_things(masses, frame_map)
    return found


def _mass_things(masses: Masses, frame_map: FrameMap) -> list[Thing]:
    """Where no lines are drawn from the photo, the outlines of its masses stand for them."""
    height, width = masses.steps.shape
    scale = np.array([frame_map.box.width / width, frame_map.box.height / height])
    found = []
    for polygon in masses.shapes.polygons:
        outline = shapely.get_coordinates(shapely.get_exterior_ring(polygon)) * scale + frame_map.box[:2]
        found.append(Thing("", float(np.hypot(*np.ptp(outline, axis=0))), (Stroke(outline, "mass", 0.3),)))
    return found
