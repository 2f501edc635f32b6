"""The first page and its ways to begin, the plans opened last, the list of steps, and the guide."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QToolButton
from tests.studio.conftest import Hand

from mild_compass.assets import GUIDE
from mild_compass.plan.edits.studies import rename_plan
from mild_compass.studio.files.dialogs import Dialogs


def beginnings(hand: Hand):
    return hand.window.middle.contact_sheet.beginnings


def test_the_first_page_offers_three_ways_and_is_then_out_of_the_way(empty: Hand, photo_file: Path, monkeypatch):
    assert beginnings(empty).isVisible()
    monkeypatch.setattr(Dialogs, "photos", lambda *_: [photo_file])
    empty.click("Choose photos…")
    empty.bot.waitUntil(lambda: bool(empty.window.session.plan.references), timeout=10_000)
    empty.settle()
    assert not beginnings(empty).isVisible()
    empty.window.session.undo()
    empty.settle()
    assert beginnings(empty).isVisible()


def test_a_blank_sheet_and_the_worked_plan_begin_there_too(empty: Hand, monkeypatch):
    empty.click("Begin with a blank sheet")
    assert empty.window.station == "perspective"
    empty.window.session.undo()
    empty.window.go_to("references")
    empty.settle()
    monkeypatch.setattr(empty.window.files.plans, "leave_then", lambda go_on, **_: go_on())  # nothing to be kept
    empty.click("Look at a worked plan")
    empty.settle()
    assert empty.window.session.plan.name == "Glasshouse, morning"
    assert empty.window.memory.is_invented


def test_plans_opened_last_are_offered_with_their_pictures(hand: Hand, tmp_path: Path, monkeypatch):
    target = tmp_path / "quay plan.mildplan"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    hand.window.files.plans.save()
    hand.settle()
    assert hand.window.settings.now.recent == (str(target),)
    hand.window.session.new()
    hand.window.go_to("references")
    hand.settle()

    def offered() -> list[QToolButton]:
        return [each for each in beginnings(hand).findChildren(QToolButton) if each.isVisible()]

    hand.bot.waitUntil(lambda: len(offered()) == 1, timeout=5000)
    assert offered()[0].accessibleName() == "Open quay plan"
    assert not offered()[0].icon().isNull()
    hand.bot.mouseClick(offered()[0], Qt.MouseButton.LeftButton)
    hand.bot.waitUntil(lambda: hand.window.session.file == target, timeout=10_000)
    hand.settle()
    target.unlink()
    hand.window.session.new()
    beginnings(hand)._asked = None
    hand.window.middle.contact_sheet._show()
    assert len(offered()) == 1
    hand.bot.waitUntil(lambda: offered() == [], timeout=5000)  # the file is gone


def test_the_list_of_steps_jumps_back_and_redo_brings_them_back_one_by_one(hand: Hand):
    session = hand.window.session
    for name in ("One", "Two", "Three"):
        session.apply(rename_plan(name))
    steps = session.steps_back(50)
    assert [number for number, _ in steps][:3] == [1, 2, 3]
    assert steps[0][1] == "rename plan"
    undo = next(
        each for each in hand.window.header.findChildren(QToolButton) if each.accessibleName().startswith("Undo")
    )
    undo.menu().aboutToShow.emit()
    words = [action.text() for action in undo.menu().actions()]
    assert words[0] == "Undo rename plan"
    assert words[1].startswith("Back to before: ")
    undo.menu().actions()[1].trigger()
    assert session.plan.name == "One"
    session.redo()
    assert session.plan.name == "Two"
    session.jump_back(10_000)
    assert session.undo_label is None
    assert session.steps_back(50) == ()


def test_no_more_than_fifty_steps_are_listed(hand: Hand):
    for number in range(60):
        hand.window.session.apply(rename_plan(f"Plan {number}"))
    assert len(hand.window.session.steps_back(50)) == 50


# -- the guide ------------------------------------------------------------------------------------------------


@pytest.mark.qt_log_ignore("propagateSizeHints", "raise")
def test_the_guide_opens_at_the_station_or_where_a_reading_is_explained(hand: Hand):
    hand.bot.keyClick(hand.window, Qt.Key.Key_F1)
    guide = hand.window._guide
    assert guide.isVisible()
    hand.rest()
    assert guide.page.toPlainText().startswith("Viewfinder")
    reading = hand.window.readings.readings[0]
    why = next(each for each in hand.window.readings.findChildren(QToolButton) if each.accessibleName() == "Why?")
    hand.bot.mouseClick(why, Qt.MouseButton.LeftButton)
    hand.rest()
    heading = guide.page.textCursor().block().text()
    assert heading in guide.page.toPlainText()
    assert heading != "Viewfinder" or reading.key == ""
    guide.close()


@pytest.mark.qt_log_ignore("propagateSizeHints", "raise")
def test_words_are_found_in_the_guide_and_the_keys_are_a_page_of_it(hand: Hand):
    hand.window.open_guide()
    guide = hand.window._guide
    hand.bot.keyClicks(guide.search, "raba")
    shown = [guide.list.item(row).text() for row in range(guide.list.count())]
    assert {words.split("  (")[0] for words in shown} >= {"Rabatment", "Reciprocals and rabatment"}
    guide.list.setCurrentRow(next(row for row, words in enumerate(shown) if words.startswith("Rabatment")))
    hand.rest()
    assert guide.page.textCursor().block().text().startswith("Rabatment")
    hand.bot.keyClicks(guide.search, "xyz")
    assert "Nothing in the guide" in guide.page.toPlainText()
    guide.search.clear()
    guide.list.setCurrentRow(guide.list.count() - 1)
    assert "Ctrl+Z" in guide.page.toPlainText()
    guide.close()


def test_pictures_of_the_guide_are_there():
    for path in GUIDE.glob("*.md"):
        for name in re.findall(r"!\[[^]]+\]\(([^)]+)\)", path.read_text()):
            assert (GUIDE / name).exists(), name


def test_the_side_columns_fold_away_by_a_key_and_the_board_has_the_room(hand: Hand):
    window = hand.window
    board = window.board
    before, scale = board.width(), board.photo_sight().scale
    board.setFocus()
    hand.bot.keyClick(board, Qt.Key.Key_B)
    hand.rest()
    assert window.bench.isHidden()
    assert window.side.isHidden()
    assert board.width() >= before + 400
    assert board.photo_sight().scale > 1.25 * scale
    hand.bot.keyClick(board, Qt.Key.Key_B)
    hand.rest()
    assert board.width() == before
    assert board.photo_sight().scale == pytest.approx(scale, rel=0.01)
