"""Whatever a hand does with any instrument: no traceback, a plan that can be saved, and a way back."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtWidgets import QApplication
from tests.conftest import THOROUGH
from tests.studio.conftest import Hand

from mild_compass.demo import SCENES
from mild_compass.plan.coding import decode, encode
from mild_compass.studio.application import load_demo
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.widgets import Choice, Entry, Tick
from mild_compass.studio.window.window import Window
from mild_compass.studio.words import STATION_VIEWS

USUAL = (("glasshouse", "viewfinder"), ("lantern-bench", "values"))
MORE = (
    ("pumping-station", "perspective"),
    ("pumping-station", "sheet"),
    ("glasshouse", "references"),
    ("glasshouse", "armature"),
    ("lantern-bench", "sheet"),
)
VISITS = (*USUAL, *MORE) if THOROUGH else USUAL  # make hands goes everywhere
PATHS = (((0.3, 0.35), (0.62, 0.6)), ((0.5, 0.5), (0.5, 0.5)), ((0.55, 0.7), (0.35, 0.45)))
KEYS = (Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Delete)


@pytest.fixture(autouse=True)
def _nobody_is_asked(monkeypatch) -> None:
    """A tick that asks for a folder gets none: a dialog of the system's would wait for ever."""
    monkeypatch.setattr(Dialogs, "folder", lambda *_: None)


def at(hand: Hand, across: float, down: float) -> QPointF:
    board = hand.window.board
    return QPointF(across * board.width(), down * board.height())


def visit(hand: Hand, scene: str, station: str) -> Window:
    """The window at a station of a demo plan, with everything settled."""
    load_demo(hand.window, scene)
    hand.window.go_to(station)
    hand.settle()
    return hand.window


def wander(hand: Hand, start: tuple[float, float], end: tuple[float, float], let_go: bool) -> None:
    """Press, look while moving, and let go or think better of it."""
    a, b = at(hand, *start), at(hand, *end)
    hand.mouse(QEvent.Type.MouseMove, a)
    hand.mouse(QEvent.Type.MouseButtonPress, a)
    for share in (0.2, 0.5, 0.8, 1.0):
        hand.mouse(QEvent.Type.MouseMove, a + (b - a) * share)
        QApplication.processEvents()
    hand.window.board.grab()  # painted in the middle of it
    if not let_go:
        hand.bot.keyClick(hand.window.board, Qt.Key.Key_Escape)
    hand.mouse(QEvent.Type.MouseButtonRelease, b)
    hand.window.board.grab()


@pytest.mark.parametrize(("scene", "station"), VISITS)
def test_no_hand_can_break_the_plan_or_the_window(empty: Hand, scene: str, station: str):
    window = visit(empty, scene, station)
    begun = window.session.plan
    for name in [each.name for each in window.bench.instruments]:
        window.bench.take_up(name)
        empty.settle()
        if not window.middle.at_a_board:
            continue
        for number, (start, end) in enumerate(PATHS):
            wander(empty, start, end, let_go=number != 2)
        for key in KEYS:
            empty.bot.keyClick(window.board, key)
        empty.bot.keyClick(window.board, Qt.Key.Key_Return)
        window.board.grab()
        window.board.close_entry()
        plan = window.session.plan
        assert decode(encode(plan)) == plan
    empty.settle()
    assert not window.session.in_gesture
    steps = 0
    while window.session.undo_label:
        window.session.undo()
        steps += 1
        assert steps < 500
    empty.settle()
    assert window.session.plan == begun, "everything can be taken back"


@pytest.mark.parametrize("station", [view.name for view in STATION_VIEWS])
def test_every_instrument_can_be_taken_up_without_a_photo(empty: Hand, station: str):
    window = empty.window
    window.go_to(station)
    for name in [each.name for each in window.bench.instruments]:
        window.bench.take_up(name)
        QApplication.processEvents()
        window.grab()
    assert window.session.plan.study is None
    assert window.session.undo_label is None


@pytest.mark.parametrize("scene", SCENES if THOROUGH else ["lantern-bench"])
def test_the_holds_and_the_swap_work_at_every_station_of_the_demo(empty: Hand, scene: str):
    window = empty.window
    load_demo(window, scene)
    for view in STATION_VIEWS:
        window.go_to(view.name)
        empty.settle()
        for key in (Qt.Key.Key_Q, Qt.Key.Key_W, Qt.Key.Key_E, Qt.Key.Key_R):
            empty.bot.keyPress(window, key)
            window.grab()
            empty.bot.keyRelease(window, key)
        if window.middle.at_a_board:
            before = window.board.mode, window.board.fill
            empty.bot.keyClick(window.board, Qt.Key.Key_Tab)
            window.grab()
            assert (window.board.mode, window.board.fill) != before
            empty.bot.keyClick(window.board, Qt.Key.Key_Tab)
        assert not (window.board.holds if window.middle.at_a_board else set())
    assert not window.session.unsaved, "looking changes nothing"


NONSENSE = ("lots", "-7", "1e99", "nan", "inf", "12 elephants", "0", "½", "   ")


def controls(hand: Hand, name: str, kind: type) -> list:
    """The controls of a kind that can be used at an instrument now."""
    page = hand.window.bench.page
    return [each for each in page.options[name].findChildren(kind) if each.isEnabled() and each.isVisibleTo(page)]


@pytest.mark.parametrize(("scene", "station"), VISITS)
def test_nonsense_typed_anywhere_is_refused_or_makes_sense(empty: Hand, scene: str, station: str):
    window = visit(empty, scene, station)
    tried = 0
    for name in [each.name for each in window.bench.instruments]:
        window.bench.take_up(name)
        for entry in controls(empty, name, Entry):
            words_of = entry.line.accessibleName()
            for words in NONSENSE:
                before = window.session.plan
                error = entry.type_in(words)
                tried += 1
                if error:
                    assert error.endswith((".", "?")), (words_of, words, error)
                    assert window.session.plan == before, (words_of, words)
                assert decode(encode(window.session.plan)) == window.session.plan, (words_of, words)
    window.grab()
    assert tried or station == "references"


@pytest.mark.parametrize(("scene", "station"), VISITS)
def test_every_choice_and_every_tick_can_be_made_and_taken_back(empty: Hand, scene: str, station: str):
    window = visit(empty, scene, station)
    begun = window.session.plan
    for name in [each.name for each in window.bench.instruments]:
        window.bench.take_up(name)
        for tick in controls(empty, name, Tick):
            tick.click()
            tick.click()
        for choice in controls(empty, name, Choice):
            for value in list(choice._values):
                if value in choice._values:  # choosing one may change what there is to choose
                    choice.pick(value)
            QApplication.processEvents()
        window.grab()
        assert decode(encode(window.session.plan)) == window.session.plan
    empty.settle()
    while window.session.undo_label:
        window.session.undo()
    assert window.session.plan == begun
