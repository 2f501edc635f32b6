"""The sheet over a whole screen: at its true size, and on a wall by its four corners."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication
from tests.studio.conftest import Hand, control
from tests.studio.test_pages import take

from mild_compass.plan.errors import PlanError
from mild_compass.studio.screens.on_screen import OnScreen
from mild_compass.studio.settings.preferences import MeasuredScreen, load
from mild_compass.studio.settings.screens import name_of, own_px_per_mm, px_per_mm

pytestmark = pytest.mark.qt_log_ignore("propagateSizeHints", "raise")


@pytest.fixture
def sheet(hand: Hand) -> Hand:
    """At the sheet, with the instrument in hand."""
    hand.go(6)
    take(hand, "on screen")
    return hand


def shown(hand: Hand) -> OnScreen:
    """What covers the screen."""
    (found,) = [each for each in hand.window.findChildren(OnScreen) if each.isVisible()]
    found.showNormal()
    found.resize(1200, 800)
    QApplication.processEvents()
    return found


def test_a_millimetre_of_the_sheet_is_a_millimetre_of_the_screen(sheet: Hand):
    sheet.click("At true size")
    view = shown(sheet)
    scale = own_px_per_mm(QGuiApplication.primaryScreen())
    (x0, y0), (x1, _), (_, y2) = view.to_widget([(0, 0), (100, 0), (0, 100)]).tolist()
    assert x1 - x0 == pytest.approx(100 * scale, abs=1e-6)
    assert y2 - y0 == pytest.approx(100 * scale, abs=1e-6)
    view.grab()
    before = view.corners
    sheet.bot.keyClick(view, Qt.Key.Key_Right)
    sheet.bot.keyClick(view, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert np.array(view.corners) - before == pytest.approx(np.tile([1, 10], (4, 1)))
    sheet.bot.keyClick(view, Qt.Key.Key_Escape)
    assert not view.isVisible()


def test_a_bar_measured_once_corrects_the_screen_and_is_remembered(sheet: Hand):
    tool = sheet.window.bench.page.in_hand
    screen = QGuiApplication.primaryScreen()
    entry = control(tool, "What the 100 mm bar measures on this screen")
    assert "40 and 250" in entry.type_in("7")
    assert entry.type_in("96.5 mm") == ""
    measured = sheet.window.settings.now.screens
    assert measured == (MeasuredScreen(name_of(screen), 96.5),)
    assert px_per_mm(screen, measured) == pytest.approx(own_px_per_mm(screen) * 100 / 96.5)
    assert load().screens == measured
    with pytest.raises(PlanError):
        MeasuredScreen("x", float("nan"))


def test_on_the_wall_the_corners_are_dragged_and_all_between_follows(sheet: Hand):
    sheet.click("On the wall or canvas")
    view = shown(sheet)
    wide, high = view._drawing.width_mm, view._drawing.height_mm
    goal = [(150.0, 90.0), (1010.0, 60.0), (1100.0, 720.0), (90.0, 700.0)]
    for place, target in enumerate(goal):
        start = QPointF(*view.corners[place])
        sheet.mouse(QEvent.Type.MouseButtonPress, start, view)
        sheet.mouse(QEvent.Type.MouseMove, QPointF(*target), view)
        sheet.mouse(QEvent.Type.MouseButtonRelease, QPointF(*target), view)
    assert np.array(view.corners) == pytest.approx(np.array(goal))
    # Against OpenCV's homography by the same four pairs.
    source = np.array([(0, 0), (wide, 0), (wide, high), (0, high)], np.float32)
    matrix = cv2.getPerspectiveTransform(source, np.array(goal, np.float32))
    places = np.array([(30.0, 40.0), (wide / 2, high / 2), (wide - 5, 12.0)])
    assert view.to_widget(places) == pytest.approx(cv2.perspectiveTransform(places[None], matrix)[0], abs=1e-2)


def test_a_sheet_cannot_be_turned_inside_out(sheet: Hand):
    sheet.click("On the wall or canvas")
    view = shown(sheet)
    before = list(view.corners)
    sheet.mouse(QEvent.Type.MouseButtonPress, QPointF(*before[0]), view)
    sheet.mouse(QEvent.Type.MouseMove, QPointF(before[2][0] + 50, before[2][1] + 50), view)
    sheet.mouse(QEvent.Type.MouseButtonRelease, QPointF(0, 0), view)
    assert view.corners == before


def test_pattern_lines_only_and_black_for_white(sheet: Hand):
    sheet.click("On the wall or canvas")
    view = shown(sheet)
    seen = [view.grab().toImage()]
    for key in (Qt.Key.Key_T, Qt.Key.Key_T, Qt.Key.Key_L, Qt.Key.Key_I):
        sheet.bot.keyClick(view, key)
        seen.append(view.grab().toImage())
    assert seen[0] == seen[2]
    assert seen[0] != seen[1]
    assert seen[2] != seen[3]
    assert view.lines_only
    assert seen[4].pixelColor(2, 2).lightness() == 0
    assert seen[0].pixelColor(2, 2).lightness() == 255
    sheet.bot.keyClick(view, Qt.Key.Key_Tab)
    assert view.chosen in (0, 1)
