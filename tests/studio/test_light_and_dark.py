"""Light and dark change at once: what is on screen then is what a window opened so would show."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtGui import QImage
from tests.studio.conftest import Hand

from mild_compass.studio.application import make_window
from mild_compass.studio.commands.table import command
from mild_compass.studio.settings.preferences import Preferences
from mild_compass.studio.theme.apply import apply_theme
from mild_compass.studio.theme.in_use import colours
from mild_compass.studio.theme.palette import DARK, LIGHT

A_CARET = 0.0005  # of the window, that may blink


@pytest.fixture(autouse=True)
def light_again(qapp):
    yield
    apply_theme(qapp, "light")


def picture(window) -> np.ndarray:
    image = window.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : 4 * image.width()].copy()


def on_a_blank_sheet(hand: Hand) -> np.ndarray:
    command("blank sheet").run(hand.window)
    hand.settle()
    return rested(hand)


def rested(hand: Hand) -> np.ndarray:
    hand.settle()
    hand.rest()
    hand.window.setFocus()
    return picture(hand.window)


def test_a_window_that_is_changed_looks_like_one_opened_so(empty: Hand, qapp, tmp_path):
    light = on_a_blank_sheet(empty)
    apply_theme(qapp, "dark")
    changed = rested(empty)
    apply_theme(qapp, "light")
    assert np.mean(rested(empty) != light) < A_CARET
    empty.window.hide()

    other = make_window(qapp, tmp_path / "dark", Preferences(chrome="dark"))
    other.resize(1280, 800)
    other.show()
    opened = on_a_blank_sheet(Hand(other, empty.bot))
    other.close_down()
    other.hide()
    other.deleteLater()
    assert np.mean(opened != light) > 0.3
    assert np.mean(changed != opened) < A_CARET


def test_the_desktop_is_followed_only_where_the_artist_has_not_chosen(empty: Hand, monkeypatch):
    monkeypatch.setattr("mild_compass.studio.theme.apply.desktop_is_dark", lambda _: True)
    empty.window.follow_desktop()
    assert colours() is LIGHT, "light was chosen"
    empty.window.settings.change(chrome="as the desktop")
    empty.window.follow_desktop()
    assert colours() is DARK
