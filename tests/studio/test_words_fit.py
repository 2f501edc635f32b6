"""Words that are cut are found, and where room is short they end well."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QFont, QFontMetrics
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QLabel,
    QPushButton,
    QStyle,
    QStyleOptionComboBox,
    QTableWidget,
    QToolButton,
    QWidget,
)
from tests.studio.conftest import Hand

from mild_compass.craft.reading import Reading
from mild_compass.craft.stations import STATIONS
from mild_compass.studio.application import load_demo
from mild_compass.studio.window.route import fitting

SLACK_PX = 1
HEAD_EDGE_PX = 3


def label_needs(label: QLabel) -> tuple[int, int]:
    """Width that its words need, and that it has; of a wrapped one height, unless a single word is too wide."""
    advance = label.fontMetrics().horizontalAdvance
    room = label.contentsRect()
    if not label.wordWrap():
        return max(map(advance, label.text().split("\n"))), room.width()
    widest = max(map(advance, label.text().split()), default=0)
    if widest > room.width() + SLACK_PX:
        return widest, room.width()
    return label.heightForWidth(label.width()), label.height()


def needs(each: QWidget) -> tuple[int, int]:
    """What it needs and what it has, in pixels."""
    if isinstance(each, QLabel):
        plain = each.text() and each.textFormat() != Qt.TextFormat.RichText and "<" not in each.text()
        return label_needs(each) if plain else (0, 0)
    if isinstance(each, QComboBox):
        option = QStyleOptionComboBox()
        each.initStyleOption(option)
        field = QStyle.SubControl.SC_ComboBoxEditField
        room = each.style().subControlRect(QStyle.ComplexControl.CC_ComboBox, option, field, each)
        return each.fontMetrics().horizontalAdvance(each.currentText()), room.width()
    if isinstance(each, QPushButton | QCheckBox | QToolButton) and each.text() and not is_bare(each):
        return each.sizeHint().width(), each.width()
    return 0, 0


def is_bare(each: QWidget) -> bool:
    return isinstance(each, QToolButton) and each.toolButtonStyle() == Qt.ToolButtonStyle.ToolButtonIconOnly and (
        not each.icon().isNull()
    )  # fmt: skip


def cut_heads(table: QTableWidget) -> Iterator[str]:
    """The heads of a table that their column cuts, however they wrap."""
    header = table.horizontalHeader()
    for column in range(table.columnCount()):
        if header.isSectionHidden(column):
            continue
        item = table.horizontalHeaderItem(column)
        wide, high = header.sectionSize(column) - 2 * HEAD_EDGE_PX, header.height()
        words = item.text() if item is not None else ""
        room = QRect(0, 0, wide, 10_000)
        needed = header.fontMetrics().boundingRect(room, Qt.TextFlag.TextWordWrap, words)
        if needed.width() > wide + SLACK_PX or needed.height() > high + SLACK_PX:
            yield f"head “{words}” needs {needed.width()} × {needed.height()} and has {wide} × {high}"


def cut(window: QWidget) -> Iterator[str]:
    for table in window.findChildren(QTableWidget):
        if table.isVisible() and table.horizontalHeader().isVisible():
            yield from cut_heads(table)
    for each in window.findChildren(QWidget):
        if each.isVisible() and each.width() > 0:
            needed, room = needs(each)
            if needed > room + SLACK_PX:
                text = each.currentText() if isinstance(each, QComboBox) else each.text()
                yield f"{type(each).__name__} “{text[:50]}” needs {needed} and has {room}"


def test_a_cut_word_would_be_found(qtbot):
    page = QWidget()
    qtbot.addWidget(page)
    page.resize(300, 100)
    label = QLabel("a measured length", page)
    label.setGeometry(0, 0, 40, 20)
    choice = QComboBox(page)
    choice.addItem("upright and level, both at once")
    choice.setGeometry(0, 30, 90, 24)
    whole = QLabel("whole", page)
    whole.setGeometry(0, 60, 200, 24)
    page.show()
    assert len(list(cut(page))) == 2


def test_a_long_name_on_a_card_wraps_and_pushes_nothing_out_of_sight(hand: Hand):
    panel = hand.window.readings
    panel.show_readings([Reading("long", "The part at the lower right of the sheet", "Off.", shown="11.4 mm")], "One.")
    hand.rest()
    assert panel.widget().width() <= panel.viewport().width()
    assert not [words for words in cut(panel) if "part at" in words]


def test_the_routes_words_lose_their_last_part_rather_than_their_end(qapp):
    font = QFont()
    font.setPixelSize(11)
    metrics = QFontMetrics(font)
    whole = "horizon 43 % down, 1 point"
    assert fitting(whole, metrics, metrics.horizontalAdvance(whole)) == whole
    assert fitting(whole, metrics, metrics.horizontalAdvance(whole) - 10) == "horizon 43 % down"


@pytest.mark.parametrize("scene", ["glasshouse", "pumping-station", "lantern-bench"])
def test_the_route_cuts_no_word_of_a_worked_plan_in_a_small_window(empty: Hand, scene: str):
    empty.window.resize(1024, 700)
    load_demo(empty.window, scene)
    empty.settle()
    route = empty.window.route
    font = QFont(route.font())
    font.setPixelSize(11)
    room = round(route.width() / len(STATIONS)) - 14
    shown = [(words, fitting(words, QFontMetrics(font), room)) for words in route.headlines.values()]
    assert len(shown) > 3
    assert all(whole.startswith(words) for whole, words in shown)
