"""Every instrument in the hand: what it takes hold of, moves, nudges, removes and refuses."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QCloseEvent, QDropEvent
from PySide6.QtWidgets import QApplication, QDialog, QInputDialog, QMessageBox
from tests.conftest import jpeg
from tests.studio.conftest import Hand, control
from tests.studio.test_journey import instrument, study

from mild_compass.plan import archive
from mild_compass.plan.edits.studies import rename_plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.structure import CONSTRUCTION_NAMES
from mild_compass.plan.workspace import Claim
from mild_compass.studio.commands.table import command
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.perspective.horizon import HorizonInstrument
from mild_compass.studio.stations.perspective.trace import TraceInstrument
from mild_compass.studio.stations.sheet.layers import LAYER_WORDS, LayersInstrument
from mild_compass.studio.stations.sheet.print_out import PrintInstrument
from mild_compass.studio.stations.values import MassesInstrument
from mild_compass.studio.stations.viewfinder.frame import FrameInstrument
from mild_compass.studio.stations.viewfinder.paper import PaperInstrument
from mild_compass.studio.stations.viewfinder.rings import RingInstrument


def test_look_is_first_at_every_board_and_moves_the_paper_only(hand: Hand):
    for number in (2, 3, 4, 5, 6):
        hand.go(number)
        assert type(hand.window.bench.instruments[0]) is Instrument
    hand.go(2)
    instrument(hand.window, Instrument)
    plan, before = hand.window.session.plan, hand.place((300, 200))
    hand.drag((300, 200), (340, 230))
    assert hand.window.session.plan == plan
    assert (hand.place((300, 200)) - before).manhattanLength() > 20


def test_escape_puts_the_instrument_down_and_coming_back_finds_it_as_it_was(hand: Hand):
    hand.go(4)
    instrument(hand.window, HorizonInstrument)
    hand.go(2)
    hand.go(4)
    assert hand.window.board.instrument.name == "horizon"
    hand.window.board.setFocus()
    hand.bot.keyClick(hand.window.board, Qt.Key.Key_Escape)
    assert hand.window.board.instrument.name == "look"


def test_a_zoomed_view_stays_where_it_is_when_the_window_is_resized(hand: Hand):
    board = hand.window.board
    board.zoom(2.0, 100, 100)
    kept = board.sight
    hand.window.resize(1100, 720)
    hand.settle()
    assert board.sight == kept
    hand.window.fit()
    fitted = board.sight
    hand.window.resize(1280, 800)
    hand.settle()
    assert board.sight != fitted


def test_handles_size_the_frame_from_every_side(hand: Hand):
    frame_tool = instrument(hand.window, FrameInstrument)
    frame_tool._set_share(60)
    start = study(hand).frame
    right = (start.x_px + start.width_px, start.y_px + start.height_px / 2)
    hand.drag(right, (right[0] - 30, right[1]))
    narrower = study(hand).frame
    assert narrower.width_px == pytest.approx(start.width_px - 30, abs=2)
    assert narrower.x_px == pytest.approx(start.x_px, abs=1e-6)
    top = (narrower.x_px + narrower.width_px / 2, narrower.y_px)
    hand.drag(top, (top[0], top[1] - 20))
    taller = study(hand).frame
    assert taller.y_px + taller.height_px == pytest.approx(narrower.y_px + narrower.height_px, abs=1e-6)
    assert taller.height_px > narrower.height_px


def test_while_the_frame_is_dragged_readings_and_masses_follow_and_are_exact_when_the_hand_rests(hand: Hand):
    window = hand.window
    instrument(window, FrameInstrument)._set_share(60)

    def masses_are_there() -> None:
        """Where masses are not worked on they come when the hand has rested for a while."""
        hand.bot.waitUntil(lambda: window.computed.masses_current, timeout=20_000)

    masses_are_there()
    exact = window.computed.masses
    hand.drag((300, 200), (340, 215), let_go=False)
    hand.bot.waitUntil(lambda: not window.computed.masses_current, timeout=2000)
    assert window.computed.worked().masses is None  # no number from masses that belong to another frame
    window.board.instrument.release(window.board.point_at(hand.place((340, 215))))
    masses_are_there()
    assert window.computed.masses is not exact


def test_threads_are_ticked_on_and_off(hand: Hand):
    frame = instrument(hand.window, FrameInstrument)
    frame._threads["quarters"].click()
    assert set(study(hand).threads) == {"thirds", "quarters"}
    frame._threads["thirds"].click()
    assert study(hand).threads == ("quarters",)
    hand.click("Take in all of it")
    assert study(hand).frame.height_px == pytest.approx(400)


def test_a_ring_is_drawn_named_moved_nudged_and_removed(hand: Hand):
    ring = instrument(hand.window, RingInstrument)
    hand.drag((220, 120), (280, 260))
    hand.type_into(control(ring, "What the ring is round").line, "ferryman")
    assert study(hand).rings[0].name == "ferryman"
    hand.drag((250, 190), (270, 200))
    moved = study(hand).rings[0]
    assert (moved.x_px, moved.y_px) == pytest.approx((270, 200), abs=2)
    assert moved.name == "ferryman"
    hand.window.board.setFocus()
    hand.bot.keyClick(hand.window.board, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert study(hand).rings[0].x_px > moved.x_px
    hand.bot.keyClick(hand.window.board, Qt.Key.Key_Delete)
    assert study(hand).rings == ()


def tick_construction(hand: Hand, name: str) -> None:
    """Tick a construction in the bench's list."""
    row = CONSTRUCTION_NAMES.index(name)
    hand.window.bench.instruments[1]._list.item(row).setCheckState(Qt.CheckState.Checked)


def test_constructions_are_ticked_and_drawn(hand: Hand):
    hand.go(3)
    tick_construction(hand, "thirds")
    assert set(study(hand).armature) == {"fourteen", "thirds"}
    drawn = hand.window.board.drawing().layer("armature")
    assert len(drawn.strokes) == 18


def test_the_drawing_is_not_made_again_while_nothing_in_it_changes(hand: Hand):
    hand.go(3)
    board = hand.window.board
    first = board.drawing()
    instrument(hand.window, type(hand.window.bench.instruments[1]))
    hand.drag((300, 200), (305, 200), let_go=False)
    assert board.drawing() is first


def test_edges_listed_on_the_bench_are_chosen_and_removed_there(hand: Hand):
    hand.go(4)
    trace = instrument(hand.window, TraceInstrument)
    hand.drag((50, 50), (200, 125))
    hand.drag((50, 350), (200, 275))
    assert control(trace, "Traced edges").count() == 2
    assert control(trace, "Traced edges").item(0).text().startswith("A1")
    control(trace, "Traced edges").setCurrentRow(0)
    hand.click("Remove this edge")
    assert len(study(hand).perspective.sets[0].edges) == 1
    assert "no point yet" in control(trace, "Traced edges").item(0).text()


def test_points_of_edges_traced_off_the_board_get_an_arrow_with_the_distance(hand: Hand):
    hand.go(4)
    instrument(hand.window, TraceInstrument)
    before = hand.window.board.grab().toImage()
    for end in ((300, 115), (300, 200), (300, 285)):
        hand.drag((180, 100 + (end[1] - 115) * 1.176), end)
    assert hand.window.board.grab().toImage() != before
    point = hand.window.computed.perspective().points[0].point_px
    assert point[0] > 500


def test_the_value_scale_answers_to_keys_and_keeps_marks_in_order(hand: Hand):
    hand.go(5)
    masses = instrument(hand.window, MassesInstrument)
    control(masses, "Thresholds").pick("by hand")
    hand.settle()
    scale, before = masses._scale, study(hand).values.thresholds
    scale.setFocus()
    hand.bot.keyClick(scale, Qt.Key.Key_Up)
    hand.bot.keyClick(scale, Qt.Key.Key_Right)
    assert study(hand).values.thresholds[1] == pytest.approx(before[1] + 1, abs=0.06)
    for _ in range(120):
        hand.bot.keyClick(scale, Qt.Key.Key_Left)
    marks = study(hand).values.thresholds
    assert marks[0] < marks[1] < marks[2]


def test_methods_counts_and_smallest_shape(hand: Hand):
    hand.go(5)
    masses = instrument(hand.window, MassesInstrument)
    control(masses, "Thresholds").pick("even")
    hand.settle()
    assert hand.window.computed.masses.thresholds == (25, 50, 75)
    control(masses, "Number of values").pick(2)
    hand.settle()
    assert hand.window.computed.masses.thresholds == (50,)
    few = sum(hand.window.computed.masses.counts)
    hand.type_into(control(masses, "Smallest shape in square millimetres").line, "4000")
    hand.settle()
    assert sum(hand.window.computed.masses.counts) <= few
    for nonsense in ("tiny", "-4", "1e9"):
        hand.type_into(control(masses, "Smallest shape in square millimetres").line, nonsense)
        assert control(masses, "Smallest shape in square millimetres").error
    assert study(hand).values.smallest_mm2 == 4000
    masses._seen.pick("values")
    assert hand.window.board.way() == "values"
    control(masses, "Outlines").click()
    assert "masses" in hand.window.board.layers


def tick_layer(sheet: LayersInstrument, name: str, on: bool) -> None:
    """Tick or untick a layer as a click on its box does."""
    item = sheet._layers.item(list(LAYER_WORDS).index(name))
    item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)


def test_sheet_layers_pages_and_grid(hand: Hand):
    hand.go(6)
    printing = instrument(hand.window, PrintInstrument)
    control(printing, "Pages").pick("A4")
    control(printing, "Mirrored, for tracing").click()
    sheet = instrument(hand.window, LayersInstrument)
    hand.type_into(control(sheet, "Squares of the grid").line, "30 mm")
    assert (study(hand).sheet.pages, study(hand).sheet.mirrored, study(hand).sheet.grid_mm) == ("A4", True, 30)
    hand.type_into(control(sheet, "Squares of the grid").line, "1 mm")
    assert "between 5 and 500" in control(sheet, "Squares of the grid").error
    tick_layer(sheet, "picture", False)
    assert "picture" not in study(hand).sheet.layers
    assert hand.window.board.fill == "paper"


def test_a_grid_too_fine_for_a_huge_sheet_is_called_out_and_not_drawn(hand: Hand):
    paper = instrument(hand.window, PaperInstrument)
    hand.type_into(paper._width.line, "3000 mm")
    hand.type_into(paper._height.line, "3000 mm")
    hand.go(6)
    hand.type_into(control(instrument(hand.window, LayersInstrument), "Squares of the grid").line, "5 mm")
    hand.settle()
    assert hand.window.board.drawing().layer("grid") is None
    assert any("Choose larger ones" in each.text for each in hand.window.readings.readings)


def test_a_paper_that_cannot_keep_the_margin_takes_a_smaller_one(hand: Hand):
    paper = instrument(hand.window, PaperInstrument)
    hand.type_into(paper._margin.line, "120 mm")
    control(paper, "Sheet size").pick("A6")
    assert hand.window.session.plan.paper.name == "A6"
    assert hand.window.session.plan.paper.margin_mm == pytest.approx(105 / 2 - 5)


def test_files_dropped_on_the_window_are_taken(empty: Hand, photo_file: Path):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(photo_file))])
    event = QDropEvent(
        QPointF(300, 300), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    empty.window.dropEvent(event)
    empty.bot.waitUntil(lambda: len(empty.window.session.plan.references) == 1, timeout=10_000)
    assert "2 Viewfinder" in empty.window.notice.words.text()


def test_saving_names_an_untitled_plan_after_its_file_and_opens_as_saved(hand: Hand, tmp_path: Path, monkeypatch):
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: tmp_path / "low tide.mildplan")
    assert hand.window.files.plans.save()
    hand.settle()
    file = tmp_path / "low tide.mildplan"
    assert archive.read(file, PhotoFolder(tmp_path / "in")).name == "low tide"
    assert not hand.window.session.unsaved
    hand.window.files.plans.new()
    hand.window.take_files([file])
    hand.settle()
    assert hand.window.session.plan.name == "low tide"
    assert hand.window.computed.looks is not None


def test_a_plan_that_is_open_elsewhere_gives_a_warning(hand: Hand, tmp_path: Path):
    file = tmp_path / "shared.mildplan"
    hand.window.files.plans.write(file)
    hand.settle()
    root = hand.window.session.workspace.folder.parent
    hand.window.files.plans.new()
    other = Claim(root, file)  # as another process would hold it
    assert other.alone
    hand.window.files.plans.open(file)
    hand.settle()
    assert "another window" in hand.window.notice.words.text()
    other.release()


def test_a_save_that_fails_keeps_the_plan_unsaved_and_says_why(hand: Hand, tmp_path: Path, monkeypatch):
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: tmp_path / "no" / "x.mildplan")
    hand.window.files.plans.save()
    hand.settle()
    assert hand.window.session.unsaved
    assert "could not be written" in hand.window.notice.words.text()


def test_closing_with_unsaved_work_can_be_called_off(hand: Hand, monkeypatch):
    monkeypatch.setattr(QMessageBox, "exec", lambda box: next(b for b in box.buttons() if b.text() == "Cancel").click())
    event = QCloseEvent()
    hand.window.closeEvent(event)
    assert not event.isAccepted()
    assert hand.window.session.plan.references


def test_a_photo_that_vanishes_while_open_gives_a_sentence_and_the_plan_stays(hand: Hand, tmp_path: Path):
    plan = hand.window.session.plan
    hand.window.session.workspace.photos.file(plan.references[0].sha256).unlink()
    hand.window.files.exports.write_sheet(tmp_path / "x.pdf")
    hand.bot.waitUntil(lambda: "not there any more" in hand.window.notice.words.text(), timeout=5000)
    assert hand.window.session.plan == plan
    assert not (tmp_path / "x.pdf").exists()


def test_a_plan_with_a_damaged_photo_opens_says_which_and_has_it_back(hand: Hand, tmp_path: Path, photo_file: Path):
    session, path = hand.window.session, tmp_path / "damaged.mildplan"
    plan = session.committed
    archive.write(path, plan, session.workspace.photos, None)
    path.write_bytes(path.read_bytes().replace(photo_file.read_bytes()[200:220], b"x" * 20))
    session.saved(path, plan)
    said: list[str] = []
    session.said.connect(said.append)
    hand.window.files.plans.open(path)
    hand.settle()
    assert any("damaged there; everything else is here" in words for words in said)
    assert session.plan.references == plan.references
    assert hand.window.computed.looks is None
    assert "add quay.jpg once more" in hand.window.computed.problem
    session.apply(rename_plan("Saved all the same"))
    hand.window.files.plans.save()
    hand.settle()
    assert not session.unsaved
    hand.window.take_files([photo_file])
    hand.bot.waitUntil(lambda: "quay.jpg is back." in said, timeout=20_000)
    hand.settle()
    assert hand.window.computed.looks is not None
    hand.window.files.plans.write(path)
    hand.settle()
    again = PhotoFolder(tmp_path / "in")
    assert archive.lost_words(archive.read(path, again), again) == ""


def test_the_same_photo_twice_is_refused_in_place(hand: Hand, photo_file: Path):
    hand.window.take_files([photo_file])
    hand.bot.waitUntil(lambda: "already in the plan" in hand.window.notice.words.text(), timeout=5000)
    assert len(hand.window.session.plan.references) == 1


def test_another_photo_is_worked_from_and_marks_on_the_old_one_come_back_with_undo(hand: Hand, tmp_path: Path):
    instrument(hand.window, RingInstrument)
    hand.drag((220, 120), (280, 260))
    other = tmp_path / "yard.jpg"
    other.write_bytes(jpeg(500, 300, seed=4))
    hand.add_photo(other)
    hand.go(1)
    hand.window.middle.contact_sheet.activated.emit("photo-2")
    hand.settle()
    assert study(hand).ground == "photo-2"
    assert study(hand).rings == ()
    hand.window.session.undo()
    assert study(hand).rings


def test_names_are_asked_for_and_nonsense_keeps_the_old_ones(hand: Hand, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Ebb", True))
    command("rename plan").run(hand.window)
    command("rename study").run(hand.window)
    assert hand.window.session.plan.name == "Ebb"
    assert study(hand).name == "Ebb"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("   ", True))
    command("rename plan").run(hand.window)
    assert hand.window.session.plan.name == "Ebb"
    assert "needs a name" in hand.window.notice.words.text()


def test_preferences_and_keys_are_shown_and_taken_over(hand: Hand, monkeypatch):
    shown: list[str] = []

    def accept(dialog: QDialog) -> int:
        shown.append(dialog.windowTitle())
        return QDialog.DialogCode.Accepted.value

    monkeypatch.setattr(QDialog, "exec", accept)
    for name in ("keys", "preferences", "about"):
        command(name).run(hand.window)
    assert shown == ["Keys", "Preferences", "About Mild Compass"]
    assert QApplication.instance().styleSheet()
