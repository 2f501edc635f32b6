"""The sheet station in the real window: measure, simple shapes, motif, order of drawing, transfer, print."""

from __future__ import annotations

import itertools
import stat
from pathlib import Path

import pypdfium2 as pdfium
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QPageSize
from PySide6.QtPrintSupport import QPrintDialog, QPrinter, QPrinterInfo
from PySide6.QtWidgets import QDialog
from tests.studio.conftest import Hand, control

from mild_compass.studio.files import printing
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.stations.sheet.block_in import BlockInInstrument
from mild_compass.studio.stations.sheet.layers import LAYER_WORDS, LayersInstrument
from mild_compass.studio.stations.sheet.measure import MeasureInstrument
from mild_compass.studio.stations.sheet.motif import MotifInstrument
from mild_compass.studio.stations.sheet.print_out import PrintInstrument
from mild_compass.studio.stations.sheet.simple_shapes import SimpleShapesInstrument
from mild_compass.studio.stations.sheet.table import TableInstrument
from mild_compass.studio.stations.sheet.transfer import TransferInstrument


@pytest.fixture
def sheet(hand: Hand) -> Hand:
    hand.go(6)
    hand.settle()
    return hand


def take(hand: Hand, kind: type):
    found = next(each for each in hand.window.bench.instruments if type(each) is kind)
    hand.window.bench.take_up(found.name)
    hand.settle()
    return found


def study(hand: Hand):
    found = hand.window.session.plan.study
    assert found is not None
    return found


def tap(hand: Hand, place: tuple[float, float]) -> None:
    hand.drag(place, place)


def lasso(hand: Hand, *corners: tuple[float, float]) -> None:
    """Draw through several places of the photo without letting go."""
    from PySide6.QtCore import QEvent

    hand.mouse(QEvent.Type.MouseButtonPress, hand.place(corners[0]))
    for (x0, y0), (x1, y1) in itertools.pairwise(corners):
        for k in range(1, 9):
            hand.mouse(QEvent.Type.MouseMove, hand.place((x0 + (x1 - x0) * k / 8, y0 + (y1 - y0) * k / 8)))
    hand.mouse(QEvent.Type.MouseButtonRelease, hand.place(corners[-1]))


def test_lengths_are_dragged_named_and_taken_as_the_unit(sheet: Hand):
    measure = take(sheet, MeasureInstrument)
    sheet.drag((250, 150), (250, 250))
    sheet.type_into(control(measure, "Name").line, "door")
    control(measure, "Compare all with this length").click()
    sheet.drag((300, 100), (300, 300))
    plan = study(sheet).measures
    assert [each.name for each in plan.lengths] == ["door", ""]
    assert plan.unit == 1
    sheet.settle()
    compared = next(each for each in sheet.window.readings.readings if each.key == "units")
    assert "length 2 2.00" in compared.text
    assert sheet.window.session.undo_label == "change the measures"


def test_datum_places_and_what_lines_up(sheet: Hand):
    measure = take(sheet, MeasureInstrument)
    control(measure, "Halve the frame").click()
    assert [each.kind for each in study(sheet).measures.datums] == ["upright", "level"]
    control(measure, "What is measured").pick("points")
    tap(sheet, (220, 160))
    tap(sheet, (380, 160))
    sheet.settle()
    aligned = next(each for each in sheet.window.readings.readings if each.key == "aligned")
    assert "A lies level with B" in aligned.text
    before = study(sheet).measures.points[1]
    sheet.bot.keyClick(sheet.window.board, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    sheet.settle()
    moved = study(sheet).measures.points[1]
    scale = sheet.window.board.frame_map.mm_per_px
    assert (moved.y_px - before.y_px) * scale == pytest.approx(10)
    assert not [each for each in sheet.window.readings.readings if each.key == "aligned"]
    sheet.bot.keyClick(sheet.window.board, Qt.Key.Key_Delete)
    assert len(study(sheet).measures.points) == 1


def test_a_place_is_moved_by_its_mark_as_one_undo_step(sheet: Hand):
    measure = take(sheet, MeasureInstrument)
    control(measure, "What is measured").pick("points")
    tap(sheet, (220, 160))
    sheet.drag((220, 160), (260, 200))
    assert len(study(sheet).measures.points) == 1
    assert study(sheet).measures.points[0].x_px == pytest.approx(260, abs=2)
    sheet.bot.keyClick(sheet.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert study(sheet).measures.points[0].x_px == pytest.approx(220, abs=2)


def test_the_sides_of_a_thing_are_compared_and_a_shape_between_is_outlined(sheet: Hand):
    measure = take(sheet, MeasureInstrument)
    control(measure, "What is measured").pick("outline")
    lasso(sheet, (260, 120), (340, 120), (340, 280), (260, 280))
    assert study(sheet).measures.symmetry is None, "the axis comes first"
    control(measure, "What is measured").pick("axis")
    sheet.drag((290, 110), (290, 290))
    control(measure, "What is measured").pick("outline")
    lasso(sheet, (260, 120), (340, 120), (340, 280), (260, 280))
    sheet.settle()
    sides = next(each for each in sheet.window.readings.readings if each.key == "sides")
    assert "right side is wider" in sides.text
    assert sides.verdict == "look"
    control(measure, "What is measured").pick("negatives")
    lasso(sheet, (120, 120), (200, 120), (160, 200))
    assert len(study(sheet).measures.negatives) == 1


def test_the_table_is_read_saved_and_printed(sheet: Hand, tmp_path: Path, monkeypatch):
    measure = take(sheet, MeasureInstrument)
    control(measure, "Halve the frame").click()
    sheet.drag((250, 150), (250, 250))
    take(sheet, TableInstrument)
    table = sheet.window.middle.page("measures")
    assert table.rowCount() == 3
    assert table.item(2, 0).text() == "length"
    for suffix, button in ((".csv", "Save as CSV…"), (".pdf", "Save the table as PDF…")):
        target = tmp_path / f"table{suffix}"
        monkeypatch.setattr(Dialogs, "target", lambda *_, target=target, **__: target)
        sheet.click(button)
        sheet.bot.waitUntil(target.exists, timeout=10_000)
    assert "length 1" in (tmp_path / "table.csv").read_text()


def test_shapes_are_dragged_out_fitted_turned_and_kept(sheet: Hand):
    shapes = take(sheet, SimpleShapesInstrument)
    control(shapes, "Kind of shape").pick("box")
    sheet.drag((220, 140), (320, 200))
    (box,) = study(sheet).shapes
    assert (box.half_width_px, box.half_height_px) == pytest.approx((50, 30), abs=2)
    sheet.type_into(control(shapes, "Turned clockwise").line, "12")
    assert study(sheet).shapes[0].turn_deg == 12
    sheet.type_into(control(shapes, "Turned clockwise").line, "lots")
    assert control(shapes, "Turned clockwise").error
    control(shapes, "Stays; is not lifted").click()
    assert study(sheet).shapes[0].stays
    sheet.drag((270, 170), (300, 220))
    assert study(sheet).shapes[0].x_px == pytest.approx(300, abs=2)
    control(shapes, "Kind of shape").pick("oval")
    tap(sheet, (430, 330))
    assert len(study(sheet).shapes) == 2, "a click fits one to the mass there"


def test_a_motif_is_drawn_once_and_laid_down_several_times(sheet: Hand):
    motif = take(sheet, MotifInstrument)
    lasso(sheet, (200, 140), (280, 140), (280, 220), (200, 220))
    first = study(sheet).motif
    assert first is not None
    assert len(first.places) == 1
    tap(sheet, (400, 300))
    tap(sheet, (320, 300))
    assert len(study(sheet).motif.places) == 3
    control(motif, "Turned over").click()
    assert study(sheet).motif.places[2].flipped
    control(motif, "Back").click()
    assert study(sheet).motif.places[1].flipped
    before = study(sheet).motif.places[0]
    sheet.drag((240, 180), (250, 190))
    moved = study(sheet).motif.places[0]
    scale = sheet.window.board.frame_map.mm_per_px
    assert (moved.x_mm - before.x_mm, moved.y_mm - before.y_mm) == pytest.approx((10 * scale, 10 * scale), abs=0.6)
    assert study(sheet).motif.outline_mm == first.outline_mm, "a tracing has one size"
    sheet.settle()
    assert any(each.key == "transfers" and "3 transfers" in each.text for each in sheet.window.readings.readings)


def test_the_order_of_drawing_is_shown_in_small_pictures_and_saved(sheet: Hand, tmp_path: Path, monkeypatch):
    take(sheet, BlockInInstrument)
    page = sheet.window.middle.page("block-in")
    assert 4 <= len(page.tiles) <= 6
    target = tmp_path / "steps.pdf"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    sheet.click("Save the steps as PDF…")
    sheet.bot.waitUntil(target.exists, timeout=10_000)


def test_a_method_is_chosen_and_sets_the_print_up(sheet: Hand, tmp_path: Path, monkeypatch):
    transfer = take(sheet, TransferInstrument)
    control(transfer, "Method").pick("graphite tracing")
    sheet.settle()
    page = sheet.window.middle.page("transfer")
    assert page.guide.method == "graphite tracing"
    sheet.click("Set the print up so")
    assert study(sheet).sheet.mirrored
    assert "lines" in study(sheet).sheet.layers
    target = tmp_path / "guide.pdf"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    sheet.click("Save the guide as PDF…")
    sheet.bot.waitUntil(target.exists, timeout=10_000)
    document = pdfium.PdfDocument(target)
    text = document[0].get_textpage().get_text_bounded()
    document.close()
    assert "mirrored" in text


def test_every_page_is_previewed_from_the_pdf_itself(sheet: Hand):
    printing_out = take(sheet, PrintInstrument)
    page = sheet.window.middle.page("pages")
    control(printing_out, "Pages").pick("one page")
    sheet.settle()
    assert [tile.title for tile in page.tiles] == ["the whole sheet"]
    control(printing_out, "Pages").pick("usual")
    sheet.settle()
    assert len(page.tiles) == 4
    assert next(tile.words[0] for tile in page.tiles) == "Begin here."
    sheet.type_into(control(printing_out, "Overlap of the pages").line, "190 mm")
    assert "smaller overlap" in control(printing_out, "Overlap of the pages").error
    assert study(sheet).sheet.overlap_mm == 15


def test_the_printers_error_is_entered_once_and_remembered(sheet: Hand):
    printing_out = take(sheet, PrintInstrument)
    sheet.type_into(control(printing_out, "What the level 100 mm bar measures on paper").line, "98.7")
    assert sheet.window.settings.output.printer.across == pytest.approx(100 / 98.7)
    sheet.type_into(control(printing_out, "What the level 100 mm bar measures on paper").line, "9")
    assert "between 90 and 110" in control(printing_out, "What the level 100 mm bar measures on paper").error
    assert sheet.window.settings.now.printer.across_mm == 98.7


def test_lines_from_the_photo_come_onto_the_sheet_and_fewer_when_less_is_asked(sheet: Hand):
    layers = take(sheet, LayersInstrument)
    control(layers, "Layers of the sheet").item(list(LAYER_WORDS).index("lines")).setCheckState(Qt.CheckState.Checked)
    sheet.settle()
    many = len(sheet.window.board.drawing().layer("lines").strokes)
    sheet.type_into(control(layers, "How many of the photo's lines, 0 to 100").line, "20")
    sheet.settle()
    assert 0 < len(sheet.window.board.drawing().layer("lines").strokes) < many
    control(layers, "Inks").pick("grey")
    control(layers, "Words and numbers").click()
    sheet.settle()
    drawing = sheet.window.board.drawing()
    assert {mark.ink for layer in drawing.layers for mark in layer.strokes} <= {"mass", "faint"}
    assert not any(layer.labels for layer in drawing.layers)


def test_without_a_printer_there_is_a_sentence(sheet: Hand, monkeypatch):
    monkeypatch.setattr(QPrinterInfo, "availablePrinterNames", staticmethod(list))
    sheet.bot.keyClick(sheet.window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    assert "No printer is set up" in sheet.window.notice.words.text()


def test_the_pdf_goes_to_the_chosen_printer_unscaled(sheet: Hand, tmp_path: Path, monkeypatch):
    told = tmp_path / "told"
    command = tmp_path / "lp"
    command.write_text(f'#!/bin/sh\necho "$@" > {told}\n')
    command.chmod(command.stat().st_mode | stat.S_IXUSR)
    monkeypatch.setenv("PATH", str(tmp_path), prepend=":")
    sheet.window.files.printing.send(printing.Order("desk printer", 2, 1, 3))
    sheet.settle()
    words = told.read_text()
    assert "-d desk printer -n 2 -o print-scaling=none -o media=A4 -P 1-3" in words
    assert "The sheet is with desk printer" in sheet.window.notice.words.text()


def test_the_dialog_opens_with_the_printer_used_last_and_the_paper_of_the_pages(sheet: Hand, tmp_path, monkeypatch):
    seen = []

    def accept(dialog: QPrintDialog) -> QDialog.DialogCode:
        page = dialog.printer().pageLayout().pageSize().size(QPageSize.Unit.Millimeter)
        seen.append((dialog.printer().printerName(), page.width(), page.height()))
        monkeypatch.setattr(QPrinter, "printerName", lambda _: "by the window")
        return QDialog.DialogCode.Accepted

    named = []
    monkeypatch.setattr(QPrinterInfo, "availablePrinterNames", staticmethod(lambda: ["desk printer", "by the window"]))
    monkeypatch.setattr(QPrinter, "setPrinterName", lambda _, name: named.append(name))
    monkeypatch.setattr(QPrintDialog, "exec", accept)
    monkeypatch.setattr(printing.Printing, "send", lambda *_: None)
    control(take(sheet, PrintInstrument), "Pages").pick("one page")
    for _ in range(2):
        sheet.bot.keyClick(sheet.window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    assert named == ["by the window"]  # nothing to remember the first time
    assert seen[0][1:] == pytest.approx((297, 420), abs=1)
    assert sheet.window.settings.now.printer_name == "by the window"


def test_a_printer_that_refuses_is_told_with_its_reason(sheet: Hand, tmp_path: Path, monkeypatch):
    command = tmp_path / "lp"
    command.write_text("#!/bin/sh\necho 'lp: out of paper' >&2\nexit 1\n")
    command.chmod(command.stat().st_mode | stat.S_IXUSR)
    monkeypatch.setenv("PATH", str(tmp_path), prepend=":")
    sheet.window.files.printing.send(printing.Order("desk printer"))
    sheet.settle()
    assert "out of paper" in sheet.window.notice.words.text()


def test_the_print_dialog_can_print_into_a_file(sheet: Hand, tmp_path: Path, monkeypatch):
    target = tmp_path / "printed.pdf"

    def accept(dialog: QPrintDialog) -> QDialog.DialogCode:
        dialog.printer().setOutputFileName(str(target))
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(QPrinterInfo, "availablePrinterNames", staticmethod(lambda: ["desk printer"]))
    monkeypatch.setattr(QPrintDialog, "exec", accept)
    sheet.bot.keyClick(sheet.window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    sheet.bot.waitUntil(target.exists, timeout=10_000)
    sheet.settle()
    document = pdfium.PdfDocument(target)
    assert document[0].get_width() * 25.4 / 72 == pytest.approx(297, abs=0.1)
    document.close()


def test_a_print_dialog_that_is_closed_prints_nothing(sheet: Hand, monkeypatch):
    monkeypatch.setattr(QPrinterInfo, "availablePrinterNames", staticmethod(lambda: ["desk printer"]))
    monkeypatch.setattr(QPrintDialog, "exec", lambda _: QDialog.DialogCode.Rejected)
    sheet.bot.keyClick(sheet.window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    assert sheet.window.jobs.idle


@pytest.mark.parametrize("page", ["pages", "block-in", "transfer"])
def test_without_a_photo_a_page_shows_nothing_of_the_plan_before(sheet: Hand, page: str):
    kind = {"pages": PrintInstrument, "block-in": BlockInInstrument, "transfer": TransferInstrument}[page]
    take(sheet, kind)
    shown = sheet.window.middle.page(page)
    assert shown.guide is not None if page == "transfer" else shown.tiles
    while sheet.window.session.undo_label:
        sheet.window.session.undo()
    sheet.settle()
    assert sheet.window.session.plan.study is None
    assert shown.guide is None if page == "transfer" else not shown.tiles


def test_a_sheet_is_not_written_as_a_kind_that_holds_none(hand: Hand, tmp_path: Path):
    said: list[str] = []
    hand.window.session.said.connect(said.append)
    for suffix in (".csv", ".xyz"):
        hand.window.files.exports.write_sheet(tmp_path / f"sheet{suffix}")
        hand.settle()
        assert "Known are .pdf, .svg, .png, .dxf, .ora" in said[-1]
        assert not (tmp_path / f"sheet{suffix}").exists()
