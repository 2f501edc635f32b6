"""Marks on the sheet, each where the ruler finds it."""

from __future__ import annotations

from dataclasses import replace
from math import cos, radians, sin

import numpy as np
import pytest
from tests.craft.test_viewfinder_readings import said, worked_with

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.geometry.lines import Box
from mild_compass.craft.sheet.artist_layers import datum_layer
from mild_compass.craft.sheet.layers import frame_layer
from mild_compass.craft.sheet.measure import length_name, side_words
from mild_compass.craft.sheet.shapes import outline_of
from mild_compass.craft.sheet.transfer import transfer_guide
from mild_compass.craft.viewfinder.gaps import gaps_mm
from mild_compass.craft.worked import worked_study
from mild_compass.plan.edits.base import with_study
from mild_compass.plan.errors import PlanError
from mild_compass.plan.paper import Paper
from mild_compass.plan.sheet import BlockShape, Datum, MeasurePlan
from mild_compass.plan.study import Frame, Ring

PAPER = Paper("x", 430, 230)  # 400 x 200 mm inside margins of 15
HALF = FrameMap.of(Frame(0, 0, 800, 400), PAPER)  # half a millimetre to a pixel


def ends(layer) -> list[list[float]]:
    return [np.asarray(each.points_mm).ravel().tolist() for each in layer.strokes]


def test_the_picture_has_a_tick_outside_the_middle_of_every_side():
    found = ends(frame_layer(PAPER, Box(15, 15, 415, 215)))
    for wanted in ([215, 11, 215, 15], [215, 215, 215, 219], [11, 115, 15, 115], [415, 115, 419, 115]):
        assert any(each == pytest.approx(wanted) for each in found), wanted


def test_ticks_are_no_longer_than_the_narrowest_margin_and_without_one_there_are_none():
    narrow = Paper("x", 430, 230, 15, (15, 2, 15, 15))
    assert any(each == pytest.approx([215, 0, 215, 2]) for each in ends(frame_layer(narrow, Box(15, 2, 415, 215))))
    assert len(frame_layer(Paper("x", 400, 200, 0), Box(0, 0, 400, 200)).strokes) == 1


def test_datum_lines_cross_the_picture_and_carry_their_names():
    layer = datum_layer(MeasurePlan((Datum("upright", 200, 5, "mast"), Datum("level", 5, 100, "quay"))), HALF)
    assert ends(layer) == [pytest.approx([115, 15, 115, 215]), pytest.approx([15, 65, 415, 65])]
    places = {label.text: (label.x_mm, label.y_mm) for label in layer.labels}
    assert places["mast"] == pytest.approx((116, 18.4))
    assert places["quay"] == pytest.approx((16, 64))


def test_places_lie_right_left_below_or_above_a_datum():
    assert side_words("upright", 0.5, "x") == "x right of"
    assert side_words("upright", -0.5, "x") == "x left of"
    assert side_words("level", 0.5, "x") == "x below"
    assert side_words("level", -0.5, "x") == "x above"
    assert [length_name("", k) for k in (0, 1, 4)] == ["length 1", "length 2", "length 5"]
    assert length_name("mast", 3) == "mast"


def test_the_gaps_round_a_ring_are_measured_from_its_bounds():
    gaps = gaps_mm(Ring(300, 150, 40, 60, "boat"), HALF)
    assert gaps == pytest.approx({"left": 130, "right": 230, "top": 45, "bottom": 95})
    assert gaps_mm(Ring(300, 390, 40, 60, "boat"), HALF)["bottom"] == pytest.approx(-25)


@pytest.mark.parametrize(
    ("x_share", "y_share", "touches"),
    [
        (0.5, 0.5, False),
        (0.0436, 0.5, True),
        (0.9564, 0.5, True),
        (0.5, 0.0637, True),
        (0.5, 0.9363, True),
        (0.5, 0.8, False),
    ],
)
def test_a_mat_touches_what_reaches_under_it_on_any_side(plan, x_share, y_share, touches):
    """Ten millimetres hidden; of a ring of 12 mm, 5 mm from the side, 5 are under it."""
    matted = replace(plan, paper=replace(plan.paper, mat_overlap_mm=10.0))
    frame = matted.study.frame
    scale = plan.paper.picture_width_mm / frame.width_px
    radius = 12 / scale
    ring = Ring(frame.x_px + x_share * frame.width_px, frame.y_px + y_share * frame.height_px, radius, radius, "buoy")
    assert ("buoy" in said(worked_with(matted, rings=(ring,)), "mat").text) == touches


def test_paper_leaves_ten_millimetres_for_the_picture_and_a_mat_hides_a_quarter_at_most():
    assert Paper("x", 230, 230, 105, tape_mm=5).picture_width_mm == pytest.approx(10)
    with pytest.raises(PlanError, match="less than 10 mm"):
        Paper("x", 230, 230, 105, tape_mm=5.1)
    assert Paper("x", 430, 230, mat_overlap_mm=50).mat_overlap_mm == 50
    with pytest.raises(PlanError, match="mat"):
        Paper("x", 430, 230, mat_overlap_mm=50.1)


@pytest.mark.parametrize(
    ("grid_mm", "words"),
    [(50, "8 columns, 4 rows."), (60, "7 columns, 4 rows; the last column is 40.0 mm wide, the last row 20.0 mm high")],
)
def test_the_squares_are_counted_and_the_cut_ones_told(plan, grid_mm, words):
    squared = replace(plan, paper=PAPER)
    sheet = replace(plan.study.sheet, grid_mm=grid_mm, grid_count=0)
    squared = with_study(squared, replace(plan.study, frame=Frame(0, 0, 600, 300), sheet=sheet))
    steps = " ".join(transfer_guide(worked_study(squared), "squared grid").steps)
    assert words in steps


@pytest.mark.parametrize("turn_deg", [0, 30])
def test_a_box_is_its_four_corners_turned_about_its_middle(turn_deg):
    (outline,) = outline_of(BlockShape("box", 100, 50, 40, 20, turn_deg=turn_deg))
    c, s = cos(radians(turn_deg)), sin(radians(turn_deg))
    corners = [(-40, -20), (40, -20), (40, 20), (-40, 20), (-40, -20)]
    assert outline == pytest.approx(np.array([(100 + c * x - s * y, 50 + s * x + c * y) for x, y in corners]))
