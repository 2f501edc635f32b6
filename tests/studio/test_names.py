"""Every control has a name and a role for those who do not see it, and the way by Tab is the order on screen."""

from __future__ import annotations

from itertools import pairwise

from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QComboBox,
    QHeaderView,
    QLineEdit,
    QPlainTextEdit,
    QScrollBar,
    QTextBrowser,
    QWidget,
)
from tests.studio.conftest import Hand

from mild_compass.studio.board.view import StudyView

WRITTEN = (QAbstractButton, QComboBox, QLineEdit, QAbstractSlider, QAbstractItemView, QPlainTextEdit, QTextBrowser)
INSIDE = ("qt_spinbox_lineedit", "qt_toolbar_ext_button")


def controls(page: QWidget) -> list[QWidget]:
    """What can be seen and used."""
    return [
        each
        for each in page.findChildren(QWidget)
        if isinstance(each, (*WRITTEN, StudyView))
        and each.isVisible()
        and not isinstance(each, QScrollBar | QHeaderView)
        and each.objectName() not in INSIDE
        and not isinstance(each.parentWidget(), QComboBox)
    ]


def nameless(page: QWidget) -> list[str]:
    """Controls a screen reader would find without a name, or without a role."""
    found = []
    for each in controls(page):
        told = QAccessible.queryAccessibleInterface(each)
        name = told.text(QAccessible.Text.Name) if told is not None else ""
        # Board and companion are painted: they have a name, and no role but that of a place to work on.
        plain = isinstance(each, WRITTEN) and told.role() in (QAccessible.Role.NoRole, QAccessible.Role.Client)
        if not name.strip() or plain:
            found.append(f"{type(each).__name__} {each.objectName()} in {type(each.parentWidget()).__name__} “{name}”")
    return found


def test_tab_goes_down_the_bench_in_the_order_on_screen(hand: Hand):
    """Field by field from the first of the options to the last, never up again."""
    window = hand.window
    window.bench.take_up("paper")
    hand.rest()
    page = window.bench.page.options["paper"]
    fields = [each for each in controls(page) if each.focusPolicy() and each.isEnabled()]
    each, seen = fields[0], []
    for _ in range(len(fields) + 5):
        seen.append(each)
        each = each.nextInFocusChain()
        while each is not fields[0] and each not in fields:
            each = each.nextInFocusChain()
        if each is fields[0]:
            break
    heights = [field.mapTo(page, field.rect().topLeft()).y() for field in seen]
    assert len(seen) == len(fields)
    assert all(after >= before - 3 for before, after in pairwise(heights))
