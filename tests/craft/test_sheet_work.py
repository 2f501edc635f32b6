"""Simple shapes, motif repeats, kinds of line, the order of drawing, transfer guides, the squared grid."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.drawing import Drawing, Layer, stroke
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.geometry.lines import Box
from mild_compass.craft.sheet.block_in import block_in
from mild_compass.craft.sheet.lifting import in_greys, to_lift, without_labels
from mild_compass.craft.sheet.motif import centred, placed_outline, repeats
from mild_compass.craft.sheet.readings import readings
from mild_compass.craft.sheet.shapes import fitted_shape, outline_of
from mild_compass.craft.sheet.squared import cell_mm, squared_grid
from mild_compass.craft.sheet.tiles import tiles_for
from mild_compass.craft.sheet.transfer import transfer_guide
from mild_compass.craft.worked import worked_study
from mild_compass.plan.edits.armature import add_big_line
from mild_compass.plan.edits.sheet import change_sheet, set_motif, set_shapes
from mild_compass.plan.errors import PlanError
from mild_compass.plan.paper import Paper
from mild_compass.plan.sheet import METHODS, BlockShape, Motif, MotifPlace, SheetPlan
from mild_compass.plan.structure import BigLine

NOON = "2026-05-01T12:00:00+02:00"
BOX = Box(0, 0, 200, 100)
SQUARE = ((-10.0, -10.0), (10.0, -10.0), (10.0, 10.0), (-10.0, 10.0))


def spread(inside, low: float = -160, high: float = 160) -> tuple[np.ndarray, float]:
    """Points evenly over a shape given by a test of its points, and its area."""
    x, y = np.meshgrid(np.arange(low, high), np.arange(low, high))
    points = np.stack([x.ravel() + 0.5, y.ravel() + 0.5], 1)
    points = points[inside(points)]
    return points + np.array([500, 400]), float(len(points))


def turned(points: np.ndarray, degrees: float) -> np.ndarray:
    angle = np.radians(degrees)
    return points @ np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])


@pytest.mark.parametrize("turn", [0, 25, -40])
def test_an_oval_fitted_to_an_oval_is_that_oval(turn):
    points, area = spread(lambda p: ((turned(p, turn) / (120, 50)) ** 2).sum(1) <= 1)
    found = fitted_shape("oval", points, area)
    assert (found.x_px, found.y_px) == pytest.approx((500, 400), abs=0.2)
    assert (found.half_width_px, found.half_height_px) == pytest.approx((120, 50), rel=0.01)
    assert found.turn_deg == pytest.approx(turn, abs=0.5)


@pytest.mark.parametrize("turn", [0, 20, -35])
def test_a_box_fitted_to_a_box_is_that_box(turn):
    points, area = spread(lambda p: (abs(turned(p, turn)) <= (100, 40)).all(1))
    found = fitted_shape("box", points, area)
    assert (found.half_width_px, found.half_height_px) == pytest.approx((100, 40), abs=1.5)
    assert found.turn_deg == pytest.approx(turn, abs=1)


@pytest.mark.parametrize("turn", [0, 90, 200])
def test_a_triangle_fitted_to_a_triangle_covers_it(turn):
    def inside(p: np.ndarray) -> np.ndarray:
        local = turned(p, turn)
        depth = (local[:, 1] + 100) / 200
        return (depth >= 0) & (depth <= 1) & (abs(local[:, 0]) <= 70 * depth)

    points, area = spread(inside)
    shape = shapely.Polygon(outline_of(fitted_shape("triangle", points, area))[0])
    true = shapely.Polygon(outline_of(BlockShape("triangle", 500, 400, 70, 100, turn))[0])
    assert shape.intersection(true).area / shape.union(true).area > 0.9


def test_a_line_fitted_to_a_long_mass_runs_through_its_length():
    points, area = spread(lambda p: (abs(turned(p, 30)) <= (140, 6)).all(1))
    found = fitted_shape("line", points, area)
    assert found.turn_deg == pytest.approx(30, abs=0.5)
    assert found.half_width_px == pytest.approx(140, abs=4)


def test_a_head_is_parted_as_vitruvius_says_and_a_figure_into_its_heads():
    """De architectura III.1: the face from chin to hairline is a tenth of the body, the head an eighth; three parts."""
    levels = sorted(float(line[0, 1]) for line in outline_of(BlockShape("head", 0, 0, 1, 1))[2:])
    face = 2 * 8 / 10
    assert levels == pytest.approx(sorted([0.0, 1 - face / 3, 1 - 2 * face / 3, 1 - face]))
    figure = outline_of(BlockShape("figure", 0, 0, 20, 80, heads=8))
    heads = sorted(float(line[0, 1]) for line in figure[1:] if line[0, 1] == line[1, 1])
    assert np.diff([-80, *heads, 80]) == pytest.approx([20] * 8)


# -- motif ------------------------------------------------------------------------------------------------------


def test_what_is_behind_is_left_out_and_areas_add_up():
    motif = Motif(SQUARE, (MotifPlace(50, 50), MotifPlace(60, 50), MotifPlace(150, 50)))
    found = repeats(motif, BOX)
    assert [shape.area for shape in found.shapes] == pytest.approx([200, 400, 400])
    assert found.hidden == pytest.approx((0.5, 0, 0))
    assert found.positive == pytest.approx(1000 / 20000)
    assert found.lower == pytest.approx(0.5)
    inside_front = [line for line in found.lines[0] if (line[:, 0] > 50.01).all()]
    assert not inside_front


@given(st.floats(-180, 180), st.booleans())
def test_turning_and_turning_over_keep_the_motifs_size(turn, flipped):
    motif = Motif(((0.0, 0.0), (30.0, 0.0), (0.0, 12.0)))
    shape = shapely.Polygon(placed_outline(motif, MotifPlace(100, 50, turn, flipped)))
    assert shape.area == pytest.approx(180)
    assert shape.length == pytest.approx(42 + np.hypot(30, 12))
    assert shapely.is_ccw(shape.exterior) != flipped, "only turning over changes the way round"


def test_a_quarter_turn_is_clockwise_on_the_sheet():
    outline = placed_outline(Motif(((0.0, -10.0), (3.0, 0.0), (-3.0, 0.0))), MotifPlace(100, 50, 90))
    assert outline[0] == pytest.approx((110, 50))


def test_each_side_of_the_tracing_is_loaded_again_after_its_copies():
    places = tuple(MotifPlace(20 * k + 10, 50, flipped=k % 2 == 1) for k in range(9))
    found = repeats(Motif(SQUARE, places, copies_per_load=3), BOX)
    assert found.sides == {"front": 5, "back": 4}
    assert found.reloads == 2  # the fourth from the front, the fourth from the back
    front = [each for each in found.transfers if each.side == "front"]
    assert [each.reload for each in front] == [False, False, False, True, False]
    assert found.transfers[0].place == 8, "the front one is laid down first"


def test_contacts_with_the_edges_span_a_triangle():
    places = (MotifPlace(10, 50), MotifPlace(190, 50), MotifPlace(100, 90))
    found = repeats(Motif(SQUARE, places), BOX)
    assert [name for name, _, _ in found.contacts] == ["left", "right", "bottom"]
    assert found.triangle == pytest.approx(0.5 * 200 * 50 / 20000, abs=0.01)
    assert repeats(Motif(SQUARE, (MotifPlace(100, 50),)), BOX).contacts == ()


def test_an_outline_is_told_round_its_own_middle():
    outline, middle = centred(np.array([[100.0, 40.0], [140.0, 40.0], [140.0, 60.0], [100.0, 60.0]]))
    assert middle == pytest.approx((120, 50))
    assert outline[0] == (-20, -10)
    crossed, at = centred(np.array([[0.0, 0.0], [40.0, 40.0], [40.0, 0.0], [0.0, 40.0]]))
    assert at == pytest.approx((20, 20)), "an outline that crosses itself has a middle too"
    assert len(crossed) == 4
    for nothing in ([[0.0, 0.0], [50.0, 50.0]], [[0.0, 0.0], [25.0, 25.0], [50.0, 50.0]], [[0.0, 0.0]]):
        with pytest.raises(PlanError, match="Draw round a thing"):
            centred(np.array(nothing))


# -- kinds of line ------------------------------------------------------------------------------------------------


def drawing() -> Drawing:
    grid = Layer("grid", (stroke([[0, 0], [100, 0]], "grid"), stroke([[0, 0], [0, 50]], "grid")))
    lines = Layer("lines", (stroke([[0, 0], [30, 40]], "mass", 0.2),))
    shapes = Layer("shapes", (stroke([[0, 0], [10, 0]], "subject"), stroke([[0, 0], [7, 0]], "subject", dash="dashed")))
    return Drawing(200, 100, (grid, lines, shapes))


def test_construction_is_listed_to_be_lifted_with_its_length_and_what_stays_is_not():
    rows = to_lift(drawing(), SheetPlan())
    assert [(row.name, row.lines, row.length_mm) for row in rows] == [
        ("squared grid", 2, 150.0),
        ("simple shapes", 1, 7.0),
    ]
    kept = SheetPlan(staying=("grid", "lines"))
    assert [row.name for row in to_lift(drawing(), kept)] == ["simple shapes"]


def test_pencil_greys_make_construction_paler_and_thinner_than_what_stays():
    found = in_greys(drawing(), SheetPlan())
    grid, line = found.layer("grid").strokes[0], found.layer("lines").strokes[0]
    assert (grid.ink, line.ink) == ("faint", "mass")
    assert grid.width_mm < 0.25
    assert line.width_mm > 0.2
    assert not any(layer.labels for layer in without_labels(found).layers)


def test_what_is_to_be_lifted_is_named_among_the_readings(plan):
    for staying, named in ((("lines",), False), ((), True)):
        sheet = replace(plan.study.sheet, layers=("frame", "grid", "lines"), staying=staying)
        worked = worked_study(change_sheet(sheet).apply(plan, NOON))
        (lift,) = [each for each in readings(worked) if each.key == "lift"]
        assert "squared grid" in lift.text
        assert ("lines from the photo" in lift.text) is named


# -- grid and pages -------------------------------------------------------------------------------------------------


def test_squares_by_count_are_equal_and_fill_the_width():
    side = cell_mm(390, SheetPlan(grid_count=13))
    layer = squared_grid(Box(15, 15, 405, 282), Paper("A3", 420, 297, 15), side)
    uprights = sorted(mark.points_mm[0, 0] for mark in layer.strokes if mark.points_mm[0, 0] == mark.points_mm[1, 0])
    assert np.diff([15, *uprights, 405]) == pytest.approx([30] * 13)


def test_diagonals_run_through_the_corners_of_the_squares():
    box = Box(10, 20, 100, 80)
    layer = squared_grid(box, Paper("x", 110, 100, 10), 30, diagonals=True)
    slanted = [mark.points_mm for mark in layer.strokes if (mark.points_mm[0] != mark.points_mm[1]).all()]
    assert len(slanted) == 2 * (3 + 2 - 1)
    for line in slanted:
        way = np.abs(line[1] - line[0])
        assert way[0] == pytest.approx(way[1])
        off = (line[0] - (10, 20)) / 30
        assert off == pytest.approx(np.round(off), abs=1e-9)


@pytest.mark.parametrize(("pages", "overlap"), [("A5", 110.0), ("A4", 180.0)])
def test_a_page_smaller_than_the_overlap_is_refused_with_a_sentence(pages, overlap):
    with pytest.raises(PlanError, match="smaller overlap"):
        tiles_for(Paper("A1", 841, 594), pages, overlap)


@pytest.mark.parametrize("make", [lambda: SheetPlan(overlap_mm=-1), lambda: SheetPlan(grid_count=999),
                                  lambda: SheetPlan(photo_print_mm=5), lambda: Paper("A4", 210, 297, 200),
                                  lambda: Motif(((0, 0), (1, 1))), lambda: Motif(SQUARE, copies_per_load=0),
                                  lambda: BlockShape("oval", 0, 0, 10, 0)])  # fmt: skip
def test_impossible_sheets_shapes_and_motifs_are_refused_with_a_sentence(make):
    with pytest.raises(PlanError, match=r"\.$"):
        make()


# -- order of drawing and transfer -----------------------------------------------------------------------------------


def test_the_largest_things_are_drawn_first(plan):
    for k in range(20):
        plan = add_big_line(BigLine(100, 60 + 10 * k, 130 + 15 * k, 60 + 10 * k)).apply(plan, NOON)
    plan = set_shapes((BlockShape("oval", 300, 200, 60, 40, name="bush"),)).apply(plan, NOON)
    frame_map = FrameMap.of(plan.study.frame, plan.paper)
    steps = block_in(plan.study, frame_map, None, None)
    assert 4 <= len(steps) <= 6
    sizes = [[np.hypot(*np.ptp(mark.points_mm, axis=0)) for mark in step.new] for step in steps[1:]]
    for before, after in pairwise(sizes):
        assert min(before) >= max(after) - 1e-9
    assert sum(map(len, sizes)) >= 20
    assert len(steps[-1].before) + len(steps[-1].new) == sum(len(step.new) for step in steps)


def test_with_nothing_to_draw_the_order_is_only_the_halves(plan):
    steps = block_in(plan.study, FrameMap.of(plan.study.frame, plan.paper), None, None)
    assert [step.title for step in steps] == ["Halves and datum"]


@pytest.mark.parametrize("method", METHODS)
def test_every_method_says_what_to_print_and_in_which_order_for_this_plan(plan, method):
    plan = change_sheet(replace(plan.study.sheet, pages="A4", layers=("frame", "lines", "horizon"))).apply(plan, NOON)
    guide = transfer_guide(worked_study(plan), method)
    assert guide.settings.mirrored == (method == "graphite tracing")
    assert guide.to_print
    assert len(guide.steps) >= 4
    text = " ".join((*guide.to_print, *guide.steps))
    if method in ("transfer paper", "graphite tracing", "light table"):
        assert f"{len(tiles_for(plan.paper, 'A4').tiles)} A4 pages" in text
        assert "15.0 mm in from every edge" in text
        assert "horizon" in guide.steps[-1], "construction is listed to be lifted"


def test_the_guide_says_where_the_frame_lies_even_where_it_does_not_fill_the_margins(plan):
    frame = replace(plan.study.frame, proportion="free", width_px=200.0, height_px=200.0)
    study = replace(plan.study, frame=frame)
    worked = worked_study(replace(plan, studies=(study,)))
    box = worked.frame_map.box
    assert box.left > 60
    (first, *_) = transfer_guide(worked, "freehand").steps
    assert f"{box.left:.1f} mm in from the left edge" in first
    assert "15.0 mm from the top" in first


def test_a_motif_changes_the_graphite_guide(plan):
    before = transfer_guide(worked_study(plan), "graphite tracing").steps
    motif = Motif(SQUARE, (MotifPlace(50, 50), MotifPlace(90, 50, flipped=True)), copies_per_load=2)
    after = transfer_guide(worked_study(set_motif(motif).apply(plan, NOON)), "graphite tracing")
    assert "motif" in after.settings.layers
    assert any("2 times, 1 from the front and 1 turned over" in step for step in after.steps)
    assert after.steps != before
