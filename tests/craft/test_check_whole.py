"""The whole among lines that repeat: a size smaller by one of them agrees with many, and is still not the size."""

import cv2
import numpy as np
import pytest

from mild_compass.craft.check.parts import labelled
from mild_compass.craft.check.pieces import PlanLine, pieces_of
from mild_compass.craft.check.ridges import ridges_of
from mild_compass.craft.check.whole import CoarseFit, Similarity, applied, similarity_of
from mild_compass.craft.check.whole_fit import fitted_whole

PX_PER_MM, SIZE = 6.0, (240.0, 160.0)
MIDDLE = (120.0, 80.0)


PITCH_MM, MOVED_MM = 4.0, 2.2


def railing(hand: np.random.Generator) -> list[np.ndarray]:
    """Uprights a little out of step, with a sill and a rail."""
    at = 30 + PITCH_MM * np.arange(45) + hand.normal(0, 0.5, 45)
    posts = [np.array([[x, 60.0], [x, 60.0 + hand.uniform(25, 40)]]) for x in at]
    return [*posts, np.array([[25.0, 58.0], [215.0, 58.0]]), np.array([[25.0, 110.0], [215.0, 110.0]])]


def inked(lines: list[np.ndarray]) -> np.ndarray:
    """Lines drawn on a sheet: how dark it is (h, w)."""
    sheet = np.zeros([round(side * PX_PER_MM) for side in SIZE[::-1]], np.uint8)
    for line in lines:
        cv2.polylines(sheet, [np.round(line * PX_PER_MM * 16).astype(np.int32)], False, 160, 2, cv2.LINE_AA, 4)
    noise = np.random.default_rng(3).normal(0, 2.0, sheet.shape)
    return np.clip(cv2.GaussianBlur(sheet, (0, 0), 0.8) / 255 + noise / 255, 0, 1).astype(np.float32)


@pytest.mark.parametrize("seed", [1, 2, 3, 4])
def test_a_size_that_is_out_by_one_post_is_left_for_the_true_one(seed):
    hand = np.random.default_rng(seed)
    lines = railing(hand)
    true = Similarity(MIDDLE, (1.5, -0.8), 0.99, 0.3)
    drawn = []
    for number, line in enumerate(lines):
        if hand.random() > 0.15:
            moved = (MOVED_MM, 0.0) if 22 <= number < 40 else (0.0, 0.0)  # two posts in five, half a space too far
            drawn.append(applied(true.matrix(), line + moved))
    ridges = ridges_of(inked(drawn), PX_PER_MM)
    pieces = pieces_of([PlanLine(line, "lines") for line in lines])
    first = Similarity(MIDDLE, (2.0, -0.4), 0.988, 0.0).matrix()  # as near as a first look comes
    matrix, _ = fitted_whole(ridges, pieces, CoarseFit((first,), 1.0, 0.0, 1.0), MIDDLE)
    told = similarity_of(matrix, MIDDLE)
    assert np.hypot(*np.subtract(told.shift_mm, true.shift_mm)) < 0.3
    assert abs(told.scale - true.scale) < 0.002
    assert abs(told.turn_deg - true.turn_deg) < 0.1
    (part,) = labelled(ridges, pieces, matrix).parts
    assert abs(part.move.shift_mm[0] - MOVED_MM) < 0.3
    assert part.crossed_mm < 2  # uprights alone do not tell of up and down


def box(x, y, w, h):
    """The four sides of an opening."""
    corners = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h], [x, y]], float)
    return [corners[n : n + 2] for n in range(4)]


@pytest.mark.parametrize("shift", [(1.8, -2.4), (3.0, 0.0), (0.0, -2.5)])
def test_a_part_whose_lines_run_both_ways_tells_its_shift_both_ways(shift):
    """Also where it was moved along its own sills, which then fit where they were as well."""
    lines = [line for n in range(5) for m in range(3) for line in box(20 + 42 * n, 15 + 48 * m, 24 + 2 * n, 28 + 3 * m)]
    mine = range(4 * 7, 4 * 8)
    drawn = [line + (shift if n in mine else (0.0, 0.0)) for n, line in enumerate(lines)]
    ridges = ridges_of(inked(drawn), PX_PER_MM)
    pieces = pieces_of([PlanLine(line, "lines") for line in lines])
    matrix, _ = fitted_whole(ridges, pieces, CoarseFit((Similarity(MIDDLE).matrix(),), 1.0, 0.0, 1.0), MIDDLE)
    (part,) = labelled(ridges, pieces, matrix).parts
    assert np.hypot(*np.subtract(part.move.shift_mm, shift)) < 0.2
    assert part.crossed_mm > 40  # of 56 mm of sill and 66 mm of upright
