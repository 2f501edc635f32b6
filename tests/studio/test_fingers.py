"""Board and companion by touch: one finger is the hand, two move and pinch the paper, one that rests asks."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtTest import QTest
from tests.studio.conftest import Hand
from tests.studio.test_pages import take


@pytest.fixture(scope="module")
def screen(qapp):
    """A touch screen."""
    return QTest.createTouchDevice()


def touch(widget, screen, *steps: dict[int, tuple[int, int]]) -> None:
    """Fingers by number, each step where they are; those that are missing in the next step are lifted."""
    down: dict[int, QPoint] = {}
    for step in (*steps, {}):
        sequence = QTest.touchEvent(widget, screen, False)
        for number, place in step.items():
            at = QPoint(*place)
            if number in down:
                sequence.move(number, at, widget)
            else:
                sequence.press(number, at, widget)
        for number in down.keys() - step.keys():
            sequence.release(number, down[number], widget)
        down = {number: QPoint(*place) for number, place in step.items()}
        sequence.commit()


def test_one_finger_draws_as_the_hand_does(hand: Hand, screen):
    hand.go(2)
    take(hand, "ring")
    board, rings = hand.window.board, hand.window.session.plan.study.rings
    x, y = board.width() // 2, board.height() // 2
    touch(board, screen, {0: (x - 60, y - 60)}, {0: (x, y)}, {0: (x + 60, y + 60)})
    hand.settle()
    new = hand.window.session.plan.study.rings
    assert len(new) == len(rings) + 1
    assert board.photo_sight().to_widget((new[-1].x_px, new[-1].y_px)) == pytest.approx((x, y), abs=1.5)


def test_two_fingers_pinch_and_move_the_paper_and_change_nothing_in_the_plan(hand: Hand, screen):
    hand.go(2)
    take(hand, "ring")
    board, plan = hand.window.board, hand.window.session.plan
    w, h = board.width() // 2, board.height() // 2
    under = board.sheet_sight().from_widget((w, h))
    scale = board.sheet_sight().scale
    touch(board, screen, {0: (w - 50, h)}, {0: (w - 50, h), 1: (w + 50, h)}, {0: (w - 100, h), 1: (w + 100, h)})
    assert board.sheet_sight().scale == pytest.approx(2 * scale, rel=0.02)
    assert board.sheet_sight().from_widget((w, h)) == pytest.approx(under, abs=0.5)  # zoomed about the fingers
    touch(board, screen, {0: (w, h)}, {0: (w, h), 1: (w + 80, h)}, {0: (w + 30, h + 20), 1: (w + 110, h + 20)})
    assert board.sheet_sight().scale == pytest.approx(2 * scale, rel=0.02)
    assert board.sheet_sight().from_widget((w + 30, h + 20)) == pytest.approx(under, abs=0.5)  # moved with them
    assert hand.window.session.plan == plan


def test_a_finger_that_rests_on_a_mark_asks_for_its_value(hand: Hand, screen):
    hand.go(2)
    take(hand, "frame")
    board, plan = hand.window.board, hand.window.session.plan
    frame = plan.study.frame
    x, y = (
        board.photo_sight().to_widget((frame.x_px + frame.width_px / 2, frame.y_px + frame.height_px / 2)).astype(int)
    )
    sequence = QTest.touchEvent(board, screen, False)
    sequence.press(0, QPoint(x, y), board)
    sequence.commit()
    hand.bot.waitUntil(board._entry.isVisible, timeout=3000)
    sequence = QTest.touchEvent(board, screen, False)
    sequence.release(0, QPoint(x, y), board)
    sequence.commit()
    assert board._entry.isVisible()
    assert hand.window.session.plan == plan


def test_on_the_companion_a_finger_shows_the_cross_and_one_that_rests_changes_it_over(hand: Hand, screen):
    hand.go(2)
    view, board = hand.window.companion.view, hand.window.board
    mode = board.mode
    screen_wide, at = hand.window.screen().size().width(), view.mapTo(hand.window, QPoint(0, 0))
    hand.window.move(min(0, screen_wide - at.x() - view.width()), 0)  # fingers reach no further than the screen
    pointed = []
    view.pointed.connect(pointed.append)
    touch(view, screen, {0: (60, 60)}, {0: (90, 80)})
    assert pointed[-1] == pytest.approx(tuple(view.sheet_sight().from_widget((90, 80)).tolist()))
    assert board.cross_mm == pointed[-1]
    sequence = QTest.touchEvent(view, screen, False)
    sequence.press(0, QPoint(60, 60), view)
    sequence.commit()
    hand.bot.waitUntil(lambda: board.mode != mode, timeout=3000)
    sequence = QTest.touchEvent(view, screen, False)
    sequence.release(0, QPoint(60, 60), view)
    sequence.commit()
