"""What of a plan a hand may have drawn: its lines on the sheet by kind, with their names."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check.pieces import PlanLine
from mild_compass.craft.perspective.worked import aims_of
from mild_compass.craft.sheet.layers import sheet_drawing
from mild_compass.craft.values.mass_guidance import lines_to_trace
from mild_compass.craft.worked import worked_study
from mild_compass.plan.sheet import SheetLayer

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from mild_compass.craft.drawing import Layer
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.picture.line_drawing import LineDrawing
    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.stage.staged import Staged
    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.model import Plan

    Array = NDArray[np.float64]

# In this order: what is drawn by one of them is not asked again of the next.
KINDS: tuple[tuple[SheetLayer, str], ...] = (
    ("lines", "lines from the photo"),
    ("stage", "the stage"),
    ("big lines", "big lines"),
    ("horizon", "traced edges"),
    ("shapes", "simple shapes"),
    ("guides", "guides"),
    ("masses", "outlines of the masses"),
)
WORDS = dict(KINDS)


def planned_lines(
    worked: Worked, masses: Masses | None, lines: LineDrawing | None, scene: Staged | None = None
) -> list[PlanLine]:
    """Every line of the study that can be drawn, in mm on the sheet."""
    study, paper = worked.study, worked.plan.paper
    names = tuple(name for name, _ in KINDS)
    drawing = sheet_drawing(study, paper, worked.perspective, masses, names, lines, scene=scene)
    found = []
    for layer in drawing.layers:
        words = _names(layer, worked)
        for number, stroke in enumerate(layer.strokes):
            if layer.name == "horizon" and _is_mark(stroke.points_mm, worked.frame_map):
                continue
            if stroke.dash == "dotted" and layer.name == "guides":
                continue  # cast shadows of figures are not drawn as lines
            found.append(PlanLine(np.asarray(stroke.points_mm, np.float64), layer.name, words[number]))
    return [line for line in found if len(line.points_mm) > 1]


def study_lines(plan: Plan, picture: Picture | None) -> tuple[PlanLine, ...]:
    """The same from a plan and its study's picture; no outlines of masses."""
    worked = worked_study(plan, picture=picture)
    assert worked is not None
    lines = None
    if picture is not None and plan.ground(worked.study).is_photo:
        lines = lines_to_trace(picture, worked.study, plan.paper, aims_of(worked.perspective))
    return tuple(planned_lines(worked, None, lines))


def _names(layer: Layer, worked: Worked) -> list[str]:
    if layer.name in ("guides", "stage"):
        return [layer.title] * len(layer.strokes)
    if layer.name == "shapes" and len(worked.study.shapes) == len(layer.strokes):
        return [shape.name for shape in worked.study.shapes]
    return [""] * len(layer.strokes)


def _is_mark(points: Array, frame_map: FrameMap) -> bool:
    """Whether a stroke of the perspective is the horizon or a cross at a point: not what anybody draws."""
    box = frame_map.box
    return bool(np.ptp(points, axis=0).max() < 8 or np.ptp(points[:, 0]) > box.width * 0.98)


def frame_lines(worked: Worked) -> list[PlanLine]:
    """The four sides of the drawn frame."""
    left, top, right, bottom = worked.frame_map.box
    corners = np.array([[left, top], [right, top], [right, bottom], [left, bottom]], np.float64)
    return [PlanLine(np.stack([a, b]), "frame") for a, b in zip(corners, np.roll(corners, -1, 0), strict=True)]


def without_doubles(lines: Sequence[PlanLine], near_mm: float = 0.9) -> list[PlanLine]:
    """Lines of which one that came before already tells the same: only what is new of them stays."""
    from scipy.spatial import cKDTree

    kept: list[PlanLine] = []
    seen: list[Array] = []
    for layer in dict.fromkeys(line.layer for line in lines):
        tree = cKDTree(np.concatenate(seen)) if seen else None
        mine: list[Array] = []
        for line in (each for each in lines if each.layer == layer):
            dense = _dense(line.points_mm)
            if not len(dense):
                continue
            mine.append(dense)
            if tree is None:
                kept.append(line)
                continue
            new = tree.query(dense)[0] > near_mm
            kept += [PlanLine(run, layer, line.name) for run in _runs(dense, new)]
        seen += mine
    return kept


def _dense(points: Array, step_mm: float = 0.8) -> Array:
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.union1d(way, np.arange(0.0, way[-1], step_mm))
    return np.stack([np.interp(at, way, points[:, axis]) for axis in range(2)], 1)


def _runs(points: Array, wanted: NDArray[np.bool_]) -> list[Array]:
    edges = np.diff(np.concatenate([[0], wanted.astype(np.int8), [0]]))
    starts, ends = np.nonzero(edges == 1)[0], np.nonzero(edges == -1)[0]
    return [points[a:b] for a, b in zip(starts, ends, strict=True) if b - a >= 4]
