"""The logbook station in the window: record, search, questions, working order, planned and done, practice, trend."""

from __future__ import annotations

import json
from pathlib import Path

import pypdfium2 as pdfium
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QLabel, QToolButton
from tests.studio.conftest import Hand, control, words_of
from tests.studio.test_pages import take

from mild_compass.demo.practice import invented_practice
from mild_compass.memory.folders import practice_file
from mild_compass.plan import archive
from mild_compass.plan.edits.logbook import add_note
from mild_compass.plan.model import Plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.studio.application import load_demo
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.pages.practice import PracticePage
from mild_compass.studio.widgets import Line

LATER = "2026-05-02T12:00:00+02:00"


@pytest.fixture
def logbook(hand: Hand) -> Hand:
    """The logbook of a plan with one photo and two notes."""
    for text in ("The wall is the thing.", "Rain by noon."):
        hand.window.session.apply(add_note(text, "values", LATER))
    hand.go(8)
    return hand


@pytest.fixture
def demo(empty: Hand) -> Hand:
    """The pumping station with its sittings, at the logbook."""
    load_demo(empty.window, "pumping-station")
    empty.go(8)
    return empty


@pytest.fixture
def small(logbook: Hand) -> Hand:
    """A small photo, whose masses are there at once, with the demo's invented practice."""
    logbook.window.memory.pretend(invented_practice)
    logbook.settle()
    return logbook


def seen(hand: Hand) -> str:
    """All words in the middle of the window."""
    hand.rest()
    page = hand.window.middle.currentWidget()
    return " | ".join(each.text() for each in page.findChildren(QLabel) if each.isVisible())


# -- the record -----------------------------------------------------------------------------------------------


def test_the_record_is_looked_through_as_one_types(logbook: Hand):
    tool = take(logbook, "record")
    logbook.bot.keyClicks(control(tool, "Look for words"), "wal")
    assert "The wall is the thing." in seen(logbook)
    assert "Rain" not in seen(logbook)
    logbook.bot.keyClicks(control(tool, "Look for words"), "q")
    assert "Nothing in the logbook is like that." in seen(logbook)
    control(tool, "Look for words").clear()
    assert "Rain" in seen(logbook)


def test_kinds_and_stations_are_filtered(logbook: Hand):
    tool = take(logbook, "record")
    control(tool, "Notes").click()
    assert "Rain" not in seen(logbook)
    assert "Added the photo" in seen(logbook)
    control(tool, "Notes").click()
    control(tool, "Only this station").pick("values")
    assert "Rain" in seen(logbook)
    assert "Added the photo" not in seen(logbook)


def test_an_own_note_is_changed_in_place_and_ctrl_z_brings_it_back(logbook: Hand):
    page = logbook.window.middle.currentWidget()
    pencil = next(each for each in page.findChildren(QToolButton) if each.accessibleName() == "Change: Rain by noon.")
    logbook.bot.mouseClick(pencil, Qt.MouseButton.LeftButton)
    field = next(each for each in page.findChildren(Line) if each.accessibleName() == "The note")
    logbook.type_into(field, "Rain by one.")
    assert logbook.window.session.plan.log[-1].text == "Rain by one."
    assert "Rain by one." in seen(logbook)
    logbook.window.session.undo()
    assert "Rain by noon." in seen(logbook)


def test_a_question_comes_up_once_is_answered_or_put_aside(logbook: Hand):
    page = logbook.window.middle.currentWidget()
    assert "What is it about, in one sentence?" in seen(logbook)
    field = next(each for each in page.findChildren(Line) if each.accessibleName() == "Your answer")
    logbook.type_into(field, "The light on the wall.")
    assert "The light on the wall." in logbook.window.session.plan.log[-1].text
    assert "What would you leave out?" in seen(logbook)
    logbook.click("Not this one")
    assert "What would you leave out?" not in seen(logbook)
    logbook.window.session.undo()
    assert "What would you leave out?" in seen(logbook)


def test_own_questions_are_asked_too_and_kept_for_other_plans(logbook: Hand):
    tool = take(logbook, "record")
    logbook.type_into(control(tool, "A question of your own").line, "Is the cat in?")
    assert logbook.window.settings.now.own_questions == (("before", "Is the cat in?"),)
    for _ in range(6):
        logbook.click("Not this one")
    assert "Is the cat in?" in seen(logbook)
    control(tool, "Own questions").setCurrentRow(0)
    logbook.click("Take it away")
    assert logbook.window.settings.now.own_questions == ()


def test_all_plans_of_a_named_folder_are_looked_through(logbook: Hand, tmp_path: Path, monkeypatch):
    folder = tmp_path / "plans"
    folder.mkdir()
    mill = add_note("The wheel was drawn too small.", "values", LATER).apply(Plan(name="Mill"), LATER)
    archive.write(folder / "mill.mildplan", mill, PhotoFolder(tmp_path / "none"), None)
    tool = take(logbook, "record")
    control(tool, "In all my plans").click()
    assert not control(tool, "In all my plans").isChecked(), "there is no folder yet, and that is said"
    monkeypatch.setattr(Dialogs, "folder", lambda *_: folder)
    logbook.click("Name a folder…")
    logbook.bot.waitUntil(lambda: logbook.window.memory.renewed is not None, timeout=10_000)
    logbook.settle()
    assert "1 plan in your folders" in words_of(tool)
    control(tool, "In all my plans").click()
    logbook.bot.keyClicks(control(tool, "Look for words"), "whe")
    logbook.bot.waitUntil(lambda: "The wheel was drawn too small." in seen(logbook), timeout=10_000)
    assert "Values · Mill" in seen(logbook)
    control(tool, "In all my plans").click()
    assert "wheel" not in seen(logbook)


@pytest.mark.parametrize(("suffix", "begins"), [(".pdf", b"%PDF"), (".html", b"<!doctype"), (".md", b"# ")])
def test_the_logbook_is_saved_in_three_kinds(small: Hand, tmp_path: Path, monkeypatch, suffix, begins):
    target = tmp_path / f"log{suffix}"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    tool = take(small, "record")
    control(tool, "Kind of file").pick(suffix)
    small.click("Save the logbook…")
    small.bot.waitUntil(target.exists, timeout=30_000)
    small.settle()
    assert target.read_bytes().startswith(begins)


def test_sittings_and_photos_of_the_work_stand_in_the_record(demo: Hand):
    take(demo, "record")
    demo.settle()
    assert "At the easel 82 min" in seen(demo)
    assert "A photo of the finished work." in seen(demo)
    shown = [each for each in demo.window.middle.currentWidget().findChildren(QLabel) if not each.pixmap().isNull()]
    assert len(shown) >= 2


# -- the working order ----------------------------------------------------------------------------------------


def test_the_working_order_stands_in_sittings_and_follows_its_conditions(small: Hand, tmp_path: Path, monkeypatch):
    tool = take(small, "order")
    small.settle()
    assert "Sitting 1" in seen(small)
    assert "Wash 1" in seen(small)
    small.window.grab()
    logged = len(small.window.session.plan.log)
    first = small.window.middle.page("working order").order
    control(tool, "Weather").pick("warm and dry")
    small.settle()
    second = small.window.middle.page("working order").order
    assert second.order.end_min < first.order.end_min
    assert len(small.window.session.plan.log) == logged, "conditions are no decisions"
    assert tool._sitting.type_in("20 min") == ""
    small.settle()
    third = small.window.middle.page("working order").order
    assert len(third.order.sittings) > len(second.order.sittings)
    assert "time of day" in tool._start.type_in("noonish")
    assert "10 and 720" in tool._sitting.type_in("3")
    target = tmp_path / "order.pdf"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    small.click("Save as PDF…")
    small.bot.waitUntil(target.exists, timeout=20_000)
    small.settle()
    pdf = pdfium.PdfDocument(target)
    words = " ".join(page.get_textpage().get_text_range() for page in pdf)
    for part in ("working order", "Sitting 1", "Wash 1", "Take the tape off", "safety data sheet", "common practice"):
        assert part in words
    pdf.close()


def test_a_steps_own_time_is_set_and_a_step_left_out_comes_back(small: Hand):
    tool = take(small, "order")
    small.settle()
    page = small.window.middle.page("working order")
    page.choose("transfer")
    assert "Carry the lines over" in words_of(tool)
    assert tool._minutes.type_in("33") == ""
    small.settle()
    assert page.order.order.step("transfer").minutes == 33
    assert "minutes" in tool._minutes.type_in("-4")
    page.choose("check")
    tool._out.click()
    small.settle()
    assert "check" not in {step.key for step in page.order.order.steps}
    small.click("All steps as given")
    small.settle()
    assert "check" in {step.key for step in page.order.order.steps}
    assert page.order.order.step("transfer").minutes != 33


def test_materials_of_ones_own_bring_their_cautions(small: Hand):
    tool = take(small, "order")
    tool._materials.type_in("turpentine, a rag, turpentine")
    assert small.window.session.plan.work.materials == ("turpentine", "a rag")
    small.settle()
    assert any("no flames" in each for each in small.window.middle.page("working order").order.order.cautions)


def test_without_a_study_the_station_says_what_to_do(empty: Hand):
    empty.window.go_to("logbook")
    empty.settle()
    for name in ("record", "order", "done", "practice", "trend"):
        take(empty, name)
        empty.settle()
        empty.window.grab()
    take(empty, "practice")
    assert empty.window.middle.page("practice").question is not None, "practice needs no plan"


# -- planned and done -----------------------------------------------------------------------------------------


def test_what_came_out_stands_beside_what_was_planned_and_is_told(demo: Hand):
    tool = take(demo, "done")
    demo.bot.waitUntil(lambda: "they took" in seen(demo), timeout=30_000)
    demo.settle()
    assert "The dark takes" in seen(demo)
    page = demo.window.middle.page("planned and done")
    row = page._rows["focus"] if "focus" in page._rows else page._rows["lights"]
    row.outcome.pick("kept")
    assert demo.window.session.plan.came_out[-1].outcome == "kept"
    row.learned.setFocus()
    demo.bot.keyClicks(row.learned, "Look longer.")
    demo.bot.keyClick(row.learned, Qt.Key.Key_Return)
    assert demo.window.session.plan.came_out[-1].learned == "Look longer."
    assert demo.window.session.plan.log[-1].text.endswith("Learned: Look longer.")
    assert "things are told" in words_of(tool)
    demo.window.session.undo()
    assert demo.window.session.plan.came_out[-1].learned == ""


def test_a_departure_is_settled_there_and_a_tried_reading_gets_a_row(empty: Hand):
    load_demo(empty.window, "glasshouse")
    empty.go(5)
    tried = next((each for each in empty.window.readings.readings if each.remedy is not None), None)
    assert tried is not None
    empty.window.readings.tried.emit(tried)
    assert empty.window.session.plan.acted[-1].key == tried.key
    empty.go(8)
    take(empty, "done")
    empty.settle()
    assert tried.text in seen(empty)
    page = empty.window.middle.page("planned and done")
    row = next(each for key, each in page._rows.items() if key.startswith("departure"))
    row.outcome.pick("dropped")
    departure = next(each for each in empty.window.session.plan.study.departures if each.id == row.row.departure)
    assert departure.outcome == "dropped"


# -- practice -------------------------------------------------------------------------------------------------


@pytest.fixture
def practice(hand: Hand) -> Hand:
    """At practice, nothing answered yet."""
    hand.go(8)
    take(hand, "practice")
    return hand


def page_of(hand: Hand) -> PracticePage:
    page = hand.window.middle.page("practice")
    assert isinstance(page, PracticePage)
    return page


def point(hand: Hand, spot: tuple[float, float]) -> None:
    """Click a place of the card, in mm."""
    card = page_of(hand).card
    at = card.place(spot)
    hand.bot.mouseClick(card, Qt.MouseButton.LeftButton, pos=QPoint(round(at.x()), round(at.y())))


def test_a_line_is_halved_by_pointing_and_the_error_told_and_kept(practice: Hand):
    page = page_of(practice)
    (x0, y0), (x1, y1) = page.question.line
    point(practice, ((x0 + x1) / 2, (y0 + y1) / 2))
    assert page._told.text().startswith("Right.")
    answers = practice.window.memory.history.answers
    assert [each.drill for each in answers] == ["halve"]
    assert abs(answers[0].error) < 1.5
    point(practice, (x0, y0))
    assert len(practice.window.memory.history.answers) == 1, "an answered question is not answered again"
    practice.bot.keyClick(page, Qt.Key.Key_Return)
    assert page._told.text() == "Click the place."
    point(practice, page.question.line[0])
    assert "too far left" in page._told.text()
    practice.click("Strike the last answer")
    assert len(practice.window.memory.history.answers) == 1
    lines = [json.loads(line) for line in practice_file().read_text().splitlines()]
    assert len(lines) == 3
    assert "strike" in lines[-1]


def test_numbers_are_typed_nonsense_is_refused_and_enter_goes_on(practice: Hand):
    page = page_of(practice)
    control(practice.window.bench.page.in_hand, "Drill").pick("angle")
    first = page.question
    practice.type_into(page._line, "steep")
    assert "not a number" in page._told.text()
    practice.type_into(page._line, "1e400")
    assert "not a number" in page._told.text()
    practice.type_into(page._line, "90°")
    assert "too flat" in page._told.text() or "Right" in page._told.text()
    practice.bot.keyClick(page._line, Qt.Key.Key_Return)
    assert page.question is not first


@pytest.mark.parametrize("name", ["lighter", "crop", "lightest three"])
def test_choices_are_pressed_by_number(practice: Hand, name: str):
    page = page_of(practice)
    control(practice.window.bench.page.in_hand, "Drill").pick(name)
    for key in (Qt.Key.Key_2, Qt.Key.Key_2, Qt.Key.Key_1, Qt.Key.Key_3)[: 1 if name != "lightest three" else 4]:
        practice.bot.keyClick(page.card, key)
    assert practice.window.memory.history.answers[-1].drill == name
    page.grab()


def test_points_are_covered_and_set_down_from_memory(practice: Hand):
    page = page_of(practice)
    control(practice.window.bench.page.in_hand, "Drill").pick("memory")
    point(practice, (50.0, 50.0))
    assert page.card.spots == [], "not while they can be seen"
    page._cover.timeout.emit()
    page.grab()
    for n in range(5):
        point(practice, (40.0 + 30 * n, 60.0))
    assert "off in the mean" in page._told.text()
    page.grab()


def test_every_drill_can_be_asked_and_shown(practice: Hand):
    from mild_compass.craft.practice.drills import DRILLS

    page = page_of(practice)
    for row in DRILLS:
        page.take(row.name)
        page.grab()
        assert page.question.drill == row.name


def test_practice_on_the_own_reference_uses_what_the_plan_knows(demo: Hand):
    tool = take(demo, "practice")
    demo.settle()
    page = page_of(demo)
    control(tool, "Drill").pick("eye level")
    control(tool, "On my own reference").click()
    assert page.question.own
    page.grab()
    x, y = page.question.size_mm
    point(demo, (x / 2, y / 3))
    assert "too high" in page._told.text() or "too low" in page._told.text()
    assert "invented" in words_of(tool)
    assert not practice_file().exists(), "with the demo nothing is written into the artist's own practice"


def test_the_days_plan_takes_up_a_drill(practice: Hand):
    tool = practice.window.bench.page.in_hand
    names = control(tool, "Drills of that day; choosing one takes it up")
    assert names.count() >= 3
    names.setCurrentRow(1)
    assert page_of(practice).drill.title == names.item(1).text()
    practice.click("What I need most")


# -- the trend ------------------------------------------------------------------------------------------------


def test_the_trend_plots_a_drill_and_lists_all_and_is_saved(small: Hand, tmp_path: Path, monkeypatch):
    tool = take(small, "trend")
    small.settle()
    page = small.window.middle.page("trend")
    texts = [page.table.item(row, 4).text() for row in range(page.table.rowCount())]
    assert "better" in texts
    assert "no change" in texts
    page.table.selectRow(2)
    assert page.drill == "angle"
    assert control(tool, "Drill plotted").value in (page.drill, "halve")
    small.window.grab()
    target = tmp_path / "practice.csv"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    small.click("Save as CSV…")
    small.bot.waitUntil(target.exists, timeout=10_000)
    small.settle()
    assert len(target.read_text().splitlines()) == 1 + len(small.window.memory.history.answers)


def test_the_invented_weeks_go_with_the_demo(small: Hand):
    assert small.window.memory.is_invented
    small.window.session.new()
    assert not small.window.memory.is_invented
    assert small.window.memory.history.answers == ()
