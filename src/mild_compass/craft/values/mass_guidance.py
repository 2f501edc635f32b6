"""The line drawing of a study with the masses' borders as a prior on what is drawn first."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.memo import Memo
from mild_compass.craft.picture.line_drawing import LineDrawing, line_drawing
from mild_compass.craft.picture.telling import Lead
from mild_compass.craft.values.detail import nearness, subjects_of, what_counts
from mild_compass.craft.values.masses import hierarchy_for
from mild_compass.craft.values.outlines import mass_shapes

if TYPE_CHECKING:
    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.values.detail import DetailWeight
    from mild_compass.craft.values.hierarchy import Hierarchy
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame, Study
    from mild_compass.plan.tones import ValuePlan

    Aims = tuple[tuple[float, float, float], ...]

SIMPLER = range(20, 100, 8)  # where it is looked whether a border still stands
OUTLINED = 66.0  # as simple as the picture is whose outlines are drawn for what lies within them
NEAR_PX = 5  # a border is told so wide
ROUNDING_PX = 3.0
_LEADS: Memo[Lead] = Memo(3)


def lines_to_trace(picture: Picture, study: Study, paper: Paper, aims: Aims = ()) -> LineDrawing:
    """The lines of a study's picture, as many as the study wants; ``aims`` as for line_drawing."""
    counts = what_counts(study)
    amount, subjects = study.sheet.trace_amount, subjects_of(study)
    return mass_guided_lines(amount, aims, subjects, picture, study.frame, paper, study.values, counts)


def mass_guided_lines(
    amount: float,
    aims: Aims,
    subjects: tuple[DetailWeight, ...],
    picture: Picture,
    frame: Frame,
    paper: Paper,
    values: ValuePlan,
    counts: tuple[DetailWeight, ...] = (),
) -> LineDrawing:
    """The same from what is needed of the study: in ``subjects`` lines count more, for ``counts`` detail is kept."""
    nested = hierarchy_for(picture, frame, paper, values, counts)
    lead = _LEADS.of(nested, (frame, paper, subjects), lambda: _lead(nested, frame, paper, subjects))
    return line_drawing(picture, frame, paper, amount, aims, lead)


def _lead(nested: Hierarchy, frame: Frame, paper: Paper, subjects: tuple[DetailWeight, ...]) -> Lead:
    height, width = nested.crumbs.shape
    standing = np.zeros((height, width), np.float32)
    wide = np.ones((NEAR_PX, NEAR_PX), np.uint8)
    for simple in SIMPLER:
        steps = nested.steps_at(nested.stop_at(simple))
        border = np.zeros((height, width), np.uint8)
        border[:, 1:] |= steps[:, 1:] != steps[:, :-1]
        border[1:] |= steps[1:] != steps[:-1]
        standing += cv2.dilate(border, wide).astype(np.float32) / np.float32(len(SIMPLER))
    box = picture_box(paper, frame)
    scale = np.array([box.width / width, box.height / height])
    outlines = mass_shapes(nested.steps_at(nested.stop_at(OUTLINED)), ROUNDING_PX).borders
    near = nearness((height, width), frame, paper, subjects)
    return Lead(standing, near, tuple(each * scale + box[:2] for each in outlines))
