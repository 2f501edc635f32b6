"""Words on the board stand clear of one another, of the rulers, and within the board."""

from __future__ import annotations

from itertools import combinations

import numpy as np
from PySide6.QtCore import QRectF
from tests.studio.conftest import Hand
from tests.studio.test_pages import take

from mild_compass.studio.application import load_demo
from mild_compass.studio.board.placing import Placing

BOARD = QRectF(0, 0, 700, 500)


def test_words_give_way_to_one_another_and_stay_on_the_board():
    hand = np.random.default_rng(4)
    placing = Placing()
    ruler = QRectF(40, 20, 600, 17)
    placing.begin([ruler])
    words = [
        placing.place(QRectF(hand.uniform(-40, 690), hand.uniform(-10, 495), hand.uniform(15, 120), 15), BOARD)
        for _ in range(40)
    ]
    assert all(BOARD.contains(each) for each in words)
    meet = [1 for one, other in combinations([ruler, *words], 2) if one.intersects(other)]
    assert len(meet) <= 1  # forty at random places: hardly ever is there no room
    moved = placing.place(QRectF(100, 22, 60, 15), BOARD)
    assert not moved.intersects(ruler)


def test_words_that_are_free_stay_where_they_belong():
    placing = Placing()
    placing.begin([])
    assert placing.place(QRectF(50, 60, 40, 15), BOARD) == QRectF(50, 60, 40, 15)


def test_on_the_board_no_word_lies_on_a_ruler_or_on_another(empty: Hand):
    load_demo(empty.window, "pumping-station")
    empty.go(4)
    take(empty, "trace")
    board = empty.window.board
    board.repaint()
    rulers, words = board.placing.taken[:2], board.placing.taken[2:]
    assert len(words) > 8
    assert not [1 for ruler in rulers for each in words if ruler.intersects(each)]
    assert not [1 for one, other in combinations(words, 2) if one.intersects(other)]
    assert all(QRectF(board.rect()).contains(each) for each in words)
