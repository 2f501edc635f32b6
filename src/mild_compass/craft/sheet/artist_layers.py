"""Layers of what the artist has put down: big lines in drawing order, simple shapes, motif, datum, measures."""

from __future__ import annotations

from itertools import pairwise
from math import hypot
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.drawing import Label, Layer, Stroke, stroke
from mild_compass.craft.geometry.lines import clipped, parts_inside, sheet_box
from mild_compass.craft.perspective.pins import on_sheet, pin_words
from mild_compass.craft.perspective.sheet_marks import points_on_sheet
from mild_compass.craft.sheet.measure import datum_lines, length_name, lengths_mm, point_name, points_mm
from mild_compass.craft.sheet.motif import repeats
from mild_compass.craft.sheet.shapes import outline_of
from mild_compass.craft.sheet_sizes.lengths import Unit, format_length

if TYPE_CHECKING:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.perspective.worked import WorkedPerspective
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.sheet import BlockShape, MeasurePlan, Motif
    from mild_compass.plan.structure import Structure

Array = np.ndarray


def pieces_inside(line: Array, frame_map: FrameMap) -> list[Array]:
    """The parts of a polyline (n, 2) on the sheet that lie inside the picture, each in one run."""
    box = frame_map.box
    if len(line) > 1 and (line >= (box.left, box.top)).all() and (line <= (box.right, box.bottom)).all():
        return [line]  # as most are
    runs: list[list[Array]] = []
    for a, b in pairwise(line):
        piece = clipped(a, b, box)
        if piece is None:
            continue
        if runs and np.array_equal(runs[-1][-1], piece[0]):
            runs[-1].append(piece[1])
        else:
            runs.append([piece[0], piece[1]])
    return [np.array(run) for run in runs]


def margins_layer(paper: Paper) -> Layer:
    """The whole picture area, where the frame does not fill it."""
    left, top, right, bottom = paper.borders_mm
    right, bottom = paper.width_mm - right, paper.height_mm - bottom
    corners = [[left, top], [right, top], [right, bottom], [left, bottom], [left, top]]
    return Layer("margins", (stroke(corners, "measure", 0.15, "dashed"),))


def pins_layer(worked: WorkedPerspective, frame_map: FrameMap, paper: Paper, unit: Unit = "mm") -> Layer:
    """A pin on the paper as a ring; for one off the paper a stroke at its edge that points to it, and where it is."""
    strokes: list[Stroke] = []
    labels: list[Label] = []
    box = frame_map.box
    middle = np.array([(box.left + box.right) / 2, (box.top + box.bottom) / 2])
    angle = np.linspace(0, 2 * np.pi, 25)
    for letter, (x, y) in points_on_sheet(worked, frame_map).items():
        if on_sheet(x, y, paper):
            strokes.append(Stroke(np.stack([x + 1.5 * np.cos(angle), y + 1.5 * np.sin(angle)], 1), "perspective", 0.3))
            labels.append(Label(f"pin {letter}", x, y + 5, "perspective", 2.4))
            continue
        part = clipped(middle, (x, y), sheet_box(paper))
        if part is None:
            continue
        edge = part[1]
        back = (middle - edge) / max(float(hypot(*(middle - edge))), 1e-9)
        strokes.append(Stroke(np.array([edge, edge + 9 * back]), "perspective", 0.5))
        words = f"pin {letter}: {pin_words(x, y, paper, unit)}"
        anchor = "left" if x < middle[0] else "right"
        at = edge + 9 * back
        labels.append(Label(words, float(at[0]), float(at[1]) - 1.2, "perspective", 2.0, anchor))  # type: ignore[arg-type]
    return Layer("pins", tuple(strokes), tuple(labels))


def big_lines_layer(structure: Structure, frame_map: FrameMap) -> Layer:
    """The big lines, numbered in the order in which they are drawn: the longest first."""
    ends = np.array([[[a.x0_px, a.y0_px], [a.x1_px, a.y1_px]] for a in structure.lines], np.float64).reshape(-1, 2)
    parts, inside = parts_inside(frame_map.to_sheet(ends).reshape(-1, 2, 2), frame_map.box)
    order = drawing_order(parts, inside)
    strokes = tuple(Stroke(parts[k], "perspective", 0.4) for k in order)
    labels = tuple(
        Label(str(number), float(parts[k][:, 0].mean()), float(parts[k][:, 1].mean()) - 1.0, "perspective", 2.6)
        for number, k in enumerate(order, 1)
    )
    return Layer("big lines", strokes, labels)


def drawing_order(parts: Array, inside: Array) -> list[int]:
    """Lines inside the picture by their length there."""
    long = np.where(inside, np.hypot(*(parts[:, 1] - parts[:, 0]).T), 0.0) if len(parts) else np.zeros(0)
    return [int(k) for k in np.argsort(-long, kind="stable") if long[k] > 0]


def shapes_layer(shapes: tuple[BlockShape, ...], frame_map: FrameMap) -> Layer:
    """Simple shapes and proportion guides; what stays is drawn strong, the divisions of a guide thin."""
    strokes: list[Stroke] = []
    for shape in shapes:
        for number, line in enumerate(outline_of(shape)):
            weight = 0.15 if number else 0.4 if shape.stays else 0.25
            dash = "solid" if shape.stays and not number else "dashed"
            pieces = pieces_inside(frame_map.to_sheet(line), frame_map)
            strokes += [Stroke(piece, "subject", weight, dash) for piece in pieces]  # type: ignore[arg-type]
    return Layer("shapes", tuple(strokes))


def motif_layer(motif: Motif, frame_map: FrameMap) -> Layer:
    """The outlines of every place that can be seen, what is hidden left out, numbered in the order of transfer."""
    found = repeats(motif, frame_map.box)
    strokes = tuple(Stroke(line, "mass", 0.3) for lines in found.lines for line in lines)
    labels = tuple(
        Label(f"{number}{' ↻' if each.reload else ''}", motif.places[each.place].x_mm, motif.places[each.place].y_mm,
              "measure", 2.8)
        for number, each in enumerate(found.transfers, 1)
    )  # fmt: skip
    return Layer("motif", strokes, labels)


def datum_layer(plan: MeasurePlan, frame_map: FrameMap) -> Layer:
    """The datum lines across the picture, with their names."""
    box = frame_map.box
    strokes, labels = [], []
    for each in datum_lines(plan.datums, frame_map):
        if each.kind == "upright":
            strokes.append(stroke([[each.at_mm, box.top], [each.at_mm, box.bottom]], "measure", 0.3, "dash-dot"))
            labels.append(Label(each.name, each.at_mm + 1, box.top + 3.4, "measure", 2.4, "left"))
        else:
            strokes.append(stroke([[box.left, each.at_mm], [box.right, each.at_mm]], "measure", 0.3, "dash-dot"))
            labels.append(Label(each.name, box.left + 1, each.at_mm - 1, "measure", 2.4, "left"))
    return Layer("datum", tuple(strokes), tuple(labels))


def measures_layer(plan: MeasurePlan, frame_map: FrameMap, unit: Unit = "mm") -> Layer:
    """Measured places, lengths with their figures, shapes between things, and the axis."""
    strokes: list[Stroke] = []
    labels: list[Label] = []
    for k, (x, y) in enumerate(points_mm(plan, frame_map).tolist()):
        strokes += [stroke([[x - 2, y], [x + 2, y]], "measure", 0.3), stroke([[x, y - 2], [x, y + 2]], "measure", 0.3)]
        labels.append(Label(point_name(plan.points[k].name, k), x + 2.4, y - 1.4, "measure", 2.4, "left"))
    for k, ends in enumerate(lengths_mm(plan, frame_map)):
        strokes += [Stroke(ends, "measure", 0.35), *_end_ticks(ends)]
        told = format_length(float(np.hypot(*(ends[1] - ends[0]))), unit)
        words = f"{length_name(plan.lengths[k].name, k)} {told}"
        x, y = ends.mean(0).tolist()
        labels.append(Label(words, x + 1.5, y - 1.2, "measure", 2.4, "left"))
    for each in plan.negatives:
        outline = frame_map.to_sheet([*each.points, each.points[0]])
        strokes += [Stroke(piece, "measure", 0.25, "dotted") for piece in pieces_inside(outline, frame_map)]
    if plan.symmetry is not None:
        strokes.append(Stroke(frame_map.to_sheet(plan.symmetry.axis), "measure", 0.3, "dash-dot"))
    return Layer("measures", tuple(strokes), tuple(labels))


def _end_ticks(ends: Array) -> list[Stroke]:
    way = (ends[1] - ends[0]) / np.hypot(*(ends[1] - ends[0]))
    square = np.array([-way[1], way[0]]) * 1.6
    return [Stroke(np.array([end - square, end + square]), "measure", 0.3) for end in ends]
