"""A study's own check: what of it is looked for in a photo of the drawing, and the check itself."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check.asked import Asked
from mild_compass.craft.check.check import check
from mild_compass.craft.check.planned import frame_lines, planned_lines
from mild_compass.craft.check.tones import drawn_tones
from mild_compass.craft.perspective.worked import aims_of
from mild_compass.craft.sheet.measure import lengths_mm, points_mm
from mild_compass.craft.values.mass_guidance import lines_to_trace
from mild_compass.craft.values.masses import study_masses
from mild_compass.craft.worked import worked_study
from mild_compass.plan.guides import guide_name

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.checked import Checked
    from mild_compass.craft.check.pieces import PlanLine
    from mild_compass.craft.check.tones import DrawnTones
    from mild_compass.craft.picture.line_drawing import LineDrawing
    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.stage.staged import Staged
    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.model import Plan
    from mild_compass.plan.pictures import OwnDrawing

TONED = ("values", "finished")
POINT_RADIUS_MM = 8.0
WIDE_PARTS = 0.5  # of a length from its middle: what is measured is about so wide


def asked_of(
    worked: Worked,
    drawing: OwnDrawing,
    masses: Masses | None = None,
    lines: LineDrawing | None = None,
    scene: Staged | None = None,
) -> Asked:
    """What is looked for in a photo of this study's drawing."""
    paper = worked.plan.paper
    # Where there are tones their borders are lines as well, and what they explain says nothing of others.
    wanted = masses if {"masses", "edges"} & set(worked.study.sheet.layers) or drawing.stage in TONED else None
    return Asked(
        paper.width_mm,
        paper.height_mm,
        tuple(planned_lines(worked, wanted, lines, scene)),
        tuple(frame_lines(worked)),
        tuple(_names(worked)),
        paper.name,
        drawing.corners_px,
        drawing.focal_35mm,
        tuple((pair.plan_mm, pair.drawn_px) for pair in drawing.pairs),
        drawing.refused,
    )


def _names(worked: Worked) -> list[tuple[str, float, float, float]]:
    """What stands where on the sheet, by name: rings, guides, shapes, measures; name, x, y, radius in mm."""
    study, frame_map = worked.study, worked.frame_map
    found: list[tuple[str, float, float, float]] = []
    for ring in study.rings:
        x, y = frame_map.to_sheet((ring.x_px, ring.y_px)).tolist()
        found.append((ring.name, x, y, max(ring.radius_x_px, ring.radius_y_px) * frame_map.mm_per_px))
    for length, ends in zip(study.measures.lengths, lengths_mm(study.measures, frame_map), strict=True):
        (x0, y0), (x1, y1) = ends.tolist()
        if length.name:
            reach = float(np.hypot(x1 - x0, y1 - y0)) * WIDE_PARTS
            found.append((length.name, (x0 + x1) / 2, (y0 + y1) / 2, reach))
    for point, (x, y) in zip(study.measures.points, points_mm(study.measures, frame_map).tolist(), strict=True):
        if point.name:
            found.append((point.name, x, y, POINT_RADIUS_MM))
    for shape in study.shapes:
        if shape.name:
            x, y = frame_map.to_sheet((shape.x_px, shape.y_px)).tolist()
            found.append((shape.name, x, y, max(shape.half_width_px, shape.half_height_px) * frame_map.mm_per_px))
    for number, guide in enumerate(study.perspective.guides, 1):
        for x, y in frame_map.to_sheet(np.array(guide.points)).reshape(-1, 2).tolist()[:1]:
            found.append((guide.name or guide_name(guide, number), x, y, POINT_RADIUS_MM * 2))
    return found


@dataclass(frozen=True, eq=False, slots=True)
class StudyCheck:
    """A photo of the drawing against a study: what is off, the values where they are compared, the plan's lines."""

    checked: Checked
    tones: DrawnTones | None
    lines: tuple[PlanLine, ...]


def study_check(
    rgb: NDArray[np.uint8], plan: Plan, drawing: OwnDrawing, picture: Picture | None, with_values: bool
) -> StudyCheck:
    """A photo (h, w, 3) of the drawing against the plan's current study, whose picture is given where it has one."""
    study = plan.study
    assert study is not None
    worked = worked_study(plan, picture=picture)
    assert worked is not None
    lines = masses = None
    if picture is not None:
        lines = lines_to_trace(picture, study, plan.paper, aims_of(worked.perspective))
        if with_values or {"masses", "edges"} & set(study.sheet.layers):
            masses = study_masses(picture, study, plan.paper)
    asked = asked_of(worked, drawing, masses, lines)
    checked = check(rgb, asked)
    tones = None
    if checked.flat is not None and masses is not None and with_values:
        tones = drawn_tones(checked.flat, masses, worked.frame_map.box, checked.matrix)
    return StudyCheck(checked, tones, asked.lines)
