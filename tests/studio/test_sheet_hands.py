"""Clumsy hands at the sheet: nonsense typed, drags dropped, marks nudged, removed, renamed and taken back."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QEvent, Qt
from tests.studio.conftest import Hand, control
from tests.studio.test_sheet_station import lasso, sheet, study, take, tap  # noqa: F401

from mild_compass.plan.edits.sheet import change_measures, change_sheet, set_motif, set_shapes
from mild_compass.plan.edits.viewfinder import choose_paper, move_frame
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.paper import Paper
from mild_compass.plan.sheet import (
    METHODS,
    SHAPE_KINDS,
    BlockShape,
    MeasuredLength,
    MeasuredPoint,
    MeasurePlan,
    Motif,
    MotifPlace,
)
from mild_compass.studio.stations.sheet.layers import LAYER_WORDS, LayersInstrument
from mild_compass.studio.stations.sheet.measure import MeasureInstrument
from mild_compass.studio.stations.sheet.motif import MotifInstrument
from mild_compass.studio.stations.sheet.print_out import PrintInstrument
from mild_compass.studio.stations.sheet.simple_shapes import SimpleShapesInstrument
from mild_compass.studio.stations.sheet.transfer import TransferInstrument

SQUARE = ((-20.0, -20.0), (20.0, -20.0), (20.0, 20.0), (-20.0, 20.0))
NONSENSE = ("lots", "-3", "1e99", "nan", "12 elephants")


def test_every_kind_of_page_is_laid_out_and_shown(sheet: Hand):  # noqa: F811
    printing = take(sheet, PrintInstrument)
    counts = {}
    for pages in ("A5", "A4", "Letter", "Legal", "A3", "Tabloid", "one page"):
        control(printing, "Pages").pick(pages)
        sheet.settle()
        counts[pages] = len(sheet.window.middle.page("pages").tiles)
        said = next(each for each in sheet.window.readings.readings if each.key == "pages")
        assert said.number == counts[pages]
    assert counts["A5"] > counts["A4"] >= counts["A3"] >= counts["one page"] == 1


def test_what_stays_is_ticked_for_the_chosen_layer(sheet: Hand):  # noqa: F811
    layers = take(sheet, LayersInstrument)
    control(layers, "Layers of the sheet").setCurrentRow(list(LAYER_WORDS).index("grid"))
    assert not control(layers, "Stays; is not lifted").isChecked()
    control(layers, "Stays; is not lifted").click()
    assert "grid" in study(sheet).sheet.staying
    control(layers, "Stays; is not lifted").click()
    assert "grid" not in study(sheet).sheet.staying
    control(layers, "Layers of the sheet").setCurrentRow(list(LAYER_WORDS).index("picture"))
    assert not control(layers, "Stays; is not lifted").isEnabled()


def test_squares_by_count_take_the_place_of_those_by_size_and_back(sheet: Hand):  # noqa: F811
    layers = take(sheet, LayersInstrument)
    sheet.type_into(control(layers, "Squares across; 0 for by size").line, "9")
    sheet.settle()
    uprights = {
        round(float(mark.points_mm[0, 0]), 2)
        for mark in sheet.window.board.drawing().layer("grid").strokes
        if mark.points_mm[0, 0] == mark.points_mm[1, 0]
    }
    assert len(uprights) == 8
    control(layers, "Diagonals in the squares").click()
    sheet.settle()
    assert any(mark.dash == "dashed" for mark in sheet.window.board.drawing().layer("grid").strokes)
    sheet.type_into(control(layers, "Squares of the grid").line, "40 mm")
    assert (study(sheet).sheet.grid_mm, study(sheet).sheet.grid_count) == (40, 0)


def test_a_drag_dropped_with_escape_leaves_the_measures_alone(sheet: Hand):  # noqa: F811
    measured = MeasurePlan(points=(MeasuredPoint(250.0, 200.0),), lengths=(MeasuredLength(300.0, 100.0, 300.0, 300.0),))
    sheet.window.session.apply(change_measures(measured))
    take(sheet, MeasureInstrument)
    for start in ((250.0, 200.0), (300.0, 100.0)):
        sheet.drag(start, (350.0, 250.0), let_go=False)
        assert study(sheet).measures != measured
        sheet.bot.keyClick(sheet.window.board, Qt.Key.Key_Escape)
        assert study(sheet).measures == measured
        sheet.mouse(QEvent.Type.MouseButtonRelease, sheet.place((350.0, 250.0)))
        assert study(sheet).measures == measured


def test_taking_up_another_instrument_drops_what_is_held(sheet: Hand):  # noqa: F811
    sheet.window.session.apply(change_measures(MeasurePlan(points=(MeasuredPoint(250.0, 200.0),))))
    before = study(sheet).measures
    take(sheet, MeasureInstrument)
    sheet.drag((250.0, 200.0), (320.0, 260.0), let_go=False)
    sheet.window.bench.take_up("layers")
    assert study(sheet).measures == before


def test_a_click_where_a_drag_is_asked_for_says_what_to_do(sheet: Hand):  # noqa: F811
    measure = take(sheet, MeasureInstrument)
    for what, words in (
        ("lengths", "Drag from end to end"),
        ("axis", "Drag along the middle"),
        ("negatives", "Draw round"),
    ):
        control(measure, "What is measured").pick(what)
        tap(sheet, (300.0, 200.0))
        assert words in sheet.window.notice.words.text()
    assert study(sheet).measures == MeasurePlan()


def test_the_unit_goes_with_its_length(sheet: Hand):  # noqa: F811
    lengths = tuple(MeasuredLength(200.0 + 40 * k, 100.0, 200.0 + 40 * k, 300.0, name) for k, name in enumerate("abc"))
    sheet.window.session.apply(change_measures(MeasurePlan(lengths=lengths, unit=2)))
    measure = take(sheet, MeasureInstrument)
    control(measure, "Measures").setCurrentRow(0)
    control(measure, "Remove it").click()
    assert study(sheet).measures.lengths[study(sheet).measures.unit - 1].name == "b"
    control(measure, "Measures").setCurrentRow(0)
    control(measure, "Remove it").click()
    assert [each.name for each in study(sheet).measures.lengths] == ["c"]
    assert study(sheet).measures.unit == 0, "nothing is compared with what is gone"


def test_the_axis_is_moved_by_its_ends_and_removed(sheet: Hand):  # noqa: F811
    measure = take(sheet, MeasureInstrument)
    control(measure, "What is measured").pick("axis")
    sheet.drag((300.0, 120.0), (300.0, 280.0))
    sheet.drag((300.0, 120.0), (330.0, 130.0))
    (x, y), _ = study(sheet).measures.symmetry.axis
    assert (x, y) == pytest.approx((330, 130), abs=2)
    sheet.bot.keyClick(sheet.window.board, Qt.Key.Key_Delete)
    assert study(sheet).measures.symmetry is None


def test_wider_tolerance_finds_more_that_lines_up(sheet: Hand):  # noqa: F811
    points = (MeasuredPoint(200.0, 100.0), MeasuredPoint(300.0, 104.0))
    sheet.window.session.apply(change_measures(MeasurePlan(points=points, tolerance_mm=0.5)))
    measure = take(sheet, MeasureInstrument)
    sheet.settle()
    assert not [each for each in sheet.window.readings.readings if each.key == "aligned"]
    sheet.type_into(control(measure, "What still counts as level or plumb").line, "8 mm")
    sheet.settle()
    (aligned,) = [each for each in sheet.window.readings.readings if each.key == "aligned"]
    assert "A lies level with B" in aligned.text
    assert aligned.place is not None
    for words in NONSENSE:
        sheet.type_into(control(measure, "What still counts as level or plumb").line, words)
        assert control(measure, "What still counts as level or plumb").error
    assert study(sheet).measures.tolerance_mm == 8


def test_a_shape_is_widened_turned_and_made_taller_by_its_handles(sheet: Hand):  # noqa: F811
    sheet.window.session.apply(set_shapes((BlockShape("box", 300.0, 200.0, 60.0, 30.0),)))
    shapes = take(sheet, SimpleShapesInstrument)
    control(shapes, "Simple shapes").setCurrentRow(0)
    sheet.drag((360.0, 200.0), (300.0, 280.0))  # the right handle, a quarter turn
    turned = study(sheet).shapes[0]
    assert (turned.turn_deg, turned.half_width_px) == pytest.approx((90, 80), abs=2)
    sheet.drag((270.0, 200.0), (250.0, 200.0))  # the lower one now points to the left
    assert study(sheet).shapes[0].half_height_px == pytest.approx(50, abs=2)
    sheet.bot.keyClick(sheet.window.board, Qt.Key.Key_Right)
    scale = sheet.window.board.frame_map.mm_per_px
    assert (study(sheet).shapes[0].x_px - 300) * scale == pytest.approx(1, abs=0.01)
    sheet.bot.keyClick(sheet.window.board, Qt.Key.Key_Delete)
    assert study(sheet).shapes == ()


def test_every_kind_of_shape_is_dragged_out_and_taken_back(sheet: Hand):  # noqa: F811
    shapes = take(sheet, SimpleShapesInstrument)
    for kind in SHAPE_KINDS:
        control(shapes, "Kind of shape").pick(kind)
        sheet.drag((240.0, 120.0), (340.0, 260.0))
        (shape,) = study(sheet).shapes
        assert shape.kind == kind
        assert (shape.x_px, shape.y_px) == pytest.approx((290, 190), abs=2)
        sheet.window.session.undo()
        assert study(sheet).shapes == ()


def test_every_kind_of_shape_is_fitted_to_the_mass_that_is_pointed_at(sheet: Hand):  # noqa: F811
    shapes = take(sheet, SimpleShapesInstrument)
    for kind in SHAPE_KINDS:
        control(shapes, "Kind of shape").pick(kind)
        tap(sheet, (300.0, 200.0))
        (shape,) = study(sheet).shapes
        assert shape.kind == kind
        sheet.window.session.undo()
    tap(sheet, (3.0, 3.0))
    assert "outside the picture" in sheet.window.notice.words.text()
    assert study(sheet).shapes == ()


def test_a_place_of_the_motif_is_turned_nudged_sent_back_and_removed(sheet: Hand):  # noqa: F811
    places = (MotifPlace(100.0, 150.0), MotifPlace(180.0, 250.0))
    sheet.window.session.apply(set_motif(Motif(SQUARE, places)))
    motif = take(sheet, MotifInstrument)
    control(motif, "Places in the order of transfer, the front one first").setCurrentRow(0)  # the front one
    sheet.type_into(control(motif, "Turned clockwise").line, "30")
    assert study(sheet).motif.places[1].turn_deg == 30
    for words in NONSENSE:
        if words != "-3":
            sheet.type_into(control(motif, "Turned clockwise").line, words)
            assert control(motif, "Turned clockwise").error
    sheet.bot.keyClick(sheet.window.board, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert study(sheet).motif.places[1].y_mm == pytest.approx(260)
    sheet.click("Back")
    assert [place.turn_deg for place in study(sheet).motif.places] == [30, 0]
    sheet.click("Back")
    assert [place.turn_deg for place in study(sheet).motif.places] == [30, 0], "it is at the back already"
    sheet.click("Forward")
    assert [place.turn_deg for place in study(sheet).motif.places] == [0, 30]
    sheet.click("Remove it")
    assert len(study(sheet).motif.places) == 1


def test_the_load_of_the_tracing_is_the_artists_and_another_tracing_can_be_drawn(sheet: Hand):  # noqa: F811
    sheet.window.session.apply(set_motif(Motif(SQUARE, (MotifPlace(100.0, 150.0),) * 5)))
    motif = take(sheet, MotifInstrument)
    sheet.type_into(control(motif, "Transfers a side gives before it is loaded again").line, "2")
    sheet.settle()
    said = next(each for each in sheet.window.readings.readings if each.key == "transfers")
    assert "load it again 2 times" in said.text
    sheet.type_into(control(motif, "Transfers a side gives before it is loaded again").line, "0")
    assert control(motif, "Transfers a side gives before it is loaded again").error
    sheet.click("Draw another tracing")
    assert study(sheet).motif is None
    tap(sheet, (300.0, 200.0))
    assert "Draw round" in sheet.window.notice.words.text()


def test_a_turn_by_the_handle_follows_the_hand(sheet: Hand):  # noqa: F811
    sheet.window.session.apply(set_motif(Motif(SQUARE, (MotifPlace(148.0, 200.0),))))
    motif = take(sheet, MotifInstrument)
    board = sheet.window.board
    grip = board.sheet_sight().to_widget(motif._grip(study(sheet).motif, study(sheet).motif.places[0]))
    middle = board.sheet_sight().to_widget((148.0, 200.0))
    start, end = (type(sheet.place((0, 0)))(*map(float, each)) for each in (grip, middle + np.array([80.0, 0.0])))
    sheet.mouse(QEvent.Type.MouseButtonPress, start)
    for share in (0.4, 0.8, 1.0):
        sheet.mouse(QEvent.Type.MouseMove, start + (end - start) * share)
    sheet.mouse(QEvent.Type.MouseButtonRelease, end)
    assert study(sheet).motif.places[0].turn_deg == pytest.approx(90, abs=2)
    assert sheet.window.session.undo_label == "change the motif"


def test_every_guide_is_shown_with_its_steps_and_its_print(sheet: Hand):  # noqa: F811
    transfer = take(sheet, TransferInstrument)
    page = sheet.window.middle.page("transfer")
    for method in METHODS:
        control(transfer, "Method").pick(method)
        sheet.settle()
        assert page.guide.method == method
        shown = [words.text() for _, words in page._rows if words.isVisibleTo(page)]
        assert all(step in shown for step in page.guide.steps)
        assert page._figure.drawing is not None
        sheet.click("Set the print up so")
        sheet.click("Set the print up so")
        assert "set up so already" in sheet.window.notice.words.text()


def test_a_margin_as_large_as_the_sheet_and_a_tiny_sheet_are_told_in_sentences(sheet: Hand):  # noqa: F811
    session = sheet.window.session
    before = session.plan
    photo = before.reference(study(sheet).ground)
    small = Paper("small", 40.0, 40.0, 2.0)
    assert session.apply(choose_paper(small))
    session.apply(move_frame(largest_frame(photo, small)))
    for name in ("layers", "measure", "print", "transfer", "block-in"):
        sheet.window.bench.take_up(name)
        sheet.settle()
    grid = replace(study(sheet).sheet, grid_mm=5.0, pages="A4", layers=("frame", "grid", "lines"))
    assert session.apply(change_sheet(grid))
    sheet.settle()
    assert not [each for each in sheet.window.readings.readings if each.verdict == "act"]
