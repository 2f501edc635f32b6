"""The armature of the rectangle in exact arithmetic, and the named rectangles."""

from __future__ import annotations

from fractions import Fraction
from math import sqrt

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.armature.constructions import fourteen_lines, lines_of, meetings
from mild_compass.craft.armature.named_ratios import nearest_ratio
from mild_compass.craft.geometry.lines import Box, clipped
from mild_compass.craft.sheet.layers import armature_layer
from mild_compass.craft.stations import readings_of
from mild_compass.craft.worked import worked_study
from mild_compass.plan.structure import Structure


def test_the_armature_has_fourteen_lines_that_meet_in_37_points_29_of_them_inside():
    """Charles Bouleau, The Painter's Secret Geometry, 1963; counted in exact fractions."""
    lines = fourteen_lines()
    assert len({frozenset(line) for line in lines}) == 14
    points = meetings(lines)
    assert len(points) == 37
    assert sum(0 < x < 1 and 0 < y < 1 for x, y in points) == 29


def test_the_abscissae_of_the_meetings():
    expected = {Fraction(0), Fraction(1)} | {
        Fraction(*pair)
        for pair in ((1, 6), (1, 5), (1, 4), (1, 3), (2, 5), (1, 2), (3, 5), (2, 3), (3, 4), (4, 5), (5, 6))
    }
    assert {x for x, _ in meetings(fourteen_lines())} == expected
    assert {y for _, y in meetings(fourteen_lines())} == expected


def test_the_lines_are_the_same_after_a_turn_by_a_quarter_and_a_flip():
    lines = {frozenset(line) for line in fourteen_lines()}
    turned = {frozenset((1 - y, x) for x, y in line) for line in lines}
    flipped = {frozenset((1 - x, y) for x, y in line) for line in lines}
    assert lines == turned == flipped


@pytest.mark.parametrize(("name", "count"), [("fourteen", 14), ("diagonals", 2), ("thirds", 4), ("quarters", 6)])
def test_constructions_are_drawn_inside_the_picture_area(name, count):
    layer = armature_layer(Box(20, 20, 280, 180), (name,), Structure())
    assert len(layer.strokes) == count == len(lines_of(name, 26 / 16))
    points = np.concatenate([stroke.points_mm for stroke in layer.strokes])
    assert points.min(0) == pytest.approx((20, 20))
    assert points.max(0) == pytest.approx((280, 180))


def test_thirds_lie_at_thirds_of_the_picture_area_in_mm():
    layer = armature_layer(Box(15, 15, 315, 215), ("thirds",), Structure())
    uprights = sorted(stroke.points_mm[0, 0] for stroke in layer.strokes if np.ptp(stroke.points_mm[:, 0]) == 0)
    assert uprights == pytest.approx([115, 215])


@pytest.mark.parametrize(
    ("width", "height", "name"),
    [
        (400, 300, "4:3"),
        (300, 400, "4:3"),
        (100 * sqrt(2), 100, "√2"),
        (100, 100, "1:1 (square)"),
        (161.803, 100, "golden section φ"),
        (300, 200, "3:2"),
    ],
)
def test_named_rectangles_are_recognised_either_way_round(width, height, name):
    nearest = nearest_ratio(width, height)
    assert nearest.name == name
    assert max(nearest.trim_width_mm, nearest.trim_height_mm) < 0.01


@given(st.floats(20, 2000), st.floats(20, 2000))
def test_trimming_as_told_gives_the_named_ratio(width, height):
    nearest = nearest_ratio(width, height)
    left = nearest_ratio(width - nearest.trim_width_mm, height - nearest.trim_height_mm)
    assert left.name == nearest.name
    assert left.off_percent == pytest.approx(0, abs=1e-6)
    assert min(nearest.trim_width_mm, nearest.trim_height_mm) == 0


def test_nearest_is_judged_by_the_logarithm_so_that_longer_and_shorter_weigh_the_same():
    between = sqrt(5 / 4 * 4 / 3)
    assert nearest_ratio(between * 1.001, 1).name == "4:3"
    assert nearest_ratio(between * 0.999, 1).name == "5:4"


def test_try_it_trims_the_sheet_to_the_named_rectangle(plan):
    worked = worked_study(plan)
    assert worked is not None
    found = next(each for each in readings_of("armature", worked) if each.key == "nearest_ratio")
    assert found.number == pytest.approx(7.0)  # 390 x 267 to 3:2 is 390 x 260
    assert found.remedy is not None
    trimmed = found.remedy.change(plan).paper
    assert trimmed.ratio == pytest.approx(1.5)


def test_clipping_keeps_the_part_inside_and_nothing_else():
    box = Box(0, 0, 10, 10)
    assert clipped((-5, 5), (15, 5), box) == pytest.approx(np.array([[0, 5], [10, 5]]))
    assert clipped((2, 2), (3, 3), box) == pytest.approx(np.array([[2, 2], [3, 3]]))
    assert clipped((20, 0), (20, 10), box) is None
    assert clipped((2, 2), (3, 3), box, endless=True) == pytest.approx(np.array([[0, 0], [10, 10]]))
    assert clipped((5, 5), (5, 5), box, endless=True) is None
