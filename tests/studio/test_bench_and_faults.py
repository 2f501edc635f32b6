"""The bench at every size, the window on every screen, and small faults that are not to come back."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QLabel
from tests.conftest import jpeg
from tests.studio.conftest import Hand

from mild_compass.craft.sheet_sizes.lands import page_of_locale, unit_of_locale
from mild_compass.plan.edits.perspective import trace_edge
from mild_compass.plan.edits.sheet import change_measures
from mild_compass.plan.edits.viewfinder import move_frame
from mild_compass.plan.perspective import TracedEdge
from mild_compass.plan.sheet import MeasuredLength, MeasurePlan
from mild_compass.studio.commands.keyboard import HELD_KEYS
from mild_compass.studio.commands.keys_page import all_keys
from mild_compass.studio.commands.table import BOARD_KEYS, COMMANDS, PLAN_MENU, STUDY_MENU, command
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.record import keep_record, last_messages, versions
from mild_compass.studio.settings.preferences import Preferences, load
from mild_compass.studio.window.about import about_dialog
from mild_compass.studio.words import STATION_VIEWS


def test_an_instrument_that_needs_a_photo_says_so_on_a_blank_sheet_and_the_others_work(empty: Hand):
    command("blank sheet").run(empty.window)
    empty.settle()
    assert empty.window.station == "perspective"
    for view in STATION_VIEWS:
        empty.window.go_to(view.name)
        empty.settle()
        for each in empty.window.bench.instruments:
            empty.window.bench.take_up(each.name)
            empty.rest()
            told = empty.window.bench.page.options[each.name]._lacking
            assert told.isVisible() == (each.needs == "a photo"), (view.name, each.name)
            empty.window.grab()
    empty.window.go_to("values")
    empty.settle()
    assert "blank sheet" in empty.window.readings.summary.text()
    assert empty.window.computed.settled


def test_a_blank_sheet_shows_paper_and_is_printed_with_its_guides(empty: Hand, tmp_path):
    from mild_compass.plan.edits.perspective import add_guide
    from mild_compass.plan.guides import Guide

    command("blank sheet").run(empty.window)
    assert empty.window.session.apply(add_guide(Guide("guide-1", "box", ((1500.0, 2600.0),), name="shed")))
    empty.settle()
    assert empty.window.computed.perspective().camera is not None
    sight = empty.window.board.photo_sight()
    at = sight.to_widget((300.0, 300.0)).tolist()
    assert empty.window.board.grab().toImage().pixelColor(*map(round, at)).lightness() > 245
    drawing = empty.window.board.drawing()
    assert drawing.layer("horizon").strokes
    for name in ("blank.pdf", "blank.svg", "blank.png", "blank.ora"):
        empty.window.exports = empty.window.files.exports.write_sheet(tmp_path / name)
    empty.settle()
    assert "shed" in (tmp_path / "blank.svg").read_text()
    assert all((tmp_path / f"blank.{kind}").stat().st_size > 300 for kind in ("pdf", "png", "ora"))


# -- the window -------------------------------------------------------------------------------------------------


def test_the_window_is_never_taller_than_the_screen_leaves_it_and_its_size_is_remembered(empty: Hand):
    room = empty.window.screen().availableGeometry()
    empty.window.settings.remember(window=(4000, 3000))
    empty.window.fit_screen()
    assert empty.window.width() <= max(room.width(), empty.window.minimumWidth())
    assert empty.window.height() <= room.height() - 30, "a title bar needs room too"
    empty.window.resize(1000, 650)
    empty.window._leave()
    assert load().window == (1000, 650)


@pytest.mark.parametrize(
    ("environment", "unit", "page"),
    [
        ({}, "mm", "A4"),
        ({"LANG": "C.UTF-8"}, "mm", "A4"),
        ({"LANG": "POSIX"}, "mm", "A4"),
        ({"LANG": "en_US.UTF-8"}, "in", "Letter"),
        ({"LANG": "en_US.UTF-8", "LC_MEASUREMENT": "de_AT.UTF-8", "LC_PAPER": "de_AT.UTF-8"}, "mm", "A4"),
        ({"LANG": "en_CA.UTF-8"}, "mm", "Letter"),
        ({"LANG": "de_DE@euro"}, "mm", "A4"),
        ({"LC_ALL": "en_US", "LANG": "fr_FR"}, "in", "Letter"),
    ],
)
def test_lengths_are_metric_unless_the_locale_measures_in_inches(monkeypatch, environment, unit, page):
    for name in ("LC_ALL", "LC_MEASUREMENT", "LC_PAPER", "LANG"):
        monkeypatch.delenv(name, raising=False)
    for name, value in environment.items():
        monkeypatch.setenv(name, value)
    assert (unit_of_locale(), page_of_locale()) == (unit, page)


def test_labels_on_the_board_follow_a_change_of_the_unit(hand: Hand):
    hand.go(4)
    hand.window.session.apply(change_measures(MeasurePlan(lengths=(MeasuredLength(100, 100, 300, 100, "rail"),))))
    hand.settle()

    def words() -> str:
        hand.window.board.layers = (*hand.window.board.layers, "measures")
        return " ".join(label.text for layer in hand.window.board.drawing().layers for label in layer.labels)

    assert " mm" in words()
    hand.window.settings.change(unit="in")
    assert " mm" not in words()
    assert " in" in words()
    hand.go(3)
    ratio = next(each for each in hand.window.readings.readings if each.key == "ratio")
    assert ratio.text.endswith(" in.")


def test_an_edge_is_nudged_as_the_sheet_lies_however_the_frame_is_turned_and_flipped(hand: Hand):
    hand.go(4)
    tool = next(each for each in hand.window.bench.instruments if each.name == "trace")
    hand.window.session.apply(trace_edge("A", TracedEdge(250, 200, 350, 220)))
    tool._chosen, tool._end = ("A", 0), None
    study = hand.window.session.plan.study
    high = 300 * study.frame.height_px / study.frame.width_px
    frame = replace(study.frame, x_px=150, y_px=120, width_px=300, height_px=high)
    hand.window.session.apply(move_frame(replace(frame, turn_deg=20.0, flipped=True)))
    hand.settle()
    frame_map = hand.window.board.frame_map
    edge = hand.window.session.plan.study.perspective.sets[0].edges[0]
    before = frame_map.to_sheet((edge.x0_px, edge.y0_px))
    tool.nudge(1.0, 0.0)
    edge = hand.window.session.plan.study.perspective.sets[0].edges[0]
    assert (frame_map.to_sheet((edge.x0_px, edge.y0_px)) - before).tolist() == pytest.approx([1.0, 0.0], abs=1e-6)


@pytest.mark.parametrize(("size", "across"), [((600, 400), True), ((400, 600), False)])
def test_the_sheet_lies_as_the_first_photo_lies(empty: Hand, tmp_path, size, across):
    photo = tmp_path / "photo.jpg"
    photo.write_bytes(jpeg(*size))
    empty.add_photo(photo)
    assert empty.window.session.plan.paper.across is across


# -- commands, dialogs, the record -------------------------------------------------------------------------------


def test_menus_keys_and_tooltips_come_from_one_table_without_a_key_used_twice(empty: Hand):
    names = {each.name for each in COMMANDS}
    assert len(names) == len(COMMANDS)
    assert {name for name in (*PLAN_MENU, *STUDY_MENU) if name} <= names
    keys = [each.keys for each in COMMANDS if each.keys]
    assert len(set(keys)) == len(keys)
    assert not {each.keys for each in COMMANDS if each.plain} & {key.name[-1] for key in HELD_KEYS}
    told = [key for key, _ in all_keys()]
    for each in COMMANDS:
        assert not each.keys or each.keys in told or each.name.startswith("station "), each.name
    assert {keys for keys, _ in BOARD_KEYS} <= set(told)
    actions = empty.window.actions_by_command.by_name
    assert set(actions) == {each.name for each in COMMANDS if not each.plain} | {"keep study"}
    assert not actions["print"].isEnabled()
    assert not actions["undo"].isEnabled()


@pytest.mark.qt_log_ignore("This plugin does not support")  # the guide is brought to the front
def test_every_command_that_needs_no_answer_can_be_used_on_an_empty_plan(empty: Hand, monkeypatch):
    monkeypatch.setattr(QDialog, "exec", lambda dialog: 0)
    monkeypatch.setattr(Dialogs, "photos", lambda _: [])
    for name in ("folder", "plan", "target"):
        monkeypatch.setattr(Dialogs, name, lambda *_, **__: None)
    monkeypatch.setattr(empty.window, "ask_text", lambda *_: None)
    for each in COMMANDS:
        if each.name not in ("quit", "blank sheet", "keep study"):
            each.run(empty.window)
    assert empty.window.session.undo_label is None


def test_the_dialog_adds_the_suffix_and_remembers_the_folder(empty: Hand, tmp_path, monkeypatch):
    def accept(dialog: QFileDialog) -> int:
        dialog.setOption(QFileDialog.Option.DontUseNativeDialog)
        dialog.setDirectory(str(tmp_path))
        dialog.selectFile("low tide")
        return QFileDialog.DialogCode.Accepted

    monkeypatch.setattr(QFileDialog, "exec", accept)
    found = empty.window.files.dialogs.target("Save the plan", "quay/side", ".mildplan")
    assert found == tmp_path / "low tide.mildplan"
    assert load().folder == str(tmp_path)


def test_about_has_versions_and_hands_on_the_last_messages(empty: Hand, tmp_path):
    import logging

    path = keep_record(tmp_path)
    logging.getLogger("mild_compass.craft").warning("something odd about the quay")
    dialog = about_dialog(empty.window)
    told = "\n".join(label.text() for label in dialog.findChildren(QLabel))
    assert "numpy" in told
    assert "unknown" not in versions()
    from PySide6.QtWidgets import QPushButton

    next(each for each in dialog.findChildren(QPushButton) if "last messages" in each.text()).click()
    assert "something odd about the quay" in QApplication.clipboard().text()
    assert "something odd" in path.read_text()
    assert "something odd" in last_messages()
    dialog.deleteLater()
    keep_record(tmp_path / "elsewhere")  # let go of the folder


def test_the_record_is_kept_small_and_the_last_three_are_there(tmp_path):
    import logging

    keep_record(tmp_path)
    log = logging.getLogger("mild_compass.studio")
    for _ in range(60):
        log.error("x" * 100_000)
    sizes = {path.name: path.stat().st_size for path in tmp_path.iterdir()}
    assert set(sizes) == {"record.log", "record.log.1", "record.log.2", "record.log.3"}
    assert max(sizes.values()) <= 1 << 20
    keep_record(tmp_path / "elsewhere")


def test_a_folder_that_cannot_be_written_to_leaves_the_record_in_memory(tmp_path, capsys):
    import logging

    (tmp_path / "taken").write_text("a file")
    keep_record(tmp_path / "taken")
    logging.getLogger("mild_compass").warning("kept in memory")
    assert "kept in memory" in last_messages()
    assert "cannot be kept" in capsys.readouterr().err


def test_preferences_keep_page_and_window_and_pass_over_nonsense(empty: Hand):
    empty.window.settings.change(page="Letter", window=(1200, 700))
    assert load() == replace(Preferences(chrome="light"), page="Letter", window=(1200, 700), unit="mm")
    from mild_compass.studio.settings.preferences import config_file

    config_file().write_text('{"page": "papyrus", "window": [1, "x"], "printer": {"across_mm": 7}}')
    assert load().page in ("A4", "Letter")
    assert load().window is None
