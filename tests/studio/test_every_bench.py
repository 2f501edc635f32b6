"""One walk over all instruments of all stations: no word is cut, nothing lies off the window, everything has a name.

In a small window, and with the desktop's words large.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QPoint, QRect
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot
from tests.studio.conftest import Hand
from tests.studio.test_names import nameless
from tests.studio.test_words_fit import cut

from mild_compass.studio.application import load_demo, make_window
from mild_compass.studio.settings.preferences import Preferences
from mild_compass.studio.theme import apply
from mild_compass.studio.widgets import Sentence
from mild_compass.studio.words import STATION_VIEWS

LEAST_OPTIONS_PX, LEAST_SENTENCE_PX, SLACK_PX = 150, 180, 2


def in_window(hand: Hand, widget: QWidget) -> QRect:
    return QRect(widget.mapTo(hand.window, QPoint(0, 0)), widget.size())


def bench_faults(hand: Hand) -> Iterator[str]:
    """Rows of instruments out of sight, and too little room for the options."""
    window, page = hand.window, hand.window.bench.page
    foot, room = in_window(hand, window.margin_line).top(), in_window(hand, page._scroll)
    for name, row in page.rows.items():
        if not row.isVisible() or in_window(hand, row).bottom() >= foot:
            yield f"the row of {name} is out of sight"
    cards = window.readings
    if cards.widget().width() > cards.viewport().width():
        yield f"the cards are {cards.widget().width()} wide and have {cards.viewport().width()}"
    if room.height() < LEAST_OPTIONS_PX or room.bottom() > foot:
        yield f"the options have {room.height()} pixels"


def option_faults(hand: Hand, sentences: list[QWidget]) -> Iterator[str]:
    """Options wider than the bench, and sentences that stand in a narrow column."""
    page = hand.window.bench.page
    if page._scroll.horizontalScrollBar().maximum() > SLACK_PX:
        yield "the options are wider than the bench"
    shown = [each for each in page.options[page.chosen].findChildren(Sentence) if each.isVisible()]
    sentences += shown
    if any(each.width() < LEAST_SENTENCE_PX for each in shown):
        yield "a sentence stands in a narrow column"


@pytest.fixture(params=[(1024, 700, 11.0), (1280, 800, 16.0)], ids=["small", "large words"])
def walker(request, qtbot: QtBot, qapp: QApplication, tmp_path: Path, monkeypatch) -> Iterator[Hand]:
    """A window of a size on the demo plan, with the desktop's words of a size."""
    width, height, points = request.param
    for kind in ("CONFIG", "STATE", "DATA", "CACHE"):
        monkeypatch.setenv(f"XDG_{kind}_HOME", str(tmp_path / kind.lower()))
    monkeypatch.setattr(apply, "desktop_pt", lambda: points)
    window = make_window(qapp, tmp_path / "open", Preferences(chrome="light"))
    assert (qapp.font().pixelSize() > apply.TEXT_PX) == (points > 11)
    window.resize(width, height)
    window.show()
    load_demo(window)
    yield Hand(window, qtbot)
    window.close_down()
    window.hide()
    window.deleteLater()
    qapp.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # what is styled anew is styled whole
    monkeypatch.undo()
    apply.apply_theme(qapp, "light")


def test_no_word_is_cut_nothing_is_out_of_sight_and_no_control_is_without_a_name(walker: Hand):
    window = walker.window
    found: dict[str, str] = {}
    sentences: list[QWidget] = []
    for view in STATION_VIEWS:
        window.go_to(view.name)
        for instrument in window.bench.instruments:
            window.bench.take_up(instrument.name)
            walker.settle()
            walker.rest()
            for words in (*cut(window), *nameless(window), *option_faults(walker, sentences)):
                found.setdefault(words, f"{view.name}, {instrument.words}")
        for words in bench_faults(walker):
            found.setdefault(words, view.name)
    assert not found
    assert len(sentences) >= 8
