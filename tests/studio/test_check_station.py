"""The check station in the window: drawings in, corners, what is off, plan over drawing, over time, printing."""

from __future__ import annotations

import shutil
from pathlib import Path
from threading import Event

import numpy as np
import pypdfium2 as pdfium
import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QLabel
from tests.studio.conftest import Hand, control, words_of
from tests.studio.test_pages import take

from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.plan.edits.check import choose_drawing
from mild_compass.studio.application import load_demo
from mild_compass.studio.derived import checks
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.widgets import Choice

LINES = PHOTOS / "pumping-drawing-lines.jpg"
MADE: dict[object, object] = {}


@pytest.fixture(autouse=True)
def _made_once(monkeypatch) -> None:
    """The same drawing of the same study is checked once for all tests: it takes two seconds."""

    def made(plan, drawing, photos, picture):
        key = checks.key_of(plan, drawing, None)
        if key not in MADE:
            MADE[key] = real(plan, drawing, photos, picture)
        return MADE[key]

    real = checks.made_check
    monkeypatch.setattr(checks, "made_check", made)


@pytest.fixture
def check(empty: Hand) -> Hand:
    """The pumping station with its two drawings, at the check; the lines are checked."""
    load_demo(empty.window, "pumping-station")
    empty.window.session.apply(choose_drawing("drawing-lines"))
    empty.go(7)
    empty.bot.waitUntil(lambda: empty.window.computed.checks.now.settled, timeout=30_000)
    empty.settle()
    return empty


def cards(hand: Hand) -> str:
    """All that the readings say."""
    return " ".join(reading.text for reading in hand.window.reader._told["check"][1])


def on_sheet(hand: Hand, at_mm: tuple[float, float]) -> QPointF:
    """Where a place of the sheet is on the board."""
    return QPointF(*hand.window.board.sheet_sight().to_widget(at_mm).tolist())


def drag_on_sheet(hand: Hand, start_mm: tuple[float, float], end_mm: tuple[float, float]) -> None:
    """Drag on the board from one place of the sheet to another."""
    a, b = on_sheet(hand, start_mm), on_sheet(hand, end_mm)
    hand.mouse(QEvent.Type.MouseButtonPress, a)
    for share in (0.4, 1.0):
        hand.mouse(QEvent.Type.MouseMove, a + (b - a) * share)
    hand.mouse(QEvent.Type.MouseButtonRelease, b)
    hand.settle()


def test_what_is_off_is_listed_shown_ticked_refused_and_kept(check: Hand):
    tool = take(check, "off")
    assert "woman" in words_of(tool) + control(tool, "What is off").item(0).text() + cards(check).lower()
    count = control(tool, "What is off").count()
    assert count >= 2
    check.window.grab()  # arrows and lines are painted without a fault
    # A tick says it is mended: it leaves the readings and is told in the logbook.
    first = tool._parts[0]
    control(tool, "What is off").ticked.emit(0, True)
    check.settle()
    assert check.window.session.plan.drawing.mended == (first.centre_mm,)
    assert check.window.session.plan.log[-1].text.startswith("Mended on the drawing:")
    control(tool, "What is off").ticked.emit(0, False)
    check.settle()
    assert check.window.session.plan.drawing.mended == ()
    check.click("Keep it in the logbook")
    assert check.window.session.plan.log[-1].text.startswith("Checked pumping-drawing-lines.jpg:")
    # Delete refuses a match: it is compared no more until all are taken back.
    check.window.board.setFocus()
    check.key(Qt.Key.Key_Delete)
    check.settle()
    assert check.window.session.plan.drawing.refused == (first.centre_mm,)
    assert control(tool, "What is off").count() == count - 1
    check.click("All again")
    check.settle()
    assert control(tool, "What is off").count() == count


def test_drawing_and_plan_change_over_between_board_and_companion(check: Hand):
    take(check, "off")
    pair = check.window.middle.pair
    assert (pair.board.fill, pair.companion.view.fill) == ("drawing", "paper")
    assert "lines" in pair.companion.view.layers
    check.window.board.setFocus()
    check.key(Qt.Key.Key_Tab)
    check.settle()
    assert (pair.board.fill, pair.companion.view.fill) == ("paper", "drawing")
    check.window.grab()
    check.key(Qt.Key.Key_Tab)
    assert pair.board.fill == "drawing"
    check.go(2)
    assert pair.companion.view.fill == "masses"


def test_plan_and_drawing_are_laid_over_each_other_on_the_companion_too(check: Hand):
    take(check, "off")
    companion = check.window.middle.pair.companion
    view, chosen = companion.view, companion.findChild(Choice)
    assert chosen.currentText() == "The sheet as planned"
    seen = {}
    for way, down in (("two inks", False), ("wipe", False), ("difference", False), ("drawing", True)):
        chosen.pick((way, down))
        check.settle()
        seen[way] = view.grab().toImage()
    assert len({bytes(image.constBits()) for image in seen.values()}) == 4
    chosen.pick(("two inks", False))
    middle = QPointF(view.width() / 2, view.height() / 2)
    check.mouse(QEvent.Type.MouseButtonPress, middle, view)
    assert view.grab().toImage() != seen["two inks"], "the plan alone while the button is held"
    check.mouse(QEvent.Type.MouseButtonRelease, middle, view)
    check.settle()
    assert view.over.blink is False
    chosen.pick(("wipe", False))
    place = QPointF(view.width() * 0.3, view.height() / 2)
    check.mouse(QEvent.Type.MouseButtonPress, place, view)
    check.mouse(QEvent.Type.MouseButtonRelease, place, view)
    check.settle()
    assert view.over.edge == pytest.approx(0.28, abs=0.05)
    assert view.grab().toImage() != seen["wipe"]
    check.go(2)
    assert view.over is None
    assert not chosen.isVisible()
    check.go(7)
    assert view.over is not None, "it is laid over again on coming back"


def test_a_pair_is_set_by_dragging_from_the_plan_to_the_drawing(check: Hand):
    tool = take(check, "off")
    made = check.window.computed.drawing_check
    start = tuple(np.asarray(made.lines[0].points_mm)[0].tolist())
    drag_on_sheet(check, start, (start[0] + 9.0, start[1] + 4.0))
    (pair,) = check.window.session.plan.drawing.pairs
    assert pair.plan_mm == pytest.approx(start, abs=2.0)
    drawn = made.checked.flat.to_sheet(np.array([pair.drawn_px]))[0]
    assert drawn == pytest.approx((start[0] + 9, start[1] + 4), abs=1.0)
    place = next(each for each in check.window.computed.drawing_check.checked.places if each.plan_mm == pair.plan_mm)
    assert place.off
    check.window.session.undo()
    check.settle()
    assert check.window.session.plan.drawing.pairs == ()
    drag_on_sheet(check, (2.0, 2.0), (30.0, 30.0))  # beside every line the paper is moved
    assert check.window.session.plan.drawing.pairs == ()
    assert tool.tag() is None


def test_corners_are_shown_dragged_turned_and_found_again(check: Hand):
    tool = take(check, "corners")
    assert "sure of it" in words_of(tool)
    page = check.window.middle.page("corners")
    before = page.corners
    start = page.to_widget(before[2])
    check.mouse(QEvent.Type.MouseButtonPress, start, page)
    check.mouse(QEvent.Type.MouseMove, start + QPointF(-20, -12), page)
    page.grab()
    check.mouse(QEvent.Type.MouseButtonRelease, start + QPointF(-20, -12), page)
    check.settle()
    moved = check.window.session.plan.drawing.corners_px
    assert moved[2][0] < before[2][0] - 10
    assert moved[0] == pytest.approx(before[0], abs=0.1)
    assert "set by hand" in words_of(tool)
    page.setFocus()
    check.bot.keyClick(page, Qt.Key.Key_Right)
    assert check.window.session.plan.drawing.corners_px[2][0] == pytest.approx(moved[2][0] + 1, abs=0.06)
    check.bot.keyClick(page, Qt.Key.Key_Space)
    assert page.chosen == 3
    check.click("Turn by a quarter")
    assert check.window.session.plan.drawing.corners_px[3] == pytest.approx(moved[0], abs=0.1)
    check.click("Find them again")
    check.settle()
    assert check.window.session.plan.drawing.corners_px == ()
    assert np.allclose(page.corners, before)


def test_plan_and_drawing_are_laid_over_each_other_in_every_way(check: Hand):
    tool = take(check, "over it")
    page = check.window.middle.page("over it")
    pictures = {}
    for way in ("two inks", "drawing", "plan", "side by side", "wipe", "difference"):
        control(tool, "How they are laid over each other").pick(way)
        pictures[way] = page.grab().toImage()
    assert len({bytes(image.constBits()) for image in pictures.values()}) == 6
    control(tool, "How they are laid over each other").pick("wipe")
    place = QPointF(page.width() * 0.3, page.height() / 2)
    check.mouse(QEvent.Type.MouseButtonPress, place, page)
    check.mouse(QEvent.Type.MouseButtonRelease, place, page)
    assert page.laid.edge == pytest.approx(0.27, abs=0.05)
    control(tool, "How they are laid over each other").pick("drawing")
    plain = page.grab().toImage()
    page.setFocus()
    check.bot.keyPress(page, Qt.Key.Key_B)
    assert page.grab().toImage() == pictures["plan"]
    check.bot.keyRelease(page, Qt.Key.Key_B)
    assert page.grab().toImage() == plain
    for hold in ("squint", "values", "mirror", "step back"):
        check.window.middle.hold(hold, True)
        assert page.grab().toImage() != plain
        check.window.middle.hold(hold, False)
    control(tool, "Upside down").click()
    assert page.grab().toImage() != plain


def test_values_measures_and_strings_are_listed_and_the_checks_over_time(check: Hand):
    tool = take(check, "drawn values")
    page = check.window.middle.page("drawn values")
    control(tool, "What is listed").pick("measures")
    names = [page.item(row, 0).text() for row in range(page.rowCount())]
    assert names == ["door", "corner", "woman"]
    control(tool, "What is listed").pick("strings")
    assert page.rowCount() >= 3
    check.window.session.apply(choose_drawing("drawing-values"))
    check.settle()
    control(tool, "What is listed").pick("values")
    assert page.rowCount() > 5
    assert {page.item(row, 4).text() for row in range(page.rowCount())} <= {"as planned", "too light", "too dark"}
    take(check, "over time")
    page = check.window.middle.page("over time")
    check.bot.waitUntil(lambda: page.settled, timeout=30_000)
    check.settle()
    table = page._table
    assert [table.item(row, 2).text() for row in range(table.rowCount())] == ["lines", "values", "finished"]
    worst = [float(table.item(row, 4).text().split()[0]) for row in range(2)]
    assert worst[1] < worst[0]  # it is getting nearer
    assert "mended" in table.item(1, 7).text()
    page.grab()


def test_the_corrections_are_printed_at_true_size_and_as_a_list(check: Hand, tmp_path: Path, monkeypatch):
    take(check, "off")
    for words, name in (("Print the corrections…", "sheet.pdf"), ("Save the list as PDF…", "list.pdf")):
        monkeypatch.setattr(Dialogs, "target", lambda *_, name=name, **__: tmp_path / name)
        check.click(words)
        check.bot.waitUntil(lambda name=name: (tmp_path / name).exists() and check.window.jobs.idle, timeout=20_000)
    listed = pdfium.PdfDocument(tmp_path / "list.pdf")[0].get_textpage().get_text_bounded()
    assert "What to put right" in listed
    assert "Woman" in listed
    assert len(pdfium.PdfDocument(tmp_path / "sheet.pdf")) >= 1


def test_photos_of_the_drawing_come_by_file_drop_paste_folder_and_stand_in(
    hand: Hand, tmp_path: Path, monkeypatch, qtbot
):
    hand.go(7)
    tool = take(hand, "drawing")
    assert "No photo of the drawing yet" in words_of(tool)
    assert "any phone" in cards(hand)
    drawings = hand.window.files.drawings

    def wait(count: int) -> None:
        qtbot.waitUntil(lambda: len(hand.window.session.plan.drawings) == count, timeout=20_000)
        hand.rest()

    monkeypatch.setattr(Dialogs, "drawings", lambda _: [LINES])
    hand.click("Add a photo of it…")
    wait(1)
    assert len(hand.window.session.plan.references) == 1
    hand.window.take_files([PHOTOS / "pumping-drawing-values.jpg"])  # dropped at Check it is one of the drawing
    wait(2)
    hand.window.take_files([LINES])
    qtbot.waitUntil(lambda: "already in the plan" in hand.window.notice.words.text(), timeout=10_000)
    QGuiApplication.clipboard().setImage(hand.window.grab().toImage())
    hand.window.paste()
    wait(3)
    folder = tmp_path / "phone"
    folder.mkdir()
    monkeypatch.setattr(Dialogs, "folder", lambda _: folder)
    control(tool, "Watch a folder for more").click()
    assert drawings.watched.folder == folder
    shutil.copy(PHOTOS / "lantern-bench.jpg", folder / "phone.jpg")
    wait(4)
    control(tool, "Watch a folder for more").click()
    assert drawings.watched.folder is None
    hand.click("Draw it for me, badly")
    wait(5)
    assert "hand" in hand.window.session.plan.drawing.name
    control(tool, "How far the work had come").pick("finished")
    assert hand.window.session.plan.drawing.stage == "finished"
    control(tool, "Photos of the drawing").setCurrentRow(0)
    hand.settle()
    assert hand.window.session.plan.drawing.name == LINES.name
    hand.click("Remove this photo")
    hand.settle()
    assert len(hand.window.session.plan.drawings) == 4


def test_a_watched_folder_is_let_go_with_the_plan_it_was_watched_for(hand: Hand, tmp_path: Path):
    drawings = hand.window.files.drawings
    drawings.watched.watch(tmp_path)
    assert drawings.watched.folder == tmp_path
    hand.window.session.new()
    hand.settle()
    assert drawings.watched.folder is None


def said(widget) -> str:
    """All words that are to be seen on a part of the window."""
    return " ".join(each.text() for each in widget.findChildren(QLabel) if each.isVisible())


def test_looking_at_a_drawing_can_be_called_off_and_taken_up_again(empty: Hand):
    may_end = Event()
    real = checks.made_check

    def slow(*inputs):
        may_end.wait(20)
        return real(*inputs)

    empty.window.computed.checks.now._make = slow
    load_demo(empty.window, "pumping-station")
    empty.window.session.apply(choose_drawing("drawing-lines"))
    empty.window.go_to("check")
    notice = empty.window.notice
    empty.bot.waitUntil(lambda: notice.isVisible() and "Looking at the drawing" in said(notice), timeout=10_000)
    empty.click("Call it off")
    assert not notice.isVisible()
    empty.bot.waitUntil(lambda: "called off" in said(empty.window.readings), timeout=10_000)
    assert "Looking at this drawing was called off" in words_of(take(empty, "drawing"))
    may_end.set()
    empty.settle()
    assert empty.window.computed.checks.now.value is None  # the answer that came late is not taken
    empty.click("Look at it again")
    empty.bot.waitUntil(lambda: empty.window.computed.checks.now.value is not None, timeout=30_000)
    empty.settle()
    assert "called off" not in said(empty.window.readings)
