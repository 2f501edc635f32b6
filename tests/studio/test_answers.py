"""Answers in the real window: each reaches the study it was asked for, or nobody; closing loses nothing."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from threading import Event

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent
from tests.conftest import jpeg
from tests.studio.conftest import Hand, words_of

from mild_compass.plan import archive
from mild_compass.plan.edits.armature import choose_armature
from mild_compass.plan.edits.departures import add_departure
from mild_compass.plan.edits.references import use_reference
from mild_compass.plan.edits.studies import choose_study, keep_study
from mild_compass.plan.edits.values import change_values
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.structure import BigLine
from mild_compass.plan.study import Departure
from mild_compass.plan.tones import ValuePlan
from mild_compass.plan.workspace import leftovers
from mild_compass.studio.files.dialogs import Dialogs

SOON = 10_000


def held_up(monkeypatch, where: str, answer=None):
    """Have a function wait for a gate before it does what it did; the gate and whether somebody stands at it."""
    module, name = where.rsplit(".", 1)
    from importlib import import_module

    inside = getattr(import_module(module), name)
    gate, came = Event(), Event()

    def wait(*arguments, **more):
        came.set()
        assert gate.wait(20)
        return answer if answer is not None else inside(*arguments, **more)

    monkeypatch.setattr(where, wait)
    return gate, came


def first_study(hand: Hand):
    return hand.window.session.plan.studies[0]


def test_big_lines_found_for_one_study_are_not_put_into_another(hand: Hand, monkeypatch):
    found = (BigLine(10, 10, 300, 200),)
    gate, came = held_up(monkeypatch, "mild_compass.craft.armature.tracing.found_big_lines", found)
    hand.go(3)
    hand.window.bench.take_up("big lines")
    hand.click("Find big lines")
    hand.bot.waitUntil(came.is_set, timeout=SOON)
    hand.window.session.apply(keep_study())  # the artist goes on in a copy
    gate.set()
    hand.settle()
    assert all(study.structure.lines == () for study in hand.window.session.plan.studies)
    assert "another study" in hand.window.notice.words.text()
    hand.click("Find big lines")
    hand.settle()
    assert hand.window.session.plan.study.structure.lines == found
    assert first_study(hand).structure.lines == ()


def test_suggested_sets_are_not_offered_to_another_study(hand: Hand, monkeypatch):
    hand.go(4)
    trace = next(each for each in hand.window.bench.instruments if each.name == "trace")
    hand.window.bench.take_up("trace")
    hand.click("Suggest sets of edges")
    hand.settle()
    assert trace._suggested is not None
    hand.window.session.apply(keep_study())
    hand.settle()
    assert trace._suggested is None
    assert "running back" not in words_of(trace)


@pytest.mark.parametrize(
    ("station", "tool", "button", "where"),
    [
        (3, "big lines", "Find big lines", "mild_compass.craft.armature.tracing.found_big_lines"),
        (4, "trace", "Suggest sets of edges", "mild_compass.craft.perspective.suggest.suggested_sets"),
        (4, "straighten", "Take the bow out", "mild_compass.craft.perspective.lens.bow_of"),
    ],
)
def test_an_answer_that_comes_after_new_is_dropped_and_said(hand: Hand, monkeypatch, station, tool, button, where):
    gate, came = held_up(monkeypatch, where)
    monkeypatch.setattr(Dialogs, "keep_changes", lambda *_: False)
    hand.go(station)
    hand.window.bench.take_up(tool)
    hand.click(button)
    hand.bot.waitUntil(came.is_set, timeout=SOON)
    hand.window.files.plans.new()
    gate.set()
    hand.settle()
    assert replace(hand.window.session.plan, id="") == Plan()
    assert "called off" in hand.window.notice.words.text()


def test_photos_still_to_be_read_do_not_come_into_the_next_plan(hand: Hand, tmp_path: Path, monkeypatch):
    gate, came = held_up(monkeypatch, "mild_compass.studio.files.photos.read_photo")
    monkeypatch.setattr(Dialogs, "keep_changes", lambda *_: False)
    for number in range(3):
        (tmp_path / f"{number}.jpg").write_bytes(jpeg(seed=20 + number))
    hand.window.take_files([tmp_path / f"{number}.jpg" for number in range(3)])
    hand.bot.waitUntil(came.is_set, timeout=SOON)
    hand.window.files.plans.new()
    gate.set()
    hand.settle()
    assert hand.window.session.plan.references == ()
    assert "3 were not added" in hand.window.notice.words.text()


def test_two_photos_changed_over_quickly_both_become_complete(hand: Hand, tmp_path: Path, monkeypatch):
    other = tmp_path / "yard.jpg"
    other.write_bytes(jpeg(500, 400, seed=7))
    hand.add_photo(other)
    hand.window.session.apply(keep_study())
    hand.settle()
    pictures = hand.window.computed.pictures
    hand.window.session.apply(use_reference("photo-2"))
    for key in ("study-1", "study-2", "study-1", "study-2", "study-1"):  # before any answer can have come
        hand.window.session.apply(choose_study(key))
    hand.settle()
    for key in ("study-1", "study-2"):
        hand.window.session.apply(choose_study(key))
        hand.settle()
        looks = pictures.as_taken
        assert looks is not None
        assert looks.complete
        ground = hand.window.session.plan.ground(hand.window.session.plan.study)
        assert (looks.picture.width_px, looks.picture.height_px) == (ground.width_px, ground.height_px)


def test_masses_that_cannot_be_found_say_why_and_no_other_station_s_cards_stay(hand: Hand, monkeypatch):
    hand.go(4)
    from mild_compass.craft.values import masses

    inside = masses.flat_masses

    def refuse(picture, frame, paper, values, *more):
        if values.count == 5:
            raise PlanError("These masses cannot be found.")
        return inside(picture, frame, paper, values, *more)

    monkeypatch.setattr(masses, "flat_masses", refuse)
    hand.window.session.apply(change_values(ValuePlan(count=5)))
    hand.go(5)
    assert hand.window.computed.settled
    assert hand.window.readings.summary.text() == "These masses cannot be found."
    assert hand.window.readings.readings == []
    hand.window.session.undo()
    hand.settle()
    assert hand.window.computed.problem == ""
    assert hand.window.computed.masses_current
    assert hand.window.readings.readings


def test_departures_that_cannot_be_painted_end_in_a_state_that_is_left_again(hand: Hand, tmp_path: Path):
    other = tmp_path / "lender.jpg"
    other.write_bytes(jpeg(seed=31))
    hand.add_photo(other)
    lender = hand.window.session.plan.reference("photo-2")
    hand.window.session.workspace.photos.file(lender.sha256).unlink()
    square = ((100.0, 100.0), (200.0, 100.0), (200.0, 200.0))
    hand.window.session.apply(add_departure(Departure("d", "borrow", square, source="photo-2", x_px=300, y_px=200)))
    hand.settle()
    assert hand.window.computed.settled
    assert "lender" in hand.window.computed.problem or "not there" in hand.window.computed.problem
    assert hand.window.computed.looks is not None, "the photo is shown without it"
    hand.window.session.undo()
    hand.settle()
    assert hand.window.computed.problem == ""
    assert hand.window.computed.looks_current


# -- saving, opening, closing ----------------------------------------------------------------------------------


def test_saving_and_writing_two_sheets_at_once_gives_all_three(hand: Hand, tmp_path: Path):
    hand.window.files.plans.write(tmp_path / "quay.mildplan")
    hand.window.files.exports.write_sheet(tmp_path / "a.pdf")
    hand.window.files.exports.write_sheet(tmp_path / "b.svg")
    hand.settle()
    assert (tmp_path / "a.pdf").read_bytes().startswith(b"%PDF")
    assert (tmp_path / "b.svg").read_bytes().startswith(b"<?xml")
    assert archive.read(tmp_path / "quay.mildplan", PhotoFolder(tmp_path / "in")) == hand.window.session.plan


def test_an_edit_made_during_a_save_stays_unsaved_and_in_the_journal(hand: Hand, tmp_path: Path, monkeypatch):
    gate, came = held_up(monkeypatch, "mild_compass.plan.archive.write")
    session = hand.window.session
    hand.window.files.plans.write(tmp_path / "quay.mildplan")
    hand.bot.waitUntil(came.is_set, timeout=SOON)
    session.apply(choose_armature(("thirds",)))
    gate.set()
    hand.settle()
    assert session.unsaved
    assert session.journal.wait(5.0)
    assert '"thirds"' in (session.workspace.folder / "journal.json").read_text().replace('\\"', '"')
    assert archive.read(tmp_path / "quay.mildplan", PhotoFolder(tmp_path / "in")).study.armature == ("fourteen",)


def test_closing_during_a_save_waits_for_it_and_asks_nothing(hand: Hand, tmp_path: Path, monkeypatch):
    gate, came = held_up(monkeypatch, "mild_compass.plan.archive.write")
    monkeypatch.setattr(Dialogs, "keep_changes", lambda *_: pytest.fail("it is being saved already"))
    window, target = hand.window, tmp_path / "quay.mildplan"
    root = window.session.root
    window.files.plans.write(target)
    hand.bot.waitUntil(came.is_set, timeout=SOON)
    event = QCloseEvent()
    window.closeEvent(event)
    assert not event.isAccepted()
    assert "closing waits" in window.notice.words.text()
    gate.set()
    hand.bot.waitUntil(lambda: not window.isVisible(), timeout=SOON)
    assert archive.read(target, PhotoFolder(tmp_path / "in")).references
    assert leftovers(root) == []


def test_closing_does_not_wait_for_ever_and_what_is_not_saved_is_offered_again(hand: Hand, tmp_path: Path, monkeypatch):
    gate, came = held_up(monkeypatch, "mild_compass.plan.archive.write")
    window = hand.window
    root, plan = window.session.root, None
    window.files.plans.patience_ms = 50
    window.files.plans.write(tmp_path / "quay.mildplan")
    plan = window.session.plan
    hand.bot.waitUntil(came.is_set, timeout=SOON)
    window.close()
    hand.bot.waitUntil(lambda: not window.isVisible(), timeout=SOON)
    (left,) = leftovers(root)
    assert left.plan == plan
    gate.set()


def test_save_when_asked_at_closing_saves_and_then_closes(hand: Hand, tmp_path: Path, monkeypatch):
    monkeypatch.setattr(Dialogs, "keep_changes", lambda *_: True)
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: tmp_path / "quay.mildplan")
    hand.window.close()
    hand.bot.waitUntil(lambda: not hand.window.isVisible(), timeout=SOON)
    assert archive.read(tmp_path / "quay.mildplan", PhotoFolder(tmp_path / "in")).references


def test_a_save_that_fails_at_closing_keeps_the_window_open(hand: Hand, tmp_path: Path, monkeypatch):
    monkeypatch.setattr(Dialogs, "keep_changes", lambda *_: True)
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: tmp_path / "no" / "quay.mildplan")
    hand.window.close()
    hand.settle()
    assert hand.window.isVisible()
    assert "could not be written" in hand.window.notice.words.text()
    assert hand.window.session.unsaved


def test_work_done_while_another_plan_is_being_read_is_asked_about_first(hand: Hand, tmp_path: Path, monkeypatch):
    target = tmp_path / "quay.mildplan"
    hand.window.files.plans.write(target)
    hand.settle()
    gate, came = held_up(monkeypatch, "mild_compass.plan.archive.read")
    asked: list[str] = []
    monkeypatch.setattr(Dialogs, "keep_changes", lambda _, name: asked.append(name))
    hand.window.files.plans.open(target)
    hand.bot.waitUntil(came.is_set, timeout=SOON)
    hand.window.session.apply(choose_armature(("thirds",)))
    gate.set()
    hand.settle()
    assert asked == ["quay"]
    assert hand.window.session.plan.study.armature == ("thirds",), "nobody said yes, so the plan on the board stays"
    assert hand.window.session.journal.wait(5.0)
    assert len(list(hand.window.session.root.glob("plan-*"))) == 1, "the folder of the other plan is gone"


def test_a_long_save_shows_what_is_going_on_and_can_be_called_off(hand: Hand, tmp_path: Path, monkeypatch):
    target = tmp_path / "quay.mildplan"
    target.write_bytes(b"the old one")
    begun = Event()

    def write(path, plan, photos, preview, check):
        begun.set()
        while True:
            check()

    monkeypatch.setattr(archive, "write", write)
    hand.window.files.plans.write(target)
    hand.bot.waitUntil(lambda: hand.window.jobs.lasting is not None, timeout=SOON)
    hand.bot.waitUntil(lambda: "Saving quay.mildplan" in hand.window.notice._far.text(), timeout=SOON)
    hand.click("Call it off")
    hand.settle()
    assert "called off" in hand.window.notice.words.text()
    assert target.read_bytes() == b"the old one"
    assert hand.window.session.unsaved


def test_a_plan_without_a_file_is_asked_for_one_by_the_key(hand: Hand, tmp_path: Path, monkeypatch):
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: None)
    hand.bot.keyClick(hand.window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    hand.settle()
    assert hand.window.session.unsaved
