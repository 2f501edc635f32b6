"""Hostile names, other windows, folders that cannot be written to: the window stays whole and says why."""

from __future__ import annotations

import os
import shutil
from dataclasses import replace
from pathlib import Path

import pytest
from PIL import Image
from PIL.PngImagePlugin import PngImageFile
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLabel, QListWidget, QMessageBox, QWidget
from tests.conftest import jpeg
from tests.studio.conftest import Hand

from mild_compass.plan import archive
from mild_compass.plan.edits.armature import choose_armature
from mild_compass.plan.edits.departures import add_departure
from mild_compass.plan.edits.logbook import add_note
from mild_compass.plan.edits.references import say_what_drew
from mild_compass.plan.edits.studies import duplicate_study, rename_plan, rename_study
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.study import Departure
from mild_compass.studio.application import make_window
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.settings.preferences import Preferences
from mild_compass.studio.words import STATION_VIEWS

EVIL = '<img src="/etc/hostname"><b>&amp;</b>'


def test_hostile_words_are_shown_as_they_are_everywhere(hand: Hand):
    """Every label, tip and row of a list, with a plan whose every name looks like a picture to be loaded."""
    session, now = hand.window.session, "2026-05-01T12:00:00+02:00"
    square = ((100.0, 100.0), (200.0, 100.0), (200.0, 200.0))
    for edit in (
        rename_plan(EVIL), rename_study(EVIL), duplicate_study("study-1"), say_what_drew("photo-1", EVIL),
        add_departure(Departure("d", "darken", square, name=EVIL, reason=EVIL)), add_note(EVIL, "viewfinder", now),
    ):  # fmt: skip
        assert session.apply(edit)
    session.said.emit(EVIL)
    seen = 0
    for view in STATION_VIEWS:
        hand.window.go_to(view.name)
        hand.settle()
        for each in hand.window.bench.instruments:
            hand.window.bench.take_up(each.name)
            hand.rest()
        for label in hand.window.findChildren(QLabel):
            if "<img" in label.text() or label.textFormat() != Qt.TextFormat.PlainText:
                seen += "<img" in label.text()
                assert label.textFormat() == Qt.TextFormat.PlainText, label.text()
        for widget in hand.window.findChildren(QWidget):
            assert "<img" not in widget.toolTip()
        for rows in hand.window.findChildren(QListWidget):
            assert not any("<img" in rows.item(k).toolTip() for k in range(rows.count()))
    assert seen >= 3


def test_the_questions_asked_show_hostile_names_as_they_are(hand: Hand, monkeypatch):
    asked: list[QMessageBox] = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: asked.append(box))
    hand.window.session.apply(rename_plan(EVIL))
    hand.window.files.dialogs.keep_changes(EVIL)
    hand.window.files.dialogs.changed_elsewhere(EVIL)
    assert [box.textFormat() for box in asked] == [Qt.TextFormat.PlainText] * 2


def test_a_png_is_decoded_once_when_it_is_added(hand: Hand, tmp_path: Path, monkeypatch):
    decoded: list[str] = []
    end = PngImageFile.load_end
    monkeypatch.setattr(PngImageFile, "load_end", lambda self: (decoded.append("once"), end(self)))
    for count, name in enumerate(("first.png", "second.png"), 1):
        Image.new("RGB", (400 + count, 300), "grey").save(tmp_path / name)
        hand.add_photo(tmp_path / name)
        assert len(decoded) == count


def test_a_photo_with_a_name_that_is_no_text_can_be_kept_saved_and_printed(hand: Hand, tmp_path: Path):
    odd = tmp_path / os.fsdecode(b"caf\xe9.jpg")
    odd.write_bytes(jpeg(seed=12))
    hand.add_photo(odd)
    assert hand.window.session.plan.references[-1].name == "caf?.jpg"
    hand.window.files.plans.write(tmp_path / "odd.mildplan")
    hand.window.files.exports.write_sheet(tmp_path / "odd.pdf")
    hand.settle()
    assert archive.read(tmp_path / "odd.mildplan", PhotoFolder(tmp_path / "in")) == hand.window.session.plan
    assert (tmp_path / "odd.pdf").exists()


# -- two windows, one file -----------------------------------------------------------------------------------------


@pytest.fixture
def changed(hand: Hand, tmp_path: Path) -> tuple[Hand, Path]:
    """A window with a saved plan, changed here and in the file, as by another window."""
    target = tmp_path / "shared.mildplan"
    hand.window.files.plans.write(target)
    hand.settle()
    hand.window.session.apply(choose_armature(("thirds",)))
    theirs = replace(archive.read(target, PhotoFolder(tmp_path / "in")), name="theirs")
    archive.write(target, theirs, PhotoFolder(tmp_path / "in"), None)
    return hand, target


def name_in(path: Path, tmp_path: Path) -> str:
    return archive.read(path, PhotoFolder(tmp_path / "again")).name


def test_a_file_changed_elsewhere_is_not_replaced_without_a_word(changed, tmp_path: Path, monkeypatch):
    hand, target = changed
    monkeypatch.setattr(Dialogs, "changed_elsewhere", lambda *_: None)
    hand.window.files.plans.save()
    hand.settle()
    assert name_in(target, tmp_path) == "theirs"
    assert "changed elsewhere" in hand.window.notice.words.text()
    assert hand.window.session.unsaved


@pytest.mark.parametrize("answer", ["mine", "theirs", "save as"])
def test_the_artist_chooses_whose_plan_stays(changed, tmp_path: Path, monkeypatch, answer):
    hand, target = changed
    other = tmp_path / "mine.mildplan"
    monkeypatch.setattr(Dialogs, "changed_elsewhere", lambda *_: answer)
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: other)
    hand.window.files.plans.save()
    hand.settle()
    study = hand.window.session.plan.study
    if answer == "theirs":
        assert hand.window.session.plan.name == "theirs"
        assert study.armature == ("fourteen",)
    else:
        assert study.armature == ("thirds",)
        assert archive.read(other if answer == "save as" else target, PhotoFolder(tmp_path / "x")).study == study
    assert name_in(target, tmp_path) == ("shared" if answer == "mine" else "theirs")
    assert not hand.window.session.unsaved


def test_mine_stays_safe_where_theirs_cannot_be_read(changed, monkeypatch):
    hand, target = changed
    target.write_bytes(b"PK broken")
    monkeypatch.setattr(Dialogs, "changed_elsewhere", lambda *_: "theirs")
    hand.window.files.plans.save()
    hand.settle()
    session = hand.window.session
    assert session.plan.study.armature == ("thirds",)
    session.journal.close(5.0)
    assert "thirds" in (session.workspace.folder / "journal.json").read_text()


def test_a_demo_plan_on_a_full_disk_is_refused_in_place(hand: Hand, monkeypatch):
    def full_disk(*_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    plan = hand.window.session.committed
    monkeypatch.setattr(hand.window.files.plans, "leave_then", lambda go_on: go_on())
    for place in ("mild_compass.plan.photos.replace_durably", "mild_compass.plan.workspace.tempfile.mkdtemp"):
        monkeypatch.setattr(place, full_disk)
        hand.window.files.open_demo("glasshouse")
        assert "No space left" in hand.window.notice.words.text()
        assert hand.window.session.committed is plan


def test_a_drawing_without_its_working_folder_is_refused_in_place(hand: Hand, photo_file: Path, monkeypatch):
    shutil.rmtree(hand.window.session.workspace.photos.path)
    other = photo_file.with_name("drawn.jpg")
    other.write_bytes(jpeg(seed=8))
    hand.window.files.drawings.add([other])
    hand.settle()
    assert "drawn.jpg could not be stored in the working folder" in hand.window.notice.words.text()


def test_saving_again_and_again_here_is_no_change_elsewhere(hand: Hand, tmp_path: Path, monkeypatch):
    monkeypatch.setattr(Dialogs, "changed_elsewhere", lambda *_: pytest.fail("nobody else was here"))
    target = tmp_path / "own.mildplan"
    hand.window.files.plans.write(target)
    hand.settle()
    for names in (("thirds",), ("halves",), ("quarters",)):
        hand.window.session.apply(choose_armature(names))
        hand.window.files.plans.save()  # the next is asked for while this one is being written
    hand.settle()
    assert archive.read(target, PhotoFolder(tmp_path / "in")) == hand.window.session.plan


# -- places that cannot be written to --------------------------------------------------------------------------------


def test_without_a_place_for_open_plans_one_can_work(qtbot, qapp: QApplication, tmp_path: Path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "taken" / "config"))
    (tmp_path / "taken").write_text("a file where a folder should be")
    window = make_window(qapp, tmp_path / "taken" / "open", Preferences(chrome="light"))
    window.show()
    qtbot.waitExposed(window)
    assert "cannot be written to" in window.notice.words.text()
    hand = Hand(window, qtbot)
    photo = tmp_path / "quay.jpg"
    photo.write_bytes(jpeg())
    hand.add_photo(photo)
    window.files.plans.write(tmp_path / "quay.mildplan")
    hand.settle()
    assert not window.session.unsaved
    window.close_down()
    window.hide()
    window.deleteLater()
