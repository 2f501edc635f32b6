"""What the artist has put down, as layers of the sheet: big lines, shapes, datum, measures, pins, margins."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import NOON

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.geometry.lines import Box
from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.line_drawing import LineDrawing
from mild_compass.craft.sheet.artist_layers import (
    big_lines_layer,
    datum_layer,
    margins_layer,
    measures_layer,
    motif_layer,
    pieces_inside,
    pins_layer,
    shapes_layer,
)
from mild_compass.craft.sheet.layers import as_printed, sheet_drawing
from mild_compass.plan.edits.perspective import trace_edge
from mild_compass.plan.paper import Paper
from mild_compass.plan.perspective import TracedEdge
from mild_compass.plan.sheet import (
    SHEET_LAYERS,
    BlockShape,
    Datum,
    MeasuredLength,
    MeasuredPoint,
    MeasurePlan,
    Motif,
    MotifPlace,
    NegativeShape,
    SheetPlan,
    Symmetry,
)
from mild_compass.plan.structure import BigLine, Structure
from mild_compass.plan.study import Frame

SHEET = Paper("A3", 420.0, 297.0, 15.0)
MAP = FrameMap.of(Frame(0, 0, 1560, 1068), SHEET)  # a quarter of a millimetre to a pixel, from (15, 15)
numbers = st.floats(-400, 800)


def test_margins_are_the_picture_area_even_where_the_frame_is_smaller():
    paper = Paper("x", 300, 200, sides_mm=(10, 20, 30, 40), tape_mm=5)
    (outline,) = margins_layer(paper).strokes
    assert outline.points_mm.min(0) == pytest.approx((15, 25))
    assert outline.points_mm.max(0) == pytest.approx((300 - 35, 200 - 45))


def test_big_lines_are_numbered_by_their_length_inside_the_picture():
    lines = (
        BigLine(100, 100, 180, 100),
        BigLine(-2000, 500, 300, 500),  # long, but only 300 pixels of it inside
        BigLine(100, 300, 900, 300),
        BigLine(-500, -500, -100, -400),  # outside altogether
    )
    layer = big_lines_layer(Structure(lines=lines), MAP)
    lengths = [float(np.hypot(*(mark.points_mm[1] - mark.points_mm[0]))) for mark in layer.strokes]
    assert lengths == pytest.approx([200, 75, 20])
    assert [label.text for label in layer.labels] == ["1", "2", "3"]
    assert layer.labels[0].x_mm == pytest.approx(15 + 125)


def test_shapes_that_stay_are_solid_and_the_rest_is_dashed_with_thin_divisions():
    kept, light = (BlockShape("oval", 500, 500, 100, 60, stays=stays) for stays in (True, False))
    assert {mark.dash for mark in shapes_layer((kept,), MAP).strokes} == {"solid"}
    assert {mark.dash for mark in shapes_layer((light,), MAP).strokes} == {"dashed"}
    figure = shapes_layer((BlockShape("figure", 500, 500, 40, 200, stays=True),), MAP)
    outline = [mark for mark in figure.strokes if mark.dash == "solid"]
    divisions = [mark for mark in figure.strokes if mark.dash == "dashed"]
    assert len(outline) == 1
    assert len(divisions) == 8
    assert max(mark.width_mm for mark in divisions) < outline[0].width_mm


@pytest.mark.parametrize("kind", ["oval", "box", "triangle", "line", "figure", "head"])
def test_no_shape_is_drawn_beyond_the_picture(kind):
    shape = BlockShape(kind, 1500, 1000, 200, 0 if kind == "line" else 150, 20)
    points = np.concatenate([mark.points_mm for mark in shapes_layer((shape,), MAP).strokes])
    assert (points.min(0) >= np.array([15, 15]) - 1e-9).all()
    assert (points.max(0) <= np.array([405, 282]) + 1e-9).all()
    assert shapes_layer((replace(shape, x_px=5000),), MAP).strokes == ()


def test_datum_lines_run_from_side_to_side_with_their_names():
    layer = datum_layer(MeasurePlan((Datum("upright", 780, 5, "middle"), Datum("level", 5, 534))), MAP)
    upright, level = layer.strokes
    assert upright.points_mm == pytest.approx(np.array([[210, 15], [210, 282]]))
    assert level.points_mm == pytest.approx(np.array([[15, 148.5], [405, 148.5]]))
    assert [label.text for label in layer.labels] == ["middle", "level 2"]


@pytest.mark.parametrize(("unit", "told"), [("mm", "door 100.0 mm"), ("in", "door 3 15/16 in")])
def test_measures_carry_their_figures_in_the_artists_unit(unit, told):
    plan = MeasurePlan(
        points=(MeasuredPoint(100, 100), MeasuredPoint(200, 100, "lamp")),
        lengths=(MeasuredLength(400, 100, 400, 500, "door"),),
        negatives=(NegativeShape(((0, 0), (100, 0), (100, 100))),),
        symmetry=Symmetry(((800, 100), (800, 900))),
    )
    layer = measures_layer(plan, MAP, unit)
    assert [label.text for label in layer.labels] == ["A", "lamp", told]
    dashes = [mark.dash for mark in layer.strokes]
    assert dashes.count("dotted") == 1
    assert dashes.count("dash-dot") == 1
    crossing = [mark.points_mm for mark in layer.strokes[:2]]
    assert np.mean(crossing, axis=(0, 1)) == pytest.approx((40, 40))


def test_a_motif_is_numbered_in_the_order_of_transfer_with_its_reloads():
    square = ((-10.0, -10.0), (10.0, -10.0), (10.0, 10.0), (-10.0, 10.0))
    places = tuple(MotifPlace(50.0 + 40 * k, 100.0) for k in range(5))
    layer = motif_layer(Motif(square, places, copies_per_load=2), MAP)
    told = {round(label.x_mm): label.text for label in layer.labels}
    assert told == {210: "1", 170: "2", 130: "3 ↻", 90: "4", 50: "5 ↻"}


def pinned(plan, edges):
    for edge in edges:
        plan = trace_edge("A", TracedEdge(*map(float, edge))).apply(plan, NOON)
    worked = work_out(plan.study.perspective, plan.reference("photo-1"))
    return pins_layer(worked, FrameMap.of(plan.study.frame, plan.paper), plan.paper)


def test_a_pin_on_the_paper_is_a_ring_round_its_place(plan):
    layer = pinned(plan, ((100, 380, 290, 210), (500, 380, 310, 210)))
    (ring,) = layer.strokes
    radius = np.hypot(*(ring.points_mm - ring.points_mm[:-1].mean(0)).T)
    assert radius == pytest.approx(np.full(len(radius), 1.5))
    assert layer.labels[0].text == "pin A"


@pytest.mark.parametrize(
    ("edges", "edge_of", "words"),
    [
        (((100, 100, 500, 150), (100, 300, 500, 250)), lambda p: p[0] == pytest.approx(420), "right of the paper"),
        (((500, 100, 100, 150), (500, 300, 100, 250)), lambda p: p[0] == pytest.approx(0), "left of the paper"),
        (((200, 350, 250, 50), (400, 350, 350, 50)), lambda p: p[1] == pytest.approx(0), "above the top edge"),
        (((200, 50, 250, 350), (400, 50, 350, 350)), lambda p: p[1] == pytest.approx(297), "below the bottom edge"),
    ],
)
def test_a_pin_off_the_paper_is_pointed_to_from_the_edge_it_lies_behind(plan, edges, edge_of, words):
    layer = pinned(plan, edges)
    (mark,) = layer.strokes
    assert edge_of(mark.points_mm[0])
    assert float(np.hypot(*(mark.points_mm[1] - mark.points_mm[0]))) == pytest.approx(9)
    assert words in layer.labels[0].text


@given(st.lists(st.tuples(numbers, numbers), min_size=2, max_size=12))
def test_pieces_of_a_line_inside_the_picture_lose_nothing_that_is_inside(points):
    line = np.array(points)
    pieces = pieces_inside(line, MAP)
    box = MAP.box
    for piece in pieces:
        assert (piece >= (box.left - 1e-6, box.top - 1e-6)).all()
        assert (piece <= (box.right + 1e-6, box.bottom + 1e-6)).all()
    kept = sum(float(np.hypot(*np.diff(piece, axis=0).T).sum()) for piece in pieces)
    assert kept == pytest.approx(sampled_inside(line, box), rel=0.02, abs=1.5)


def sampled_inside(line: np.ndarray, box: Box) -> float:
    """The length of a line inside a box, by looking at many places along it."""
    inside = 0.0
    for a, b in pairwise(line):
        share = (np.arange(2000) + 0.5) / 2000
        places = a + share[:, None] * (b - a)
        within = ((places >= (box.left, box.top)) & (places <= (box.right, box.bottom))).all(1)
        inside += float(within.mean() * np.hypot(*(b - a)))
    return inside


def test_layers_come_from_the_ground_up_and_only_those_asked_for(plan):
    study = replace(plan.study, motif=Motif(((0.0, 0.0), (9.0, 0.0), (0.0, 9.0)), (MotifPlace(50, 50),)))
    worked = work_out(study.perspective, plan.reference("photo-1"))
    lines = LineDrawing((np.array([[20.0, 20.0], [60.0, 50.0]]),))
    drawing = sheet_drawing(study, plan.paper, worked, None, SHEET_LAYERS, lines)
    names = [layer.name for layer in drawing.layers]
    assert names.index("grid") < names.index("lines") < names.index("motif") < names.index("frame")
    assert "masses" not in names, "not computed yet"
    assert [layer.name for layer in sheet_drawing(study, plan.paper, worked, None, ("frame",)).layers] == ["frame"]


def test_only_the_print_takes_words_and_inks_from_the_sheet(plan):
    worked = work_out(plan.study.perspective, plan.reference("photo-1"))
    drawing = sheet_drawing(plan.study, plan.paper, worked, None, ("grid", "frame"))
    assert drawing.layer("grid").labels
    bare = as_printed(drawing, SheetPlan(labels=False))
    assert not bare.layer("grid").labels
    assert as_printed(drawing, SheetPlan()) is drawing
    grey = as_printed(drawing, SheetPlan(inks="grey"))
    assert {mark.ink for mark in grey.layer("grid").strokes} == {"faint"}
    assert {mark.ink for mark in grey.layer("frame").strokes} == {"mass"}
