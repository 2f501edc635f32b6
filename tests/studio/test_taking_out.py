"""Pictures and numbers leave the window: by the clipboard and by dragging."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QDrag, QGuiApplication, QMouseEvent
from PySide6.QtWidgets import QTableWidget, QWidget
from tests.studio.conftest import Hand
from tests.studio.test_pages import take

from mild_compass.studio.taking_out import words_of_table
from mild_compass.studio.window.readings_panel import Card


@pytest.fixture
def taken(monkeypatch) -> list:
    """What is dragged out of the window: pictures and words."""
    found: list = []

    def end(drag: QDrag, *_: object) -> Qt.DropAction:
        what = drag.mimeData()
        found.append(what.imageData() if what.hasImage() else what.text())
        return Qt.DropAction.CopyAction

    monkeypatch.setattr(QDrag, "exec", end)
    return found


def drag(hand: Hand, widget: QWidget, way: int = 60) -> None:
    """Press on a widget and move away."""
    start = QPointF(widget.width() / 2, 12)
    for kind, place in ((QEvent.Type.MouseButtonPress, start), (QEvent.Type.MouseMove, start + QPointF(way, 5))):
        button = Qt.MouseButton.LeftButton
        shared = (place, widget.mapToGlobal(place), button, button, Qt.KeyboardModifier.NoModifier)
        QGuiApplication.sendEvent(widget, QMouseEvent(kind, *shared))
    hand.bot.mouseRelease(widget, Qt.MouseButton.LeftButton)


def test_the_picture_that_is_looked_at_goes_onto_the_clipboard(hand: Hand):
    hand.go(2)
    hand.bot.keyClick(hand.window, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    image, board = QGuiApplication.clipboard().image(), hand.window.board
    assert (image.width(), image.height()) == (3 * board.width(), 3 * board.height())
    seen = board.grab().toImage()
    middle = (board.width() // 2, board.height() // 2)
    there, here = image.pixelColor(3 * middle[0] + 1, 3 * middle[1] + 1), seen.pixelColor(*middle)
    assert abs(there.lightness() - here.lightness()) < 40
    assert "picture is on the clipboard" in hand.window.notice.words.text()


def test_a_table_is_copied_as_cells_and_lines_and_the_readings_as_sentences(hand: Hand):
    hand.go(3)
    take(hand, "lock-in")
    page = hand.window.middle.currentWidget()
    table = next(iter(page.findChildren(QTableWidget)), None)
    if table is not None:
        hand.bot.keyClick(hand.window, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        words = QGuiApplication.clipboard().text()
        assert words == words_of_table(table)
        assert len(words.splitlines()) == table.rowCount() + 1
    hand.go(2)
    both = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    hand.bot.keyClick(hand.window, Qt.Key.Key_C, both)
    words = QGuiApplication.clipboard().text()
    for reading in hand.window.readings.readings:
        assert reading.text in words


def test_a_reading_a_photo_and_the_sheet_can_be_dragged_out(hand: Hand, taken: list):
    hand.go(2)
    card = next(each for each in hand.window.readings.findChildren(Card) if each.isVisible())
    drag(hand, card)
    assert taken == [card._reading.text]
    view = hand.window.companion.view
    drag(hand, view)
    assert (taken[1].width(), taken[1].height()) == (3 * view.width(), 3 * view.height())
    hand.go(1)
    sheet = hand.window.middle.contact_sheet
    place = sheet.place(sheet._tiles[0].key).center()
    start = QPointF(place)
    for kind, at in ((QEvent.Type.MouseButtonPress, start), (QEvent.Type.MouseMove, start + QPointF(60, 0))):
        button = Qt.MouseButton.LeftButton
        shared = (at, sheet.mapToGlobal(at), button, button, Qt.KeyboardModifier.NoModifier)
        QGuiApplication.sendEvent(sheet, QMouseEvent(kind, *shared))
    assert len(taken) == 3
    assert taken[2].width() > 50


def test_a_short_way_is_a_click_and_no_dragging(hand: Hand, taken: list):
    hand.go(2)
    drag(hand, hand.window.companion.view, way=2)
    assert taken == []
