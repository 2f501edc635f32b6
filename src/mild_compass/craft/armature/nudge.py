"""Nudge: the small shift or resize of the frame that locks most."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.armature.chance import Bench, Moves
from mild_compass.craft.armature.marks import drawn_lines, marks_on_sheet, tolerance
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.viewfinder.wishes import wishes_of
from mild_compass.plan.framing import about, corners, is_beyond

if TYPE_CHECKING:
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.study import Frame, Study

MOST_SHIFT, LOW_SCALE, HIGH_SCALE = 0.05, 0.95, 1.05
STEPS, SCALES = 11, 11
WORTH = 0.01  # of all weight: less gain than that is not worth a move


@dataclass(frozen=True, slots=True)
class Nudged:
    """The better frame, and the locked share before and after."""

    frame: Frame
    before: float
    after: float


def nudge(study: Study, photo: Ground, paper: Paper) -> Nudged | None:
    """The best frame near the present one that still holds all wishes, or None when none is worth it.

    Shifts up to 5 % of its size and scalings of 0.95-1.05 are tried; of frames that lock alike the nearest is taken.
    """
    frame_map = FrameMap.of(study.frame, paper)
    marks, box = marks_on_sheet(study.structure, frame_map), frame_map.box
    lines = drawn_lines(study, box)
    if marks.empty or not len(lines):
        return None
    moves = _grid()
    bench = Bench(marks, {"fourteen": lines}, box, tolerance(study.structure, box))
    scores = bench.scores(moves)[:, 0]
    before = float(scores[0])
    far = np.hypot(*moves.shifts.T) + np.abs(np.log(moves.scales))
    for index in np.lexsort((far, -np.round(scores, 9))):
        if scores[index] < before + WORTH:
            return None
        frame = _moved(study.frame, frame_map, moves, int(index))
        if _allowed(frame, study, photo):
            return Nudged(frame, before, float(scores[index]))
    return None


def _grid() -> Moves:
    """Every shift with every scaling, the frame as it is first."""
    steps = np.linspace(-MOST_SHIFT, MOST_SHIFT, STEPS)
    scales = np.linspace(LOW_SCALE, HIGH_SCALE, SCALES)
    x, y, s = (part.ravel() for part in np.meshgrid(steps, steps, scales))
    return Moves(np.stack([x, y], 1), s).with_true()


def _moved(frame: Frame, frame_map: FrameMap, moves: Moves, index: int) -> Frame:
    box = frame_map.box
    middle = np.array([(box.left + box.right) / 2, (box.top + box.bottom) / 2])
    x, y = frame_map.to_photo(middle + moves.shifts[index] * (box.width, box.height)).tolist()
    scale = float(moves.scales[index])
    return about(frame, (x, y), frame.width_px * scale, frame.height_px * scale)


def _allowed(frame: Frame, study: Study, photo: Ground) -> bool:
    """On the photo unless the present frame is not, and still round everything that must be inside."""
    if is_beyond(frame, photo) and not is_beyond(study.frame, photo):
        return False
    if not (0 <= frame.middle[0] <= photo.width_px and 0 <= frame.middle[1] <= photo.height_px):
        return False
    xs, ys = zip(*corners(frame), strict=True)
    old_xs, old_ys = zip(*corners(study.frame), strict=True)
    for wish in wishes_of(study, leave_out=False).within:
        held = _holds(min(xs), min(ys), max(xs), max(ys), wish.box)
        if not held and _holds(min(old_xs), min(old_ys), max(old_xs), max(old_ys), wish.box):
            return False
    return True


def _holds(left: float, top: float, right: float, bottom: float, box: tuple[float, float, float, float]) -> bool:
    return left <= box[0] and top <= box[1] and right >= box[2] and bottom >= box[3]
