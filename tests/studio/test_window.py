"""The window itself: keys, studies, looks, first page, recovery, workers."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QPointF, Qt, QTimer
from PySide6.QtGui import QColor, QWheelEvent
from PySide6.QtWidgets import QApplication, QLabel, QMessageBox, QPushButton, QToolButton
from tests.conftest import jpeg
from tests.studio.conftest import Hand

from mild_compass.craft.geometry.lines import Box
from mild_compass.craft.stations import STATIONS, readings_of
from mild_compass.plan.edits.logbook import add_note
from mild_compass.plan.edits.studies import duplicate_study
from mild_compass.plan.workspace import leftovers
from mild_compass.studio.application import load_demo, offer
from mild_compass.studio.board.sight import fitting
from mild_compass.studio.commands.table import command
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.settings import preferences as store

NO, CTRL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier


def colour_at(hand: Hand, x: float, y: float) -> QColor:
    return hand.window.board.grab().toImage().pixelColor(round(x), round(y))


def test_at_first_start_the_board_says_what_to_do_and_no_reading_is_made_up(empty: Hand):
    window = empty.window
    for number in range(1, 8):
        empty.bot.keyClick(window, Qt.Key(Qt.Key.Key_0.value + number))
        assert window.station == STATIONS[number - 1].name
        empty.settle()
        assert window.readings.readings == []
    assert "Add a photo" in window.readings.summary.text()
    assert not window.actions_by_command.by_name["pdf"].isEnabled()


def test_digit_keys_go_to_the_stations_and_the_route_says_where_we_are(hand: Hand):
    for number, station in enumerate(STATIONS, 1):
        hand.go(number)
        assert hand.window.station == station.name
        assert hand.window.route.current == station.name
        assert hand.window.readings.readings


def test_clicking_the_route_goes_to_a_station(hand: Hand):
    route = hand.window.route
    hand.click_at(route, round(route.width() * 4.5 / len(STATIONS)), 40)
    assert hand.window.station == "values"


def test_tab_swaps_board_and_companion(hand: Hand):
    window = hand.window
    assert (window.board.mode, window.companion.view.mode) == ("photo", "sheet")
    window.board.setFocus()
    hand.bot.keyClick(window.board, Qt.Key.Key_Tab)
    assert (window.board.mode, window.companion.view.mode) == ("sheet", "photo")


@pytest.mark.parametrize(
    ("key", "hold"),
    [(Qt.Key.Key_Q, "squint"), (Qt.Key.Key_W, "values"), (Qt.Key.Key_E, "mirror"), (Qt.Key.Key_R, "step back")],
)
def test_ways_of_looking_work_while_the_key_is_held_and_change_the_picture(hand: Hand, key, hold):
    board = hand.window.board
    board.setFocus()
    before = board.grab().toImage()
    hand.bot.keyPress(board, key)
    assert board.holds == {hold}
    assert board.grab().toImage() != before
    hand.bot.keyRelease(board, key)
    assert board.holds == set()
    assert board.grab().toImage() == before


def test_keys_are_letters_while_a_note_is_written(hand: Hand):
    window = hand.window
    hand.bot.keyClick(window.board, Qt.Key.Key_N)
    assert window.margin_line.note.hasFocus()
    hand.bot.keyClicks(window.margin_line.note, "quiet 5 fKw")
    assert window.margin_line.note.text() == "quiet 5 fKw"
    assert window.station == "viewfinder"
    assert window.board.holds == set()


def test_studies_are_kept_walked_through_and_deleted_by_key_and_menu(hand: Hand):
    window = hand.window
    window.board.setFocus()
    hand.bot.keyClick(window.board, Qt.Key.Key_K)
    assert window.session.plan.study.name == "B"
    hand.bot.keyClick(window.board, Qt.Key.Key_BracketLeft)
    assert window.session.plan.study.name == "A"
    window.actions_by_command.by_name["delete study"].trigger()
    assert [study.name for study in window.session.plan.studies] == ["B"]
    assert not window.actions_by_command.by_name["delete study"].isEnabled()


def test_f6_goes_round_the_five_regions(hand: Hand):
    window = hand.window
    window.route.setFocus()
    regions = [window.bench, window.board, window.readings, window.margin_line, window.route]
    for region in regions:
        hand.bot.keyClick(QApplication.focusWidget(), Qt.Key.Key_F6)
        focus = QApplication.focusWidget()
        assert focus is region or region.isAncestorOf(focus)


def test_the_wheel_zooms_at_the_pointer_far_enough_out_for_distant_pins(hand: Hand):
    board = hand.window.board
    at = hand.place((300, 200))
    for _ in range(60):
        event = QWheelEvent(
            at, board.mapToGlobal(at), QPointF(0, 0).toPoint(), QPointF(0, -120).toPoint(),
            Qt.MouseButton.NoButton, NO, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(board, event)
    sheet = board.sheet_sight()
    assert sheet is not None
    assert board.width() / sheet.scale > 20_000  # mm across: a pin ten metres off is in sight
    assert hand.place((300, 200)).x() == pytest.approx(at.x(), abs=0.5)
    hand.bot.keyClick(board, Qt.Key.Key_F)
    assert sheet != board.sheet_sight()


def test_dragging_with_the_space_bar_moves_the_paper_and_not_the_frame(hand: Hand):
    board, plan = hand.window.board, hand.window.session.plan
    board.setFocus()
    before = hand.place((300, 200))
    hand.bot.keyPress(board, Qt.Key.Key_Space)
    hand.drag((300, 200), (320, 200))
    hand.bot.keyRelease(board, Qt.Key.Key_Space)
    assert hand.window.session.plan == plan
    assert hand.place((300, 200)).x() > before.x() + 5


def test_the_cross_shows_the_same_point_of_the_sheet_in_board_and_companion(hand: Hand):
    frame = hand.window.session.plan.study.frame
    hand.mouse(QEvent.Type.MouseMove, hand.place((frame.x_px, frame.y_px)))
    margin = hand.window.session.plan.paper.margin_mm
    assert hand.window.companion.view.cross_mm == pytest.approx((margin, margin), abs=0.5)


def test_photo_and_sheet_sights_are_the_same_place(hand: Hand):
    board = hand.window.board
    frame_map, photo, sheet = board.frame_map, board.photo_sight(), board.sheet_sight()
    assert frame_map is not None
    for point in ((0, 0), (123, 77), (600, 400)):
        assert photo.to_widget(point) == pytest.approx(sheet.to_widget(frame_map.to_sheet(point)))


def test_a_fitted_sight_is_centred_and_zooming_about_a_point_keeps_it():
    sight = fitting("sheet", Box(0, 0, 200, 100), 500, 400, 20)
    assert sight.to_widget((100, 50)) == pytest.approx((250, 200))
    assert (sight.mode, sight.scale, sight.dx, sight.dy) == ("sheet", *map(pytest.approx, (2.3, 20.0, 85.0)))
    fixed = sight.from_widget((77, 31))
    assert sight.zoomed(1.7, 77, 31).to_widget(fixed) == pytest.approx((77, 31))


def test_lengths_are_told_in_inches_when_preferred(hand: Hand):
    hand.window.settings.change(unit="in")
    hand.settle()
    hand.go(6)
    assert " in" in hand.window.readings.readings[0].text


def test_the_surround_follows_the_preference(hand: Hand):
    for surround, grey in ((20, "#303030"), (80, "#c6c6c6")):
        hand.window.settings.change(surround=surround)
        assert colour_at(hand, 3, hand.window.board.height() - 3) == QColor(grey)


def test_preferences_are_remembered_and_nonsense_in_their_file_is_passed_over(empty: Hand, monkeypatch):
    for name in ("LC_ALL", "LC_MEASUREMENT", "LC_PAPER", "LANG"):
        monkeypatch.setenv(name, "de_AT.UTF-8")
    store.save(store.Preferences(unit="in", surround=20))
    assert store.load().unit == "in"
    store.config_file().write_text('{"unit": "furlong", "surround": 7, "chrome": "dark"}')
    assert store.load() == store.Preferences(chrome="dark", unit="mm", page="A4")
    store.config_file().write_text("[")
    assert store.load().surround == 50


def test_after_a_kill_the_next_start_offers_the_work_back(hand: Hand, monkeypatch, tmp_path: Path):
    window, root = hand.window, hand.window.session.workspace.folder.parent
    hand.bot.waitUntil((window.session.workspace.folder / "journal.json").exists, timeout=2000)
    plan = window.session.plan
    os.close(window.session.workspace._owner)  # as if the process were gone
    window.session.workspace._owner = os.open(tmp_path / "other", os.O_RDWR | os.O_CREAT)
    (leftover,) = leftovers(root)
    assert leftover.plan == plan
    monkeypatch.setattr(QMessageBox, "exec", lambda box: box.buttons()[0].click())
    monkeypatch.setattr(
        QMessageBox, "clickedButton", lambda box: next(b for b in box.buttons() if b.text() == "Take it up again")
    )
    offer(window, leftover)
    assert window.session.plan == plan
    assert window.session.unsaved


def test_references_are_judged_on_the_contact_sheet(hand: Hand, tmp_path: Path):
    other = tmp_path / "yard.jpg"
    other.write_bytes(jpeg(300, 500, seed=9))
    hand.add_photo(other)
    hand.go(1)
    sheet, photos = hand.window.middle.contact_sheet, hand.window.bench.instruments[0]
    hand.bot.waitUntil(lambda: sheet.settled, timeout=5000)
    sheet.setFocus()
    hand.bot.keyClick(sheet, Qt.Key.Key_Right)
    assert sheet.chosen == "photo-2"
    photos._standing.pick("set aside")
    hand.type_into(photos._reason.line, "glare")
    assert hand.window.session.plan.references[1].reason == "glare"
    hand.bot.keyClick(sheet, Qt.Key.Key_Return)
    assert hand.window.session.plan.study.ground == "photo-2"
    assert any(each.key == "in_use_set_aside" for each in readings_of("references", hand.window.computed.worked()))


def test_a_line_of_the_logbook_is_deleted_by_its_button_and_comes_back_with_undo(hand: Hand):
    window = hand.window
    hand.go(8)
    count = len(window.session.plan.log)
    away = next(each for each in window.findChildren(QToolButton) if each.accessibleName().startswith("Delete: "))
    hand.bot.mouseClick(away, Qt.MouseButton.LeftButton)
    assert len(window.session.plan.log) == count - 1
    window.session.undo()
    assert len(window.session.plan.log) == count


def test_a_long_logbook_begins_with_its_latest_lines_and_the_others_are_a_click_away(hand: Hand):
    window = hand.window
    for k in range(230):
        window.session.apply(add_note(f"note {k}", "viewfinder", f"2026-05-0{1 + k // 200}T12:00:00+02:00"))
    count = len(window.session.plan.log)
    hand.go(8)

    def seen(text: str) -> int:
        return sum(each.text() == text and each.isVisible() for each in window.findChildren(QLabel))

    assert seen("“note 229”")
    assert not seen("“note 0”")
    hand.click(f"Show the lines before ({count - 200})")
    hand.rest()
    assert seen("“note 0”")
    assert seen("2026-05-01") == seen("2026-05-02") == 1
    assert not any(each.isVisible() and "before (" in each.text() for each in window.findChildren(QPushButton))


def test_the_logbook_is_saved_as_text(hand: Hand, tmp_path: Path, monkeypatch):
    target = tmp_path / "log.md"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    command("logbook").run(hand.window)
    hand.settle()
    assert "Added the photo quay.jpg" in target.read_text()
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: tmp_path / "nowhere" / "log.md")
    command("logbook").run(hand.window)
    hand.settle()
    assert "could not be written" in hand.window.notice.words.text()


def test_the_demo_plan_has_something_to_say_at_every_station(empty: Hand):
    load_demo(empty.window)
    for number in range(1, 8):
        empty.go(number)
        assert empty.window.readings.readings, number
        assert not any(each.verdict == "act" for each in empty.window.readings.readings)


@pytest.mark.parametrize("size", [(1, 1), (1, 8000), (8000, 1), (3, 2)])
def test_photos_of_extreme_shapes_go_through_every_station(empty: Hand, tmp_path: Path, size):
    from PIL import Image

    path = tmp_path / "odd.png"
    Image.new("RGB", size, (90, 120, 60)).save(path)
    empty.add_photo(path)
    for number in range(1, 8):
        empty.go(number)
        assert empty.window.readings.readings, number
        empty.window.grab()
    target = tmp_path / "odd.pdf"
    empty.window.files.exports.write_sheet(target)
    empty.bot.waitUntil(target.exists, timeout=10_000)
    empty.settle()


@pytest.mark.qt_log_ignore("This plugin does not support")
def test_the_menu_of_studies_lists_them_as_they_are_when_it_is_opened(hand: Hand):
    window = hand.window
    window.session.apply(duplicate_study("study-1"))
    menu = window.header.study_button.menu()
    told: list[list[tuple[str, bool]]] = []

    def read() -> None:
        told.append([(each.text(), each.isChecked()) for each in menu.actions() if each.isCheckable()][:2])
        menu.actions()[1].trigger()
        menu.close()

    menu.aboutToShow.connect(lambda: QTimer.singleShot(0, menu, read))
    hand.bot.mouseClick(window.header.study_button, Qt.MouseButton.LeftButton)
    names = [f"Study {each.name}" for each in window.session.plan.studies]
    assert told == [[(names[0], True), (names[1], False)]]
    assert window.session.plan.current_study == window.session.plan.studies[1].id
