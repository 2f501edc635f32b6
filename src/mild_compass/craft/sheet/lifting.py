"""Two kinds of line: construction, drawn light and lifted at the end, and lines that stay."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.drawing import Drawing, Layer

if TYPE_CHECKING:
    from mild_compass.craft.drawing import Stroke
    from mild_compass.plan.sheet import SheetPlan

LAYER_WORDS = {
    "picture": "photo",
    "frame": "frame and middle ticks",
    "margins": "margins",
    "grid": "squared grid",
    "masses": "mass outlines",
    "edges": "edges, hard to lost",
    "planes": "direction of strokes",
    "lines": "lines from the photo",
    "armature": "armature",
    "horizon": "horizon and traced edges",
    "pins": "pins",
    "ticks": "edge ticks",
    "guides": "perspective guides",
    "stage": "lines of the scene",
    "stage behind": "hidden lines of the scene",
    "stage construction": "construction of the scene",
    "stage shadows": "edges of cast shadows",
    "big lines": "big lines in drawing order",
    "shapes": "simple shapes",
    "departures": "planned changes",
    "motif": "motif repeats",
    "datum": "datum lines",
    "measures": "measures",
    "threads": "threads",
}
FAINTER, STRONGER = 0.7, 1.4  # weights of construction and of lines that stay, where all is printed in grey
LEAST_MM = 0.1


@dataclass(frozen=True, slots=True)
class ToLift:
    """A kind of construction on the sheet: its name, how many lines, how long they are together."""

    name: str
    lines: int
    length_mm: float


def length_of(mark: Stroke) -> float:
    """How long a stroke is, in mm."""
    return float(np.hypot(*np.diff(mark.points_mm, axis=0).T).sum())


def stays(layer: Layer, mark: Stroke, sheet: SheetPlan) -> bool:
    """Whether a line is still there at the end; of the simple shapes those that the artist says so of."""
    if layer.name == "shapes":
        return mark.dash == "solid"
    return layer.name in sheet.staying or layer.name == "frame"


def to_lift(drawing: Drawing, sheet: SheetPlan) -> list[ToLift]:
    """What is lifted at the end, the most first; labels go with their layer."""
    found: dict[str, tuple[int, float]] = {}
    for layer in drawing.layers:
        marks = [mark for mark in layer.strokes if not stays(layer, mark, sheet)]
        if marks:
            lines, length = found.get(layer.name, (0, 0.0))
            found[layer.name] = (lines + len(marks), length + sum(map(length_of, marks)))
    rows = [ToLift(LAYER_WORDS[name], lines, length) for name, (lines, length) in found.items()]
    return sorted(rows, key=lambda row: -row.length_mm)


def in_greys(drawing: Drawing, sheet: SheetPlan) -> Drawing:
    """The drawing for a plain pencil: construction thin and pale, lines that stay black and stronger."""
    return replace(drawing, layers=tuple(_in_greys(layer, sheet) for layer in drawing.layers))


def _in_greys(layer: Layer, sheet: SheetPlan) -> Layer:
    strokes = tuple(
        replace(mark, ink="mass", width_mm=STRONGER * mark.width_mm)
        if stays(layer, mark, sheet)
        else replace(mark, ink="faint", width_mm=max(LEAST_MM, FAINTER * mark.width_mm))
        for mark in layer.strokes
    )
    return replace(layer, strokes=strokes, labels=tuple(replace(label, ink="measure") for label in layer.labels))


def without_labels(drawing: Drawing) -> Drawing:
    """Only the lines."""
    return replace(drawing, layers=tuple(replace(layer, labels=()) for layer in drawing.layers))
