"""The whole way from a photo to a printed sheet, by mouse and keys."""

from __future__ import annotations

import pypdfium2 as pdfium
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMessageBox
from tests.studio.conftest import Hand, control

from mild_compass.plan import archive
from mild_compass.plan.photos import PhotoFolder
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.stations.perspective.horizon import HorizonInstrument
from mild_compass.studio.stations.perspective.trace import TraceInstrument
from mild_compass.studio.stations.sheet.layers import LAYER_WORDS, LayersInstrument
from mild_compass.studio.stations.values import MassesInstrument
from mild_compass.studio.stations.viewfinder.frame import FrameInstrument
from mild_compass.studio.stations.viewfinder.paper import PaperInstrument
from mild_compass.studio.stations.viewfinder.rings import RingInstrument
from mild_compass.studio.window.window import Window


def instrument(window: Window, kind: type):
    found = next(each for each in window.bench.instruments if type(each) is kind)
    window.bench.take_up(found.name)
    return found


def study(hand: Hand):
    found = hand.window.session.plan.study
    assert found is not None
    return found


def test_from_a_photo_to_a_pdf_and_back_again(empty: Hand, photo_file, tmp_path, monkeypatch):
    hand, window = empty, empty.window
    hand.add_photo(photo_file)

    hand.go(2)  # the sheet and the frame
    paper = instrument(window, PaperInstrument)
    control(paper, "Sheet size").pick("A4")
    control(paper, "Upright or across").pick(True)
    assert (window.session.plan.paper.width_mm, window.session.plan.paper.height_mm) == (297, 210)
    instrument(window, FrameInstrument)
    before = study(hand).frame
    corner = (before.x_px + before.width_px, before.y_px + before.height_px)
    hand.drag(corner, (corner[0] - 150, corner[1] - 100))
    assert study(hand).frame.width_px < before.width_px
    instrument(window, RingInstrument)
    hand.drag((180, 120), (240, 260))
    assert study(hand).rings[0].x_px == pytest.approx(210, abs=2)

    hand.go(3)  # the armature
    assert study(hand).armature == ("fourteen",)

    hand.go(4)  # edges and the horizon
    instrument(window, TraceInstrument)
    hand.drag((50, 50), (200, 125))
    hand.drag((50, 350), (200, 275))
    hand.drag((60, 200), (190, 200))
    hand.settle()
    assert len(study(hand).perspective.sets[0].edges) == 3
    worked = window.computed.perspective()
    assert worked is not None
    assert worked.horizon is not None
    assert worked.horizon.y_at(0) == pytest.approx(200, abs=4)

    hand.go(5)  # the values
    masses = instrument(window, MassesInstrument)
    control(masses, "Number of values").pick(3)
    hand.settle()
    assert window.computed.masses is not None
    assert len(window.computed.masses.shares) == 3

    hand.go(6)  # the sheet
    layers = instrument(window, LayersInstrument)
    control(layers, "Layers of the sheet").item(list(LAYER_WORDS).index("masses")).setCheckState(Qt.CheckState.Checked)
    assert "masses" in study(hand).sheet.layers
    hand.click("Print or save…")
    hand.settle()
    assert len(window.middle.page("pages").tiles) == 1
    target = tmp_path / "quay.pdf"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    hand.click("Save as PDF…")
    hand.bot.waitUntil(target.exists, timeout=20_000)
    hand.settle()
    document = pdfium.PdfDocument(target)
    assert len(document) == 1
    assert document[0].get_width() == pytest.approx(297 / 25.4 * 72, abs=0.1)
    document.close()

    window.margin_line.note.setFocus()
    hand.type_into(window.margin_line.note, "Keep the left light.")
    hand.go(8)  # the logbook
    assert any(entry.text == "Keep the left light." for entry in window.session.plan.log)

    file = tmp_path / "quay.mildplan"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: file)
    hand.bot.keyClick(window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    hand.settle()
    assert not window.session.unsaved
    assert archive.read(file, PhotoFolder(tmp_path / "in")) == window.session.plan

    while window.session.undo_label:  # everything can be taken back
        hand.bot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.session.plan.references == ()
    while window.session.redo_label:
        both = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        hand.bot.keyClick(window, Qt.Key.Key_Z, both)
    assert not window.session.unsaved


def test_a_drag_is_one_undo_step_with_its_label_and_escape_drops_it(hand: Hand):
    window = hand.window
    instrument(window, FrameInstrument)._widest()
    instrument(window, FrameInstrument)._set_share(60)
    hand.drag((300, 200), (310, 200))
    before = study(hand).frame
    label = window.session.undo_label
    hand.drag((300, 200), (330, 230), let_go=False)
    assert study(hand).frame != before
    hand.bot.keyClick(window.board, Qt.Key.Key_Escape)
    assert study(hand).frame == before
    assert window.session.undo_label == label == "move viewfinder"


def test_arrows_nudge_one_ten_and_a_tenth_of_a_millimetre_on_the_sheet(hand: Hand):
    window = hand.window
    frame = instrument(window, FrameInstrument)
    frame._set_share(50)
    px = study(hand).frame.width_px / window.session.plan.paper.picture_width_mm
    window.board.setFocus()
    for modifier, mm in (
        (Qt.KeyboardModifier.NoModifier, 1),
        (Qt.KeyboardModifier.ShiftModifier, 10),
        (Qt.KeyboardModifier.ControlModifier, 0.1),
    ):
        x = study(hand).frame.x_px
        hand.bot.keyClick(window.board, Qt.Key.Key_Right, modifier)
        assert study(hand).frame.x_px - x == pytest.approx(mm * px)


def test_enter_types_the_value_of_the_mark_in_hand_and_nonsense_stays_in_the_field(hand: Hand):
    window = hand.window
    instrument(window, FrameInstrument)
    window.board.setFocus()
    hand.bot.keyClick(window.board, Qt.Key.Key_Return)
    entry = window.board._entry
    assert entry.isVisible()
    hand.type_into(entry, "a bit less")
    assert entry.isVisible()
    assert "not a number" in window.notice.words.text()
    hand.type_into(entry, "60 %")
    assert entry.isHidden()
    assert study(hand).frame.width_px == pytest.approx(0.6 * 400 * window.session.plan.paper.ratio, rel=0.01)


def test_a_wrong_margin_gives_a_sentence_in_place_and_changes_nothing(hand: Hand):
    paper = instrument(hand.window, PaperInstrument)
    before = hand.window.session.plan
    for nonsense in ("wide", "900", "-3 mm"):
        hand.type_into(paper._margin.line, nonsense)
        assert paper._margin.error
        assert hand.window.session.plan == before
    hand.type_into(paper._margin.line, "20 mm")
    assert not paper._margin.error
    assert hand.window.session.plan.paper.margin_mm == 20


def test_a_custom_sheet_in_inches(hand: Hand):
    paper = instrument(hand.window, PaperInstrument)
    hand.type_into(paper._width.line, "11 in")
    assert hand.window.session.plan.paper.name == "Custom"
    assert hand.window.session.plan.paper.width_mm == pytest.approx(279.4)


def test_a_click_is_no_edge_and_no_ring(hand: Hand):
    before = hand.window.session.plan
    instrument(hand.window, RingInstrument)
    hand.drag((200, 200), (200, 200))
    assert hand.window.session.plan == before
    hand.go(4)
    instrument(hand.window, TraceInstrument)
    hand.drag((200, 200), (201, 200))
    assert hand.window.session.plan == before
    assert "Drag along the edge" in hand.window.notice.words.text()


def test_an_edges_end_can_be_dragged_nudged_and_the_edge_deleted(hand: Hand):
    hand.go(4)
    trace = instrument(hand.window, TraceInstrument)
    hand.drag((100, 100), (300, 150))
    hand.drag((300, 150), (320, 170))
    (edge,) = study(hand).perspective.sets[0].edges
    assert (edge.x1_px, edge.y1_px) == pytest.approx((320, 170), abs=1.5)
    hand.window.board.setFocus()
    hand.bot.keyClick(hand.window.board, Qt.Key.Key_Down)
    assert study(hand).perspective.sets[0].edges[0].y1_px > edge.y1_px
    assert study(hand).perspective.sets[0].edges[0].y0_px == edge.y0_px
    assert trace.tag() is None
    hand.bot.keyClick(hand.window.board, Qt.Key.Key_Delete)
    assert study(hand).perspective.sets == ()


def test_a_second_set_takes_its_own_letter(hand: Hand):
    hand.go(4)
    trace = instrument(hand.window, TraceInstrument)
    hand.drag((100, 100), (300, 150))
    trace._choose_set("B")
    hand.drag((100, 300), (300, 250))
    assert [each.letter for each in study(hand).perspective.sets] == ["A", "B"]
    control(trace, "What the set's edges are").pick("upright")
    assert study(hand).perspective.sets[1].kind == "upright"


def test_the_horizon_is_dragged_typed_and_given_back_to_the_points(hand: Hand):
    hand.go(4)
    horizon = instrument(hand.window, HorizonInstrument)
    hand.drag((300, 300), (300, 150))
    assert study(hand).perspective.horizon.y_px == pytest.approx(150, abs=1.5)
    hand.type_into(control(horizon, "Horizon below the top of the sheet").line, "100 mm")
    frame_map = hand.window.board.frame_map
    assert float(frame_map.to_sheet((0, study(hand).perspective.horizon.y_px))[1]) == pytest.approx(100)
    hand.click("Lay it through the points")
    assert study(hand).perspective.horizon is None


def test_a_threshold_is_dragged_on_the_value_scale(hand: Hand):
    hand.go(5)
    masses = instrument(hand.window, MassesInstrument)
    scale = masses._scale
    x = round(scale._x(scale._marks[0]))
    hand.bot.mousePress(scale, Qt.MouseButton.LeftButton, pos=scale.rect().center().__class__(x, 66))
    hand.bot.mouseMove(scale, scale.rect().center().__class__(x - 12, 66))
    hand.bot.mouseRelease(scale, Qt.MouseButton.LeftButton, pos=scale.rect().center().__class__(x - 12, 66))
    assert study(hand).values.method == "by hand"
    assert study(hand).values.thresholds[0] == pytest.approx(scale._value(x - 12), abs=0.6)
    hand.settle()
    assert hand.window.computed.masses.thresholds == study(hand).values.thresholds


def test_masses_are_fitted_while_a_threshold_is_held_still_and_there_when_it_is_let_go(hand: Hand):
    hand.go(5)
    hand.settle()
    computed, scale = hand.window.computed, instrument(hand.window, MassesInstrument)._scale
    middle = scale.rect().center()
    x = round(scale._x(scale._marks[0]))
    hand.bot.mousePress(scale, Qt.MouseButton.LeftButton, pos=middle.__class__(x, 66))
    hand.bot.mouseMove(scale, middle.__class__(x - 9, 66))
    assert not computed.masses_current
    hand.bot.waitUntil(lambda: computed.masses_current, timeout=8000)
    assert hand.window.session.in_gesture
    hand.bot.mouseMove(scale, middle.__class__(x - 14, 66))
    assert not computed.masses_current
    hand.bot.waitUntil(lambda: computed.masses_current, timeout=8000)
    hand.bot.mouseRelease(scale, Qt.MouseButton.LeftButton, pos=middle.__class__(x - 14, 66))
    assert computed.masses_current
    assert computed.masses.thresholds == study(hand).values.thresholds


def test_show_me_lights_the_place_and_try_it_is_one_undo_step(hand: Hand):
    window = hand.window
    hand.go(3)
    before = window.session.plan
    hand.click("Show me")
    assert window.board.shown_place is not None
    hand.click("Try it")
    assert window.board.shown_place is None
    assert window.session.plan != before
    window.session.undo()
    assert window.session.plan == before


def test_unsaved_work_is_asked_about_before_it_is_put_away(hand: Hand, monkeypatch):
    window = hand.window
    answers = iter(["Cancel", "Discard the changes"])

    def answer(box: QMessageBox) -> int:
        wanted = next(answers)
        next(each for each in box.buttons() if each.text() == wanted).click()
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    plan = window.session.plan
    window.files.plans.new()
    assert window.session.plan == plan
    window.files.plans.new()
    assert window.session.plan.references == ()
    assert not window.session.unsaved


def test_a_broken_plan_file_leaves_the_plan_on_the_board(hand: Hand, tmp_path):
    broken = tmp_path / "broken.mildplan"
    broken.write_bytes(b"nothing of the kind")
    plan = hand.window.session.plan
    hand.window.files.plans.open(broken)
    hand.settle()
    assert hand.window.session.plan == plan
    assert "still here" in hand.window.notice.words.text()


def test_a_broken_photo_is_named_and_the_others_are_added(hand: Hand, tmp_path):
    from tests.conftest import jpeg

    broken, good = tmp_path / "broken.jpg", tmp_path / "good.jpg"
    broken.write_bytes(jpeg(seed=5)[:900])
    good.write_bytes(jpeg(seed=6))
    hand.window.take_files([broken, good])
    hand.bot.waitUntil(lambda: len(hand.window.session.plan.references) == 2, timeout=10_000)
    assert hand.window.session.plan.references[-1].name == "good.jpg"
    assert "broken.jpg" in hand.window.notice.words.text()
