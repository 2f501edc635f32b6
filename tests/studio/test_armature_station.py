"""The armature station in the window: constructions, lines, lock-in, the eye's path, steps, comparing."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, Qt
from tests.studio.conftest import Hand, control, words_of
from tests.studio.test_pages import around, click_tile, study, take

from mild_compass.plan.edits.armature import add_big_line
from mild_compass.plan.edits.studies import duplicate_study
from mild_compass.plan.structure import CONSTRUCTION_NAMES, BigLine
from mild_compass.studio.files.dialogs import Dialogs


@pytest.fixture
def drawn(hand: Hand) -> Hand:
    """At the armature, with a line traced along the frame's falling diagonal."""
    hand.go(3)
    frame = study(hand).frame
    x, y, w, h = frame.x_px, frame.y_px, frame.width_px, frame.height_px
    hand.window.session.apply(add_big_line(BigLine(x + 0.1 * w, y + 0.1 * h, x + 0.8 * w, y + 0.8 * h, "ramp")))
    hand.settle()
    return hand


def test_constructions_are_ticked_styled_placed_and_brought_by_a_school(hand: Hand):
    hand.go(3)
    tool = take(hand, "constructions")
    row = CONSTRUCTION_NAMES.index("root 2")
    control(tool, "Constructions").item(row).setCheckState(Qt.CheckState.Checked)
    assert set(study(hand).armature) == {"fourteen", "root 2"}
    control(tool, "Ink").pick("chalk white")
    hand.type_into(control(tool, "Weight on paper").line, "0.4")
    assert study(hand).structure.style("root 2").ink == "chalk white"
    assert study(hand).structure.style("root 2").weight_mm == 0.4
    hand.type_into(control(tool, "Weight on paper").line, "50")
    assert "between" in control(tool, "Weight on paper").error
    control(tool, "Where it lies").pick("first")
    control(tool, "Nested").pick(2)
    assert (study(hand).structure.theme_end, study(hand).structure.nested) == ("first", 2)
    assert {stroke.ink for stroke in hand.window.board.drawing().layer("armature").strokes} == {"armature", "chalk"}
    control(tool, "Nothing else").click()
    assert study(hand).armature == ("root 2",)
    control(tool, "School").pick("thirds")
    assert study(hand).armature == ("thirds",)


def test_lines_are_dropped_through_a_crossing_and_drawn_between_two(hand: Hand):
    hand.go(3)
    take(hand, "own lines")
    frame = study(hand).frame
    middle = (frame.x_px + frame.width_px / 2, frame.y_px + frame.height_px / 2)
    hand.drag((middle[0] + 1, middle[1] + 1), (middle[0] + 1, middle[1] + 1))
    own = study(hand).structure.own
    assert [(line.kind, round(line.x0, 6), round(line.y0, 6)) for line in own] == [
        ("upright", 0.5, 0),
        ("level", 0, 0.5),
    ]
    hand.drag((frame.x_px + 1, frame.y_px + 1), (middle[0], frame.y_px + frame.height_px - 1))
    assert len(study(hand).structure.own) == 3
    hand.window.board.setFocus()
    hand.bot.keyClick(hand.window.board, Qt.Key.Key_Delete)
    assert len(study(hand).structure.own) == 2


def test_a_big_line_is_traced_named_moved_and_removed_and_a_click_is_a_key_point(hand: Hand):
    hand.go(3)
    tool = take(hand, "big lines")
    control(tool, "Snap to the photo's edges").click()
    hand.drag((250, 100), (350, 140))
    (line,) = study(hand).structure.lines
    assert (line.x0_px, line.y1_px) == pytest.approx((250, 140), abs=2)
    hand.type_into(control(tool, "Name of the line or point").line, "edge of the quay")
    assert study(hand).structure.lines[0].name == "edge of the quay"
    hand.drag((350, 140), (360, 180))
    assert study(hand).structure.lines[0].y1_px == pytest.approx(180, abs=2)
    assert study(hand).structure.lines[0].name == "edge of the quay"
    hand.drag((300, 300), (300, 300))
    assert len(study(hand).structure.points) == 1
    assert control(tool, "Big lines and key points").count() == 2
    hand.click("Remove it")
    assert study(hand).structure.points == ()
    hand.click("Remove all")
    assert study(hand).structure.lines == ()


def test_big_lines_are_found_in_the_background(hand: Hand):
    hand.go(3)
    take(hand, "big lines")
    hand.click("Find big lines")
    hand.bot.waitUntil(
        lambda: bool(study(hand).structure.lines) or "No long straight edge" in hand.window.notice.words.text(),
        timeout=10_000,
    )


def test_what_locks_is_told_in_the_table_and_a_row_draws_its_armature(drawn: Hand):
    take(drawn, "lock-in")
    table = drawn.window.middle.page("lock-in")
    assert table.table.rowCount() == len(CONSTRUCTION_NAMES)
    row = [table.table.item(k, 0).text() for k in range(table.table.rowCount())].index("Diagonals")
    assert table.table.item(row, 1).text() == "1 of 1"
    assert "in 100" in table.table.item(row, 4).text()
    rect = table.table.visualItemRect(table.table.item(row, 0))
    drawn.bot.mouseClick(table.table.viewport(), Qt.MouseButton.LeftButton, pos=rect.center())
    drawn.click("Draw this armature")
    assert study(drawn).armature == ("diagonals",)


def test_the_tolerance_is_typed_and_nonsense_refused(drawn: Hand):
    tool = take(drawn, "lock-in")
    drawn.type_into(control(tool, "Locks within, of the diagonal").line, "2")
    assert study(drawn).structure.near_share == pytest.approx(0.02)
    drawn.type_into(control(tool, "Locks within, of the diagonal").line, "80")
    assert "between" in control(tool, "Locks within, of the diagonal").error
    drawn.type_into(control(tool, "Locks within, degrees").line, "nonsense")
    assert "not a number" in control(tool, "Locks within, degrees").error


def test_the_nudge_moves_the_frame_and_one_step_takes_it_back(drawn: Hand):
    drawn.window.bench.take_up("constructions")
    tool = next(each for each in drawn.window.bench.instruments if each.name == "constructions")
    tool._set_share(60)
    drawn.settle()
    frame = study(drawn).frame
    x, y, w, h = frame.x_px, frame.y_px + 10, frame.width_px, frame.height_px
    line = BigLine(x + 0.1 * w, y + 0.1 * h, x + 0.8 * w, y + 0.8 * h)
    from mild_compass.plan.edits.armature import change_big_line

    drawn.window.session.apply(change_big_line(0, line))
    drawn.settle()
    take(drawn, "lock-in")
    drawn.click("Nudge the viewfinder")
    assert study(drawn).frame != frame
    assert "100 % locked, before 0 %" in drawn.window.notice.words.text()
    drawn.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert study(drawn).frame == frame


def test_the_eyes_path_is_drawn_and_taken_off(hand: Hand):
    hand.go(3)
    tool = take(hand, "eye path")
    around(hand, (210, 300), (300, 280), (380, 200), (300, 120))
    assert len(study(hand).structure.eye_path) >= 4
    assert any(row.key == "path_leaves" for row in hand.window.readings.readings)
    assert "from entry to rest" in words_of(tool)
    hand.drag((300, 200), (300, 200))
    assert "that was a click" in hand.window.notice.words.text()
    hand.click("Take it off")
    assert study(hand).structure.eye_path == ()


def test_studies_and_photos_stand_under_one_armature(drawn: Hand):
    drawn.window.session.apply(duplicate_study(study(drawn).id))
    tool = take(drawn, "one armature")
    page = drawn.window.middle.page("one armature")
    assert [tile.title for tile in page.tiles] == ["Study A", "Study B"]
    assert page.tiles[0].words[0] == "1 of 1 traced lines lock"
    control(tool, "What is compared").pick("all photos")
    drawn.settle()
    assert page.tiles[0].words[0].endswith("found lines lock")
    control(tool, "What is compared").pick("studies")
    drawn.settle()
    click_tile(drawn, page, page.tiles[1].key, twice=True)
    assert study(drawn).name == "B"


def test_steps_follow_the_sheet_and_are_saved_as_pdf(hand: Hand, tmp_path, monkeypatch):
    hand.go(3)
    tool = take(hand, "steps")
    page = hand.window.middle.page("steps")
    assert "594.6" not in " ".join(page.steps)
    control(tool, "Steps for").pick("thirds")
    assert any("130.0 mm" in step for step in page.steps)  # A3 across with 15 mm margins: 390 wide
    target = tmp_path / "thirds.pdf"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    hand.click("Save the steps as PDF…")
    hand.settle()
    assert target.read_bytes().startswith(b"%PDF")


def test_the_chart_tells_what_to_trim_and_trims(hand: Hand):
    hand.go(3)
    tool = take(hand, "rectangle")
    hand.bot.mouseClick(tool._chart, Qt.MouseButton.LeftButton, pos=QPoint(60, round(tool._chart._y(1.5))))
    assert "To reach 3:2" in words_of(tool)
    tool._trim_it()
    box = hand.window.computed.worked().frame_map.box
    assert box.width / box.height == pytest.approx(1.5)


def test_the_frame_drags_smoothly_under_every_construction_at_once(hand: Hand):
    """The strokes are made again only when the frame's proportion changes, not when it moves."""
    hand.go(3)
    from mild_compass.plan.edits.armature import choose_armature

    hand.window.session.apply(choose_armature(CONSTRUCTION_NAMES))
    take(hand, "constructions")._set_share(60)
    hand.settle()
    first = hand.window.board.drawing()
    middle = study(hand).frame.middle
    hand.drag(middle, (middle[0] + 30, middle[1] + 10), let_go=False)
    assert hand.window.board.drawing() is first
    hand.window.board.instrument.cancel()
    assert replace(study(hand).frame) == study(hand).frame
